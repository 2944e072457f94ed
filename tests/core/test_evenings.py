"""Whole evenings: the demo's story, plans from scenes on every demo, many evenings by chance, and what they come to."""

from __future__ import annotations

import random
from typing import Any

import pytest

from jolly_copper import demo
from jolly_copper.core.circuits.facts import Facts, derive
from jolly_copper.core.circuits.loads import train_amps
from jolly_copper.core.layout.document import REVERSERS, Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.layout.plans import RunningPlan
from jolly_copper.core.quantities import print_length
from jolly_copper.core.rehearsal.checks import problems
from jolly_copper.core.rehearsal.evenings import chance, evenings, weaknesses
from jolly_copper.core.rehearsal.make_plan import plan_from_scene
from jolly_copper.core.rehearsal.run import Rehearsal, rehearse
from jolly_copper.core.rehearsal.smallest import smallest_test_track
from jolly_copper.core.rehearsal.stock import stock_of
from jolly_copper.core.rehearsal.trace import Line
from jolly_copper.core.rehearsal.verdict import Sentence, verdict
from jolly_copper.core.rehearsal.words import clock
from jolly_copper.core.signals.aspects import signalling_of
from tests.layouts import feeder, plain
from tests.running import Places, entries, goes, overlap, plan, run, stock


@pytest.fixture(scope="module")
def bay() -> Layout:
    return demo.signalled_bay()


@pytest.fixture(scope="module")
def facts(bay: Layout) -> Facts:
    return derive(bay, "open-day")


@pytest.fixture(scope="module")
def open_day(bay: Layout, facts: Facts) -> tuple[list[Line], Rehearsal, list[Sentence]]:
    found = rehearse(facts.layout, facts, bay.plans["open-day"])
    lines = list(found.lines)
    return lines, found, verdict(found.evening, "open-day")


Day = tuple[list[Line], Rehearsal, list[Sentence]]


def test_the_quarry_breaker_opens_again_on_its_own_trains_and_the_tool_says_what_would_mend_it(
    open_day: Day, bay: Layout
) -> None:
    lines, _, told = open_day
    loops = entries(lines, "restart loop")
    assert [clock(e.t) for e in loops] == ["0:00:00", "1:13:00"]
    assert "5.1 A for 90 ms against 4 A and 50 ms" in loops[1].words
    chain = [loops[1]]
    while chain[-1].cause is not None:
        chain.append(entries(lines)[chain[-1].cause])
    assert chain[-1].words == "A tool lies across the rails of Quarry lead."
    said = next(s for s in told if s.words == loops[1].words or "own trains" in s.words)
    mend = next(m for m in said.mends if m.patch)
    mended = apply_patch(bay, list(mend.patch))
    assert mended.devices["K6"].trip_seconds == pytest.approx(0.11)
    again = derive(mended, "open-day")
    short = mended.plans["open-day"].model_copy(update={"minutes": 76.0, "faults": mended.plans["open-day"].faults[:1]})
    assert not entries(list(rehearse(again.layout, again, short).lines), "restart loop")


def test_two_trains_face_each_other_and_a_rule_is_proved_to_keep_them_apart(open_day: Day) -> None:
    lines, found, told = open_day
    knots = entries(lines, "knot")
    assert len(knots) == 1 and clock(knots[0].t).startswith("2:41")
    assert {knots[0].train, *knots[0].others} == {"works", "uplands"}
    chain = [knots[0]]
    while chain[-1].cause is not None:
        chain.append(entries(lines)[chain[-1].cause])
    assert "derails" in chain[-1].words
    worst = told[0]
    assert worst.words == knots[0].words and worst.grade == "bad"
    assert {p["value"] for m in worst.mends for p in m.patch} == {"direction", "safe moves"}
    assert found.evening.seen_knots


def test_what_one_fault_stops_is_counted(open_day: Day) -> None:
    _, _, told = open_day
    tool = next(s for s in told if s.words.startswith("A tool lies"))
    assert "Breaker Quarry branch opened" in tool.words and "dark" in tool.words and "ran on" in tool.words


def test_no_train_of_the_open_day_runs_through_another(open_day: Day) -> None:
    lines, found, _ = open_day
    lengths = {k: x.stock.length for k, x in found.evening.trains.items()}
    places = Places(lines, lengths)
    for t in range(0, 10_800, 37):
        bodies = {k: places.body(k, t) for k in lengths}
        for one in bodies:
            for other in bodies:
                if one < other:
                    assert overlap(bodies[one], bodies[other]) < 1, (t, one, other)


def test_the_exhibition_round_is_proved_and_always_shows_a_train(bay: Layout, facts: Facts) -> None:
    found = rehearse(facts.layout, facts, bay.plans["round"])
    lines = list(found.lines)
    told = verdict(found.evening, "round")
    assert not entries(lines, "knot", "opens")
    assert any("whatever the delays" in s.words and s.grade == "good" for s in told)
    assert found.evening.out_of_sight[0] <= 40
    assert any(s.words == "Nothing tripped in 60 min." for s in told)


@pytest.mark.parametrize(
    "name",
    ["gannet_bay", "signalled_bay", "millbeck", "millbeck_unblocked", "tinplate_lane", "undivided_bay", "unwired_bay"],
)
def test_every_scene_of_every_demo_makes_a_plan_that_can_be_run(name: str) -> None:
    layout: Layout = getattr(demo, name)()
    for scene in layout.scenes:
        known = derive(layout, scene)
        made, homeless = plan_from_scene(known.layout, known, scene)
        assert made.trains or homeless or not layout.scenes[scene].placements
        if not made.trains:
            continue
        assert not problems(known.layout, known, made)
        found = rehearse(known.layout, known, made.model_copy(update={"minutes": 3.0}))
        lines = list(found.lines)
        lengths = {k: x.stock.length for k, x in found.evening.trains.items()}
        places = Places(lines, lengths)
        for t in (0, 60, 120, 180):
            bodies = [places.body(k, t) for k in lengths]
            assert all(overlap(a, b) < 1 for n, a in enumerate(bodies) for b in bodies[:n])
        assert verdict(found.evening, "x")


@pytest.mark.parametrize("seed", range(8))
def test_random_evenings_with_random_faults_run_to_their_end(bay: Layout, facts: Facts, seed: int) -> None:
    made, _ = plan_from_scene(facts.layout, facts, "open-day")
    rng = random.Random(seed)
    p = chance(bay, made.model_copy(update={"minutes": 60.0}), seed).model_copy(update={"minutes": 15.0})
    p = p.model_copy(update={"faults": [f.model_copy(update={"seconds": rng.uniform(0, 800)}) for f in p.faults]})
    rule = rng.choice(["signals alone", "direction"])
    found = rehearse(facts.layout, facts, p.model_copy(update={"single_lines": rule}), seed, quiet=rng.random() < 0.5)
    lines = list(found.lines)
    assert entries(lines, "ends")
    lengths = {k: x.stock.length for k, x in found.evening.trains.items()}
    places = Places(lines, lengths)
    for t in range(0, 900, 53):
        bodies = [places.body(k, t) for k in lengths]
        assert all(overlap(a, b) < 1 for n, a in enumerate(bodies) for b in bodies[:n])
    for s in verdict(found.evening, "x"):
        assert s.words and not s.words[0].islower() and s.grade in ("bad", "look", "good")


def test_evenings_by_chance_are_the_same_by_seed_and_kept_as_they_come(bay: Layout, facts: Facts) -> None:
    p = bay.plans["round"].model_copy(update={"minutes": 12.0})
    rates = chance(bay, bay.plans["open-day"].model_copy(update={"faults": []}), 3).faults
    assert rates == chance(bay, bay.plans["open-day"].model_copy(update={"faults": []}), 3).faults
    assert rates != chance(bay, bay.plans["open-day"].model_copy(update={"faults": []}), 4).faults
    one = list(evenings(facts.layout, facts, p, 4))
    assert one == list(evenings(facts.layout, facts, p, 4))
    some = evenings(facts.layout, facts, p, 100)
    assert [next(some).seed, next(some).seed] == [1, 2]
    found = weaknesses(one)
    assert all(0 <= w.between[0] <= w.evenings / 4 <= w.between[1] <= 1 for w in found)
    assert weaknesses([]) == []


def test_how_often_faults_come_is_as_the_table_says(bay: Layout) -> None:
    p = bay.plans["open-day"].model_copy(update={"faults": []})
    counts = [sum(f.kind == "derailment" for f in chance(bay, p, s).faults) for s in range(300)]
    assert sum(counts) / 300 == pytest.approx(0.5 * 3, rel=0.15)


def test_a_train_draws_together_what_the_budget_reckons_for_it(bay: Layout) -> None:
    for i, train in bay.trains.items():
        assert stock_of(bay, i).running == pytest.approx(train_amps(bay, train))


def test_the_smallest_test_track_has_one_of_every_kind_and_stands_for_all(bay: Layout, facts: Facts) -> None:
    trials = smallest_test_track(facts)
    turnouts = [t for t in trials if "turnout" in t.what]
    assert sum(t.stands_for for t in turnouts) == sum(n.kind == "turnout" for n in bay.nodes.values())
    heads = [t for t in trials if "aspects" in t.what]
    assert sum(t.stands_for for t in heads) == len(bay.signals)
    sensed = sum(s.board is not None for s in signalling_of(facts).sensed)
    assert sum(t.stands_for for t in trials if "detection by" in t.what) == sensed
    (turner,) = [t for t in trials if "with its section" in t.what]
    lengths = [
        sum(p.end - p.start for p in extent)
        for circuit, extent in zip(facts.meant, facts.rails.extents, strict=True)
        if circuit is not None and any(bay.devices[d].kind in REVERSERS for d in facts.tree.upstream(circuit))
    ]
    assert any(print_length(min(lengths), bay.brief.units) in b for b in turner.build)
    assert all(t.build and t.prove and t.tracks for t in trials)
    assert smallest_test_track(derive(Layout(name="Empty"))) == []


def test_a_round_shorter_than_its_calls_makes_a_train_late_and_says_so() -> None:
    d = stock(plain(8000), "one", length=400)
    feeder(d, "F1", "t", 100, "T1")
    p = plan(
        goes(
            "one",
            "t",
            1000,
            {"track": "t", "at": 7500, "then": "turn", "leaves": 40},
            {"track": "t", "at": 500, "then": "turn", "leaves": 80},
        ),
        minutes=30,
        round=80,
    )
    _, found = run(d, p)
    assert found.evening.trains["one"].late_rounds > 1
    late = [s for s in verdict(found.evening, "x") if "left late" in s.words]
    assert late and late[0].mends[0].step == "rehearse"


def test_a_plan_of_an_older_railroad_says_what_is_gone(bay: Layout) -> None:
    tracks = {i: t for i, t in bay.tracks.items() if i != "wye-tail"}
    cut = bay.model_copy(
        update={"tracks": tracks, "gaps": {i: g for i, g in bay.gaps.items() if g.track != "wye-tail"}}
    )
    plain_data: dict[str, Any] = {"tracks": cut.tracks}
    assert "wye-tail" not in plain_data["tracks"]
    known = derive(bay, "open-day")
    gone: RunningPlan = bay.plans["open-day"]
    works = gone.trains["works"].model_copy(update={"track": "gone"})
    wrong = problems(bay, known, gone.model_copy(update={"trains": {"works": works}}))
    assert wrong == [("/trains/works/track", "Works train begins on track gone, which is gone.")]


def test_times_are_told_as_people_say_them() -> None:
    assert clock(0) == "0:00:00" and clock(4325.9) == "1:12:05"
