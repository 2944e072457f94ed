"""How long a train may be inside one stretch: the longest way through it without turning back."""

from __future__ import annotations

from collections.abc import Collection

from jolly_copper.core.rails.pieces import Piece, RailMap
from jolly_copper.core.rails.ways import TrackEnd, Ways

MOST_STEPS = 4000
"""Steps of the search in one stretch; a yard with more ways than that is answered by the longest found, which is never
too long."""


def longest_way(rails: RailMap, ways: Ways, stretch: Collection[Piece]) -> float:
    """The longest way a train can stand in a stretch of pieces, mm, over turnouts set as it needs them.

    Args:
        rails, ways: of the same layout.
        stretch: pieces; the way never leaves them.
    """
    inside = set(stretch)
    best, steps = 0.0, MOST_STEPS
    for first in sorted(inside):
        for forward in (True, False):
            stack: list[tuple[Piece, bool, float, frozenset[Piece]]] = [(first, forward, 0.0, frozenset((first,)))]
            while stack and steps > 0:
                steps -= 1
                piece, ahead, so_far, seen = stack.pop()
                then = so_far + piece.end - piece.start
                best = max(best, then)
                for onward, way in _onward(rails, ways, piece, ahead):
                    if onward in inside and onward not in seen:
                        stack.append((onward, way, then, seen | {onward}))
    return best


def _onward(rails: RailMap, ways: Ways, piece: Piece, forward: bool) -> list[tuple[Piece, bool]]:
    pieces = rails.pieces[piece.track]
    k = pieces.index(piece) + (1 if forward else -1)
    if 0 <= k < len(pieces):
        return [(pieces[k], forward)]
    leaving = ways.onward(TrackEnd(piece.track, "b" if forward else "a"))
    return [(rails.end_piece(e.track, e.end), e.end == "a") for e in leaving]
