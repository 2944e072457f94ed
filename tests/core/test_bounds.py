"""What may be saved computes: bounds in words, points that stand wider on long track, patches that stay small."""

from __future__ import annotations

import copy
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.circuits.loads import too_near
from jolly_copper.core.circuits.memo import MEMO
from jolly_copper.core.circuits.network import assemble
from jolly_copper.core.circuits.points import MOST_POINTS, sample
from jolly_copper.core.layout.bounds import MOST_OPERATIONS
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import patched
from jolly_copper.core.layout.reading import LayoutError, read_layout
from jolly_copper.core.layout.saved import read_saved_told
from tests.large import row_of_tracks
from tests.layouts import plain
from tests.long import either


def small() -> dict[str, Any]:
    return plain().plain().model_dump(mode="json")


def problem(data: dict[str, Any]) -> tuple[str, str]:
    with pytest.raises(LayoutError) as refused:
        read_layout(data)
    return refused.value.problems[0].path, refused.value.problems[0].sentence


def test_a_place_ten_kilometres_away_is_refused_beside_its_field() -> None:
    data = small()
    data["tracks"]["t"]["path"][1]["x"] = 1e7
    path, sentence = problem(data)
    assert path == "/tracks/t/path/1/x" and "1 km" in sentence and "10 km away" in sentence


def test_joiners_closer_than_there_is_track_are_refused_beside_their_field() -> None:
    data = small()
    data["tracks"]["t"]["joiner_every"] = 0.001
    path, sentence = problem(data)
    assert path == "/tracks/t/joiner_every" and "20 mm" in sentence


def test_more_joiners_or_track_or_bends_or_things_than_can_be_worked_out_are_refused() -> None:
    many = row_of_tracks(60, 15_000, 10, joiner_every=20)
    assert "joiners" in problem(many)[1]
    far = row_of_tracks(2, 1000, 1)
    for track in far["tracks"].values():
        track |= {"tape": 1e7 + 0, "joiner_every": None}
    far["tracks"]["t0"]["tape"] = far["tracks"]["t1"]["tape"] = 1e7
    read_layout(far)  # 20 km: just what may be
    bent = row_of_tracks(130, 1000, 10)
    for track in bent["tracks"].values():
        (a, b), steps = track["path"], 499
        track["path"] = [{"x": a["x"] + (b["x"] - a["x"]) * k / steps, "y": 0} for k in range(steps + 1)]
    assert "bend" in problem(bent)[1]
    crowd = small()
    crowd["scenes"] = {f"s{k}": {"name": "S", "placements": []} for k in range(201)}
    assert problem(crowd) == ("/scenes", "A layout holds 200 scenes at most; this one has 201. Part it in two.")


def test_what_an_earlier_version_let_be_saved_is_set_right_and_told() -> None:
    data = small()
    data["boards"] = {"b": {"name": "B", "outline": [{"x": 0, "y": 0}, {"x": 5e6, "y": 0}, {"x": 0, "y": -7e6}]}}
    data["tracks"]["t"]["joiner_every"] = 1
    kept = copy.deepcopy(data)
    layout, told = read_saved_told(data)
    assert [p.x for p in layout.boards["b"].outline] == [0, 1e6, 0] and layout.boards["b"].outline[2].y == -1e6
    assert layout.tracks["t"].joiner_every == 20 and len(told) == 3 and all("now" in t for t in told)
    assert data == kept and read_saved_told(small())[1] == ()


@pytest.mark.parametrize(("count", "length", "fed"), [(1, 900_000, 1), (100, 9_000, 1), (700, 300, 10), (300, 300, 1)])
def test_points_stand_wider_where_there_would_be_too_many(count: int, length: float, fed: int) -> None:
    layout = read_layout(row_of_tracks(count, length, fed))
    network = assemble(layout)
    points = sample(network)
    assert len(points) <= MOST_POINTS + 2 * len(layout.feeders) + count
    for track, spans in network.spans_on.items():
        rows = np.isin(points.span, spans)
        assert rows.any() and points.at[rows].max() == pytest.approx(network.rails.lengths[track])
        assert (np.diff(points.at[rows]) >= 0).all() and ((points.share[rows] >= 0) & (points.share[rows] <= 1)).all()


def test_wide_points_tell_the_same_volts_as_close_ones() -> None:
    """The same railroad, its points thinned by hand: every figure is one the close points have at that place."""
    layout = read_layout(row_of_tracks(12, 4000, 3))
    network = assemble(layout)
    close, wide = sample(network), sample(network, most=60)
    assert len(wide) < 110 < len(close)
    facts = derive(layout)
    part = facts.parts[0]
    own = np.diagonal(part.worked.transfer)
    reach = part.island.reach(wide)
    z = np.diagonal(part.island.between(reach, wide))
    for k in range(len(wide)):
        same = (close.span == wide.span[k]) & (np.abs(close.at - wide.at[k]) < 200.1)
        extra = 2 * wide.share[k] * (1 - wide.share[k]) * wide.ohms[k]
        low, high = own[same].min(), own[same].max()
        assert low - 2e-3 <= z[k] + extra <= high + 2e-3


def test_trains_keep_their_distance_between_wide_points_too() -> None:
    network = assemble(read_layout(row_of_tracks(8, 1000, 2)))
    points = sample(network, most=10)
    where = points.at + 1000 * np.array([int(network.spans[s].track[1:]) for s in points.span])
    near = too_near(network, points, 1500.0)
    apart = np.abs(where[:, None] - where[None, :])
    assert (near == (apart < 1500)).all()


def test_a_kilometre_and_a_thousand_short_tracks_take_little_memory() -> None:
    """Not timed: what is kept tells enough. The full square of the points at 200 mm would be 200 MB for each matrix."""
    for data in (row_of_tracks(100, 9_000, 1), row_of_tracks(1000, 300, 10)):
        MEMO.forget()
        facts = derive(read_layout(data))
        kept = sum(p.worked.transfer.nbytes + p.worked.inductance.nbytes for p in facts.parts)
        kept += sum(p.island.resistance.nbytes for p in facts.parts)
        assert kept < 60e6 and np.isfinite(facts.volts).all()
    MEMO.forget()


# --- patches


def test_copies_of_copies_stop_before_they_fill_the_memory() -> None:
    doubling = [
        {"op": "copy", "from": "/tracks", "path": "/accepted/x"},
        *[{"op": "copy", "from": "/accepted", "path": f"/accepted/c{k}"} for k in range(40)],
    ]
    with pytest.raises(LayoutError, match="larger than 8 MB"):
        patched(small(), doubling)
    with pytest.raises(LayoutError, match="operations at most"):
        patched(small(), [{"op": "test", "path": "/name", "value": "x"}] * (MOST_OPERATIONS + 1))


OPERATIONS = st.lists(
    st.one_of(
        st.fixed_dictionaries(
            {
                "op": st.just("replace"),
                "path": st.sampled_from(["/tracks/t/name", "/tracks/u/name", "/brief/units", "/runs/R1/path/0/x"]),
                "value": st.just("new"),
            }
        ),
        st.fixed_dictionaries(
            {
                "op": st.sampled_from(["move", "copy"]),
                "from": st.sampled_from(["/tracks/t", "/tracks", "/runs/R1", "/runs/R1/path", "/name"]),
                "path": st.sampled_from(["/tracks/u", "/elsewhere", "/runs/R9", "/tracks/t/extra", "/notes"]),
            }
        ),
        st.fixed_dictionaries(
            {"op": st.just("remove"), "path": st.sampled_from(["/tracks/t", "/elsewhere/t", "/runs/R1/path/0"])}
        ),
        st.fixed_dictionaries(
            {"op": st.just("add"), "path": st.sampled_from(["/elsewhere/t/name", "/tracks/u/x"]), "value": st.just(1)}
        ),
    ),
    max_size=6,
)


@settings(max_examples=either(100, 2000), deadline=None)
@given(OPERATIONS)
def test_what_is_patched_is_left_as_it_was_and_comes_out_as_the_library_says(patch: list[dict[str, Any]]) -> None:
    import jsonpatch

    data, given_patch = small(), copy.deepcopy(patch)
    before = copy.deepcopy(data)
    try:
        expected = jsonpatch.apply_patch(before, patch, in_place=False)
    except Exception:
        expected = None
    try:
        found = patched(data, given_patch)
    except LayoutError:
        found = None
    assert data == small(), "what was given is as it was"
    assert found == expected


def test_a_layout_of_the_demo_is_sampled_as_before(demo: Layout) -> None:
    network = assemble(demo)
    assert len(sample(network)) == len(sample(network, most=10**6)) > 500


@pytest.mark.parametrize(
    ("operation", "says"),
    [
        (
            {"op": "replace", "path": "/tracks/nowhere/name", "value": 1},
            "“replace” cannot be done at /tracks/nowhere/name",
        ),
        ({"op": "move", "from": "/no/" + "x" * 500, "path": "/name"}, "cannot be done at /no/x"),
        ({"op": "test", "path": "/name", "value": "Other"}, "/name is not what it was meant for"),
        ({"op": "sing", "path": "/name"}, "“sing” cannot be done at /name"),
        ({"path": 5}, "cannot be done at 5"),
    ],
)
def test_what_does_not_fit_is_told_by_its_place_alone(operation: dict[str, Any], says: str) -> None:
    with pytest.raises(LayoutError, match=says) as refused:
        patched(small(), [operation])
    assert len(str(refused.value)) < 300
