"""The rim: foreign pages, bodies that lie, names of other machines, and what every answer carries."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from jolly_copper.api import create_app
from jolly_copper.api.rim import largest_body
from jolly_copper.store import Store
from tests.api.conftest import Layouts
from tests.layouts import plain
from tests.started import in_a_loop

CHANGING = [
    ("POST", "/api/demo"),
    ("POST", "/api/layouts"),
    ("POST", "/api/layouts/new"),
    ("PATCH", "/api/layouts/small"),
    ("POST", "/api/layouts/small/undo"),
    ("POST", "/api/layouts/small/redo"),
    ("POST", "/api/layouts/small/draw"),
    ("POST", "/api/layouts/small/take-in?kind=csv"),
    ("POST", "/api/layouts/small/fleet"),
    ("POST", "/api/layouts/small/roster"),
    ("POST", "/api/layouts/small/copy"),
    ("POST", "/api/layouts/small/rename"),
    ("POST", "/api/layouts/small/put-back"),
    ("PUT", "/api/layouts/small/archived"),
    ("DELETE", "/api/layouts/small"),
    ("PUT", "/api/layouts/small/versions/1"),
    ("DELETE", "/api/layouts/small/versions/1"),
    ("POST", "/api/layouts/small/work"),
    ("POST", "/api/layouts/small/shows"),
    ("POST", "/api/layouts/small/straighten"),
    ("POST", "/api/layouts/small/trace/take"),
    ("POST", "/api/layouts/small/notes"),
    ("POST", "/api/layouts/small/names/compare"),
    ("POST", "/api/photos"),
    ("POST", "/api/archives"),
    ("POST", "/api/layouts/small/readings"),
    ("POST", "/api/layouts/small/readings/file"),
    ("POST", "/api/layouts/small/meters"),
    ("POST", "/api/layouts/small/hunts"),
    ("POST", "/api/layouts/small/hunts/hunt-1/answers"),
    ("POST", "/api/layouts/small/hunts/hunt-1/end"),
    ("POST", "/api/line/do"),
    ("POST", "/api/layouts/small/plans/night/runs"),
    ("POST", "/api/layouts/small/rehearsals"),
    ("DELETE", "/api/layouts/small/rehearsals/night-1"),
    ("POST", "/api/pictures"),
    ("POST", "/api/take-in/look?kind=csv"),
    ("POST", "/api/club/copies"),
    ("POST", "/api/club/put-back?copy=x"),
    ("POST", "/api/club/restore"),
    ("DELETE", "/api/people/1"),
]


@pytest.fixture
def layouts() -> Layouts:
    return {"small": plain().plain}


@pytest.fixture
def client(store: Store) -> Iterator[TestClient]:
    with TestClient(create_app(store, Path("/nowhere")), base_url="http://localhost") as found:
        yield found


def test_every_route_that_changes_anything_is_tried_here(client: TestClient) -> None:
    paths = client.get("/api/openapi.json").json()["paths"]
    asks = {
        "moment",
        "trace",
        "drive",
        "drill",
        "stand-in",
        "preview",
        "foresee",
        "check",
        "enter",
        "why",
        "rehearse",
        "proof",
        "evenings",
    }
    there = {
        (m.upper(), p)
        for p, ms in paths.items()
        for m in ms
        if m != "get" and p.rsplit("/", 1)[-1] not in asks and "/quick/" not in p and not p.endswith("rehearse/plan")
    }
    tried = {
        (
            m,
            p.split("?")[0]
            .replace("/small", "/{layout_id}")
            .replace("people/1", "people/{number}")
            .replace("hunt-1", "{hunt_id}")
            .replace("night-1", "{record_id}")
            .replace("plans/night", "plans/{plan_id}")
            .replace("versions/1", "versions/{number}"),
        )
        for m, p in CHANGING
    }
    assert there == tried


@pytest.mark.parametrize(
    "origin", ["http://evil.example", "null", "http://localhost.evil.example", "https://127.0.0.1:1"]
)
@pytest.mark.parametrize(("method", "path"), CHANGING)
def test_a_page_of_another_origin_changes_nothing(
    client: TestClient, store: Store, method: str, path: str, origin: str
) -> None:
    got = client.request(
        method, path, content=b"{}", headers={"origin": origin, "content-type": "application/json", "If-Match": "1"}
    )
    assert got.status_code == 403 and "origin" in got.json()["message"]
    assert store.newest("small") == 1 and len(store.layouts()) == 1


def test_a_browser_that_says_it_comes_from_elsewhere_changes_nothing(client: TestClient) -> None:
    kind = {"content-type": "application/json"}
    assert client.post("/api/demo", headers={"sec-fetch-site": "cross-site", **kind}).status_code == 403
    assert client.post("/api/demo", headers={"sec-fetch-site": "same-site", **kind}).status_code == 403
    own = {"sec-fetch-site": "same-origin", "origin": "http://localhost", **kind}
    assert client.post("/api/demo", headers=own).status_code == 201


@pytest.mark.parametrize(
    "kind",
    [
        "text/plain",
        "text/plain; charset=utf-8",
        "multipart/form-data; boundary=x",
        "application/x-www-form-urlencoded",
        "",
    ],
)
@pytest.mark.parametrize(("method", "path"), CHANGING)
def test_a_body_any_page_may_send_is_not_taken(
    client: TestClient, store: Store, method: str, path: str, kind: str
) -> None:
    body = json.dumps({"name": "x", "summary": "x", "patch": [{"op": "replace", "path": "/name", "value": "X"}]})
    headers = {"If-Match": "1"} | ({"content-type": kind} if kind else {})
    got = client.request(method, path, content=body.encode(), headers=headers)
    assert got.status_code == 415 and got.json()["message"]
    assert store.newest("small") == 1 and len(store.layouts()) == 1


def test_a_file_is_not_taken_where_json_is_wanted(client: TestClient) -> None:
    got = client.post("/api/layouts/new", content=b'{"name":"x"}', headers={"content-type": "image/png"})
    assert got.status_code == 415


@pytest.mark.parametrize("host", ["evil.example", "testserver", "localhost.evil.example", "192.168.1.9", "[::1].x", ""])
def test_only_this_machines_own_names_are_answered(client: TestClient, host: str) -> None:
    assert client.get("/api/layouts", headers={"host": host}).status_code == 421
    assert client.get("/", headers={"host": host}).status_code == 421


@pytest.mark.parametrize("host", ["localhost", "127.0.0.1:8127", "[::1]:80"])
def test_its_own_names_are_answered(client: TestClient, host: str) -> None:
    assert client.get("/api/layouts", headers={"host": host}).status_code == 200


def test_a_body_is_counted_as_it_comes(client: TestClient) -> None:
    def endless() -> Iterator[bytes]:
        for _ in range(40):
            yield b" " * 100_000

    kind = {"content-type": "application/json"}
    got = client.post("/api/layouts/new", content=endless(), headers=kind)
    assert got.status_code == 413 and "1 MB" in got.json()["message"]
    told = client.post("/api/layouts/new", content=b"x" * 1_000_001, headers=kind)
    assert told.status_code == 413
    assert largest_body("/api/layouts") == 20_000_000 and largest_body("/api/layouts/a/preview") == 8_000_000
    assert largest_body("/api/layouts/a/draw") == 1_000_000


@pytest.mark.parametrize("length", ["-1", "x", "9" * 30, "1e3"])
def test_a_length_that_is_none_is_refused(store: Store, length: str) -> None:

    app, sent = create_app(store, Path("/nowhere")), []
    scope = {
        "type": "http",
        "method": "POST",
        "path": "/api/demo",
        "query_string": b"",
        "headers": [
            (b"host", b"localhost"),
            (b"content-length", length.encode()),
            (b"content-type", b"application/json"),
        ],
    }

    async def receive() -> dict[str, object]:
        return {"type": "http.request", "body": b"", "more_body": False}

    async def send(message: dict[str, object]) -> None:
        sent.append(message)

    in_a_loop(app, scope, receive, send)
    assert sent[0]["status"] in (400, 413)


def test_every_answer_tells_the_browser_to_trust_nothing_else(client: TestClient) -> None:
    for path in ("/", "/api/layouts", "/api/nothing", "/under", "/api/layouts/small/files/book.html"):
        headers = client.get(path).headers
        assert headers["x-content-type-options"] == "nosniff" and headers["x-frame-options"] == "SAMEORIGIN"
        assert "default-src" in headers["content-security-policy"], path
    policy = client.get("/").headers["content-security-policy"]
    assert "frame-ancestors 'self'" in policy and "script-src" not in policy and "default-src 'self'" in policy
    assert client.get("/api/layouts").headers["cache-control"] == "no-store"


@pytest.mark.parametrize(
    ("path", "code"),
    [
        ("/api/layouts/" + "a" * 3000, 414),
        ("/api/layouts/x%00y", 404),
        ("/api/layouts/x%0ay", 404),
        ("/api/layouts?x=" + "y" * 50_000, 414),
        ("/api/layouts/small?revision=9223372036854775808", 404),
        ("/api/layouts/small?revision=-1", 404),
        ("/api/layouts/small/answers?revision=" + "9" * 400, 404),
        ("/api/layouts/small/history?before=9223372036854775808", 422),
        ("/api/layouts/small/", 404),
    ],
)
def test_strange_addresses_are_answered_in_words(client: TestClient, path: str, code: int) -> None:
    got = client.get(path)
    assert got.status_code == code and got.json()["message"]


@pytest.mark.parametrize("match", ["9" * 4000, str(2**63), '"' + "1" * 30 + '"', "-1", "one", ""])
def test_strange_revisions_are_answered_in_words(client: TestClient, match: str) -> None:
    body = {"summary": "x", "patch": [{"op": "replace", "path": "/name", "value": "X"}]}
    got = client.patch("/api/layouts/small", json=body, headers={"If-Match": match})
    assert got.status_code in (409, 428) and got.json()["message"]


@pytest.mark.parametrize("deep", [900, 5000, 100_000])
def test_json_a_thousand_deep_is_refused_in_words(client: TestClient, deep: int) -> None:
    for body in (b"[" * deep + b"]" * deep, b'{"name":"x","notes":' + b'{"a":' * deep + b"1" + b"}" * deep + b"}"):
        for path in ("/api/layouts", "/api/layouts/new", "/api/layouts/small/work"):
            got = client.post(path, content=body, headers={"content-type": "application/json"})
            taken = got.status_code == 201 and path.endswith("new")  # what is not asked for is not looked at
            assert taken or (got.status_code in (400, 422) and got.json()["message"]), path
    value: object = 1
    for _ in range(400):
        value = [value]
    patch = {"summary": "x", "patch": [{"op": "add", "path": "/notes", "value": value}]}
    got = client.patch("/api/layouts/small", json=patch, headers={"If-Match": "1"})
    assert got.status_code == 422


def test_a_use_no_track_has_and_a_turnout_without_track_are_no_crash(client: TestClient) -> None:
    csv, kind = b"name,points\nX,0 0; 900 0\n", {"content-type": "text/csv"}
    got = client.post("/api/layouts/small/take-in?kind=csv&use=unknown", content=csv, headers=kind)
    assert got.status_code == 422 and got.json()["problems"]
    lonely = plain().plain().model_dump(mode="json")
    lonely["nodes"]["T9"] = {"kind": "turnout", "at": {"x": 5, "y": 5}, "motor": "stall motor"}
    del lonely["nodes"]["T9"]["motor"]
    i = client.post("/api/layouts", json=lonely).json()["id"]
    for path in ("book", "files/book.pdf", "files/book.xlsx", "findings", "under", "zones", "rails"):
        assert client.get(f"/api/layouts/{i}/{path}").status_code == 200, path


def test_control_characters_reach_no_page_and_no_workbook(client: TestClient) -> None:
    data = plain().plain().model_dump(mode="json")
    data |= {"name": "Two\tlines\nhere \x00\x1b[31m", "notes": "a\x07b\nc"}
    data["circuits"]["main"]["name"] = "=1+1\x0b"
    got = client.post("/api/layouts", json=data).json()
    assert got["document"]["name"] == "Two lines here  [31m" and got["document"]["notes"] == "ab\nc"
    for end in ("xlsx", "pdf", "csv", "html"):
        assert client.get(f"/api/layouts/{got['id']}/files/book.{end}").status_code == 200
    data["name"] = "\x00\x01"
    refused = client.post("/api/layouts", json=data)
    assert refused.status_code == 422 and "empty" in refused.json()["message"]


def test_what_was_set_right_in_a_file_is_told(client: TestClient) -> None:
    data = plain().plain().model_dump(mode="json")
    assert client.post("/api/layouts", json=data).json()["mended"] is None
    data["tracks"]["t"]["joiner_every"] = 2
    got = client.post("/api/layouts", json=data).json()
    assert "every 20 mm now" in got["mended"] and got["document"]["tracks"]["t"]["joiner_every"] == 20
