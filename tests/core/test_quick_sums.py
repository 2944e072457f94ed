"""Quick sums against worked voltage-drop examples and hand-worked LED and booster sums."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jolly_copper.core.circuits.quick_sums import E24, drop_on_run, led_resistor, size_run, trains_per_booster
from jolly_copper.core.quantities import MM_PER_FOOT, read_gauge

# Worked examples of the single-phase rule VD = 2·L·I·R/1000 with handbook resistances, from memory;
# exact arithmetic.
WORKED = [(5, 50, "14 AWG", 1.2627), (3, 30, "16 AWG", 0.7228), (5, 100, "12 AWG", 1.5882), (1, 3, "22 AWG", 0.0969)]
# The same rule with NEC chapter 9 table 8 stranded figures at 75 °C, from memory; these agree within a per cent.
WORKED_AT_75 = [(16, 100, "12 AWG", 6.336), (12, 150, "14 AWG", 11.304), (24, 200, "10 AWG", 11.904)]


@pytest.mark.parametrize(("amps", "feet", "gauge", "volts"), WORKED)
def test_worked_drop_examples(amps: float, feet: float, gauge: str, volts: float) -> None:
    assert drop_on_run(feet * MM_PER_FOOT, amps, read_gauge(gauge), "solid", 20) == pytest.approx(volts, rel=1e-3)


@pytest.mark.parametrize(("amps", "feet", "gauge", "volts"), WORKED_AT_75)
def test_worked_drop_examples_at_75_degrees(amps: float, feet: float, gauge: str, volts: float) -> None:
    assert drop_on_run(feet * MM_PER_FOOT, amps, read_gauge(gauge), "stranded", 75) == pytest.approx(volts, rel=0.01)


def test_figure_from_conversation_is_near_the_mark() -> None:
    """Common practice, no source: 100 m of 22 AWG is "around 7 Ω". One way it is 5.3 Ω; there and back 10.6 Ω."""
    one_way = drop_on_run(100_000, 1, read_gauge("22 AWG"), "solid", 20) / 2
    assert one_way == pytest.approx(5.3, abs=0.05)


def test_sizing_names_the_lightest_gauge_that_holds_drop_and_amps() -> None:
    rows = size_run(35 * MM_PER_FOOT, 5, 14.4, 0.05)
    fits = [r.gauge for r in rows if r.holds_drop and r.holds_amps]
    assert fits[0] == "12 AWG"
    short = size_run(300, 10, 14.4, 0.05)
    assert next(r.gauge for r in short if r.holds_drop and r.holds_amps) == "14 AWG", (
        "a short run is sized by amps, not drop"
    )


@given(st.floats(100, 50_000), st.floats(0.1, 10), st.floats(6, 24), st.floats(0.01, 0.2))
def test_drop_heat_and_short_belong_together(length: float, amps: float, volts: float, allowed: float) -> None:
    for row in size_run(length, amps, volts, allowed, "mm2"):
        assert row.heat == pytest.approx(row.drop * amps)
        assert row.short_amps < volts / row.loop_ohms
        assert row.holds_drop == (row.drop <= allowed * volts * (1 + 1e-12))


@pytest.mark.parametrize("bad", [(0, 5, 14.4, 0.05), (1000, 0, 14.4, 0.05), (1000, 5, 0, 0.05), (1000, 5, 14.4, 1)])
def test_sums_refuse_what_makes_no_sense(bad: tuple[float, float, float, float]) -> None:
    with pytest.raises(ValueError, match="above zero"):
        size_run(*bad)


def test_led_resistor_by_hand() -> None:
    """(12 − 2 − 2)/0.02 = 400 Ω; next of E24 (IEC 60063) is 430; 8/430 = 18.6 mA; 0.149 W, so buy half a watt."""
    sum_ = led_resistor(12, 2, 0.02, 2)
    assert (sum_.exact_ohms, sum_.ohms, sum_.buy_watts) == (pytest.approx(400), 430, 0.5)
    assert sum_.amps == pytest.approx(8 / 430) and sum_.watts == pytest.approx(64 / 430)


@given(st.floats(3, 24), st.floats(1.5, 2.9), st.floats(0.001, 0.05))
def test_the_standard_resistor_never_passes_more_than_asked(volts: float, led: float, amps: float) -> None:
    found = led_resistor(volts, led, amps)
    assert found.amps <= amps * (1 + 1e-6) and found.buy_watts >= 2 * found.watts - 1e-9
    mantissa = found.ohms
    while mantissa >= 9.99:
        mantissa /= 10
    while mantissa < 0.999:
        mantissa *= 10
    assert any(abs(mantissa - e) < 1e-6 for e in E24)


def test_leds_that_need_more_than_the_supply() -> None:
    with pytest.raises(ValueError, match="the supply gives"):
        led_resistor(5, 3.2, 0.01, 2)


def test_trains_on_a_booster() -> None:
    """Common practice, no source: a 2 to 3 A station runs about 3 to 5 modern trains."""
    assert 3 <= trains_per_booster(2.5, 0.5).trains <= 5
    sum_ = trains_per_booster(5, 0.45, 0.1, 0.2)
    assert (sum_.trains, sum_.idlers) == (8, 4)
    with pytest.raises(ValueError, match="above zero"):
        trains_per_booster(0, 1)


def test_more_leds_than_the_supply_can_light_are_refused_with_both_figures() -> None:
    with pytest.raises(ValueError, match=r"4 LED of 3\.5 V need 14 V, and the supply gives 12 V"):
        led_resistor(12, 3.5, 0.02, in_series=4)
    assert led_resistor(12, 3.5, 0.02, in_series=3).exact_ohms == pytest.approx((12 - 10.5) / 0.02)
