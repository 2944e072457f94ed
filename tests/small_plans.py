"""Small plans to trace, laid from a few lines each with leads as templates have them: tangent, of 45 gauges' radius."""

from __future__ import annotations

import math

from jolly_copper.core.drawing.acts import Like
from jolly_copper.core.drawing.sheet import Sheet
from jolly_copper.core.drawing.tracing import Placed, lay_traced
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.tracing.fitting import Corner
from jolly_copper.core.tracing.lines import Crossing, Lead, Line, Stub, Table, Traced
from jolly_copper.core.tracing.turnouts import line_of

RADIUS, ANGLE = 742.0, math.radians(9)
Points = list[tuple[float, float, float | None]]


def laid_of(
    name: str, lines: list[Line], crossings: tuple[Crossing, ...] = (), tables: tuple[Table, ...] = ()
) -> Layout:
    sheet = Sheet(Layout(name=name))
    traced = Traced(tuple(lines), crossings, (), (), (), 1.0, False, tables=tables)
    lay_traced(sheet, traced, [x.number for x in lines], Placed(0, 0, 1), Like().model_dump())
    return sheet.layout()


def line(
    number: int, points: Points, starts: Lead | None = None, ends: Lead | None = None, closed: bool = False
) -> Line:
    return Line(number, tuple(Corner(*p) for p in points), closed, starts, ends)


def ring(number: int, x0: float, y0: float, x1: float, y1: float, radius: float) -> Line:
    """A loop with round corners, begun in the middle of its upper side, running to the right."""
    middle = (x0 + x1) / 2
    corners = [(x1, y0), (x1, y1), (x0, y1), (x0, y0)]
    return line(number, [(middle, y0, None), *((x, y, radius) for x, y in corners), (middle, y0, None)], closed=True)


def away(x: float, y: float, off: float, ahead: bool = True) -> Points:
    """A lead from a line along y: tangent, then over to a parallel so far off."""
    sign = 1 if ahead else -1
    tangent = RADIUS * math.tan(ANGLE / 2)
    over = abs(off) / math.tan(ANGLE)
    return [(x, y, None), (x + sign * tangent, y, RADIUS), (x + sign * (tangent + over), y + off, RADIUS)]


def passing_siding() -> Layout:
    """A loop with a siding along its lower side, left at one end and met at the other."""
    main = ring(0, 0, 0, 4000, 1800, 600)
    out, back = away(1000, 1800, -60), away(3000, 1800, -60, ahead=False)
    at = _along(main, 1000, 1800), _along(main, 3000, 1800)
    siding = line(1, [*out, *back[::-1]], Lead(0, at[0], False), Lead(0, at[1], True))
    return laid_of("Passing siding", [main, siding])


def stub_yard() -> Layout:
    """A main and three yard tracks off a ladder."""
    main = line(0, [(0, 600, None), (4200, 600, None)])
    ladder = line(1, [*away(500, 600, -60), (3600, 540, None)], Lead(0, 500, True))
    tracks = [ladder]
    for n, x in ((2, 1250.0), (3, 1900.0)):
        tracks.append(line(n, [*away(x, 540 if n == 2 else 480, -60), (3600, 480 - 60 * (n - 2), None)]))
    second = tracks[1]
    tracks[1] = Line(2, second.corners, False, Lead(1, _along(ladder, 1250, 540), True), None)
    tracks[2] = Line(3, tracks[2].corners, False, Lead(2, _along(second, 1900, 480), True), None)
    return laid_of("Stub yard", [main, *tracks])


def double_track() -> Layout:
    """Two loops, one in the other, with a crossover each way."""
    outer, inner = ring(0, 0, 0, 4400, 2200, 700), ring(1, 60, 60, 4340, 2140, 640)
    found = [outer, inner]
    for n, (x, ahead) in enumerate(((900.0, True), (3500.0, False)), start=2):
        out = away(x, 2200, -60, ahead)
        end = (out[-1][0] + (1 if ahead else -1) * RADIUS * math.tan(ANGLE / 2), 2140.0, None)
        found.append(
            line(
                n,
                [*out, end],
                Lead(0, _along(outer, x, 2200), not ahead),
                Lead(1, _along(inner, end[0], 2140), ahead),
            )
        )
    return laid_of("Double track", found)


def cross_over() -> Layout:
    """Two lines that cross square, and a connection between them."""
    one = line(0, [(0, 1000, None), (3600, 1000, None)])
    other = line(1, [(1800, 0, None), (1800, 2000, None)])
    return laid_of("Crossing", [one, other], (Crossing(0, 1800, 1, 1000, 1800, 1000, False),))


def branch() -> Layout:
    """A loop with a branch inside it that ends in two stubs."""
    main = ring(0, 0, 0, 4200, 2400, 650)
    out = away(1400, 2400, -90)
    lead = line(
        1, [*out, (3000, 2310, 600), (3000, 1200, 600), (1000, 1200, None)], Lead(0, _along(main, 1400, 2400), False)
    )
    stub = line(2, [*away(2200, 1200, -60, ahead=False), (1000, 1140, None)], Lead(1, _along(lead, 2200, 1200), True))
    return laid_of("Branch", [main, lead, stub])


def shed() -> Layout:
    """A loop, a lead to a turntable inside it, and six roads."""
    main = ring(0, 0, 0, 4000, 2200, 650)
    out = away(900, 2200, -90)
    lead = line(1, [*out, (2100, 2110, 600), (2100, 1250, None)], Lead(0, _along(main, 900, 2200), False))
    roads, stubs = [], [Stub(1, False)]
    for k in range(6):
        turn = math.radians(-160 + 28 * k)
        a, b = math.cos(turn), math.sin(turn)
        roads.append(line(2 + k, [(2100 + 150 * a, 1100 + 150 * b, None), (2100 + 550 * a, 1100 + 550 * b, None)]))
        stubs.append(Stub(2 + k, True))
    return laid_of("Shed", [main, lead, *roads], tables=(Table(2100, 1100, 150, tuple(stubs)),))


def three_way() -> Layout:
    """A line, and a track to either side of it from one place."""
    main = line(0, [(0, 700, None), (3600, 700, None)])
    up = line(1, [*away(900, 700, -90), (3400, 610, None)], Lead(0, 900, True))
    down = line(2, [*away(900, 700, 90), (3400, 790, None)], Lead(0, 900, True))
    return laid_of("Three-way", [main, up, down])


def terminus() -> Layout:
    """Two platforms and a run-round between them, met by one line."""
    main = line(0, [(0, 900, None), (4600, 900, None)])
    second = line(1, [*away(700, 900, -90), (4400, 810, None)], Lead(0, 700, True))
    over = away(3600, 900, -90, ahead=False)
    end = (over[-1][0] - RADIUS * math.tan(ANGLE / 2), 810.0, None)
    link = line(2, [*over, end], Lead(0, 3600, False), Lead(1, _along(second, end[0], 810), True))
    spur = line(3, [*away(1500, 900, 90), (3000, 990, None)], Lead(0, 1500, True))
    return laid_of("Terminus", [main, second, link, spur])


def hook() -> Layout:
    """A line that curls up, with a siding on its long side."""
    main = line(0, [(0, 1500, None), (4200, 1500, 640), (4200, 0, 640), (1400, 0, 640), (1400, 1000, None)])
    siding = line(1, [*away(900, 1500, -90), (2800, 1410, None)], Lead(0, 900, True))
    return laid_of("Hook", [main, siding])


def two_loops() -> Layout:
    """Two loops that touch nothing, and a yard of two on the inner one."""
    outer, inner = ring(0, 0, 0, 4400, 2400, 700), ring(1, 120, 120, 4280, 2280, 620)
    first = line(2, [*away(1300, 2280, -60), (3300, 2220, None)], Lead(1, _along(inner, 1300, 2280), False))
    second = line(3, [*away(2000, 2220, -60), (3300, 2160, None)], Lead(2, _along(first, 2000, 2220), True))
    return laid_of("Two loops", [outer, inner, first, second])


def _along(line: Line, x: float, y: float) -> float:
    return line_of(list(line.corners)).nearest(x, y)[0]


SMALL_PLANS = (
    passing_siding,
    stub_yard,
    double_track,
    cross_over,
    branch,
    shed,
    three_way,
    terminus,
    two_loops,
    hook,
)
