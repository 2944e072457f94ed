"""The network as assembled: what is in it, what is one piece of metal, what is left apart."""

from __future__ import annotations

import networkx as nx
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jolly_copper.core.circuits.edits import add_feeder
from jolly_copper.core.circuits.facts import Facts, derive
from jolly_copper.core.circuits.lengths import cut_length, feeder_length, point_on_run, run_length
from jolly_copper.core.circuits.memo import KEPT, Memo, digest
from jolly_copper.core.circuits.network import assemble
from jolly_copper.core.circuits.points import one_point, sample
from jolly_copper.core.circuits.solution import solve
from jolly_copper.core.circuits.staircase import explain
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.power_tree import grow_tree
from jolly_copper.core.layout.reading import read_layout
from jolly_copper.core.materials import joints
from tests.layouts import feeder, plain, random_layout, without


def test_every_part_of_the_copper_is_in_the_network(demo: Layout, demo_facts: Facts) -> None:
    elements = demo_facts.network.elements
    for kind, ids in (
        ("run", demo.runs),
        ("feeder", demo.feeders),
        ("source", [d for d, v in demo.devices.items() if v.kind in ("booster", "supply", "step-down")]),
    ):
        assert {e.owner for e in elements if e.kind == kind} == set(ids)
    for feeder_id in demo.feeders:
        assert {e.conductor for e in elements if e.kind == "feeder" and e.owner == feeder_id} == {"A", "B"}


def test_wire_in_the_network_is_as_long_as_in_the_table(demo: Layout, demo_facts: Facts) -> None:
    """Up to its last terminal, each conductor of a run is there once."""
    for run_id, run in demo.runs.items():
        length = sum(
            p.length for e in demo_facts.network.elements for p in e.parts if p.kind == "wire" and p.owner == run_id
        )
        assert length == pytest.approx(2 * run_length(run), rel=1e-3)
    for feeder_id, item in demo.feeders.items():
        length = sum(
            p.length
            for e in demo_facts.network.elements
            for p in e.parts
            if p.kind == "feeder wire" and p.owner == feeder_id
        )
        assert length == pytest.approx(2 * feeder_length(demo, item))


def test_rail_in_the_network_is_as_long_as_the_track(demo: Layout, demo_facts: Facts) -> None:
    rail = sum(p.length for e in demo_facts.network.elements for p in e.parts if p.kind == "rail")
    assert rail == pytest.approx(2 * sum(demo_facts.rails.lengths.values()), rel=1e-6)


def test_joiners_are_where_the_track_says(demo_facts: Facts) -> None:
    spans = [s for s in demo_facts.network.spans if s.track == "quarry-loader"]
    places = [j for s in spans for j in s.joiners]
    assert places == pytest.approx([180, 360, 540, 720])
    for span in spans:
        assert span.ohms_to(span.end, after=True) == pytest.approx(span.ohms)
        assert span.ohms_to(span.start) == 0 or (span.joiners and span.joiners[0] == span.start)


def test_islands_are_the_connected_parts_that_hold_a_source(demo_facts: Facts) -> None:
    """Against networkx on the same elements."""
    network = demo_facts.network
    graph = nx.Graph((e.a, e.b) for e in network.elements)
    with_source = {n for s in network.sources for n in (s.a, s.b)}
    wanted = {frozenset(c) for c in nx.connected_components(graph) if c & with_source}
    found = {frozenset(np.flatnonzero(i.local >= 0).tolist()) for i in solve(network)}
    assert found == wanted and len(found) == 5, "three boosters, the accessory bus and the one behind its step-down"


def test_districts_of_one_booster_affect_each_other_and_no_others(demo: Layout, demo_facts: Facts) -> None:
    """They share the booster's inside: a train on one lowers the volts on the other by I·r."""
    (part,) = [p for p in demo_facts.parts if p.island.sources[0].device == "booster2"]
    circuit = np.array([demo_facts.circuit[r] for r in part.rows])
    yard, shed = np.flatnonzero(circuit == "yard")[0], np.flatnonzero(circuit == "shed")[0]
    assert part.worked.transfer[yard, shed] == pytest.approx(demo.devices["booster2"].ohms, rel=1e-9)


def test_a_breaker_sits_in_one_conductor_and_a_reverser_after_it(demo_facts: Facts) -> None:
    answer = explain(demo_facts, "staging-1", 1500)
    names = [s.title for s in answer.steps if s.kind == "device"]
    assert set(names) == {"Breaker Staging", "Reverser Staging loop"}
    assert answer.trip == 4 and answer.trip_device == "K7", "a reverser protects nothing"


def test_a_turntable_joins_nothing(demo_facts: Facts) -> None:
    assert not explain(demo_facts, "shed-3", 300).live
    assert explain(demo_facts, "shed-2", 300).live


def test_a_power_routing_turnout_leaves_the_other_leg_dead() -> None:
    d = plain(length=1000)
    d.data["nodes"]["N2"] = {"kind": "turnout", "at": {"x": 1000, "y": 0}, "hand": "left", "frog": "routing"}
    d.data["tracks"]["t"]["b"] = {"node": "N2", "port": "points"}
    d.node("B", 2000, 0, "bumper")
    d.node("C", 2000, -200, "bumper")
    d.track("thru", "Through", "N2.through", "B.1", joiner_every=None)
    d.track("div", "Diverging", "N2.diverging", "C.1", joiner_every=None)
    feeder(d, "F1", "t", 100, "T1")
    for lies, live, dead in (("through", "thru", "div"), ("diverging", "div", "thru")):
        d.data["nodes"]["N2"]["lies"] = lies
        facts = derive(d.plain())
        volts = {
            t: facts.open_volts[[k for k in range(len(facts.points)) if facts.track_of(k) == t]]
            for t in ("thru", "div")
        }
        assert np.allclose(volts[live], 14.4)
        assert np.isnan(volts[dead]).all(), "both its rails stand on one stock rail: no source's volts are between them"


def test_no_load_volts_are_the_sources_own_volts() -> None:
    d = plain()
    feeder(d, "F1", "t", 100, "T1")
    d.data["devices"]["B1"]["volts"] = 16.2
    facts = derive(d.plain())
    assert np.allclose(facts.open_volts, 16.2) and np.allclose(facts.source_volts, 16.2)


def test_zero_ohms_is_one_piece_of_metal_not_a_tiny_number() -> None:
    d = plain()
    feeder(d, "F1", "t", 0, "T1")
    network = assemble(d.plain())
    assert all(e.ohms > 1e-6 and e.a != e.b for e in network.elements)


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 5000))
def test_samples_cover_all_track_without_holes(seed: int) -> None:
    network = assemble(random_layout(seed))
    points = sample(network)
    for track, length in network.rails.lengths.items():
        at = points.at[[network.spans[s].track == track for s in points.span]]
        assert at[0] == 0 and at[-1] == pytest.approx(length)
        assert (np.diff(at) >= -1e-9).all() and np.diff(at).max(initial=0) <= 200 + 1e-6
    assert ((points.share >= 0) & (points.share <= 1)).all()
    for number in range(len(network.spans)):
        mine = points.share[points.span == number]
        assert (np.diff(mine) >= -1e-12).all() and mine[0] == 0 and mine[-1] == pytest.approx(1)


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 5000), st.floats(0, 1))
def test_one_point_is_the_same_place_as_asked(seed: int, share: float) -> None:
    network = assemble(random_layout(seed))
    for track, length in network.rails.lengths.items():
        point = one_point(network, track, share * length)
        span = network.spans[int(point.span[0])]
        assert span.track == track and point.at[0] == pytest.approx(share * length, abs=1e-6)
        assert span.start - 1e-6 <= share * length <= span.end + 1e-6


def test_the_power_tree(demo: Layout) -> None:
    """Against networkx: what feeds what is a directed tree from each booster."""
    tree = grow_tree(demo)
    graph = nx.DiGraph((d.input, d.output) for d in demo.devices.values() if d.input)
    for circuit in demo.circuits:
        assert set(tree.lineage(circuit)) == {circuit} | nx.ancestors(graph, circuit) if circuit in graph else {circuit}
    assert tree.upstream("loop") == ("V1", "K7", "booster3")
    assert tree.source("loop") == ("booster3", demo.devices["booster3"])
    assert tree.district("loop") == "staging" and tree.district("wye") == "quarry" and tree.district("b1") == "b1"
    assert tree.within("wye", frozenset({"quarry"})) and not tree.within("quarry", frozenset({"wye"}))


def test_lengths_by_tape_and_by_drawing(demo: Layout) -> None:
    taped = read_layout(
        without(
            demo,
            runs={
                **demo.model_dump(mode="json")["runs"],
                "W1": {**demo.runs["W1"].model_dump(mode="json"), "tape": 20_000},
            },
        )
    )
    run = taped.runs["W1"]
    assert run_length(run) == 20_000
    drawn_end = point_on_run(demo.runs["W1"], run_length(demo.runs["W1"]))
    assert point_on_run(run, 20_000) == pytest.approx(drawn_end), "the tape stretches the drawing"
    assert cut_length(demo, 1000) == 1200 and cut_length(demo, 1001) == 1205


def test_a_new_feeder_keeps_clear_of_gaps_and_takes_a_free_name(demo_facts: Facts) -> None:
    gap = demo_facts.layout.gaps["G1"]
    patch = add_feeder(demo_facts, "west", gap.track, gap.at - 1)
    assert patch is not None
    value = patch[0]["value"]
    assert gap.at - value["at"] >= 39 and patch[0]["path"] == f"/feeders/{value['label']}"
    assert value["label"] not in demo_facts.layout.feeders
    assert add_feeder(demo_facts, "b1", gap.track, 100) is None, "that circuit has no terminal"


def test_memory_is_bounded_and_keys_tell_things_apart() -> None:
    memo = Memo()
    calls = []

    def work(n: int) -> bytes:
        calls.append(n)
        return bytes(10)

    last = KEPT + 11
    for n in [*range(KEPT + 12), last, 0]:
        memo.answer(digest(n), lambda n=n: work(n), len)  # type: ignore[misc]
    assert calls.count(last) == 1 and calls.count(0) == 2, "the newest is kept, the oldest forgotten"
    assert digest(np.array([1.0, 2.0])) != digest(np.array([1, 2])) != digest(np.array([[1.0, 2.0]]))
    assert digest("ab", "c") != digest("a", "bc") and digest(1) != digest(1.0)


def test_rail_that_was_measured_overrides_the_table() -> None:
    d = plain(ohms_per_metre=0.05)
    feeder(d, "F1", "t", 0, "T1")
    rail = sum(p.ohms for e in assemble(d.plain()).elements for p in e.parts if p.kind == "rail")
    assert rail == pytest.approx(2 * 3 * 0.05)


def test_measured_contacts_override_the_table() -> None:
    d = plain()
    feeder(d, "F1", "t", 0, "T1")
    d.data["terminals"]["T1"].update(kind="tap", ohms=None)
    parts = [p for e in assemble(d.plain()).elements for p in e.parts if p.kind == "contact" and p.owner == "T1"]
    assert {p.ohms for p in parts} == {joints.TERMINAL["tap"][1]}
    d.data["terminals"]["T1"]["ohms"] = 0.2
    parts = [p for e in assemble(d.plain()).elements for p in e.parts if p.kind == "contact" and p.owner == "T1"]
    assert {p.ohms for p in parts} == {0.2}
