"""Locomotives and trains as CSV, both ways."""

from __future__ import annotations

import csv
import io
import itertools
import math
import re
from typing import Any

from jolly_copper.core.layout.document import Layout
from jolly_copper.exchange.cells import FileRefused, safe, unsafe

COLUMNS = (
    "what",
    "id",
    "name",
    "idle_amps",
    "running_amps",
    "stall_amps",
    "measured_on",
    "engines",
    "length_mm",
    "lit_cars",
    "amps_per_lit_car",
    "inrush_amps",
)
MOST_ROWS = 1000


def fleet_csv(layout: Layout) -> str:
    """Every kind of locomotive and every train, a row each. Cells a spreadsheet takes for a formula get an
    apostrophe."""
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\r\n")
    table.writerow(COLUMNS)
    for i, k in layout.locos.items():
        table.writerow(
            [
                "kind",
                i,
                safe(k.name),
                k.idle,
                k.running,
                k.stall,
                k.measured_on or ("yes" if k.measured else ""),
                "",
                "",
                "",
                "",
                "" if k.inrush is None else k.inrush,
            ]
        )
    for i, t in layout.trains.items():
        table.writerow(
            [
                "train",
                i,
                safe(t.name),
                "",
                "",
                "",
                "",
                " ".join(t.engines),
                t.length,
                t.lit_cars,
                t.amps_per_lit_car,
                "",
            ]
        )
    return out.getvalue()


def read_fleet(data: bytes, layout: Layout) -> list[dict[str, Any]]:
    """A JSON Patch that takes a fleet file in: rows with a known id change that thing, others are new.

    Raises:
        FileRefused: with the row and what is wrong there; nothing is taken then.
    """
    try:
        rows = list(itertools.islice(csv.DictReader(io.StringIO(data.decode("utf-8-sig"))), MOST_ROWS + 1))
    except (UnicodeDecodeError, csv.Error):
        raise FileRefused("This cannot be read as CSV (UTF-8).") from None
    if not rows or not {"what", "name"} <= set(rows[0]):
        raise FileRefused("The first row must name the columns; what and name are needed.")
    if len(rows) > MOST_ROWS:
        raise FileRefused(f"That is over {MOST_ROWS} rows; a club has fewer trains.")
    patch: list[dict[str, Any]] = []
    ids: dict[str, str] = {}
    for number, row in sorted(enumerate(rows, start=2), key=lambda r: (r[1].get("what") or "") != "kind"):
        what = (row.get("what") or "").strip().lower()
        if what not in ("kind", "train"):
            raise FileRefused(f"Row {number}: what is “kind” or “train”, not “{what[:20]}”.")
        name = unsafe((row.get("name") or "").strip())
        if not name:
            raise FileRefused(f"Row {number}: the name is missing.")
        wanted = (row.get("id") or "").strip() or re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:36]
        i = wanted if re.fullmatch(r"[A-Za-z][A-Za-z0-9_.-]{0,39}", wanted) else f"n{number}"
        ids[wanted] = i
        value = _kind(row, number, name) if what == "kind" else _train(row, number, name, ids, layout)
        known = (layout.locos if what == "kind" else layout.trains).get(i)
        merged = {**(known.model_dump(mode="json") if known else {}), **value}
        patch.append({"op": "add", "path": f"/{'locos' if what == 'kind' else 'trains'}/{i}", "value": merged})
    return patch


def _number(row: dict[str, Any], field: str, number: int, least: float, most: float) -> float:
    text = (row.get(field) or "").strip().replace(",", ".")
    try:
        value = float(text)
    except ValueError:
        value = math.nan
    if not least <= value <= most:
        raise FileRefused(f"Row {number}: {field} must be a number from {least:g} to {most:g}, not “{text[:20]}”.")
    return value


def _kind(row: dict[str, Any], number: int, name: str) -> dict[str, Any]:
    day = (row.get("measured_on") or "").strip()
    dated = re.fullmatch(r"\d{4}-\d{2}-\d{2}", day)
    if day and not dated and day != "yes":
        raise FileRefused(f"Row {number}: measured_on is a day such as 2026-11-23, or empty.")
    amps = {f: _number(row, f"{f}_amps", number, 0, 100) for f in ("idle", "running", "stall")}
    if (row.get("inrush_amps") or "").strip():
        amps["inrush"] = _number(row, "inrush_amps", number, 0, 100)
    return {"name": name[:80], **amps, "measured": bool(day), "measured_on": day if dated else None}


def _train(row: dict[str, Any], number: int, name: str, ids: dict[str, str], layout: Layout) -> dict[str, Any]:
    engines = [ids.get(e, e) for e in (row.get("engines") or "").split()]
    unknown = [e for e in engines if e not in ids.values() and e not in layout.locos]
    if not engines or unknown:
        raise FileRefused(
            f"Row {number}: engines names kinds by id; {'there is no ' + unknown[0] if unknown else 'it is empty'}."
        )
    value: dict[str, Any] = {"name": name[:80], "engines": engines, "length": _number(row, "length_mm", number, 1, 1e6)}
    if (row.get("lit_cars") or "").strip():
        value["lit_cars"] = int(_number(row, "lit_cars", number, 0, 100))
    if (row.get("amps_per_lit_car") or "").strip():
        value["amps_per_lit_car"] = _number(row, "amps_per_lit_car", number, 0, 5)
    return value
