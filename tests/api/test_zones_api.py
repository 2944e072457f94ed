"""Zones over the wire: the division, evenings, accessories, and what is told of every step of the power tree."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from jolly_copper.api import create_app
from jolly_copper.demo import gannet_bay, undivided_bay
from jolly_copper.store import Store


@pytest.fixture
def client(tmp_path: Path) -> Iterator[TestClient]:
    store = Store(tmp_path / "club.sqlite3")
    store.add("gannet-bay", gannet_bay())
    store.add("undivided", undivided_bay())
    with TestClient(create_app(store), base_url="http://localhost") as client:
        yield client
    store.close()


def streamed(client: TestClient, url: str) -> tuple[list[dict[str, Any]], dict[str, Any]]:
    got = client.get(url)
    assert got.status_code == 200, got.text
    *steps, last = [json.loads(line) for line in got.text.splitlines()]
    return steps, last["answer"]


def test_a_division_with_the_change_that_makes_it(client: TestClient) -> None:
    steps, answer = streamed(client, "/api/layouts/undivided/division?scene=open-day")
    assert steps[0]["doing"] == "where districts may end" and steps[-1]["doing"] == "playing evenings"
    assert len(answer["districts"]) == 7 and [b["bought"] for b in answer["boosters"]] == [False, True]
    assert (
        answer["needs"][:3] == ["8 pairs of gaps to cut", "7 breakers", "1 booster to buy"]
        and answer["warning"] is None
    )
    assert len({d["ink"] for d in answer["districts"]}) == 7, "each in an ink of its own"
    assert {i["ink"] for i in answer["inks"]} == {d["ink"] for d in answer["districts"]}
    assert all(d["chance_text"].startswith("in ") for d in answer["districts"])
    state = client.get("/api/layouts/undivided").json()
    done = client.patch(
        "/api/layouts/undivided",
        headers={"If-Match": f'"{state["revision"]}"'},
        json={"summary": answer["change"]["label"], "patch": answer["change"]["patch"]},
    )
    assert done.status_code == 200
    made = done.json()["state"]["document"]
    for d in answer["districts"]:
        (circuit,) = [c for c in made["circuits"].values() if c["name"] == d["name"]]
        assert circuit["ink"] == d["ink"], "as it was shown"
    assert (
        client.post(
            "/api/layouts/undivided/undo", headers={"If-Match": f'"{done.json()["state"]["revision"]}"'}
        ).status_code
        == 200
    )


@pytest.mark.parametrize(
    "query", ["booster_amps=0", "booster_amps=nan", "main_parts=0", "main_parts=99", "keep=perhaps"]
)
def test_wishes_that_make_no_sense_are_refused(client: TestClient, query: str) -> None:
    got = client.get(f"/api/layouts/undivided/division?{query}")
    assert got.status_code == 422 and got.json()["message"]


def test_too_small_boosters_are_warned_of(client: TestClient) -> None:
    _, answer = streamed(client, "/api/layouts/undivided/division?booster_amps=0.6")
    assert "larger boosters" in answer["warning"]


def test_evenings_are_seeded_and_tell_of_their_progress(client: TestClient) -> None:
    url = "/api/layouts/undivided/session?evenings=300&minutes=60"
    steps, one = streamed(client, url)
    assert [s["done"] for s in steps] == [100, 200, 300]
    assert streamed(client, url)[1] == one != streamed(client, f"{url}&seed=2")[1]
    (row,) = one["chances"]
    assert (
        row["name"] == "Booster 1"
        and row["over"]
        and "of 100 evenings" in row["chance_text"]
        and "% of the time" in row["minutes_text"]
    )
    assert client.get(f"{url}&running=7").status_code == 422


def test_the_power_tree_with_amps_trips_and_wires(client: TestClient) -> None:
    zones = client.get("/api/layouts/gannet-bay/zones?scene=open-day").json()
    steps = {s["device"]: s for s in zones["steps"]}
    assert steps["K1"]["above"] == "booster1" and steps["K1"]["lines"] == ["3.05 A of 4 A", "trips 4 A, 50 ms"]
    assert "opens first on all" in steps["K1"]["trips_text"] and zones["wrong"] == []
    assert (
        steps["SD1"]["above"] == "PS1"
        and steps["SD1"]["purpose"] == "accessory"
        and steps["PS1"]["lines"][0].endswith("of 5 A")
    )
    assert steps["booster1"]["hosts"] == [] == steps["PS1"]["hosts"], "where power starts hangs under nothing"
    assert {"booster2", "booster3", "K2"} <= set(steps["K1"]["hosts"]) and "booster1" not in steps["K1"]["hosts"], (
        "it hangs there already"
    )
    assert not {"PS1", "SD1", "K1"} & set(steps["K1"]["hosts"]) and steps["SD1"]["hosts"] == []
    assert "V2" not in steps["K6"]["hosts"], "that hangs below it"


def test_a_breaker_too_large_shows_where_the_wrong_one_opens(client: TestClient) -> None:
    state = client.get("/api/layouts/gannet-bay").json()
    patch = [{"op": "replace", "path": "/devices/K6/trip_amps", "value": 7}]
    client.patch(
        "/api/layouts/gannet-bay",
        headers={"If-Match": f'"{state["revision"]}"'},
        json={"summary": "too large", "patch": patch},
    )
    zones = client.get("/api/layouts/gannet-bay/zones").json()
    assert any(
        w["track"] == "quarry-loader" and "Booster 3 opens before Breaker Quarry branch" in w["words"]
        for w in zones["wrong"]
    )
    assert "does not open the protection nearest" in zones["trips_text"]
    point = client.get("/api/layouts/gannet-bay/point?track=quarry-loader&at=700").json()
    assert point["opens_text"].startswith(
        "Booster 3 opens first after 250 ms, before Breaker Quarry branch, which should"
    )


def test_accessories_with_the_volts_that_reach_them(client: TestClient) -> None:
    loads = client.get("/api/layouts/gannet-bay/accessories").json()["loads"]
    assert (
        loads["gates"]["why"] == "too low"
        and not loads["gates"]["ok"]
        and loads["gates"]["wants_text"] == "10 V to 14 V"
    )
    assert (
        loads["signals"]["ok"]
        and loads["signals"]["work_text"] == "2.98 V"
        and loads["throat"]["work_text"] == "track power"
    )
    kinds = {k["kind"] for k in client.get("/api/usual-loads").json()}
    assert {"switch machine", "servo", "LED"} <= kinds
    refused = client.get("/api/layouts/gannet-bay/accessory-bus?device=SD1")
    assert refused.status_code == 422 and "stand its loads on the plan" in refused.json()["message"]
    assert client.get("/api/layouts/gannet-bay/accessory-bus?device=nobody").status_code == 422
