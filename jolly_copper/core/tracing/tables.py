"""Turntables: small circles that strokes point at, found before anything else is read and taken off the sheet."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from jolly_copper.core.tracing.fitting import Corner, circle_through
from jolly_copper.core.tracing.graph import between
from jolly_copper.core.tracing.inks import Bools
from jolly_copper.core.tracing.lines import Line, Stub, Table
from jolly_copper.core.tracing.strokes import DIRECTIONS

LEAST_GAUGES, MOST_GAUGES = 3.5, 15.0
"""A pit's radius in gauges: smaller is a letter, larger a loop of track."""
CELL_PX = 2
"""Votes are counted in squares of so many pixels."""
WINDOW = 11
"""Pixels either way that the direction of a stroke is read from."""
LEAST_VOTES = 0.35
"""Of a whole circle's votes for a middle to be looked at."""
ROUND = 0.82
"""Of a circle that is ink."""
BEARINGS = 72
"""A circle is looked at in so many directions."""
LEAST_PIXELS = 12
ALIKE = 3
"""Directions, of 32 in half a turn, that still count as along a circle or out of it."""
STUB_RADII, STUB_GAUGES, STUB_DEGREES = 1.4, 5.0, 22.0
"""An end so near a pit, by its radius or so many gauges off its edge, that points so well at its middle is a stub."""
MOST_TABLES, MOST_PEAKS = 12, 400
"""Looked at and found at most: a sheet full of circles is no plan."""


@dataclass(frozen=True)
class Disc:
    """A circle found, px."""

    x: float
    y: float
    radius: float


def find_discs(skeleton: Bools, way: NDArray[np.int16], gauge: float, width: float) -> list[Disc]:
    """Circles of a turntable's size that are nearly all ink, with two strokes or more that lead to them.

    Each pixel votes for the middles that lie square to its stroke, at every radius; the best are fitted anew.

    Args:
        skeleton: of the ink. way: direction of each pixel's stroke, of 32 in half a turn. gauge: of the track, px.
        width: of a stroke, px.
    """
    rows, columns = np.nonzero(skeleton)
    if len(rows) < BEARINGS:
        return []
    height, wide = skeleton.shape
    angle = _tangents(skeleton, rows, columns)
    nx, ny = -np.sin(angle), np.cos(angle)
    shape = (height // CELL_PX + 1, wide // CELL_PX + 1)
    peaks: list[tuple[float, float, float, float]] = []
    for radius in np.arange(max(LEAST_GAUGES * gauge, 6.0), MOST_GAUGES * gauge + 1, CELL_PX):
        votes = np.zeros(shape[0] * shape[1], dtype=np.int32)
        for side in (-1, 1):
            x, y = columns + side * radius * nx, rows + side * radius * ny
            inside = (x >= 0) & (y >= 0) & (x < wide) & (y < height)
            cell = (y[inside] // CELL_PX).astype(np.int64) * shape[1] + (x[inside] // CELL_PX).astype(np.int64)
            votes += np.bincount(cell, minlength=len(votes)).astype(np.int32)
        grid = votes.reshape(shape)
        # Votes for one middle fall into the cells around it.
        near: NDArray[np.int32] = ndimage.convolve(grid, np.ones((3, 3), dtype=np.int32), mode="constant")
        k = int(np.argmax(near))
        while near.flat[k] > LEAST_VOTES * 2 * math.pi * radius and len(peaks) < MOST_PEAKS:
            r, c = divmod(k, shape[1])
            peaks.append((float(near.flat[k]) / radius, (c + 0.5) * CELL_PX, (r + 0.5) * CELL_PX, float(radius)))
            reach = max(2, round(radius / CELL_PX / 2))
            near[max(0, r - reach) : r + reach + 1, max(0, c - reach) : c + reach + 1] = 0
            k = int(np.argmax(near))
    found: list[Disc] = []
    for _, at_x, at_y, about in sorted(peaks, reverse=True):
        disc = _fitted(Disc(at_x, at_y, about), rows, columns, width)
        if disc is None or not LEAST_GAUGES * gauge <= disc.radius <= MOST_GAUGES * gauge:
            continue
        if any(math.dist((disc.x, disc.y), (o.x, o.y)) < disc.radius + o.radius for o in found):
            continue
        if _share_inked(disc, rows, columns, width) >= ROUND and _leading_there(disc, rows, columns, way, width) >= 2:
            found.append(disc)
        if len(found) == MOST_TABLES:
            break
    return found


def _tangents(skeleton: Bools, rows: NDArray[np.int64], columns: NDArray[np.int64]) -> NDArray[np.float64]:
    """The direction of the skeleton at each of its pixels, by the main axis of the pixels around it, radians.

    Finer than the directions of strokes, which are one of 32 and lean to one side on a tight circle.
    """
    height, width = skeleton.shape
    ys, xs = np.mgrid[0:height, 0:width].astype(np.float32)
    here = skeleton.astype(np.float32)

    def around(values: NDArray[np.float32]) -> NDArray[np.float64]:
        found: NDArray[np.float64] = ndimage.uniform_filter(values.astype(np.float64), WINDOW, mode="constant")
        return found[rows, columns]

    n, x, y = around(here), around(here * xs), around(here * ys)
    x, y = x / n, y / n
    xx, yy, xy = (
        around(here * xs * xs) / n - x * x,
        around(here * ys * ys) / n - y * y,
        around(here * xs * ys) / n - x * y,
    )
    angle: NDArray[np.float64] = 0.5 * np.arctan2(2 * xy, xx - yy)
    return angle


def _fitted(disc: Disc, rows: NDArray[np.int64], columns: NDArray[np.int64], width: float) -> Disc | None:
    """A circle through the pixels near one, three times nearer."""
    for band in (0.18, 0.1, 0.06):
        near = np.abs(np.hypot(columns - disc.x, rows - disc.y) - disc.radius) < max(band * disc.radius, width + 1)
        if near.sum() < LEAST_PIXELS:
            return None
        circle = circle_through(np.column_stack([columns[near], rows[near]]).astype(float))
        if circle is None:
            return None
        disc = Disc(*circle)
    return disc


def _bearing(disc: Disc, rows: NDArray[np.int64], columns: NDArray[np.int64]) -> NDArray[np.int64]:
    turn = np.arctan2(rows - disc.y, columns - disc.x) / (2 * math.pi) * BEARINGS
    bearing: NDArray[np.int64] = np.floor(turn).astype(np.int64) % BEARINGS
    return bearing


def _share_inked(disc: Disc, rows: NDArray[np.int64], columns: NDArray[np.int64], width: float) -> float:
    away = np.abs(np.hypot(columns - disc.x, rows - disc.y) - disc.radius)
    on = away < max(1.5, 0.6 * width)
    return len(np.unique(_bearing(disc, rows[on], columns[on]))) / BEARINGS


def _leading_there(
    disc: Disc, rows: NDArray[np.int64], columns: NDArray[np.int64], way: NDArray[np.int16], width: float
) -> int:
    """How many strokes outside a circle run towards its middle."""
    away = np.hypot(columns - disc.x, rows - disc.y)
    out = (away > disc.radius + width + 2) & (away < 1.3 * disc.radius + width + 4)
    r, c = rows[out], columns[out]
    towards = np.round(np.arctan2(r - disc.y, c - disc.x) / math.pi * DIRECTIONS).astype(int) % DIRECTIONS
    turn = np.abs(way[r, c] - towards)
    radial = np.minimum(turn, DIRECTIONS - turn) <= ALIKE
    taken = sorted(set(_bearing(disc, r[radial], c[radial]).tolist()))
    return sum((b - 1) % BEARINGS not in taken for b in taken)


def without_discs(skeleton: Bools, discs: list[Disc], width: float) -> Bools:
    """The skeleton with each disc and its rim taken out."""
    found = skeleton.copy()
    for disc in discs:
        reach = disc.radius + 0.8 * width + 2
        top, left = max(0, int(disc.y - reach)), max(0, int(disc.x - reach))
        part = found[top : int(disc.y + reach) + 2, left : int(disc.x + reach) + 2]
        ys, xs = np.mgrid[top : top + part.shape[0], left : left + part.shape[1]]
        part[np.hypot(xs - disc.x, ys - disc.y) <= reach] = False
    return found


def tables_of(discs: list[Disc], lines: list[Line], gauge: float) -> list[Table]:
    """Each disc with the ends of lines that point at its middle; those with fewer than two are none."""
    found = []
    for disc in discs:
        stubs = []
        for line in lines:
            if line.closed or len(line.corners) < 2:
                continue
            for first, lead in ((True, line.starts), (False, line.ends)):
                end, inner = (line.corners[0], line.corners[1]) if first else (line.corners[-1], line.corners[-2])
                if lead is None and _points_at(disc, end, inner, gauge):
                    stubs.append(Stub(line.number, first))
        if len(stubs) >= 2:
            found.append(Table(disc.x, disc.y, disc.radius, tuple(stubs)))
    return found


def _points_at(disc: Disc, end: Corner, inner: Corner, gauge: float) -> bool:
    away = math.dist((end.x, end.y), (disc.x, disc.y))
    size = math.dist((end.x, end.y), (inner.x, inner.y))
    if away > max(STUB_RADII * disc.radius, disc.radius + STUB_GAUGES * gauge) or away < 1e-9 or size < 1e-9:
        return False
    inwards = (end.x - inner.x) / size, (end.y - inner.y) / size
    return between(inwards, ((disc.x - end.x) / away, (disc.y - end.y) / away)) <= STUB_DEGREES
