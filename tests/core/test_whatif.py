"""If you changed one thing: every promise is kept when the change is made."""

from __future__ import annotations

import pytest

from jolly_copper.core.circuits.facts import Facts, derive
from jolly_copper.core.circuits.staircase import explain
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.proposals.whatif import what_if
from tests.layouts import plain


def test_the_promise_is_what_happens(demo: Layout, demo_facts: Facts) -> None:
    point = demo_facts.worst_point()
    assert point is not None
    place = demo_facts.place_of(point)
    tried = what_if(demo_facts, *place)
    assert 3 <= len(tried) <= 5
    assert {"Bus W1 to 12 AWG", "Twist bus W1"} <= {w.label for w in tried}
    for w in tried:
        after = explain(derive(apply_patch(demo, w.patch), "open-day"), *place)
        assert after.volts == pytest.approx(w.volts_after) and after.coin == pytest.approx(w.coin_after)
        assert w.volts_after > w.volts_before
    assert [w.volts_after for w in tried] == sorted((w.volts_after for w in tried), reverse=True)


def test_a_new_feeder_does_not_bridge_the_gap_it_stands_by(demo: Layout, demo_facts: Facts) -> None:
    """The worst point lies right at a gap; a feeder there must stay on its own side."""
    point = demo_facts.worst_point()
    assert point is not None
    track, at = demo_facts.place_of(point)
    (w,) = [w for w in what_if(demo_facts, track, at) if w.label == "Add a feeder here"]
    new = w.patch[0]["value"]
    assert demo_facts.rails.piece_at(new["track"], new["at"]) == demo_facts.rails.piece_at(track, at)
    assert len(derive(apply_patch(demo, w.patch), "open-day").parts) == len(demo_facts.parts)


def test_nothing_is_promised_for_dead_track() -> None:
    facts = derive(plain().plain())
    assert what_if(facts, "t", 100) == []


def test_it_stops_when_told(demo_facts: Facts) -> None:
    point = demo_facts.worst_point()
    assert point is not None
    assert what_if(demo_facts, *demo_facts.place_of(point), stop=lambda: True) == []
