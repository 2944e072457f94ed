"""Drawn paths: straight legs joined by arcs. Exact lengths, exact radii, and points to draw them by."""

from __future__ import annotations

import math
from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

from jolly_copper.core.layout.fields import Bend

ARC_STEP = math.radians(6)


@dataclass(frozen=True)
class Polyline:
    """A path worked out: points along it (mm), the distance of each from the start (mm), and its tightest radius."""

    xs: tuple[float, ...]
    ys: tuple[float, ...]
    distance: tuple[float, ...]
    tightest: float | None

    @property
    def length(self) -> float:
        return self.distance[-1]

    def point(self, along: float) -> tuple[float, float]:
        """The point at this distance from the start, held to the ends."""
        i = min(max(bisect_right(self.distance, along) - 1, 0), len(self.xs) - 2)
        step = self.distance[i + 1] - self.distance[i]
        share = 0.0 if step == 0 else min(max((along - self.distance[i]) / step, 0.0), 1.0)
        return (
            self.xs[i] + share * (self.xs[i + 1] - self.xs[i]),
            self.ys[i] + share * (self.ys[i + 1] - self.ys[i]),
        )

    def nearest(self, x: float, y: float) -> tuple[float, float]:
        """Distance along the path of the point nearest to (x, y), and how far that point is, mm."""
        best = (0.0, math.inf)
        for i in range(len(self.xs) - 1):
            dx, dy = self.xs[i + 1] - self.xs[i], self.ys[i + 1] - self.ys[i]
            square = dx * dx + dy * dy
            share = 0.0 if square == 0 else ((x - self.xs[i]) * dx + (y - self.ys[i]) * dy) / square
            share = min(max(share, 0.0), 1.0)
            away = math.hypot(self.xs[i] + share * dx - x, self.ys[i] + share * dy - y)
            if away < best[1]:
                best = (self.distance[i] + share * (self.distance[i + 1] - self.distance[i]), away)
        return best


def draw(path: Sequence[Bend]) -> Polyline:
    """Work out a drawn path.

    At each inner vertex the two legs are joined by an arc: tangent length t = r·tan(turn/2), so the largest radius
    that fits is t/tan(turn/2), with t at most half of a leg shared with another bend and all of a leg that is not.
    The arc is drawn by points no more than 6° apart, but its length is the exact r·turn.
    """
    return _draw(tuple((v.x, v.y, v.radius) for v in path))


@lru_cache(maxsize=8192)
def _draw(path: tuple[tuple[float, float, float | None], ...]) -> Polyline:
    xs, ys, distance = [path[0][0]], [path[0][1]], [0.0]
    tightest: float | None = None

    def to(x: float, y: float, length: float | None = None) -> None:
        step = math.hypot(x - xs[-1], y - ys[-1]) if length is None else length
        if step > 1e-9:
            xs.append(x)
            ys.append(y)
            distance.append(distance[-1] + step)

    for i in range(1, len(path) - 1):
        (ax, ay, _), (bx, by, radius), (cx, cy, _) = path[i - 1], path[i], path[i + 1]
        leg_in, leg_out = math.hypot(bx - ax, by - ay), math.hypot(cx - bx, cy - by)
        if leg_in < 1e-9 or leg_out < 1e-9:
            continue
        ux, uy, vx, vy = (bx - ax) / leg_in, (by - ay) / leg_in, (cx - bx) / leg_out, (cy - by) / leg_out
        turn = math.atan2(ux * vy - uy * vx, ux * vx + uy * vy)
        if abs(turn) < 1e-6 or abs(turn) > math.pi - 1e-3:
            to(bx, by)
            continue
        room = min(leg_in / (1 if i == 1 else 2), leg_out / (1 if i == len(path) - 2 else 2))
        half = math.tan(abs(turn) / 2)
        arc = room / half if radius is None else min(radius, room / half)
        tightest = arc if tightest is None else min(tightest, arc)
        tangent = arc * half
        to(bx - ux * tangent, by - uy * tangent)
        side = math.copysign(1.0, turn)
        centre_x, centre_y = bx - ux * tangent - uy * arc * side, by - uy * tangent + ux * arc * side
        start = math.atan2(by - uy * tangent - centre_y, bx - ux * tangent - centre_x)
        steps = max(1, math.ceil(abs(turn) / ARC_STEP))
        for k in range(1, steps + 1):
            angle = start + turn * k / steps
            to(centre_x + arc * math.cos(angle), centre_y + arc * math.sin(angle), arc * abs(turn) / steps)
    to(path[-1][0], path[-1][1])
    if len(xs) == 1:
        xs.append(path[-1][0])
        ys.append(path[-1][1])
        distance.append(0.0)
    return Polyline(tuple(xs), tuple(ys), tuple(distance), tightest)
