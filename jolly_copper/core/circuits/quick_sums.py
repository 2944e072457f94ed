"""Quick sums for the friend without a layout: one run, one booster, one LED. The same functions the solver uses."""

from __future__ import annotations

import math
from dataclasses import dataclass

from jolly_copper.core.materials.ampacity import may_carry
from jolly_copper.core.materials.copper import USUAL_CELSIUS, Strands, gauges_light_to_heavy, ohms_per_metre
from jolly_copper.core.materials.joints import COIN
from jolly_copper.core.quantities import Gauge

E24 = (
    1.0,
    1.1,
    1.2,
    1.3,
    1.5,
    1.6,
    1.8,
    2.0,
    2.2,
    2.4,
    2.7,
    3.0,
    3.3,
    3.6,
    3.9,
    4.3,
    4.7,
    5.1,
    5.6,
    6.2,
    6.8,
    7.5,
    8.2,
    9.1,
)
"""Preferred values of the E24 series. Source: IEC 60063. Certainty A."""
WATTAGES = (0.125, 0.25, 0.5, 1.0, 2.0, 3.0, 5.0)


@dataclass(frozen=True)
class RunSum:
    """One gauge on one run: V lost, share of the supply, Ω there and back, A into a short, W at full load, fits or
    not."""

    gauge: str
    drop: float
    share: float
    loop_ohms: float
    short_amps: float
    heat: float
    carries: float
    carries_why: str
    holds_drop: bool
    holds_amps: bool


def drop_on_run(
    one_way_mm: float, amps: float, gauge: Gauge, strands: Strands = "stranded", celsius: float = USUAL_CELSIUS
) -> float:
    """Volts lost on a pair of wires, V: I · 2 · length · R'.

    Args:
        one_way_mm: from supply to load, mm, one way; the current goes there and back, so it counts twice.
        amps: A.
        gauge: conductor size.

    >>> from jolly_copper.core.quantities import read_gauge
    >>> round(drop_on_run(50 * 304.8, 5, read_gauge("14 AWG"), "solid", celsius=20), 4)
    1.2627

    Source: VD = 2·L·I·R, the usual single-phase rule. Certainty A.
    """
    return amps * 2 * one_way_mm / 1000 * ohms_per_metre(gauge, strands, celsius)


def size_run(
    one_way_mm: float,
    amps: float,
    volts: float,
    allowed_share: float,
    system: str = "awg",
    strands: Strands = "stranded",
    celsius: float = USUAL_CELSIUS,
) -> list[RunSum]:
    """Every gauge on one run, lightest first; the first that holds both drop and amps is the answer.

    Args:
        one_way_mm: mm, one way. amps: A at the far end. volts: at the supply. allowed_share: of the supply's volts.
        system: `awg` or `mm2`.

    Raises:
        ValueError: a length, current or voltage that is not above zero.
    """
    if one_way_mm <= 0 or amps <= 0 or volts <= 0 or not 0 < allowed_share < 1:
        raise ValueError("Length, current and volts must be above zero, and the allowed drop between 0 and 100 %.")
    rows = []
    for gauge in gauges_light_to_heavy(system):
        drop = drop_on_run(one_way_mm, amps, gauge, strands, celsius)
        loop, school = drop / amps, may_carry(gauge)
        rows.append(
            RunSum(
                str(gauge),
                drop,
                drop / volts,
                loop,
                volts / (loop + COIN[1]),
                drop * amps,
                school.amps,
                f"{school.name}: {school.source}",
                drop <= allowed_share * volts * (1 + 1e-12),
                amps <= school.amps,
            )
        )
    return rows


def lightest_that_fits(rows: list[RunSum]) -> RunSum | None:
    """The lightest gauge that holds both the drop and the amps, of rows in order from lightest; None where none
    does."""
    return next((r for r in rows if r.holds_drop and r.holds_amps), None)


@dataclass(frozen=True)
class TrainSum:
    """How many trains a booster carries: all running, and with the rest of its amps idling ones."""

    trains: int
    amps_left: float
    idlers: int
    usable_amps: float


def trains_per_booster(
    booster_amps: float, train_amps: float, idle_amps: float = 0.1, keep_free: float = 0.2
) -> TrainSum:
    """How many trains a booster carries.

    Args:
        booster_amps: rated A. train_amps: A of one running train. idle_amps: A of one standing. keep_free: share of
            the rating kept for starts and sound.

    >>> trains_per_booster(5, 0.5).trains
    8

    Raises:
        ValueError: amps that are not above zero, or a share outside 0 to 1.
    """
    if booster_amps <= 0 or train_amps <= 0 or idle_amps <= 0 or not 0 <= keep_free < 1:
        raise ValueError("Amps must be above zero, and the share kept free between 0 and 100 %.")
    usable = booster_amps * (1 - keep_free)
    trains = math.floor(usable / train_amps + 1e-9)
    left = max(usable - trains * train_amps, 0.0)
    return TrainSum(trains, left, math.floor(left / idle_amps + 1e-9), usable)


@dataclass(frozen=True)
class ResistorSum:
    """A resistor for LEDs in series: exact and next standard Ω, its real A and W, and the rating to buy, W."""

    exact_ohms: float
    ohms: float
    amps: float
    watts: float
    buy_watts: float


def led_resistor(volts: float, led_volts: float, amps: float, in_series: int = 1) -> ResistorSum:
    """The resistor for LEDs in series on a DC supply: R = (V − n·Vf)/I, next E24 value up, rated twice its heat.

    >>> led_resistor(12, 2.0, 0.010).ohms
    1000.0

    Raises:
        ValueError: the LEDs need as much as the supply gives, or a figure is not above zero.

    Source: Ohm's law; E24 from IEC 60063. Certainty A.
    """
    if volts <= 0 or led_volts <= 0 or amps <= 0 or in_series < 1:
        raise ValueError("Volts and current must be above zero, with at least one LED.")
    across = volts - in_series * led_volts
    if across <= 0:
        raise ValueError(
            f"{in_series} LED of {led_volts:g} V need {in_series * led_volts:g} V, and the supply gives {volts:g} V."
        )
    exact = across / amps
    standard = _next_e24(exact)
    real = across / standard
    watts = real * real * standard
    buy = next((w for w in WATTAGES if w >= 2 * watts - 1e-12), math.ceil(2 * watts))
    return ResistorSum(exact, standard, real, watts, float(buy))


def _next_e24(ohms: float) -> float:
    decade = math.floor(math.log10(ohms) + 1e-12)
    for power in (decade, decade + 1):
        for value in E24:
            candidate = float(f"{value * 10.0**power:.4g}")
            if candidate >= ohms * (1 - 1e-9):
                return candidate
    raise AssertionError("unreachable: the next decade always holds a larger value")
