"""What rail touches what: pieces, sections, turnouts, phase."""

from __future__ import annotations

import itertools

import networkx as nx
import pytest

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.rails.phase import orient
from jolly_copper.core.rails.pieces import map_rails, rail_bonds
from jolly_copper.demo.drafting import Draft


def three_way(frog: str = "live", hand: str = "left", lies: str = "through") -> Draft:
    d = Draft("Turnout")
    d.node("A", 0, 0, "bumper")
    d.node("T", 1000, 0, "turnout", hand=hand, frog=frog, lies=lies)
    d.node("B", 2000, 0, "bumper")
    d.node("C", 2000, -300, "bumper")
    d.track("in", "In", "A.1", "T.points")
    d.track("thru", "Through", "T.through", "B.1")
    d.track("div", "Diverging", "T.diverging", "C.1")
    return d


def test_sections_are_the_connected_parts_of_the_pieces(demo: Layout) -> None:
    """Against networkx: the same pieces joined at nodes, cut at gaps."""
    rails = map_rails(demo)
    graph = nx.Graph()
    for pieces in rails.pieces.values():
        graph.add_nodes_from(pieces)
    for (one, one_end, _), (other, other_end, _) in rail_bonds(demo):
        graph.add_edge(
            rails.pieces[one][0 if one_end == "a" else -1], rails.pieces[other][0 if other_end == "a" else -1]
        )
    ours = {frozenset(e) for e in rails.extents}
    assert ours == {frozenset(c) for c in nx.connected_components(graph)}


def test_no_section_of_the_demo_has_two_anchors(demo: Layout) -> None:
    assert all(len(s) <= 1 for s in map_rails(demo).sections_in)


def test_pieces_cover_their_track(demo: Layout) -> None:
    rails = map_rails(demo)
    for track, pieces in rails.pieces.items():
        assert pieces[0].start == 0 and pieces[-1].end == pytest.approx(rails.lengths[track])
        assert all(a.end == b.start for a, b in itertools.pairwise(pieces))


def test_a_live_turnout_joins_left_with_left_on_both_legs() -> None:
    bonds = set(rail_bonds(three_way().plain()))
    assert (("thru", "a", "left"), ("in", "b", "left")) in bonds or (
        ("in", "b", "left"),
        ("thru", "a", "left"),
    ) in bonds
    assert len(bonds) == 4


def test_a_track_drawn_the_other_way_swaps_its_rails() -> None:
    d = three_way()
    d.data["tracks"]["thru"].update(a={"node": "B", "port": "1"}, b={"node": "T", "port": "through"})
    d.data["tracks"]["thru"]["path"].reverse()
    pairs = {frozenset(b) for b in rail_bonds(d.plain())}
    assert frozenset({("in", "b", "left"), ("thru", "b", "right")}) in pairs


@pytest.mark.parametrize(("hand", "inner_of_diverging"), [("left", "right"), ("right", "left")])
def test_a_power_routing_turnout_cuts_the_inner_rail_of_the_leg_it_is_against(
    hand: str, inner_of_diverging: str
) -> None:
    layout = three_way(frog="routing", hand=hand).plain()
    pairs = {frozenset(b) for b in rail_bonds(layout)}
    outer = "left" if inner_of_diverging == "right" else "right"
    assert frozenset({("in", "b", outer), ("div", "a", outer)}) in pairs
    assert frozenset({("in", "b", inner_of_diverging), ("div", "a", inner_of_diverging)}) not in pairs
    frog = frozenset({("thru", "a", outer), ("div", "a", inner_of_diverging)})
    assert frog in pairs, "both inner rails meet in the frog"


def test_a_one_rail_gap_parts_two_sections() -> None:
    d = three_way()
    d.gap("thru", 500, rails="left")
    d.data["circuits"]["c"] = {"name": "C"}
    d.section("near", "Near", "thru", 100, "c")
    d.section("far", "Far", "thru", 900, "c")
    rails = map_rails(d.plain())
    assert (
        rails.section_at("thru", 400) == "near"
        and rails.section_at("thru", 600) == "far"
        and rails.section_at("in", 5) == "near"
    )


def test_two_one_rail_gaps_side_by_side_are_one_cut() -> None:
    d = three_way()
    d.gap("thru", 500, rails="left")
    d.gap("thru", 505, rails="right")
    assert len(map_rails(d.plain()).pieces["thru"]) == 2


def test_phase_agrees_across_every_bond_inside_a_stretch(demo: Layout) -> None:
    rails = map_rails(demo)
    phase = orient(demo, rails)
    for (one, one_end, one_side), (other, other_end, other_side) in rail_bonds(demo):
        a, b = rails.pieces[one][0 if one_end == "a" else -1], rails.pieces[other][0 if other_end == "a" else -1]
        assert (phase[a] == one_side) == (phase[b] == other_side)


def test_every_feeder_of_the_demo_is_in_phase(demo: Layout) -> None:
    rails = map_rails(demo)
    phase = orient(demo, rails)
    assert all(phase[rails.piece_at(f.track, f.at)] == f.a_rail for f in demo.feeders.values())
