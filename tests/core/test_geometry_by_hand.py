"""Drawn paths by plane geometry and brute force: arcs by their radius and turn, the nearest point by trying all,
crossings by every pair of legs, inside by turning round the outline."""

from __future__ import annotations

import itertools
import math

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from jolly_copper.core.layout.fields import Bend
from jolly_copper.core.layout.geometry import Polyline, box_of, crossings, draw, inside, split_path

places = st.tuples(st.integers(-3000, 3000), st.integers(-3000, 3000))
CHORD = 1 - math.cos(math.radians(3))
"""An arc is drawn by points no more than 6° apart: so much of its radius lies beside a chord at most."""


def path(*vertices: tuple[float, ...]) -> list[Bend]:
    return [Bend(x=v[0], y=v[1], radius=v[2] if len(v) > 2 else None) for v in vertices]


@st.composite
def vertices(draw_: st.DrawFn) -> list[tuple[int, int]]:
    """Two to six vertices a hand apart."""
    found = draw_(st.lists(places, min_size=2, max_size=6))
    assume(all(math.dist(a, b) > 100 for a, b in itertools.pairwise(found)))
    return found


def lines() -> st.SearchStrategy[Polyline]:
    return vertices().map(lambda found: draw(path(*found)))


# One corner


@given(st.floats(10, 170), st.booleans(), st.floats(50, 800))
def test_a_corner_of_a_given_radius_by_its_formula(degrees: float, left: bool, radius: float) -> None:
    """Length = both legs less twice the tangent r·tan(turn/2), plus the arc r·turn."""
    turn = math.radians(degrees)
    leg = radius * math.tan(turn / 2) + 200
    assume(leg < 50_000)
    end = (leg + leg * math.cos(turn), (-1 if left else 1) * leg * math.sin(turn))
    line = draw(path((0, 0), (leg, 0, radius), end))
    assert line.length == pytest.approx(2 * 200 + radius * turn, rel=1e-6)
    assert line.tightest == pytest.approx(radius, rel=1e-6)
    assert (line.xs[-1], line.ys[-1]) == pytest.approx(end, abs=1e-6)


@given(st.floats(20, 160), st.integers(300, 3000))
def test_a_corner_without_a_radius_takes_the_largest_that_fits(degrees: float, leg: int) -> None:
    turn = math.radians(degrees)
    line = draw(path((0, 0), (leg, 0), (leg + leg * math.cos(turn), leg * math.sin(turn))))
    assert line.tightest == pytest.approx(leg / math.tan(turn / 2), rel=1e-3)


def test_a_straight_line_has_no_radius() -> None:
    line = draw(path((0, 0), (500, 0), (1500, 0)))
    assert line.tightest is None and line.length == 1500


@given(st.floats(0, 360), st.floats(-5000, 5000), st.floats(-5000, 5000))
def test_a_path_turned_and_moved_is_as_long(turned: float, dx: float, dy: float) -> None:
    vertices = [(0.0, 0.0), (1000.0, 0.0), (1400.0, 900.0), (300.0, 1500.0)]
    a, b = math.cos(math.radians(turned)), math.sin(math.radians(turned))
    moved = [(x * a - y * b + dx, x * b + y * a + dy) for x, y in vertices]
    one, other = draw(path(*vertices)), draw(path(*moved))
    assert other.length == pytest.approx(one.length, rel=1e-9) and other.tightest == pytest.approx(one.tightest)


@given(vertices())
def test_a_path_drawn_from_its_other_end_is_the_same_path(found: list[tuple[int, int]]) -> None:
    line, back = draw(path(*found)), draw(path(*reversed(found)))
    assert back.length == pytest.approx(line.length, rel=1e-6)
    assert (back.tightest or 0) == pytest.approx(line.tightest or 0, rel=1e-6)
    assert back.box == pytest.approx(line.box, rel=1e-6, abs=1e-3)


# Points along it


@given(lines(), st.floats(0, 1), st.floats(0, 1))
def test_points_lie_as_far_along_as_they_are_asked_for(line: Polyline, a: float, b: float) -> None:
    """No two places are farther apart on the plan than along the path; ends are the ends."""
    one, other = a * line.length, b * line.length
    assert math.dist(line.point(one), line.point(other)) <= abs(one - other) + 1e-6
    assert line.point(-5) == pytest.approx((line.xs[0], line.ys[0]))
    assert line.point(line.length + 5) == pytest.approx((line.xs[-1], line.ys[-1]))


@given(lines(), places)
def test_the_nearest_point_is_as_near_as_any(line: Polyline, here: tuple[int, int]) -> None:
    along, away = line.nearest(*here)
    tried = min(math.dist(line.point(s), here) for s in np.linspace(0, line.length, 600))
    assert away <= tried + 1e-6
    assert math.dist(line.point(along), here) == pytest.approx(away, abs=1e-6)


@given(lines(), st.floats(0, 1))
def test_a_point_of_the_path_is_nearest_to_itself(line: Polyline, share: float) -> None:
    here = line.point(share * line.length)
    _, away = line.nearest(*here)
    assert away == pytest.approx(0, abs=1e-6)


@given(lines())
def test_its_box_holds_it_and_touches_it(line: Polyline) -> None:
    left, top, right, bottom = line.box
    points = [line.point(s) for s in np.linspace(0, line.length, 200)]
    assert all(left - 1e-6 <= x <= right + 1e-6 and top - 1e-6 <= y <= bottom + 1e-6 for x, y in points)
    assert {left, right} <= set(line.xs) and {top, bottom} <= set(line.ys)


# Cut in two


@given(st.lists(places, min_size=2, max_size=5), st.floats(0.05, 0.95))
def test_two_halves_make_the_whole(vertices: list[tuple[int, int]], share: float) -> None:
    """As long together, joined where they were cut, and nowhere far from where the whole ran."""
    assume(all(math.dist(a, b) > 200 for a, b in itertools.pairwise(vertices)))
    whole = draw(path(*vertices))
    assume(whole.tightest is None or whole.tightest > 20)
    first, second = (draw(half) for half in split_path(path(*vertices), share * whole.length))
    assert first.length + second.length == pytest.approx(whole.length, rel=0.002, abs=1)
    assert (first.xs[-1], first.ys[-1]) == pytest.approx((second.xs[0], second.ys[0]), abs=0.2)
    widest = max((math.dist(a, b) for a, b in itertools.pairwise(vertices)), default=0.0) / math.tan(math.radians(1))
    for half in (first, second):
        for s in np.linspace(0, half.length, 40):
            assert whole.nearest(*half.point(s))[1] < max(CHORD * widest, 3)


# Outlines

SQUARE = [(0.0, 0.0), (1000.0, 0.0), (1000.0, 1000.0), (0.0, 1000.0)]
ELL = [(0.0, 0.0), (1000.0, 0.0), (1000.0, 400.0), (400.0, 400.0), (400.0, 1000.0), (0.0, 1000.0)]


def turns_round(outline: list[tuple[float, float]], x: float, y: float) -> bool:
    """Inside by how often the outline goes round a point: the sum of the angles seen from there."""
    total = 0.0
    for (ax, ay), (bx, by) in zip(outline, [*outline[1:], outline[0]], strict=True):
        one, other = math.atan2(ay - y, ax - x), math.atan2(by - y, bx - x)
        total += (other - one + math.pi) % (2 * math.pi) - math.pi
    return abs(total) > 1


@pytest.mark.parametrize("outline", [SQUARE, ELL], ids=["square", "ell"])
@given(st.floats(-500, 1500), st.floats(-500, 1500))
def test_inside_is_what_the_outline_turns_round(outline: list[tuple[float, float]], x: float, y: float) -> None:
    assume(min(abs(x - v) for v in (0, 400, 1000)) > 0.01 and min(abs(y - v) for v in (0, 400, 1000)) > 0.01)
    assert inside(outline, x, y) is turns_round(outline, x, y)
    assert inside(outline[::-1], x, y) is turns_round(outline, x, y), "whichever way it is drawn"


@given(st.lists(places, min_size=3, max_size=9))
def test_a_box_holds_its_outline(outline: list[tuple[int, int]]) -> None:
    left, top, right, bottom = box_of(tuple((float(x), float(y)) for x, y in outline))
    xs, ys = zip(*outline, strict=True)
    assert (left, top, right, bottom) == (min(xs), min(ys), max(xs), max(ys))


@pytest.mark.parametrize("outline", [SQUARE, ELL], ids=["square", "ell"])
@given(places, places)
def test_a_straight_wire_crosses_an_outline_as_often_as_it_changes_sides(
    outline: list[tuple[float, float]], a: tuple[int, int], b: tuple[int, int]
) -> None:
    """In, out, in: each crossing changes the side, and each place told lies on an edge."""
    assume(math.dist(a, b) > 50)
    # Off every corner and along no edge, where being on it is neither in nor out.
    a_, b_ = (a[0] + 0.37, a[1] + 0.53), (b[0] + 0.71, b[1] + 0.29)
    line = draw(path(a_, b_))
    met = crossings(line, [outline])
    sides = [inside(outline, *line.point(s)) for s in np.linspace(0, line.length, 2000)]
    changes = sum(one != other for one, other in itertools.pairwise(sides))
    assert len(met) >= changes and (len(met) - changes) % 2 == 0
    assert met == sorted(met)
    for s in met:
        x, y = line.point(s)
        edges = zip(outline, [*outline[1:], outline[0]], strict=True)
        assert min(draw(path(p, q)).nearest(x, y)[1] for p, q in edges) < 0.01
