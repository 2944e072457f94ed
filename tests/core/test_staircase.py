"""Where the volts go adds up, names the right things, and agrees with the plan."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jolly_copper.core.circuits.facts import Facts, derive
from jolly_copper.core.circuits.staircase import explain
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.reading import read_layout
from tests.layouts import feeder, plain, random_layout, without


def test_the_steps_add_up_to_the_drop_everywhere(demo_facts: Facts) -> None:
    for row in range(0, len(demo_facts.points), 37):
        at_joiner = (
            0 < row < len(demo_facts.points) - 1
            and demo_facts.points.at[row] in demo_facts.points.at[[row - 1, row + 1]]
        )
        if np.isnan(demo_facts.volts[row]) or at_joiner:
            continue  # one place, two sides of a joiner: the plan shows both
        answer = explain(demo_facts, *demo_facts.place_of(row))
        assert answer.source_volts - sum(s.volts for s in answer.steps) == pytest.approx(answer.volts, abs=2e-3)
        assert answer.volts == pytest.approx(demo_facts.volts[row], abs=2e-3), "the plan and the staircase say the same"
        assert answer.coin == pytest.approx(demo_facts.coin[row], rel=1e-3)


@settings(max_examples=15, deadline=None)
@given(st.integers(0, 10_000), st.floats(0, 1))
def test_steps_add_up_at_any_point_of_any_layout(seed: int, share: float) -> None:
    facts = derive(random_layout(seed))
    for track, length in list(facts.rails.lengths.items())[:5]:
        answer = explain(facts, track, length * share)
        if answer.live:
            assert sum(s.volts for s in answer.steps) == pytest.approx(answer.source_volts - answer.volts, abs=2e-3)


def test_one_ampere_through_one_feeder_by_hand() -> None:
    d = plain()
    feeder(d, "F1", "t", 0, "T1")
    d.data["brief"]["rules"]["test_train"] = 1.0
    d.data["brief"]["control"] = "dc"
    steps = {s.kind: s.volts for s in explain(derive(d.plain()), "t", 1000).steps}
    assert steps["source"] == pytest.approx(0.1)
    assert steps["rail"] == pytest.approx(2 * 0.1903, rel=1e-2)
    assert set(steps) == {"source", "feeder", "rail"}


def test_inductance_is_its_own_step_marked_an_estimate(demo_facts: Facts) -> None:
    point = demo_facts.worst_point()
    assert point is not None
    (step,) = [s for s in explain(demo_facts, *demo_facts.place_of(point)).steps if s.kind == "inductance"]
    assert step.estimate and step.volts > 1 and step.owners[0] == "W1" and "apart" in step.detail


def test_inductance_is_left_out_for_dc_and_when_the_house_says_so(demo: Layout) -> None:
    for change in ({"control": "dc"}, {"rules": {**demo.brief.rules.model_dump(), "count_inductance": False}}):
        layout = read_layout(without(demo, brief={**demo.brief.model_dump(), **change}))
        facts = derive(layout, "open-day")
        assert np.array_equal(facts.volts, facts.exact_volts, equal_nan=True)


def test_an_unknown_track_is_refused(demo_facts: Facts) -> None:
    with pytest.raises(KeyError):
        explain(demo_facts, "moon", 0)


def test_trains_of_the_scene_are_placed_once_each(demo_facts: Facts, demo: Layout) -> None:
    point = demo_facts.worst_point()
    assert point is not None
    names = [t.train for t in explain(demo_facts, *demo_facts.place_of(point)).trains]
    assert len(names) == len(set(names)) and names[0] == "ore"
