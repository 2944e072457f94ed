"""Reversing sections, bridges, common returns and three rails judged truly: room, faults beside each other, no false
musts."""

from __future__ import annotations

import itertools

import pytest

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.findings.check import check
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.proposals.reversing.accept import make_sections
from jolly_copper.core.proposals.reversing.choose import places, propose
from jolly_copper.core.proposals.reversing.words import no_room
from jolly_copper.core.rails.dead import Judge
from jolly_copper.demo.drafting import Draft
from tests import track_plans
from tests.core.test_rails_true import REVERSING, found, loop, musts, topology_of
from tests.track_plans import power, tie

# --- 13: room


def test_a_loop_shorter_than_its_train_says_by_how_much() -> None:
    d = power(track_plans.balloon(1200))
    topology = topology_of(d)
    (group,) = propose(topology, train=4000)
    for option in group.options:
        for section in option.sections:
            on = sorted(g.at for g in section.gaps if g.track == "loop")
            assert all(b - a > 4000 for a, b in itertools.pairwise(on)), "its gaps do not merge"
    if not group.options:
        words = no_room(topology, group.no_room[0], 4000)
        assert "would fit" in words and "lengthen the track there by about" in words


def test_gaps_of_one_region_leave_room_between_them() -> None:
    """A loop of 3.6 m and a train of 1.5 m: a section round the turnout leaves plain track for the train in the
    loop."""
    topology = topology_of(power(track_plans.balloon(3000)))
    for place in places(topology, 1500).values():
        on = sorted(g.at for g in place.gaps if g.track == "loop")
        if place.kind == "round turnouts" and len(on) == 2:
            assert on[1] - on[0] >= 1500


def test_plain_track_between_two_gaps_of_one_reverser_is_measured() -> None:
    """A ring turned by a cut-off: the section is the ring but for a short plain stretch."""
    d = power(track_plans.oval(4000), "turned")
    full = d.length("north")
    d.gap("north", 500)
    d.gap("north", 1500)
    tie(d, "F1", "north", 1000)
    tie(d, "F2", "north", full - 500, "turned", a_rail="right")
    assert found(d, "plain track between reversers too short") == [], "both gaps suit one way round"


def test_plain_track_between_two_reversers_is_a_look() -> None:
    d = power(Draft("Line"), "one", "two")
    d.node("A", 0, 0, "bumper")
    d.node("B", 12000, 0, "bumper")
    d.track("t", "Line", "A.1", "B.1")
    for at in (4000, 4800):
        d.gap("t", at)
    tie(d, "F1", "t", 1000, "one")
    tie(d, "F2", "t", 4400)
    tie(d, "F3", "t", 9000, "two")
    (f,) = found(d, "plain track between reversers too short")
    assert f.severity == "look" and "two reversers" in f.title
    d.data["gaps"]["G2"]["at"] = 8000
    d.data["feeders"]["F3"]["at"] = 11000
    assert found(d, "plain track between reversers too short") == []


# --- 14: false musts


def two_loops(broken: bool) -> Draft:
    """A dogbone, each loop on a reverser; the east one's far gap forgotten where `broken`."""
    d = power(track_plans.dogbone(), "west", "east")
    d.data["brief"] = {"rules": {"longest_train": 800}}
    for side in ("west", "east"):
        full = d.length(side)
        d.gap(side, 200)
        if not (broken and side == "east"):
            d.gap(side, full - 200)
        tie(d, f"F-{side}", side, full / 2, side)
    tie(d, "F0", "neck", 1500)
    return d


def test_one_gap_fault_does_not_make_every_section_touch() -> None:
    assert musts(two_loops(False), *REVERSING) == []
    told = musts(two_loops(True), *REVERSING)
    assert len(told) == 1 and "a pair of gaps is missing" in told[0]


def test_two_faults_in_one_zone_are_two_findings_each_with_its_mend() -> None:
    d = two_loops(True)
    d.data["gaps"] = {i: g for i, g in d.data["gaps"].items() if g["track"] != "west" or g["at"] == 200}
    told = found(d, "reversing section not cut off")
    assert len(told) == 2 and all(f.mends for f in told)
    layout = d.plain()
    for _ in range(2):
        first = found(layout, "reversing section not cut off")[0]
        layout = apply_patch(layout, first.mends[0].patch)
    assert found(layout, "reversing section not cut off") == []


def test_a_half_gap_and_a_stray_in_one_zone_are_both_told() -> None:
    d = two_loops(False)
    d.data["gaps"]["G1"]["rails"] = "left"
    tie(d, "F9", "east", d.length("east") / 3)
    titles = [f.title for f in found(d, "reversing section not cut off")]
    assert any("cuts only the left rail" in t for t in titles) and any("F9" in t for t in titles)


def terminal(lower: float | None, upper: float | None) -> Draft:
    """A loop on a reverser, and a terminal off the loop on a reverser fed by that section."""
    d = loop()
    d.data["devices"]["V2"].update(input="turned", trip_seconds=lower)
    d.data["devices"]["V1"]["trip_seconds"] = upper
    full = d.length("loop")
    d.data["tracks"].pop("loop")
    d.data["gaps"].clear()
    d.data["feeders"].pop("F2")
    d.turnout("T9", 4000, 1500, "left")
    d.node("E9", 9000, 1500, "bumper")
    d.track("near", "Near side", "T1.through", "T9.points", (3000, 1200))
    d.track("far", "Far side", "T9.through", "T1.diverging", (6000, 0), (4000, -1500))
    d.track("spur", "Terminal", "T9.diverging", "E9.1")
    for track, at in (("near", 200), ("far", d.length("far") - 200), ("spur", 300)):
        d.gap(track, at)
    tie(d, "F2", "near", 900, "turned")
    tie(d, "F3", "spur", 2000, "outer")
    assert full > 0
    return d


def test_a_terminal_behind_a_loops_reverser_is_right() -> None:
    assert found(terminal(0.01, 0.03), "reversing sections touch") == []
    (f,) = found(terminal(None, None), "reversing sections touch")
    assert f.severity == "look" and "usual way to feed a terminal" in f.why and "no chatter" in f.mend


def test_the_outer_reversing_switch_on_dc_is_no_fault() -> None:
    d = loop("dc", inside="turned", outside="outer")
    assert musts(d, *REVERSING) == []
    assert found(d, "reverser with nothing to do") == []


def test_blocks_inside_a_section_do_not_make_it_short_or_idle() -> None:
    d = loop()
    full = d.length("loop")
    for k, at in enumerate((1500, 2500, 3500)):
        d.gap("loop", at)
        tie(d, f"B{k}", "loop", at + 300, "turned")
    tie(d, "B9", "loop", 900, "turned")
    assert full > 5000
    assert musts(d, *REVERSING) == [] and found(d, "reverser with nothing to do") == []


@pytest.mark.parametrize(("apart", "fault"), [(8, False), (35, False), (120, True)])
def test_gaps_staggered_within_the_house_rule_are_one_pair(apart: float, fault: bool) -> None:
    d = loop()
    d.data["gaps"]["G1"]["rails"] = "left"
    d.gap("loop", 300 + apart, rails="right")
    assert bool(found(d, "reversing section not cut off")) == fault
    d.data["brief"]["rules"]["gap_stagger"] = 150
    assert found(d, "reversing section not cut off") == []


# --- 15: bridges


def table(bridge: str, swapped: bool) -> Draft:
    """A turntable with two stubs in line, each fed; the far one swapped or not."""
    d = power(Draft("Table"))
    d.node("TT", 3000, 0, "turntable", diameter=300, bridge=bridge)
    d.node("A", 0, 0, "bumper")
    d.node("B", 6000, 0, "bumper")
    d.track("west", "West stub", "A.1", "TT.stub1")
    d.data["tracks"]["west"]["path"][-1] = {"x": 2850, "y": 0}
    d.track("east", "East stub", "TT.stub2", "B.1")
    d.data["tracks"]["east"]["path"][0] = {"x": 3150, "y": 0}
    tie(d, "F1", "west", 1000)
    tie(d, "F2", "east", 1000, a_rail="right" if swapped else "left")
    return d


def test_an_aligned_stub_bridge_that_shorts_is_a_finding_with_its_pointing() -> None:
    assert found(table("aligned stub", False), "bridge joins two stubs") == []
    (f,) = found(table("aligned stub", True), "bridge joins two stubs")
    assert f.severity == "must" and "pointing from West stub to East stub is a dead short" in f.title
    assert found(table("split ring", True), "bridge joins two stubs") == []
    for mend in f.mends:
        assert found(apply_patch(table("aligned stub", True).plain(), mend.patch), "bridge joins two stubs") == []


def test_a_bridge_offer_settles_what_it_claims() -> None:
    d = power(track_plans.turntable_loop())
    d.data["nodes"]["TT"].update(diameter=900)
    topology = topology_of(d)
    offers = [c for c in places(topology, 500).values() if c.kind == "bridge"]
    assert offers and len(topology.open_conflicts) == 1
    after = topology_of(apply_patch(d.plain(), make_sections(d.plain(), offers[:1])))
    assert after.layout.nodes["TT"].bridge == "reverser" and after.open_conflicts == []


# --- 16: common return and three rails


def cabs(common: bool) -> Draft:
    """Two DC cabs on one line, blocks gapped in the left rail only."""
    d = power(Draft("Cabs"))
    d.data["brief"] = {"control": "dc"}
    d.data["circuits"]["east"] = {"name": "East cab"} | ({"return_of": "main"} if common else {})
    d.data["devices"]["B2"] = {
        "kind": "booster",
        "name": "Cab B",
        "at": {"x": 0, "y": 900},
        "output": "east",
        "trip_amps": 2,
        "ohms": 0.1,
    }
    d.bus("R9", "east", "14 AWG", [(0, 900), (2000, 900)], fed={"device": "B2"}, first=500, every=900)
    d.node("A", 0, 0, "bumper")
    d.node("B", 6000, 0, "bumper")
    d.track("t", "Line", "A.1", "B.1")
    d.gap("t", 3000, rails="left")
    tie(d, "F1", "t", 1000)
    tie(d, "F2", "t", 5000, "east")
    return d


def test_a_common_return_is_right_where_it_is_meant() -> None:
    (f,) = found(cabs(False), "rails joined through turnouts")
    assert "neither can protect it" in f.title
    meant = next(m for m in f.mends if "it is meant" in m.label)
    for layout in (apply_patch(cabs(False).plain(), meant.patch), cabs(True).plain()):
        told = check(derive(layout, None))
        assert not [x for x in told if x.rule in ("rails joined through turnouts", "dead in some setting")]


def test_a_block_fed_in_one_rail_lives_by_the_common_return() -> None:
    """Its own feeder brings A alone; B comes over the neighbour's rail."""
    topology = topology_of(cabs(True))
    judge = Judge(topology.nets, topology.sources, topology.ways)
    assert all(judge.stand(p).status == "always" for ps in topology.rails.pieces.values() for p in ps)


def test_an_a_against_a_common_b_is_still_a_short() -> None:
    d = cabs(True)
    d.data["feeders"]["F2"]["a_rail"] = "right"
    assert "short" in {s.kind for s in topology_of(d).shorts}


def test_three_rail_loops_are_no_reversing_sections() -> None:
    d = power(track_plans.balloon())
    d.data["brief"] = {"control": "ac3"}
    tie(d, "F1", "lead", 500)
    assert musts(d, *REVERSING) == [] and topology_of(d).open_conflicts == []
