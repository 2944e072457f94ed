"""From what somebody typed to what it says: the reading in the test's own unit, held against what is foretold, and what
of all readings may teach."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass, replace

import numpy as np

from jolly_copper.core.proving.bands import BAND
from jolly_copper.core.proving.judging import judge
from jolly_copper.core.proving.learn import Read
from jolly_copper.core.proving.meter_test import MeterTest, Verdict
from jolly_copper.core.proving.meters import (
    KINDS,
    ReadingError,
    Setting,
    Typed,
    Wave,
    read_typed,
    spread_of,
    true_volts,
)

WOUND: dict[Setting, float] = {
    "ac averaging": 2 * math.log(2),
    "bridge and dc": 2 * math.log(2),
    "ac true effective": 1.0,
    "track display": 1.0,
}
"""c, by what a meter reads of a square wave behind an inductance; derived, checked by simulation."""


@dataclass(frozen=True)
class Typing:
    """What was typed for a test. setting, factor: of the meter; None where nobody said. amps: of the load. before:
    volts just before the load, where the drop is read as two volts."""

    shown: str
    setting: Setting | None = None
    factor: float | None = None
    amps: float | None = None
    before: str = ""


@dataclass(frozen=True)
class Understood:
    """A reading in the unit of its test (volts lost at a load: per ampere), with its verdict."""

    value: float | None
    typed: Typed
    verdict: Verdict


def understand(test: MeterTest, typed: Typing, wave: Wave) -> Understood:
    """Read what was typed, make it what the track has, and judge it.

    Args:
        test: what was read for.
        typed: as typed, with the meter.
        wave: of the track, for what meters show of it.

    Raises:
        ReadingError: it cannot be read, the meter says nothing of such track, or the load is missing its amps.
    """
    _fits(test, typed)
    read = read_typed(typed.shown, test.unit)
    value = read.value
    if value is None or test.unit != "V":
        return Understood(value, read, judge(test, read))
    if typed.setting is not None and test.kind != "load":
        value = _track_volts(typed, value, wave)
    if test.kind == "load":
        value = _lost(test, typed, value, wave)
    verdict = judge(test, replace(read, value=value))
    if verdict.sound is False and test.kind != "load" and _by_the_meter(test, typed, value):
        words = "It may be the meter alone: hold it against a bridge at the source once, and read again."
        verdict = Verdict(None, f"{verdict.words} {words}")
    return Understood(value, read, verdict)


def _by_the_meter(test: MeterTest, typed: Typing, value: float) -> bool:
    """Whether what is outside lies within what this meter may be off."""
    if typed.setting is None:
        return False
    off = BAND * spread_of(typed.setting, abs(value), typed.factor is not None)
    low, high = test.low, test.high
    return (low is None or value >= low - off) and (high is None or value <= high + off)


def _fits(test: MeterTest, typed: Typing) -> None:
    if typed.setting is None or test.unit == "yes":
        return
    unit = KINDS[typed.setting].unit
    if unit != test.unit and unit != "yes":
        name = KINDS[typed.setting].name
        raise ReadingError(f"{name} does not read this: it wants {' or '.join(KINDS[s].name for s in test.settings)}.")


def _track_volts(typed: Typing, value: float, wave: Wave) -> float:
    if typed.setting is None:
        return value
    if value < 0 and typed.setting.startswith("ac"):
        raise ReadingError("AC volts are never under zero: the meter stands on DC.")
    try:
        return true_volts(typed.setting, value, wave, typed.factor)
    except ValueError as error:
        raise ReadingError(str(error)) from None


def _lost(test: MeterTest, typed: Typing, value: float, wave: Wave) -> float:
    """Volts lost per ampere between the breaker's output and the rails.

    Read as two volts under the railroad's own power, what source and breaker take is in them, and on a square wave what
    inductance takes: c·Λ/T, c = 1 read by the effective value, 2·ln 2 by averaging or a bridge (a resistor as load).
    """
    amps = 1.0 if typed.amps is None else typed.amps
    if not amps > 0:
        raise ReadingError("Without a load nothing is lost: say how many amps were drawn.")
    if not typed.before:
        return abs(value) / amps
    before = read_typed(typed.before, "V").value
    if before is None:
        raise ReadingError("The volts before the load are a number of volts.")
    if typed.setting is not None:
        before, value = _track_volts(typed, before, wave), _track_volts(typed, value, wave)
    return (before - value) / amps - test.under_power - WOUND.get(typed.setting or "dc", 0.0) * test.wound


def place_key(test: str) -> str | None:
    """The place a loaded reading was taken at; None for any other test.

    >>> place_key("load:main@1240"), place_key("gap:G1/left")
    ('main@1240', None)
    """
    kind, _, place = test.partition(":")
    return place if kind == "load" else None


def lessons(readings: Iterable[tuple[str, float | None, int | None]]) -> list[Read]:
    """What may be learnt from: loaded readings, in order of time; what is too good to be true is not.

    Args:
        readings: test, ohms (None where the rails were dead), and 1, 0 or None for sound, not sound or not settled.
    """
    found = []
    for test, ohms, sound in readings:
        place = place_key(test)
        if place is None:
            continue
        if sound is not None:  # without a figure the rails were dead
            found.append(Read(place, np.inf if ohms is None else ohms))
    return found
