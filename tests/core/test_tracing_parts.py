"""The steps of tracing, each by itself: against known shapes, another library's counts, exact circles and maps."""

from __future__ import annotations

import math

import networkx as nx
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import ndimage

from jolly_copper.core.tracing.fineness import fineness, too_near
from jolly_copper.core.tracing.fitting import fit_line
from jolly_copper.core.tracing.graph import net_of, path_length
from jolly_copper.core.tracing.inks import find_inks, mask_of
from jolly_copper.core.tracing.paper import clean
from jolly_copper.core.tracing.straightening import NotStraight, homography, in_order, size_of
from jolly_copper.core.tracing.strokes import STRONG, strength, stroke_width, thin
from jolly_copper.core.tracing.turnouts import draw_in, line_of

EIGHT = np.ones((3, 3))


def sheet(width: int = 400, height: int = 300) -> np.ndarray:
    return np.full((height, width, 3), 255, dtype=np.uint8)


def drawn(mask: np.ndarray, colour: tuple[int, int, int] = (10, 10, 10)) -> np.ndarray:
    found = sheet(mask.shape[1], mask.shape[0])
    found[mask] = colour
    return found


def bar(y: int, thick: int, width: int = 400, height: int = 300) -> np.ndarray:
    found = np.zeros((height, width), dtype=bool)
    found[y : y + thick, 40:-40] = True
    return found


def test_light_and_tint_are_taken_out_of_the_paper() -> None:
    """The same line under a lamp to one side, on yellowed paper, is as black at both ends."""
    picture = drawn(bar(150, 5)).astype(float)
    light = np.linspace(0.55, 1.0, picture.shape[1])[None, :, None] * np.array([1.0, 0.95, 0.8])
    found = clean((picture * light).astype(np.uint8))
    assert not found.turned
    ink = found.ink[152, 60:-60].max(axis=1)
    assert ink.min() > 0.9 and found.ink[20:100].max() < 0.08


def test_light_lines_on_dark_paper_are_turned_round() -> None:
    found = clean(255 - drawn(bar(150, 5)))
    assert found.turned and found.ink[152, 200].max() > 0.9 and found.ink[50, 200].max() < 0.05


def test_inks_are_told_by_their_hue_and_each_is_found_where_it_is() -> None:
    picture = drawn(bar(60, 4))
    picture[bar(150, 4)] = (30, 60, 200)
    picture[bar(240, 4)] = (190, 190, 190)
    ink = clean(picture).ink
    inks = find_inks(ink)
    assert sorted((i.dark for i in inks), reverse=True) == [True, True, False]
    blue = next(n for n, i in enumerate(inks) if i.colour[0] > i.colour[2] + 0.3)
    rows = np.flatnonzero(mask_of(ink, inks, [blue]).any(axis=1))
    assert rows.min() >= 149 and rows.max() <= 155


def test_no_ink_on_blank_paper() -> None:
    assert find_inks(clean(sheet()).ink) == []


@given(st.integers(0, 10_000))
@settings(max_examples=25)
def test_thinning_keeps_every_piece_and_every_hole(seed: int) -> None:
    """Against the labels of another library: each piece of ink stays one, but for round spots no wider than letters,
    and as many holes stay as there were."""
    chance = np.random.default_rng(seed)
    blobs = ndimage.gaussian_filter(chance.random((60, 80)), 2.5) > 0.5
    blobs[0], blobs[-1], blobs[:, 0], blobs[:, -1] = False, False, False, False
    thinned = thin(blobs)
    assert not (thinned & ~blobs).any()
    labels, count = ndimage.label(blobs, EIGHT)
    for n, box in enumerate(ndimage.find_objects(labels), start=1):
        pieces = ndimage.label(thinned & (labels == n), EIGHT)[1]
        long = max(s.stop - s.start for s in box) > 8
        assert pieces == 1 or (pieces == 0 and not long), count
    assert ndimage.label(~thinned)[1] == ndimage.label(~blobs)[1]


@pytest.mark.parametrize("thick", [3, 5, 7])
def test_how_wide_a_stroke_is(thick: int) -> None:
    mask = bar(150, thick)
    assert stroke_width(mask, thin(mask)) == pytest.approx(thick, abs=0.7)


def test_long_lines_are_strong_and_small_marks_are_not() -> None:
    mask = bar(150, 3)
    for x in range(60, 360, 14):  # a row of little rings, as letters are
        mask[200:207, x : x + 7] = True
        mask[202:205, x + 2 : x + 5] = False
    skeleton = thin(mask)
    sure, way = strength(mask, skeleton, 24)
    assert (sure[145:158][skeleton[145:158]] > STRONG).mean() > 0.98
    assert (sure[195:210][skeleton[195:210]] > STRONG).mean() < 0.05
    assert np.median(way[145:158][skeleton[145:158]]) == 0


def test_a_net_has_the_places_and_lines_of_its_drawing() -> None:
    """A cross, a ring beside it, and a step in a line, which is no place."""
    skeleton = np.zeros((60, 120), dtype=bool)
    skeleton[30, 5:50], skeleton[10:50, 25] = True, True
    angle = np.linspace(0, 2 * math.pi, 400)
    ring = np.zeros_like(skeleton)
    ring[np.round(30 + 15 * np.sin(angle)).astype(int), np.round(85 + 15 * np.cos(angle)).astype(int)] = True
    skeleton |= thin(ndimage.binary_dilation(ring))
    skeleton[50, 60:70], skeleton[51, 70:80] = True, True
    net = net_of(skeleton)
    graph = nx.MultiGraph((e.a, e.b) for e in net.edges.values())
    degrees = sorted(d for _, d in graph.degree())
    assert degrees == [1, 1, 1, 1, 1, 1, 2, 4] and nx.number_connected_components(graph) == 3
    (loop,) = (e for e in net.edges.values() if e.a == e.b)
    assert loop.length == pytest.approx(2 * math.pi * 15, rel=0.04)


def arc(radius: float, degrees: float, straight: float, noise: float = 0.0, seed: int = 0) -> np.ndarray:
    """A straight, an arc to the right, and a straight again, a point each pixel."""
    lead = np.column_stack([np.arange(0, straight), np.zeros(int(straight))])
    a = np.arange(0, math.radians(degrees), 1 / radius)
    bend = np.column_stack([straight + radius * np.sin(a), radius * (1 - np.cos(a))])
    way = np.array([math.cos(a[-1]), math.sin(a[-1])])
    tail = bend[-1] + np.arange(1, straight)[:, None] * way
    found = np.vstack([lead, bend, tail])
    return found + np.random.default_rng(seed).normal(0, noise, found.shape)


@pytest.mark.parametrize(("radius", "degrees"), [(120.0, 90.0), (200.0, 60.0), (150.0, 180.0), (400.0, 45.0)])
def test_an_arc_of_known_radius_comes_out_within_two_hundredths(radius: float, degrees: float) -> None:
    points = arc(radius, degrees, 150, noise=0.25)
    corners = fit_line(points, 3.0)
    radii = [c.radius for c in corners if c.radius is not None]
    assert radii and all(r == pytest.approx(radius, rel=0.02) for r in radii)
    line = line_of(corners)
    assert max(line.nearest(x, y)[1] for x, y in points[::7].tolist()) < 1.5
    assert line.length == pytest.approx(path_length(arc(radius, degrees, 150)), rel=0.004)
    assert len(corners) <= 3 + degrees / 60


def test_a_straight_has_two_ends_and_nothing_between() -> None:
    points = np.column_stack([np.arange(300.0), 40 + 0.1 * np.arange(300.0)])
    points += np.random.default_rng(3).normal(0, 0.3, points.shape)
    corners = fit_line(points, 3.0)
    assert len(corners) == 2 and math.dist(corners[0][:2], points[0]) < 1.5


@pytest.mark.parametrize("side", [-1, 1])
@pytest.mark.parametrize("ahead", [True, False])
def test_a_lead_begins_where_its_circle_touches_its_host(side: int, ahead: bool) -> None:
    """A lead of 45 gauges that leaves a straight at x = 200, then runs on at 9 degrees: found from where the strokes
    part on, within a stroke's width or two."""
    gauge, width = 5.0, 3.4
    radius = 45 * gauge
    a = np.arange(0, math.radians(9), 0.3 / radius)
    bend = np.column_stack([radius * np.sin(a), radius * (1 - np.cos(a))])
    way = np.array([math.cos(a[-1]), math.sin(a[-1])])
    lead = np.vstack([bend, bend[-1] + np.arange(1, 200)[:, None] * way])
    lead[:, 1] *= side
    lead[:, 0] *= 1 if ahead else -1
    lead += (200, 50)
    parted = lead[np.abs(lead[:, 1] - 50) > 1.5]  # the skeleton forks late
    host = line_of(fit_line(np.column_stack([np.arange(0.0, 500), np.full(500, 50.0)]), width))
    fork = float(parted[0, 0])
    found = draw_in(parted, host, fork, width, gauge)
    assert found.ahead == ahead and found.along == pytest.approx(200, abs=6)
    assert np.all(np.sign(found.points[4:, 1] - 50) == side)


figures = st.floats(-0.4, 0.4)


@given(st.tuples(figures, figures, figures, figures), st.floats(-3e-4, 3e-4), st.floats(-3e-4, 3e-4))
def test_a_perspective_is_undone_exactly(linear: tuple[float, float, float, float], g: float, h: float) -> None:
    """Four corners through a known map of the plane: every other place comes back too."""
    a, b, d, e = 1 + linear[0], linear[1], linear[2], 1 + linear[3]
    if abs(a * e - b * d) < 0.2:
        return

    def through(x: float, y: float) -> tuple[float, float]:
        w = g * x + h * y + 1
        return (a * x + b * y + 50) / w, (d * x + e * y + 70) / w

    corners = [(0.0, 0.0), (600.0, 0.0), (600.0, 400.0), (0.0, 400.0)]
    found = homography(corners, [through(*c) for c in corners])
    for x, y in ((300.0, 200.0), (17.0, 333.0), (599.0, 1.0)):
        w = found[6] * x + found[7] * y + 1
        there = (found[0] * x + found[1] * y + found[2]) / w, (found[3] * x + found[4] * y + found[5]) / w
        assert there == pytest.approx(through(x, y), abs=1e-5)


@pytest.mark.parametrize("size", [60.0, 900.0, 3000.0, 12_000.0])
def test_a_photo_of_any_size_is_made_square_and_three_corners_in_line_never(size: float) -> None:
    """The equations of large photos have figures of very unlike size; small ones do not."""
    high = size / 5
    rectangle = [(0.0, 0.0), (size, 0.0), (size, high), (0.0, high)]
    seen = [(0.06 * size, 0.09 * high), (0.97 * size, 0.03 * high), (0.91 * size, 0.95 * high), (0.02 * size, high)]
    a, b, c, d, e, f, g, h = homography(rectangle, seen)
    for (x, y), (u, v) in zip(rectangle, seen, strict=True):
        w = g * x + h * y + 1
        assert ((a * x + b * y + c) / w, (d * x + e * y + f) / w) == pytest.approx((u, v), abs=1e-6 * size)
    with pytest.raises(NotStraight):
        homography([(0.0, 0.0), (size / 2, size / 4), (size, size / 2), (0.0, size)], rectangle)


def test_corners_are_put_in_order_and_bad_ones_refused() -> None:
    four = [(10.0, 12.0), (400.0, 30.0), (420.0, 300.0), (5.0, 280.0)]
    for shuffled in ([four[k] for k in order] for order in ((0, 1, 2, 3), (2, 0, 3, 1), (3, 2, 1, 0))):
        assert in_order(shuffled) == four
    for bad in (
        [(0.0, 0.0), (100.0, 0.0), (200.0, 0.0), (100.0, 100.0)],
        [(0.0, 0.0), (300.0, 0.0), (150.0, 250.0), (150.0, 90.0)],
        [(0.0, 0.0), (5.0, 0.0), (5.0, 5.0), (0.0, 5.0)],
        four[:3],
    ):
        with pytest.raises(NotStraight):
            in_order(bad)
    width, height = size_of(four, 3000, 2000, 3000)
    assert width / height == pytest.approx(1.5, rel=0.01) and 380 <= width <= 440


def test_what_is_said_of_a_picture_whose_tracks_lie_close() -> None:
    """Bounds by hand: three gauges from track to track; 6 px is the least, 16 px are fine. At 5 px of 1,000 the picture
    wants 1,200."""
    assert too_near(2.0, 1000) == "" and "1200 px across" in too_near(5 / 3, 1000)
    assert fineness(16 / 3) == "" and "4 times" in fineness(4.1 / 3)
    assert "come out twice" in fineness(9.9, two_rails=True) and fineness(10.0, two_rails=True) == ""
