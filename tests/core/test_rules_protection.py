"""Rules about what opens first, and what is asked and given, on both sides of where they begin to speak.

Thresholds are common practice, no source, where nothing else is said; sums are worked out again by hand.
"""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from jolly_copper.core.findings.measured import MOST_OHMS
from jolly_copper.demo.drafting import Draft
from tests.core.cab_layouts import two_blocks
from tests.core.test_accessory import bus, having
from tests.judged import falls_silent, mended, number, said, severities, told
from tests.layouts import booster, feeder, plain


def under(d: Draft, kind: str = "breaker", **figures: Any) -> Draft:
    """A device under the booster, with the section behind it."""
    d.data["circuits"]["east"] = {"name": "East", "colour_a": "blue", "colour_b": "white"}
    device = {"kind": kind, "name": "East device", "at": {"x": 0, "y": 0}, "input": "main", "output": "east"}
    d.data["devices"]["K1"] = {**device, **figures}
    d.data["sections"]["s"]["circuit"] = "east"
    return d


# What opens first

LATE, ASKED, STARTS, REFERENCE, JOINED, BELOW = (
    "opens too late",
    "amps asked",
    "starts after a trip",
    "reference wire",
    "buses joined",
    "breaker below booster",
)


@pytest.mark.parametrize(
    ("kind", "below", "above", "late"),
    [
        ("breaker", 0.05, 0.25, False),
        ("breaker", 0.25, 0.25, True),
        ("breaker", 0.3, 0.25, True),
        ("breaker", None, 0.25, False),
        ("breaker", 0.3, None, False),
        ("reverser", 0.2, 0.25, False),
        ("reverser", 0.25, 0.25, True),
        ("reversing switch", 0.3, 0.25, False),
        ("detector", 0.3, 0.25, False),
    ],
)
def test_the_nearer_device_opens_before_the_one_above(
    kind: str, below: float | None, above: float | None, late: bool
) -> None:
    """As quick is too late: which of two opens is then chance. A hand that throws a switch has no time of its own."""
    d = plain()
    d.data["devices"]["B1"]["trip_seconds"] = above
    under(d, kind, trip_seconds=below)
    found = told(d, LATE)
    assert severities(found) == (["must"] if late else [])
    for f in found:
        assert f.title.startswith(f"East device needs {1000 * (below or 0):.0f} ms")
        assert ("reverser has turned over" in f.why) is (kind == "reverser")
        assert said(f) == {"East device": f"{1000 * (below or 0):.0f} ms", "Booster B1": "250 ms"}
        assert mended(d, f).devices["K1"].trip_seconds == pytest.approx((above or 0) / 2) and falls_silent(d, f)


@pytest.mark.parametrize(("trip", "heard"), [(4.5, False), (4.6, True), (5.0, True), (3.0, False)])
def test_a_breaker_trips_at_nine_tenths_of_its_booster_or_less(trip: float, heard: bool) -> None:
    assert bool(told(under(plain(), trip_amps=trip), BELOW)) is heard


def crowd(trains: int, running: float = 0.5, inrush: float | None = None, **device: Any) -> Draft:
    """So many engines alike that roam the booster's track in one scene."""
    d = plain()
    d.data["devices"]["B1"] |= device
    engine = {"name": "Engine", "idle": 0.1, "running": running, "stall": 1.5}
    d.data["locos"]["e"] = {**engine, **({"inrush": inrush} if inrush else {})}
    for n in range(trains):
        d.data["trains"][f"t{n}"] = {"name": f"Train {n}", "engines": ["e"], "length": 300}
    placed = [{"train": f"t{n}", "circuits": ["main"]} for n in range(trains)]
    d.data["scenes"]["show"] = {"name": "Show", "placements": placed}
    return d


@given(st.integers(1, 12), st.sampled_from([2.0, 3.0, 4.5, 6.0]))
def test_amps_asked_are_the_sum_of_the_scene(trains: int, label: float) -> None:
    """Half an ampere a train; what the label gives or the trip, whichever is less."""
    d = crowd(trains, label_amps=label, trip_amps=5)
    found = told(d, ASKED, "show")
    assert severities(found) == (["should"] if 0.5 * trains > min(label, 5) else [])
    for f in found:
        assert number(said(f)["asked at worst"]) == pytest.approx(0.5 * trains)
        assert number(said(f)["with one engine stalled"]) == pytest.approx(0.5 * trains + 1.0)
        assert said(f)["trains"] == str(trains) and number(said(f)["gives"]) == min(label, 5)


@pytest.mark.parametrize(
    ("trains", "lets_through", "severity"),
    [(4, 8.0, None), (5, 8.0, "should"), (2, None, None), (3, None, "look"), (1, 2.0, None)],
)
def test_what_fills_up_when_power_returns(trains: int, lets_through: float | None, severity: str | None) -> None:
    """Two amperes each for a moment. Where nobody said what is let through it is the trip of 5 A, and a guess."""
    d = crowd(trains, inrush=2.0, inrush_amps=lets_through, recovery_seconds=3)
    found = told(d, STARTS, "show")
    assert severities(found) == ([severity] if severity else [])
    for f in found:
        assert number(said(f)["for a moment"]) == 2 * trains and "again after 3 s" in f.why


@pytest.mark.parametrize("boosters", [1, 2, 3])
@pytest.mark.parametrize("tied", [0, 1, 3])
def test_every_booster_of_several_shares_the_reference_wire(boosters: int, tied: int) -> None:
    d = plain()
    for n in range(1, boosters):
        booster(d, circuit=f"c{n}", key=f"B{n + 1}")
    for i in list(d.data["devices"])[:tied]:
        d.data["devices"][i]["reference"] = True
    found = told(d, REFERENCE)
    assert len(found) == (max(boosters - tied, 0) if boosters > 1 else 0)
    assert all(f.severity == "look" and falls_silent(d, f) for f in found)
    d.data["brief"]["rules"]["reference_wire"] = False
    assert told(d, REFERENCE) == [], "the house rule says none"


def test_cabs_want_no_reference_wire() -> None:
    assert told(two_blocks(), REFERENCE) == []


@pytest.mark.parametrize(("other_source", "words"), [(True, "fight each other"), (False, "stops both")])
def test_a_run_tied_to_another_circuit(other_source: bool, words: str) -> None:
    """Two districts of one booster, or two boosters, become one at a terminal."""
    d = plain()
    if other_source:
        booster(d, circuit="east", key="B2")
    else:
        under(d)
    d.data["runs"]["R2"] = {**d.data["runs"]["R1"], "label": "R2", "circuit": "east", "fed": {"terminal": "T2"}}
    (f,) = told(d, JOINED)
    assert f.severity == "must" and words in f.why and said(f) == {"one": "East", "other": "Main"}
    d.data["runs"]["R2"]["circuit"] = "main"
    assert told(d, JOINED) == []


# Accessory power

VOLTS, SUPPLY, THROWS = "load volts", "supply asked", "turnouts on the track"
OHMS_18 = 6.385e-3 / 0.3048 * 2 * 10 + 0.03
"""10 m there and back of 18 AWG, 6.385 Ω per 1000 ft (handbook wire table), and 0.03 Ω inside the supply."""


@given(st.floats(0.1, 2.5), st.floats(9, 12))
def test_volts_at_a_load_by_ohms_law(amps: float, least: float) -> None:
    arrives = 12 - amps * OHMS_18
    assume(abs(arrives - least) > 0.005)
    layout = having(bus(), lamp={"name": "Lamp", "terminal": "end", "amps": amps, "least_volts": least})
    found = told(layout, VOLTS)
    assert severities(found) == (["must"] if arrives < least else [])
    for f in found:
        assert number(said(f)["at rest"]) == pytest.approx(arrives, abs=0.06)
        assert said(f)["at the supply"] == "12.0 V" and said(f)["tied at"] == "end"
        assert not f.mends or falls_silent(layout, f)


@pytest.mark.parametrize(("most", "heard"), [(12.0, False), (11.9, True), (5.0, True)])
def test_volts_a_load_does_not_stand(most: float, heard: bool) -> None:
    layout = having(bus(), led={"name": "Light", "terminal": "end", "amps": 0.001, "most_volts": most})
    found = told(layout, VOLTS)
    assert severities(found) == (["must"] if heard else []) and all(f.mends == () for f in found)


def test_what_is_only_too_little_at_work_is_less_urgent_than_at_rest() -> None:
    lamp = {"name": "Motor", "terminal": "end", "amps": 0.1, "working_amps": 3.0, "at_once": 1, "least_volts": 11.5}
    (f,) = told(having(bus(), motor=lamp), VOLTS)
    assert f.severity == "should" and number(said(f)["at work"]) < 11.5 < number(said(f)["at rest"])


@pytest.mark.parametrize(("count", "heard"), [(10, False), (11, True)])
def test_a_supply_is_asked_for_the_sum_of_its_loads(count: int, heard: bool) -> None:
    layout = having(bus(label_amps=5), lamps={"name": "Lamps", "terminal": "half", "amps": 0.5, "count": count})
    found = told(layout, SUPPLY)
    assert severities(found) == (["should"] if heard else [])
    assert all(said(f)["at work"] == said(f)["at rest"] == "5.50 A" for f in found)


@pytest.mark.parametrize(
    ("throws", "circuit", "heard"), [(True, "main", True), (False, "main", False), (True, "acc", False)]
)
def test_what_throws_turnouts_is_not_fed_from_the_track(throws: bool, circuit: str, heard: bool) -> None:
    layout = having(bus(), motors={"name": "Motors", "circuit": circuit, "amps": 0.02, "count": 4, "throws": throws})
    found = told(layout, THROWS)
    assert severities(found) == (["should"] if heard else [])
    for f in found:
        assert mended(layout, f).loads["motors"].circuit == "acc" and falls_silent(layout, f)


# Parts measured by themselves


@pytest.mark.parametrize(("what", "side"), [("contact", "A"), ("plug", "B"), ("joiner", "left")])
def test_a_part_is_worse_than_sound_from_twice_the_worst_sound_one(what: str, side: str) -> None:
    """The worst a sound part of each kind reads stands in the tables of joints; certainty C."""
    d = plain(joiner_every=900)
    d.plug("R1", 500)
    where: dict[str, Any] = (
        {"track": "t", "at": 900} if what == "joiner" else {"of": {"contact": "T2", "plug": "P1"}[what]}
    )
    for ohms, heard in ((2 * MOST_OHMS[what], False), (2.01 * MOST_OHMS[what], True)):
        d.data["measured"]["m"] = {"what": what, "side": side, "ohms": ohms, **where}
        found = told(d, "part worse than sound")
        assert severities(found) == (["look"] if heard else []), (what, ohms)
        assert all(falls_silent(d, f) for f in found)


def test_a_broken_part_tells_how_much_is_dead_for_it() -> None:
    """A joiner broken in one rail, 900 mm from the only feeder's end: what lies beyond has no power."""
    d = plain(joiner_every=900)
    d.data["brief"]["units"] = "metric"
    feeder(d, "F1", "t", 100, "T2")
    d.data["measured"]["m"] = {"what": "joiner", "side": "left", "track": "t", "at": 900, "ohms": None}
    (f,) = told(d, "part broken")
    assert f.severity == "must" and number(said(f)["track without power"]) == pytest.approx(2.1, abs=0.01)
    assert falls_silent(d, f)
    feeder(d, "F2", "t", 2500, "T2")
    (f,) = told(d, "part broken")
    assert "no track is dead for it" in f.why and said(f)["written down"] == "no date"
