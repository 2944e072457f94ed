"""Corners moved a little until the line they draw lies on the ink."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import least_squares

from jolly_copper.core.tracing.fitting import Corner
from jolly_copper.core.tracing.graph import Points, distances
from jolly_copper.core.tracing.turnouts import line_of

PLACES = 40
"""Of the traced line around a corner that it is held against."""
OFF_PX, OFF_WIDTHS = 1.5, 0.5
"""A corner whose arc lies so far off the ink is moved."""
MOST_TRIES = 60
MOST_SHARE, LEAST_RADIUS, MOST_RADIUS = 0.2, 0.4, 2.5
"""Of its shorter leg that a corner is moved at most; what becomes of its radius, as a share."""
LEAST_TURN = 10.0
"""What bends less, in degrees, is left: there is nothing to hold it by."""
ROUNDS = 4


def polish(points: Points, corners: list[Corner], width: float) -> list[Corner]:
    """Move each corner whose arc lies off the line, by least squares of the distances around it: its place and radius.

    Ends stay, so do corners that lie well; a corner that comes out no better stays as it was.

    Args:
        points: of the traced line, px. corners: that were fitted to it. width: of a stroke, px.
    """
    found = list(corners)
    if len(found) < 3 or len(points) < 5:
        return found
    along = distances(points)
    for _ in range(ROUNDS):
        moved = False
        for k in range(1, len(found) - 1):
            near = _around(points, along, found, k) if _turns(found, k) >= LEAST_TURN else None
            if near is None or np.max(_off(near, found)) <= max(OFF_PX, OFF_WIDTHS * width):
                continue
            better = _moved(near, found, k)
            if better is not None:
                found[k], moved = better, True
        if not moved:
            break
    return found


def _turns(corners: list[Corner], k: int) -> float:
    """How far the line turns at a corner, degrees."""
    a, b, c = corners[k - 1 : k + 2]
    one, other = (b.x - a.x, b.y - a.y), (c.x - b.x, c.y - b.y)
    return math.degrees(abs(math.atan2(one[0] * other[1] - one[1] * other[0], one[0] * other[0] + one[1] * other[1])))


def _around(points: Points, along: NDArray[np.float64], corners: list[Corner], k: int) -> Points | None:
    """Places of the line between the middles of the two legs of a corner."""
    a, b, c = corners[k - 1 : k + 2]
    before, here, after = (
        np.hypot(points[:, 0] - x, points[:, 1] - y)
        for x, y in (((a.x + b.x) / 2, (a.y + b.y) / 2), (b.x, b.y), ((b.x + c.x) / 2, (b.y + c.y) / 2))
    )
    middle = int(np.argmin(here))
    # A line may pass the same place twice: what lies before the corner is looked for before it.
    first, last = int(np.argmin(before[: middle + 1])), middle + int(np.argmin(after[middle:]))
    if last - first < 4:
        return None
    at = np.linspace(along[first], along[last], PLACES)
    return np.column_stack([np.interp(at, along, points[:, axis]) for axis in (0, 1)])


def _off(places: Points, corners: list[Corner]) -> NDArray[np.float64]:
    """How far places lie from the line that corners draw, px."""
    drawn = line_of(corners)
    ends = np.column_stack([drawn.xs, drawn.ys])
    start, way = ends[:-1], np.diff(ends, axis=0)
    size = np.maximum((way * way).sum(axis=1), 1e-12)
    from_start = places[:, None, :] - start[None]
    share = np.clip((from_start * way[None]).sum(axis=2) / size, 0.0, 1.0)
    nearest = start[None] + share[..., None] * way[None]
    found: NDArray[np.float64] = np.hypot(*(places[:, None, :] - nearest).transpose(2, 0, 1)).min(axis=1)
    return found


def _moved(places: Points, corners: list[Corner], k: int) -> Corner | None:
    """A corner that fits better; None where none was found."""
    old = corners[k]
    legs = min(math.dist(old[:2], corners[k - 1][:2]), math.dist(old[:2], corners[k + 1][:2]))
    # A radius that its legs cannot hold is drawn smaller: there is nothing to learn from it.
    holds = legs / max(math.tan(math.radians(min(_turns(corners, k), 170)) / 2), 1e-3)
    radius = min(old.radius if old.radius is not None else legs, holds)
    unit = max(radius, 1.0)
    reach = MOST_SHARE * legs

    def residual(figures: NDArray[np.float64]) -> NDArray[np.float64]:
        there = Corner(float(figures[0]), float(figures[1]), max(float(figures[2]) * unit, 1.0))
        return _off(places, [*corners[:k], there, *corners[k + 1 :]])

    start = np.array([old.x, old.y, radius / unit])
    slack = np.array([reach, reach, 1 - LEAST_RADIUS])
    least, most = start - slack, start + np.array([reach, reach, MOST_RADIUS - 1])
    best = least_squares(residual, start, bounds=(least, most), x_scale=[1.0, 1.0, 0.05], max_nfev=MOST_TRIES)
    before, after = _off(places, corners), residual(best.x)
    if float(np.square(after).sum()) > 0.8 * float(np.square(before).sum()):
        return None
    return Corner(float(best.x[0]), float(best.x[1]), max(float(best.x[2]) * unit, 1.0))
