"""The runs of a plan as CSV, both ways: a row a train, and a row for each of its calls."""

from __future__ import annotations

import csv
import io
from collections.abc import Collection
from typing import Any, get_args

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.plans import MOST_CALLS, RunningPlan, RunsBy
from jolly_copper.core.layout.stock import TrackUse
from jolly_copper.exchange.cells import FileRefused, Row, cell, id_for, number_in, read_rows, safe

COLUMNS = (
    "run",
    "train",
    "track",
    "at_mm",
    "towards",
    "by",
    "leaves_s",
    "call",
    "stands_s",
    "then",
    "via",
    "cab",
    "circuits",
    "uses",
)
MOST_ROWS = 2500


def plan_csv(layout: Layout, plan: RunningPlan) -> str:
    """Every train of a plan, then its calls in order. Tracks and trains stand by their names."""
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\r\n")
    table.writerow(COLUMNS)

    def track(i: str) -> str:
        return safe(layout.tracks[i].name) if i in layout.tracks else i

    for key, t in plan.trains.items():
        name = safe(layout.trains[t.train].name) if t.train in layout.trains else t.train
        stays = ["; ".join(t.circuits), "; ".join(t.uses)]
        table.writerow(
            [key, name, track(t.track), t.at, t.towards, t.by, t.leaves, "", "", "", "", t.cab or "", *stays]
        )
        for n, c in enumerate(t.calls, start=1):
            leaves = "" if c.leaves is None else c.leaves
            via = "; ".join(track(v) for v in c.via)
            table.writerow(
                [key, "", track(c.track), c.at, c.facing or "", "", leaves, n, c.dwell, c.then, via, "", "", ""]
            )
    return out.getvalue()


def read_plan(data: bytes, layout: Layout) -> dict[str, dict[str, Any]]:
    """The trains of a plan from a file, by their runs.

    Raises:
        FileRefused: with the row and what is wrong there.
    """
    rows = read_rows(data, frozenset({"train", "track", "at_mm"}), MOST_ROWS)
    trains = {t.name.lower(): i for i, t in layout.trains.items()} | {i.lower(): i for i in layout.trains}
    tracks = {t.name.lower(): i for i, t in layout.tracks.items()} | {i.lower(): i for i in layout.tracks}
    found: dict[str, dict[str, Any]] = {}
    key = ""
    for number, row in enumerate(rows, start=2):
        name = cell(row, "train")
        if name:
            train = trains.get(name.lower())
            if train is None:
                raise FileRefused(f"Row {number}: there is no train “{name[:40]}”.")
            key = id_for(cell(row, "run") or train, number, "run")
            if key in found:
                raise FileRefused(f"Row {number}: {key} is in the plan already.")
            by = _one_of(row, "by", number, get_args(RunsBy), "free")
            found[key] = {
                "train": train,
                "track": _track(row, number, tracks),
                "at": number_in(row, "at_mm", number, 0, 1e7),
                "towards": _one_of(row, "towards", number, ("a", "b"), "b"),
                "by": by,
                "leaves": number_in(row, "leaves_s", number, 0, 43_200) if cell(row, "leaves_s") else 0.0,
                "cab": next(iter(_known(row, "cab", number, layout.devices, "source")), None),
                "circuits": _known(row, "circuits", number, layout.circuits, "circuit"),
                "uses": _known(row, "uses", number, get_args(TrackUse), "use of track"),
            }
        elif not key:
            raise FileRefused(f"Row {number}: a call comes after the train that makes it.")
        else:
            calls: list[dict[str, Any]] = found[key].setdefault("calls", [])
            if len(calls) == MOST_CALLS:
                raise FileRefused(f"Row {number}: {key} has over {MOST_CALLS} calls.")
            calls.append(_call(row, number, tracks))
    return found


def _call(row: Row, number: int, tracks: dict[str, str]) -> dict[str, Any]:
    value: dict[str, Any] = {
        "track": _track(row, number, tracks),
        "at": number_in(row, "at_mm", number, 0, 1e7),
        "then": _one_of(row, "then", number, ("on", "turn"), "on"),
    }
    if cell(row, "towards"):
        value["facing"] = _one_of(row, "towards", number, ("a", "b"), "b")
    if cell(row, "stands_s"):
        value["dwell"] = number_in(row, "stands_s", number, 0, 43_200)
    if cell(row, "leaves_s"):
        value["leaves"] = number_in(row, "leaves_s", number, 0, 43_200)
    via = _parted(row, "via")
    for v in via:
        if v.lower() not in tracks:
            raise FileRefused(f"Row {number}: there is no track “{v[:40]}” to go by.")
    if via:
        value["via"] = [tracks[v.lower()] for v in via]
    return value


def _parted(row: Row, field: str) -> list[str]:
    """What stands in a cell, parted by semicolons."""
    return [v.strip() for v in cell(row, field).split(";") if v.strip()]


def _known(row: Row, field: str, number: int, known: Collection[str], what: str) -> list[str]:
    """Ids in a cell; each must be one there is."""
    found = _parted(row, field)
    for one in found:
        if one not in known:
            raise FileRefused(f"Row {number}: there is no {what} “{one[:40]}”.")
    return found


def _track(row: Row, number: int, tracks: dict[str, str]) -> str:
    name = cell(row, "track")
    if name.lower() not in tracks:
        raise FileRefused(f"Row {number}: there is no track “{name[:40]}”.")
    return tracks[name.lower()]


def _one_of(row: Row, field: str, number: int, all_of_them: tuple[str, ...], usual: str) -> str:
    text = cell(row, field).lower() or usual
    if text not in all_of_them:
        raise FileRefused(f"Row {number}: {field} is {' or '.join(all_of_them)}, not “{text[:20]}”.")
    return text
