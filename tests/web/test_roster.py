"""The roster in a real browser: by keyboard, with nonsense, as CSV, and what it teaches."""

from __future__ import annotations

from pathlib import Path

from playwright.sync_api import Page, expect

from tests.web.test_cabs import make_it
from tests.web.test_handover import at
from tests.web.test_story import bench as bench


def test_engines_are_listed_measured_and_teach_their_kind(bench: Page, base_url: str) -> None:
    page = at(bench, base_url, "harbour-arm/trains")
    roster = page.get_by_test_id("roster")
    expect(roster).to_contain_text("No engine is listed.")
    roster.get_by_role("button", name="One more engine").press("Enter")
    number = roster.get_by_label("Number of Engine 1")
    number.fill("seven")
    page.keyboard.press("Enter")
    expect(roster.get_by_role("alert")).to_have_text("A whole number from 1 to 9999.")
    number.fill("7")
    page.keyboard.press("Enter")
    roster.get_by_label("Kind of Engine 1").select_option(label="Railcar")
    roster.get_by_label("Running amps of Engine 1").fill("340 mA")
    page.keyboard.press("Enter")
    expect(roster).to_contain_text("Railcar, by 1 engine: running")
    roster.get_by_role("button", name="Take these figures over…").click()
    make_it(page)
    expect(roster.get_by_role("button", name="Take these figures over…")).to_have_count(0)
    expect(page.locator("[data-kind=railcar]").get_by_label("running")).to_have_value("340 mA")
    # Volts it does not stand are told here.
    roster.get_by_label("Volts Engine 1 stands").fill("12 V")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("findings")).to_contain_text("Engine 1 stands 12.0 V; Booster gives 15.0 V")
    page.get_by_test_id("findings").get_by_role("button", name="Show").click()
    expect(page.get_by_test_id("roster")).to_be_visible()
    roster.get_by_role("button", name="more of Engine 1").click()
    roster.get_by_label("Set as").fill("Output 3 is the smoke unit")
    roster.get_by_label("Troubles").fill("loses its sound on frogs")
    page.keyboard.press("Enter")
    page.reload()
    page.get_by_test_id("roster").get_by_role("button", name="more of Engine 1").click()
    expect(page.get_by_test_id("roster").get_by_label("Set as")).to_have_value("Output 3 is the smoke unit")


def test_a_roster_file_is_taken_in_or_told_what_is_wrong(bench: Page, base_url: str, tmp_path: Path) -> None:
    page = at(bench, base_url, "harbour-arm/trains")
    roster = page.get_by_test_id("roster")
    path = tmp_path / "roster.csv"
    for text, told in (
        ("name,kind\nWren,dragon\n", "Row 2: there is no kind of locomotive “dragon”"),
        ("number,name,kind\n7,Wren,Railcar\n8,Gull,Railcar\n", None),
    ):
        path.write_text(text, "utf-8")
        with page.expect_file_chooser() as chooser:
            roster.get_by_role("button", name="Take in a roster…").click()
        chooser.value.set_files(path)
        if told:
            expect(roster.get_by_role("alert")).to_contain_text(told)
    expect(roster.get_by_label("Number of Gull")).to_have_value("8")
    page.keyboard.press("Control+z")
    expect(roster).to_contain_text("No engine is listed.")
