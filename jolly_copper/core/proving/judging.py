"""What a reading says of its test: sound, not sound, or nothing, and what would explain it."""

from __future__ import annotations

from jolly_copper.core.proving.meter_test import MeterTest, Verdict
from jolly_copper.core.proving.meters import Typed
from jolly_copper.core.quantities import print_current, print_ohms, print_volts

PRINTED = {"V": print_volts, "A": print_current, "Ω": print_ohms}


def judge(test: MeterTest, read: Typed) -> Verdict:
    """Hold a reading against what the test foretells.

    Args:
        test: what was read for.
        read: as understood, in the test's unit.
    """
    if test.wanted is not None:
        if read.yes is None:
            return Verdict(None, "This test is answered with yes or no.")
        right = read.yes == test.wanted
        return Verdict(right, "As it should be." if right else test.outside)
    if read.open:
        if test.open_sound:
            return Verdict(True, "Open, as it should be.")
        if test.unit == "V":
            return Verdict(False, f"No volts at all, where {test.foretold} is sound: {test.outside}")
        return Verdict(False, f"Open, where {test.foretold} is sound: {test.outside}")
    if read.value is None or (test.low is None and test.high is None):
        return Verdict(None, "Kept; nothing is foretold to hold it against.")
    show = PRINTED.get(test.unit, str)
    value = read.value
    if test.low is not None and value < test.low:
        if test.open_sound:
            return Verdict(False, f"{show(value)}, and open is sound: {test.outside}")
        if test.unit == "V" and test.kind in ("open", "supply", "far"):
            return Verdict(False, f"{show(test.low - value)} under what is sound: {test.outside}")
        return Verdict(
            None,
            f"{show(value)} is better than any sound copper here: another range, another place, or no load. Not "
            "learnt from.",
        )
    if test.high is not None and value > test.high:
        most = f"about {show(value - (test.value or test.high))} more than foretold"
        return Verdict(False, f"Not sound, {most}: {test.outside}")
    return Verdict(True, f"Sound: {_band(test)} is foretold.")


def _band(test: MeterTest) -> str:
    return band_words(test.low, test.high, test.unit)


def band_words(low: float | None, high: float | None, unit: str) -> str:
    """`0.06 to 0.11 Ω`, `over 10 kΩ`, `up to 1 Ω`; empty where nothing bounds it."""
    show = PRINTED.get(unit, str)
    if low is None and high is None:
        return ""
    if high is None:
        return f"over {show(low or 0.0)}"
    if low is None or low <= 0:
        return f"up to {show(high)}"
    first, last = show(low), show(high)
    # One unit for both where it is the same.
    number, _, said = first.partition(" ")
    return f"{number} to {last}" if last.endswith(f" {said}") else f"{first} to {last}"
