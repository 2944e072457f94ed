"""Sleepers: short strokes across the track, told by how often lines meet, and taken out before anything is followed."""

from __future__ import annotations

import numpy as np
from scipy import ndimage

from jolly_copper.core.tracing.inks import Bools
from jolly_copper.core.tracing.strokes import STRONG, strength, thin

LARGE_SHARE = 0.06
"""Of the sheet's longest side, in pixels of skeleton: smaller pieces are lettering."""
PIXELS_A_JUNCTION = 33.0
"""Plans without sleepers have 43 pixels of line and more for each place where lines meet; with them 17 to 27."""
LONG_GAUGES, LONG_PX = 6.5, 30.0
"""A stroke so long is no sleeper: those are two to three gauges, and those of two tracks that part run together."""
SQUARE = np.ones((3, 3), dtype=bool)


def has_sleepers(skeleton: Bools) -> bool:
    """Whether the lines of a drawing are crossed by sleepers: lines meet more often than junctions can stand.

    Args:
        skeleton: of all ink; what hangs together in few pixels is not counted.
    """
    labels, _ = ndimage.label(skeleton, structure=SQUARE)
    sizes = np.bincount(labels.ravel())
    sizes[0] = 0
    large = (sizes >= LARGE_SHARE * max(skeleton.shape))[labels] & skeleton
    beside = ndimage.convolve(skeleton.astype(np.uint8), np.ones((3, 3), dtype=np.uint8), mode="constant")
    meetings = ndimage.label(large & (beside >= 4), structure=SQUARE)[1]
    return bool(meetings * PIXELS_A_JUNCTION > large.sum() > 0)


def without_sleepers(mask: Bools, skeleton: Bools, gauge: float) -> Bools:
    """The skeleton with only what is part of a stroke longer than any sleeper, drawn together and made thin anew.

    Args:
        mask: the ink. skeleton: of it. gauge: of the track, px.
    """
    sure, _ = strength(mask, skeleton, max(LONG_PX, LONG_GAUGES * gauge))
    return thin(ndimage.binary_closing(sure > STRONG, structure=SQUARE))
