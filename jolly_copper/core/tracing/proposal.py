"""A picture traced: lines that will be track with their turnouts and crossings, lines left out with the reason, and
what is in doubt."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from jolly_copper.core.layout.geometry import Polyline
from jolly_copper.core.tracing.cleaning import clean_net, gaps
from jolly_copper.core.tracing.fineness import too_near
from jolly_copper.core.tracing.fitting import Corner, fit_line
from jolly_copper.core.tracing.graph import Net, between, heading, net_of
from jolly_copper.core.tracing.inks import Ink, find_inks, mask_of, on_roadbed, without_specks
from jolly_copper.core.tracing.judging import doubts, judged
from jolly_copper.core.tracing.lines import Crossing, Lead, Line, NotTraced, Settings, Traced
from jolly_copper.core.tracing.paper import Bytes, clean
from jolly_copper.core.tracing.polishing import polish
from jolly_copper.core.tracing.rails import middles, rails_apart
from jolly_copper.core.tracing.reading import Junction, Route, cross_flat, follow, read_junctions
from jolly_copper.core.tracing.sleepers import has_sleepers, without_sleepers
from jolly_copper.core.tracing.strokes import STRONG, strength, stroke_width, thin
from jolly_copper.core.tracing.tables import find_discs, tables_of, without_discs
from jolly_copper.core.tracing.turnouts import draw_in, line_of

MOST_INK, MOST_SKELETON = 0.45, 0.07
LEAST_SIDE = 200
MOST_EDGES = 2000
PIXELS_A_JUNCTION = 50.0
FLAT = 20.0
"""A crossing flatter than this, in degrees, may be a slip."""
OWN_LEAD_GAUGES = 20.0
"""No line crosses the one it leaves so near to where it does."""
AGAIN_SHARE = 0.05
"""A line that crosses itself has gone so much of its length meanwhile."""
BORDER = 0.004
LEAST_STRONG, LEAST_KEPT = 0.55, 0.3
"""Of the skeleton that runs on straight, and of its length that is proposed: less is a page of text, or scenery."""
ROUNDS_OF_TWO_RAILS = 3
"""Turnouts drawn with two rails leave wider gaps, closed one after the other."""
LETTER_HEIGHTS = 2.3
ROADBED_GAUGES = 1.8
"""A stroke wider than that, in gauges, is no track but what it lies on."""
GHOST_GAUGES = 10.0
"""What is left of the sleepers of two tracks that part is shorter."""
INK_PLACES, SHOWN_POINTS = 24, 12
Told = Callable[[str], None]


def trace(picture: Bytes, settings: Settings, told: Told = lambda _words: None) -> Traced:
    """Trace a picture of a plan.

    Args:
        picture: shape (H, W, 3), 0 to 255. settings: what is known of it. told: hears what is being done.

    Raises:
        NotTraced: there is nothing on it, or nothing that is drawn in lines.
    """
    if min(picture.shape[:2]) < LEAST_SIDE:
        raise NotTraced(f"This picture is too small to trace: {LEAST_SIDE} pixels either way is the least.")
    if unfit := too_near(settings.gauge, picture.shape[1]):
        raise NotTraced(unfit)
    told("Cleaning the paper")
    sheet = clean(picture)
    told("Finding the ink")
    inks = find_inks(sheet.ink)
    if not inks:
        raise NotTraced("There is no ink on this picture.")
    chosen = [i for i in settings.inks if i < len(inks)] if settings.inks is not None else _looks_like_track(inks)
    mask = (
        without_specks(mask_of(sheet.ink, inks, chosen), BORDER) if chosen else np.zeros(picture.shape[:2], dtype=bool)
    )
    mask = _within(mask, settings)
    if mask.mean() > MOST_INK:
        raise NotTraced(NO_LINES)
    skeleton = thin(mask)
    if skeleton.sum() < 20:
        raise NotTraced("There is no ink on this picture.")
    if skeleton.mean() > MOST_SKELETON:
        raise NotTraced(NO_LINES)
    told("Following lines")
    width = stroke_width(mask, skeleton)
    roadbed = width > ROADBED_GAUGES * settings.gauge or on_roadbed(sheet.ink, skeleton, width)
    sure, way = strength(mask, skeleton, max(20.0, 2.4 * settings.gauge, 5 * width))
    runs_on = settings.inks is not None or float((sure[skeleton] > STRONG).mean()) >= LEAST_STRONG
    discs = find_discs(skeleton, way, settings.gauge, width)
    skeleton = without_discs(skeleton, discs, width)
    sure = np.where(skeleton, sure, np.float32(0.0))
    apart = None if settings.drawn == "one line" else rails_apart(sure, way, settings.gauge)
    sleepers = has_sleepers(skeleton)
    inked = float((sure > STRONG).sum() if sleepers else skeleton.sum())
    if apart is None and sleepers:
        skeleton = without_sleepers(mask, skeleton, settings.gauge)
        sure, way = strength(mask, skeleton, max(20.0, 2.4 * settings.gauge, 5 * width))
    if apart is not None:
        skeleton = thin(middles(sure, way, apart))
        sure, width = np.where(skeleton, np.float32(1.0), np.float32(0.0)), 0.6 * apart
    net = net_of(skeleton)
    size = float(max(picture.shape[:2]))
    gone, letters = clean_net(net, sure, width, size, discs)
    if apart is not None:
        for _ in range(ROUNDS_OF_TWO_RAILS):
            gaps(net, width, 2.5 * apart, 9 * apart, discs)
    if len(net.edges) > MOST_EDGES or len(net.nodes) * PIXELS_A_JUNCTION > max(skeleton.sum(), 1) * 4:
        raise NotTraced("The lines are too tangled at this size; trace a part.")
    cross_flat(net, width)
    net.dissolve()
    junctions = read_junctions(net, width)
    routes, hosts = follow(net, junctions)
    told("Fitting curves")
    lines = _fitted(routes, junctions, hosts, width, settings.gauge)
    crossings = _crossings(net, junctions, hosts, lines)
    if apart is not None:
        crossings += _met(lines, crossings, 2 * apart)
    crossings = [c for c in crossings if not _of_own_lead(c, lines, OWN_LEAD_GAUGES * settings.gauge)]
    shortest = (
        settings.shortest
        if settings.shortest is not None
        else max(
            9 * width, LETTER_HEIGHTS * letters, GHOST_GAUGES * settings.gauge if sleepers and apart is None else 0.0
        )
    )
    tables = tables_of(discs, lines, settings.gauge)
    lines = judged(lines, crossings, shortest, settings.gauge, apart is not None, tables)
    kept_length = sum(x.length for x in lines if not x.why)
    if not runs_on or (settings.inks is None and kept_length < LEAST_KEPT * inked):
        lines = [replace(x, why=x.why or "does not run on as track does") for x in lines]
    lines += [
        Line(
            len(lines) + k,
            tuple(Corner(float(x), float(y), None) for x, y in _thinned(g.points)),
            False,
            None,
            None,
            g.why,
        )
        for k, g in enumerate(g for g in gone if len(g.points) > 2)
    ]
    lines = [replace(x, ink=_ink_of(x, sheet.ink, inks, chosen)) for x in lines]
    kept = {x.number for x in lines if not x.why}
    crossings = [c for c in crossings if {c.one, c.other} <= kept]
    return Traced(
        tuple(lines),
        tuple(crossings),
        tuple(doubts(lines, crossings, width, tables)),
        tuple(inks),
        tuple(chosen),
        width,
        sheet.turned,
        apart is not None,
        tuple(tables),
        sleepers,
        roadbed,
    )


def _thinned(points: NDArray[np.float64]) -> list[list[float]]:
    """A dozen points of a line that is only shown."""
    some: list[list[float]] = points[np.unique(np.linspace(0, len(points) - 1, SHOWN_POINTS).astype(int))].tolist()
    return some


NO_LINES = "This is not a drawing of lines, or the light is too uneven: straighten it and leave out what is not plan."


def _looks_like_track(inks: list[Ink]) -> list[int]:
    return [n for n, ink in enumerate(inks) if ink.dark]


def _within(mask: NDArray[np.bool_], settings: Settings) -> NDArray[np.bool_]:
    found = mask.copy()
    if settings.area is not None:
        part = _inside(settings.area)
        found = np.zeros_like(mask)
        found[part] = mask[part]
    for box in settings.left_out:
        found[_inside(box)] = False
    return found


def _inside(box: tuple[float, float, float, float]) -> tuple[slice, slice]:
    """Rows and columns of a box; what lies off the picture is none."""
    left, top, right, bottom = (max(round(v), 0) for v in box)
    return slice(top, bottom), slice(left, right)


def _fitted(
    routes: list[Route],
    junctions: dict[int, Junction],
    hosts: dict[tuple[int, int], tuple[int, float]],
    width: float,
    gauge: float,
) -> list[Line]:
    """Lines with their leads drawn in, hosts before what leaves them."""
    left_at: dict[int | None, tuple[int, float]] = {}
    for node, junction in junctions.items():
        host = hosts.get((node, junction.leaving[0][1] if junction.leaving else 0))
        if host is not None:
            left_at[node] = host
    found: dict[int, Line] = {}
    left = list(routes)
    while left:
        ready = [
            r for r in left if all(left_at[n][0] in (*found, r.number) for n in (r.starts, r.ends) if n in left_at)
        ]
        for route in ready or left[:1]:
            found[route.number] = _one(route, found, routes, left_at, width, gauge)
            left.remove(route)
    return [found[r.number] for r in routes]


def _one(
    route: Route,
    found: dict[int, Line],
    routes: list[Route],
    left_at: dict[int | None, tuple[int, float]],
    width: float,
    gauge: float,
) -> Line:
    """One line: its leads drawn in at both ends, then fitted. left_at: the line left at a node, and how far along."""
    points = route.points
    leads: list[Lead | None] = [None, None]
    for k, node in enumerate((route.starts, route.ends)):
        if node not in left_at:
            continue
        number, near = left_at[node]
        known = found.get(number)
        on = line_of(list(known.corners)) if known else line_of(fit_line(routes[number].points, width))
        # Along the line as fitted: leads drawn in shift what comes after them.
        end = points[0] if k == 0 else points[-1]
        if routes[number].closed:  # it begins elsewhere than its route does, where it runs straight
            near = on.nearest(float(end[0]), float(end[1]))[0]
        else:
            near = _along(on, end, near * on.length / max(routes[number].length, 1e-9), 12 * width + 0.03 * on.length)
        drawn = draw_in(points if k == 0 else points[::-1], on, near, width, gauge)
        points = drawn.points if k == 0 else drawn.points[::-1]
        leads[k] = Lead(number, drawn.along, drawn.ahead)
    corners = _joined_at_a_straight(points, width) if route.closed else polish(points, fit_line(points, width), width)
    return Line(route.number, tuple(corners), route.closed, leads[0], leads[1])


def _along(line: Polyline, at: NDArray[np.float64], near: float, reach: float) -> float:
    """How far along a line the place nearest to a point is, looked for around where it is expected: a line may pass its
    own beginning."""
    places = np.linspace(max(near - reach, 0.0), min(near + reach, line.length), max(int(2 * reach), 10))
    xs, ys = np.interp(places, line.distance, line.xs), np.interp(places, line.distance, line.ys)
    return float(places[int(np.argmin(np.hypot(xs - at[0], ys - at[1])))])


def _joined_at_a_straight(points: NDArray[np.float64], width: float) -> list[Corner]:
    """A line that comes round, begun where it runs straight."""
    step = max(1, len(points) // 60)
    n = len(points) - 1
    span = max(8, n // 20)
    bends = [
        (
            between(
                heading(np.roll(points[:-1], -k, axis=0)[: span + 1], 0, 1e9),
                heading(np.roll(points[:-1], -(k + span), axis=0)[: span + 1], 0, 1e9),
            ),
            k,
        )
        for k in range(0, n, step)
    ]
    start = (min(bends)[1] + span) % n
    turned = np.roll(points[:-1], -start, axis=0)
    whole = np.vstack([turned, turned[:1]])
    return polish(whole, fit_line(whole, width), width)


def _ink_of(line: Line, ink: NDArray[np.float32], inks: list[Ink], chosen: list[int]) -> int:
    """The chosen ink that the middle of a line wears most."""
    if len(chosen) < 2:
        return chosen[0] if chosen else 0
    drawn = line_of(list(line.corners))
    places = [drawn.point(drawn.length * (k + 0.5) / INK_PLACES) for k in range(INK_PLACES)]
    height, width = ink.shape[:2]
    votes = [0.0] * len(inks)
    for x, y in places:
        column, row = min(max(round(x), 1), width - 2), min(max(round(y), 1), height - 2)
        near = ink[row - 1 : row + 2, column - 1 : column + 2].reshape(-1, 3)
        worn = near[int(near.max(axis=1).argmax())]
        size = float(np.linalg.norm(worn))
        for n in chosen:
            colour = np.array(inks[n].colour)
            votes[n] += float(worn @ colour) / max(size * float(np.linalg.norm(colour)), 1e-9)
    return max(chosen, key=lambda n: (votes[n], -n))


def _crossings(
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


def _of_own_lead(crossing: Crossing, lines: list[Line], near: float) -> bool:
    """Whether a line only seems to cross the one it leaves, close to where it does: a pen that shook."""
    known = {x.number: x for x in lines}
    for number, other, at in (
        (crossing.one, crossing.other, crossing.other_at),
        (crossing.other, crossing.one, crossing.one_at),
    ):
        leads = (known[number].starts, known[number].ends)
        if any(lead is not None and lead.host == other and abs(lead.along - at) < near for lead in leads):
            return True
    return False


def _passes_again(line: Polyline, x: float, y: float, known: float) -> float:
    """How far along a line it comes by a place once more, away from where it is known to."""
    places = np.linspace(0.0, line.length, max(int(line.length), 10))
    away = np.hypot(np.interp(places, line.distance, line.xs) - x, np.interp(places, line.distance, line.ys) - y)
    round_it = np.abs(places - known)
    away[np.minimum(round_it, line.length - round_it) < AGAIN_SHARE * line.length] = np.inf
    return float(places[int(np.argmin(away))])


def _met(lines: list[Line], known: list[Crossing], near: float) -> list[Crossing]:
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
