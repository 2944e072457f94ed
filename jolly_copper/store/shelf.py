"""The layouts as a club keeps them: the archive, deleted ones with a way back, and versions with a name."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from jolly_copper.store.layouts import Store
from jolly_copper.store.revision import WHO, NotFound, now

WAY_BACK_DAYS = 30
"""A deleted layout is kept so long before it goes for good."""


@dataclass(frozen=True)
class Deleted:
    """A layout that was deleted and may be had back until `gone` (ISO time)."""

    id: str
    name: str
    deleted: str
    gone: str


@dataclass(frozen=True)
class Version:
    """A change of a layout that was given a name, so that it is found again."""

    number: int
    name: str
    note: str
    who: str
    made: str


def _touch(store: Store, layout_id: str, sql: str, values: Sequence[object] = ()) -> None:
    with store.writing() as db:
        if not db.execute(sql, (*values, layout_id)).rowcount:
            raise NotFound(f"There is no layout {layout_id}.")


def archive(store: Store, layout_id: str, away: bool = True) -> None:
    """Put a layout into the archive, or take it out again. It stays whole and can be opened there.

    Raises:
        NotFound: there is no such layout.
    """
    since = now() if away else None
    _touch(store, layout_id, "UPDATE layout SET archived = ? WHERE deleted IS NULL AND id = ?", (since,))


def remove(store: Store, layout_id: str) -> None:
    """Delete a layout. For `WAY_BACK_DAYS` it can be put back with everything it had.

    Raises:
        NotFound: there is no such layout.
    """
    _touch(store, layout_id, "UPDATE layout SET deleted = ? WHERE deleted IS NULL AND id = ?", (now(),))
    store.let_go(layout_id)


def put_back(store: Store, layout_id: str) -> None:
    """Have a deleted layout back.

    Raises:
        NotFound: it was not deleted, or has gone for good.
    """
    _touch(store, layout_id, "UPDATE layout SET deleted = NULL WHERE deleted IS NOT NULL AND id = ?")


def deleted(store: Store) -> list[Deleted]:
    """What was deleted and can still be had back, newest first."""
    with store.reading() as db:
        rows = db.execute(
            "SELECT id, name, deleted FROM layout WHERE deleted IS NOT NULL ORDER BY deleted DESC, id"
        ).fetchall()
    return [Deleted(i, name, at, _later(at)) for i, name, at in rows]


def _later(at: str) -> str:
    return (datetime.fromisoformat(at) + timedelta(days=WAY_BACK_DAYS)).isoformat(timespec="seconds")


def clear_out(store: Store, today: datetime | None = None) -> int:
    """Let go for good of what was deleted longer ago than `WAY_BACK_DAYS`. Answers how many layouts went."""
    oldest = (today or datetime.now(UTC)) - timedelta(days=WAY_BACK_DAYS)
    with store.writing() as db:
        return db.execute("DELETE FROM layout WHERE deleted < ?", (oldest.isoformat(timespec="milliseconds"),)).rowcount


def name_version(store: Store, layout_id: str, number: int, name: str, note: str = "") -> Version:
    """Give a change of a layout a name and a note; a name given before is replaced.

    Raises:
        NotFound: there is no such change.
    """
    store.get(layout_id, number)
    version = Version(number, name, note, WHO.get(), now())
    with store.writing() as db:
        db.execute(
            "INSERT INTO version (layout, number, name, note, who, made) VALUES (?, ?, ?, ?, ?, ?) "
            "ON CONFLICT (layout, number) DO UPDATE SET name = excluded.name, note = excluded.note, "
            "who = excluded.who, made = excluded.made",
            (layout_id, number, name, note, version.who, version.made),
        )
    return version


def unname_version(store: Store, layout_id: str, number: int) -> None:
    """Take a version's name away; the change itself stays.

    Raises:
        NotFound: it has no name.
    """
    with store.writing() as db:
        if not db.execute("DELETE FROM version WHERE layout = ? AND number = ?", (layout_id, number)).rowcount:
            raise NotFound(f"Change {number} has no name.")


def versions(store: Store, layout_id: str) -> list[Version]:
    """The named versions of a layout, newest first."""
    with store.reading() as db:
        rows = db.execute(
            "SELECT number, name, note, who, made FROM version WHERE layout = ? ORDER BY number DESC", (layout_id,)
        ).fetchall()
    return [Version(*row) for row in rows]
