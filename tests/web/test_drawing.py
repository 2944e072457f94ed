"""Drawing the demo's staging loop, wye and yard from a picture, and being told the truth about them, in a real
browser."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any

import httpx2 as httpx
import pytest
from playwright.sync_api import Page, expect

from tests.web.steady import two_frames
from tests.web.test_story import bench as bench  # the same page, watched for errors

# What the picture shows, mm on the railroad: a lead and its loop, a wye off a line, a two-track yard.
LEAD = [(1000, 200), (1000, 900)]
LOOP = [(1000, 900), (400, 1500), (400, 2600), (1700, 2600), (1700, 1500)]
LINE = [(2300, 300), (4300, 300)]
WEST_LEG, EAST_LEG, TAIL = (
    [(2700, 300), (3300, 420), (3300, 1100)],
    [(3900, 300), (3300, 420)],
    [(3300, 1100), (3300, 1900)],
)
YARD, SECOND = [(2100, 2700), (5000, 2700)], [(2400, 2700), (2800, 2450), (4300, 2450), (4700, 2700)]
SCALE = 0.2  # picture pixels per mm


def picture() -> bytes:
    def line(points: list[tuple[int, int]]) -> str:
        return "M" + "L".join(f"{x * SCALE:.1f} {y * SCALE:.1f}" for x, y in points)

    d = "".join(line(p) for p in (LEAD, [*LOOP, LOOP[0]], LINE, WEST_LEG, [*EAST_LEG, TAIL[0]], TAIL, YARD, SECOND))
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{5200 * SCALE}" height="{3000 * SCALE}" viewBox="0 0 '
        f'{5200 * SCALE} {3000 * SCALE}">'
        f'<path d="{d}" fill="none" stroke="#345" stroke-width="3"/></svg>'
    ).encode()


class Board:
    """A page with the plan on it, clicked in millimetres of the railroad."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.origin = (0.0, 0.0)

    def at(self, x: float, y: float) -> tuple[float, float]:
        """Where a place of the plan is on the screen."""
        spot = self.page.evaluate(
            "([x, y]) => { const g = document.querySelector('svg.plan > g'); const p = new DOMPoint(x, "
            "y).matrixTransform(g.getScreenCTM()); return [p.x, p.y]; }",
            [x + self.origin[0], y + self.origin[1]],
        )
        return spot[0], spot[1]

    def click(self, x: float, y: float, **more: Any) -> None:
        self.page.mouse.move(*self.at(x, y))
        self.page.mouse.click(*self.at(x, y), **more)

    def drag(self, start: tuple[float, float], end: tuple[float, float]) -> None:
        self.page.mouse.move(*self.at(*start))
        self.page.mouse.down()
        a, b = self.at(*start), self.at(*end)
        self.page.mouse.move((a[0] + b[0]) / 2, (a[1] + b[1]) / 2)
        self.page.mouse.move(*b)
        self.page.mouse.up()

    def lay(self, points: list[tuple[int, int]], enter: bool = True) -> None:
        """Click along a line with the track tool in hand."""
        before = self.document()["tracks"]
        for x, y in points:
            self.click(x, y)
        if enter:
            self.page.keyboard.press("Enter")
        self.until(lambda d: len(d["tracks"]) > len(before))

    def document(self) -> dict[str, Any]:
        base, i = re.match(r"(http://[^/]+)/l/([^/]+)/", self.page.url).groups()  # type: ignore[union-attr]
        return httpx.get(f"{base}/api/layouts/{i}").json()["document"]  # type: ignore[no-any-return]

    def until(self, holds: Any) -> dict[str, Any]:
        for _ in range(100):
            document = self.document()
            if holds(document):
                expect(self.page.get_by_test_id("plan")).to_have_attribute("aria-busy", "false")
                return document
            self.page.wait_for_timeout(50)
        raise AssertionError("the layout never came to that")

    def tool(self, name: str) -> None:
        self.page.get_by_role("toolbar", name="Tools").get_by_role(
            "button", name=re.compile(f"^{name}\\b")
        ).first.click()


def start(page: Page, name: str, scale: str = "TT") -> Board:
    page.get_by_role("button", name="Brief").first.click()
    page.get_by_role("button", name="New layout…").click()
    dialog = page.get_by_role("dialog", name="New layout")
    expect(dialog).to_be_visible()
    dialog.get_by_label("Name").fill(name)
    dialog.get_by_role("radio", name=scale, exact=True).click()
    dialog.get_by_role("button", name="Start drawing").click()
    expect(page.get_by_test_id("hint")).to_contain_text("Click where the track begins")
    expect(page.get_by_test_id("plan")).to_have_attribute("aria-busy", "false")
    return Board(page)


@pytest.fixture
def board(bench: Page) -> Iterator[Board]:
    yield start(bench, "Pellam annexe")


def test_the_staging_loop_wye_and_yard_from_a_picture(board: Board) -> None:
    page = board.page
    # The picture, its scale by two places and a known distance, dimmed.
    page.get_by_label("Picture file").set_input_files(
        {"name": "plan.svg", "mimeType": "image/svg+xml", "buffer": picture()}
    )
    expect(page.get_by_test_id("backdrop")).to_be_visible()
    back = board.document()["backdrop"]
    per_mm = back["mm_per_pixel"] * SCALE  # plan mm now drawn for one railroad mm
    page.get_by_role("button", name="Set its scale").click()
    for x, y in (LINE[0], LINE[1]):
        board.click(x * per_mm, y * per_mm)
    page.get_by_label("Distance between the two places").fill("2 m")
    page.keyboard.press("Enter")
    back = board.until(lambda d: abs(d["backdrop"]["mm_per_pixel"] * SCALE - 1) < 0.02)["backdrop"]
    two_frames(page)
    board.origin = (back["x"], back["y"])

    # Track over it.
    board.tool("Track")
    board.lay(LEAD)
    board.lay([*LOOP, LOOP[0]], enter=False)
    board.lay(LINE)
    board.lay(WEST_LEG)
    board.lay(TAIL)
    board.lay([*EAST_LEG, TAIL[0]], enter=False)
    board.lay(YARD)
    board.lay(SECOND, enter=False)
    drawn = board.document()
    kinds = sorted(n["kind"] for n in drawn["nodes"].values())
    assert kinds.count("turnout") == 6, "the loop's, three of the wye, two of the yard"
    assert all(n["hand"] in ("left", "right") for n in drawn["nodes"].values() if n["kind"] == "turnout")

    # Power: a source, a bus, feeders by clicking.
    board.tool("Source")
    board.click(2000, 1600)
    board.until(lambda d: len(d["devices"]) == 1)
    board.tool("Bus")
    for x, y in ((2000, 1600), (2000, 2300), (3600, 2300)):
        board.click(x, y)
    page.keyboard.press("Enter")
    board.until(lambda d: len(d["runs"]) == 1)
    board.tool("Bus")
    for x, y in ((2000, 1600), (2000, 700), (3000, 700)):
        board.click(x, y)
    page.keyboard.press("Enter")
    board.until(lambda d: len(d["runs"]) == 2)
    board.tool("Feeder")
    for count, (x, y) in enumerate(((1000, 500), (2450, 300), (3600, 2700), (3500, 2450)), start=1):
        board.click(x, y)
        board.until(lambda d, n=count: len(d["feeders"]) == n)

    # Told the truth: where trains come back, by kind, in words.
    page.get_by_role("button", name=re.compile("^Reverse")).first.click()
    places = page.get_by_test_id("places")
    expect(places).to_contain_text("balloon loop")
    expect(places).to_contain_text("wye,")
    expect(places).to_contain_text("2 open")

    # Accept the proposals: gaps, section and reverser in one undoable change each.
    for left in (1, 0):
        proposals = page.get_by_test_id("proposals")
        expect(proposals).to_have_attribute("aria-busy", "false")
        if left:
            page.get_by_label("Longest train that comes here").fill("1 m")
            page.keyboard.press("Enter")
        expect(page.get_by_label("Longest train that comes here")).to_have_value("3.28 ft")
        expect(proposals.get_by_text("Best:").first).to_be_visible()
        expect(proposals).to_have_attribute("aria-busy", "false")
        proposals.get_by_role("button", name="Make it…").first.click()
        page.get_by_role("button", name="Make this change").click()
        board.until(lambda d, n=left: sum(v["kind"] == "reverser" for v in d["devices"].values()) == 2 - n)
        expect(places).to_contain_text("1 open" if left else "all settled")
    made = board.document()
    assert len(made["gaps"]) >= 4 and all(g["rails"] == "both" for g in made["gaps"].values())
    assert {made["sections"][s]["circuit"] for s in made["sections"]} >= {
        d["output"] for d in made["devices"].values() if d["kind"] == "reverser"
    }
    page.keyboard.press("Control+z")
    expect(places).to_contain_text("1 open")
    page.keyboard.press("Control+Shift+Z")
    expect(places).to_contain_text("all settled")

    # And the volts follow, in the sections too.
    page.get_by_role("button", name=re.compile("^Wire")).first.click()
    page.get_by_role("radio", name="Volts", exact=True).click()
    expect(page.get_by_test_id("spot")).to_contain_text("V at the wheel")
    findings = page.get_by_test_id("findings")
    expect(findings).to_have_attribute("aria-busy", "false")
    expect(findings).not_to_contain_text("facing the other way")
    expect(findings).not_to_contain_text("is dead")
