"""The plan and the finder under the hand: hover, zoom, keys, theme, reload, a lost line."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.web.test_story import bench, find, settled  # noqa: F401  (a fixture)


def scale(page: Page) -> float:
    return float(page.locator("svg.plan").evaluate("e => e.style.getPropertyValue('--k')"))


def point_of(page: Page, track: str, share: float) -> list[float]:
    """Where a place on a track stands on screen, by the server's own drawing of it."""
    found: list[float] = page.evaluate(
        """async ([id, share]) => {
          const a = await (await fetch('/api/layouts/gannet-bay/answers')).json();
          const t = a.tracks[id], want = t.distance.at(-1) * share;
          let k = t.distance.findIndex(d => d >= want); if (k < 1) k = 1;
          const s = (want - t.distance[k-1]) / (t.distance[k] - t.distance[k-1]);
          const x = t.points[2*k-2] + s * (t.points[2*k] - t.points[2*k-2]);
          const y = t.points[2*k-1] + s * (t.points[2*k+1] - t.points[2*k-1]);
          const p = new DOMPoint(x, y).matrixTransform(document.querySelector('.plan > g').getScreenCTM());
          return [p.x, p.y];
        }""",
        [track, share],
    )
    return found


def test_the_plan_is_to_scale_and_fits(bench: Page) -> None:  # noqa: F811
    page = bench
    box = page.get_by_test_id("plan").bounding_box()
    assert box
    k = scale(page)
    assert (
        12_000 * k <= box["width"]
        and 6_000 * k <= box["height"]
        and (12_000 * k > 0.8 * box["width"] or 6_000 * k > 0.7 * box["height"])
    )
    left, right = point_of(page, "down-west", 0.3), point_of(page, "down-bridge", 0.5)
    assert right[0] - left[0] == pytest.approx(11_600 * k, rel=0.02), (
        "the two walls are as far apart as they are in the room"
    )


def test_hovering_answers_in_the_look_that_is_on(bench: Page) -> None:  # noqa: F811
    page = bench
    page.mouse.move(*point_of(page, "up-bridge", 0.6))
    tip = page.get_by_role("presentation")
    expect(tip).to_contain_text("V at the wheel")
    expect(tip).to_contain_text("Up main, bridge")
    page.keyboard.press("c")
    page.mouse.move(*point_of(page, "up-bridge", 0.64))
    expect(tip).to_contain_text("× the trip")
    page.mouse.move(*point_of(page, "shed-3", 0.5))
    expect(tip).to_contain_text("No volts here")


def test_zoom_pan_and_fit_by_key_and_by_wheel(bench: Page) -> None:  # noqa: F811
    page = bench
    whole = scale(page)
    page.locator("svg.plan").focus()
    page.keyboard.press("+")
    page.keyboard.press("+")
    assert scale(page) == pytest.approx(whole * 1.69, rel=1e-3)
    before = page.locator("svg.plan > g").get_attribute("transform")
    page.keyboard.press("ArrowLeft")
    assert page.locator("svg.plan > g").get_attribute("transform") != before
    page.keyboard.press("f")
    assert scale(page) == pytest.approx(whole, rel=1e-3)
    x, y = point_of(page, "staging-1", 0.5)
    page.mouse.move(x, y)
    page.mouse.wheel(0, -600)
    page.wait_for_function(
        "k => parseFloat(document.querySelector('svg.plan').style.getPropertyValue('--k')) > k * 1.5", arg=whole
    )
    assert point_of(page, "staging-1", 0.5) == pytest.approx([x, y], abs=3), "what is under the hand stays there"
    page.get_by_role("button", name="Fit the whole plan").click()
    assert scale(page) == pytest.approx(whole, rel=1e-3)


def test_dragging_moves_and_does_not_pick(bench: Page) -> None:  # noqa: F811
    page = bench
    x, y = point_of(page, "staging-1", 0.5)
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 80, y - 40, steps=4)
    page.mouse.up()
    expect(page.get_by_test_id("inspector")).to_have_count(0)
    assert point_of(page, "staging-1", 0.5) == pytest.approx([x + 80, y - 40], abs=4)


def test_the_finder_walks_with_arrows_and_says_when_nothing_is_called_that(bench: Page) -> None:  # noqa: F811
    page = bench
    page.keyboard.press("Control+k")
    box = page.get_by_role("combobox", name="Find or do")
    box.fill("yard")
    options = page.get_by_role("option")
    expect(options.first).to_have_attribute("aria-selected", "true")
    page.keyboard.press("ArrowDown")
    expect(options.nth(1)).to_have_attribute("aria-selected", "true")
    box.fill("zeppelin")
    expect(page.get_by_text("Nothing here is called that.")).to_be_visible()
    page.keyboard.press("Escape")
    expect(box).to_have_count(0)
    find(page, "breaker harbour quays")
    expect(page.get_by_test_id("inspector").get_by_label("Trips at")).to_have_value("5 A")
    page.get_by_test_id("inspector").get_by_label("Trips at").fill("3 amps")
    page.keyboard.press("Enter")
    expect(page.locator("[data-finding^='breaker:']")).to_have_count(0)


PLACES = {
    "lay it": "wire/lay",
    "size it": "wire/size",
    "prove it by": "bench/prove",
    "find a fault": "bench/find",
    "drill": "bench/drill",
    "plan of an evening": "rehearse/plan",
    "many evenings": "rehearse/many",
    "listen to": "rehearse/live",
    "smallest test": "rehearse/first",
    "plug the joints": "travel/joints",
    "set-up list": "travel/setup",
    "before the doors": "travel/doors",
    "what to buy": "book/buy",
    "labels": "book/labels",
    "change orders": "book/orders",
    "notebook": "book/notes",
    "hand over": "book/hand",
    "wait for ever": "rehearse/proof",
}


def test_the_finder_leads_to_tabs_by_what_they_are_for_and_begins_a_layout(bench: Page) -> None:  # noqa: F811
    page = bench
    for words, place in PLACES.items():
        find(page, words)
        expect(page).to_have_url(re.compile(f"/gannet-bay/{place}"))
    find(page, "new layout")
    expect(page.get_by_role("dialog", name="New layout").get_by_label("Name")).to_be_focused()
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)
    expect(page).to_have_url(re.compile("/gannet-bay/rehearse/proof"))


def test_the_words_of_the_worst_point_keep_clear_of_the_looks_and_the_edges(bench: Page) -> None:  # noqa: F811
    page = bench
    find(page, "Go to Wire table")
    page.get_by_role("radio", name="Volts").click()
    words = page.locator("[data-label=spot]")
    expect(words).to_contain_text("at the wheel")
    looks = page.get_by_label("Scene").bounding_box()
    plan = page.get_by_test_id("plan").bounding_box()
    box = words.bounding_box()
    assert looks is not None and plan is not None and box is not None
    assert box["y"] >= looks["y"] + looks["height"] - 1
    # Slid to the right edge, it stays whole while its point is in view.
    x, y = box["x"] - 30, box["y"] + 60
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + plan["x"] + plan["width"] - box["x"] - 60, y, steps=5)
    page.mouse.up()
    box = words.bounding_box()
    assert box is not None and box["x"] + box["width"] <= plan["x"] + plan["width"]


def test_theme_look_and_scene_outlast_a_reload(bench: Page) -> None:  # noqa: F811
    page = bench
    page.get_by_role("button", name="Dark theme").click()
    page.get_by_label("Scene").select_option(label="Tuesday work night")
    expect(page.get_by_label("Where the volts go")).to_contain_text("Tuesday work night")
    page.get_by_role("radio", name="Coin test").click()
    page.reload()
    settled(page)
    assert page.locator("html").get_attribute("data-theme") == "dark"
    expect(page.get_by_role("radio", name="Coin test")).to_have_attribute("aria-checked", "true")
    page.keyboard.press("v")
    expect(page.get_by_label("Where the volts go")).to_contain_text("Tuesday work night")


def test_escape_in_a_field_leaves_it_as_it_was(bench: Page) -> None:  # noqa: F811
    page = bench
    find(page, "bus w1")
    gauge = page.get_by_test_id("inspector").get_by_label("Gauge")
    gauge.fill("6 AWG")
    gauge.press("Escape")
    expect(gauge).to_have_value("16 AWG")
    expect(page.get_by_test_id("saved")).to_contain_text("change 1")


def test_a_lost_line_is_said_and_the_change_can_be_made_again(bench: Page) -> None:  # noqa: F811
    page = bench
    find(page, "bus w1")
    page.route("**/api/layouts/gannet-bay?*", lambda r: r.abort() if r.request.method == "PATCH" else r.continue_())
    page.get_by_label("The two wires lie").select_option("twisted")
    trouble = page.get_by_role("alert").filter(has_text="does not answer")
    expect(trouble).to_be_visible()
    expect(page.get_by_label("The two wires lie")).to_have_value("apart")
    page.unroute("**/api/layouts/gannet-bay?*")
    trouble.get_by_role("button", name="Do it again").click()
    expect(page.get_by_test_id("saved")).to_contain_text("change 2")
    expect(page.get_by_label("The two wires lie")).to_have_value("twisted")
    expect(page.locator("[data-finding^='apart:']")).to_have_count(0)


def test_a_staircase_step_shows_its_wire_on_the_plan(bench: Page) -> None:  # noqa: F811
    page = bench
    page.get_by_label("Where the volts go").get_by_role("button", name=re.compile("Bus W1")).click()
    expect(page.get_by_test_id("inspector").get_by_role("heading", name="Bus W1")).to_be_visible()
    bright = page.locator("[data-thing='run:W1'] path[stroke='var(--amber)']")
    expect(bright).to_have_count(1)
    page.keyboard.press("Escape")
    expect(bright).to_have_count(0)


def test_sorting_the_wire_table_and_walking_its_cells(bench: Page) -> None:  # noqa: F811
    page = bench
    page.get_by_role("button", name=re.compile("^Wire ?,")).click()
    page.get_by_role("button", name="Wire table").click()
    page.get_by_role("button", name="Gauge").click()
    rows = page.locator("tbody tr[data-row] td:nth-child(4)")
    expect(rows.first).to_have_text("24 AWG")
    page.get_by_role("button", name="Gauge").click()
    expect(rows.first).to_have_text("12 AWG")
    page.locator("tbody tr[data-row] td").first.focus()
    page.keyboard.press("ArrowDown")
    page.keyboard.press("ArrowRight")
    place = page.evaluate("[document.activeElement.parentElement.rowIndex, document.activeElement.cellIndex]")
    assert place == [2, 1]
    page.keyboard.press(" ")
    expect(page.locator("tr.bg-board")).to_have_count(1)
