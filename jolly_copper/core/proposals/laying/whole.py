"""Laying a whole railroad: feeders by the chosen school, and every circuit's buses to them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

from jolly_copper.core.circuits.edits import Patch
from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.circuits.whereabouts import extent_circuits
from jolly_copper.core.drawing.moving import Erased, erase
from jolly_copper.core.drawing.sheet import DrawingError, Sheet
from jolly_copper.core.findings.feeding import spacing
from jolly_copper.core.findings.joining import feeders_across
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.ids import next_id
from jolly_copper.core.layout.power_tree import DC_SOURCES
from jolly_copper.core.materials.copper import Make, in_units
from jolly_copper.core.materials.joints import TerminalKind
from jolly_copper.core.proposals.laying.corridors import Ground, Way, map_ground
from jolly_copper.core.proposals.laying.feeding import RailPoint, Spacing, fresh_places, lay_circuit, sweep, usual_wire
from jolly_copper.core.proposals.laying.home import run_home
from jolly_copper.core.proposals.laying.runs import Wire
from jolly_copper.core.rails.frogs import behind_frogs
from jolly_copper.core.rails.phase import orient
from jolly_copper.core.rails.pieces import RailMap, map_rails
from jolly_copper.core.travel.alone import parted
from jolly_copper.core.travel.crossing import track_crossings


@dataclass(frozen=True)
class School:
    """How a club wires. gauge: of all buses until they are sized; a usual one when not given. anew: lay circuits that
    have wire already once more; else only those that have none, or bare track. way: where buses lie."""

    spacing: Spacing = "by rail code"
    terminal: TerminalKind = "screw strip"
    make: Make = "twisted"
    gauge: str | None = None
    anew: bool = False
    way: Way = "under the track"


Told = Callable[[int, int], None]
ROUNDS = 4
SAME_MM = 150.0


def lay_railroad(layout: Layout, school: School | None = None, told: Told = lambda _done, _total: None) -> Patch:
    """The change that lays the wire of a railroad whose districts are named.

    Feeders that are there stay on their rails. Each circuit gets a near-minimal tree of runs from its device, with
    terminals within reach of its feeders and plugs where it goes onto boards that lift out; devices it feeds get a run.

    Raises:
        DrawingError: there is nothing to lay: no section has a circuit that a device feeds, or all of it is laid.
    """
    school = school or School()
    rails, ground = map_rails(layout), map_ground(layout, school.way)
    # What lies behind a detector is fed from the bus above it; its sensed wire is then run home by itself.
    above = {d.output: d.input for d in layout.devices.values() if d.board is not None}
    circuits = [above.get(c, c) if c is not None else None for c in extent_circuits(layout, rails)]
    powered = {d.output for d in layout.devices.values() if d.kind not in DC_SOURCES}
    if len(powered) == 1 and layout.tracks:
        circuits = [c or next(iter(powered)) for c in circuits]  # nobody divided it: all track is the one source's
    if not any(c in powered for c in circuits if c):
        raise DrawingError("Nothing to lay yet: place a source, and give the track to its circuit (step Zones).")
    more: list[RailPoint] = []
    routed = behind_frogs(layout, rails)
    for _ in range(ROUNDS):
        sheet = _laid(layout, school, rails, ground, circuits, more, told)
        # Short track between turnouts has no feeder of its own; where that leaves too far a way, it gets one.
        wanting = [
            f.place for f in spacing(derive(sheet.layout())) if f.place.track is not None and f.place.at is not None
        ]
        fresh = [RailPoint(p.track, round(p.at, 1)) for p in wanting if p.track is not None and p.at is not None]
        fresh = [p for p in fresh if rails.piece_at(p.track, p.at) not in routed]
        fresh = [p for p in fresh if all(q.track != p.track or abs(q.at - p.at) > SAME_MM for q in more)]
        if not fresh:
            break
        more += fresh
    _tie_at_home(sheet)
    patch = sheet.patch()
    if not patch:
        raise DrawingError("All of it is laid: every stretch has its feeders, every circuit its wire.")
    return patch


def _laid(
    layout: Layout,
    school: School,
    rails: RailMap,
    ground: Ground,
    circuits: list[str | None],
    more: list[RailPoint],
    told: Told,
) -> Sheet:
    sheet = Sheet(layout)
    gauge = school.gauge or in_units("14 AWG", layout.brief.units)
    wire = usual_wire(layout, gauge, terminal=school.terminal, make=school.make)
    fed = {d.output for d in layout.devices.values() if d.kind not in DC_SOURCES and d.board is None}
    todo = [c for c in fed if layout.circuits[c].purpose == "track" and (c in circuits or _feeds(layout, c))]
    todo.sort(key=list(layout.circuits).index)
    phase = orient(layout, rails)
    # Rails over the joint of two boards are not to be trusted: each side has feeders of its own.
    lone = parted(layout, list(track_crossings(layout)))
    within = [rails.extent_of[rails.piece_at(e[0].track, (e[0].start + e[0].end) / 2)] for e in lone.extents]
    kept: dict[str, list[str]] = {}
    for i, f in layout.feeders.items():
        circuit = circuits[rails.extent_of[rails.piece_at(f.track, f.at)]]
        if circuit is not None:
            kept.setdefault(circuit, []).append(i)
    for number, circuit in enumerate(todo):
        mine = {n for n, c in enumerate(circuits) if c == circuit}
        fresh = fresh_places(layout, lone, [n for n, whole in enumerate(within) if whole in mine], school.spacing)
        fresh += [p for p in more if rails.extent_of[rails.piece_at(p.track, p.at)] in mine]
        onwards = [
            i
            for i, d in layout.devices.items()
            if d.input == circuit
            and d.board is None
            and d.kind not in ("breaker", *DC_SOURCES)
            and (school.anew or not any(r.ends_at_device == i for r in layout.runs.values()))
        ]
        there = [i for i, r in layout.runs.items() if r.circuit == circuit]
        tied = [f for f in kept.get(circuit, []) if school.anew or not _tied_on(layout, f, there)]
        if fresh or onwards or tied:
            for i in there if school.anew else ():
                sheet["runs"][i]["ends_at_device"] = None
            lane = number * layout.brief.rules.runs_apart
            lay_circuit(sheet, layout, rails, circuit, tied, fresh, onwards, replace(wire, aside=lane), ground, phase)
        told(number + 1, len(todo))
    _home(sheet, layout, school, wire, ground)
    sweep(sheet)
    return sheet


def _tie_at_home(sheet: Sheet) -> None:
    """Feeders of boards that lift out, tied on their own board wherever their run comes there."""
    for across in feeders_across(sheet.layout()):
        fresh: dict[str, str] = {}  # two that want a terminal each are told of the same next id
        for operation in across.mends[0].patch if across.mends else ():
            _, kind, thing, *field = str(operation["path"]).split("/")
            if field:
                sheet[kind][thing][field[0]] = fresh.get(operation["value"], operation["value"])
            else:
                fresh[thing] = next_id(sheet[kind], "T")
                sheet[kind][fresh[thing]] = operation["value"]


def _tied_on(layout: Layout, feeder: str, runs: list[str]) -> bool:
    """Whether either wire of a feeder is tied on one of these runs."""
    thing = layout.feeders[feeder]
    return any(t is not None and layout.terminals[t].run in runs for t in (thing.terminal, thing.other))


def _home(sheet: Sheet, layout: Layout, school: School, wire: Wire, ground: Ground) -> None:
    """The sensed wire of every detector channel that has none yet, or of all of them anew."""
    channels = {i: d.output for i, d in layout.devices.items() if d.board is not None}
    laid = {r.circuit for r in layout.runs.values()}
    wanting = [i for i, circuit in channels.items() if school.anew or circuit not in laid]
    if not wanting:
        return
    old = [
        i
        for i, r in sheet["runs"].items()
        if r["circuit"] in {channels[c] for c in wanting} or r["ends_at_device"] in wanting
    ]
    erase(sheet, [Erased(kind="run", id=i) for i in old])
    run_home(sheet, sheet.layout(), wanting, wire, ground)


def _feeds(layout: Layout, circuit: str) -> bool:
    """Whether a circuit feeds a device that wants a wire of its own."""
    return any(
        d.input == circuit and d.board is None and d.kind not in ("breaker", *DC_SOURCES)
        for d in layout.devices.values()
    )
