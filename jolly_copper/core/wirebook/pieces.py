"""Every piece of wire somebody cuts, labels at both ends and connects: runs in their pieces, and feeders."""

from __future__ import annotations

import itertools
from dataclasses import dataclass

from jolly_copper.core.circuits.lengths import (
    SAME_PLACE_MM,
    cut_length,
    cuts_of,
    feeder_length,
    point_on_run,
    point_on_track,
    run_length,
    terminal_point,
)
from jolly_copper.core.layout.benchwork import board_at, in_board_order
from jolly_copper.core.layout.document import Feeder, Layout, Run
from jolly_copper.core.layout.ids import natural
from jolly_copper.core.materials.joints import BUS_IS_CUT_AT
from jolly_copper.core.quantities import print_length
from jolly_copper.core.wirebook.places import on_track, rail_of_a


@dataclass(frozen=True)
class Piece:
    """A pair of wires from one joint to the next.

    key: `run:R3/2` or `feeder:F37`, stable while the wire stands. label: what is written on both its ends.
    length: mm as measured. cut: mm to cut each of the two wires to. board: where it is worked on; None beside all boards.
    start_short, end_short: for a label. middle: its middle, mm from the start of its run, or where it meets its track.
    """

    key: str
    kind: str
    owner: str
    label: str
    circuit: str
    colour_a: str
    colour_b: str
    gauge: str
    strands: str
    make: str
    start: str
    end: str
    start_short: str
    end_short: str
    length: float
    cut: float
    board: str | None
    middle: float
    notes: tuple[str, ...] = ()


def pieces(layout: Layout) -> list[Piece]:
    """All pieces: board by board, runs before feeders, in order of their labels."""
    found = [p for run in layout.runs for p in _of_run(layout, run, cuts[run])] if (cuts := cuts_of(layout)) else []
    found += [_of_feeder(layout, i, f) for i, f in layout.feeders.items()]
    rank = {board: n for n, board in enumerate(in_board_order(layout, [p.board for p in found]))}
    return sorted(found, key=lambda p: (rank[p.board], p.kind != "run", natural(p.label)))


def _of_run(layout: Layout, run_id: str, places: list[float]) -> list[Piece]:
    run = layout.runs[run_id]
    circuit = layout.circuits[run.circuit]
    ends = [_joint(layout, run_id, run, at) for at in places]
    found = []
    for n, (a, b) in enumerate(itertools.pairwise(places), start=1):
        x, y = point_on_run(run, (a + b) / 2)
        whole = len(places) == 2
        found.append(Piece(
            key=f"run:{run_id}/{n}", kind="run", owner=run_id, label=run.label if whole else f"{run.label}.{n}", circuit=run.circuit,
            colour_a=circuit.colour_a, colour_b=circuit.colour_b, gauge=run.gauge, strands=run.strands, make=run.make,
            start=ends[n - 1][0], end=ends[n][0], start_short=ends[n - 1][1], end_short=ends[n][1], length=b - a,
            cut=cut_length(layout, b - a), board=board_at(layout, x, y), middle=(a + b) / 2, notes=tuple(_on_the_way(layout, run_id, a, b)),
        ))  # fmt: skip
    return found


def _joint(layout: Layout, run_id: str, run: Run, at: float) -> tuple[str, str]:
    """What stands where a run is cut, in words and short."""
    end = run_length(run)
    words: list[tuple[str, str]] = []
    for i, plug in layout.plugs.items():
        if plug.run == run_id and abs(plug.along - at) <= SAME_PLACE_MM:
            words.append((f"plug {i}", i))
    for i, terminal in layout.terminals.items():
        cuts = terminal.kind in BUS_IS_CUT_AT or at in (0.0, end)
        if terminal.run == run_id and cuts and abs(terminal.along - at) <= SAME_PLACE_MM:
            words.append((f"terminal {i}", i))
    if abs(run.fed.along - at) <= SAME_PLACE_MM:
        device, terminal_id = run.fed.device, run.fed.terminal
        words.append((layout.devices[device].name, device) if device else (f"terminal {terminal_id}", str(terminal_id)))
    if at == end and run.ends_at_device:
        words.append((layout.devices[run.ends_at_device].name, run.ends_at_device))
    if at == end and run.ends_at_terminal:
        words.append((f"terminal {run.ends_at_terminal}", run.ends_at_terminal))
    if not words:
        return "left free, ends kept apart and covered", "free"
    return words[0]


def _on_the_way(layout: Layout, run_id: str, a: float, b: float) -> list[str]:
    """Joints that leave the wire whole, and what hangs on its end."""
    units, run = layout.brief.units, layout.runs[run_id]
    found = [
        f"{'tap' if t.kind == 'tap' else 'solder joint'} {i} at {print_length(t.along - a, units)} from its start"
        for i, t in layout.terminals.items()
        if t.run == run_id and t.kind not in BUS_IS_CUT_AT and a < t.along < b
    ]
    if run.filter is not None and abs(b - run_length(run)) <= SAME_PLACE_MM:
        found.append(
            f"filter across its far end: {run.filter.ohms:g} Ω, {run.filter.watts:g} W, in series with {run.filter.farads * 1e6:g} µF"
        )
    return found


def _of_feeder(layout: Layout, feeder_id: str, feeder: Feeder) -> Piece:
    terminal = layout.terminals[feeder.terminal]
    run = layout.runs[terminal.run]
    circuit, measured = layout.circuits[run.circuit], feeder_length(layout, feeder)
    board = board_at(layout, *point_on_track(layout, feeder.track, feeder.at))
    if board is None:
        board = board_at(layout, *terminal_point(layout, terminal))
    return Piece(
        key=f"feeder:{feeder_id}", kind="feeder", owner=feeder_id, label=feeder.label, circuit=run.circuit, colour_a=circuit.colour_a,
        colour_b=circuit.colour_b, gauge=feeder.gauge, strands=feeder.strands, make="pair",
        start=f"rail, {on_track(layout, feeder.track, feeder.at)}", end=f"terminal {feeder.terminal} on {run.label}",
        start_short="rail", end_short=feeder.terminal, length=measured, cut=cut_length(layout, measured), board=board, middle=feeder.at,
        notes=(f"{circuit.colour_a} to the {rail_of_a(layout, feeder)}",),
    )  # fmt: skip
