"""How far it is from one place under the boards to another, along the benchwork: for cables nobody has drawn."""

from __future__ import annotations

import heapq
import itertools
import math
from collections.abc import Sequence
from functools import lru_cache

from jolly_copper.core.layout.document import Layout

Point = tuple[float, float]
Box = tuple[float, float, float, float]
TOUCHING_MM = 60.0


def cable_length(layout: Layout, a: Point, b: Point) -> float:
    """Length of a cable from one place to another, mm: square to the boards, from board to board where they touch.

    An estimate for cutting and buying; a tape measure comes first. Where no benchwork joins the two, straight through the
    air and half as long again.

    Args:
        layout: with its boards.
        a: mm on the plan.
        b: mm on the plan.
    """
    (far,) = cable_lengths(layout, a, [b])
    return far


def cable_lengths(layout: Layout, a: Point, others: Sequence[Point]) -> list[float]:
    """Lengths of cables from one place to many, mm; see `cable_length`."""
    boxes = tuple(
        (min(p.x for p in board.outline), min(p.y for p in board.outline), max(p.x for p in board.outline), max(p.y for p in board.outline))
        for board in layout.boards.values()
    )  # fmt: skip
    here = (round(a[0]), round(a[1]))
    entered = _entered(boxes, here)
    found = []
    for b in ((round(x), round(y)) for x, y in others):
        ways = [
            far + abs(at[0] - b[0]) + abs(at[1] - b[1])
            for k, (far, at) in entered.items() if _holds(boxes[k], b)
        ]  # fmt: skip
        found.append(min(ways, default=1.5 * math.dist(here, b)))
    return found


@lru_cache(maxsize=4096)
def _entered(boxes: tuple[Box, ...], a: Point) -> dict[int, tuple[float, Point]]:
    """How far from a place each board is entered, and where."""
    gates = _gates(boxes)
    best: dict[int, tuple[float, Point]] = {}
    edge: list[tuple[float, int, Point]] = [(0.0, k, a) for k, box in enumerate(boxes) if _holds(box, a)]
    heapq.heapify(edge)
    while edge:
        far, board, at = heapq.heappop(edge)
        if board in best:
            continue
        best[board] = (far, at)
        for other, (x0, y0, x1, y1) in gates.get(board, ()):
            # Through the shared edge where it is nearest to the straight way.
            x, y = min(max(at[0], x0), x1), min(max(at[1], y0), y1)
            heapq.heappush(edge, (far + abs(at[0] - x) + abs(at[1] - y), other, (x, y)))
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
