"""Rails judged truly: same reverser on both sides, faults beside each other, bridges, common returns, yards of many turnouts."""

from __future__ import annotations

import itertools
import time

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.findings.check import check
from jolly_copper.core.findings.model import Finding
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.proposals.dead_track import Remedies, dead_stretches
from jolly_copper.core.proposals.reversing.accept import make_sections
from jolly_copper.core.proposals.reversing.choose import places, propose
from jolly_copper.core.proposals.reversing.words import no_room
from jolly_copper.core.rails import dead, shorts
from jolly_copper.core.rails.dead import Judge, live_pairs
from jolly_copper.core.rails.nets import Rail
from jolly_copper.core.rails.pieces import SIDES, map_rails
from jolly_copper.core.rails.switching import can_die, can_join, can_live
from jolly_copper.core.rails.topology import Topology, map_topology
from jolly_copper.demo.drafting import Draft
from tests import track_plans
from tests.core.test_turnout_states import carried, siding, states
from tests.track_plans import ladder, power, routing_yard, tie


def topology_of(d: Draft | Layout) -> Topology:
    layout = d.plain() if isinstance(d, Draft) else d
    return map_topology(layout, map_rails(layout))


def found(d: Draft | Layout, rule: str) -> list[Finding]:
    layout = d.plain() if isinstance(d, Draft) else d
    return [f for f in check(derive(layout, None)) if f.rule == rule]


def musts(d: Draft, *rules: str) -> list[str]:
    return [f.title for f in check(derive(d.plain(), None)) if f.severity == "must" and f.rule in rules]


REVERSING = (
    "train comes back on itself", "reversing section not cut off", "reversing section too short", "reversing sections touch",
    "plain track between reversers too short",
)  # fmt: skip


def loop(control: str = "dcc", inside: str = "turned", outside: str = "main", length: float = 9000) -> Draft:
    """A balloon loop gapped at both ends, its inside and its approach each on a circuit."""
    d = power(track_plans.balloon(length), "turned", "outer")
    d.data["brief"] = {"control": control, "rules": {"longest_train": 1500}}
    if control == "dc":
        for device in d.data["devices"].values():
            if device["kind"] == "reverser":
                device["kind"] = "reversing switch"
    full = d.length("loop")
    d.gap("loop", 300)
    d.gap("loop", full - 300)
    tie(d, "F1", "lead", 500, outside)
    tie(d, "F2", "loop", full / 2, inside)
    return d


# --- 10: inside and outside must have different roots


def test_a_loop_whose_inside_and_approach_hang_on_one_reverser_is_told() -> None:
    assert found(loop(), "train comes back on itself") == []
    (f,) = found(loop(outside="turned"), "train comes back on itself")
    assert f.severity == "must" and "Reverser turned feeds both sides of its gaps" in f.why


def test_and_so_with_one_direction_switch_on_dc() -> None:
    assert len(found(loop("dc", outside="turned"), "train comes back on itself")) == 1
    assert propose(topology_of(loop("dc", outside="turned"))) != [], "and an offer is made"


# --- 11, 12: shorts told by yards, many of them as one


def test_a_swapped_feeder_on_a_shelf_hides_nothing_elsewhere() -> None:
    d = siding()
    d.node("S1", 0, 5000, "bumper")
    d.node("S2", 3000, 5000, "bumper")
    d.track("shelf", "Shelf", "S1.1", "S2.1")
    tie(d, "F8", "shelf", 500)
    tie(d, "F9", "shelf", 2500, a_rail="right")
    kinds = {tuple(s.node for s in short.settings) for short in topology_of(d).shorts}
    assert kinds == {(), ("T1", "T2")}
    told = [f.title for f in found(d, "rails joined through turnouts")]
    assert len(told) == 2 and all("T1" in t and "T2" in t for t in told)


def test_many_settings_of_a_yard_are_one_finding_with_a_list() -> None:
    """Ten tracks between routing ladders, fed at both leads: 1,022 settings join the leads' rails wrongly."""
    d = ladder(10, both_ends=True)
    (f,) = found(d, "rails joined through turnouts")
    assert (
        f.severity == "must" and f.title.startswith("Many settings of the turnouts here join") and "Such as:" in f.why
    )
    assert len(f.mends) == 1


def test_a_small_yards_settings_are_listed_whole() -> None:
    (f,) = found(ladder(5, both_ends=True), "rails joined through turnouts")
    assert f.title.startswith("30 settings of 8 turnouts"), "2^5 − 2: any track open at one end only"


def test_fourteen_turnouts_fed_at_the_lead_are_never_called_dead_for_good() -> None:
    topology = topology_of(ladder(15))
    assert {s.status for s in topology.stands.values()} == {"always", "lined up"}
    assert musts(ladder(15), "dead in some setting") == []


def test_a_bound_that_runs_out_says_not_settled(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(dead, "MOST_DECISIONS", 1)
    monkeypatch.setattr(dead, "can_die", lambda *_: "not settled")
    d = ladder(6)
    assert "not settled" in {s.status for s in topology_of(d).stands.values()}
    told = found(d, "dead in some setting")
    assert told and all(f.severity == "look" for f in told)
    monkeypatch.setattr(shorts, "MOST_STEPS", 1)
    monkeypatch.setattr(shorts, "can_join", lambda *_: "not settled")
    (f,) = [f for f in found(ladder(4, both_ends=True), "rails joined through turnouts") if "not settled" in f.title]
    assert f.severity == "look"


# --- 18 and 12: the programmes against brute force


@settings(max_examples=60)
@given(st.integers(0, 100_000))
def test_programmes_against_every_state(seed: int) -> None:
    topology = topology_of(routing_yard(seed))
    nets, sources = topology.nets, topology.sources
    live = live_pairs(nets, sources)
    every = [(s, carried(topology, s)) for s in states(topology.layout)]

    def lives(on: dict[Rail, set[tuple[str, str]]], piece: object) -> bool:
        left, right = on[Rail(piece, "left")], on[Rail(piece, "right")]  # type: ignore[arg-type]
        return any(a[1] != b[1] and sources.root[a[0]] == sources.root[b[0]] for a in left for b in right)

    for piece in topology.stands:
        left, right = (nets.net_of[Rail(piece, s)] for s in SIDES)
        alive = [lives(on, piece) for _, on in every]
        assert (can_live(nets, left, right, live) != "no") == any(alive)
        killed = can_die(nets, left, right, live, {})
        assert (killed != "no") == (not all(alive))
        if isinstance(killed, dict):
            hit = [a for (s, _), a in zip(every, alive, strict=True) if all(s[n] == v for n, v in killed.items())]
            assert hit and not any(hit)


@settings(max_examples=40)
@given(st.integers(0, 100_000))
def test_one_case_each_is_found_where_paths_find_any(seed: int) -> None:
    layout = routing_yard(seed).plain()
    by_path = topology_of(layout).shorts
    kept, shorts.MOST_STEPS = shorts.MOST_STEPS, -1
    try:
        by_programme = topology_of(layout).shorts
    finally:
        shorts.MOST_STEPS = kept

    def wires(found: list[shorts.Short]) -> set[object]:
        return {(s.yard, s.kind, s.one_conductor, s.other_conductor) for s in found}

    assert {(s.yard, s.kind) for s in by_programme} == {(s.yard, s.kind) for s in by_path}
    for short in by_programme:
        for state in states(layout):
            if all(state[x.node] == x.lies for x in short.settings):
                put = carried(topology_of(layout), state)
                assert any(len(on) > 1 for on in put.values())


def test_joining_takes_the_fewest_settings() -> None:
    nets = topology_of(siding()).nets
    fed = sorted(nets.fed)
    state = can_join(nets, {fed[0]}, {fed[-1]}, set(fed) - {fed[0], fed[-1]})
    assert state == "no" or len(state) == 2


@pytest.mark.parametrize(("tracks", "both"), [(8, False), (14, False), (5, True), (14, True)])
def test_worst_cases_do_not_grow_with_the_settings(tracks: int, both: bool) -> None:
    """No timing: the count of programmes asked is what grew exponentially before."""
    topology = topology_of(ladder(tracks, both_ends=both))
    asked = []
    for module in (dead, shorts):
        for name in ("can_live", "can_die", "can_join"):
            if hasattr(module, name):
                whole = getattr(module, name)
                setattr(module, name, lambda *a, whole=whole: (asked.append(1), whole(*a))[1])
    try:
        assert topology.stands and topology.all_shorts.settled
    finally:
        from jolly_copper.core.rails import switching

        dead.can_live, dead.can_die, shorts.can_join = switching.can_live, switching.can_die, switching.can_join
    assert len(asked) <= 6 * tracks


# --- 17: remedies


@pytest.mark.parametrize(("tracks", "both"), [(4, False), (3, True)])
def test_a_remedy_starves_no_neighbour(tracks: int, both: bool) -> None:
    facts = derive(ladder(tracks, both_ends=both).plain(), None)
    worse = ("always", "lined up", "not settled", "dead when lined up", "never")
    for stretch in dead_stretches(facts):
        assert stretch.patch is not None
        after = topology_of(apply_patch(facts.layout, stretch.patch))
        for piece, stand in after.stands.items():
            before = [s for p, s in facts.topology.stands.items() if p.track == piece.track]
            assert worse.index(stand.status) <= max(worse.index(s.status) for s in before), (stretch.remedy, piece)
        mine = [s for p, s in after.stands.items() if p.track == stretch.stand.piece.track]
        assert all(s.status == "always" for s in mine)
        assert len(after.shorts) <= len(facts.topology.shorts)


def test_remedies_are_told_one_by_one_and_can_be_stopped() -> None:
    class Enough(Exception):
        pass

    seen = []

    def told(stretch: object, done: int, total: int) -> None:
        seen.append((done, total))
        if done == 2:
            raise Enough

    with pytest.raises(Enough):
        dead_stretches(derive(ladder(5).plain(), None), told)
    assert [s[0] for s in seen] == [1, 2] and seen[0][1] > 2


def test_half_of_a_siding_gapped_in_its_middle_can_be_dead_with_a_way_out_on_its_own_track() -> None:
    """Common practice, no source: gapping mid-track makes half of it dead."""
    d = ladder(2)
    d.gap("y2", 2000)
    tie(d, "F5", "y2", 3000)
    facts = derive(d.plain(), None)
    half = next(s for p, s in facts.topology.stands.items() if p.track == "y2" and p.start == 0)
    assert half.status == "dead when lined up" and half.route == ("y2",)
    assert Remedies(facts).smallest(half.piece) is not None


def test_a_slip_that_routes_power_is_refused_in_words() -> None:
    d = Draft("Slip")
    d.node("X", 0, 0, "slip", frog="routing")
    for k, (x, y, port) in enumerate(
        ((-900, -100, "west1"), (-900, 100, "west2"), (900, -100, "east1"), (900, 100, "east2"))
    ):
        d.node(f"E{k}", x, y, "bumper")
        d.track(f"t{k}", f"Track {k}", f"E{k}.1", f"X.{port}")
    (f,) = found(d, "slip that routes power")
    assert f.severity == "should" and found(apply_patch(d.plain(), f.mends[0].patch), "slip that routes power") == []


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
    """A loop of 3.6 m and a train of 1.5 m: a section round the turnout leaves plain track for the train in the loop."""
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
        "kind": "booster", "name": "Cab B", "at": {"x": 0, "y": 900}, "output": "east", "trip_amps": 2, "ohms": 0.1,
    }  # fmt: skip
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


def test_worst_case_yards_are_judged_quickly_enough_to_wait_for() -> None:
    """A guard against the exponential, fifty times what it takes: not a benchmark."""
    began = time.process_time()
    check(derive(ladder(14, both_ends=True).plain(), None))
    assert time.process_time() - began < 60
