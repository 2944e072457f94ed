"""Tools on the plan: cutting, joining by dragging, choosing many, throwing turnouts, by mouse and by keyboard."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.web.test_drawing import Board, start
from tests.web.test_story import bench as bench


@pytest.fixture
def board(bench: Page) -> Board:
    b = start(bench, "Bench test", "HO")
    b.lay([(200, 400), (2600, 400)])
    return b


def test_a_turnout_by_leaving_a_track_and_undo(board: Board) -> None:
    page = board.page
    board.lay([(1000, 400), (1600, 550), (2400, 800)])
    assert sorted(n["kind"] for n in board.document()["nodes"].values()).count("turnout") == 1
    page.keyboard.press("Control+z")
    board.until(lambda d: len(d["tracks"]) == 1)
    page.keyboard.press("Control+Shift+Z")
    board.until(lambda d: len(d["tracks"]) == 3)


def test_reading_angle_and_length_while_drawing(board: Board) -> None:
    page = board.page
    board.click(600, 1200)
    page.mouse.move(*board.at(1600, 1212))
    ghost = page.get_by_test_id("ghosts")
    expect(ghost).to_contain_text(re.compile(r"3' \d.*, 0°"))
    page.mouse.click(*board.at(1600, 1212))
    page.mouse.move(*board.at(1700, 1500))
    expect(ghost).to_contain_text("radius")
    expect(ghost).to_contain_text("under 1' 6")
    page.keyboard.press("Backspace")
    page.keyboard.press("Escape")
    expect(ghost).not_to_contain_text("radius")
    assert len(board.document()["tracks"]) == 1


def test_gaps_by_clicking_both_rails_left_and_right(board: Board) -> None:
    page = board.page
    for name, rails, x in (
        ("Gap, both rails", "both", 800),
        ("Gap, left rail", "left", 1300),
        ("Gap, right rail", "right", 1800),
    ):
        board.tool(name)
        board.click(x, 400)
        board.until(lambda d, r=rails: r in {g["rails"] for g in d["gaps"].values()})
    expect(page.get_by_test_id("inspector")).to_contain_text("Gap G3")
    page.get_by_label("From the A end").fill("banana")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("inspector").get_by_role("alert")).to_be_visible()
    page.get_by_role("button", name="Close this gap").click()
    board.until(lambda d: len(d["gaps"]) == 2)
    board.tool("Gap, both rails")
    board.click(1300, 1900)
    expect(page.get_by_role("status")).to_contain_text("Click on a track")


def test_an_open_end_dragged_to_a_track_joins_it(board: Board) -> None:
    board.lay([(2000, 1200), (1400, 1000)])
    board.page.keyboard.press("s")
    board.drag((1400, 1000), (1000, 400))
    document = board.until(lambda d: any(n["kind"] == "turnout" for n in d["nodes"].values()))
    assert len(document["tracks"]) == 3


def test_bends_are_pulled_and_taken_out(board: Board) -> None:
    page = board.page
    page.keyboard.press("s")
    board.click(800, 400)
    board.drag((1400, 400), (1400, 700))
    board.until(lambda d: len(d["tracks"]["track-1"]["path"]) == 3)
    expect(page.get_by_test_id("inspector")).to_contain_text("radius")
    page.get_by_test_id("bend").click()
    page.keyboard.press("Delete")
    board.until(lambda d: len(d["tracks"]["track-1"]["path"]) == 2)


def test_many_are_chosen_with_a_box_and_set_at_once_then_nudged_and_taken_away(board: Board) -> None:
    page = board.page
    board.lay([(200, 900), (2600, 900)])
    board.lay([(200, 1300), (2600, 1300)])
    page.keyboard.press("s")
    page.keyboard.down("Shift")
    board.drag((0, 700), (2900, 1500))
    page.keyboard.up("Shift")
    chosen = page.get_by_test_id("chosen")
    expect(chosen).to_contain_text("2 things chosen")
    chosen.get_by_label("Use").select_option("yard")
    board.until(lambda d: [t["use"] for t in d["tracks"].values()].count("yard") == 2)
    chosen.get_by_label("Rail code").fill("seventy")
    page.keyboard.press("Enter")
    expect(chosen.get_by_role("alert")).to_be_visible()
    page.locator("svg.plan").focus()
    for _ in range(3):
        page.keyboard.press("Shift+ArrowDown")
    before = 900
    board.until(lambda d: abs(d["tracks"]["track-2"]["path"][0]["y"] - before - 30) < 60 and len(d["tracks"]) == 3)
    page.keyboard.press("Delete")
    board.until(lambda d: len(d["tracks"]) == 1)


def test_throwing_a_turnout_shows_which_rails_are_live(bench: Page) -> None:
    page = bench
    page.get_by_role("button", name=re.compile("^Track")).first.click()
    page.get_by_role("radio", name="Phase").click()
    expect(page.get_by_test_id("rails-phase")).to_be_visible()
    turnout = page.locator('[data-thing="node:T50"]')
    expect(turnout).to_have_attribute("data-lies", "through")
    page.keyboard.press("o")
    turnout.click()
    expect(turnout).to_have_attribute("data-lies", "diverging")
    page.keyboard.press("Control+z")
    expect(turnout).to_have_attribute("data-lies", "through")


def test_two_windows_on_one_layout_lose_nothing(board: Board, browser: Browser, base_url: str) -> None:
    other = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
    i = board.page.evaluate(
        "fetch('/api/layouts').then(r => r.json()).then(all => all.find(l => l.name === 'Bench test').id)"
    )
    other.goto(f"{base_url}/?layout={i}#track")
    expect(other.get_by_test_id("plan")).to_have_attribute("aria-busy", "false")
    second = Board(other)
    other.keyboard.press("d")
    expect(other.get_by_test_id("hint")).to_contain_text("Click where the track begins")
    board.lay([(200, 1000), (2600, 1000)])
    second.click(200, 1200)
    second.click(2600, 1200)
    other.keyboard.press("Enter")
    board.until(lambda d: len(d["tracks"]) == 3)
    other.reload()
    expect(other.get_by_test_id("plan")).to_have_attribute("aria-busy", "false")
    assert len(second.document()["tracks"]) == 3, "and nothing is lost on reload"
    other.context.close()


def test_a_drawing_taken_in_with_a_report(bench: Page) -> None:
    page = bench
    dxf = page.evaluate("fetch('/api/layouts/gannet-bay/plan-files/plan.dxf').then(r => r.text())")
    board = start(page, "From a drawing")
    page.get_by_role("button", name="Drawings in and out").click()
    page.get_by_label("Drawing file").set_input_files(
        {"name": "club.dxf", "mimeType": "image/vnd.dxf", "buffer": dxf.encode()}
    )
    dialog = page.get_by_role("dialog")
    for layer in ("BOARDS", "FEEDERS", "GAPS", "RUNS"):
        dialog.get_by_label(re.compile(f"^{layer}")).uncheck()
    dialog.get_by_role("button", name="Take it in").click()
    expect(page.get_by_test_id("taken")).to_contain_text("53 tracks, 9 joints, 24 turnouts")
    dialog.get_by_role("button", name="Done").click()
    board.until(lambda d: len(d["tracks"]) == 53)
    page.get_by_label("Drawing file").set_input_files(
        {"name": "x.dxf", "mimeType": "text/plain", "buffer": b"nonsense"}
    )
    expect(page.get_by_role("alert")).to_contain_text("cannot be read as DXF")


def test_the_story_by_keyboard_alone(bench: Page) -> None:
    """From the demo: find the step, read the places, make the dead track live, undo, all without the mouse."""
    page = bench
    page.keyboard.press("Control+k")
    page.get_by_role("combobox", name="Find or do").fill("Go to Reverse")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("places")).to_contain_text("all settled")
    page.keyboard.press("p")
    expect(page.get_by_test_id("rails-phase")).to_be_visible()
    page.keyboard.press("r")
    expect(page.get_by_test_id("rails-reversing")).to_be_visible()
    page.keyboard.press("Control+k")
    page.get_by_role("combobox", name="Find or do").fill("Tool: Gap, both")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("hint")).to_contain_text("Click where both rails are to be cut")
    page.keyboard.press("Escape")
    mend = page.get_by_test_id("dead-track").get_by_role("button", name="Mend it…")
    mend.focus()
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="Make this change")).to_be_enabled()
    page.get_by_role("button", name="Make this change").focus()
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("dead-track")).to_have_count(0)
    page.keyboard.press("Control+z")
    expect(page.get_by_test_id("dead-track")).to_be_visible()


def test_a_new_layout_wants_a_name(bench: Page) -> None:
    page = bench
    page.get_by_role("button", name="Brief").first.click()
    page.get_by_role("button", name="New layout…").click()
    page.get_by_role("button", name="Start drawing").click()
    expect(page.get_by_role("alert")).to_contain_text("Give the layout a name")


def test_the_section_table_shows_on_the_plan_and_sorts(bench: Page) -> None:
    page = bench
    page.get_by_role("button", name=re.compile("^Reverse")).first.click()
    table = page.get_by_test_id("sections")
    expect(table).to_contain_text("reversing, not cut off")
    table.get_by_role("button", name="Track", exact=True).click()
    expect(table.get_by_role("row").nth(1)).to_contain_text("Shed road")
    table.get_by_role("button", name="Staging loop").click()
    expect(page.get_by_test_id("inspector")).to_contain_text("Longest train let in")
    page.get_by_label("Longest train let in").fill("5 ft")
    page.keyboard.press("Enter")
    expect(table).to_contain_text("5 ft")


def test_a_swapped_feeder_lights_the_rails_from_feeder_to_feeder(bench: Page) -> None:
    page = bench
    swap = """async () => {
      const s = await (await fetch('/api/layouts/gannet-bay')).json();
      const value = s.document.feeders.F61.a_rail === 'left' ? 'right' : 'left';
      await fetch('/api/layouts/gannet-bay', {
        method: 'PATCH',
        headers: {'Content-Type': 'application/json', 'If-Match': '"' + s.revision + '"'},
        body: JSON.stringify({summary: 'Swap F61', patch: [{op: 'replace', path: '/feeders/F61/a_rail', value}]}),
      });
    }"""
    page.evaluate(swap)
    page.reload()
    page.get_by_role("button", name=re.compile("^Track")).first.click()
    findings = page.get_by_test_id("findings")
    expect(findings).to_contain_text("Feeder F61 on Staging throat, east is the other way round than its neighbours")
    findings.get_by_role("button", name=re.compile("^Show: Feeder F61")).click()
    expect(page.get_by_test_id("proof")).to_be_attached()
    expect(page.get_by_role("radio", name="Phase")).to_be_checked()
    findings.get_by_role("button", name="Swap the wires of F61…").click()
    page.get_by_role("button", name="Make this change").click()
    expect(findings).not_to_contain_text("F61")


def test_drawing_by_numbers_from_the_keyboard(bench: Page) -> None:
    """A straight, a curve going on from it, and a gap and a feeder's refusal at a place walked to."""
    page = bench
    board = start(page, "By numbers", "N")
    form = page.get_by_role("region", name="New track is")
    form.get_by_label("length").fill("3 ft")
    page.keyboard.press("Enter")
    document = board.until(lambda d: len(d["tracks"]) == 1)
    assert document["tracks"]["track-1"]["path"][1]["x"] == pytest.approx(914.4)
    page.keyboard.press("Escape")
    page.keyboard.press("Control+k")
    page.get_by_role("combobox", name="Find or do").fill("Open end J2")
    page.keyboard.press("Enter")
    inspector = page.get_by_test_id("inspector")
    inspector.get_by_label("or radius").fill("11 in")
    inspector.get_by_label("turn, °").fill("ninety")
    page.keyboard.press("Enter")
    expect(inspector.get_by_role("alert")).to_contain_text("turn in degrees")
    inspector.get_by_label("turn, °").fill("90")
    page.keyboard.press("Enter")
    document = board.until(lambda d: len(d["tracks"]) == 2)
    assert document["tracks"]["track-2"]["path"][-1]["y"] == pytest.approx(279.4, abs=0.1)
    expect(inspector).to_contain_text("Open end J3")
    page.keyboard.press("Control+k")
    page.get_by_role("combobox", name="Find or do").fill("Track 1")
    page.keyboard.press("Enter")
    inspector.get_by_role("button", name="Gap here").press("Enter")
    board.until(lambda d: len(d["gaps"]) == 1)
    page.keyboard.press("Control+z")
    board.until(lambda d: len(d["gaps"]) == 0)
