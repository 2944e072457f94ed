"""Figures a lead reads and types: a part measured by itself, what wire this is, a scope's reading, returns in common,
dead track."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.web.test_drawing import Board
from tests.web.test_story import bench as bench
from tests.web.test_story import find


def test_a_part_measured_by_itself_changes_the_staircase_and_is_forgotten_again(bench: Page) -> None:
    page, board = bench, Board(bench)
    find(page, "feeder F1")
    parts = page.get_by_test_id("measured-parts")
    parts.get_by_role("button", name="Add a reading…").focus()
    page.keyboard.press("Enter")
    expect(parts.get_by_label("What")).to_be_focused()
    parts.get_by_label("Reads").fill("much")
    page.keyboard.press("Enter")
    expect(parts.get_by_role("alert")).to_be_visible()
    assert not board.document().get("measured")
    parts.get_by_label("Reads").fill("40 mΩ")
    page.keyboard.press("Enter")
    document = board.until(lambda d: len(d["measured"]) == 1)
    (part,) = document["measured"].values()
    assert part["of"] == "F1" and part["ohms"] == 0.04 and re.fullmatch(r"\d{4}-\d\d-\d\d", part["on"])
    expect(parts).to_contain_text("40 mΩ")
    expect(parts.get_by_role("button", name="Add a reading…")).to_be_focused()
    page.reload()
    expect(page.get_by_test_id("spot")).to_be_visible()
    find(page, "feeder F1")
    expect(parts).to_contain_text("40 mΩ")
    parts.get_by_role("button", name=re.compile("^Forget")).click()
    board.until(lambda d: not d["measured"])
    page.keyboard.press("Control+z")
    board.until(lambda d: len(d["measured"]) == 1)


def test_what_wire_is_this(bench: Page) -> None:
    page = bench
    page.get_by_role("button", name=re.compile("^Quick sums")).first.click()
    told = page.get_by_test_id("wire-answer")
    expect(told).to_contain_text("16 AWG")
    expect(told).to_contain_text("fixture wire")
    page.get_by_role("textbox", name="Strands").fill("many")
    expect(page.get_by_text("A whole number from 1 to 5000.")).to_be_visible()
    page.get_by_role("radiogroup", name="Told by").get_by_role("radio", name="ohms").click()
    page.get_by_label("The meter reads").fill("166 mΩ")
    page.get_by_label("Length of the cable").fill("10 m")
    expect(told).to_contain_text("14 AWG")


def test_a_scopes_reading_is_kept_and_compared(bench: Page) -> None:
    page, board = bench, Board(bench)
    page.get_by_role("button", name=re.compile("^Wire")).first.click()
    page.get_by_role("radio", name="Waveform").click()
    signal = page.get_by_test_id("waveform")
    measured = signal.get_by_label("Measured there, peak to peak")
    measured.fill("48 V")
    page.keyboard.press("Enter")
    board.until(lambda d: any(r["peak_to_peak"] == 48 for r in d["runs"].values()))
    expect(signal).to_contain_text("48 V")
    page.reload()
    page.get_by_role("radio", name="Waveform").click()
    expect(signal.get_by_label("Measured there, peak to peak")).to_have_value("48 V")


def test_a_district_returns_over_another(bench: Page) -> None:
    page, board = bench, Board(bench)
    page.get_by_role("button", name=re.compile("^Zones")).first.click()
    districts = page.get_by_role("region", name="Districts")
    districts.get_by_role("button", name="Main east").click()
    districts.get_by_label("Its wire B is").select_option("Main west")
    board.until(lambda d: "west" in {c.get("return_of") for c in d["circuits"].values()})
    expect(districts.get_by_label("Its wire B is")).to_have_value("Main west")
    page.keyboard.press("Control+z")
    board.until(lambda d: not any(c.get("return_of") for c in d["circuits"].values()))


def test_the_label_is_read_and_the_guess_is_gone(bench: Page) -> None:
    """A new source starts with guesses, is told so beside its figures, and once it is settled is told no longer."""
    page, board = bench, Board(bench)
    page.get_by_role("button", name=re.compile("^Track")).first.click()
    board.tool("Source")
    board.click(12000, 600)
    document = board.until(lambda d: any(x.get("guessed") for x in d["devices"].values()))
    new = next(i for i, x in document["devices"].items() if x.get("guessed"))
    page.keyboard.press("Escape")
    find(page, document["devices"][new]["name"])
    inspector = page.get_by_test_id("inspector")
    expect(inspector).to_contain_text("guess")
    inspector.get_by_role("button", name=re.compile("on its label")).click()
    board.until(lambda d: not d["devices"][new]["guessed"])
