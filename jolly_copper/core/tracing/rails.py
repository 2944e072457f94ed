"""Track drawn as its two rails: told by strokes that run beside each other at one distance, and made one line."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from jolly_copper.core.tracing.inks import Bools
from jolly_copper.core.tracing.strokes import DIRECTIONS, STRONG

ALIKE = 2
"""Directions that differ by no more are parallel."""
SHARE = 0.36
"""Of strong pixels that have a stroke beside them at one distance: more are rails."""
LEAST_APART, NEAREST_GAUGES, FARTHEST_GAUGES = 4.5, 0.55, 1.7


def rails_apart(sure: NDArray[np.float32], way: NDArray[np.int16], gauge: float) -> float | None:
    """How far apart the two rails of the track are drawn, px; None where it is drawn as one line.

    Args:
        sure: of each pixel of the skeleton. way: its direction, of 32 in half a turn. gauge: of the track by its scale,
        px.
    """
    rows, columns = np.nonzero(sure > STRONG)
    if len(rows) < 50:
        return None
    best: tuple[float, float] = (0.0, 0.0)
    for apart in np.arange(max(LEAST_APART, NEAREST_GAUGES * gauge), FARTHEST_GAUGES * gauge + 1, 0.5):
        left, right = (_partner(rows, columns, sure, way, side * float(apart)) for side in (-1, 1))
        best = max(best, (float((left | right).mean()), -float(apart)))
    return -best[1] if best[0] > SHARE else None


def _partner(
    rows: NDArray[np.int64], columns: NDArray[np.int64], sure: NDArray[np.float32], way: NDArray[np.int16], off: float
) -> Bools:
    """Whether each pixel has a strong parallel stroke so far to one side of it."""
    height, width = sure.shape
    mine = way[rows, columns]
    angle = mine * (math.pi / DIRECTIONS)
    found = np.zeros(len(rows), dtype=bool)
    for slack in (-0.7, 0.0, 0.7):
        ys = np.clip(np.round(rows + np.cos(angle) * (off + slack)).astype(int), 0, height - 1)
        xs = np.clip(np.round(columns - np.sin(angle) * (off + slack)).astype(int), 0, width - 1)
        turn = np.abs(way[ys, xs] - mine)
        turn = np.minimum(turn, DIRECTIONS - turn)
        found |= (sure[ys, xs] > STRONG - 0.1) & (turn <= ALIKE)
    return found


def middles(sure: NDArray[np.float32], way: NDArray[np.int16], apart: float) -> Bools:
    """The line between two rails: each rail votes for the places half way to where the other would be, and where both
    sides have voted it is.

    Both legs of a turnout are drawn nearly to its points so; letters, frames and dimensions have no partner and vanish.
    """
    height, width = sure.shape
    rows, columns = np.nonzero(sure > STRONG - 0.1)
    angle = way[rows, columns] * (math.pi / DIRECTIONS)
    votes = []
    for side in (-1.0, 1.0):
        with_one = _partner(rows, columns, sure, way, side * apart)
        cast = np.zeros(sure.shape, dtype=bool)
        for slack in (-0.5, 0.0, 0.5):
            off = side * apart / 2 + slack
            ys = np.clip(np.round(rows + np.cos(angle) * off).astype(int), 0, height - 1)
            xs = np.clip(np.round(columns - np.sin(angle) * off).astype(int), 0, width - 1)
            cast[ys[with_one], xs[with_one]] = True
        votes.append(ndimage.binary_dilation(cast))
    both = votes[0] & votes[1]
    closed: Bools = ndimage.binary_closing(both, iterations=2)
    return closed
