"""The roster as CSV: every engine by its number, and back."""

from __future__ import annotations

import csv
import io
from typing import Any

from jolly_copper.core.layout.document import Layout
from jolly_copper.exchange.cells import FileRefused, Row, cell, id_for, number_in, read_rows, safe

COLUMNS = (
    "number",
    "name",
    "kind",
    "most_volts",
    "standing_amps",
    "running_amps",
    "held_amps",
    "stops_in_mm",
    "settings",
    "reacts",
    "troubles",
)
FIELDS = {
    "most_volts": ("most_volts", 0.1, 30),
    "standing_amps": ("idle", 0, 100),
    "running_amps": ("running", 0, 100),
    "held_amps": ("stall", 0, 100),
    "stops_in_mm": ("stops_in", 1, 20_000),
}
MOST_ROWS = 2000


def roster_csv(layout: Layout) -> str:
    """Every engine, a row each; kinds by name."""
    out = io.StringIO()
    table = csv.writer(out)
    table.writerow(COLUMNS)
    for e in layout.engines.values():
        figures = [getattr(e, field) for field, _, _ in FIELDS.values()]
        said = [e.number if e.number is not None else "", safe(e.name), safe(layout.locos[e.kind].name)]
        said += ["" if f is None else f for f in figures]
        table.writerow([*said, safe(e.settings), safe(e.reacts), safe(e.troubles)])
    return out.getvalue()


def read_roster(data: bytes, layout: Layout) -> list[dict[str, Any]]:
    """Engines of a file as a JSON Patch: a number or a name that is known is changed, others are new.

    Raises:
        FileRefused: with the row and what is wrong there; nothing is taken then.
    """
    rows = read_rows(data, frozenset({"name", "kind"}), MOST_ROWS)
    kinds = {k.name.lower(): i for i, k in layout.locos.items()} | {i.lower(): i for i in layout.locos}
    by_number = {e.number: i for i, e in layout.engines.items() if e.number is not None}
    by_name = {e.name.lower(): i for i, e in layout.engines.items()}
    seen: dict[str, int] = {}
    patch: list[dict[str, Any]] = []
    for number, row in enumerate(rows, start=2):
        value = _engine(row, number, kinds)
        known = by_number.get(value.get("number", 0)) or by_name.get(str(value["name"]).lower())
        key = known or _fresh(layout, str(value["name"]), number, seen)
        if key in seen:
            raise FileRefused(f"Row {number}: the engine stands in row {seen[key]} already.")
        seen[key] = number
        before = layout.engines[key].model_dump(mode="json", exclude_defaults=True) if key in layout.engines else {}
        patch.append({"op": "add", "path": f"/engines/{key}", "value": {**before, **value}})
    return patch


def _fresh(layout: Layout, name: str, number: int, seen: dict[str, int]) -> str:
    key = id_for(name.lower().replace(" ", "-"), number, "engine")
    return key if key not in layout.engines and key not in seen else f"{key[:30]}-{number}"


def _engine(row: Row, number: int, kinds: dict[str, str]) -> dict[str, Any]:
    name, kind = cell(row, "name"), cell(row, "kind").lower()
    if not name:
        raise FileRefused(f"Row {number}: the name is missing.")
    if kind not in kinds:
        raise FileRefused(
            f"Row {number}: there is no kind of locomotive “{cell(row, 'kind')[:40]}”; step Trains has them."
        )
    value: dict[str, Any] = {"name": name[:80], "kind": kinds[kind]}
    if cell(row, "number"):
        value["number"] = int(number_in(row, "number", number, 1, 9999))
    for column, (field, least, most) in FIELDS.items():
        if cell(row, column):
            value[field] = number_in(row, column, number, least, most)
    for field in ("settings", "reacts", "troubles"):
        if cell(row, field):
            value[field] = cell(row, field)[:2000]
    return value
