"""Motion in closed form: it ends where it should, never too fast, and agrees with small steps."""

from __future__ import annotations

import itertools
import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jolly_copper.core.layout.stock import Train
from jolly_copper.core.rehearsal.motion import NEVER, Pace, at_time, coasting, pace_of, run_up_to, when_at
from tests.layouts import plain

speeds = st.floats(1, 800)
harsh = st.floats(5, 400)


@given(v=st.floats(0, 800), far=st.floats(0.01, 20_000), most=speeds, a=harsh, b=harsh)
def test_a_train_comes_to_stand_at_its_place_and_is_never_faster_than_it_may(
    v: float, far: float, most: float, a: float, b: float
) -> None:
    phases = run_up_to(10, 100, v, 100 + far, most, Pace(most, a, b))
    assert phases[0][:3] == (10, 100, v)
    assert phases[-1].v == 0 and phases[-1].a == 0
    assert phases[-1].s == pytest.approx(100 + far, abs=1e-6)
    for one, other in itertools.pairwise(phases):
        d = other.t - one.t
        assert d >= -1e-9
        assert one.v + one.a * d == pytest.approx(other.v, abs=1e-5)
        assert one.s + one.v * d + one.a * d * d / 2 == pytest.approx(other.s, abs=1e-4)
        assert other.v <= max(most, v) + 1e-6


@given(far=st.floats(1, 20_000), most=speeds, a=harsh, b=harsh, share=st.floats(0.001, 0.999))
def test_the_time_at_a_place_is_the_time_at_which_it_is_there(
    far: float, most: float, a: float, b: float, share: float
) -> None:
    phases = run_up_to(0, 0, 0, far, most, Pace(most, a, b))
    t = when_at(phases, share * far, 0.0)
    assert at_time(phases, t)[0] == pytest.approx(share * far, abs=1e-3)
    assert when_at(phases, far + 1, 0.0) == NEVER


def test_a_run_agrees_with_steps_of_a_tenth_of_a_millisecond() -> None:
    phases = run_up_to(0, 0, 0, 1500, 200, Pace(200, 60, 90))
    s = v = t = 0.0
    while t < phases[-1].t:
        a = next(p.a for p in reversed(phases) if p.t <= t)
        s, v, t = s + v * 1e-4, v + a * 1e-4, t + 1e-4
    assert s == pytest.approx(1500, abs=0.1)


def test_a_train_too_near_to_brake_as_usual_brakes_as_hard_as_it_takes() -> None:
    phases = run_up_to(0, 0, 200, 50, 200, Pace(200, 60, 60))
    assert phases[0].a == pytest.approx(-200 * 200 / 100) and phases[-1].s == 50


def test_a_stopping_distance_is_v_squared_over_twice_the_braking() -> None:
    """Elementary mechanics, uniform deceleration."""
    layout = plain().plain()
    train = Train(name="t", engines=["x"], length=500, scale_kmh=80, stops_in=640)
    pace = pace_of(layout, train)
    assert pace.line == pytest.approx(80 / 3.6 * 1000 / 87, rel=1e-3)
    assert pace.line**2 / (2 * pace.brakes) == pytest.approx(640)


def test_without_power_it_runs_out() -> None:
    phases = coasting(5, 0, 200, 600)
    assert phases[-1].s == pytest.approx(200 * 200 / 1200) and phases[-1].t == pytest.approx(5 + 200 / 600)
    assert coasting(5, 7, 0.0)[-1].s == 7


@given(v=st.floats(0.1, 900))
def test_running_out_takes_no_longer_than_its_speed_allows(v: float) -> None:
    end = coasting(0, 0, v)[-1]
    assert end.s == pytest.approx(v * end.t / 2) and math.isfinite(end.t)
