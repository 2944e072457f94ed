"""Strokes of ink made thin: the line down the middle of each, how wide they are, and how sure each pixel is of being
part of a long one."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from jolly_copper.core.tracing.inks import Bools

DIRECTIONS = 32
STRONG = 0.88
_AROUND = ((-1, 0), (-1, 1), (0, 1), (1, 1), (1, 0), (1, -1), (0, -1), (-1, -1))
"""Neighbours clockwise from above, as (row, column)."""


def _removable() -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """For each of 256 neighbourhoods, whether either half step of thinning takes its middle away.

    Source: T. Y. Zhang and C. Y. Suen, "A fast parallel algorithm for thinning digital patterns", 1984.
    """
    first, second = np.zeros(256, dtype=bool), np.zeros(256, dtype=bool)
    for code in range(256):
        p = [bool(code >> k & 1) for k in range(8)]
        count, turns = sum(p), sum(not p[k] and p[(k + 1) % 8] for k in range(8))
        if not 2 <= count <= 6 or turns != 1:
            continue
        north, east, south, west = p[0], p[2], p[4], p[6]
        first[code] = not (north and east and south) and not (east and south and west)
        second[code] = not (north and east and west) and not (north and south and west)
    return first, second


_FIRST, _SECOND = _removable()


def thin(mask: Bools) -> Bools:
    """Strokes one pixel wide, in the middle of the ink.

    >>> bar = np.zeros((9, 20), dtype=bool)
    >>> bar[3:6, 2:18] = True
    >>> int(thin(bar).sum(axis=0).max())
    1
    """
    height, width = mask.shape
    ink = np.zeros((height + 2, width + 2), dtype=np.uint8)
    ink[1:-1, 1:-1] = mask
    flat = ink.ravel()
    steps = np.array([r * (width + 2) + c for r, c in _AROUND])
    weights = (1 << np.arange(8)).astype(np.int64)
    todo = np.flatnonzero(flat)
    while True:
        gone = 0
        for table in (_FIRST, _SECOND):
            codes = flat[todo[:, None] + steps] @ weights
            take = table[codes]
            flat[todo[take]] = 0
            gone += int(take.sum())
            todo = todo[~take]
        if not gone:
            break
    return ink[1:-1, 1:-1].astype(bool)


def stroke_width(mask: Bools, skeleton: Bools) -> float:
    """How wide the strokes are, px: twice the median distance to paper down the middle, less what pixels add."""
    away = ndimage.distance_transform_edt(mask)
    return max(1.0, 2 * float(np.median(away[skeleton])) - 0.6)


def strength(mask: Bools, skeleton: Bools, length: float) -> tuple[NDArray[np.float32], NDArray[np.int16]]:
    """For each pixel of the skeleton, how much of the best straight stroke of a length through it, ahead or behind, is
    ink: near 1 on lines, less on letters, trees and rows of sleepers; and the direction of that stroke, of 32 in half
    a turn from the right downwards. Shapes as the mask, 0 off the skeleton."""
    rows, columns = np.nonzero(skeleton)
    best, way = np.zeros(len(rows), dtype=np.float32), np.zeros(len(rows), dtype=np.int16)
    whole = np.zeros(len(rows), dtype=np.float32)
    wide = ndimage.binary_dilation(mask)
    half = max(2, round(length / 2))
    along = np.arange(-2 * half, 2 * half + 1)
    height, width = mask.shape
    for k in range(DIRECTIONS):
        angle = math.pi * k / DIRECTIONS
        ys = np.clip(np.round(rows[:, None] + along * math.sin(angle)).astype(np.int64), 0, height - 1)
        xs = np.clip(np.round(columns[:, None] + along * math.cos(angle)).astype(np.int64), 0, width - 1)
        run = np.cumsum(wide[ys, xs], axis=1, dtype=np.int32)
        n = 2 * half + 1
        for start in (0, half, 2 * half):  # behind, centred, ahead
            total = run[:, start + n - 1] - (run[:, start - 1] if start else 0)
            best = np.maximum(best, total / n)
        # Of directions that are all ink, the one that is so farthest both ways.
        far = run[:, -1] / len(along)
        way[far > whole] = k
        whole = np.maximum(whole, far)
    found, ways = np.zeros(mask.shape, dtype=np.float32), np.zeros(mask.shape, dtype=np.int16)
    found[rows, columns], ways[rows, columns] = best, way
    return found, ways
