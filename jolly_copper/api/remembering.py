"""What stands beside a layout, gathered for Read me first, the book's last pages, the search and the archive."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.words import thing_words
from jolly_copper.core.wirebook.read_me import Remembered, Written
from jolly_copper.store import Revision, Store, work_log, work_of
from jolly_copper.store.bench import hunts_of, readings_of
from jolly_copper.store.notes import Note, notes_of
from jolly_copper.store.shows import show_entries

MOST_HISTORY = 500
MOST_FOUND = 200


def remembered(store: Store, found: Revision, titles: Mapping[str, str]) -> Remembered:
    """Last tests, open troubles, the notebook and the history of a layout. titles: of the tests there are, by key."""
    layout, key = found.layout, found.layout_id
    return Remembered(
        tests=tuple(_tests(store, key, titles)),
        troubles=open_troubles(store, found),
        notes=tuple(written(layout, n) for n in notes_of(store, key)),
        history=tuple(
            Written("change", "", f"{h['number']}. {h['summary']}", h["who"], h["made"][:16].replace("T", " "))
            for h in store.history(key, MOST_HISTORY, found.number + 1)
        ),
    )


def plain_key(key: str) -> str:
    """A key as a person reads it, where nothing knows its title."""
    return key.replace(":", " ")


def written(layout: Layout, note: Note) -> Written:
    """A note as it is told, with what it is about by name."""
    return Written(note.kind, thing_words(layout, note.about), note.text or "a photo", note.who, note.made)


def _tests(store: Store, layout_id: str, titles: Mapping[str, str]) -> Iterator[str]:
    """The last reading of each test, what is not sound first, then the newest."""
    last = {r.test: r for r in readings_of(store, layout_id)}
    newest = sorted(last.values(), key=lambda r: r.done, reverse=True)
    for r in sorted(newest, key=lambda r: r.sound != 0):
        how = {0: "not sound", 1: "sound"}.get(r.sound if r.sound is not None else -1, "settles nothing")
        by = f", {r.who}" if r.who else ""
        yield f"{titles.get(r.test) or plain_key(r.test)}: read {r.shown}, {how} ({r.done[:10]}{by})"


def open_troubles(store: Store, found: Revision) -> tuple[str, ...]:
    """Troubles nobody has ended: of the notebook, of work under the boards, and hunts that go on."""
    return tuple(_troubles(store, found.layout, found.layout_id))


def _troubles(store: Store, layout: Layout, layout_id: str) -> Iterator[str]:
    for note in notes_of(store, layout_id):
        if note.kind == "trouble":
            about = thing_words(layout, note.about)
            by = f", {note.who}" if note.who else ""
            yield f"{about + ': ' if about else ''}{note.text or 'a photo'} ({note.made[:10]}{by})"
    for e in work_of(store, layout_id).values():
        if e.state == "trouble":
            yield f"{plain_key(e.task)}: {e.note or 'trouble'} ({e.done[:10]}{', ' + e.who if e.who else ''})"
    for h in hunts_of(store, layout_id):
        if not h.closed:
            yield f"A hunt begun on {h.opened[:10]} is not ended: {h.symptom.get('kind', 'a fault')}"


def search(store: Store, found: Revision, text: str) -> list[Written]:
    """Everything written about a layout that holds all words of a text: notes, decisions, what was done and tried,
    readings, changes. The newest first."""
    words = text.casefold().split()
    if not words:
        return []
    hits = [w for w in _all_written(store, found) if all(x in f"{w.about} {w.text} {w.who}".casefold() for x in words)]
    return sorted(hits, key=lambda w: w.on, reverse=True)[:MOST_FOUND]


def _all_written(store: Store, found: Revision) -> Iterator[Written]:
    layout, key = found.layout, found.layout_id
    yield from (written(layout, n) for n in notes_of(store, key))
    for thing, accepted in layout.accepted.items():
        yield Written("decision", plain_key(thing), accepted.reason, accepted.by, accepted.on)
    for e in work_log(store, key, 20_000):
        if e.note or e.reading:
            yield Written("work", plain_key(e.task), " ".join((e.reading, e.note)).strip(), e.who, e.done)
    for r in readings_of(store, key):
        yield Written("reading", plain_key(r.test), f"{r.shown} {r.verdict} {r.note}".strip(), r.who, r.done)
    for s in show_entries(store, key):
        yield Written("show", plain_key(s.what), f"{s.show}: {s.state} {s.note}".strip(), s.who, s.done)
    for h in hunts_of(store, key):
        said = f"{h.symptom.get('kind', '')} {h.cause or ''} {h.mend}".strip()
        yield Written("hunt", "", said, h.who, h.closed or h.opened)
    for c in store.history(key, 20_000):
        yield Written("change", "", f"{c['number']}. {c['summary']}", c["who"], c["made"])
