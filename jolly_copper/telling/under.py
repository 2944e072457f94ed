"""What is told to a phone under the boards: tasks of every board, and what helpers did."""

from __future__ import annotations

from collections.abc import Callable
from typing import Literal

from pydantic import BaseModel

from jolly_copper.core.wirebook.craft import CARDS
from jolly_copper.core.wirebook.sketch import Sketch
from jolly_copper.core.wirebook.task import Task, TaskKind
from jolly_copper.store import Entry


class RowShape(BaseModel):
    heading: str
    words: str


class NumberShape(BaseModel):
    """A number the railroad should report, and what it tells of."""

    number: int
    words: str


class TaskShape(BaseModel):
    key: str
    kind: TaskKind
    label: str
    colours: list[str]
    rows: list[RowShape]
    meter: str
    numbers: list[NumberShape]
    told: str
    """A mark of all it says: another one means that the work changed since."""


class BoardShape(BaseModel):
    key: str
    name: str
    after: list[str]
    tasks: list[TaskShape]


class DoneShape(BaseModel):
    """What counts for a task. `open`: it was taken back."""

    task: str
    state: Literal["wired", "tested", "trouble", "open"]
    note: str
    reading: str
    who: str
    done: str
    told: str


class CraftShape(BaseModel):
    """How a kind of job is done: a card of its own screen, with a drawing."""

    key: str
    title: str
    says: list[str]
    caution: str
    svg: str
    kinds: list[TaskKind]


class UnderShape(BaseModel):
    layout: str
    name: str
    revision: int
    cautions: list[str]
    lifts: bool
    """Whether there are boards to set up at a show."""
    boards: list[BoardShape]
    work: list[DoneShape]
    craft: list[CraftShape]


def craft(drawn: Callable[[Sketch, str], str]) -> list[CraftShape]:
    """Every craft card. drawn: makes a sketch SVG, under a name of its own."""
    return [
        CraftShape(
            key=c.key,
            title=c.title,
            says=list(c.says),
            caution=c.caution,
            svg=drawn(c.sketch, f"craft-{c.key}"),
            kinds=list(c.kinds),
        )
        for c in CARDS
    ]


def task(task: Task) -> TaskShape:
    rows = [RowShape(heading=h, words=w) for h, w in task.rows]
    return TaskShape(
        key=task.key,
        kind=task.kind,
        label=task.label,
        colours=list(task.colours or ()),
        rows=rows,
        meter=task.meter,
        numbers=[NumberShape(number=n, words=w) for n, w in task.numbers],
        told=task.told,
    )


def done(entry: Entry) -> DoneShape:
    return DoneShape(
        task=entry.task,
        state=entry.state,
        note=entry.note,
        reading=entry.reading,
        who=entry.who,
        done=entry.done,
        told=entry.told,
    )
