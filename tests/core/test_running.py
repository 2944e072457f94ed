"""Trains on small railroads, held against what is worked out by hand. Common practice, no source, where no other is
named."""

from __future__ import annotations

import itertools
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.rehearsal.ground import End, Segment
from jolly_copper.core.rehearsal.run import StandsStill
from jolly_copper.core.rehearsal.trace import Lit, Motion, Opening, Sample, Thrown
from jolly_copper.demo.drafting import Draft
from tests.layouts import feeder, plain
from tests.running import Places, entries, fed_oval, goes, loop_section, overlap, passing, plan, powered, run, stock
from tests.signalled import line


def test_a_run_takes_as_long_as_its_length_its_speed_and_its_braking_say() -> None:
    """t = d/v + v/b where it reaches v: half of v/b to start, half to stop."""
    d = stock(plain(8000), "one", length=300)
    feeder(d, "F1", "t", 4000, "T1")
    lines, found = run(d, plan(goes("one", "t", 1000, {"track": "t", "at": 7000})))
    pace = found.evening.trains["one"].stock.pace
    came = entries(lines, "arrives")[0]
    # Without a signal it starts at the speed of a turnout, 40 km/h to scale.
    v = pace.line * 40 / 60
    assert came.t == pytest.approx(6000 / v + v / pace.brakes, abs=0.01)


def test_volts_and_amps_are_those_of_ohms_law() -> None:
    d = stock(plain(6000), "one", length=300, lit=0)
    feeder(d, "F1", "t", 100, "T1")
    lines, found = run(d, plan(goes("one", "t", 5000, {"track": "t", "at": 5500}), minutes=1))
    facts = found.evening.facts
    at_one = next(x for x in lines if isinstance(x, Sample) and x.t == 1)
    engine = found.evening.trains["one"].stock.engines[0]
    place = 5000 + Places(lines, {"one": 300.0}).front("one", 1.0)[0] - 300 - engine.middle
    spot = found.evening.copper.spot("t", place)
    assert spot is not None
    z = found.evening.copper.between(spot, spot)
    # The same from the facts by another way: at the nearest sample point.
    near = min(range(len(facts.points)), key=lambda k: abs(float(facts.points.at[k]) - place))
    part = facts.parts[int(facts.part_of[near])]
    k = int(facts.row_in_part[near])
    nearby = float(part.worked.transfer[k, k] + part.worked.rate[k] * part.worked.inductance[k, k])
    assert z == pytest.approx(nearby, rel=0.03)
    assert at_one.amps[0] == pytest.approx(0.5 * 1.3)
    assert at_one.volts[0] == pytest.approx(14.4 - z * 0.65, abs=0.01)


def test_the_amps_of_a_source_are_those_of_its_trains_at_every_second() -> None:
    d = stock(fed_oval(), "one", "two")
    p = plan({"train": "one", "track": "north", "at": 800}, {"train": "two", "track": "south", "at": 800}, minutes=2)
    lines, found = run(d, p)
    for s in (x for x in lines if isinstance(x, Sample)):
        drawn = 0.0
        for key in ("one", "two"):
            v = Places(lines, {key: 300.0}).front(key, s.t)[1]
            engine = found.evening.trains[key].stock.engines[0]
            drawn += engine.idle if v <= 0.02 else engine.running
        assert drawn - 1e-3 <= s.amps[0] <= drawn * 1.3 + 1e-3


def test_two_trains_round_an_oval_never_stand_in_each_other() -> None:
    d = stock(fed_oval(), "one", "two", length=500)
    p = plan({"train": "one", "track": "north", "at": 1500}, {"train": "two", "track": "south", "at": 1500}, minutes=10)
    lines, _ = run(d, p)
    places = Places(lines, {"one": 500.0, "two": 500.0})
    for k in range(600):
        assert overlap(places.body("one", k), places.body("two", k)) < 1
    assert not entries(lines, "knot")
    fronts = {k: [places.front(k, t)[0] for t in (0, 300, 599)] for k in ("one", "two")}
    assert all(b - a > 20_000 for f in fronts.values() for a, b in itertools.pairwise(f)), "both go round and round"


def test_two_trains_pass_where_there_is_a_place_to_pass() -> None:
    d = stock(passing(), "east", "west")
    p = plan(
        goes("east", "west", 1500, {"track": "east", "at": 2500, "via": ["main"]}),
        goes("west", "east", 1500, {"track": "west", "at": 500, "via": ["siding"]}, towards="a"),
        minutes=6,
    )
    lines, _ = run(d, p)
    assert {e.train for e in entries(lines, "arrives")} == {"east", "west"}
    thrown = [x for x in lines if isinstance(x, Thrown)]
    assert {x.node for x in thrown} == {"P1", "P2"}


def test_without_one_they_wait_for_each_other_for_ever_and_it_is_told_at_once() -> None:
    d = stock(passing(), "east", "west")
    p = plan(
        goes("east", "west", 1500, {"track": "east", "at": 2500, "via": ["main"]}),
        goes("west", "east", 1500, {"track": "west", "at": 500, "via": ["main"]}, towards="a"),
        minutes=6,
    )
    lines, _ = run(d, p)
    knots = entries(lines, "knot")
    assert len(knots) == 1 and set(knots[0].others) | {knots[0].train} == {"east", "west"}
    assert "wait for each other for ever" in knots[0].words
    assert knots[0].t < 60
    chain = [knots[0]]
    all_of_them = entries(lines)
    while chain[-1].cause is not None:
        chain.append(all_of_them[chain[-1].cause])
    assert any(e.kind == "waits" for e in chain)


def test_a_reverser_turns_over_once_as_a_train_comes_in_and_once_as_it_leaves() -> None:
    d = stock(loop_section(), "one", length=400)
    lines, found = run(d, plan(goes("one", "t", 2000, {"track": "t", "at": 7500}), minutes=4))
    assert [e.kind for e in entries(lines, "turned over", "in vain", "opens")] == ["turned over"] * 2
    turned, back = entries(lines, "turned over")
    assert back.at == pytest.approx(4500, abs=2)
    assert turned.device == "V1" and turned.track == "t" and turned.at == pytest.approx(3000, abs=2)
    # The first wheel meets the gap; the reverser acts its time later.
    places = Places(lines, {"one": 400.0})
    assert places.front("one", turned.t - 0.01)[0] + 1600 == pytest.approx(3000 - 1.5, abs=2)
    assert not any(isinstance(x, Motion) and x.phases[0].v > 0 and x.phases[0].a < -500 for x in lines)
    assert found.evening.flips["V1"] == [turned.t, back.t]


def test_a_section_shorter_than_the_train_turns_over_in_vain_until_the_breaker_opens() -> None:
    d = stock(loop_section(gap_apart=300), "one", length=900, lit=8)
    d.data["devices"]["B1"] |= {"trip_amps": 3, "trip_seconds": 0.05}
    lines, found = run(d, plan(goes("one", "t", 2000, {"track": "t", "at": 7500}), minutes=2, person_after=20))
    kinds = [e.kind for e in entries(lines)]
    assert "in vain" in kinds and "opens" in kinds and "dark" in kinds
    assert kinds.index("in vain") < kinds.index("opens")
    assert found.evening.chatter["V1"] >= 1


@pytest.mark.parametrize(("sees", "acts"), [(1.0, True), (90.0, False)])
def test_a_reverser_set_above_the_short_never_turns(sees: float, acts: bool) -> None:
    d = stock(loop_section(trip_amps=sees), "one", length=400)
    d.data["devices"]["B1"] |= {"trip_amps": 5, "trip_seconds": 0.005 if not acts else 0.25, "limit_amps": 8}
    lines, _ = run(d, plan(goes("one", "t", 2000, {"track": "t", "at": 7500}), minutes=2))
    assert bool(entries(lines, "turned over")) is acts
    assert bool(entries(lines, "opens")) is not acts


def districts(d: Draft) -> Draft:
    """The straight in two districts, each behind a breaker of its own."""
    for key in ("one", "two"):
        d.data["circuits"][key] = {"name": f"District {key}"}
        d.data["devices"][f"K{key}"] = {
            "kind": "breaker",
            "name": f"Breaker {key}",
            "at": {"x": 0, "y": 500},
            "input": "main",
            "output": key,
            "trip_amps": 3,
            "trip_seconds": 0.03,
            "recovery_seconds": 5,
        }
        d.bus(f"R{key}", key, "14 AWG", [(0, 500), (500, 500)], fed={"device": f"K{key}"}, first=100, every=300)
    return d


def two_districts() -> Draft:
    from tests.track_plans import power, tie

    d = districts(power(Draft("Districts")))
    d.node("W", 0, 0, "bumper")
    d.node("E", 8000, 0, "bumper")
    d.track("t", "Line", "W.1", "E.1", joiner_every=None)
    d.gap("t", 4000)
    tie(d, "F1", "t", 1000, "one")
    tie(d, "F2", "t", 7000, "two")
    return d


def test_a_screw_darkens_its_own_district_alone_and_power_returns_when_it_is_gone() -> None:
    d = stock(two_districts(), "left", "right")
    p = plan(
        goes("left", "t", 1500, {"track": "t", "at": 3000}),
        goes("right", "t", 6000, {"track": "t", "at": 7500}),
        minutes=3,
        faults=[{"kind": "tool on the rail", "seconds": 5, "track": "t", "at": 2500, "lasts": 12}],
    )
    lines, found = run(d, p)
    opens = entries(lines, "opens")
    assert {e.device for e in opens} == {"Kone"} and opens[0].t == pytest.approx(5.03, abs=1e-3)
    assert {e.train for e in entries(lines, "dark")} == {"left"}
    # It tries every five seconds: the first that is past the mend holds.
    closes = entries(lines, "closes")[0]
    assert closes.t == pytest.approx(5.03 + 15 + 2 * 0.03, abs=0.1) and "try 3" in closes.words
    assert {e.train for e in entries(lines, "arrives")} == {"left", "right"}
    assert found.evening.trains["left"].stood_dark == pytest.approx(15, abs=0.2)
    root = entries(lines)[opens[0].cause or 0]
    assert root.kind == "fault"


def test_a_train_across_the_gap_takes_the_other_district_along() -> None:
    d = stock(two_districts(), "across", length=900, lit=8)
    p = plan(
        {"train": "across", "track": "t", "at": 4400, "by": "parked"},
        minutes=1,
        faults=[{"kind": "tool on the rail", "seconds": 5, "track": "t", "at": 2500, "lasts": 60}],
    )
    lines, _ = run(d, p)
    assert {e.device for e in entries(lines, "opens")} == {"Kone", "Ktwo"}


def test_a_short_that_nothing_opens_on_is_told_and_dims_its_circuit() -> None:
    d = stock(plain(6000, "24 AWG"), "one")
    feeder(d, "F1", "t", 100, "T2", "24 AWG")
    d.data["devices"]["B1"] |= {"trip_amps": 60, "limit_amps": 90}
    p = plan(
        {"train": "one", "track": "t", "at": 3000, "by": "parked"},
        minutes=1,
        faults=[{"kind": "tool on the rail", "seconds": 5, "track": "t", "at": 5900, "lasts": 20}],
    )
    lines, found = run(d, p)
    told = entries(lines, "short not seen")
    assert len(told) == 1 and "nothing opens" in told[0].words and told[0].cause is not None
    dark = entries(lines, "dark")
    assert dark and dark[0].t == pytest.approx(5, abs=1.1)
    assert found.evening.trains["one"].powered  # the tool was taken away


def test_a_detector_lights_with_the_train_and_goes_out_behind_it() -> None:
    d = stock(powered(line(4)), "one", length=500)
    lines, found = run(d, plan(goes("one", "t", 1000, {"track": "t", "at": 7500}), minutes=3))
    sensed = {s.number: s.name for s in found.evening.ground.known.sensed}
    lit = [(sensed[x.extent], x.on) for x in lines if isinstance(x, Lit)]
    assert lit == [("B1", True), ("B0", False), ("B2", True), ("B1", False), ("B3", True), ("B2", False)]
    opening = lines[0]
    assert isinstance(opening, Opening) and [sensed[n] for n in opening.lit] == ["B0"]


def test_a_tail_that_nobody_sees_stops_the_next_by_sight() -> None:
    d = stock(powered(line(4)), "first", "second", length=1500, lit=0)
    p = plan(
        goes("first", "t", 3900, {"track": "t", "at": 5300}),
        goes("second", "t", 1900, {"track": "t", "at": 3950}, leaves=60),
        minutes=4,
    )
    lines, found = run(d, p)
    unseen = entries(lines, "unseen train")
    assert unseen and unseen[0].train == "second" and "First" in unseen[0].words
    places = Places(lines, {"first": 1500.0, "second": 1500.0})
    assert all(overlap(places.body("first", k), places.body("second", k)) < 1 for k in range(240))
    assert found.evening.unseen_pairs


def test_resistor_axles_make_the_same_evening_safe() -> None:
    d = stock(powered(line(4)), "first", "second", length=1500, lit=0)
    for t in d.data["trains"].values():
        t["resistor_axles"] = 20
    p = plan(
        goes("first", "t", 3900, {"track": "t", "at": 5300}),
        goes("second", "t", 1900, {"track": "t", "at": 3950}, leaves=60),
        minutes=4,
    )
    assert not entries(run(d, p)[0], "unseen train")


def test_a_train_turns_at_the_end_and_comes_back_over_the_same_rails() -> None:
    d = stock(plain(6000), "one", length=400)
    feeder(d, "F1", "t", 100, "T1")
    p = plan(
        goes(
            "one",
            "t",
            1000,
            {"track": "t", "at": 5500, "then": "turn", "dwell": 5},
            {"track": "t", "at": 600, "then": "turn"},
        ),
        minutes=5,
        round=200,
    )
    lines, found = run(d, p)
    places = Places(lines, {"one": 400.0})
    came = entries(lines, "arrives")
    assert len(came) >= 3
    for e in came[:3]:
        body = places.body("one", e.t)
        # Its front is at the call, the rest of it behind, on either hand.
        assert sum(b - a for _, a, b in body) == pytest.approx(400, abs=0.5)
    assert places.body("one", came[0].t)[0][2] == pytest.approx(5500, abs=1)
    assert places.body("one", came[1].t)[0][1] == pytest.approx(600, abs=1)
    assert found.evening.trains["one"].rounds >= 1


def test_the_same_plan_and_seed_give_the_same_lines(demo: Layout) -> None:
    p = plan(
        *({"train": t, "track": "down-south-west", "at": at} for t, at in (("local", 900), ("uplands", 4000))),
        minutes=6,
    )
    one, other = run(demo, p)[0], run(demo, p)[0]
    assert one == other
    assert run(demo, p, seed=99)[0] != one


def test_time_that_stands_still_ends_in_an_error_with_its_name(monkeypatch: pytest.MonkeyPatch) -> None:
    from jolly_copper.core.rehearsal import run as module

    d = stock(plain(6000), "one")
    feeder(d, "F1", "t", 100, "T1")

    def again(evening: Any, kind: str, who: str, version: int) -> None:
        evening.at(evening.t, "sample", who)

    monkeypatch.setattr(module, "_due", again)
    with pytest.raises(StandsStill, match=r"Time stands still at 0\.000 s"):
        run(d, plan(goes("one", "t", 1000, {"track": "t", "at": 2000})))


@given(st.floats(0, 5000), st.floats(0, 3000), st.sampled_from(["a", "b"]), st.floats(0, 900))
def test_a_place_of_a_way_and_how_far_along_it_is_undo_each_other(s: float, at: float, towards: End, on: float) -> None:
    segment = Segment(s, 900.0, "t", at, towards, 0, None, None)
    assert segment.along(segment.place(s + on).at) == pytest.approx(s + on, abs=1e-6)


def test_lines_come_in_the_order_of_time(demo: Layout) -> None:
    p = plan({"train": "local", "track": "down-south-west", "at": 900}, minutes=5)
    times = [x.t for x in run(demo, p)[0] if not isinstance(x, Opening)]
    assert all(b >= a - 1e-9 for a, b in itertools.pairwise(times))
