"""The wire table: every run and feeder as something to cut, label and fit."""

from __future__ import annotations

from dataclasses import dataclass

from jolly_copper.core.circuits.lengths import cut_length, cut_of_runs, feeder_length, run_length
from jolly_copper.core.layout.document import Feeder, Layout, Run, Terminal
from jolly_copper.core.materials.joints import BUS_IS_CUT_AT
from jolly_copper.core.quantities import MM_PER_FOOT, print_length
from jolly_copper.core.wirebook.materials import wire_needs
from jolly_copper.core.wirebook.pieces import pieces
from jolly_copper.core.wirebook.places import on_track


@dataclass(frozen=True)
class Wire:
    """One row: a pair of wires. Lengths in mm; `cut` is for each of the two wires, all pieces of a run together."""

    kind: str
    id: str
    label: str
    circuit: str
    circuit_name: str
    colour_a: str
    colour_b: str
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
    return rows


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
        "run", run_id, run.label, run.circuit, circuit.name, circuit.colour_a, circuit.colour_b, run.gauge, run.strands,
        start, end, measured, run.tape is not None, cut, _run_connectors(run, here, len(plugs), measured),
    )  # fmt: skip


def _run_connectors(run: Run, terminals: list[Terminal], plugs: int, length: float) -> str:
    cuts = sum(2 if 1 < t.along < length - 1 else 1 for t in terminals if t.kind in BUS_IS_CUT_AT)
    ends = 1 + bool(run.ends_at_device or run.ends_at_terminal)  # where it is fed, and where it arrives
    screw_ends = 2 * (cuts + ends)  # both conductors
    found = [f"{screw_ends} ferrules" if run.strands == "stranded" else f"{screw_ends} bare ends"]
    for kind, word in (("tap", "taps"), ("soldered", "soldered joints")):
        count = 2 * sum(t.kind == kind for t in terminals)
        if count:
            found.append(f"{count} {word}")
    if plugs:
        found.append(f"{plugs} two-pole plug{'s' if plugs > 1 else ''}")
    return ", ".join(found)


def _feeder_row(layout: Layout, feeder_id: str, feeder: Feeder) -> Wire:
    terminal = layout.terminals[feeder.terminal]
    circuit_id = layout.runs[terminal.run].circuit
    circuit, measured = layout.circuits[circuit_id], feeder_length(layout, feeder)
    fitted = {"screw strip": "2 ferrules" if feeder.strands == "stranded" else "2 bare ends", "lever": "2 lever ends",
              "tap": "2 taps", "soldered": "2 soldered joints"}[terminal.kind]  # fmt: skip
    return Wire(
        "feeder", feeder_id, feeder.label, circuit_id, circuit.name, circuit.colour_a, circuit.colour_b, feeder.gauge,
        feeder.strands, f"rail, {on_track(layout, feeder.track, feeder.at)}",
        f"terminal {feeder.terminal} on {layout.runs[terminal.run].label}", measured, feeder.tape is not None,
        cut_length(layout, measured), f"2 soldered to rail, {fitted}",
    )  # fmt: skip


def in_world(layout: Layout, mm: float) -> tuple[float, str]:
    """A length as a plain number with its unit, for tables: feet or metres."""
    return (mm / MM_PER_FOOT, "ft") if layout.brief.units == "imperial" else (mm / 1000, "m")
