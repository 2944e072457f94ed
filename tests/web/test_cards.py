"""The card of every kind of thing, and every step: words for people, no trace of the program that makes them."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from jolly_copper.demo import DEMOS
from tests.web.test_accessible import STEPS, settled

CODE = re.compile(r"&&|\|\||===|=>|\bundefined\b|\bNaN\b|\[object|\bnull\b|\bInfinity\b|\$\{")
"""What only a program says."""
GO = """(to) => {
  history.pushState({}, "", to);
  dispatchEvent(new PopStateEvent("popstate"));
  return new Promise((drawn) => requestAnimationFrame(() => requestAnimationFrame(drawn)));
}"""
KINDS = {
    "boards": "board",
    "obstacles": "obstacle",
    "nodes": "node",
    "tracks": "track",
    "gaps": "gap",
    "sections": "section",
    "devices": "device",
    "runs": "run",
    "terminals": "terminal",
    "plugs": "plug",
    "feeders": "feeder",
    "loads": "load",
    "detectors": "detector",
    "signals": "signal",
    "drivers": "driver",
    "braking": "braking",
    "isolated": "isolated",
}


def looked_at(demo: str) -> list[tuple[str, str]]:
    """Things to open: of every kind the first, and of nodes and devices one of each kind they come in."""
    layout = DEMOS[demo]()
    found: dict[tuple[str, str], tuple[str, str]] = {}
    for things, kind in KINDS.items():
        for i, thing in getattr(layout, things).items():
            found.setdefault((kind, str(getattr(thing, "kind", ""))), (kind, i))
    return list(found.values())


@pytest.mark.parametrize("demo", ["gannet-bay-signalled", "tinplate-lane", "millbeck", "harbour-arm"])
def test_every_card_speaks_in_words(page: Page, base_url: str, demo: str) -> None:
    page.goto(f"{base_url}/l/{demo}/track")
    settled(page)
    card = page.get_by_test_id("inspector")
    for kind, thing in looked_at(demo):
        page.evaluate(GO, f"/l/{demo}/track?thing={kind}:{thing}")
        heading = card.get_by_role("heading", level=2).first
        expect(heading, f"{kind} {thing}").not_to_be_empty()
        text = card.inner_text()
        assert not CODE.search(text), f"{kind} {thing}: {text}"
        assert len(text) > 20, f"{kind} {thing} says nothing"


@pytest.mark.parametrize("demo", ["gannet-bay", "tinplate-lane"])
def test_every_step_speaks_in_words(page: Page, base_url: str, demo: str) -> None:
    page.goto(f"{base_url}/l/{demo}/brief")
    settled(page)
    for step in STEPS:
        page.evaluate(GO, f"/l/{demo}/{step}")
        expect(page).to_have_url(re.compile(f"/{step}"))
        settled(page)
        text = page.locator("body").inner_text()
        found = CODE.search(text)
        assert not found, f"{step}: …{text[max(found.start() - 60, 0) : found.end() + 60]}…"


@pytest.mark.parametrize(("demo", "turned"), [("tinplate-lane", False), ("millbeck", True)])
def test_a_frog_of_the_outer_rails_has_nothing_to_choose(page: Page, base_url: str, demo: str, turned: bool) -> None:
    """On three-rail track nothing turns a frog and none routes power, so neither is asked for."""
    node = next(i for i, n in DEMOS[demo]().nodes.items() if n.kind == "turnout")
    page.goto(f"{base_url}/l/{demo}/track?thing=node:{node}")
    settled(page)
    card = page.get_by_test_id("inspector")
    expect(card.get_by_label("Hand")).to_be_visible()
    expect(card.get_by_label("Frog turned by")).to_have_count(1 if turned else 0)
    ways = card.get_by_label("Frog", exact=True).locator("option").all_inner_texts()
    assert ("routing" in ways) is turned
    expect(card.get_by_text("Go on from here by numbers")).to_have_count(0)
