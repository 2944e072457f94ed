"""What is told of where the work stands, step by step."""

from __future__ import annotations

from pydantic import BaseModel

from jolly_copper.core.work_order import Condition, Standing, StepName, Urgency
from jolly_copper.telling.shapes import PlaceShape


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


def standing_told(s: Standing) -> StandingShape:
    place = PlaceShape(**vars(s.act.place)) if s.act and s.act.place else None
    act = NextShape(words=s.act.words, urgency=s.act.urgency, place=place, finding=s.act.finding) if s.act else None
    return StandingShape(step=s.step, condition=s.condition, must=s.must, reason=s.reason, act=act)
