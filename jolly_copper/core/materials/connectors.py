"""What each kind of connector takes: how many pairs, and wire from how thin to how thick.

All of it is common practice, no source (certainty C): what is printed on the connector in hand comes first, and a
terminal may say for itself how many pairs it takes.
"""

from __future__ import annotations

from dataclasses import dataclass

from jolly_copper.core.materials.copper import area_mm2
from jolly_copper.core.materials.joints import TerminalKind
from jolly_copper.core.quantities import Gauge


@dataclass(frozen=True)
class Takes:
    """pairs: of wires, None where the house says. thinnest, thickest: copper, mm²."""

    pairs: int | None
    thinnest: float
    thickest: float
    words: str


CONNECTORS: dict[TerminalKind, Takes] = {
    "screw strip": Takes(None, 0.20, 4.2, "24 to 12 AWG, or 0.25 to 4 mm²"),
    "lever": Takes(5, 0.20, 4.2, "24 to 12 AWG, or 0.25 to 4 mm²"),
    "tap": Takes(3, 0.30, 2.6, "22 to 14 AWG, or 0.34 to 2.5 mm²"),
    "soldered": Takes(12, 0.05, 10.0, "anything one can heat through"),
}
PLUG = Takes(1, 0.30, 3.4, "22 to 12 AWG, or 0.34 to 2.5 mm²")
"""One run through a two-pole plug."""


def fits(takes: Takes, gauge: Gauge) -> bool:
    """Whether a connector takes wire of a gauge."""
    return takes.thinnest - 1e-6 <= area_mm2(gauge) <= takes.thickest + 1e-6
