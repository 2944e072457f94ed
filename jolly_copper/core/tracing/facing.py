"""Loose ends of lines that face each other: dashes in line, and lines a pen lifted from."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from scipy.spatial import cKDTree

from jolly_copper.core.tracing.graph import between


class End(NamedTuple):
    """A loose end: where, px, which way it points outwards, and its node and edge."""

    x: float
    y: float
    way: tuple[float, float]
    node: int
    edge: int


class Facing(NamedTuple):
    """Two ends by their place in the list: how far apart, px, and how far off a straight either points, degrees."""

    away: float
    off: float
    one: int
    other: int


def facing(ends: Sequence[End], reach: float) -> list[Facing]:
    """Pairs of ends within reach of each other, the straightest and nearest first.

    Args:
        ends: of different lines or of one. reach: px.

    Returns:
        In time that grows with the ends and the pairs found, not with all pairs there are.
    """
    if len(ends) < 2:
        return []
    found = []
    for a, b in cKDTree(np.array([(e.x, e.y) for e in ends])).query_pairs(reach):
        one, other = ends[a], ends[b]
        away = math.dist(one[:2], other[:2])
        if away < 1e-9:
            continue
        over = ((other.x - one.x) / away, (other.y - one.y) / away)
        found.append(Facing(away, max(between(one.way, over), between(other.way, (-over[0], -over[1]))), a, b))
    return sorted(found, key=lambda f: (f.away + f.off, f.one, f.other))
