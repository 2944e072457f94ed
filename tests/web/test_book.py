"""Step Book and the phone view in a real browser: reading, buying, printing labels; building a board, also without a
connection."""

from __future__ import annotations

import io
import re
from collections.abc import Iterator

import openpyxl
import pypdf
import pytest
from playwright.sync_api import Browser, Download, Page, Route, expect

from tests.web.test_story import bench, find  # noqa: F401


def saved(download: Download) -> bytes:
    return download.path().read_bytes()


@pytest.fixture
def book(bench: Page) -> Page:  # noqa: F811
    find(bench, "go to book")
    expect(bench.get_by_role("heading", name="The wire book")).to_be_visible()
    expect(bench.get_by_text("161 pairs of wire")).to_be_visible()
    return bench


def test_the_book_is_read_and_saved(book: Page) -> None:
    page = book
    pages = page.frame_locator("#book-pages")
    expect(pages.get_by_role("heading", name="Gannet Bay & Uplands")).to_be_visible()
    page.get_by_role("button", name="Cut list", exact=True).click()
    expect(pages.get_by_role("heading", name="Cut list")).to_be_in_viewport()
    page.get_by_role("checkbox", name="Print Colour code").check()
    expect(page.get_by_text("1 chapter ticked")).to_be_visible()
    page.get_by_role("radio", name="A4").click()
    with page.expect_download() as waits:
        page.get_by_role("button", name="PDF").click()
    read = pypdf.PdfReader(io.BytesIO(saved(waits.value)))
    assert [o.title for o in read.outline] == ["Colour code"]
    page.get_by_role("button", name="Take all").click()
    with page.expect_download() as waits:
        page.get_by_role("button", name="Workbook").click()
    assert waits.value.suggested_filename == "gannet-bay-book-1.xlsx"
    assert "Wire schedule" in openpyxl.load_workbook(io.BytesIO(saved(waits.value))).sheetnames


def test_prices_are_typed_and_added_up(book: Page) -> None:
    page = book
    page.get_by_role("radio", name="To buy").click()
    field = page.get_by_label("Price of one Two-pole plug and socket")
    field.fill("two")
    field.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("A price, such as 3.50.")
    field.fill("2.50")
    field.press("Enter")
    expect(page.get_by_test_id("to-buy")).to_contain_text("In all 7.50")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_test_id("to-buy")).to_contain_text("In all —")


def test_labels_of_one_board_from_a_sheet_begun(book: Page) -> None:
    page = book
    page.get_by_role("radio", name="Labels").click()
    page.get_by_label("Board", exact=True).select_option(label="Board 6 bridge")
    used = page.get_by_label("Labels used already on the first sheet")
    used.fill("99")
    expect(page.get_by_role("alert")).to_contain_text("from 0 to 64")
    expect(page.get_by_role("button", name="Sheets (PDF)")).to_be_disabled()
    used.fill("60")
    with page.expect_download() as waits:
        page.get_by_role("button", name="Sheets (PDF)").click()
    read = pypdf.PdfReader(io.BytesIO(saved(waits.value)))
    assert len(read.pages) == 2 and "F36" in read.pages[1].extract_text()
    with page.expect_download() as waits:
        page.get_by_role("button", name="For a label printer (CSV)").click()
    assert saved(waits.value).count(b"\n") == 17


@pytest.fixture
def phone(browser: Browser, base_url: str) -> Iterator[Page]:
    context = browser.new_context(
        viewport={"width": 390, "height": 844}, has_touch=True, is_mobile=True, locale="en-GB"
    )
    page = context.new_page()
    page.set_default_timeout(10_000)
    wrong: list[str] = []
    page.on("pageerror", lambda e: wrong.append(str(e)))
    page.goto(f"{base_url}/under?layout=gannet-bay")
    page.get_by_role("button", name="Read and minded").tap()
    yield page
    assert wrong == []
    context.close()


def headline(page: Page, words: str) -> None:
    expect(page.get_by_role("heading", level=1)).to_have_text(words)


def test_a_helper_builds_the_bridge_from_the_phone_alone(phone: Page, base_url: str) -> None:
    page = phone
    page.get_by_label("Who is under here?").fill("JB")
    page.get_by_role("button", name="Board 6 bridge 0 of").tap()
    page.get_by_role("button", name="Start with G6").tap()
    page.get_by_role("button", name="Cut and metered").tap()
    headline(page, "G8")
    page.get_by_role("button", name="Cut and metered").tap()
    headline(page, "A1.4")
    page.get_by_role("button", name="Wired only").tap()
    headline(page, "E1.12")
    page.get_by_role("button", name="Trouble", exact=True).tap()
    page.get_by_role("button", name="Too short").tap()
    headline(page, "F33")
    assert page.evaluate("document.documentElement.scrollWidth") <= 390, "nothing runs off the side"
    for big in ("Trouble", "Wired only", "Wired and tested"):
        box = page.get_by_role("button", name=big, exact=True).bounding_box()
        assert box and box["height"] >= 60 and box["y"] + box["height"] <= 844, "big, and within reach of a thumb"
    page.get_by_label("Meter read").fill("0.5 Ω")
    page.get_by_role("button", name="Wired and tested").tap()
    page.get_by_role("button", name="Wired and tested").tap()
    for check in ("Gaps", "Rails", "Plugs", "Volts", "Coin test"):
        headline(page, check)
        page.get_by_role("button", name="It holds").tap()
    headline(page, "A1.4")  # wired, but not tested yet
    page.get_by_role("button", name="Wired and tested").tap()
    headline(page, "Board 6 bridge")
    expect(page.get_by_text("1 of 11 to do")).to_be_visible()
    page.get_by_role("button", name="E1.12").tap()
    expect(page.get_by_text(re.compile("Trouble, JB"))).to_be_visible()
    page.reload()
    headline(page, "E1.12")
    page.get_by_role("button", name="Take it back").tap()
    expect(page.get_by_text("Too short")).to_have_count(0)
    page.get_by_role("button", name="All", exact=True).tap()
    page.get_by_role("button", name="F33").tap()
    expect(page.get_by_text(re.compile("JB.*read 0.5 Ω"))).to_be_visible()


def test_what_is_marked_without_a_connection_is_sent_when_it_is_back(phone: Page, base_url: str) -> None:
    page = phone
    page.get_by_role("button", name="Board 6 bridge 0 of").tap()
    page.get_by_role("button", name="F33").tap()
    page.route("**/api/**", lambda route: route.abort())
    page.get_by_role("button", name="Wired and tested").tap()
    page.get_by_role("button", name="Wired and tested").tap()
    expect(page.get_by_text("2 entries wait on this phone")).to_be_visible()
    page.reload()
    expect(page.get_by_text("2 entries wait on this phone")).to_be_visible()
    page.get_by_role("button", name="All", exact=True).tap()
    expect(page.get_by_text("9 of 11 to do")).to_be_visible()
    assert page.request.get(f"{base_url}/api/layouts/gannet-bay/work").json() == []
    page.unroute("**/api/**")
    expect(page.get_by_text(re.compile("entries wait"))).to_have_count(0, timeout=15_000)
    sent = page.request.get(f"{base_url}/api/layouts/gannet-bay/work").json()
    assert sorted(e["task"] for e in sent) == ["feeder:F33", "feeder:F36"]


def test_what_is_marked_while_the_last_goes_out_follows_it_at_once(phone: Page, base_url: str) -> None:
    """No clock runs here: a mark that waited for the page's next look would never leave."""
    page = phone
    page.add_init_script("window.setInterval = () => 0")
    page.reload()
    page.get_by_role("button", name="Board 6 bridge 0 of").tap()
    page.get_by_role("button", name="F33").tap()
    held: list[Route] = []
    page.route("**/work", lambda route: route.continue_() if held else held.append(route))
    page.get_by_role("button", name="Wired and tested").tap()
    headline(page, "F36")
    page.get_by_role("button", name="Wired and tested").tap()
    expect(page.get_by_text("2 entries wait on this phone")).to_be_visible()
    held[0].continue_()
    expect(page.get_by_text(re.compile("entr(y|ies) waits?"))).to_have_count(0)
    sent = page.request.get(f"{base_url}/api/layouts/gannet-bay/work").json()
    assert sorted(e["task"] for e in sent) == ["feeder:F33", "feeder:F36"]


def test_the_lead_sees_what_helpers_did(book: Page, base_url: str) -> None:
    page = book
    entry = {
        "id": "abcdefgh",
        "task": "feeder:F33",
        "state": "trouble",
        "note": "Wrong rail",
        "who": "JB",
        "done": "2026-03-24T19:40:00Z",
    }
    assert page.request.post(f"{base_url}/api/layouts/gannet-bay/work", data={"entries": [entry]}).ok
    page.get_by_role("radio", name="Work done").click()
    expect(page.get_by_test_id("work")).to_contain_text("F33 on Board 6 bridge. Wrong rail Trouble, JB")


def test_the_work_from_one_change_to_the_next(book: Page, base_url: str) -> None:
    page = book
    page.request.patch(
        f"{base_url}/api/layouts/gannet-bay",
        headers={"If-Match": '"1"'},
        data={
            "summary": "Feeder F33 heavier",
            "patch": [{"op": "replace", "path": "/feeders/F33/gauge", "value": "16 AWG"}],
        },
    )
    page.evaluate("window.dispatchEvent(new Event('focus'))")
    expect(page.get_by_test_id("saved")).to_contain_text("change 2")
    page.get_by_role("radio", name="Change orders").click()
    hours = page.get_by_label("Hours an evening")
    hours.fill("0")
    expect(page.get_by_role("alert")).to_contain_text("Hours from 0.5 to 24.")
    hours.fill("2")
    page.get_by_role("button", name="Order the work").click()
    orders = page.get_by_test_id("change-orders")
    expect(orders).to_contain_text("1 job, 1 evening")
    expect(orders).to_contain_text("Replace feeder F33: 16 AWG in orange and black")
    with page.expect_download() as waits:
        orders.get_by_role("button", name="PDF").click()
    assert waits.value.suggested_filename == "gannet-bay-change-order-1-to-2.pdf"
    page.get_by_label("Wired by change", exact=True).select_option("2")
    page.get_by_role("button", name="Order the work").click()
    expect(orders).to_contain_text("Nothing to do: both are wired alike")


def test_a_card_says_how_it_is_done(page: Page, base_url: str) -> None:
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(f"{base_url}/under?layout=harbour-arm&board=back2")
    page.get_by_role("button", name=re.compile("^Start with G")).click()
    page.get_by_text("How it is done").click()
    page.get_by_role("button", name="Cut, fill and shape a gap").click()
    card = page.get_by_test_id("craft")
    expect(card.get_by_role("img", name="A cut rail with a filler glued in")).to_be_visible()
    expect(card).to_contain_text("Eye protection with cutting discs")
    card.get_by_role("button", name="Back to the task").click()
    expect(card).to_have_count(0)
    # A device is tried before it is finished.
    page.goto(f"{base_url}/under?layout=harbour-arm&board=back2&task=device:K1")
    expect(page.get_by_role("button", name="Tried, not finished")).to_be_visible()
    page.get_by_role("button", name="Tried, not finished").click()
    page.goto(f"{base_url}/under?layout=harbour-arm&board=back2&task=device:K1")
    expect(page.get_by_text(re.compile("^Tried, not finished,"))).to_be_visible()
