"""Step Zones in a real browser: the one-line diagram, new districts, painting track."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.web.test_drawing import Board
from tests.web.test_story import bench as bench


def test_the_one_line_diagram_follows_the_plan(bench: Page) -> None:
    page = bench
    page.get_by_role("button", name=re.compile("^Zones")).first.click()
    diagram = page.get_by_test_id("one-line")
    expect(
        diagram.get_by_role(
            "button", name=re.compile("Breaker Main west, 3.05 A of 4.00 A|Breaker Main west, 3.05 A of 4 A")
        )
    ).to_be_visible()
    diagram.get_by_role("button", name=re.compile("^Breaker Harbour yard")).click()
    inspector = page.get_by_test_id("inspector")
    expect(inspector).to_contain_text("Breaker Harbour yard")
    inspector.get_by_label("Trips at").fill("0.5 A")
    page.keyboard.press("Enter")
    expect(
        diagram.get_by_role("button", name=re.compile("^Breaker Harbour yard, 970 mA of 500 mA, too much"))
    ).to_be_visible()
    inspector.get_by_label("Opens after").fill("soon")
    page.keyboard.press("Enter")
    expect(inspector.get_by_role("alert")).to_contain_text("such as 50 ms")
    inspector.get_by_label("Opens after").fill("400 ms")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("findings")).to_contain_text("Breaker Harbour yard needs 400 ms")
    inspector.get_by_label("Takes power from").select_option("Booster 1")
    expect(
        diagram.get_by_role("button", name=re.compile("^Booster 2, 600 mA|^Booster 2, [0-9.]+ m?A of 5"))
    ).to_be_visible()


def test_a_new_district_and_track_painted_into_it(bench: Page) -> None:
    page = bench
    page.get_by_role("button", name=re.compile("^Zones")).first.click()
    districts = page.get_by_role("region", name="Districts")
    districts.get_by_role("button", name="Add it").click()
    expect(districts.get_by_role("alert")).to_contain_text("Give the district a name")
    districts.get_by_label("New district").fill("Carriage works")
    districts.get_by_label("fed from").select_option("Booster 2")
    districts.get_by_role("button", name="Add it").click()
    expect(page.get_by_test_id("one-line")).to_contain_text("Breaker Carriage works")
    districts.get_by_role("button", name="Carriage works").click()
    board = Board(page)
    board.click(11800, 2950)
    document = board.until(lambda d: d["sections"]["bridge-down"]["circuit"] not in ("east",))
    assert document["circuits"][document["sections"]["bridge-down"]["circuit"]]["name"] == "Carriage works"
    page.keyboard.press("Escape")
    page.keyboard.press("Control+z")
    board.until(lambda d: d["sections"]["bridge-down"]["circuit"] == "east")


def test_a_boosters_figures_as_labelled_and_as_measured(bench: Page) -> None:
    page = bench
    page.get_by_role("button", name=re.compile("^Zones")).first.click()
    diagram = page.get_by_test_id("one-line")
    expect(page.get_by_test_id("findings")).to_contain_text("Booster 3 has no reference wire")
    page.get_by_role("button", name="Taller").click()
    diagram.get_by_role("button", name=re.compile("^Booster 3")).click()
    inspector = page.get_by_test_id("inspector")
    inspector.get_by_label("Tied to the floating reference wire").click()  # it shows once the edits before it are saved
    expect(inspector.get_by_label("Tied to the floating reference wire")).to_be_checked()
    expect(page.get_by_test_id("findings")).not_to_contain_text("Booster 3 has no reference wire")
    inspector.get_by_label("Tries again after").fill("2 s")
    page.keyboard.press("Enter")
    inspector.get_by_label("Lets through at start").fill("1 A")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("findings")).to_contain_text("Booster 3 lets 1 A through; after a trip")
    expect(page.get_by_test_id("findings")).to_contain_text("It tries again after 2 s")
    inspector.get_by_label("Amps measured").fill("1.2 A")
    page.keyboard.press("Enter")
    expect(diagram.get_by_role("button", name=re.compile("^Booster 3, 1.44 A of 1.20 A, too much"))).to_be_visible()
    inspector.get_by_label("Volts, measured").fill("a few")
    page.keyboard.press("Enter")
    expect(inspector.get_by_role("alert")).to_be_visible()
    document = Board(page).document()["devices"]["booster3"]
    assert (
        document["recovery_seconds"] == 2
        and document["inrush_amps"] == 1
        and document["measured_amps"] == pytest.approx(1.2)
    )
    assert document["measured_volts"] is None and document["reference"]


def test_what_a_device_takes_with_it_when_it_goes(bench: Page) -> None:
    page = bench
    page.get_by_role("button", name=re.compile("^Zones")).first.click()
    page.get_by_test_id("one-line").get_by_role("button", name=re.compile("^Breaker Main west")).click()
    page.get_by_test_id("inspector").get_by_role("button", name="Take this breaker away").click()
    board = Board(page)
    document = board.until(lambda d: "K1" not in d["devices"])
    assert "W1" not in document["runs"] and "west" in document["circuits"]
    expect(page.get_by_test_id("inspector")).to_have_count(0)
    page.keyboard.press("Control+z")
    board.until(lambda d: "K1" in d["devices"] and "W1" in d["runs"])
