"""Which sections light: both at a gap, only what draws current, all of one channel; and where a driven train comes
to."""

from __future__ import annotations

import pytest

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.signals.aspects import lies_of, signalling
from jolly_copper.core.signals.occupancy import Occupancy, Standing, occupied
from jolly_copper.core.signals.routes import drive
from jolly_copper.demo import signalled_bay
from jolly_copper.demo.drafting import Draft
from tests.signalled import junction, line


def stand(layout: Layout, track: str, at: float, towards: str = "b", train: str | None = None) -> Occupancy:
    known = signalling(layout)
    s = Standing("T", train, track, at, towards)  # type: ignore[arg-type]
    return occupied(layout, known.rails, known.ways, known.sensed, [s], lies_of(layout))


def names(layout: Layout, numbers: frozenset[int]) -> set[str]:
    sensed = signalling(layout).sensed
    return {sensed[n].name for n in numbers}


def with_train(d: Draft, **train: object) -> Layout:
    d.data["locos"]["k"] = {"name": "Kind", "idle": 0.1, "running": 0.3, "stall": 1, "pickups": 200}
    d.data["trains"]["x"] = {"name": "X", "engines": ["k"], "length": 1200, **train}
    return d.plain()


def test_both_sections_light_the_moment_a_train_bridges_their_gap() -> None:
    layout = with_train(line(3), resistor_axles=10)
    for front, lit in (
        (1990, {"B0"}),
        (1998, {"B0"}),
        (1999, {"B0", "B1"}),
        (2600, {"B0", "B1"}),
        (3201, {"B0", "B1"}),
        (3202, {"B1"}),
    ):
        assert names(layout, stand(layout, "t", front, train="x").lit) == lit, front


def test_dark_cars_are_there_but_not_seen() -> None:
    layout = with_train(line(3), resistor_axles=0, lit_cars=0)
    found = stand(layout, "t", 2600, train="x")
    assert names(layout, found.lit) == {"B1"} and names(layout, found.unseen) == {"B0"}


def test_a_train_lies_over_turnouts_as_they_lie() -> None:
    d = junction()
    d.data["nodes"]["T"]["lies"] = "diverging"
    layout = with_train(d, resistor_axles=10)
    assert names(layout, stand(layout, "b", 700, train="x").lit) == {"A", "J", "B"}
    assert names(layout, stand(layout, "m", 200, train="x").lit) == {"J"}, (
        "from the other leg the turnout lies against it"
    )


def test_a_channel_lights_for_all_it_looks_at() -> None:
    layout = signalled_bay()
    known = signalling(layout)
    parts = {n for n, s in enumerate(known.sensed) if s.name.startswith("M4")}
    assert len(parts) == 3, "the bridge parts this block in three"
    assert stand(layout, "down-bridge", 1400).lit == parts


def test_driving_adds_up_whatever_the_steps() -> None:
    layout = signalled_bay()
    known = signalling(layout)
    lies = lies_of(layout)
    whole = drive(layout, known.ways, "down-west", 100, "b", 30_000, lies)
    track, at, towards = "down-west", 100.0, "b"
    for _ in range(300):
        came = drive(layout, known.ways, track, at, towards, 100, lies)  # type: ignore[arg-type]
        track, at, towards = came.track, came.at, came.towards
    assert (track, towards) == (whole.track, whole.towards) and at == pytest.approx(whole.at, abs=1e-6)


def test_a_train_stops_at_a_bumper_at_points_against_it_and_before_a_stop() -> None:
    layout = junction().plain()
    known = signalling(layout)
    assert drive(layout, known.ways, "a", 100, "b", 99_999, {"T": "through"}).stopped == "the end of the track"
    came = drive(layout, known.ways, "b", 500, "a", 99_999, {"T": "through"})
    assert came.stopped == "T lies against it" and came.at == 0.0
    held = drive(layout, known.ways, "a", 100, "b", 99_999, {"T": "through"}, {("a", "b"): [(2840.0, "SA")]})
    assert (held.stopped, held.at) == ("SA", 2840.0)
    assert (
        drive(layout, known.ways, "a", 2840, "b", 10, {"T": "through"}, {("a", "b"): [(2840.0, "SA")]}).at == 2840.0
    ), "it goes on waiting"


def test_once_round_the_down_main_lights_every_block_of_it_and_no_other() -> None:
    layout = signalled_bay()
    known = signalling(layout)
    lies = lies_of(layout)
    seen: set[str] = set()
    track, at, towards = "down-west", 3000.0, "b"
    for _ in range(400):
        came = drive(layout, known.ways, track, at, towards, 100, lies)  # type: ignore[arg-type]
        assert came.stopped is None
        track, at, towards = came.track, came.at, came.towards
        s = Standing("E", None, track, at, towards)  # type: ignore[arg-type]
        seen |= {
            known.sensed[n].block or "" for n in occupied(layout, known.rails, known.ways, known.sensed, [s], lies).lit
        }
    assert {layout.blocks[b].name for b in seen} == {f"M{k}" for k in range(1, 11)} | {"Points T1", "Points T2"}
