"""Traced lines judged: which are track, which are not and why, and where somebody should look."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

from jolly_copper.core.tracing.lines import Crossing, Doubt, Line, Table
from jolly_copper.core.tracing.turnouts import line_of

SHARP = 55.0
"""A corner sharper than this, in degrees, is of a board or a building."""
STRAIGHT = 3.0
"""A line that turns no more anywhere is straight, degrees."""
TIGHTEST_GAUGES = 5.5
FROG_GAUGES = 18.0
"""With both rails drawn, inner rails of a turnout look like track so short: no crossover is."""
NEAR_WIDTHS = 4.0
"""A loose end so many stroke widths from another line is a place to look at."""


def judged(
    lines: list[Line],
    crossings: list[Crossing],
    shortest: float,
    gauge: float,
    two_rails: bool = False,
    tables: Sequence[Table] = (),
) -> list[Line]:
    """Lines with the reason why they are left out, where they are.

    Args:
        lines: fitted. crossings: of them. shortest: line kept, px. gauge: of the track, px. two_rails: it was drawn so.
        tables: turntables, with what leads to them.
    """
    hosts = {lead.host for x in lines for lead in (x.starts, x.ends) if lead is not None}
    turnouts = bool(hosts)
    stubs = {s.line for t in tables for s in t.stubs}
    found = []
    for line in lines:
        leads = line.number in hosts | stubs or line.starts is not None or line.ends is not None
        crossed = [c for c in crossings if line.number in (c.one, c.other)]
        found.append(replace(line, why=_why(line, leads, len(crossed), turnouts, shortest, gauge, two_rails)))
    return found


def _why(line: Line, leads: bool, crossed: int, turnouts: bool, shortest: float, gauge: float, two_rails: bool) -> str:
    length = line.length
    both = line.starts is not None and line.ends is not None
    if length < shortest and not both:
        return "too short"
    if two_rails and both and length < FROG_GAUGES * gauge:
        return "between the rails of a turnout"
    if leads:
        return ""
    turns = _turns(line)
    sharp = sum(t > SHARP and (r is None or r < TIGHTEST_GAUGES * gauge) for t, r in turns)
    if sharp >= 1:
        return "board edge or building"
    if turnouts and not line.closed and all(t < STRAIGHT for t, _ in turns) and not crossed:
        return "straight line that no turnout leaves"
    if turnouts and crossed >= 3 and all(t < STRAIGHT for t, _ in turns):
        return "stands across"
    if any(r is not None and t > 20 and r < TIGHTEST_GAUGES * gauge for t, r in turns) and length < 40 * gauge:
        return "bends tighter than track does"
    return ""


def _turns(line: Line) -> list[tuple[float, float | None]]:
    """How far the line turns at each corner, degrees, and on what radius."""
    found = []
    c = line.corners
    for a, b, d in zip(c, c[1:], c[2:], strict=False):
        one, other = (b.x - a.x, b.y - a.y), (d.x - b.x, d.y - b.y)
        size = math.hypot(*one) * math.hypot(*other)
        if size > 1e-9:
            cosine = max(-1.0, min(1.0, (one[0] * other[0] + one[1] * other[1]) / size))
            found.append((math.degrees(math.acos(cosine)), b.radius))
    return found


def doubts(lines: list[Line], crossings: list[Crossing], width: float, tables: Sequence[Table] = ()) -> list[Doubt]:
    """Places to look at, from left to right."""
    kept = [x for x in lines if not x.why]
    drawn = {x.number: line_of(list(x.corners)) for x in kept}
    found = [Doubt("flat crossing", c.x, c.y) for c in crossings if c.flat]
    found += [Doubt("turntable", t.x, t.y) for t in tables]
    stubs = {(s.line, s.first) for t in tables for s in t.stubs}
    for line in kept:
        if line.closed:
            continue
        for end, lead, first in ((line.corners[0], line.starts, True), (line.corners[-1], line.ends, False)):
            if (line.number, first) in stubs:
                continue
            near = min((drawn[o.number].nearest(end.x, end.y)[1] for o in kept if o is not line), default=math.inf)
            if lead is None and near < NEAR_WIDTHS * width:
                found.append(Doubt("loose end near a line", end.x, end.y))
    return sorted(found, key=lambda d: (d.x, d.y))
