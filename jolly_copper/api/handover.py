"""Hand-over: names for a controlling program, and the club's calendar."""

from __future__ import annotations

from typing import Literal

from fastapi import APIRouter, Response
from pydantic import BaseModel

from jolly_copper.api.files import Content, csv_file, download
from jolly_copper.api.used import StoreUsed, WorkedUsed, known_scene
from jolly_copper.core.layout.benchwork import lifting_boards
from jolly_copper.core.layout.words import many
from jolly_copper.core.signals.aspects import signalling_of
from jolly_copper.core.signals.names import Names, compare_names, names_of
from jolly_copper.exchange.calendar import calendar
from jolly_copper.exchange.names import names_csv, names_json, read_names
from jolly_copper.store import Revision, Store
from jolly_copper.store.bench import readings_of

router = APIRouter(prefix="/api")
ONE = "/layouts/{layout_id}"


def _names(store: Store, worked: WorkedUsed, layout_id: str) -> tuple[Names, int]:
    found = store.get(layout_id)
    return names_of(signalling_of(worked.facts(found, known_scene(found, None)))), found.number


@router.get(ONE + "/files/names.csv")
def names_table(layout_id: str, store: StoreUsed, worked: WorkedUsed) -> Response:
    """Sections, turnouts, signals, routes and the block graph as one table; see docs/names-file.md."""
    names, number = _names(store, worked, layout_id)
    return csv_file(names_csv(names), f"{layout_id}-names-{number}.csv")


@router.get(ONE + "/files/names.json")
def names_file(layout_id: str, store: StoreUsed, worked: WorkedUsed) -> Response:
    """The same as JSON, with a schema of its own."""
    names, number = _names(store, worked, layout_id)
    return download(names_json(names, number), "application/json", f"{layout_id}-names-{number}.json")


class ListedWrongShape(BaseModel):
    """Where a list read back differs."""

    how: Literal["missing", "not ours", "twice", "differs"]
    what: str
    name: str
    words: str


class ComparedShape(BaseModel):
    """A list read back, compared: nothing wrong means that it is as the layout has it."""

    rows: int
    words: str
    wrong: list[ListedWrongShape]


@router.post(ONE + "/names/compare")
def compare_list(layout_id: str, data: Content, store: StoreUsed, worked: WorkedUsed) -> ComparedShape:
    """Compare a list that came back from the club's controlling program. Changes nothing."""
    listed = read_names(data)
    names, _ = _names(store, worked, layout_id)
    wrong = compare_names(names, listed)
    count = f"{many(len(listed), 'row')} read"
    words = f"{count}: all as it is here." if not wrong else f"{count}; {len(wrong)} to look at."
    return ComparedShape(rows=len(listed), words=words, wrong=[ListedWrongShape(**vars(w)) for w in wrong[:2000]])


@router.get(ONE + "/files/calendar.ics")
def calendar_file(layout_id: str, store: StoreUsed) -> Response:
    """The club's dates, and the yearly test, for any calendar."""
    found = store.get(layout_id)
    return download(calendar_of(store, found), "text/calendar; charset=utf-8", f"{layout_id}.ics")


def calendar_of(store: Store, found: Revision) -> bytes:
    """The calendar of a layout, with what there is to do at a show."""
    done = [r.done for r in readings_of(store, found.layout_id)]
    lifting = len(lifting_boards(found.layout))
    words = f"{many(lifting, 'board')} to set up: the set-up list and the proof are in step Travel."
    notes = {"show": words} if lifting else {}
    return calendar(found.layout, found.layout_id, found.made, notes, max(done, default=None))
