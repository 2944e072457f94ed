"""Evenings played: against exact chances, seeded, and never beyond what the budget says is the worst."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.stats import binom

from jolly_copper.core.circuits.budget import budget
from jolly_copper.core.circuits.session import Habits, play, wilson
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.demo import undivided_bay
from tests.layouts import booster, plain

TRAINS = 6


def half_and_half(trip: float = 2.0, trains: int = TRAINS) -> Layout:
    """A track cut in the middle: two districts of the same length, and so many trains of 0.5 A that roam both."""
    d = plain(8000)
    booster(d, label_amps=10, trip=10)
    for key in ("east", "west"):
        d.data["circuits"][key] = {"name": key.capitalize()}
        d.data["devices"][f"K-{key}"] = {
            "kind": "breaker",
            "name": f"Breaker {key}",
            "at": {"x": 0, "y": 0},
            "input": "main",
            "output": key,
            "trip_amps": trip,
        }
    d.gap("t", 4000)
    d.data["sections"]["s"]["circuit"] = "west"
    d.section("e", "East", "t", 7000, "east")
    d.data["locos"] = {"k": {"name": "Kind", "idle": 0.1, "running": 0.5, "stall": 1.5}}
    d.data["trains"] = {f"t{n}": {"name": f"Train {n}", "engines": ["k"], "length": 300} for n in range(trains)}
    places = [{"train": f"t{n}", "circuits": ["east", "west"]} for n in range(trains)]
    d.data["scenes"] = {"night": {"name": "Night", "placements": places}}
    return d.plain()


def chances(layout: Layout, habits: Habits) -> dict[str, object]:
    return {c.device: c for c in play(layout, layout.scenes["night"], habits)}


def test_the_chance_of_too_many_trains_is_the_binomial_one() -> None:
    """Every train is in either half with chance 1/2, always running: P(more than 4 of 6) = P(X ≥ 5), the binomial
    tail."""
    found = {
        c.device: c
        for c in play(half_and_half(), half_and_half().scenes["night"], Habits(evenings=2000, running=1.0, stays=1.0))
    }
    exact = float(binom.sf(4, TRAINS, 0.5))
    west = found["K-west"]
    assert west.over_minutes == pytest.approx(exact, abs=0.01)
    assert west.mean == pytest.approx(0.5 * TRAINS / 2, rel=0.01)
    # minutes are independent when a train moves on every minute, so an evening stays clean with chance (1 − p)^180
    assert west.over_evenings == pytest.approx(1 - (1 - exact) ** 180, abs=0.01)


def test_trains_that_stay_longer_overload_fewer_evenings_for_as_many_minutes() -> None:
    layout = half_and_half()
    quick = play(layout, layout.scenes["night"], Habits(evenings=1500, running=1.0, stays=1.0, minutes=60))
    slow = play(layout, layout.scenes["night"], Habits(evenings=1500, running=1.0, stays=30.0, minutes=60))
    for a, b in zip(quick, slow, strict=True):
        if a.over_minutes:
            assert b.over_minutes == pytest.approx(a.over_minutes, abs=0.03) and b.over_evenings < a.over_evenings


def test_half_of_the_time_standing_is_the_mean_of_both_currents() -> None:
    layout = half_and_half()
    (west,) = [
        c for c in play(layout, layout.scenes["night"], Habits(evenings=1000, running=0.5)) if c.device == "K-west"
    ]
    assert west.mean == pytest.approx(TRAINS / 2 * (0.5 + 0.1) / 2, rel=0.03)


def test_the_same_seed_gives_the_same_evenings_and_another_others() -> None:
    layout = half_and_half()
    one, again = (play(layout, layout.scenes["night"], Habits(evenings=200)) for _ in range(2))
    other = play(layout, layout.scenes["night"], Habits(evenings=200, seed=2))
    assert one == again and one != other


@given(st.integers(0, 6), st.floats(0, 1), st.floats(1, 30))
@settings(max_examples=15)
def test_nothing_is_ever_asked_beyond_the_worst_of_the_budget(trains: int, running: float, stays: float) -> None:
    layout = half_and_half(trains=trains)
    scene = layout.scenes["night"]
    worst = {a.device: a.worst for a in budget(layout, scene)}
    for c in play(layout, scene, Habits(evenings=100, minutes=30, running=running, stays=stays)):
        assert c.most <= worst[c.device] + 1e-9 and c.mean <= c.most + 1e-12
        assert c.over_evenings >= c.over_minutes >= 0


def test_progress_is_told_up_to_the_end_and_a_layout_without_source_has_nothing_to_play() -> None:
    told: list[tuple[int, int]] = []
    layout = half_and_half()
    play(layout, layout.scenes["night"], Habits(evenings=250), lambda done, total: told.append((done, total)))
    assert told == [(100, 250), (200, 250), (250, 250)]
    bare = apply_patch(
        layout,
        [{"op": "remove", "path": f"/devices/{d}"} for d in ("K-east", "K-west")]
        + [
            {"op": "remove", "path": "/runs/R1"},
            {"op": "remove", "path": "/terminals/T1"},
            {"op": "remove", "path": "/terminals/T2"},
            {"op": "remove", "path": "/devices/B1"},
        ],
    )
    assert play(bare, bare.scenes["night"], Habits(evenings=100)) == []


def test_a_train_longer_than_a_district_is_never_there_and_a_parked_one_never_moves() -> None:
    layout = apply_patch(
        half_and_half(trains=2),
        [
            {"op": "add", "path": "/gaps/G9", "value": {"track": "t", "at": 4600}},
            {
                "op": "add",
                "path": "/sections/far",
                "value": {"name": "Far", "track": "t", "at": 7000, "circuit": "west"},
            },
            {"op": "replace", "path": "/sections/e/at", "value": 4300},
            {"op": "replace", "path": "/trains/t0/length", "value": 900},
            {
                "op": "replace",
                "path": "/scenes/night/placements/1",
                "value": {"train": "t1", "track": "t", "at": 4300, "doing": "idling"},
            },
        ],
    )
    found = {c.device: c for c in play(layout, layout.scenes["night"], Habits(evenings=100, running=1.0))}
    assert found["K-east"].most == pytest.approx(0.1) == found["K-east"].mean, "only the parked one stands on 600 mm"
    assert found["K-west"].mean == pytest.approx(0.5)


@given(st.integers(0, 400), st.integers(1, 400))
def test_the_interval_holds_what_was_counted(hits: int, more: int) -> None:
    low, high = wilson(hits, hits + more)
    assert 0 <= low <= hits / (hits + more) <= high <= 1


def test_the_interval_against_a_published_example() -> None:
    """81 of 263: Wilson interval 0.2553 to 0.3662 (Newcombe 1998, table I, from memory of the paper)."""
    low, high = wilson(81, 263)
    assert low == pytest.approx(0.2553, abs=1e-3) and high == pytest.approx(0.3662, abs=1e-3)
    assert math.isclose(wilson(0, 20)[1], 0.1611, abs_tol=2e-3), "0 of 20: up to 0.161, same table"


def test_the_undivided_demo_is_overloaded_now_and_then() -> None:
    layout = undivided_bay()
    (found,) = play(layout, layout.scenes["open-day"], Habits(evenings=300))
    assert found.device == "booster1" and found.usual <= found.most <= 5.73 + 1e-6
    assert np.isfinite(found.mean) and found.over_evenings is not None and found.over_evenings > 0.5, (
        "as the story needs"
    )
