"""Step Cabs over the API: who drives what, proposals with their reasons, panels, and refusals as sentences."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from starlette.testclient import TestClient

from jolly_copper.api import create_app
from jolly_copper.api.worked import Worked
from jolly_copper.demo import gannet_bay, millbeck, millbeck_unblocked, tinplate_lane
from jolly_copper.store import Store
from jolly_copper.telling.cabs import INKS

MILL, PLAIN, TIN, BAY = (f"/api/layouts/{i}" for i in ("millbeck", "unblocked", "tinplate", "bay"))


@pytest.fixture(scope="module")
def known() -> Worked:
    return Worked()


@pytest.fixture
def client(tmp_path: Path, known: Worked) -> Iterator[TestClient]:
    store = Store(tmp_path / "club.sqlite3")
    for name, layout in (
        ("millbeck", millbeck()),
        ("unblocked", millbeck_unblocked()),
        ("tinplate", tinplate_lane()),
        ("bay", gannet_bay()),
    ):
        store.add(name, layout)
    app = create_app(store)
    app.state.worked = known
    with TestClient(app, base_url="http://localhost") as made:
        yield made
    store.close()


def got(client: TestClient, path: str, **query: Any) -> dict[str, Any]:
    answer = client.get(path, params=query)
    assert answer.status_code == 200, answer.text
    return answer.json()  # type: ignore[no-any-return]


def made(client: TestClient, layout: str, change: dict[str, Any]) -> dict[str, Any]:
    revision = got(client, layout)["revision"]
    body = {"patch": change["patch"], "summary": change["label"]}
    answer = client.patch(layout, json=body, headers={"If-Match": str(revision)})
    assert answer.status_code == 200, answer.text
    return answer.json()["state"]  # type: ignore[no-any-return]


def last_line(client: TestClient, path: str, **query: Any) -> dict[str, Any]:
    answer = client.get(path, params=query)
    lines = [json.loads(line) for line in answer.text.splitlines() if line]
    return lines[-1]  # type: ignore[no-any-return]


def metres(cabs: dict[str, Any], name: str) -> float:
    source = next(s for s in cabs["sources"] if s["name"] == name)
    return float(source["drives_text"].split()[0])


def test_who_drives_what_follows_the_lever_and_the_scene(client: TestClient) -> None:
    both = got(client, f"{MILL}/cabs")
    assert both == got(client, f"{MILL}/cabs", scene="both-out"), "the first scene, where none is named"
    assert len([s for s in both["selectors"] if not s["lever"]]) == 10
    assert metres(both, "Cab B") == 3.5 and metres(both, "Cab A") > 15 and "switched off" in both["words"]
    assert all("set both sides alike" in m["words"] for m in both["meetings"]) and both["bare_gaps"] == []
    over = got(client, f"{MILL}/cabs", scene="over")
    assert metres(over, "Station") > metres(both, "Station") and metres(over, "Cab B") == 0
    assert {d["moves"] for d in both["driven"] if d["source"] == "cab-a"} == {"a", "b"}
    assert all(d["moves"] is None for d in both["driven"] if d["source"] == "station")


def test_throwing_is_one_undoable_change(client: TestClient) -> None:
    lever = next(s for s in got(client, f"{MILL}/cabs")["selectors"] if s["block"] == "Harrow 1")
    act = {"act": "throw", "device": lever["device"], "to": "cab-b"}
    answer = client.post(f"{MILL}/draw", json={"act": act})
    assert answer.status_code == 200, answer.text
    assert answer.json()["state"]["summary"] == "Selector Harrow 1 to Cab B"
    assert metres(got(client, f"{MILL}/cabs"), "Cab B") > 5
    wrong = client.post(f"{MILL}/draw", json={"act": {**act, "to": "main"}})
    assert wrong.status_code == 422 and "does not choose from Digital main" in wrong.json()["message"]
    client.post(f"{MILL}/undo", headers={"If-Match": str(got(client, MILL)["revision"])})
    assert metres(got(client, f"{MILL}/cabs"), "Cab B") == 3.5


def test_block_it_then_link_it_as_the_story_goes(client: TestClient) -> None:
    answer = last_line(client, f"{PLAIN}/cab-blocks", school="both rails", cabs=2, shortest=1500)["answer"]
    assert answer["words"][0].startswith("9 blocks and 1 siding switch for 2 cabs")
    assert all(c["words"].startswith(("both rails", "the left rail", "the right rail")) for c in answer["cuts"])
    made(client, PLAIN, answer["change"])
    gaps = got(client, f"{PLAIN}/cabs")["bare_gaps"]
    assert len(gaps) == 1 and gaps[0]["grave"]
    link = got(client, f"{PLAIN}/cab-link", track=gaps[0]["track"], at=gaps[0]["at"])
    assert "2 buffers" in link["words"][1] and len(link["inks"]) == 2
    made(client, PLAIN, link["change"])
    assert got(client, f"{PLAIN}/cabs")["bare_gaps"] == []
    again = last_line(client, f"{PLAIN}/cab-blocks")
    assert "selectors already" in json.dumps(again)


def test_stops_are_offered_with_their_sums(client: TestClient) -> None:
    query = {"kind": "shuttle", "track": "branch", "at": 300, "towards": "a", "train": "unit"}
    other = {"other_track": "platform", "other_at": 1200, "other_towards": "b"}
    offer = got(client, f"{MILL}/stops", **query, **other)
    assert "Coldwell railcar" in offer["words"][0] and len(offer["inks"]) == 2
    state = made(client, MILL, offer["change"])
    assert len(state["document"]["braking"]) == 2
    shown = got(client, f"{MILL}/cabs")["stretches"]
    assert {s["kind"] for s in shown} == {"braking"} and {s["side"] for s in shown} <= {-1, 1}
    no = client.get(f"{MILL}/stops", params={"kind": "stop", "track": "harrow-1", "at": 500})
    assert no.status_code == 422 and "decoders" in no.json()["message"]


def test_three_rails(client: TestClient) -> None:
    now = got(client, f"{TIN}/cabs")
    assert now["three_rail"] and len(now["meetings"]) == 2
    assert all("with one full and the other down" in m["words"] for m in now["meetings"]), "outers join the commons"
    offer = got(client, f"{TIN}/isolated-rail", track="outer-east", at=1500, works="Bell", seconds=1)
    assert offer["change"]["label"] == "Isolated rail for Bell"
    made(client, TIN, offer["change"])
    assert {s["name"] for s in got(client, f"{TIN}/cabs")["stretches"]} >= {"Bell, isolated rail"}
    same = client.get(f"{TIN}/throttle-loops")
    assert same.status_code == 200 and same.json()["words"][0].startswith("0 new gaps")
    none = client.get(f"{BAY}/throttle-loops")
    assert none.status_code == 422 and "no three-rail track" in none.json()["message"]


def test_panels_front_back_and_files(client: TestClient) -> None:
    panel = got(client, f"{MILL}/panels/panel")
    assert panel["front_svg"].startswith("<svg") and panel["back_svg"].count("<path") > 100
    assert [t["title"] for t in panel["tables"]] == [
        "Pin by pin",
        "Strips behind it",
        "Holes and what is wired to them",
        "Data cables, pair by pair",
    ]
    assert any("rotary" in p for p in panel["parts"])
    pdf = client.get(f"{MILL}/files/panels/panel.pdf")
    assert pdf.content.startswith(b"%PDF")
    svg = client.get(f"{MILL}/files/panels/panel-back.svg")
    assert svg.headers["content-type"].startswith("image/svg+xml")
    missing = client.get(f"{MILL}/panels/nothing")
    assert missing.status_code == 422 and "no control panel nothing" in missing.json()["message"]


@pytest.mark.parametrize("fmt", ["html", "pdf", "xlsx"])
def test_the_book_has_the_new_chapters(client: TestClient, fmt: str) -> None:
    found = client.get(f"{MILL}/files/book.{fmt}")
    assert found.status_code == 200 and len(found.content) > 5000
    if fmt == "html":
        for words in ("Blocks and their switches", "Pin by pin", "Strips behind it", "Millbeck panel"):
            assert words in found.text


def test_digital_alone_has_nothing_to_choose(client: TestClient) -> None:
    now = got(client, f"{BAY}/cabs")
    assert now["selectors"] == [] and {s["word"] for s in now["sources"]} == {"booster"}
    order = got(client, f"{BAY}/work-order")
    step = next(s for s in order["steps"] if s["step"] == "cabs")
    assert step["condition"] == "sound" and "Digital alone" in step["reason"]


@pytest.mark.parametrize(
    ("path", "query"),
    [
        (f"{MILL}/cab-link", {"track": "nowhere", "at": 1}),
        (f"{MILL}/stops", {"kind": "signal", "signal": "none"}),
        (f"{MILL}/isolated-rail", {"track": "harrow-1", "at": 10}),
    ],
)
def test_nonsense_is_a_sentence_and_changes_nothing(client: TestClient, path: str, query: dict[str, Any]) -> None:
    before = got(client, MILL)["revision"]
    answer = client.get(path, params=query)
    assert answer.status_code == 422 and answer.json()["message"].endswith(".")
    assert got(client, MILL)["revision"] == before


def test_white_words_are_read_on_every_ink_of_a_source() -> None:
    """WCAG 2.1, 1.4.3: at least 4.5 to 1."""

    def light(ink: str) -> float:
        parts = [int(ink[k : k + 2], 16) / 255 for k in (1, 3, 5)]
        linear = [c / 12.92 if c <= 0.03928 else ((c + 0.055) / 1.055) ** 2.4 for c in parts]
        return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]

    assert len(set(INKS)) == len(INKS)
    assert all(1.05 / (light(ink) + 0.05) >= 4.5 for ink in INKS)
