"""Rehearsals over the wire: streamed, refused, proved, played many times, kept, and none of it changes the layout."""

from __future__ import annotations

import json
from typing import Any

import pytest
from fastapi.testclient import TestClient

from jolly_copper.demo import signalled_bay, tinplate_lane
from jolly_copper.store import Store
from jolly_copper.store.rehearsals import MOST_KEPT, Record, keep_rehearsal, rehearsals
from tests.api.conftest import Layouts
from tests.layouts import plain

BAY = "/api/layouts/bay"


@pytest.fixture
def layouts() -> Layouts:
    return {"bay": signalled_bay, "tin": tinplate_lane, "plain": plain().plain}


def lines(client: TestClient, url: str, body: dict[str, Any]) -> list[dict[str, Any]]:
    got = client.post(url, json=body)
    assert got.status_code == 200, got.text[:400]
    assert got.headers["content-type"] == "application/x-ndjson"
    return [json.loads(x) for x in got.text.splitlines()]


def plan_of(client: TestClient, name: str = "open-day", **more: Any) -> dict[str, Any]:
    found: dict[str, Any] = client.get(BAY).json()["document"]["plans"][name]
    return {**found, **more}


def test_an_evening_comes_line_by_line_then_what_it_came_to(client: TestClient) -> None:
    told = lines(client, f"{BAY}/rehearse", {"id": "open-day", "plan": plan_of(client, minutes=3, faults=[])})
    opening = told[0]["opening"]
    assert opening["seconds"] == 180 and len(opening["trains"]) == 12
    k6 = next(d for d in opening["devices"] if d["id"] == "K6")
    assert k6 == {
        "id": "K6",
        "name": "Breaker Quarry branch",
        "kind": "breaker",
        "label": 4.0,
        "trip": 4.0,
        "after": 0.05,
        "source": False,
    }
    assert opening["lights"]["S10"]["diverging approach"] == ["red", "yellow"]
    assert any(piece[0] == "quarry-lead" for piece in opening["under"]["K6"])
    until = [x["until"] for x in told if "until" in x]
    assert until == sorted(until) and until[-1] == 180
    short = [line for x in told for line in x.get("lines", [])]
    assert {line[0] for line in short} >= {"S", "M", "W", "L", "H", "D", "E"}
    samples = [line for line in short if line[0] == "S"]
    assert len(samples) == 181 and all(len(s[2]) == len(opening["devices"]) for s in samples)
    answer = told[-1]["answer"]
    assert answer["problems"] == [] and answer["counts"]["restart loop"] == 1
    assert answer["sentences"][0]["grade"] == "bad"


def test_a_plan_that_cannot_be_run_says_what_is_wrong_and_where(client: TestClient) -> None:
    plan = plan_of(client)
    plan["trains"]["ore"]["track"] = "nowhere"
    told = lines(client, f"{BAY}/rehearse", {"plan": plan})
    assert told == [{"answer": told[0]["answer"]}]
    assert told[0]["answer"]["problems"] == [
        {"path": "/trains/ore/track", "sentence": "Ore drag begins on track nowhere, which is gone."}
    ]
    assert client.post(f"{BAY}/rehearse/check", json={"plan": plan}).json()[0]["path"] == "/trains/ore/track"
    assert client.post(f"{BAY}/rehearse/check", json={"plan": plan_of(client)}).json() == []
    for url in ("rehearse/proof", "rehearse/evenings"):
        assert "which is gone" in lines(client, f"{BAY}/{url}", {"plan": plan})[-1]["trouble"]


@pytest.mark.parametrize(
    "plan",
    [
        {"name": "x", "minutes": 9000},
        {"name": "x", "trains": {f"t{k}": {"train": "a", "track": "t", "at": 1} for k in range(41)}},
        {"name": "x", "seed": -1},
        {"name": "", "trains": {}},
        {"name": "x", "faults": [{"kind": "meteor", "seconds": 1}]},
        {"name": "x", "trains": {"a": {"train": "a", "track": "t", "at": -5}}},
        "nonsense",
    ],
    ids=["twelve hours", "forty trains", "seed", "no name", "kind of fault", "place", "no plan"],
)
def test_nonsense_is_refused_in_words(client: TestClient, plan: Any) -> None:
    got = client.post(f"{BAY}/rehearse", json={"plan": plan})
    assert got.status_code == 422 and got.json()["message"]


def test_a_plan_is_made_from_a_scene_and_saved_like_any_change(client: TestClient, store: Store) -> None:
    made = client.post(f"{BAY}/rehearse/plan", json={"scene": "open-day"}).json()
    assert made["plan"]["trains"]["ore"]["by"] == "free" and isinstance(made["homeless"], list)
    assert store.newest("bay") == 1
    got = client.patch(
        BAY,
        json={"summary": "Plan", "patch": [{"op": "add", "path": "/plans/night", "value": made["plan"]}]},
        headers={"If-Match": '"1"'},
    )
    assert got.status_code == 200
    assert got.json()["state"]["document"]["plans"]["night"]["name"] == "Saturday open day"
    undone = client.post(f"{BAY}/undo", headers={"If-Match": '"2"'}).json()
    assert "night" not in undone["state"]["document"]["plans"]
    assert client.post(f"{BAY}/rehearse/plan", json={"scene": "none"}).status_code == 422
    assert client.post("/api/layouts/tin/rehearse/plan", json={"scene": "evening"}).json()["plan"]["trains"]


def test_the_proof_tells_every_rule_and_the_way_into_a_knot(client: TestClient) -> None:
    told = lines(client, f"{BAY}/rehearse/proof", {"id": "open-day", "plan": plan_of(client)})
    assert [x["rule"] for x in told if "rule" in x] == ["signals alone", "direction", "safe moves"]
    rules = {r["rule"]: r for r in told[-1]["answer"]["rules"]}
    assert [rules[r]["verdict"] for r in ("signals alone", "direction", "safe moves")] == ["knot", "free", "free"]
    assert rules["signals alone"]["story"] and rules["direction"]["states"] > 10_000
    assert told[-1]["answer"]["other_ways"] == []


def test_evenings_by_chance_tell_what_is_known_after_each(client: TestClient) -> None:
    plan = plan_of(client, "round", minutes=20)
    told = lines(client, f"{BAY}/rehearse/evenings", {"plan": plan, "count": 3})
    assert [x["done"] for x in told[:-1]] == [1, 2, 3]
    assert [x["so_far"]["played"] for x in told[:-1]] == [1, 2, 3]
    answer = told[-1]["answer"]
    assert answer["played"] == 3 and all(0 <= w["low"] <= w["high"] <= 1 for w in answer["weaknesses"])
    assert client.post(f"{BAY}/rehearse/evenings", json={"plan": plan, "count": 0}).status_code == 422


def test_why_a_head_shows_what_it_shows(client: TestClient) -> None:
    lies = dict.fromkeys(("T1", "T3", "T4", "T5"), "through")
    got = client.post(f"{BAY}/rehearse/why", json={"signal": "S1", "lies": lies, "lit": [2]}).json()
    assert got["aspect"] == "stop" and "occupied" in got["reasons"][0]
    assert client.post(f"{BAY}/rehearse/why", json={"signal": "S999"}).status_code == 404


def test_what_to_try_first(client: TestClient) -> None:
    trials = client.get(f"{BAY}/test-track").json()
    assert trials[0]["stands_for"] >= trials[-1]["stands_for"] and all(t["prove"] for t in trials)
    assert client.get("/api/layouts/plain/test-track").json() == []


def test_a_rehearsal_is_kept_with_its_plan_and_goes_stale_when_the_layout_changes(
    client: TestClient, store: Store
) -> None:
    assert client.get(f"{BAY}/rehearsals").json() == []
    plan = plan_of(client, faults=[{"kind": "tool on the rail", "seconds": 9, "track": "quarry-lead", "at": 100}])
    said = {"grade": "bad", "words": "It tripped.", "t": 9.0, "entry": 3, "mends": []}
    body = {"id": "open-day", "plan": plan, "record": "night-1", "sentences": [said], "who": "Nan"}
    for _ in range(2):  # sent twice, kept once
        kept = client.post(f"{BAY}/rehearsals", json=body).json()
    assert len(kept) == 1 and kept[0]["stale"] is False and kept[0]["who"] == "Nan"
    assert kept[0]["sentences"][0]["words"] == "It tripped." and kept[0]["plan"]["faults"][0]["seconds"] == 9
    assert kept[0]["plan_id"] == "open-day"
    client.patch(
        BAY,
        json={"summary": "n", "patch": [{"op": "add", "path": "/notes", "value": "x"}]},
        headers={"If-Match": '"1"'},
    )
    assert client.get(f"{BAY}/rehearsals").json()[0]["stale"] is True
    assert client.delete(f"{BAY}/rehearsals/night-1").json() == []
    assert client.delete(f"{BAY}/rehearsals/night-1").status_code == 404
    assert client.get("/api/layouts/none/rehearsals").status_code == 404
    assert client.post("/api/layouts/none/rehearsals", json={**body, "revision": 1}).status_code == 404


def test_no_more_are_kept_than_may_be(client: TestClient, store: Store) -> None:
    for n in range(MOST_KEPT):
        keep_rehearsal(store, "bay", Record(f"r{n}", "open-day", 1, "x", {}, 1, 1, []))
    assert len(rehearsals(store, "bay")) == MOST_KEPT
    got = client.post(f"{BAY}/rehearsals", json={"plan": plan_of(client), "record": "one-more"})
    assert got.status_code == 422 and "throw some away" in got.json()["message"]


def test_runs_go_out_as_a_table_and_come_back_as_one_undoable_change(client: TestClient, store: Store) -> None:
    got = client.get(f"{BAY}/plans/round/runs.csv")
    assert got.status_code == 200 and got.headers["content-disposition"].endswith('bay-round-1.csv"')
    rows = got.content.decode("utf-8-sig").splitlines()
    less = "\r\n".join(r for r in rows if not r.startswith("boat,")).encode()
    kind = {"content-type": "text/csv"}
    state = client.post(f"{BAY}/plans/round/runs", content=less, headers=kind).json()["state"]
    assert "boat" not in state["document"]["plans"]["round"]["trains"] and state["summary"].endswith("take in 5 runs")
    client.post(f"{BAY}/undo", headers={"If-Match": '"2"'})
    assert "boat" in client.get(BAY).json()["document"]["plans"]["round"]["trains"]
    bad = client.post(f"{BAY}/plans/round/runs", content=b"train,track,at_mm\nGhost,Yard 1,5\n", headers=kind)
    assert bad.status_code == 422 and "Ghost" in bad.json()["message"]
    assert client.get(f"{BAY}/plans/none/runs.csv").status_code == 404
    assert client.post(f"{BAY}/plans/none/runs", content=less, headers=kind).status_code == 404
