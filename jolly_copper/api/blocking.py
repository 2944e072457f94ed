"""Step Detect, Block it: sections, boards and addresses proposed, as lines of JSON while they are worked out."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from fastapi import APIRouter, Query
from fastapi.responses import StreamingResponse
from pydantic import BaseModel

from jolly_copper.api.detection import INKS
from jolly_copper.api.shapes import MendShape
from jolly_copper.api.streaming import Tell, streamed
from jolly_copper.api.used import Scene, StoreUsed, WorkedUsed
from jolly_copper.core.circuits.lengths import point_on_track
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.proposals.blocking.lots import NAMED
from jolly_copper.core.proposals.blocking.make import (
    Blocking,
    make_blocks,
    propose_blocks,
    with_wishes,
)
from jolly_copper.core.quantities import print_length, print_long_length

router = APIRouter(prefix="/api")


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


@router.get("/layouts/{layout_id}/blocking", response_model=BlockingShape)
def blocking(
    layout_id: str,
    store: StoreUsed,
    worked: WorkedUsed,
    scene: Scene = None,
    revision: int | None = None,
    per_block: Annotated[int, Query(ge=1, le=3)] = 1,
    gaps: Literal["one rail", "both rails"] = "one rail",
    sensed: Literal["A", "B"] = "A",
    kind: Literal["current transformer", "diode drop", "opto", "isolated rail"] = "current transformer",
    channels: Annotated[int, Query(ge=1, le=64)] = 8,
    spare: Annotated[float, Query(ge=0, le=1, allow_inf_nan=False)] = 0.1,
    first_address: Annotated[int, Query(ge=1, le=9999)] = 1,
    shortest: Annotated[float | None, Query(ge=100, le=1e5, allow_inf_nan=False)] = None,
    stopping: Annotated[float | None, Query(ge=0, le=1e5, allow_inf_nan=False)] = None,
) -> StreamingResponse:
    """Blocks proposed: lines of JSON with what is being worked out, then one with `answer`."""
    found = store.get(layout_id, revision)
    layout = found.layout

    def work(tell: Tell) -> BlockingShape:
        wishes: dict[str, Any] = {
            "per_block": per_block,
            "gaps": gaps,
            "sensed": sensed,
            "kind": kind,
            "channels": channels,
            "spare": spare,
            "first_address": first_address,
            "shortest_block": shortest,
        }
        wished = with_wishes(layout, stopping, **wishes)
        tell({"doing": "cuts, blocks and boards"})
        proposal = propose_blocks(wished)
        patch = make_blocks(wished, proposal, lambda doing: tell({"doing": doing}))
        keep = [{"op": "replace", "path": "/brief/detecting", "value": wished.brief.detecting.model_dump(mode="json")}]
        if wished.brief.signalling != layout.brief.signalling:
            keep.append(
                {"op": "replace", "path": "/brief/signalling", "value": wished.brief.signalling.model_dump(mode="json")}
            )
        return _blocking_shape(wished, proposal, [*keep, *patch])

    return streamed(work, "The blocks")


def _blocking_shape(layout: Layout, proposal: Blocking, patch: list[dict[str, Any]]) -> BlockingShape:
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
    words = [
        f"{blocks} blocks, {len(plan.lots)} detection sections",
        f"{len(plan.cuts)} new gaps",
        f"{proposal.boards} boards, {proposal.channels - used} channels spare",
        f"addresses {layout.brief.detecting.first_address} to "
        f"{layout.brief.detecting.first_address + proposal.channels - 1}",
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
