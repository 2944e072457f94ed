"""Which board a place of the plan lies on, and the order boards are named and built in."""

from __future__ import annotations

from collections import defaultdict, deque
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

from jolly_copper.core.layout.document import Board, Layout
from jolly_copper.core.layout.geometry import Box, Outline, Polyline, box_of, crossings, inside
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


def lifting_boards(layout: Layout) -> tuple[str, ...]:
    """Boards that lift out, in the order of their names."""
    return tuple(i for i in boards_in_order(layout) if layout.boards[i].removable)


def lifting_finder(layout: Layout) -> Finder:
    """Which of the boards that lift out is under a place; None on what stays, whichever board that is."""
    return finder([(i, layout.boards[i].corners) for i in lifting_boards(layout)])


def board_finder(layout: Layout) -> Finder:
    """`board_at` for many places of one layout: its boards are put in order, and boxed, once.

    The boards last asked about are remembered by identity (they are never changed in place), a few at most.
    """
    for boards, known in _FINDERS:
        if boards is layout.boards:
            return known
    made = finder([(i, layout.boards[i].corners) for i in boards_in_order(layout)])
    _FINDERS.append((layout.boards, made))
    return made


CELLS_ACROSS = 64
"""Cells that the benchwork is parted into each way, so that a place asks only the few boards near it."""


def finder(outlines: Sequence[tuple[str, Outline]]) -> Finder:
    """Which of some outlines a place lies in: the first of them where they overlap, None beside all."""
    if not outlines:
        return lambda x, y: None
    boxes = [box_of(tuple(corners)) for _, corners in outlines]
    left, top = min(b[0] for b in boxes), min(b[1] for b in boxes)
    reach = max(max(b[2] for b in boxes) - left, max(b[3] for b in boxes) - top)
    cell = max(reach / CELLS_ACROSS, 1.0)
    cells: dict[tuple[int, int], list[tuple[str, Outline | None, Box]]] = defaultdict(list)
    for (i, outline), box in zip(outlines, boxes, strict=True):
        corners = None if _is_box(outline) else outline
        for cx in range(int((box[0] - left) / cell), int((box[2] - left) / cell) + 1):
            for cy in range(int((box[1] - top) / cell), int((box[3] - top) / cell) + 1):
                cells[cx, cy].append((i, corners, box))
    nothing: list[tuple[str, Outline | None, Box]] = []

    def find(x: float, y: float) -> str | None:
        for i, corners, (x0, y0, x1, y1) in cells.get((int((x - left) / cell), int((y - top) / cell)), nothing):
            if x0 <= x <= x1 and y0 <= y <= y1 and (corners is None or inside(corners, x, y)):
                return i
        return None

    return find


def _is_box(outline: Outline) -> bool:
    """Whether a shape has four corners and four sides along the axes: then it is all of its box."""
    sides = zip(outline, [*outline[1:], outline[0]], strict=True)
    return len(set(outline)) == len(outline) == 4 and all(a == c or b == d for (a, b), (c, d) in sides)


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


def off_the_joint(layout: Layout, at: tuple[float, float], by: float = 100.0) -> tuple[float, float]:
    """A place moved so far inside its board, mm, where that lifts out: nothing is mounted across a joint."""
    board = board_at(layout, *at)
    if board is None or not layout.boards[board].removable:
        return at
    corners = layout.boards[board].corners
    found = []
    for k, value in enumerate(at):
        low, high = min(c[k] for c in corners), max(c[k] for c in corners)
        inset = min(by, (high - low) / 2)
        found.append(min(max(value, low + inset), high - inset))
    return found[0], found[1]
