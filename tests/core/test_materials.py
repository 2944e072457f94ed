"""Copper, rail and ampacity against published tables. Table values are from memory unless a computation is named."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jolly_copper.core.circuits.quick_sums import drop_on_run
from jolly_copper.core.circuits.what_wire import wire_by_ohms, wire_by_strands
from jolly_copper.core.layout.rules import HouseRules
from jolly_copper.core.materials import ampacity, copper, joints, rail
from jolly_copper.core.quantities import Gauge, read_gauge

# ASTM B258 diameters and IEC 60028 resistivity: the common handbook table, ohms per 1000 ft of solid annealed copper
# at 20 °C.
HANDBOOK = {
    6: 0.3951,
    8: 0.6282,
    10: 0.9988,
    12: 1.588,
    14: 2.525,
    16: 4.015,
    18: 6.385,
    20: 10.15,
    22: 16.14,
    24: 25.67,
    26: 40.81,
    28: 64.90,
    30: 103.2,
}
# NEC chapter 9 table 8, uncoated copper at 75 °C, ohms per 1000 ft: (solid, stranded). From memory.
NEC_TABLE_8 = {
    18: (7.77, 7.95),
    16: (4.89, 4.99),
    14: (3.07, 3.14),
    12: (1.93, 1.98),
    10: (1.21, 1.24),
    8: (0.764, 0.778),
}


def per_1000_ft(awg: int, strands: copper.Strands, celsius: float) -> float:
    return copper.ohms_per_metre(Gauge("awg", awg), strands, celsius) * 304.8


@pytest.mark.parametrize(("awg", "ohms"), HANDBOOK.items())
def test_solid_awg_agrees_with_the_handbook_table(awg: int, ohms: float) -> None:
    assert per_1000_ft(awg, "solid", 20) == pytest.approx(ohms, rel=1e-3)


@pytest.mark.parametrize("awg", NEC_TABLE_8)
def test_awg_at_75_degrees_agrees_with_nec_table_8(awg: int) -> None:
    solid, stranded = NEC_TABLE_8[awg]
    assert per_1000_ft(awg, "solid", 75) == pytest.approx(solid, rel=0.01)
    assert per_1000_ft(awg, "stranded", 75) == pytest.approx(stranded, rel=0.01)


@pytest.mark.parametrize(
    ("mm2", "ohms_per_km"), [(0.5, 39.0), (0.75, 26.0), (1, 19.5), (1.5, 13.3), (2.5, 7.98), (4, 4.95), (6, 3.30)]
)
def test_metric_stranded_is_iec_60228_class_5(mm2: float, ohms_per_km: float) -> None:
    assert copper.ohms_per_metre(Gauge("mm2", mm2)) * 1000 == pytest.approx(ohms_per_km)


def test_two_and_a_half_square_millimetres_is_not_14_awg() -> None:
    """Class 5 2.5 mm² behaves like 13.8 AWG solid; nominal area would promise 13 to 16 % less resistance than that."""
    flexible = copper.ohms_per_metre(read_gauge("2.5 mm²"))
    assert flexible == pytest.approx(copper.RESISTIVITY / copper.area_mm2(Gauge("awg", 13.8)), rel=0.01)
    assert flexible / (copper.RESISTIVITY / 2.5) == pytest.approx(1.157, abs=0.002)


def test_copper_gains_nearly_a_tenth_when_warm() -> None:
    cold, warm = per_1000_ft(14, "solid", 20), per_1000_ft(14, "solid", 45)
    assert warm / cold == pytest.approx(1.098, abs=5e-4)


def test_heavier_is_always_better() -> None:
    for system in ("awg", "mm2"):
        gauges = copper.gauges_light_to_heavy(system)
        ohms = [copper.ohms_per_metre(g) for g in gauges]
        amps = [ampacity.may_carry_amps(g) for g in gauges]
        assert ohms == sorted(ohms, reverse=True)
        assert amps == sorted(amps)


def test_next_gauges_up() -> None:
    assert [str(g) for g in copper.next_gauges_up(read_gauge("16 AWG"))] == ["14 AWG", "12 AWG"]
    assert [str(g) for g in copper.next_gauges_up(read_gauge("1.5 mm²"), 1)] == ["2.5 mm²"]
    assert copper.next_gauges_up(read_gauge("6 AWG")) == []
    heavier = copper.next_gauges_up(read_gauge("16 AWG"), 3, "metric")
    assert [str(g) for g in heavier] == ["1.5 mm²", "2.5 mm²", "4 mm²"], "16 AWG is 1.31 mm² (ASTM B258)"
    assert str(copper.next_gauges_up(read_gauge("1.5 mm²"), 1, "imperial")[0]) == "14 AWG"


@pytest.mark.parametrize(("spacing", "micro"), [(300, 2.46), (100, 2.02), (50, 1.75)])
def test_inductance_of_wires_apart(spacing: float, micro: float) -> None:
    """Two-wire line, worked by hand: L = µ0/π·acosh(D/d) + µ0/4π for 14 AWG."""
    assert copper.pair_henries_per_metre("apart", read_gauge("14 AWG"), spacing) * 1e6 == pytest.approx(micro, abs=0.01)


@given(st.floats(min_value=3, max_value=500), st.sampled_from(copper.AWG_SIZES))
def test_wires_farther_apart_have_more_inductance_than_touching_ones(spacing: float, awg: int) -> None:
    gauge = Gauge("awg", awg)
    apart = copper.pair_henries_per_metre("apart", gauge, spacing)
    assert apart <= copper.pair_henries_per_metre("apart", gauge, spacing * 2)
    if spacing > 30:
        assert (
            apart
            > copper.pair_henries_per_metre("side by side", gauge)
            > copper.pair_henries_per_metre("twisted", gauge)
        )


def test_onderdonk_gives_the_known_seconds() -> None:
    """From memory: 24 AWG from 25 to 105 °C, 23 s at 5 A, 9 s at 8 A, 1.4 s at 20 A."""
    thin = read_gauge("24 AWG")
    assert [round(copper.seconds_to_heat(thin, a), 0 if a < 20 else 1) for a in (5, 8, 20)] == [23, 9, 1.4]
    assert copper.seconds_to_heat(thin, 0) == math.inf


@pytest.mark.parametrize(
    ("gauge", "amps", "school"),
    [
        ("0.5 mm²", 3, "flexible cord"),
        ("0.75 mm²", 6, "flexible cord"),
        ("18 AWG", 6, "fixture wire"),
        ("16 AWG", 8, "fixture wire"),
        ("14 AWG", 15, "building wire"),
        ("12 AWG", 20, "building wire"),
        ("10 AWG", 27.5, "half the chassis list"),
        ("8 AWG", 40, "building wire"),
        ("6 AWG", 55, "building wire"),
        ("24 AWG", 1.75, "half the chassis list"),
    ],
)
def test_ampacity_is_the_most_cautious_schools(gauge: str, amps: float, school: str) -> None:
    """Published tables, from memory: NEC 240.4(D), 310.16 and 402.5; EN 50565-1. Half the chassis list: common, no
    source."""
    found = ampacity.may_carry(read_gauge(gauge))
    assert (found.amps, found.name) == (pytest.approx(amps), school) and found.source
    assert found == min(ampacity.schools(read_gauge(gauge)), key=lambda s: s.amps)


@pytest.mark.parametrize("sizes", [[f"{n} AWG" for n in range(30, 5, -1)], [f"{a} mm²" for a in copper.METRIC_SIZES]])
def test_more_copper_carries_no_less(sizes: list[str]) -> None:
    amps = [ampacity.may_carry_amps(read_gauge(g)) for g in sizes]
    assert amps == sorted(amps)


def test_quick_sums_and_the_house_rule_share_one_temperature() -> None:
    rules = HouseRules()
    gauge = read_gauge("14 AWG")
    assert drop_on_run(1000, 1, gauge) == drop_on_run(1000, 1, gauge, celsius=rules.wire_celsius)


@pytest.mark.parametrize(
    ("strands", "diameter", "awg"), [(7, 0.6438, 14), (1, 1.024, 18), (19, 0.455, 12), (41, 0.0799 * 4, 12)]
)
def test_a_wire_by_its_strands_by_hand(strands: int, diameter: float, awg: int) -> None:
    """Area by geometry; seven strands of 22 AWG are a little more than 14 AWG."""
    found = wire_by_strands(strands, diameter)
    assert found.area == pytest.approx(strands * math.pi / 4 * diameter**2)
    assert found.awg == Gauge("awg", awg) and abs(found.awg_off) < 0.15


@given(st.sampled_from(copper.AWG_SIZES), st.floats(500, 50_000), st.booleans(), st.floats(0, 60))
def test_a_wire_by_its_ohms_is_found_again(awg: int, length: float, pair: bool, celsius: float) -> None:
    gauge = Gauge("awg", float(awg))
    ohms = copper.ohms_per_metre(gauge, "stranded", celsius) * length / 1000 * (2 if pair else 1)
    found = wire_by_ohms(ohms, length, celsius, pair)
    assert found.awg == gauge and found.awg_off == pytest.approx(0, abs=1e-6)
    assert found.area == pytest.approx(copper.area_mm2(gauge), rel=1e-6)


def test_copper_clad_aluminium_behaves_as_a_lighter_wire() -> None:
    """Sold as 16 AWG, 22 mΩ/m a conductor: more like 18. Common practice, no source."""
    found = wire_by_ohms(0.44, 10_000, there_and_back=True)
    assert str(found.awg) == "18 AWG"
    with pytest.raises(ValueError, match="above zero"):
        wire_by_ohms(0, 1000)


@pytest.mark.parametrize(("code", "milliohms"), [(40, 817), (55, 432), (70, 267), (83, 190), (100, 131), (148, 60)])
def test_nickel_silver_rail(code: int, milliohms: float) -> None:
    """Computed from height and a usual shape; nobody publishes it, so the range must be wide (certainty C)."""
    ohms = rail.ohms_per_metre(code, "nickel silver")
    assert ohms.used * 1000 == pytest.approx(milliohms, rel=0.01)
    assert ohms.low < 0.65 * ohms.used and ohms.high > 1.4 * ohms.used


def test_brass_is_best_and_steel_between() -> None:
    metals: tuple[rail.Metal, ...] = ("brass", "steel", "nickel silver")
    brass, steel, silver = (rail.ohms_per_metre(83, m).used for m in metals)
    assert brass < steel < silver


def test_every_joint_has_its_used_figure_inside_its_range() -> None:
    for low, used, high in [*joints.RAIL_JOINER.values(), *joints.TERMINAL.values(), joints.PLUG, joints.COIN]:
        assert 0 < low <= used <= high
