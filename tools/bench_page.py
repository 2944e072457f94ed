"""From Enter to new ink and new findings in the browser, on the demo. Run by `make bench`.

What is typed is a length that was never typed before: a document seen already is not worked out again, and that is
quicker by half than what a person waits for.
"""

from __future__ import annotations

import tempfile
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from tests.web.conftest import CHROMIUM, FLAGS
from tools.served import Served
from tools.times import tell_times

EDITS = 24
HAND_MS = 150
"""From the last letter to Enter: a quick typist."""
WATCH = """() => {
  window.times = { enter: 0, ink: 0, findings: 0, frame: 0 };
  addEventListener("keydown", (e) => {
    if (e.key !== "Enter") return;
    window.times = { enter: performance.now(), ink: 0, findings: 0, frame: 0 };
    requestAnimationFrame(() => requestAnimationFrame(() => { window.times.frame = performance.now(); }));
  }, true);
  const later = (what) => {
    const t = window.times;
    if (!t.enter || t[what]) return;
    t[what] = -1;
    requestAnimationFrame(() => requestAnimationFrame(() => { t[what] = performance.now(); }));
  };
  const ink = document.querySelector("[data-testid=rails-volts]");
  new MutationObserver(() => later("ink")).observe(ink, { subtree: true, childList: true, attributes: true });
  const list = document.querySelector("[data-testid=findings]");
  new MutationObserver(() => list.getAttribute("aria-busy") === "false" && window.times.ink && later("findings"))
    .observe(list, { attributes: true, attributeFilter: ["aria-busy"] });
}"""


def _edit(page: Page, length: str) -> dict[str, float]:
    field = page.get_by_test_id("inspector").get_by_label("Length by tape")
    field.fill(length)
    page.wait_for_timeout(HAND_MS)
    field.press("Enter")
    page.wait_for_function("() => window.times.ink > 0 && window.times.findings > 0", timeout=30_000)
    page.wait_for_timeout(400)
    return page.evaluate("() => window.times")  # type: ignore[no-any-return]


def main() -> None:
    """Print the median and the 95 % figure of ink and findings, beside an empty frame of the same page."""
    with (
        tempfile.TemporaryDirectory() as folder,
        sync_playwright() as play,
        Served(Path(folder) / "demo.sqlite3", command="demo") as program,
    ):
        browser = play.chromium.launch(executable_path=CHROMIUM, headless=True, args=FLAGS)
        page = browser.new_page(viewport={"width": 1280, "height": 800}, reduced_motion="reduce")
        page.goto(f"{program.url}/l/gannet-bay/wire?look=volts&thing=run:W1")
        page.get_by_test_id("next").wait_for()
        page.wait_for_timeout(1500)
        page.evaluate(WATCH)
        for warm in ("58 ft", "59 ft"):
            _edit(page, warm)
        new = [_edit(page, f"{60 + n} ft") for n in range(EDITS)]
        seen = [_edit(page, f"{61 + n % 3} ft") for n in range(EDITS)][3:]
        browser.close()
    for name, key in (("an empty frame", "frame"), ("Enter to new ink", "ink"), ("Enter to findings", "findings")):
        tell_times(name, [(t[key] - t["enter"]) / 1000 for t in new])
    tell_times("Enter to ink seen before", [(t["ink"] - t["enter"]) / 1000 for t in seen])


if __name__ == "__main__":
    main()
