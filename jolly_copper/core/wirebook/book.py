"""The wire book: everything a helper needs on paper, as plain chapters of tables and drawings for any writer.

Same layout and scene, same book, to the letter. The date in it is the day the revision was made, not the day it is
printed.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

from jolly_copper.core.wirebook.sketch import Sketch

Kind = Literal["text", "figure", "colours", "tick"]


@dataclass(frozen=True)
class Column:
    """A column of a table. share: of its width against the others. A `colours` cell names wires: `red + black`; `tick`
    is an empty box to tick by hand."""

    title: str
    share: float = 1.0
    kind: Kind = "text"


@dataclass(frozen=True)
class Table:
    """Rows of text under a heading; each row has a cell for each column."""

    title: str
    columns: tuple[Column, ...]
    rows: tuple[tuple[str, ...], ...]
    note: str = ""


@dataclass(frozen=True)
class Paragraphs:
    """Plain sentences, each its own paragraph, or points of a list."""

    title: str
    lines: tuple[str, ...]
    as_list: bool = False


Block = Table | Paragraphs | Sketch


@dataclass(frozen=True)
class Chapter:
    """key: stable, for links. blocks: what stands in it, from top to bottom. short: needs no page of its own."""

    key: str
    title: str
    blocks: tuple[Block, ...]
    short: bool = False


def footer(layout: str, revision: int, made: str) -> str:
    """The line that says what a page is of: layout, change, day."""
    return f"{layout} · change {revision} · {made}"


@dataclass(frozen=True)
class Book:
    """A layout's book as of one revision. made: ISO day of that revision. called: what it is, for its cover."""

    layout: str
    club: str
    lead: str
    revision: int
    made: str
    chapters: tuple[Chapter, ...]
    called: str = "wire book"

    @property
    def footer(self) -> str:
        """What stands on every page."""
        return footer(self.layout, self.revision, self.made)

    def only(self, keys: Sequence[str]) -> Book:
        """The same book with these chapters; with all of them where none is named."""
        kept = tuple(c for c in self.chapters if c.key in keys or (c.key.startswith("board-") and "boards" in keys))
        return replace(self, chapters=kept if keys else self.chapters)
