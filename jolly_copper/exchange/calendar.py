"""The club's dates as iCalendar (RFC 5545), for any calendar."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator, Mapping
from datetime import UTC, date, datetime, time, timedelta

from icalendar import Calendar, Event

from jolly_copper.core.layout.dates import ClubDate
from jolly_copper.core.layout.document import Layout

KINDS = {"building": "Building", "show": "Show", "test": "Test", "other": ""}
RULES = {"week": ("WEEKLY", 1), "fortnight": ("WEEKLY", 2), "year": ("YEARLY", 1)}
AGAIN_AFTER = timedelta(days=365)


def calendar(layout: Layout, layout_id: str, stamp: str, notes: Mapping[str, str], tested: str | None = None) -> bytes:
    """All dates of a layout.

    Args:
        layout: with its dates. layout_id: for ids that stay. stamp: ISO time the layout was last changed. notes: what
        there is to do, by kind of date. tested: ISO day of the last test by meter; a year later it is due again.
    """
    made = Calendar()
    made.add("prodid", "-//Jolly Copper//club dates//EN")
    made.add("version", "2.0")
    made.add("x-wr-calname", f"{layout.name}, {layout.club}".rstrip(", "))
    when = datetime.fromisoformat(stamp).astimezone(UTC)
    for key, entry in layout.dates.items():
        made.add_component(_event(layout_id, key, entry, when, notes.get(entry.kind, "")))
    for event in _due(layout, layout_id, when, tested):
        made.add_component(event)
    return bytes(made.to_ical())


def _event(layout_id: str, key: str, entry: ClubDate, stamp: datetime, note: str) -> Event:
    event = Event()
    event.add("uid", _uid(layout_id, key))
    event.add("dtstamp", stamp)
    kind = KINDS[entry.kind]
    event.add("summary", f"{kind}: {entry.name}" if kind else entry.name)
    day = date.fromisoformat(entry.day)
    if entry.starts is None:
        event.add("dtstart", day)
        event.add("dtend", day + timedelta(days=1))
    else:
        # Of the place it is at: a time without a zone, which every calendar shows as it stands.
        event.add("dtstart", datetime.combine(day, time.fromisoformat(entry.starts)))
        if entry.ends is not None:
            event.add("dtend", datetime.combine(day, time.fromisoformat(entry.ends)))
    if entry.every in RULES:
        often, step = RULES[entry.every]
        rule: dict[str, object] = {"freq": often, "interval": step}
        if entry.until is not None:
            last = date.fromisoformat(entry.until)
            rule["until"] = last if entry.starts is None else datetime.combine(last, time(23, 59))
        event.add("rrule", rule)
    if entry.place:
        event.add("location", entry.place)
    words = "\n\n".join(w for w in (entry.note, note) if w)
    if words:
        event.add("description", words)
    return event


def _due(layout: Layout, layout_id: str, stamp: datetime, tested: str | None) -> Iterator[Event]:
    """The yearly test, a year after anything was last metered; common practice, no source."""
    if tested is None or any(d.kind == "test" for d in layout.dates.values()):
        return
    event = Event()
    event.add("uid", _uid(layout_id, "yearly-test"))
    event.add("dtstamp", stamp)
    event.add("summary", "Test: coin test in every district, and the places that must be sound")
    day = date.fromisoformat(tested[:10]) + AGAIN_AFTER
    event.add("dtstart", day)
    event.add("dtend", day + timedelta(days=1))
    event.add("description", "A year after the last reading. A coin is touched, never held. Step Bench has the list.")
    yield event


def _uid(layout_id: str, key: str) -> str:
    return hashlib.sha256(f"{layout_id}/{key}".encode()).hexdigest()[:32] + "@jolly-copper"
