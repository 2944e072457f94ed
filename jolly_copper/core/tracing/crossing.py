"""Where traced lines cross: read at junctions, met by lines drawn with both rails, and those that only seem to."""

from __future__ import annotations

import itertools
import math

import numpy as np

from jolly_copper.core.layout.geometry import Polyline
from jolly_copper.core.tracing.graph import Net, between
from jolly_copper.core.tracing.lines import Crossing, Line
from jolly_copper.core.tracing.reading import Junction
from jolly_copper.core.tracing.turnouts import line_of

FLAT = 20.0
"""A crossing flatter than this, in degrees, may be a slip."""
OWN_LEAD_GAUGES = 20.0
"""No line crosses the one it leaves so near to where it does."""
AGAIN_SHARE = 0.05
"""A line that crosses itself has gone so much of its length meanwhile."""


def crossings_of(
    net: Net,
    junctions: dict[int, Junction],
    hosts: dict[tuple[int, int], tuple[int, float]],
    lines: list[Line],
) -> list[Crossing]:
    found = []
    drawn = {x.number: line_of(list(x.corners)) for x in lines}
    for node, junction in junctions.items():
        for a in range(len(junction.pairs)):
            for b in range(a + 1, len(junction.pairs)):
                one, other = hosts.get((node, a)), hosts.get((node, b))
                if one is None or other is None:
                    continue
                x, y = net.nodes[node]
                at = [drawn[n].nearest(x, y)[0] for n in (one[0], other[0])]
                if one[0] == other[0]:  # a line that crosses itself, as a figure of eight does
                    at[1] = _passes_again(drawn[one[0]], x, y, at[0])
                found.append(_crossing(drawn, (one[0], other[0]), (at[0], at[1]), x, y))
    return found


def _crossing(
    drawn: dict[int, Polyline], both: tuple[int, int], at: tuple[float, float], x: float, y: float
) -> Crossing:
    """Two lines that cross, told by the angle between them there whether it may be a slip."""
    angle = between(_way(drawn[both[0]], at[0]), _way(drawn[both[1]], at[1]))
    return Crossing(both[0], at[0], both[1], at[1], x, y, min(angle, 180 - angle) < FLAT)


def without_own_leads(crossings: list[Crossing], lines: list[Line], gauge: float) -> list[Crossing]:
    """Without those where a line only seems to cross the one it leaves, close to where it does: a pen that shook.

    Args:
        crossings: of the lines. lines: with their leads. gauge: of the track, px.
    """
    known = {x.number: x for x in lines}

    def leaves(number: int, host: int, at: float) -> bool:
        leads = (known[number].starts, known[number].ends)
        return any(
            lead is not None and lead.host == host and abs(lead.along - at) < OWN_LEAD_GAUGES * gauge for lead in leads
        )

    return [c for c in crossings if not (leaves(c.one, c.other, c.other_at) or leaves(c.other, c.one, c.one_at))]


def _passes_again(line: Polyline, x: float, y: float, known: float) -> float:
    """How far along a line it comes by a place once more, away from where it is known to."""
    places = np.linspace(0.0, line.length, max(int(line.length), 10))
    away = np.hypot(np.interp(places, line.distance, line.xs) - x, np.interp(places, line.distance, line.ys) - y)
    round_it = np.abs(places - known)
    away[np.minimum(round_it, line.length - round_it) < AGAIN_SHARE * line.length] = np.inf
    return float(places[int(np.argmin(away))])


def crossings_met(lines: list[Line], known: list[Crossing], near: float) -> list[Crossing]:
    """Where lines drawn with both rails lie across each other: their middles part there, and were joined across."""
    found: list[Crossing] = []
    drawn = {x.number: line_of(list(x.corners)) for x in lines}
    for (a, one), (b, other) in itertools.combinations(drawn.items(), 2):
        for x, y in _intersections(one, other):
            ends = [one.point(0), one.point(one.length), other.point(0), other.point(other.length)]
            if any(math.dist((x, y), p) < near for p in (*ends, *((c.x, c.y) for c in (*known, *found)))):
                continue
            at = one.nearest(x, y)[0], other.nearest(x, y)[0]
            found.append(_crossing(drawn, (a, b), at, x, y))
    return found


def _intersections(one: Polyline, other: Polyline) -> list[tuple[float, float]]:
    """Where two drawn lines cut each other."""
    p, q = (np.column_stack([line.xs, line.ys]) for line in (one, other))
    r, s = np.diff(p, axis=0), np.diff(q, axis=0)
    cross = r[:, None, 0] * s[None, :, 1] - r[:, None, 1] * s[None, :, 0]
    dx, dy = q[None, :-1, 0] - p[:-1, None, 0], q[None, :-1, 1] - p[:-1, None, 1]
    safe = np.where(np.abs(cross) < 1e-9, np.inf, cross)
    t, u = (dx * s[None, :, 1] - dy * s[None, :, 0]) / safe, (dx * r[:, None, 1] - dy * r[:, None, 0]) / safe
    rows, columns = np.nonzero((t > 0) & (t < 1) & (u > 0) & (u < 1) & np.isfinite(safe))
    return [(float(x), float(y)) for x, y in p[rows] + t[rows, columns][:, None] * r[rows]]


def _way(line: Polyline, at: float) -> tuple[float, float]:
    a, b = line.point(max(at - 3, 0)), line.point(min(at + 3, line.length))
    size = math.dist(a, b) or 1.0
    return (b[0] - a[0]) / size, (b[1] - a[1]) / size
