"""Rules about volts, shorts and feeding, by Ohm's law on one track: each on both sides of where it begins to speak.

Wire by the handbook's table, Ω per 1000 ft at 20 °C; thresholds are house rules and common practice, no source.
"""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from jolly_copper.demo.drafting import Draft
from tests.judged import falls_silent, mended, number, said, severities, told
from tests.layouts import booster, feeder, plain
from tests.track_plans import power, tie

PER_METRE = {
    k: v / 1000 / 0.3048 for k, v in {"14 AWG": 2.525, "18 AWG": 6.385, "20 AWG": 10.15, "24 AWG": 25.67}.items()
}
"""Ω per m of solid copper wire at 20 °C (handbook wire table)."""
DROP, COIN, SHORTED, NONE, SPACING, PROGRAM, SOURCE, APART = (
    "drop",
    "coin test",
    "feeders in a short",
    "piece without feeder",
    "feeder spacing",
    "programming track joined to the rest",
    "wire with no source",
    "wires apart",
)


def one_feeder(gauge: str = "14 AWG", tape: float = 1000, trip: float | None = 5, **device: Any) -> Draft:
    """A short track with one feeder in its middle, 400 mm of 20 AWG, at the end of a bus of this length."""
    d = plain(200, gauge, ohms_per_metre=0.0)
    d.data["brief"]["rules"]["count_inductance"] = False
    d.data["runs"]["R1"]["tape"] = tape
    d.data["terminals"]["T2"]["along"] = tape
    d.data["devices"]["B1"] |= {"trip_amps": trip, "limit_amps": None, **device}
    feeder(d, "F1", "t", 100, "T2", tape=400)
    return d


def loop_ohms(gauge: str, tape: float, inside: float = 0.1) -> float:
    """There and back: source, bus, feeder."""
    return inside + 2 * PER_METRE[gauge] * tape / 1000 + 2 * PER_METRE["20 AWG"] * 0.4


# Volts at the wheel


@given(st.sampled_from(["14 AWG", "18 AWG", "24 AWG"]), st.integers(500, 30_000), st.floats(0.2, 3.0))
def test_the_drop_by_ohms_law(gauge: str, tape: int, amps: float) -> None:
    """14.4 V less I·R: told from 5 % down, a must from three times that."""
    d = one_feeder(gauge, tape)
    d.data["brief"]["rules"]["test_train"] = amps
    share = amps * loop_ohms(gauge, tape) / 14.4
    assume(all(abs(share - s) > 0.002 for s in (0.05, 0.15)) and share < 0.9)
    found = told(d, DROP)
    assert severities(found) == ([] if share < 0.05 else ["must" if share > 0.15 else "should"])
    for f in found:
        assert number(said(f)["at the wheel"]) == pytest.approx(14.4 * (1 - share), abs=0.08)
        assert f"{100 * share:.0f} % down" in f.title or abs(100 * share % 1 - 0.5) < 0.2


@pytest.mark.parametrize(("allowed", "heard"), [(0.03, True), (0.1, False), (0.5, False)])
def test_the_house_says_how_much_may_be_lost(allowed: float, heard: bool) -> None:
    """2 A over 1.0 Ω of 24 AWG lose 7 % and a little."""
    d = one_feeder("24 AWG", 2500)
    d.data["brief"]["rules"] |= {"test_train": 2, "largest_drop": allowed}
    assert bool(told(d, DROP)) is heard


def test_a_heavier_bus_is_offered_that_is_worth_drawing() -> None:
    d = one_feeder("24 AWG", 9000)
    d.data["brief"]["rules"]["test_train"] = 2
    (f,) = told(d, DROP)
    heavier = [m for m in f.mends if m.label.startswith("Bus R1 to ")]
    assert len(heavier) == 1
    after = told(mended(d, f, f.mends.index(heavier[0])), DROP)
    assert not after or number(said(after[0])["at the wheel"]) > number(said(f)["at the wheel"]) + 0.3


# A coin across the rails


@given(st.sampled_from(["14 AWG", "18 AWG", "24 AWG"]), st.integers(500, 30_000), st.sampled_from([2.0, 3.0, 5.0, 8.0]))
def test_a_short_by_ohms_law(gauge: str, tape: int, trip: float) -> None:
    """V/R against half as much again as the trip: beyond it is sound, under the trip itself a must."""
    short = 14.4 / loop_ohms(gauge, tape)
    assume(all(abs(short / trip - s) > 0.02 for s in (1.0, 1.5)))
    d = one_feeder(gauge, tape, trip, limit_amps=100.0)
    found = told(d, COIN)
    assert severities(found) == ([] if short > 1.5 * trip else ["should" if short > trip else "must"])
    for f in found:
        assert number(said(f)["short current"]) == pytest.approx(short, rel=0.02)
        assert ("will not trip" in f.title) is (short < trip)
        assert number(f.mend) == pytest.approx(1.5 * trip), "what it wants"


@pytest.mark.parametrize(
    ("limit", "severity"), [(20, None), (7.5, None), (7.4, "should"), (5.1, "should"), (4.9, None)]
)
def test_a_source_that_gives_no_more(limit: float, severity: str | None) -> None:
    """A trip of 5 A wants 7.5; a limit below the trip is told by the rule that it never trips, not twice."""
    d = one_feeder("14 AWG", 500, 5, limit_amps=limit)
    assert severities(told(d, COIN)) == ([severity] if severity else [])
    assert bool(told(d, "never trips")) is (limit < 5)


def test_without_a_trip_there_is_nothing_to_miss() -> None:
    assert told(one_feeder("24 AWG", 30_000, None), COIN) == []


# Shorts of the wiring


@pytest.mark.parametrize("swapped", [False, True])
def test_a_feeder_the_wrong_way_round_on_the_same_rails_is_named_once(swapped: bool) -> None:
    d = one_feeder()
    for n, at in ((2, 60), (3, 140)):
        feeder(d, f"F{n}", "t", at, "T2", tape=400)
    if swapped:
        d.data["feeders"]["F3"]["a_rail"] = "right"
    found = told(d, "feeder swapped")
    assert [f.place.id for f in found] == (["F3"] if swapped else [])
    assert told(d, SHORTED) == [], "the rule that knows which feeder says it"
    for f in found:
        assert said(f) == {"feeders that agree": "2", "this way round": "1"} and falls_silent(d, f)
        assert f.rails, "the metal is shown"


# Track without a feeder


@pytest.mark.parametrize(("length", "heard"), [(400, True), (120, True), (20, False)])
def test_a_piece_between_gaps_wants_a_feeder(length: float, heard: bool) -> None:
    """A piece too short to stand on is judged by nobody."""
    d = plain(3000)
    for n, at in ((1, 500), (2, 2800)):
        feeder(d, f"F{n}", "t", at, "T2")
    d.gap("t", 1500)
    d.gap("t", 1500 + length)
    found = told(d, NONE)
    assert severities(found) == (["must"] if heard else [])
    for f in found:
        assert f.place.at == pytest.approx(1500 + length / 2)


def test_a_dead_piece_gets_its_feeder_where_a_circuit_is_meant() -> None:
    d = plain(3000)
    feeder(d, "F1", "t", 500, "T2")
    d.gap("t", 1500)
    (f,) = told(d, NONE)
    assert f.mends == (), "nobody said what circuit it is of"
    d.section("s2", "Beyond", "t", 2900, "main")
    (f,) = told(d, NONE)
    assert falls_silent(d, f)


@pytest.mark.parametrize(("joiners", "heard"), [(1, False), (2, True), (4, True)])
def test_the_end_of_a_spur_hangs_on_so_many_joiners(joiners: int, heard: bool) -> None:
    """The house lets a train depend on one joiner; every 400 mm there is one."""
    d = plain(400 * (joiners + 1) - 50, joiner_every=400)
    feeder(d, "F1", "t", 100, "T2")
    found = [f for f in told(d, SPACING) if f.key.startswith("joiners")]
    assert severities(found) == (["should"] if heard else [])
    for f in found:
        assert said(f) == {"joiners in a row": str(joiners), "house rule": "1"}
    d.data["brief"]["rules"]["joiners_in_a_row"] = joiners
    assert [f for f in told(d, SPACING) if f.key.startswith("joiners")] == []


@pytest.mark.parametrize(("code", "every"), [(55, 914.4), (70, 914.4), (75, 2438.4), (100, 2438.4)])
def test_light_rail_wants_feeders_nearer(code: int, every: float) -> None:
    """Common practice, no source: 3 ft on code 70 and under, 8 ft on heavier rail."""
    for apart, heard in ((every * 0.99, False), (every * 1.05, True)):
        d = plain(apart + 400, code=code)
        d.data["terminals"]["T2"]["along"] = 1000
        feeder(d, "F1", "t", 200, "T1")
        feeder(d, "F2", "t", 200 + round(apart, 1), "T2")
        assert bool([f for f in told(d, SPACING) if f.key.startswith("spacing")]) is heard


@pytest.mark.parametrize(("gap", "heard"), [(None, True), ("left", False), ("both", False)])
def test_a_programming_track_is_gapped_from_the_rest(gap: str | None, heard: bool) -> None:
    """A gap in one rail opens the loop already: what is written reaches nobody beyond it."""
    d = Draft("Programming")
    booster(d)
    for name, x, kind in (("W", 0, "bumper"), ("J", 2000, "joint"), ("E", 3000, "bumper")):
        d.node(name, x, 0, kind)
    d.track("a", "Main", "W.1", "J.1")
    d.track("p", "Programming track", "J.2", "E.1", use="programming")
    if gap:
        d.gap("p", 50, rails=gap)
    found = told(d, PROGRAM)
    assert bool(found) is heard


# Wire that goes nowhere


def test_wire_with_no_way_to_a_source() -> None:
    d = plain()
    d.data["circuits"]["spare"] = {"name": "Spare", "colour_a": "pink", "colour_b": "grey"}
    dark = {**d.data["runs"]["R1"], "label": "R2", "circuit": "spare", "fed": {"terminal": "T3"}}
    d.data["runs"]["R2"] = dark
    d.data["runs"]["R3"] = {**dark, "label": "R3", "fed": {"terminal": "T4"}}
    for key, run in (("T3", "R3"), ("T4", "R2")):
        d.data["terminals"][key] = {"run": run, "along": 500, "kind": "soldered", "ohms": 0}
    feeder(d, "F1", "t", 500, "T2")
    found = told(d, SOURCE)
    assert {f.place.id for f in found} == {"R2", "R3"} and set(severities(found)) == {"must"}
    d.data["runs"]["R3"] |= {"circuit": "main", "fed": {"device": "B1"}}
    d.data["runs"]["R2"] |= {"circuit": "main"}
    assert told(d, SOURCE) == []


# Wires apart on a square wave


@pytest.mark.parametrize(
    ("make", "counted", "gives", "heard"),
    [
        ("apart", True, "dcc", True),
        ("twisted", True, "dcc", False),
        ("apart", False, "dcc", False),
        ("apart", True, "dc", False),
    ],
)
def test_wires_apart_are_told_where_a_square_wave_feels_it(make: str, counted: bool, gives: str, heard: bool) -> None:
    d = one_feeder("14 AWG", 12_000)
    d.data["brief"]["rules"] |= {"count_inductance": counted, "test_train": 3}
    d.data["runs"]["R1"] |= {"make": make, **({"spacing": 100} if make == "apart" else {})}
    d.data["devices"]["B1"]["gives"] = gives
    found = told(d, APART)
    assert severities(found) == (["should"] if heard else [])
    for f in found:
        assert number(said(f)["lost to inductance, estimate"]) > 0.03 * 14.4
        assert mended(d, f).runs["R1"].make == "side by side"


# Two boosters on one rail


@pytest.mark.parametrize(("gaps", "joined"), [((), True), (("left",), True), (("both",), False)])
def test_two_boosters_on_one_rail(gaps: tuple[str, ...], joined: bool) -> None:
    d = power(Draft("Two boosters"))
    d.node("W", 0, 0, "bumper")
    d.node("E", 6000, 0, "bumper")
    d.track("t", "Line", "W.1", "E.1", joiner_every=None)
    booster(d, circuit="two", key="B2")
    d.bus("R9", "two", "14 AWG", [(4000, 400), (5000, 400)], fed={"device": "B2"}, kind="soldered", make="twisted")
    for rails in gaps:
        d.gap("t", 3000, rails=rails)
    tie(d, "F1", "t", 1000)
    tie(d, "F2", "t", 5000, "two")
    found = [f for f in told(d, "rails joined through turnouts") if f.key.startswith("joined")]
    assert bool(found) is joined and all("two boosters work on one rail" in f.title for f in found)
