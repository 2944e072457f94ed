"""A photo of a sheet made square: the map of its plane onto itself that takes four corners to a rectangle."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

Place = tuple[float, float]
LEAST_SINGULAR = 1e-7
"""Of the equations of a map: less is three corners in one line."""
LEAST_SIDE_PX = 40.0


class NotStraight(ValueError):
    """Four corners that are no sheet, in a sentence."""


def homography(places: Sequence[Place], onto: Sequence[Place]) -> tuple[float, ...]:
    """The eight figures a … h of x' = (ax + by + c)/(gx + hy + 1), y' = (dx + ey + f)/(gx + hy + 1).

    Args:
        places: four, no three in a line. onto: where each of them goes.

    Raises:
        NotStraight: three of them lie in a line.

    >>> square = [(0, 0), (2, 0), (2, 1), (0, 1)]
    >>> [round(v, 6) + 0.0 for v in homography(square, [(10, 5), (12, 5), (12, 6), (10, 6)])]
    [1.0, 0.0, 10.0, 0.0, 1.0, 5.0, 0.0, 0.0]

    Source: the plane's projective maps, any textbook of projective geometry; exact.
    """
    rows, wanted = [], []
    for (x, y), (u, v) in zip(places, onto, strict=True):
        rows += [[x, y, 1, 0, 0, 0, -u * x, -u * y], [0, 0, 0, x, y, 1, -v * x, -v * y]]
        wanted += [u, v]
    matrix = np.array(rows, dtype=float)
    # Columns are of unlike size, places and their products: each by its own length.
    if np.linalg.svd(matrix / np.linalg.norm(matrix, axis=0), compute_uv=False)[-1] < LEAST_SINGULAR:
        raise NotStraight("Three of the corners lie in one line.")
    return tuple(float(c) for c in np.linalg.solve(matrix, np.array(wanted, dtype=float)))


def in_order(corners: Sequence[Place]) -> list[Place]:
    """Four corners from the upper left clockwise, however they were clicked.

    Raises:
        NotStraight: they are no corners of a sheet: one lies within the others, or it is too small.
    """
    if len(corners) != 4:
        raise NotStraight("A sheet has four corners.")
    middle = (sum(x for x, _ in corners) / 4, sum(y for _, y in corners) / 4)
    round_it = sorted(corners, key=lambda p: float(np.arctan2(p[1] - middle[1], p[0] - middle[0])))
    turns = []
    for k in range(4):
        a, b, c = round_it[k], round_it[(k + 1) % 4], round_it[(k + 2) % 4]
        turns.append((b[0] - a[0]) * (c[1] - b[1]) - (b[1] - a[1]) * (c[0] - b[0]))
    if min(turns) <= LEAST_SIDE_PX**2 / 4:
        raise NotStraight("These are not the four corners of a sheet: drag each onto its own corner.")
    first = min(range(4), key=lambda k: sum(round_it[k]))
    return [round_it[(first + k) % 4] for k in range(4)]


def size_of(corners: Sequence[Place], wide: float, high: float, longest: int) -> tuple[int, int]:
    """The pixels of the straightened sheet: as fine as the finest edge in the photo, no side over `longest`.

    Args:
        corners: in order from the upper left. wide, high: of the sheet, mm.
    """
    a, b, c, d = (np.array(p) for p in corners)
    edges = ((a, b, wide), (d, c, wide), (a, d, high), (b, c, high))
    finest = max(float(np.linalg.norm(q - p)) / mm for p, q, mm in edges)
    fine = min(finest, longest / max(wide, high))
    return max(1, round(wide * fine)), max(1, round(high * fine))
