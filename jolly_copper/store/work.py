"""Work done under the boards: rows of their own, beside the layouts, never changed once written.

An entry carries an id its phone gave it, so that sending it twice, after a lost connection, keeps it once. What
counts for a task is the entry done last.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from jolly_copper.store.layouts import Store
from jolly_copper.store.revision import NotFound, now

State = Literal["wired", "tested", "trouble", "open"]


@dataclass(frozen=True)
class Entry:
    """What somebody did to a task, or takes back (`open`).

    id: given by who sends it. task: its key in the wire book. done: ISO time by the phone's clock. told: mark of what
    the phone showed of the task.
    """

    id: str
    task: str
    state: State
    note: str
    reading: str
    who: str
    done: str
    told: str


FIELDS = "id, task, state, note, reading, who, done, told"


def add_work(store: Store, layout_id: str, entries: Sequence[Entry]) -> int:
    """Keeps entries; those kept already are left as they are. A time ahead of this machine's counts as now.

    Returns:
        How many were new.

    Raises:
        NotFound: there is no such layout.
    """
    taken = now()
    with store.writing() as db:
        if db.execute("SELECT 1 FROM layout WHERE id = ?", (layout_id,)).fetchone() is None:
            raise NotFound(f"There is no layout {layout_id}.")
        added = 0
        for e in entries:
            added += db.execute(
                "INSERT OR IGNORE INTO work (layout, taken, id, task, state, note, reading, who, done, told) VALUES "
                "(?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
                (layout_id, taken, e.id, e.task, e.state, e.note, e.reading, e.who, min(e.done, taken), e.told),
            ).rowcount
    return added


def work_of(store: Store, layout_id: str) -> dict[str, Entry]:
    """What counts for each task: its last entry, by the time it was done, then by the time it came in."""
    with store.reading() as db:
        rows = db.execute(f"SELECT {FIELDS} FROM work WHERE layout = ? ORDER BY done, number", (layout_id,)).fetchall()
    return {row[1]: Entry(*row) for row in rows}


def work_log(store: Store, layout_id: str, most: int = 500) -> list[Entry]:
    """The newest entries, newest first."""
    with store.reading() as db:
        rows = db.execute(
            f"SELECT {FIELDS} FROM work WHERE layout = ? ORDER BY done DESC, number DESC LIMIT ?", (layout_id, most)
        ).fetchall()
    return [Entry(*row) for row in rows]
