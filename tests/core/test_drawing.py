"""Acts of drawing: what is joined to what afterwards, what stays where it was, and what is refused."""

from __future__ import annotations

import math
import random
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import TypeAdapter

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.circuits.lengths import point_on_track
from jolly_copper.core.drawing.acts import Act, Done, perform
from jolly_copper.core.drawing.sheet import DrawingError
from jolly_copper.core.layout.changes import difference
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.fields import Bend
from jolly_copper.core.layout.geometry import draw, split_path
from jolly_copper.core.layout.patching import apply_patch, patched
from jolly_copper.core.layout.reading import read_layout, track_length
from jolly_copper.core.rails.conflicts import find_conflicts
from jolly_copper.core.rails.pieces import map_rails
from jolly_copper.core.rails.ways import map_ways

ACT: TypeAdapter[Any] = TypeAdapter(Act)


def empty() -> Layout:
    return read_layout({"name": "Paper"})


def did(layout: Layout, act: str, **more: Any) -> tuple[Layout, Done]:
    done = perform(derive(layout, None), ACT.validate_python({"act": act, **more}))
    return apply_patch(layout, done.patch), done


def do(layout: Layout, act: str, **more: Any) -> Layout:
    return did(layout, act, **more)[0]


def spots(*places: tuple[float, float], **ends: dict[str, Any]) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = [{"x": x, "y": y} for x, y in places]
    found[0] |= ends.get("start", {})
    found[-1] |= ends.get("end", {})
    return found


def straight(length: float = 2000) -> Layout:
    return do(empty(), "track", spots=spots((0, 0), (length, 0)))


def kinds(layout: Layout) -> list[str]:
    return sorted(n.kind for n in layout.nodes.values())


def test_a_track_laid_free_has_two_open_ends() -> None:
    layout = straight()
    assert kinds(layout) == ["joint", "joint"] and track_length(layout.tracks["track-1"]) == pytest.approx(2000)


def test_going_on_from_an_open_end_joins_there() -> None:
    layout = do(straight(), "track", spots=spots((2000, 0), (3000, 500), start={"node": "J2"}))
    assert layout.tracks["track-2"].a.node == "J2" == layout.tracks["track-1"].b.node
    assert len(map_rails(layout).extents) == 1


def test_going_on_by_numbers_straight_and_round_a_curve() -> None:
    """By geometry: a quarter turn of 400 mm is 628.3 mm long and ends 400 mm on and 400 mm to the right."""
    layout = do(straight(), "extend", node="J2", length=500)
    assert track_length(layout.tracks["track-2"]) == pytest.approx(500)
    layout = do(layout, "extend", node="J3", radius=400, turn=90)
    curve = layout.tracks["track-3"]
    assert track_length(curve) == pytest.approx(400 * math.pi / 2, abs=0.1)
    assert (curve.path[-1].x, curve.path[-1].y) == pytest.approx((2900, 400), abs=0.1)
    around = layout
    for n in range(4, 7):
        around = do(around, "extend", node=f"J{n}", radius=400, turn=90)
    assert (around.tracks["track-6"].path[-1].x, around.tracks["track-6"].path[-1].y) == pytest.approx(
        (2500, 0), abs=0.2
    ), "a full circle"
    with pytest.raises(DrawingError, match="from an open end"):
        do(layout, "extend", node="J2", length=100)
    with pytest.raises(DrawingError, match="wants a length"):
        do(layout, "extend", node="J4")


@pytest.mark.parametrize(
    ("to", "hand", "points_end"),
    [((1800, 200), "right", "a"), ((1800, -200), "left", "a"), ((200, 200), "left", "b"), ((200, -200), "right", "b")],
)
def test_leaving_a_track_puts_a_turnout_in_by_its_direction(
    to: tuple[float, float], hand: str, points_end: str
) -> None:
    """Seen from the points: a track leaving east and down the plan leaves to the right."""
    layout = do(straight(), "track", spots=spots((1000, 0), to, start={"track": "track-1", "at": 1000}))
    turnout = next(n for n in layout.nodes.values() if n.kind == "turnout")
    assert turnout.hand == hand
    points = next(t for t in layout.tracks.values() if "points" in (t.a.port, t.b.port))
    assert (points.path[0].x == 0) == (points_end == "a"), "the points lie where the new track comes from"


def test_a_loop_drawn_back_to_its_own_lead_is_a_balloon() -> None:
    layout = do(
        straight(),
        "track",
        spots=spots(
            (2000, 0), (2600, 500), (3200, 0), (2600, -500), (2000, 0), start={"node": "J2"}, end={"node": "J2"}
        ),
    )
    assert [c.kind for c in find_conflicts(layout, map_ways(layout))] == ["balloon loop"]


def test_a_third_track_makes_a_three_way_on_the_other_side_only() -> None:
    layout = do(straight(), "track", spots=spots((1000, 0), (1800, 200), start={"track": "track-1", "at": 1000}))
    with pytest.raises(DrawingError, match="on the side its diverging leg does not"):
        do(layout, "track", spots=spots((1000, 0), (1800, 300), start={"node": "T1"}))
    three = do(layout, "track", spots=spots((1000, 0), (1800, -200), start={"node": "T1"}))
    node = three.nodes["T1"]
    assert node.kind == "three-way" and sorted(map_ways(three).ends) and node.hand is None
    ports = {p.port for t in three.tracks.values() for p in (t.a, t.b) if p.node == "T1"}
    assert ports == {"points", "left", "through", "right"}


def test_tracks_drawn_up_to_a_turntable_become_stubs_at_its_pit() -> None:
    layout = do(straight(), "table", kind="turntable", x=3000, y=0, size=300)
    layout = do(layout, "track", spots=spots((2000, 0), (2900, 0), start={"node": "J2"}, end={"node": "TT1"}))
    layout = do(layout, "track", spots=spots((4000, 0), (3050, 0), end={"node": "TT1"}))
    ends = [layout.tracks["track-2"].path[-1], layout.tracks["track-3"].path[-1]]
    assert [(e.x, e.y) for e in ends] == [(2850, 0), (3150, 0)]
    assert any(len(ins) == len(outs) == 1 for c, (ins, outs) in map_ways(layout).ends.items() if c.node == "TT1")


def test_a_traverser_has_an_east_and_a_west_side() -> None:
    layout = do(empty(), "table", kind="traverser", x=0, y=0, size=600)
    layout = do(layout, "track", spots=spots((-2000, 50), (-310, 50), end={"node": "TV1"}))
    layout = do(layout, "track", spots=spots((2000, -50), (310, -50), end={"node": "TV1"}))
    assert [layout.tracks[t].b.port for t in ("track-1", "track-2")] == ["west1", "east1"]


def test_two_tracks_that_cross_get_a_crossing_and_a_crossing_a_slip() -> None:
    layout = do(straight(), "track", spots=spots((900, -600), (1100, 600)))
    crossed, done = did(layout, "cross", one="track-1", one_at=1000, other="track-2", other_at=608)
    assert done.made == ("node", "X1") and crossed.nodes["X1"].kind == "crossing"
    assert len(map_rails(crossed).extents) == 2, "a crossing joins each way only with itself"
    slip = do(crossed, "turn into", node="X1", kind="slip")
    assert len(map_rails(slip).extents) == 1
    with pytest.raises(DrawingError, match="do not cross there"):
        do(layout, "cross", one="track-1", one_at=200, other="track-2", other_at=100)


def test_splitting_takes_everything_along_and_joining_brings_it_back(demo: Layout) -> None:
    track, at = "down-north-east", 3000.0
    before = {i: point_on_track(demo, track, f.at) for i, f in demo.feeders.items() if f.track == track}
    split, done = did(demo, "split", track=track, at=at)
    assert done.made is not None
    for i, place in before.items():
        f = split.feeders[i]
        assert math.dist(point_on_track(split, f.track, f.at), place) < 0.5
    assert sum(track_length(t) for t in split.tracks.values()) == pytest.approx(
        sum(track_length(t) for t in demo.tracks.values()), abs=0.5
    )
    back = do(split, "join", node=done.made[1])
    assert set(back.tracks) == set(demo.tracks)
    for i, place in before.items():
        f = back.feeders[i]
        assert f.track == track and math.dist(point_on_track(back, track, f.at), place) < 1.0
    assert [c.kind for c in find_conflicts(back, map_ways(back))] == ["balloon loop", "wye"]


def test_joining_end_to_end_turns_left_and_right_round_where_it_must() -> None:
    layout = do(straight(), "track", spots=spots((4000, 0), (2000, 0), end={"node": "J2"}))
    layout = do(layout, "gap", track="track-2", at=500, rails="left")
    one = do(layout, "join", node="J2")
    (gap,) = one.gaps.values()
    assert gap.rails == "right" and gap.at == pytest.approx(3500), "the second track ran the other way"


def test_a_tape_measured_track_shares_its_length_when_split() -> None:
    layout = apply_patch(straight(), [{"op": "replace", "path": "/tracks/track-1/tape", "value": 2100}])
    halves = do(layout, "split", track="track-1", at=1050)
    assert [t.tape for t in halves.tracks.values()] == [1050, 1050]


def test_bends_are_put_in_moved_given_a_radius_and_taken_out() -> None:
    layout = do(straight(), "insert bend", track="track-1", at=1000, x=1000, y=400)
    assert track_length(layout.tracks["track-1"]) > 2000
    tight = do(layout, "radius", track="track-1", index=1, radius=100)
    assert draw(tight.tracks["track-1"].path).tightest == pytest.approx(100)
    moved = do(tight, "move bend", track="track-1", index=1, x=1000, y=0)
    assert track_length(moved.tracks["track-1"]) == pytest.approx(2000)
    assert len(do(moved, "delete bend", track="track-1", index=1).tracks["track-1"].path) == 2
    with pytest.raises(DrawingError, match="ends of a track move with the nodes"):
        do(layout, "move bend", track="track-1", index=0, x=0, y=50)


def test_moving_a_node_takes_the_ends_of_its_tracks_and_what_stands_on_them() -> None:
    layout = do(
        do(straight(), "gap", track="track-1", at=1000), "move", things=[{"kind": "node", "id": "J2"}], dx=2000, dy=0
    )
    assert track_length(layout.tracks["track-1"]) == pytest.approx(4000)
    assert next(iter(layout.gaps.values())).at == pytest.approx(2000), "in proportion"


def test_an_open_end_brought_to_a_track_joins_it_by_a_turnout() -> None:
    layout = do(straight(), "track", spots=spots((500, 800), (900, 400)))
    joined = do(layout, "weld", node="J4", spot={"x": 1200, "y": 0, "track": "track-1", "at": 1200})
    assert kinds(joined).count("turnout") == 1 and "J4" not in joined.nodes
    assert len(map_rails(joined).extents) == 1
    with pytest.raises(DrawingError, match="Only an open end"):
        do(joined, "weld", node="T1", spot={"x": 0, "y": 0})


def test_erasing_a_leg_makes_the_turnout_a_joint_again(demo: Layout) -> None:
    layout = do(straight(), "track", spots=spots((1000, 0), (1800, 200), start={"track": "track-1", "at": 1000}))
    again = do(layout, "erase", things=[{"kind": "track", "id": "track-3"}])
    assert kinds(again) == ["joint", "joint", "joint"] and len(map_rails(again).extents) == 1
    gone = do(demo, "erase", things=[{"kind": "run", "id": "W1"}, {"kind": "device", "id": "V2"}])
    assert not any(t.run == "W1" for t in gone.terminals.values()) and "R3" not in gone.runs
    assert all(f.terminal in gone.terminals for f in gone.feeders.values())


def test_a_circuit_in_use_is_not_taken_away(demo: Layout) -> None:
    with pytest.raises(DrawingError, match="still in use by"):
        do(demo, "erase", things=[{"kind": "circuit", "id": "west"}])


def test_a_mirrored_board_has_its_hands_and_rails_changed_over(demo: Layout) -> None:
    layout, done = did(demo, "copy board", board="board16", dx=4000, dy=0, mirror="left to right")
    new = [t for i, t in layout.tracks.items() if i not in demo.tracks]
    assert {t.name for t in new} == {
        "Quarry lead copy",
        "Quarry loader copy",
        "Quarry siding copy",
        "Wye tail copy",
        "Wye, east leg copy",
        "Wye, north leg copy",
        "Wye, west leg copy",
    }
    old_hands = {demo.nodes[i].hand for i in ("T50", "T51", "T52", "T53")}
    hands = sorted(str(n.hand) for i, n in layout.nodes.items() if i not in demo.nodes and n.kind == "turnout")
    assert old_hands == {"left", "right"} and len(hands) >= 3
    assert [c.kind for c in find_conflicts(layout, map_ways(layout))] == ["balloon loop", "wye", "wye"], (
        "a mirrored wye is a wye"
    )
    assert done.made is not None and layout.boards[done.made[1]].name == "16 uplands copy"


def test_gaps_beside_each_other_become_one_of_both_rails() -> None:
    layout = do(straight(), "gap", track="track-1", at=700, rails="left")
    both = do(layout, "gap", track="track-1", at=705, rails="right")
    assert [g.rails for g in both.gaps.values()] == ["both"]
    with pytest.raises(DrawingError, match="already"):
        do(both, "gap", track="track-1", at=702)


def test_power_by_clicking_a_source_its_bus_and_feeders() -> None:
    layout = do(straight(6000), "source", kind="booster", x=0, y=600)
    layout = do(layout, "run", points=[{"x": 0, "y": 600}, {"x": 5000, "y": 200}], device="D1")
    layout = do(do(layout, "feeder", track="track-1", at=1000), "feeder", track="track-1", at=4000)
    facts = derive(layout, None)
    assert facts.worst_point() is not None and len(layout.terminals) >= 4
    assert {f.a_rail for f in layout.feeders.values()} == {"left"}
    with pytest.raises(DrawingError, match=r"draw its bus first|no terminal"):
        do(straight(), "feeder", track="track-1", at=100)
    with pytest.raises(DrawingError, match="starts at a source"):
        do(layout, "run", points=[{"x": 0, "y": 0}, {"x": 100, "y": 0}])


@pytest.mark.parametrize(
    ("act", "more", "says"),
    [
        ("track", {"spots": spots((0, 0), (1, 1))}, "at least 5 mm"),
        ("split", {"track": "track-1", "at": 1}, "at least 5 mm from its ends"),
        ("split", {"track": "gone", "at": 100}, "There is no track gone"),
        ("join", {"node": "J1"}, "end to end"),
        ("turn into", {"node": "J1", "kind": "slip"}, "cannot be made a slip"),
        ("move", {"things": [{"kind": "node", "id": "J1"}], "dx": 0, "dy": 0}, "changes nothing"),
        ("erase", {"things": [{"kind": "gap", "id": "G9"}]}, "There is no gap G9"),
    ],
)
def test_what_cannot_be_done_says_why(act: str, more: dict[str, Any], says: str) -> None:
    with pytest.raises(DrawingError, match=says):
        do(straight(), act, **more)


@settings(max_examples=150)
@given(st.integers(0, 100_000), st.floats(0.02, 0.98))
def test_a_path_cut_in_two_draws_what_it_drew_before(seed: int, share: float) -> None:
    rng = random.Random(seed)
    path = [
        Bend(x=rng.uniform(-1000, 1000), y=rng.uniform(-1000, 1000), radius=rng.choice([None, 200.0, 50.0]))
        for _ in range(rng.randint(2, 6))
    ]
    whole = draw(path)
    first, second = split_path(path, whole.length * share)
    assert draw(first).length == pytest.approx(whole.length * share, abs=0.05)
    assert draw(second).length == pytest.approx(whole.length * (1 - share), abs=0.05)
    assert (first[-1].x, first[-1].y) == (second[0].x, second[0].y)


@settings(max_examples=40)
@given(st.integers(0, 100_000))
def test_any_run_of_acts_leaves_a_layout_that_reads_and_a_patch_that_makes_it(seed: int) -> None:
    rng = random.Random(seed)
    layout = straight(3000)
    for _ in range(12):
        track = rng.choice(sorted(layout.tracks)) if layout.tracks else None
        node = rng.choice(sorted(layout.nodes)) if layout.nodes else None
        at = rng.uniform(0, track_length(layout.tracks[track])) if track else 0
        place = (rng.uniform(-3000, 6000), rng.uniform(-3000, 3000))
        act: dict[str, Any] = rng.choice(
            [
                {"act": "track", "spots": spots((place[0] + 300, place[1]), place)},
                {
                    "act": "track",
                    "spots": spots(
                        place, (place[0] + 700, place[1] + 90), (0, 0), end={"track": track, "at": at} if track else {}
                    ),
                },
                {"act": "track", "spots": spots((0, 0), place, start={"node": node} if node else {})},
                {"act": "split", "track": track or "none", "at": at},
                {"act": "join", "node": node or "none"},
                {"act": "gap", "track": track or "none", "at": at, "rails": rng.choice(["both", "left", "right"])},
                {
                    "act": "move",
                    "things": [{"kind": "node", "id": node or "none"}],
                    "dx": rng.uniform(-500, 500),
                    "dy": 40,
                },
                {
                    "act": "erase",
                    "things": [{"kind": rng.choice(["track", "node"]), "id": rng.choice([track, node]) or "none"}],
                },
                {"act": "insert bend", "track": track or "none", "at": at, "x": place[0], "y": place[1]},
                {
                    "act": "weld",
                    "node": node or "none",
                    "spot": {"x": place[0], "y": place[1], **({"track": track, "at": at} if track else {})},
                },
            ]
        )
        try:
            done = perform(derive(layout, None), ACT.validate_python(act))
        except DrawingError:
            continue
        before, layout = layout, apply_patch(layout, done.patch)
        old, new = before.model_dump(mode="json"), layout.model_dump(mode="json")
        assert patched(old, difference(old, new)) == new
        assert patched(new, difference(new, old)) == old, "and back, which is what undo needs"
