"""Whether a picture is fine enough to tell its tracks from each other, in words."""

from __future__ import annotations

import math

from jolly_copper.core.layout.document import Scale
from jolly_copper.core.materials.rail import RAIL_GAUGE_MM

TRACKS_APART_GAUGES = 3.0
"""Neighbouring tracks stand so many gauges apart. Common practice, no source."""
FINE_PX, LEAST_PX, FINE_RAILS_PX = 16.0, 6.0, 10.0
"""Apart so many pixels neighbouring tracks come out well, or at all, and the two rails of one. Measured on plans drawn
for it."""


def gauge_in(scale: Scale, mm: float) -> float:
    """The gauge of the track in a picture, px.

    Args:
        scale: as in the brief. mm: of the plan to a pixel.
    """
    return RAIL_GAUGE_MM[scale] / mm


def against(gauge: float, across: float) -> str:
    """What is to be said of a picture before it is traced: why it cannot be, or what will come of it; empty where
    nothing is.

    Args:
        gauge: of the track in the picture, px. across: its width, px.
    """
    return too_near(gauge, across) or fineness(gauge)


def too_near(gauge: float, across: float) -> str:
    """Why a picture cannot be traced; empty where it can.

    Args:
        gauge: of the track in the picture, px. across: its width, px.
    """
    apart = TRACKS_APART_GAUGES * gauge
    if apart >= LEAST_PX:
        return ""
    return (
        f"Neighbouring tracks lie {apart:.1f} px apart here: too near to be told from each other. The picture wants "
        f"{across * LEAST_PX / apart:.0f} px across, or its scale is not right: set it by two places."
    )


def fineness(gauge: float, two_rails: bool = False) -> str:
    """What to say of a picture whose tracks or rails lie close; empty where it is fine.

    Args:
        gauge: of the track in the picture, px. two_rails: it is drawn with both rails.
    """
    if two_rails and gauge < FINE_RAILS_PX:
        return (
            f"Two rails should lie {FINE_RAILS_PX:g} px apart; here they lie {gauge:.0f}. Turnouts may come out "
            "twice: look at every one, or scan finer."
        )
    apart = TRACKS_APART_GAUGES * gauge
    if apart >= FINE_PX:
        return ""
    times = math.ceil(FINE_PX / max(apart, 0.1))
    return (
        f"Neighbouring tracks should lie {FINE_PX:g} px apart; here they lie {apart:.0f}. Scan at {times} times the "
        "resolution, or in parts; look at every turnout."
    )
