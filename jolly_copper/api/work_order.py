"""Where the work stands, step by step, and what to do next."""

from __future__ import annotations

from fastapi import APIRouter
from pydantic import BaseModel

from jolly_copper.api.shapes import PlaceShape
from jolly_copper.api.used import Scene, StoreUsed, WorkedUsed, known_scene
from jolly_copper.core.work_order import Condition, Standing, StepName, Urgency, next_step, work_order
from jolly_copper.store.work import work_of

router = APIRouter(prefix="/api")


class NextShape(BaseModel):
    """What to do next at a step, and where."""

    words: str
    urgency: Urgency
    place: PlaceShape | None
    finding: str | None


class StandingShape(BaseModel):
    """How one step stands."""

    step: StepName
    condition: Condition
    must: bool
    reason: str
    act: NextShape | None


class WorkOrderShape(BaseModel):
    """Every step in the order the work is best done; `next` is the one to go on with."""

    revision: int
    steps: list[StandingShape]
    next: StepName | None


def _standing(s: Standing) -> StandingShape:
    place = PlaceShape(**vars(s.act.place)) if s.act and s.act.place else None
    act = NextShape(words=s.act.words, urgency=s.act.urgency, place=place, finding=s.act.finding) if s.act else None
    return StandingShape(step=s.step, condition=s.condition, must=s.must, reason=s.reason, act=act)


@router.get("/layouts/{layout_id}/work-order")
def standing(
    layout_id: str, store: StoreUsed, worked: WorkedUsed, scene: Scene = None, revision: int | None = None
) -> WorkOrderShape:
    """How every step stands in a scene. Work done under the boards counts as it is now."""
    found = store.get(layout_id, revision)
    done = sum(e.state in ("wired", "tested") for e in work_of(store, layout_id).values())

    name = known_scene(found, scene)
    steps = work_order(worked.facts(found, name), worked.findings(found, name), done)
    onward = next_step(steps)
    return WorkOrderShape(
        revision=found.number, steps=[_standing(s) for s in steps], next=onward.step if onward else None
    )
