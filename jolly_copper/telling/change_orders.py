"""What is told of a change order: evenings with their jobs, and what runs in between."""

from __future__ import annotations

from pydantic import BaseModel


class JobShape(BaseModel):
    key: str
    kind: str
    thing: str
    label: str
    words: str
    board: str


class EveningShape(BaseModel):
    number: int
    hours_text: str
    running: float
    running_text: str
    dark_text: str
    jobs: list[JobShape]


class ChangeOrderShape(BaseModel):
    before: int
    after: int
    running_before_text: str
    evenings: list[EveningShape]
