"""What brings a club file of an earlier version up to this one, in order."""

from __future__ import annotations

import sqlite3

from jolly_copper.store.club_file import Step


def _link_stacks(db: sqlite3.Connection) -> None:
    """What can be undone and redone after every change, told by rows instead of by walking through all of them."""
    for column in ("whole", "undo_top", "redo_top", "below", "undone"):
        db.execute(f"ALTER TABLE revision ADD COLUMN {column} INTEGER")
    for (layout,) in db.execute("SELECT id FROM layout").fetchall():
        link_stacks(db, layout)


def link_stacks(db: sqlite3.Connection, layout: str) -> None:
    """What can be undone and redone after every change of one layout, worked out by walking through all of them."""
    undo: list[int] = []
    redo: list[tuple[int, int]] = []  # the row that took an edit back, and the edit
    rows = db.execute("SELECT number, kind FROM revision WHERE layout = ? ORDER BY number", (layout,)).fetchall()
    for number, kind in rows:
        below = undone = None
        if kind == "edit":
            below = undo[-1] if undo else None
            undo.append(number)
            redo.clear()
        elif kind == "undo" and undo:
            below, undone = (redo[-1][0] if redo else None), undo.pop()
            redo.append((number, undone))
        elif kind == "redo" and redo:
            undo.append(redo.pop()[1])
        db.execute(
            "UPDATE revision SET undo_top = ?, redo_top = ?, below = ?, undone = ? WHERE layout = ? AND number = ?",
            (undo[-1] if undo else None, redo[-1][0] if redo else None, below, undone, layout, number),
        )


MIGRATIONS: list[Step] = [
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
    _link_stacks,
    """
    ALTER TABLE layout ADD COLUMN archived TEXT;
    ALTER TABLE layout ADD COLUMN deleted TEXT;
    ALTER TABLE revision ADD COLUMN who TEXT NOT NULL DEFAULT '';
    CREATE TABLE version (
        layout TEXT NOT NULL REFERENCES layout(id) ON DELETE CASCADE,
        number INTEGER NOT NULL,
        name TEXT NOT NULL,
        note TEXT NOT NULL,
        who TEXT NOT NULL,
        made TEXT NOT NULL,
        PRIMARY KEY (layout, number)
    ) STRICT, WITHOUT ROWID;
    """,
    """
    CREATE TABLE meter (
        number INTEGER PRIMARY KEY,
        layout TEXT NOT NULL REFERENCES layout(id) ON DELETE CASCADE,
        id TEXT NOT NULL,
        name TEXT NOT NULL,
        setting TEXT NOT NULL,
        factor REAL,
        checked TEXT NOT NULL,
        who TEXT NOT NULL,
        note TEXT NOT NULL
    ) STRICT;
    CREATE TABLE reading (
        number INTEGER PRIMARY KEY,
        id TEXT NOT NULL UNIQUE,
        layout TEXT NOT NULL REFERENCES layout(id) ON DELETE CASCADE,
        revision INTEGER NOT NULL,
        test TEXT NOT NULL,
        told TEXT NOT NULL,
        meter TEXT NOT NULL,
        shown TEXT NOT NULL,
        unit TEXT NOT NULL,
        value REAL,
        amps REAL,
        before TEXT NOT NULL,
        foretold TEXT NOT NULL,
        low REAL,
        high REAL,
        sound INTEGER,
        verdict TEXT NOT NULL,
        who TEXT NOT NULL,
        done TEXT NOT NULL,
        note TEXT NOT NULL,
        withdraws TEXT NOT NULL,
        taken TEXT NOT NULL
    ) STRICT;
    CREATE INDEX reading_of_layout ON reading (layout, done);
    CREATE TABLE hunt (
        number INTEGER PRIMARY KEY,
        id TEXT NOT NULL UNIQUE,
        layout TEXT NOT NULL REFERENCES layout(id) ON DELETE CASCADE,
        revision INTEGER NOT NULL,
        symptom TEXT NOT NULL,
        who TEXT NOT NULL,
        opened TEXT NOT NULL,
        cause TEXT,
        mend TEXT NOT NULL DEFAULT '',
        minutes REAL NOT NULL DEFAULT 0,
        closed TEXT NOT NULL DEFAULT ''
    ) STRICT;
    CREATE TABLE hunt_answer (
        number INTEGER PRIMARY KEY,
        id TEXT NOT NULL UNIQUE,
        hunt TEXT NOT NULL REFERENCES hunt(id) ON DELETE CASCADE,
        act TEXT NOT NULL,
        said TEXT NOT NULL,
        who TEXT NOT NULL,
        done TEXT NOT NULL
    ) STRICT;
    """,
    """
    CREATE TABLE rehearsal (
        number INTEGER PRIMARY KEY,
        id TEXT NOT NULL UNIQUE,
        layout TEXT NOT NULL REFERENCES layout(id) ON DELETE CASCADE,
        plan_id TEXT NOT NULL,
        revision INTEGER NOT NULL,
        name TEXT NOT NULL,
        plan TEXT NOT NULL,
        seed INTEGER NOT NULL,
        engine INTEGER NOT NULL,
        came_to TEXT NOT NULL,
        who TEXT NOT NULL,
        made TEXT NOT NULL
    ) STRICT;
    CREATE INDEX rehearsal_of_layout ON rehearsal (layout, number);
    """,
    """
    CREATE TABLE show_entry (
        number INTEGER PRIMARY KEY,
        id TEXT NOT NULL UNIQUE,
        layout TEXT NOT NULL REFERENCES layout(id) ON DELETE CASCADE,
        show TEXT NOT NULL,
        day TEXT NOT NULL,
        what TEXT NOT NULL,
        state TEXT NOT NULL CHECK (state IN ('sound', 'failed', 'open')),
        note TEXT NOT NULL,
        who TEXT NOT NULL,
        done TEXT NOT NULL,
        taken TEXT NOT NULL
    ) STRICT;
    CREATE INDEX show_entry_of_layout ON show_entry (layout, day, done);
    """,
    """
    CREATE TABLE note (
        number INTEGER PRIMARY KEY,
        id TEXT NOT NULL,
        layout TEXT NOT NULL REFERENCES layout(id) ON DELETE CASCADE,
        kind TEXT NOT NULL CHECK (kind IN ('note', 'decision', 'trouble')),
        about TEXT NOT NULL,
        text TEXT NOT NULL,
        photo TEXT,
        who TEXT NOT NULL,
        made TEXT NOT NULL
    ) STRICT;
    CREATE INDEX note_of_layout ON note (layout, number);
    """,
]
