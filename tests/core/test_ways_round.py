"""Where trains come back on themselves: textbook figures, and random track against networkx and the rails' own
metal."""

from __future__ import annotations

import networkx as nx
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.rails.conflicts import Conflict, find_conflicts
from jolly_copper.core.rails.odd_cycles import SignedGraph
from jolly_copper.core.rails.pieces import map_rails, rail_bonds
from jolly_copper.core.rails.topology import map_topology
from jolly_copper.core.rails.ways import TrackEnd, map_ways
from jolly_copper.demo.drafting import Draft
from tests import track_plans
from tests.core.test_random_rails import tree_of_track


def conflicts(d: Draft | Layout) -> list[Conflict]:
    layout = d.plain() if isinstance(d, Draft) else d
    return find_conflicts(layout, map_ways(layout))


@pytest.mark.parametrize(
    ("plan", "kinds"),
    [
        (track_plans.oval(), []),
        (track_plans.figure_eight(), []),
        (track_plans.balloon(), ["balloon loop"]),
        (track_plans.dogbone(), ["dogbone", "dogbone"]),
        (track_plans.wye(), ["wye"]),
        (track_plans.across_the_oval(1500), ["return cut-off"]),
        (track_plans.across_the_oval(6000), ["diagonal"]),
        (track_plans.turntable_loop(), ["turntable loop"]),
    ],
)
def test_textbook_figures(plan: Draft, kinds: list[str]) -> None:
    """Common practice, no source: which figures of track turn a train round, and what they are called."""
    assert [c.kind for c in conflicts(plan)] == kinds


def test_the_demo_has_its_staging_loop_and_its_wye(demo: Layout) -> None:
    assert [(c.kind, c.at) for c in conflicts(demo)] == [("balloon loop", "T40"), ("wye", "T50")]
    topology = map_topology(demo, map_rails(demo))
    assert topology.open_conflicts == [], "both have a reverser"


def test_a_slip_joins_what_a_crossing_keeps_apart() -> None:
    """The figure eight's crossing made a slip lets a train leave by the other lobe's end, and so come back."""
    d = track_plans.figure_eight()
    d.data["nodes"]["X"]["kind"] = "slip"
    assert len(conflicts(d)) == 0, "east lobe runs OUT to IN: still no reversal"
    d = Draft("Slip loop")
    d.node("X", 0, 0, "slip")
    d.node("E1", -1000, -300, "bumper")
    d.node("E2", -1000, 300, "bumper")
    d.track("in1", "In 1", "E1.1", "X.west1")
    d.track("in2", "In 2", "E2.1", "X.west2")
    d.track("loop", "Loop", "X.east1", "X.east2", (1500, -900), (1500, 900))
    assert [c.kind for c in conflicts(d)] == ["balloon loop"]


def test_a_traverser_turns_a_train_only_between_stubs_of_one_side() -> None:
    d = Draft("Traverser")
    d.node("TV", 0, 0, "traverser", diameter=1500)
    for k in (1, 2):
        d.node(f"E{k}", -2000, 100 * k, "bumper")
        d.track(f"w{k}", f"West {k}", f"E{k}.1", f"TV.west{k}")
    d.track("loop", "Loop", "TV.east1", "TV.east2", (2000, -500), (2000, 500))
    assert [c.kind for c in conflicts(d)] == ["traverser loop"]
    d.data["tracks"].pop("loop")
    d.data["tracks"].pop("w2")
    d.track("round", "Round", "TV.east1", "TV.west2", (2000, 0), (2000, 3000), (-2500, 3000))
    assert conflicts(d) == []


def test_a_way_round_is_told_in_the_order_a_train_meets_it() -> None:
    found = conflicts(track_plans.across_the_oval(1500))[0]
    assert set(found.link) == {"link"} and "link" in found.tracks
    assert found.length == pytest.approx(1500 + 5500, rel=0.5)


@settings(max_examples=80)
@given(st.integers(0, 100_000), st.integers(0, 4))
def test_conflicts_are_there_exactly_when_the_signed_graph_is_not_bipartite(seed: int, loops: int) -> None:
    """networkx: put a vertex in the middle of every chain that agrees; two colours then fit exactly when none
    conflicts."""
    layout = tree_of_track(seed, size=18, loops=loops)
    ways = map_ways(layout)
    graph = nx.Graph()
    for n, chain in enumerate(ways.chains):
        u, v = ways.core_of[chain.start], ways.core_of[chain.finish]
        if chain.sign == 1:
            nx.add_path(graph, [u, ("middle", n), v])
        else:
            nx.add_path(graph, [u, ("a", n), ("b", n), v])
    assert (not SignedGraph.of(ways).colour()[1]) == nx.is_bipartite(graph)
    found = conflicts(layout)
    assert bool(found) != nx.is_bipartite(graph)
    # Independent and complete: without the links of all there is no conflict, and no fewer chains would do.
    gone = {ways.chain_of[c.link[0]] for c in found}
    assert not SignedGraph.of(ways, gone).colour()[1]
    for one in gone:
        assert SignedGraph.of(ways, gone - {one}).colour()[1]


@settings(max_examples=80)
@given(st.integers(0, 100_000), st.integers(0, 3))
def test_a_conflict_is_left_rail_meeting_right_rail_in_metal(seed: int, loops: int) -> None:
    """Brute force over the rails with every gap closed: some piece's left and right are one net exactly then."""
    layout = tree_of_track(seed, loops=loops).model_copy(update={"gaps": {}})
    rails = map_rails(layout)
    metal = nx.Graph()
    for pieces in rails.pieces.values():
        metal.add_nodes_from((p, side) for p in pieces for side in ("left", "right"))
    for (one, one_end, one_side), (other, other_end, other_side) in rail_bonds(layout):
        a, b = rails.pieces[one][0 if one_end == "a" else -1], rails.pieces[other][0 if other_end == "a" else -1]
        metal.add_edge((a, one_side), (b, other_side))
    shorted = any(nx.has_path(metal, (p, "left"), (p, "right")) for ps in rails.pieces.values() for p in ps)
    assert bool(conflicts(layout)) == shorted


def test_every_track_is_in_one_chain(demo: Layout) -> None:
    ways = map_ways(demo)
    assert sorted(t for c in ways.chains for t in c.names) == sorted(demo.tracks)
    assert sum(c.length for c in ways.chains) == pytest.approx(sum(ways.lengths.values()))


def test_a_train_goes_in_to_out_only(demo: Layout) -> None:
    ways = map_ways(demo)
    arriving = TrackEnd("wye-west", "b")  # at T52's leg: only its points lie ahead
    assert ways.onward(arriving) == (TrackEnd("wye-tail", "a"),)
