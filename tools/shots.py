"""Refresh docs/screenshots from the demo, in the browser a person would use. Run by `make shots`."""

from __future__ import annotations

import tempfile
import threading
from collections.abc import Callable
from pathlib import Path
from typing import Any

import uvicorn
from playwright.sync_api import Page, sync_playwright

from jolly_copper.api import create_app
from jolly_copper.demo import gannet_bay
from jolly_copper.store import Store
from tests.conftest import CHROMIUM, FLAGS

OUT = Path(__file__).resolve().parents[1] / "docs" / "screenshots"


def settle(page: Page) -> None:
    page.wait_for_selector("main section, main aside")
    page.wait_for_timeout(2800)


def find(page: Page, what: str) -> None:
    page.keyboard.press("Control+k")
    page.keyboard.type(what)
    page.keyboard.press("Enter")
    page.wait_for_timeout(2500)


def views() -> dict[str, tuple[dict[str, Any], Callable[[Page], None]]]:
    def nothing(_: Page) -> None: ...

    def coin(page: Page) -> None:
        page.keyboard.press("c")
        page.wait_for_timeout(2500)

    def selected(page: Page) -> None:
        find(page, "bus w1")

    def finding(page: Page) -> None:
        page.locator("[data-finding^='circuit:']").get_by_role("button", name="Show").click()
        page.wait_for_timeout(2500)

    def preview(page: Page) -> None:
        page.get_by_role("button", name="Tie W1 together…").first.click()
        page.wait_for_timeout(2000)

    def finder(page: Page) -> None:
        page.keyboard.press("Control+k")
        page.keyboard.type("yard")
        page.wait_for_timeout(400)

    return {
        "wire-volts": ({}, nothing),
        "wire-coin-test": ({}, coin),
        "wire-bus-selected": ({}, selected),
        "wire-finding-shown": ({}, finding),
        "wire-mend-preview": ({}, preview),
        "wire-dark": ({"color_scheme": "dark"}, nothing),
        "finder": ({}, finder),
        "wire-table": ({"hash": "#table"}, nothing),
        "brief": ({"hash": "#brief"}, nothing),
        "quick-sums": ({"hash": "#sums"}, nothing),
    }


def main() -> None:
    OUT.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as play:
        store = Store(Path(folder) / "club.sqlite3")
        store.add("gannet-bay", gannet_bay())
        server = uvicorn.Server(uvicorn.Config(create_app(store), port=0, log_level="error", lifespan="off"))
        thread = threading.Thread(target=server.run, daemon=True)
        thread.start()
        while not server.started:
            thread.join(0.05)
        port = server.servers[0].sockets[0].getsockname()[1]
        browser = play.chromium.launch(executable_path=CHROMIUM, headless=True, args=FLAGS)
        for name, (how, act) in views().items():
            context = browser.new_context(
                viewport={"width": 1280, "height": 800}, device_scale_factor=1, reduced_motion="reduce", locale="en-GB",
                color_scheme=how.get("color_scheme", "light"),
            )  # fmt: skip
            page = context.new_page()
            page.goto(f"http://127.0.0.1:{port}/{how.get('hash', '')}")
            settle(page)
            act(page)
            page.screenshot(path=OUT / f"{name}.png")
            context.close()
            print(f"docs/screenshots/{name}.png")
        browser.close()
        server.should_exit = True
        thread.join()
        store.close()


if __name__ == "__main__":
    main()
