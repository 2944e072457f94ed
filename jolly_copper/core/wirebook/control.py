"""Wires that report and command: to signals, turnout motors, and the supplies of detector and driver boards."""

from __future__ import annotations

import itertools
from collections.abc import Iterator

from jolly_copper.core.circuits.lengths import cut_length, nearest_terminal_to, terminal_point
from jolly_copper.core.layout.benchwork import board_at, board_name
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.underways import cable_joints, cable_length
from jolly_copper.core.quantities import print_ohms
from jolly_copper.core.signals.heads import lamps_of
from jolly_copper.core.signals.outputs import lamp_words, resistor_for
from jolly_copper.core.signals.places import signal_point
from jolly_copper.core.wirebook.piece import Piece

LAMP_GAUGE = {"imperial": "24 AWG", "metric": "0.25 mm²"}
SUPPLY_GAUGE = {"imperial": "20 AWG", "metric": "0.5 mm²"}
MOTOR_GAUGE = {"imperial": "22 AWG", "metric": "0.5 mm²"}
"""Wire to lamps, to boards and to turnout motors. Common practice, no source."""
MOTOR_WIRES = {
    "stall motor": ("white", "grey"),
    "solenoid": ("white", "grey", "black"),
    "servo": ("white", "red", "black"),
}


def control_pieces(layout: Layout) -> list[Piece]:
    """Every cable to a signal, a turnout motor or a board that has been given an output or a supply."""
    return [*_signals(layout), *_motors(layout), *_reports(layout), *_supplies(layout)]


def _cable(
    layout: Layout,
    key: str,
    label: str,
    colours: tuple[str, ...],
    gauge: str,
    ends: tuple[tuple[str, str], tuple[str, str]],
    a: tuple[float, float],
    b: tuple[float, float],
    tape: float | None,
    notes: tuple[str, ...],
    circuit: str,
) -> Iterator[Piece]:
    """A cable, in as many pieces as it passes joints of boards that lift out: each has a plug of as many poles as
    wires."""
    drawn = cable_length(layout, a, b) + layout.brief.rules.drop_below_rail
    length = tape or drawn
    joints = cable_joints(layout, a, b)
    marks = [0.0, *(at / drawn * length for at, _, _ in joints), length]
    plugs = [
        (f"plug {label}/{n}, {board_name(layout, one)} to {board_name(layout, other)}", f"{label}/{n}")
        for n, (_, one, other) in enumerate(joints, start=1)
    ]
    stops = [ends[0], *plugs, ends[1]]
    boards = [board_at(layout, *a), *(other for _, _, other in joints)]
    for n, (start, end) in enumerate(itertools.pairwise(stops)):
        far = max(marks[n + 1] - marks[n], 0.0)
        whole = not joints
        last = n == len(joints)
        yield Piece(
            key=key if whole else f"{key}/{n + 1}",
            kind="control",
            owner=key.split(":", 1)[1],
            label=label if whole else f"{label}.{n + 1}",
            circuit=circuit,
            colours=colours,
            gauge=gauge,
            strands="stranded",
            make="cable",
            start=start[0],
            end=end[0],
            start_short=start[1],
            end_short=end[1],
            length=far,
            cut=cut_length(layout, far),
            board=(board_at(layout, *b) if last else boards[n]) or boards[n],
            middle=0.0,
            notes=notes if last else (),
        )


def _signals(layout: Layout) -> Iterator[Piece]:
    for i, signal in layout.signals.items():
        if signal.driver is None or signal.output is None:
            continue
        driver, lamps = layout.drivers[signal.driver], lamps_of(signal)
        common = "white" if driver.common == "anode" else "black"
        colours = (
            ("white", "red", "black") if signal.kind == "semaphore" else (*(lamp.colour for lamp in lamps), common)
        )
        if signal.heads == 2 and signal.kind != "semaphore":
            # The lower head's wires are striped, so that one cable has no two alike.
            colours = (*(c.colour if c.head == 0 else f"{c.colour}/white" for c in lamps), common)
        last = signal.output + len(lamps) - 1
        outs = f"output {signal.output}" if last == signal.output else f"outputs {signal.output} to {last}"
        each = resistor_for(driver, signal)
        notes = [", ".join(f"{signal.output + k} {lamp_words(signal, lamp)}" for k, lamp in enumerate(lamps))]
        notes.append(
            each if isinstance(each, str) else f"{print_ohms(each.ohms)} {each.buy_watts:g} W in each lamp's wire"
        )
        if signal.kind != "semaphore":
            notes.append(f"{common} is the common {driver.common}")
        yield from _cable(
            layout,
            f"control:{i}",
            signal.name,
            colours,
            LAMP_GAUGE[layout.brief.units],
            ((f"{driver.name}, {outs}", signal.driver), (f"signal {signal.name}", i)),
            (driver.at.x, driver.at.y),
            signal_point(layout, signal),
            signal.tape,
            tuple(notes),
            driver.supply or "",
        )


def _motors(layout: Layout) -> Iterator[Piece]:
    for i, node in layout.nodes.items():
        if node.driver is None or node.output is None:
            continue
        driver, name = layout.drivers[node.driver], node.name or i
        yield from _cable(
            layout,
            f"control:{i}",
            f"{name} motor",
            MOTOR_WIRES.get(node.motor or "", ("white", "grey")),
            MOTOR_GAUGE[layout.brief.units],
            ((f"{driver.name}, output {node.output}", node.driver), (f"motor of turnout {name}", i)),
            (driver.at.x, driver.at.y),
            (node.at.x, node.at.y),
            None,
            (node.motor or "motor of a kind nobody wrote down",),
            driver.supply or "",
        )


def _reports(layout: Layout) -> Iterator[Piece]:
    """From the contact on each motor that reports to its input. Buttons hang on their board in the panel, with no wire
    of the layout."""
    for i, node in layout.nodes.items():
        if node.report_board is None or node.report_input is None:
            continue
        board, name = layout.drivers[node.report_board], node.name or i
        yield from _cable(
            layout,
            f"report:{i}",
            f"{name} report",
            ("green", "white"),
            LAMP_GAUGE[layout.brief.units],
            (
                (f"{board.name}, input {node.report_input}", node.report_board),
                (f"contact on the motor of turnout {name}", i),
            ),
            (board.at.x, board.at.y),
            (node.at.x, node.at.y),
            None,
            ("closed when it lies diverging; white is the common",),
            board.supply or "",
        )


def _supplies(layout: Layout) -> Iterator[Piece]:
    for kind in ("detectors", "drivers"):
        for i, board in getattr(layout, kind).items():
            if board.supply is None:
                continue
            circuit = layout.circuits[board.supply]
            here = (board.at.x, board.at.y)
            terminal = nearest_terminal_to(layout, board.supply, here)
            source = next((d for d in layout.devices.items() if d[1].output == board.supply), None)
            if terminal is not None:
                start, there = (f"terminal {terminal}", terminal), terminal_point(layout, layout.terminals[terminal])
            elif source is not None:
                start, there = (source[1].name, source[0]), (source[1].at.x, source[1].at.y)
            else:
                continue
            yield from _cable(
                layout,
                f"control:{i}",
                f"{board.name} supply",
                (circuit.colour_a, circuit.colour_b),
                SUPPLY_GAUGE[layout.brief.units],
                (start, (board.name, i)),
                there,
                here,
                None,
                ("power of the board's own electronics",),
                board.supply,
            )
