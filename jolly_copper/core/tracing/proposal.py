"""A picture traced: lines that will be track with their turnouts and crossings, lines left out with the reason, and
what is in doubt."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from jolly_copper.core.layout.geometry import Polyline
from jolly_copper.core.tracing.cleaning import LeftOut, clean_net, gaps
from jolly_copper.core.tracing.crossing import crossings_met, crossings_of, without_own_leads
from jolly_copper.core.tracing.fineness import too_near
from jolly_copper.core.tracing.fitting import Corner, fit_line
from jolly_copper.core.tracing.graph import Net, between, heading, net_of
from jolly_copper.core.tracing.inks import Bools, Ink, find_inks, mask_of, on_roadbed, without_specks
from jolly_copper.core.tracing.judging import doubts, judged
from jolly_copper.core.tracing.lines import Lead, Line, NotTraced, Settings, Traced
from jolly_copper.core.tracing.paper import Bytes, Floats, clean
from jolly_copper.core.tracing.polishing import polish
from jolly_copper.core.tracing.rails import middles, rails_apart
from jolly_copper.core.tracing.reading import Junction, Route, cross_flat, follow, read_junctions
from jolly_copper.core.tracing.sleepers import has_sleepers, without_sleepers
from jolly_copper.core.tracing.strokes import STRONG, strength, stroke_width, thin
from jolly_copper.core.tracing.tables import Disc, find_discs, tables_of, without_discs
from jolly_copper.core.tracing.turnouts import draw_in, line_of

MOST_INK, MOST_SKELETON = 0.45, 0.07
LEAST_SIDE = 200
MOST_EDGES = 2000
PIXELS_A_JUNCTION = 50.0
BORDER = 0.004
LEAST_STRONG, LEAST_KEPT = 0.55, 0.3
"""Of the skeleton that runs on straight, and of its length that is proposed: less is a page of text, or scenery."""
ROUNDS_OF_TWO_RAILS = 3
"""Turnouts drawn with two rails leave wider gaps, closed one after the other."""
LETTER_HEIGHTS = 2.3
GHOST_GAUGES = 10.0
"""What is left of the sleepers of two tracks that part is shorter."""
INK_PLACES, SHOWN_POINTS = 24, 12
NO_INK = "There is no ink on this picture."
NO_LINES = "This is not a drawing of lines, or the light is too uneven: straighten it and leave out what is not plan."
LEAST_SKELETON = 20
RAILS_WIDTH = 0.6
"""Of the distance of two rails: how wide the line between them counts."""
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
        raise NotTraced(NO_INK)
    chosen = [i for i in settings.inks if i < len(inks)] if settings.inks is not None else _looks_like_track(inks)
    mask, skeleton = _inked(sheet.ink, inks, chosen, settings)
    told("Following lines")
    strokes = _strokes_of(mask, skeleton, settings)
    size = float(max(picture.shape[:2]))
    net, gone, letters = _net_of(strokes, size)
    junctions = read_junctions(net, strokes.width)
    routes, hosts = follow(net, junctions)
    told("Fitting curves")
    lines = _fitted(routes, junctions, hosts, strokes.width, settings.gauge)
    crossings = crossings_of(net, junctions, hosts, lines)
    if strokes.apart is not None:
        crossings += crossings_met(lines, crossings, 2 * strokes.apart)
    crossings = without_own_leads(crossings, lines, settings.gauge)
    tables = tables_of(strokes.discs, lines, settings.gauge)
    shortest = settings.shortest if settings.shortest is not None else _shortest(strokes, letters, settings.gauge)
    lines = judged(lines, crossings, shortest, settings.gauge, strokes.apart is not None, tables)
    if settings.inks is None and (
        strokes.straight < LEAST_STRONG or sum(x.length for x in lines if not x.why) < LEAST_KEPT * strokes.inked
    ):
        lines = [replace(x, why=x.why or "does not run on as track does") for x in lines]
    lines += _only_shown(gone, len(lines))
    lines = [replace(x, ink=_ink_of(x, sheet.ink, inks, chosen)) for x in lines]
    kept = {x.number for x in lines if not x.why}
    crossings = [c for c in crossings if {c.one, c.other} <= kept]
    return Traced(
        tuple(lines),
        tuple(crossings),
        tuple(doubts(lines, crossings, strokes.width, tables)),
        tuple(inks),
        tuple(chosen),
        strokes.width,
        sheet.turned,
        strokes.apart is not None,
        tuple(tables),
        strokes.sleepers,
        on_roadbed(sheet.ink, skeleton, stroke_width(mask, skeleton), settings.gauge),
    )


@dataclass(frozen=True)
class Strokes:
    """What is drawn, made thin. sure: of each pixel of the skeleton, how surely it is of a long stroke. width: of a
    stroke, px. apart: of the two rails of the track, px; None where it is one line. discs: taken off. sleepers: it had
    some. straight: share of the skeleton that ran on straight. inked: pixels of it that track could be of."""

    skeleton: Bools
    sure: NDArray[np.float32]
    width: float
    apart: float | None
    discs: list[Disc]
    sleepers: bool
    straight: float
    inked: float


def _inked(ink: Floats, inks: list[Ink], chosen: list[int], settings: Settings) -> tuple[Bools, Bools]:
    """Where the chosen inks are, in the part that is looked at, and the line down their middle.

    Raises:
        NotTraced: there is nothing, or nothing that is drawn in lines.
    """
    whole = without_specks(mask_of(ink, inks, chosen), BORDER) if chosen else np.zeros(ink.shape[:2], dtype=bool)
    mask = _within(whole, settings)
    if mask.mean() > MOST_INK:
        raise NotTraced(NO_LINES)
    skeleton = thin(mask)
    if skeleton.sum() < LEAST_SKELETON:
        raise NotTraced(NO_INK)
    if skeleton.mean() > MOST_SKELETON:
        raise NotTraced(NO_LINES)
    return mask, skeleton


def _strokes_of(mask: Bools, skeleton: Bools, settings: Settings) -> Strokes:
    """Turntables and sleepers taken off, two rails made one line."""
    width, gauge = stroke_width(mask, skeleton), settings.gauge
    reach = max(20.0, 2.4 * gauge, 5 * width)
    sure, way = strength(mask, skeleton, reach)
    straight = float((sure[skeleton] > STRONG).mean())
    discs = find_discs(skeleton, way, gauge, width)
    skeleton = without_discs(skeleton, discs, width)
    sure = np.where(skeleton, sure, np.float32(0.0))
    apart = None if settings.drawn == "one line" else rails_apart(sure, way, gauge)
    sleepers = has_sleepers(skeleton)
    inked = float((sure > STRONG).sum() if sleepers else skeleton.sum())
    if apart is not None:
        skeleton = thin(middles(sure, way, apart))
        sure, width = np.where(skeleton, np.float32(1.0), np.float32(0.0)), RAILS_WIDTH * apart
    elif sleepers:
        skeleton = without_sleepers(mask, skeleton, gauge)
        sure, _ = strength(mask, skeleton, reach)
    return Strokes(skeleton, sure, width, apart, discs, sleepers, straight, inked)


def _net_of(strokes: Strokes, size: float) -> tuple[Net, list[LeftOut], float]:
    """The net of what is drawn, cleaned; what was left out for good, and the height of letters, px.

    Raises:
        NotTraced: too much hangs together to be read.
    """
    net, width = net_of(strokes.skeleton), strokes.width
    gone, letters = clean_net(net, strokes.sure, width, size, strokes.discs)
    if strokes.apart is not None:
        for _ in range(ROUNDS_OF_TWO_RAILS):
            gaps(net, width, 2.5 * strokes.apart, 9 * strokes.apart, strokes.discs)
    if len(net.edges) > MOST_EDGES or len(net.nodes) * PIXELS_A_JUNCTION > max(strokes.skeleton.sum(), 1) * 4:
        raise NotTraced("The lines are too tangled at this size; trace a part.")
    cross_flat(net, width)
    net.dissolve()
    return net, gone, letters


def _shortest(strokes: Strokes, letters: float, gauge: float) -> float:
    """The shortest line that is kept where nobody says, px."""
    ghosts = GHOST_GAUGES * gauge if strokes.sleepers and strokes.apart is None else 0.0
    return max(9 * strokes.width, LETTER_HEIGHTS * letters, ghosts)


def _only_shown(gone: list[LeftOut], first: int) -> list[Line]:
    """Lines left out for good, by a dozen points each."""
    shown = [g for g in gone if len(g.points) > 2]
    return [
        Line(
            first + k, tuple(Corner(float(x), float(y), None) for x, y in _thinned(g.points)), False, None, None, g.why
        )
        for k, g in enumerate(shown)
    ]


def _thinned(points: NDArray[np.float64]) -> list[list[float]]:
    """A dozen points of a line that is only shown."""
    some: list[list[float]] = points[np.unique(np.linspace(0, len(points) - 1, SHOWN_POINTS).astype(int))].tolist()
    return some


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
