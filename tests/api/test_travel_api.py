"""Step Travel over the wire: joints, the offer of connectors, and what is kept of shows."""

from __future__ import annotations

from typing import Any

import pytest
from fastapi.testclient import TestClient

from jolly_copper.demo import harbour_arm, harbour_open, tinplate_lane
from jolly_copper.store import Store
from jolly_copper.store.shows import MOST_OF_A_LAYOUT, show_entries
from tests.api.conftest import Layouts
from tests.layouts import plain

ARM = "/api/layouts/arm"


@pytest.fixture
def layouts() -> Layouts:
    return {"arm": harbour_arm, "open": harbour_open, "tin": tinplate_lane, "plain": plain().plain}


def entry(what: str, state: str = "sound", number: int = 1, **more: Any) -> dict[str, Any]:
    return {
        "id": f"entry-000{number}",
        "show": "Autumn fair",
        "day": "2026-11-28",
        "what": what,
        "state": state,
        "done": "2026-11-28T09:00:00Z",
        **more,
    }


def test_a_railroad_that_travels(client: TestClient) -> None:
    told = client.get(f"{ARM}/travel?scene=show").json()
    assert told["words"] == "8 boards to lift out, 9 joints, 46 crossings of wire."
    assert [s["number"] for s in told["steps"]] == list(range(1, 9)) and told["standing"] == []
    assert all(not j["bare"] and j["couplings"] for j in told["joints"])
    assert any("away from the public" in j["hang"] for j in told["joints"])
    pins = told["joints"][0]["couplings"][0]["pins"]
    assert [p["number"] for p in pins] == list(range(1, len(pins) + 1))
    assert told["proof_words"].startswith("8 things in 3 of 10 minutes")
    assert told["take_down"][1].startswith("Board 4 Tunnel: open ") and "into Lid B" in told["take_down"][1]
    assert {b["name"]: len(b["boards"]) for b in told["boxes"]} == {"Lid A": 3, "Lid B": 3, "Lid C": 2}
    power = next(a for a in told["alone"] if a["board"] == "back4")
    assert any("track, 15 V digital, 4 A at most" in f for f in power["feeds"]) and power["clip"] == []


@pytest.mark.parametrize("layout", ["tin", "plain"])
def test_one_that_stays_says_so(client: TestClient, layout: str) -> None:
    told = client.get(f"/api/layouts/{layout}/travel").json()
    assert told["words"].startswith("No board lifts out.") and told["joints"] == [] and told["steps"] == []


def test_the_offer_is_a_change_to_look_at(client: TestClient) -> None:
    offer = client.get("/api/layouts/open/couplings-offer").json()
    assert offer["left"] == [] and offer["change"]["label"] == "Plug the joints"
    assert "3 runs had no plug where it crosses; it gets one." in offer["words"]
    again = client.get(f"{ARM}/couplings-offer").json()
    assert any(w.startswith("It takes the place of the") for w in again["words"])
    bare = client.get("/api/layouts/plain/couplings-offer").json()
    assert bare["change"] is None and "list the connectors" in bare["words"][0]


def test_what_was_tried_is_kept_once_and_comes_back(client: TestClient, store: Store) -> None:
    joint = client.get(f"{ARM}/travel").json()["steps"][1]["after"][0]["key"]
    body = {"entries": [entry(joint, "failed", note="pin 2 pushed back"), entry("proof:engine:main", number=2)]}
    got = client.post(f"{ARM}/shows", json=body).json()
    assert got["failed"] == [{"joint": "front2+back2", "times": 1}]
    assert client.post(f"{ARM}/shows", json=body).json() == got, "sent twice, kept once"
    told = client.get(f"{ARM}/travel?scene=show").json()
    assert told["proof"][0]["title"] == "The joint between Board 2 Quay and Board 6 Power"
    assert told["proof"][0]["failed"] == 1
    assert next(j for j in told["joints"] if j["key"] == "front2+back2")["failed"] == 1
    # Taken back, it counts no more; the layout is as it was.
    client.post(f"{ARM}/shows", json={"entries": [entry(joint, "open", number=3, done="2026-11-28T10:00:00Z")]})
    assert [e.what for e in show_entries(store, "arm")] == ["proof:engine:main"]
    assert store.newest("arm") == 1


@pytest.mark.parametrize(
    ("more", "field"),
    [
        ({"what": "feeder:F1"}, "no test of a joint"),
        ({"day": "yesterday"}, "day such as 2026-11-30"),
        ({"show": " "}, "must not be empty"),
        ({"state": "perhaps"}, "must be one of"),
        ({"done": "now"}, "time such as"),
        ({"id": "x"}, "not written the way"),
    ],
)
def test_nonsense_about_a_show_is_refused(client: TestClient, more: dict[str, Any], field: str) -> None:
    got = client.post(f"{ARM}/shows", json={"entries": [{**entry("proof:coin:main"), **more}]})
    assert got.status_code == 422 and field in got.text, got.text
    assert client.get(f"{ARM}/shows").json()["entries"] == []


def test_entries_have_an_end(client: TestClient, store: Store) -> None:
    with store.writing() as db:
        db.executemany(
            "INSERT INTO show_entry (layout, taken, id, show, day, what, state, note, who, done) "
            "VALUES ('arm', '', ?, 'x', '2026-01-01', 'proof:x:y', 'sound', '', '', '')",
            [(f"old-{n}",) for n in range(MOST_OF_A_LAYOUT)],
        )
    got = client.post(f"{ARM}/shows", json={"entries": [entry("proof:coin:main")]})
    assert got.status_code == 422 and "20000 entries of shows" in got.json()["message"]


def test_a_layout_that_is_not_there(client: TestClient) -> None:
    for path in ("travel", "couplings-offer", "shows"):
        assert client.get(f"/api/layouts/none/{path}").status_code == 404
    assert client.post("/api/layouts/none/shows", json={"entries": [entry("proof:coin:main")]}).status_code == 404
