"""Traffic direction between junctions: which signals lead into one line from its two ends, and must not both be given.

A signal keeps trains apart on its own way. Where line between two junctions is run over both ways it takes more: once a
train was let in at one end, nobody comes in at the other until the line is empty. Common practice, no source.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from jolly_copper.core.rails.pieces import Piece
from jolly_copper.core.signals.aspects import Signalling
from jolly_copper.core.signals.single_lines import Line, Over, find_lines


@dataclass(frozen=True)
class DirectionLock:
    """Line between two junctions that is run over both ways. sections: numbers of its stretches, in no order. one,
    other: signals that let trains in at the one end, and at the other."""

    sections: tuple[int, ...]
    one: tuple[str, ...]
    other: tuple[str, ...]


def direction_locks(known: Signalling) -> tuple[DirectionLock, ...]:
    """Every line that wants a direction, by the signals that lead into it."""
    number = {p: n for n, p in enumerate(p for ps in known.rails.pieces.values() for p in ps)}
    extent = {n: known.rails.extent_of[p] for p, n in number.items()}
    plain = {n for n, e in extent.items() if not _has_points(known, e)}
    runs = {s: [list(x) for x in _runs(known, s, number, plain)] for s in known.routes}
    found = []
    for line in find_lines(runs):
        inside = frozenset(extent[n] for n in line.first)
        one, other = (_leading_in(known, line, runs, inside, way) for way in (1, -1))
        if one and other:
            found.append(DirectionLock(tuple(sorted(inside)), one, other))
    return tuple(found)


def _has_points(known: Signalling, extent: int) -> bool:
    """Whether a way may branch within a stretch."""
    nodes = known.layout.nodes
    for piece in known.rails.extents[extent]:
        track = known.layout.tracks[piece.track]
        ends = ((piece.start <= 0.5, track.a), (piece.end >= known.rails.lengths[piece.track] - 0.5, track.b))
        if any(there and nodes[port.node].kind not in ("joint", "bumper") for there, port in ends):
            return True
    return False


def _runs(known: Signalling, signal: str, number: dict[Piece, int], plain: set[int]) -> Iterator[Over]:
    """What a signal's ways run over between junctions, piece by piece."""
    for route in known.routes[signal]:
        over: list[tuple[int, str]] = []
        for leg in route.legs:
            pieces = known.rails.pieces[leg.track]
            towards = "b" if leg.start <= leg.finish else "a"
            for piece in pieces if towards == "b" else reversed(pieces):
                if min(piece.end, leg.high) - max(piece.start, leg.low) <= 0.5:
                    continue
                if number[piece] in plain:
                    over.append((number[piece], towards))
                elif over:
                    yield over
                    over = []
        if over:
            yield over


def _leading_in(
    known: Signalling, line: Line, runs: dict[str, list[list[tuple[int, str]]]], inside: frozenset[int], way: int
) -> tuple[str, ...]:
    """Signals that stand outside a line and let trains into it one way."""
    return tuple(
        s
        for s, overs in runs.items()
        if known.approach[s] not in inside and any(way in line.ways(over) for over in overs)
    )
