"""What every file reader and writer shares: a refusal in words, and cells no spreadsheet takes for a formula."""

from __future__ import annotations

import csv
import io
import itertools
import math
import re
from typing import Any


class FileRefused(ValueError):
    """A file that cannot be taken, in a plain sentence."""


STARTS = re.compile(r"(^\s*|[;\t\r\n]\s*)(?=[=+\-@\t\r])")
ESCAPED = re.compile(r"(^\s*|[;\t\r\n]\s*)'(?=[=+\-@\t\r])")
CONTROL = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f\x7f-\x9f\ufffe\uffff]")


def safe(text: str) -> str:
    """A cell no spreadsheet takes for a formula: an apostrophe goes before it where it would.

    Also within a cell after a semicolon, which parts cells where the comma is for decimals.

    >>> safe("=1+1"), safe("Yard; =1+1"), safe("Yard 1+1")
    ("'=1+1", "Yard; '=1+1", 'Yard 1+1')
    """
    return STARTS.sub(r"\1'", printable(text))


def unsafe(text: str) -> str:
    """What was in a cell before `safe`.

    >>> unsafe(safe("-5; @x"))
    '-5; @x'
    """
    return ESCAPED.sub(r"\1", text)


def printable(text: str) -> str:
    """A text without control characters, which workbooks and pages cannot hold.

    >>> printable("a\\x07b\\n")
    'ab\\n'
    """
    return CONTROL.sub("", text)


Row = dict[str, Any]


def read_rows(data: bytes, needed: frozenset[str], most: int) -> list[Row]:
    """The rows of a CSV file whose first row names its columns.

    Args:
        data: the file. needed: columns it must have. most: rows it may have.

    Raises:
        FileRefused: it is no such file, or has more rows.
    """
    try:
        rows = list(itertools.islice(csv.DictReader(io.StringIO(data.decode("utf-8-sig"))), most + 1))
    except (UnicodeDecodeError, csv.Error):
        raise FileRefused("This cannot be read as CSV (UTF-8).") from None
    if not rows or not needed <= set(rows[0]):
        raise FileRefused(f"The first row must name the columns; {' and '.join(sorted(needed))} are needed.")
    if len(rows) > most:
        raise FileRefused(f"That is over {most} rows.")
    return rows


def cell(row: Row, field: str) -> str:
    """What stands in a column, as `safe` found it; empty where there is none."""
    return unsafe(str(row.get(field) or "").strip())


def number_in(row: Row, field: str, number: int, least: float, most: float) -> float:
    """A number in a column, with a point or a comma. number: of the row.

    Raises:
        FileRefused: it is none, or lies beyond.
    """
    text = cell(row, field).replace(",", ".")
    try:
        value = float(text)
    except ValueError:
        value = math.nan
    if not least <= value <= most:
        raise FileRefused(f"Row {number}: {field} must be a number from {least:g} to {most:g}, not “{text[:20]}”.")
    return value


def id_for(wanted: str, number: int, usual: str) -> str:
    """An id made from a text; `usual` and the number of the row where none can be made."""
    plain = re.sub(r"[^A-Za-z0-9_.-]+", "-", wanted).strip("-")[:36]
    return plain if re.fullmatch(r"[A-Za-z][A-Za-z0-9_.-]{0,39}", plain) else f"{usual}{number}"
