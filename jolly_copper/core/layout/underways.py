"""How far it is from one place under the boards to another, along the benchwork: for cables nobody has drawn."""

from __future__ import annotations

import heapq
import itertools
import math
from collections.abc import Sequence
from functools import lru_cache
from typing import NamedTuple

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.geometry import Box, box_of

Point = tuple[float, float]
TOUCHING_MM = 60.0


def cable_length(layout: Layout, a: Point, b: Point) -> float:
    """Length of a cable from one place to another, mm: square to the boards, from board to board where they touch.

    An estimate for cutting and buying; a tape measure comes first. Where no benchwork joins the two, straight through
    the air and half as long again.

    Args:
        layout: with its boards.
        a: mm on the plan.
        b: mm on the plan.
    """
    (far,) = cable_lengths(layout, a, [b])
    return far


def cable_lengths(layout: Layout, a: Point, others: Sequence[Point]) -> list[float]:
    """Lengths of cables from one place to many, mm; see `cable_length`."""
    boxes = tuple(_boxes(layout).values())
    here = (round(a[0]), round(a[1]))
    entered = _entered(boxes, here)
    found = []
    for b in ((round(x), round(y)) for x, y in others):
        last = _last_board(boxes, entered, b)
        found.append(1.5 * math.dist(here, b) if last is None else last[0])
    return found


def cable_joints(layout: Layout, a: Point, b: Point) -> list[tuple[float, str, str]]:
    """Where a cable from one place to another passes from board to board and one of them lifts out: mm along it, with
    both."""
    standing = _boxes(layout)
    boxes, names = tuple(standing.values()), list(standing)
    entered = _entered(boxes, (round(a[0]), round(a[1])))
    last = _last_board(boxes, entered, (round(b[0]), round(b[1])))
    found: list[tuple[float, str, str]] = []
    board = last[1] if last is not None else None
    while board is not None and (before := entered[board].before) is not None:
        one, other = names[before], names[board]
        if layout.boards[one].removable or layout.boards[other].removable:
            found.append((entered[board].far, one, other))
        board = before
    return found[::-1]


def _boxes(layout: Layout) -> dict[str, Box]:
    """Boards from the front of the plan to its back, from left to right: left, top, right and bottom, mm.

    Of two ways of one length the cable takes the one that comes first so: a railroad of equal boards has many, and
    which is taken may depend neither on names nor on the order of the file, since couplings name the joints.
    """
    found = {i: box_of(tuple((p.x, p.y) for p in board.outline)) for i, board in layout.boards.items()}
    return dict(sorted(found.items(), key=lambda item: (-item[1][3], item[1])))


class _Entry(NamedTuple):
    """How a board is come to: so far, here, from which other."""

    far: float
    at: Point
    before: int | None


def _last_board(boxes: tuple[Box, ...], entered: dict[int, _Entry], b: Point) -> tuple[float, int] | None:
    """The whole length of the shortest way to a place, and the board it ends on."""
    ways = [(e.far + abs(e.at[0] - b[0]) + abs(e.at[1] - b[1]), k) for k, e in entered.items() if _holds(boxes[k], b)]
    return min(ways, default=None)


@lru_cache(maxsize=4096)
def _entered(boxes: tuple[Box, ...], a: Point) -> dict[int, _Entry]:
    """How far from a place each board is entered, and where."""
    gates = _gates(boxes)
    best: dict[int, _Entry] = {}
    edge: list[tuple[float, int, Point, int]] = [(0.0, k, a, -1) for k, box in enumerate(boxes) if _holds(box, a)]
    heapq.heapify(edge)
    while edge:
        far, board, at, before = heapq.heappop(edge)
        if board in best:
            continue
        best[board] = _Entry(far, at, None if before < 0 else before)
        for other, (x0, y0, x1, y1) in gates.get(board, ()):
            # Through the shared edge where it is nearest to the straight way.
            x, y = min(max(at[0], x0), x1), min(max(at[1], y0), y1)
            heapq.heappush(edge, (far + abs(at[0] - x) + abs(at[1] - y), other, (x, y), board))
    return best


@lru_cache(maxsize=8)
def _gates(boxes: tuple[Box, ...]) -> dict[int, list[tuple[int, Box]]]:
    """For every board, those that touch it with what the two share."""
    found: dict[int, list[tuple[int, Box]]] = {}
    for k, j in itertools.combinations(range(len(boxes)), 2):
        a, b = boxes[k], boxes[j]
        shared = (max(a[0], b[0]), max(a[1], b[1]), min(a[2], b[2]), min(a[3], b[3]))
        if shared[2] - shared[0] >= -TOUCHING_MM and shared[3] - shared[1] >= -TOUCHING_MM:
            gate = (
                min(shared[0], shared[2]),
                min(shared[1], shared[3]),
                max(shared[0], shared[2]),
                max(shared[1], shared[3]),
            )
            found.setdefault(k, []).append((j, gate))
            found.setdefault(j, []).append((k, gate))
    return found


def _holds(box: Box, at: Point) -> bool:
    return (
        box[0] - TOUCHING_MM <= at[0] <= box[2] + TOUCHING_MM and box[1] - TOUCHING_MM <= at[1] <= box[3] + TOUCHING_MM
    )
