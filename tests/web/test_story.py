"""The story of the first slice, walked in a real browser with mouse and with keyboard, and a few ways to break it."""

from __future__ import annotations

import csv
import re
from collections.abc import Iterator

import pytest
from playwright.sync_api import Browser, Page, expect


@pytest.fixture
def bench(page: Page, base_url: str) -> Iterator[Page]:
    """The page, open and settled. Afterwards: no error on the console but refusals, and no call off this machine."""
    wrong: list[str] = []
    page.set_default_timeout(10_000)
    page.on("pageerror", lambda e: wrong.append(str(e)))
    page.on(
        "console",
        lambda m: (
            wrong.append(m.text) if m.type == "error" and not re.search("status of 4|ERR_FAILED", m.text) else None
        ),
    )
    page.on("request", lambda r: wrong.append(r.url) if not r.url.startswith((base_url, "data:", "blob:")) else None)
    page.goto(base_url)
    settled(page)
    yield page
    assert wrong == []


def settled(page: Page) -> None:
    expect(page.get_by_test_id("findings")).to_be_visible(timeout=45_000)
    expect(page.get_by_test_id("plan")).to_have_attribute("aria-busy", "false")
    expect(page.get_by_test_id("findings")).to_have_attribute("aria-busy", "false")


def find(page: Page, what: str) -> None:
    page.keyboard.press("Control+k")
    page.get_by_role("combobox", name="Find or do").fill(what)
    page.keyboard.press("Enter")


def volts(page: Page) -> float:
    text = page.get_by_test_id("spot").text_content() or ""
    found = re.search(r"([\d.]+) V at the wheel", text)
    assert found, text
    return float(found[1])


def test_the_story_with_the_mouse(bench: Page) -> None:
    page = bench
    expect(page.get_by_role("heading", name="Where the volts go")).to_be_visible()
    expect(
        page.get_by_label("If you changed one thing").get_by_role("button", name=re.compile("Bus W1 to 12 AWG"))
    ).to_be_enabled(timeout=15_000)
    promised = page.get_by_role("button", name=re.compile("Bus W1 to 12 AWG")).inner_text()
    before = volts(page)

    box = page.get_by_test_id("plan").bounding_box()
    assert box
    run = page.locator("[data-thing='run:W1'] path").first
    place = run.evaluate(
        "e => { const p = e.getPointAtLength(e.getTotalLength() * 0.42).matrixTransform(e.getScreenCTM()); return "
        "[p.x, p.y] }"
    )
    page.mouse.click(*place)
    inspector = page.get_by_test_id("inspector")
    expect(inspector.get_by_role("heading", name="Bus W1")).to_be_visible()
    inspector.get_by_label("Gauge").fill("12ga")
    inspector.get_by_label("Gauge").press("Enter")
    expect(page.get_by_test_id("saved")).to_contain_text("change 2")
    expect(inspector.get_by_label("Gauge")).to_have_value("12 AWG")
    settled(page)
    after = volts(page)
    assert after > before + 0.3
    assert f"{after:.1f} V" in promised, "if you changed one thing had predicted it"

    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_test_id("saved")).to_contain_text("change 3")
    settled(page)
    assert volts(page) == before
    page.get_by_role("button", name="Redo").click()
    expect(page.get_by_test_id("saved")).to_contain_text("change 4")
    page.reload()
    settled(page)
    assert volts(page) == after
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_test_id("saved")).to_contain_text("change 5")


def test_looks_ink_the_same_track_anew(bench: Page) -> None:
    page = bench
    expect(page.get_by_test_id("rails-volts")).to_be_visible()
    colours = (
        page.get_by_test_id("rails-volts")
        .locator("path")
        .evaluate_all("ps => new Set(ps.map(p => p.getAttribute('stroke'))).size")
    )
    assert colours > 8
    page.get_by_role("radio", name="Coin test").click()
    expect(page.get_by_test_id("spot")).to_contain_text("into a short")
    expect(page.get_by_test_id("rails-coin")).to_be_visible()
    page.get_by_role("radio", name="Track").click()
    expect(page.get_by_test_id("spot")).to_have_count(0)
    page.keyboard.press("v")
    expect(page.get_by_test_id("spot")).to_contain_text("at the wheel")


def test_clicking_any_track_explains_that_point(bench: Page) -> None:
    page = bench
    for track, says in (("staging-1", "Staging 1"), ("shed-3", "no volts here")):
        at = page.evaluate(
            """async (id) => {
              const a = await (await fetch('/api/layouts/gannet-bay/answers')).json();
              const p = a.tracks[id].points, k = 2 * Math.floor(p.length / 4);
              const g = document.querySelector('.plan > g');
              const mid = p.length > 4 ? [p[k], p[k + 1]] : [(p[0] + p[2]) / 2, (p[1] + p[3]) / 2];
              const s = new DOMPoint(...mid).matrixTransform(g.getScreenCTM());
              return [s.x, s.y];
            }""",
            track,
        )
        page.mouse.click(*at)
        expect(page.get_by_label("Where the volts go")).to_contain_text(says)
    expect(page.get_by_label("Where the volts go")).to_contain_text("Shed road 3")


def test_the_story_with_the_keyboard_alone(bench: Page) -> None:
    page = bench
    before = volts(page)
    find(page, "bus w1")
    expect(page.get_by_test_id("inspector").get_by_role("heading", name="Bus W1")).to_be_visible()
    for _ in range(60):
        page.keyboard.press("Tab")
        if (
            page.evaluate("document.activeElement.closest('[data-testid=inspector]') && document.activeElement.tagName")
            == "INPUT"
        ):
            break
    page.keyboard.type("12 awg")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("saved")).to_contain_text("change 2")
    settled(page)
    assert volts(page) > before + 0.3
    page.locator("body").evaluate("() => document.activeElement.blur()")
    page.keyboard.press("Control+z")
    expect(page.get_by_test_id("saved")).to_contain_text("change 3")
    page.keyboard.press("Control+Shift+z")
    expect(page.get_by_test_id("saved")).to_contain_text("change 4")
    find(page, "worst point")
    expect(page.get_by_label("Where the volts go")).to_contain_text("main")
    page.locator("svg.plan").focus()
    told = page.get_by_test_id("point-facts").inner_text()
    for _ in range(8):
        page.keyboard.press("[")
    expect(page.get_by_test_id("point-facts")).not_to_have_text(told)
    find(page, "go to wire table")
    expect(page.get_by_role("heading", name="Wire table")).to_be_visible()


def test_a_finding_is_shown_previewed_mended_and_gone(bench: Page) -> None:
    page = bench
    card = page.locator("[data-finding^='circuit:']")
    title = card.get_by_role("heading").inner_text()
    card.get_by_role("button", name=re.compile("^Show")).click()
    expect(card.get_by_text("section's circuit", exact=True)).to_be_visible()
    card.get_by_role("button", name="Move to the reverser's output…").click()
    sheet = page.get_by_role("dialog")
    expect(sheet.get_by_text(title).last).to_be_visible(timeout=10_000)
    expect(sheet.get_by_text("Settled by it")).to_be_visible()
    sheet.get_by_role("button", name="Make this change").click()
    expect(card).to_have_count(0)
    page.get_by_role("button", name="Undo").click()
    expect(page.locator("[data-finding^='circuit:']")).to_have_count(1)


def test_a_finding_is_accepted_with_a_reason_that_is_kept(bench: Page) -> None:
    page = bench
    card = page.locator("[data-finding^='breaker:']")
    card.get_by_role("button", name=re.compile("^Show")).click()
    card.get_by_role("button", name="Accept…").click()
    sheet = page.get_by_role("dialog")
    sheet.get_by_role("button", name="Accept").click()
    expect(sheet.get_by_role("alert")).to_be_visible()
    sheet.get_by_label("Reason, for whoever comes next").fill("New breaker ordered for June.")
    sheet.get_by_role("button", name="Accept").click()
    expect(page.get_by_text("Accepted: New breaker ordered for June.")).to_be_visible()
    page.reload()
    settled(page)
    expect(page.get_by_text("Accepted: New breaker ordered for June.")).to_be_visible()


def test_the_wire_table_is_edited_in_place_and_downloaded(bench: Page) -> None:
    page = bench
    page.get_by_role("button", name=re.compile("^Wire ?,")).click()
    page.get_by_role("button", name="Wire table").click()
    row = page.locator("[data-row='run:W1']")
    expect(row).to_contain_text("16 AWG")
    expect(page.get_by_label("Wire to buy")).to_contain_text("16 AWG red")
    row.get_by_text("16 AWG").dblclick()
    page.get_by_label("Gauge of W1").fill("purple")
    page.keyboard.press("Enter")
    expect(row.get_by_role("alert")).to_contain_text("not a wire gauge")
    page.get_by_label("Gauge of W1").fill("2.5mm²")
    page.keyboard.press("Enter")
    expect(row).to_contain_text("2.5 mm²")
    measured = row.locator("td").nth(6)
    measured.focus()
    page.keyboard.press("Enter")
    page.keyboard.type("58' 6\"")
    page.keyboard.press("Enter")
    expect(measured).to_contain_text("58 ft tape")
    page.get_by_label("Filter the wire table").fill("24 AWG")
    expect(page.locator("tbody tr[data-row]")).to_have_count(1)
    page.get_by_label("Filter the wire table").fill("nothing like this")
    expect(page.get_by_text("No wire fits this filter.")).to_be_visible()
    with page.expect_download() as download:
        page.get_by_role("link", name="CSV").click()
    rows = list(csv.DictReader(download.value.path().read_text("utf-8-sig").splitlines()))
    assert rows[0]["Gauge"] == "2.5 mm²" and rows[0]["Measured by"] == "tape" and rows[0]["Measured (ft)"] == "58.50"


def test_units_switch_and_bad_input_changes_nothing(bench: Page) -> None:
    page = bench
    page.get_by_role("radio", name="m · mm²").click()
    expect(page.get_by_test_id("saved")).to_contain_text("change 2")
    find(page, "feeder F1")
    expect(page.get_by_placeholder(re.compile("mm drawn"))).to_be_visible()
    field = page.get_by_test_id("inspector").get_by_label("To terminal")
    field.fill("T999")
    field.press("Enter")
    expect(page.get_by_role("alert").filter(has_text="There is no terminal T999.")).to_be_visible()
    expect(page.get_by_test_id("saved")).to_contain_text("change 2")


def test_two_windows_on_one_layout_lose_nothing(bench: Page, browser: Browser, base_url: str) -> None:
    """One window changes a bus while the other, not knowing, changes a feeder: both changes stand."""
    page = bench
    other = browser.new_page()
    other.goto(base_url)
    settled(other)
    other.route("**/api/layouts", lambda r: r.abort())  # it must not look for news before it edits
    find(page, "bus e1")
    page.get_by_test_id("inspector").get_by_label("Gauge").fill("10 AWG")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("saved")).to_contain_text("change 2")
    find(other, "feeder F1")
    other.get_by_test_id("inspector").get_by_label("Gauge").fill("16 AWG")
    other.keyboard.press("Enter")
    expect(other.get_by_test_id("saved")).to_contain_text("change 3")
    find(other, "bus w1")
    expect(page.get_by_test_id("saved")).to_contain_text("change 3", timeout=10_000)
    page.get_by_test_id("inspector").get_by_label("Gauge").fill("8 AWG")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("saved")).to_contain_text("change 4")
    find(other, "bus e1")
    other.get_by_test_id("inspector").get_by_label("Gauge").fill("14 AWG")
    other.keyboard.press("Enter")
    expect(other.get_by_role("alert").filter(has_text="Somebody else changed the same thing")).to_be_visible()
    expect(other.get_by_test_id("inspector").get_by_label("Gauge")).to_have_value("8 AWG")
    other.close()


def test_quick_sums_answer_as_one_types(bench: Page) -> None:
    page = bench
    page.get_by_role("button", name="Quick sums").click()
    expect(page.get_by_test_id("run-answer")).to_contain_text("12 AWG")
    page.get_by_label("Length, one way").fill("10'")
    expect(page.get_by_test_id("run-answer")).to_contain_text("18 AWG")
    page.get_by_label("Length, one way").fill("ten feet or so")
    expect(page.get_by_role("alert")).to_be_visible()
    page.get_by_label("LEDs in series").fill("9")
    expect(page.get_by_text("the supply gives 12 V")).to_be_visible()


def test_brief_sets_house_rules_and_they_bite(bench: Page) -> None:
    page = bench
    page.get_by_role("button", name=re.compile("^Brief")).click()
    page.get_by_label("Largest drop at the wheel").fill("40 %")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("saved")).to_contain_text("change 2")
    expect(page.get_by_text("yours", exact=True)).to_be_visible()
    page.get_by_label("Coin test margin").fill("0.2")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert").filter(has_text="This must be 1.0 or more.")).to_be_visible()
    page.get_by_role("button", name=re.compile("^Wire ?,")).click()
    expect(page.locator("[data-finding^='drop:']")).to_have_count(0)


@pytest.mark.parametrize("width", [1024, 1920])
def test_it_does_not_break_at_other_widths(bench: Page, width: int) -> None:
    page = bench
    page.set_viewport_size({"width": width, "height": 800})
    for step in ("Brief", "Wire", "Wire table", "Quick sums"):
        page.get_by_role("button", name=re.compile(f"^{step} ?(,|$)")).first.click()
        assert page.evaluate("document.documentElement.scrollWidth") <= width
        expect(page.get_by_role("button", name="Redo")).to_be_in_viewport()


def test_an_empty_club_file_says_what_to_do(page: Page, base_url: str) -> None:
    page.route("**/api/layouts", lambda r: r.fulfill(json=[]) if r.request.method == "GET" else r.continue_())
    page.goto(base_url)
    expect(page.get_by_text("No layout in this club file yet")).to_be_visible()
    page.get_by_label("Layout file").set_input_files(
        {"name": "x.json", "mimeType": "application/json", "buffer": b'{"name": "x", "moons": 1}'}
    )
    expect(page.get_by_role("alert")).to_contain_text("no field called “moons”")
    page.get_by_role("button", name="Add the demo railroad").click()
    settled(page)


def test_what_is_typed_next_is_not_overwritten_by_the_answer_before(bench: Page, base_url: str) -> None:
    """Enter, and on at once in the same field: the answer to the first comes while the second is being typed."""
    page = bench
    page.goto(f"{base_url}/l/gannet-bay/wire?thing=run:W1")
    settled(page)
    gauge = page.get_by_test_id("inspector").get_by_label("Gauge")
    for typed in ("12 AWG", "14 AWG", "10 AWG", "12 AWG", "14 AWG"):
        gauge.fill(typed)
        page.wait_for_timeout(40)
        gauge.press("Enter")
        page.wait_for_timeout(40)
    expect(page.get_by_text(re.compile(r"change 6\b"))).to_be_visible()
    settled(page)
    expect(gauge).to_have_value("14 AWG")
    saved = page.request.get(f"{base_url}/api/layouts/gannet-bay").json()["document"]
    assert saved["runs"]["W1"]["gauge"] == "14 AWG"
    gauge.fill("8 AWG")
    gauge.press("Escape")
    expect(gauge).to_have_value("14 AWG")


def test_what_is_typed_is_worked_out_while_the_hand_is_on_its_way(bench: Page, base_url: str) -> None:
    page = bench
    page.goto(f"{base_url}/l/gannet-bay/wire?thing=run:W1")
    settled(page)
    foreseen: list[object] = []
    page.on("request", lambda r: foreseen.append(r.post_data_json["patch"]) if "/foresee" in r.url else None)
    inspector = page.get_by_test_id("inspector")
    length = inspector.get_by_label("Length by tape")
    with page.expect_response(lambda r: "/foresee" in r.url) as answered:
        length.fill("61 ft")
    assert answered.value.status == 204
    assert page.request.get(f"{base_url}/api/layouts/gannet-bay").json()["revision"] == 1, "typing saves nothing"
    length.press("Enter")
    expect(page.get_by_text(re.compile(r"change 2\b"))).to_be_visible()
    inspector.get_by_label("Label").fill("W1a")
    with page.expect_response(lambda r: "/api/read" in r.url):
        length.fill("a song")
    length.press("Enter")
    expect(inspector.get_by_role("alert")).to_be_visible()
    assert foreseen == [[{"op": "replace", "path": "/runs/W1/tape", "value": pytest.approx(18592.8)}]], (
        "a name lights no rail, and nonsense is not worked out"
    )
