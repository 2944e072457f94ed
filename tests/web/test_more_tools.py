"""The rest of the tools in a real browser: boards, crossings, slips, tables, bumpers, sections, branches of a bus, DXF
behind."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.web.steady import two_frames
from tests.web.test_drawing import Board, start
from tests.web.test_story import bench as bench


@pytest.fixture
def board(bench: Page) -> Board:
    return start(bench, "Tools", "HO")


def kinds(board: Board) -> list[str]:
    return sorted(n["kind"] for n in board.document()["nodes"].values())


def test_a_board_drawn_shaped_named_and_copied_with_its_track(board: Board) -> None:
    page = board.page
    board.tool("Board")
    board.click(100, 200)
    board.click(1500, 900)
    page.keyboard.press("Enter")
    document = board.until(lambda d: len(d["boards"]) == 1)
    assert len(document["boards"]["board1"]["outline"]) == 4
    board.tool("Track")
    board.lay([(200, 500), (1400, 500)])
    board.lay([(700, 500), (1000, 600), (1350, 750)])
    page.keyboard.press("s")
    board.click(200, 820)
    inspector = page.get_by_test_id("inspector")
    inspector.get_by_label("Name").fill("Peat works")
    page.keyboard.press("Enter")
    inspector.get_by_label("lifts out").click()  # it shows once the edits before it are saved
    expect(inspector.get_by_label("lifts out")).to_be_checked()
    board.until(lambda d: d["boards"]["board1"]["removable"] and d["boards"]["board1"]["name"] == "Peat works")
    corner = board.document()["boards"]["board1"]["outline"][2]
    board.drag((corner["x"], corner["y"]), (1700, 1000))
    board.until(lambda d: abs(d["boards"]["board1"]["outline"][2]["x"] - 1700) < 20)
    inspector.get_by_role("button", name="Copy with its track…").click()
    page.get_by_role("button", name="Mirrored left to right").click()
    document = board.until(lambda d: len(d["boards"]) == 2)
    hands = [n["hand"] for n in document["nodes"].values() if n["kind"] == "turnout"]
    assert sorted(hands) == ["left", "right"] and len(document["tracks"]) == 6


def test_a_choice_is_taken_back_from_where_it_was_made(board: Board) -> None:
    """Letters typed are the field's own to take back; a choice has none, so the change itself goes.

    A list says at each letter typed that it was chosen from, until the page has drawn the choice: it is one change.
    """
    page = board.page
    board.lay([(200, 500), (1400, 500)])
    page.keyboard.press("s")
    board.click(800, 500)
    card = page.get_by_test_id("inspector")
    use = card.get_by_label("Use")
    use.focus()
    page.keyboard.type("yard")
    board.until(lambda d: [t["use"] for t in d["tracks"].values()] == ["yard"])
    expect(use).to_be_focused()
    page.keyboard.press("Control+z")
    board.until(lambda d: [t["use"] for t in d["tracks"].values()] == ["main"])
    page.keyboard.press("Control+y")
    board.until(lambda d: [t["use"] for t in d["tracks"].values()] == ["yard"])
    name = card.get_by_label("Name")
    name.focus()
    asked: list[str] = []
    page.on("request", lambda request: asked.append(request.url))
    page.keyboard.press("Control+z")
    two_frames(page)
    assert not [url for url in asked if "/undo" in url]
    layout = page.url.split("/l/")[1].split("/")[0]
    history = page.evaluate(f"fetch('/api/layouts/{layout}/history').then((got) => got.json())")
    assert [(h["kind"], h["summary"]) for h in history[:3]] == [
        (kind, "Track 1: yard") for kind in ("redo", "undo", "edit")
    ]
    assert history[3]["summary"] != "Track 1: yard"
    assert [t["use"] for t in board.document()["tracks"].values()] == ["yard"]


def test_a_crossing_made_a_slip_and_a_bumper(board: Board) -> None:
    page = board.page
    board.lay([(200, 600), (2200, 600)])
    board.lay([(900, 200), (1500, 1000)])
    board.tool("Crossing")
    board.click(1200, 600)
    board.until(lambda d: "crossing" in {n["kind"] for n in d["nodes"].values()})
    inspector = page.get_by_test_id("inspector")
    inspector.get_by_role("button", name="Make it a slip").click()
    board.until(lambda d: "slip" in {n["kind"] for n in d["nodes"].values()})
    board.tool("Slip")
    board.click(400, 1400)
    expect(page.get_by_role("status")).to_contain_text("Click where two tracks cross")
    page.keyboard.press("s")
    board.click(2200, 600)
    inspector.get_by_role("button", name="Put a bumper here").click()
    board.until(lambda d: "bumper" in {n["kind"] for n in d["nodes"].values()})


def test_a_turntable_with_its_lead_and_roads_and_its_advice(board: Board) -> None:
    page = board.page
    board.tool("Turntable")
    asked = page.get_by_test_id("bridge-asked")
    expect(asked).to_contain_text("How is its bridge fed?")
    assert asked.get_by_role("radio", checked=True).count() == 0, "nothing is taken for granted"
    board.click(1600, 1000)
    expect(page.get_by_role("status")).to_contain_text("Say first how its bridge is fed")
    assert "turntable" not in {n["kind"] for n in board.document()["nodes"].values()}
    asked.get_by_role("radio", name=re.compile("The stub it meets")).check()
    board.click(1600, 1000)
    board.until(lambda d: "turntable" in {n["kind"] for n in d["nodes"].values()})
    board.tool("Track")
    for start_at in ((300, 1000), (2900, 1000), (2700, 1700)):
        before = len(board.document()["tracks"])
        board.click(*start_at)
        board.click(1600, 1000)
        board.until(lambda d, n=before: len(d["tracks"]) == n + 1)
    ends = [t["b"]["port"] for t in board.document()["tracks"].values()]
    assert ends == ["stub1", "stub2", "stub3"]
    page.get_by_role("button", name=re.compile("^Reverse")).first.click()
    expect(page.get_by_test_id("places")).to_contain_text("Every stub of Turntable wants its own feeders")
    page.get_by_test_id("places").get_by_role("button", name="Show").last.click()
    bridge = page.get_by_test_id("inspector").get_by_label("Bridge fed by")
    expect(bridge).to_have_value("aligned stub")
    bridge.select_option("reverser")
    expect(page.get_by_test_id("places")).to_contain_text("the longest engine must fit on it")


def test_a_three_way_and_a_refusal_in_words(board: Board) -> None:
    page = board.page
    board.lay([(200, 900), (2400, 900)])
    board.lay([(900, 900), (1500, 1100), (2300, 1300)])
    board.click(900, 900)
    board.click(1500, 1250)
    page.keyboard.press("Enter")
    expect(page.get_by_role("status")).to_contain_text(
        "A third track leaves a turnout on the side its diverging leg does not"
    )
    board.click(900, 900)
    board.click(1500, 650)
    page.keyboard.press("Enter")
    board.until(lambda d: "three-way" in {n["kind"] for n in d["nodes"].values()})


def test_sections_named_by_clicking_and_a_branch_of_a_bus(board: Board) -> None:
    page = board.page
    board.lay([(200, 500), (3200, 500)])
    board.tool("Source")
    board.click(300, 1200)
    board.until(lambda d: len(d["devices"]) == 1)
    board.tool("Bus")
    board.click(1500, 1800)
    expect(page.get_by_role("status")).to_contain_text("A bus starts at a source")
    for x, y in ((300, 1200), (3000, 700)):
        board.click(x, y)
    page.keyboard.press("Enter")
    document = board.until(lambda d: len(d["runs"]) == 1)
    where = page.evaluate(
        "fetch('/api/layouts').then(r => r.json()).then(a => fetch('/api/layouts/' + a.find(l => l.name === "
        "'Tools').id + '/answers')).then(r => r.json())"
    )
    post = where["terminals"][sorted(document["terminals"])[0]]
    board.tool("Bus")
    board.click(post["x"], post["y"])
    board.click(post["x"] + 300, post["y"] + 600)
    page.keyboard.press("Enter")
    branch = board.until(lambda d: len(d["runs"]) == 2)["runs"]["R2"]
    assert branch["fed"]["terminal"] in document["terminals"]
    board.tool("Section")
    board.click(1000, 500)
    board.until(lambda d: len(d["sections"]) == 1)
    page.get_by_test_id("inspector").get_by_label("Name").fill("Main line")
    page.keyboard.press("Enter")
    board.until(lambda d: next(iter(d["sections"].values()))["name"] == "Main line")


def test_a_dxf_behind_the_plan_knows_its_scale_and_nonsense_is_refused(board: Board) -> None:
    page = board.page
    dxf = page.evaluate("fetch('/api/layouts/gannet-bay/plan-files/plan.dxf').then(r => r.text())")
    picture = page.get_by_label("Picture file")
    picture.set_input_files({"name": "club.dxf", "mimeType": "application/octet-stream", "buffer": dxf.encode()})
    back = board.until(lambda d: d["backdrop"] is not None)["backdrop"]
    assert back["width"] * back["mm_per_pixel"] == pytest.approx(12000, rel=0.02)
    expect(page.get_by_test_id("backdrop")).to_be_visible()
    picture.set_input_files({"name": "notes.dxf", "mimeType": "application/octet-stream", "buffer": b"shopping list"})
    expect(page.get_by_role("alert")).to_contain_text("PNG, JPEG, WebP, SVG, DXF or PDF")
    page.get_by_role("region", name="Picture to draw over").get_by_role("button", name="Take away").click()
    board.until(lambda d: d["backdrop"] is None)
    page.keyboard.press("Control+z")
    board.until(lambda d: d["backdrop"] is not None)


def test_dc_asks_for_switches_and_three_rail_for_nothing(bench: Page) -> None:
    page = bench
    page.get_by_role("button", name="Brief").first.click()
    page.get_by_role("button", name="New layout…").click()
    dialog = page.get_by_role("dialog", name="New layout")
    dialog.get_by_label("Name").fill("Old DC")
    dialog.get_by_role("radio", name="DC", exact=True).click()
    dialog.get_by_role("button", name="Start drawing").click()
    expect(page.get_by_test_id("hint")).to_contain_text("Click where the track begins")
    board = Board(page)
    board.lay([(300, 1200), (1200, 1200)])
    board.lay([(1200, 1200), (2000, 600), (2800, 1200), (2000, 1800), (1200, 1200)], enter=False)
    page.get_by_role("button", name=re.compile("^Reverse")).first.click()
    expect(page.get_by_test_id("proposals")).to_contain_text("Two reversing switches are wanted")
    page.get_by_role("button", name="Brief").first.click()
    page.get_by_label("Control", exact=True).select_option("three-rail AC")
    page.get_by_role("button", name=re.compile("^Reverse")).first.click()
    expect(page.get_by_test_id("places")).to_contain_text("none of these needs a section")
