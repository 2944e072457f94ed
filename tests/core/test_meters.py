"""What meters show and what people type of it. Factors against numerical integration of the wave itself."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from jolly_copper.core.proving.meters import (
    BRIDGE_VOLTS,
    KINDS,
    ReadingError,
    Setting,
    Unit,
    Wave,
    read_typed,
    shown,
    spread_of,
    true_volts,
)

T = 58e-6
STEPS = 20_000


def rolled_off(volts: float, cutoff: float) -> np.ndarray:
    """One period of a square wave of ±V behind a first-order low-pass, once it repeats itself: integrated step by
    step."""
    step = 2 * T / STEPS
    wave = np.where(np.arange(STEPS) < STEPS // 2, volts, -volts)
    out, y = np.empty(STEPS), 0.0
    rate = -math.expm1(-2 * math.pi * cutoff * step)
    for _ in range(12):
        for n in range(STEPS):
            y += rate * (wave[n] - y)
            out[n] = y
    return out


@pytest.mark.parametrize("cutoff", [5e3, 20e3])
def test_a_meter_that_rolls_off_shows_what_the_filtered_wave_has(cutoff: float) -> None:
    wave = rolled_off(14.0, cutoff)
    effective, mean = float(np.sqrt((wave**2).mean())), float(np.abs(wave).mean())
    assert shown("ac true effective", 14.0, "square", cutoff) == pytest.approx(effective, rel=0.01)
    # An averaging meter shows the mean times the form factor of a sine, π/(2√2): textbook circuit theory.
    assert shown("ac averaging", 14.0, "square", cutoff) == pytest.approx(mean * 1.11072, rel=0.01)


@pytest.mark.parametrize(
    ("setting", "wave", "expected"),
    [
        ("ac averaging", "square", 15.55),  # 14 V times 1.1107
        ("ac true effective", "square", 14.0),
        ("dc", "square", 0.0),  # each half takes away the other
        ("bridge and dc", "square", 12.5),  # less two silicon diodes: common practice, no source
        ("dc", "steady", 14.0),
        ("ac averaging", "steady", 0.0),
        ("ac averaging", "sine", 14.0),
        ("track display", "square", 14.0),
    ],
)
def test_what_each_kind_shows(setting: Setting, wave: Wave, expected: float) -> None:
    assert shown(setting, 14.0, wave) == pytest.approx(expected, abs=0.01)


@given(st.floats(2, 30), st.sampled_from(["ac averaging", "ac true effective", "bridge and dc", "track display"]))
def test_what_is_shown_turned_back_is_what_was_there(volts: float, setting: Setting) -> None:
    assert true_volts(setting, shown(setting, volts, "square"), "square") == pytest.approx(volts)


def test_a_meter_that_says_nothing_says_so() -> None:
    with pytest.raises(ValueError, match="nothing of digital track"):
        true_volts("dc", 0.0, "square")
    with pytest.raises(ValueError, match="nothing of DC track"):
        true_volts("ac averaging", 12.0, "steady")


def test_its_own_factor_goes_before_its_kind() -> None:
    assert true_volts("ac averaging", 10.0, "square", factor=0.93) == pytest.approx(9.3)
    assert true_volts("bridge and dc", 10.0, "square", factor=0.93) == pytest.approx(10 + BRIDGE_VOLTS)
    assert spread_of("ac averaging", 14.0, True) < spread_of("ac averaging", 14.0, False) / 3


@pytest.mark.parametrize(
    ("text", "unit", "value"),
    [
        ("14.2", "V", 14.2),
        ("14,2 V", "V", 14.2),
        ("240 mV", "V", 0.24),
        (".31", "V", 0.31),
        ("0,4 Ω", "Ω", 0.4),
        ("0.4 ohms", "Ω", 0.4),
        ("12 k", "Ω", 12_000.0),
        ("1.2 MΩ", "Ω", 1.2e6),
        ("  310  mV ", "V", 0.31),
        ("2.1 A", "A", 2.1),
    ],
)
def test_readings_as_people_type_them(text: str, unit: Unit, value: float) -> None:
    assert read_typed(text, unit).value == pytest.approx(value)


@pytest.mark.parametrize("text", ["OL", "o.l.", "open", "1 .", "Overload"])
def test_an_open_circuit_is_read_as_one(text: str) -> None:
    assert read_typed(text, "Ω").open


@pytest.mark.parametrize(
    ("text", "yes"), [("trips at once", True), ("Yes", True), ("does not trip", False), ("no", False)]
)
def test_yes_and_no_in_words(text: str, yes: bool) -> None:
    assert read_typed(text, "yes").yes is yes


@pytest.mark.parametrize(
    ("text", "unit", "why"),
    [
        ("", "V", "Type what the meter shows"),
        ("14 A", "V", "is amps"),
        ("0.4 Ω", "V", "is ohms"),
        ("-0.2", "Ω", "never under zero"),
        ("230 V", "V", "beyond what any track gives"),
        ("about ten", "V", "is no reading"),
        ("14.2", "yes", "neither yes nor no"),
    ],
)
def test_what_is_no_reading_is_told_why(text: str, unit: Unit, why: str) -> None:
    with pytest.raises(ReadingError, match=why):
        read_typed(text, unit)


@given(st.text(max_size=30), st.sampled_from(["V", "A", "Ω", "yes"]))
def test_whatever_is_typed_is_read_or_refused_in_words(text: str, unit: Unit) -> None:
    try:
        read = read_typed(text, unit)
    except ReadingError as error:
        assert len(str(error)) > 10
    else:
        assert read.open or read.yes is not None or (read.value is not None and math.isfinite(read.value))


def test_every_kind_says_what_it_shows() -> None:
    assert all(k.why and k.name and k.unit for k in KINDS.values())
