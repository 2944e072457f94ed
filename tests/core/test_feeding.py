"""Distances to the nearest feeder and joiners in a row, against networkx, and the rules that use them."""

from __future__ import annotations

import itertools

import networkx as nx
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jolly_copper.core.circuits.facts import Facts, derive
from jolly_copper.core.findings.check import check
from jolly_copper.core.findings.feeding import _far_from_feeders
from jolly_copper.core.rails.pieces import rail_bonds
from tests.layouts import feeder, plain, random_layout


def brute(facts: Facts) -> np.ndarray:  # type: ignore[type-arg]
    """mm along the track from each sample point to the nearest feeder, never across a gap."""
    graph = nx.Graph()
    rails, points = facts.rails, facts.points
    for pieces in rails.pieces.values():
        for piece in pieces:
            rows = [k for k, s in enumerate(points.span) if facts.network.spans[s].piece == piece]
            for a, b in itertools.pairwise(rows):
                graph.add_edge(a, b, weight=max(points.at[b] - points.at[a], 0.0))
            if rows:
                graph.add_edge(rows[0], ("a", piece), weight=0.0)
                graph.add_edge(rows[-1], ("b", piece), weight=0.0)
            for item in facts.layout.feeders.values():
                if rails.piece_at(item.track, item.at) == piece:
                    near = min(rows, key=lambda k: abs(points.at[k] - item.at))
                    graph.add_edge(near, "feeder", weight=0.0)
    for (one, one_end, _), (other, other_end, _) in rail_bonds(facts.layout):
        p = rails.pieces[one][0 if one_end == "a" else -1]
        q = rails.pieces[other][0 if other_end == "a" else -1]
        graph.add_edge((one_end, p), (other_end, q), weight=0.0)
    found = np.full(len(points), np.inf)
    if "feeder" not in graph:
        return found
    # Through a feeder one does not travel on: it is where the way ends.
    for start in range(len(points)):
        without = graph.copy()
        far = nx.single_source_dijkstra_path_length(without, start)
        found[start] = far.get("feeder", np.inf)
    return found


@settings(max_examples=8, deadline=None)
@given(st.integers(0, 3000))
def test_distance_to_the_nearest_feeder(seed: int) -> None:
    facts = derive(random_layout(seed, tracks=7))
    ours = np.array(_far_from_feeders(facts)[0])
    wanted = brute(facts)
    assert (np.isfinite(ours) == np.isfinite(wanted)).all()
    live = np.isfinite(wanted)
    assert np.allclose(ours[live], wanted[live], atol=0.5)


@pytest.mark.parametrize(
    ("every", "spot", "joiners"), [(300.0, 1000.0, 0), (300.0, 1340.0, 1), (300.0, 2950.0, 6), (500.0, 2950.0, 3)]
)
def test_joiners_in_a_row_by_hand(every: float, spot: float, joiners: int) -> None:
    """A feeder at 1 m on a 3 m track; joiners at every 300 (or 500) mm beyond it are counted one by one."""
    d = plain(joiner_every=every)
    feeder(d, "F1", "t", 1000, "T2")
    facts = derive(d.plain())
    _, counted = _far_from_feeders(facts)
    row = int(np.argmin(np.abs(facts.points.at - spot)))
    assert counted[row] == joiners


@pytest.mark.parametrize(
    ("code", "apart", "found"), [(55, 850.0, False), (55, 1000.0, True), (83, 2300.0, False), (83, 2600.0, True)]
)
def test_spacing_by_rail_code(code: int, apart: float, found: bool) -> None:
    """Common practice, no source: every 3 ft for code 55, every 6 to 8 ft for code 83 and 100."""
    d = plain(length=apart + 40, joiner_every=None, code=code)
    for n, at in enumerate((20.0, apart + 20)):
        feeder(d, f"F{n}", "t", at, "T1" if n == 0 else "T2", tape=200)
    d.data["nodes"]["N1"]["kind"] = d.data["nodes"]["N2"]["kind"] = "joint"
    d.data["devices"]["B1"]["trip_amps"] = 3
    rules = {f.rule for f in check(derive(d.plain()))}
    assert ("feeder spacing" in rules) == found


def test_a_layout_without_feeders_is_dead_not_sparse() -> None:
    rules = {f.rule for f in check(derive(plain().plain()))}
    assert rules == {"piece without feeder"}


def test_a_stub_beside_a_gap_is_judged_by_its_neighbours() -> None:
    d = plain(length=3000, joiner_every=None, code=55)
    for n, at in enumerate((300.0, 1100.0, 1900.0, 2600.0)):
        feeder(d, f"F{n}", "t", at, "T2", tape=200)
    d.gap("t", 2850)
    found = [f for f in check(derive(d.plain())) if f.rule in ("feeder spacing", "piece without feeder")]
    assert [f.rule for f in found] == ["piece without feeder"], "150 mm beyond the gap is dead, and that is said once"
