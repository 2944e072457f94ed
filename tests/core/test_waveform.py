"""The waveform at the end of a bus: against ngspice transients, line theory and the filter's closed form."""

from __future__ import annotations

import math
import re
import subprocess
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.circuits.waveform import (
    DECODERS_F,
    EDGE_S,
    FILTER_F,
    FILTER_OHMS,
    LOAD_OHMS,
    SECTIONS,
    Line,
    against_measured,
    behind_detector,
    edges_at_end,
    filter_heat,
    filter_watts,
    filter_watts_in_use,
    kick,
    line_of,
    pair_farads_per_metre,
    safe_rating,
    spread_at_end,
    verdict,
)
from jolly_copper.core.findings.check import check
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.layout.wiring import EndFilter
from jolly_copper.core.quantities import read_gauge
from tests.core.test_solution import needs_ngspice
from tests.layouts import plain

APART = Line(15, 16.6e-3, 2.02e-6, 5.8e-12, 0.05, 14.4)
TWISTED = Line(15, 16.6e-3, 0.48e-6, 80e-12, 0.05, 14.4)


def spice_end(line: Line) -> tuple[np.ndarray, np.ndarray]:
    """The same ladder in ngspice: volts at the end over 20 µs."""
    part, cards = (
        line.length / SECTIONS,
        ["* line", f"V1 s 0 PWL(0 {-line.volts} {EDGE_S} {line.volts} 1 {line.volts})", f"Rs s n0 {line.source}"],
    )
    for k in range(SECTIONS):
        cards += [
            f"R{k} n{k} m{k} {line.ohms * part}",
            f"L{k} m{k} n{k + 1} {line.henries * part}",
            f"C{k} n{k + 1} 0 {line.farads * part}",
        ]
    cards += [f"Ce n{SECTIONS} 0 {line.end_farads}", f"Rl n{SECTIONS} 0 {LOAD_OHMS}"]
    if line.filtered:
        cards += [f"Rf n{SECTIONS} f {FILTER_OHMS}", f"Cf f 0 {FILTER_F}"]
    cards += [
        ".control",
        "option reltol=1e-5",
        "tran 10n 20u 0 10n",
        "linearize",
        f"print v(n{SECTIONS})",
        ".endc",
        ".end",
    ]
    text = "\n".join(cards) + "\n"
    ran = subprocess.run(["ngspice", "-b"], input=text, capture_output=True, text=True, timeout=120, check=False)
    rows = [(int(n) * 10e-9, float(v)) for n, v in re.findall(r"^(\d+)\t(\S+)\t$", ran.stdout, re.M)]
    return np.array([r[0] for r in rows]), np.array([r[1] for r in rows])


@needs_ngspice
@pytest.mark.parametrize("filtered", [False, True])
@pytest.mark.parametrize("line", [APART, TWISTED], ids=["apart", "twisted"])
def test_the_edge_agrees_with_a_circuit_simulator(line: Line, filtered: bool) -> None:
    """Published general simulator (ngspice), transient on the same twenty sections: within 0.2 V of 28.8 V."""
    line = Line(**{**line.__dict__, "filtered": filtered})
    times, volts = spice_end(line)
    assert len(times) > 1000
    (mine,) = edges_at_end(line, seconds=20e-6)
    assert np.abs(np.interp(times, mine.seconds, mine.volts) - volts).max() < 0.2


def test_spaced_wires_ring_and_a_filter_calms_them() -> None:
    """Calculated reference figures: 2 nF at the end of 15 m, wires 100 mm apart: rings at about
    1/(2π√(L·l·(C_end + 0.4·C·l))); with 100 Ω and 0.1 µF a small fraction of it is left, and no edge is read
    twice."""
    (bare,), (filtered,) = edges_at_end(APART), edges_at_end(Line(**{**APART.__dict__, "filtered": True}))
    wanted = 1 / (2 * math.pi * math.sqrt(APART.henries * 15 * (DECODERS_F + 0.4 * APART.farads * 15)))
    assert bare.ring == pytest.approx(wanted, rel=0.05) and bare.over > 5
    assert filtered.over < 0.35 * bare.over and filtered.crossings == 0
    assert 0 <= bare.late < 1e-6, "of a half bit of 58 µs: no issue"


def test_wires_together_ring_less_than_wires_apart() -> None:
    assert edges_at_end(TWISTED)[0].over < edges_at_end(APART)[0].over


def test_a_short_that_lets_go_kicks_by_its_inductance_and_twice_the_amps_twice_as_high() -> None:
    one, two = kick(APART, 5), kick(APART, 10)
    assert two > 1.7 * one and kick(TWISTED, 5) < 0.5 * one
    assert one == pytest.approx(290, rel=0.25), "prospective, calculated with nothing that clamps"


@pytest.mark.parametrize(
    ("volts", "watts"), [(12, 0.494), (14.4, 0.711), (15, 0.771), (16, 0.877), (18, 1.110), (22, 1.66)]
)
def test_the_filters_heat(volts: float, watts: float) -> None:
    """Closed form against figures that a circuit simulator confirmed within 0.03 %."""
    assert filter_watts(volts) == pytest.approx(watts, rel=5e-3)
    assert safe_rating(filter_watts(volts)) >= 2 * watts * 0.999


@needs_ngspice
def test_the_filters_heat_in_usual_traffic() -> None:
    """An idle packet (31 ones, 11 zeros) sent over and over in ngspice: the mean of v·i in the resistor."""
    volts, t, sign, points = 14.4, 0.0, 1.0, ["0 -14.4"]
    bits = ([1] * 14 + [0] + [1] * 8 + [0] + [0] * 8 + [0] + [1] * 8 + [1]) * 3
    for bit in bits:
        for _ in range(2):
            points.append(f"{t + 1e-8:.9g} {sign * volts}")
            t += 58e-6 if bit else 100e-6
            points.append(f"{t:.9g} {sign * volts}")
            sign = -sign
    first = t / 3
    text = f"""* idle packets into a filter
V1 a 0 PWL({" ".join(points)})
R1 a b 100
C1 b 0 0.1u
.control
option reltol=1e-5
tran 0.2u {t} 0 0.2u
let p = (v(a)-v(b))*(v(a)-v(b))/100
meas tran r AVG p from={first} to={t}
quit
.endc
.end
"""
    ran = subprocess.run(["ngspice", "-b"], input=text, capture_output=True, text=True, timeout=120, check=False)
    match = re.search(r"^r\s*=\s*(\S+)", ran.stdout, re.M)
    assert match, ran.stdout[-500:]
    assert len(bits) == 3 * 42 and filter_watts_in_use(volts) == pytest.approx(float(match[1]), rel=0.02)


def test_the_verdict_is_by_the_worst_of_the_range() -> None:
    """With 0.5 µs and 10 nF the bus of 1 µs and 2 nF rings across zero: no word of harmlessness then."""
    spread = spread_at_end(TWISTED)
    assert spread.drawn.crossings == 0 and spread.drawn.over < 8
    assert spread.worst.crossings > 0 and "no filter is needed" not in verdict(spread, 14.4)
    assert "row of decoders" in verdict(spread, 14.4, tied=True) and "Put the filter at the end" in verdict(
        spread, 14.4, tied=True
    )
    short = spread_at_end(replace(TWISTED, length=0.3))
    assert short.worst.over < spread.worst.over


@given(st.sampled_from([APART, TWISTED]), st.floats(1, 30))
@settings(max_examples=10)
def test_the_worst_is_no_milder_than_what_is_drawn(line: Line, length: float) -> None:
    spread = spread_at_end(replace(line, length=length))
    assert spread.mildest.over <= max(spread.drawn.over, spread.worst.over) + 1e-9
    assert spread.worst.crossings >= spread.drawn.crossings >= spread.mildest.crossings
    assert spread.least <= spread.most


@pytest.mark.parametrize(
    ("measured", "words"), [(40, "they agree"), (95, "more than it explains"), (20, "less than it explains")]
)
def test_a_measured_swing_is_held_against_the_sum(measured: float, words: str) -> None:
    """One club read 58.8 V from peak to peak at the end of 30 ft of a 28.8 V wave; leads of the instrument may be in
    it."""
    told = against_measured(spread_at_end(replace(TWISTED, length=9.1)), measured)
    assert words in told and f"{measured:g} V" in told


def test_capacitance_of_two_wires_by_line_theory() -> None:
    """L·C of wires in air is 1/c², less the inductance inside the wire (0.1 µH/m)."""
    for spacing in (50.0, 100.0, 300.0):
        farads = pair_farads_per_metre("apart", read_gauge("14 AWG"), spacing)
        henries = 4e-7 * math.acosh(spacing / 1.628)
        assert farads * henries == pytest.approx(1 / 299_792_458**2, rel=1e-3)


def test_a_run_of_the_demo_as_a_line(demo: Layout) -> None:
    line = line_of(demo, "W1")
    assert line.length == pytest.approx(16.9, abs=0.5) and line.henries > 1e-6, "its wires lie apart"
    assert line_of(demo, "W1", "twisted").henries == pytest.approx(0.48e-6)
    assert line_of(demo, "W1", filtered=True).filtered and not line.filtered


def with_filter(watts: float, detector: bool = False) -> Layout:
    d = plain()
    d.data["runs"]["R1"]["filter"] = {"ohms": 100, "farads": 1e-7, "watts": watts}
    if detector:
        d.data["circuits"]["block"] = {"name": "Block"}
        d.data["devices"]["D1"] = {
            "kind": "detector",
            "name": "Detector 1",
            "at": {"x": 0, "y": 300},
            "input": "main",
            "output": "block",
        }
        d.data["runs"]["R1"] |= {"circuit": "block", "fed": {"device": "D1"}}
        d.data["sections"]["s"]["circuit"] = "block"
    return d.plain()


@pytest.mark.parametrize(("watts", "severity"), [(0.25, "must"), (0.5, "should"), (1.0, "should"), (2.0, None)])
def test_a_filter_resistor_is_rated_for_twice_its_heat(watts: float, severity: str | None) -> None:
    """0.71 W at 14.4 V (see `filter_watts`): a quarter burns, half a watt is one school, one is at its limit, two will
    do."""
    layout = with_filter(watts)
    found = [f for f in check(derive(layout)) if f.rule == "filter resistor too small"]
    assert [f.severity for f in found] == ([severity] if severity else [])
    for f in found:
        assert not [g for g in check(derive(apply_patch(layout, f.mends[0].patch))) if g.rule == f.rule]


def test_no_filter_behind_a_detector() -> None:
    assert behind_detector(with_filter(5), "R1") is None
    layout = with_filter(5, detector=True)
    (found,) = [f for f in check(derive(layout)) if f.rule == "filter behind a detector"]
    assert found.severity == "must" and "Detector 1" in found.title
    assert not [f for f in check(derive(apply_patch(layout, found.mends[0].patch))) if f.rule == found.rule]


def test_a_filter_of_other_parts_heats_as_they_do() -> None:
    """Half the capacitor, half the heat, where it has time to charge."""
    layout = with_filter(5)
    fitted = layout.runs["R1"].filter
    assert fitted is not None
    half = EndFilter(ohms=fitted.ohms, farads=fitted.farads / 2, watts=5)
    assert filter_heat(layout, "R1", half) == pytest.approx(filter_heat(layout, "R1", fitted) / 2, rel=0.02)
    assert line_of(layout, "R1", filtered=True).filter_farads == 1e-7
