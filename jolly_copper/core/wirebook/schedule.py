"""The wire table: every run and feeder as something to cut, label and fit."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from jolly_copper.core.circuits.lengths import cut_of_runs, feeder_cut, feeder_length, run_length
from jolly_copper.core.layout.connections import CONDUCTORS, held, tied_at
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.wiring import Feeder, Run, Terminal
from jolly_copper.core.materials.joints import BUS_IS_CUT_AT
from jolly_copper.core.quantities import MM_PER_FOOT, print_length
from jolly_copper.core.wirebook.control import control_pieces
from jolly_copper.core.wirebook.materials import wire_needs
from jolly_copper.core.wirebook.piece import Piece
from jolly_copper.core.wirebook.pieces import colours_of, feeder_colours, pieces
from jolly_copper.core.wirebook.places import on_track


@dataclass(frozen=True)
class Wire:
    """One row: a pair of wires, one behind a detector, or a cable to a signal or board. Lengths in mm; `cut` is for
    each wire, all pieces of a run together. colours: of its wires."""

    kind: str
    id: str
    label: str
    circuit: str
    circuit_name: str
    colours: tuple[str, ...]
    gauge: str
    strands: str
    start: str
    end: str
    measured: float
    by_tape: bool
    cut: float
    connectors: str


@dataclass(frozen=True)
class Total:
    """Wire of one gauge, make and colour: mm in all, and new spools of `spool` mm to open after what is on hand."""

    gauge: str
    strands: str
    colour: str
    length: float
    spool: float
    spools: int


def schedule(layout: Layout) -> list[Wire]:
    """Every run, then every feeder, in order of their labels."""
    cuts = cut_of_runs(layout)
    rows = [_run_row(layout, i, r, cuts[i]) for i, r in layout.runs.items()]
    rows += [_feeder_row(layout, i, f) for i, f in layout.feeders.items()]
    return rows + [_control_row(layout, p) for p in control_pieces(layout)]


def totals(layout: Layout) -> list[Total]:
    """Pieces as they are cut, added up by gauge, make and colour, both wires of every pair, with the spools to open."""
    return [
        Total(n.gauge, n.strands, n.colour, n.needed, n.spool, n.plan.new_spools)
        for n in wire_needs(layout, pieces(layout))
    ]


def _run_row(layout: Layout, run_id: str, run: Run, cut: float) -> Wire:
    circuit = layout.circuits[run.circuit]
    measured = run_length(run)
    here = [t for t in layout.terminals.values() if t.run == run_id]
    plugs = [p for p in layout.plugs.values() if p.run == run_id]
    start = layout.devices[run.fed.device].name if run.fed.device else f"terminal {run.fed.terminal}"
    if run.fed.along > 1:
        start += f", {print_length(run.fed.along, layout.brief.units)} along"
    if run.ends_at_device:
        end = layout.devices[run.ends_at_device].name
    elif run.ends_at_terminal:
        end = f"terminal {run.ends_at_terminal}"
    else:
        last = max(((t.along, i) for i, t in layout.terminals.items() if t.run == run_id), default=None)
        end = f"terminal {last[1]}, its end" if last else "ends free"
    return Wire(
        "run",
        run_id,
        run.label,
        run.circuit,
        circuit.name,
        colours_of(circuit, held(run)),
        run.gauge,
        run.strands,
        start,
        end,
        measured,
        run.tape is not None,
        cut,
        _run_connectors(run, here, len(plugs), measured),
    )


def _run_connectors(run: Run, terminals: list[Terminal], plugs: int, length: float) -> str:
    cuts = sum(2 if 1 < t.along < length - 1 else 1 for t in terminals if t.kind in BUS_IS_CUT_AT)
    ends = 1 + bool(run.ends_at_device or run.ends_at_terminal)  # where it is fed, and where it arrives
    wires = len(held(run))
    found = [_count(wires * (cuts + ends), "ferrule" if run.strands == "stranded" else "bare end")]
    for kind, word in (("tap", "tap"), ("soldered", "soldered joint")):
        count = wires * sum(t.kind == kind for t in terminals)
        if count:
            found.append(_count(count, word))
    if plugs:
        found.append(_count(plugs, "two-pole plug" if wires == 2 else "one-pole plug"))
    return ", ".join(found)


def _feeder_row(layout: Layout, feeder_id: str, feeder: Feeder) -> Wire:
    ends = list(dict.fromkeys(tied_at(layout, feeder, c) for c in CONDUCTORS))
    terminal = layout.terminals[feeder.terminal]
    circuit_id = layout.runs[terminal.run].circuit
    circuit, measured = layout.circuits[circuit_id], max(feeder_length(layout, feeder, c) for c in CONDUCTORS)
    count, colours = len(ends), feeder_colours(layout, feeder, CONDUCTORS)
    fitted = ", ".join(FITTED[layout.terminals[i].kind](2 // count, feeder.strands) for i in ends)
    end = " and ".join(
        f"{colours[n] + ' to ' if count > 1 else ''}terminal {i} on {layout.runs[layout.terminals[i].run].label}"
        for n, i in enumerate(ends)
    )
    return Wire(
        "feeder",
        feeder_id,
        feeder.label,
        circuit_id,
        circuit.name,
        colours,
        feeder.gauge,
        feeder.strands,
        f"rail, {on_track(layout, feeder.track, feeder.at)}",
        end,
        measured,
        feeder.tape is not None,
        feeder_cut(layout, measured),
        f"2 soldered to rail, {fitted}",
    )


def _count(number: int, word: str) -> str:
    return f"{number} {word}{'s' if number != 1 else ''}"


FITTED: dict[str, Callable[[int, str], str]] = {
    "screw strip": lambda n, strands: _count(n, "ferrule" if strands == "stranded" else "bare end"),
    "lever": lambda n, _: _count(n, "lever end"),
    "tap": lambda n, _: _count(n, "tap"),
    "soldered": lambda n, _: _count(n, "soldered joint"),
}
"""What is fitted to the wires of a feeder at each kind of terminal."""


def _control_row(layout: Layout, piece: Piece) -> Wire:
    circuit = layout.circuits[piece.circuit].name if piece.circuit else "control"
    return Wire(
        "control",
        piece.owner,
        piece.label,
        piece.circuit,
        circuit,
        piece.colours,
        piece.gauge,
        piece.strands,
        piece.start,
        piece.end,
        piece.length,
        piece.owner in layout.signals and layout.signals[piece.owner].tape is not None,
        piece.cut,
        "; ".join(piece.notes),
    )


def in_world(layout: Layout, mm: float) -> tuple[float, str]:
    """A length as a plain number with its unit, for tables: feet or metres."""
    return (mm / MM_PER_FOOT, "ft") if layout.brief.units == "imperial" else (mm / 1000, "m")
