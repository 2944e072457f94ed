"""Dividing a railroad: where districts may end, what the proposal is, and what the change leaves behind."""

from __future__ import annotations

import itertools
from collections import Counter

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jolly_copper.core.circuits.budget import budget
from jolly_copper.core.circuits.facts import Facts, derive
from jolly_copper.core.circuits.protection import opening_stretches
from jolly_copper.core.circuits.whereabouts import extent_circuits
from jolly_copper.core.drawing.sheet import DrawingError
from jolly_copper.core.findings.check import check
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.proposals.dividing.choose import Wish, divide
from jolly_copper.core.proposals.dividing.make import make_division
from jolly_copper.core.proposals.dividing.stretches import CLEAR_OF_TURNOUT_MM, find_stretches
from jolly_copper.core.rails.pieces import map_rails
from jolly_copper.demo import undivided_bay
from tests.layouts import plain, random_layout


@pytest.fixture(scope="module")
def undivided() -> Facts:
    return derive(undivided_bay(), "open-day")


def made(layout: Layout, wish: Wish | None = None, scene: str | None = "open-day") -> Facts:
    """The layout divided, worked out."""
    facts = derive(layout, scene)
    return derive(apply_patch(layout, make_division(layout, divide(facts, wish), wish)), scene)


# --- where districts may end


@pytest.mark.parametrize("which", ["demo", "undivided", "random 1", "random 4", "random 7"])
def test_stretches_are_all_of_the_track_and_end_at_sensible_places(which: str, demo: Layout) -> None:
    layout = (
        demo if which == "demo" else undivided_bay() if which == "undivided" else random_layout(int(which.split()[1]))
    )
    facts = derive(layout)
    plan = find_stretches(facts.topology)
    covered: Counter[str] = Counter()
    for s in plan.stretches:
        for track, start, end in s.pieces:
            covered[track] += end - start
        assert s.use in s.uses and s.length == pytest.approx(sum(s.uses.values()))
    for track in layout.tracks:
        assert covered[track] == pytest.approx(facts.rails.lengths[track], abs=0.5)
    for e in plan.edges:
        track, length = layout.tracks[e.track], facts.rails.lengths[e.track]
        if e.why == "there already":
            assert e.gaps
            continue
        assert not e.gaps
        assert not facts.topology.is_reversing(facts.topology.zones.at(facts.rails.piece_at(e.track, e.at))), (
            "never in a reversing section"
        )
        for port, away in ((track.a, e.at), (track.b, length - e.at)):
            if layout.nodes[port.node].kind not in ("joint", "bumper") and e.why != "crossover":
                assert away >= CLEAR_OF_TURNOUT_MM - 0.1, "clear of the frog"


# --- the story


def test_the_undivided_demo_becomes_sound_balanced_and_protected(undivided: Facts) -> None:
    before = check(undivided)
    assert any(f.severity == "must" for f in before) and any(f.rule == "amps asked" for f in before)
    after = made(undivided.layout)
    left = check(after)
    assert not [f.title for f in left if f.severity == "must"]
    assert not [
        f.title
        for f in left
        if f.rule
        in (
            "amps asked",
            "coin test",
            "breaker below booster",
            "opens too late",
            "starts after a trip",
            "reference wire",
            "buses joined",
            "piece without feeder",
            "phases meet",
        )
    ]
    assert all(s.opening.right for s in opening_stretches(after)), "every rail trips the breaker nearest to it"
    assert np.isfinite(after.volts).sum() >= np.isfinite(undivided.volts).sum(), "no rail lost its power"


def test_it_takes_two_boosters_and_shares_them_evenly(undivided: Facts) -> None:
    """5.72 A at worst: one of 5 A with a tenth kept free will not do, two will. Shares within a fifth of each other."""
    division = divide(undivided)
    assert len(division.boosters) == 2 and not division.too_much
    one, other = (b.asked for b in division.boosters)
    assert one + other >= 5.7 and abs(one - other) / max(one, other) < 0.2
    after = made(undivided.layout)
    asked = [
        a
        for a in budget(after.layout, after.layout.scenes["open-day"])
        if after.layout.devices[a.device].kind == "booster"
    ]
    assert sorted(a.worst for a in asked) == pytest.approx(sorted((one, other))), "as promised"


def test_each_use_is_a_district_and_the_main_is_in_parts(undivided: Facts) -> None:
    division = divide(undivided)
    uses = Counter(d.use for d in division.districts)
    assert uses == {"main": 2, "yard": 1, "staging": 1, "branch": 1, "engine terminal": 1, "industry": 1}
    mains = [d.length for d in division.districts if d.use == "main"]
    assert max(mains) / min(mains) < 1.1
    for d in division.districts:
        assert d.trip >= d.worst and d.trip <= 0.9 * 5 + 1e-9


@pytest.mark.parametrize("parts", [1, 2, 3, 4])
def test_the_main_is_parted_as_asked(undivided: Facts, parts: int) -> None:
    mains = [d for d in divide(undivided, Wish(main_parts=parts)).districts if d.use == "main"]
    assert len(mains) == parts and len({d.name for d in mains}) == parts
    assert max(d.length for d in mains) < 1.35 * sum(d.length for d in mains) / parts


def test_larger_boosters_are_fewer_and_small_ones_are_said_to_be_too_small(undivided: Facts) -> None:
    assert len([b for b in divide(undivided, Wish(booster_amps=12)).boosters if b.asked > 0]) <= 2
    tight = divide(
        derive(
            apply_patch(
                undivided.layout,
                [{"op": "replace", "path": f"/devices/booster1/{k}", "value": 2} for k in ("label_amps", "trip_amps")],
            ),
            "open-day",
        ),
        Wish(booster_amps=2),
    )
    assert tight.too_much, "trains that roam all of the main ask more than 2 A of either half"


def test_every_stretch_has_one_district_and_its_section_says_so(undivided: Facts) -> None:
    after = made(undivided.layout)
    layout = after.layout
    for circuit, extent in zip(extent_circuits(layout, after.rails), after.rails.extents, strict=True):
        assert circuit is not None or sum(p.end - p.start for p in extent) < 300
    for i, feeder in layout.feeders.items():
        number = after.rails.extent_of[after.rails.piece_at(feeder.track, feeder.at)]
        tied = layout.runs[layout.terminals[feeder.terminal].run].circuit
        assert tied == extent_circuits(layout, after.rails)[number], f"feeder {i} is tied to its own district"
    for device in ("V1", "V2"):
        above = layout.devices[device].input
        assert above is not None and layout.devices[after.tree.fed_by[above]].kind == "breaker"
        assert any(r.ends_at_device == device for r in layout.runs.values()), "a wire goes there"
    assert all(r.circuit in after.tree.fed_by for r in layout.runs.values())


def test_trains_of_scenes_go_where_they_went(demo: Layout) -> None:
    """The open day of the demo, districts redrawn: whoever roamed all of the main still does, under its new names."""
    after = made(demo, Wish(main_parts=3)).layout
    by_train = {p.train: p.circuits for p in after.scenes["open-day"].placements}
    mains = {i for i, c in after.circuits.items() if c.name.startswith("Main")}
    assert len(mains) == 3 and set(by_train["ore"]) == mains
    assert set(by_train["yardgoat"]) == {"yard"} and after.scenes["work-night"].placements[-1].track == "staging-1"


# --- what is there already


def test_a_good_division_is_left_alone(demo: Layout) -> None:
    """Asked to keep, the demo's seven districts stay: no gap, no breaker, no booster more, none moved."""
    facts = derive(demo, "open-day")
    division = divide(facts, Wish(keep=True))
    assert {d.kept for d in division.districts} == {"west", "east", "yard", "quays", "shed", "quarry", "staging"}
    assert not [e for e in division.cuts if not e.gaps]
    after = apply_patch(demo, make_division(demo, division, Wish(keep=True)))
    assert (
        after.gaps == demo.gaps
        and set(after.devices) == set(demo.devices)
        and set(after.circuits) == set(demo.circuits)
    )
    assert {i: d.input for i, d in after.devices.items()} == {i: d.input for i, d in demo.devices.items()}
    assert after.devices["K5"].trip_amps == 2.0, "all but the trip as large as its booster's"


def test_dividing_twice_changes_nothing_the_second_time(undivided: Facts) -> None:
    once = made(undivided.layout)
    again = divide(once, Wish(keep=True))
    assert all(d.kept for d in again.districts) and not [e for e in again.cuts if not e.gaps]
    twice = apply_patch(once.layout, make_division(once.layout, again, Wish(keep=True)))
    assert (
        twice.gaps == once.layout.gaps
        and len(twice.runs) == len(once.layout.runs)
        and len(twice.devices) == len(once.layout.devices)
    )


def test_added_to_a_division_only_what_breaks_a_rule_is_parted(demo: Layout) -> None:
    """With districts of at most 20 m both mains are parted in two; all others stay as they are."""
    tight = apply_patch(demo, [{"op": "add", "path": "/brief/rules/longest_district", "value": 20000}])
    division = divide(derive(tight, "open-day"), Wish(keep=True))
    uses = Counter(d.use for d in division.districts)
    assert uses["main"] == 4 and sum(uses.values()) == 9
    assert {d.kept for d in division.districts} >= {"west", "east", "yard", "quays", "shed", "quarry", "staging"}
    after = derive(apply_patch(tight, make_division(tight, division, Wish(keep=True))), "open-day")
    fresh = [
        d
        for d in after.layout.devices.values()
        if d.kind == "breaker" and d.name.startswith("Breaker Main") and d.output not in ("west", "east")
    ]
    assert len(fresh) == 2 and np.isfinite(after.volts).sum() >= np.isfinite(derive(tight, "open-day").volts).sum()


def test_what_a_detector_senses_stays_whole_and_hangs_under_its_district(undivided: Facts) -> None:
    """The branch behind a detector: no place for a gap in it, and after dividing the detector hangs under the
    branch."""
    layout = apply_patch(
        undivided.layout,
        [
            {"op": "add", "path": "/circuits/sensed", "value": {"name": "Branch, sensed"}},
            {
                "op": "add",
                "path": "/devices/B9",
                "value": {
                    "kind": "detector",
                    "name": "Detector",
                    "at": {"x": 8000, "y": 600},
                    "input": "track",
                    "output": "sensed",
                },
            },
            {"op": "add", "path": "/gaps/G90", "value": {"track": "branch", "at": 200}},
            {
                "op": "add",
                "path": "/sections/branch",
                "value": {"name": "Branch", "track": "branch", "at": 700, "circuit": "sensed"},
            },
        ],
    )
    facts = derive(layout, "open-day")
    plan = find_stretches(facts.topology)
    inside = {t for s in plan.stretches if s.circuit == "sensed" for t, _, _ in s.pieces}
    assert {"branch", "wye-north", "quarry-lead"} <= inside and sum(s.circuit == "sensed" for s in plan.stretches) == 1
    after = made(layout)
    above = after.layout.devices["B9"].input
    assert (
        above is not None
        and after.layout.circuits[above].name == "Branch"
        and after.layout.devices[after.tree.fed_by[above]].kind == "breaker"
    )
    assert after.layout.sections["branch"].circuit == "sensed"
    feeders = [f for f in after.layout.feeders.values() if f.track == "wye-north"]
    assert feeders and {after.layout.runs[after.layout.terminals[f.terminal].run].circuit for f in feeders} == {
        "sensed"
    }


# --- other railroads


@given(st.integers(0, 30))
@settings(max_examples=8)
def test_random_railroads_are_divided_without_losing_a_rail(seed: int) -> None:
    layout = random_layout(seed)
    now, then = derive(layout), made(layout, Wish(main_parts=2), None)
    assert np.isfinite(then.volts).sum() >= np.isfinite(now.volts).sum()
    assert all(d.input is None or d.input in then.tree.fed_by for d in then.layout.devices.values())
    rails = map_rails(then.layout)
    for one, other in itertools.pairwise(sorted(g.at for g in then.layout.gaps.values() if g.track == "t0")):
        assert other - one > 30
    assert len(rails.extents) >= 2


def test_a_bare_line_with_no_wire_and_no_train_is_one_district() -> None:
    d = plain()
    division = divide(derive(d.plain()))
    (district,) = division.districts
    assert district.trains == () and district.trip == 1.0 and division.cuts == ()
    after = apply_patch(d.plain(), make_division(d.plain(), division))
    assert len(after.feeders) >= 1 and [x.kind for x in after.devices.values()] == ["booster", "breaker"]


def test_a_layout_without_a_booster_gets_one() -> None:
    d = plain()
    for kind in ("runs", "terminals", "devices"):
        d.data[kind].clear()
    layout = d.plain()
    after = apply_patch(layout, make_division(layout, divide(derive(layout))))
    assert sorted(x.kind for x in after.devices.values()) == ["booster", "breaker"]
    assert np.isfinite(derive(after).volts).any()


def test_without_track_there_is_nothing_to_divide() -> None:
    with pytest.raises(DrawingError, match="no track to divide"):
        divide(derive(Layout(name="Empty")))


def test_the_same_layout_gives_the_same_division(undivided: Facts) -> None:
    layout = undivided.layout
    assert make_division(layout, divide(undivided)) == make_division(layout, divide(derive(layout, "open-day")))
