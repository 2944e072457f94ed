"""The record of work done, as CSV."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable

from jolly_copper.exchange.cells import safe


def work_csv(layout: str, rows: Iterable[tuple[str, ...]]) -> str:
    """One row for each entry: time, who, task, state, reading, note."""
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\r\n")
    table.writerow([safe(layout)])
    table.writerow(["Time", "Who", "Task", "State", "Reading", "Note"])
    table.writerows([safe(x) for x in row] for row in rows)
    return out.getvalue()
