"""The bench a club lives at: the story of a new lead, links, Back, layouts, two people, words on the plan."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import httpx2 as httpx
import pytest
from playwright.sync_api import Browser, Page, expect

from jolly_copper.store import Store
from tools.served import Served

OVERLAPS = """() => {
  const seen = [...document.querySelectorAll("[data-label]")]
    .map((e) => [e.dataset.label, e.getBoundingClientRect()]).filter(([, r]) => r.width > 0);
  const bad = [];
  for (let i = 0; i < seen.length; i++) for (let j = i + 1; j < seen.length; j++) {
    const [a, b] = [seen[i][1], seen[j][1]];
    if (a.left < b.right - 1 && b.left < a.right - 1 && a.top < b.bottom - 1 && b.top < a.bottom - 1)
      bad.push(seen[i][0] + " on " + seen[j][0]);
  }
  return [seen.length, bad];
}"""


def settled(page: Page) -> None:
    expect(page.get_by_test_id("plan")).to_have_attribute("aria-busy", "false")
    expect(page.get_by_test_id("next")).to_be_visible()


def step(page: Page, name: str) -> None:
    page.get_by_role("navigation").get_by_role("button", name=re.compile(f"^{name} ?,")).click()


@pytest.fixture
def club(tmp_path: Path) -> Iterator[Served]:
    with Served(tmp_path / "club.sqlite3") as program:
        yield program


def test_the_story_of_a_new_lead(page: Page, club: Served, browser: Browser, tmp_path: Path) -> None:
    page.goto(club.url)
    page.get_by_role("button", name="New layout…").first.click()
    page.get_by_label("Name").fill("Pier line")
    page.get_by_role("button", name="Start drawing").click()
    # Nothing is said to be done that is not, and Next says what to begin with.
    expect(page.get_by_test_id("next")).to_contain_text("Draw the first track, or take in a drawing.")
    expect(page.get_by_role("button", name="Wire , not begun")).to_be_visible()
    expect(page.get_by_role("button", name="Brief , begun")).to_be_visible()
    expect(page.get_by_test_id("purpose")).to_contain_text("Draw or take in the railroad to scale")
    page.get_by_role("button", name="I know what this step is for").click()
    expect(page.get_by_test_id("purpose")).to_have_count(0)
    expect(page.get_by_test_id("rulers")).to_contain_text(re.compile("ft|in"))
    expect(page.get_by_test_id("scale-bar")).to_be_visible()
    made = {"act": {"act": "track", "spots": [{"x": 0, "y": 0}, {"x": 3000, "y": 0}]}}
    httpx.post(f"{club.url}/api/layouts/pier-line/draw", json=made)
    # Another window's act arrives by itself, with what to do next.
    expect(page.get_by_test_id("people")).to_contain_text("Somebody: ")
    expect(page.get_by_test_id("next")).to_contain_text("Name the trains that run")
    page.get_by_test_id("next").click()
    expect(page).to_have_url(re.compile("/l/pier-line/trains"))
    # Who works here is asked once, and stands beside the changes from then on.
    step(page, "Brief")
    page.get_by_label("Wiring lead").fill("Wren")
    page.keyboard.press("Enter")
    page.get_by_label("Who is working here").fill("Wren")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Who is working here")).to_have_count(0)
    page.get_by_label("Club", exact=True).fill("Harbour club")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("saved")).to_contain_text("change 4")
    # A copy to try something on, a version with a name, the two compared.
    page.get_by_role("button", name="Pier line: all layouts").click()
    page.get_by_role("button", name="Versions…").click()
    page.get_by_role("button", name="Name it…").first.click()
    page.get_by_role("dialog", name="Name change 4").get_by_label("Name").fill("As agreed")
    page.get_by_label("Note").fill("before the open day")
    page.get_by_role("button", name="Name it", exact=True).click()
    dialog = page.get_by_role("dialog", name="Versions of Pier line")
    expect(dialog).to_contain_text("As agreed")
    expect(dialog).to_contain_text("by Wren")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Copy…").click()
    page.get_by_label("Name").fill("Pier line, trial")
    page.get_by_role("button", name="Copy it").click()
    page.get_by_role("button", name="Open Pier line, trial").click()
    expect(page).to_have_url(re.compile("/l/pier-line-trial/"))
    step(page, "Brief")
    page.get_by_label("Track volts").fill("16 V")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("saved")).to_contain_text("change 2")
    page.get_by_role("button", name="Pier line, trial: all layouts").click()
    page.get_by_role("article", name="Pier line", exact=True).get_by_role("button", name="Compare…").click()
    comparison = page.get_by_test_id("comparison")
    expect(comparison).to_contain_text("track volts: 14.4 V → 16.0 V")
    expect(comparison).to_contain_text("name: Pier line → Pier line, trial")
    # The club file for the safe.
    page.get_by_role("button", name="Club file and helpers").click()
    with page.expect_download() as download:
        page.get_by_role("link", name="Download a copy").click()
    download.value.save_as(tmp_path / "safe.sqlite3")
    copy = Store(tmp_path / "safe.sqlite3")
    assert {row["name"] for row in copy.layouts()} == {"Pier line", "Pier line, trial"}
    copy.close()


def test_a_link_opens_on_the_very_feeder(page: Page, base_url: str) -> None:
    page.goto(f"{base_url}/l/gannet-bay/wire?look=coin&scene=ops-night&thing=feeder:F5")
    settled(page)
    expect(page.get_by_test_id("inspector")).to_contain_text("Feeder F5")
    expect(page.get_by_role("radio", name="Coin test")).to_be_checked()
    page.context.grant_permissions(["clipboard-read", "clipboard-write"])
    page.get_by_test_id("inspector").get_by_role("button", name="Copy link to this").click()
    link = page.evaluate("navigator.clipboard.readText()")
    assert link.startswith(f"{base_url}/l/gannet-bay/wire?") and "thing=feeder%3AF5" in link


def test_where_a_page_may_not_copy_the_link_is_shown(page: Page, base_url: str) -> None:
    page.add_init_script("Object.defineProperty(navigator, 'clipboard', {value: undefined})")
    page.goto(f"{base_url}/l/gannet-bay/zones")
    settled(page)
    page.get_by_role("banner").get_by_role("button", name="Copy link to this").click()
    expect(page.get_by_label("Link, to copy")).to_have_value(re.compile("/l/gannet-bay/zones"))


def test_back_and_forward_go_through_steps_tabs_and_looks(page: Page, base_url: str) -> None:
    page.goto(f"{base_url}/l/gannet-bay/wire")
    settled(page)
    page.get_by_role("radio", name="Coin test").click()
    expect(page).to_have_url(re.compile("look=coin"))
    step(page, "Zones")
    expect(page).to_have_url(re.compile("/zones.*look=zones"))
    page.get_by_role("radio", name="Evenings played").click()
    expect(page).to_have_url(re.compile("/zones/evenings"))
    page.go_back()
    expect(page.get_by_role("radio", name="One-line diagram")).to_be_checked()
    page.go_back()
    expect(page).to_have_url(re.compile("/wire.*look=coin"))
    expect(page.get_by_role("radio", name="Coin test")).to_be_checked()
    page.go_back()
    expect(page.get_by_role("radio", name="Volts", exact=True)).to_be_checked()
    page.go_forward()
    page.go_forward()
    expect(page.get_by_role("button", name=re.compile("^Zones"))).to_have_attribute("aria-current", "step")


@pytest.mark.parametrize(
    ("where", "says"),
    [
        ("/l/gannet-bay/wire?thing=feeder:F999", "the feeder F999, which this layout no longer has"),
        ("/l/gannet-bay/wire?scene=no-such", "the scene no-such"),
        ("/l/nowhere/wire", "There is no layout nowhere in this club file now"),
    ],
)
def test_a_link_to_what_is_gone_says_so(page: Page, base_url: str, where: str, says: str) -> None:
    page.goto(f"{base_url}{where}")
    expect(page.get_by_role("alert")).to_contain_text(says)
    if "nowhere" in where:
        expect(page.get_by_role("heading", name="Layouts in this club file")).to_be_visible()
        expect(page).to_have_url(f"{base_url}/layouts")


@pytest.mark.parametrize("old", ["/?layout=gannet-bay#zones", "/#zones"])
def test_links_of_the_first_versions_lead_where_they_led(page: Page, base_url: str, old: str) -> None:
    page.goto(f"{base_url}{old}")
    settled(page)
    expect(page).to_have_url(re.compile("/l/gannet-bay[^/]*/zones"))


def test_another_layout_keeps_no_scene_of_the_one_before(page: Page, base_url: str) -> None:
    wrong: list[str] = []
    page.on("response", lambda r: wrong.append(r.url) if r.status >= 400 else None)
    page.goto(f"{base_url}/l/gannet-bay-signalled/signal?scene=open-day")
    settled(page)
    httpx.post(f"{base_url}/api/layouts/new", json={"name": "Bare", "scale": "N", "control": "dc", "units": "metric"})
    page.get_by_role("button", name=re.compile("all layouts")).click()
    page.get_by_role("button", name="Open Bare").click()
    settled(page)
    expect(page).to_have_url(re.compile(r"/l/bare/signal\?look=signals$"))
    assert wrong == []


def test_a_layout_is_archived_deleted_and_put_back(page: Page, base_url: str) -> None:
    page.goto(f"{base_url}/layouts")
    card = page.get_by_role("article", name="Gannet Bay, unwired")
    expect(card).to_contain_text("53 tracks")
    card.get_by_role("button", name="Archive").click()
    expect(page.get_by_role("region", name="Archive").get_by_role("article")).to_have_count(1)
    card.get_by_role("button", name="Delete…").click()
    expect(page.get_by_role("dialog")).to_contain_text("What goes: 1 change, 0 named versions and 0 tasks logged")
    page.get_by_role("button", name="Delete it").click()
    expect(card).to_have_count(0)
    page.get_by_role("region", name="Deleted").get_by_role("button", name="Put back").click()
    expect(card).to_be_visible()
    card.get_by_role("button", name="Rename…").click()
    page.get_by_label("Name", exact=True).fill("  ")
    page.get_by_role("button", name="Rename it").click()
    expect(page.get_by_role("alert")).to_contain_text("This needs a name.")
    page.get_by_label("Name", exact=True).fill("Bare bay")
    page.keyboard.press("Enter")
    expect(page.get_by_role("article", name="Bare bay")).to_be_visible()


def test_a_second_lead_sees_each_change_arrive(page: Page, base_url: str, browser: Browser, **_: Any) -> None:
    page.add_init_script("localStorage.setItem('copper.name', 'Wren')")
    page.goto(f"{base_url}/l/gannet-bay/brief")
    context = browser.new_context(locale="en-GB")
    other = context.new_page()
    other.add_init_script("localStorage.setItem('copper.name', 'Vale')")
    other.goto(f"{base_url}/l/gannet-bay/brief")
    expect(page.get_by_test_id("people")).to_contain_text("Vale")
    expect(other.get_by_test_id("people")).to_contain_text("Wren")
    page.get_by_label("Club", exact=True).fill("Harbour club")
    page.keyboard.press("Enter")
    expect(other.get_by_label("Club", exact=True)).to_have_value("Harbour club", timeout=5000)
    expect(other.get_by_test_id("people")).to_contain_text("Wren: Club: Harbour club")
    context.close()
    expect(page.get_by_test_id("people")).to_have_count(0)


@pytest.mark.parametrize(
    ("layout", "where"),
    [
        ("gannet-bay", "wire"),
        ("gannet-bay", "track"),
        ("gannet-bay-undivided", "zones"),
        ("gannet-bay-signalled", "detect"),
    ],
)
def test_words_on_the_plan_never_lie_on_each_other(page: Page, base_url: str, layout: str, where: str) -> None:
    page.goto(f"{base_url}/l/{layout}/{where}")
    settled(page)
    if where == "detect":
        expect(page.locator("[data-chip]").first).to_be_attached()
    for _ in range(3):
        count, bad = page.evaluate(OVERLAPS)
        assert count > 5 and bad == []
        for _ in range(2):
            page.get_by_role("button", name="Zoom in").click()
        page.wait_for_function("() => true")


def test_the_place_and_zoom_of_each_step_are_kept(page: Page, base_url: str) -> None:
    page.goto(f"{base_url}/l/gannet-bay/wire")
    settled(page)
    for _ in range(4):
        page.get_by_role("button", name="Zoom in").click()
    before = page.locator(".plan > g").get_attribute("transform")
    step(page, "Zones")
    expect(page.locator(".plan > g")).not_to_have_attribute("transform", before or "")
    step(page, "Wire")
    settled(page)
    expect(page.locator(".plan > g")).to_have_attribute("transform", before or "")


def test_on_a_phone_the_page_is_a_reader(page: Page, base_url: str) -> None:
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(f"{base_url}/l/gannet-bay/wire")
    expect(page.get_by_role("link", name="Under the boards")).to_be_in_viewport()
    page.get_by_label("Look of the plan").select_option("Coin test")
    expect(page.get_by_test_id("rails-coin")).to_be_visible()
    page.get_by_role("button", name="Find or do").click()
    page.get_by_role("combobox", name="Find or do").fill("F12")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("inspector")).to_contain_text("F12")
    assert page.evaluate("document.documentElement.scrollWidth") <= 390


@pytest.mark.parametrize(
    "where", ["/l/%E0%A4%A/wire", "/l/gannet-bay/wire?thing=note:x&place=:&scene=%", "/l/gannet-bay/xyz"]
)
def test_nonsense_in_an_address_opens_the_bench_all_the_same(page: Page, base_url: str, where: str) -> None:
    wrong: list[str] = []
    page.on("pageerror", lambda e: wrong.append(str(e)))
    page.goto(f"{base_url}{where}")
    expect(page.get_by_role("banner")).to_be_visible()
    expect(page.get_by_role("main")).not_to_be_empty()
    assert wrong == []


def test_the_open_layout_deleted_leaves_no_dead_end(page: Page, base_url: str) -> None:
    page.goto(f"{base_url}/l/gannet-bay/wire")
    settled(page)
    page.get_by_role("button", name=re.compile("all layouts")).click()
    page.get_by_role("article", name="Gannet Bay & Uplands").get_by_role("button", name="Delete…").click()
    page.get_by_role("button", name="Delete it").click()
    expect(page.get_by_role("article", name="Gannet Bay & Uplands")).to_have_count(0)
    step(page, "Wire")
    settled(page)
    expect(page).to_have_url(re.compile("/l/gannet-bay-[a-z]+/wire"))
