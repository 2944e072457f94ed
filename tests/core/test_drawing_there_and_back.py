"""Acts of drawing and their ways back: what is done and undone by hand leaves the railroad as it was, and what stands
on track stays where it is on the plan."""

from __future__ import annotations

import math
import random
from typing import Any

import pytest

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.circuits.lengths import point_on_run, point_on_track, terminal_point
from jolly_copper.core.drawing.sheet import DrawingError
from jolly_copper.core.findings.check import check
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.reading import track_length
from jolly_copper.core.rails.pieces import map_rails
from jolly_copper.demo import DEMOS
from tests.core.test_drawing import did, do
from tests.long import either

SMALL = ("tinplate-lane", "millbeck", "harbour-arm")
small = pytest.mark.parametrize("name", SMALL)
seeds = pytest.mark.parametrize("seed", range(either(3, 30)))


def places(layout: Layout) -> dict[tuple[str, str], tuple[float, float]]:
    """Where everything that stands on track or on a run is on the plan."""
    found = {}
    for kind in ("gaps", "feeders", "sections", "signals"):
        for i, thing in getattr(layout, kind).items():
            found[kind, i] = point_on_track(layout, thing.track, thing.at)
    for i, terminal in layout.terminals.items():
        found["terminals", i] = terminal_point(layout, terminal)
    for i, plug in layout.plugs.items():
        found["plugs", i] = point_on_run(layout.runs[plug.run], plug.along)
    return found


def farthest(one: Layout, other: Layout, dx: float = 0, dy: float = 0) -> float:
    """How far anything that is in both stands from its place, mm."""
    a, b = places(one), places(other)
    assert a.keys() == b.keys()
    return max((math.dist((a[k][0] + dx, a[k][1] + dy), b[k]) for k in a), default=0.0)


def whole_length(layout: Layout) -> float:
    return sum(track_length(t) for t in layout.tracks.values())


def some_track(layout: Layout, rng: random.Random, least: float = 300) -> tuple[str, float]:
    """A track of some length and a place well inside it, clear of its gaps."""
    rails = map_rails(layout)
    pieces = [p for ps in rails.pieces.values() for p in ps if p.end - p.start > least]
    piece = rng.choice(sorted(pieces))
    return piece.track, round(rng.uniform(piece.start + least / 3, piece.end - least / 3), 1)


@small
@seeds
def test_split_and_made_one_again(name: str, seed: int) -> None:
    layout = DEMOS[name]()
    track, at = some_track(layout, random.Random(seed))
    parted, done = did(layout, "split", track=track, at=at)
    assert len(parted.tracks) == len(layout.tracks) + 1 and len(parted.nodes) == len(layout.nodes) + 1
    # A curve is drawn in short chords, which begin anew at the joint.
    assert farthest(layout, parted) < 4 and whole_length(parted) == pytest.approx(whole_length(layout), abs=4)
    assert len(map_rails(parted).extents) == len(map_rails(layout).extents), "a joint parts nothing"
    assert done.made is not None
    again = do(parted, "join", node=done.made[1])
    assert len(again.tracks) == len(layout.tracks) and again.nodes.keys() == layout.nodes.keys()
    assert farthest(layout, again) < 8 and whole_length(again) == pytest.approx(whole_length(layout), abs=5)
    assert len(map_rails(again).extents) == len(map_rails(layout).extents)


@small
@seeds
def test_a_gap_cut_and_taken_away(name: str, seed: int) -> None:
    layout = DEMOS[name]()
    track, at = some_track(layout, random.Random(seed))
    cut, done = did(layout, "gap", track=track, at=at)
    assert done.made is not None and len(cut.gaps) == len(layout.gaps) + 1
    back = do(cut, "erase", things=[{"kind": "gap", "id": done.made[1]}])
    assert back.model_dump() == layout.model_dump()


@small
@seeds
def test_a_feeder_tied_and_taken_away(name: str, seed: int) -> None:
    layout, rng = DEMOS[name](), random.Random(seed)
    for _ in range(8):
        track, at = some_track(layout, rng)
        try:
            fed, done = did(layout, "feeder", track=track, at=at)
        except DrawingError as refused:
            assert str(refused)[0].isupper() and str(refused).endswith(".")
            continue
        assert done.made is not None
        back = do(fed, "erase", things=[{"kind": "feeder", "id": done.made[1]}])
        assert back.feeders == layout.feeders and back.runs == layout.runs and back.terminals == layout.terminals
        return
    pytest.fail("nowhere could a feeder be tied")


@small
@seeds
def test_a_bend_put_in_and_taken_out(name: str, seed: int) -> None:
    layout, rng = DEMOS[name](), random.Random(seed)
    track, at = some_track(layout, rng)
    bent = do(layout, "insert bend", track=track, at=at)
    before, after = layout.tracks[track].path, bent.tracks[track].path
    assert len(after) == len(before) + 1
    new = next((k for k, (a, b) in enumerate(zip(before, after, strict=False)) if a != b), len(before))
    assert track_length(bent.tracks[track]) == pytest.approx(track_length(layout.tracks[track]), rel=0.15)
    straight = do(bent, "delete bend", track=track, index=new)
    assert len(straight.tracks[track].path) == len(before)
    assert [(b.x, b.y) for b in straight.tracks[track].path] == [(b.x, b.y) for b in before]


def everything(layout: Layout) -> list[dict[str, str]]:
    """All that can be moved by itself."""
    kinds = {"node": layout.nodes, "board": layout.boards, "device": layout.devices, "obstacle": layout.obstacles}
    return [{"kind": kind, "id": i} for kind, things in kinds.items() for i in things]


@small
@pytest.mark.parametrize(("dx", "dy"), [(1000.0, 0.0), (-250.0, 730.0)])
def test_all_of_it_moved_and_moved_back(name: str, dx: float, dy: float) -> None:
    """Track and what stands on it goes along; wire stays where it is drawn unless it is moved too."""
    layout = DEMOS[name]()
    things = everything(layout)
    moved = do(layout, "move", things=things, dx=dx, dy=dy)
    for i, node in layout.nodes.items():
        assert (moved.nodes[i].at.x, moved.nodes[i].at.y) == pytest.approx((node.at.x + dx, node.at.y + dy), abs=0.11)
    assert whole_length(moved) == pytest.approx(whole_length(layout), abs=1)
    on_track = [k for k in places(layout) if k[0] in ("gaps", "feeders", "sections", "signals")]
    a, b = places(layout), places(moved)
    assert all(math.dist((a[k][0] + dx, a[k][1] + dy), b[k]) < 0.6 for k in on_track)
    back = do(moved, "move", things=things, dx=-dx, dy=-dy)
    assert farthest(layout, back) < 0.6


@small
def test_a_board_copied_leaves_the_first_as_it_was(name: str) -> None:
    layout = DEMOS[name]()
    if not layout.boards:
        pytest.skip("no boards")
    board = next(iter(layout.boards))
    copied, done = did(layout, "copy board", board=board, dx=20_000, dy=0)
    assert done.made is not None and done.made[1] not in layout.boards
    assert len(copied.boards) == len(layout.boards) + 1
    for kind in ("nodes", "tracks", "gaps", "sections"):
        before, after = getattr(layout, kind), getattr(copied, kind)
        assert all(after[i] == thing for i, thing in before.items()), kind
    a, b = layout.boards[board].corners, copied.boards[done.made[1]].corners
    assert [x + 20_000 for x, _ in a] == pytest.approx([x for x, _ in b])
    assert [y for _, y in a] == pytest.approx([y for _, y in b])


@small
@seeds
def test_what_is_taken_away_takes_along_only_what_hung_on_it(name: str, seed: int) -> None:
    """A track taken away: nothing is left that names it, all else that did not hang on it stays."""
    layout, rng = DEMOS[name](), random.Random(seed)
    track = rng.choice(sorted(layout.tracks))
    left = do(layout, "erase", things=[{"kind": "track", "id": track}])
    assert track not in left.tracks
    for kind in ("gaps", "feeders", "sections", "signals", "braking", "isolated"):
        assert all(t.track != track for t in getattr(left, kind).values())
        gone = set(getattr(layout, kind)) - set(getattr(left, kind))
        assert all(getattr(layout, kind)[i].track == track for i in gone), f"{kind} that lay elsewhere"
    assert left.runs == layout.runs and left.devices == layout.devices
    check(derive(left, next(iter(left.scenes), None)))  # what is saved must compute


NOWHERE: list[tuple[str, dict[str, Any]]] = [
    ("split", {"track": "nowhere", "at": 100}),
    ("join", {"node": "nowhere"}),
    ("extend", {"node": "nowhere", "length": 500}),
    ("weld", {"node": "nowhere", "spot": {"x": 0, "y": 0}}),
    ("turn into", {"node": "nowhere", "kind": "bumper"}),
    ("move bend", {"track": "nowhere", "index": 0, "x": 0, "y": 0}),
    ("insert bend", {"track": "nowhere", "at": 100}),
    ("delete bend", {"track": "nowhere", "index": 1}),
    ("radius", {"track": "nowhere", "index": 1, "radius": 500}),
    ("move", {"things": [{"kind": "node", "id": "nowhere"}], "dx": 1, "dy": 1}),
    ("copy board", {"board": "nowhere", "dx": 1, "dy": 1}),
    ("gap", {"track": "nowhere", "at": 100}),
    ("section", {"track": "nowhere", "at": 100, "name": "X"}),
    ("feeder", {"track": "nowhere", "at": 100}),
    ("device", {"input": "nowhere", "name": "X"}),
    ("rehang", {"device": "nowhere", "input": "main"}),
    ("add load", {"kind": "lamp", "name": "X", "circuit": "nowhere"}),
    ("stand load", {"load": "nowhere", "x": 0, "y": 0}),
    ("cross", {"one": "nowhere", "one_at": 1, "other": "elsewhere", "other_at": 1}),
]


@pytest.mark.parametrize(("act", "more"), NOWHERE, ids=[a for a, _ in NOWHERE])
def test_an_act_on_what_is_not_there_is_refused_in_words(act: str, more: dict[str, Any]) -> None:
    """Another window may have taken it away meanwhile."""
    with pytest.raises(DrawingError) as refused:
        did(DEMOS["millbeck"](), act, **more)
    assert str(refused.value)[0].isupper() and str(refused.value).endswith(".")


@small
@pytest.mark.parametrize("share", [0.0, 1.0])
def test_a_track_is_not_split_at_its_very_end(name: str, share: float) -> None:
    layout = DEMOS[name]()
    track = next(iter(layout.tracks))
    with pytest.raises(DrawingError, match="at least 5 mm from its ends"):
        did(layout, "split", track=track, at=share * track_length(layout.tracks[track]))
