"""One sitting: a railroad with track and districts only is laid, sized, proved and printed in the browser."""

from __future__ import annotations

import io

import pypdf
from playwright.sync_api import Page, expect

from tests.web.test_story import bench as bench
from tests.web.test_story import find


def accept(page: Page) -> None:
    preview = page.get_by_role("dialog")
    make = preview.get_by_role("button", name="Make this change")
    expect(make).to_be_enabled(timeout=30_000)
    make.click()
    expect(preview).to_have_count(0, timeout=30_000)


def test_from_bare_track_to_the_printed_book(bench: Page, base_url: str) -> None:
    page = bench
    page.goto(f"{base_url}/?layout=gannet-bay-unwired#wire")
    expect(page.get_by_role("banner").get_by_text("Gannet Bay, unwired")).to_be_visible()
    find(page, "go to book")
    expect(page.get_by_text("No wire is laid yet")).to_be_visible()
    find(page, "go to wire")
    page.get_by_role("radio", name="Lay it").click()
    lay = page.get_by_test_id("lay")
    lay.get_by_label("Buses lie").select_option("along the edges")
    expect(lay).to_contain_text("Within reach from the aisle")
    lay.get_by_label("Buses lie").select_option("under the track")
    lay.get_by_role("button", name="Lay it", exact=True).click()
    accept(page)
    page.get_by_role("radio", name="Size it").click()
    size = page.get_by_test_id("size")
    size.get_by_label("Feeders too").check()
    size.get_by_role("button", name="Size it", exact=True).click()
    expect(size.get_by_test_id("feeder-sizes")).to_contain_text("held there:", timeout=120_000)
    size.get_by_role("button", name="Make it…").click()
    accept(page)
    findings = page.get_by_test_id("findings")
    expect(findings).not_to_have_attribute("aria-busy", "true")
    for never in ("piece without feeder", "fights the reverser", "without a plug", "pairs of wire; a", "goes through"):
        expect(findings).not_to_contain_text(never)
    page.get_by_role("radio", name="Waveform").click()
    expect(page.get_by_test_id("verdict")).to_be_visible()
    find(page, "go to book")
    expect(page.frame_locator("#book-pages").get_by_role("heading", name="Board 6 bridge", exact=True)).to_be_attached()
    with page.expect_download(timeout=60_000) as waits:
        page.get_by_role("button", name="PDF").click()
    read = pypdf.PdfReader(io.BytesIO(waits.value.path().read_bytes()))
    assert len(read.pages) > 30 and "Gannet Bay, unwired · change 3" in read.pages[-1].extract_text()
    assert "Board 6 bridge" in [o.title for o in read.outline]
