"""Steps Detect and Signal in a real browser: a newcomer blocks and signals the demo, drives a train round it, finds the
wires."""

from __future__ import annotations

import io
import re

import pypdf
from playwright.sync_api import Page, expect

from tests.web.test_drawing import Board
from tests.web.test_story import bench as bench
from tests.web.test_story import find


def accept(page: Page) -> None:
    preview = page.get_by_role("dialog")
    make = preview.get_by_role("button", name="Make this change")
    expect(make).to_be_enabled(timeout=30_000)
    make.click()
    expect(preview).to_have_count(0, timeout=30_000)


def settled(page: Page) -> None:
    expect(page.get_by_test_id("plan")).to_have_attribute("aria-busy", "false", timeout=30_000)


def test_a_newcomer_blocks_and_signals_the_main_and_drives_a_train_round_it(bench: Page) -> None:
    page = bench
    find(page, "go to detect")
    expect(page.get_by_text("No section is detected yet")).to_be_visible()
    panel = page.get_by_role("region", name="Block it")
    panel.get_by_label("First address").fill("zero")
    panel.get_by_label("First address").press("Enter")
    expect(panel.get_by_role("alert")).to_contain_text("A whole number from 1 to 9999.")
    panel.get_by_label("First address").fill("1")
    panel.get_by_label("First address").press("Enter")
    panel.get_by_role("button", name="Block it", exact=True).last.click()
    proposal = page.get_by_test_id("blocking")
    expect(proposal).to_contain_text("detection sections", timeout=30_000)
    proposal.get_by_text("Every section, and why").click()
    expect(proposal).to_contain_text("a junction is a section of its own")
    proposal.get_by_role("button", name="Make it…").click()
    accept(page)
    rows = page.get_by_test_id("detection-sections")
    expect(rows.get_by_role("button", name="M1", exact=True)).to_be_visible(timeout=30_000)
    expect(page.locator("[data-chip='M1']")).to_contain_text(re.compile(r"M1 · \d+"))
    page.get_by_role("radio", name="Boards and addresses").click()
    expect(page.get_by_test_id("detector-boards")).to_contain_text("1–8")

    find(page, "go to signal")
    there = page.get_by_role("region", name="Signal it")
    there.get_by_label("only the main").check()
    there.get_by_role("button", name="Signal it", exact=True).last.click()
    proposal = page.get_by_test_id("signalling")
    expect(proposal).to_contain_text("signals", timeout=30_000)
    expect(proposal).to_contain_text(re.compile("[0-9]+ reports and [0-9]+ buttons of the panel on inputs"))
    assert page.get_by_test_id("ghost-heads").locator("g").count() > 10
    proposal.get_by_role("button", name="Make it…").click()
    accept(page)
    aspects = page.get_by_test_id("aspects")
    expect(aspects).to_contain_text("approach while S2 is at stop or restricting, else clear", timeout=30_000)

    # A train on the down main: the section under it lights, the signal behind it goes to stop, the one before
    # that to approach.
    page.get_by_role("button", name="Place it").click()
    board = Board(page)
    board.click(310, 668)
    trains = page.get_by_test_id("placed-trains")
    expect(trains).to_contain_text("Test engine · Down main, west")
    expect(page.get_by_test_id("moment")).to_contain_text("1 section lit")
    page.get_by_label("obeys signals").uncheck()
    for _ in range(60):
        page.get_by_role("button", name="A step").click()
        if "2 sections lit" in (page.get_by_test_id("moment").text_content() or ""):
            break
    expect(page.get_by_test_id("moment")).to_contain_text("2 sections lit")
    page.get_by_role("button", name="Drive", exact=True).click()
    expect(page.get_by_test_id("moment")).to_contain_text("1 section lit")
    page.get_by_role("button", name="Halt").click()
    now = aspects.locator("tr").filter(has=page.get_by_role("button", name="S9", exact=True))
    expect(now).to_contain_text("stop")
    now.get_by_role("button", name="S9").click()
    why = page.get_by_test_id("why")
    expect(why).to_contain_text("M10 is occupied.")

    # Each wire of it is in the book.
    find(page, "go to book")
    with page.expect_download(timeout=60_000) as waits:
        page.get_by_role("button", name="PDF").click()
    read = pypdf.PdfReader(io.BytesIO(waits.value.path().read_bytes()))
    titles = [o.title for o in read.outline]
    assert {
        "Detection: boards, channels, addresses",
        "Signals and what they show",
        "Interlocking",
        "Drivers: outputs and lamps",
        "Control cables",
        "The panel",
    } <= set(titles)
    words = " ".join(p.extract_text() for p in read.pages)
    assert "S9" in words and "M10 sensed" in words
    find(page, "go to wire table")
    page.get_by_label("Filter").fill("S9")
    row = page.locator("[data-row='control:S9']")
    expect(row).to_contain_text("signal S9")


def signalled(page: Page, base_url: str, step: str) -> None:
    page.goto(f"{base_url}/?layout=gannet-bay-signalled#{step}")
    expect(page.get_by_role("banner").get_by_text("Gannet Bay, signalled")).to_be_visible()
    settled(page)


def test_turnouts_thrown_are_answered_and_a_head_says_why(bench: Page, base_url: str) -> None:
    page = bench
    signalled(page, base_url, "signal")
    find(page, "signal S10")
    why = page.get_by_test_id("why")
    expect(why).to_contain_text("T1 lies through")
    find(page, "t1 turnout")
    inspector = page.get_by_test_id("inspector")
    inspector.get_by_label("Is set").select_option("diverging")
    find(page, "signal S10")
    expect(why).to_contain_text("T3 lies through: against this way", timeout=15_000)
    find(page, "t3 turnout")
    inspector.get_by_label("Is set").select_option("diverging")
    find(page, "signal S10")
    expect(why).to_contain_text("Diverging")
    expect(why).to_contain_text("The way leaves the straight at a turnout.")
    expect(page.get_by_test_id("way")).to_be_attached()
    inspector.get_by_role("button", name="Face it the other way").click()
    expect(inspector).to_contain_text("for trains towards JD5")
    page.get_by_role("button", name="Undo").click()
    expect(inspector).to_contain_text("for trains towards T1")


def test_a_train_is_placed_and_driven_with_the_keyboard_alone(bench: Page, base_url: str) -> None:
    page = bench
    signalled(page, base_url, "signal")
    find(page, "M9 section")
    there = page.get_by_role("button", name=re.compile("^Place it where you last looked, on Down main"))
    there.focus()
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("moment")).to_contain_text("1 section lit")
    expect(
        page.get_by_test_id("aspects").locator("tr").filter(has=page.get_by_role("button", name="S8", exact=True))
    ).to_contain_text("stop")
    page.get_by_role("button", name="A step").focus()
    page.keyboard.press("Enter")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("placed-trains")).to_contain_text("Test engine · Down main")


def test_tables_outputs_and_panel(bench: Page, base_url: str) -> None:
    page = bench
    signalled(page, base_url, "signal")
    page.get_by_role("radio", name="Interlocking").click()
    tables = page.get_by_test_id("interlocking")
    expect(tables.get_by_role("region", name="Junction T1 · T3")).to_contain_text(
        "No two conflicting routes clear together", timeout=30_000
    )
    page.get_by_role("radio", name="Drivers and lamps").click()
    drivers = page.get_by_test_id("drivers")
    expect(drivers).to_contain_text("Turnout T1, closed when it lies diverging")
    expect(drivers).to_contain_text("Turnout T1, button on the panel")
    page.get_by_role("radio", name="Panel").click()
    panel = page.get_by_test_id("panel")
    expect(panel.get_by_role("img", name=re.compile("Panel of the railroad, 600 by"))).to_be_visible()
    panel.get_by_label("Panel is wide").fill("90")
    panel.get_by_label("Panel is wide").press("Enter")
    expect(panel.get_by_role("alert")).to_contain_text("Between 200 and 2000 mm.")
    panel.get_by_label("Panel is wide").fill("80 cm")
    panel.get_by_label("Panel is wide").press("Enter")
    expect(panel.get_by_role("img", name=re.compile("Panel of the railroad, 800 by"))).to_be_visible()
    with page.expect_download() as waits:
        panel.get_by_role("link", name="one sheet").click()
    assert waits.value.suggested_filename == "gannet-bay-signalled-panel-1.pdf"


def test_addresses_are_renumbered_after_a_look(bench: Page, base_url: str) -> None:
    page = bench
    signalled(page, base_url, "detect")
    page.get_by_role("radio", name="Boards and addresses").click()
    boards = page.get_by_test_id("detector-boards")
    boards.get_by_label("Addresses from").fill("101")
    boards.get_by_role("button", name="Renumber without a hole…").click()
    expect(page.get_by_role("dialog")).to_contain_text("Detector 1 from 101")
    accept(page)
    expect(boards).to_contain_text("101–108")
    page.get_by_role("radio", name="Resistor axles").click()
    axles = page.get_by_test_id("axles")
    expect(axles).to_contain_text("1.44 mA")
    axles.get_by_label("Resistor on an axle").fill("4.7 kΩ")
    axles.get_by_label("Resistor on an axle").press("Enter")
    expect(axles).to_contain_text("3.06 mA")
    axles.get_by_label("Cars in the train").fill("many")
    axles.get_by_label("Cars in the train").press("Enter")
    expect(axles.get_by_role("alert")).to_contain_text("A whole number from 1 to 200.")


def test_signals_and_channels_are_placed_by_hand(bench: Page, base_url: str) -> None:
    page = bench
    signalled(page, base_url, "track")
    board = Board(page)
    page.keyboard.press("i")
    expect(page.get_by_test_id("hint")).to_contain_text("just before the gap")
    board.click(9700, 2400)
    expect(page.get_by_test_id("hint")).to_contain_text("the way the trains run")
    board.click(9700, 2700)
    inspector = page.get_by_test_id("inspector")
    expect(inspector).to_contain_text("Signal S48")
    expect(inspector).to_contain_text("towards B3")
    page.keyboard.press("Escape")
    find(page, "detector board from 1")
    expect(inspector.get_by_label("First address")).to_have_value("1")
    inspector.get_by_label("First address").fill("2")
    page.keyboard.press("Enter")
    find(page, "go to detect")
    findings = page.get_by_test_id("findings")
    expect(findings).to_contain_text("both answer to address", timeout=20_000)


def test_the_phone_tells_one_wire_and_many(page: Page, base_url: str) -> None:
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(f"{base_url}/under?layout=gannet-bay-signalled")
    page.get_by_role("button", name=re.compile("^Board 3 ")).click()
    expect(page.get_by_text(re.compile("Cable")).first).to_be_visible()
