"""Rail: resistance by code and metal, with the honest width of what is not known."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

Metal = Literal["nickel silver", "brass", "steel"]

RESISTIVITY: dict[str, tuple[float, float, float]] = {
    "nickel silver": (0.19, 0.27, 0.33),
    "brass": (0.062, 0.064, 0.066),
    "steel": (0.10, 0.14, 0.17),
}
"""µΩ·m at 20 °C: lowest, used, highest. Rail alloys are usually not told. Certainty B for the range,
C for the pick."""
SHAPE = (0.25, 0.32, 0.40)
"""Cross-section over height squared: lowest, used, highest (a full-size 132 lb/yd rail has 0.255). Certainty C."""
RAIL_GAUGE_MM: dict[str, float] = {"Z": 6.5, "N": 9, "TT": 12, "HO": 16.5, "OO": 16.5, "S": 22.5, "O": 32, "G": 45}
"""Distance between the rails by scale, for drawing near track to scale. Common practice. Certainty B."""


@dataclass(frozen=True)
class RailOhms:
    """Resistance of one rail, Ω per metre: the figure used, and the range it may lie in."""

    used: float
    low: float
    high: float


SMALLEST_RADIUS_MM = {"Z": 195, "N": 248, "TT": 310, "HO": 457, "OO": 438, "S": 560, "O": 787, "G": 600}
"""The tightest curve usual trains of each scale take. Common practice, no source; certainty C: long coaches want
more."""


def rail_area_mm2(code: int, shape: float = SHAPE[1]) -> float:
    """Cross-section of a rail, mm²: A = k·h², h = code · 0.0254 mm (code is height in thousandths of an inch).

    >>> round(rail_area_mm2(83), 2)
    1.42

    Certainty C (±40 %).
    """
    return shape * (code * 0.0254) ** 2


def ohms_per_metre(code: int, metal: Metal) -> RailOhms:
    """Resistance of one rail, Ω per metre, with its range.

    Args:
        code: rail height in thousandths of an inch.
        metal: nickel silver, brass or steel.

    >>> round(ohms_per_metre(83, "nickel silver").used * 1000)   # mΩ/m
    190

    Steel is worse still on digital track (current keeps to the skin of the rail): take the high figure there.
    Source: ρ over area; certainty C. Measure instead: 1 A through 1 m of rail, millivolts read as milliohms.
    """
    low, used, high = RESISTIVITY[metal]
    return RailOhms(
        used=used / rail_area_mm2(code),
        low=low / rail_area_mm2(code, SHAPE[2]),
        high=high / rail_area_mm2(code, SHAPE[0]),
    )
