"""Sections and phase on random track, against brute force over the rails themselves."""

from __future__ import annotations

import random

import networkx as nx
from hypothesis import given, settings
from hypothesis import strategies as st

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.rails.phase import orient
from jolly_copper.core.rails.pieces import map_rails, opposite, rail_bonds
from jolly_copper.demo.drafting import Draft
from tests.track_plans import close, grow


def tree_of_track(seed: int, size: int = 14, loops: int = 0) -> Layout:
    """Random turnouts grown from one end, with gaps; `loops` joins loose ends into loops."""
    rng = random.Random(seed)
    d = Draft(f"Tree {seed}")
    open_ends = grow(d, rng, size, lambda: rng.choice(["live", "dead"]), gaps=0.25)
    for k in range(loops):
        if len(open_ends) >= 2:
            close(d, f"loop{k}", open_ends, 300.0 * (size + 2), 4000.0 + 500 * k)
    return d.plain()


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 100_000), st.integers(0, 2))
def test_sections_are_what_one_can_walk_without_crossing_a_gap(seed: int, loops: int) -> None:
    layout = tree_of_track(seed, loops=loops)
    rails = map_rails(layout)
    walk = nx.Graph()
    for pieces in rails.pieces.values():
        walk.add_nodes_from(pieces)
    ends: dict[str, list[tuple[str, object]]] = {}
    for i, track in layout.tracks.items():
        ends.setdefault(track.a.node, []).append((track.a.port, rails.pieces[i][0]))
        ends.setdefault(track.b.node, []).append((track.b.port, rails.pieces[i][-1]))
    for node_id, here in ends.items():
        bare = all(port != "points" for port, _ in here)  # its legs still meet in the turnout's own rails
        for k, (port, piece) in enumerate(here):
            for other_port, other in here[k + 1 :]:
                if bare or layout.nodes[node_id].kind == "joint" or "points" in (port, other_port):
                    walk.add_edge(piece, other)
    assert {frozenset(e) for e in rails.extents} == {frozenset(c) for c in nx.connected_components(walk)}


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 100_000))
def test_without_loops_every_rail_can_agree(seed: int) -> None:
    """A tree of track never comes back on itself: one colouring fits every bond and every gap."""
    layout = tree_of_track(seed)
    rails = map_rails(layout)
    phase = orient(layout, rails)
    assert set(phase) == set(rails.extent_of)
    for (one, one_end, one_side), (other, other_end, other_side) in rail_bonds(layout):
        a, b = rails.pieces[one][0 if one_end == "a" else -1], rails.pieces[other][0 if other_end == "a" else -1]
        assert (phase[a] == one_side) == (phase[b] == other_side)
    for pieces in rails.pieces.values():
        assert len({phase[p] for p in pieces}) == 1, "and gaps do not turn a straight track round"


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 100_000), st.integers(0, 2))
def test_two_rails_never_meet_in_a_stretch_that_can_be_coloured(seed: int, loops: int) -> None:
    """Brute force: join every bonded rail end; a piece whose left and right become one net is a balloon, and only then
    does the colouring disagree with some bond."""
    layout = tree_of_track(seed, loops=loops)
    rails = map_rails(layout)
    metal = nx.Graph()
    for pieces in rails.pieces.values():
        metal.add_nodes_from((p, side) for p in pieces for side in ("left", "right"))
    bonds = []
    for (one, one_end, one_side), (other, other_end, other_side) in rail_bonds(layout):
        a, b = rails.pieces[one][0 if one_end == "a" else -1], rails.pieces[other][0 if other_end == "a" else -1]
        metal.add_edge((a, one_side), (b, other_side))
        bonds.append((a, one_side, b, other_side))
    shorted = any(nx.has_path(metal, (p, "left"), (p, "right")) for p in rails.extent_of)
    phase = orient(layout, rails)
    disagrees = any((phase[a] == s) != (phase[b] == t) for a, s, b, t in bonds)
    assert disagrees == shorted


def test_opposite_is_its_own_inverse() -> None:
    assert opposite(opposite("left")) == "left" and opposite("left") == "right"
