"""The club file and its helpers on the page, and a phone whose work never sticks."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect

from jolly_copper.demo import DEMOS
from jolly_copper.serving import own_address
from jolly_copper.store import Store
from tools.served import Served

HELPER = "a helper at hand"


def open_club(page: Page, base_url: str) -> None:
    page.goto(base_url)
    expect(page.get_by_test_id("saved")).to_be_visible()
    page.get_by_role("button", name="Club file and helpers").click()
    expect(page.get_by_role("dialog", name="The club")).to_be_visible()


def test_a_copy_is_kept_checked_and_put_back(page: Page, base_url: str) -> None:
    open_club(page, base_url)
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_text("None yet")).to_be_visible()
    dialog.get_by_role("button", name="Keep a copy here now").click()
    expect(dialog.get_by_text(re.compile(r"Kept as club-backup-\d{8}-\d{6}\.sqlite3"))).to_be_visible()
    dialog.get_by_role("button", name="Is it sound?").click()
    expect(
        dialog.get_by_text(f"{len(DEMOS)} layouts with {len(DEMOS)} changes read, and all of it is sound.")
    ).to_be_visible()
    page.keyboard.press("Escape")
    expect(dialog).to_have_count(0)

    headers = {"If-Match": "1", "Origin": base_url}
    patch = [{"op": "replace", "path": "/name", "value": "Spoiled"}]
    got = page.request.patch(
        f"{base_url}/api/layouts/gannet-bay", data={"summary": "Spoil", "patch": patch}, headers=headers
    )
    assert got.ok
    page.get_by_role("button", name="Club file and helpers").click()
    dialog.get_by_role("button", name="Put back…").click()
    expect(dialog.get_by_text("what is there now is kept as a copy first")).to_be_visible()
    dialog.get_by_role("button", name="Really put it back").click()
    expect(dialog.get_by_text(re.compile("is the club file now. What was there before is kept as"))).to_be_visible()
    assert page.request.get(f"{base_url}/api/layouts/gannet-bay").json()["document"]["name"] != "Spoiled"
    dialog.get_by_role("button", name="Open it").click()
    expect(page.get_by_text("Gannet Bay & Uplands").first).to_be_visible()


def test_a_copy_is_downloaded_and_another_file_is_refused_in_words(page: Page, base_url: str, tmp_path: Path) -> None:
    open_club(page, base_url)
    with page.expect_download() as download:
        page.get_by_role("link", name="Download a copy").click()
    download.value.save_as(tmp_path / "mine.sqlite3")
    copied = Store(tmp_path / "mine.sqlite3")
    assert len(copied.layouts()) == len(DEMOS)
    copied.close()
    wrong = tmp_path / "wrong.sqlite3"
    wrong.write_bytes(b"my recipes")
    page.get_by_label("Copy of a club file").set_input_files(wrong)
    expect(page.get_by_text(re.compile("It is not put back. This is not a club file"))).to_be_visible()
    page.get_by_label("Copy of a club file").set_input_files(tmp_path / "mine.sqlite3")
    expect(page.get_by_text(re.compile("The file you sent is the club file now"))).to_be_visible()


def test_the_club_is_reached_and_left_by_keyboard(page: Page, base_url: str) -> None:
    page.goto(base_url)
    expect(page.get_by_test_id("saved")).to_be_visible()
    page.keyboard.press("Control+k")
    page.keyboard.type("helpers")
    page.keyboard.press("Enter")
    expect(page.get_by_text("The program is open to this machine alone")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)


def test_the_keyboard_keeps_its_place_in_the_dialog_and_after_it(page: Page, base_url: str) -> None:
    page.goto(base_url)
    expect(page.get_by_test_id("saved")).to_be_visible()
    box = page.get_by_role("button", name="Club file and helpers")
    box.focus()
    page.keyboard.press("Enter")
    keep = page.get_by_role("button", name="Keep a copy here now")
    expect(keep).to_be_visible()
    keep.focus()
    page.keyboard.press("Enter")
    expect(page.get_by_text(re.compile("Kept as"))).to_be_visible()
    expect(keep).to_be_focused()
    page.keyboard.press("Tab")
    page.keyboard.press("Enter")
    expect(page.get_by_text("all of it is sound")).to_be_visible()
    expect(page.get_by_role("button", name="Is it sound?")).to_be_focused()
    page.keyboard.press("Escape")
    expect(box).to_be_focused()


@pytest.fixture(scope="module")
def club(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Served]:
    phrases = ("--lead-phrase", "the lead of the line", "--helper-phrase", HELPER)
    with Served(tmp_path_factory.mktemp("shared") / "club.sqlite3", "--share", *phrases, command="demo") as program:
        yield program


@pytest.fixture
def phone(browser: Browser) -> Iterator[Page]:
    context = browser.new_context(
        viewport={"width": 390, "height": 844}, has_touch=True, is_mobile=True, locale="en-GB", reduced_motion="reduce"
    )
    yield context.new_page()
    context.close()


def test_a_helper_comes_in_by_the_address_and_is_sent_out_again(page: Page, phone: Page, club: Served) -> None:
    open_club(page, club.url)
    page.get_by_role("radio", name="Helpers").click()
    address = f"http://{own_address()}:{club.port}/under"
    expect(page.get_by_text(address)).to_be_visible()
    expect(page.get_by_role("img", name="The address, for a phone’s camera")).to_be_visible()
    expect(page.get_by_text(HELPER)).to_be_visible()

    phone.goto(address)
    come = phone.get_by_role("button", name="Come in")
    expect(come).to_be_disabled()
    phone.get_by_label("Your name").fill("Wren")
    phone.get_by_label("The club’s passphrase").fill("let me in")
    come.tap()
    expect(phone.get_by_role("alert")).to_have_text("That is not the passphrase.")
    phone.get_by_label("The club’s passphrase").fill("A Helper at-hand")
    come.tap()
    expect(phone.get_by_role("heading", name="Under the boards")).to_be_visible()
    expect(phone.get_by_label("Who is under here?")).to_have_value("Wren")

    expect(page.get_by_text("Wren, helper")).to_be_visible()
    page.get_by_role("button", name="Send Wren out").click()
    expect(page.get_by_text("Nobody yet")).to_be_visible()
    phone.reload()
    expect(phone.get_by_role("button", name="Come in")).to_be_visible()


def test_after_coming_in_one_is_where_one_wished_and_never_elsewhere(phone: Page, club: Served) -> None:
    root = f"http://{own_address()}:{club.port}"
    for wish, lands in (
        ("/\\\\evil.example/x", "/"),
        ("//evil.example", "/"),
        ("/?layout=gannet-bay", "/?layout=gannet-bay"),
    ):
        phone.context.clear_cookies()
        phone.goto(f"{root}/enter?to={wish}")
        phone.get_by_label("Your name").fill("Pell")
        phone.get_by_label("The club’s passphrase").fill(HELPER)
        phone.get_by_role("button", name="Come in").tap()
        phone.wait_for_url(lambda url: "/enter" not in url)
        assert phone.url.split("#")[0].rstrip("/") == (root + lands).rstrip("/"), wish


BAD = """([task, told]) => localStorage.setItem("copper.under.waiting.gannet-bay", JSON.stringify([
  {id: "badtime00001", task, state: "wired", note: "In a tight corner", reading: "0.3", who: "JB",
   done: "yesterday", told},
  {id: "control00001", task: "control:head-1", state: "wired", note: "", reading: "", who: "JB",
   done: "2026-11-24T19:40:00Z", told: ""},
  {id: "goodone00001", task, state: "tested", note: "", reading: "", who: "JB", done: "2026-11-24T19:41:00Z", told},
]))"""


def test_one_bad_entry_is_set_aside_and_holds_nothing_back(phone: Page, base_url: str) -> None:
    phone.goto(f"{base_url}/under?layout=gannet-bay")
    expect(phone.get_by_role("heading", name="Under the boards")).to_be_visible()
    under = phone.request.get(f"{base_url}/api/layouts/gannet-bay/under").json()
    task = under["boards"][0]["tasks"][0]
    phone.evaluate(BAD, [task["key"], task["told"]])
    phone.reload()
    aside = phone.get_by_role("region", name="Set aside")
    expect(aside.get_by_role("heading", name="One entry was not taken")).to_be_visible()
    expect(aside.get_by_text("Time: A time such as")).to_be_visible()
    expect(aside.get_by_text("“In a tight corner”")).to_be_visible()
    sent = phone.request.get(f"{base_url}/api/layouts/gannet-bay/work").json()
    assert {e["task"]: e["state"] for e in sent} == {task["key"]: "tested", "control:head-1": "wired"}
    phone.reload()
    expect(aside).to_be_visible()
    with phone.expect_download() as download:
        aside.get_by_role("button", name="Save as a file").tap()
    assert "In a tight corner" in Path(download.value.path()).read_text("utf-8")
    with phone.expect_response(lambda answer: answer.url.endswith("/work") and answer.request.method == "POST"):
        aside.get_by_role("button", name="Send as of now").tap()
    expect(aside).to_have_count(0)
    log = phone.request.get(f"{base_url}/api/layouts/gannet-bay/work/log").json()
    assert [e["note"] for e in log].count("In a tight corner") == 1


def test_what_was_set_aside_is_thrown_away_only_when_one_is_sure(phone: Page, base_url: str) -> None:
    phone.goto(f"{base_url}/under?layout=gannet-bay")
    expect(phone.get_by_role("heading", name="Under the boards")).to_be_visible()
    phone.evaluate(BAD, ["a song", ""])
    phone.reload()
    aside = phone.get_by_role("region", name="Set aside")
    expect(aside.get_by_role("heading", name="2 entries were not taken")).to_be_visible()
    assert phone.evaluate("document.documentElement.scrollWidth") <= 390
    aside.get_by_role("button", name="Throw away").first.tap()
    expect(aside.get_by_role("heading", name="2 entries were not taken")).to_be_visible()
    aside.get_by_role("button", name="Really throw away").tap()
    expect(aside.get_by_role("heading", name="One entry was not taken")).to_be_visible()
