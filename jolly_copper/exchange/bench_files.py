"""Readings as a table: for the club's own sheet, and back again."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Sequence

from openpyxl import Workbook

from jolly_copper.exchange.cells import safe
from jolly_copper.store.bench import Reading

READING_HEADS = (
    "Time",
    "Who",
    "Test",
    "Reading",
    "Load A",
    "Before",
    "Meter",
    "Foretold",
    "Verdict",
    "Sound",
    "Change",
    "Note",
    "Id",
)


def _row(r: Reading) -> Sequence[str]:
    sound = {1: "sound", 0: "not sound", None: ""}[r.sound]
    amps = "" if r.amps is None else f"{r.amps:g}"
    first = (r.done, r.who, r.test, r.shown, amps, r.before, r.meter, r.foretold)
    return (*first, r.verdict, sound, str(r.revision), r.note, r.id)


def readings_csv(layout: str, readings: Iterable[Reading]) -> str:
    """One row for each reading."""
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\r\n")
    table.writerow([safe(layout)])
    table.writerow(READING_HEADS)
    table.writerows([safe(x) for x in _row(r)] for r in readings)
    return out.getvalue()


def readings_xlsx(layout: str, readings: Iterable[Reading]) -> bytes:
    """The same as a workbook of one sheet."""
    book = Workbook()
    sheet = book.active
    assert sheet is not None
    sheet.title = "Readings"
    sheet.append([safe(layout)])
    sheet.append(list(READING_HEADS))
    for r in readings:
        sheet.append([safe(x) for x in _row(r)])
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()
