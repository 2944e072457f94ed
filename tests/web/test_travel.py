"""The story of step Travel in a real browser: joints plugged, set up and tried at a show, by mouse and by keyboard."""

from __future__ import annotations

import re

from playwright.sync_api import Locator, Page, expect

from tests.web.test_cabs import make_it
from tests.web.test_story import bench as bench
from tests.web.test_story import settled


def at(page: Page, base_url: str, where: str) -> Page:
    page.goto(f"{base_url}/l/{where}")
    settled(page)
    return page


def tried(page: Page, title: str) -> Locator:
    return page.get_by_role("listitem").filter(has=page.get_by_text(title, exact=True)).last


def test_joints_are_plugged_and_nothing_hangs_bare(bench: Page, base_url: str) -> None:
    page = at(bench, base_url, "harbour-arm-open/travel")
    findings = page.get_by_test_id("findings")
    expect(findings).to_contain_text("without a plug")
    joints = page.get_by_test_id("joints")
    expect(joints).to_contain_text("plug of its own")
    expect(joints).to_contain_text("at the upper end of the joint, away from the public")
    page.get_by_role("button", name="Plug the joints").last.click()
    offer = page.get_by_test_id("couplings-offer")
    expect(offer).to_contain_text("24 couplings")
    expect(offer).to_contain_text("no two that differ in volts mate")
    offer.get_by_role("button", name="Make it…").click()
    make_it(page)
    expect(findings).to_contain_text("Nothing to settle at the joints.")
    first = page.locator("[data-joint='front1+front2']")
    expect(first).to_contain_text("Six-pole plug, keyed 3 of 4 · sockets on Board 1 Town")
    expect(first.get_by_role("list").first.get_by_role("listitem")).to_have_count(4)
    # A board of the joint is shown on the plan, with its card.
    first.get_by_role("button", name=re.compile("^Show")).click()
    expect(page.get_by_test_id("inspector")).to_contain_text("Board 1 Town")
    page.get_by_test_id("inspector").get_by_label("Travels in").fill("Lid D")
    page.keyboard.press("Enter")
    page.get_by_role("radio", name="Take down and pack").click()
    expect(page.get_by_test_id("packing")).to_contain_text("Lid D")
    page.keyboard.press("Control+z")
    expect(page.get_by_test_id("packing")).not_to_contain_text("Lid D")


def test_a_drawer_by_keyboard_and_nonsense_beside_its_field(bench: Page, base_url: str) -> None:
    page = at(bench, base_url, "gannet-bay/travel/connectors")
    drawer = page.get_by_test_id("connectors")
    expect(drawer).to_contain_text("No connector is listed.")
    drawer.get_by_role("button", name="One more kind").focus()
    page.keyboard.press("Enter")
    poles = drawer.get_by_label("Poles of Connector 1")
    poles.fill("many")
    page.keyboard.press("Enter")
    expect(drawer.get_by_role("alert")).to_have_text("A whole number from 1 to 60.")
    page.keyboard.press("Escape")
    expect(poles).to_have_value("2")
    drawer.get_by_label("Pairs of Connector 1").fill("6")
    page.keyboard.press("Enter")
    drawer.get_by_label("Thickest wire of Connector 1").fill("12 awg")
    page.keyboard.press("Enter")
    expect(drawer.get_by_label("Thickest wire of Connector 1")).to_have_value("12 AWG")
    page.reload()
    expect(page.get_by_test_id("connectors").get_by_label("Pairs of Connector 1")).to_have_value("6")
    page.get_by_role("button", name="Plug the joints").last.click()
    expect(page.get_by_test_id("couplings-offer")).to_contain_text("couplings: ")
    page.get_by_test_id("connectors").get_by_role("button", name=re.compile("Take away")).click()
    expect(page.get_by_test_id("connectors")).to_contain_text("No connector is listed.")


def test_a_show_is_set_up_tried_and_remembered(bench: Page, base_url: str) -> None:
    page = at(bench, base_url, "harbour-arm/travel/setup")
    setup = page.get_by_test_id("set-up")
    expect(setup.get_by_role("heading", level=3).first).to_contain_text("1 Board 6 Power out of Lid C")
    row = tried(page, "4A, A1: closed")
    row.get_by_role("button", name=re.compile("^Failed")).click()
    expect(row.get_by_role("alert")).to_have_text("Name the show first, above.")
    page.get_by_label("Show", exact=True).fill("Autumn fair, Dunmere")
    page.keyboard.press("Enter")
    expect(setup).to_contain_text("What you tick is kept with this show.")
    row.get_by_role("button", name=re.compile("^Failed")).click()
    expect(row.get_by_role("button", name=re.compile("^Failed"))).to_have_attribute("aria-pressed", "true")
    row.get_by_label("What was wrong, and what mended it").fill("Pin 2 pushed back in")
    page.keyboard.press("Enter")
    tried(page, "7B, pins 1 and 2: open").get_by_role("button", name=re.compile("^Sound")).press("Enter")
    # Next time that joint is tried first; and what was ticked is there after a reload.
    page.get_by_role("radio", name="Before the doors open").click()
    doors = page.get_by_test_id("doors")
    expect(doors.get_by_role("listitem").first).to_contain_text("The joint between Board 2 Quay and Board 6 Power")
    expect(doors).to_contain_text("2 tried, 1 failed")
    expect(doors).to_contain_text("4A, A1: closed: Pin 2 pushed back in")
    expect(doors).to_contain_text("A coin is touched, never held")
    page.reload()
    expect(page.get_by_test_id("doors")).to_contain_text("Autumn fair, Dunmere", timeout=30_000)
    page.get_by_role("radio", name="Joints").click()
    expect(page.locator("[data-joint='front2+back2']")).to_contain_text("failed 1 × at shows")


def test_one_that_stays_says_what_to_do(bench: Page, base_url: str) -> None:
    page = at(bench, base_url, "tinplate-lane/travel")
    expect(page.get_by_text("A board lifts out when its card says so")).to_be_visible()
    page.get_by_role("radio", name="Set up").click()
    expect(page.get_by_text("No board lifts out.").last).to_be_visible()


def test_a_wish_is_a_rule_of_the_club(bench: Page, base_url: str) -> None:
    page = at(bench, base_url, "harbour-arm/travel")
    page.get_by_role("button", name="In the hall").click()
    wish = page.get_by_label("A feeder on both sides of every joint, within")
    expect(wish).to_have_value("600 mm")
    wish.fill("100 mm")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("findings")).to_contain_text("has no feeder within 100 mm")
    minutes = page.get_by_label("Minutes for the proof")
    minutes.fill("0")
    page.keyboard.press("Enter")
    expect(page.get_by_text("Over 0, up to 120 minutes.")).to_be_visible()
