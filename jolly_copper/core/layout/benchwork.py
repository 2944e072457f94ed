"""Which board a place of the plan lies on, and the order boards are named and built in."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterable
from dataclasses import dataclass

from jolly_copper.core.layout.document import Board, Layout
from jolly_copper.core.layout.geometry import Polyline, crossings, inside
from jolly_copper.core.layout.ids import natural

Finder = Callable[[float, float], str | None]
_FINDERS: deque[tuple[dict[str, Board], Finder]] = deque(maxlen=4)


def board_at(layout: Layout, x: float, y: float) -> str | None:
    """The board under a place of the plan, the first in order where boards overlap; None beside all of them.

    Args:
        layout: the layout.
        x: mm right of the plan's origin.
        y: mm below it.
    """
    return board_finder(layout)(x, y)


def board_finder(layout: Layout) -> Finder:
    """`board_at` for many places of one layout: its boards are put in order, and boxed, once.

    The boards last asked about are remembered by identity (they are never changed in place), a few at most.
    """
    for boards, known in _FINDERS:
        if boards is layout.boards:
            return known
    made = _make_finder(layout)
    _FINDERS.append((layout.boards, made))
    return made


def _make_finder(layout: Layout) -> Finder:
    boxed = []
    for i in boards_in_order(layout):
        corners = layout.boards[i].corners
        xs, ys = [c[0] for c in corners], [c[1] for c in corners]
        boxed.append((i, corners, min(xs), max(xs), min(ys), max(ys)))

    def find(x: float, y: float) -> str | None:
        for i, corners, left, right, top, bottom in boxed:
            if left <= x <= right and top <= y <= bottom and inside(corners, x, y):
                return i
        return None

    return find


def boards_in_order(layout: Layout) -> list[str]:
    """Board ids in the order of their names, numbers as numbers: 2 before 10."""
    return sorted(layout.boards, key=lambda i: (natural(layout.boards[i].name), i))


def board_name(layout: Layout, board: str | None) -> str:
    """How a board is spoken of: `Board 6 bridge`; wire beside all boards hangs off the boards."""
    return f"Board {layout.boards[board].name}" if board is not None else "Off the boards"


def in_board_order(layout: Layout, boards: Iterable[str | None]) -> list[str | None]:
    """These boards in order of name, each once, what hangs off the boards last."""
    rank: dict[str | None, int] = {i: n for n, i in enumerate(boards_in_order(layout))}
    return sorted(set(boards), key=lambda b: rank.get(b, len(rank)))


ONE_JOINT_MM = 150.0
"""Edges of two boards that lift out, met this near to each other along a wire, are one joint between them."""


@dataclass(frozen=True)
class LiftingJoint:
    """A place where a line leaves or enters boards that lift out. at: mm along it as drawn. boards: those that lift
    there."""

    at: float
    boards: tuple[str, ...]


def lifting_joints(layout: Layout, line: Polyline) -> list[LiftingJoint]:
    """Where a line crosses the edges of boards that lift out, in order along it. Where both boards of a joint lift,
    once."""
    met = sorted((at, i) for i, b in layout.boards.items() if b.removable for at in crossings(line, [b.corners]))
    found: list[LiftingJoint] = []
    for at, board in met:
        last = found[-1] if found else None
        if last is not None and at - last.at <= ONE_JOINT_MM and len(last.boards) == 1 and board != last.boards[0]:
            found[-1] = LiftingJoint(round((last.at + at) / 2, 1), (last.boards[0], board))
        else:
            found.append(LiftingJoint(at, (board,)))
    return found
