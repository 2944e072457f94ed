"""Step Trains in a real browser: kinds, trains, scenes, what they ask of every breaker."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.web.test_drawing import start
from tests.web.test_story import bench as bench


def test_amps_asked_follow_what_is_typed(bench: Page) -> None:
    page = bench
    page.get_by_role("button", name=re.compile("^Trains")).first.click()
    asked = page.get_by_test_id("asked")
    row = asked.get_by_role("row", name=re.compile("Breaker Main west"))
    expect(row).to_contain_text("A")
    before = row.inner_text()
    kind = page.locator('[data-kind="express"]')
    kind.get_by_label("running").fill("2.5 A")
    page.keyboard.press("Enter")
    expect(row).not_to_have_text(before)
    expect(row).to_contain_text("too little")
    kind.get_by_label("running").fill("a lot")
    page.keyboard.press("Enter")
    expect(kind.get_by_role("alert")).to_be_visible()
    kind.get_by_role("button", name="guess").click()
    expect(kind).to_contain_text(re.compile(r"measured \d{4}-\d{2}-\d{2}"))
    kind.get_by_role("button", name=re.compile("^Take")).click()
    expect(page.get_by_role("alert").first).to_contain_text("still pulls")
    page.keyboard.press("Escape")
    page.locator("body").click(position={"x": 640, "y": 5})
    page.keyboard.press("Control+z")
    page.keyboard.press("Control+z")
    expect(row).not_to_contain_text("too little")


def test_a_fleet_and_a_scene_from_nothing(bench: Page) -> None:
    page = bench
    start(page, "Fleet test", "HO")
    page.get_by_role("button", name=re.compile("^Trains")).first.click()
    expect(page.get_by_role("region", name="Kinds of locomotive")).to_contain_text("No locomotives yet")
    page.get_by_role("button", name="with sound").click()
    expect(page.locator("[data-kind]")).to_have_count(1)
    expect(page.locator("[data-kind]").get_by_label("running")).to_have_value("400 mA")
    page.get_by_role("button", name="Add a train").click()
    train = page.locator("[data-train]")
    expect(train).to_contain_text("400 mA running, 140 mA standing, a guess")
    train.get_by_label("Lit cars").fill("5")
    page.keyboard.press("Enter")
    expect(train).to_contain_text("550 mA running")
    page.get_by_role("button", name="New scene").click()
    expect(page.get_by_label("Add a train to the scene")).to_be_disabled()
    page.get_by_role("button", name=re.compile("^Track")).first.click()
    page.keyboard.press("w")
    page.locator("svg.plan").click(position={"x": 300, "y": 300})
    expect(page.get_by_test_id("inspector")).to_contain_text("Booster 1")
    page.get_by_role("button", name=re.compile("^Trains")).first.click()
    page.get_by_label("Add a train to the scene").select_option(label="Train 1")
    expect(page.get_by_test_id("asked")).to_contain_text("550 mA")
    page.get_by_label("Train 1 does").select_option("idling")
    expect(page.get_by_test_id("asked")).to_contain_text("290 mA")


def test_a_fleet_file_in_and_refused(bench: Page) -> None:
    page = bench
    page.get_by_role("button", name=re.compile("^Trains")).first.click()
    head = "what,id,name,idle_amps,running_amps,stall_amps,measured_on\n"
    page.get_by_label("Fleet file").set_input_files(
        {"name": "f.csv", "mimeType": "text/csv", "buffer": (head + "kind,,Loan engine,0.1,0.4,x,\n").encode()}
    )
    expect(page.get_by_role("alert")).to_contain_text("Row 2: stall_amps must be a number")
    page.get_by_label("Fleet file").set_input_files(
        {
            "name": "f.csv",
            "mimeType": "text/csv",
            "buffer": (head + "kind,,Loan engine,0.1,0.4,1,2026-11-20\n").encode(),
        }
    )
    expect(page.locator('[data-kind="loan-engine"]')).to_contain_text("measured 2026-11-20")
