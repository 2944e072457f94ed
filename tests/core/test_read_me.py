"""Read me first: what a stranger needs, on railroads of every control, and nothing made up."""

from __future__ import annotations

import pytest

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.wirebook.book import Book, Chapter, Paragraphs, Table
from jolly_copper.core.wirebook.read_me import MOST_CHANGES, Remembered, Written, keeping_chapters, read_me
from jolly_copper.demo import gannet_bay, harbour_arm, millbeck, signalled_bay, tinplate_lane
from jolly_copper.exchange.book_text import WIDE, book_text


def blocks(chapter: Chapter) -> dict[str, Paragraphs | Table]:
    return {b.title: b for b in chapter.blocks if isinstance(b, Paragraphs | Table)}


def lines(chapter: Chapter, title: str) -> tuple[str, ...]:
    found = blocks(chapter)[title]
    assert isinstance(found, Paragraphs)
    return found.lines


@pytest.mark.parametrize("make", [gannet_bay, signalled_bay, harbour_arm, millbeck, tinplate_lane])
def test_every_source_and_everything_that_opens_is_told(make: type[Layout]) -> None:
    layout = make()
    chapter = read_me(derive(layout, next(iter(layout.scenes), None)))
    said = " ".join(lines(chapter, "Switch it on, in this order"))
    for device in layout.devices.values():
        if device.kind in ("supply", "station", "booster", "cab", "transformer output"):
            assert device.name in said
    opens = blocks(chapter)["If part of it stops"]
    assert isinstance(opens, Table)
    assert {r[0] for r in opens.rows} == {d.name for d in layout.devices.values() if d.trip_amps is not None}
    assert "licensed" in opens.note and layout.name in lines(chapter, "What it is")[0]


def test_supplies_come_before_what_hangs_on_them() -> None:
    order = lines(read_me(derive(harbour_arm(), "show")), "Switch it on, in this order")
    assert [o.split(" (")[0] for o in order] == ["Supply 12 V", "Booster"]


def test_tests_and_troubles_are_those_that_were_written() -> None:
    chapter = read_me(derive(harbour_arm()))
    assert lines(chapter, "Last tests") == ("Nothing is proved by meter yet.",)
    assert lines(chapter, "Open troubles") == ("None is written down.",)
    known = Remembered(tests=("gap G1: open",), troubles=tuple(f"trouble {n}" for n in range(30)))
    chapter = read_me(derive(harbour_arm()), known)
    assert lines(chapter, "Last tests") == ("gap G1: open",)
    assert len(lines(chapter, "Open troubles")) == 12, "one page: the archive has them all"


def test_an_empty_layout_makes_no_promises() -> None:
    chapter = read_me(derive(Layout(name="Paper")))
    assert lines(chapter, "Switch it on, in this order") == ("No source of power is drawn yet.",)


def test_what_a_club_changed_and_decided_is_kept() -> None:
    layout = apply_patch(
        harbour_arm(),
        [
            {"op": "replace", "path": "/brief/rules/coin_margin", "value": 2.0},
            {"op": "add", "path": "/accepted/x:1", "value": {"reason": "It has always been so", "by": "Ada"}},
        ],
    )
    notes = (
        Written("decision", "", "Sockets face the booster", "Ada", "2026-11-20"),
        Written("note", "", "hums", "", ""),
    )
    history = tuple(Written("change", "", f"{n}. Change", "Ada", "2026-11-20") for n in range(MOST_CHANGES + 5))
    chapters = {c.key: c for c in keeping_chapters(derive(layout), Remembered(notes=notes, history=history))}
    assert list(chapters) == ["rules", "decisions", "notebook", "history"]
    (rules,) = chapters["rules"].blocks
    assert isinstance(rules, Table) and [r[0] for r in rules.rows] == ["Coin test margin"]
    (decided,) = chapters["decisions"].blocks
    assert isinstance(decided, Table)
    assert [r[3] for r in decided.rows] == ["Accepted: It has always been so", "Sockets face the booster"]
    (told,) = chapters["history"].blocks
    assert isinstance(told, Table) and len(told.rows) == MOST_CHANGES and "the archive has all" in told.note
    assert keeping_chapters(derive(harbour_arm()), Remembered()) == []


def test_as_plain_text_no_line_is_longer_than_a_screen() -> None:
    layout = signalled_bay()
    chapter = read_me(derive(layout))
    text = book_text(Book(layout.name, layout.club, "", 3, "2026-11-30", (chapter,)))
    assert all(len(line) <= WIDE for line in text.splitlines()), max(text.splitlines(), key=len)
    assert "READ ME FIRST" in text and "Breaker Quarry branch" in text
