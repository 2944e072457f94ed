"""What wire is this? From its strands, or from the ohms of a known length, to the gauge it behaves as."""

from __future__ import annotations

import math
from dataclasses import dataclass

from jolly_copper.core.materials.copper import (
    AWG_SIZES,
    METRIC_SIZES,
    RESISTIVITY,
    STRANDING,
    area_mm2,
    ohms_per_metre,
    warmed,
)
from jolly_copper.core.quantities import Gauge

LEAST_MM2, MOST_MM2 = 0.01, 50.0
"""Copper thinner or thicker than this is no wire under a railroad: a figure was typed amiss. Ours; no source."""
AS_GOOD = 0.02
"""Nearer than this a wire is as good as the gauge: less than its own tolerance. Certainty C."""
FAR_OFF = 0.35
"""Off by more than this from every gauge held: no shop sells it under one of those names."""


@dataclass(frozen=True)
class WireFound:
    """A wire of unknown make. area: mm² of copper that it is, or behaves as. ohms_per_metre: one conductor at 20 °C.

    awg, metric: the nearest stranded gauges by resistance; each off by so much: the wire's ohms over the gauge's, less
    one.
    """

    area: float
    ohms_per_metre: float
    awg: Gauge
    awg_off: float
    metric: Gauge
    metric_off: float


def wire_by_strands(strands: int, diameter_mm: float) -> WireFound:
    """A wire by its strands: A = n·π/4·d², R' = 1.02·ρ/A at 20 °C (the lay makes each strand longer).

    Args:
        strands: how many. diameter_mm: of one, mm.

    >>> found = wire_by_strands(19, 0.287)
    >>> round(found.area, 2), str(found.awg), str(found.metric)
    (1.23, '16 AWG', '1.5 mm²')

    Raises:
        ValueError: a figure that is not above zero, or that no wire here would have.

    Source: geometry; ρ from IEC 60028. Certainty A, for copper.
    """
    if strands < 1 or diameter_mm <= 0:
        raise ValueError("There must be a strand at least, and its diameter above zero.")
    area = strands * math.pi / 4 * diameter_mm**2
    lay = STRANDING if strands > 1 else 1.0
    return _found(area, RESISTIVITY * lay / area)


def wire_by_ohms(ohms: float, length_mm: float, celsius: float = 20.0, there_and_back: bool = False) -> WireFound:
    """A wire by the ohms of a known length: R' = R/L, brought to 20 °C; the area is that of copper with as much.

    Args:
        ohms: read, Ω. length_mm: of the wire, mm. celsius: its temperature. there_and_back: both wires of a pair in
        series.

    >>> found = wire_by_ohms(0.166, 10_000, there_and_back=True)   # 10 m of speaker cable, its far ends joined
    >>> round(found.ohms_per_metre * 1000, 2), str(found.awg)
    (8.3, '14 AWG')

    Raises:
        ValueError: a figure that is not above zero, or that no wire here would have.

    Source: Ohm's law. Certainty A; the meter's leads are in the reading unless they are zeroed.
    """
    if ohms <= 0 or length_mm <= 0:
        raise ValueError("Ohms and length must be above zero.")
    metres = length_mm / 1000 * (2 if there_and_back else 1)
    at_20 = ohms / metres / warmed(1.0, celsius)
    return _found(RESISTIVITY * STRANDING / at_20, at_20)


def _found(area: float, per_metre: float) -> WireFound:
    if not LEAST_MM2 <= area <= MOST_MM2:
        raise ValueError(
            f"That would be {area:.3g} mm² of copper, which is no wire under a railroad: "
            f"{LEAST_MM2} to {MOST_MM2:.0f} mm²."
        )
    awg, awg_off = _nearest(per_metre, [Gauge("awg", float(n)) for n in AWG_SIZES])
    metric, metric_off = _nearest(per_metre, [Gauge("mm2", a) for a in METRIC_SIZES])
    return WireFound(area, per_metre, awg, awg_off, metric, metric_off)


def _nearest(per_metre: float, gauges: list[Gauge]) -> tuple[Gauge, float]:
    best = min(gauges, key=lambda g: (abs(math.log(per_metre / ohms_per_metre(g))), -area_mm2(g)))
    return best, per_metre / ohms_per_metre(best) - 1
