"""Zones between full gaps, the shortest drive through them, stubs of tables, and paths in metal."""

from __future__ import annotations

import itertools

import networkx as nx
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.rails.nets import Rail, lies_now
from jolly_copper.core.rails.pieces import SIDES, map_rails
from jolly_copper.core.rails.topology import Topology, map_topology
from jolly_copper.core.rails.ways import TrackEnd, map_ways, stub_angle
from jolly_copper.core.rails.zones import shortest_run
from jolly_copper.demo.drafting import Draft
from tests import track_plans
from tests.core.test_random_rails import tree_of_track
from tests.track_plans import power, routing_yard, tie


def topology_of(d: Draft | Layout) -> Topology:
    layout = d.plain() if isinstance(d, Draft) else d
    return map_topology(layout, map_rails(layout))


@settings(max_examples=60)
@given(st.integers(0, 100_000), st.integers(0, 2))
def test_zones_are_what_full_gaps_part(seed: int, loops: int) -> None:
    """networkx: pieces joined where a node joins them or where a cut leaves a rail; a cut of both rails joins
    nothing."""
    layout = tree_of_track(seed, size=16, loops=loops)
    topology = topology_of(layout)
    graph = nx.Graph()
    full = {(b.track, b.at) for b in topology.zones.borders}
    for pieces in topology.rails.pieces.values():
        graph.add_nodes_from(pieces)
        graph.add_edges_from((a, b) for a, b in itertools.pairwise(pieces) if (a.track, a.end) not in full)
    graph.add_edges_from((a.piece, b.piece) for a, b, *_ in topology.nets.bonds)
    ours = {frozenset(z.pieces) for z in topology.zones.zones}
    assert ours == {frozenset(c) for c in nx.connected_components(graph)}
    cut = {(g.track, round(g.at, 1)) for g in layout.gaps.values() if g.rails == "both"}
    assert len(full) == len(cut)


@settings(max_examples=60)
@given(st.integers(0, 100_000))
def test_a_path_in_metal_is_bonded_all_the_way(seed: int) -> None:
    topology = topology_of(routing_yard(seed))
    settings_now = lies_now(topology.layout)
    graph = nx.Graph()
    graph.add_nodes_from(topology.nets.net_of)
    graph.add_edges_from(
        (a, b) for a, b, s, _ in topology.nets.bonds if s is None or settings_now.get(s.node) == s.lies
    )
    rails = sorted(topology.nets.net_of)
    for goal in rails[1:6]:
        path = topology.nets.path(rails[0], goal, settings_now)
        assert bool(path) == nx.has_path(graph, rails[0], goal)
        assert all(graph.has_edge(a, b) for a, b in itertools.pairwise(path))
        if path:
            assert len(path) == nx.shortest_path_length(graph, rails[0], goal) + 1


@settings(max_examples=60)
@given(st.integers(0, 100_000))
def test_what_rails_carry_is_what_reaches_them(seed: int) -> None:
    """As the turnouts lie: every feeder's potential is on exactly the rails its metal leads to."""
    topology = topology_of(routing_yard(seed))
    now = lies_now(topology.layout)
    graph = nx.Graph()
    graph.add_nodes_from(topology.nets.net_of)
    graph.add_edges_from((a, b) for a, b, s, _ in topology.nets.bonds if s is None or now.get(s.node) == s.lies)
    for f in topology.layout.feeders.values():
        rail = Rail(topology.rails.piece_at(f.track, f.at), f.a_rail)
        circuit = topology.layout.runs[topology.layout.terminals[f.terminal].run].circuit
        for reached in nx.node_connected_component(graph, rail):
            assert (circuit, "A") in topology.live_now[reached]


def test_the_shortest_drive_between_gaps_by_hand() -> None:
    """Lead 2 m, gapped 500 mm before the turnout; loop gapped 300 mm past it on both legs: 500 + 300 = 800 mm."""
    d = power(track_plans.balloon(6000), "turned")
    length = d.length("loop")
    d.gap("lead", 1500)
    d.gap("loop", 300)
    d.gap("loop", length - 300)
    tie(d, "F1", "lead", 1700, "turned")
    topology = topology_of(d)
    zone = topology.zones.at(topology.rails.piece_at("lead", 1800))
    run = shortest_run(topology.zones, topology.rails, topology.ways, frozenset({zone.number}))
    assert run is not None and run.length == pytest.approx(800)
    assert {run.start[0], run.finish[0]} == {"lead", "loop"}, "leg to leg cannot be driven: that would be backing"


def test_a_dead_end_has_no_drive_through() -> None:
    d = power(track_plans.oval())
    d.data["tracks"].pop("south")
    d.gap("north", 1000)
    topology = topology_of(d)
    assert all(
        shortest_run(topology.zones, topology.rails, topology.ways, frozenset({z.number})) is None
        for z in topology.zones.zones
    )


def test_a_pit_ends_a_drive_as_a_gap_does() -> None:
    d = power(track_plans.turntable_loop(), "turned")
    d.gap("near", 500)
    tie(d, "F1", "near", 2000, "turned")
    topology = topology_of(d)
    zone = topology.zones.at(topology.rails.piece_at("near", 2000))
    run = shortest_run(topology.zones, topology.rails, topology.ways, frozenset({zone.number}))
    assert run is not None and run.length == pytest.approx(2850 - 500)


def test_opposite_stubs_are_run_straight_through_and_others_are_not() -> None:
    d = Draft("Table")
    d.node("TT", 0, 0, "turntable", diameter=200)
    places = {"east": (100, 0), "west": (-100, 0), "south": (0, 100), "nearly": (-98, -20)}
    for k, (name, (x, y)) in enumerate(places.items()):
        d.node(f"E{k}", x * 10, y * 10, "bumper")
        d.track(name, name.capitalize(), f"TT.stub{k + 1}", f"E{k}.1")
        d.data["tracks"][name]["path"][0] = {"x": x, "y": y}
    layout = d.plain()
    ways = map_ways(layout)
    assert ways.onward(TrackEnd("east", "a")) == (TrackEnd("west", "a"),)
    assert ways.onward(TrackEnd("south", "a")) == () == ways.onward(TrackEnd("nearly", "a"))
    angles = {n: stub_angle(layout, layout.nodes["TT"], TrackEnd(n, "a")) for n in places}
    assert angles["east"] == 0 and angles["south"] == 90 and angles["west"] == 180 and 185 < angles["nearly"] < 200


def test_where_a_stub_meets_its_pit_counts_and_not_where_it_came_from() -> None:
    """A road that bends before the pit meets it where it ends; one drawn to the middle, by its last leg."""
    layout = Layout.model_validate(
        {
            "name": "Shed",
            "nodes": {
                "TT": {"kind": "turntable", "at": {"x": 0, "y": 0}, "diameter": 400},
                "A": {"kind": "bumper", "at": {"x": 2000, "y": 900}},
                "B": {"kind": "bumper", "at": {"x": 0, "y": 2000}},
            },
            "tracks": {
                "bent": {
                    "name": "Bent",
                    "a": {"node": "TT", "port": "stub1"},
                    "b": {"node": "A", "port": "1"},
                    "path": [{"x": 200, "y": 0}, {"x": 900, "y": 600}, {"x": 2000, "y": 900}],
                },
                "middle": {
                    "name": "To the middle",
                    "a": {"node": "B", "port": "1"},
                    "b": {"node": "TT", "port": "stub2"},
                    "path": [{"x": 0, "y": 2000}, {"x": -500, "y": 500}, {"x": 0, "y": 0}],
                },
            },
        }
    )
    table = layout.nodes["TT"]
    assert stub_angle(layout, table, TrackEnd("bent", "a")) == 0
    assert stub_angle(layout, table, TrackEnd("middle", "b")) == pytest.approx(135)


def test_rails_of_a_three_way_and_a_slip_all_meet() -> None:
    d = Draft("Three way")
    d.node("W", 0, 0, "three-way")
    for port, (x, y) in {
        "points": (-1000, 0),
        "left": (1000, -300),
        "through": (1000, 0),
        "right": (1000, 300),
    }.items():
        d.node(f"E{port}", x, y, "bumper")
        d.track(port, port.capitalize(), f"W.{port}", f"E{port}.1")
    topology = topology_of(d)
    nets = {topology.nets.net_of[Rail(p[0], s)] for p in topology.rails.pieces.values() for s in SIDES}
    assert len(nets) == 2, "one for each side, seen from the points"
    left = {t: topology.nets.net_of[Rail(p[0], "left")] for t, p in topology.rails.pieces.items()}
    assert left["left"] == left["through"] == left["right"] != left["points"], "the points' track runs the other way"


def test_the_longest_train_is_the_sections_own_then_the_layouts_then_the_houses() -> None:
    d = power(track_plans.oval())
    topology = topology_of(d)
    assert topology.longest_train() == topology.layout.brief.rules.longest_train
    d.data["locos"] = {"k": {"name": "K", "idle": 0.1, "running": 0.3, "stall": 1}}
    d.data["trains"] = {
        "a": {"name": "A", "engines": ["k"], "length": 1200},
        "b": {"name": "B", "engines": ["k"], "length": 3000, "metal_wheels": False},
    }
    assert topology_of(d).longest_train() == 1200
    d.section("s", "S", "north", 100, "main")
    d.data["sections"]["s"]["longest"] = 900
    topology = topology_of(d)
    assert topology.longest_train(topology.zones.zones[0]) == 900
