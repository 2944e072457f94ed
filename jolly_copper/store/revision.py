"""A layout as of one change, as it is read, as it lies in its row, and what can go wrong with asking for it."""

from __future__ import annotations

import hashlib
from contextvars import ContextVar
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any, NamedTuple

from jolly_copper.core.layout.document import Layout
from jolly_copper.store.keeping import Data

WHO: ContextVar[str] = ContextVar("who", default="")
"""Who is changing things: set for a request, written beside every change made in it."""


class NotFound(LookupError):
    """No such layout, or no such revision of it."""


class NameTaken(ValueError):
    """There is a layout of that id already."""


class Conflict(Exception):
    """Somebody else saved first. Carries the newer revision."""

    def __init__(self, current: Revision) -> None:
        self.current = current
        super().__init__(f"The layout is at change {current.number} by now.")


@dataclass(frozen=True)
class Revision:
    """A layout as of one change. `can_undo` and `can_redo` name the change in question, or are None.

    mark: a digest of the document; the same document has the same. mended: what was damaged in the club file and what
    stands instead, None where all is well.
    """

    layout_id: str
    number: int
    summary: str
    made: str
    data: Data
    layout: Layout
    can_undo: str | None
    can_redo: str | None
    mark: str
    mended: str | None = None
    who: str = ""


@dataclass(frozen=True)
class Read:
    data: Data
    layout: Layout
    mark: str
    size: int
    mended: str | None = None


class Row(NamedTuple):
    """A change as it is written. The stacks of what can be undone and redone are linked lists among the rows.

    undo_top: the edit that would be taken back next. redo_top: the row whose undoing would be made good next.
    below: what lies below this one, an edit or a redo on the first stack, an undo on the second. undone: the edit that
    an undo took back.
    """

    layout: str
    number: int
    kind: str
    summary: str
    patch: Any
    undo_top: int | None
    redo_top: int | None
    below: int | None
    undone: int | None


class Top(NamedTuple):
    undo: int | None
    redo: int | None
    whole: int
    whole_made: str


def mark_of(layout: Layout) -> tuple[str, int]:
    """A digest of a document, and its size as JSON."""
    text = layout.model_dump_json().encode()
    return hashlib.blake2b(text, digest_size=16).hexdigest(), len(text)


def now() -> str:
    """This moment, ISO, to the millisecond."""
    return datetime.now(UTC).isoformat(timespec="milliseconds")
