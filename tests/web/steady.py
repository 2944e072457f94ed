"""Where a thing stands on the screen once it has stopped moving: for a mouse that has to press on it."""

from __future__ import annotations

from playwright.sync_api import FloatRect, Locator, Page

# The answer to an edit may move things again long after the click that asked for it.
SAME = """(element) => new Promise((done) => {
  let last = '', same = 0;
  const look = () => {
    const box = element.getBoundingClientRect();
    const now = [box.x, box.y, box.width, box.height].join();
    same = now === last ? same + 1 : 0;
    last = now;
    same > 20 ? done(true) : requestAnimationFrame(look);
  };
  look();
})"""


# Nothing is asked of the server any more and nothing appears; a line held open for news is no question.
AT_REST = """() => new Promise((done) => {
  let last = '', same = 0;
  const look = () => {
    const asked = performance.getEntriesByType('resource').length;
    const now = [asked, document.querySelectorAll('*').length, document.body.textContent.length].join();
    same = now === last && !document.querySelector('[aria-busy=true]') ? same + 1 : 0;
    last = now;
    same > 15 ? done(true) : requestAnimationFrame(look);
  };
  look();
})"""


def at_rest(page: Page) -> None:
    """Wait until a page has shown the same for fifteen frames, with nothing busy."""
    page.evaluate(AT_REST)


def two_frames(page: Page) -> None:
    """Wait for what a key or a click does at once: two frames."""
    page.evaluate("() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)))")


def steady(thing: Locator) -> FloatRect:
    """The box of a thing that has kept its place for twenty frames, in pixels of the window."""
    thing.evaluate(SAME)
    box = thing.bounding_box()
    assert box is not None
    return box
