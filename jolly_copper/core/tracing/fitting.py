"""Straights and arcs through a traced line: as few as hold it, tangent where they meet."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from jolly_copper.core.tracing.graph import Points, distances

MOST_POINTS = 360
COST_STRAIGHT, COST_ARC = 9.0, 13.0
"""What a piece must win, in squares of the doubt of a place: an arc has one figure more to choose."""
HARDLY_PX = 1.2
LEAST_DOUBT, DOUBT_WIDTHS = 0.55, 0.12
MOST_TURN = math.radians(95)
"""A corner turns no more; a longer arc has several."""


class Corner(NamedTuple):
    """A place the line bends at. radius: of its arc, px; None where nothing is said of it."""

    x: float
    y: float
    radius: float | None


class Piece(NamedTuple):
    """Points from one to another on one straight, or on one circle about (x, y)."""

    first: int
    last: int
    circle: tuple[float, float, float] | None


def fit_line(points: Points, width: float) -> list[Corner]:
    """The corners of a line through points: its beginning, where it bends, its end.

    The best cut into straights and circles by dynamic programming, the residual in units of max(0.55, 0.12 w) px.

    Args:
        points: px, shape (N, 2). width: of the stroke, px.
    """
    length = float(distances(points)[-1])
    if length < 4 or len(points) < 3:
        (ax, ay), (bx, by) = points[0].tolist(), points[-1].tolist()
        return [Corner(ax, ay, None), Corner(bx, by, None)]
    step = max(2.0, length / MOST_POINTS)
    count = max(3, math.ceil(length / step) + 1)
    at = np.linspace(0, length, count)
    known = distances(points)
    even = np.column_stack([np.interp(at, known, points[:, 0]), np.interp(at, known, points[:, 1])])
    doubt = max(LEAST_DOUBT, DOUBT_WIDTHS * width)
    return _corners(even, _pieces(even, doubt))


def _pieces(points: Points, doubt: float) -> list[Piece]:
    """The cheapest cut: every last point with every first one, residuals from running sums."""
    count = len(points)
    middle = points.mean(axis=0)
    terms = _terms(points - middle)
    running = np.concatenate([np.zeros((len(terms), 1)), np.cumsum(terms, axis=1)], axis=1)
    best = np.full(count, np.inf)
    best[0] = 0.0
    chosen: list[tuple[int, tuple[float, float, float] | None]] = [(0, None)] * count
    for last in range(1, count):
        firsts = np.arange(0, last)
        sums = running[:, last + 1][:, None] - running[:, firsts]
        straight = _straight_residual(sums) / doubt**2 + COST_STRAIGHT
        residual, circles = _circle_residual(sums)
        arc = residual / doubt**2 + COST_ARC
        arc[last - firsts < 3] = np.inf
        cost = best[firsts] + np.minimum(straight, arc)
        k = int(np.argmin(cost))
        best[last] = cost[k]
        curved = arc[k] < straight[k]
        cx, cy, r = circles[:, k]
        chosen[last] = (k, (float(cx + middle[0]), float(cy + middle[1]), float(r)) if curved else None)
    found, last = [], count - 1
    while last > 0:
        first, circle = chosen[last]
        found.append(Piece(first, last, circle))
        last = first
    return found[::-1]


def _terms(points: Points) -> NDArray[np.float64]:
    """What straights and circles through points are made of, each point's share: shape (10, N)."""
    x, y = points.T
    z = x * x + y * y
    return np.stack([np.ones(len(points)), x, y, x * x, y * y, x * y, z * x, z * y, z * z, z])


def circle_through(points: Points) -> tuple[float, float, float] | None:
    """The circle that fits points best, px: its middle and radius; None where they lie on a straight."""
    middle = points.mean(axis=0)
    off, circles = _circle_residual(_terms(points - middle).sum(axis=1)[:, None])
    if not np.isfinite(off[0]):
        return None
    x, y, radius = circles[:, 0]
    return float(x + middle[0]), float(y + middle[1]), float(radius)


def _straight_residual(sums: NDArray[np.float64]) -> NDArray[np.float64]:
    """Least sum of squares off a straight: the smaller eigenvalue of the scatter."""
    n, sx, sy, sxx, syy, sxy = sums[:6]
    a, b, c = sxx - sx * sx / n, syy - sy * sy / n, sxy - sx * sy / n
    found: NDArray[np.float64] = np.maximum((a + b - np.sqrt((a - b) ** 2 + 4 * c * c)) / 2, 0.0)
    return found


def _circle_residual(sums: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Sum of squares off the algebraic circle z = A·x + B·y + C, about (z − …)/2r each; and the
    circles (3, N)."""
    n, sx, sy, sxx, syy, sxy, szx, szy, szz, sz = sums
    cxx, cyy, cxy = sxx - sx * sx / n, syy - sy * sy / n, sxy - sx * sy / n
    czx, czy, czz = szx - sz * sx / n, szy - sz * sy / n, szz - sz * sz / n
    det = cxx * cyy - cxy * cxy
    flat = det < 1e-6 * np.maximum(cxx * cyy, 1e-9) + 1e-9
    safe = np.where(flat, 1.0, det)
    a, b = (czx * cyy - czy * cxy) / safe, (czy * cxx - czx * cxy) / safe
    c = (sz - a * sx - b * sy) / n
    cx, cy = a / 2, b / 2
    r = np.sqrt(np.maximum(c + cx * cx + cy * cy, 1e-9))
    off = np.maximum(czz - a * czx - b * czy, 0.0) / (4 * r * r)
    off[flat | (r > 1e5)] = np.inf
    return off, np.stack([cx, cy, r])


def _corners(points: Points, pieces: list[Piece]) -> list[Corner]:
    """Corners from pieces: where two straights meet, and where the tangents at both ends of an arc do."""
    joints = [pieces[0].first, *(p.last for p in pieces)]
    ways = [_way_at(points, pieces, k) for k in range(len(joints))]
    places = [_place_at(points, pieces, joints, k) for k in range(len(joints))]
    found = [Corner(*places[0], None)]
    for k, piece in enumerate(pieces):
        if piece.circle is None:
            before = pieces[k - 1] if k else None
            if before is not None and before.circle is None:
                met = _meet(places[k - 1], _chord(places, k - 1), places[k + 1], _chord(places, k))
                found.append(Corner(*(met or places[k]), None))
            continue
        found += _arc(points, piece, (places[k], places[k + 1]), (ways[k], ways[k + 1]))
    found.append(Corner(*places[-1], None))
    return without_kinks(found, HARDLY_PX)


def without_kinks(corners: list[Corner], hardly: float) -> list[Corner]:
    """Without corners that lie less than `hardly` off the straight between their neighbours: each would be a curve of
    no radius between short legs."""
    found = list(corners)
    while len(found) > 2:
        off = [_off(found[k - 1], found[k], found[k + 1]) for k in range(1, len(found) - 1)]
        least = min(range(len(off)), key=off.__getitem__)
        if off[least] >= hardly:
            break
        del found[least + 1]
    return found


def _off(a: Corner, b: Corner, c: Corner) -> float:
    """How far a corner lies from the straight between its neighbours, px."""
    dx, dy = c.x - a.x, c.y - a.y
    size = math.hypot(dx, dy)
    if size < 1e-9:
        return math.dist(a[:2], b[:2])
    return abs((b.x - a.x) * dy - (b.y - a.y) * dx) / size


Way = tuple[float, float]


def _chord(places: list[Way], k: int) -> Way:
    dx, dy = places[k + 1][0] - places[k][0], places[k + 1][1] - places[k][1]
    size = math.hypot(dx, dy) or 1.0
    return dx / size, dy / size


def _tangent(circle: tuple[float, float, float], at: Way, along: Way) -> Way:
    """The direction of a circle at a place, the way one runs."""
    rx, ry = at[0] - circle[0], at[1] - circle[1]
    size = math.hypot(rx, ry) or 1.0
    tx, ty = -ry / size, rx / size
    return (tx, ty) if tx * along[0] + ty * along[1] >= 0 else (-tx, -ty)


def _straight_of(points: Points, piece: Piece) -> tuple[Way, Way]:
    """A place on the straight that fits a piece best, and its direction."""
    some = points[piece.first : piece.last + 1]
    middle = some.mean(axis=0)
    _, _, axes = np.linalg.svd(some - middle, full_matrices=False)
    way = axes[0] if axes[0] @ (some[-1] - some[0]) >= 0 else -axes[0]
    return (float(middle[0]), float(middle[1])), (float(way[0]), float(way[1]))


def _way_at(points: Points, pieces: list[Piece], k: int) -> Way:
    """The direction of the line at a joint: a straight's where one is beside, else between those of both arcs."""
    beside = [p for p in (pieces[k - 1] if k else None, pieces[k] if k < len(pieces) else None) if p is not None]
    straights = [p for p in beside if p.circle is None]
    if straights:
        return _straight_of(points, straights[0])[1]
    joint = beside[0].last if k else beside[0].first
    at = (float(points[joint, 0]), float(points[joint, 1]))
    ways = []
    for p in beside:
        lo, hi = max(joint - 2, p.first), min(joint + 2, p.last)
        along = points[hi] - points[lo]
        ways.append(_tangent(p.circle or (0, 0, 1), at, (float(along[0]), float(along[1]))))
    x, y = sum(w[0] for w in ways), sum(w[1] for w in ways)
    size = math.hypot(x, y) or 1.0
    return x / size, y / size


def _place_at(points: Points, pieces: list[Piece], joints: list[int], k: int) -> Way:
    """The place of a joint: on the pieces beside it rather than on the very pixel."""
    at = points[joints[k]]
    beside = [p for p in (pieces[k - 1] if k else None, pieces[k] if k < len(pieces) else None) if p is not None]
    if 0 < k < len(pieces) and all(p.circle is None for p in beside):
        return float(at[0]), float(at[1])
    found = []
    for p in beside:
        if p.circle is None:
            (mx, my), (wx, wy) = _straight_of(points, p)
            t = (at[0] - mx) * wx + (at[1] - my) * wy
            found.append((mx + t * wx, my + t * wy))
        else:
            cx, cy, r = p.circle
            size = math.hypot(at[0] - cx, at[1] - cy) or 1.0
            found.append((cx + (at[0] - cx) * r / size, cy + (at[1] - cy) * r / size))
    straight = next((f for f, p in zip(found, beside, strict=True) if p.circle is None), None)
    if straight is not None:
        return float(straight[0]), float(straight[1])
    return float(np.mean([f[0] for f in found])), float(np.mean([f[1] for f in found]))


def _meet(p: Way, along: Way, q: Way, back: Way) -> Way | None:
    """Where two straights meet; None where they all but run alike."""
    cross = along[0] * back[1] - along[1] * back[0]
    if abs(cross) < 1e-3:
        return None
    t = ((q[0] - p[0]) * back[1] - (q[1] - p[1]) * back[0]) / cross
    return p[0] + t * along[0], p[1] + t * along[1]


def _arc(points: Points, piece: Piece, ends: tuple[Way, Way], ways: tuple[Way, Way]) -> list[Corner]:
    """The corners of an arc between two places, with the line's directions there; several where it turns far."""
    cx, cy, r = piece.circle or (0.0, 0.0, 1.0)
    some = points[piece.first : piece.last + 1]
    angles = np.unwrap(np.arctan2(some[:, 1] - cy, some[:, 0] - cx))
    first, sweep = float(angles[0]), float(angles[-1] - angles[0])
    count = max(1, math.ceil(abs(sweep) / MOST_TURN))
    places, directions = [ends[0]], [ways[0]]
    for k in range(1, count):
        a = first + sweep * k / count
        places.append((cx + r * math.cos(a), cy + r * math.sin(a)))
        side = 1.0 if sweep > 0 else -1.0
        directions.append((-side * math.sin(a), side * math.cos(a)))
    places.append(ends[1])
    directions.append(ways[1])
    found = []
    for k in range(count):
        p, q, start, end = places[k], places[k + 1], directions[k], directions[k + 1]
        turn = math.acos(max(-1.0, min(1.0, start[0] * end[0] + start[1] * end[1])))
        met = _meet(p, start, q, end)
        if met is None or turn < 2e-3:
            continue
        ahead = (met[0] - p[0]) * start[0] + (met[1] - p[1]) * start[1]
        back = (q[0] - met[0]) * end[0] + (q[1] - met[1]) * end[1]
        if ahead <= 0 or back <= 0:  # the directions at its ends say otherwise: the arc's own middle
            a = first + sweep * (k + 0.5) / count
            bulge = r / max(math.cos(sweep / count / 2), 0.2)
            found.append(Corner(cx + bulge * math.cos(a), cy + bulge * math.sin(a), None))
            continue
        found.append(Corner(*met, r))
    return found
