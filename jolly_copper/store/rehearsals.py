"""Rehearsals that were kept: rows beside the revisions, each with the plan as it ran and what it came to."""

from __future__ import annotations

import json
from dataclasses import dataclass
from typing import Any

from jolly_copper.store.layouts import Store
from jolly_copper.store.revision import NotFound, now

MOST_KEPT = 400
FIELDS = "id, plan_id, revision, name, plan, seed, engine, came_to, who, made"


@dataclass(frozen=True)
class Record:
    """A rehearsal as it ran. plan_id: which plan of the layout it was. revision: of the layout then. plan: with every
    fault at its second. engine: the version it was worked out by. came_to: its sentences."""

    id: str
    plan_id: str
    revision: int
    name: str
    plan: dict[str, Any]
    seed: int
    engine: int
    came_to: list[dict[str, Any]]
    who: str = ""
    made: str = ""


def keep_rehearsal(store: Store, layout_id: str, record: Record) -> None:
    """Keep a rehearsal; the same id again changes nothing.

    Raises:
        NotFound: there is no such layout. ValueError: as many are kept as may be.
    """
    with store.writing() as db:
        if db.execute("SELECT 1 FROM layout WHERE id = ?", (layout_id,)).fetchone() is None:
            raise NotFound(f"There is no layout {layout_id}.")
        count = db.execute("SELECT COUNT(*) FROM rehearsal WHERE layout = ?", (layout_id,)).fetchone()[0]
        if count >= MOST_KEPT:
            raise ValueError(f"{MOST_KEPT} rehearsals are kept for this layout; throw some away first.")
        db.execute(
            f"INSERT OR IGNORE INTO rehearsal (layout, {FIELDS}) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
            (
                layout_id,
                record.id,
                record.plan_id,
                record.revision,
                record.name,
                json.dumps(record.plan),
                record.seed,
                record.engine,
                json.dumps(record.came_to),
                record.who,
                now(),
            ),
        )


def rehearsals(store: Store, layout_id: str) -> list[Record]:
    """Those kept of a layout, the newest first."""
    with store.reading() as db:
        rows = db.execute(
            f"SELECT {FIELDS} FROM rehearsal WHERE layout = ? ORDER BY number DESC", (layout_id,)
        ).fetchall()
    return [
        Record(i, plan_id, revision, name, json.loads(plan), seed, engine, json.loads(came_to), who, made)
        for i, plan_id, revision, name, plan, seed, engine, came_to, who, made in rows
    ]


def forget_rehearsal(store: Store, layout_id: str, record_id: str) -> None:
    """Throw one away.

    Raises:
        NotFound: there is none of that id.
    """
    with store.writing() as db:
        gone = db.execute("DELETE FROM rehearsal WHERE layout = ? AND id = ?", (layout_id, record_id)).rowcount
    if not gone:
        raise NotFound("That rehearsal is not kept any more.")
