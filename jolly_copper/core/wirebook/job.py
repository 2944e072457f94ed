"""One job of a change order, what it takes in time, and the words and pieces it is told with."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from typing import Literal

from jolly_copper.core.layout.connections import CONDUCTORS
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.ids import natural
from jolly_copper.core.quantities import print_length
from jolly_copper.core.wirebook.control_jobs import (
    SAME_LENGTH_MM,
    JobKind,
    made_of,
)
from jolly_copper.core.wirebook.piece import Piece
from jolly_copper.core.wirebook.pieces import feeder_colours, pieces

MINUTES: dict[tuple[str, JobKind], float] = {
    ("gap", "cut"): 10,
    ("gap", "take away"): 15,
    ("terminal", "add"): 10,
    ("terminal", "move"): 15,
    ("terminal", "take away"): 5,
    ("run", "add"): 15,
    ("run", "cut"): 20,
    ("run", "take away"): 8,
    ("feeder", "add"): 15,
    ("feeder", "move"): 10,
    ("feeder", "take away"): 5,
    ("plug", "add"): 15,
    ("plug", "take away"): 5,
    ("device", "add"): 30,
    ("device", "move"): 20,
    ("device", "take away"): 10,
    ("device", "set"): 5,
    ("load", "add"): 15,
    ("load", "take away"): 5,
    ("load", "move"): 10,
    ("filter", "add"): 10,
    ("filter", "take away"): 3,
}
"""How long a pair of practised hands takes, minutes. Common practice, no source: they order the evenings, no more."""


@dataclass(frozen=True)
class Job:
    """One thing to do. key: `add feeder:F90`. puts: entries of the document that stand changed once it is done, as
    (map, id).

    after: keys of jobs that come first. zone: jobs with the same zone are one changeover, done in one go; a stretch of
    the new railroad's rail, or below 0 a device joined anew. board: where.
    """

    key: str
    kind: JobKind
    thing: str
    label: str
    words: str
    board: str | None
    minutes: float
    puts: tuple[tuple[str, str], ...]
    after: frozenset[str] = frozenset()
    zone: int | None = None


def _by_run(layout: Layout) -> dict[str, list[Piece]]:
    found: dict[str, list[Piece]] = defaultdict(list)
    for piece in pieces(layout):
        if piece.kind == "run":
            found[piece.owner].append(piece)
    return {i: sorted(p, key=lambda x: natural(x.key)) for i, p in found.items()}


def _chain(whole: Piece, now: list[Piece]) -> list[Piece]:
    """New pieces that an old one becomes by cutting it where terminals or plugs came in; empty where it does not."""
    found: list[Piece] = []
    at = whole.start_short
    for piece in now:
        if piece.start_short == at and made_of(piece) == made_of(whole):
            found.append(piece)
            at = piece.end_short
            if at == whole.end_short:
                fits = sum(p.length for p in found) <= whole.length + SAME_LENGTH_MM
                return found if fits and len(found) > 1 else []
    return []


def _wears(layout: Layout, feeder: str) -> tuple[str, ...]:
    return feeder_colours(layout, layout.feeders[feeder], CONDUCTORS)


def _lay_words(piece: Piece, units: Literal["imperial", "metric"]) -> str:
    end = "its free end, kept apart and covered" if piece.end_short == "free" else piece.end
    return (
        f"Lay {piece.label} from {piece.start} to {end}: {piece.gauge} {piece.strands}, {' and '.join(piece.colours)}, "
        f"{piece.make}, each cut to {print_length(piece.cut, units)}."
    )
