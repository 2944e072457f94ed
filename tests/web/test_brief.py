"""The brief in the browser: names, colours, house rules, layouts of the club file, files in and out."""

from __future__ import annotations

import json
import re

import pytest
from playwright.sync_api import Page, expect

from tests.layouts import feeder, plain
from tests.web.test_story import bench, settled  # noqa: F401  (a fixture)


@pytest.fixture
def brief(bench: Page) -> Page:  # noqa: F811
    bench.get_by_role("button", name=re.compile("^Brief")).click()
    expect(bench.get_by_role("heading", name="House rules")).to_be_visible()
    return bench


def saved(page: Page, change: int) -> None:
    expect(page.get_by_test_id("saved")).to_contain_text(f"change {change}")


def test_name_club_and_volts(brief: Page) -> None:
    page = brief
    page.get_by_label("Name", exact=True).fill("Gannet Bay & Moors")
    page.keyboard.press("Tab")
    saved(page, 2)
    expect(page.get_by_role("banner")).to_contain_text("Gannet Bay & Moors")
    page.get_by_label("Track volts").fill("16")
    page.keyboard.press("Enter")
    saved(page, 3)
    page.get_by_label("Track volts").fill("lots")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("not a voltage")
    page.get_by_label("Name", exact=True).fill("")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert").filter(has_text="must not be empty")).to_be_visible()
    saved(page, 3)
    page.get_by_role("button", name=re.compile("^Wire ?,")).click()
    settled(page)
    expect(page.get_by_test_id("point-facts")).to_contain_text("of 16.0 V")


def test_colours_reach_the_wire_table(brief: Page) -> None:
    page = brief
    page.get_by_label("Main west, conductor A").fill("pink/white")
    page.keyboard.press("Enter")
    saved(page, 2)
    page.get_by_label("Main west, conductor B").fill("Bright Pink!")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_be_visible()
    page.get_by_role("button", name=re.compile("^Wire ?,")).click()
    page.get_by_role("button", name="Wire table").click()
    expect(page.locator("[data-row='run:W1']")).to_contain_text("pink/white · black")
    expect(page.get_by_label("Wire to buy")).to_contain_text("pink/white")


def test_lengths_of_rules_are_typed_in_either_world(brief: Page) -> None:
    page = brief
    rule = page.get_by_label("Longest feeder, thicker than 20 AWG")
    rule.fill("70 cm")
    rule.press("Enter")
    saved(page, 2)
    expect(rule).to_have_value("2' 3 1/2\"")
    page.get_by_role("radio", name="m · mm²").click()
    saved(page, 3)
    expect(rule).to_have_value("700 mm")
    rule.fill("-3")
    rule.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("cannot be negative")


def test_inductance_can_be_left_out(brief: Page) -> None:
    page = brief
    page.get_by_label("Count the inductance").click()  # it shows once the edits before it are saved
    expect(page.get_by_label("Count the inductance")).not_to_be_checked()
    saved(page, 2)
    page.get_by_role("button", name=re.compile("^Wire ?,")).click()
    settled(page)
    expect(page.locator("[data-finding^='apart:']")).to_have_count(0)
    expect(page.get_by_label("Where the volts go")).not_to_contain_text("Inductance")


def test_a_layout_file_goes_out_and_comes_back_as_another_layout(brief: Page) -> None:
    page = brief
    with page.expect_download() as download:
        page.get_by_role("link", name="Layout file").click()
    text = download.value.path().read_text("utf-8")
    assert json.loads(text)["name"] == "Gannet Bay & Uplands"
    d = plain()
    feeder(d, "F1", "t", 100, "T1")
    small = d.plain().model_dump_json().encode()
    page.get_by_label("Layout file").set_input_files(
        {"name": "s.json", "mimeType": "application/json", "buffer": small}
    )
    expect(page.get_by_role("banner")).to_contain_text("Plain")
    expect(page.get_by_role("button", name="Gannet Bay & Uplands")).to_be_enabled()
    page.get_by_role("button", name=re.compile("^Wire ?,")).click()
    settled(page)
    expect(page.get_by_label("Where the volts go")).to_contain_text("Test train")
    page.get_by_role("button", name=re.compile("^Brief")).click()
    page.get_by_role("button", name="Gannet Bay & Uplands").click()
    expect(page.get_by_role("banner")).to_contain_text("Gannet Bay & Uplands")


@pytest.mark.parametrize(
    ("content", "says"),
    [
        (b"not json", "not readable as JSON"),
        (b"[1, 2]", "one object with named fields"),
        (b'{"name": "x", "tracks": {"t": {}}}', "missing"),
    ],
)
def test_a_bad_file_says_where_and_why_and_changes_nothing(brief: Page, content: bytes, says: str) -> None:
    page = brief
    page.get_by_label("Layout file").set_input_files(
        {"name": "bad.json", "mimeType": "application/json", "buffer": content}
    )
    expect(page.get_by_role("alert")).to_contain_text(says)
    expect(page.get_by_role("banner")).to_contain_text("Gannet Bay & Uplands")


def test_devices_terminals_and_tracks_are_changed_where_they_stand(bench: Page) -> None:  # noqa: F811
    from tests.web.test_story import find

    page = bench
    inspector = page.get_by_test_id("inspector")
    find(page, "booster 1")
    inspector.get_by_label("Inside resistance").fill("100 mΩ")
    page.keyboard.press("Enter")
    saved(page, 2)
    expect(page.get_by_label("Where the volts go")).to_contain_text("−0.30 V")
    find(page, "quarry loader")
    inspector.get_by_label("Joiners").select_option("soldered")
    saved(page, 3)
    expect(page.locator("[data-finding^='coin:quarry']")).to_have_count(0)
    inspector.get_by_label("Measured, one rail, per m").fill("300 mΩ")
    page.keyboard.press("Enter")
    saved(page, 4)
    inspector.get_by_label("Rail code").fill("fat")
    page.keyboard.press("Enter")
    expect(inspector.get_by_role("alert")).to_be_visible()
    page.get_by_role("button", name="Fit the whole plan").click()
    page.locator("[data-thing='terminal:T5']").click()
    inspector.get_by_label("Kind").select_option("tap")
    saved(page, 5)
