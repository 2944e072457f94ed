"""Step Zones in a real browser: the one-line diagram, new districts, painting track."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.web.test_drawing import Board
from tests.web.test_story import bench as bench

pytestmark = pytest.mark.browser


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
