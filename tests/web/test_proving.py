"""The story of the bench in a real browser, and on a phone: proved, learnt, found, practised."""

from __future__ import annotations

import re
from typing import Any

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.web.test_story import bench as bench


@pytest.fixture
def prove(bench: Page, base_url: str) -> Page:
    bench.goto(f"{base_url}/l/gannet-bay/bench")
    bench.get_by_test_id("tests").wait_for()
    return bench


def listed_tests(page: Page) -> list[dict[str, Any]]:
    told: dict[str, Any] = page.evaluate("async () => (await fetch('/api/layouts/gannet-bay/bench')).json()")
    tests: list[dict[str, Any]] = told["tests"]
    return tests


def test_a_wire_that_is_not_sound_is_read_mended_and_read_again(prove: Page) -> None:
    page = prove
    page.get_by_label("Which").select_option("All, while building")
    page.get_by_test_id("tests").get_by_role("button", name=re.compile("^F21, orange wire")).click()
    card = page.get_by_test_id("test")
    expect(card).to_contain_text("post 3 of T22")
    expect(card).to_contain_text("Ohms")
    field = card.get_by_label("What it shows", exact=True)
    expect(field).to_be_focused()
    field.fill("0.9")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("verdict")).to_contain_text("most likely the joint of F21's orange wire")
    expect(page.get_by_test_id("proofs").locator("[data-proof='feeder:F21/A']")).to_be_visible()
    field.fill("14 V")
    page.keyboard.press("Enter")
    expect(card.get_by_role("alert")).to_contain_text("is volts")
    field.fill("0,05 Ω")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("verdict")).to_contain_text("Sound")
    page.keyboard.press("Enter")
    expect(card).to_contain_text("F21, black wire")
    page.reload()
    page.get_by_role("radio", name="Readings").click()
    expect(page.get_by_test_id("readings").get_by_role("row")).to_have_count(3)


def test_readings_teach_and_what_is_measured_is_taken_over(prove: Page) -> None:
    page = prove
    must = [t for t in listed_tests(page) if t["tier"] == "must"]
    readings = [
        {
            "id": f"reading-{n:03d}",
            "test": t["key"],
            "shown": f"{1000 * (t['value'] + (0.5 if t['key'].startswith('load:up-south-2') else 0)):.0f} mV",
            "done": f"{2024 + year}-11-20T20:00:00Z",
        }
        for year in (0, 1)
        for n, t in enumerate(must, start=100 * year)
    ]
    readings.append({"id": "reading-900", "test": "feeder:F21/A", "shown": "0.05", "done": "2026-01-01T00:00:00Z"})
    page.evaluate(
        "async (readings) => (await fetch('/api/layouts/gannet-bay/readings', {method: 'POST', "
        "headers: {'content-type': 'application/json'}, body: JSON.stringify({readings})})).status",
        readings,
    )
    page.reload()
    page.get_by_role("radio", name="Readings").click()
    learned = page.get_by_test_id("learned")
    expect(learned).to_contain_text("34 readings: most likely")
    expect(learned.get_by_role("list", name="Suspects").get_by_role("listitem").first).to_contain_text("%")
    page.get_by_test_id("readings").get_by_role("button", name=re.compile("Up main, south 2")).first.click()
    expect(learned.get_by_role("img", name=re.compile("over the years: 2 readings"))).to_be_visible()
    learned.get_by_role("button", name="What could be taken over").click()
    learned.get_by_role("button", name="Look at the change…").click()
    sheet = page.get_by_role("dialog")
    expect(sheet).to_contain_text("measured values")
    sheet.get_by_role("button", name="Make this change").click()
    expect(page.locator("header").first).to_contain_text("change 2")


def answered(page: Page) -> None:
    """Answer whatever is asked, as if nothing were found, until the first turnout is to be looked at."""
    hunt = page.get_by_test_id("hunt")
    act = hunt.get_by_role("region", name="Do now")
    if act.get_by_label("What the meter shows").count():
        act.get_by_label("What the meter shows").fill("310 mV")
        page.keyboard.press("Enter")
    else:
        act.get_by_role("button").nth(1).click()


def test_the_yard_trips_and_is_found_and_written_up(prove: Page) -> None:
    page = prove
    page.get_by_role("radio", name="Find it").click()
    expect(page.get_by_text("No fault was hunted yet")).to_be_visible()
    form = page.get_by_role("form", name="What is seen")
    form.get_by_label("A train stalls").check()
    form.get_by_role("button", name="Find it").click()
    expect(form.get_by_role("alert")).to_contain_text("Click the place on the plan")
    form.get_by_label("A breaker trips").check()
    form.get_by_label("Whose lamp is out").select_option("Breaker Harbour yard")
    form.get_by_role("button", name="Find it").click()
    hunt = page.get_by_test_id("hunt")
    expect(hunt).to_contain_text("Breaker Harbour yard trips")
    expect(hunt.get_by_role("region", name="Most likely").get_by_role("listitem")).to_have_count(3)
    first = hunt.get_by_role("region", name="Do now").locator("p").first.inner_text()
    answered(page)
    expect(hunt.get_by_text("What was done (1)")).to_be_visible()
    page.reload()
    expect(hunt.get_by_text("What was done (1)")).to_be_visible()
    hunt.get_by_role("button", name="Take back").click()
    expect(hunt.get_by_role("region", name="Do now").locator("p").first).to_have_text(first)
    hunt.get_by_text("Do something else").click()
    hunt.get_by_role("button", name=re.compile("^Look ")).first.click()
    hunt.get_by_role("button", name="That was it").click()
    expect(hunt).to_contain_text("there may be a second fault")
    hunt.get_by_label("What mended it").fill("a screw at the ladder")
    hunt.get_by_role("button", name="It is gone: write it up").click()
    expect(hunt).to_contain_text("Written up")
    expect(page.get_by_test_id("hunts")).to_contain_text("a screw at the ladder")
    expect(page.get_by_role("region", name="What this club suffers from").get_by_role("listitem")).to_have_count(1)


def test_a_drill_is_played_to_its_end_and_shared(prove: Page, base_url: str) -> None:
    page = prove
    page.goto(f"{base_url}/l/gannet-bay/bench/drill?drill=7-easy")
    drill = page.get_by_test_id("drill")
    expect(drill).to_contain_text("Fault no. 7, easy")
    looks = page.get_by_role("region", name="Look and search").get_by_role("button")
    expect(looks.first).to_be_visible()
    for n in range(40):
        if page.get_by_role("region", name="Score").count():
            break
        before = drill.get_by_role("region", name="So far").get_by_role("listitem").count()
        looks.nth(n % looks.count()).click()
        page.wait_for_function(
            "(before) => document.querySelector('[aria-label=Score]') || "
            "(document.querySelectorAll('[aria-label=\"So far\"] li').length > before)",
            arg=before,
        )
    score = page.get_by_role("region", name="Score")
    expect(score).to_contain_text("The best way:")
    expect(score.get_by_role("region", name="The best way, on this fault").get_by_role("listitem")).not_to_have_count(0)
    score.get_by_role("button", name="Enough").click()
    expect(page.get_by_role("button", name="Hide a fault")).to_be_visible()


@pytest.fixture
def phone(browser: Browser, base_url: str) -> Page:
    context = browser.new_context(viewport={"width": 390, "height": 844}, reduced_motion="reduce", locale="en-GB")
    page = context.new_page()
    page.goto(f"{base_url}/under?layout=gannet-bay")
    return page


def test_a_phone_proves_without_a_connection_and_loses_nothing(phone: Page) -> None:
    page = phone
    page.get_by_role("button", name="Prove").click()
    listed = page.get_by_test_id("prove-list").get_by_role("button")
    expect(listed).to_have_count(34)
    listed.nth(3).click()
    expect(page.get_by_text("Sound is")).to_be_visible()
    page.context.set_offline(True)
    page.get_by_label("What the meter shows").fill("1200 mV")
    page.get_by_role("button", name="Keep").click()
    expect(page.get_by_text("1 readings wait on this phone")).to_be_visible()
    page.context.set_offline(False)
    expect(page.get_by_text("Not sound, about")).to_be_visible(timeout=30_000)
    expect(page.get_by_text("wait on this phone")).to_have_count(0)


def test_a_phone_finds_a_fault_with_one_hand(phone: Page) -> None:
    page = phone
    page.get_by_role("button", name="Find it").click()
    page.get_by_role("button", name="A breaker trips").click()
    page.get_by_role("button", name="Breaker Staging").click()
    found = page.get_by_test_id("find-it")
    expect(found).to_contain_text("Breaker Staging trips")
    for button in page.locator("footer").get_by_role("button").all():
        box = button.bounding_box()
        assert box and box["height"] >= 44, "a thumb in the dark"
    page.get_by_role("button", name="Not sure").click()
    expect(page.get_by_role("button", name="Take back")).to_be_visible()
    page.reload()
    page.get_by_role("button", name="Find it").click()
    expect(page.get_by_role("button", name="Take back")).to_be_visible()


def test_a_phone_hunts_a_stall_by_the_name_of_a_place(phone: Page) -> None:
    page = phone
    page.get_by_role("button", name="Find it").click()
    page.get_by_role("button", name="A train stalls").click()
    page.get_by_label("Near which section or turnout").fill("t51")
    page.get_by_role("list", name="Where").get_by_role("button").first.click()
    expect(page.get_by_test_id("find-it")).to_contain_text("a train stalls at")
    expect(page.get_by_role("button", name="Not sure")).to_be_visible()
