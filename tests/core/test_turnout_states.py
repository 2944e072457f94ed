"""Shorts and dead track for every turnout setting, against brute force over all settings."""

from __future__ import annotations

import itertools

import networkx as nx
from hypothesis import given, settings
from hypothesis import strategies as st

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.rails.nets import Rail
from jolly_copper.core.rails.phase import orient
from jolly_copper.core.rails.pieces import map_rails, opposite
from jolly_copper.core.rails.topology import Topology, map_topology
from jolly_copper.demo.drafting import Draft
from tests import track_plans
from tests.track_plans import power, routing_yard, tie


def topology_of(d: Draft | Layout) -> Topology:
    layout = d.plain() if isinstance(d, Draft) else d
    return map_topology(layout, map_rails(layout))


def states(layout: Layout) -> list[dict[str, str]]:
    routing = sorted(i for i, n in layout.nodes.items() if n.kind == "turnout" and n.frog == "routing")
    return [
        dict(zip(routing, s, strict=True)) for s in itertools.product(("through", "diverging"), repeat=len(routing))
    ]


def metal(topology: Topology, state: dict[str, str]) -> list[set[Rail]]:
    """Rails that are one piece of metal in a state, by networkx over the bonds."""
    graph = nx.Graph()
    graph.add_nodes_from(topology.nets.net_of)
    graph.add_edges_from((a, b) for a, b, s, _ in topology.nets.bonds if s is None or state[s.node] == s.lies)
    return [set(c) for c in nx.connected_components(graph)]


def carried(topology: Topology, state: dict[str, str]) -> dict[Rail, set[tuple[str, str]]]:
    """What every rail carries in a state: (circuit, conductor), from the feeders themselves."""
    layout, found = topology.layout, {}
    for group in metal(topology, state):
        put = set()
        for f in layout.feeders.values():
            piece = topology.rails.piece_at(f.track, f.at)
            circuit = layout.runs[layout.terminals[f.terminal].run].circuit
            put |= {(circuit, "A")} if Rail(piece, f.a_rail) in group else set()
            put |= {(circuit, "B")} if Rail(piece, opposite(f.a_rail)) in group else set()
        found |= dict.fromkeys(group, put)
    return found


@settings(max_examples=80)
@given(st.integers(0, 100_000))
def test_shorts_are_found_in_exactly_the_states_that_have_them(seed: int) -> None:
    topology = topology_of(routing_yard(seed))
    for state in states(topology.layout):
        brute = any(len(put) > 1 for put in carried(topology, state).values())
        ours = [s for s in topology.shorts if all(state[x.node] == x.lies for x in s.settings)]
        assert bool(ours) == brute, (state, ours)
        for short in ours:
            groups = metal(topology, state)
            assert any(set(short.rails) <= g for g in groups), "the path that proves it is one piece of metal"


@settings(max_examples=80)
@given(st.integers(0, 100_000))
def test_the_proof_path_runs_from_feeder_to_feeder(seed: int) -> None:
    topology = topology_of(routing_yard(seed))
    for short in topology.shorts:
        ends = [topology.layout.feeders[f] for f in (short.one, short.other)]
        assert (short.rails[0].piece.track, short.rails[-1].piece.track) == (ends[0].track, ends[1].track)


@settings(max_examples=80)
@given(st.integers(0, 100_000))
def test_dead_track_against_every_state(seed: int) -> None:
    topology = topology_of(routing_yard(seed))
    root = topology.sources.root
    every = [(s, carried(topology, s)) for s in states(topology.layout)]

    def lives(on: dict[Rail, set[tuple[str, str]]], piece: object) -> bool:
        left, right = on[Rail(piece, "left")], on[Rail(piece, "right")]  # type: ignore[arg-type]
        # A rail that carries both conductors is shorted, which is told elsewhere; it is not dead.
        return any(a[1] != b[1] and root[a[0]] == root[b[0]] for a in left for b in right)

    for piece, stand in topology.stands.items():
        alive = [lives(on, piece) for _, on in every]
        match stand.status:
            case "always":
                assert all(alive)
            case "never":
                assert not any(alive)
            case "lined up":
                assert any(alive) and not all(alive)
            case "dead when lined up":
                case = dict(stand.case)
                hit = [
                    a
                    for (s, _), a in zip(every, alive, strict=True)
                    if all(s[n] == lies for n, lies in case.items() if n in s)
                ]
                assert hit and not any(hit), "the case named leaves it dead whatever the other turnouts do"


def siding(frog: str = "routing") -> Draft:
    """A main with a siding between two turnouts; feeders on the main outside."""
    d = power(Draft("Siding"))
    d.node("A", -2000, 0, "bumper")
    d.node("B", 6000, 0, "bumper")
    d.turnout("T1", 0, 0, "right", frog=frog)
    d.turnout("T2", 4000, 0, "left", frog=frog)
    d.track("west", "West", "A.1", "T1.points")
    d.track("east", "East", "T2.points", "B.1")
    d.track("main", "Main", "T1.through", "T2.through")
    d.track("siding", "Siding", "T1.diverging", "T2.diverging", (1000, 300), (3000, 300))
    tie(d, "F1", "west", 500)
    tie(d, "F2", "east", 500)
    return d


def test_a_siding_between_power_routing_turnouts() -> None:
    """Common practice, no source: fed outside only, it is dead when both lie against it, shorted when they disagree."""
    topology = topology_of(siding())
    kinds = {(s.kind, tuple(f"{x.node} {x.lies}" for x in s.settings)) for s in topology.shorts}
    assert kinds == {
        ("short", ("T1 diverging", "T2 through")),
        ("short", ("T1 through", "T2 diverging")),
    }
    stands = {p.track: s.status for p, s in topology.stands.items()}
    assert stands["west"] == stands["east"] == "always"
    assert stands["siding"] != "always" and stands["main"] != "always"


def test_a_siding_between_live_turnouts_is_always_live() -> None:
    topology = topology_of(siding("live"))
    assert topology.shorts == [] and {s.status for s in topology.stands.values()} == {"always"}


def test_both_legs_of_a_power_routing_frog_fed_is_a_short_in_every_state() -> None:
    d = siding()
    d.data["feeders"].pop("F2")
    tie(d, "F3", "main", 800)
    tie(d, "F4", "siding", 800)
    topology = topology_of(d)
    always = [s for s in topology.shorts if not s.settings]
    assert always and all(s.kind == "short" for s in always)


def test_a_detectors_common_wire_is_no_clash() -> None:
    d = siding("live")
    d.data["circuits"]["sensed"] = {"name": "Sensed"}
    d.data["devices"]["D1"] = {
        "kind": "detector",
        "name": "D1",
        "at": {"x": 0, "y": 0},
        "input": "main",
        "output": "sensed",
        "sensed": "A",
    }
    d.bus("R9", "sensed", "18 AWG", [(0, 300), (500, 300)], fed={"device": "D1"})
    d.gap("main", 2000, rails="left")
    d.gap("siding", 2000, rails="left")
    d.data["feeders"].pop("F2")
    tie(d, "F5", "east", 700, "sensed")
    assert topology_of(d).shorts == [], "only the sensed rail is gapped; the other is one wire for both"


def test_a_balloon_loop_fed_on_both_sides_is_told_by_its_own_metal() -> None:
    d = power(track_plans.balloon())
    tie(d, "F1", "lead", 500)
    topology = topology_of(d)
    assert topology.zones.zones[0].odd
    assert [s.kind for s in topology.shorts] == ["short"] and topology.shorts[0].settings == ()


@settings(max_examples=60)
@given(st.integers(0, 100_000))
def test_the_frog_says_nothing_of_how_track_faces(seed: int) -> None:
    """Wherever a train can run from one piece to the next, conductor A stays on the same hand, whatever the frogs."""
    layout = routing_yard(seed).plain()
    topology = topology_of(layout)
    if topology.conflicts:
        return
    phase = orient(layout, topology.rails)
    for bond in topology.nets.bonds:
        if bond.faces:
            same = bond.one.side == bond.other.side
            assert (phase[bond.one.piece] == phase[bond.other.piece]) == same
