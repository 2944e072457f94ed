"""The demo's story, told by the core alone: each planted mistake is found for the right reason, and mending pays."""

from __future__ import annotations

import itertools

import numpy as np
import pytest

from jolly_copper.core.circuits.facts import Facts, derive
from jolly_copper.core.circuits.staircase import explain
from jolly_copper.core.findings.check import check
from jolly_copper.core.findings.model import Finding
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch


@pytest.fixture(scope="module")
def by_key(demo_facts: Facts) -> dict[str, Finding]:
    return {f.key: f for f in check(demo_facts)}


def low(facts: Facts) -> float:
    return float(np.nanmin(facts.volts))


def with_gauge(layout: Layout, gauge: str) -> Facts:
    return derive(apply_patch(layout, [{"op": "replace", "path": "/runs/W1/gauge", "value": gauge}]), "open-day")


def test_the_worst_point_is_at_the_far_end_of_the_long_thin_bus(demo_facts: Facts) -> None:
    point = demo_facts.worst_point()
    assert point is not None and demo_facts.circuit[point] == "west"

    track, _ = demo_facts.place_of(point)
    assert track in ("down-north-west", "up-north-2")


def test_heavier_copper_always_helps_and_never_hurts_elsewhere(demo: Layout, demo_facts: Facts) -> None:
    steps = [demo_facts, *(with_gauge(demo, g) for g in ("14 AWG", "12 AWG", "10 AWG"))]
    lows = [low(f) for f in steps]
    assert lows == sorted(lows) and lows[-1] > lows[0] + 0.7
    for lighter, heavier in itertools.pairwise(steps):
        # Rayleigh: more copper never raises a resistance between two points, so no short gets smaller anywhere.
        assert np.nanmin(heavier.coin_exact - lighter.coin_exact) > -1e-9, "no short gets smaller"


def test_tying_the_wires_together_helps_more_than_copper(demo: Layout, demo_facts: Facts) -> None:
    """Why two bus wires belong together: the estimate says a joist's width costs more than four gauge numbers."""
    tied = derive(apply_patch(demo, [{"op": "replace", "path": "/runs/W1/make", "value": "twisted"}]), "open-day")
    assert low(tied) > low(with_gauge(demo, "12 AWG")) + 0.6
    point = demo_facts.worst_point()
    assert point is not None
    assert np.array_equal(np.nan_to_num(tied.coin_exact), np.nan_to_num(demo_facts.coin_exact)), (
        "resistance is the same"
    )


def test_each_planted_mistake_is_found_where_it_is(by_key: dict[str, Finding], demo: Layout) -> None:
    (stray,) = [f for k, f in by_key.items() if k.startswith("circuit:")]
    assert demo.feeders[stray.place.id].track == "wye-east" and "reverser" in stray.title
    (thin,) = [f for k, f in by_key.items() if k.startswith("ampacity:")]
    assert demo.feeders[thin.place.id].track == "coal-drop" and demo.feeders[thin.place.id].gauge == "24 AWG"
    (dead,) = [f for k, f in by_key.items() if k.startswith("no-feeder:")]
    assert dead.place.track == "shed-3" and "sound engine" in dead.why
    assert by_key["breaker:K5"].mends[0].patch[0]["value"] == 4.0
    assert "Quarry loader" in by_key["coin:quarry"].title and "old joiners" in by_key["coin:quarry"].why
    assert by_key["joiners:quarry-loader"].severity == "should"
    assert by_key["apart:W1"].source.startswith("calculated")


def test_all_mends_together_leave_little_to_settle(demo: Layout, demo_facts: Facts) -> None:
    """Make the first mend offered, look again, and so on, as a person would on a Tuesday night."""
    layout, left = demo, len(check(demo_facts))
    for _ in range(45):
        found = check(derive(layout, "open-day"))
        offers = [f.mends[0] for f in found if f.mends]
        if not offers:
            break
        layout = apply_patch(layout, offers[0].patch)
    end = check(derive(layout, "open-day"))
    assert len(end) < left / 2 and not [f for f in end if f.severity == "must"], [f.title for f in end]


def test_a_quiet_night_is_kinder_than_an_open_day(demo: Layout, demo_facts: Facts) -> None:
    assert low(derive(demo, "work-night")) > low(demo_facts) + 1


def test_no_scene_means_the_houses_test_train_everywhere(demo: Layout) -> None:
    facts = derive(demo)
    answer = explain(facts, "yard-2", 800)
    assert [t.train for t in answer.trains] == [None] and answer.tested_amps == demo.brief.rules.test_train


def test_dc_has_no_square_wave_in_it(demo: Layout) -> None:
    dc = derive(apply_patch(demo, [{"op": "replace", "path": "/brief/control", "value": "dc"}]), "open-day")
    assert not [f for f in check(dc) if f.rule == "wires apart"]
    assert all(s.kind != "inductance" for s in explain(dc, "down-west", 500).steps)


def test_warm_wire_loses_more(demo: Layout, demo_facts: Facts) -> None:
    warm = derive(apply_patch(demo, [{"op": "replace", "path": "/brief/rules/wire_celsius", "value": 60}]), "open-day")
    assert low(warm) < low(demo_facts) - 0.05


def test_a_lighter_house_rule_finds_less(demo: Layout, demo_facts: Facts) -> None:
    easy = apply_patch(demo, [{"op": "replace", "path": "/brief/rules/largest_drop", "value": 0.5}])
    strict = apply_patch(demo, [{"op": "replace", "path": "/brief/rules/largest_drop", "value": 0.01}])
    drops = [[f for f in check(derive(x, "open-day")) if f.rule == "drop"] for x in (easy, demo, strict)]
    assert len(drops[0]) == 0 < len(drops[1]) < len(drops[2])
