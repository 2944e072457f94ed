"""Every piece of wire somebody cuts, labels at both ends and connects: runs in their pieces, and feeders."""

from __future__ import annotations

import itertools
from collections.abc import Sequence

from jolly_copper.core.circuits.lengths import (
    SAME_PLACE_MM,
    cut_length,
    cuts_of,
    feeder_cut,
    feeder_length,
    point_on_run,
    point_on_track,
    run_length,
    terminal_point,
)
from jolly_copper.core.layout.benchwork import board_at, in_board_order
from jolly_copper.core.layout.connections import (
    CONDUCTORS,
    circuit_under,
    gauge_of,
    held,
    is_split,
    tied_at,
    wires_differ,
)
from jolly_copper.core.layout.document import Circuit, Layout
from jolly_copper.core.layout.ids import natural
from jolly_copper.core.layout.power_tree import grow_tree
from jolly_copper.core.layout.signalling import Conductor
from jolly_copper.core.layout.wiring import Feeder, Run
from jolly_copper.core.materials.joints import BUS_IS_CUT_AT
from jolly_copper.core.quantities import print_length
from jolly_copper.core.travel.couplings import Coupled, held_by, in_coupling
from jolly_copper.core.wirebook.control import control_pieces
from jolly_copper.core.wirebook.piece import KINDS, Piece
from jolly_copper.core.wirebook.places import on_track, rail_of


def pieces(layout: Layout) -> list[Piece]:
    """All pieces: board by board, runs before feeders, in order of their labels."""
    coupled, cuts = held_by(layout), cuts_of(layout)
    found = [p for run in layout.runs for p in _of_run(layout, run, cuts[run], coupled)] if cuts else []
    found += [p for i, f in layout.feeders.items() for p in _of_feeder(layout, i, f)]
    found += control_pieces(layout)
    rank = {board: n for n, board in enumerate(in_board_order(layout, [p.board for p in found]))}
    return sorted(found, key=lambda p: (rank[p.board], KINDS.index(p.kind), natural(p.label)))


def _of_run(layout: Layout, run_id: str, places: list[float], coupled: Coupled) -> list[Piece]:
    run = layout.runs[run_id]
    circuit = layout.circuits[run.circuit]
    ends = [_joint(layout, run_id, run, at, coupled) for at in places]
    found = []
    for n, (a, b) in enumerate(itertools.pairwise(places), start=1):
        x, y = point_on_run(run, (a + b) / 2)
        whole = len(places) == 2
        found.append(
            Piece(
                key=f"run:{run_id}/{n}",
                kind="run",
                owner=run_id,
                label=run.label if whole else f"{run.label}.{n}",
                circuit=run.circuit,
                colours=colours_of(circuit, held(run)),
                gauge=run.gauge,
                strands=run.strands,
                make=run.make if run.wires == "both" else "one wire",
                start=ends[n - 1][0],
                end=ends[n][0],
                start_short=ends[n - 1][1],
                end_short=ends[n][1],
                length=b - a,
                cut=cut_length(layout, b - a),
                board=board_at(layout, x, y),
                middle=(a + b) / 2,
                notes=tuple(_on_the_way(layout, run_id, a, b)),
            )
        )
    return found


def _joint(layout: Layout, run_id: str, run: Run, at: float, coupled: Coupled) -> tuple[str, str]:
    """What stands where a run is cut, in words and short."""
    end = run_length(run)
    words: list[tuple[str, str]] = []
    for i, plug in layout.plugs.items():
        if plug.run == run_id and abs(plug.along - at) <= SAME_PLACE_MM:
            words.append((f"plug {i}{in_coupling(coupled, f'plug:{i}')}", i))
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
    if run.lies == "on top":
        found.insert(0, "on top of the board: before scenery, and never under a screw of the roadbed")
    if run.filter is not None and abs(b - run_length(run)) <= SAME_PLACE_MM:
        found.append(
            f"filter across its far end: {run.filter.ohms:g} Ω, {run.filter.watts:g} W, in series with "
            f"{run.filter.farads * 1e6:g} µF"
        )
    return found


def colours_of(circuit: Circuit, conductors: Sequence[Conductor]) -> tuple[str, ...]:
    """The colours of these conductors of a circuit."""
    return tuple(circuit.colour_a if c == "A" else circuit.colour_b for c in conductors)


def feeder_colours(layout: Layout, feeder: Feeder, conductors: Sequence[Conductor]) -> tuple[str, ...]:
    """What the wires of a feeder wear: their district's colours, also where one of them goes to a detector."""
    tree = grow_tree(layout)
    found: list[str] = []
    for c in conductors:
        circuit = circuit_under(layout, feeder, c)
        found += colours_of(layout.circuits[tree.unsensed(circuit) or circuit], (c,))
    return tuple(found)


def _of_feeder(layout: Layout, feeder_id: str, feeder: Feeder) -> list[Piece]:
    """A feeder is a pair, or two wires each on its own where they go to two terminals."""
    apart = is_split(layout, feeder) or wires_differ(feeder)
    ways: list[tuple[Conductor, ...]] = [("A",), ("B",)] if apart else [CONDUCTORS]
    found = []
    for conductors in ways:
        name = tied_at(layout, feeder, conductors[0])
        terminal = layout.terminals[name]
        run = layout.runs[terminal.run]
        measured = feeder_length(layout, feeder, conductors[0])
        board = board_at(layout, *point_on_track(layout, feeder.track, feeder.at))
        if board is None:
            board = board_at(layout, *terminal_point(layout, terminal))
        colours = feeder_colours(layout, feeder, conductors)
        rail = rail_of(layout, feeder, conductors[0])
        only = f"/{conductors[0]}" if len(conductors) == 1 else ""
        found.append(
            Piece(
                key=f"feeder:{feeder_id}{only}",
                kind="feeder",
                owner=feeder_id,
                label=feeder.label + only.replace("/", " "),
                circuit=run.circuit,
                colours=colours,
                gauge=gauge_of(feeder, conductors[0]),
                strands=feeder.strands,
                make="one wire" if only else "pair",
                start=f"rail, {on_track(layout, feeder.track, feeder.at)}",
                end=f"terminal {name} on {run.label}",
                start_short="rail",
                end_short=name,
                length=measured,
                cut=feeder_cut(layout, measured),
                board=board,
                middle=feeder.at,
                notes=(f"{colours[0]} to the {rail}",),
            )
        )
    return found
