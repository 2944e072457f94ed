"""Locomotives and trains as CSV, both ways."""

from __future__ import annotations

import csv
import io
import re
from typing import Any

from jolly_copper.core.layout.document import Layout
from jolly_copper.exchange.cells import FileRefused, cell, number_in, read_rows, safe

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
    "fill_seconds",
    "hold_seconds",
    "scale_kmh",
    "stops_in_mm",
    "helpers",
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
                "" if k.fill_seconds is None else k.fill_seconds,
                "" if k.hold_seconds is None else k.hold_seconds,
                "",
                "",
                "",
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
                "",
                "",
                "" if t.scale_kmh is None else t.scale_kmh,
                "" if t.stops_in is None else t.stops_in,
                t.helpers or "",
            ]
        )
    return out.getvalue()


def read_fleet(data: bytes, layout: Layout) -> list[dict[str, Any]]:
    """A JSON Patch that takes a fleet file in: rows with a known id change that thing, others are new.

    Raises:
        FileRefused: with the row and what is wrong there; nothing is taken then.
    """
    rows = read_rows(data, frozenset({"what", "name"}), MOST_ROWS)
    patch: list[dict[str, Any]] = []
    ids: dict[str, str] = {}
    for number, row in sorted(enumerate(rows, start=2), key=lambda r: (r[1].get("what") or "") != "kind"):
        what = (row.get("what") or "").strip().lower()
        if what not in ("kind", "train"):
            raise FileRefused(f"Row {number}: what is “kind” or “train”, not “{what[:20]}”.")
        name = cell(row, "name")
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


def _kind(row: dict[str, Any], number: int, name: str) -> dict[str, Any]:
    day = (row.get("measured_on") or "").strip()
    dated = re.fullmatch(r"\d{4}-\d{2}-\d{2}", day)
    if day and not dated and day != "yes":
        raise FileRefused(f"Row {number}: measured_on is a day such as 2026-11-23, or empty.")
    amps = {f: number_in(row, f"{f}_amps", number, 0, 100) for f in ("idle", "running", "stall")}
    if (row.get("inrush_amps") or "").strip():
        amps["inrush"] = number_in(row, "inrush_amps", number, 0, 100)
    for field in ("fill_seconds", "hold_seconds"):
        if (row.get(field) or "").strip():
            amps[field] = number_in(row, field, number, 0.001, 30)
    return {"name": name[:80], **amps, "measured": bool(day), "measured_on": day if dated else None}


def _train(row: dict[str, Any], number: int, name: str, ids: dict[str, str], layout: Layout) -> dict[str, Any]:
    engines = [ids.get(e, e) for e in (row.get("engines") or "").split()]
    unknown = [e for e in engines if e not in ids.values() and e not in layout.locos]
    if not engines or unknown:
        raise FileRefused(
            f"Row {number}: engines names kinds by id; {'there is no ' + unknown[0] if unknown else 'it is empty'}."
        )
    value: dict[str, Any] = {
        "name": name[:80],
        "engines": engines,
        "length": number_in(row, "length_mm", number, 1, 1e6),
    }
    if (row.get("lit_cars") or "").strip():
        value["lit_cars"] = int(number_in(row, "lit_cars", number, 0, 100))
    if (row.get("amps_per_lit_car") or "").strip():
        value["amps_per_lit_car"] = number_in(row, "amps_per_lit_car", number, 0, 5)
    if (row.get("scale_kmh") or "").strip():
        value["scale_kmh"] = number_in(row, "scale_kmh", number, 1, 400)
    if (row.get("stops_in_mm") or "").strip():
        value["stops_in"] = number_in(row, "stops_in_mm", number, 1, 20_000)
    if (row.get("helpers") or "").strip():
        value["helpers"] = int(number_in(row, "helpers", number, 0, 11))
    return value
