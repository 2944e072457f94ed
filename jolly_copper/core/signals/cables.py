"""Cables that report and command: to signals, turnout motors, and the supplies of detector and driver boards."""

from __future__ import annotations

import itertools
from collections import Counter
from collections.abc import Iterator, Mapping
from typing import NamedTuple

from jolly_copper.core.circuits.giving import USUAL_DC_VOLTS, source_volts
from jolly_copper.core.circuits.lengths import nearest_terminal_to, terminal_point
from jolly_copper.core.layout.document import Device, Layout
from jolly_copper.core.layout.signalling import DetectorBoard, Driver
from jolly_copper.core.quantities import print_ohms
from jolly_copper.core.signals.heads import lamps_of
from jolly_copper.core.signals.outputs import MOTOR_AMPS, lamp_words, resistor_for
from jolly_copper.core.signals.panel_leads import PAIRS_IN_A_CABLE, panel_leads
from jolly_copper.core.signals.places import signal_point
from jolly_copper.core.signals.report_line import Stop, hand_line, report_line

Point = tuple[float, float]
LAMP_GAUGE = {"imperial": "24 AWG", "metric": "0.25 mm²"}
SUPPLY_GAUGE = {"imperial": "20 AWG", "metric": "0.5 mm²"}
MOTOR_GAUGE = {"imperial": "22 AWG", "metric": "0.5 mm²"}
"""Wire to lamps, to boards and to turnout motors. Common practice, no source."""
REPORT_VOLTS, REPORT_AMPS = 5.0, 0.01
"""What an input puts on a contact. Common practice, no source."""
LINE_COLOURS = ("red", "black", "green", "white", "blue", "yellow", "brown", "grey")
PAIRS = ("blue", "orange", "green", "brown")
"""Pairs of a four-pair data cable in their usual order, each with a white mate striped in its colour: the order of
ANSI/TIA-568, from memory."""
PAIR_GAUGE = "24 AWG"
MOTOR_WIRES = {
    "stall motor": ("white", "grey"),
    "solenoid": ("white", "grey", "black"),
    "servo": ("white", "red", "black"),
}


class Cable(NamedTuple):
    """A cable from what gives it its volts to what it serves.

    key: `control:S4`, `report:T7`, stable while it stands. colours: of its wires in order. ends: each in words and for
    a label. a, b: where they are on the plan, mm. tape: its length by tape measure, mm. circuit: behind its supply.
    volts: between its wires at most. amps: in one of them at most. supplies: it brings the power of an accessory bus.
    """

    key: str
    label: str
    colours: tuple[str, ...]
    gauge: str
    ends: tuple[tuple[str, str], tuple[str, str]]
    a: Point
    b: Point
    tape: float | None
    notes: tuple[str, ...]
    circuit: str
    volts: float
    amps: float
    supplies: bool = False


def cables(layout: Layout) -> Iterator[Cable]:
    """Every cable to a signal, a turnout motor or a board that has been given an output or a supply."""
    yield from _signals(layout)
    yield from _motors(layout)
    yield from _reports(layout)
    yield from _supplies(layout)
    yield from _lines(layout)
    yield from _panels(layout)


def _signals(layout: Layout) -> Iterator[Cable]:
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
        yield Cable(
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
            driver.volts,
            driver.most * len(lamps),
        )


def _motors(layout: Layout) -> Iterator[Cable]:
    for i, node in layout.nodes.items():
        if node.driver is None or node.output is None:
            continue
        driver, name = layout.drivers[node.driver], node.name or i
        yield Cable(
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
            driver.volts,
            MOTOR_AMPS.get(node.motor or "", MOTOR_AMPS["stall motor"]),
        )


def _reports(layout: Layout) -> Iterator[Cable]:
    """From the contact on each motor that reports to its input. Buttons hang on their board in the panel, with no wire
    of the layout."""
    for i, node in layout.nodes.items():
        if node.report_board is None or node.report_input is None:
            continue
        board, name = layout.drivers[node.report_board], node.name or i
        yield Cable(
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
            REPORT_VOLTS,
            REPORT_AMPS,
        )


def _lines(layout: Layout) -> Iterator[Cable]:
    """The report line and the line of the hand controllers."""
    wishes = layout.brief.detecting
    yield from _legs(layout, "line", "Line", "the report line", report_line(layout), wishes.line_wires or 0)
    yield from _legs(layout, "hand", "Hand", "the line of the hand controllers", hand_line(layout), wishes.hand_wires)


def _legs(layout: Layout, key: str, label: str, what: str, stops: tuple[Stop, ...], wires: int) -> Iterator[Cable]:
    """A line from board to board, leg by leg."""
    for n, (one, other) in enumerate(itertools.pairwise(stops), start=1):
        yield Cable(
            f"{key}:{one.id}-{other.id}",
            f"{label} {n}",
            LINE_COLOURS[:wires],
            LAMP_GAUGE[layout.brief.units],
            ((one.name, one.id), (other.name, other.id)),
            one.at,
            other.at,
            None,
            (f"{what}: it ends at its last board, as that board's leaflet says",),
            "",
            REPORT_VOLTS,
            REPORT_AMPS,
        )


def _panels(layout: Layout) -> Iterator[Cable]:
    """Data cables from each panel to the boards its switches, buttons and lamps go to."""
    number: Counter[str] = Counter()
    boards: dict[str, DetectorBoard | Driver | Device] = {**layout.devices, **layout.detectors, **layout.drivers}
    for lead in panel_leads(layout):
        panel, board = layout.panels[lead.panel], boards[lead.board]
        for first in range(0, lead.pairs, PAIRS_IN_A_CABLE):
            number[lead.panel] += 1
            used = min(lead.pairs - first, PAIRS_IN_A_CABLE)
            yield Cable(
                f"panel:{lead.panel}-{lead.board}.{first // PAIRS_IN_A_CABLE + 1}",
                f"{panel.name} {number[lead.panel]}",
                tuple(wire for colour in PAIRS for wire in (colour, f"white/{colour}")),
                PAIR_GAUGE,
                ((panel.name, lead.panel), (board.name, lead.board)),
                (panel.at.x, panel.at.y),
                (board.at.x, board.at.y),
                None,
                (f"data cable of four pairs, {used} of them used, as the panel's own page has them",),
                "",
                REPORT_VOLTS,
                REPORT_AMPS,
            )


def _supplies(layout: Layout) -> Iterator[Cable]:
    kinds: tuple[Mapping[str, DetectorBoard | Driver], ...] = (layout.detectors, layout.drivers)
    for kind in kinds:
        for i, board in kind.items():
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
            yield Cable(
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
                source_volts(layout, source[0]) if source is not None else USUAL_DC_VOLTS,
                board.amps if isinstance(board, Driver) else board.supply_amps,
                supplies=True,
            )
