"""What is told of cabs: which source drives what as selectors lie, how each may lie, and what a panel looks like
behind."""

from __future__ import annotations

import math
from collections import defaultdict

from pydantic import BaseModel

from jolly_copper.core.circuits.crossing import crossing
from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.giving import gives, source_volts
from jolly_copper.core.circuits.lengths import point_on_track
from jolly_copper.core.circuits.pickups import longest_reach
from jolly_copper.core.layout.control import control_given, has_three_rails, word_of
from jolly_copper.core.layout.document import Device
from jolly_copper.core.layout.ids import natural
from jolly_copper.core.layout.power_tree import SOURCES
from jolly_copper.core.layout.words import CONTROL
from jolly_copper.core.proposals.cabs.link import Link
from jolly_copper.core.proposals.cabs.make import CabProposal
from jolly_copper.core.proposals.cabs.stops import Stops
from jolly_copper.core.proposals.cabs.three_rail import Isolated, Loops
from jolly_copper.core.quantities import print_current, print_length, print_long_length, print_volts
from jolly_copper.telling.blocking import LotCut, LotInk
from jolly_copper.telling.shapes import MendShape

INKS = ("#2F6F9F", "#B5622B", "#4F7A3A", "#8A3A5E", "#9A7B16", "#4C8C9A", "#6B5B2E", "#B0467C", "#7A4E8C", "#5C6470")
"""Of sources on the plan, told apart by the order they stand in."""
APART_MM = 450.0
"""Levers this far from each other are far enough."""


class SourceShape(BaseModel):
    device: str
    name: str
    word: str
    control: str
    control_text: str
    ink: str
    volts_text: str
    amps_text: str
    winding: str | None
    drives_text: str


class DrivenShape(BaseModel):
    """A stretch of track as it is driven: mm from its A end. moves: the end a DC engine runs towards, None where it is
    not DC. waits: selectors above it are off, so nothing is wrong."""

    track: str
    start: float
    end: float
    source: str | None
    ink: str
    moves: str | None
    waits: bool


class WayShape(BaseModel):
    circuit: str
    name: str
    ink: str


class SelectorShape(BaseModel):
    """A selector as a switch on the page: how it lies, what else it may give, and what it holds."""

    device: str
    name: str
    block: str
    lies: str | None
    ways: list[WayShape]
    made: str
    lever: str | None
    length_text: str
    panel: str | None
    hint: str
    x: float | None
    y: float | None


class MeetingShape(BaseModel):
    """A gap where two sources meet as selectors lie: set alike before a train runs over it."""

    x: float
    y: float
    track: str
    at: float
    words: str
    grave: bool


class StretchShape(BaseModel):
    """A braking section or an isolated rail on the plan."""

    kind: str
    id: str
    name: str
    track: str
    start: float
    end: float
    side: float
    """−1 for the left rail, 1 for the right, seen from the track's A end."""
    words: str


class PanelName(BaseModel):
    panel: str
    name: str
    switches: int
    x: float
    y: float


class CabsShape(BaseModel):
    words: str
    sources: list[SourceShape]
    driven: list[DrivenShape]
    selectors: list[SelectorShape]
    meetings: list[MeetingShape]
    stretches: list[StretchShape]
    panels: list[PanelName]
    three_rail: bool
    reach_text: str
    bare_gaps: list[MeetingShape]


def cabs_shape(facts: Facts) -> CabsShape:
    """Everything of step Cabs, as selectors lie in the scene."""
    layout, units = facts.layout, facts.layout.brief.units
    order = sorted(
        (i for i, d in layout.devices.items() if d.kind in SOURCES), key=lambda i: natural(layout.devices[i].name)
    )
    ink = {i: INKS[k % len(INKS)] for k, i in enumerate(order)}
    driven, lengths = _driven(facts, ink)
    waits = sum(d.end - d.start for d in driven if d.waits)
    dead = sum(d.end - d.start for d in driven if d.source is None and not d.waits)
    tail = [
        f"{print_long_length(waits, units)} switched off" if waits else "",
        f"{print_long_length(dead, units)} fed by nothing" if dead else "",
    ]
    meetings = _meetings(facts)
    reach = longest_reach(layout)
    return CabsShape(
        words="; ".join(t for t in tail if t) or "All track is driven.",
        sources=[_source(facts, i, ink[i], lengths[i]) for i in order],
        driven=driven,
        selectors=_selectors(facts, ink),
        meetings=[m for m in meetings if not m.grave],
        bare_gaps=[m for m in meetings if m.grave],
        stretches=_stretches(facts),
        panels=[
            PanelName(
                panel=i,
                name=p.name,
                switches=sum(d.panel == i and d.gang is None for d in layout.devices.values()),
                x=p.at.x,
                y=p.at.y,
            )
            for i, p in layout.panels.items()
        ],
        three_rail=any(has_three_rails(layout, t) for t in layout.tracks.values()),
        reach_text=f"{print_length(reach.millimetres, units)}, {reach.whose}{' (a guess)' if reach.guess else ''}",
    )


def _in_order(facts: Facts) -> list[tuple[str, Device]]:
    found = [(i, d) for i, d in facts.layout.devices.items() if d.kind == "selector"]
    return sorted(found, key=lambda e: (e[1].gang is not None, natural(e[1].name)))


def _source(facts: Facts, i: str, ink: str, length: float) -> SourceShape:
    layout, device = facts.layout, facts.layout.devices[i]
    amps = gives(layout, i)
    control = control_given(layout, device)
    return SourceShape(
        device=i,
        name=device.name,
        word=word_of(layout, device),
        control=control,
        control_text=CONTROL[control],
        ink=ink,
        volts_text=print_volts(source_volts(layout, i)),
        amps_text=print_current(amps) if amps else "amps not known",
        winding=device.winding,
        drives_text=print_long_length(length, layout.brief.units),
    )


def _driven(facts: Facts, ink: dict[str, str]) -> tuple[list[DrivenShape], dict[str, float]]:
    layout, lengths = facts.layout, dict.fromkeys(ink, 0.0)
    chosen = {d.output for d in layout.devices.values() if d.kind == "selector"}
    found: list[DrivenShape] = []
    first: dict[object, int] = {}
    for row, span in enumerate(facts.points.span.tolist()):
        first.setdefault(facts.network.spans[span].piece, row)
    for number, extent in enumerate(facts.rails.extents):
        circuit = facts.meant[number]
        source = facts.tree.source(circuit) if circuit is not None else None
        above = set(facts.tree.lineage(circuit)) if circuit is not None else set()
        for p in extent:
            i = source[0] if source is not None else None
            if i is not None:
                lengths[i] += p.end - p.start
            moves = None
            if source is not None and control_given(layout, source[1]) == "dc":
                row = first.get(p, -1)
                part = int(facts.part_of[row]) if row >= 0 else -1
                if part >= 0 and math.isfinite(float(facts.volts[row])):
                    sign = float(facts.parts[part].sign[int(facts.row_in_part[row])])
                    moves = "a" if sign > 0 else "b"
            found.append(
                DrivenShape(
                    track=p.track,
                    start=round(p.start, 1),
                    end=round(p.end, 1),
                    source=i,
                    ink=ink[i] if i is not None else "",
                    moves=moves,
                    waits=i is None and bool(above & chosen),
                )
            )
    return found, lengths


SPREAD = (0.5, 0.35, 0.65, 0.22, 0.78)
"""Where along its block a lever may stand, the middle first."""


def _selectors(facts: Facts, ink: dict[str, str]) -> list[SelectorShape]:
    """Every selector, its lever on the plan where it is farthest from those before it."""
    found: list[SelectorShape] = []
    placed: list[tuple[float, float]] = []
    for i, device in _in_order(facts):
        mine = [p for n, e in enumerate(facts.rails.extents) if facts.meant[n] == device.output for p in e]
        widest = max(mine, key=lambda p: (p.end - p.start, p.track), default=None)
        spot: tuple[float, float] | None = None
        if widest is not None and device.gang is None:
            places = [
                point_on_track(facts.layout, widest.track, widest.start + share * (widest.end - widest.start))
                for share in SPREAD
            ]
            spot = max(places, key=lambda q: min([APART_MM, *(math.dist(q, p) for p in placed)]))
            placed.append(spot)
        length = sum(p.end - p.start for p in mine)
        found.append(_selector(facts, i, device, ink, length, spot))
    return found


def _selector(
    facts: Facts, i: str, device: Device, ink: dict[str, str], length: float, spot: tuple[float, float] | None
) -> SelectorShape:
    layout = facts.layout

    def inked(circuit: str) -> str:
        source = facts.tree.source(circuit)
        return ink[source[0]] if source is not None else layout.circuits[circuit].ink

    lever = layout.devices[device.gang].name if device.gang is not None else None
    hint = f"on the lever of {lever}" if lever else device.made
    return SelectorShape(
        device=i,
        name=device.name,
        block=layout.circuits[device.output].name,
        lies=device.input,
        ways=[WayShape(circuit=c, name=layout.circuits[c].name, ink=inked(c)) for c in device.inputs],
        made=device.made,
        lever=lever,
        length_text=print_long_length(length, layout.brief.units),
        panel=layout.panels[device.panel].name if device.panel else None,
        hint=hint,
        x=None if spot is None else round(spot[0], 1),
        y=None if spot is None else round(spot[1], 1),
    )


def _meetings(facts: Facts) -> list[MeetingShape]:
    """Gaps with two sources on their two sides as selectors lie."""
    layout, found = facts.layout, []
    seen: set[tuple[str, float]] = set()
    for i, gap in layout.gaps.items():
        at = facts.rails.cut_at[i]
        if (gap.track, at) in seen:
            continue
        seen.add((gap.track, at))
        pieces = [facts.rails.piece_at(gap.track, at + d) for d in (-1.0, 1.0)]
        circuits = [facts.meant[facts.rails.extent_of[p]] for p in pieces]
        sources = [None if c is None else facts.tree.source(c) for c in circuits]
        if sources[0] is None or sources[1] is None or sources[0][0] == sources[1][0]:
            continue
        kinds = [control_given(layout, s[1]) for s in sources if s is not None]
        if set(kinds) == {"dcc"}:
            continue  # boosters of one railroad run in phase: a train rolls over
        names = [s[1].name for s in sources if s is not None]
        x, y = point_on_track(layout, gap.track, at)
        grave = kinds[0] != kinds[1]
        words = f"{names[0]} and {names[1]} meet here" + (
            ": no train may bridge it" if grave else ": set both sides alike before a train runs over"
        )
        met = None if grave else crossing(facts, gap.track, at)
        if met is not None:
            words += f"; with one full and the other down {print_current(met.unlike)} go through its pickups"
        found.append(
            MeetingShape(x=round(x, 1), y=round(y, 1), track=gap.track, at=round(at, 1), words=words, grave=grave)
        )
    return found


def _stretches(facts: Facts) -> list[StretchShape]:
    layout, units = facts.layout, facts.layout.brief.units
    found = []
    for i, b in layout.braking.items():
        held = f", lifted by {layout.signals[b.held_by].name}" if b.held_by else ""
        found.append(
            StretchShape(
                kind="braking",
                id=i,
                name=b.name,
                track=b.track,
                start=b.start,
                end=b.end,
                side=-1 if b.rail == "left" else 1,
                words=f"{b.rail} rail, {print_length(b.length, units)}, {b.module}{held}",
            )
        )
    for i, r in layout.isolated.items():
        found.append(
            StretchShape(
                kind="isolated",
                id=i,
                name=r.name,
                track=r.track,
                start=r.start,
                end=r.end,
                side=-1 if r.outer == "left" else 1,
                words=f"{r.outer} outer, {print_length(r.length, units)}, works {r.works}",
            )
        )
    return found


class CabBlockShape(BaseModel):
    name: str
    length_text: str
    switch: str
    why: str
    ink: str


class CabBlocksShape(BaseModel):
    """Blocks for cabs proposed, and the change that makes them."""

    words: list[str]
    blocks: list[CabBlockShape]
    cuts: list[LotCut]
    inks: list[LotInk]
    left_out: list[str]
    change: MendShape


def cab_blocks_shape(proposal: CabProposal) -> CabBlocksShape:
    """A proposal of blocks as the page shows it."""
    plan, after = proposal.plan, proposal.after
    units = after.brief.units
    parked = sum(b.parent is not None for b in plan.blocks)
    count = len(plan.blocks) - parked
    ink = {b.extent: INKS[k % len(INKS)] for k, b in enumerate(plan.blocks)}
    words = [
        f"{count} block{'s' if count != 1 else ''} and {parked} siding switch{'es' if parked != 1 else ''} for "
        f"{len(proposal.cabs)} cab{'s' if len(proposal.cabs) != 1 else ''}; {len(plan.cuts)} gaps, gaps in "
        f"{plan.school}.",
        f"{print_long_length(proposal.wire, units)} of wire from {after.panels[proposal.panel].name} to the blocks.",
    ]
    if count <= len(proposal.cabs):
        words.append("No more blocks than cabs: no train can move into a free one. Shorter blocks give more.")
    cuts = []
    for cut in plan.cuts:
        x, y = point_on_track(after, cut.track, cut.at)
        rails = "both rails" if cut.rails == "both" else f"the {cut.rails} rail"
        cuts.append(LotCut(x=round(x, 1), y=round(y, 1), words=f"{rails}: {cut.why}"))
    return CabBlocksShape(
        words=words,
        blocks=[
            CabBlockShape(
                name=b.name,
                length_text=print_length(b.holds, units),
                switch=after.devices[s].made if b.parent is None else "on–off, one rail",
                why=b.why,
                ink=ink[b.extent],
            )
            for b, s in zip(plan.blocks, proposal.selectors, strict=True)
        ],
        cuts=cuts,
        inks=[
            LotInk(track=p.track, start=p.start, end=p.end, ink=ink[b.extent])
            for b in plan.blocks
            for p in plan.rails.extents[b.extent]
        ],
        left_out=list(plan.left_out),
        change=MendShape(label="Block it for cabs", patch=list(proposal.patch)),
    )


class ControlOffer(BaseModel):
    """A change offered, with why it is as it is; inks: what it does, on the plan."""

    words: list[str]
    inks: list[LotInk]
    change: MendShape


def link_shape(facts: Facts, link: Link) -> ControlOffer:
    layout, units = facts.layout, facts.layout.brief.units
    name = layout.circuits[layout.devices[link.selector].output].name
    many = len(link.buffers)
    words = [
        f"{layout.devices[link.selector].name} then chooses from {', '.join(link.ways)}, or off.",
        f"{many} buffer{'s' if many != 1 else ''} of {print_length(link.buffers[0][2] - link.buffers[0][1], units)} on "
        f"its lever: longer than {link.reach.whose} picks up ({print_length(link.reach.millimetres, units)}"
        f"{', a guess' if link.reach.guess else ''}), dead unless the block is of the control beyond.",
        f"{print_length(max(link.room, 0.0), units)} of {name} are left for a train to stand in while the lever is "
        "thrown.",
    ]
    inks = [LotInk(track=t, start=a, end=b, ink=INKS[3]) for t, a, b in link.buffers]
    return ControlOffer(
        words=words, inks=inks, change=MendShape(label=f"{name} of either control", patch=list(link.patch))
    )


def stops_shape(facts: Facts, stops: Stops, label: str, places: list[tuple[str, float, float]]) -> ControlOffer:
    units = facts.layout.brief.units
    words = [
        f"{print_length(stops.length, units)} each: {stops.train} comes in whole and stands after "
        f"{print_length(stops.stopping, units)} of slowing down, widened by a third. Stopping distances are reckoned "
        "from scale speed: measure one and set the decoder.",
        "One rail is cut at both ends and fed through the module alone.",
    ]
    if stops.moved:
        words.append(f"{', '.join(stops.moved)} {'moves' if len(stops.moved) == 1 else 'move'} out of the stretch.")
    inks = [LotInk(track=t, start=a, end=b, ink=INKS[1]) for t, a, b in places]
    return ControlOffer(words=words, inks=inks, change=MendShape(label=label, patch=list(stops.patch)))


def isolated_shape(facts: Facts, made: Isolated, works: str) -> ControlOffer:
    units = facts.layout.brief.units
    value = next(o["value"] for o in made.patch if o["path"] == f"/isolated/{made.rail}")
    words = [
        f"{print_length(made.length, units)} of one outer: {made.why}.",
        "Both its ends are cut, it has no feeder, and one wire goes from it to what it works. The other outer carries "
        "the return alone there.",
    ]
    ink = LotInk(track=value["track"], start=value["at"], end=value["at"] + value["length"], ink=INKS[1])
    return ControlOffer(
        words=words, inks=[ink], change=MendShape(label=f"Isolated rail for {works}", patch=list(made.patch))
    )


def loops_shape(facts: Facts, loops: Loops) -> ControlOffer:
    units = facts.layout.brief.units
    words = [
        f"{loops.gaps} new gap{'s' if loops.gaps != 1 else ''} in the centre rail; outers run through.",
        *(f"{name}, {print_long_length(length, units)}: {source}." for name, length, source in loops.given),
    ]
    return ControlOffer(
        words=words, inks=[], change=MendShape(label="A throttle for each loop", patch=list(loops.patch))
    )


def spans_of(patch: list[dict[str, object]]) -> list[tuple[str, float, float]]:
    """Track, start and end of the braking sections a change adds."""
    found: dict[str, list[tuple[str, float, float]]] = defaultdict(list)
    for o in patch:
        value = o.get("value")
        if str(o["path"]).startswith("/braking/") and isinstance(value, dict):
            at, length = float(value["at"]), float(value["length"])
            found["braking"].append((str(value["track"]), at, at + length))
    return found["braking"]
