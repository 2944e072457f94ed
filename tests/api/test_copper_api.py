"""Laying and sizing over the wire."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from jolly_copper.api import create_app
from jolly_copper.demo import gannet_bay
from jolly_copper.demo.drafting import stripped
from jolly_copper.store import Store
from tests.api.test_zones_api import streamed
from tests.layouts import plain


@pytest.fixture
def client(tmp_path: Path) -> Iterator[TestClient]:
    store = Store(tmp_path / "club.sqlite3")
    store.add("bare", stripped(gannet_bay()))
    d = plain()
    for kind in ("runs", "terminals", "devices"):
        d.data[kind].clear()
    store.add("unpowered", d.plain())
    store.add("bay", gannet_bay())
    with TestClient(create_app(store), base_url="http://localhost") as client:
        yield client
    store.close()


def test_laid_then_sized_as_two_changes(client: TestClient) -> None:
    steps, laid = streamed(client, "/api/layouts/bare/laying?spacing=every%203%20ft")
    assert (
        steps[-1]["done"] == steps[-1]["total"]
        and "of bus in" in laid["words"][0]
        and "feeders more" in laid["words"][1]
    )
    for answer in (laid, None):
        state = client.get("/api/layouts/bare").json()
        change = (
            answer["change"]
            if answer
            else streamed(client, "/api/layouts/bare/sizing?scene=open-day&drop=0.1")[1]["change"]
        )
        done = client.patch(
            "/api/layouts/bare",
            headers={"If-Match": f'"{state["revision"]}"'},
            json={"summary": change["label"], "patch": change["patch"]},
        )
        assert done.status_code == 200, done.text
    _, again = streamed(client, "/api/layouts/bare/sizing?scene=open-day&drop=0.1")
    assert again["change"] is None and all(r["before"] == r["after"] for s in again["sources"] for r in s["runs"])
    booster = next(s for s in again["sources"] if s["name"] == "Booster 2")
    assert (
        "kg of copper" in booster["price_text"]
        and "designs tried" in booster["bound_text"]
        and booster["runs"][0]["why"]
    )


def test_what_cannot_be_done_says_why(client: TestClient) -> None:
    last = json.loads(client.get("/api/layouts/unpowered/laying").text.splitlines()[-1])
    assert "place a source" in last["trouble"]
    refused = client.get("/api/layouts/unpowered/sizing")
    assert refused.status_code == 422 and "lay the railroad first" in refused.json()["message"]


@pytest.mark.parametrize(
    "url", ["laying?spacing=now%20and%20then", "laying?terminal=chewing%20gum", "sizing?drop=2", "sizing?drop=nan"]
)
def test_nonsense_is_refused(client: TestClient, url: str) -> None:
    assert client.get(f"/api/layouts/bare/{url}").status_code == 422


def test_the_waveform_with_a_verdict_for_every_way_to_lay_the_wires(tmp_path: Path) -> None:
    store = Store(tmp_path / "signal.sqlite3")
    store.add("demo", gannet_bay())
    with TestClient(create_app(store), base_url="http://localhost") as client:
        got = client.get("/api/layouts/demo/waveform?run=W1").json()
        assert got["label"] == "W1" and "through zero" in got["verdict"] and len(got["rows"]) == 8
        (here,) = [r for r in got["rows"] if r["here"]]
        assert here["make"] == "apart" and not here["filtered"] and here["ring_text"].endswith("kHz")
        assert got["wave"]["volts"][0] == pytest.approx(-14.4, abs=0.1) and got["wave"]["volts"][-1] == pytest.approx(
            14.4, abs=0.1
        )
        assert "2 W" in got["filter_text"] and "Calculated, not measured" in got["settle"]
        calm = client.get("/api/layouts/demo/waveform?run=W1&make=twisted&filtered=true").json()
        assert (
            "peaks at up to" in calm["verdict"]
            and "suppressor" in calm["verdict"]
            and max(calm["wave"]["volts"]) < max(got["wave"]["volts"])
        )
        assert got["measured"] is None and "from peak to peak" in got["swing_text"] and max(got["worst"]["volts"]) > 20
        patch = [{"op": "add", "path": "/runs/W1/peak_to_peak", "value": 58.8}]
        body = {"summary": "Measured", "patch": patch}
        assert client.patch("/api/layouts/demo", json=body, headers={"If-Match": '"1"'}).status_code == 200
        assert "they agree" in client.get("/api/layouts/demo/waveform?run=W1").json()["measured_text"]
        for url, status, words in (
            ("run=A1", 422, "direct current"),
            ("run=nobody", 404, "no run nobody"),
            ("run=W1&make=knotted", 422, ""),
        ):
            refused = client.get(f"/api/layouts/demo/waveform?{url}")
            assert refused.status_code == status and words in refused.json()["message"]
    store.close()


def test_a_ring_told_and_made_as_one_change(client: TestClient) -> None:
    told = client.get("/api/layouts/bay/ring?run=W1&scene=open-day").json()
    figures = {r["what"]: (r["ended"], r["ring"]) for r in told["rows"]}
    assert figures["Lowest at the wheel in its district"] == ("10.9 V", "12.3 V")
    assert "The ring wins 1.4" in told["words"] and "meter it with one end lifted" in told["words"]
    done = client.patch(
        "/api/layouts/bay",
        headers={"If-Match": '"1"'},
        json={"summary": told["change"]["label"], "patch": told["change"]["patch"]},
    )
    assert done.status_code == 200
    again = client.get("/api/layouts/bay/ring?run=R2")
    assert again.status_code == 422 and "does not end free" in again.text
    assert client.get("/api/layouts/bay/ring?run=nothing").status_code == 404
    accessory = client.get("/api/layouts/bay/ring?run=A1").json()
    assert accessory["rows"] == [] and "no volts can be compared" in accessory["words"]
