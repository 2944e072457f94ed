"""Nonsense thrown at the API: answered in words, never with a crash, and never half taken."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from starlette.testclient import TestClient

from jolly_copper.api import create_app
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.reading import LayoutError, read_layout
from jolly_copper.store import Store
from tests.layouts import feeder, plain
from tests.long import either

anything: st.SearchStrategy[Any] = st.recursive(
    st.none()
    | st.booleans()
    | st.integers(-(10**9), 10**9)
    | st.floats(allow_nan=False, allow_infinity=False)
    | st.text(max_size=8),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=6), inner, max_size=3),
    max_leaves=6,
)
OPERATIONS = ["add", "remove", "replace", "move", "copy", "test", "wish"]


def _paths(data: Any, path: str = "") -> Iterator[str]:
    yield path
    items = data.items() if isinstance(data, dict) else enumerate(data) if isinstance(data, list) else ()
    for key, value in items:
        yield from _paths(value, f"{path}/{key}")


def small() -> Layout:
    d = plain()
    feeder(d, "F1", "t", 100, "T1")
    d.data["locos"]["e"] = {"name": "E", "idle": 0.1, "running": 0.7, "stall": 2}
    d.data["trains"]["one"] = {"name": "One", "engines": ["e"], "length": 200}
    d.data["scenes"]["s"] = {"name": "S", "placements": [{"train": "one", "circuits": ["main"]}]}
    return d.plain()


PATHS = sorted(set(_paths(json.loads(small().model_dump_json()))))


@pytest.fixture(scope="module")
def client(tmp_path_factory: pytest.TempPathFactory) -> Iterator[TestClient]:
    store = Store(tmp_path_factory.mktemp("fuzz") / "club.sqlite3")
    store.add("small", small())
    with TestClient(
        create_app(store, Path("/nowhere")), base_url="http://localhost", raise_server_exceptions=False
    ) as found:
        yield found
    store.close()


@settings(max_examples=either(100, 1000), deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    st.lists(
        st.fixed_dictionaries(
            {
                "op": st.sampled_from(OPERATIONS),
                "path": st.sampled_from(PATHS),
                "value": anything,
                "from": st.sampled_from(PATHS),
            }
        ),
        min_size=1,
        max_size=3,
    )
)
def test_any_patch_is_taken_whole_or_refused_in_words(client: TestClient, patch: list[dict[str, Any]]) -> None:
    before = client.get("/api/layouts/small").json()
    got = client.patch(
        "/api/layouts/small", json={"summary": "fuzz", "patch": patch}, headers={"If-Match": str(before["revision"])}
    )
    assert got.status_code in (200, 422), got.text
    after = client.get("/api/layouts/small").json()
    if got.status_code == 422:
        assert got.json()["message"] and after == before
        return
    assert after["revision"] == before["revision"] + 1
    for path in ("answers", "findings", "wires", "files/wires.csv", "files/netlist.cir", "history"):
        assert client.get(f"/api/layouts/small/{path}").status_code == 200, path
    for track in after["document"]["tracks"]:
        point = client.get("/api/layouts/small/point", params={"track": track, "at": 700})
        assert point.status_code == 200
    assert client.post("/api/layouts/small/undo", headers={"If-Match": str(after["revision"])}).status_code == 200


@settings(max_examples=either(80, 800), deadline=None)
@given(st.sampled_from(PATHS[1:]), anything)
def test_any_value_anywhere_in_a_file_is_read_or_refused(path: str, value: Any) -> None:
    data = json.loads(small().model_dump_json())
    *way, last = path.split("/")[1:]
    at: Any = data
    for step in way:
        at = at[int(step)] if isinstance(at, list) else at[step]
    at[int(last) if isinstance(at, list) else last] = value
    try:
        layout = read_layout(data)
    except LayoutError as refused:
        assert refused.problems and all(p.sentence for p in refused.problems)
        return
    assert read_layout(json.loads(layout.model_dump_json())) == layout


@settings(max_examples=either(60, 500), deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.sampled_from(["length", "current", "volts", "ohms", "gauge", "song"]), st.text(max_size=30))
def test_any_text_is_read_or_refused(client: TestClient, kind: str, text: str) -> None:
    got = client.get("/api/read", params={"kind": kind, "text": text})
    assert got.status_code in (200, 422) and (got.status_code == 200 or got.json()["message"])


@settings(max_examples=either(40, 400), deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    st.dictionaries(st.sampled_from(["length", "current", "volts", "drop", "units", "strands"]), anything, max_size=6)
)
def test_any_quick_sum_is_answered_or_refused(client: TestClient, body: dict[str, Any]) -> None:
    got = client.post("/api/quick/run", json=body)
    assert got.status_code in (200, 422) and (got.status_code == 200 or got.json()["message"])


@pytest.mark.parametrize(
    "content",
    [b"", b"{", b"[]", b"null", b"\xff\xfe", b'{"summary": "x"}', b'{"summary": "", "patch": []}', b"[" * 5000],
)
def test_bodies_that_are_no_change(client: TestClient, content: bytes) -> None:
    headers = {"If-Match": "1", "content-type": "application/json"}
    got = client.patch("/api/layouts/small", content=content, headers=headers)
    assert got.status_code in (400, 422) and got.json()["message"]


@pytest.mark.parametrize("name", ["..", "%2e%2e", "a" * 500, "small'--", "small%00", "ünïcode"])
def test_strange_names_find_nothing(client: TestClient, name: str) -> None:
    assert client.get(f"/api/layouts/{name}").status_code in (404, 422, 503)
