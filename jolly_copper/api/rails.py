"""Routes about what the rails tell: phase as fed, sections, where trains come back, dead track, reversing proposals."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, HTTPException, Query, Response
from fastapi.responses import StreamingResponse

from jolly_copper.api.streaming import Tell, streamed
from jolly_copper.api.used import Scene, StoreUsed, WorkedUsed, as_json, known_scene
from jolly_copper.core.proposals.dead_track import DeadStretch, dead_stretches
from jolly_copper.core.proposals.reversing import words
from jolly_copper.core.proposals.reversing.accept import make_sections
from jolly_copper.core.proposals.reversing.choose import places, propose
from jolly_copper.telling.rails import (
    DeadList,
    Proposed,
    RailsShape,
    dead,
    group,
    label,
    rails_shape,
)
from jolly_copper.telling.shapes import MendShape

router = APIRouter(prefix="/api")


@router.get("/layouts/{layout_id}/rails", response_model=RailsShape)
def rails(
    layout_id: str, store: StoreUsed, worked: WorkedUsed, scene: Scene = None, revision: int | None = None
) -> Response:
    found = store.get(layout_id, revision)
    facts = worked.facts(found, known_scene(found, scene))
    return as_json(rails_shape(facts, found.number))


@router.get("/layouts/{layout_id}/dead-track", response_model=DeadList)
def dead_track(
    layout_id: str, store: StoreUsed, worked: WorkedUsed, scene: Scene = None, revision: int | None = None
) -> StreamingResponse:
    """Every stretch that some setting leaves dead for a train that may stand on it, with the fewest cuts and feeders
    that mend it: a line of JSON with `found`, `done` and `total` for each, then one with `answer`."""
    found = store.get(layout_id, revision)
    facts = worked.facts(found, known_scene(found, scene))

    def work(tell: Tell) -> DeadList:
        if not facts.layout.feeders:
            return DeadList(stretches=[])

        def told(stretch: DeadStretch, done: int, total: int) -> None:
            tell({"found": dead(stretch).model_dump(mode="json"), "done": done, "total": total})

        return DeadList(stretches=[dead(d) for d in dead_stretches(facts, told)])

    return streamed(work, "Dead track")


@router.get("/layouts/{layout_id}/reversing", response_model=Proposed)
def reversing(
    layout_id: str,
    store: StoreUsed,
    worked: WorkedUsed,
    revision: int | None = None,
    train: Annotated[float | None, Query(gt=0, le=1e5, allow_inf_nan=False)] = None,
    keep: Annotated[list[str] | None, Query(max_length=100)] = None,
    refuse: Annotated[list[str] | None, Query(max_length=100)] = None,
) -> StreamingResponse:
    """Reversing sections worked out: a line of JSON with `done` and `total` for each step, then one with `answer`."""
    found = store.get(layout_id, revision)
    facts = worked.facts(found, None)

    def work(tell: Tell) -> Proposed:
        groups = propose(
            facts.topology,
            train=train,
            keep=keep or (),
            refuse=refuse or (),
            progress=lambda done, total: tell({"done": done, "total": total}),
        )
        length = train or facts.topology.longest_train()
        return Proposed(
            train=length,
            train_text=words.longest_words(facts.layout, length),
            control=words.control_words(facts.topology),
            groups=[group(facts, g, length, set(keep or ())) for g in groups],
        )

    return streamed(work, "The proposal")


@router.get("/layouts/{layout_id}/reversing/change")
def reversing_change(
    layout_id: str,
    store: StoreUsed,
    worked: WorkedUsed,
    key: Annotated[list[str], Query(max_length=40)],
    revision: int | None = None,
    train: Annotated[float | None, Query(gt=0, le=1e5, allow_inf_nan=False)] = None,
    by_hand: bool = False,
) -> MendShape:
    """The change that makes reversing sections at these places: gaps, sections, reversers, their wires and feeders."""
    found = store.get(layout_id, revision)
    facts = worked.facts(found, None)
    known = places(facts.topology, train)
    missing = [k for k in key if k not in known]
    if missing:
        raise HTTPException(422, "The track has changed since this was proposed; look at the proposals again.")
    sections = [known[k] for k in key]
    titles = [words.title(facts.topology, s) for s in sections]
    return MendShape(label=label(titles), patch=make_sections(facts.layout, sections, train, by_hand))
