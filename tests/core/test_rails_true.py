"""Rails judged truly: same reverser on both sides, faults beside each other, bridges, common returns, yards of many
turnouts."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.findings.check import check
from jolly_copper.core.findings.model import Finding
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.proposals.dead_track import Remedies, dead_stretches
from jolly_copper.core.proposals.reversing.choose import propose
from jolly_copper.core.rails import dead, shorts
from jolly_copper.core.rails.dead import live_pairs
from jolly_copper.core.rails.nets import Rail
from jolly_copper.core.rails.pieces import SIDES, map_rails
from jolly_copper.core.rails.switching import can_die, can_join, can_live
from jolly_copper.core.rails.topology import Topology, map_topology
from jolly_copper.demo.drafting import Draft
from tests import track_plans
from tests.core.test_turnout_states import carried, siding, states
from tests.long import either
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
    "train comes back on itself",
    "reversing section not cut off",
    "reversing section too short",
    "reversing sections touch",
    "plain track between reversers too short",
)


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


@settings(max_examples=either(20, 60))
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


@settings(max_examples=either(15, 40))
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
