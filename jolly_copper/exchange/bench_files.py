"""Readings as a table: for the club's own sheet, and back again."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Sequence

from openpyxl import Workbook, load_workbook

from jolly_copper.exchange.cells import safe

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


def readings_csv(layout: str, rows: Iterable[Sequence[str]]) -> str:
    """One row for each reading, in the order of `READING_HEADS`."""
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\r\n")
    table.writerow([safe(layout)])
    table.writerow(READING_HEADS)
    table.writerows([safe(x) for x in row] for row in rows)
    return out.getvalue()


def readings_xlsx(layout: str, rows: Iterable[Sequence[str]]) -> bytes:
    """The same as a workbook of one sheet."""
    book = Workbook()
    sheet = book.active
    assert sheet is not None
    sheet.title = "Readings"
    sheet.append([safe(layout)])
    sheet.append(list(READING_HEADS))
    for row in rows:
        sheet.append([safe(x) for x in row])
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


MOST_ROWS = 1000


def rows_of(name: str, file: bytes) -> list[dict[str, str]]:
    """The rows of such a table, each by the titles over it.

    Raises:
        ValueError: it is no table of readings, with a sentence.
    """
    rows = _workbook(file) if name.lower().endswith(".xlsx") else _text(file)
    head = next((n for n, r in enumerate(rows) if {"Test", "Reading"} <= set(r)), None)
    if head is None:
        raise ValueError(f"No table of readings: a row with the titles {', '.join(READING_HEADS[:4])} is wanted.")
    titles = rows[head]
    return [dict(zip(titles, r, strict=False)) for r in rows[head + 1 : head + 1 + MOST_ROWS] if any(r)]


def _text(file: bytes) -> list[list[str]]:
    return [r for r in csv.reader(io.StringIO(file.decode("utf-8-sig", errors="replace"))) if r]


def _workbook(file: bytes) -> list[list[str]]:
    try:
        book = load_workbook(io.BytesIO(file), read_only=True, data_only=True)
    except Exception as error:  # whatever a damaged archive makes of itself
        raise ValueError("This is no workbook that can be opened.") from error
    sheet = book.worksheets[0]
    found = []
    for row in sheet.iter_rows(max_row=MOST_ROWS + 10, max_col=len(READING_HEADS) + 4, values_only=True):
        found.append(["" if x is None else str(x) for x in row])
    return found
