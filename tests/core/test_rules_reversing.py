"""Rules about reversing sections on both sides of where they begin to speak: lengths measured by hand along the track.

What a reverser can and cannot do is common practice, no source.
"""

from __future__ import annotations

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from jolly_copper.demo.drafting import Draft
from tests import track_plans
from tests.core.test_sections_true import terminal
from tests.core.test_track_findings import loop_on_a_reverser
from tests.judged import falls_silent, mended, number, said, severities, told
from tests.layouts import booster
from tests.long import either
from tests.track_plans import power, tie

BACK, SHORT, BETWEEN, TOUCH, SWAPPED, BY_HAND, FIGHTS = (
    "train comes back on itself",
    "reversing section too short",
    "plain track between reversers too short",
    "reversing sections touch",
    "feeder swapped",
    "section turned over by hand",
    "feeder fights a reverser",
)


def train(d: Draft, length: float, name: str = "x", **more: object) -> Draft:
    d.data["locos"]["k"] = {"name": "Kind", "idle": 0.1, "running": 0.3, "stall": 1}
    d.data["trains"][name] = {"name": f"Train {name}", "engines": ["k"], "length": length, **more}
    return d


# Where trains come back on themselves


@pytest.mark.parametrize(
    ("plan", "kinds"),
    [
        (track_plans.oval, 0),
        (track_plans.figure_eight, 0),
        (track_plans.balloon, 1),
        (track_plans.dogbone, 2),
        (track_plans.wye, 1),
        (track_plans.turntable_loop, 1),
    ],
)
def test_how_often_a_plan_comes_back_on_itself(plan: object, kinds: int) -> None:
    """Textbook figures: rings and eights never do, a loop and a wye once, a dogbone at either end."""
    d = power(plan())  # type: ignore[operator]
    found = told(d, BACK)
    assert len(found) == kinds and set(severities(found)) <= {"must"}
    for f in found:
        assert "without a reversing section" in f.title and number(said(f)["way round"]) > 0


@pytest.mark.parametrize("gaps", [0, 1, 2])
def test_gaps_alone_do_not_make_a_section(gaps: int) -> None:
    d = power(track_plans.balloon())
    for at in (100, 2000)[:gaps]:
        d.gap("loop", at)
    tie(d, "F1", "lead", 500)
    assert len(told(d, BACK)) == 1


# How long a section is


@given(st.integers(500, 4000), st.integers(60, 400), st.integers(2400, 3000))
def test_a_section_holds_the_longest_train_between_its_gaps(length: int, first: int, last: int) -> None:
    assume(abs(length - (last - first)) > 1)
    d = loop_on_a_reverser((("loop", first, "both"), ("loop", last, "both")))
    d.data["brief"] = {"units": "metric"}
    d.data["trains"]["long"]["length"] = length
    found = told(d, SHORT)
    assert severities(found) == (["must"] if length > last - first else [])
    for f in found:
        room = said(f)["between the gaps"]
        assert number(room) * (1 if "mm" in room else 1000) == pytest.approx(last - first, abs=6)
        assert "Long train" in f.title and "too long" in f.title


@pytest.mark.parametrize(
    ("change", "heard"),
    [({}, True), ({"metal_wheels": False}, False), ({"length": 2899}, False), ({"length": 2901}, True)],
)
def test_only_metal_wheels_stand_on_both_gaps(change: dict[str, object], heard: bool) -> None:
    d = loop_on_a_reverser()
    d.data["trains"]["long"] |= {"length": 3200, **change}
    assert bool(told(d, SHORT)) is heard


@pytest.mark.parametrize(("longest", "heard"), [(None, True), (2900, False), (2950, True)])
def test_a_section_may_keep_long_trains_out(longest: float | None, heard: bool) -> None:
    d = loop_on_a_reverser()
    d.data["trains"]["long"]["length"] = 3200
    d.section("s", "Loop", "loop", 1500, "turned")
    d.data["sections"]["s"]["longest"] = longest
    assert bool(told(d, SHORT)) is heard


def test_without_trains_the_house_says_how_long_one_is() -> None:
    d = loop_on_a_reverser()
    d.data["trains"].clear()
    d.data["brief"] = {"rules": {"longest_train": 2899}}
    assert told(d, SHORT) == []
    d.data["brief"] = {"rules": {"longest_train": 2905}}
    assert severities(told(d, SHORT)) == ["must"]


# Plain track between two sections


def between(plain: float, longest: float, one: str = "one", other: str = "two") -> Draft:
    """A line: a reverser's section, so much plain track, a reverser's section."""
    d = train(power(Draft("Line"), "one", "two"), longest)
    d.node("A", 0, 0, "bumper")
    d.node("B", 12_000, 0, "bumper")
    d.track("t", "Line", "A.1", "B.1")
    for at in (4000, 4000 + plain):
        d.gap("t", at)
    tie(d, "F1", "t", 1000, one)
    tie(d, "F2", "t", 4000 + plain / 2)
    tie(d, "F3", "t", 11_000, other)
    return d


@given(st.integers(300, 4000), st.integers(300, 4000))
def test_plain_track_between_two_reversers_holds_the_longest_train(plain: int, longest: int) -> None:
    assume(abs(plain - longest) > 1)
    found = told(between(plain, longest), BETWEEN)
    assert severities(found) == (["look"] if longest > plain else [])
    for f in found:
        assert "two reversers" in f.title and "Train x" in f.title


@pytest.mark.parametrize("kind", ["reverser", "reversing switch"])
def test_two_switches_thrown_by_hand_answer_nothing_by_themselves(kind: str) -> None:
    d = between(600, 1500)
    for device in d.data["devices"].values():
        if device["kind"] == "reverser":
            device["kind"] = kind
    assert bool(told(d, BETWEEN)) is (kind == "reverser")


# Sections that touch


@pytest.mark.parametrize(
    ("lower", "upper", "severity"),
    [(0.01, 0.03, None), (0.03, 0.03, "look"), (0.05, 0.03, "look"), (None, 0.03, "look"), (0.01, None, "look")],
)
def test_one_reverser_behind_another_turns_first(
    lower: float | None, upper: float | None, severity: str | None
) -> None:
    assert severities(told(terminal(lower, upper), TOUCH)) == ([severity] if severity else [])


@pytest.mark.parametrize(("kind", "heard"), [("reverser", True), ("reversing switch", False)])
def test_two_sections_at_one_gap(kind: str, heard: bool) -> None:
    """Both may turn at once; switches thrown by hand turn when somebody turns them."""
    d = power(track_plans.balloon(6000), "turned", "other")
    for at in (100, 1800, 3500):
        d.gap("loop", at)
    tie(d, "F1", "lead", 500)
    tie(d, "F2", "loop", 900, "turned")
    tie(d, "F3", "loop", 2500, "other")
    for device in d.data["devices"].values():
        if device["kind"] == "reverser":
            device["kind"] = kind
    found = told(d, TOUCH)
    assert severities(found) == (["must"] if heard else [])
    assert all(said(f) == {"reversers at this gap": "2"} and f.place.id == "G2" for f in found)


# Feeders the wrong way round, or on the wrong wire


@given(st.sets(st.integers(0, 6), max_size=3), st.integers(5, 7))
def test_the_few_that_differ_are_named(swapped: set[int], count: int) -> None:
    """Of five to seven feeders on one pair of rails up to three are crossed: the fewer are wrong."""
    wrong = {k for k in swapped if k < count}
    assume(2 * len(wrong) < count)
    d = power(track_plans.oval())
    for k in range(count):
        tie(d, f"F{k}", "north", 200 + 250 * k, a_rail="right" if k in wrong else "left")
    found = told(d, SWAPPED)
    assert {f.place.id for f in found} == {f"F{k}" for k in wrong} and set(severities(found)) <= {"must"}
    layout = d.plain()
    for f in found:
        assert said(f) == {"feeders that agree": str(count - len(wrong)), "this way round": str(len(wrong))}
        layout = mended(layout, f)
    assert told(layout, SWAPPED) == []


def test_a_plain_feeder_inside_a_section_fights_its_reverser() -> None:
    d = loop_on_a_reverser()
    d.section("s", "Loop", "loop", 1500, "turned")
    tie(d, "F9", "loop", 2600)
    found = told(d, FIGHTS)
    assert [f.place.id for f in found] == ["F9"] and severities(found) == ["must"]
    f = found[0]
    assert said(f) == {"tied to": "Main", "section's circuit": "Turned"} and falls_silent(d, f)
    assert mended(d, f).feeders["F9"].terminal in ("T3", "T4", "T5")
    assert told(d, "feeder on another circuit") == [], "told once"


def test_a_feeder_on_another_district_is_no_fight_but_as_wrong() -> None:
    d = power(track_plans.oval())
    booster(d, circuit="two", key="B2")
    d.bus("R9", "two", "14 AWG", [(0, 900), (2000, 900)], fed={"device": "B2"})
    for track in ("north", "south"):
        d.gap(track, 1000)
    d.section("s1", "West", "north", 400, "main")
    d.section("s2", "East", "north", 2000, "two")
    tie(d, "F1", "north", 400)
    tie(d, "F2", "north", 2000, "main")
    (f,) = told(d, "feeder on another circuit")
    assert f.severity == "must" and "no longer opens its own district" in f.why and told(d, FIGHTS) == []
    assert falls_silent(d, f)


# Thrown by hand


@pytest.mark.parametrize(
    ("kind", "gives", "heard"),
    [("reversing switch", "dcc", True), ("reverser", "dcc", False), ("reversing switch", "dc", False)],
)
def test_a_digital_section_thrown_by_hand_is_worth_a_sign(kind: str, gives: str, heard: bool) -> None:
    d = loop_on_a_reverser()
    d.data["brief"] = {"units": "metric"}
    d.data["devices"]["B1"]["gives"] = gives
    d.data["devices"]["V1"]["kind"] = kind
    d.section("s", "Loop", "loop", 1500, "turned")
    found = told(d, BY_HAND)
    assert severities(found) == (["look"] if heard else [])
    for f in found:
        assert "2.90 m of section" in f.title and mended(d, f).devices["V1"].kind == "reverser" and falls_silent(d, f)


# Bridges


@pytest.mark.parametrize("bridge", ["split ring", "reverser", "aligned stub"])
def test_only_a_bridge_fed_by_its_stub_joins_two(bridge: str) -> None:
    d = power(Draft("Shed"))
    d.node("TT", 2000, 0, "turntable", diameter=300, bridge=bridge)
    for k, x in enumerate((0, 4000), start=1):
        d.node(f"E{k}", x, 0, "bumper")
        d.track(f"s{k}", f"Stub {k}", f"E{k}.1", f"TT.stub{k}")
        tie(d, f"F{k}", f"s{k}", 500)
    found = told(d, "bridge joins two stubs")
    assert bool(found) is (bridge == "aligned stub")
    for f in found:
        assert f.severity == "must" and "is a dead short" in f.title and falls_silent(d, f)
    d.data["feeders"]["F2"]["a_rail"] = "right"
    assert told(d, "bridge joins two stubs") == [], "straight across they agree"


# The same railroad however its loop is drawn


@pytest.mark.parametrize("seed", range(either(4, 40)))
def test_where_a_loop_is_gapped_decides_how_long_its_section_is(seed: int) -> None:
    """Gaps anywhere in the loop: what is told is the way between them that the reverser feeds."""
    first, last = 120 + 17 * seed, 2500 + 13 * seed
    d = loop_on_a_reverser((("loop", first, "both"), ("loop", last, "both")))
    room = last - first
    for length, heard in ((room - 2, False), (room + 2, True)):
        d.data["trains"]["long"]["length"] = length
        assert bool(told(d, SHORT)) is heard
