"""How track lies: corners at joints, curves under the least, and rings that close smoothly."""

from __future__ import annotations

import math

import pytest

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.drawing.sheet import DrawingError
from jolly_copper.core.findings.lie import KINK_DEGREES, kinks, tight_curves
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.geometry import draw
from jolly_copper.core.layout.reading import read_layout
from jolly_copper.demo import gannet_bay, signalled_bay
from jolly_copper.demo.drafting import Draft
from tests.core.test_drawing import do, empty, spots
from tests.track_plans import oval

CORNERS = ((0.0, 0.0), (4000.0, 0.0), (4000.0, 2000.0), (0.0, 2000.0))


def corner(degrees: float) -> Layout:
    """Two straight tracks that meet at a corner of so many degrees."""
    d = Draft("Corner")
    d.node("A", 0, 0, "bumper")
    d.node("J", 1000, 0)
    turn = math.radians(degrees)
    d.node("B", 1000 + 1000 * math.cos(turn), 1000 * math.sin(turn), "bumper")
    d.track("one", "One", "A.1", "J.1")
    d.track("two", "Two", "J.2", "B.1")
    return d.plain()


@pytest.mark.parametrize("degrees", [KINK_DEGREES + 0.5, 20, 90, -30])
def test_a_corner_at_a_joint_is_told_with_its_angle(degrees: float) -> None:
    (found,) = kinks(derive(corner(degrees), None))
    assert found.severity == "look" and f"{abs(degrees):.0f}°" in found.title
    assert found.place.track in ("one", "two") and set(found.shows) == {"one", "two"}


@pytest.mark.parametrize("degrees", [0, 1, -3.5])
def test_what_runs_straight_on_is_no_kink(degrees: float) -> None:
    assert not list(kinks(derive(corner(degrees), None)))


def test_no_joint_of_the_demos_has_a_kink() -> None:
    for layout in (gannet_bay(), signalled_bay()):
        assert not list(kinks(derive(layout, None)))


def test_the_ends_of_an_oval_drawn_to_points_are_told() -> None:
    assert {f.place.id for f in kinks(derive(oval().plain(), None))} == {"J1", "J2"}


def test_a_ring_drawn_back_to_its_beginning_is_one_smooth_track() -> None:
    layout = do(empty(), "track", spots=spots(*CORNERS, CORNERS[0]))
    (track,) = layout.tracks.values()
    assert track.a.node == track.b.node and {track.a.port, track.b.port} == {"1", "2"}
    assert not list(kinks(derive(layout, None))), "its joint lies where the track runs straight"
    line = draw(track.path)
    # Four quarter turns of the largest radius that fits: half the short side.
    assert line.length == pytest.approx(2 * (4000 - 2000) + 2 * math.pi * 1000, rel=0.002)
    assert line.tightest == pytest.approx(1000, rel=0.01)


def test_a_ring_of_two_legs_is_no_ring() -> None:
    with pytest.raises(DrawingError):
        do(empty(), "track", spots=spots((0, 0), (0, 0)))


def test_a_curve_under_the_least_is_told_with_both_radii() -> None:
    layout = do(empty(), "track", spots=[{"x": 0, "y": 0}, {"x": 1000, "y": 0, "radius": 200}, {"x": 1000, "y": 1000}])
    (found,) = tight_curves(derive(layout, None))
    assert found.severity == "look" and "least" in found.title
    eased = read_layout({**layout.model_dump(mode="json"), "brief": {"rules": {"shortest_radius": 150}}})
    assert not list(tight_curves(derive(eased, None))), "the house rule decides"


def test_alike_curves_are_one_finding() -> None:
    found = list(tight_curves(derive(gannet_bay(), None)))
    assert len(found) == len({f.key for f in found}) <= 2


def test_curves_of_one_radius_are_told_with_how_many_there_are() -> None:
    layout = empty()
    for y in (0, 2000, 4000):
        bend = [{"x": 0, "y": y}, {"x": 1000, "y": y, "radius": 200}, {"x": 1000, "y": y + 1000}]
        layout = do(layout, "track", spots=bend)
    (found,) = tight_curves(derive(layout, None))
    assert " and 2 more curves at " in found.title and len(found.shows) == 3


@pytest.mark.parametrize(("under", "heard"), [(0.0, False), (0.4, False), (0.6, True), (30.0, True)])
def test_half_a_millimetre_of_radius_is_nothing(under: float, heard: bool) -> None:
    """What a hand draws is not read to the hair."""
    bend = [{"x": 0, "y": 0}, {"x": 1000, "y": 0, "radius": 400}, {"x": 1000, "y": 1000}]
    layout = do(empty(), "track", spots=bend)
    tightest = next(iter(layout.tracks.values())).line.tightest
    assert tightest == pytest.approx(400, rel=0.01)
    rules = {"rules": {"shortest_radius": tightest + under}}
    ruled = read_layout({**layout.model_dump(mode="json"), "brief": rules})
    assert bool(list(tight_curves(derive(ruled, None)))) is heard
