"""Rules about sources, supplies, cabs and engines, on both sides of where they begin to speak.

Thresholds are common practice, no source, where nothing else is said; sums are worked out again by hand.
"""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from jolly_copper.core.layout.document import Layout
from jolly_copper.demo.drafting import Draft
from tests.core.cab_layouts import selector, source, two_blocks
from tests.judged import falls_silent, mended, number, said, severities, told
from tests.layouts import booster, feeder, plain

FIGURES, NEVER, LABEL, GUESSED, HIGH, FROGS, SUPPLY = (
    "source without figures",
    "never trips",
    "supply below its label",
    "figures guessed",
    "track volts too high",
    "frog unit volts",
    "supply too strong for its box",
)


def with_booster(**figures: Any) -> Draft:
    d = plain()
    d.data["devices"]["B1"] |= figures
    return d


def behind(d: Draft, **supply: Any) -> Draft:
    """A supply behind the booster."""
    d.data["circuits"]["mains"] = {"name": "Supply", "purpose": "accessory"}
    d.data["devices"]["PS"] = {"kind": "supply", "name": "Brick", "at": {"x": 0, "y": 0}, "output": "mains", **supply}
    d.data["devices"]["B1"]["input"] = "mains"
    return d


# What a source gives, trips at and is marked with


@pytest.mark.parametrize("known", ["trip_amps", "limit_amps", "label_amps", "measured_amps"])
def test_any_one_figure_is_enough_to_judge_a_source(known: str) -> None:
    assert severities(told(with_booster(trip_amps=None), FIGURES)) == ["should"]
    assert told(with_booster(**{"trip_amps": None, known: 3}), FIGURES) == []


def test_a_supply_behind_it_says_what_a_booster_does_not() -> None:
    assert told(behind(with_booster(trip_amps=None), label_amps=4), FIGURES) == []
    (f,) = told(behind(with_booster(trip_amps=None)), FIGURES)
    assert f.place.id == "B1", "a supply is judged by its own rules"


@pytest.mark.parametrize(("limit", "heard"), [(4.99, True), (5, False), (8, False), (None, False)])
def test_a_trip_that_is_never_reached(limit: float | None, heard: bool) -> None:
    found = told(with_booster(trip_amps=5, limit_amps=limit), NEVER)
    assert severities(found) == (["must"] if heard else [])
    for f in found:
        assert said(f) == {"trip": "5 A", "the most it gives": "4.99 A"} and f.shows == ("B1",)


@pytest.mark.parametrize(("limit", "heard"), [(2.9, True), (3, False)])
def test_a_breaker_under_a_source_that_is_too_weak_for_it(limit: float, heard: bool) -> None:
    d = with_booster(trip_amps=None, limit_amps=limit)
    d.data["circuits"]["east"] = {"name": "East", "colour_a": "blue", "colour_b": "white"}
    d.data["devices"]["K1"] = {
        "kind": "breaker",
        "name": "Breaker East",
        "at": {"x": 0, "y": 0},
        "input": "main",
        "output": "east",
        "trip_amps": 3,
    }
    found = told(d, NEVER)
    assert [f.place.id for f in found] == (["K1"] if heard else [])
    for f in found:
        assert "but Booster B1 gives no more than 2.9" in f.title and f.shows == ("K1", "B1")


def test_a_limit_nobody_wrote_down_is_no_must() -> None:
    """A booster of 2 A by its label and a trip of 5: what it gives into a short is a guess."""
    assert told(with_booster(trip_amps=5, label_amps=2), NEVER) == []


@given(st.floats(8, 20), st.floats(5, 22))
def test_a_source_within_a_twentieth_of_its_label_is_as_labelled(label: float, measured: float) -> None:
    assume(abs(measured - 0.95 * label) > 1e-6)
    found = told(with_booster(volts=label, measured_volts=measured), LABEL)
    assert severities(found) == (["should"] if measured < 0.95 * label else [])
    for f in found:
        assert f.title.startswith("Booster B1 is marked")
        assert number(said(f)["gives, with nothing drawn"]) == pytest.approx(measured, abs=0.06)


def test_volts_read_with_a_train_on_it_are_reckoned_back() -> None:
    """13.5 V read at 3 A behind 0.1 Ω are 13.8 V with nothing drawn: within a twentieth of 14.4."""
    assert told(with_booster(volts=14.4, measured_volts=13.5), LABEL) != []
    assert told(with_booster(volts=14.4, measured_volts=13.5, measured_at_amps=3, ohms=0.1), LABEL) == []


@pytest.mark.parametrize(("least", "severity"), [(None, "look"), (9.9, "look"), (10.1, "should")])
def test_a_weak_supply_is_urgent_where_a_load_needs_more(least: float | None, severity: str) -> None:
    d = plain()
    d.data["circuits"]["acc"] = {"name": "Accessories", "purpose": "accessory"}
    supply = {"kind": "supply", "name": "Brick", "at": {"x": 0, "y": 0}, "output": "acc", "volts": 12}
    d.data["devices"]["PS"] = {**supply, "measured_volts": 10, "label_amps": 2}
    d.data["loads"]["L1"] = {"kind": "lamp", "name": "Lamp", "circuit": "acc", "amps": 0.05, "least_volts": least}
    (f,) = told(d, LABEL)
    assert f.severity == severity and ("Lamp needs" in f.why) is (severity == "should")


def test_what_is_told_of_the_supply_is_not_told_of_its_booster_again() -> None:
    found = told(behind(with_booster(volts=14.4), volts=14.4, measured_volts=12, label_amps=5), LABEL)
    assert [f.place.id for f in found] == ["PS"]
    found = told(behind(with_booster(volts=14.4), volts=12, label_amps=5), LABEL)
    assert [f.place.id for f in found] == ["B1"] and "since Brick gives no more" in found[0].title


def test_guesses_are_said_to_be_guesses_until_somebody_reads_the_label() -> None:
    d = with_booster(guessed=True, label_amps=5, volts=14.4)
    (f,) = told(d, GUESSED)
    assert f.severity == "look" and said(f) == {"volts": "14.4 V", "label amps": "5 A"} and falls_silent(d, f)
    assert mended(d, f).devices["B1"].volts == 14.4
    assert told(with_booster(guessed=False, label_amps=5), GUESSED) == []


USUAL = {"Z": 10.0, "N": 12.0, "TT": 13.0, "HO": 14.4, "OO": 14.4, "S": 15.0, "O": 16.0, "G": 18.0}
"""Volts of digital track by scale: common practice, no source."""


@pytest.mark.parametrize("scale", USUAL)
def test_more_than_two_volts_over_the_usual_of_the_scale(scale: str) -> None:
    """NMRA S-9.1 lets the track stand up to 2 V more, from memory."""
    for over, heard in ((2.0, False), (2.05, True)):
        d = with_booster(volts=USUAL[scale] + over)
        d.data["brief"] |= {"scale": scale, "track_volts": USUAL[scale]}
        assert severities(told(d, HIGH)) == (["should"] if heard else []), over


@pytest.mark.parametrize(
    ("stands", "runs_on", "severity"),
    [
        (14.4, "digital", None),
        (14.3, "digital", "must"),
        (14.3, None, "must"),
        (14.3, "both", "must"),
        (14.3, "direct current", None),
    ],
)
def test_an_engine_that_stands_less_than_its_own_control_gives(
    stands: float, runs_on: str | None, severity: str | None
) -> None:
    d = with_booster(volts=14.4)
    engine = {"name": "Shunter", "idle": 0.1, "running": 0.3, "stall": 1, "most_volts": stands}
    d.data["locos"]["e"] = {**engine, **({"runs_on": runs_on} if runs_on else {})}
    assert severities(told(d, HIGH)) == ([severity] if severity else [])
    d.data["locos"]["e"] |= {"most_volts": 30}
    d.data["engines"]["n1"] = {"name": "Nr 7", "kind": "e", "most_volts": stands}
    found = told(d, "engine that does not stand the volts")
    assert severities(found) == (["should"] if severity else [])
    for f in found:
        assert said(f) == {"stands": "14.3 V", "gets": "14.4 V"}


@pytest.mark.parametrize(
    ("numbers", "said_of"),
    [([3, 4], []), ([3, 3], ["3"]), ([None, None], []), ([3, 3, 5, 5], ["3", "5"]), ([7, 7, 7, 7], ["7"])],
)
def test_engines_of_one_number(numbers: list[int | None], said_of: list[str]) -> None:
    d = plain()
    d.data["locos"]["e"] = {"name": "Shunter", "idle": 0.1, "running": 0.3, "stall": 1}
    for n, each in enumerate(numbers):
        d.data["engines"][f"e{n}"] = {"name": f"Engine {n}", "kind": "e", "number": each}
    found = told(d, "engines of one number")
    assert [said(f)["number"] for f in found] == said_of and set(severities(found)) <= {"should"}
    assert all(len(f.shows) == numbers.count(int(said(f)["number"])) for f in found), "all of them are shown"


@pytest.mark.parametrize(("volts", "most", "heard"), [(18, 18, False), (18.1, 18, True), (18.1, None, False)])
def test_a_supply_on_the_shelf_may_be_too_strong(volts: float, most: float | None, heard: bool) -> None:
    d = with_booster(supply_most_volts=most)
    d.data["supplies"]["S1"] = {"name": "Brick", "volts": volts, "amps": 5, "serves": "B1"}
    found = told(d, SUPPLY)
    assert severities(found) == (["must"] if heard else [])
    for f in found:
        assert said(f) == {"supply": "18.1 V", "at most": "18.0 V"}
    d.data["supplies"]["S1"]["measured_volts"] = 17
    assert told(d, SUPPLY) == [], "what was measured comes before its label"
    d.data["supplies"]["S1"] |= {"measured_volts": 25, "serves": None}
    assert told(d, SUPPLY) == [], "on the shelf it burns nothing"


@pytest.mark.parametrize(("kind", "gives", "heard"), [("dc", "ac3", True), ("ac", "ac3", False), ("dc", "dcc", False)])
def test_a_transformer_passes_no_direct_current(kind: str, gives: str, heard: bool) -> None:
    d = with_booster(gives=gives)
    d.data["supplies"]["S1"] = {"name": "Brick", "kind": kind, "volts": 16, "amps": 5, "serves": "B1"}
    found = told(d, SUPPLY)
    assert bool(found) is heard and all("is a transformer's output" in f.title for f in found)


def test_an_automatic_frog_unit_wants_its_volts_by_hand() -> None:
    """8 V are asked: a source of 9.4 gives them to the test train, and not to one of 3 A."""
    d = Draft("Frog", brief={"rules": {"drop_below_rail": 0, "wire_celsius": 20}, "track_volts": 9.4})
    booster(d, ohms=0.001)
    d.node("W", 0, 0, "bumper")
    d.turnout("T", 3000, 0, "left", frog="live", contact="automatic")
    d.node("E", 5000, 0, "bumper")
    d.node("N", 5000, -800, "bumper")
    for track, ends in (("a", ("W.1", "T.points")), ("m", ("T.through", "E.1")), ("b", ("T.diverging", "N.1"))):
        d.track(track, track.upper(), *ends, joiner_every=None)
    d.bus("R1", "main", "14 AWG", [(0, 200), (1000, 200)], fed={"device": "B1"}, kind="soldered")
    d.section("s", "All", "a", 10, "main")
    d.feed([("a", 400, "main")])
    assert told(d, FROGS) == [], "nothing draws but the test train of half an ampere"
    d.data["brief"]["rules"]["test_train"] = 3
    (f,) = told(d, FROGS)
    assert f.severity == "should" and number(said(f)["at worst"]) < 8 and said(f)["house rule"] == "8.00 V"
    assert mended(d, f).nodes["T"].contact == "contact" and falls_silent(d, f)
    d.data["brief"]["rules"]["frog_unit_volts"] = 5
    assert told(d, FROGS) == []


# Cabs and selectors

WINDING, POLE, CONTACTS, DEAD, SHORT = (
    "common rail on one winding",
    "selector with one pole",
    "selector's contacts",
    "selector without power",
    "block shorter than a train",
)


@pytest.mark.parametrize(
    ("one", "other", "severity"),
    [
        ("Winding 1", "Winding 2", None),
        ("Winding 1", "Winding 1", "must"),
        ("Winding 1", None, "look"),
        (None, "Winding 2", "look"),
        (None, None, "look"),
    ],
)
@pytest.mark.parametrize("common", [False, True], ids=["both rails", "common rail"])
def test_cabs_that_share_a_rail_want_windings_of_their_own(
    common: bool, one: str | None, other: str | None, severity: str | None
) -> None:
    d = two_blocks(common)
    for cab, winding in (("a", one), ("b", other)):
        d.data["devices"][f"dev-{cab}"]["winding"] = winding
    assert severities(told(d, WINDING)) == ([severity] if severity and common else [])


def test_two_cabs_behind_one_supply_are_on_one_winding() -> None:
    d = two_blocks(common=True)
    d.data["circuits"]["mains"] = {"name": "Brick out", "purpose": "accessory"}
    supply = {"kind": "supply", "name": "Brick", "at": {"x": 0, "y": 0}, "output": "mains", "volts": 16}
    d.data["devices"]["PS"] = {**supply, "label_amps": 3}
    for cab in ("a", "b"):
        d.data["devices"][f"dev-{cab}"]["input"] = "mains"
    (f,) = told(d, WINDING)
    assert f.severity == "must" and "both hang on Brick out" in f.title


@pytest.mark.parametrize("made", ["toggle, one pole", "rotary, one pole", "toggle, two poles", "rotary, two poles"])
@pytest.mark.parametrize("common", [False, True], ids=["both rails", "common rail"])
def test_one_pole_wants_a_common_wire(made: str, common: bool) -> None:
    d = two_blocks(common)
    for key in ("one", "two"):
        d.data["devices"][f"sel-{key}"]["made"] = made
    found = told(d, POLE)
    assert len(found) == (2 if "one" in made and not common else 0)
    for f in found:
        assert f.severity == "must" and said(f)["commons met"] == "2"
        assert mended(d, f).devices[f.place.id].made == made.replace("one pole", "two poles") and falls_silent(d, f)


@pytest.mark.parametrize(
    ("contact", "trips", "heard"),
    [(1.0, (1, 1), False), (0.9, (1, 1), True), (1.5, (1, 2), True), (None, (9, 9), False)],
)
def test_contacts_hold_the_strongest_trip_before_them(
    contact: float | None, trips: tuple[float, float], heard: bool
) -> None:
    d = two_blocks()
    d.data["devices"]["dev-a"]["trip_amps"], d.data["devices"]["dev-b"]["trip_amps"] = trips
    d.data["devices"]["sel-one"]["contact_amps"] = contact
    found = told(d, CONTACTS)
    assert [f.place.id for f in found] == (["sel-one"] if heard else [])
    for f in found:
        assert f.severity == "should" and number(said(f)["trip"]) == max(trips)


@pytest.mark.parametrize(("inputs", "dead"), [(["a", "b"], False), (["spare"], True), (["spare", "a"], False)])
def test_a_selector_that_reaches_no_source(inputs: list[str], dead: bool) -> None:
    d = two_blocks()
    d.data["circuits"]["spare"] = {"name": "Spare", "colour_a": "pink", "colour_b": "grey"}
    d.data["devices"]["sel-one"] |= {"inputs": inputs, "input": None}
    found = told(d, DEAD)
    assert [f.place.id for f in found] == (["sel-one"] if dead else [])


@pytest.mark.parametrize(
    ("length", "use", "heard"),
    [(2000, "main", False), (2001, "main", True), (2001, "branch", True), (2001, "yard", False)],
)
def test_a_block_holds_the_longest_train(length: float, use: str, heard: bool) -> None:
    """Two blocks of 2 m on the line."""
    d = two_blocks()
    d.data["tracks"]["t"]["use"] = use
    d.data["brief"]["units"] = "metric"
    d.data["locos"]["e"] = {"name": "Engine", "idle": 0, "running": 0.3, "stall": 1}
    d.data["trains"]["x"] = {"name": "Express", "engines": ["e"], "length": length}
    d.data["trains"]["y"] = {"name": "Shunt", "engines": ["e"], "length": 300}
    found = told(d, SHORT)
    assert len(found) == (2 if heard else 0)
    assert all(f.severity == "look" and "Express 2.00 m" in f.title for f in found)


def test_a_block_of_one_cab_alone_may_be_short() -> None:
    d = two_blocks()
    d.data["locos"]["e"] = {"name": "Engine", "idle": 0, "running": 0.3, "stall": 1}
    d.data["trains"]["x"] = {"name": "Express", "engines": ["e"], "length": 2500}
    d.data["devices"]["sel-one"]["inputs"] = ["a"]
    assert [f.place.at for f in told(d, SHORT)] == [3000], "only the block that chooses between two"


def test_digital_blocks_are_no_cab_blocks() -> None:
    d = two_blocks()
    for cab in ("a", "b"):
        d.data["devices"][f"dev-{cab}"]["gives"] = "dcc"
    d.data["locos"]["e"] = {"name": "Engine", "idle": 0, "running": 0.3, "stall": 1}
    d.data["trains"]["x"] = {"name": "Express", "engines": ["e"], "length": 2500}
    assert told(d, SHORT) == []


def stacked(levels: int) -> Layout:
    """Selectors that choose from two of the level below, each of which chooses again."""
    d = two_blocks()
    below = ["a", "b"]
    for level in range(levels):
        names = [f"s{level}x{k}" for k in range(2)]
        for name in names:
            selector(d, name, list(below), below[0])
        below = names
    return d.plain()


def test_more_ways_than_are_tried_are_not_settled() -> None:
    """Two ways at each level: what is not tried is said to be not settled, never to be sound."""
    assert told(stacked(2), "too many ways to try") == []
    found = told(stacked(9), "too many ways to try")
    assert found and all(f.severity == "look" and f.title.startswith("Not settled: ") for f in found)
    assert all(number(said(f)["ways tried"]) > 1 for f in found)


# Filters and capacitors


@pytest.mark.parametrize(("watts", "severity"), [(2.0, None), (1.2, "should"), (0.3, "must")])
def test_a_filter_resistor_is_rated_at_twice_its_heat(watts: float, severity: str | None) -> None:
    """At the square wave's 14.4 V a filter of 100 Ω and 0.1 µF gives off 0.7 W (calculated): 1.4 are twice that."""
    d = plain()
    d.data["runs"]["R1"]["filter"] = {"ohms": 100, "farads": 1e-7, "watts": watts}
    found = told(d, "filter resistor too small")
    assert severities(found) == ([severity] if severity else [])
    for f in found:
        assert number(said(f)["heat"]) == pytest.approx(0.7, abs=0.06)
        assert (made := mended(d, f).runs["R1"].filter) is not None and made.watts >= 1.4 and falls_silent(d, f)
    d.data["devices"]["B1"]["gives"] = "dc"
    assert told(d, "filter resistor too small") == [], "nothing switches on direct current"


@pytest.mark.parametrize(("gives", "heard"), [("dcc", True), ("dc", False), ("ac3", False)])
def test_a_power_clip_with_a_capacitor_harms_digital_track_alone(gives: str, heard: bool) -> None:
    d = with_booster(gives=gives)
    feeder(d, "F1", "t", 500, "T2", capacitor=True)
    d.data["locos"]["e"] = {"name": "Old one", "idle": 0, "running": 0.3, "stall": 1, "capacitor": True}
    d.data["trains"]["x"] = {"name": "Train", "engines": ["e"], "length": 300}
    found = told(d, "suppression capacitor on digital track")
    assert severities(found) == (["should", "look"] if heard else [])
    if heard:
        assert not mended(d, found[0]).feeders["F1"].capacitor and falls_silent(d, found[0])
        d.data["locos"]["e"]["runs_on"] = "direct current"
        assert severities(told(d, "suppression capacitor on digital track")) == ["should"]


def test_a_source_of_one_block_is_asked_for_its_own_engines_alone() -> None:
    """One of two cabs gives too much: an engine that may run on either is told of the stronger one, once."""
    d = two_blocks()
    source(d, "c", volts=19)
    d.data["locos"]["e"] = {"name": "Small", "idle": 0, "running": 0.3, "stall": 1, "most_volts": 16}
    found = told(d, HIGH)
    assert [(f.severity, f.place.id) for f in found] == [("must", "dev-c")]
