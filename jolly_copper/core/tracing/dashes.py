"""Hidden track drawn in dashes: short straight strokes, three or more in line, drawn together to one."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from jolly_copper.core.tracing.graph import Net, between, path_length

STRAIGHT = 0.97
"""A dash is as long as the way between its ends, but for so much."""
IN_LINE = 16.0
"""Dashes whose directions, and the way from one to the next, differ by no more degrees are one line."""
GAP_DASHES, GAP_WIDTHS = 1.7, 4.0
"""The gap between two dashes: so many times the shorter one, and so many stroke widths."""
LEAST_DASHES = 3
LEAST_WIDTHS = 1.5


class DashEnd(NamedTuple):
    """An end of a dash: its node, its edge, and which way it points, outwards."""

    node: int
    edge: int
    way: tuple[float, float]


def join_dashes(net: Net, width: float, longest: float) -> int:
    """Join dashes that follow each other in line. Answers how many lines came of it.

    Args:
        net: changed in place. width: of a stroke, px. longest: a dash is shorter than that, px.
    """
    ends = _dash_ends(net, width, longest)
    lengths = {e.edge: path_length(net.edges[e.edge].points) for e in ends}
    links: list[tuple[float, int, int]] = []
    for a, one in enumerate(ends):
        x, y = net.nodes[one.node]
        for b in range(a + 1, len(ends)):
            other = ends[b]
            if other.edge == one.edge:
                continue
            u, v = net.nodes[other.node]
            away = math.dist((x, y), (u, v))
            if away > GAP_DASHES * min(lengths[one.edge], lengths[other.edge]) + GAP_WIDTHS * width or away < 1e-9:
                continue
            over = ((u - x) / away, (v - y) / away)
            off = max(between(one.way, over), between(other.way, (-over[0], -over[1])))
            if off <= IN_LINE:
                links.append((away + off, a, b))
    home: dict[int, int] = {e.edge: e.edge for e in ends}

    def find(n: int) -> int:
        while home[n] != n:
            n = home[n]
        return n

    used: set[int] = set()
    chosen: list[tuple[int, int]] = []
    for _, a, b in sorted(links):
        if a not in used and b not in used:
            used |= {a, b}
            home[find(ends[a].edge)] = find(ends[b].edge)
            chosen.append((a, b))
    count: dict[int, int] = {}
    for edge in home:
        count[find(edge)] = count.get(find(edge), 0) + 1
    for a, b in chosen:
        if count[find(ends[a].edge)] >= LEAST_DASHES:
            nodes = ends[a].node, ends[b].node
            net.add_edge(*nodes, np.array([net.nodes[n] for n in nodes]))
    net.dissolve()
    return sum(n >= LEAST_DASHES for n in count.values())


def _dash_ends(net: Net, width: float, longest: float) -> list[DashEnd]:
    """The ends of all short straight strokes that touch nothing."""
    legs = net.legs()
    found: list[DashEnd] = []
    for i, edge in sorted(net.edges.items()):
        if edge.a == edge.b or len(legs[edge.a]) > 1 or len(legs[edge.b]) > 1:
            continue
        (x, y), (u, v) = net.nodes[edge.a], net.nodes[edge.b]
        chord = math.dist((x, y), (u, v))
        if not LEAST_WIDTHS * width < edge.length < longest or chord < STRAIGHT * edge.length:
            continue
        way = ((u - x) / chord, (v - y) / chord)
        found += [DashEnd(edge.a, i, (-way[0], -way[1])), DashEnd(edge.b, i, way)]
    return found
