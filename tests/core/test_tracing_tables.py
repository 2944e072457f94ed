"""Turntables, sleepers, shaking hands and photographs: what else a plan is drawn with, and how it comes out."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image, ImageDraw

from jolly_copper.core.drawing.acts import Like
from jolly_copper.core.drawing.sheet import Sheet
from jolly_copper.core.drawing.tracing import LaidReport, Placed, lay_traced
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.tracing.dashes import join_dashes
from jolly_copper.core.tracing.facing import End, facing
from jolly_copper.core.tracing.fitting import Corner, circle_through
from jolly_copper.core.tracing.graph import net_of
from jolly_copper.core.tracing.lines import Lead, Line, Settings, Stub, Table, Traced
from jolly_copper.core.tracing.polishing import polish
from jolly_copper.core.tracing.proposal import trace
from jolly_copper.core.tracing.sleepers import has_sleepers, without_sleepers
from jolly_copper.core.tracing.strokes import strength, stroke_width, thin
from jolly_copper.core.tracing.tables import Disc, find_discs, tables_of, without_discs
from jolly_copper.core.tracing.turnouts import line_of
from jolly_copper.demo import gannet_bay, harbour_arm
from jolly_copper.telling.tracing import taken_words, traced_shape
from tests.long import either
from tests.pictures import array
from tests.small_plans import SMALL_PLANS, passing_siding, shed, stub_yard
from tests.traced import GAUGE_MM, found_and_true, kinds, laid, same_topology, traced, wrong_hands

GAUGE = 5.0


def ink(draw: ImageDraw.ImageDraw, radius: float, x: float, y: float, bearings: list[float], reach: float) -> None:
    draw.ellipse((x - radius, y - radius, x + radius, y + radius), outline=0, width=3)
    for turn in bearings:
        a, b = math.cos(turn), math.sin(turn)
        draw.line((x + radius * a, y + radius * b, x + reach * a, y + reach * b), fill=0, width=3)


def discs_on(sheet: Image.Image) -> list[Disc]:
    mask = np.asarray(sheet) < 128
    skeleton = thin(mask)
    width = stroke_width(mask, skeleton)
    _, way = strength(mask, skeleton, 20.0)
    return find_discs(skeleton, way, GAUGE, width)


@settings(max_examples=12, deadline=None)
@given(
    radius=st.floats(19, 70),
    x=st.floats(150, 350),
    y=st.floats(150, 250),
    first=st.floats(0, 6.28),
    apart=st.floats(0.6, 3.14),
)
def test_a_pit_with_roads_is_found_where_it_was_drawn(
    radius: float, x: float, y: float, first: float, apart: float
) -> None:
    sheet = Image.new("L", (500, 400), 255)
    ink(ImageDraw.Draw(sheet), radius, x, y, [first, first + apart], 2.2 * radius + 30)
    (disc,) = discs_on(sheet)
    # The pen of the picture draws its outline inside the box it is given.
    assert math.dist((disc.x, disc.y), (x, y)) < 2 and abs(disc.radius - (radius - 1)) < 2


@pytest.mark.parametrize(
    ("radius", "roads"),
    [(40, 0), (40, 1), (8, 3), (120, 2)],
    ids=["no road", "one road alone", "a letter", "a loop of track"],
)
def test_a_circle_that_is_no_turntable_is_none(radius: float, roads: int) -> None:
    sheet = Image.new("L", (500, 400), 255)
    ink(ImageDraw.Draw(sheet), radius, 250, 200, [k * 1.3 for k in range(roads)], 2 * radius + 20)
    assert discs_on(sheet) == []


def test_what_is_on_a_disc_is_taken_off_and_nothing_else() -> None:
    skeleton = np.ones((60, 80), dtype=bool)
    left = without_discs(skeleton, [Disc(40.0, 30.0, 10.0)], 3.0)
    ys, xs = np.nonzero(~left)
    assert np.hypot(xs - 40, ys - 30).max() <= 14.5 and (~left).sum() == pytest.approx(math.pi * 14.4**2, rel=0.05)


def road(number: int, turn: float, reach: float = 300, starts: Lead | None = None) -> Line:
    a, b = math.cos(turn), math.sin(turn)
    ends = (Corner(55 * a, 55 * b, None), Corner(reach * a, reach * b, None))
    return Line(number, ends, False, starts, None)


def test_ends_that_point_at_the_middle_are_stubs_and_others_are_not() -> None:
    aside = Line(2, (Corner(0, 60, None), Corner(300, 60, None)), False, None, None)
    led = road(3, 2.0, starts=Lead(0, 5.0, True))
    (table,) = tables_of([Disc(0, 0, 50)], [road(0, 0.0), road(1, 1.0), aside, led], GAUGE)
    assert table.stubs == (Stub(0, True), Stub(1, True))
    assert tables_of([Disc(0, 0, 50)], [road(0, 0.0)], GAUGE) == []


def test_a_table_is_laid_with_its_roads_to_the_edge_of_its_pit() -> None:
    lines = (road(0, 0.0), road(1, 2.0), road(2, 4.0))
    table = Table(0, 0, 50, (Stub(0, True), Stub(1, True), Stub(2, True)))
    found = Traced(lines, (), (), (), (), 1.0, False, tables=(table,))
    sheet = Sheet(Layout(name="Table"))
    report = lay_traced(sheet, found, [0, 1, 2], Placed(1000, 500, 2), Like().model_dump())
    out = sheet.layout()
    assert (report.tables, report.loose_ends, report.tracks) == (1, 3, 3)
    (node,) = [n for n in out.nodes.values() if n.kind == "turntable"]
    assert (node.at.x, node.at.y, node.diameter) == (1000, 500, 200)
    for track in out.tracks.values():
        assert math.dist((track.path[0].x, track.path[0].y), (1000, 500)) == pytest.approx(100, abs=0.1)
    # With one road chosen there is no table: its end lies in the open.
    alone = Sheet(Layout(name="Alone"))
    assert lay_traced(alone, found, [1], Placed(0, 0, 2), Like().model_dump()).tables == 0


def test_the_demo_with_its_turntable_comes_out_as_the_same_railroad() -> None:
    layout = gannet_bay()
    found, placed = traced(layout, wide=3000)
    out, report = laid(found, placed)
    assert same_topology(layout, out) and wrong_hands(out) == [] and report.tables == 1
    assert min(found_and_true(layout, out, 12.0)) > 0.97
    assert [d.kind for d in found.doubts].count("turntable") == 1


def test_sleepers_are_told_and_taken_out() -> None:
    layout = stub_yard()
    for photo in (False, True):
        found, placed = traced(layout, "sleepers", photo=photo)
        out, _ = laid(found, placed)
        assert found.sleepers and same_topology(layout, out) and min(found_and_true(layout, out, 12.0)) > 0.98


@pytest.mark.parametrize("hand", either(["two rails", "by hand"], ["one line", "thin line", "two rails", "by hand"]))
def test_plans_without_sleepers_have_none(hand: str) -> None:
    found, _ = traced(harbour_arm(), hand, scan=True)  # type: ignore[arg-type]
    assert not found.sleepers


@pytest.mark.parametrize(
    "hand", either(["bold", "sleepers", "roadbed"], ["one line", "bold", "two rails", "sleepers", "roadbed"])
)
@pytest.mark.parametrize("photo", either([True], [False, True]))
def test_a_filled_roadbed_is_told(hand: str, photo: bool) -> None:
    found, placed = traced(stub_yard(), hand, photo=photo)  # type: ignore[arg-type]
    assert found.roadbed == (hand == "roadbed")
    said = traced_shape(found, placed, GAUGE_MM / placed.mm, "metric").warning
    assert ("filled roadbed" in said) == found.roadbed and ("sleepers" in said) == (hand == "sleepers")


def square_corner(radius: float) -> tuple[list[Corner], np.ndarray]:
    corners = [Corner(0, 0, None), Corner(400, 0, radius), Corner(400, 400, None)]
    drawn = line_of(corners)
    places = np.linspace(0, drawn.length, 300)
    return corners, np.array([drawn.point(float(s)) for s in places])


@settings(max_examples=20, deadline=None, derandomize=True)
@given(st.floats(60, 300), st.floats(-25, 25), st.floats(-25, 25), st.floats(0.6, 1.6))
def test_a_corner_that_lies_off_the_line_is_moved_onto_it(radius: float, dx: float, dy: float, times: float) -> None:
    true, points = square_corner(radius)
    moved = polish(points, [true[0], Corner(400 + dx, dy, radius * times), true[2]], 3.0)
    drawn = line_of(moved)
    assert max(drawn.nearest(float(x), float(y))[1] for x, y in points[::3]) <= 3.0
    assert moved[0] == true[0] and moved[2] == true[2]


def test_what_lies_well_or_hardly_bends_stays_as_it_is() -> None:
    true, points = square_corner(150)
    assert polish(points, true, 3.0) == true
    hardly = [Corner(0, 0, None), Corner(200, 8, None), Corner(400, 0, None)]
    assert polish(np.column_stack([np.linspace(0, 400, 90), np.zeros(90)]), hardly, 1.0) == hardly
    assert polish(points[:2], true[:2], 1.0) == true[:2]


def test_only_long_strokes_are_left() -> None:
    mask = np.zeros((80, 300), dtype=bool)
    mask[39:42] = True
    mask[33:48, 10:290:9] = True
    skeleton = thin(mask)
    assert has_sleepers(skeleton)
    left = without_sleepers(mask, skeleton, GAUGE)
    assert left[:, 20:280].any(axis=0).all()
    assert np.abs(np.nonzero(left)[0] - 40).max() <= 2


@pytest.mark.parametrize("plan", either(SMALL_PLANS[1::4], SMALL_PLANS))
def test_drawn_by_a_hand_that_shakes(plan: object) -> None:
    layout = plan()  # type: ignore[operator]
    found, placed = traced(layout, "by hand", photo=True)
    out, _ = laid(found, placed)
    # Where a shaking hand begins two leads of one place apart, they are two turnouts.
    legs = [kinds(x)["turnout"] + 2 * kinds(x)["three-way"] for x in (out, layout)]
    assert legs[0] == legs[1] and wrong_hands(out) == []


def test_from_a_photo_made_square_by_corners_three_pixels_off() -> None:
    layout = harbour_arm()
    found, placed = traced(layout, photo=True)
    out, _ = laid(found, placed)
    assert same_topology(layout, out) and min(found_and_true(layout, out, 12.0)) > 0.95


def test_a_line_too_short_for_what_leaves_it_leaves_their_ends_in_the_open() -> None:
    host = Line(0, (Corner(0, 0, None), Corner(60, 0, None)), False, None, None)
    leads = [
        Line(k, (Corner(30, 0, None), Corner(30 + 90, 20 * k, None)), False, Lead(0, 30.0, True), None)
        for k in range(1, 6)
    ]
    found = Traced((host, *leads), (), (), (), (), 1.0, False)
    sheet = Sheet(Layout(name="Short"))
    report = lay_traced(sheet, found, range(6), Placed(0, 0, 1), Like().model_dump())
    assert 0 < report.turnouts < 5 and sheet.layout().tracks


def test_a_table_alone_on_the_sheet_is_traced_whole() -> None:
    sheet = Image.new("L", (900, 700), 255)
    ink(ImageDraw.Draw(sheet), 40, 450, 350, [0.2 + 1.1 * k for k in range(5)], 300)
    found = trace(array(sheet), Settings(GAUGE))
    assert len(found.tables) == 1 and len(found.tables[0].stubs) == 5
    assert sum(not x.why for x in found.lines) == 5


def dashes(turn: float, count: int, on: float = 24, off: float = 14) -> np.ndarray:
    """A sheet with dashes in line, at an angle."""
    sheet = Image.new("L", (500, 500), 255)
    pen = ImageDraw.Draw(sheet)
    a, b = math.cos(turn), math.sin(turn)
    for k in range(count):
        s = -180 + k * (on + off)
        pen.line((250 + s * a, 250 + s * b, 250 + (s + on) * a, 250 + (s + on) * b), fill=0, width=3)
    return np.asarray(sheet) < 128


@settings(max_examples=15, deadline=None)
@given(turn=st.floats(0, 3.14), count=st.integers(3, 9))
def test_dashes_in_line_are_one_line(turn: float, count: int) -> None:
    net = net_of(thin(dashes(turn, count)))
    assert len(net.edges) == count
    assert join_dashes(net, 2.4, 60.0) == 1
    (edge,) = net.edges.values()
    assert edge.length == pytest.approx(count * 24 + (count - 1) * 14, rel=0.06)


def test_two_dashes_and_strokes_side_by_side_are_none() -> None:
    two = net_of(thin(dashes(0.3, 2)))
    assert join_dashes(two, 2.4, 60.0) == 0 and len(two.edges) == 2
    mask = np.zeros((100, 300), dtype=bool)
    mask[30:60, 20:280:12] = True
    beside = net_of(thin(mask))
    before = len(beside.edges)
    assert join_dashes(beside, 1.4, 60.0) == 0 and len(beside.edges) == before


def test_a_hidden_siding_in_dashes_is_track() -> None:
    plan = passing_siding().model_dump(mode="json")
    plan["tracks"]["track-3"]["use"] = "staging"
    layout = Layout.model_validate(plan)
    found, placed = traced(layout, "hidden dashed")
    assert same_topology(layout, laid(found, placed)[0])


def test_a_lead_that_a_shaking_pen_laid_over_its_host_is_no_crossing() -> None:
    layout = passing_siding()
    found, placed = traced(layout, "by hand")
    out, _ = laid(found, placed)
    assert found.crossings == () and same_topology(layout, out) and wrong_hands(out) == []


@pytest.mark.parametrize("plan", either([shed], [shed, stub_yard]))
def test_both_rails_with_sleepers_are_track(plan: object) -> None:
    layout = plan()  # type: ignore[operator]
    found, placed = traced(layout, "rails and sleepers", wide=2400)
    assert found.two_rails and found.sleepers and same_topology(layout, laid(found, placed)[0])


places = st.tuples(st.floats(0, 300), st.floats(0, 300), st.floats(0, 6.28))


@settings(max_examples=60, deadline=None)
@given(st.lists(places, max_size=14), st.floats(1, 200))
def test_ends_that_face_each_other_are_those_found_by_trying_every_pair(spots: list[tuple], reach: float) -> None:
    ends = [End(x, y, (math.cos(t), math.sin(t)), n, n) for n, (x, y, t) in enumerate(spots)]
    wanted = set()
    for a, one in enumerate(ends):
        for b in range(a + 1, len(ends)):
            away = math.dist(one[:2], ends[b][:2])
            if 1e-9 <= away <= reach:
                wanted.add((a, b))
    found = facing(ends, reach)
    assert {(min(f.one, f.other), max(f.one, f.other)) for f in found} == wanted
    assert [f.away + f.off for f in found] == sorted(f.away + f.off for f in found)
    for f in found:
        one, other = ends[f.one], ends[f.other]
        over = math.atan2(other.y - one.y, other.x - one.x)
        ways = [math.atan2(e.way[1], e.way[0]) for e in (one, other)]
        turns = [abs(math.remainder(w - o, 2 * math.pi)) for w, o in zip(ways, (over, over + math.pi), strict=True)]
        assert f.off == pytest.approx(math.degrees(max(turns)), abs=1e-4)


@given(st.floats(20, 200), st.floats(-50, 50), st.floats(-50, 50), st.floats(0, 6), st.floats(0.4, 6.2))
def test_a_circle_comes_back_from_points_on_it(r: float, x: float, y: float, first: float, sweep: float) -> None:
    turn = np.linspace(first, first + sweep, 40)
    found = circle_through(np.column_stack([x + r * np.cos(turn), y + r * np.sin(turn)]))
    assert found is not None and found == pytest.approx((x, y, r), abs=1e-3 * r)
    assert circle_through(np.column_stack([np.arange(9.0), 2 * np.arange(9.0)])) is None


def test_what_was_laid_is_told_in_both_unit_worlds() -> None:
    report = LaidReport(tracks=3, turnouts=1, crossings=0, tables=0, loose_ends=2)
    assert taken_words(report, "metric") == "3 tracks laid, 1 turnout, 0 crossings; 2 ends in the open."
    report.tables, report.left_out = 1, 2
    assert taken_words(report, "metric").endswith(
        "1 turntable; 2 ends in the open. 2 lines shorter than 30 mm left out."
    )
    assert taken_words(report, "imperial").endswith("2 lines shorter than 1 in left out.")
