"""Hidden track drawn in dashes: short straight strokes, three or more in line, drawn together to one."""

from __future__ import annotations

import math
from collections import Counter

import numpy as np

from jolly_copper.core.rails.pieces import Joined
from jolly_copper.core.tracing.facing import End, facing
from jolly_copper.core.tracing.graph import Net

STRAIGHT = 0.97
"""A dash is as long as the way between its ends, but for so much."""
IN_LINE = 16.0
"""Dashes whose directions, and the way from one to the next, differ by no more degrees are one line."""
GAP_DASHES, GAP_WIDTHS = 1.7, 4.0
"""The gap between two dashes: so many times the shorter one, and so many stroke widths."""
LEAST_DASHES = 3
LEAST_WIDTHS = 1.5
"""A stroke shorter than so many widths is a speck."""


def join_dashes(net: Net, width: float, longest: float) -> int:
    """Join dashes that follow each other in line. Answers how many lines came of it.

    Args:
        net: changed in place. width: of a stroke, px. longest: a dash is shorter than that, px.
    """
    ends = _dash_ends(net, width, longest)
    lengths = {e.edge: net.edges[e.edge].length for e in ends}
    lines = Joined()
    used: set[int] = set()
    chosen: list[tuple[End, End]] = []
    for pair in facing(ends, GAP_DASHES * max(lengths.values(), default=0.0) + GAP_WIDTHS * width):
        one, other = ends[pair.one], ends[pair.other]
        gap = GAP_DASHES * min(lengths[one.edge], lengths[other.edge]) + GAP_WIDTHS * width
        if pair.off > IN_LINE or pair.away > gap or one.edge == other.edge or {pair.one, pair.other} & used:
            continue
        used |= {pair.one, pair.other}
        lines.join(one.edge, other.edge)
        chosen.append((one, other))
    dashes = Counter(lines.find(edge) for edge in lengths)
    for one, other in chosen:
        if dashes[lines.find(one.edge)] >= LEAST_DASHES:
            net.add_edge(one.node, other.node, np.array([one[:2], other[:2]]))
    net.dissolve()
    return sum(n >= LEAST_DASHES for n in dashes.values())


def _dash_ends(net: Net, width: float, longest: float) -> list[End]:
    """The ends of all short straight strokes that touch nothing."""
    legs = net.legs()
    found: list[End] = []
    for i, edge in sorted(net.edges.items()):
        if edge.a == edge.b or len(legs[edge.a]) > 1 or len(legs[edge.b]) > 1:
            continue
        (x, y), (u, v) = net.nodes[edge.a], net.nodes[edge.b]
        chord = math.dist((x, y), (u, v))
        if not LEAST_WIDTHS * width < edge.length < longest or chord < STRAIGHT * edge.length:
            continue
        way = ((u - x) / chord, (v - y) / chord)
        found += [End(x, y, (-way[0], -way[1]), edge.a, i), End(u, v, way, edge.b, i)]
    return found
