"""What was tried at shows and how it went: rows of their own beside the layouts, never changed once written."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from jolly_copper.store.layouts import Store
from jolly_copper.store.revision import NotFound, now

ShowState = Literal["sound", "failed", "open"]
FIELDS = "id, show, day, what, state, note, who, done"
MOST_OF_A_LAYOUT = 20_000


@dataclass(frozen=True)
class ShowEntry:
    """How one test went at one show; `open` takes back what was said.

    id: given by who sends it. show: what the show is called; day: ISO. what: key of the test. done: ISO time.
    """

    id: str
    show: str
    day: str
    what: str
    state: ShowState
    note: str
    who: str
    done: str


def add_show_entries(store: Store, layout_id: str, entries: Sequence[ShowEntry]) -> None:
    """Keep entries; those kept already stay as they are. A time ahead of this machine's counts as now.

    Raises:
        NotFound: there is no such layout. ValueError: as many are kept as may be.
    """
    taken = now()
    with store.writing() as db:
        if db.execute("SELECT 1 FROM layout WHERE id = ?", (layout_id,)).fetchone() is None:
            raise NotFound(f"There is no layout {layout_id}.")
        count = db.execute("SELECT COUNT(*) FROM show_entry WHERE layout = ?", (layout_id,)).fetchone()[0]
        if count + len(entries) > MOST_OF_A_LAYOUT:
            raise ValueError(f"{MOST_OF_A_LAYOUT} entries of shows are kept for a layout; this would be more.")
        for e in entries:
            db.execute(
                f"INSERT OR IGNORE INTO show_entry (layout, taken, {FIELDS}) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
                (layout_id, taken, e.id, e.show, e.day, e.what, e.state, e.note, e.who, min(e.done, taken)),
            )


def show_entries(store: Store, layout_id: str) -> list[ShowEntry]:
    """What counts for each test at each show: its last entry. The newest show first."""
    with store.reading() as db:
        rows = db.execute(
            f"SELECT {FIELDS} FROM show_entry WHERE layout = ? ORDER BY day DESC, show, done, number", (layout_id,)
        ).fetchall()
    last = {(row[1], row[2], row[3]): ShowEntry(*row) for row in rows}
    return [e for e in last.values() if e.state != "open"]
