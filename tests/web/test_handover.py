"""Notebook and hand-over in a real browser: written, found, compared, dated, packed and taken in again."""

from __future__ import annotations

import io
import re
from pathlib import Path

from PIL import Image
from playwright.sync_api import Page, expect

from tests.web.test_story import bench as bench


def at(page: Page, base_url: str, where: str) -> Page:
    page.goto(f"{base_url}/l/{where}")
    expect(page.get_by_test_id("next")).to_be_visible()
    return page


def picture(path: Path) -> Path:
    Image.new("RGB", (80, 50), (150, 90, 40)).save(path, "JPEG")
    return path


def test_a_trouble_with_a_photo_is_written_found_and_mended(bench: Page, base_url: str, tmp_path: Path) -> None:
    page = at(bench, base_url, "harbour-arm/book/notes")
    book = page.get_by_test_id("notebook")
    expect(book).to_contain_text("Nothing is written yet.")
    book.get_by_role("button", name="Write it down").click()
    expect(book.get_by_role("alert")).to_have_text("Write something, or add a photo.")
    book.get_by_label("What it is").select_option("trouble")
    book.get_by_label("About").select_option("board:front1")
    book.get_by_label("In words").fill("Pin 3 of 1A was loose")
    with page.expect_file_chooser() as chooser:
        book.get_by_role("button", name="Add a photo…").click()
    chooser.value.set_files(picture(tmp_path / "pin.jpg"))
    expect(book.get_by_alt_text("Chosen for this note")).to_be_visible()
    book.get_by_role("button", name="Write it down").click()
    note = book.locator("[data-note=trouble]")
    expect(note).to_contain_text("Board 1 Town")
    expect(note.get_by_role("img")).to_be_visible()
    # It stands in Read me first, and a search finds it.
    page.get_by_role("searchbox").fill("loose pin")
    page.keyboard.press("Enter")
    expect(book.get_by_role("region", name="Found")).to_contain_text("Pin 3 of 1A was loose")
    page.reload()
    expect(page.get_by_test_id("notebook").locator("[data-note=trouble]")).to_contain_text("Pin 3 of 1A was loose")
    note.get_by_role("button", name="Change").click()
    note.get_by_label("The note").fill("Pin 3 of 1A was loose; crimped anew")
    note.get_by_role("button", name="Keep it so").click()
    expect(note).to_contain_text("crimped anew")
    note.get_by_role("button", name="It is mended: take it back").click()
    expect(page.get_by_test_id("notebook")).to_contain_text("Nothing is written yet.")


def test_what_is_half_written_outlives_a_reload_and_anothers_note(bench: Page, base_url: str) -> None:
    page = at(bench, base_url, "harbour-arm/book/notes")
    book = page.get_by_test_id("notebook")
    book.get_by_label("In words").fill("The booster hums when")
    page.reload()
    expect(book.get_by_label("In words")).to_have_value("The booster hums when")
    other = {"id": "from-elsewhere", "text": "Written at another bench"}
    assert page.request.post(f"{base_url}/api/layouts/harbour-arm/notes", data=other).ok
    expect(book).to_contain_text("Written at another bench")
    expect(book.get_by_label("In words")).to_have_value("The booster hums when")
    book.get_by_role("button", name="Write it down").press("Enter")
    expect(book.locator("[data-note=note]")).to_have_count(2)
    expect(book.get_by_label("In words")).to_have_value("")


def test_what_is_no_photo_says_so(bench: Page, base_url: str, tmp_path: Path) -> None:
    page = at(bench, base_url, "harbour-arm/book/notes")
    wrong = tmp_path / "plan.jpg"
    wrong.write_bytes(b"not a picture")
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name="Add a photo…").click()
    chooser.value.set_files(wrong)
    expect(page.get_by_role("alert")).to_have_text("A photo is JPEG, PNG or WebP; this is none of them.")


def test_a_list_that_comes_back_is_compared(bench: Page, base_url: str, tmp_path: Path) -> None:
    page = at(bench, base_url, "harbour-arm/book/hand")
    with page.expect_download() as waits:
        page.get_by_role("link", name="names.csv").click()
    listed = tmp_path / "back.csv"
    text = waits.value.path().read_text("utf-8-sig")
    for back, told in ((text, "all as it is here"), (text.replace("turnout,T3,3,", "turnout,T3,33,"), "1 to look at")):
        listed.write_text(back, "utf-8")
        with page.expect_file_chooser() as chooser:
            page.get_by_role("button", name="Compare a list…").click()
        chooser.value.set_files(listed)
        expect(page.get_by_test_id("names-compared")).to_contain_text(told)
    expect(page.get_by_test_id("names-compared")).to_contain_text("T3: number is 33 in the list and 3 here.")


def test_dates_by_keyboard_and_nonsense_beside_its_field(bench: Page, base_url: str) -> None:
    page = at(bench, base_url, "harbour-arm/book/hand")
    calendar = page.get_by_role("region", name="Calendar")
    calendar.get_by_role("button", name="One more date").press("Enter")
    calendar.get_by_label("Name").fill("Spring fair")
    page.keyboard.press("Enter")
    calendar.get_by_label("What").select_option("show")
    start = calendar.get_by_label("From")
    start.fill("tea time")
    page.keyboard.press("Enter")
    expect(calendar.get_by_role("alert")).to_contain_text("A time of day such as 19:30 is wanted")
    start.fill("10:00")
    page.keyboard.press("Enter")
    expect(start).to_have_value("10:00")
    expect(page.get_by_role("banner")).to_contain_text("change 5")
    with page.expect_download() as waits:
        calendar.get_by_role("link", name="calendar.ics").click()
    text = waits.value.path().read_text("utf-8")
    assert "SUMMARY:Show: Spring fair" in text and "T100000" in text
    page.keyboard.press("Control+z")
    expect(start).to_have_value("")


def test_the_archive_goes_out_and_comes_in_whole(bench: Page, base_url: str, tmp_path: Path) -> None:
    page = at(bench, base_url, "harbour-arm/book/notes")
    page.get_by_label("In words").fill("Sockets face the booster")
    page.get_by_role("button", name="Write it down").click()
    expect(page.locator("[data-note=note]")).to_be_visible()
    page.get_by_role("radio", name="Hand over").click()
    with page.expect_download(timeout=60_000) as waits:
        page.get_by_role("button", name="Archive", exact=True).click()
    path = tmp_path / "arm.zip"
    path.write_bytes(waits.value.path().read_bytes())
    page.goto(f"{base_url}/layouts")
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name=re.compile("Open a layout file")).click()
    chooser.value.set_files(path)
    page.wait_for_url(re.compile("/l/harbour-arm-2"))
    page.goto(f"{base_url}/l/harbour-arm-2/book/notes")
    expect(page.locator("[data-note=note]")).to_contain_text("Sockets face the booster")
    spoiled = tmp_path / "bad.zip"
    spoiled.write_bytes(io.BytesIO(path.read_bytes()).getvalue()[:-400])
    page.goto(f"{base_url}/layouts")
    with page.expect_file_chooser() as chooser:
        page.get_by_role("button", name=re.compile("Open a layout file")).click()
    chooser.value.set_files(spoiled)
    expect(page.get_by_role("alert")).to_contain_text("This is no archive")


def test_read_me_first_is_a_page_of_its_own(bench: Page, base_url: str) -> None:
    page = at(bench, base_url, "harbour-arm/book/hand")
    with page.expect_popup() as waits:
        page.get_by_role("region", name="Read me first").get_by_role("link", name="Open it").click()
    read = waits.value
    expect(read.get_by_role("heading", name="Read me first")).to_be_visible()
    expect(read.get_by_text("Switch it on, in this order")).to_be_visible()
    expect(read.get_by_text("Breaker Harbour arm").first).to_be_visible()
