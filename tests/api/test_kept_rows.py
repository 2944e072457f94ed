"""Rows beside a layout, out of an archive: what this program wrote passes, anything else is refused or does no harm."""

from __future__ import annotations

import copy
import json
import shutil
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from jolly_copper.api import create_app
from jolly_copper.store import Store
from jolly_copper.store.whole import whole_rows
from jolly_copper.telling.kept_rows import ROWS, check_rows
from tests.api.test_handover_api import packed

WHEN = "2026-11-20T10:00:00.000+00:00"
BESIDE: dict[str, dict[str, Any]] = {
    "work": {
        "id": "work-0001",
        "task": "feeder:F1",
        "state": "wired",
        "note": "",
        "reading": "",
        "who": "Ada",
        "done": WHEN,
        "told": "",
        "taken": WHEN,
    },
    "meter": {"id": "m1", "name": "M", "setting": "dc", "factor": 1, "checked": WHEN, "who": "", "note": ""},
    "reading": {
        "id": "reading-01",
        "revision": 1,
        "test": "coin:x",
        "told": "",
        "meter": "m1",
        "shown": "1 V",
        "unit": "V",
        "value": 1.0,
        "amps": None,
        "before": "",
        "foretold": "1 V",
        "low": 0.9,
        "high": 1.1,
        "sound": 1,
        "verdict": "sound",
        "who": "",
        "done": WHEN,
        "note": "",
        "withdraws": "",
        "taken": WHEN,
    },
    "hunt": {
        "id": "hunt-00001",
        "revision": 1,
        "symptom": '{"kind": "hot"}',
        "who": "",
        "opened": WHEN,
        "cause": None,
        "mend": "",
        "minutes": 0,
        "closed": "",
    },
    "rehearsal": {
        "id": "r1",
        "plan_id": "p",
        "revision": 1,
        "name": "Evening",
        "plan": "{}",
        "seed": 1,
        "engine": 1,
        "came_to": "[]",
        "who": "",
        "made": WHEN,
    },
    "show_entry": {
        "id": "show-00001",
        "show": "Fair",
        "day": "2026-11-20",
        "what": "proof:coin:x",
        "state": "sound",
        "note": "",
        "who": "",
        "done": WHEN,
        "taken": WHEN,
    },
    "note": {
        "id": "note-0001",
        "kind": "note",
        "about": "board:b1",
        "text": "Pin 3",
        "photo": None,
        "who": "",
        "made": WHEN,
    },
    "version": {"number": 1, "name": "First", "note": "", "who": "", "made": WHEN},
}
JUNK: tuple[Any, ...] = ("junk\x00", "\ud800", "9999-99-99", '{"kind": []}', -(10**12), None)
PAGES = (
    *("notes", "search?text=p", "bench", "hunts", "learned", "shows", "rehearsals", "history", "versions"),
    *("work-order", "files/calendar.ics"),
)


@pytest.fixture
def rows(store: Store) -> dict[str, Any]:
    found = whole_rows(store, "plain")
    found["beside"] = {table: [{**row, "layout": "plain"}] for table, row in BESIDE.items()}
    found["answers"] = [
        {"id": "answer-01", "hunt": "hunt-00001", "act": "look", "said": "yes", "who": "", "done": WHEN},
    ]
    return found


def taken(client: TestClient, rows: dict[str, Any]) -> Any:
    body = packed({"rows.json": json.dumps(rows).encode()})
    return client.post("/api/archives", content=body, headers={"content-type": "application/zip"})


def test_rows_of_every_table_are_taken_in(store: Store, rows: dict[str, Any]) -> None:
    assert set(BESIDE) == set(ROWS), "each table is tried"
    with TestClient(create_app(store), base_url="http://localhost") as client:
        got = taken(client, rows)
        assert got.status_code == 201, got.text
        again = whole_rows(store, got.json()["id"])
        for table, row in BESIDE.items():
            kept = again["beside"][table][0]
            assert {c: kept[c] for c in row if c not in ("id", "layout")} == {c: v for c, v in row.items() if c != "id"}
        assert len(again["answers"]) == 1 and again["answers"][0]["hunt"] == again["beside"]["hunt"][0]["id"]


@pytest.mark.parametrize("table", sorted(BESIDE))
def test_junk_in_any_column_is_refused_or_opens_on_every_page(store: Store, rows: dict[str, Any], table: str) -> None:
    with TestClient(create_app(store), base_url="http://localhost", raise_server_exceptions=False) as client:
        refused = 0
        for column in BESIDE[table]:
            for junk in JUNK:
                spoilt = copy.deepcopy(rows)
                spoilt["beside"][table][0][column] = junk
                got = taken(client, spoilt)
                if got.status_code == 201:
                    key = got.json()["id"]
                    opened = {p: client.get(f"/api/layouts/{key}/{p}").status_code for p in PAGES}
                    assert max(opened.values()) < 500, (column, junk, opened)
                    assert client.delete(f"/api/layouts/{key}").status_code < 300
                else:
                    refused += 1
                    assert got.status_code == 422 and "row of" in got.json()["message"], (column, junk, got.text)
        assert refused > len(BESIDE[table]) * 2


@pytest.mark.parametrize("column", ["summary", "who", "made", "patch", "kind", "number"])
def test_junk_in_the_history_is_refused(store: Store, rows: dict[str, Any], column: str) -> None:
    with TestClient(create_app(store), base_url="http://localhost", raise_server_exceptions=False) as client:
        for junk in ("\ud800", -1, None, {}):
            spoilt = copy.deepcopy(rows)
            spoilt["changes"][0][column] = junk
            got = taken(client, spoilt)
            assert got.status_code == 422 and "Change 1 of its history" in got.json()["message"], (junk, got.text)
        assert len(store.layouts()) == 1


OLD = sorted((Path(__file__).parent.parent / "old").glob("club-*.db"))


@pytest.mark.parametrize("path", OLD, ids=lambda p: p.stem)
def test_rows_of_club_files_of_every_version_pass(path: Path, tmp_path: Path) -> None:
    copied = tmp_path / path.name
    shutil.copy(path, copied)
    old = Store(copied)
    try:
        assert old.layouts()
        for summary in old.layouts():
            check_rows(whole_rows(old, summary["id"]))
    finally:
        old.close()
