"""The layouts as a club keeps them: copies, names, the archive, deleted ones, versions, and comparing."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import pytest
from starlette.testclient import TestClient

from jolly_copper.api import create_app
from jolly_copper.store import NotFound, Store, shelf
from tests.layouts import feeder, plain


@pytest.fixture
def store(tmp_path: Path) -> Iterator[Store]:
    d = plain()
    feeder(d, "F1", "t", 100, "T1")
    found = Store(tmp_path / "club.sqlite3")
    found.add("plain", d.plain())
    yield found
    found.close()


@pytest.fixture
def client(store: Store) -> Iterator[TestClient]:
    with TestClient(create_app(store), base_url="http://localhost") as found:
        yield found


def listed(client: TestClient) -> dict[str, Any]:
    return {row["id"]: row for row in client.get("/api/layouts").json()}


def edit(client: TestClient, gauge: str, based_on: int, who: str = "") -> Any:
    return client.patch(
        "/api/layouts/plain",
        json={"summary": f"To {gauge}", "patch": [{"op": "replace", "path": "/runs/R1/gauge", "value": gauge}]},
        headers={"If-Match": f'"{based_on}"', **({"X-Who": who} if who else {})},
    )


def test_a_copy_stands_by_itself_and_says_where_it_is_from(client: TestClient) -> None:
    assert edit(client, "12 AWG", 1).status_code == 200
    got = client.post("/api/layouts/plain/copy", json={"name": "Trial"})
    assert got.status_code == 201
    copy = got.json()
    assert (copy["id"], copy["document"]["name"], copy["revision"]) == ("trial", "Trial", 1)
    assert copy["summary"] == "Copied from Plain, change 2" and copy["document"]["runs"]["R1"]["gauge"] == "12 AWG"
    older = client.post("/api/layouts/plain/copy", params={"revision": 1}, json={"name": "As it was"}).json()
    assert older["document"]["runs"]["R1"]["gauge"] == "14 AWG"
    assert listed(client)["plain"]["revision"] == 2, "the first one is as it was"


def test_two_copies_of_one_name_have_ids_of_their_own(client: TestClient) -> None:
    ids = {client.post("/api/layouts/plain/copy", json={"name": "Trial"}).json()["id"] for _ in range(3)}
    assert ids == {"trial", "trial-2", "trial-3"}


@pytest.mark.parametrize("name", ["", "   ", "x" * 81, None, 5])
def test_a_name_that_is_none_is_refused_in_words(client: TestClient, name: object) -> None:
    for path in ("copy", "rename"):
        got = client.post(f"/api/layouts/plain/{path}", json={"name": name})
        assert got.status_code == 422 and got.json()["message"].endswith(".")
    assert list(listed(client)) == ["plain"] and listed(client)["plain"]["name"] == "Plain"


def test_renaming_is_a_change_that_can_be_taken_back(client: TestClient) -> None:
    state = client.post("/api/layouts/plain/rename", json={"name": "Pier"}).json()
    assert (state["id"], state["document"]["name"], state["can_undo"]) == ("plain", "Pier", "Name: Pier")
    assert listed(client)["plain"]["name"] == "Pier"
    client.post("/api/layouts/plain/undo", headers={"If-Match": '"2"'})
    assert listed(client)["plain"]["name"] == "Plain"


def test_the_archive_comes_last_and_can_be_left_again(client: TestClient) -> None:
    client.post("/api/layouts/plain/copy", json={"name": "Trial"})
    assert client.put("/api/layouts/trial/archived", json={"archived": True}).status_code == 204
    assert list(listed(client)) == ["plain", "trial"] and listed(client)["trial"]["archived"]
    assert client.get("/api/layouts/trial").status_code == 200, "it can be opened there"
    client.put("/api/layouts/trial/archived", json={"archived": False})
    assert listed(client)["trial"]["archived"] is None


def test_what_is_deleted_is_gone_until_it_is_put_back_with_everything(client: TestClient, store: Store) -> None:
    edit(client, "12 AWG", 1)
    client.put("/api/layouts/plain/versions/1", json={"name": "As built"})
    assert client.delete("/api/layouts/plain").status_code == 204
    assert listed(client) == {}
    for ask in (client.get, client.delete):
        assert ask("/api/layouts/plain").status_code == 404
    assert client.get("/api/layouts/plain/findings").status_code == 404
    assert edit(client, "10 AWG", 2).status_code == 404
    (row,) = client.get("/api/deleted").json()
    assert row["id"] == "plain" and row["gone"] > row["deleted"]
    state = client.post("/api/layouts/plain/put-back").json()
    assert (state["revision"], state["document"]["runs"]["R1"]["gauge"]) == (2, "12 AWG")
    assert [v["name"] for v in client.get("/api/layouts/plain/versions").json()] == ["As built"]
    assert client.post("/api/layouts/plain/put-back").status_code == 404, "it is there already"


def test_a_new_layout_never_takes_the_place_of_a_deleted_one(client: TestClient) -> None:
    client.delete("/api/layouts/plain")
    made = client.post("/api/layouts/new", json={"name": "Plain", "scale": "N", "control": "dc", "units": "metric"})
    assert made.status_code == 201 and made.json()["id"] == "plain-2"
    assert client.post("/api/layouts/plain/put-back").json()["document"]["tracks"]


def test_the_demo_deleted_and_added_again_comes_back(client: TestClient) -> None:
    client.post("/api/demo")
    client.delete("/api/layouts/gannet-bay")
    assert client.post("/api/demo").status_code == 201 and "gannet-bay" in listed(client)


def test_after_thirty_days_it_goes_for_good(store: Store) -> None:
    shelf.remove(store, "plain")
    day = datetime.now(UTC)
    assert shelf.clear_out(store, day + timedelta(days=29)) == 0 and shelf.deleted(store)
    assert shelf.clear_out(store, day + timedelta(days=31)) == 1 and not shelf.deleted(store)
    with pytest.raises(NotFound):
        shelf.put_back(store, "plain")


def test_a_version_is_named_anew_and_its_name_taken_away(client: TestClient) -> None:
    named = client.put("/api/layouts/plain/versions/1", json={"name": "As built", "note": "before the open day"})
    assert named.json()["note"] == "before the open day"
    client.put("/api/layouts/plain/versions/1", json={"name": "First"}, headers={"X-Who": "Wren"})
    (version,) = client.get("/api/layouts/plain/versions").json()
    assert (version["name"], version["note"], version["who"]) == ("First", "", "Wren")
    assert client.put("/api/layouts/plain/versions/7", json={"name": "None such"}).status_code == 404
    assert client.delete("/api/layouts/plain/versions/1").status_code == 204
    assert client.delete("/api/layouts/plain/versions/1").status_code == 404


def test_the_name_of_who_changed_it_stands_beside_every_change(client: TestClient) -> None:
    edit(client, "12 AWG", 1, who="J%C3%B8rn%20%20Vale")
    edit(client, "10 AWG", 2)
    history = client.get("/api/layouts/plain/history").json()
    assert [h["who"] for h in history] == ["", "Jørn Vale", ""]
    assert client.get("/api/layouts/plain", params={"revision": 2}).json()["who"] == "Jørn Vale"
    nasty = edit(client, "8 AWG", 3, who="%00%0a" + "x" * 300)
    assert nasty.status_code == 200 and nasty.json()["state"]["who"] == "x" * 40


def test_two_states_are_compared_whichever_they_are(client: TestClient) -> None:
    edit(client, "10 AWG", 1)
    client.post("/api/layouts/plain/copy", json={"name": "Trial"})
    ask = lambda **more: client.get("/api/layouts/plain/compare", params=more).json()  # noqa: E731
    now = ask(other="plain", revision=1)
    assert [d["words"] for d in now["differences"]] == [["gauge: 14 AWG → 10 AWG"]]
    assert now["before"] == "Plain, change 1" and now["after"] == "Plain, change 2"
    assert [d["kind"] for d in ask(other="trial")["differences"]] == ["layout"], "only the name"
    assert ask(other="trial", other_revision=1, revision=1)["shared"] == now["shared"]
    assert client.get("/api/layouts/plain/compare", params={"other": "none"}).status_code == 404


def test_a_card_tells_what_would_be_lost(client: TestClient) -> None:
    entry = {"id": "a" * 32, "task": "feeder:F1", "state": "wired", "note": "", "reading": "", "who": "W"}
    told = {**entry, "done": "2026-01-02T10:00:00Z", "told": ""}
    client.post("/api/layouts/plain/work", json={"entries": [told]})
    client.put("/api/layouts/plain/versions/1", json={"name": "As built"})
    card = client.get("/api/layouts/plain/card").json()
    assert (card["tracks"], card["pairs"], card["versions"]) == (1, 2, 1) and card["length_text"]
    assert card["picture"]["marks"][0]["path"].startswith("M")


def test_the_work_order_counts_what_is_logged(client: TestClient) -> None:
    got = client.get("/api/layouts/plain/work-order").json()
    assert [s["step"] for s in got["steps"]][:3] == ["brief", "track", "reverse"] and got["next"]
    assert all(s["reason"] for s in got["steps"])
