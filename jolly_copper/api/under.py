"""Routes of the phone view: the work of every board, and what helpers did, metered or stumbled on."""

from __future__ import annotations

import re
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Response
from pydantic import AfterValidator, BaseModel, Field, StringConstraints, ValidationError

from jolly_copper.api.files import download
from jolly_copper.api.used import Scene, StoreUsed, WorkedUsed, as_json, known_scene
from jolly_copper.core.layout.benchwork import lifting_boards
from jolly_copper.core.layout.reading import in_words
from jolly_copper.core.wirebook.building import CAUTIONS
from jolly_copper.exchange.sketch_svg import sketch_svg
from jolly_copper.exchange.work_csv import work_csv
from jolly_copper.store import Entry, add_work, work_log, work_of
from jolly_copper.telling.typed import Line, Moment, RowId
from jolly_copper.telling.under import BoardShape, DoneShape, UnderShape, craft, done, task

router = APIRouter(prefix="/api/layouts/{layout_id}")


def _a_task(text: str) -> str:
    kind, _, thing = text.partition(":")
    if not re.fullmatch(r"[a-z][a-z-]{1,19}", kind) or not 1 <= len(thing) <= 120 or not thing.isprintable():
        raise ValueError(f"“{text[:40]}” is no task of a wire book")
    return text


class EntryShape(BaseModel):
    """An entry as a phone sends it; sent twice, it is kept once."""

    id: RowId
    task: Annotated[str, StringConstraints(max_length=140), AfterValidator(_a_task)]
    state: Literal["wired", "tested", "trouble", "open"]
    note: Annotated[str, StringConstraints(max_length=500, strip_whitespace=True)] = ""
    reading: Line = ""
    who: Line = ""
    done: Moment
    told: Annotated[str, StringConstraints(max_length=32)] = ""


class Sent(BaseModel):
    """Entries as `EntryShape`. Each is looked at by itself, so that a bad one does not keep the others back."""

    entries: Annotated[list[dict[str, Any]], Field(min_length=1, max_length=1000)]


class RefusedEntry(BaseModel):
    """An entry that cannot be taken, by its place among those sent and its id, and why not."""

    place: int
    id: str
    why: str


class TakenShape(BaseModel):
    """What counts for each task now, and the entries that were not taken."""

    work: list[DoneShape]
    refused: list[RefusedEntry]


@router.get("/under", response_model=UnderShape)
def under(layout_id: str, store: StoreUsed, worked: WorkedUsed, scene: Scene = None) -> Response:
    """All boards in the order of building with every task, and what is done: enough to go on without a connection."""
    found = store.get(layout_id)
    parts = worked.wirebook(found, known_scene(found, scene))
    return as_json(
        UnderShape(
            layout=layout_id,
            name=found.layout.name,
            revision=found.number,
            cautions=list(CAUTIONS),
            lifts=bool(lifting_boards(found.layout)),
            work=[done(e) for e in work_of(store, layout_id).values()],
            craft=craft(sketch_svg),
            boards=[
                BoardShape(key=b.key, name=b.name, after=list(b.after), tasks=[task(t) for t in b.tasks])
                for b in parts.tasks
            ],
        )
    )


@router.get("/work")
def work(layout_id: str, store: StoreUsed) -> list[DoneShape]:
    """What counts for each task anybody did something to."""
    store.get(layout_id)
    return [done(e) for e in work_of(store, layout_id).values()]


@router.post("/work")
def send_work(layout_id: str, sent: Sent, store: StoreUsed) -> TakenShape:
    """Keeps entries, and answers what counts now. Nothing of it changes the layout, so it is no change of it."""
    taken: list[Entry] = []
    refused: list[RefusedEntry] = []
    for place, entry in enumerate(sent.entries):
        try:
            taken.append(Entry(**EntryShape.model_validate(entry).model_dump()))
        except ValidationError as error:
            problem = in_words(error.errors()[0])
            field = problem.path.strip("/") or "entry"
            why = f"{FIELD_NAMES.get(field, field)}: {problem.sentence}"
            refused.append(RefusedEntry(place=place, id=str(entry.get("id", ""))[:60], why=why))
    add_work(store, layout_id, taken)
    return TakenShape(work=[done(e) for e in work_of(store, layout_id).values()], refused=refused)


FIELD_NAMES = {"done": "Time", "task": "Task", "note": "Note", "reading": "Reading", "who": "Name", "state": "State"}


@router.get("/work/log")
def log(layout_id: str, store: StoreUsed) -> list[DoneShape]:
    """The newest entries, newest first."""
    store.get(layout_id)
    return [done(e) for e in work_log(store, layout_id)]


@router.get("/files/work.csv")
def work_file(layout_id: str, store: StoreUsed) -> Response:
    """Who did what and when, as a table."""
    found = store.get(layout_id)
    rows = [(e.done, e.who, e.task, e.state, e.reading, e.note) for e in work_log(store, layout_id, 100_000)]
    return download(work_csv(found.layout.name, rows), "text/csv; charset=utf-8", f"{layout_id}-work.csv")
