"""The notebook: notes and decisions about anything, with who wrote them and when, and a photo where there is one.

Rows of their own beside the layouts. A note is changed by another that takes its place, and taken back by one that is
empty; nothing is lost.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from jolly_copper.store.layouts import Store
from jolly_copper.store.revision import NotFound, now

NoteKind = Literal["note", "decision", "trouble"]
FIELDS = "id, kind, about, text, photo, who, made"
MOST_OF_A_LAYOUT = 20_000


@dataclass(frozen=True)
class Note:
    """about: `board:b6`, `track:T3`, or empty for the whole railroad. photo: its picture, by id."""

    id: str
    kind: NoteKind
    about: str
    text: str
    photo: str | None
    who: str
    made: str


def write_note(store: Store, layout_id: str, note: Note) -> None:
    """Write a note, or put it in the place of the one that has its id; with no text and no photo it is taken back.

    Raises:
        NotFound: there is no such layout. ValueError: as many are kept as may be.
    """
    with store.writing() as db:
        if db.execute("SELECT 1 FROM layout WHERE id = ?", (layout_id,)).fetchone() is None:
            raise NotFound(f"There is no layout {layout_id}.")
        if db.execute("SELECT COUNT(*) FROM note WHERE layout = ?", (layout_id,)).fetchone()[0] >= MOST_OF_A_LAYOUT:
            raise ValueError(f"{MOST_OF_A_LAYOUT} notes are kept for a layout; this would be one more.")
        db.execute(
            f"INSERT INTO note (layout, {FIELDS}) VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
            (layout_id, note.id, note.kind, note.about, note.text, note.photo, note.who, note.made or now()),
        )


def notes_of(store: Store, layout_id: str) -> list[Note]:
    """What stands in the notebook, the newest first: of each note its last writing."""
    with store.reading() as db:
        rows = db.execute(f"SELECT {FIELDS} FROM note WHERE layout = ? ORDER BY number", (layout_id,)).fetchall()
    last = {row[0]: Note(*row) for row in rows}
    found = [n for n in last.values() if n.text or n.photo]
    return sorted(found, key=lambda n: (n.made, n.id), reverse=True)
