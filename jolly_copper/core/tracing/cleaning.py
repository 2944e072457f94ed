"""What is no track taken out of the net, and what a pen left open drawn together: spurs, letters, gaps."""

from __future__ import annotations

import math
from collections.abc import Hashable, Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from jolly_copper.core.rails.pieces import Joined
from jolly_copper.core.tracing.dashes import join_dashes
from jolly_copper.core.tracing.facing import End, facing
from jolly_copper.core.tracing.graph import Net, Points, heading
from jolly_copper.core.tracing.tables import Disc

WEAK = 0.72
SMALL_WIDTHS, SMALL_SHARE = 14.0, 0.03
"""A piece smaller than so many stroke widths, or this share of the sheet, is lettering."""
GAP_WIDTHS, GAP_PIXELS = 5.0, 12.0
FACING, IN_LINE, IN_LINE_TIMES = 22.0, 9.0, 2.6
"""Ends that face each other within so many degrees are joined; across a gap so many times as wide only in line."""
ASIDE_PX, ASIDE_SHARE = 1.0, 0.12
"""An end runs on into what lies so far beside its straight, px, and this share of how far ahead."""


class LeftOut(NamedTuple):
    """A line that is not proposed, and why."""

    points: Points
    why: str


def clean_net(
    net: Net, strength: NDArray[np.float32], width: float, size: float, rounds: Sequence[Disc] = ()
) -> tuple[list[LeftOut], float]:
    """Clean a net in place.

    Args:
        net: of the skeleton. strength: of each pixel. width: of a stroke, px. size: longest side of the picture, px.
        rounds: turntables taken out.

    Returns:
        What was left out for good, and the height of letters, px (0 where there are none).
    """
    left: list[LeftOut] = []
    _weak(net, strength, width)
    net.dissolve()
    _spurs(net, width)
    _draw_together(net, width)
    _spurs(net, width)
    small = max(SMALL_WIDTHS * width, SMALL_SHARE * size)
    join_dashes(net, width, small)
    heights = _small(net, small, left)
    gaps(net, width, max(GAP_PIXELS, GAP_WIDTHS * width), 3 * width, rounds)
    _spurs(net, width)
    return left, float(np.median(heights)) if heights else 0.0


def strength_along(points: Points, strength: NDArray[np.float32]) -> float:
    """How sure a line is, on average: the best within a pixel of each of its points."""
    rows = np.clip(np.round(points[:, 1]).astype(int), 1, strength.shape[0] - 2)
    columns = np.clip(np.round(points[:, 0]).astype(int), 1, strength.shape[1] - 2)
    near = [strength[rows + a, columns + b] for a in (-1, 0, 1) for b in (-1, 0, 1)]
    return float(np.max(near, axis=0).mean())


def _weak(net: Net, strength: NDArray[np.float32], width: float) -> None:
    """Short lines that are no part of a stroke: serifs, whiskers of a blot."""
    for i, edge in list(net.edges.items()):
        if edge.length < 6 * width and strength_along(edge.points, strength) < WEAK:
            del net.edges[i]


def _spurs(net: Net, width: float) -> None:
    """Ends that only stick out a little."""
    while True:
        legs = net.legs()
        sticking = [
            i
            for i, edge in net.edges.items()
            if 1 in (len(legs[edge.a]), len(legs[edge.b])) and max(len(legs[edge.a]), len(legs[edge.b])) >= 3
        ]
        short = [(far, i) for i in sticking if (far := net.edges[i].length) < max(1.8 * width, 4.0)]
        if not short:
            return
        # All at once but for those that share a junction: there the shorter one decides what the other is.
        met: set[int] = set()
        for _, i in sorted(short):
            edge = net.edges[i]
            if not {edge.a, edge.b} & met:
                met |= {edge.a, edge.b}
                del net.edges[i]
        net.dissolve()


def _draw_together(net: Net, width: float) -> None:
    """Places where lines meet within a stroke's width of each other are one."""
    while True:
        legs = net.legs()
        joining = [i for i, e in net.edges.items() if len(legs[e.a]) >= 3 and len(legs[e.b]) >= 3]
        near = [(far, i) for i in joining if (far := net.edges[i].length) < 1.2 * width + 1]
        if not near:
            return
        net.merge(min(near)[1])


def parts(net: Net) -> list[list[int]]:
    """Edges by connected part."""
    joined = Joined()
    for edge in net.edges.values():
        joined.join(edge.a, edge.b)
    found: dict[Hashable, list[int]] = {}
    for i, edge in net.edges.items():
        found.setdefault(joined.find(edge.a), []).append(i)
    return list(found.values())


def _small(net: Net, least: float, left: list[LeftOut]) -> list[float]:
    """Parts too small to be track. Answers their heights."""
    heights: list[float] = []
    for some in parts(net):
        every = np.vstack([net.edges[i].points for i in some])
        span = every.max(axis=0) - every.min(axis=0)
        if max(span) < least:
            left += [LeftOut(net.edges[i].points, "lettering") for i in some]
            heights.append(float(span[1]))
            for i in some:
                del net.edges[i]
    net.dissolve()
    return heights


def gaps(net: Net, width: float, reach: float, on: float, rounds: Sequence[Disc] = ()) -> None:
    """Ends that face each other across a small gap, or run on into a line beside them, are joined.

    Args:
        net: changed in place. width: of a stroke, px. reach: of a gap, px; in line, 2.6 times as
        far. on: how far an end runs on into a line, px. rounds: turntables, over which nothing is joined.
    """
    legs = net.legs()
    ends = []
    for n in (n for n in net.nodes if len(legs[n]) == 1):
        way = heading(net.outward(legs[n][0]), 0.0, max(12.0, 5 * width))
        ends.append(End(*net.nodes[n], (-way[0], -way[1]), n, legs[n][0][0]))
    used: set[int] = set()
    for pair in facing(ends, IN_LINE_TIMES * reach):
        one, other = ends[pair.one], ends[pair.other]
        if pair.off >= (FACING if pair.away <= reach else IN_LINE) or {one.node, other.node} & used:
            continue
        if min(net.edges[e.edge].length for e in (one, other)) < 1 or _over(rounds, one[:2], other[:2]):
            continue
        used |= {one.node, other.node}
        net.add_edge(one.node, other.node, np.array([one[:2], other[:2]]))
    for end in ends:
        if end.node not in used:
            _run_on(net, end, on)
    net.dissolve()


def _over(rounds: Sequence[Disc], a: tuple[float, float], b: tuple[float, float]) -> bool:
    """Whether the straight between two places runs over a turntable."""
    dx, dy = b[0] - a[0], b[1] - a[1]
    for r in rounds:
        share = max(0.0, min(1.0, ((r.x - a[0]) * dx + (r.y - a[1]) * dy) / max(dx * dx + dy * dy, 1e-9)))
        if math.dist((a[0] + share * dx, a[1] + share * dy), (r.x, r.y)) < r.radius:
            return True
    return False


def _run_on(net: Net, end: End, reach: float) -> None:
    """An end that runs on into a line ahead of it is joined to it: the first place its own straight comes upon, a
    little to either side."""
    x, y, way, node, _ = end
    best: tuple[float, int, int] | None = None
    for i, edge in net.edges.items():
        if node in (edge.a, edge.b) or len(edge.points) < 5:
            continue
        dx, dy = edge.points[:, 0] - x, edge.points[:, 1] - y
        ahead, aside = dx * way[0] + dy * way[1], np.abs(dx * way[1] - dy * way[0])
        met = np.flatnonzero((ahead > 0) & (ahead <= reach) & (aside <= ASIDE_PX + ASIDE_SHARE * ahead))
        met = met[(met > 0) & (met < len(edge.points) - 1)]
        if not len(met):
            continue
        k = int(met[np.argmin(ahead[met])])
        if best is None or ahead[k] < best[0]:
            best = (float(ahead[k]), i, k)
    if best is None:
        return
    _, i, k = best
    edge = net.edges.pop(i)
    middle = net.add_node(float(edge.points[k, 0]), float(edge.points[k, 1]))
    net.add_edge(edge.a, middle, edge.points[: k + 1])
    net.add_edge(middle, edge.b, edge.points[k:])
    net.add_edge(node, middle, np.array([net.nodes[node], net.nodes[middle]]))
