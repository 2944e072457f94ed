"""Blocks for cabs made: gaps, cabs, selectors on a panel, sections, and the wire from the panel to every block."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from jolly_copper.core.circuits.edits import Patch
from jolly_copper.core.circuits.lengths import point_on_track
from jolly_copper.core.drawing.copper import add_circuit, cut_gap
from jolly_copper.core.drawing.sheet import DrawingError, Sheet
from jolly_copper.core.layout.control import control_given
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.power_tree import SOURCES
from jolly_copper.core.materials.copper import in_units
from jolly_copper.core.materials.sources import usual_source
from jolly_copper.core.proposals.cabs.plan import CabBlock, CabPlan, School, plan_cab_blocks
from jolly_copper.core.proposals.laying.corridors import Ground, map_ground
from jolly_copper.core.proposals.laying.feeding import fresh_places, lay_circuit, sweep, usual_wire
from jolly_copper.core.proposals.laying.runs import Spot, Wire, lay
from jolly_copper.core.rails.phase import orient
from jolly_copper.core.rails.pieces import map_rails

Told = Callable[[str], None]
LETTERS = "ABCDEFGHJKL"
TOGGLE_AMPS, ROTARY_AMPS = 5.0, 3.0
"""What the contacts of a small toggle and of a small rotary usually switch. Common practice, no source; read the
part's own sheet."""
BESIDE_PANEL_MM = 40.0
ACROSS = 5
"""Selectors side by side on the plan before the next row begins."""


@dataclass(frozen=True)
class CabWishes:
    """cabs: how many there shall be, those that are there counted. shortest: of a block, mm."""

    school: School = "both rails"
    cabs: int = 2
    shortest: float | None = None


@dataclass(frozen=True)
class CabProposal:
    """Blocks with the change that makes them. selectors: by the number of the block in `plan.blocks`. wire: mm of run,
    both conductors of a pair counted once."""

    wishes: CabWishes
    plan: CabPlan
    selectors: tuple[str, ...]
    cabs: tuple[str, ...]
    panel: str
    after: Layout
    patch: Patch

    @property
    def wire(self) -> float:
        return sum(r.line.length for i, r in self.after.runs.items() if r.circuit in self._circuits())

    def _circuits(self) -> set[str]:
        return {self.after.devices[i].output for i in (*self.selectors, *self.cabs)}


def block_for_cabs(layout: Layout, wishes: CabWishes | None = None, told: Told = lambda _doing: None) -> CabProposal:
    """Blocks, gaps, selectors with a place on a panel, and wires from there to every block, as one change.

    Sections that are there keep their ids; feeders keep their place on the rail and are tied to the new wires.

    Raises:
        DrawingError: there is no track that direct current may drive, it is blocked already, or no rotary has so many
            ways.
    """
    wishes = wishes or CabWishes()
    if not 1 <= wishes.cabs <= len(LETTERS):
        raise DrawingError(f"A rotary has {len(LETTERS)} ways at most: 1 to {len(LETTERS)} cabs.")
    if any(d.kind == "selector" for d in layout.devices.values()):
        raise DrawingError("There are selectors already. Take them off first, or add single ones in step Zones.")
    plan = plan_cab_blocks(layout, wishes.school, wishes.shortest)
    if not plan.blocks:
        raise DrawingError(
            "There is no track for cabs: draw some, or part what is there from digital and three-rail track by gaps."
        )
    sheet = Sheet(layout)
    for cut in plan.cuts:
        cut_gap(sheet, cut.track, cut.at, cut.rails)
    told("cabs and selectors")
    cabs = _cabs(sheet, layout, wishes)
    panel = _panel(sheet, cabs)
    selectors = _selectors(sheet, plan, cabs, panel, wishes)
    _sections(sheet, plan, selectors)
    told("wires home")
    _wires(sheet, plan, selectors, cabs, wishes)
    _unused(sheet, layout, cabs)
    return CabProposal(wishes, plan, tuple(selectors), tuple(cabs), panel, sheet.layout(), sheet.patch())


def _cabs(sheet: Sheet, layout: Layout, wishes: CabWishes) -> list[str]:
    """The sources of direct current that are there, and new cabs until there are enough. Answers their ids."""
    found = [i for i, d in layout.devices.items() if d.kind in SOURCES and control_given(layout, d) == "dc"]
    usual = usual_source(layout.brief.scale, "dc")
    xs = [(t.line.box[0] + t.line.box[2]) / 2 for t in layout.tracks.values()]
    low = max(t.line.box[3] for t in layout.tracks.values())
    while len(found) < wishes.cabs:
        n = len(found)
        letter = LETTERS[n]
        circuit = add_circuit(sheet, f"Cab {letter}")
        device = sheet.free("devices", "C")
        sheet["devices"][device] = {
            "kind": "cab",
            "name": f"Cab {letter}",
            "at": {"x": round(sum(xs) / len(xs) + 220.0 * (n - (wishes.cabs - 1) / 2), 1), "y": round(low + 60.0, 1)},
            "output": circuit,
            "winding": f"Winding {letter}",
            "label_amps": usual.amps,
            "limit_amps": usual.limit,
            "trip_amps": usual.amps,
            "trip_seconds": usual.trip_seconds,
            "ohms": usual.ohms,
            "guessed": True,
        }
        found.append(device)
    return found[:11]


def _panel(sheet: Sheet, cabs: Sequence[str]) -> str:
    """The first panel there is, or a new one between the cabs."""
    if sheet["panels"]:
        return next(iter(sheet["panels"]))
    at = [sheet["devices"][c]["at"] for c in cabs]
    spot = {k: round(sum(p[k] for p in at) / len(at), 1) for k in ("x", "y")}
    spot["y"] += 90.0
    return sheet.add("panels", "panel-", {"name": "Cab panel", "at": spot, "width": 300})


def _selectors(sheet: Sheet, plan: CabPlan, cabs: Sequence[str], panel: str, wishes: CabWishes) -> list[str]:
    """A circuit and a selector for each block; a switch in one rail for each dead end. Answers their ids."""
    ways = [sheet["devices"][c]["output"] for c in cabs]
    common = ways[0] if wishes.school == "common rail" else None
    if common is not None:
        for way in ways[1:]:
            sheet["circuits"][way]["return_of"] = common
    at = sheet["panels"][panel]["at"]
    made = f"{'toggle' if len(ways) <= 2 else 'rotary'}, {'one pole' if common is not None else 'two poles'}"
    circuit_of: dict[int, str] = {}
    found: list[str] = []
    for b in plan.blocks:
        circuit_of[b.extent] = add_circuit(sheet, b.name)
    for n, b in enumerate(plan.blocks):
        circuit = sheet["circuits"][circuit_of[b.extent]]
        if b.parent is not None:
            circuit["return_of"] = circuit_of[b.parent]
        elif common is not None:
            circuit["return_of"] = common
        inputs = ways if b.parent is None else [circuit_of[b.parent]]
        device = sheet.free("devices", "S")
        sheet["devices"][device] = {
            "kind": "selector",
            "name": f"Selector {b.name}" if b.parent is None else f"Switch {b.name}",
            "at": {
                "x": round(at["x"] + BESIDE_PANEL_MM * (n % ACROSS - ACROSS // 2), 1),
                "y": round(at["y"] + BESIDE_PANEL_MM * (1 + n // ACROSS), 1),
            },
            "input": inputs[0],
            "inputs": list(inputs),
            "output": circuit_of[b.extent],
            "made": made if b.parent is None else "toggle, one pole",
            "contact_amps": ROTARY_AMPS if made.startswith("rotary") and b.parent is None else TOGGLE_AMPS,
            "panel": panel,
            "ohms": 0.02,
        }
        if b.behind is not None:
            sheet["devices"][b.behind]["input"] = circuit_of[b.extent]
        found.append(device)
    return found


def _sections(sheet: Sheet, plan: CabPlan, selectors: Sequence[str]) -> None:
    for block, selector in zip(plan.blocks, selectors, strict=True):
        if block.behind is not None:
            continue  # its sections stay behind their reversing switch
        extent = plan.rails.extents[block.extent]
        anchors = [s for s in plan.rails.sections_in[block.extent] if s in sheet["sections"]]
        widest = max(extent, key=lambda p: (p.end - p.start, p.track))
        circuit = sheet["devices"][selector]["output"]
        if anchors:
            for other in anchors[1:]:
                del sheet["sections"][other]
            sheet["sections"][anchors[0]].update(name=block.name, circuit=circuit)
        else:
            at = round((widest.start + widest.end) / 2, 1)
            value = {"name": block.name, "track": widest.track, "at": at, "circuit": circuit, "longest": None}
            sheet.add("sections", "section-", value)


def _wires(sheet: Sheet, plan: CabPlan, selectors: Sequence[str], cabs: Sequence[str], wishes: CabWishes) -> None:
    """Wire from every selector to its block. What shares its conductor B is laid with one wire; the other stays on the
    common bus, or on the block a dead end hangs under."""
    layout = sheet.layout()
    rails, ground = map_rails(layout), map_ground(layout)
    units = layout.brief.units
    wire = usual_wire(layout, in_units("18 AWG", units))
    single = Wire(wire.gauge, wire.strands, "side by side", wire.terminal, wire.feeder_gauge, wire.feeder_strands)
    phase = orient(layout, rails)
    circuits = {layout.devices[s].output: b for s, b in zip(selectors, plan.blocks, strict=True)}
    served: dict[str, list[str]] = {}
    for circuit, block in circuits.items():
        mine = _stretches(layout, circuit, block)
        tied = [i for i, f in layout.feeders.items() if rails.extent_of[rails.piece_at(f.track, f.at)] in mine]
        fresh = fresh_places(layout, rails, sorted(mine))
        shared = layout.circuits[circuit].return_of is not None
        onwards = [block.behind] if block.behind is not None else []
        runs, feeders = set(sheet["runs"]), set(sheet["feeders"])
        lay_circuit(sheet, layout, rails, circuit, tied, fresh, onwards, single if shared else wire, ground, phase)
        served[circuit] = [*tied, *sorted(set(sheet["feeders"]) - feeders)]
        if shared:
            for run in set(sheet["runs"]) - runs:
                sheet["runs"][run]["wires"] = "A"
    _returns(sheet, layout, circuits, served, wishes, cabs, single, ground)


def _stretches(layout: Layout, circuit: str, block: CabBlock) -> set[int]:
    """The stretches of rail a block's sections are anchored in."""
    if block.behind is not None:
        return set()
    rails = map_rails(layout)
    return {rails.extent_of[rails.piece_at(s.track, s.at)] for s in layout.sections.values() if s.circuit == circuit}


def _returns(
    sheet: Sheet,
    layout: Layout,
    circuits: dict[str, CabBlock],
    served: dict[str, list[str]],
    wishes: CabWishes,
    cabs: Sequence[str],
    single: Wire,
    ground: Ground,
) -> None:
    """The conductor B of feeders whose own run holds A alone: to a common bus, or to the run of the block above."""

    def spot(feeder: str) -> Spot:
        return Spot(*point_on_track(layout, sheet["feeders"][feeder]["track"], sheet["feeders"][feeder]["at"]))

    shared = {c: f for c, f in served.items() if layout.circuits[c].return_of is not None}
    if wishes.school == "common rail":
        every = [f for feeders in shared.values() for f in feeders]
        before = set(sheet["runs"])
        terminals = lay(sheet, cabs[0], [spot(f) for f in every], (), single, ground, layout)
        for run in set(sheet["runs"]) - before:
            sheet["runs"][run]["wires"] = "B"
        for feeder, terminal in zip(every, terminals, strict=True):
            sheet["feeders"][feeder]["other"] = terminal
        return
    by_extent = {b.extent: c for c, b in circuits.items()}
    for circuit, feeders in shared.items():
        above = by_extent[circuits[circuit].parent or 0]
        mates = [sheet["feeders"][f]["terminal"] for f in served[above]]
        for f in feeders:
            here = spot(f)
            near = min(
                mates,
                key=lambda t: _away(layout, sheet, t, here),
                default=None,
            )
            if near is not None:
                sheet["feeders"][f]["other"] = near


def _away(layout: Layout, sheet: Sheet, terminal: str, here: Spot) -> float:
    """How far a terminal on the sheet is from a place, by the feeder that is tied there; mm."""
    tied = (f for f in sheet["feeders"].values() if f["terminal"] == terminal)
    places = [point_on_track(layout, f["track"], f["at"]) for f in tied]
    return min(math.dist((here.x, here.y), place) for place in places)


def _unused(sheet: Sheet, layout: Layout, cabs: Sequence[str]) -> None:
    """Old wire that feeds nothing any more, and the breakers of districts that are none now."""
    sweep(sheet)
    while True:
        used = {s["circuit"] for s in sheet["sections"].values()} | {r["circuit"] for r in sheet["runs"].values()}
        used |= {c for d in sheet["devices"].values() for c in (d.get("input"), *d.get("inputs", ()))}
        used |= {x["circuit"] for x in sheet["loads"].values()}
        idle = [
            i
            for i, d in sheet["devices"].items()
            if i in layout.devices and i not in cabs and d["kind"] == "breaker" and d["output"] not in used
        ]
        if not idle:
            return
        for i in idle:
            for run in [k for k, r in sheet["runs"].items() if r.get("ends_at_device") == i]:
                del sheet["runs"][run]
            sheet["circuits"].pop(sheet["devices"].pop(i)["output"])
