"""What is kept of the bench: meters, readings, hunts. Rows never changed, only followed by others."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from jolly_copper.store.layouts import Store
from jolly_copper.store.revision import NotFound, now

MOST_ROWS = 20_000


@dataclass(frozen=True)
class Meter:
    """A meter as the club calls it. factor: V over what it shows, by a bridge reading at the source; None where nobody
    held it against one."""

    id: str
    name: str
    setting: str
    factor: float | None
    checked: str
    who: str
    note: str


@dataclass(frozen=True)
class Reading:
    """A reading as somebody typed it, with what was foretold then.

    id: given by who sends it. told: mark of what the test said. shown: as typed. amps: of the load, as measured.
    before: volts just before, as typed. sound: 1 or 0; None where it settles nothing. withdraws: the id of a reading it
    takes back.
    """

    id: str
    revision: int
    test: str
    told: str
    meter: str
    shown: str
    unit: str
    value: float | None
    amps: float | None
    before: str
    foretold: str
    low: float | None
    high: float | None
    sound: int | None
    verdict: str
    who: str
    done: str
    note: str
    withdraws: str = ""


@dataclass(frozen=True)
class Hunt:
    """A hunt for a fault. symptom: as data. ended: what it was, with its mend and minutes; None while it goes on."""

    id: str
    revision: int
    symptom: dict[str, Any]
    who: str
    opened: str
    cause: str | None = None
    mend: str = ""
    minutes: float = 0.0
    closed: str = ""


@dataclass(frozen=True)
class HuntAnswer:
    """An answer in a hunt; `back` takes the one before it back."""

    act: str
    said: str
    who: str
    done: str


READING = (
    "id, revision, test, told, meter, shown, unit, value, amps, before, foretold, low, high, sound, verdict, who, "
    "done, note, withdraws"
)


def _there(store: Store, layout_id: str) -> None:
    with store.reading() as db:
        if db.execute("SELECT 1 FROM layout WHERE id = ? AND deleted IS NULL", (layout_id,)).fetchone() is None:
            raise NotFound(f"There is no layout {layout_id}.")


def add_readings(store: Store, layout_id: str, readings: Sequence[Reading]) -> int:
    """Keep readings; those kept already stay as they are. A time ahead of this machine's counts as now.

    Returns:
        How many were new.

    Raises:
        NotFound: there is no such layout.
    """
    _there(store, layout_id)
    taken = now()
    added = 0
    with store.writing() as db:
        for r in readings:
            values = (r.id, r.revision, r.test, r.told, r.meter, r.shown, r.unit, r.value, r.amps, r.before, r.foretold)
            rest = (r.low, r.high, r.sound, r.verdict, r.who, min(r.done, taken), r.note, r.withdraws)
            added += db.execute(
                f"INSERT OR IGNORE INTO reading (layout, taken, {READING}) VALUES ({', '.join('?' * 21)})",
                (layout_id, taken, *values, *rest),
            ).rowcount
    return added


def readings_of(store: Store, layout_id: str, most: int = MOST_ROWS) -> list[Reading]:
    """All that count, oldest first: without those taken back."""
    _there(store, layout_id)
    with store.reading() as db:
        rows = db.execute(
            f"SELECT {READING} FROM (SELECT * FROM reading WHERE layout = ? ORDER BY done DESC, number DESC LIMIT ?) "
            "ORDER BY done, number",
            (layout_id, most),
        ).fetchall()
    found = [Reading(*row) for row in rows]
    gone = {r.withdraws for r in found if r.withdraws}
    return [r for r in found if not r.withdraws and r.id not in gone]


def add_meter(store: Store, layout_id: str, meter: Meter) -> None:
    """Keep a meter, or a new calibration of one: of rows with one id the last counts."""
    _there(store, layout_id)
    with store.writing() as db:
        db.execute(
            "INSERT INTO meter (layout, id, name, setting, factor, checked, who, note) VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
            (layout_id, meter.id, meter.name, meter.setting, meter.factor, meter.checked, meter.who, meter.note),
        )


def meters_of(store: Store, layout_id: str) -> list[Meter]:
    """The club's meters as they were last checked."""
    with store.reading() as db:
        rows = db.execute(
            "SELECT id, name, setting, factor, checked, who, note FROM meter WHERE layout = ? ORDER BY number",
            (layout_id,),
        ).fetchall()
    return list({row[0]: Meter(*row) for row in rows}.values())


def open_hunt(store: Store, layout_id: str, hunt: Hunt) -> None:
    """Begin a hunt; one begun already stays as it is."""
    _there(store, layout_id)
    with store.writing() as db:
        db.execute(
            "INSERT OR IGNORE INTO hunt (id, layout, revision, symptom, who, opened) VALUES (?, ?, ?, ?, ?, ?)",
            (hunt.id, layout_id, hunt.revision, json.dumps(hunt.symptom, sort_keys=True), hunt.who, hunt.opened),
        )


def hunts_of(store: Store, layout_id: str) -> list[Hunt]:
    """All hunts, the newest first."""
    _there(store, layout_id)
    with store.reading() as db:
        rows = db.execute(
            "SELECT id, revision, symptom, who, opened, cause, mend, minutes, closed FROM hunt WHERE layout = ? "
            "ORDER BY number DESC LIMIT 500",
            (layout_id,),
        ).fetchall()
    return [Hunt(r[0], r[1], json.loads(r[2]), *r[3:]) for r in rows]


def hunt_of(store: Store, layout_id: str, hunt_id: str) -> tuple[Hunt, list[HuntAnswer]]:
    """A hunt with the answers that count.

    Raises:
        NotFound: there is none of that id.
    """
    hunt = next((h for h in hunts_of(store, layout_id) if h.id == hunt_id), None)
    if hunt is None:
        raise NotFound("There is no such hunt any more.")
    with store.reading() as db:
        rows = db.execute(
            "SELECT act, said, who, done FROM hunt_answer WHERE hunt = ? ORDER BY number", (hunt_id,)
        ).fetchall()
    kept: list[HuntAnswer] = []
    for row in rows:
        if row[1] == "back":
            kept = kept[:-1]
        else:
            kept.append(HuntAnswer(*row))
    return hunt, kept


def answer_hunt(store: Store, layout_id: str, hunt_id: str, answer_id: str, answer: HuntAnswer) -> None:
    """Keep an answer; sent twice it is kept once.

    Raises:
        NotFound: there is no such hunt.
    """
    hunt_of(store, layout_id, hunt_id)
    with store.writing() as db:
        db.execute(
            "INSERT OR IGNORE INTO hunt_answer (id, hunt, act, said, who, done) VALUES (?, ?, ?, ?, ?, ?)",
            (answer_id, hunt_id, answer.act, answer.said, answer.who, answer.done),
        )


def end_hunt(store: Store, layout_id: str, hunt_id: str, cause: str, mend: str, minutes: float) -> None:
    """Close a hunt with what it was; closed once, it stays as it is."""
    hunt_of(store, layout_id, hunt_id)
    with store.writing() as db:
        db.execute(
            "UPDATE hunt SET cause = ?, mend = ?, minutes = ?, closed = ? WHERE id = ? AND cause IS NULL",
            (cause, mend, minutes, now(), hunt_id),
        )
