"""How far a train runs on while it slows down: a start for the length of places where trains stop by themselves."""

from __future__ import annotations

from jolly_copper.core.layout.document import Layout

SCALE_OF = {"Z": 220.0, "N": 160.0, "TT": 120.0, "HO": 87.0, "OO": 76.0, "S": 64.0, "O": 48.0, "G": 22.5}
"""How many times smaller than the real thing, by scale. NMRA S-1.2, from memory; OO and G common practice."""
USUAL_KMH = 60.0
"""Scale speed a local line is reckoned for. Certainty C."""
SLOWS_MM_S2 = 60.0
"""How hard a decoder brakes, mm/s², with usual settings. Certainty C: measured, not known."""
SHARE = 1.3
"""What a reckoned stopping distance is widened by. Common practice, no source."""


def scale_speed(scale: str, kmh: float = USUAL_KMH) -> float:
    """Speed of a model, mm/s, at a speed of the real thing: v = kmh/3.6·1000/s.

    >>> round(scale_speed("HO", 60))
    192

    Args:
        scale: as in the brief. kmh: km/h to scale.
    """
    return kmh / 3.6 * 1000 / SCALE_OF[scale]


def stopping_distance(layout: Layout, kmh: float = USUAL_KMH, slows: float = SLOWS_MM_S2) -> float:
    """The way from a speed to standing still, mm: l = v²/(2a).

    Args:
        layout: for its scale. kmh: km/h to scale. slows: deceleration, mm/s².

    Source: elementary mechanics, uniform deceleration.
    """
    v = scale_speed(layout.brief.scale, kmh)
    return v * v / (2 * slows)
