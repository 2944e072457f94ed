"""Blocks made: gaps, sections, channels with their boards and addresses, and the wire home. One undoable change."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from jolly_copper.core.circuits.edits import Patch
from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.circuits.lengths import point_on_track, terminal_point
from jolly_copper.core.drawing.copper import INKS, cut_gap
from jolly_copper.core.drawing.moving import Erased, erase
from jolly_copper.core.drawing.sheet import DrawingError, Sheet
from jolly_copper.core.drawing.signalling import striped_circuit
from jolly_copper.core.findings.feeding import spacing
from jolly_copper.core.layout.benchwork import off_the_joint
from jolly_copper.core.layout.connections import hung_at, pairs_at
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.ids import natural
from jolly_copper.core.layout.underways import cable_lengths
from jolly_copper.core.materials.detectors import DETECTORS
from jolly_copper.core.proposals.blocking.lots import Lot
from jolly_copper.core.proposals.blocking.pack import Packing, pack
from jolly_copper.core.proposals.blocking.plan import BlockPlan, a_rail_at, divide_into_blocks
from jolly_copper.core.proposals.laying.corridors import map_ground
from jolly_copper.core.proposals.laying.feeding import RailPoint, fresh_places, usual_wire
from jolly_copper.core.proposals.laying.home import run_home
from jolly_copper.core.rails.pieces import map_rails
from jolly_copper.core.rails.topology import map_topology
from jolly_copper.core.signals.numbering import begins, numbered, numbers_taken

Floats = NDArray[np.float64]
Told = Callable[[str], None]
NEAR_FEEDER_MM = 300.0
LONG = 30


@dataclass(frozen=True)
class Group:
    """Sections that may share boards. circuit: the one they lie in, None where boards serve several. lots: their
    numbers."""

    circuit: str | None
    lots: tuple[int, ...]
    packing: Packing
    places: tuple[tuple[float, float], ...]


@dataclass(frozen=True)
class Blocking:
    """Blocks proposed. groups: how the channels are shared out to boards. unfed: lots no circuit feeds, left without a
    channel. wire: mm of home runs, straight. bound: no packing needs less."""

    plan: BlockPlan
    groups: tuple[Group, ...]
    unfed: tuple[int, ...]
    boards: int
    channels: int

    @property
    def wire(self) -> float:
        return sum(g.packing.wire for g in self.groups)

    @property
    def bound(self) -> float:
        return sum(g.packing.bound for g in self.groups)


def propose_blocks(layout: Layout) -> Blocking:
    """Blocks, sections, boards and addresses for a railroad, by the club's wishes in its brief.

    Raises:
        DrawingError: there is no track of a use that is detected, or all of it is detected already.
    """
    if any(d.board is not None for d in layout.devices.values()):
        raise DrawingError(
            "There are detector channels already. Take them off first, or add single sections with the plan tools."
        )
    plan = divide_into_blocks(layout)
    if not plan.lots:
        raise DrawingError("Nothing to block: draw track, and say what it is used for (main, yard, staging …).")
    wishes = layout.brief.detecting
    groups: dict[str | None, list[int]] = defaultdict(list)
    unfed = []
    common = DETECTORS[wishes.kind].common_input
    for n, lot in enumerate(plan.lots):
        if lot.circuit is None:
            unfed.append(n)
        else:
            groups[lot.circuit if common else None].append(n)
    found = []
    for circuit, lots in groups.items():
        spots = [middle_of(plan, plan.lots[n]) for n in lots]
        places = _places(layout, circuit, spots)
        found.append(
            Group(
                circuit,
                tuple(lots),
                pack(wire_between(layout, spots, places), [1] * len(lots), wishes.channels, wishes.spare),
                tuple(places),
            )
        )
    boards = sum(len(g.packing.members) for g in found)
    return Blocking(plan, tuple(found), tuple(unfed), boards, boards * wishes.channels)


def middle_of(plan: BlockPlan, lot: Lot) -> tuple[float, float]:
    """A place in the middle of a lot, mm on the plan."""
    widest = max((p for n in lot.extents for p in plan.rails.extents[n]), key=lambda p: (p.end - p.start, p.track))
    return point_on_track(plan.paper, widest.track, (widest.start + widest.end) / 2)


def _places(layout: Layout, circuit: str | None, spots: Sequence[tuple[float, float]]) -> list[tuple[float, float]]:
    """Where boards may stand: at terminals of the bus they tap; where there is no wire yet, at the sections
    themselves."""
    there = [
        terminal_point(layout, t)
        for t in layout.terminals.values()
        if layout.circuits[layout.runs[t.run].circuit].purpose == "track"
        and circuit in (None, layout.runs[t.run].circuit)
    ]
    found = [(round(x + 90.0), round(y + 60.0)) for x, y in there] or [(round(x), round(y)) for x, y in spots]
    return [(float(x), float(y)) for x, y in thinned(found, max(MOST_PLACES, len(spots) // 2))]


MOST_PLACES = 24


def thinned(places: Sequence[tuple[float, float]], most: int) -> list[tuple[float, float]]:
    """So many of these places at most, evenly chosen."""
    step = max(len(places) / most, 1.0)
    return [places[int(k * step)] for k in range(math.ceil(len(places) / step))]


def wire_between(layout: Layout, spots: Sequence[tuple[float, float]], places: Sequence[tuple[float, float]]) -> Floats:
    """Wire along the benchwork from each spot to each place, mm, shape (spots, places)."""
    return np.array([cable_lengths(layout, p, spots) for p in places]).T


def make_blocks(layout: Layout, blocking: Blocking, told: Told = lambda _doing: None) -> Patch:
    """The change that makes blocks: gaps, sections, blocks, boards, channels, addresses, feeders and wires home.

    Sections that are there keep their ids and take the names of their blocks; feeders keep their place on the rail and
    their other wire where it is.
    """
    sheet, plan = Sheet(layout), blocking.plan
    for cut in plan.cuts:
        cut_gap(sheet, cut.track, cut.at, cut.rails)
    anchored = _sections(sheet, layout, blocking)
    channels = _channels(sheet, layout, blocking, anchored)
    told("feeders")
    _feed_bare(sheet)
    told("wires home")
    wire = usual_wire(layout)
    if layout.runs:
        now = sheet.layout()
        run_home(sheet, now, channels, wire, map_ground(now))
        if layout.brief.detecting.kind == "isolated rail":
            _one_wire_each(sheet, channels)
    return sheet.patch()


def _one_wire_each(sheet: Sheet, channels: Sequence[str]) -> None:
    """An isolated rail has no feeder but the one wire to its input: of several in a section the first is kept."""
    for device in channels:
        circuit = sheet["devices"][device]["output"]
        runs = {i for i, r in sheet["runs"].items() if r["circuit"] == circuit}
        tied = [i for i, f in sheet["feeders"].items() if sheet["terminals"][f["terminal"]]["run"] in runs]
        erase(sheet, [Erased(kind="feeder", id=i) for i in sorted(tied, key=natural)[1:]])


def _sections(sheet: Sheet, layout: Layout, blocking: Blocking) -> dict[int, list[str]]:
    """A section in every extent of every lot. Answers their ids by lot."""
    plan = blocking.plan
    blocks: dict[str, str] = {}
    found: dict[int, list[str]] = {}
    for n, lot in enumerate(plan.lots):
        if lot.block not in blocks:
            blocks[lot.block] = _free(sheet, "blocks", lot.block)
            sheet["blocks"][blocks[lot.block]] = {"name": lot.block}
        for k, number in enumerate(lot.extents):
            anchors = [s for s in plan.rails.sections_in[number] if s in sheet["sections"]]
            extent = plan.rails.extents[number]
            widest = max(extent, key=lambda p: (p.end - p.start, p.track))
            name = lot.name if k == 0 else f"{lot.name}, part {k + 1}"
            if anchors:
                section = anchors[0]
                for other in anchors[1:]:
                    erase(sheet, [Erased(kind="section", id=other)])
                sheet["sections"][section]["name"] = name
            else:
                section = sheet.add(
                    "sections",
                    "section-",
                    {
                        "name": name,
                        "track": widest.track,
                        "at": round((widest.start + widest.end) / 2, 1),
                        "circuit": lot.circuit,
                        "longest": None,
                    },
                )
                if lot.circuit is None:
                    del sheet["sections"][section]
                    continue
            sheet["sections"][section].update(block=blocks[lot.block], role=lot.role)
            found.setdefault(n, []).append(section)
    _rest(sheet, layout, blocking)
    return found


def _rest(sheet: Sheet, layout: Layout, blocking: Blocking) -> None:
    """What the new cuts part from a section and needs no detector keeps the circuit it had, under a section of its
    own."""
    plan, old = blocking.plan, map_rails(layout)
    for number, why in plan.blind:
        extent = plan.rails.extents[number]
        if any(s in sheet["sections"] for s in plan.rails.sections_in[number]) or "too short" in why:
            continue
        widest = max(extent, key=lambda p: (p.end - p.start, p.track))
        at = (widest.start + widest.end) / 2
        was = old.section_at(widest.track, at)
        if was is not None:
            sheet.add(
                "sections",
                "section-",
                {
                    "name": layout.tracks[widest.track].name,
                    "track": widest.track,
                    "at": round(at, 1),
                    "circuit": layout.sections[was].circuit,
                    "longest": None,
                },
            )


def _free(sheet: Sheet, kind: str, name: str) -> str:
    base = "".join(c if c.isalnum() else "-" for c in name).strip("-")[:LONG] or "block"
    base = base if base[0].isalpha() else f"b-{base}"
    return next(n for k in range(1, 10000) if (n := base if k == 1 else f"{base}-{k}") not in sheet[kind])


def _channels(sheet: Sheet, layout: Layout, blocking: Blocking, sections: dict[int, list[str]]) -> list[str]:
    """Boards with their channels, addressed from the first on without a hole. Answers the channel devices in that
    order."""
    wishes, usual = layout.brief.detecting, DETECTORS[layout.brief.detecting.kind]
    supply = next((i for i, c in layout.circuits.items() if c.purpose == "accessory"), None)
    boards = [
        (min(members), [group.lots[m] for m in members], group.places[site])
        for group in blocking.groups
        for members, site in zip(group.packing.members, group.packing.sites, strict=True)
    ]
    boards.sort(key=lambda b: min(b[1]))
    address, made = begins(wishes.first_address, wishes), list[str]()
    crowd: dict[tuple[float, float], int] = defaultdict(int)
    for number, (_, lots, (x, y)) in enumerate(boards, start=1):
        board = sheet.free("detectors", "DB")
        x, y = off_the_joint(layout, (x, y))
        crowd[x, y] += 1
        at = {"x": round(x + 160.0 * (crowd[x, y] - 1), 1), "y": round(y, 1)}
        sheet["detectors"][board] = {
            "name": f"Detector {number}",
            "kind": wishes.kind,
            "at": at,
            "channels": wishes.channels,
            "sensed": wishes.sensed,
            "address": address,
            "drop": usual.drop,
            "ohms": usual.ohms,
            "threshold": usual.threshold,
            "supply": supply,
        }
        address += numbers_taken(wishes.channels, wishes)
        for channel, n in enumerate(sorted(lots), start=1):
            lot = blocking.plan.lots[n]
            circuit = striped_circuit(sheet, str(lot.circuit), lot.name, wishes.sensed, INKS[n % len(INKS)])
            device = f"{board}.{channel}"
            sheet["devices"][device] = {
                "kind": "detector",
                "name": f"Detector {number} channel {channel}",
                "at": at,
                "input": lot.circuit,
                "output": circuit,
                "ohms": usual.ohms,
                "sensed": wishes.sensed,
                "board": board,
                "channel": channel,
            }
            for section in sections.get(n, ()):
                sheet["sections"][section]["circuit"] = circuit
            made.append(device)
    return made


def _feed_bare(sheet: Sheet) -> None:
    """A feeder for every stretch the cuts left without, tied to the bus above its detector for now."""
    layout = sheet.layout()
    if not layout.terminals:
        return
    rails = map_rails(layout)
    named = [n for n in range(len(rails.extents)) if rails.sections_in[n]]
    topology, hung = map_topology(layout, rails), hung_at(layout)
    wire = usual_wire(layout)
    feeds = {d.output: d for d in layout.devices.values()}
    wanting = [
        RailPoint(f.place.track, round(f.place.at, 1))
        for f in spacing(derive(layout))
        if f.place.track is not None and f.place.at is not None
    ]
    points = fresh_places(layout, rails, named)
    points += [p for p in wanting if all(q.track != p.track or abs(q.at - p.at) > NEAR_FEEDER_MM for q in points)]
    for point in points:
        section = rails.section_at(point.track, point.at)
        circuit = layout.sections[section].circuit if section else None
        while circuit is not None and (device := feeds.get(circuit)) is not None and device.board is not None:
            circuit = device.input
        here = point_on_track(layout, point.track, point.at)
        near = min(
            (
                (hung[i] + 3 > pairs_at(layout, t), math.dist(here, terminal_point(layout, t)), i)
                for i, t in layout.terminals.items()
                if layout.runs[t.run].circuit == circuit
            ),
            default=None,
        )
        if near is None:
            continue
        hung[near[2]] += 1
        i = sheet.free("feeders", "F")
        sheet["feeders"][i] = {
            "label": i,
            "track": point.track,
            "at": point.at,
            "terminal": near[2],
            "gauge": wire.feeder_gauge,
            "strands": wire.feeder_strands,
            "a_rail": a_rail_at(topology, point.track, point.at),
            "tape": None,
        }


def renumber(layout: Layout, first: int) -> Patch:
    """Addresses of all detector boards from a first one on, in the order of the boards' names, without a hole.

    Raises:
        DrawingError: there is no board, or nothing would change.
    """
    if not layout.detectors:
        raise DrawingError("There is no detector board yet.")
    sheet = Sheet(layout)
    for i, number in numbered(layout, first).items():
        sheet["detectors"][i]["address"] = number
    patch = sheet.patch()
    if not patch:
        raise DrawingError(f"They run from {first} already, without a hole.")
    return patch


def take_off(layout: Layout) -> Patch:
    """The change that takes all detection off: boards, channels, their wires and blocks. Feeders go back to the bus;
    gaps stay.

    Raises:
        DrawingError: there is none.
    """
    if not layout.detectors:
        raise DrawingError("There is no detector board to take off.")
    sheet = Sheet(layout)
    erase(sheet, [Erased(kind="detector", id=i) for i in layout.detectors])
    erase(sheet, [Erased(kind="block", id=i) for i in layout.blocks])
    return sheet.patch()


def with_wishes(layout: Layout, stopping: float | None = None, **wishes: object) -> Layout:
    """The layout with other wishes of detection, for a proposal asked with them before they are kept.

    stopping: what a train needs to stop, mm; as the brief has it when not given.
    """
    brief = layout.brief
    detecting = brief.detecting.model_copy(update=wishes)
    signalling = brief.signalling.model_copy(update={} if stopping is None else {"stopping": stopping})
    return layout.model_copy(
        update={"brief": brief.model_copy(update={"detecting": detecting, "signalling": signalling})}
    )
