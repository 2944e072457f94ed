"""Layouts by numbered revisions, with undo and redo that outlive the program.

Each change is one transaction: a row with the JSON Patch that made it and the whole document after it (compressed),
so that any revision is read at once and a half-made one cannot exist. Write-ahead log, full synchronisation: what
was answered is on disk.
"""

from __future__ import annotations

import hashlib
import json
import sqlite3
import threading
import zlib
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import jsonpatch

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import patched
from jolly_copper.core.layout.reading import read_layout
from jolly_copper.core.layout.saved import read_saved

MIGRATIONS = [
    """
    CREATE TABLE layout (id TEXT PRIMARY KEY, name TEXT NOT NULL, created TEXT NOT NULL) STRICT;
    CREATE TABLE revision (
        layout TEXT NOT NULL REFERENCES layout(id) ON DELETE CASCADE,
        number INTEGER NOT NULL,
        kind TEXT NOT NULL CHECK (kind IN ('new', 'edit', 'undo', 'redo')),
        summary TEXT NOT NULL,
        made TEXT NOT NULL,
        patch TEXT NOT NULL,
        document BLOB NOT NULL,
        PRIMARY KEY (layout, number)
    ) STRICT, WITHOUT ROWID;
    """,
    """
    CREATE TABLE picture (id TEXT PRIMARY KEY, media TEXT NOT NULL, added TEXT NOT NULL, bytes BLOB NOT NULL) STRICT;
    """,
    """
    CREATE TABLE work (
        number INTEGER PRIMARY KEY,
        id TEXT NOT NULL UNIQUE,
        layout TEXT NOT NULL REFERENCES layout(id) ON DELETE CASCADE,
        task TEXT NOT NULL,
        state TEXT NOT NULL CHECK (state IN ('wired', 'tested', 'trouble', 'open')),
        note TEXT NOT NULL,
        reading TEXT NOT NULL,
        who TEXT NOT NULL,
        done TEXT NOT NULL,
        told TEXT NOT NULL,
        taken TEXT NOT NULL
    ) STRICT;
    CREATE INDEX work_of_layout ON work (layout, task, done);
    """,
]
Data = dict[str, Any]


class NotFound(LookupError):
    """No such layout, or no such revision of it."""


class Conflict(Exception):
    """Somebody else saved first. Carries the newer revision."""

    def __init__(self, current: Revision) -> None:
        self.current = current
        super().__init__(f"The layout is at change {current.number} by now.")


@dataclass(frozen=True)
class Revision:
    """A layout as of one change. `can_undo` and `can_redo` name the change in question, or are None."""

    layout_id: str
    number: int
    summary: str
    made: str
    data: Data
    layout: Layout
    can_undo: str | None
    can_redo: str | None


class Store:
    """One SQLite file of layouts. Safe to use from several threads; one writer at a time."""

    def __init__(self, path: Path | str) -> None:
        self.path = str(path)
        self._local = threading.local()
        self._read: dict[tuple[str, int], tuple[Data, Layout]] = {}
        with self.reading() as db:
            self._migrate(db)

    @contextmanager
    def reading(self) -> Iterator[sqlite3.Connection]:
        """This thread's connection."""
        db = getattr(self._local, "db", None)
        if db is None:
            db = self._local.db = sqlite3.connect(self.path, timeout=10, isolation_level=None)
            db.execute("PRAGMA journal_mode = WAL")
            db.execute("PRAGMA synchronous = FULL")
            db.execute("PRAGMA foreign_keys = ON")
        yield db

    @contextmanager
    def writing(self) -> Iterator[sqlite3.Connection]:
        """A transaction: all of it is kept, or nothing."""
        with self.reading() as db:
            db.execute("BEGIN IMMEDIATE")
            try:
                yield db
            except BaseException:
                db.execute("ROLLBACK")
                raise
            db.execute("COMMIT")

    def close(self) -> None:
        """Close this thread's connection."""
        db = getattr(self._local, "db", None)
        if db is not None:
            db.close()
            self._local.db = None

    @staticmethod
    def _migrate(db: sqlite3.Connection) -> None:
        (version,) = db.execute("PRAGMA user_version").fetchone()
        if version > len(MIGRATIONS):
            raise RuntimeError("This file was written by a newer Jolly Copper; please update.")
        for number in range(version, len(MIGRATIONS)):
            db.executescript(f"BEGIN IMMEDIATE; {MIGRATIONS[number]} PRAGMA user_version = {number + 1}; COMMIT;")

    def layouts(self) -> list[dict[str, Any]]:
        """All layouts: id, name, number and time of the newest change."""
        with self.reading() as db:
            rows = db.execute(
                "SELECT l.id, l.name, r.number, r.made FROM layout l JOIN revision r ON r.layout = l.id "
                "AND r.number = (SELECT max(number) FROM revision WHERE layout = l.id) ORDER BY r.made DESC, l.id"
            ).fetchall()
        return [dict(zip(("id", "name", "revision", "made"), row, strict=True)) for row in rows]

    def add(self, layout_id: str, layout: Layout) -> Revision:
        """Store a new layout as its change 1.

        Raises:
            ValueError: there is a layout of that id.
        """
        data = layout.model_dump(mode="json")
        with self.writing() as db:
            if db.execute("SELECT 1 FROM layout WHERE id = ?", (layout_id,)).fetchone():
                raise ValueError(f"There is already a layout called {layout_id}.")
            db.execute("INSERT INTO layout VALUES (?, ?, ?)", (layout_id, layout.name, now()))
            self._insert(db, layout_id, 1, "new", "New layout", [], data)
        return self.get(layout_id)

    def delete(self, layout_id: str) -> None:
        """Remove a layout and its history."""
        with self.writing() as db:
            if not db.execute("DELETE FROM layout WHERE id = ?", (layout_id,)).rowcount:
                raise NotFound(layout_id)

    def get(self, layout_id: str, number: int | None = None) -> Revision:
        """A layout as of a change, the newest when no number is given.

        Raises:
            NotFound: no such layout or change.
        """
        with self.reading() as db:
            return self._revision(db, layout_id, number)

    def keep_picture(self, media: str, data: bytes) -> str:
        """Keep a picture beside the layouts; the same one is kept once. Answers its SHA-256."""
        name = hashlib.sha256(data).hexdigest()
        with self.writing() as db:
            db.execute("INSERT OR IGNORE INTO picture VALUES (?, ?, ?, ?)", (name, media, now(), data))
        return name

    def picture(self, name: str) -> tuple[str, bytes]:
        """Media type and bytes of a picture.

        Raises:
            NotFound: there is none of that name.
        """
        with self.reading() as db:
            row = db.execute("SELECT media, bytes FROM picture WHERE id = ?", (name,)).fetchone()
        if row is None:
            raise NotFound("That picture is not in this club file; drop it in again.")
        return row[0], row[1]

    def newest(self, layout_id: str) -> int:
        """Number of the newest change; 0 when there is no such layout."""
        with self.reading() as db:
            (number,) = db.execute("SELECT max(number) FROM revision WHERE layout = ?", (layout_id,)).fetchone()
        return number or 0

    def history(self, layout_id: str, most: int = 200) -> list[dict[str, Any]]:
        """The newest changes: number, kind, summary, time."""
        with self.reading() as db:
            rows = db.execute(
                "SELECT number, kind, summary, made FROM revision WHERE layout = ? ORDER BY number DESC LIMIT ?",
                (layout_id, most),
            ).fetchall()
        return [dict(zip(("number", "kind", "summary", "made"), row, strict=True)) for row in rows]

    def change(self, layout_id: str, based_on: int, patch: list[Data], summary: str) -> Revision:
        """Make a change: a JSON Patch (RFC 6902) against the newest revision.

        Raises:
            NotFound: no such layout.
            Conflict: the newest revision is not `based_on`.
            LayoutError: the patch does not fit, or its result cannot be read; nothing is saved.
        """

        def edit(current: Revision) -> tuple[list[Data], Data]:
            return patch, patched(current.data, patch)

        return self._save(layout_id, based_on, "edit", lambda _: summary, edit)

    def undo(self, layout_id: str, based_on: int) -> Revision:
        """Take back the newest change not yet taken back, as a change of its own.

        Raises:
            NotFound: no such layout, or nothing to undo. Conflict: see `change`.
        """
        return self._step(layout_id, based_on, "undo")

    def redo(self, layout_id: str, based_on: int) -> Revision:
        """Make again the change that was taken back last.

        Raises:
            NotFound: no such layout, or nothing to redo. Conflict: see `change`.
        """
        return self._step(layout_id, based_on, "redo")

    def _step(self, layout_id: str, based_on: int, kind: str) -> Revision:
        def target(db: sqlite3.Connection) -> tuple[int, str]:
            undo, redo = self._stacks(db, layout_id)
            stack = undo if kind == "undo" else redo
            if not stack:
                raise NotFound(f"There is nothing to {kind}.")
            return stack[-1]

        with self.reading() as db:
            number, summary = target(db)
        state = number - 1 if kind == "undo" else number

        def edit(current: Revision) -> tuple[list[Data], Data]:
            data = self.get(layout_id, state).data
            return jsonpatch.make_patch(current.data, data).patch, data

        return self._save(layout_id, based_on, kind, lambda _: summary, edit)

    def _save(
        self,
        layout_id: str,
        based_on: int,
        kind: str,
        summary: Callable[[Revision], str],
        edit: Callable[[Revision], tuple[list[Data], Data]],
    ) -> Revision:
        with self.writing() as db:
            current = self._revision(db, layout_id, None)
            if current.number != based_on:
                raise Conflict(current)
            patch, data = edit(current)
            layout = read_layout(data)
            plain = layout.model_dump(mode="json")
            self._insert(db, layout_id, current.number + 1, kind, summary(current), patch, plain)
            if layout.name != current.layout.name:
                db.execute("UPDATE layout SET name = ? WHERE id = ?", (layout.name, layout_id))
            self._keep(layout_id, current.number + 1, plain, layout)
        return self.get(layout_id)

    @staticmethod
    def _insert(
        db: sqlite3.Connection, layout_id: str, number: int, kind: str, summary: str, patch: list[Data], data: Data
    ) -> None:
        blob = zlib.compress(json.dumps(data, separators=(",", ":")).encode(), 3)
        db.execute(
            "INSERT INTO revision VALUES (?, ?, ?, ?, ?, ?, ?)",
            (layout_id, number, kind, summary[:200], now(), json.dumps(patch), blob),
        )

    def _keep(self, layout_id: str, number: int, data: Data, layout: Layout) -> None:
        self._read[(layout_id, number)] = (data, layout)
        while len(self._read) > 12:
            self._read.pop(next(iter(self._read)))

    def _revision(self, db: sqlite3.Connection, layout_id: str, number: int | None) -> Revision:
        newest = "(SELECT max(number) FROM revision WHERE layout = ?1)"
        row = db.execute(
            f"SELECT number, summary, made, document FROM revision WHERE layout = ?1 AND number = coalesce(?2, "
            f"{newest})",
            (layout_id, number),
        ).fetchone()
        if row is None:
            raise NotFound(f"There is no layout {layout_id}" + (f" with a change {number}." if number else "."))
        key = (layout_id, row[0])
        if key not in self._read:
            layout = read_saved(json.loads(zlib.decompress(row[3])))
            # written anew, so that a change finds the fields which the version that saved it did not have
            self._keep(layout_id, row[0], layout.model_dump(mode="json"), layout)
        data, layout = self._read[key]
        undo, redo = self._stacks(db, layout_id)
        return Revision(
            layout_id,
            row[0],
            row[1],
            row[2],
            data,
            layout,
            undo[-1][1] if undo else None,
            redo[-1][1] if redo else None,
        )

    @staticmethod
    def _stacks(db: sqlite3.Connection, layout_id: str) -> tuple[list[tuple[int, str]], list[tuple[int, str]]]:
        """What can be undone and redone, as (number of the revision that made the state, summary), newest last.

        An undo puts the layout into the state of an older revision; going back again must start from there, so the
        stacks hold the revision whose state counts, not the row that restored it.
        """
        undo: list[tuple[int, str]] = []
        redo: list[tuple[int, str]] = []
        rows = db.execute("SELECT number, kind, summary FROM revision WHERE layout = ? ORDER BY number", (layout_id,))
        for number, kind, summary in rows:
            if kind == "edit":
                undo.append((number, summary))
                redo.clear()
            elif kind == "undo" and undo:
                redo.append(undo.pop())
            elif kind == "redo" and redo:
                undo.append(redo.pop())
        return undo, redo


def now() -> str:
    """This moment, ISO, to the millisecond."""
    return datetime.now(UTC).isoformat(timespec="milliseconds")
