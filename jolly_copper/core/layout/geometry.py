"""Drawn paths: straight legs joined by arcs. Exact lengths, exact radii, and points to draw them by."""

from __future__ import annotations

import math
from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache

from jolly_copper.core.layout.fields import Bend

ARC_STEP = math.radians(6)


Box = tuple[float, float, float, float]
"""Left, top, right, bottom."""


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

    @cached_property
    def box(self) -> Box:
        """Left, top, right and bottom of what it takes, mm."""
        return min(self.xs), min(self.ys), max(self.xs), max(self.ys)

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
    that fits is t/tan(turn/2). A leg shared by two arcs is halved between them, but where both radii are given and one
    needs less than its half the other may have what is left.
    The arc is drawn by points no more than 6° apart, but its length is the exact r·turn.
    """
    return _draw(tuple((v.x, v.y, v.radius) for v in path))


Vertex = tuple[float, float, float | None]


@dataclass(frozen=True)
class Arc:
    """The arc at an inner vertex: radius, mm; turn, rad, clockwise on the plan positive; the headings before and
    after."""

    radius: float
    turn: float
    x: float
    y: float
    before: tuple[float, float]
    after: tuple[float, float]

    @property
    def tangent(self) -> float:
        return self.radius * math.tan(abs(self.turn) / 2)

    @property
    def length(self) -> float:
        return self.radius * abs(self.turn)

    @property
    def start(self) -> tuple[float, float]:
        return self.x - self.before[0] * self.tangent, self.y - self.before[1] * self.tangent

    def at(self, done: float) -> tuple[float, float, float, float]:
        """Place and heading after turning through this angle, rad, 0 to |turn|."""
        side = math.copysign(1.0, self.turn)
        (sx, sy), (hx, hy) = self.start, self.before
        centre_x, centre_y = sx - hy * self.radius * side, sy + hx * self.radius * side
        cos, sin = math.cos(done * side), math.sin(done * side)
        from_x, from_y = sx - centre_x, sy - centre_y
        return (
            centre_x + from_x * cos - from_y * sin,
            centre_y + from_x * sin + from_y * cos,
            hx * cos - hy * sin,
            hx * sin + hy * cos,
        )


def arcs(path: tuple[Vertex, ...]) -> list[Arc | None]:
    """The arc at each vertex as drawn; None at the ends and where the path runs straight on or back on itself."""
    turns: list[tuple[float, tuple[float, float], tuple[float, float]] | None] = [None] * len(path)
    for i in range(1, len(path) - 1):
        (ax, ay, _), (bx, by, _), (cx, cy, _) = path[i - 1], path[i], path[i + 1]
        leg_in, leg_out = math.hypot(bx - ax, by - ay), math.hypot(cx - bx, cy - by)
        if leg_in < 1e-9 or leg_out < 1e-9:
            continue
        ux, uy, vx, vy = (bx - ax) / leg_in, (by - ay) / leg_in, (cx - bx) / leg_out, (cy - by) / leg_out
        turn = math.atan2(ux * vy - uy * vx, ux * vx + uy * vy)
        if 1e-6 <= abs(turn) <= math.pi - 1e-3:
            turns[i] = (turn, (ux, uy), (vx, vy))

    def wanted(i: int) -> float | None:
        found, radius = turns[i], path[i][2]
        return None if found is None or radius is None else radius * math.tan(abs(found[0]) / 2)

    def share(i: int, other: int) -> float:
        """How much of the leg to a neighbour an arc's tangent may take."""
        leg = math.hypot(path[i][0] - path[other][0], path[i][1] - path[other][1])
        if other in (0, len(path) - 1):
            return leg
        mine, theirs = wanted(i), wanted(other)
        return leg / 2 if mine is None or theirs is None or theirs >= leg / 2 else leg - theirs

    found: list[Arc | None] = [None] * len(path)
    for i, vertex in enumerate(path):
        turned = turns[i]
        if turned is None:
            continue
        half = math.tan(abs(turned[0]) / 2)
        most = min(share(i, i - 1), share(i, i + 1)) / half
        radius = most if vertex[2] is None else min(vertex[2], most)
        found[i] = Arc(radius, turned[0], vertex[0], vertex[1], turned[1], turned[2])
    return found


@lru_cache(maxsize=8192)
def _draw(path: tuple[Vertex, ...]) -> Polyline:
    xs, ys, distance = [path[0][0]], [path[0][1]], [0.0]
    tightest: float | None = None

    def to(x: float, y: float, length: float | None = None) -> None:
        step = math.hypot(x - xs[-1], y - ys[-1]) if length is None else length
        if step > 1e-9:
            xs.append(x)
            ys.append(y)
            distance.append(distance[-1] + step)

    for vertex, arc in zip(path[1:-1], arcs(path)[1:-1], strict=True):
        if arc is None:
            to(vertex[0], vertex[1])
            continue
        tightest = arc.radius if tightest is None else min(tightest, arc.radius)
        to(*arc.start)
        steps = max(1, math.ceil(abs(arc.turn) / ARC_STEP))
        for k in range(1, steps + 1):
            x, y, _, _ = arc.at(abs(arc.turn) * k / steps)
            to(x, y, arc.length / steps)
    to(path[-1][0], path[-1][1])
    if len(xs) == 1:
        xs.append(path[-1][0])
        ys.append(path[-1][1])
        distance.append(0.0)
    return Polyline(tuple(xs), tuple(ys), tuple(distance), tightest)


def split_path(path: Sequence[Bend], along: float) -> tuple[list[Bend], list[Bend]]:
    """Cut a drawn path in two at this distance from its start, so that both halves draw what was there before.

    Inside an arc each half keeps its share of it: the tangent at the cut meets the leg on either side in a new vertex,
    with the arc's own radius.

    Args:
        path: two or more vertices.
        along: mm from the start; held 0.01 mm inside both ends.

    Returns:
        The vertices of both halves; the last of the first is the first of the second.
    """
    vertices = tuple((v.x, v.y, v.radius) for v in path)
    bent = arcs(vertices)
    # With the radius it is drawn with now, a shorter leg beside an arc changes nothing.
    fixed = [v if a is None else v.model_copy(update={"radius": a.radius}) for v, a in zip(path, bent, strict=True)]
    along = min(max(along, 0.01), draw(path).length - 0.01)
    so_far, last = 0.0, (path[0].x, path[0].y)
    for i in range(1, len(path)):
        arc = bent[i]
        start = arc.start if arc else (path[i].x, path[i].y)
        straight = math.dist(last, start)
        if along <= so_far + straight or i == len(path) - 1:
            share = (along - so_far) / straight if straight else 0.0
            cut = _bend(last[0] + share * (start[0] - last[0]), last[1] + share * (start[1] - last[1]))
            return [*fixed[:i], cut], [cut, *fixed[i:]]
        so_far += straight
        last = start
        if arc is None:
            continue
        if along < so_far + arc.length:
            done = (along - so_far) / arc.radius
            x, y, hx, hy = arc.at(done)
            back, ahead = arc.radius * math.tan(done / 2), arc.radius * math.tan((abs(arc.turn) - done) / 2)
            inner, outer = (
                _bend(x - hx * back, y - hy * back, arc.radius),
                _bend(x + hx * ahead, y + hy * ahead, arc.radius),
            )
            return [*fixed[:i], inner, _bend(x, y)], [_bend(x, y), outer, *fixed[i + 1 :]]
        so_far += arc.length
        last = arc.at(abs(arc.turn))[:2]
    raise AssertionError("a path has a last vertex")


def _bend(x: float, y: float, radius: float | None = None) -> Bend:
    return Bend(x=round(x, 5), y=round(y, 5), radius=radius)


Outline = Sequence[tuple[float, float]]
"""The corners of a closed shape, in order."""


def inside(outline: Outline, x: float, y: float) -> bool:
    """Whether a point lies in a closed shape, its edge included to a hair (even-odd rule)."""
    found = False
    for (ax, ay), (bx, by) in zip(outline, [*outline[1:], outline[0]], strict=True):
        off = (bx - ax) * (y - ay) - (by - ay) * (x - ax)
        near = min(ax, bx) - 1e-6 <= x <= max(ax, bx) + 1e-6 and min(ay, by) - 1e-6 <= y <= max(ay, by) + 1e-6
        if abs(off) < 1e-6 and near:
            return True
        if (ay > y) != (by > y) and x < ax + (y - ay) * (bx - ax) / (by - ay):
            found = not found
    return found


@lru_cache(maxsize=4096)
def box_of(outline: tuple[tuple[float, float], ...]) -> Box:
    """Left, top, right and bottom of a closed shape, mm."""
    xs, ys = [x for x, _ in outline], [y for _, y in outline]
    return min(xs), min(ys), max(xs), max(ys)


def crossings(line: Polyline, outlines: Sequence[Outline]) -> list[float]:
    """Distances along a line where it crosses the edge of one of these outlines."""
    found = []
    left, top, right, bottom = line.box
    for outline in outlines:
        x0, y0, x1, y1 = box_of(tuple(outline))
        if right < x0 or left > x1 or bottom < y0 or top > y1:
            continue
        for k in range(len(line.xs) - 1):
            p, q = (line.xs[k], line.ys[k]), (line.xs[k + 1], line.ys[k + 1])
            if max(p[0], q[0]) < x0 or min(p[0], q[0]) > x1 or max(p[1], q[1]) < y0 or min(p[1], q[1]) > y1:
                continue
            for a, b in zip(outline, [*outline[1:], outline[0]], strict=True):
                share = _meets(p, q, a, b)
                if share is not None:
                    found.append(line.distance[k] + share * (line.distance[k + 1] - line.distance[k]))
    return sorted(found)


def _meets(
    p: tuple[float, float], q: tuple[float, float], a: tuple[float, float], b: tuple[float, float]
) -> float | None:
    """How far along p–q it crosses a–b, as a share; None where it does not."""
    dx, dy, ex, ey = q[0] - p[0], q[1] - p[1], b[0] - a[0], b[1] - a[1]
    cross = dx * ey - dy * ex
    if abs(cross) < 1e-12:
        return None
    t = ((a[0] - p[0]) * ey - (a[1] - p[1]) * ex) / cross
    u = ((a[0] - p[0]) * dy - (a[1] - p[1]) * dx) / cross
    return t if 0 <= t < 1 and 0 <= u < 1 else None
