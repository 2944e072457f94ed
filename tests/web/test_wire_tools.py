"""Wire nudged with the mouse: a bus bent round a brace, terminals and plugs on it, a feeder tied elsewhere, a filter at
its end."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.web.test_drawing import Board, start
from tests.web.test_story import bench as bench
from tests.web.test_story import find


@pytest.fixture
def board(bench: Page) -> Board:
    """A track, a source with a bus of 2 m below it, and a feeder."""
    board = start(bench, "Wire", "HO")
    board.lay([(200, 500), (2400, 500)])
    board.tool("Source")
    board.click(200, 900)
    board.tool("Bus")
    board.click(200, 900)
    board.click(2200, 900)
    bench.keyboard.press("Enter")
    board.until(lambda d: len(d["runs"]) == 1)
    board.tool("Feeder")
    board.click(700, 500)
    board.until(lambda d: len(d["feeders"]) == 1)
    return board


def test_a_bus_bent_round_a_brace_with_a_terminal_and_a_plug_on_it(board: Board) -> None:
    page = board.page
    board.tool("Obstacle")
    board.click(1000, 800)
    board.click(1200, 1000)
    page.keyboard.press("Enter")
    document = board.until(lambda d: len(d["obstacles"]) == 1)
    assert next(iter(document["obstacles"].values()))["name"] == "Brace 1"
    find(page, "go to wire")
    expect(page.get_by_test_id("findings")).to_contain_text("Bus R1 goes through Brace 1")
    find(page, "go to track")
    page.keyboard.press("s")
    board.click(600, 900)
    expect(page.get_by_test_id("inspector")).to_contain_text("Bus R1")
    expect(page.get_by_test_id("run-bend")).to_have_count(2)
    board.drag((1200, 900), (1100, 1250))
    document = board.until(lambda d: len(d["runs"]["R1"]["path"]) == 3)
    assert abs(document["runs"]["R1"]["path"][1]["y"] - 1250) < 25
    find(page, "go to wire")
    expect(page.get_by_test_id("findings")).not_to_contain_text("Bus R1 goes through Brace 1")
    find(page, "go to track")
    before = len(document["terminals"])
    board.tool("Terminal")
    board.click(480, 1010)
    document = board.until(lambda d: len(d["terminals"]) == before + 1)
    board.tool("Plug")
    board.click(1700, 1060)
    board.until(lambda d: len(d["plugs"]) == 1)
    board.click(1700, 300)
    expect(page.get_by_role("status")).to_contain_text("Click on a bus.")
    page.get_by_role("button", name="Undo").click()
    board.until(lambda d: len(d["plugs"]) == 0)


def test_what_is_typed_of_a_wire_a_terminal_and_a_brace(board: Board) -> None:
    page = board.page
    inspector = page.get_by_test_id("inspector")
    find(page, "feeder F1")
    expect(inspector).to_contain_text("Feeder F1")
    field = inspector.get_by_label("Cut already, each wire to")
    field.fill("100 mm")
    field.press("Enter")
    board.until(lambda d: d["feeders"]["F1"]["cut"] == 100)
    inspector.get_by_label("Label").fill("YARD 1")
    page.keyboard.press("Enter")
    board.until(lambda d: d["feeders"]["F1"]["label"] == "YARD 1")
    find(page, "go to wire")
    expect(page.get_by_test_id("findings")).to_contain_text("Feeder YARD 1 is cut to")
    find(page, "terminal T1")
    pairs = inspector.get_by_label("Pairs of wires it takes")
    pairs.fill("many")
    pairs.press("Enter")
    expect(inspector.get_by_role("alert")).to_contain_text("A whole number from 1 to 99.")
    pairs.fill("2")
    pairs.press("Enter")
    board.until(lambda d: d["terminals"]["T1"]["pairs"] == 2)


def test_a_filter_put_on_and_taken_off(board: Board) -> None:
    page = board.page
    find(page, "go to wire")
    page.get_by_role("radio", name="Waveform").click()
    here = page.get_by_test_id("filter")
    here.get_by_role("button", name="Put a filter at its end, rated 2 W").click()
    expect(here).to_contain_text("100 Ω rated 2 W, with 0.1 µF; it gives off 0.71 W here")
    assert board.document()["runs"]["R1"]["filter"]["watts"] == 2
    here.get_by_role("button", name="Take it off").click()
    expect(here.get_by_role("button", name="Put a filter at its end, rated 2 W")).to_be_visible()
    assert board.document()["runs"]["R1"]["filter"] is None


def test_a_bus_is_closed_into_a_ring_and_opened_again(bench: Page, base_url: str) -> None:
    page = bench
    page.goto(f"{base_url}/l/gannet-bay/wire?scene=open-day&thing=run:W1")
    ring = page.get_by_test_id("ring")
    ring.get_by_role("button", name="As a ring…").press("Enter")
    expect(ring).to_contain_text("10.9 V", timeout=20_000)
    expect(ring.get_by_role("row", name=re.compile("^Lowest at the wheel"))).to_contain_text("12.3 V")
    ring.get_by_role("button", name="Close it…").click()
    sheet = page.get_by_role("dialog")
    expect(sheet).to_contain_text("Close bus W1 to a ring")
    sheet.get_by_label("Why, kept as a decision").fill("")
    sheet.get_by_role("button", name="Make this change").click()
    board = Board(page)
    board.until(lambda d: any(r["ends_at_terminal"] for r in d["runs"].values()))
    page.keyboard.press("Control+z")
    board.until(lambda d: not any(r["ends_at_terminal"] for r in d["runs"].values()))
    notes = page.request.get(f"{base_url}/api/layouts/gannet-bay/notes").json()["notes"]
    assert not [n for n in notes if "ring" in n["text"]], "struck out, it is no decision"
