"""Where wire may lie: beside and under the track, across from one track to the next on the same benchwork, over plugs
onto removable boards; not through the aisle."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray
from scipy import sparse
from scipy.sparse import csgraph
from scipy.spatial import cKDTree

from jolly_copper.core.layout.document import Board, Layout
from jolly_copper.core.layout.geometry import Polyline, draw

STEP_MM = 250.0
ASIDE_MM = 45.0
"""Wire lies so far beside the middle of the track, so that a drill through the roadbed misses it."""
ACROSS_MM = 420.0
"""Tracks this near each other have wire going straight across between them."""
ACROSS_COST = 1.15
REMOVABLE_COST = 5.0
AISLE_COST = 8.0
"""A metre through a removable board, or through an aisle where there is no other way, weighs as so many."""

THROUGH_A_DEVICE_COST = 30.0

Floats = NDArray[np.float64]
Outline = list[tuple[float, float]]


@dataclass(frozen=True)
class Corridors:
    """Places wire may pass, and what a step between neighbours costs: mm, weighed. Shapes (N, 2) and (N, N)."""

    places: Floats
    cost: sparse.csr_matrix
    near: cKDTree = field(repr=False)

    def nearest(self, x: float, y: float) -> int:
        """The place nearest to a point of the plan."""
        return int(self.near.query((x, y))[1])


def inside(outline: Outline, x: float, y: float) -> bool:
    """Whether a point lies in a polygon (even-odd rule)."""
    found = False
    for (ax, ay), (bx, by) in zip(outline, [*outline[1:], outline[0]], strict=True):
        if (ay > y) != (by > y) and x < ax + (y - ay) * (bx - ax) / (by - ay):
            found = not found
    return found


def outline_of(board: Board) -> Outline:
    """A board's corners."""
    return [(p.x, p.y) for p in board.outline]


def beside(line: Polyline, along: float) -> tuple[float, float]:
    """The place beside a track's middle where its wire lies: to the right, seen from A to B."""
    before, after = line.point(max(along - 10, 0)), line.point(min(along + 10, line.length))
    span = math.dist(before, after) or 1.0
    x, y = line.point(along)
    return x - (after[1] - before[1]) / span * ASIDE_MM, y + (after[0] - before[0]) / span * ASIDE_MM


def map_corridors(layout: Layout, extra: Sequence[tuple[float, float]] = (), ends_of_wire: int = 0) -> Corridors:
    """The corridors of a layout, all in one piece.

    Args:
        layout: the document.
        extra: places that must be reachable though they lie away from the track: devices, panels. They come last.
        ends_of_wire: so many of the last of them are ends: no wire passes through them to another place.
    """
    places: list[tuple[float, float]] = []
    along: dict[tuple[int, int], float] = {}
    ends: dict[str, list[int]] = defaultdict(list)
    for track in layout.tracks.values():
        line = draw(track.path)
        count = max(2, math.ceil(line.length / STEP_MM) + 1)
        first = len(places)
        places += [beside(line, line.length * k / (count - 1)) for k in range(count)]
        for k in range(first, len(places) - 1):
            along[k, k + 1] = math.dist(places[k], places[k + 1])
        ends[track.a.node].append(first)
        ends[track.b.node].append(len(places) - 1)
    for meeting in ends.values():
        for other in meeting[1:]:
            along[meeting[0], other] = math.dist(places[meeting[0]], places[other])
    on_track = len(places)
    places += list(extra)
    if not places:
        return Corridors(np.zeros((0, 2)), sparse.csr_matrix((0, 0)), cKDTree(np.zeros((1, 2))))
    xy = np.array(places, dtype=float)
    tree = cKDTree(xy)
    across = {pair for pair in tree.query_pairs(ACROSS_MM) if pair not in along}
    for k in range(on_track, len(places)):
        for other in tree.query(xy[k], k=min(5, len(places)))[1]:
            across.add((min(k, int(other)), max(k, int(other))))
    weight = _Weigher(layout)
    links = {(a, b): weight.along(places[a], places[b]) for a, b in along}
    ends_from = len(places) - ends_of_wire
    for a, b in across:
        if a != b:
            links[a, b] = weight.across(places[a], places[b]) * (THROUGH_A_DEVICE_COST if b >= ends_from else 1.0)
    _join_parts(xy, links)
    rows, columns = np.array(list(links), dtype=int).reshape(-1, 2).T
    values = np.maximum(np.array(list(links.values())), 1e-3)
    cost = sparse.coo_matrix((values, (rows, columns)), shape=(len(places),) * 2).tocsr()
    return Corridors(xy, (cost + cost.T).tocsr(), tree)


class _Weigher:
    """What a step costs: its length, more on a board that lifts out, much more through the air of an aisle."""

    def __init__(self, layout: Layout) -> None:
        self.boards = [(outline_of(b), b.removable) for b in layout.boards.values()]

    def along(self, a: tuple[float, float], b: tuple[float, float]) -> float:
        """Under a track."""
        middle = (a[0] + b[0]) / 2, (a[1] + b[1]) / 2
        lifts = any(removable and inside(outline, *middle) for outline, removable in self.boards)
        return math.dist(a, b) * (REMOVABLE_COST if lifts else 1.0)

    def across(self, a: tuple[float, float], b: tuple[float, float]) -> float:
        """From one track to another, or to a device."""
        middle = (a[0] + b[0]) / 2, (a[1] + b[1]) / 2
        under = not self.boards or any(inside(outline, *middle) for outline, _ in self.boards)
        return self.along(a, b) * ACROSS_COST * (1.0 if under else AISLE_COST)


def _join_parts(xy: Floats, links: dict[tuple[int, int], float]) -> None:
    """Bridge parts of the corridors that nothing joins by the shortest way, through the aisle if need be."""
    while True:
        rows, columns = np.array(list(links), dtype=int).reshape(-1, 2).T if links else (np.zeros(0, int),) * 2
        graph = sparse.coo_matrix((np.ones(len(rows)), (rows, columns)), shape=(len(xy),) * 2)
        count, part = csgraph.connected_components(graph, directed=False)
        if count == 1:
            return
        mine, others = np.flatnonzero(part == part[0]), np.flatnonzero(part != part[0])
        far, nearest = cKDTree(xy[mine]).query(xy[others])
        k = int(np.argmin(far))
        a, b = sorted((int(mine[nearest[k]]), int(others[k])))
        links[a, b] = AISLE_COST * float(far[k])
