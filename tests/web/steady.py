"""Where a thing stands on the screen once it has stopped moving: for a mouse that has to press on it."""

from __future__ import annotations

from playwright.sync_api import FloatRect, Locator

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


def steady(thing: Locator) -> FloatRect:
    """The box of a thing that has kept its place for twenty frames, in pixels of the window."""
    thing.evaluate(SAME)
    box = thing.bounding_box()
    assert box is not None
    return box
