"""The wire book, work under the boards and the club's network, over the wire."""

from __future__ import annotations

import io
import json
from pathlib import Path
from typing import Any, get_args

import openpyxl
import pypdf
import pytest
from fastapi.testclient import TestClient

from jolly_copper.api import create_app
from jolly_copper.api.access import Access
from jolly_copper.core.layout.reading import read_layout
from jolly_copper.core.wirebook.task import TaskKind
from jolly_copper.demo import gannet_bay, millbeck, signalled_bay, tinplate_lane
from jolly_copper.store import Entry, NotFound, Store, add_work, work_log, work_of
from jolly_copper.store.people import People
from tests.api.conftest import Layouts
from tests.layouts import booster, feeder, plain

BAY = "/api/layouts/gannet-bay"


@pytest.fixture
def layouts() -> Layouts:
    return {"gannet-bay": gannet_bay}


def an_entry(task: str = "feeder:F1", state: str = "tested", **more: Any) -> dict[str, Any]:
    return {
        "id": f"entry-{task}-{state}-{len(more)}".replace(":", "-"),
        "task": task,
        "state": state,
        "done": "2026-03-24T19:40:00Z",
        **more,
    }


def test_what_the_book_holds_and_costs(client: TestClient) -> None:
    book = client.get(f"{BAY}/book").json()
    assert book["pieces"] == 161 and len(book["boards"]) == 16 and book["total"] is None
    plug = next(i for i in book["items"] if i["key"] == "plug")
    assert plug["count"] == 3
    client.patch(
        BAY,
        headers={"If-Match": "1"},
        json={
            "summary": "A price",
            "patch": [{"op": "add", "path": "/prices/plug", "value": 2.5}],
        },
    )
    book = client.get(f"{BAY}/book").json()
    assert book["total"] == 7.5 and book["revision"] == 2
    assert book["unpriced"] == len(book["items"]) + len(book["wire"]) - 1


def test_files_of_the_book_open_and_do_not_change(client: TestClient) -> None:
    def fetch(name: str) -> bytes:
        got = client.get(f"{BAY}/files/{name}")
        assert got.status_code == 200 and got.content == client.get(f"{BAY}/files/{name}").content
        return got.content

    pdf = pypdf.PdfReader(io.BytesIO(fetch("book.pdf?page=Letter&chapters=colours,cautions")))
    assert [o.title for o in pdf.outline] == ["Before anything", "Colour code"]
    assert "Colour code" in openpyxl.load_workbook(io.BytesIO(fetch("book.xlsx"))).sheetnames
    assert b"Wire schedule" in fetch("book.html") and b"Wire schedule" in fetch("book.csv")
    assert len(pypdf.PdfReader(io.BytesIO(fetch("labels.pdf?sheet=letter-80&each=pair"))).pages) == 5
    assert fetch("labels.csv?board=bridge").count(b"\n") == 1 + 4 * 4
    svg = fetch("board.svg?board=bridge").decode()
    assert "change 1 ·" in svg and "F33" in svg


def test_older_changes_have_their_own_book(client: TestClient) -> None:
    client.patch(
        BAY,
        headers={"If-Match": "1"},
        json={
            "summary": "Rename",
            "patch": [{"op": "replace", "path": "/feeders/F1/label", "value": "YARD-THROAT"}],
        },
    )
    assert "YARD-THROAT" in client.get(f"{BAY}/files/book.csv").text
    assert "YARD-THROAT" not in client.get(f"{BAY}/files/book.csv?revision=1").text


def test_what_cannot_be_printed_is_said(client: TestClient) -> None:
    assert "There is no sheet" in client.get(f"{BAY}/files/labels.pdf?sheet=x").json()["message"]
    assert "65 labels" in client.get(f"{BAY}/files/labels.pdf?skip=65").json()["message"]
    assert client.get(f"{BAY}/files/board.svg?board=none").status_code == 404
    assert client.get(f"{BAY}/files/book.pdf?page=A3").status_code == 422
    assert client.get("/api/layouts/nowhere/book").status_code == 404


def test_the_page_of_the_book_runs_no_script(client: TestClient) -> None:
    got = client.get(f"{BAY}/files/book.html")
    assert got.headers["content-security-policy"].startswith("default-src 'none'")


def test_a_board_can_be_built_from_what_the_phone_is_told(client: TestClient) -> None:
    pages = client.get(f"{BAY}/under").json()
    assert len(pages["boards"]) == 17 and len(pages["cautions"]) == 4 and pages["work"] == []
    bridge = next(b for b in pages["boards"] if b["key"] == "bridge")
    assert bridge["after"] == ["Board 7"]
    kinds = [t["kind"] for t in bridge["tasks"]]
    assert kinds == ["gap", "gap", "run", "run", "feeder", "feeder", "check", "check", "check", "check", "check"]
    f33 = next(t for t in bridge["tasks"] if t["label"] == "F33")
    rows = {r["heading"]: r["words"] for r in f33["rows"]}
    assert rows["To"] == "Terminal T24, posts 4 orange · 10 black" and rows["From"].startswith(
        "Rail, Down main, bridge"
    )
    assert f33["colours"] == ["orange", "black"] and "to the orange post of T24" in f33["meter"]
    every = [t["key"] for b in pages["boards"] for t in b["tasks"]]
    assert len(every) == len(set(every))


def test_entries_are_kept_once_and_the_last_counts(client: TestClient, store: Store) -> None:
    first = an_entry(note=" ok ", who="JB", reading="0.4 Ω")
    again = [client.post(f"{BAY}/work", json={"entries": [first]}).json()["work"] for _ in range(3)]
    assert again[0] == again[2] and len(again[0]) == 1 and again[0][0]["note"] == "ok"
    later = an_entry(state="trouble", done="2026-03-24T20:10:00+00:00")
    earlier = an_entry(state="wired", done="2026-03-24T20:40:00+01:00")
    client.post(f"{BAY}/work", json={"entries": [later, earlier]})
    (counts,) = client.get(f"{BAY}/work").json()
    assert counts["state"] == "trouble", "by the time it was done, whatever the zone and the order of sending"
    assert [e["state"] for e in client.get(f"{BAY}/work/log").json()] == ["trouble", "wired", "tested"]
    assert client.get(BAY).json()["revision"] == 1, "work is no change of the layout"
    table = client.get(f"{BAY}/files/work.csv").text
    assert "JB,feeder:F1,tested,0.4 Ω,ok" in table


def test_a_clock_that_runs_ahead_does_not_hold_a_task_for_ever(store: Store) -> None:
    ahead = Entry("id-00000001", "feeder:F1", "tested", "", "", "", "2099-01-01T00:00:00.000+00:00", "")
    add_work(store, "gannet-bay", [ahead])
    assert work_of(store, "gannet-bay")["feeder:F1"].done < "2099"
    assert len(work_log(store, "gannet-bay")) == 1
    with pytest.raises(NotFound):
        add_work(store, "nowhere", [ahead])


@pytest.mark.parametrize(
    "wrong",
    [
        {"task": "drop table"},
        {"state": "finished"},
        {"done": "yesterday"},
        {"done": "2026-03-24T19:40:00"},
        {"id": "1"},
        {"note": "x" * 501},
    ],
)
def test_a_bad_entry_changes_nothing(client: TestClient, wrong: dict[str, Any]) -> None:
    got = client.post(
        f"{BAY}/work", json={"entries": [an_entry(), {**an_entry("feeder:F2"), **wrong}, an_entry("run:W1")]}
    )
    (refused,) = got.json()["refused"]
    assert got.status_code == 200 and refused["place"] == 1 and refused["why"].endswith(".") and ": " in refused["why"]
    kept = client.get(f"{BAY}/work").json()
    assert {e["task"] for e in kept} == {"feeder:F1", "run:W1"}, "the others are not held back"


def test_every_kind_of_task_that_is_offered_is_taken(tmp_path: Path) -> None:
    """Of all demo railroads, signals and control cables among them."""
    kinds = set()
    for make in (gannet_bay, signalled_bay, millbeck, tinplate_lane):
        store = Store(tmp_path / f"{make.__name__}.sqlite3")
        store.add("bay", make())
        with TestClient(create_app(store), base_url="http://localhost") as client:
            tasks = [t["key"] for b in client.get("/api/layouts/bay/under").json()["boards"] for t in b["tasks"]]
            kinds |= {t["kind"] for b in client.get("/api/layouts/bay/under").json()["boards"] for t in b["tasks"]}
            for k in range(0, len(tasks), 500):
                sent = [{**an_entry(t), "id": f"entry-number-{k + n}"} for n, t in enumerate(tasks[k : k + 500])]
                assert client.post("/api/layouts/bay/work", json={"entries": sent}).json()["refused"] == []
            assert len(client.get("/api/layouts/bay/work").json()) == len(set(tasks))
        store.close()
    assert kinds == set(get_args(TaskKind))


@pytest.mark.parametrize(
    "time",
    [
        "0001-01-01T00:00:00+23:59",
        "9999-12-31T23:59:59-23:59",
        "0001-01-01T00:00:00Z",
        "2026-13-01T00:00:00Z",
        "2026-11-29",
        "",
    ],
)
def test_the_ends_of_all_calendars_are_no_crash(client: TestClient, time: str) -> None:
    got = client.post(f"{BAY}/work", json={"entries": [an_entry(done=time)]})
    assert got.status_code == 200 and (len(got.json()["refused"]) == 1) == (time != "0001-01-01T00:00:00Z")


@pytest.mark.parametrize("entry", [{}, {"id": 1}, {"id": None, "task": []}, {"id": "a" * 5000}])
def test_what_is_no_entry_is_set_aside(client: TestClient, entry: dict[str, Any]) -> None:
    got = client.post(f"{BAY}/work", json={"entries": [entry, an_entry()]}).json()
    assert got["refused"][0]["place"] == 0 and len(got["work"]) == 1


def test_a_changed_wire_is_told_apart(client: TestClient) -> None:
    def told(key: str) -> str:
        return next(
            t["told"] for b in client.get(f"{BAY}/under").json()["boards"] for t in b["tasks"] if t["key"] == key
        )

    before = told("feeder:F33"), told("feeder:F36")
    client.patch(
        BAY,
        headers={"If-Match": "1"},
        json={
            "summary": "Heavier",
            "patch": [{"op": "replace", "path": "/feeders/F33/gauge", "value": "16 AWG"}],
        },
    )
    assert told("feeder:F33") != before[0] and told("feeder:F36") == before[1]


def shared(store: Store) -> tuple[TestClient, Access]:
    access = Access("lead of the line", "helper-at-hand", People(":memory:"))
    return TestClient(
        create_app(store, shared=access), client=("192.168.1.20", 5000), base_url="http://club.local"
    ), access


def test_nobody_comes_in_from_the_network_without_a_passphrase(store: Store) -> None:
    phone, _ = shared(store)
    with phone:
        assert phone.get(BAY).status_code == 401 and "passphrase" in phone.get(BAY).json()["message"]
        assert phone.post(f"{BAY}/work", json={"entries": [an_entry()]}).status_code == 401
        assert phone.get("/under").status_code in (200, 503), "the page itself may be fetched"
        phone.cookies.set("copper-ticket", "lead.0000")
        assert phone.get(BAY).status_code == 401, "a ticket signed by nobody"


def test_helpers_read_and_log_and_the_lead_changes(store: Store) -> None:
    phone, _ = shared(store)
    with phone:
        assert phone.post("/api/enter", json={"phrase": "Helper at  hand"}).json() == {"role": "helper"}
        assert phone.get(BAY).status_code == 200
        assert phone.post(f"{BAY}/work", json={"entries": [an_entry()]}).status_code == 200
        patch = {"summary": "x", "patch": [{"op": "replace", "path": "/name", "value": "Mine"}]}
        refused = phone.patch(BAY, json=patch, headers={"If-Match": "1"})
        assert refused.status_code == 403 and "lead" in refused.json()["message"]
        assert phone.post("/api/demo").status_code == 403
        assert phone.post("/api/enter", json={"phrase": "lead of the line"}).json() == {"role": "lead"}
        assert phone.patch(BAY, json=patch, headers={"If-Match": "1"}).status_code == 200


def test_on_the_machine_itself_one_is_the_lead_but_not_under_a_foreign_name(store: Store) -> None:
    app = create_app(store, shared=Access("a b", "c d", People(":memory:")))
    with TestClient(app, client=("127.0.0.1", 1), base_url="http://127.0.0.1:8127") as here:
        assert here.get(BAY).status_code == 200
    with TestClient(app, client=("127.0.0.1", 1), base_url="http://evil.example") as elsewhere:
        assert elsewhere.get(BAY).status_code == 401


def test_a_layout_without_boards_has_its_tasks_too(tmp_path: Path) -> None:
    d = plain()
    booster(d)
    feeder(d, "F1", "t", 100, "T1")
    store = Store(tmp_path / "c.sqlite3")
    store.add("small", d.plain())
    store.add("empty", read_layout({"name": "Empty"}))
    with TestClient(create_app(store), base_url="http://localhost") as client:
        (off,) = client.get("/api/layouts/small/under").json()["boards"]
        assert off["name"] == "Off the boards" and {"R1", "F1"} <= {t["label"] for t in off["tasks"]}
        assert client.get("/api/layouts/empty/under").json()["boards"] == []
    store.close()


def test_a_change_order_over_the_wire_and_on_paper(client: TestClient) -> None:
    client.patch(
        BAY,
        headers={"If-Match": "1"},
        json={
            "summary": "Heavier",
            "patch": [{"op": "replace", "path": "/feeders/F33/gauge", "value": "16 AWG"}],
        },
    )
    lines = client.get(f"{BAY}/change-order?before=1&after=2").text.splitlines()
    answer = json.loads(lines[-1])["answer"]
    (evening,) = answer["evenings"]
    assert [j["key"] for j in evening["jobs"]] == ["add feeder:F33"] and evening["hours_text"] == "0.2 h"
    query = "before=1&after=2&minutes=90"
    pdf = pypdf.PdfReader(io.BytesIO(client.get(f"{BAY}/files/change-order.pdf?{query}").content))
    assert "change order" in pdf.pages[0].extract_text()
    for name in ("csv", "html"):
        assert "Replace feeder F33" in client.get(f"{BAY}/files/change-order.{name}?{query}").text
    assert openpyxl.load_workbook(io.BytesIO(client.get(f"{BAY}/files/change-order.xlsx?{query}").content))
    assert (
        json.loads(client.get(f"{BAY}/change-order?before=2&after=2").text.splitlines()[-1])["answer"]["evenings"] == []
    )
    assert client.get(f"{BAY}/change-order?before=1&after=9").status_code == 404
    assert client.get(f"{BAY}/change-order?before=1&after=2&minutes=5").status_code == 422
