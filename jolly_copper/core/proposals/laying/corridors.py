"""Where wire may lie: under the track, along the edges of the boards or freely below them, as the school has it; across
from one to the other on the same benchwork, over plugs onto removable boards, round what is in the way; not through the
aisle."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Callable, Hashable, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from scipy import sparse
from scipy.sparse import csgraph
from scipy.spatial import cKDTree

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.fields import Bend
from jolly_copper.core.layout.geometry import Polyline, crossings, draw, inside
from jolly_copper.core.rails.pieces import Joined

Fits = Callable[[tuple[float, float]], bool]
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
SAME_PLACE_MM = 12.0
THROUGH_COST = 60.0
"""A metre through a brace or a leg weighs as so many: only where there is no way round."""
ROUND_MM = 40.0
"""Wire keeps so far from what it goes round."""
EDGE_MM = 60.0
"""Wire along a board's edge lies so far inside it, where a hand reaches it from the aisle."""
OFF_THE_WAY = 2.5
"""Along the edges of the boards: a metre elsewhere weighs as so many."""
GRID_MM = 260.0

Way = Literal["under the track", "along the edges", "free"]
WAYS: dict[Way, str] = {
    "under the track": "Feeders are shortest, and whoever looks for a wire looks under its track.",
    "along the edges": "Within reach from the aisle, clear of motors and roadbed; feeders and bus are longer.",
    "free": "The shortest bus, straight across below the boards.",
}
"""Schools of where buses lie, with their reasons. Common practice, no source."""

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


@dataclass(frozen=True)
class Corridors:
    """Places wire may pass, and what a step between neighbours costs: mm, weighed. Shapes (N, 2) and (N, N).

    landings: places a terminal may stand at, those of the school first: the next is asked when none of the first is in
    reach.
    """

    places: Floats
    cost: sparse.csr_matrix
    landings: tuple[Ints, ...]

    @cached_property
    def _near(self) -> list[tuple[Ints, cKDTree]]:
        return [(some, cKDTree(self.places[some])) for some in self.landings if len(some)]

    def nearest(
        self, x: float, y: float, reach: float = math.inf, fits: Callable[[tuple[float, float]], bool] | None = None
    ) -> int:
        """The place a point of the plan is served from: of the school's own if one is in reach, else the nearest there
        is. fits: places to be chosen before all others in reach, where there are any."""
        best: tuple[float, int] | None = None
        for some, tree in self._near:
            if fits is None:
                break
            there = [(float(tree.data[k][0]), float(tree.data[k][1]), k) for k in tree.query_ball_point((x, y), reach)]
            near = min(((math.dist((px, py), (x, y)), k) for px, py, k in there if fits((px, py))), default=None)
            if near is not None:
                return int(some[near[1]])
        for some, tree in self._near:
            far, k = tree.query((x, y))
            if best is None or far < best[0]:
                best = float(far), int(some[k])
            if far <= reach:
                return int(some[k])
        if best is None:
            raise ValueError("there is no place to serve anything from")
        return best[1]


def beside(line: Polyline, along: float) -> tuple[float, float]:
    """The place beside a track's middle where its wire lies: to the right, seen from A to B."""
    before, after = line.point(max(along - 10, 0)), line.point(min(along + 10, line.length))
    span = math.dist(before, after) or 1.0
    x, y = line.point(along)
    return x - (after[1] - before[1]) / span * ASIDE_MM, y + (after[0] - before[0]) / span * ASIDE_MM


class _Weigher:
    """What a step costs: its length, more on a board that lifts out, much more through the air of an aisle."""

    def __init__(self, layout: Layout) -> None:
        self.obstacles = [(o.corners, _box(o.corners)) for o in layout.obstacles.values()]
        self.boards = []
        for board in layout.boards.values():
            outline = board.corners
            xs, ys = [x for x, _ in outline], [y for _, y in outline]
            self.boards.append((outline, board.removable, (min(xs), min(ys), max(xs), max(ys))))

    def _over(self, x: float, y: float) -> tuple[bool, bool]:
        """Whether a point lies on a board, and on one that lifts out."""
        on = [r for o, r, (x0, y0, x1, y1) in self.boards if x0 <= x <= x1 and y0 <= y <= y1 and inside(o, x, y)]
        return bool(on), any(on)

    def along(self, a: tuple[float, float], b: tuple[float, float]) -> float:
        """Under a track, or along an edge."""
        _, lifts = self._over((a[0] + b[0]) / 2, (a[1] + b[1]) / 2)
        return math.dist(a, b) * (REMOVABLE_COST if lifts else 1.0) * self.through(a, b)

    def through(self, a: tuple[float, float], b: tuple[float, float]) -> float:
        """How much dearer a step is for what stands in its way."""
        for outline, (x0, y0, x1, y1) in self.obstacles:
            if max(a[0], b[0]) < x0 or min(a[0], b[0]) > x1 or max(a[1], b[1]) < y0 or min(a[1], b[1]) > y1:
                continue
            middle = ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2)
            if math.dist(a, b) > 1e-9 and (crossings(_leg(a, b), [outline]) or inside(outline, *middle)):
                return THROUGH_COST
        return 1.0

    def across(self, a: tuple[float, float], b: tuple[float, float]) -> float:
        """From one track to another, or to a device."""
        on, lifts = self._over((a[0] + b[0]) / 2, (a[1] + b[1]) / 2)
        air = 1.0 if on or not self.boards else AISLE_COST
        return math.dist(a, b) * (REMOVABLE_COST if lifts else 1.0) * ACROSS_COST * air * self.through(a, b)


def _leg(a: tuple[float, float], b: tuple[float, float]) -> Polyline:
    return draw([Bend(x=a[0], y=a[1]), Bend(x=b[0], y=b[1])])


def _box(outline: Sequence[tuple[float, float]]) -> tuple[float, float, float, float]:
    xs, ys = [x for x, _ in outline], [y for _, y in outline]
    return min(xs), min(ys), max(xs), max(ys)


@dataclass(frozen=True)
class Ground:
    """Where wire may lie whatever it is for: places (N, 2), and steps between two of them (S, 2) with their costs (S,).

    landings: see `Corridors`.
    """

    places: Floats
    landings: tuple[Ints, ...]
    steps: NDArray[np.int64]
    costs: Floats
    weigher: _Weigher = field(repr=False)


def map_ground(layout: Layout, way: Way = "under the track") -> Ground:
    """The corridors of a layout, all in one piece: under and across its track, and whatever the school adds.

    Args:
        layout: the layout.
        way: where buses lie by choice; the rest serves to reach what lies off it.
    """
    places: list[tuple[float, float]] = []
    along: dict[tuple[int, int], float] = {}
    ends: dict[str, list[int]] = defaultdict(list)
    for track in layout.tracks.values():
        line = track.line
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
    places, along = _merged(places, along)
    weigher = _Weigher(layout)
    off = OFF_THE_WAY if way == "along the edges" else 1.0
    steps = {(a, b): weigher.along(places[a], places[b]) * off for a, b in along}
    own = np.arange(len(places))
    landings: tuple[Ints, ...] = (own,)
    _round_obstacles(layout, places, steps, weigher)
    if way == "along the edges":
        first = len(places)
        _edges(layout, places, steps, weigher)
        landings = (np.arange(first, len(places)), own)
    elif way == "free":
        places += _grid(layout, weigher)
    if places:
        for a, b in cKDTree(np.array(places)).query_pairs(ACROSS_MM):
            if (a, b) not in steps:
                steps[a, b] = weigher.across(places[a], places[b]) * off
        _join_parts(np.array(places), steps)
    xy = np.array(places, dtype=float).reshape(-1, 2)
    return Ground(
        xy,
        landings,
        np.array(list(steps), dtype=np.int64).reshape(-1, 2),
        np.array(list(steps.values()), dtype=float),
        weigher,
    )


Steps = dict[tuple[int, int], float]


def _ring(
    corners: Sequence[tuple[float, float]], places: list[tuple[float, float]], steps: Steps, weigher: _Weigher
) -> None:
    """A closed way along these corners, with places every so often."""
    first = len(places)
    for a, b in zip(corners, [*corners[1:], corners[0]], strict=True):
        count = max(1, math.ceil(math.dist(a, b) / STEP_MM))
        places += [(a[0] + (b[0] - a[0]) * k / count, a[1] + (b[1] - a[1]) * k / count) for k in range(count)]
    last = len(places) - 1
    for k in range(first, last):
        steps[k, k + 1] = weigher.along(places[k], places[k + 1])
    if last > first:
        steps[first, last] = weigher.along(places[first], places[last])


def _round_obstacles(layout: Layout, places: list[tuple[float, float]], steps: Steps, weigher: _Weigher) -> None:
    """A way round each thing that stands below the boards."""
    for obstacle in layout.obstacles.values():
        x0, y0, x1, y1 = _box(obstacle.corners)
        r = ROUND_MM
        _ring([(x0 - r, y0 - r), (x1 + r, y0 - r), (x1 + r, y1 + r), (x0 - r, y1 + r)], places, steps, weigher)


def _edges(layout: Layout, places: list[tuple[float, float]], steps: Steps, weigher: _Weigher) -> None:
    """A way along the inside of every board's edge; boards that meet are crossed where their ways come near."""
    for board in layout.boards.values():
        x0, y0, x1, y1 = _box(board.corners)
        cx, cy = (x0 + x1) / 2, (y0 + y1) / 2
        inner = []
        for x, y in board.corners:
            step = (min(EDGE_MM, abs(cx - x) / 2), min(EDGE_MM, abs(cy - y) / 2))
            inner.append((x + math.copysign(step[0], cx - x), y + math.copysign(step[1], cy - y)))
        _ring(inner, places, steps, weigher)


def _grid(layout: Layout, weigher: _Weigher) -> list[tuple[float, float]]:
    """Places all over the boards, but not in what stands below them."""
    found = []
    for board in layout.boards.values():
        x0, y0, x1, y1 = _box(board.corners)
        across, down = max(1, round((x1 - x0) / GRID_MM)), max(1, round((y1 - y0) / GRID_MM))
        for m in range(across):
            for n in range(down):
                x, y = x0 + (m + 0.5) * (x1 - x0) / across, y0 + (n + 0.5) * (y1 - y0) / down
                if inside(board.corners, x, y) and not any(inside(o, x, y) for o, _ in weigher.obstacles):
                    found.append((x, y))
    return found


def map_corridors(ground: Ground, extra: Sequence[tuple[float, float]] = (), ends_of_wire: int = 0) -> Corridors:
    """The corridors with some places more, each joined to the nearest others.

    Args:
        ground: of the layout.
        extra: places that must be reachable though they lie away from the track: devices, panels. They come last.
        ends_of_wire: so many of the last of them are ends: no wire passes through them to another place.
    """
    xy = np.vstack([ground.places, np.array(extra, dtype=float).reshape(-1, 2)])
    count = len(xy)
    if not count:
        return Corridors(xy, sparse.csr_matrix((0, 0)), ())
    tree = cKDTree(xy)
    ends_from = count - ends_of_wire
    more: dict[tuple[int, int], float] = {}
    for k in range(len(ground.places), count):
        for other in tree.query(xy[k], k=min(5, count))[1].tolist() if count > 1 else []:
            a, b = min(k, other), max(k, other)
            if a != b:
                p, q = (xy[a, 0], xy[a, 1]), (xy[b, 0], xy[b, 1])
                more[a, b] = ground.weigher.across(p, q) * (THROUGH_A_DEVICE_COST if b >= ends_from else 1.0)
    if len(ground.places) == 0 or (count > 1 and not _tied(more, len(ground.places), count)):
        _join_parts(xy, more | dict(zip(map(tuple, ground.steps.tolist()), ground.costs.tolist(), strict=True)), more)
    steps = np.vstack([ground.steps, np.array(list(more), dtype=np.int64).reshape(-1, 2)])
    costs = np.maximum(np.concatenate([ground.costs, np.array(list(more.values()), dtype=float)]), 1e-3)
    cost = sparse.coo_matrix((costs, (steps[:, 0], steps[:, 1])), shape=(count, count)).tocsr()
    landings = ground.landings if len(ground.places) else (np.arange(count - ends_of_wire),)
    return Corridors(xy, (cost + cost.T).tocsr(), landings)


def _tied(more: dict[tuple[int, int], float], ground: int, count: int) -> bool:
    """Whether every extra place has a step to the ground itself."""
    return all(any(b == k and a < ground for a, b in more) for k in range(ground, count))


def _merged(
    places: list[tuple[float, float]], along: dict[tuple[int, int], float]
) -> tuple[list[tuple[float, float]], dict[tuple[int, int], float]]:
    """Places that all but coincide, where tracks meet, made one."""
    if not places:
        return places, along
    joined = Joined()
    for a, b in cKDTree(np.array(places)).query_pairs(SAME_PLACE_MM):
        joined.join(a, b)
    number: dict[Hashable, int] = {}
    new = [number.setdefault(joined.find(k), len(number)) for k in range(len(places))]
    kept: list[tuple[float, float]] = [(0.0, 0.0)] * len(number)
    for k, place in enumerate(places):
        kept[new[k]] = place
    return kept, {(min(new[a], new[b]), max(new[a], new[b])): mm for (a, b), mm in along.items() if new[a] != new[b]}


def _join_parts(
    xy: Floats, links: dict[tuple[int, int], float], added: dict[tuple[int, int], float] | None = None
) -> None:
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
        if added is not None:
            added[a, b] = links[a, b]
