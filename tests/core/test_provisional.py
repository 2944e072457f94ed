"""Temporary feeds are reminded of; programming track stays by itself; the memory aid stands on every board's page."""

from __future__ import annotations

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.findings.check import check
from jolly_copper.core.findings.model import Finding
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.wirebook.book import Paragraphs
from jolly_copper.core.wirebook.compose import compose
from jolly_copper.demo import gannet_bay, harbour_arm
from jolly_copper.demo.drafting import Draft
from tests.layouts import booster, feeder, plain


def of_rule(layout: Layout, rule: str) -> list[Finding]:
    return [f for f in check(derive(layout)) if f.rule == rule]


def test_what_is_tied_for_the_time_being_is_reminded_of_until_it_is_done() -> None:
    d = plain()
    feeder(d, "F1", "t", 500, "T1", temporary=True)
    feeder(d, "F2", "t", 900, "T2")
    (found,) = of_rule(d.plain(), "tied for the time being")
    assert found.severity == "look" and found.title == "Feeder F1 on Track is tied for the time being"
    after = apply_patch(d.plain(), list(found.mends[0].patch))
    assert of_rule(after, "tied for the time being") == []


def siding(gapped: bool) -> Layout:
    d = Draft("Siding")
    d.node("N1", 0, 0, "bumper")
    d.node("N2", 1000, 0)
    d.node("N3", 2000, 0, "bumper")
    d.track("a", "Main", "N1.1", "N2.1", joiner_every=None)
    d.track("b", "Programming", "N2.2", "N3.1", joiner_every=None, use="programming")
    if gapped:
        d.gap("b", 40)
    booster(d)
    d.section("s", "Main", "a", 10, "main")
    return d.plain()


def test_programming_track_is_gapped_from_the_rest() -> None:
    (found,) = of_rule(siding(gapped=False), "programming track joined to the rest")
    assert found.title == "Programming is for programming, and its rails go on into Main without a gap"
    # Its foot before the gap is joined still, and harms nobody.
    assert of_rule(siding(gapped=True), "programming track joined to the rest") == []


def test_railroads_without_any_say_nothing() -> None:
    for layout in (gannet_bay(), harbour_arm()):
        assert of_rule(layout, "programming track joined to the rest") == []
        assert of_rule(layout, "tied for the time being") == []


def test_the_memory_aid_stands_on_every_boards_page() -> None:
    layout = harbour_arm()
    aid = apply_patch(layout, [{"op": "add", "path": "/brief/memory_aid", "value": "Red runs right"}])
    chapters = [c for c in compose(derive(aid), 1, "2026-11-30").chapters if c.key.startswith("board-")]
    assert chapters and all(any(b == Paragraphs("Remember", ("Red runs right",)) for b in c.blocks) for c in chapters)
    bare = [c for c in compose(derive(layout), 1, "2026-11-30").chapters if c.key.startswith("board-")]
    assert not any(b.title == "Remember" for c in bare for b in c.blocks)
