"""Where a source stands best: the median of what it feeds, checked against networkx and by hand."""

from __future__ import annotations

import networkx as nx
import numpy as np
import pytest

from jolly_copper.core.drawing.sheet import DrawingError
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.proposals.laying.best_place import _spots, best_place
from jolly_copper.core.proposals.laying.corridors import map_corridors, map_ground
from jolly_copper.core.proposals.laying.steiner import near_minimal_tree
from jolly_copper.demo import unwired_bay
from tests.layouts import feeder, plain


def straight(length: float = 8000) -> Layout:
    d = plain(length)
    d.board("b1", "1", -300, -500, length + 300, 900)
    d.data["runs"], d.data["terminals"] = {}, {}
    return d.plain()


def test_in_the_middle_of_a_straight_track() -> None:
    """8 m of track with the booster at its start: 4 m on, the mean way halves from about 4 m to 2, the farthest from 8
    to 4."""
    found = best_place(straight(), "B1")
    assert not found.here and found.board == "b1"
    assert found.x == pytest.approx(4000, abs=900) and found.mean_then == pytest.approx(2000, rel=0.3)
    assert found.mean_now > 1.5 * found.mean_then and found.farthest_then < 0.7 * found.farthest_now
    moved = apply_patch(straight(), found.patch)
    assert best_place(moved, "B1").here and best_place(moved, "B1").patch == []


def test_no_place_of_its_tree_is_better_by_networkx() -> None:
    """The mean of shortest ways from every place of the tree, by networkx."""
    layout = unwired_bay()
    found = best_place(layout, "booster3")
    corridors = map_corridors(map_ground(layout))
    graph = nx.from_scipy_sparse_array(corridors.cost)
    ends = [corridors.nearest(x, y) for x, y in _spots(layout, {"b3", "quarry", "staging"})]
    tree = near_minimal_tree(corridors.cost, ends)

    def mean(place: int) -> float:
        far = nx.single_source_dijkstra_path_length(graph, place)
        return float(np.mean([far[e] for e in ends]))

    chosen = corridors.nearest(found.x, found.y)
    assert np.hypot(*(corridors.places[chosen] - (found.x, found.y))) < 0.1 and chosen in tree
    assert mean(chosen) == pytest.approx(min(mean(p) for p in tree), rel=1e-6)


def test_breakers_beside_it_come_along_and_its_runs_start_there(demo: Layout) -> None:
    found = best_place(demo, "booster3")
    moved = apply_patch(demo, found.patch)
    for device in ("booster3", "K6", "K7"):
        at = moved.devices[device].at
        assert np.hypot(at.x - found.x, at.y - found.y) < 500
    for run in moved.runs.values():
        if run.fed.device in ("K6", "K7") and run.fed.along < 1:
            at = moved.devices[run.fed.device].at
            assert (run.path[0].x, run.path[0].y) == (at.x, at.y)


def test_never_on_a_board_that_lifts_out_nor_for_what_feeds_nothing() -> None:
    data = straight().model_dump(mode="json")
    data["boards"]["b1"]["outline"] = [
        {"x": x, "y": y} for x, y in ((-300, -500), (2500, -500), (2500, 900), (-300, 900))
    ]
    data["boards"]["b2"] = {
        "name": "2",
        "removable": True,
        "outline": [{"x": x, "y": y} for x, y in ((2500, -500), (8300, -500), (8300, 900), (2500, 900))],
    }
    layout = Layout.model_validate(data)
    found = best_place(layout, "B1")
    assert found.board == "b1"
    d = plain()
    feeder(d, "F1", "t", 100, "T1")
    d.data["circuits"]["spare"] = {"name": "Spare"}
    d.data["devices"]["B2"] = {"kind": "booster", "name": "Spare", "at": {"x": 0, "y": 0}, "output": "spare"}
    with pytest.raises(DrawingError, match="feeds no track"):
        best_place(d.plain(), "B2")
