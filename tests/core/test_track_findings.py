"""Findings about rails, each on a small layout that has just that wrong, and silent once it is mended."""

from __future__ import annotations

import pytest

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.findings.check import check
from jolly_copper.core.findings.model import Finding
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.demo.drafting import Draft
from tests import track_plans
from tests.core.test_turnout_states import siding
from tests.track_plans import power, tie


def found(d: Draft, rule: str) -> list[Finding]:
    return [f for f in check(derive(d.plain(), None)) if f.rule == rule]


def mended(d: Draft, finding: Finding, which: int = 0) -> list[Finding]:
    """The findings of the same rule once the mend is made."""
    after = apply_patch(d.plain(), finding.mends[which].patch)
    return [f for f in check(derive(after, None)) if f.rule == finding.rule]


def loop_on_a_reverser(
    gaps: tuple[tuple[str, float, str], ...] = (("loop", 100, "both"), ("loop", 3000, "both")),
) -> Draft:
    """A balloon loop of some 3.5 m; the reverser feeds between the gaps, the plain bus the lead and the loop's ends."""
    d = power(track_plans.balloon(5000), "turned")
    for track, at, rails in gaps:
        d.gap(track, at, rails=rails)
    tie(d, "F1", "lead", 500)
    tie(d, "F2", "loop", 1500, "turned")
    tie(d, "F3", "loop", 2200, "turned")
    d.data["trains"] = {"long": {"name": "Long train", "engines": ["k"], "length": 2000}}
    d.data["locos"] = {"k": {"name": "Kind", "idle": 0.1, "running": 0.3, "stall": 1}}
    return d


def test_a_sound_loop_has_nothing_to_say() -> None:
    d = loop_on_a_reverser()
    assert [f for f in check(derive(d.plain(), None)) if f.severity == "must" and "section" in f.rule] == []
    assert found(d, "train comes back on itself") == []


def test_a_loop_without_gaps_is_named_with_its_turnout() -> None:
    d = power(track_plans.balloon())
    tie(d, "F1", "lead", 500)
    (f,) = found(d, "train comes back on itself")
    assert (
        "comes back to T1 facing the other way" in f.title
        and ("kind", "balloon loop") in f.figures
        and f.severity == "must"
    )


def test_the_far_gap_forgotten() -> None:
    d = loop_on_a_reverser((("loop", 100, "both"),))
    (f,) = found(d, "reversing section not cut off")
    assert "a pair of gaps is missing" in f.title and "Reverser turned" in f.title
    assert mended(d, f) == [], "the gap it offers does it"
    assert found(d, "train comes back on itself") == [], "said once"


def test_only_one_rail_gapped() -> None:
    d = loop_on_a_reverser((("loop", 100, "both"), ("loop", 3000, "left")))
    (f,) = found(d, "reversing section not cut off")
    assert "cuts only the left rail" in f.title and mended(d, f) == []


def test_a_stray_feeder_is_named() -> None:
    d = loop_on_a_reverser()
    tie(d, "F9", "loop", 1800)
    (f,) = found(d, "reversing section not cut off")
    assert "Feeder F9" in f.title and f.place.id == "F9" and mended(d, f) == []


def test_a_section_too_short_says_by_how_much_and_for_which_train() -> None:
    d = loop_on_a_reverser()
    d.data["trains"]["long"]["length"] = 3400
    (f,) = found(d, "reversing section too short")
    assert "Long train" in f.title and "too long" in f.title
    d.data["trains"]["long"]["metal_wheels"] = False
    assert found(d, "reversing section too short") == [], "plastic wheels do not bridge the gaps"
    d.data["trains"]["long"]["metal_wheels"] = True
    d.section("s", "Loop", "loop", 1500, "turned")
    d.data["sections"]["s"]["longest"] = 2500
    assert found(d, "reversing section too short") == [], "longer trains are not let in"


def test_two_reversing_sections_touch() -> None:
    d = power(track_plans.balloon(6000), "turned", "other")
    for at in (100, 1800, 3500):
        d.gap("loop", at)
    tie(d, "F1", "lead", 500)
    tie(d, "F2", "loop", 900, "turned")
    tie(d, "F3", "loop", 2500, "other")
    (f,) = found(d, "reversing sections touch")
    assert f.severity == "must" and "G2" in f.title


def test_a_swapped_feeder_is_named_against_its_neighbours() -> None:
    d = power(track_plans.oval())
    for k, at in enumerate((300, 900, 1500, 2100)):
        tie(d, f"F{k}", "north", at, a_rail="right" if k == 2 else "left")
    (f,) = found(d, "feeder swapped")
    assert f.place.id == "F2" and "3 other feeders" in f.why and mended(d, f) == []
    assert found(d, "rails joined through turnouts") == [], "said once"


def test_opposite_phases_across_a_gap_are_told_though_each_side_is_sound() -> None:
    d = power(track_plans.oval())
    d.gap("north", 1000)
    d.gap("south", 1000)
    tie(d, "F1", "north", 400)
    tie(d, "F2", "north", 1500, a_rail="right")
    (f,) = found(d, "phases meet at a gap")
    assert "opposite phases" in f.title and mended(d, f) == []


def test_a_reverser_with_nothing_to_do() -> None:
    d = power(track_plans.oval(), "turned")
    for track in ("north", "south"):
        d.gap(track, 1000)
    tie(d, "F1", "north", 400)
    tie(d, "F2", "north", 1500, "turned")
    (f,) = found(d, "reverser with nothing to do")
    assert f.severity == "look"


def test_a_power_routing_turnout_fed_from_its_frog() -> None:
    d = siding()
    d.data["feeders"].pop("F2")
    d.data["nodes"]["T2"]["frog"] = "live"
    tie(d, "F3", "siding", 1500)
    (f,) = found(d, "power-routing turnout fed from its frog")
    assert "T1 routes power but" in f.title and "F3" in f.title and mended(d, f) == []


def test_a_short_that_needs_two_turnouts_names_them_and_the_way() -> None:
    d = siding()
    shorts = found(d, "rails joined through turnouts")
    assert len(shorts) == 2 and all("T1 set" in f.title and "T2 set" in f.title for f in shorts)
    assert "→" in shorts[0].why and "rail of Siding" in shorts[0].why + shorts[1].why


def test_dead_when_the_turnouts_are_against_it() -> None:
    d = siding()
    assert {f.key for f in found(d, "dead in some setting")} >= {"lined-up:siding"}


def test_a_gap_that_parts_nothing() -> None:
    d = power(track_plans.oval())
    d.gap("north", 1000)
    tie(d, "F1", "north", 400)
    (f,) = found(d, "gap that parts nothing")
    assert mended(d, f) == []
    d.gap("south", 1000)
    assert found(d, "gap that parts nothing") == []


def test_anchors_none_or_two() -> None:
    d = power(track_plans.oval())
    tie(d, "F1", "north", 400)
    d.gap("north", 1000)
    d.gap("south", 1000)
    d.section("a", "One", "north", 300, "main")
    (f,) = found(d, "section anchors")
    assert "belongs to no section" in f.title
    tie(d, "F2", "south", 300)
    (f,) = found(d, "section anchors")
    assert f.mends and mended(d, f) == []
    d.section("b", "Two", "north", 1500, "main")
    d.section("c", "Three", "north", 1600, "main")
    (f,) = found(d, "section anchors")
    assert "Two and Three are one stretch" in f.title and mended(d, f) == []


@pytest.mark.parametrize("contact", [0, 1])
def test_a_live_frog_with_nothing_to_turn_it(contact: int) -> None:
    d = siding("live")
    d.data["nodes"]["T1"]["contact"] = "none"
    (f,) = found(d, "frogs")
    assert "live frog of T1" in f.title and mended(d, f, contact) == []


def test_a_dead_frog_longer_than_an_engines_pickups() -> None:
    d = siding("dead")
    d.data["nodes"]["T1"]["frog_length"] = 45
    d.data["locos"] = {"k": {"name": "Little shunter", "idle": 0.1, "running": 0.3, "stall": 1, "pickups": 40}}
    (f,) = found(d, "frogs")
    assert "Little shunter" in f.title and mended(d, f) == []
    d.data["locos"]["k"]["pickups"] = 60
    assert found(d, "frogs") == []
