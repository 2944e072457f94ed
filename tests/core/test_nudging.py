"""Nudging wire: what hangs on it stays where it is, and what is tied to it follows."""

from __future__ import annotations

import math
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import TypeAdapter

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.circuits.lengths import point_on_run, terminal_point
from jolly_copper.core.drawing.acts import Act, Done, perform
from jolly_copper.core.drawing.sheet import DrawingError
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.geometry import draw
from jolly_copper.core.layout.patching import apply_patch
from tests.layouts import feeder, plain

ACT: TypeAdapter[Any] = TypeAdapter(Act)


def bench() -> Layout:
    """A bus of 1 m with terminals at 200 and 1000, a plug at 600, and a branch from the first terminal."""
    d = plain()
    d.data["terminals"] = {
        "T1": {"run": "R1", "along": 200, "kind": "screw strip"},
        "T2": {"run": "R1", "along": 1000, "kind": "screw strip"},
        "T3": {"run": "R2", "along": 300, "kind": "screw strip"},
    }
    d.data["runs"]["R2"] = {
        "circuit": "main",
        "label": "R2",
        "gauge": "14 AWG",
        "path": [{"x": 200, "y": 400}, {"x": 200, "y": 700}],
        "fed": {"terminal": "T1"},
    }
    d.plug("R1", 600)
    feeder(d, "F1", "t", 200, "T1", tape=500)
    return d.plain()


def done(act: dict[str, Any], layout: Layout | None = None) -> tuple[Done, Layout]:
    before = layout or bench()
    found = perform(derive(before), ACT.validate_python(act))
    return found, apply_patch(before, found.patch)


def test_a_bend_drawn_into_a_bus_leaves_its_terminals_where_they_are() -> None:
    found, after = done({"act": "bend run", "run": "R1", "leg": 0, "x": 600, "y": 500})
    assert found.summary == "Bend bus R1" and len(after.runs["R1"].path) == 3
    assert terminal_point(after, after.terminals["T2"]) == pytest.approx((1000, 400), abs=0.2)
    assert math.dist(terminal_point(after, after.terminals["T1"]), (200, 400)) < 60
    nearest = draw(after.runs["R1"].path).nearest(600, 400)[1]
    off = math.dist(point_on_run(after.runs["R1"], after.plugs["P1"].along), (600, 400))
    assert off == pytest.approx(nearest, abs=0.1), "the plug hangs where the bus passes nearest to where it hung"


@given(st.floats(-2000, 2000), st.floats(-2000, 2000))
def test_what_is_tied_to_a_terminal_follows_it(x: float, y: float) -> None:
    _, after = done({"act": "bend run", "run": "R1", "leg": 0, "x": x, "y": y})
    start = after.runs["R2"].path[0]
    assert math.dist((start.x, start.y), terminal_point(after, after.terminals["T1"])) < 1


def test_a_moved_bend_and_one_taken_out() -> None:
    _, bent = done({"act": "bend run", "run": "R1", "leg": 0, "x": 600, "y": 500})
    _, moved = done({"act": "bend run", "run": "R1", "index": 1, "x": 600, "y": 800}, bent)
    assert (moved.runs["R1"].path[1].x, moved.runs["R1"].path[1].y) == (600, 800)
    _, straight = done({"act": "straighten run", "run": "R1", "index": 1}, moved)
    assert len(straight.runs["R1"].path) == 2
    for act in (
        {"act": "straighten run", "run": "R1", "index": 1},
        {"act": "bend run", "run": "R1", "leg": 7, "x": 0, "y": 0},
        {"act": "bend run", "run": "R1", "index": 9, "x": 0, "y": 0},
    ):
        with pytest.raises(DrawingError):
            done(act)


def test_a_terminal_and_a_plug_are_put_where_the_bus_passes() -> None:
    found, after = done({"act": "put on run", "run": "R1", "what": "terminal", "x": 480, "y": 420, "kind": "tap"})
    assert found.made == ("terminal", "T4") and (after.terminals["T4"].along, after.terminals["T4"].kind) == (
        480,
        "tap",
    )
    found, after = done({"act": "put on run", "run": "R1", "what": "plug", "x": 5000, "y": 420})
    assert found.made == ("plug", "P2") and after.plugs["P2"].along == 1000, "no farther than its end"
    with pytest.raises(DrawingError):
        done({"act": "put on run", "run": "R9", "what": "plug", "x": 0, "y": 0})


def test_a_terminal_slides_along_its_bus_and_its_branch_comes_along() -> None:
    _, after = done({"act": "slide", "what": "terminal", "id": "T1", "x": 350, "y": 900})
    assert after.terminals["T1"].along == 350
    assert (after.runs["R2"].path[0].x, after.runs["R2"].path[0].y) == (350, 400)
    assert after.feeders["F1"].tape is None, "measured from where it was"
    _, after = done({"act": "slide", "what": "plug", "id": "P1", "x": 650, "y": 0})
    assert after.plugs["P1"].along == 650


def test_by_tape_the_place_on_the_plan_counts() -> None:
    layout = apply_patch(bench(), [{"op": "replace", "path": "/runs/R1/tape", "value": 2000}])
    _, after = done({"act": "slide", "what": "plug", "id": "P1", "x": 250, "y": 400}, layout)
    assert after.plugs["P1"].along == 500


def test_a_feeder_is_tied_elsewhere() -> None:
    _, after = done({"act": "retie", "feeder": "F1", "terminal": "T2"})
    assert (after.feeders["F1"].terminal, after.feeders["F1"].tape) == ("T2", None)
    with pytest.raises(DrawingError):
        done({"act": "retie", "feeder": "F1", "terminal": "T99"})
    with pytest.raises(DrawingError, match="changes nothing"):
        done({"act": "retie", "feeder": "F1", "terminal": "T2"}, after)


def test_an_obstacle_is_drawn_moved_and_taken_away() -> None:
    outline = [{"x": 0, "y": 0}, {"x": 100, "y": 0}, {"x": 100, "y": 50}]
    found, after = done({"act": "obstacle", "outline": outline, "kind": "leg"})
    assert found.made is not None and after.obstacles[found.made[1]].name == "Leg 1"
    thing = {"kind": "obstacle", "id": found.made[1]}
    _, moved = done({"act": "move", "things": [thing], "dx": 10, "dy": 20}, after)
    assert moved.obstacles[found.made[1]].corners[0] == (10, 20)
    _, gone = done({"act": "erase", "things": [thing]}, moved)
    assert gone.obstacles == {}
