"""Copper wire: resistance by gauge, make and temperature; inductance of a pair; current it may carry."""

from __future__ import annotations

import math
from functools import lru_cache
from typing import Literal

import numpy as np
from scipy.special import jve

from jolly_copper.core.quantities import Gauge, QuantityError

Strands = Literal["solid", "stranded"]
Make = Literal["paired cable", "twisted", "side by side", "apart"]

RESISTIVITY = 0.017241
"""Annealed copper at 20 °C, Ω·mm²/m. Source: IEC 60028 (100 % IACS). Certainty A."""
TEMPERATURE_RISE = 0.00393
"""Share of resistance gained per °C, from 20 °C. Source: IEC 60028. Certainty A."""
USUAL_CELSIUS = 30.0
"""Wire temperature for sums: under a baseboard on an open day. Common practice, no source; most tables are for 20
°C."""
STRANDING = 1.02
"""Stranded AWG over solid AWG: the lay makes each strand longer. NEC chapter 9 table 8, from memory. Certainty B."""

IEC_60228_CLASS5 = {0.5: 39.0, 0.75: 26.0, 1.0: 19.5, 1.5: 13.3, 2.5: 7.98, 4.0: 4.95, 6.0: 3.30}
IEC_60228_CLASS1 = {0.5: 36.0, 0.75: 24.5, 1.0: 18.1, 1.5: 12.1, 2.5: 7.41, 4.0: 4.61, 6.0: 3.08}
"""Highest resistance at 20 °C, Ω/km, plain copper. Source: IEC 60228 (from memory). Certainty A."""
CLASS5_ALLOWANCE = 1.13
"""Sizes IEC 60228 does not hold (0.14, 0.22, 0.25, 0.34 mm²): ρ over nominal area times this. Certainty C."""

AWG_SIZES = (6, 8, 10, 12, 14, 16, 18, 20, 22, 24, 26, 28, 30)
METRIC_SIZES = (0.14, 0.22, 0.25, 0.34, 0.5, 0.75, 1.0, 1.5, 2.5, 4.0, 6.0)


def awg_diameter_mm(number: float) -> float:
    """Diameter of solid wire, mm: d = 0.127 · 92^((36 − n)/39).

    Args:
        number: AWG number, no unit.

    >>> round(awg_diameter_mm(14), 3)
    1.628

    Source: ASTM B258. Certainty A.
    """
    return float(0.127 * 92 ** ((36 - number) / 39))


def area_mm2(gauge: Gauge) -> float:
    """Cross-section of copper, mm²: π/4·d² for AWG, the nominal figure for metric."""
    if gauge.system == "mm2":
        return gauge.size
    return math.pi / 4 * awg_diameter_mm(gauge.size) ** 2


@lru_cache(maxsize=512)
def ohms_per_metre(gauge: Gauge, strands: Strands = "stranded", celsius: float = 20.0) -> float:
    """Resistance of one conductor, Ω per metre.

    AWG: ρ/A, times 1.02 when stranded. Metric: the highest value IEC 60228 allows for that size, class 5 when
    stranded and class 1 when solid; for sizes outside that table ρ/A·1.13 (stranded) or ρ/A (solid).
    Then R(T) = R20·(1 + 0.00393·(T − 20)).

    Args:
        gauge: conductor size.
        strands: solid or stranded.
        celsius: conductor temperature, °C.

    >>> from jolly_copper.core.quantities import read_gauge
    >>> round(ohms_per_metre(read_gauge("14 AWG"), "solid") * 1000, 3)   # mΩ/m
    8.285
    >>> round(ohms_per_metre(read_gauge("2.5 mm²")) * 1000, 2)
    7.98

    Source: ASTM B258, IEC 60028, IEC 60228. Certainty A; small metric sizes C.
    """
    if gauge.system == "awg":
        at_20 = RESISTIVITY / area_mm2(gauge) * (STRANDING if strands == "stranded" else 1.0)
    else:
        table = IEC_60228_CLASS5 if strands == "stranded" else IEC_60228_CLASS1
        listed = table.get(gauge.size)
        allowance = CLASS5_ALLOWANCE if strands == "stranded" else 1.0
        at_20 = listed / 1000 if listed else RESISTIVITY / gauge.size * allowance
    return warmed(at_20, celsius)


def warmed(ohms_at_20: float, celsius: float) -> float:
    """Copper's resistance at another temperature: R(T) = R20·(1 + 0.00393·(T − 20)). Ω in, Ω out; °C.

    >>> round(warmed(1.0, 45), 3)
    1.098

    Source: IEC 60028. Certainty A.
    """
    return ohms_at_20 * (1 + TEMPERATURE_RISE * (celsius - 20.0))


def next_gauges_up(gauge: Gauge, count: int = 2, units: str | None = None) -> list[Gauge]:
    """The next heavier sizes a shop sells, heaviest last: of the layout's own world, whatever the wire is of now.

    >>> [str(g) for g in next_gauges_up(Gauge("awg", 16.0), units="metric")]
    ['1.5 mm²', '2.5 mm²']

    Args:
        gauge: of now. count: sizes at most. units: `imperial` or `metric`; the system of the gauge when not said.
    """
    return gauges_above(gauge, units)[:count]


def gauges_above(gauge: Gauge, units: str | None = None) -> list[Gauge]:
    """Every heavier size, as `next_gauges_up` has them.

    >>> gauges_above(Gauge("awg", 10.0))[:1] == next_gauges_up(Gauge("awg", 10.0), 1)
    True
    """
    system = gauge.system if units is None else "mm2" if units == "metric" else "awg"
    least = area_mm2(gauge) * 1.001
    return [g for g in gauges_light_to_heavy(system) if area_mm2(g) > least]


METRIC_FOR: dict[str, str] = {
    "12 AWG": "4 mm²",
    "14 AWG": "2.5 mm²",
    "16 AWG": "1.5 mm²",
    "18 AWG": "1 mm²",
    "20 AWG": "0.5 mm²",
    "22 AWG": "0.34 mm²",
    "24 AWG": "0.25 mm²",
}
"""What a club that buys by mm² takes where another takes this AWG size; never thinner copper but for 18 AWG and finer.
Common practice, no source."""


def in_units(awg: str, units: str) -> str:
    """A usual gauge in a layout's own world.

    >>> in_units("14 AWG", "metric"), in_units("14 AWG", "imperial")
    ('2.5 mm²', '14 AWG')
    """
    return METRIC_FOR[awg] if units == "metric" else awg


def gauges_light_to_heavy(system: str) -> list[Gauge]:
    """Every size held, lightest first. `system` is `awg` or `mm2`."""
    if system == "awg":
        return [Gauge("awg", float(n)) for n in reversed(AWG_SIZES)]
    if system == "mm2":
        return [Gauge("mm2", a) for a in METRIC_SIZES]
    raise QuantityError(f"{system} is not a system of wire gauges: awg or mm2.")


SPACING_MM: dict[str, float] = {"apart": 100.0}
"""Distance between the two wires of a run made `apart` when nothing else is said: a joist's width. Certainty C."""
_MAKE_HENRIES: dict[str, float] = {"side by side": 0.62e-6, "paired cable": 0.56e-6, "twisted": 0.48e-6}
"""Inductance of a touching pair, H per metre of pair, 14 AWG with usual insulation. Calculated. Certainty C."""
RAIL_PAIR_HENRIES = 1.4e-6
"""Inductance of the two rails, H per metre of track (1.3 to 1.5 calculated for usual gauges). Certainty C."""


def pair_henries_per_metre(make: Make, gauge: Gauge, spacing_mm: float | None = None) -> float:
    """Inductance of two wires going there and back, H per metre of pair.

    Apart: L = µ0/π·acosh(D/d) + µ0/4π. Touching pairs: calculated figures for 14 AWG, good within about a fifth
    for other gauges. All of it is calculation: an estimate until somebody measures.

    Args:
        make: how the two wires lie to each other.
        gauge: conductor size.
        spacing_mm: centre distance for `apart`, mm; 100 mm when not given.

    >>> from jolly_copper.core.quantities import read_gauge
    >>> round(pair_henries_per_metre("apart", read_gauge("14 AWG"), 100) * 1e6, 2)   # µH/m
    2.02

    Source: two-wire line, any electrical engineering handbook. Certainty B (formula), C (touching pairs).
    """
    if make != "apart":
        return _MAKE_HENRIES[make]
    diameter = 2 * math.sqrt(area_mm2(gauge) / math.pi)
    distance = max(spacing_mm or SPACING_MM["apart"], diameter * 1.2)
    return 4e-7 * math.acosh(distance / diameter) + 1e-7


HARMONICS = 2000
COPPER_PERMEABILITY = 4e-7 * math.pi


@lru_cache(maxsize=128)
def skin_effect(gauge: Gauge, half_bit: float = 58e-6, edge: float = 1e-6) -> float:
    """Heat of a square wave's current in a round wire over that of a steady one: resistance over that at direct
    current.

    A square wave with edges of t_e is odd harmonics of sinc(n·t_e/2T)/n; each meets Re[(k·a/2)·J0(k·a)/J1(k·a)],
    k = (1 − j)/δ, δ = √(ρ/(π·f·µ0)), a the radius; weighed by their squares. For a current that follows the
    edges: inductance takes the upper harmonics away, so it is the most it can be with such edges.

    Args:
        gauge: conductor size, taken as one round wire. half_bit: T, half a period, s. edge: t_e, s.

    >>> from jolly_copper.core.quantities import read_gauge
    >>> [round(skin_effect(read_gauge(g)), 2) for g in ("18 AWG", "14 AWG", "12 AWG", "10 AWG")]
    [1.05, 1.15, 1.25, 1.42]

    Source: skin effect in a round wire, any electrical engineering handbook. Certainty A for the formula.
    """
    radius = math.sqrt(area_mm2(gauge) / math.pi) / 1000
    n = 2 * np.arange(HARMONICS) + 1.0
    depth = np.sqrt(RESISTIVITY * 1e-6 / (math.pi * n / (2 * half_bit) * COPPER_PERMEABILITY))
    ka = (1 - 1j) * radius / depth
    ratio = np.real(ka / 2 * jve(0, ka) / jve(1, ka))
    weight = (np.sinc(n * edge / (2 * half_bit)) / n) ** 2
    return float(np.sum(ratio * weight) / np.sum(weight))


def circular_mils(gauge: Gauge) -> float:
    """Area in circular mils: 1 cmil = π/4·(0.0254 mm)²."""
    return area_mm2(gauge) / (math.pi / 4 * 0.0254**2)


def seconds_to_heat(gauge: Gauge, amps: float, from_celsius: float = 25.0, to_celsius: float = 105.0) -> float:
    """Seconds until a wire carrying a short reaches a temperature when no heat escapes.

    Onderdonk: t = (cmil/I)²/33 · log10(1 + ΔT/(234 + Ta)). Right for seconds only; a wire loses heat in longer
    times.

    >>> from jolly_copper.core.quantities import read_gauge
    >>> round(seconds_to_heat(read_gauge("24 AWG"), 5.0))
    23

    Source: Onderdonk's equation, from memory. Certainty B.
    """
    if amps <= 0:
        return math.inf
    rise = math.log10(1 + (to_celsius - from_celsius) / (234 + from_celsius))
    return float((circular_mils(gauge) / amps) ** 2 / 33 * rise)
