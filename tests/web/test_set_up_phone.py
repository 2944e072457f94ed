"""The set-up list on a phone in a hall: ticked with a thumb, kept without a connection, at the desk afterwards."""

from __future__ import annotations

import re
from collections.abc import Iterator

import pytest
from playwright.sync_api import Browser, Locator, Page, Route, expect

from tests.web.test_accessible import told, violations


@pytest.fixture
def phone(browser: Browser, base_url: str) -> Iterator[Page]:
    context = browser.new_context(viewport={"width": 390, "height": 844}, has_touch=True, is_mobile=True)
    page = context.new_page()
    page.set_default_timeout(10_000)
    wrong: list[str] = []
    page.on("pageerror", lambda e: wrong.append(str(e)))
    page.goto(f"{base_url}/under?layout=harbour-arm")
    page.get_by_role("button", name="Read and minded").tap()
    page.get_by_role("button", name="Set up", exact=True).tap()
    yield page
    assert wrong == []
    context.close()


def first_test(page: Page) -> Locator:
    return page.locator("[data-test]").first


def test_ticked_without_a_connection_and_sent_when_it_is_back(phone: Page, base_url: str) -> None:
    page, one = phone, first_test(phone)
    one.get_by_role("button", name=re.compile("^Sound")).tap()
    expect(one.get_by_role("alert")).to_contain_text("Name the show first")
    page.get_by_label("Show").fill("Hall by phone")
    box = one.get_by_role("button", name=re.compile("^Failed")).bounding_box()
    assert box and box["height"] >= 44 and page.evaluate("document.documentElement.scrollWidth") <= 390
    page.context.set_offline(True)
    one.get_by_role("button", name=re.compile("^Failed")).tap()
    expect(page.get_by_role("status")).to_contain_text("1 tick waits on this phone")
    expect(one.get_by_role("button", name=re.compile("^Failed"))).to_have_attribute("aria-pressed", "true")
    page.context.set_offline(False)
    expect(page.get_by_text(re.compile("waits? on this phone"))).to_have_count(0, timeout=15_000)
    note = one.get_by_label("What was wrong, and what mended it")
    note.fill("Pin 2 pushed back in")
    note.press("Tab")
    key = one.get_attribute("data-test")
    kept = f"{base_url}/api/layouts/harbour-arm/shows"
    page.wait_for_function(
        "async (url) => JSON.stringify(await (await fetch(url)).json()).includes('Pin 2 pushed')", arg=kept
    )
    (entry,) = (e for e in page.request.get(kept).json()["entries"] if e["show"] == "Hall by phone")
    assert (entry["what"], entry["state"], entry["note"]) == (key, "failed", "Pin 2 pushed back in")
    page.reload()
    page.get_by_role("button", name="Set up", exact=True).tap()
    expect(page.get_by_label("Show")).to_have_value("Hall by phone")
    one = first_test(page)
    expect(one.get_by_label("What was wrong, and what mended it")).to_have_value("Pin 2 pushed back in")
    one.get_by_role("button", name=re.compile("^Sound")).tap()
    expect(one.get_by_role("button", name=re.compile("^Sound"))).to_have_attribute("aria-pressed", "true")
    one.get_by_role("button", name=re.compile("^Sound")).tap()
    expect(one.get_by_role("button", name=re.compile("^Sound"))).to_have_attribute("aria-pressed", "false")
    expect(page.get_by_role("region", name="Before the doors open")).to_contain_text("a coin at its far end")
    found = violations(page)
    assert found == [], told(found)


def test_what_is_ticked_while_the_last_goes_out_follows_it_at_once(phone: Page, base_url: str) -> None:
    """No clock runs here: a tick that waited for the page's next look would never leave."""
    page = phone
    page.add_init_script("window.setInterval = () => 0")
    page.reload()
    page.get_by_role("button", name="Set up", exact=True).tap()
    page.get_by_label("Show").fill("Hall by phone")
    held: list[Route] = []
    page.route(
        "**/shows", lambda route: route.continue_() if held or route.request.method == "GET" else held.append(route)
    )
    for one in page.locator("[data-test]").all()[:3]:
        one.get_by_role("button", name=re.compile("^Sound")).tap()
    expect(page.get_by_role("status")).to_contain_text("3 ticks wait on this phone")
    held[0].continue_()
    expect(page.get_by_text(re.compile("waits? on this phone"))).to_have_count(0)
    kept = page.request.get(f"{base_url}/api/layouts/harbour-arm/shows").json()["entries"]
    assert [e["state"] for e in kept if e["show"] == "Hall by phone"] == ["sound"] * 3


def test_a_railroad_that_stays_has_nothing_to_set_up(page: Page, base_url: str) -> None:
    page.goto(f"{base_url}/under?layout=millbeck")
    expect(page.get_by_role("button", name="Prove")).to_be_visible()
    expect(page.get_by_role("button", name="Set up", exact=True)).to_have_count(0)
