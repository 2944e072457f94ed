"""What a change leaves as it was is shared with the layout before it, and nobody can tell by the answers."""

from __future__ import annotations

import itertools
import random
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from jolly_copper.core.circuits.budget import budget
from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.findings.check import check
from jolly_copper.core.layout.benchwork import board_finder, finder
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.geometry import box_of, crossings, draw, inside
from jolly_copper.core.layout.patching import patched
from jolly_copper.core.layout.power_tree import SOURCES, grow_tree
from jolly_copper.core.layout.reading import LayoutError, read_layout
from jolly_copper.core.rails.dead import live_pairs
from jolly_copper.demo import gannet_bay, signalled_bay
from jolly_copper.telling.answering import answers
from tests.layouts import random_layout


def edits(rng: random.Random, layout: Layout) -> list[dict[str, Any]]:
    """A few changes of the kinds people make."""
    run, track = rng.choice(sorted(layout.runs)), rng.choice(sorted(layout.tracks))
    device = rng.choice(sorted(layout.devices))
    feeder = rng.choice(sorted(layout.feeders)) if layout.feeders else None
    choices: list[dict[str, Any]] = [
        {"op": "replace", "path": f"/runs/{run}/gauge", "value": rng.choice(["10 AWG", "14 AWG", "22 AWG"])},
        {"op": "replace", "path": f"/tracks/{track}/code", "value": rng.choice([55, 83, 100])},
        {"op": "replace", "path": f"/devices/{device}/ohms", "value": rng.choice([0.01, 0.05, 0.3])},
        {"op": "replace", "path": "/notes", "value": str(rng.random())},
    ]
    if feeder:
        choices.append({"op": "remove", "path": f"/feeders/{feeder}"})
    return rng.sample(choices, rng.randint(1, 3))


@pytest.mark.parametrize("seed", range(5))
def test_after_random_edits_the_answers_are_those_from_nothing(seed: int) -> None:
    rng = random.Random(seed)
    data = random_layout(seed, 8).model_dump(mode="json")
    layout = read_layout(data)
    for _ in range(6):
        data_then = patched(data, edits(rng, layout))
        shared, anew = read_layout(data_then, (data, layout)), read_layout(data_then)
        assert shared == anew
        one, other = derive(shared, None), derive(anew, None)
        for column in ("volts", "coin", "source_volts", "least_volts"):
            assert np.array_equal(getattr(one, column), getattr(other, column), equal_nan=True), column
        assert check(one) == check(other)
        assert answers(one, 1).model_dump_json() == answers(other, 1).model_dump_json()
        data, layout = data_then, shared


def test_only_what_the_patch_touched_is_read_again(demo: Layout) -> None:
    data = demo.model_dump(mode="json")
    before = read_layout(data)
    line = before.tracks["quay-lead"].line
    after = read_layout(patched(data, [{"op": "replace", "path": "/runs/W1/gauge", "value": "12 AWG"}]), (data, before))
    assert after.runs["W1"] is not before.runs["W1"] and after.runs["W1"].gauge == "12 AWG"
    assert all(after.tracks[i] is t for i, t in before.tracks.items())
    assert after.tracks["quay-lead"].line is line, "and its path is not worked out again"


def test_what_is_equal_but_not_the_same_is_read_again(demo: Layout) -> None:
    """`true` equals 1 in Python and is no number all the same, so nothing is taken for known by being equal."""
    data = demo.model_dump(mode="json")
    before = read_layout(data)
    copied = {**data, "tracks": {i: dict(t) for i, t in data["tracks"].items()}}
    after = read_layout(copied, (data, before))
    assert after == before and not any(after.tracks[i] is t for i, t in before.tracks.items())
    assert all(after.runs[i] is r for i, r in before.runs.items())


def test_a_change_that_does_not_fit_is_refused_with_what_was_known(demo: Layout) -> None:
    data = demo.model_dump(mode="json")
    known = (data, read_layout(data))
    with pytest.raises(LayoutError, match="no track"):
        read_layout(patched(data, [{"op": "remove", "path": "/tracks/quay-lead"}]), known)


Corner = tuple[float, float]


def outlines(rng: random.Random, count: int) -> list[tuple[str, list[Corner]]]:
    found = []
    for n in range(count):
        x, y, w, h = rng.uniform(0, 9000), rng.uniform(0, 4000), rng.uniform(50, 3000), rng.uniform(50, 900)
        leaning = [(x, y), (x + w, y), (x + w * 0.7, y + h), (x, y + h * 0.8)]
        square = [(x, y), (x + w, y), (x + w, y + h), (x, y + h)]
        crossed = [(x, y), (x + w, y), (x, y + h), (x + w, y + h)]
        found.append((f"b{n}", rng.choice([leaning, square, square[::-1], crossed])))
    return found


@given(st.integers(0, 200))
def test_the_board_of_a_place_is_the_one_a_plain_search_finds(seed: int) -> None:
    rng = random.Random(seed)
    boards = outlines(rng, rng.randint(1, 30))
    find = finder(boards)
    for _ in range(60):
        x, y = rng.uniform(-500, 12_500), rng.uniform(-500, 5500)
        assert find(x, y) == next((i for i, corners in boards if inside(corners, x, y)), None)
    for i, corners in boards:
        assert find(*corners[0]) is not None, i


def test_beside_all_boards_and_without_any_there_is_none(demo: Layout) -> None:
    assert finder([])(0, 0) is None
    assert board_finder(demo)(-1e6, -1e6) is None
    board = next(iter(demo.boards.values()))
    assert board_finder(demo)(*board.corners[0]) is not None


@given(st.integers(0, 300))
def test_crossings_passed_over_by_boxes_are_none(seed: int) -> None:
    """Against trying every segment with every edge."""
    rng = random.Random(seed)
    layout = random_layout(seed % 20, 6)
    line = rng.choice(list(layout.runs.values())).line
    shapes = [corners for _, corners in outlines(rng, 6)]
    found = crossings(line, shapes)
    plain = 0
    for corners in shapes:
        edges = list(zip(corners, [*corners[1:], corners[0]], strict=True))
        for k in range(len(line.xs) - 1):
            plain += sum(_cross((line.xs[k], line.ys[k]), (line.xs[k + 1], line.ys[k + 1]), a, b) for a, b in edges)
    assert len(found) == plain and found == sorted(found)


def _cross(p: Corner, q: Corner, a: Corner, b: Corner) -> bool:
    d = (q[0] - p[0]) * (b[1] - a[1]) - (q[1] - p[1]) * (b[0] - a[0])
    if abs(d) < 1e-12:
        return False
    t = ((a[0] - p[0]) * (b[1] - a[1]) - (a[1] - p[1]) * (b[0] - a[0])) / d
    u = ((a[0] - p[0]) * (q[1] - p[1]) - (a[1] - p[1]) * (q[0] - p[0])) / d
    return 0 <= t < 1 and 0 <= u < 1


def test_the_box_of_a_line_holds_all_of_it() -> None:
    for track in gannet_bay().tracks.values():
        left, top, right, bottom = draw(track.path).box
        assert all(left <= x <= right for x in track.line.xs) and all(top <= y <= bottom for y in track.line.ys)
    assert box_of(((0, 5), (3, -1), (2, 2))) == (0, -1, 3, 5)


@pytest.mark.parametrize("layout", [gannet_bay(), signalled_bay()], ids=["demo", "signalled"])
def test_pairs_that_are_live_together_are_those_of_all_pairs(layout: Layout) -> None:
    facts = derive(layout, None)
    nets, sources = facts.topology.nets, facts.topology.sources
    carrying: dict[Any, set[int]] = {}
    for net, feeds in nets.fed.items():
        for _, potential in feeds:
            carrying.setdefault(potential, set()).add(net)
    plain = {
        (frozenset(carrying[a]), frozenset(carrying[b]))
        for a, b in itertools.product(carrying, carrying)
        if sources.works(a, b)
    }
    assert set(live_pairs(nets, sources)) == plain and plain


@pytest.mark.parametrize("layout", [gannet_bay(), signalled_bay()], ids=["demo", "signalled"])
def test_amps_asked_are_those_of_asking_every_train_of_every_device(layout: Layout) -> None:
    scene = layout.scenes["open-day"]
    tree = grow_tree(layout)
    by_device = {a.device: a for a in budget(layout, scene)}
    for device, asked in by_device.items():
        below = frozenset({layout.devices[device].output})
        for placed in scene.placements:
            if placed.circuits and not placed.uses and placed.track is None:
                may = any(tree.within(c, below) for c in layout.circuits if tree.within(c, frozenset(placed.circuits)))
                assert (placed.train in asked.trains) == may, (device, placed.train)
    sources = [a for a in by_device.values() if layout.devices[a.device].kind in SOURCES]
    assert sum(a.worst for a in sources) > 3
