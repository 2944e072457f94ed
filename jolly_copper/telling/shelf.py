"""What is told of the layouts: one at a glance, deleted ones, versions, two states compared."""

from __future__ import annotations

from pydantic import BaseModel

from jolly_copper.core.comparing import How
from jolly_copper.core.plan_picture import Picture


class MarkShape(BaseModel):
    kind: str
    id: str
    how: str
    path: str
    spot: bool


class PictureShape(BaseModel):
    """A small picture of the plan: left, top, width and height of what is seen, mm, and its marks."""

    box: list[float]
    marks: list[MarkShape]


def drawn(picture: Picture) -> PictureShape:
    return PictureShape(box=list(picture.box), marks=[MarkShape(**vars(m)) for m in picture.marks])


class CardShape(BaseModel):
    """A layout at a glance: how large it is, its plan, and what would be lost with it."""

    tracks: int
    length_text: str
    pairs: int
    logged: int
    versions: int
    way_back_days: int
    picture: PictureShape


class DeletedShape(BaseModel):
    id: str
    name: str
    deleted: str
    gone: str


class VersionShape(BaseModel):
    number: int
    name: str
    note: str
    who: str
    made: str


class DifferenceShape(BaseModel):
    kind: str
    id: str
    how: How
    name: str
    words: list[str]


class OutcomeShape(BaseModel):
    name: str
    before: str
    after: str


class ComparisonShape(BaseModel):
    """What differs between two states, and what that does."""

    before: str
    after: str
    differences: list[DifferenceShape]
    outcomes: list[OutcomeShape]
    settled: list[str]
    new: list[str]
    shared: int
    picture: PictureShape
