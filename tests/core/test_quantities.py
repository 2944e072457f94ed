"""Reading and printing what people write, in both unit worlds."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jolly_copper.core import quantities as q


@pytest.mark.parametrize(
    ("text", "mm"),
    [
        ("35'", 10668),
        ("8' 2 1/2\"", 2501.9),
        ("8'2-1/2\"", 2501.9),
        ("8′ 2½″", 2501.9),
        ("8' 2", 2489.2),
        ("2.4 m", 2400),
        ("2,4 m", 2400),
        ("2400mm", 2400),
        ("240 cm", 2400),
        ("1/2 in", 12.7),
        ('½"', 12.7),
        ("6 ft 3 in", 1905),
        ("6 feet 3 inches", 1905),
        ("3.5 metres", 3500),
        ("1 yd", 914.4),
        ("12", 3657.6),
        ("8 ft. 2 in.", 2489.2),
        ("0.5'", 152.4),
        ("8-1/2 in", 215.9),
    ],
)
def test_lengths_as_people_write_them(text: str, mm: float) -> None:
    assert q.read_length(text) == pytest.approx(mm)


@pytest.mark.parametrize(
    "text", ["", "  ", "long", "-3 ft", "3 parsecs", "5 1/0 in", "1/0", "3 ft banana", "''", "nan", "inf m", "2.4 2.4"]
)
def test_what_is_no_length_is_refused_in_a_sentence(text: str) -> None:
    with pytest.raises(q.QuantityError) as refused:
        q.read_length(text)
    assert str(refused.value).endswith(".")


@pytest.mark.parametrize(
    ("text", "gauge"),
    [
        ("14 AWG", "14 AWG"),
        ("14ga", "14 AWG"),
        ("14 gauge", "14 AWG"),
        ("#14", "14 AWG"),
        ("AWG 14", "14 AWG"),
        ("14", "14 AWG"),
        ("2.5mm²", "2.5 mm²"),
        ("2.5 mm2", "2.5 mm²"),
        ("2,5 sq mm", "2.5 mm²"),
        (".75 mm^2", "0.75 mm²"),
    ],
)
def test_gauges_as_people_write_them(text: str, gauge: str) -> None:
    assert str(q.read_gauge(text)) == gauge


@pytest.mark.parametrize("text", ["4 AWG", "32 AWG", "0.1 mm²", "10 mm²", "thick", "2.5", "-14", "14 AWG 2"])
def test_gauges_not_held_are_refused(text: str) -> None:
    with pytest.raises(q.QuantityError):
        q.read_gauge(text)


@pytest.mark.parametrize(
    ("read", "text", "value"),
    [
        (q.read_current, "300 mA", 0.3),
        (q.read_current, "300mA", 0.3),
        (q.read_current, "5 amps", 5),
        (q.read_current, "0,5", 0.5),
        (q.read_volts, "14.4 V", 14.4),
        (q.read_volts, "800 mV", 0.8),
        (q.read_volts, "16 volts", 16),
        (q.read_ohms, "20 mΩ", 0.02),
        (q.read_ohms, "0.5 ohm", 0.5),
        (q.read_ohms, "1k", 1000),
        (q.read_current, "50 µA", 5e-5),
    ],
)
def test_amps_volts_ohms(read: object, text: str, value: float) -> None:
    assert read(text) == pytest.approx(value)  # type: ignore[operator]


@pytest.mark.parametrize(
    ("read", "text"), [(q.read_current, "5 V"), (q.read_volts, "5 A"), (q.read_ohms, "five"), (q.read_current, "-1 A")]
)
def test_the_wrong_unit_is_refused(read: object, text: str) -> None:
    with pytest.raises(q.QuantityError):
        read(text)  # type: ignore[operator]


@given(st.floats(min_value=13, max_value=50_000), st.sampled_from(["imperial", "metric"]))
def test_a_printed_length_reads_back_as_near_as_it_was_printed(mm: float, units: q.Units) -> None:
    printed = q.print_length(mm, units)
    step = (
        (q.MM_PER_FOOT if "ft" in printed else q.MM_PER_INCH / 2)
        if units == "imperial"
        else (10 if printed.endswith(" m") else 1)
    )
    assert abs(q.read_length(printed) - mm) <= step / 2 + 1e-6
    assert q.print_length(q.read_length(printed), units) == printed, "printing what was read changes nothing"


@given(st.text(max_size=20))
def test_no_text_breaks_a_reader(text: str) -> None:
    for read in (q.read_length, q.read_gauge, q.read_current, q.read_volts, q.read_ohms):
        try:
            value = read(text)
        except q.QuantityError:
            continue
        assert isinstance(value, q.Gauge) or (math.isfinite(value) and value >= 0)


def test_figures_are_printed_sensibly() -> None:
    assert q.print_length(609.6, "imperial") == "2'"
    assert q.print_length(622.3, "imperial") == "24 1/2 in"
    assert q.print_length(12000, "imperial") == "39 ft"
    assert q.print_length(850, "metric") == "850 mm"
    assert (
        q.print_current(0.3) == "300 mA"
        and q.print_current(5) == "5 A"
        and q.print_current(4.123) == "4.12 A"
        and q.print_current(19.31) == "19.3 A"
    )
    assert q.print_volts(12.137) == "12.1 V" and q.print_volts(0.124) == "0.12 V"
    assert q.print_ohms(0.0249) == "24.9 mΩ" and q.print_ohms(1000) == "1 kΩ" and q.print_ohms(math.inf) == "open"
    assert q.print_long_length(30480, "imperial") == "100 ft" and q.print_long_length(30480, "metric") == "30.5 m"
