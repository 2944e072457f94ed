"""Whose source a point is judged by, and what sources give. Worked by hand; trade facts are common practice, no
source."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from jolly_copper.core.circuits.budget import budget
from jolly_copper.core.circuits.facts import Facts, derive
from jolly_copper.core.circuits.giving import gives, held_short, limit_of, source_volts, starts
from jolly_copper.core.circuits.staircase import explain
from jolly_copper.core.findings.check import check
from jolly_copper.core.findings.model import Finding
from jolly_copper.core.layout.power_tree import grow_tree
from jolly_copper.demo.drafting import Draft
from tests.layouts import booster, feeder, plain


def by_rule(facts: Facts, rule: str) -> list[Finding]:
    return [f for f in check(facts) if f.rule == rule]


def two_boosters(**second: Any) -> Draft:
    """One track with a one-rail gap in its middle, a booster on each side: their right rails are one metal."""
    d = plain(length=4000)
    d.data["sections"].clear()
    d.data["brief"]["rules"]["longest_fine_feeder"] = 9000
    booster(d, circuit="east", key="B2", **second)
    d.data["runs"]["R2"] = {
        "circuit": "east",
        "label": "R2",
        "gauge": "14 AWG",
        "strands": "solid",
        "make": "twisted",
        "path": [{"x": 3000, "y": 400}, {"x": 4000, "y": 400}],
        "fed": {"device": "B2"},
    }
    d.data["terminals"]["T3"] = {"run": "R2", "along": 0, "kind": "soldered", "ohms": 0}
    d.gap("t", 2000, rails="left")
    d.section("w", "West", "t", 100, "main")
    d.section("e", "East", "t", 3900, "east")
    feeder(d, "F1", "t", 500, "T1")
    feeder(d, "F2", "t", 3500, "T3")
    return d


def at(facts: Facts, mm: float) -> int:
    return int(np.argmin(np.abs(facts.points.at - mm)))


def test_each_side_of_a_one_rail_gap_has_its_own_limit() -> None:
    """Boosters limited to 3 A and 8 A, joined by the uncut rail: each side shows what its own gives."""
    d = two_boosters(limit_amps=8)
    d.data["devices"]["B1"]["limit_amps"] = 3
    facts = derive(d.plain())
    assert len(facts.parts) == 1, "one network"
    assert facts.source[at(facts, 500)] == "B1" and facts.source[at(facts, 3500)] == "B2"
    assert facts.coin[at(facts, 500)] == pytest.approx(3) and facts.coin[at(facts, 3500)] > 7
    assert explain(facts, "t", 3500).coin > 7 and explain(facts, "t", 500).coin == pytest.approx(3)


def test_each_side_of_a_one_rail_gap_has_its_own_volts_and_steps() -> None:
    d = two_boosters(volts=16)
    facts = derive(d.plain())
    west, east = explain(facts, "t", 500), explain(facts, "t", 3500)
    assert (west.source, west.source_volts) == ("B1", 14.4) and (east.source, east.source_volts) == ("B2", 16)
    assert facts.source_volts[at(facts, 3500)] == 16 and facts.source_volts[at(facts, 500)] == 14.4
    for answer in (west, east):
        assert answer.volts + sum(s.volts for s in answer.steps) == pytest.approx(answer.source_volts, abs=1e-3)
        assert answer.steps[0].owners == (answer.source,), "the staircase begins at its own source"


def test_a_weak_neighbour_does_not_make_a_must() -> None:
    """The stronger side is judged by its own booster: the neighbour's 3 A says nothing of it."""
    d = two_boosters(limit_amps=8)
    d.data["devices"]["B1"].update(limit_amps=3, trip_amps=2)
    assert not [f for f in check(derive(d.plain())) if f.rule in ("coin test", "never trips")]


def test_without_a_trip_wire_is_judged_by_the_label() -> None:
    """26 AWG feeders on a booster of which only the label, 8 A, is known."""
    d = plain()
    d.data["devices"]["B1"].update(trip_amps=None, label_amps=8)
    feeder(d, "F1", "t", 500, "T1", gauge="26 AWG")
    facts = derive(d.plain())
    (f,) = by_rule(facts, "wire too thin for its protection")
    assert f.severity == "must" and "can be left carrying 8 A" in f.title and "is marked 8 A" in f.why
    held = held_short(facts.layout, facts.tree, "main")
    assert held is not None and (held.amps, held.basis) == (8, "label")


def test_a_limit_comes_before_a_label_and_a_trip_before_both_unless_it_is_never_reached() -> None:
    d = plain()
    d.data["devices"]["B1"].update(trip_amps=None, label_amps=8, limit_amps=6)
    layout = d.plain()
    found = held_short(layout, grow_tree(layout), "main")
    assert found is not None and (found.amps, found.basis) == (6, "limit")
    d.data["devices"]["B1"]["trip_amps"] = 5
    found = held_short(d.plain(), grow_tree(d.plain()), "main")
    assert found is not None and (found.amps, found.basis) == (5, "trip")
    d.data["devices"]["B1"]["trip_amps"] = 7
    found = held_short(d.plain(), grow_tree(d.plain()), "main")
    assert found is not None and (found.amps, found.basis) == (6, "limit"), "7 A are never reached"


def test_a_source_of_which_nothing_is_known_is_told_once() -> None:
    d = plain()
    d.data["devices"]["B1"]["trip_amps"] = None
    feeder(d, "F1", "t", 500, "T1", gauge="20 AWG")
    facts = derive(d.plain())
    (f,) = by_rule(facts, "source without figures")
    assert f.place.id == "B1" and not by_rule(facts, "wire too thin for its protection")
    d.data["devices"]["B1"]["label_amps"] = 3
    assert not by_rule(derive(d.plain()), "source without figures")


def supplied(**supply: Any) -> Draft:
    """A booster of 5 A behind a supply of its own."""
    d = plain()
    d.data["circuits"]["raw"] = {"name": "Raw"}
    d.data["devices"]["S1"] = {"kind": "supply", "name": "Supply", "at": {"x": 0, "y": 900}, "output": "raw", **supply}
    d.data["devices"]["B1"].update(input="raw", label_amps=5)
    feeder(d, "F1", "t", 500, "T1")
    return d


def test_a_supply_bounds_volts_amps_and_starts_of_its_booster() -> None:
    layout = supplied(volts=12, label_amps=3, limit_amps=4).plain()
    assert source_volts(layout, "B1") == 12 and gives(layout, "B1") == 3
    assert limit_of(layout, "B1").amps == 4 and limit_of(layout, "B1").by == "S1"
    assert starts(layout, "B1") == 4
    facts = derive(layout)
    assert np.nanmax(facts.open_volts) == pytest.approx(12) and np.nanmax(facts.coin) == pytest.approx(4)
    (asked,) = budget(layout, None)
    assert asked.gives == 3


def test_a_supply_whose_limit_is_below_the_trip_means_that_it_never_trips() -> None:
    facts = derive(supplied(label_amps=3, limit_amps=4).plain())
    (f,) = by_rule(facts, "never trips")
    assert f.severity == "must" and "Supply gives no more than 4 A" in f.title and by_rule(facts, "coin test") == []


def test_a_measured_supply_comes_before_its_label() -> None:
    layout = supplied(label_amps=6, measured_amps=2).plain()
    assert gives(layout, "B1") == 2


def test_a_limit_counts_in_what_a_source_gives() -> None:
    d = plain()
    d.data["devices"]["B1"].update(label_amps=8, limit_amps=4, trip_amps=3.5)
    assert gives(d.plain(), "B1") == 3.5
    d.data["devices"]["B1"]["trip_amps"] = None
    assert gives(d.plain(), "B1") == 4


def test_a_blank_limit_is_guessed_from_the_label_and_called_a_guess() -> None:
    d = plain()
    d.data["devices"]["B1"].update(label_amps=5, trip_amps=5)
    feeder(d, "F1", "t", 200, "T1", gauge="12 AWG")
    facts = derive(d.plain())
    answer = explain(facts, "t", 200)
    assert answer.coin_exact > 20, "by resistance alone"
    assert answer.coin == pytest.approx(7.5) and answer.limit is not None and answer.limit.guess and not answer.limited
    assert by_rule(facts, "coin test") == [], "a guess alone makes no finding"


def test_a_guessed_limit_never_makes_a_must() -> None:
    d = plain()
    d.data["devices"]["B1"].update(label_amps=2, trip_amps=None)
    d.data["circuits"]["zone"] = {"name": "Zone"}
    d.data["devices"]["K1"] = {
        "kind": "breaker",
        "name": "Breaker",
        "at": {"x": 0, "y": 500},
        "input": "main",
        "output": "zone",
        "trip_amps": 5,
    }
    d.data["runs"]["R1"].update(circuit="zone", fed={"device": "K1"})
    d.data["sections"]["s"]["circuit"] = "zone"
    feeder(d, "F1", "t", 200, "T1", gauge="12 AWG")
    found = [f for f in check(derive(d.plain())) if f.rule in ("coin test", "never trips")]
    assert found and all(f.severity == "should" and "guessed" in f.why for f in found)


def test_volts_read_under_load_do_not_sag_twice() -> None:
    """13.9 V read at 3 A over 0.1 Ω inside: 14.2 V with nothing drawn; at 3 A the source is at 13.9 V again."""
    d = plain()
    d.data["devices"]["B1"].update(measured_volts=13.9, measured_at_amps=3, ohms=0.1)
    feeder(d, "F1", "t", 500, "T1")
    d.data["brief"]["rules"]["test_train"] = 3.0
    facts = derive(d.plain())
    assert source_volts(facts.layout, "B1") == pytest.approx(14.2)
    answer = explain(facts, "t", 500)
    inside = next(s for s in answer.steps if s.detail == "inside the source")
    assert 14.2 - inside.volts == pytest.approx(13.9)


@pytest.mark.parametrize("kind", ["booster", "supply"])
def test_a_source_of_12_volts_that_gives_10_is_told_for_every_source(kind: str) -> None:
    d = plain()
    d.data["brief"]["control"] = "dc"
    if kind == "booster":
        d.data["devices"]["B1"].update(volts=12, measured_volts=10)
    else:
        d.data["brief"]["track_volts"] = 12
        d.data["circuits"]["lights"] = {"name": "Lights", "purpose": "accessory"}
        d.data["devices"]["S1"] = {
            "kind": "supply",
            "name": "Supply",
            "at": {"x": 0, "y": 0},
            "output": "lights",
            "volts": 12,
            "measured_volts": 10,
        }
    feeder(d, "F1", "t", 500, "T1")
    (f,) = by_rule(derive(d.plain()), "supply below its label")
    assert "12.0 V" in f.title and "10.0 V" in f.title
    assert f.severity == ("should" if kind == "booster" else "look")


def test_the_drop_counts_from_the_volts_the_house_wants() -> None:
    """A source of 12 V that gives 11: 8 % are gone before the first wire, and the staircase says so first."""
    d = plain()
    d.data["devices"]["B1"].update(volts=12, measured_volts=11, ohms=0.001)
    feeder(d, "F1", "t", 500, "T1", gauge="12 AWG")
    facts = derive(d.plain())
    (f,) = by_rule(facts, "drop")
    assert "gives 11.0 V of the 12.0 V it should" in f.why
    answer = explain(facts, "t", 500)
    assert answer.source_volts == 12 and answer.steps[0].volts == pytest.approx(1.0)
    d.data["devices"]["B1"]["measured_volts"] = None
    assert by_rule(derive(d.plain()), "drop") == []


def test_a_source_far_below_its_label_is_not_called_shorted() -> None:
    d = plain()
    d.data["devices"]["B1"].update(volts=14.4, measured_volts=6)
    feeder(d, "F1", "t", 500, "T1")
    assert by_rule(derive(d.plain()), "feeders in a short") == []


def test_a_frog_that_routes_leaves_a_leg_dead_and_not_shorted() -> None:
    """With the turnout set against it both rails of the leg are on one conductor: nothing flows, so nothing is
    shorted."""
    from tests.track_plans import ladder

    facts = derive(ladder(4).plain())
    assert by_rule(facts, "feeders in a short") == []
    rows = [k for k in range(len(facts.points)) if facts.track_of(k) == "y4"]
    assert not np.isfinite(facts.volts[rows]).any() and not explain(facts, "y4", 500).live
