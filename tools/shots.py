"""Refresh docs/screenshots from the demo, in the browser a person would use. Run by `make shots`; names given are taken
alone."""

from __future__ import annotations

import io
import sys
import tempfile
import threading
from collections.abc import Callable
from pathlib import Path
from typing import Any

import uvicorn
from playwright.sync_api import Page, sync_playwright

from jolly_copper.api import create_app
from jolly_copper.core.layout.document import Backdrop, Layout
from jolly_copper.demo import gannet_bay, harbour_arm, millbeck
from jolly_copper.demo.signalled import signalled_bay
from jolly_copper.store import Store
from jolly_copper.store.pictures import keep_picture
from tests.pictures import picture, scanned
from tests.web.conftest import CHROMIUM, FLAGS
from tests.web.test_drawing import Board

OUT = Path(__file__).resolve().parents[1] / "docs" / "screenshots"


READINGS = """async () => {
  const path = '/api/layouts/gannet-bay/';
  const { tests } = await (await fetch(path + 'bench')).json();
  const must = tests.filter((t) => t.tier === 'must');
  const readings = must.map((t, n) => ({
    id: 'reading-' + String(n).padStart(4, '0'), test: t.key, who: 'Ada', done: '2026-11-20T20:00:00Z',
    shown: Math.round(1000 * (t.value * (1 + 0.03 * Math.sin(7 * n))
      + (t.key.startsWith('load:up-south-2') ? 0.45 : 0))) + ' mV',
  }));
  await fetch(path + 'readings', {
    method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ readings }) });
}"""
"""Invented readings of the demo, with one bad joint among them."""


def before_the_gaps() -> Layout:
    """The demo as it was before its reversing sections were cut."""
    demo = gannet_bay()
    cut = ("throat-west", "throat-east", "wye-west", "wye-east")
    gaps = {i: g for i, g in demo.gaps.items() if g.track not in cut}
    sections = {i: s for i, s in demo.sections.items() if i not in ("loop", "wye")}
    return demo.model_copy(update={"name": "Gannet Bay, before the gaps", "gaps": gaps, "sections": sections})


def over_a_picture(store: Store) -> Layout:
    """A new layout with a scan of a plan under it."""
    made, mm, (x, y) = picture(millbeck(), 1800, words=True)
    out = io.BytesIO()
    scanned(made).save(out, "PNG")
    name = keep_picture(store, "image/png", out.getvalue())
    under = Backdrop(picture=name, width=made.width, height=made.height, x=x, y=y, mm_per_pixel=mm)
    return Layout(name="Millbeck, from its plan", backdrop=under)


def settle(page: Page) -> None:
    page.wait_for_selector("main article, main section, main aside, main header")
    page.wait_for_timeout(2800)


def find(page: Page, what: str) -> None:
    page.keyboard.press("Control+k")
    page.keyboard.type(what)
    page.keyboard.press("Enter")
    page.wait_for_timeout(2500)


def views() -> dict[str, tuple[dict[str, Any], Callable[[Page], None]]]:
    def nothing(_: Page) -> None: ...

    def drawing(page: Page) -> None:
        page.mouse.move(760, 380)
        for _ in range(5):
            page.mouse.wheel(0, -150)
            page.wait_for_timeout(60)
        page.keyboard.press("d")
        for x, y in ((330, 640), (560, 640)):
            page.mouse.click(x, y)
        page.mouse.move(690, 560)
        page.wait_for_timeout(300)

    def phase(page: Page) -> None:
        page.keyboard.press("p")
        page.wait_for_timeout(800)

    def proposals(page: Page) -> None:
        page.get_by_test_id("proposals").get_by_text("Best:").first.hover()
        page.wait_for_timeout(500)

    def evening(page: Page) -> None:
        page.get_by_role("button", name="Run the evening").click()
        page.get_by_test_id("verdict").wait_for(timeout=90_000)
        page.get_by_role("button", name="Show 2:41").first.click()
        page.wait_for_timeout(1200)

    def placed(page: Page) -> None:
        # Two trains: one on the down main by the left wall, one in the staging tracks.
        for train, place in ((0, (310, 668)), (1, (7200, 170))):
            page.get_by_role("combobox", name="Train").first.select_option(index=train)
            page.get_by_role("button", name="Place it").click()
            Board(page).click(*place)
            page.wait_for_timeout(1200)
        page.keyboard.press("Escape")
        page.mouse.move(700, 600)
        page.wait_for_timeout(800)

    def aspects(page: Page) -> None:
        placed(page)
        page.get_by_test_id("aspects").get_by_role("button", name="S10", exact=True).click()
        page.wait_for_timeout(1200)
        page.get_by_role("button", name="Fit").click()
        page.mouse.move(700, 600)
        page.wait_for_timeout(1200)

    def book(page: Page) -> None:
        page.get_by_role("button", name="Board 16 uplands", exact=True).click()
        page.wait_for_timeout(1200)

    def traced(page: Page) -> None:
        page.get_by_role("button", name="Trace it", exact=True).click()
        page.get_by_test_id("trace-words").wait_for(timeout=60_000)
        page.get_by_test_id("trace").scroll_into_view_if_needed()
        page.wait_for_timeout(800)

    def under(page: Page) -> None:
        page.get_by_role("button", name="Read and minded").click()
        page.get_by_role("button", name="Board 6 bridge 0 of").click()
        for label in ("G6", "G8"):
            page.locator("li button", has_text=label).click()
            page.get_by_role("button", name="Cut and metered").click()
            page.wait_for_timeout(300)
            page.get_by_role("button", name="All", exact=True).click()
        page.locator("li button", has_text="F33").click()
        page.wait_for_timeout(500)

    def joints(page: Page) -> None:
        page.get_by_role("button", name="Taller").click()
        page.get_by_test_id("joints").wait_for()

    def readings(page: Page) -> None:
        page.evaluate(READINGS)
        page.reload()
        page.get_by_test_id("readings").wait_for()
        page.get_by_role("button", name="Fit").click()
        page.wait_for_timeout(1500)

    def find_it(page: Page) -> None:
        page.get_by_label("Whose lamp is out").select_option("Breaker Harbour yard")
        page.get_by_role("form", name="What is seen").get_by_role("button", name="Find it").click()
        for shown in ("310 mV", "340 mV"):
            page.get_by_label("What the meter shows").fill(shown)
            page.keyboard.press("Enter")
            page.wait_for_timeout(900)
        page.get_by_role("button", name="Show", exact=True).click()
        page.wait_for_timeout(1200)

    return {
        "wire-volts": ({}, nothing),
        "layouts": ({"path": "layouts"}, nothing),
        "track-drawing": ({"hash": "#track"}, drawing),
        "phase": ({"hash": "#track"}, phase),
        "trains": ({"hash": "#trains"}, nothing),
        "zones": ({"hash": "#zones"}, nothing),
        "reverse-proposals": ({"hash": "?layout=before-the-gaps#reverse"}, proposals),
        "detect-blocks": ({"hash": "?layout=signalled#detect"}, placed),
        "signal-aspects": ({"hash": "?layout=signalled#signal"}, aspects),
        "rehearse": ({"path": "l/signalled/rehearse/strips"}, evening),
        "cabs": ({"hash": "?layout=millbeck#cabs"}, nothing),
        "wire-table": ({"hash": "#table"}, nothing),
        "book": ({"hash": "#book"}, book),
        "track-trace": ({"path": "l/traced/track"}, traced),
        "under-boards": ({"path": "under?layout=gannet-bay", "viewport": {"width": 390, "height": 844}}, under),
        "brief": ({"hash": "#brief"}, nothing),
        "travel": ({"path": "l/harbour-arm/travel"}, joints),
        "bench-readings": ({"path": "l/gannet-bay/bench/readings"}, readings),
        "bench-find": ({"path": "l/gannet-bay/bench/find", "color_scheme": "dark"}, find_it),
    }


def main(only: list[str]) -> None:
    OUT.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as play:
        store = Store(Path(folder) / "club.sqlite3")
        store.add("gannet-bay", gannet_bay())
        store.add("before-the-gaps", before_the_gaps())
        store.add("signalled", signalled_bay())
        store.add("millbeck", millbeck())
        store.add("harbour-arm", harbour_arm())
        store.add("traced", over_a_picture(store))
        app = create_app(store)
        server = uvicorn.Server(uvicorn.Config(app, port=0, log_level="error", lifespan="off"))
        thread = threading.Thread(target=server.run, daemon=True)
        thread.start()
        while not server.started:
            thread.join(0.05)
        port = server.servers[0].sockets[0].getsockname()[1]
        browser = play.chromium.launch(executable_path=CHROMIUM, headless=True, args=FLAGS)
        for name, (how, act) in views().items():
            if only and name not in only:
                continue
            context = browser.new_context(
                viewport=how.get("viewport", {"width": 1280, "height": 800}),
                device_scale_factor=1,
                reduced_motion="reduce",
                locale="en-GB",
                color_scheme=how.get("color_scheme", "light"),
            )
            page = context.new_page()
            where = how.get("hash", "")
            opens = how.get("path", "" if where.startswith("?") else "?layout=gannet-bay")
            page.goto(f"http://127.0.0.1:{port}/{opens}{where}")
            settle(page)
            act(page)
            page.screenshot(path=OUT / f"{name}.png")
            context.close()
            print(f"docs/screenshots/{name}.png")
        browser.close()
        app.state.live.close()
        server.should_exit = True
        thread.join()
        store.close()


if __name__ == "__main__":
    main(sys.argv[1:])
