"""Names of those who came in by ticket stand beside their changes, and answers to the network travel packed."""

from __future__ import annotations

import gzip
from collections.abc import Iterator
from pathlib import Path

import httpx2 as httpx
import pytest

from jolly_copper.api import create_app
from jolly_copper.api.access import COOKIE, Access
from jolly_copper.api.who import HEADER, LONGEST, with_name
from jolly_copper.store import Store
from jolly_copper.store.people import People
from tests.started import started

THICKER = {"summary": "Thicker", "patch": [{"op": "replace", "path": "/runs/R1/gauge", "value": "12 AWG"}]}
LEAD, HELPER = "a lead for all seasons", "a helper at hand"


@pytest.fixture
def shared(store: Store, tmp_path: Path) -> Iterator[str]:
    people = People(str(tmp_path / "people.sqlite3"))
    with started(create_app(store, shared=Access(LEAD, HELPER, people))) as port:
        yield f"http://127.0.0.1:{port}"


def abroad(url: str) -> httpx.Client:
    """Somebody who calls the program by a name of the network, and so is not on this machine."""
    return httpx.Client(base_url=url, headers={"host": "clubhouse:8127"}, timeout=20)


def test_a_ticket_says_who_it_is_whatever_the_page_says(shared: str, store: Store) -> None:
    with abroad(shared) as lead:
        came = lead.post("/api/enter", json={"phrase": LEAD, "name": "Vale"})
        assert came.status_code == 200
        cookie = {"cookie": f"{COOKIE}={came.cookies[COOKIE]}"}
        headers = {**cookie, "If-Match": '"1"', "X-Who": "Somebody%20else"}
        assert lead.patch("/api/layouts/plain", json=THICKER, headers=headers).status_code == 200
    assert store.get("plain").who == "Vale"


def test_on_the_machine_itself_the_page_says_who_it_is(shared: str, store: Store) -> None:
    headers = {"If-Match": '"1"', "X-Who": "Wren"}
    assert httpx.patch(f"{shared}/api/layouts/plain", json=THICKER, headers=headers).status_code == 200
    assert store.get("plain").who == "Wren"


def test_answers_to_the_network_are_packed_and_small_ones_are_not(shared: str) -> None:
    packed = httpx.get(f"{shared}/api/house-rules", headers={"accept-encoding": "gzip"})
    assert packed.headers["content-encoding"] == "gzip" and packed.json()
    plain_ = httpx.get(f"{shared}/api/house-rules", headers={"accept-encoding": "identity"})
    assert "content-encoding" not in plain_.headers and plain_.json() == packed.json()
    assert len(gzip.compress(plain_.content, 3)) < len(plain_.content) / 2
    assert "content-encoding" not in httpx.get(f"{shared}/api/door", headers={"accept-encoding": "gzip"}).headers


def test_on_this_machine_alone_nothing_is_packed(store: Store) -> None:
    with started(create_app(store)) as port:
        got = httpx.get(f"http://127.0.0.1:{port}/api/house-rules", headers={"accept-encoding": "gzip"})
        assert "content-encoding" not in got.headers


def test_helpers_may_not_touch_the_shelf(shared: str, store: Store) -> None:
    with abroad(shared) as helper:
        came = helper.post("/api/enter", json={"phrase": HELPER, "name": "Jo"})
        cookie = {"cookie": f"{COOKIE}={came.cookies[COOKIE]}"}
        for method, path, body in (
            ("POST", "copy", {"name": "Mine"}),
            ("POST", "rename", {"name": "Mine"}),
            ("PUT", "archived", {"archived": True}),
            ("PUT", "versions/1", {"name": "Mine"}),
            ("POST", "put-back", {}),
        ):
            got = helper.request(method, f"/api/layouts/plain/{path}", json=body, headers=cookie)
            assert got.status_code == 403, path
        assert helper.request("DELETE", "/api/layouts/plain", headers=cookie).status_code == 403
        assert helper.get("/api/layouts/plain/card", headers=cookie).status_code == 200, "looking is free"
    assert [row["name"] for row in store.layouts()] == ["Plain"]


def test_a_name_replaces_the_one_in_the_request_and_nothing_else() -> None:
    scope = {"headers": [(b"x-who", b"Old"), (b"accept", b"*/*"), (b"X-WHO", b"Older")], "path": "/"}
    named = with_name(scope, "Jørn " + "x" * LONGEST)
    assert [k for k, _ in named["headers"]] == [b"accept", HEADER]
    assert dict(named["headers"])[HEADER].startswith(b"J%C3%B8rn%20") and named["path"] == "/"
    assert scope["headers"][0] == (b"x-who", b"Old"), "the request itself is left alone"
