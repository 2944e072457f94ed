"""Whole pictures traced and laid: the same railroad comes out, and what is no plan is refused in a sentence."""

from __future__ import annotations

import math
import statistics
from collections.abc import Callable
from dataclasses import replace

import numpy as np
import pytest
from PIL import Image, ImageDraw

from jolly_copper.core.drawing.acts import Like
from jolly_copper.core.drawing.sheet import DrawingError, Sheet
from jolly_copper.core.drawing.tracing import SHORTEST_MM, Placed, lay_traced
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.tracing.fitting import Corner
from jolly_copper.core.tracing.lines import Line, NotTraced, Settings, Traced
from jolly_copper.core.tracing.proposal import trace
from jolly_copper.demo import harbour_arm, millbeck
from tests.long import either
from tests.pictures import array, picture, scanned
from tests.small_plans import SMALL_PLANS, cross_over
from tests.traced import found_and_true, ground, kinds, laid, same_topology, traced, wrong_hands

LINE_WIDTH_MM = 12.0


@pytest.mark.parametrize("scan", [False, True], ids=["exported", "scanned"])
@pytest.mark.parametrize("hand", ["one line", "thin line", "coloured"])
def test_a_plan_comes_out_as_the_railroad_it_was_drawn_from(hand: str, scan: bool) -> None:
    layout = harbour_arm()
    found, placed = traced(layout, hand, scan=scan)  # type: ignore[arg-type]
    out, report = laid(found, placed)
    assert same_topology(layout, out) and kinds(out) == kinds(layout)
    assert min(found_and_true(layout, out, LINE_WIDTH_MM)) >= 0.97
    assert wrong_hands(out) == [] and ground(out) == pytest.approx(ground(layout), rel=0.03)
    assert (report.turnouts, report.loose_ends) == (8, 2)


@pytest.mark.parametrize("scan", [False, True], ids=["exported", "scanned"])
@pytest.mark.parametrize("plan", either(SMALL_PLANS[::3], SMALL_PLANS))
def test_small_plans_with_leads_as_templates_have_them(plan: Callable[[], Layout], scan: bool) -> None:
    """The same topology, and turnouts within 20 mm of where their leads begin."""
    layout = plan()
    found, placed = traced(layout, wide=1500, scan=scan)
    out, _ = laid(found, placed)
    assert same_topology(layout, out) and wrong_hands(out) == []
    assert min(found_and_true(layout, out, 15.0)) >= 0.95
    true = [n.at for n in layout.nodes.values() if n.kind == "turnout"]
    off = [
        min(math.dist((t.x, t.y), (n.at.x, n.at.y)) for t in true) for n in out.nodes.values() if n.kind == "turnout"
    ]
    assert statistics.median(off or [0.0]) <= 20.0 and max(off, default=0.0) < 60


def test_lines_of_two_rails_that_lie_across_each_other_cross() -> None:
    found, placed = traced(cross_over(), "two rails", wide=2400)
    assert found.two_rails and len(found.crossings) == 1
    assert same_topology(cross_over(), laid(found, placed)[0])


def test_a_larger_plan_with_names_all_over_it() -> None:
    layout = millbeck()
    found, placed = traced(layout, scan=True)
    out, _ = laid(found, placed)
    assert same_topology(layout, out) and wrong_hands(out) == []
    assert sum(x.why == "lettering" for x in found.lines) > 20


def test_a_cut_leaves_no_curve_of_no_radius() -> None:
    """A loop of 600 mm radius with a siding: no track of it curves tighter than the loop or the lead is drawn."""
    found, placed = traced(SMALL_PLANS[0](), wide=1500, scan=True)
    out, _ = laid(found, placed)
    tightest = [t.line.tightest for t in out.tracks.values() if t.line.tightest is not None]
    assert tightest and min(tightest) > 500


def test_two_rails_are_one_track() -> None:
    layout = harbour_arm()
    found, placed = traced(layout, "two rails", wide=3000)
    out, _ = laid(found, placed)
    assert found.two_rails and same_topology(layout, out) and wrong_hands(out) == []
    assert min(found_and_true(layout, out, LINE_WIDTH_MM)) >= 0.96


def small(scan: bool = False) -> tuple[np.ndarray, Settings, Placed]:
    made, mm, (x, y) = picture(harbour_arm(), 1200)
    return array(scanned(made) if scan else made), Settings(16.5 / mm), Placed(x, y, mm)


def test_the_same_picture_gives_the_same_answer() -> None:
    pixels, how, _ = small(scan=True)
    told: list[str] = []
    assert trace(pixels, how, told.append) == trace(pixels, how)
    assert told == ["Cleaning the paper", "Finding the ink", "Following lines", "Fitting curves"]


def plan_with(*boxes: tuple[int, int, int, int]) -> Traced:
    """A loop with a siding, and the outlines of boards round it."""
    made = Image.new("RGB", (1200, 700), "white")
    pen = ImageDraw.Draw(made)
    pen.rounded_rectangle((150, 150, 1050, 550), 120, outline=(0, 0, 0), width=3)
    pen.line([(400, 150), (460, 152), (520, 165), (560, 175), (820, 175)], fill=(0, 0, 0), width=3, joint="curve")
    for box in boxes:
        pen.rectangle(box, outline=(0, 0, 0), width=3)
    return trace(array(made), Settings(4.0))


def test_edges_of_boards_are_left_out_with_their_reason() -> None:
    found = plan_with((60, 60, 1140, 640), (300, 300, 600, 420))
    why = [x.why for x in found.lines]
    assert why.count("board edge or building") == 2 and why.count("") == 2


def test_boxes_leave_out_and_keep_to() -> None:
    pixels, how, _ = small()
    whole = trace(pixels, how)
    height, width = pixels.shape[:2]
    left = trace(pixels, Settings(how.gauge, left_out=((0.0, 0.0, width / 2, float(height)),)))
    only = trace(pixels, Settings(how.gauge, area=(0.0, 0.0, width / 2, float(height))))
    lengths = [sum(x.length for x in t.lines if not x.why) for t in (whole, left, only)]
    assert lengths[1] + lengths[2] == pytest.approx(lengths[0], rel=0.12)
    assert all(c.x <= width / 2 + 2 for x in only.lines for c in x.corners)


def test_a_box_off_the_picture_holds_nothing() -> None:
    pixels, how, _ = small()
    height, width = pixels.shape[:2]
    off = (-500.0, -400.0, -20.0, -10.0)
    with pytest.raises(NotTraced, match="no ink"):
        trace(pixels, Settings(how.gauge, area=off))
    assert trace(pixels, Settings(how.gauge, left_out=(off,))) == trace(pixels, how)
    over = (-500.0, -400.0, width + 900.0, height + 900.0)
    assert trace(pixels, Settings(how.gauge, area=over)) == trace(pixels, how)


def test_lines_may_be_left_and_what_leaves_them_ends_in_the_open() -> None:
    pixels, how, placed = small()
    found = trace(pixels, how)
    host = max((x for x in found.lines if not x.why), key=lambda x: x.length)
    sheet = Sheet(Layout(name="Part"))
    rest = [x.number for x in found.lines if not x.why and x.number != host.number]
    report = lay_traced(sheet, found, rest, placed, Like().model_dump())
    assert report.loose_ends > 2 and sheet.layout().tracks
    assert report.left_out == 0
    stub = Line(900, (Corner(0.0, 0.0, None), Corner(0.5 * SHORTEST_MM / placed.mm, 0.0, None)), False, None, None)
    longer = replace(found, lines=(*found.lines, stub))
    more = lay_traced(Sheet(Layout(name="Stub")), longer, [*rest, 900], placed, Like().model_dump())
    assert more.left_out == 1 and more.tracks == report.tracks
    with pytest.raises(DrawingError, match="No line is chosen"):
        lay_traced(Sheet(Layout(name="None")), found, [], placed, Like().model_dump())


def test_inks_may_be_uses() -> None:
    layout = harbour_arm()
    made, mm, (x, y) = picture(layout, 1500, "coloured")
    found = trace(array(made), Settings(16.5 / mm))
    inks = {k.ink for k in found.lines if not k.why}
    assert len(inks) > 1
    pale = min(inks, key=lambda i: found.inks[i].share)
    sheet = Sheet(Layout(name="Inks"))
    chosen = [k.number for k in found.lines if not k.why]
    lay_traced(sheet, found, chosen, Placed(x, y, mm), Like().model_dump(), {pale: "yard"})
    assert {t.use for t in sheet.layout().tracks.values()} == {"main", "yard"}


def figure_eight(flat: bool) -> Traced:
    made = Image.new("RGB", (1000, 600), "white")
    pen = ImageDraw.Draw(made)
    rise = 60 if flat else 260
    pen.line([(100, 300 - rise / 2), (900, 300 + rise / 2)], fill=(0, 0, 0), width=3)
    pen.line([(100, 300 + rise / 2), (900, 300 - rise / 2)], fill=(0, 0, 0), width=3)
    return trace(array(made), Settings(4.0))


@pytest.mark.parametrize("flat", [False, True])
def test_two_lines_that_cross_are_a_crossing_and_a_flat_one_is_a_doubt(flat: bool) -> None:
    found = figure_eight(flat)
    (crossing,) = found.crossings
    assert (crossing.x, crossing.y) == pytest.approx((500, 300), abs=4) and crossing.flat == flat
    assert [d.kind for d in found.doubts if d.kind == "flat crossing"] == ["flat crossing"] * flat
    sheet = Sheet(Layout(name="Cross"))
    report = lay_traced(
        sheet, found, [x.number for x in found.lines if not x.why], Placed(0, 0, 4.0), Like().model_dump()
    )
    assert report.crossings == 1 and kinds(sheet.layout())["crossing"] == 1


def test_a_figure_of_eight_crosses_itself() -> None:
    """One line that comes round: both its passes over the middle go through one crossing."""
    t = np.linspace(0, 2 * math.pi, 800)
    points = [(500 + 380 * math.sin(a), 300 + 330 * math.sin(a) * math.cos(a)) for a in t.tolist()]
    made = Image.new("RGB", (1000, 600), "white")
    ImageDraw.Draw(made).line(points, fill=(0, 0, 0), width=3, joint="curve")
    found = trace(array(made), Settings(4.0))
    (crossing,) = found.crossings
    assert crossing.one == crossing.other and (crossing.x, crossing.y) == pytest.approx((500, 300), abs=4)
    (line,) = (x for x in found.lines if not x.why)
    assert line.closed and abs(crossing.one_at - crossing.other_at) == pytest.approx(line.length / 2, rel=0.05)
    sheet = Sheet(Layout(name="Eight"))
    report = lay_traced(sheet, found, [line.number], Placed(0, 0, 4.0), Like().model_dump())
    layout = sheet.layout()
    assert (report.crossings, report.loose_ends, len(layout.tracks)) == (1, 0, 2)
    ports = sorted(p.port for t in layout.tracks.values() for p in (t.a, t.b))
    assert ports == ["east1", "east2", "west1", "west2"]


def noise() -> np.ndarray:
    return np.random.default_rng(5).integers(0, 255, (400, 500, 3), dtype=np.uint8)


def page_of_text() -> np.ndarray:
    made = Image.new("RGB", (900, 600), "white")
    pen = ImageDraw.Draw(made)
    for row in range(20):
        pen.text(
            (40, 30 + 26 * row),
            "the quick brown fox runs round the loop and stops at the coal road " * 2,
            fill=(0, 0, 0),
        )
    return array(made)


@pytest.mark.parametrize(
    ("pixels", "why"),
    [
        (np.full((400, 500, 3), 255, dtype=np.uint8), "no ink"),
        (np.full((400, 500, 3), 90, dtype=np.uint8), "no ink"),
        (noise(), "not a drawing of lines|too tangled|no ink"),
        (np.zeros((60, 60, 3), dtype=np.uint8), "too small"),
    ],
    ids=["white", "grey", "noise", "tiny"],
)
def test_what_is_no_plan_says_so(pixels: np.ndarray, why: str) -> None:
    with pytest.raises(NotTraced, match=why):
        trace(pixels, Settings(5.0))


def test_a_page_of_text_proposes_nothing() -> None:
    try:
        found = trace(page_of_text(), Settings(5.0))
    except NotTraced:
        return
    assert all(x.why for x in found.lines)
