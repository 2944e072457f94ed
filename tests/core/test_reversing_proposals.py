"""Where reversing sections go: against brute force over every choice, and what accepting one makes of a layout."""

from __future__ import annotations

import itertools

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.findings.check import check
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.proposals.dead_track import Remedies, dead_stretches
from jolly_copper.core.proposals.reversing.accept import make_sections
from jolly_copper.core.proposals.reversing.candidates import find_candidates, room_for
from jolly_copper.core.proposals.reversing.choose import _exclusive, places, propose
from jolly_copper.core.proposals.reversing.words import (
    control_words,
    reasons,
    ring_axis,
    table_advice,
    title,
    why_later,
)
from jolly_copper.core.rails.odd_cycles import SignedGraph
from jolly_copper.core.rails.pieces import map_rails
from jolly_copper.core.rails.topology import Topology, map_topology
from jolly_copper.core.rails.ways import TrackEnd
from jolly_copper.demo.drafting import Draft
from tests import track_plans
from tests.core.test_random_rails import tree_of_track
from tests.core.test_turnout_states import siding
from tests.track_plans import power, tie

TRAIN = 1000.0


def topology_of(d: Draft | Layout) -> Topology:
    layout = d.plain() if isinstance(d, Draft) else d
    return map_topology(layout, map_rails(layout))


def cost_of(topology: Topology) -> float:
    return sum(g.options[0].cost for g in propose(topology, train=TRAIN) if g.options)


@settings(max_examples=40)
@given(st.integers(0, 100_000), st.integers(1, 3))
def test_the_choice_is_the_cheapest_of_all_choices(seed: int, loops: int) -> None:
    """Brute force: every set of places that do not crowd each other and leave no odd way round."""
    layout = tree_of_track(seed, size=10, loops=loops).model_copy(update={"gaps": {}})
    topology = topology_of(layout)
    graph = SignedGraph.of(topology.ways)
    every = find_candidates(layout, topology.ways, graph, TRAIN, frozenset())
    if not graph.colour()[1] or len(every) > 14:
        return
    crowded = set(_exclusive(every))
    best = None
    for size in range(len(every) + 1):
        for chosen in itertools.combinations(range(len(every)), size):
            if any(p in crowded for p in itertools.combinations(chosen, 2)):
                continue
            gone = {n for k in chosen for n in every[k].chains}
            cores = {c for k in chosen for c in every[k].cores}
            if not graph.without(gone, cores).colour()[1]:
                cost = sum(every[k].cost for k in chosen)
                best = cost if best is None else min(best, cost)
    groups = propose(topology, train=TRAIN)
    if best is None:
        assert any(g.no_room or not g.options for g in groups)
    else:
        assert not any(g.no_room for g in groups)
        assert sum(g.options[0].cost for g in groups) == pytest.approx(best, abs=1e-6)


@pytest.mark.parametrize(
    "plan",
    [
        track_plans.balloon(),
        track_plans.dogbone(),
        track_plans.wye(),
        track_plans.across_the_oval(1500),
        track_plans.across_the_oval(6000),
        track_plans.turntable_loop(),
    ],
)
def test_every_place_holds_the_train(plan: Draft) -> None:
    topology = topology_of(plan)
    found = places(topology, TRAIN)
    assert found
    for place in found.values():
        assert place.run is None or place.run >= room_for(TRAIN) - 1e-6
        assert len(place.gaps) <= 4
    for group in propose(topology, train=TRAIN):
        costs = [o.cost for o in group.options]
        assert costs == sorted(costs) and group.conflicts


def test_plain_track_comes_before_turnouts_and_quiet_track_before_the_main() -> None:
    first = propose(topology_of(track_plans.wye()), train=TRAIN)[0].options[0]
    assert [s.kind for s in first.sections] == ["plain track"]
    d = track_plans.wye()
    d.data["tracks"]["leg31"]["use"] = "branch"
    d.data["tracks"]["leg12"]["use"] = d.data["tracks"]["leg23"]["use"] = "main"
    quiet = propose(topology_of(d), train=TRAIN)[0].options[0]
    assert quiet.sections[0].anchor.track == "leg31"


def test_no_room_is_said_and_nothing_is_made_up() -> None:
    (group,) = propose(topology_of(track_plans.across_the_oval(1500)), train=50_000)
    assert group.no_room and not group.options


def test_choices_are_kept_and_refused() -> None:
    topology = topology_of(track_plans.wye())
    best = propose(topology, train=TRAIN)[0].options[0].sections[0]
    other = propose(topology, train=TRAIN, refuse=[best.key])[0].options[0].sections[0]
    assert other.key != best.key
    kept = propose(topology, train=TRAIN, keep=[other.key])[0].options[0].sections
    assert other.key in {s.key for s in kept}


def test_alternatives_are_other_places() -> None:
    (group,) = propose(topology_of(track_plans.wye()), train=TRAIN)
    assert len({tuple(sorted(s.site for s in o.sections)) for o in group.options}) == len(group.options) > 1


def test_progress_is_told() -> None:
    told: list[tuple[int, int]] = []
    propose(topology_of(track_plans.dogbone()), train=TRAIN, progress=lambda done, total: told.append((done, total)))
    assert told == [(0, 2), (1, 2), (2, 2)]


@pytest.mark.parametrize(
    "plan",
    [
        track_plans.balloon(),
        track_plans.dogbone(),
        track_plans.wye(),
        track_plans.across_the_oval(1500),
        track_plans.across_the_oval(6000),
    ],
)
def test_accepting_settles_every_conflict_and_shorts_nothing(plan: Draft) -> None:
    d = power(plan)
    tracks = sorted(d.data["tracks"])
    for k, track in enumerate(tracks):
        tie(d, f"F{k}", track, round((d.data["tracks"][track].get("tape") or d.length(track)) * 0.4, 1))
    layout = d.plain()
    topology = topology_of(layout)
    for group in propose(topology, train=TRAIN):
        layout = apply_patch(layout, make_sections(layout, group.options[0].sections, TRAIN))
    facts = derive(layout, None)
    assert facts.topology.open_conflicts == [] and facts.topology.conflicts
    rules = {f.rule for f in check(facts) if f.severity == "must"}
    assert not rules & {
        "train comes back on itself",
        "reversing section not cut off",
        "reversing section too short",
        "reversing sections touch",
    }
    reversers = [v for v in layout.devices.values() if v.kind == "reverser"]
    assert reversers and all(
        any(r.ends_at_device == i for r in layout.runs.values())
        for i, v in layout.devices.items()
        if v.kind == "reverser"
    )
    for zone in facts.topology.zones.zones:
        if facts.topology.is_reversing(zone):
            assert zone.votes and not zone.minority and len(zone.roots) == 1


def test_the_demo_without_its_sections_gets_them_back(demo: Layout) -> None:
    bare = demo.model_copy(
        update={
            "gaps": {
                i: g
                for i, g in demo.gaps.items()
                if g.track not in ("throat-west", "throat-east", "wye-west", "wye-east")
            }
        }
    )
    topology = topology_of(bare)
    assert len(topology.open_conflicts) == 2
    groups = propose(topology)
    assert len(groups) == 2 and all(g.options for g in groups)
    assert title(topology, groups[1].options[0].sections[0]) == "Round T52", (
        "the tail and both legs, as the demo has it"
    )


def test_on_dc_a_reversing_switch_and_what_else_turns() -> None:
    d = power(track_plans.balloon())
    d.data["brief"] = {"control": "dc", "track_volts": 12}
    tie(d, "F1", "lead", 500)
    layout = d.plain()
    (group,) = propose(topology_of(layout), train=TRAIN)
    made = apply_patch(layout, make_sections(layout, group.options[0].sections))
    assert [v.kind for v in made.devices.values()] == ["booster", "reversing switch"]
    words = " ".join(control_words(topology_of(made)))
    assert "every other train on that outer track turns round with it" in words


def test_three_rail_track_needs_none() -> None:
    d = track_plans.balloon()
    d.data["brief"] = {"control": "ac3", "track_volts": 16}
    layout = d.plain()
    assert not [f for f in check(derive(layout, None)) if f.rule == "train comes back on itself"]
    assert "no section is needed" in control_words(topology_of(layout))[0]


def test_reasons_are_sentences_with_figures(demo: Layout) -> None:
    topology = topology_of(track_plans.balloon())
    for place in places(topology, TRAIN).values():
        said = reasons(topology, place, TRAIN)
        assert all(s.endswith(".") and "!" not in s for s in said) and title(topology, place)


def test_a_split_ring_stands_clear_and_says_which_stubs_to_swap() -> None:
    """Worked by hand: stubs at 0°, 90° and 180°, all fed with A on the left looking out. 180° lies opposite 0°, so
    on the other half of the ring the fewest to swap is one; the widest space between stubs (mod 180°) is 90°, its
    middle 45°."""
    d = power(Draft("Ring"))
    d.node("TT", 0, 0, "turntable", diameter=300)
    for k, (x, y) in enumerate(((150, 0), (0, 150), (-150, 0))):
        d.node(f"E{k}", x * 8, y * 8, "bumper")
        d.track(f"s{k}", f"Stub {k}", f"TT.stub{k + 1}", f"E{k}.1")
        d.data["tracks"][f"s{k}"]["path"][0] = {"x": x, "y": y}
        tie(d, f"F{k}", f"s{k}", 500)
    topology = topology_of(d)
    clear, swap = ring_axis(topology, "TT", [TrackEnd(f"s{k}", "a") for k in range(3)])
    assert clear == pytest.approx(45) and len(swap) == 1 and swap[0] in ("s0", "s2")
    d.data["nodes"]["TT"]["bridge"] = "aligned stub"
    (advice,) = table_advice(topology_of(d))
    assert set(advice.swap) == {"s0", "s2"}, "looking outwards both ways, left of one is right of the other"


def test_a_terminal_off_a_reversing_section_is_told_to_follow_it() -> None:
    """Common practice, no source."""
    d = power(track_plans.turntable_loop(), "turned")
    d.gap("near", 800)
    d.gap("near", 100)
    tie(d, "F1", "near", 400, "turned")
    tie(d, "F2", "near", 2000)
    (advice,) = table_advice(topology_of(d))
    assert "leaves from inside a reversing section" in advice.sentences[-1]


def test_dead_track_gets_the_smallest_remedy() -> None:
    """Common practice, no source: gap both frog rails and feed the leg."""
    facts = derive(siding().plain(), None)
    found = {d.stand.piece.track: d for d in dead_stretches(facts)}
    assert set(found) == {"main", "siding"}
    for dead in found.values():
        # Two cuts and a feeder would do for the one track, and starve the other: both want feeding.
        assert dead.patch is not None and dead.remedy is not None
        assert dead.remedy.count("gap the frog-side rails") == 2
        fed = {p["value"]["track"] for p in dead.patch if p["path"].startswith("/feeders/")}
        assert fed == {"main", "siding"} and "feeders on " in dead.remedy
        after = topology_of(apply_patch(facts.layout, dead.patch))
        assert all(s.status == "always" for p, s in after.stands.items() if p.track == dead.stand.piece.track)
        assert len(after.shorts) <= len(facts.topology.shorts)


def test_a_stretch_nobody_feeds_wants_one_feeder(demo: Layout) -> None:
    facts = derive(demo, None)
    (dead,) = dead_stretches(facts)
    assert dead.stand.status == "never" and dead.remedy == "a feeder on Shed road 3"
    remedy = Remedies(facts).smallest(dead.stand.piece)
    assert remedy is not None and len(remedy) == 1


def test_a_later_choice_says_how_it_stands_to_the_first() -> None:
    (group,) = propose(topology_of(track_plans.across_the_oval(1500)), train=TRAIN)
    first, *later = (o.sections for o in group.options)
    assert why_later(first, first) == "as good as the first"
    assert all(why_later(o, first) == "after the first for turnouts inside, more gaps" for o in later)
