"""Where a turnout begins: the skeleton forks late, so its lead is drawn in from where it has come clear of its host."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from jolly_copper.core.layout.fields import Bend
from jolly_copper.core.layout.geometry import Polyline, draw
from jolly_copper.core.tracing.fitting import Corner
from jolly_copper.core.tracing.graph import Points, distances

CLEAR_WIDTHS, FAR_WIDTHS = 1.15, 4.2
"""The lead is read where it is so many stroke widths away from its host."""
RADIUS_GAUGES = 45.0
"""Of a turnout's lead, in gauges. Common practice, no source (certainty C)."""
LONGEST_LEAD_GAUGES = 30.0


class Drawn(NamedTuple):
    """A lead drawn in. points: px, from its place on the host outwards. along: of that place on the host's line, px.
    ahead: it leaves the way the host's line runs."""

    points: Points
    along: float
    ahead: bool


def line_of(corners: list[Corner]) -> Polyline:
    """The drawn line through corners, px."""
    return draw([Bend(x=c.x, y=c.y, radius=c.radius) for c in corners])


def draw_in(lead: Points, host: Polyline, near: float, width: float, gauge: float) -> Drawn:
    """Begin a lead where it leaves its host.

    Its distance from the host grows as s²/2R, then straight on: where it has come clear it runs at an angle α to the
    host and would meet it at t; it began R·tan(α/2) before that, or d/tan α where that is less.

    Args:
        lead: px, from the fork outwards. host: the line it leaves. near: how far along that the fork is.
        width: of a stroke, px. gauge: of the track, px.
    """
    t, d, side = _beside(lead, host, near, width)
    ahead = bool(t[-1] > 0)
    t = t if ahead else -t
    # On a host that comes round, or beyond its end, places far away say nothing.
    clear = np.flatnonzero((d >= CLEAR_WIDTHS * width) & (t > 0))
    if not len(clear):
        return Drawn(np.vstack([host.point(near), lead[1:]]), near, ahead)
    first = int(clear[0])
    last = first
    while last + 1 < len(d) and d[last + 1] <= max(FAR_WIDTHS * width, d[first] + 3) and d[last + 1] >= d[last] - 0.5:
        last += 1
    radius = RADIUS_GAUGES * gauge
    if last - first >= 3 and t[last] - t[first] > 2:
        slope, start = np.polyfit(t[first : last + 1], d[first : last + 1], 1)
        angle = math.atan(max(float(slope), 0.02))
        met = float(-start / slope) if slope > 0.02 else float(t[first])
    else:
        angle, met = math.atan2(float(d[first]), max(float(t[first]), 1.0)), 0.0
    # A lead that leaves more steeply than that radius has come clear on a tighter one.
    back = min(radius * math.tan(angle / 2), float(d[first]) / math.tan(max(angle, 0.02)), LONGEST_LEAD_GAUGES * gauge)
    begin = met - back
    sign = 1.0 if ahead else -1.0
    along = near + sign * begin
    if not 0 <= along <= host.length:
        along = min(max(along, 0.0), host.length)
        begin = sign * (along - near)
    drawn = [host.point(along)]
    reach = float(t[first]) - begin
    for share in (0.25, 0.5, 0.75):
        s = share * reach
        away = min(s * s / (2 * radius), float(d[first]))
        drawn.append(_aside(host, along + sign * s, side * away))
    return Drawn(np.vstack([drawn, lead[first:]]), along, ahead)


def _beside(lead: Points, host: Polyline, near: float, width: float) -> tuple[Points, Points, float]:
    """For points of a lead: how far on along the host they stand, how far from it, and on which side."""
    upto = distances(lead)
    some = lead[upto <= max(60.0, 40 * width)]
    reach = float(upto[min(len(some), len(lead)) - 1]) + 10 * width
    xs, ys, at = np.array(host.xs), np.array(host.ys), np.array(host.distance)
    grid = np.linspace(max(near - reach, 0), min(near + reach, host.length), max(int(2 * reach), 20))
    gx, gy = np.interp(grid, at, xs), np.interp(grid, at, ys)
    away = np.hypot(some[:, 0][:, None] - gx, some[:, 1][:, None] - gy)
    k = away.argmin(axis=1)
    t, d = grid[k] - near, away[np.arange(len(some)), k]
    j = min(int(np.searchsorted(d, CLEAR_WIDTHS * width)), len(d) - 1)
    m = int(np.argmax(d[: max(j, 1) + 20]))
    x0, x1 = max(k[m] - 1, 0), min(k[m] + 1, len(grid) - 1)
    wx, wy = gx[x1] - gx[x0], gy[x1] - gy[x0]
    side = 1.0 if wx * (some[m, 1] - gy[k[m]]) - wy * (some[m, 0] - gx[k[m]]) > 0 else -1.0
    return t, d, side


def _aside(line: Polyline, along: float, off: float) -> tuple[float, float]:
    """A place so far to the right of a line (to the left where negative), px, y running down."""
    a, b = line.point(max(along - 1, 0)), line.point(min(along + 1, line.length))
    size = math.dist(a, b) or 1.0
    x, y = line.point(min(max(along, 0), line.length))
    return x - (b[1] - a[1]) / size * off, y + (b[0] - a[0]) / size * off
