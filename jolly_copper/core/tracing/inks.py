"""The inks of a drawing: which colours its lines were drawn in, and where each of them is."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from jolly_copper.core.tracing.paper import Floats

Bools = NDArray[np.bool_]
LEAST_INK, NOISE_TIMES = 0.13, 5.0
SAME_COLOUR, SAME_HUE = 0.2, 0.97
MOST_DARK, MOST_PALE = 8, 3
DARK_SHARE = 0.5
"""Of the 98th percentile of strength: what is weaker is pale: a grid, scenery, a pencil."""
LEVEL, HYSTERESIS = 0.5, 0.12
LEAST_COSINE, NEARER = 0.9, 0.01
SPECK_PIXELS = 9
ROADBED_GAUGES = 1.8
"""A stroke wider than that, in gauges, is no track but what it lies on."""
ROADBED_WIDTHS, ROADBED_PX, ROADBED_SHARE = 0.9, 2.0, 0.4
"""Paper is farther from the middle of a line than that on so much of it: it lies on a filled roadbed."""
LEAST_OF_ALL = 0.004
"""Share of all middles of strokes that an ink has at least."""


class Ink(NamedTuple):
    """colour: what it takes of red, green and blue. share: of all middles of strokes that wear it. dark: not pale."""

    colour: tuple[float, float, float]
    share: float
    dark: bool


def find_inks(ink: Floats) -> list[Ink]:
    """The inks, the most used first.

    Middles of strokes are where the ink is as strong as anywhere beside it; their colours are grouped, and groups of
    one hue are one ink.
    """
    strength = ink.max(axis=2)
    noise = float(np.median(np.abs(strength - np.median(strength)))) * 1.4826
    middles = (strength >= 0.985 * ndimage.maximum_filter(strength, size=3)) & (
        strength > max(LEAST_INK, NOISE_TIMES * noise)
    )
    colours = ink[middles]
    if not len(colours):
        return []
    full = float(np.percentile(colours.max(axis=1), 98))
    dark = colours.max(axis=1) >= DARK_SHARE * full
    found = [Ink(c, n / len(colours), True) for c, n in _groups(colours[dark], MOST_DARK)]
    found += [Ink(c, n / len(colours), False) for c, n in _groups(colours[~dark], MOST_PALE)]
    return [i for i in _one_of_a_hue(found) if i.share >= LEAST_OF_ALL]


def _groups(colours: NDArray[np.float32], most: int) -> list[tuple[tuple[float, float, float], int]]:
    """Colours in groups, greedily: the fullest cell with all that is within reach of it, then the next."""
    found: list[tuple[tuple[float, float, float], int]] = []
    left = colours
    while len(left) and len(found) < most:
        cells = np.round(left / (SAME_COLOUR / 2)).astype(np.int64)
        keys, counts = np.unique(cells @ np.array([10000, 100, 1]), return_counts=True)
        best = keys[int(np.argmax(counts))]
        middle = left[(cells @ np.array([10000, 100, 1])) == best].mean(axis=0)
        near = np.linalg.norm(left - middle, axis=1) <= SAME_COLOUR
        middle = left[near].mean(axis=0)
        found.append(((float(middle[0]), float(middle[1]), float(middle[2])), int(near.sum())))
        left = left[~near]
    return found


def _cosine(a: tuple[float, float, float], b: tuple[float, float, float]) -> float:
    one, other = np.array(a), np.array(b)
    return float(one @ other / max(np.linalg.norm(one) * np.linalg.norm(other), 1e-9))


def _one_of_a_hue(inks: list[Ink]) -> list[Ink]:
    """Inks of one hue and kind made one: a thin line of an ink is paler than a thick one."""
    kept: list[Ink] = []
    for ink in sorted(inks, key=lambda i: (not i.dark, -i.share)):
        same = next(
            (n for n, k in enumerate(kept) if k.dark == ink.dark and _cosine(k.colour, ink.colour) > SAME_HUE), None
        )
        if same is None:
            kept.append(ink)
        else:
            kept[same] = kept[same]._replace(share=kept[same].share + ink.share)
    return kept


def mask_of(ink: Floats, inks: list[Ink], chosen: list[int]) -> Bools:
    """Where the chosen inks are: half of an ink's strength along its hue, and what hangs on that down to a little less.

    A pixel belongs to the dark hue it is nearest to.
    """
    shares, nearness = [], []
    flat = ink.reshape(-1, 3)
    size = np.linalg.norm(flat, axis=1)
    for i in inks:
        colour = np.array(i.colour, dtype=np.float32)
        along = flat @ colour
        share = along / float(colour @ colour)
        near = along / np.maximum(size * float(np.linalg.norm(colour)), 1e-6)
        share[near < LEAST_COSINE] = 0.0
        shares.append(share)
        nearness.append(np.where(share > LEVEL / 2, near, 0.0))
    stack, near_to = np.stack(shares), np.stack(nearness)
    mine = stack[chosen].max(axis=0)
    others = [n for n, i in enumerate(inks) if n not in chosen and i.dark]
    if others:
        mine = np.where(near_to[others].max(axis=0) > near_to[chosen].max(axis=0) + NEARER, 0.0, mine)
    at = mine.reshape(ink.shape[:2])
    found: Bools = ndimage.binary_propagation(at > LEVEL, mask=at > LEVEL - HYSTERESIS)
    return found


def without_specks(mask: Bools, border: float) -> Bools:
    """Without specks of few pixels, and without the edge of the sheet."""
    labels, count = ndimage.label(mask, structure=np.ones((3, 3)))
    if count:
        sizes = np.bincount(labels.ravel())
        sizes[0] = 0
        mask = (sizes >= SPECK_PIXELS)[labels]
    edge = max(1, round(border * max(mask.shape)))
    inner = np.zeros_like(mask)
    inner[edge:-edge, edge:-edge] = True
    return mask & inner


def on_roadbed(ink: Floats, skeleton: Bools, width: float, gauge: float) -> bool:
    """Whether the lines of a drawing run down the middle of something wide that is filled, or are that: a roadbed.

    Args:
        ink: of the sheet, shape (H, W, 3). skeleton: of the lines that may be track. width: of a stroke, px.
        gauge: of the track, px.
    """
    if width > ROADBED_GAUGES * gauge:
        return True
    filled = ndimage.distance_transform_edt(ink.max(axis=2) > LEAST_INK)
    return bool((filled[skeleton] > ROADBED_WIDTHS * width + ROADBED_PX).mean() > ROADBED_SHARE)
