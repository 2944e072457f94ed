"""A picture of a plan to joined track in a real browser: askew photo made square, scale, trace, put right, taken."""

from __future__ import annotations

import re
from pathlib import Path

from PIL import Image
from playwright.sync_api import Page, expect

from jolly_copper.core.tracing.straightening import homography
from jolly_copper.demo import harbour_arm
from tests.papers import plan_as_pdf
from tests.pictures import picture, scanned
from tests.small_plans import shed
from tests.web.test_accessible import told, violations
from tests.web.test_drawing import start
from tests.web.test_story import bench as bench
from tests.web.test_story import find


def photo(folder: Path) -> tuple[Path, list[tuple[float, float]], float, float]:
    """The plan on its sheet, photographed from one side on a desk. Answers the file, where the sheet's corners are in
    it as shares of its size, and how large the sheet is, mm."""
    made, mm, _ = picture(harbour_arm(), 1800, words=True)
    sheet = scanned(made)
    width, height = sheet.size
    wide, high = 2000, 900
    seen = [(120.0, 150.0), (1900.0, 90.0), (1850.0, 640.0), (160.0, 610.0)]
    back = homography(seen, [(0.0, 0.0), (width, 0.0), (width, height), (0.0, height)])
    askew = (Image.Transform.PERSPECTIVE, back, Image.Resampling.BICUBIC)
    lying = sheet.transform((wide, high), *askew, fillcolor=(96, 74, 52))
    path = folder / "wall plan.png"
    lying.save(path)
    return path, [(x / wide, y / high) for x, y in seen], width * mm, height * mm


def test_from_a_photo_of_the_wall_plan_to_what_reverse_says(bench: Page, tmp_path: Path) -> None:
    board = start(bench, "Traced", "HO")
    page = board.page
    path, corners, wide, high = photo(tmp_path)
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="Choose a picture…").click()
    chooser.value.set_files(path)
    backdrop = page.get_by_test_id("backdrop")
    expect(backdrop).to_be_visible()
    card = page.get_by_test_id("trace")
    card.get_by_role("button", name="Straighten a photo…").click()
    box = backdrop.bounding_box()
    assert box is not None
    for k, (x, y) in enumerate(corners):
        expect(card).to_contain_text(f"{4 - k} more")
        page.mouse.click(box["x"] + x * box["width"], box["y"] + y * box["height"])
    expect(card).to_contain_text("All four")
    card.get_by_label("It is wide").fill("1 in")
    page.keyboard.press("Tab")
    expect(card.get_by_role("alert")).to_contain_text("At least")
    card.get_by_label("It is wide").fill(f"{wide:.0f} mm")
    page.keyboard.press("Tab")
    card.get_by_label("and high").fill(f"{high:.0f} mm")
    page.keyboard.press("Tab")
    card.get_by_role("button", name="Make it square").click()
    board.until(lambda d: abs(d["backdrop"]["width"] * d["backdrop"]["mm_per_pixel"] - wide) < 0.01 * wide)
    card.get_by_role("button", name="Trace it", exact=True).press("Enter")
    expect(page.get_by_test_id("trace-words")).to_contain_text("8 turnouts", timeout=40_000)
    found = violations(page)
    assert found == [], told(found)
    # A line turned over on the plan and back again from the list; nothing is saved meanwhile.
    kept = page.locator("[data-in=true]")
    count = kept.count()
    card.get_by_text(re.compile("lines, one by one")).click()
    box_of_one = card.get_by_role("list").last.get_by_role("checkbox").first
    was = box_of_one.is_checked()
    box_of_one.press("Space")
    expect(kept).to_have_count(count - 1 if was else count + 1)
    box_of_one.press("Space")
    expect(kept).to_have_count(count)
    assert board.document()["tracks"] == {}
    card.get_by_role("button", name=re.compile("^Take ")).click()
    document = board.until(lambda d: sum(n["kind"] == "turnout" for n in d["nodes"].values()) == 8)
    assert len(document["tracks"]) == 13
    expect(page.get_by_text(re.compile("13 tracks laid, 8 turnouts"))).to_be_visible()
    find(page, "go to reverse")
    expect(page.get_by_text("No reversing section is needed")).to_be_visible()
    page.keyboard.press("Control+z")
    board.until(lambda d: not d["tracks"])


def test_what_cannot_be_traced_says_so_and_boxes_are_two_clicks(bench: Page, tmp_path: Path) -> None:
    board = start(bench, "Blank", "HO")
    page = board.page
    path = tmp_path / "blank.png"
    Image.new("RGB", (1200, 800), "white").save(path)
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="Choose a picture…").click()
    chooser.value.set_files(path)
    card = page.get_by_test_id("trace")
    card.get_by_role("button", name="Leave out a box").click()
    backdrop = page.get_by_test_id("backdrop")
    expect(backdrop).to_be_visible()
    box = backdrop.bounding_box()
    assert box is not None
    page.mouse.click(box["x"] + 30, box["y"] + 30)
    page.mouse.click(box["x"] + 130, box["y"] + 90)
    expect(page.get_by_test_id("traced").locator("rect")).to_have_count(1)
    card.get_by_role("button", name="Trace it", exact=True).click()
    expect(card.get_by_role("alert")).to_contain_text("There is no ink on this picture.")
    card.get_by_role("button", name="Forget the boxes").click()
    expect(page.get_by_test_id("traced").locator("rect")).to_have_count(0)


def test_the_second_page_of_a_pdf_with_a_turntable_on_it(bench: Page, tmp_path: Path) -> None:
    board = start(bench, "From paper", "HO")
    page = board.page
    path = tmp_path / "plan.pdf"
    path.write_bytes(plan_as_pdf(shed()))
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="Choose a picture…").click()
    chooser.value.set_files(path)
    which = page.get_by_label("Page of 2")
    expect(which).to_have_value("1")
    which.fill("3")
    which.press("Enter")
    expect(page.get_by_text("This must be a page from 1 to 2.")).to_be_visible()
    cover = board.until(lambda d: d["backdrop"] is not None)["backdrop"]["picture"]
    which.fill("2")
    which.press("Enter")
    board.until(lambda d: d["backdrop"]["picture"] != cover)
    expect(page.get_by_label("Page of 2")).to_have_value("2")
    card = page.get_by_test_id("trace")
    card.get_by_role("button", name="Trace it", exact=True).click()
    expect(page.get_by_test_id("trace-words")).to_contain_text("1 turntable", timeout=40_000)
    expect(page.locator("[data-traced-table]")).to_have_count(1)
    expect(card.get_by_text("A turntable, if this circle is one")).to_be_visible()
    card.get_by_role("button", name=re.compile("^Take ")).click()
    document = board.until(lambda d: any(n["kind"] == "turntable" for n in d["nodes"].values()))
    assert (
        sum(t["a"]["port"].startswith("stub") or t["b"]["port"].startswith("stub") for t in document["tracks"].values())
        == 7
    )
    page.keyboard.press("Control+z")
    board.until(lambda d: not d["tracks"])
