"""Laying a whole railroad: feeders by the chosen school, and every circuit's buses to them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from jolly_copper.core.circuits.edits import Patch
from jolly_copper.core.circuits.whereabouts import extent_circuits
from jolly_copper.core.drawing.moving import Erased, erase
from jolly_copper.core.drawing.sheet import DrawingError, Sheet
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.power_tree import DC_SOURCES
from jolly_copper.core.materials.copper import Make
from jolly_copper.core.materials.joints import TerminalKind
from jolly_copper.core.proposals.laying.corridors import map_ground
from jolly_copper.core.proposals.laying.feeding import Spacing, fresh_places, lay_circuit, sweep, usual_wire
from jolly_copper.core.rails.pieces import map_rails


@dataclass(frozen=True)
class School:
    """How a club wires. anew: lay circuits that have wire already once more; else only those that have none, or bare track."""

    spacing: Spacing = "by rail code"
    terminal: TerminalKind = "screw strip"
    make: Make = "twisted"
    gauge: str = "14 AWG"
    anew: bool = False


def lay_railroad(
    layout: Layout, school: School | None = None, told: Callable[[int, int], None] = lambda _done, _total: None
) -> Patch:
    """The change that lays the wire of a railroad whose districts are named.

    Feeders that are there stay on their rails. Each circuit gets a near-minimal tree of runs from its device, with terminals within
    reach of its feeders and plugs where it goes onto boards that lift out; devices it feeds get a run.

    Raises:
        DrawingError: there is nothing to lay: no section has a circuit that a device feeds, or all of it is laid.
    """
    school = school or School()
    sheet, rails = Sheet(layout), map_rails(layout)
    circuits = extent_circuits(layout, rails)
    wire = usual_wire(layout, school.gauge, terminal=school.terminal, make=school.make)
    fed = {d.output: i for i, d in layout.devices.items() if d.kind not in DC_SOURCES}
    todo = [c for c in fed if layout.circuits[c].purpose == "track" and (c in circuits or _feeds(layout, c))]
    if not any(c in fed for c in circuits if c):
        raise DrawingError("Nothing to lay yet: place a booster, and give the track to its circuit (step Zones).")
    ground = map_ground(layout)
    kept: dict[str, list[str]] = {}
    for i, f in layout.feeders.items():
        circuit = circuits[rails.extent_of[rails.piece_at(f.track, f.at)]]
        if circuit is not None:
            kept.setdefault(circuit, []).append(i)
    for number, circuit in enumerate(todo):
        mine = [n for n, c in enumerate(circuits) if c == circuit]
        fresh = fresh_places(layout, rails, mine, school.spacing)
        onwards = [
            i for i, d in layout.devices.items()
            if d.input == circuit and d.kind not in ("breaker", *DC_SOURCES)
            and (school.anew or not any(r.ends_at_device == i for r in layout.runs.values()))
        ]  # fmt: skip
        there = [i for i, r in layout.runs.items() if r.circuit == circuit]
        tied = [
            f
            for f in kept.get(circuit, [])
            if school.anew or layout.terminals[layout.feeders[f].terminal].run not in there
        ]
        if fresh or onwards or tied:
            if school.anew:
                for i in there:
                    if sheet["runs"][i]["ends_at_device"] is not None:
                        sheet["runs"][i]["ends_at_device"] = None
            lay_circuit(sheet, layout, rails, circuit, tied, fresh, onwards, wire, ground)
        told(number + 1, len(todo))
    sweep(sheet)
    patch = sheet.patch()
    if not patch:
        raise DrawingError("All of it is laid: every stretch has its feeders, every circuit its wire.")
    return patch


def _feeds(layout: Layout, circuit: str) -> bool:
    """Whether a circuit feeds a device that wants a wire of its own."""
    return any(d.input == circuit and d.kind not in ("breaker", *DC_SOURCES) for d in layout.devices.values())


def stripped(layout: Layout) -> Layout:
    """A layout without its track wiring: track, districts and devices only. For laying it anew from nothing."""
    sheet = Sheet(layout)
    erase(
        sheet,
        [Erased(kind="run", id=i) for i, r in layout.runs.items() if layout.circuits[r.circuit].purpose == "track"],
    )
    return sheet.layout()
