"""The story of step Rehearse in a real browser: an evening runs, a breaker and two trains are asked why, something is
dropped, what is offered is done, and the evening runs again; by mouse and by keyboard."""

from __future__ import annotations

import asyncio
import re
import threading
from collections.abc import Iterator
from concurrent.futures import Future
from typing import Any

import pytest
from playwright.sync_api import Page, expect

from jolly_copper.core.circuits.facts import derive
from jolly_copper.demo import signalled_bay
from jolly_copper.stand_in import StandIn
from tests.web.test_story import bench as bench
from tests.web.test_story import settled

WORKED_OUT = 90_000


def at(page: Page, base_url: str, layout: str = "gannet-bay-signalled") -> Page:
    page.goto(f"{base_url}/l/{layout}/rehearse")
    expect(page.get_by_role("button", name="New plan")).to_be_visible()
    expect(page.get_by_test_id("plan")).to_have_attribute("aria-busy", "false")
    return page


def run(page: Page) -> None:
    page.get_by_role("button", name="Run the evening").click()
    expect(page.get_by_test_id("clock")).to_be_visible()


def worked_out(page: Page) -> None:
    expect(page.get_by_test_id("verdict")).to_be_visible(timeout=WORKED_OUT)
    expect(page.get_by_role("button", name="Run the evening")).to_be_visible()


def tab(page: Page, name: str) -> None:
    page.get_by_role("radio", name=name).click()


def document(page: Page, layout: str = "gannet-bay-signalled") -> dict[str, Any]:
    found: dict[str, Any] = page.evaluate(f"async () => (await (await fetch('/api/layouts/{layout}')).json()).document")
    return found


def test_saturday_open_day(bench: Page, base_url: str) -> None:
    page = at(bench, base_url)
    run(page)
    # It plays what is worked out while the rest comes in, and trains stand on the plan.
    expect(page.get_by_test_id("clock")).not_to_have_text("0:00:00")
    expect(page.locator("[data-train]")).to_have_count(12)
    expect(page.locator("[data-testid=heads] [data-aspect=clear]")).not_to_have_count(0)
    worked_out(page)
    told = page.get_by_test_id("verdict")
    expect(told).to_contain_text("wait for each other for ever")
    expect(told).to_contain_text("5.1 A for 90 ms against 4 A and 50 ms")
    # Why: from two trains face to face down to the derailment that made one late.
    told.get_by_role("button", name=re.compile("Show 2:41")).first.click()
    why = page.get_by_test_id("why")
    expect(why).to_contain_text("Works train derails.")
    expect(page.get_by_test_id("clock")).to_have_text(re.compile("2:41"))
    why.get_by_role("button", name="Works train derails.").click()
    expect(page.get_by_test_id("clock")).to_have_text(re.compile("2:36"))
    why.get_by_role("button", name="Close").click()
    # Amps and volts share the time.
    tab(page, "Amps and volts")
    expect(page.locator("[data-strip='Breaker Quarry branch']")).to_contain_text("opens at 4 A")
    axis = page.get_by_test_id("axis")
    box = axis.bounding_box()
    assert box is not None
    page.mouse.click(box["x"] + 168 + (box["width"] - 176) / 2, box["y"] + 60)
    expect(page.get_by_test_id("clock")).to_have_text(re.compile("1:(29|30)"))
    tab(page, "Who is where")
    page.get_by_label("Along the way of").select_option(label="Uplands local")
    expect(page.get_by_test_id("string-line")).to_contain_text("Quarry branch")
    # The rule that would have kept them apart, proved; done, and the night runs again.
    told.get_by_role("button", name="Do it and run again").first.click()
    expect(page.get_by_test_id("compared")).to_contain_text("gone", timeout=WORKED_OUT)
    expect(page.get_by_test_id("compared")).to_contain_text("wait for each other for ever")
    assert document(page)["plans"]["open-day"]["single_lines"] == "direction"
    page.get_by_role("button", name="Keep this rehearsal").click()
    tab(page, "Kept")
    expect(page.get_by_test_id("kept")).to_contain_text("Saturday open day")
    expect(page.get_by_test_id("kept")).not_to_contain_text("has changed since")


def short_round(page: Page) -> None:
    page.get_by_role("combobox", name="Plan", exact=True).select_option(label="Exhibition round")
    minutes = page.get_by_label("Minutes")
    minutes.fill("6")
    minutes.press("Enter")
    expect(minutes).to_have_value("6")


def test_a_screw_is_dragged_onto_the_plan(bench: Page, base_url: str) -> None:
    page = at(bench, base_url)
    short_round(page)
    run(page)
    worked_out(page)
    expect(page.get_by_test_id("verdict")).to_contain_text("Nothing tripped in 6 min.")
    page.keyboard.press("Escape")
    page.get_by_label("Moment of the evening").fill("60")
    track = page.locator("[data-testid=rails-signals] path").first.bounding_box()
    plan = page.get_by_test_id("plan").bounding_box()
    assert track is not None and plan is not None
    # Let go off the track it says what it wants, and nothing runs.
    chip = page.get_by_role("button", name="Tool on the rail")
    chip.drag_to(page.get_by_test_id("plan"), target_position={"x": plan["width"] / 2, "y": plan["height"] / 2})
    expect(page.get_by_text("Tool on the rail: let it go on a track.")).to_be_visible()
    # Where one last looked does as well, without a drag.
    page.keyboard.press("Control+k")
    page.get_by_role("combobox", name="Find or do").fill("Down main, north-east")
    page.keyboard.press("Enter")
    page.get_by_role("button", name=re.compile("Drop it at 0:01:00")).click()
    expect(page.get_by_test_id("faults")).to_contain_text("Tool on the rail, Down main, north-east", timeout=WORKED_OUT)
    expect(page.get_by_test_id("compared")).to_contain_text("new", timeout=WORKED_OUT)
    expect(page.get_by_test_id("verdict")).to_contain_text(
        "A tool lies across the rails of Down main, north-east at 0:01:00"
    )
    expect(page.get_by_test_id("dark-track")).to_have_count(0)
    page.get_by_role("button", name="To the next event (.)").click()
    page.get_by_label("Moment of the evening").fill("70")
    expect(page.get_by_test_id("dark-track")).to_have_count(1)
    page.get_by_role("button", name="Take tool on the rail at 0:01:00 out").click()
    expect(page.get_by_test_id("faults")).to_have_count(0, timeout=WORKED_OUT)


def test_by_keyboard_alone(bench: Page, base_url: str) -> None:
    page = at(bench, base_url)
    short_round(page)
    page.get_by_role("button", name="Run the evening").focus()
    page.keyboard.press("Enter")
    worked_out(page)
    page.get_by_test_id("plan").locator("svg[role=application]").focus()
    if page.get_by_role("button", name="Pause (space)").count():
        page.keyboard.press(" ")
    expect(page.get_by_role("button", name="Play (space)")).to_be_visible()
    page.get_by_label("Moment of the evening").fill("10")
    page.get_by_test_id("plan").locator("svg[role=application]").focus()
    page.keyboard.press("k")
    expect(page.get_by_test_id("clock")).to_have_text("0:00:20")
    page.keyboard.press("j")
    expect(page.get_by_test_id("clock")).to_have_text("0:00:10")
    page.keyboard.press(">")
    expect(page.get_by_label("Times as fast")).to_have_value("120")
    page.keyboard.press("<")
    page.keyboard.press(" ")
    expect(page.get_by_role("button", name="Pause (space)")).to_be_visible()
    expect(page.get_by_test_id("clock")).not_to_have_text("0:00:10")
    page.keyboard.press(" ")
    page.keyboard.press(".")
    expect(page.get_by_test_id("why")).to_be_visible()
    # A train of the plan asked why, and followed.
    page.locator("[data-train='Ore drag']").dispatch_event("click")
    why = page.get_by_test_id("why")
    expect(why).to_contain_text("Ore drag")
    why.get_by_role("button", name="Follow it").click()
    expect(why.get_by_role("button", name="Do not follow")).to_be_visible()


def test_a_head_and_a_breaker_say_why(bench: Page, base_url: str) -> None:
    page = at(bench, base_url)
    short_round(page)
    run(page)
    worked_out(page)
    page.get_by_label("Moment of the evening").fill("30")
    page.locator("[data-thing='signal:S7']").click(force=True)
    why = page.get_by_test_id("why")
    expect(why).to_contain_text(re.compile("S7: (stop|approach|clear)"))
    expect(why).to_contain_text(re.compile("occupied|clear|next signal"))
    page.locator("[data-thing='device:K1']").click(force=True)
    expect(why).to_contain_text("Breaker Main west")
    expect(why).to_contain_text("of 4 A, acts after 50 ms")


def test_the_plan_is_a_table_and_what_does_not_fit_is_told_beside_it(bench: Page, base_url: str) -> None:
    page = at(bench, base_url)
    short_round(page)
    tab(page, "The plan")
    table = page.get_by_test_id("timetable")
    expect(table.get_by_role("row").nth(1)).to_contain_text("Ore drag")
    front = table.get_by_label("Ore drag: front at")
    front.fill("50.8 mm")
    front.press("Enter")
    expect(front).to_have_value("2 in")
    page.get_by_role("button", name="Run the evening").click()
    expect(page.get_by_test_id("plan-problems").or_(page.get_by_test_id("verdict"))).to_be_visible(timeout=WORKED_OUT)
    # What a train is as it runs stands under its row.
    table.get_by_role("button", name="2 calls of Ore drag").click()
    speed = table.get_by_label("Scale km/h")
    speed.fill("45")
    speed.press("Enter")
    expect(speed).to_have_value("45")
    speed.fill("fast")
    speed.press("Enter")
    expect(table.get_by_text("This must be a number.")).to_be_visible()
    speed.press("Escape")
    begins = table.get_by_label("Ore drag begins on")
    begins.select_option(label="Yard 4, east")
    page.get_by_role("button", name="Run the evening").click()
    expect(page.get_by_test_id("plan-problems")).to_contain_text("Ore drag", timeout=WORKED_OUT)
    # Undo, and it runs again.
    page.keyboard.press("Control+z")
    page.keyboard.press("Control+z")
    expect(table.get_by_label("Ore drag begins on")).to_have_value("down-south-west")
    run(page)
    worked_out(page)
    expect(page.get_by_test_id("plan-problems")).to_have_count(0)


def test_a_plan_from_a_scene_on_three_rail_track_runs_by_sight(bench: Page, base_url: str) -> None:
    page = at(bench, base_url, "tinplate-lane")
    expect(page.get_by_text("No evening is planned yet. The trains of a scene")).to_be_visible()
    expect(page.get_by_text("No signals yet: trains run by sight.")).to_be_visible()
    page.get_by_role("button", name="New plan").click()
    minutes = page.get_by_label("Minutes")
    minutes.fill("5")
    minutes.press("Enter")
    run(page)
    worked_out(page)
    page.get_by_text(re.compile("Taken for usual")).click()
    expect(page.get_by_test_id("verdict")).to_contain_text("There are no signals: trains run by sight")
    tab(page, "Try first")
    expect(page.get_by_test_id("try-first").or_(page.get_by_text("No junction"))).to_be_visible()


def test_face_to_face_is_proved_and_evenings_can_be_stopped(bench: Page, base_url: str) -> None:
    page = at(bench, base_url)
    tab(page, "Face to face")
    page.get_by_role("button", name="Prove Saturday open day").click()
    proof = page.get_by_test_id("proof")
    expect(proof).to_contain_text("never, whatever the delays", timeout=WORKED_OUT)
    proof.get_by_text("The way into it").click()
    expect(proof).to_contain_text(re.compile(r"(Works train|Uplands local) goes to"))
    proof.get_by_role("button", name="Run it so").first.click()
    expect(page.get_by_label("On single lines")).to_have_value("direction")
    page.get_by_role("combobox", name="Plan", exact=True).select_option(label="Exhibition round")
    tab(page, "Many evenings")
    page.get_by_role("combobox", name="Evenings").select_option("100")
    page.get_by_role("button", name="Play them").click()
    many = page.get_by_test_id("many")
    expect(many).to_contain_text("evenings played", timeout=WORKED_OUT)
    many.get_by_role("button", name="Stop, keep these").click()
    expect(many.get_by_role("button", name="Play them")).to_be_enabled()
    expect(many).to_contain_text("evenings played")


def test_the_next_step_leads_here_and_the_address_comes_back(bench: Page, base_url: str) -> None:
    page = at(bench, base_url)
    tab(page, "Try first")
    expect(page).to_have_url(re.compile("/rehearse/first"))
    page.reload()
    expect(page.get_by_test_id("try-first")).to_contain_text("Stands for")
    expect(page.get_by_role("button", name="New plan")).to_be_visible()
    tab(page, "Kept")
    expect(page).to_have_url(re.compile("/rehearse/kept"))
    page.get_by_role("navigation").get_by_role("button", name=re.compile("^Book")).click()
    expect(page).to_have_url(re.compile("/book"))
    page.go_back()
    expect(page.get_by_text("Nothing is kept yet.")).to_be_visible()


def test_a_person_drives_one_train_while_the_rest_go_by_plan(bench: Page, base_url: str) -> None:
    page = at(bench, base_url)
    short_round(page)
    tab(page, "The plan")
    page.get_by_test_id("timetable").get_by_label("Gannet local runs").select_option("hand")
    expect(page.get_by_test_id("timetable")).to_contain_text("a person drives it: By hand, or Live")
    run(page)
    worked_out(page)
    page.keyboard.press("Escape")
    page.get_by_label("Moment of the evening").fill("20")
    page.get_by_role("region", name="By hand").get_by_role("button", name="Drive on: Gannet local").click()
    moves = page.get_by_test_id("moves")
    expect(moves).to_contain_text("Gannet local: drive on")
    worked_out(page)
    tab(page, "What happens")
    expect(page.get_by_text("Gannet local is driven on.").first).to_be_visible()
    # By keys while it is asked about; what cannot be done says why.
    page.get_by_role("region", name="By hand").get_by_role("button", name="Gannet local", exact=True).click()
    expect(page.get_by_test_id("why")).to_contain_text("Gannet local")
    page.get_by_label("Moment of the evening").fill("24")
    page.get_by_test_id("plan").locator("svg[role=application]").focus()
    page.keyboard.press("u")
    expect(moves.get_by_role("listitem")).to_have_count(2)
    worked_out(page)
    expect(page.get_by_text(re.compile("Not done: Gannet local is under way"))).not_to_have_count(0)
    page.get_by_role("button", name=re.compile("Take Gannet local: turn round at .* out")).click()
    expect(moves.get_by_role("listitem")).to_have_count(1)
    # It is of this run alone: the plan itself is as it was.
    assert not document(page)["plans"]["round"]["moves"]


@pytest.fixture
def railroad() -> Iterator[int]:
    """A stand-in for the signalled demo on a free port, twenty times as fast."""
    bay = signalled_bay()
    stands = StandIn(derive(bay, "open-day"), bay.plans["round"], 20.0)
    port: Future[int] = Future()
    loop = asyncio.new_event_loop()
    thread = threading.Thread(target=lambda: loop.run_until_complete(stands.run(0, port.set_result)), daemon=True)
    thread.start()
    yield port.result(20)
    stands.over = True
    thread.join(10)
    loop.close()


def test_the_railroad_itself_is_heard_and_obeys(bench: Page, base_url: str, railroad: int) -> None:
    page = at(bench, base_url)
    tab(page, "Live")
    port = page.get_by_label("Port of this machine")
    port.fill("12")
    expect(page.get_by_text("1024 to 65535")).to_be_visible()
    port.fill(str(railroad))
    page.get_by_role("button", name="Listen").click()
    live = page.get_by_test_id("live")
    expect(live).to_contain_text("Gannet Bay, signalled")
    expect(page.get_by_test_id("last-number")).to_have_text(re.compile(r"\d+"))
    expect(page.locator("[data-lit]")).not_to_have_count(0)
    expect(page.locator("[data-testid=heads] [data-aspect=clear]")).not_to_have_count(0)
    live.get_by_role("combobox", name="Throw").select_option(label="T40")
    live.get_by_role("button", name="to diverging").click()
    expect(live).to_contain_text("It lies diverging.")
    live.get_by_role("button", name="Breaker Quarry branch off").click()
    expect(live).to_contain_text("Breaker Quarry branch is switched off.")
    live.get_by_role("button", name="Breaker Quarry branch open: close it").click()
    expect(live.get_by_role("button", name="Breaker Quarry branch off")).to_be_visible()
    live.get_by_role("button", name="Hang up").click()
    port.fill("4998")
    page.get_by_role("button", name="Listen").click()
    expect(live).to_contain_text("Nothing of ours answers on port 4998")


__all__ = ["settled"]
