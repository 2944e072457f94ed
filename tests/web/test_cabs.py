"""Both stories of step Cabs in a real browser, by mouse and by keyboard: blocked, linked, thrown, stopped."""

from __future__ import annotations

import re
from typing import Any

from playwright.sync_api import Locator, Page, expect

from tests.web.steady import steady
from tests.web.test_story import bench as bench
from tests.web.test_story import settled


def at(page: Page, base_url: str, where: str) -> Page:
    page.goto(f"{base_url}/l/{where}")
    settled(page)
    page.get_by_test_id("rails-cabs").wait_for()
    return page


def asked(page: Page, layout: str, what: str = "cabs") -> dict[str, Any]:
    found: dict[str, Any] = page.evaluate(f"async () => (await fetch('/api/layouts/{layout}/{what}')).json()")
    return found


def make_it(page: Page) -> None:
    sheet = page.get_by_role("dialog")
    expect(sheet).to_contain_text("now")
    sheet.get_by_role("button", name="Make this change").click()
    expect(sheet).to_have_count(0)


def switch(page: Page, block: str) -> Locator:
    return page.get_by_role("radiogroup", name=f"Selector {block}")


def test_the_line_is_blocked_for_cabs_and_linked(bench: Page, base_url: str) -> None:
    page = at(bench, base_url, "millbeck-unblocked/cabs")
    expect(page.get_by_text("21.2 m fed by nothing")).to_be_visible()
    page.get_by_label("Shortest block").fill("1500 mm")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Block it for cabs").last.click()
    proposal = page.get_by_test_id("cab-blocks")
    expect(proposal).to_contain_text("9 blocks and 1 siding switch for 2 cabs", timeout=20_000)
    expect(page.locator("[data-proposed]")).not_to_have_count(0)
    proposal.get_by_text("Every block, and why").click()
    expect(proposal).to_contain_text("a dead end: one rail is switched off to park an engine")
    proposal.get_by_role("button", name="Make it…").click()
    make_it(page)
    expect(page.locator("[data-lever]")).to_have_count(10)
    expect(page.get_by_test_id("bare-gap")).to_have_count(1)
    page.get_by_role("button", name="Make its block one of either control…").click()
    expect(page.get_by_role("dialog")).to_contain_text("2 buffers of")
    make_it(page)
    expect(page.get_by_test_id("bare-gap")).to_have_count(0)
    expect(switch(page, "Exchange").get_by_role("radio")).to_have_text(["off", "Cab A", "Cab B", "Digital main"])
    page.keyboard.press("Control+z")
    expect(page.get_by_test_id("bare-gap")).to_have_count(1)


def test_levers_are_thrown_on_the_plan_and_in_the_list(bench: Page, base_url: str) -> None:
    page = at(bench, base_url, "millbeck/cabs")
    lever = page.locator("[data-lever][aria-label^='Selector Local, north-west']")
    expect(lever).to_have_attribute("data-lies", "cab-a")
    steady(lever)
    lever.click()
    expect(lever).to_have_attribute("data-lies", "cab-b")
    expect(page.get_by_test_id("meeting")).not_to_have_count(0)
    # By keyboard: the same lever goes on to off, and its track is dark and no fault.
    lever.focus()
    page.keyboard.press("Enter")
    expect(lever).to_have_attribute("data-lies", "off")
    expect(page.locator("[data-driven='waits']")).to_be_visible()
    switch(page, "Local, north-west").get_by_role("radio", name="Cab A").click()
    expect(lever).to_have_attribute("data-lies", "cab-a")
    # What the scene says stands in the scene; another one has the levers of its own.
    page.get_by_label("Scene").select_option("over")
    expect(switch(page, "Exchange").get_by_role("radio", name="Digital main")).to_have_attribute("aria-checked", "true")
    page.reload()
    settled(page)
    expect(switch(page, "Local, north-west").get_by_role("radio", name="Cab A")).to_have_attribute(
        "aria-checked", "true"
    )


def test_the_branch_becomes_a_shuttle(bench: Page, base_url: str) -> None:
    page = at(bench, base_url, "millbeck/cabs?place=branch:300")
    page.get_by_role("button", name="Stops by themselves").click()
    page.get_by_label("Made for").select_option("Coldwell railcar")
    page.get_by_role("button", name="P18").click()
    page.get_by_role("button", name="One end of a shuttle is here").click()
    expect(page.get_by_text("One end: Coldwell branch")).to_be_visible()
    page.goto(f"{base_url}/l/millbeck/cabs?place=harrow-1:600")
    settled(page)
    page.get_by_role("button", name="Stops by themselves").click()
    page.get_by_role("button", name="Stop here…").click()
    expect(page.get_by_role("alert")).to_contain_text("read by decoders alone")
    page.goto(f"{base_url}/l/millbeck/cabs?place=platform:1200")
    settled(page)
    page.get_by_role("button", name="Stops by themselves").click()
    page.get_by_label("Made for").select_option("Coldwell railcar")
    page.get_by_role("button", name="Stop here…").click()
    expect(page.get_by_role("dialog")).to_contain_text("comes in whole")
    make_it(page)
    band = page.locator("[data-thing='braking:BR1']")
    expect(band).to_have_count(1)
    assert asked(page, "millbeck")["stretches"][0]["kind"] == "braking"


def test_the_back_of_the_panel_has_every_pin(bench: Page, base_url: str) -> None:
    page = at(bench, base_url, "millbeck/cabs/panels")
    panels = page.get_by_test_id("panels")
    expect(panels.get_by_role("img", name=re.compile("from behind, pins numbered"))).to_be_visible()
    expect(panels).to_contain_text("combs, one for each row that shares a wire")
    row = panels.get_by_role("row").filter(has_text="Selector Harrow 1")
    expect(row).to_contain_text("Cab A A")
    panels.get_by_role("radio", name="Front").click()
    expect(panels.get_by_role("img", name=re.compile("front, 420 by"))).to_be_visible()
    field = panels.get_by_label("Is wide")
    field.fill("50")
    page.keyboard.press("Enter")
    expect(panels.get_by_role("alert")).to_contain_text("Between 200 and 2000")
    with page.expect_download() as got:
        panels.get_by_role("link", name="Template 1:1, A4").click()
    assert got.value.suggested_filename.endswith(".pdf")


def test_tinplate_parts_its_loops_and_says_what_the_meter_must_read(bench: Page, base_url: str) -> None:
    page = at(bench, base_url, "tinplate-lane/cabs")
    expect(page.get_by_test_id("findings")).to_contain_text("Nobody has read whether Transformer 1")
    expect(page.locator("[data-thing='isolated:IR1']")).to_have_count(1)
    page.goto(f"{base_url}/l/tinplate-lane/cabs?thing=isolated:IR1")
    settled(page)
    expect(page.get_by_test_id("inspector")).to_contain_text("isolated rail · Outer loop, west")
    tests = {t["key"]: t for t in asked(page, "tinplate-lane", "bench")["tests"]}
    hot = next(t for k, t in tests.items() if k.startswith("hot:"))
    assert hot["foretold"] == "next to nothing"
    page.goto(f"{base_url}/l/tinplate-lane/cabs?thing=device:out-c")
    settled(page)
    reading = page.get_by_test_id("inspector").get_by_label("Hot to hot, read")
    reading.fill("35 V")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("findings")).to_contain_text("35.0 V stand between the hot posts")
    reading.fill("0.4 V")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("findings")).not_to_contain_text("hot posts")


def test_a_switch_by_hand_and_supplies_shared_out(bench: Page, base_url: str) -> None:
    page = at(bench, base_url, "millbeck/cabs")
    page.get_by_role("button", name="One more switch").click()
    page.get_by_role("button", name="Add it").click()
    expect(page.get_by_role("alert")).to_contain_text("Give the block a name")
    page.get_by_label("Block", exact=True).fill("Turning loop")
    page.get_by_role("checkbox", name="Cab A").check()
    page.get_by_role("checkbox", name="Cab B").check()
    page.get_by_role("button", name="Add it").click()
    expect(page.get_by_test_id("inspector")).to_contain_text("gives Turning loop")
    page.goto(f"{base_url}/l/millbeck/zones/supplies")
    settled(page)
    supplies = page.get_by_test_id("supplies")
    supplies.get_by_role("button", name="One more supply").click()
    supplies.get_by_role("button", name="Share them out").click()
    expect(page.get_by_test_id("shared")).to_contain_text("Station, asked for")
    make_it(page)
    expect(supplies.get_by_label("What Supply 1 serves")).to_have_value("station")


def test_a_club_that_has_not_chosen_weighs_the_controls(bench: Page, base_url: str) -> None:
    page = bench
    page.goto(f"{base_url}/l/millbeck-unblocked/brief")
    page.get_by_role("button", name=re.compile("Not chosen yet")).click()
    sheet = page.get_by_role("dialog")
    expect(sheet).to_contain_text("DC does all that is asked for the least", timeout=20_000)
    sheet.get_by_role("checkbox", name="sound").check()
    expect(sheet).to_contain_text("digital does all that is asked")
    sheet.get_by_label("Trains at once").fill("none")
    expect(sheet.get_by_role("alert")).to_contain_text("Whole numbers")
    page.keyboard.press("Escape")
    expect(sheet).to_have_count(0)


def test_digital_alone_is_left_in_peace(bench: Page, base_url: str) -> None:
    page = at(bench, base_url, "gannet-bay/cabs")
    expect(page.get_by_test_id("switches")).to_contain_text("A digital railroad wants none")
    expect(page.get_by_role("region", name="Block it for cabs")).to_have_count(0)
