"""The archive of a layout: all of it in one file that reads without this program, and taken in again whole."""

from __future__ import annotations

import csv
import hashlib
import io
import json
from collections.abc import Iterable
from contextlib import suppress

from fastapi import APIRouter, Response

from jolly_copper import __version__
from jolly_copper.api.book import compose_whole
from jolly_copper.api.files import Content, download
from jolly_copper.api.handover import calendar_of
from jolly_copper.api.layouts import free_id
from jolly_copper.api.remembering import open_troubles
from jolly_copper.api.used import Scene, StoreUsed, WorkedUsed, known_scene
from jolly_copper.core.signals.aspects import signalling_of
from jolly_copper.core.signals.names import names_of
from jolly_copper.core.wirebook.book import Book
from jolly_copper.exchange import svg
from jolly_copper.exchange.archive import ENDINGS, INDEX, read_archive, write_archive
from jolly_copper.exchange.book_pdf import book_pdf
from jolly_copper.exchange.book_text import book_text
from jolly_copper.exchange.cells import FileRefused, safe
from jolly_copper.exchange.names import names_csv
from jolly_copper.exchange.photos import plain_photo
from jolly_copper.store import NotFound, Revision, Store
from jolly_copper.store.pictures import keep_picture, picture_of
from jolly_copper.store.whole import RowsRefused, take_whole, whole_rows
from jolly_copper.telling import answering, shapes
from jolly_copper.telling.kept_rows import check_rows

router = APIRouter(prefix="/api")
ONE = "/layouts/{layout_id}"


@router.get(ONE + "/files/archive.zip")
def archive_file(layout_id: str, store: StoreUsed, worked: WorkedUsed, scene: Scene = None) -> Response:
    """All of a layout in one file that reads without this program, and is taken in again whole."""
    found = store.get(layout_id)
    book = compose_whole(store, found, worked, scene)
    data = write_archive(_files(store, found, worked, book), found.made)
    return download(data, "application/zip", f"{layout_id}-archive-{found.number}.zip")


def _files(store: Store, found: Revision, worked: WorkedUsed, book: Book) -> dict[str, bytes]:
    key, layout = found.layout_id, found.layout
    rows = whole_rows(store, key)
    names = names_of(signalling_of(worked.facts(found, known_scene(found, None))))
    beside = rows["beside"]
    files: dict[str, str | bytes] = {
        "layout.json": layout.model_dump_json(indent=1, exclude_defaults=True),
        "rows.json": json_text(rows),
        "book.pdf": book_pdf(book, "A4"),
        "READ-ME-FIRST.txt": book_text(book.only(["read-me"])),
        "history.csv": _table(("number", "kind", "summary", "made", "who"), rows["changes"]),
        "work.csv": _table(("done", "who", "task", "state", "reading", "note"), beside["work"]),
        "readings.csv": _table(("done", "who", "test", "shown", "verdict", "note"), beside["reading"]),
        "notes.csv": _table(("made", "who", "kind", "about", "text", "photo"), beside["note"]),
        "shows.csv": _table(("day", "show", "what", "state", "note", "who"), beside["show_entry"]),
        "names.csv": names_csv(names),
        "calendar.ics": calendar_of(store, found),
    }
    photos = {n["photo"] for n in beside["note"] if n["photo"]}
    photos |= {layout.backdrop.picture} if layout.backdrop is not None else set()
    for name in sorted(photos):
        with suppress(NotFound):
            media, data = picture_of(store, name)
            files[f"photos/{name}.{ENDINGS[media]}"] = data
    files[INDEX] = _index(found, sorted(files), len(open_troubles(store, found)))
    return {name: data if isinstance(data, bytes) else data.encode() for name, data in files.items()}


SAYS = {
    "layout.json": "the layout as it stands, for this program; docs/layout-file.md of the program says each field",
    "rows.json": "every change since the first, and all that is kept beside the layout: taken in again from here",
    "book.pdf": "the wire book, to read and print",
    "READ-ME-FIRST.txt": "one page for whoever must run, test and mend the railroad",
    "history.csv": "every change: number, what, when, who",
    "work.csv": "work done under the boards",
    "readings.csv": "readings by meter",
    "notes.csv": "the notebook; photo names a file in photos/",
    "shows.csv": "what was tried at shows",
    "names.csv": "names and numbers of sections, turnouts, signals and routes",
    "calendar.ics": "the club's dates, for any calendar",
}


def _index(found: Revision, names: Iterable[str], troubles: int) -> str:
    layout = found.layout
    lines = [
        layout.name,
        layout.club,
        "",
        f"Change {found.number}, made {found.made[:16].replace('T', ' ')} UTC. Written by Jolly Copper {__version__}.",
        f"{len(layout.tracks)} tracks, {len(layout.boards)} boards, {len(layout.feeders)} feeders, "
        f"{len(layout.devices)} devices. Open troubles: {troubles}.",
        "",
        "Begin with READ-ME-FIRST.txt. Everything here reads without the program. To take it in again: in the",
        "program, All layouts, Open a layout file or archive.",
        "",
        *(f"{name:20} {SAYS.get(name, 'a photo')}" for name in names),
    ]
    return "\n".join(lines) + "\n"


def _table(columns: tuple[str, ...], rows: list[dict[str, object]]) -> str:
    out = io.StringIO()
    table = csv.writer(out)
    table.writerow(columns)
    for row in rows:
        table.writerow([safe(str(row.get(c) if row.get(c) is not None else "")) for c in columns])
    return out.getvalue()


@router.post("/archives", status_code=201)
def take_archive(data: Content, store: StoreUsed) -> shapes.State:
    """Take an archive in: a layout of its own, with its history and all that was kept beside it."""
    archived = read_archive(data)
    for name, (media, photo) in archived.photos.items():
        _look_at(name, media, photo)
    try:
        check_rows(archived.rows)
    except ValueError as error:
        raise FileRefused(f"It is not taken in. {error}") from None
    try:
        name = str(archived.rows.get("first", {}).get("name", "layout"))
        layout_id = free_id(store, name)
        take_whole(store, layout_id, archived.rows)
    except (RowsRefused, AttributeError, TypeError) as error:
        raise FileRefused(f"It is not taken in. {error}") from None
    for media, photo in archived.photos.values():
        keep_picture(store, media, photo)
    return answering.state(store.get(layout_id))


def _look_at(name: str, media: str, data: bytes) -> None:
    """Look whether a photo of an archive is a picture, and the one its name says.

    Raises:
        FileRefused: it is not.
    """
    if hashlib.sha256(data).hexdigest() != name:
        raise FileRefused("A photo in it is not the one its name says.")
    if media == "image/svg+xml":
        svg.read_svg(data)
    else:
        plain_photo(data)


def json_text(value: object) -> str:
    """Plain JSON, a letter a letter."""
    return json.dumps(value, ensure_ascii=False, separators=(",", ":"))
