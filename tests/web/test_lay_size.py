"""Step Wire in a real browser: the railroad laid by a school, then sized, from spools typed in."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.web.test_drawing import Board
from tests.web.test_story import bench as bench


def panel(page: Page, name: str) -> None:
    page.get_by_role("radio", name=name).click()


def test_laid_anew_then_sized(bench: Page) -> None:
    page = bench
    panel(page, "Lay it")
    lay = page.get_by_test_id("lay")
    lay.get_by_label("Feeders").select_option("every 3 ft")
    expect(lay).to_contain_text("those who trust no joiner")
    lay.get_by_label("Terminals").select_option("lever")
    lay.get_by_label("Lay again what is wired already").check()
    lay.get_by_role("button", name="Lay it").focus()
    page.keyboard.press("Enter")
    sheet = page.get_by_role("dialog")
    expect(sheet).to_contain_text("Feeder F72 fights the reverser", timeout=30_000)
    expect(sheet).to_contain_text(re.compile(r"feeders more, \d+ in all"))
    sheet.get_by_role("button", name="Make this change").click()
    board = Board(page)
    document = board.until(lambda d: len(d["feeders"]) > 110)
    assert {t["kind"] for t in document["terminals"].values() if document["runs"][t["run"]]["circuit"] == "east"} == {
        "lever"
    }
    lay.get_by_label("Lay again what is wired already").uncheck()
    lay.get_by_role("button", name="Lay it").click()
    expect(lay.get_by_role("alert")).to_contain_text("All of it is laid", timeout=30_000)

    panel(page, "Size it")
    size = page.get_by_test_id("size")
    size.get_by_label("Hold").select_option("0.1")
    size.get_by_role("button", name="Size it").click()
    expect(size).to_contain_text("All wire:", timeout=60_000)
    expect(size).to_contain_text(re.compile("none is cheaper; [0-9]+ designs tried"))
    size.get_by_role("button", name="Make it…").click()
    page.get_by_role("dialog").get_by_role("button", name="Make this change").click()
    expect(size).not_to_contain_text("All wire:")
    page.keyboard.press("Control+z")
    page.keyboard.press("Control+z")
    board.until(lambda d: len(d["feeders"]) == 82)


def test_spools_typed_in_are_what_there_is_to_choose_from(bench: Page) -> None:
    page = bench
    panel(page, "Size it")
    spools = page.get_by_test_id("spools")
    expect(spools).to_contain_text("None entered")
    for gauge in ("18 AWG", "12 AWG"):
        spools.get_by_label("Gauge of the spool").select_option(gauge)
        spools.get_by_role("button", name="Add a spool").click()
        expect(spools.locator(f'[data-spool="{gauge}"]')).to_be_visible()
    heavy = spools.locator('[data-spool="12 AWG"]')
    heavy.get_by_label("Price").fill("dear")
    page.keyboard.press("Enter")
    expect(heavy.get_by_role("alert")).to_contain_text("A price")
    heavy.get_by_label("Price").fill("0.30")
    page.keyboard.press("Enter")
    expect(heavy.get_by_role("alert")).to_have_count(0)
    heavy.get_by_label("On hand").fill("100 ft")
    page.keyboard.press("Enter")
    document = Board(page).until(lambda d: any(s["on_hand"] for s in d["spools"].values()))
    (spool,) = [s for s in document["spools"].values() if s["gauge"] == "12 AWG"]
    assert spool["on_hand"] == pytest.approx(30480) and spool["price"] == pytest.approx(0.30 / 0.3048)
    size = page.get_by_test_id("size")
    size.get_by_role("button", name="Size it").click()
    expect(size).to_contain_text(re.compile("in money|Size it again"), timeout=60_000)
    if "Size it again" in size.inner_text():  # the last change came in while it was weighed
        size.get_by_role("button", name="Size it").click()
    expect(size).to_contain_text("in money", timeout=60_000)
    rows = size.locator("tbody tr").filter(has_text=re.compile("Main (west|east)"))
    expect(rows).to_have_count(2)
    for n in range(2):
        expect(rows.nth(n)).to_contain_text("12 AWG")
    heavy.get_by_role("button", name=re.compile("^Take the spool")).click()
    expect(heavy).to_have_count(0)


def test_the_signal_at_the_end_of_a_bus(bench: Page) -> None:
    page = bench
    panel(page, "Waveform")
    signal = page.get_by_test_id("waveform")
    verdict = page.get_by_test_id("verdict")
    expect(verdict).to_contain_text("through zero", timeout=20_000)
    expect(signal.get_by_role("img")).to_have_attribute("aria-label", re.compile("Volts at the end of bus W1"))
    signal.get_by_label("with a filter at its end").check()
    expect(verdict).not_to_contain_text("through zero")
    signal.get_by_label("The two wires lie").select_option("twisted")
    expect(verdict).to_contain_text("It peaks at up to")
    signal.locator("select").first.select_option("Y1")
    expect(signal.get_by_role("img")).to_have_attribute("aria-label", re.compile("bus Y1"))
    expect(page.get_by_test_id("inspector")).to_contain_text("Bus Y1")
