"""WCAG 2.2 AA by axe over every step, both themes, at the desk and on a phone."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from tests.web.steady import at_rest

AXE = Path(__file__).resolve().parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js"
RULES = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]
STEPS = (
    "brief",
    "track",
    "reverse",
    "trains",
    "zones",
    "cabs",
    "detect",
    "signal",
    "wire",
    "table",
    "travel",
    "rehearse",
    "book",
    "bench",
)
OF_COLOUR = ["color-contrast", "link-in-text-block"]
"""The rules that another theme may break; the others look at what is there, which is the same in both."""
RUN = """async ([type, values]) => {
  const found = await axe.run(document, { runOnly: { type, values }, resultTypes: ["violations"] });
  return found.violations.map((v) => ({
    id: v.id, count: v.nodes.length,
    nodes: v.nodes.slice(0, 6).map((n) => n.target.join(" ") + " | " + n.html.slice(0, 160)),
  }));
}"""


def violations(page: Page) -> list[dict[str, Any]]:
    # The policy of the page lets no script of another's in; the test's own comes by the debugger.
    page.evaluate(AXE.read_text("utf-8") + "; window.axe = axe; null")
    return page.evaluate(RUN, ["tag", RULES])  # type: ignore[no-any-return]


def violations_of_colour(page: Page) -> list[dict[str, Any]]:
    """After `violations` on the same page."""
    return page.evaluate(RUN, ["rule", OF_COLOUR])  # type: ignore[no-any-return]


def told(found: list[dict[str, Any]]) -> str:
    return "\n".join(f"{v['id']} × {v['count']}\n  " + "\n  ".join(v["nodes"]) for v in found)


def settled(page: Page) -> None:
    expect(page.get_by_test_id("next")).to_be_visible()
    expect(page.locator("[aria-busy=true]")).to_have_count(0)


@pytest.mark.parametrize("step", STEPS)
def test_every_step_at_the_desk(page: Page, base_url: str, step: str) -> None:
    page.goto(f"{base_url}/l/gannet-bay-signalled/{step}")
    settled(page)
    found = violations(page)
    assert not found, told(found)
    page.get_by_role("button", name="Dark theme").click()
    expect(page.locator("html")).to_have_attribute("data-theme", "dark")
    found = violations_of_colour(page)
    assert not found, told(found)


@pytest.mark.parametrize(
    "where",
    [
        "/layouts",
        "/sums",
        "/l/gannet-bay/wire?look=volts&thing=feeder:F1",
        "/l/millbeck/cabs",
        "/l/millbeck/cabs/panels",
        "/l/tinplate-lane/cabs",
        "/l/millbeck/zones/supplies",
        "/l/harbour-arm/book/notes",
        "/l/harbour-arm/book/hand",
        "/l/harbour-arm/travel",
        "/l/harbour-arm/travel/connectors",
        "/l/harbour-arm/travel/setup",
        "/l/harbour-arm/travel/doors",
        "/l/harbour-arm/travel/packing",
        "/l/gannet-bay-signalled/rehearse/plan",
        "/l/gannet-bay-signalled/rehearse/first",
        "/l/gannet-bay-signalled/rehearse/live",
        "/l/gannet-bay/bench/readings",
        "/l/gannet-bay/bench/find",
        "/l/gannet-bay/bench/drill?drill=7-easy",
    ],
)
def test_pages_beside_the_steps(page: Page, base_url: str, where: str) -> None:
    page.goto(f"{base_url}{where}")
    expect(page.get_by_role("main")).not_to_be_empty()
    at_rest(page)
    found = violations(page)
    assert not found, told(found)


def test_dialogs(page: Page, base_url: str) -> None:
    page.goto(f"{base_url}/l/gannet-bay/wire")
    settled(page)
    for open_it in ("Control+k", None):
        if open_it:
            page.keyboard.press(open_it)
        else:
            page.keyboard.press("Escape")
            page.get_by_role("button", name="Club file and helpers").click()
        expect(page.get_by_role("dialog")).to_be_visible()
        found = violations(page)
        assert not found, told(found)


def test_under_the_boards_on_a_phone(page: Page, base_url: str) -> None:
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(f"{base_url}/under?layout=gannet-bay")
    light = page.get_by_role("button", name="Light", exact=True)
    expect(light).to_be_visible()
    found = violations(page)
    assert not found, told(found)
    light.click()
    expect(page.locator("html")).to_have_attribute("data-theme", "light")
    found = violations_of_colour(page)
    assert not found, told(found)


def test_the_bench_read_on_a_phone(page: Page, base_url: str) -> None:
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(f"{base_url}/l/gannet-bay/wire")
    expect(page.get_by_test_id("findings")).to_be_visible()
    found = violations(page)
    assert not found, told(found)
