"""What current a wire may carry without end: schools that differ, each with its source, and the cautious one of
them."""

from __future__ import annotations

import itertools
import math
from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

from jolly_copper.core.materials.copper import area_mm2
from jolly_copper.core.quantities import Gauge

CHASSIS_AMPS: dict[float, float] = {
    10: 55.0,
    12: 41.0,
    14: 32.0,
    16: 22.0,
    18: 16.0,
    20: 11.0,
    22: 7.0,
    24: 3.5,
    26: 2.2,
    28: 1.4,
    30: 0.86,
}
"""Widely copied chassis-wiring list by AWG, one wire in free air, A; primary source unclear. Certainty C as
engineering."""
BUNDLE_FACTOR = 0.5
"""Wires under a railroad lie bundled and stapled to wood, so half the free-air figure is used here. Certainty C."""
BUILDING_AMPS: dict[float, float] = {14: 15.0, 12: 20.0, 10: 30.0, 8: 40.0, 6: 55.0}
"""Building wire by AWG, A. NEC 240.4(D) for 14 to 10, the 60 °C column of NEC 310.16 for 8 and 6, from memory.
Certainty A, B."""
FIXTURE_AMPS: dict[float, float] = {18: 6.0, 16: 8.0, 14: 17.0}
"""Fixture wire by AWG, A. NEC 402.5, from memory. Certainty B."""
CORD_AMPS: dict[float, float] = {0.5: 3.0, 0.75: 6.0, 1.0: 10.0, 1.5: 16.0, 2.5: 25.0, 4.0: 32.0}
"""Flexible cord by mm², A. EN 50565-1 and VDE 0298-4, from memory. Certainty B."""


@dataclass(frozen=True)
class School:
    """What one school lets a wire carry, A, and where that stands."""

    name: str
    amps: float
    source: str


LISTS: tuple[tuple[str, Literal["awg", "mm2"], Mapping[float, float], str], ...] = (
    ("building wire", "awg", BUILDING_AMPS, "NEC 240.4(D) and 310.16, from memory; certainty B"),
    ("fixture wire", "awg", FIXTURE_AMPS, "NEC 402.5, from memory; certainty B"),
    ("flexible cord", "mm2", CORD_AMPS, "EN 50565-1 and VDE 0298-4, from memory; certainty B"),
)


def schools(gauge: Gauge) -> list[School]:
    """Every school that has a figure for a gauge, the most cautious first.

    The free-air list is halved. All are read between the sizes they list on logarithmic scales of area and amps; the
    others hold for sizes of their own system, and cap what is lighter than their lightest.

    >>> from jolly_copper.core.quantities import read_gauge
    >>> [(s.name, s.amps) for s in schools(read_gauge("18 AWG"))]
    [('fixture wire', 6.0), ('half the chassis list', 8.0)]
    """
    found = [
        School(name, _between(listed, system, gauge), source)
        for name, system, listed, source in LISTS
        if gauge.system == system and min(listed) <= gauge.size <= max(listed)
    ]
    if not found or area_mm2(gauge) <= area_mm2(Gauge("awg", float(min(CHASSIS_AMPS)))) * (1 + 1e-9):
        half = BUNDLE_FACTOR * _between(CHASSIS_AMPS, "awg", gauge)
        source = "widely copied for one wire in free air, halved for bundles; certainty C"
        found.append(School("half the chassis list", half, source))
    for name, system, listed, source in LISTS:
        # A wire lighter than a list's lightest carries no more than that one.
        lightest = min(listed.items(), key=lambda x: area_mm2(Gauge(system, x[0])))
        if gauge.system == system and area_mm2(gauge) < area_mm2(Gauge(system, lightest[0])):
            found.append(School(name, lightest[1], f"{source}; of its lightest"))
    return sorted(found, key=lambda s: (s.amps, s.name))


@lru_cache(maxsize=256)
def may_carry(gauge: Gauge) -> School:
    """The current this tool lets one wire carry without end: the most cautious school's. Local codes come first.

    >>> from jolly_copper.core.quantities import read_gauge
    >>> [may_carry(read_gauge(g)).amps for g in ("0.5 mm²", "12 AWG", "6 AWG")]
    [3.0, 20.0, 55.0]
    """
    return schools(gauge)[0]


def may_carry_amps(gauge: Gauge) -> float:
    """The amps of `may_carry`, A."""
    return may_carry(gauge).amps


def _between(listed: Mapping[float, float], system: Literal["awg", "mm2"], gauge: Gauge) -> float:
    """A figure of a list at some area: on a line between logarithms; beyond its ends along the nearest pair."""
    if gauge.system == system and gauge.size in listed:
        return listed[gauge.size]
    area = area_mm2(gauge)
    points = sorted((area_mm2(Gauge(system, float(n))), amps) for n, amps in listed.items())
    pairs = list(itertools.pairwise(points))
    (low, low_amps), (high, high_amps) = next((p for p in pairs if area <= p[1][0]), pairs[-1])
    share = math.log(area / low) / math.log(high / low)
    return float(low_amps * (high_amps / low_amps) ** share)
