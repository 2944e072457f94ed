"""What is told of blocking: sections, boards and addresses proposed, and the change that makes them."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel

from jolly_copper.core.circuits.lengths import point_on_track
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.proposals.blocking.lots import NAMED
from jolly_copper.core.proposals.blocking.make import (
    Blocking,
)
from jolly_copper.core.quantities import print_length, print_long_length
from jolly_copper.core.signals.numbering import begins, numbers_taken
from jolly_copper.telling.detection import INKS
from jolly_copper.telling.shapes import MendShape


class LotShape(BaseModel):
    """A detection section proposed."""

    name: str
    block: str
    role: str
    length_text: str
    district: str
    board: int
    """Number of the board its channel is on, from 1; 0 for none."""
    why: str


class LotCut(BaseModel):
    x: float
    y: float
    words: str
    new: bool = True


class LotInk(BaseModel):
    track: str
    start: float
    end: float
    ink: str


class BlockingShape(BaseModel):
    """Blocks proposed, and the change that makes them."""

    words: list[str]
    lots: list[LotShape]
    cuts: list[LotCut]
    inks: list[LotInk]
    blind: list[str]
    bound_text: str
    change: MendShape


def blocking_shape(layout: Layout, proposal: Blocking, patch: list[dict[str, Any]]) -> BlockingShape:
    units, plan = layout.brief.units, proposal.plan
    board_of: dict[int, int] = {}
    boards = sorted(
        (
            (min(g.lots[m] for m in members), [g.lots[m] for m in members])
            for g in proposal.groups
            for members in g.packing.members
        ),
        key=lambda b: b[0],
    )
    for number, (_, lots) in enumerate(boards, start=1):
        for n in lots:
            board_of[n] = number
    shapes = [
        LotShape(
            name=x.name,
            block=x.block,
            role=x.role,
            length_text=print_length(x.length, units),
            why=x.why,
            board=board_of.get(n, 0),
            district=layout.circuits[x.circuit].name if x.circuit else "fed by nothing yet",
        )
        for n, x in enumerate(plan.lots)
    ]
    cuts = []
    for c in plan.cuts:
        x, y = point_on_track(layout, c.track, c.at)
        rails = "both rails" if c.rails == "both" else f"the {c.rails} rail"
        cuts.append(LotCut(x=round(x, 1), y=round(y, 1), words=f"{layout.tracks[c.track].name}, {rails}: {c.why}"))
    inks = [
        LotInk(track=p.track, start=p.start, end=p.end, ink=INKS[n % len(INKS)])
        for n, lot in enumerate(plan.lots)
        for number in lot.extents
        for p in plan.rails.extents[number]
    ]
    blocks = len({x.block for x in plan.lots})
    used = len(plan.lots) - len(proposal.unfed)
    wishes = layout.brief.detecting
    first = begins(wishes.first_address, wishes)
    words = [
        f"{blocks} blocks, {len(plan.lots)} detection sections",
        f"{len(plan.cuts)} new gaps",
        f"{proposal.boards} boards, {proposal.channels - used} channels spare",
        f"addresses {first} to {first + proposal.boards * numbers_taken(wishes.channels, wishes) - 1}",
    ]
    if proposal.unfed:
        words.append(f"{len(proposal.unfed)} sections are fed by nothing and get no channel")
    gap = (proposal.wire - proposal.bound) / proposal.wire if proposal.wire else 0.0
    proved = (
        "No sharing out has less wire."
        if gap < 1e-3
        else f"No sharing out on so many boards has over {gap * 100:.0f} % less wire."
    )
    home = f"{print_long_length(proposal.wire, units)} from sections to boards along the boards. {proved}"
    blind = sorted(
        {
            f"{layout.tracks[max(plan.rails.extents[n], key=lambda p: p.end - p.start).track].name}: {why}"
            for n, why in plan.blind
            if "too short" not in why
        }
    )
    return BlockingShape(
        words=words,
        lots=shapes,
        cuts=cuts,
        inks=inks,
        blind=blind,
        bound_text=f"{home} {NAMED}",
        change=MendShape(label=f"Block it: {blocks} blocks on {proposal.boards} boards", patch=patch),
    )
