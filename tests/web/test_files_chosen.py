"""Files chosen by mouse and by keyboard: every button for it, the same file twice, and files that are nothing."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from playwright.sync_api import FileChooser, Page, expect
from playwright.sync_api import TimeoutError as PlaywrightTimeout

NONSENSE = b"\x00\xffnot at all what the name says"


def go(page: Page, base_url: str, step: str) -> None:
    page.goto(f"{base_url}/?layout=gannet-bay#{step}")
    expect(page.get_by_test_id("saved")).to_be_visible()


@pytest.mark.parametrize(
    ("step", "fold", "label", "name", "says"),
    [
        ("track", "Drawings in and out", "Drawing file", "plan.dxf", "cannot be read as DXF"),
        ("track", "Drawings in and out", "Drawing file", "plan.svg", "cannot be read as SVG"),
        ("track", "Drawings in and out", "Drawing file", "plan.csv", "text file"),
        ("track", "Drawings in and out", "Drawing file", "plan.txt", "DXF, SVG or CSV"),
        ("trains", None, "Fleet file", "fleet.csv", "CSV"),
        ("brief", None, "Layout file", "layout.json", "not a layout file"),
    ],
)
def test_a_file_that_is_nothing_is_told_beside_its_button_and_changes_nothing(
    page: Page, base_url: str, tmp_path: Path, step: str, fold: str | None, label: str, name: str, says: str
) -> None:
    go(page, base_url, step)
    if fold is not None:
        page.get_by_role("button", name=re.compile(f"^{fold}")).click()
    wrong = tmp_path / name
    wrong.write_bytes(NONSENSE)
    for _ in range(2):  # the same one again, after a look at what it says
        page.get_by_label(label, exact=True).set_input_files(wrong)
        expect(page.get_by_role("alert").filter(has_text=re.compile(says)).first).to_be_visible()
    assert page.request.get(f"{base_url}/api/layouts/gannet-bay").json()["revision"] == 1


def _chooser_by_enter(page: Page) -> FileChooser:
    """The chooser that Enter opens. The browser now and then ignores it while it puts the last one away."""
    for _ in range(4):
        try:
            with page.expect_file_chooser(timeout=4000) as chooser:
                page.keyboard.press("Enter")
            return chooser.value
        except PlaywrightTimeout:
            continue
    raise AssertionError("Enter opened no chooser")


def test_the_button_opens_the_chooser_by_mouse_and_by_keyboard(page: Page, base_url: str, tmp_path: Path) -> None:
    go(page, base_url, "trains")
    fleet = page.request.get(f"{base_url}/api/layouts/gannet-bay/files/fleet.csv").body()
    mine = tmp_path / "fleet.csv"
    mine.write_bytes(fleet.replace(b"Railcar", b"Railbus"))
    button = page.get_by_role("button", name="Take in a CSV…")
    with page.expect_file_chooser() as chooser:
        button.click()
    chooser.value.set_files(mine)
    expect(page.get_by_label("Name").nth(2)).to_have_value("Railbus")
    button.focus()
    again = _chooser_by_enter(page)
    mine.write_bytes(fleet)
    again.set_files(mine)
    expect(page.get_by_label("Name").nth(2)).to_have_value("Railcar")
    page.keyboard.press("Control+z")
    expect(page.get_by_label("Name").nth(2)).to_have_value("Railbus")


def test_a_layout_file_set_right_tells_what_was_mended(page: Page, base_url: str, tmp_path: Path) -> None:
    go(page, base_url, "brief")
    document = page.request.get(f"{base_url}/api/layouts/gannet-bay/files/layout.json").text()
    old = tmp_path / "old.json"
    old.write_text(document.replace('"joiner_every": 914.4', '"joiner_every": 3', 1), "utf-8")
    page.get_by_label("Layout file", exact=True).set_input_files(old)
    told = page.get_by_role("alert").filter(has_text="every 20 mm now")
    expect(told).to_be_visible()
    told.get_by_role("button", name="Close").click()
    expect(told).to_have_count(0)


def test_a_joiner_spacing_that_cannot_be_names_its_field(page: Page, base_url: str) -> None:
    go(page, base_url, "track")
    state = page.request.get(f"{base_url}/api/layouts/gannet-bay").json()
    track = next(iter(state["document"]["tracks"]))
    patch = [{"op": "replace", "path": f"/tracks/{track}/joiner_every", "value": 0.001}]
    got = page.request.patch(
        f"{base_url}/api/layouts/gannet-bay",
        data={"summary": "Too close", "patch": patch},
        headers={"If-Match": "1", "Origin": base_url},
    )
    assert got.status == 422 and got.json()["problems"][0]["path"] == f"/tracks/{track}/joiner_every"
    assert "20 mm" in got.json()["message"]
