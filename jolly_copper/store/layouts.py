"""Layouts by numbered revisions, with undo and redo that outlive the program.

Each change is one transaction: a row with the JSON Patch that made it and the document after it, whole or as what
differs from a whole one (`keeping`), so that any revision is read from two rows and a half-made one cannot exist.
Write-ahead log, full synchronisation: what was answered is on disk.
"""

from __future__ import annotations

import contextlib
import json
import sqlite3
import threading
from collections import OrderedDict
from collections.abc import Callable
from contextlib import AbstractContextManager
from pathlib import Path
from typing import Any

import jsonpatch

from jolly_copper.core.layout.bounds import LARGEST_DOCUMENT
from jolly_copper.core.layout.checking import Problem
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import patched, patched_on
from jolly_copper.core.layout.reading import LayoutError, read_layout
from jolly_copper.core.layout.saved import read_saved, read_saved_told
from jolly_copper.store.club_file import ClubFile, FileTrouble
from jolly_copper.store.keeping import WHOLE_EVERY, Data, difference, differing, packed, unpacked, unpacked_size
from jolly_copper.store.migrations import MIGRATIONS
from jolly_copper.store.revision import WHO, Conflict, NameTaken, NotFound, Read, Revision, Row, Top, mark_of, now
from jolly_copper.store.turns import Turns

KEPT_BYTES = 4_000_000
"""Documents kept read, by their bytes as JSON; in memory each takes some ten times that."""


THERE = "EXISTS (SELECT 1 FROM layout l WHERE l.id = r.layout AND l.deleted IS NULL)"
"""Of a revision r: its layout was not deleted."""

Prove = Callable[[Layout, str], None]
"""Given a layout and its mark: works it out, and raises `LayoutError` where it cannot be."""


class Store:
    """One SQLite file of layouts. Safe to use from several threads; one writer at a time, in the order of asking.

    Args:
        path: the club file.
        prove: asked before a change is kept, so that what is saved computes.
    """

    def __init__(self, path: Path | str, prove: Prove | None = None) -> None:
        self.file = ClubFile(path, MIGRATIONS)
        self.path = self.file.path
        self.prove = prove
        self._read: OrderedDict[tuple[str, int, str], Read] = OrderedDict()
        self._wholes: dict[str, tuple[tuple[int, str], Data]] = {}
        self._lock = threading.Lock()
        self._turns: dict[str, Turns] = {}

    def reading(self) -> AbstractContextManager[sqlite3.Connection]:
        """A connection to read with."""
        return self.file.reading()

    def writing(self) -> AbstractContextManager[sqlite3.Connection]:
        """A transaction: all of it is kept, or nothing."""
        return self.file.writing()

    def turn(self, layout_id: str) -> AbstractContextManager[None]:
        """Have a layout for oneself, from reading to saving: who asked first goes first.

        Raises:
            TooBusy: too many wait for it.
        """
        with self._lock:
            turns = self._turns.setdefault(layout_id, Turns())
        return turns.turn()

    def close(self) -> None:
        """Write everything back into the file and close it."""
        self.file.close()

    def forget(self) -> None:
        """Read everything anew from the file, which was exchanged."""
        with self._lock:
            self._read.clear()
            self._wholes.clear()

    def layouts(self) -> list[dict[str, Any]]:
        """All layouts but deleted ones, those changed last first: id, name, number, time and author of the newest
        change, and since when it is in the archive."""
        with self.reading() as db:
            rows = db.execute(
                "SELECT l.id, l.name, r.number, r.made, r.who, l.archived FROM layout l "
                "JOIN revision r ON r.layout = l.id AND r.number = (SELECT max(number) FROM revision "
                "WHERE layout = l.id) WHERE l.deleted IS NULL ORDER BY l.archived IS NOT NULL, r.made DESC, l.id"
            ).fetchall()
        return [dict(zip(("id", "name", "revision", "made", "who", "archived"), row, strict=True)) for row in rows]

    def add(self, layout_id: str, layout: Layout, summary: str = "New layout") -> Revision:
        """Store a new layout as its change 1.

        Raises:
            NameTaken: there is a layout of that id.
        """
        data = layout.model_dump(mode="json")
        self.proven(layout)
        with self.writing() as db:
            if db.execute("SELECT 1 FROM layout WHERE id = ?", (layout_id,)).fetchone():
                raise NameTaken(f"There is already a layout called {layout_id}.")
            db.execute("INSERT INTO layout (id, name, created) VALUES (?, ?, ?)", (layout_id, layout.name, now()))
            row = Row(layout_id, 1, "new", summary, [], None, None, None, None)
            self._insert(db, row, data, None)
        return self.get(layout_id)

    def delete(self, layout_id: str) -> None:
        """Remove a layout and its history for good; `shelf.remove` leaves a way back."""
        with self.writing() as db:
            if not db.execute("DELETE FROM layout WHERE id = ?", (layout_id,)).rowcount:
                raise NotFound(f"There is no layout {layout_id}.")
        self.let_go(layout_id)

    def let_go(self, layout_id: str) -> None:
        """Forget what is remembered of one layout."""
        with self._lock:
            self._turns.pop(layout_id, None)
            self._wholes.pop(layout_id, None)
            for key in [k for k in self._read if k[0] == layout_id]:
                del self._read[key]

    def get(self, layout_id: str, number: int | None = None) -> Revision:
        """A layout as of a change, the newest when no number is given.

        Raises:
            NotFound: no such layout or change.
        """
        return self._revision(layout_id, number)

    def size(self, layout_id: str) -> int:
        """About how many bytes of JSON the newest document has; 0 when there is no such layout."""
        with self._lock:
            for key in reversed(self._read):
                if key[0] == layout_id:
                    return self._read[key].size
        with self.reading() as db:
            row = db.execute(
                "SELECT w.document FROM revision r JOIN revision w ON w.layout = r.layout AND "
                "w.number = coalesce(r.whole, r.number) WHERE r.layout = ?1 AND "
                "r.number = (SELECT max(number) FROM revision WHERE layout = ?1)",
                (layout_id,),
            ).fetchone()
        return unpacked_size(row[0]) if row is not None else 0

    def newest(self, layout_id: str) -> int:
        """Number of the newest change; 0 when there is no such layout."""
        with self.reading() as db:
            (number,) = db.execute(
                f"SELECT max(number) FROM revision r WHERE layout = ?1 AND {THERE}", (layout_id,)
            ).fetchone()
        return number or 0

    def history(self, layout_id: str, most: int = 200, before: int | None = None) -> list[dict[str, Any]]:
        """The newest changes, or those before a change: number, kind, summary, time, author."""
        with self.reading() as db:
            rows = db.execute(
                "SELECT number, kind, summary, made, who FROM revision "
                "WHERE layout = ?1 AND (?3 IS NULL OR number < ?3) "
                "ORDER BY number DESC LIMIT ?2",
                (layout_id, most, before),
            ).fetchall()
        return [dict(zip(("number", "kind", "summary", "made", "who"), row, strict=True)) for row in rows]

    def change(self, layout_id: str, based_on: int, patch: list[Data], summary: str) -> Revision:
        """Make a change: a JSON Patch (RFC 6902) against the newest revision.

        Raises:
            NotFound: no such layout.
            Conflict: the newest revision is not `based_on`.
            LayoutError: the patch does not fit, or its result cannot be read; nothing is saved.
        """
        with self.turn(layout_id):
            current = self._based(layout_id, based_on)
            layout = patched_on((current.data, current.layout), patch)
            top = self._top(layout_id, current.number)
            row = Row(layout_id, current.number + 1, "edit", summary, patch, current.number + 1, None, top.undo, None)
            return self._save(row, layout, top)

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
        with self.turn(layout_id):
            current = self._based(layout_id, based_on)
            top, number = self._top(layout_id, current.number), current.number + 1
            if kind == "undo":
                if top.undo is None:
                    raise NotFound("There is nothing to undo.")
                taken = self._row_of(layout_id, top.undo)
                layout = self.get(layout_id, top.undo - 1).layout
                row = Row(layout_id, number, kind, taken.summary, [], taken.below, number, top.redo, top.undo)
            else:
                if top.redo is None:
                    raise NotFound("There is nothing to redo.")
                # what is on top of the redo stack is the row that took the change back
                back = self._row_of(layout_id, top.redo)
                again = back.undone or 0
                layout = self.get(layout_id, again).layout
                row = Row(layout_id, number, kind, back.summary, [], again, back.below, None, None)
            patch = jsonpatch.make_patch(current.data, layout.model_dump(mode="json")).patch
            return self._save(row._replace(patch=patch), layout, top)

    def _based(self, layout_id: str, based_on: int) -> Revision:
        current = self.get(layout_id)
        if current.number != based_on:
            raise Conflict(current)
        return current

    def proven(self, layout: Layout) -> tuple[str, int]:
        """The mark and size of a document that may be kept: no larger than it may be, and worked out.

        Raises:
            LayoutError: it may not.
        """
        mark, size = mark_of(layout)
        if size > LARGEST_DOCUMENT:
            words = f"A layout takes {LARGEST_DOCUMENT // 1_000_000} MB at most; this would take {size / 1e6:.1f} MB."
            raise LayoutError([Problem("", words)])
        if self.prove is not None:
            self.prove(layout, mark)
        return mark, size

    def _save(self, row: Row, layout: Layout, top: Top) -> Revision:
        """Keep a change that was worked out on the newest one. The file is locked only for the writing of it."""
        plain = layout.model_dump(mode="json")
        mark, size = self.proven(layout)
        whole = top.whole if row.number - top.whole < WHOLE_EVERY else None
        try:
            against = None if whole is None else self._whole(row.layout, whole, top.whole_made)
        except (NotFound, ValueError, FileTrouble):
            against = None  # the whole one is damaged: this one stands for itself
        with self.writing() as db:
            (newest,) = db.execute("SELECT max(number) FROM revision WHERE layout = ?", (row.layout,)).fetchone()
            if newest is None:
                raise NotFound(f"There is no layout {row.layout}.")
            if newest == row.number - 1:
                made = self._insert(db, row, plain, None if against is None else (whole or 0, against))
                db.execute("UPDATE layout SET name = ?2 WHERE id = ?1 AND name != ?2", (row.layout, layout.name))
        if newest != row.number - 1:
            raise Conflict(self.get(row.layout))  # another program was quicker
        self._keep((row.layout, row.number, made), Read(plain, layout, mark, size))
        return self.get(row.layout, row.number)

    @staticmethod
    def _insert(db: sqlite3.Connection, row: Row, data: Data, against: tuple[int, Data] | None) -> str:
        changed = None if against is None else difference(against[1], data)
        whole = row.number if changed is None or against is None else against[0]
        made = now()
        db.execute(
            "INSERT INTO revision (layout, number, kind, summary, made, patch, document, whole, undo_top, redo_top, "
            "below, undone, who) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
            (
                row.layout,
                row.number,
                row.kind,
                row.summary[:200],
                made,
                json.dumps(row.patch, separators=(",", ":")),
                packed(data if changed is None else changed),
                whole,
                row.undo_top,
                row.redo_top,
                row.below,
                row.undone,
                WHO.get(),
            ),
        )
        return made

    def _keep(self, key: tuple[str, int, str], read: Read) -> None:
        with self._lock:
            self._read[key] = read
            total = sum(r.size for r in self._read.values())
            while len(self._read) > 1 and (total > KEPT_BYTES or len(self._read) > 24):
                total -= self._read.popitem(last=False)[1].size

    def _document(self, layout_id: str, number: int) -> Data:
        """The document after a change, as it was written.

        Raises:
            ValueError: it, or the whole one it goes by, is damaged. NotFound: there is none.
        """
        query = "SELECT document, whole FROM revision WHERE layout = ? AND number = ?"
        with self.reading() as db:
            row = db.execute(query, (layout_id, number)).fetchone()
            if row is None:
                raise NotFound(f"There is no layout {layout_id} with a change {number}.")
            document, whole = row
            if whole in (None, number):
                found = unpacked(document)
            else:
                base = db.execute(query, (layout_id, whole)).fetchone()
                if base is None:
                    raise ValueError(f"Change {whole} is missing.")
                found = differing(unpacked(base[0]), unpacked(document))
        if not isinstance(found, dict):
            raise ValueError("It is no document.")
        return found

    def _whole(self, layout_id: str, number: int, made: str) -> Data:
        """A document kept whole, remembered for the changes that are told by what differs from it."""
        key, found = self._wholes.get(layout_id, ((0, ""), {}))
        if key != (number, made):
            found = self._document(layout_id, number)
            with self._lock:
                self._wholes[layout_id] = ((number, made), found)
                while len(self._wholes) > 3:
                    del self._wholes[next(iter(self._wholes))]
        return found

    def _reading_of(self, layout_id: str, number: int, made: str) -> Read:
        """A change read and kept. What is damaged is made again from the changes themselves as far as they go."""
        with self._lock:
            if (key := (layout_id, number, made)) in self._read:
                self._read.move_to_end(key)
                return self._read[key]
        try:
            # written anew, so that a change finds the fields which the version that saved it did not have
            layout, told = read_saved_told(self._document(layout_id, number))
            mended = " ".join(told[:5]) or None
        except (ValueError, FileTrouble):
            layout, mended = self._mended(layout_id, number)
        data = layout.model_dump(mode="json")
        read = Read(data, layout, *mark_of(layout), mended)
        self._keep(key, read)
        return read

    def _mended(self, layout_id: str, number: int) -> tuple[Layout, str | None]:
        """The layout after a change whose document is damaged: from an older one that is sound, by the changes since.

        Raises:
            FileTrouble: nothing of it can be read any more.
        """
        layout, sound = None, number
        while layout is None and sound > 1:
            sound -= 1
            with contextlib.suppress(ValueError, NotFound, FileTrouble):
                layout = read_saved(self._document(layout_id, sound))
        if layout is None:
            raise FileTrouble(f"Nothing of the layout {layout_id} can be read any more. Restore a copy of the file.")
        try:
            for step in range(sound + 1, number + 1):
                with self.reading() as db:
                    (text,) = db.execute(
                        "SELECT patch FROM revision WHERE layout = ? AND number = ?", (layout_id, step)
                    ).fetchone()
                layout = read_layout(patched(layout.model_dump(mode="json"), json.loads(text)))
                sound = step
        except (ValueError, TypeError, FileTrouble):
            return layout, f"Change {number} is damaged in the club file; this is change {sound}, the last sound one."
        return layout, None

    def _top(self, layout_id: str, number: int) -> Top:
        with self.reading() as db:
            row = db.execute(
                "SELECT r.undo_top, r.redo_top, coalesce(w.number, r.number), coalesce(w.made, r.made) FROM revision r "
                "LEFT JOIN revision w ON w.layout = r.layout "
                "AND w.number = coalesce(r.whole, r.number) WHERE r.layout = ? AND r.number = ?",
                (layout_id, number),
            ).fetchone()
        return Top(*row)

    def _row_of(self, layout_id: str, number: int) -> Row:
        with self.reading() as db:
            row = db.execute(
                "SELECT layout, number, kind, summary, '', undo_top, redo_top, below, undone FROM revision "
                "WHERE layout = ? AND number = ?",
                (layout_id, number),
            ).fetchone()
        return Row(*row)

    def _revision(self, layout_id: str, number: int | None) -> Revision:
        if number is not None and not 0 < number < 2**62:
            raise NotFound(f"There is no layout {layout_id} with such a change.")
        with self.reading() as db:
            row = db.execute(
                "SELECT r.number, r.summary, r.made, u.summary, d.summary, r.who FROM revision r "
                "LEFT JOIN revision u ON u.layout = r.layout AND u.number = r.undo_top "
                "LEFT JOIN revision d ON d.layout = r.layout AND d.number = r.redo_top WHERE r.layout = ?1 AND "
                f"r.number = coalesce(?2, (SELECT max(number) FROM revision WHERE layout = ?1)) AND {THERE}",
                (layout_id, number),
            ).fetchone()
        if row is None:
            raise NotFound(f"There is no layout {layout_id}" + (f" with a change {number}." if number else "."))
        read = self._reading_of(layout_id, row[0], row[2])
        return Revision(
            layout_id, row[0], row[1], row[2], read.data, read.layout, row[3], row[4], read.mark, read.mended, row[5]
        )
