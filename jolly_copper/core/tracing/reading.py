"""Junctions read as a railroader reads them: which legs run through, which leaves; and the routes that follow."""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass

import numpy as np

from jolly_copper.core.tracing.graph import Leg, Net, Points, between, heading, path_length

STRAIGHT_OVER = 30.0
"""Legs that run on within so many degrees go through together."""
LEAVES_WITHIN, POINTS_BEYOND = 62.0, 105.0
"""The two legs of a turnout lie within so many degrees; its points are that far from both."""
CROSSING_WITHIN = 13.0
BRIDGE_TIMES, LEAST_WIDTH = 2.1, 2.5


@dataclass(frozen=True)
class Junction:
    """What happens at a node: pairs of legs that run through, and legs that leave one of these pairs (by its place in
    the list)."""

    node: int
    pairs: tuple[tuple[Leg, Leg], ...]
    leaving: tuple[tuple[Leg, int], ...]


@dataclass
class Route:
    """A line of track from where it begins to where it ends, through every junction it runs straight over.

    points: px. starts, ends: the node where it leaves another route, or None at a loose end. closed: it comes round to
    where it began.
    """

    number: int
    points: Points
    starts: int | None
    ends: int | None
    closed: bool = False

    @property
    def length(self) -> float:
        return path_length(self.points)


def cross_flat(net: Net, width: float) -> None:
    """Two lines that cross at a small angle make two forks back to back in the skeleton: they are drawn together."""
    width = max(width, LEAST_WIDTH)
    while True:
        legs = net.legs()
        for i, edge in sorted(net.edges.items(), key=lambda e: e[1].length):
            if edge.a == edge.b or edge.length > 14 * width:
                continue
            one = [leg for leg in legs[edge.a] if leg[0] != i]
            other = [leg for leg in legs[edge.b] if leg[0] != i]
            if len(one) == len(other) == 2 and _pairs_straight(net, one, other, edge.length, width):
                net.merge(i)
                break
        else:
            return


def _pairs_straight(net: Net, one: list[Leg], other: list[Leg], bridge: float, width: float) -> bool:
    ways = {leg: heading(net.outward(leg), 1.5 * width, 8 * width) for leg in (*one, *other)}
    for pairing in (((one[0], other[0]), (one[1], other[1])), ((one[0], other[1]), (one[1], other[0]))):
        off = [180 - between(ways[a], ways[b]) for a, b in pairing]
        if max(off) > CROSSING_WITHIN:
            continue
        angle = between(ways[pairing[0][0]], ways[pairing[1][0]])
        if angle < 4 or any(_aside(net, a, b, width) > 1.1 * width + 1.5 for a, b in pairing):
            continue
        overlap = width / max(math.sin(math.radians(angle)), 0.05)
        return bridge <= BRIDGE_TIMES * overlap + 2
    return False


def _aside(net: Net, one: Leg, other: Leg, width: float) -> float:
    """How far the line of one leg, run on, passes beside the beginning of the other."""
    a = net.outward(one)
    way = heading(a, 1.5 * width, 8 * width)
    x, y = net.outward(other)[0]
    dx, dy = x - a[0][0], y - a[0][1]
    return abs(float(dx) * way[1] - float(dy) * way[0])


def read_junctions(net: Net, width: float) -> dict[int, Junction]:
    """Every node where three or more legs meet."""
    found: dict[int, Junction] = {}
    for node, legs in net.legs().items():
        if len(legs) < 3:
            continue
        ways = {leg: heading(net.outward(leg), 1.3 * width + 1, 6 * width + 4) for leg in legs}
        if len(legs) == 3:
            found[node] = _of_three(net, node, legs, ways, width)
        else:
            found[node] = _of_many(net, node, legs, ways)
    return found


def _of_three(net: Net, node: int, legs: list[Leg], ways: dict[Leg, tuple[float, float]], width: float) -> Junction:
    """A turnout, or a line that stands across another."""
    for points in legs:
        a, b = (leg for leg in legs if leg != points)
        if between(ways[a], ways[b]) > LEAVES_WITHIN:
            continue
        if min(between(ways[points], ways[a]), between(ways[points], ways[b])) < POINTS_BEYOND:
            continue
        through = min((a, b), key=lambda leg: _bend_off(net, points, leg, width))
        return Junction(node, ((points, through),), ((b if through == a else a, 0),))
    one, other = max(itertools.combinations(legs, 2), key=lambda p: between(ways[p[0]], ways[p[1]]))
    if between(ways[one], ways[other]) < 180 - 2 * STRAIGHT_OVER:
        return Junction(node, (), ())
    return Junction(node, ((one, other),), ())


def _bend_off(net: Net, points: Leg, leg: Leg, width: float) -> float:
    """How badly one parabola fits the points leg and another together: what runs through has no kink."""
    back, on = net.outward(points), net.outward(leg)
    before = _stretch(back, 4 * width, 30 * width)
    after = _stretch(on, 3 * width, 18 * width)
    if len(before) < 3 or len(after) < 3:
        return 180 - between(heading(back, width, 8 * width), heading(on, width, 8 * width))
    every = np.vstack([before[::-1], after])
    way = every[-1] - every[0]
    size = max(float(np.hypot(*way)), 1e-9)
    along = (every - every[0]) @ way / size
    aside = (every - every[0]) @ np.array([-way[1], way[0]]) / size
    fit = np.polynomial.Polynomial.fit(along, aside, 2)
    return float(np.sqrt(np.mean((fit(along) - aside) ** 2)))


def _stretch(points: Points, start: float, end: float) -> Points:
    """Points of a line between two distances from its beginning."""
    at = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    found: Points = points[(at >= min(start, 0.3 * at[-1])) & (at <= end)]
    return found


def _of_many(net: Net, node: int, legs: list[Leg], ways: dict[Leg, tuple[float, float]]) -> Junction:
    """Straightest pairs first; what is left over leaves the pair it is nearest to."""
    pairs: list[tuple[Leg, Leg]] = []
    left = list(legs)
    off = sorted(
        (180 - between(ways[a], ways[b]), k, m) for (k, a), (m, b) in itertools.combinations(enumerate(legs), 2)
    )
    for angle, k, m in off:
        if angle <= STRAIGHT_OVER and legs[k] in left and legs[m] in left:
            pairs.append((legs[k], legs[m]))
            left = [leg for leg in left if leg not in (legs[k], legs[m])]
    leaving: list[tuple[Leg, int]] = []
    for leg in left:
        near = [(min(between(ways[leg], ways[end]) for end in pair), n) for n, pair in enumerate(pairs)]
        if near and min(near)[0] < LEAVES_WITHIN:
            leaving.append((leg, min(near)[1]))
    return Junction(node, tuple(pairs), tuple(leaving))


def follow(net: Net, junctions: dict[int, Junction]) -> tuple[list[Route], dict[tuple[int, int], tuple[int, float]]]:
    """The routes of a net.

    Returns:
        The routes, and for each pair of a junction (node, its place) the route that runs over it there, with how far
        along.
    """
    mate: dict[Leg, tuple[Leg, int, int]] = {}
    leads: dict[Leg, int] = {}
    for node, junction in junctions.items():
        for n, (a, b) in enumerate(junction.pairs):
            mate[a], mate[b] = (b, node, n), (a, node, n)
        leads |= {leg: node for leg, _ in junction.leaving}
    routes: list[Route] = []
    hosts: dict[tuple[int, int], tuple[int, float]] = {}
    done: set[int] = set()

    def walk(first: Leg, closed: bool) -> None:
        number, leg, parts, length = len(routes), first, list[Points](), 0.0
        while True:
            edge, begins_at_a = leg
            done.add(edge)
            points = net.outward(leg)
            parts.append(points if not parts else points[1:])
            length += path_length(points)
            arrived: Leg = (edge, not begins_at_a)
            if arrived not in mate:
                break
            following, node, n = mate[arrived]
            if following == first or following[0] in done:
                if closed:
                    hosts[node, n] = (number, length)
                break
            hosts[node, n] = (number, length)
            leg = following
        whole = np.vstack(parts)
        start_node = net.edges[first[0]].a if first[1] else net.edges[first[0]].b
        end_node = net.edges[arrived[0]].a if arrived[1] else net.edges[arrived[0]].b
        starts, ends = leads.get(first) and start_node, leads.get(arrived) and end_node
        routes.append(Route(number, whole, None if closed else starts, None if closed else ends, closed))

    for i in sorted(net.edges):
        for end in (True, False):
            if i not in done and (i, end) not in mate:
                edge = net.edges[i]
                walk((i, end), closed=edge.a == edge.b and edge.a not in junctions)
    for i in sorted(net.edges):
        if i not in done:
            walk((i, True), closed=True)
    return routes, hosts
