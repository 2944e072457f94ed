"""Step Detect, Block it: sections, boards and addresses proposed, as lines of JSON while they are worked out."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from fastapi import APIRouter, Query
from fastapi.responses import StreamingResponse

from jolly_copper.api.streaming import Tell, streamed
from jolly_copper.api.used import Scene, StoreUsed, WorkedUsed
from jolly_copper.core.proposals.blocking.make import (
    make_blocks,
    propose_blocks,
    with_wishes,
)
from jolly_copper.telling.blocking import BlockingShape, blocking_shape

router = APIRouter(prefix="/api")


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
        return blocking_shape(wished, proposal, [*keep, *patch])

    return streamed(work, "The blocks")
