"""A layout with all that is kept beside it, as plain rows: for an archive, and out of one into a club file."""

from __future__ import annotations

import hashlib
import json
import sqlite3
from collections.abc import Iterator
from typing import Any

from jolly_copper.core.layout.patching import patched
from jolly_copper.core.layout.reading import LayoutError
from jolly_copper.core.layout.saved import read_saved_told
from jolly_copper.store.keeping import WHOLE_EVERY, difference, packed
from jolly_copper.store.layouts import Store
from jolly_copper.store.migrations import link_stacks
from jolly_copper.store.revision import NameTaken, NotFound

BESIDE = ("work", "meter", "reading", "hunt", "rehearsal", "show_entry", "note", "version")
"""Tables with rows of a layout; the answers of hunts hang on hunts."""
NAMED = {"work": "id", "reading": "id", "hunt": "id", "rehearsal": "id", "show_entry": "id"}
"""Ids that stand once in a club file, whatever layout they are of."""
MOST_CHANGES, MOST_ROWS = 100_000, 200_000
Rows = dict[str, Any]


class RowsRefused(ValueError):
    """Rows that cannot be taken in, and why; nothing is changed."""


def whole_rows(store: Store, layout_id: str) -> Rows:
    """Everything of a layout: its first document, every change since, and the rows of every table beside it.

    Raises:
        NotFound: there is no such layout.
    """
    first = store.get(layout_id, 1)
    with store.reading() as db:
        changes = _dicts(
            db,
            "SELECT number, kind, summary, made, who, patch FROM revision WHERE layout = ? ORDER BY number",
            layout_id,
        )
        beside = {t: _dicts(db, f"SELECT * FROM {t} WHERE layout = ?", layout_id) for t in BESIDE}
        answers = _dicts(db, "SELECT a.* FROM hunt_answer a JOIN hunt h ON h.id = a.hunt WHERE h.layout = ?", layout_id)
    for change in changes:
        change["patch"] = json.loads(change["patch"])
    return {"rows_version": 1, "first": first.data, "changes": changes, "beside": beside, "answers": answers}


def _dicts(db: sqlite3.Connection, query: str, layout_id: str) -> list[dict[str, Any]]:
    cursor = db.execute(query, (layout_id,))
    names = [d[0] for d in cursor.description]
    return [dict(zip(names, row, strict=True)) for row in cursor]


def take_whole(store: Store, layout_id: str, rows: Rows) -> None:
    """Put a layout with its whole history into a club file, under a free id.

    Raises:
        NameTaken: the id is taken. RowsRefused: they cannot be followed from the first change to the last.
    """
    documents = list(_followed(rows))
    newest = read_saved_told(documents[-1][1])[0]
    store.proven(newest)
    with store.writing() as db:
        if db.execute("SELECT 1 FROM layout WHERE id = ?", (layout_id,)).fetchone():
            raise NameTaken(f"There is already a layout called {layout_id}.")
        made = str(documents[0][0].get("made", ""))
        db.execute("INSERT INTO layout (id, name, created) VALUES (?, ?, ?)", (layout_id, newest.name, made))
        whole: tuple[int, Any] = (1, documents[0][1])
        for change, document in documents:
            number = change["number"]
            changed = None if number - whole[0] >= WHOLE_EVERY or number == 1 else difference(whole[1], document)
            if changed is None:
                whole = (number, document)
            db.execute(
                "INSERT INTO revision (layout, number, kind, summary, made, patch, document, whole, who) "
                "VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)",
                (
                    layout_id,
                    number,
                    change["kind"],
                    str(change["summary"])[:200],
                    str(change["made"]),
                    json.dumps(change["patch"], separators=(",", ":")),
                    packed(document if changed is None else changed),
                    whole[0],
                    str(change["who"])[:80],
                ),
            )
        link_stacks(db, layout_id)
        _beside(db, layout_id, rows)
    store.let_go(layout_id)
    if store.newest(layout_id) != len(documents):
        raise NotFound("The layout was not taken in.")


def _followed(rows: Rows) -> Iterator[tuple[dict[str, Any], dict[str, Any]]]:
    """Every change with the document after it, from the first on."""
    changes, document = rows.get("changes"), rows.get("first")
    if not isinstance(changes, list) or not isinstance(document, dict) or not 1 <= len(changes) <= MOST_CHANGES:
        raise RowsRefused("There is no history in it that could be followed.")
    for n, change in enumerate(changes, start=1):
        fits = (
            isinstance(change, dict)
            and change.get("number") == n
            and change.get("kind") in (("edit", "undo", "redo") if n > 1 else ("new",))
        )
        if not fits or not {"summary", "made", "who", "patch"} <= set(change) or not isinstance(change["patch"], list):
            raise RowsRefused(f"Change {n} of its history is not one.")
        try:
            document = patched(document, change["patch"]) if n > 1 else document
        except (LayoutError, ValueError, TypeError, KeyError) as error:
            raise RowsRefused(f"Change {n} does not fit the one before it: {str(error)[:200]}") from None
        yield change, document


def _beside(db: sqlite3.Connection, layout_id: str, rows: Rows) -> None:
    """Rows of the tables beside the layouts, under ids of their own where those are taken."""
    beside, answers = rows.get("beside", {}), rows.get("answers", [])
    if not isinstance(beside, dict) or not isinstance(answers, list):
        raise RowsRefused("What stands beside the layout cannot be read.")
    total = len(answers) + sum(len(r) for r in beside.values() if isinstance(r, list))
    if total > MOST_ROWS:
        raise RowsRefused(f"{total} rows stand beside the layout; {MOST_ROWS} at most are taken in.")

    def named(old: Any) -> str:
        return hashlib.sha256(f"{layout_id}/{old}".encode()).hexdigest()[:32]

    for table in BESIDE:
        for row in beside.get(table, []):
            kept = {**row, "layout": layout_id}
            if table in NAMED:
                kept["id"] = named(row.get("id"))
            if table == "reading" and row.get("withdraws"):
                kept["withdraws"] = named(row["withdraws"])
            _insert(db, table, kept)
    for row in answers:
        _insert(db, "hunt_answer", {**row, "id": named(row.get("id")), "hunt": named(row.get("hunt"))})


def _insert(db: sqlite3.Connection, table: str, row: dict[str, Any]) -> None:
    columns = [d[1] for d in db.execute(f"PRAGMA table_info({table})") if table == "version" or d[1] != "number"]
    used = [c for c in columns if c in row]
    marks = ", ".join("?" for _ in used)
    try:
        db.execute(f"INSERT INTO {table} ({', '.join(used)}) VALUES ({marks})", [row[c] for c in used])
    except (sqlite3.Error, OverflowError, TypeError) as error:
        raise RowsRefused(f"A row of {table} cannot be taken in: {error}.") from None
