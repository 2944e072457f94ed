"""Names and numbers as files: `names.csv` and `names.json`, and lists read back."""

from __future__ import annotations

import csv
import io
import json
from typing import Any, Literal

from pydantic import BaseModel

from jolly_copper.core.signals.names import (
    COMPARED,
    LinkName,
    Names,
    RouteName,
    SectionName,
    SignalName,
    TurnoutName,
    cell_text,
    rows_of,
)
from jolly_copper.exchange.cells import FileRefused, cell, read_rows, safe

MOST_ROWS = 20_000
COLUMNS = ("what", "name", *dict.fromkeys(c for columns in COMPARED.values() for c in columns))
KINDS = {"sections": "section", "turnouts": "turnout", "signals": "signal", "routes": "route", "links": "link"}


def names_csv(names: Names) -> str:
    """All names in one table; the first column says what a row is of."""
    out = io.StringIO()
    table = csv.DictWriter(out, COLUMNS, restval="")
    table.writeheader()
    for row in rows_of(names):
        table.writerow({k: safe(v) for k, v in row.items()})
    return out.getvalue()


class NamesFile(BaseModel):
    """`names.json`: what a railroad calls its sections, turnouts, signals and routes, with their numbers."""

    names_version: Literal[1] = 1
    railroad: str
    revision: int
    sections: tuple[SectionName, ...]
    turnouts: tuple[TurnoutName, ...]
    signals: tuple[SignalName, ...]
    routes: tuple[RouteName, ...]
    links: tuple[LinkName, ...]


def names_json(names: Names, revision: int) -> str:
    """All names, each kind by itself; its schema is docs/names.schema.json."""
    return NamesFile(revision=revision, **vars(names)).model_dump_json(indent=1) + "\n"


def read_names(data: bytes) -> list[dict[str, str]]:
    """Rows of a list: of a CSV file with the columns `what` and `name`, or of a JSON file as `names_json` writes it.

    Raises:
        FileRefused: it is neither, or has too many rows.
    """
    if data.lstrip()[:1] == b"{":
        return _read_json(data)
    found = []
    for number, row in enumerate(read_rows(data, frozenset({"what", "name"}), MOST_ROWS), start=2):
        what, name = cell(row, "what").lower(), cell(row, "name")
        if what not in COMPARED:
            kinds = ", ".join(COMPARED)
            raise FileRefused(f"Row {number}: what is one of {kinds}, not “{what[:20]}”.")
        if not name:
            raise FileRefused(f"Row {number}: the name is missing.")
        found.append({k: cell(row, k) for k in row if isinstance(k, str)} | {"what": what, "name": name})
    return found


def _read_json(data: bytes) -> list[dict[str, str]]:
    try:
        told = json.loads(data)
    except (UnicodeDecodeError, ValueError, RecursionError):
        raise FileRefused("This cannot be read as JSON.") from None
    rows = [(what, x) for kind, what in KINDS.items() for x in _list(told, kind)]
    if len(rows) > MOST_ROWS:
        raise FileRefused(f"That is over {MOST_ROWS} names.")
    found = []
    for what, x in rows:
        if not isinstance(x, dict) or not isinstance(x.get("name"), str) or not x["name"].strip():
            raise FileRefused(f"One of the {what}s has no name.")
        found.append({"what": what, "name": x["name"].strip(), **_cells(x)})
    if not found:
        raise FileRefused(f"There are no names in it: it has none of {', '.join(KINDS)}.")
    return found


def _list(told: dict[str, Any], kind: str) -> list[Any]:
    found = told.get(kind, [])
    if not isinstance(found, list):
        raise FileRefused(f"{kind} must be a list.")
    return found


def _cells(x: dict[str, Any]) -> dict[str, str]:
    """What JSON says of a name, in the columns of the table."""
    renamed = {"output": "contact", "length": "length_mm", "start": "from", "end": "to"}
    found: dict[str, str] = {}
    for field, value in x.items():
        column = renamed.get(field, field)
        if column not in COLUMNS or column in ("what", "name"):
            continue
        if column == "outputs" and isinstance(value, list):
            found[column] = "; ".join(f"{o.get('number')} {o.get('lamp')}" for o in value if isinstance(o, dict))
        elif column == "turnouts" and isinstance(value, dict):
            found[column] = "; ".join(f"{k} {v}" for k, v in value.items())
        elif isinstance(value, list):
            found[column] = "; ".join(str(v) for v in value)
        else:
            found[column] = cell_text(value)
    return found
