"""A whole railroad laid from its track and districts alone: nothing dead, all in phase, by every school."""

from __future__ import annotations

import itertools
import random

import numpy as np
import pytest

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.circuits.lengths import run_length
from jolly_copper.core.circuits.whereabouts import extent_circuits
from jolly_copper.core.drawing.sheet import DrawingError
from jolly_copper.core.findings.check import check
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.fields import Bend
from jolly_copper.core.layout.geometry import draw
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.layout.reading import read_layout
from jolly_copper.core.layout.wiring import Run
from jolly_copper.core.proposals.laying.corridors import Way
from jolly_copper.core.proposals.laying.feeding import Spacing, every_of, fresh_places
from jolly_copper.core.proposals.laying.whole import School, lay_railroad
from jolly_copper.core.rails.pieces import map_rails
from jolly_copper.demo.drafting import stripped
from tests.layouts import plain


@pytest.fixture(scope="module")
def bare(demo: Layout) -> Layout:
    found = stripped(demo)
    assert not found.feeders and all(found.circuits[r.circuit].purpose == "accessory" for r in found.runs.values())
    return found


@pytest.mark.parametrize(
    "school", [School(), School("every 3 ft", make="paired cable"), School("every piece of rail", terminal="lever")]
)
def test_the_bare_demo_is_wired_without_a_mistake(bare: Layout, school: School) -> None:
    facts = derive(apply_patch(bare, lay_railroad(bare, school)), "open-day")
    layout = facts.layout
    wrong = {f.rule for f in check(facts)}
    assert not wrong & {
        "piece without feeder",
        "feeder on another circuit",
        "feeder fights a reverser",
        "feeder spacing",
        "feeder length",
        "swapped feeder",
        "feeders in a short",
        "buses joined",
        "phases meet",
        "wires apart",
    }
    assert np.isfinite(facts.volts).all(), "every rail is live"
    assert {r.make for i, r in layout.runs.items() if i not in bare.runs} == {school.make}
    assert {t.kind for i, t in layout.terminals.items() if i not in bare.terminals} == {school.terminal}
    for device in ("V1", "V2"):
        assert any(r.ends_at_device == device for r in layout.runs.values())
    circuits = extent_circuits(layout, facts.rails)
    for i, f in layout.feeders.items():
        assert (
            layout.runs[layout.terminals[f.terminal].run].circuit
            == circuits[facts.rails.extent_of[facts.rails.piece_at(f.track, f.at)]]
        ), i


def test_closer_feeders_are_more_feeders(bare: Layout) -> None:
    spacings: tuple[Spacing, ...] = ("by rail code", "every 3 ft", "every piece of rail")
    counts = [len(apply_patch(bare, lay_railroad(bare, School(s))).feeders) for s in spacings]
    assert counts[0] < counts[1] < counts[2]


def test_feeders_are_never_farther_apart_than_the_school_says(bare: Layout) -> None:
    rails = map_rails(bare)
    for spacing in ("by rail code", "every 3 ft"):
        by_piece: dict[tuple[str, float], list[float]] = {}
        for p in fresh_places(bare, rails, range(len(rails.extents)), spacing):
            piece = rails.piece_at(p.track, p.at)
            by_piece.setdefault((piece.track, piece.start), []).append(p.at)
        for (track, start), places in by_piece.items():
            every = every_of(bare, track, spacing)
            piece = rails.piece_at(track, start + 1)
            ends = [piece.start, *sorted(places), piece.end]
            assert all(b - a <= every + 1 for a, b in itertools.pairwise(sorted(places)))
            assert ends[1] - ends[0] <= every / 2 + 41 and ends[-1] - ends[-2] <= every / 2 + 41


def test_what_is_there_stays_and_only_bare_track_is_added_to(demo: Layout) -> None:
    """The demo forgot shed road 3: that is fed; its other feeders and runs are as they were."""
    after = apply_patch(demo, lay_railroad(demo))
    assert all(after.feeders[i].track == f.track and after.feeders[i].at == f.at for i, f in demo.feeders.items())
    fresh = {f.track for i, f in after.feeders.items() if i not in demo.feeders}
    assert "shed-3" in fresh
    assert all(
        after.runs[i].path == r.path for i, r in demo.runs.items() if i in after.runs and r.circuit in ("west", "yard")
    )
    again = apply_patch(after, lay_railroad(after, School(anew=True)))
    assert set(again.feeders) == set(after.feeders) and derive(again).volts.size
    with pytest.raises(DrawingError, match="All of it is laid"):
        lay_railroad(again)


def test_without_power_there_is_nothing_to_lay() -> None:
    d = plain()
    for kind in ("runs", "terminals", "devices"):
        d.data[kind].clear()
    with pytest.raises(DrawingError, match="place a source"):
        lay_railroad(d.plain())


def test_a_first_track_with_one_booster_needs_no_districts_to_be_laid() -> None:
    d = plain(6000)
    for kind in ("runs", "terminals", "sections"):
        d.data[kind].clear()
    layout = d.plain()
    after = derive(apply_patch(layout, lay_railroad(layout)))
    assert np.isfinite(after.volts).all() and len(after.layout.feeders) == 3, "6 m of code 83: one to every 2.4 m"


def test_progress_is_told_circuit_by_circuit(bare: Layout) -> None:
    told: list[tuple[int, int]] = []
    lay_railroad(bare, told=lambda done, total: told.append((done, total)))
    assert told[-1][0] == told[-1][1] >= 9 and len(told) % told[-1][1] == 0, "once for each round"


WAYS: tuple[Way, ...] = ("under the track", "along the edges", "free")


@pytest.fixture(scope="module")
def by_way(bare: Layout) -> dict[str, Layout]:
    return {way: apply_patch(bare, lay_railroad(bare, School(way=way))) for way in WAYS}


def new_runs(bare: Layout, layout: Layout) -> list[Run]:
    return [r for i, r in layout.runs.items() if i not in bare.runs]


@pytest.mark.parametrize("way", WAYS)
def test_by_every_way_nothing_is_crowded_torn_or_in_the_way(by_way: dict[str, Layout], way: str) -> None:
    """No terminal with more than it takes, no joint that parts without a plug, nothing through a brace; and all rail
    live."""
    facts = derive(by_way[way], "open-day")
    wrong = [
        f.title
        for f in check(facts)
        if f.rule
        in (
            "terminal too crowded",
            "plug missing at a joint",
            "wire through an obstacle",
            "connector not rated for its wire",
        )
        and f.place.id not in ("A1", "A2", "A3")
    ]
    assert wrong == [] and np.isfinite(facts.volts).all()


def test_freely_is_shortest_and_along_the_edges_lies_at_the_edges(bare: Layout, by_way: dict[str, Layout]) -> None:
    length = {way: sum(run_length(r) for r in new_runs(bare, layout)) for way, layout in by_way.items()}
    assert length["free"] <= length["under the track"] < length["along the edges"]
    edges = [b.corners for b in bare.boards.values()]

    def at_an_edge(layout: Layout) -> float:
        near = total = 0.0
        for run in new_runs(bare, layout):
            line = draw(run.path)
            for k in range(40):
                x, y = line.point(line.length * k / 39)
                total += line.length
                near += line.length * (min(_off_edge(o, x, y) for o in edges) < 110)
        return near / total

    by_edges, by_track = at_an_edge(by_way["along the edges"]), at_an_edge(by_way["under the track"])
    assert by_edges > 0.6 and by_edges > by_track + 0.25, (by_edges, by_track)


def _off_edge(outline: list[tuple[float, float]], x: float, y: float) -> float:
    return min(
        draw([Bend(x=a[0], y=a[1]), Bend(x=b[0], y=b[1])]).nearest(x, y)[1]
        for a, b in zip(outline, [*outline[1:], outline[0]], strict=True)
    )


@pytest.mark.parametrize("seed", range(6))
def test_wire_goes_round_whatever_stands_in_the_way(seed: int) -> None:
    """A long board with one track and braces right across its corridor, a gap left on one side of each."""
    rng = random.Random(seed)
    d = plain(6000)
    d.board("b", "1", -200, -300, 6200, 700)
    d.data["runs"], d.data["terminals"] = {}, {}
    for n in range(4):
        x, up = 900 + 1300 * n + rng.uniform(-200, 200), rng.random() < 0.5
        d.obstacle(f"o{n}", f"Brace {n}", "brace", x, -250 if up else -80, x + rng.uniform(40, 200), 160 if up else 600)
    layout = d.plain()
    laid = apply_patch(layout, lay_railroad(layout))
    through = [f for f in check(derive(laid)) if f.rule == "wire through an obstacle" and f.place.kind == "run"]
    assert [f.title for f in through] == [] and laid.feeders


def test_runs_of_different_circuits_keep_apart_as_the_house_says(demo: Layout) -> None:
    data = stripped(demo).model_dump(mode="json")
    data["brief"]["rules"]["runs_apart"] = 60
    bare = read_layout(data)
    layout = apply_patch(bare, lay_railroad(bare))
    closest = []
    for one, other in itertools.combinations(new_runs(bare, layout), 2):
        if one.circuit == other.circuit:
            continue
        a, b = draw(one.path), draw(other.path)
        near = [b.nearest(*a.point(a.length * k / 20))[1] for k in range(3, 18)]
        closest.append(sum(x < 20 for x in near) / len(near))
    assert max(closest) < 0.5, "no two lie in one bundle over most of their way"
    assert np.isfinite(derive(layout).volts).all()
