"""What is told of offers for cabs: blocks with selectors, a link between controls, stops, isolated rails and loops."""

from __future__ import annotations

from collections import defaultdict

from pydantic import BaseModel

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.lengths import point_on_track
from jolly_copper.core.proposals.cabs.link import Link
from jolly_copper.core.proposals.cabs.make import CabProposal
from jolly_copper.core.proposals.cabs.stops import Stops
from jolly_copper.core.proposals.cabs.three_rail import Isolated, Loops
from jolly_copper.core.quantities import print_length, print_long_length
from jolly_copper.telling.blocking import LotCut, LotInk
from jolly_copper.telling.cabs import INKS
from jolly_copper.telling.shapes import MendShape


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
