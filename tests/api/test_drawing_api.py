"""The API of drawing: acts, pictures, files, phase and proposals, and what it refuses."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest
from starlette.testclient import TestClient

from jolly_copper.api import create_app
from jolly_copper.demo import gannet_bay
from jolly_copper.store import Store

PNG = b"\x89PNG\r\n\x1a\n" + bytes(40)


AS_FILE = {"content-type": "application/octet-stream"}


@pytest.fixture
def client(tmp_path: Path) -> TestClient:
    store = Store(tmp_path / "club.sqlite3")
    store.add("gannet-bay", gannet_bay())
    return TestClient(create_app(store), base_url="http://localhost")


def new(client: TestClient, **more: Any) -> str:
    got = client.post("/api/layouts/new", json={"name": "Annexe", **more})
    assert got.status_code == 201
    return str(got.json()["id"])


def act(client: TestClient, layout: str, **more: Any) -> Any:
    return client.post(f"/api/layouts/{layout}/draw", json={"act": more})


def test_a_new_layout_is_empty_and_of_the_scale_asked_for(client: TestClient) -> None:
    i = new(client, scale="N", control="dc", units="metric")
    brief = client.get(f"/api/layouts/{i}").json()["document"]["brief"]
    assert (brief["scale"], brief["control"], brief["units"], brief["track_volts"]) == ("N", "dc", "metric", 12)
    assert client.get(f"/api/layouts/{i}/answers").json()["tracks"] == {}
    assert client.get(f"/api/layouts/{i}/rails").json()["conflicts"] == []
    assert client.post("/api/layouts/new", json={"name": " "}).status_code == 422


def test_an_act_is_one_undoable_change_and_says_what_it_made(client: TestClient) -> None:
    i = new(client)
    got = act(client, i, act="track", spots=[{"x": 0, "y": 0}, {"x": 1000, "y": 0}]).json()
    assert got["made"] == {"kind": "track", "id": "track-1"} and got["state"]["revision"] == 2
    assert got["answers"]["tracks"]["track-1"]["length"] == 1000 and set(got["answers"]["nodes"]) == {"J1", "J2"}
    undone = client.post(f"/api/layouts/{i}/undo", headers={"If-Match": '"2"'}).json()
    assert undone["state"]["document"]["tracks"] == {} and undone["state"]["can_redo"] == "Draw Track 1"


def test_acts_from_two_windows_both_stay(client: TestClient) -> None:
    """Neither window knows of the other's change; an act says what is meant, so both are done."""
    i = new(client)
    for y in (0, 500):
        assert act(client, i, act="track", spots=[{"x": 0, "y": y}, {"x": 1000, "y": y}]).status_code == 200
    assert len(client.get(f"/api/layouts/{i}").json()["document"]["tracks"]) == 2


def test_what_cannot_be_drawn_changes_nothing(client: TestClient) -> None:
    i = new(client)
    got = act(client, i, act="track", spots=[{"x": 0, "y": 0}, {"x": 1, "y": 0}])
    assert got.status_code == 422 and "at least 5 mm" in got.json()["message"]
    assert act(client, i, act="fly").status_code == 422
    assert act(client, i, act="track", spots=[{"x": 0, "y": 0}, {"x": 1e12, "y": 0}]).status_code == 422
    assert client.get(f"/api/layouts/{i}").json()["revision"] == 1


def test_a_cut_says_what_it_leaves_without_a_feeder(client: TestClient) -> None:
    got = act(client, "gannet-bay", act="gap", track="down-west", at=1800).json()
    assert got["note"] is None, "both sides have feeders of their own"
    got = act(client, "gannet-bay", act="gap", track="shed-4", at=500).json()
    assert got["note"] == "The cut leaves the B side of Shed road 4 without a feeder; the other has 1."


def test_pictures_are_kept_once_and_served_harmlessly(client: TestClient) -> None:
    first = client.post("/api/pictures", content=PNG, headers={"content-type": "image/png"}).json()
    again = client.post("/api/pictures", content=PNG, headers={"content-type": "image/png"}).json()
    assert first["picture"] == again["picture"]
    got = client.get(f"/api/pictures/{first['picture']}")
    assert (
        got.content == PNG
        and "sandbox" in got.headers["content-security-policy"]
        and got.headers["x-content-type-options"] == "nosniff"
    )
    assert client.get("/api/pictures/none").status_code == 404
    for body, kind in ((b"MZ", "image/png"), (b"hello", "application/octet-stream"), (b"", "image/png")):
        assert client.post("/api/pictures", content=body, headers={"content-type": kind}).status_code == 422
    script = b'<!DOCTYPE svg [<!ENTITY a "b">]><svg/>'
    assert client.post("/api/pictures", content=script, headers={"content-type": "image/svg+xml"}).status_code == 422


def test_a_dxf_drawing_can_be_drawn_over(client: TestClient) -> None:
    dxf = client.get("/api/layouts/gannet-bay/plan-files/plan.dxf").content
    kept = client.post("/api/pictures", content=dxf, headers={"content-type": "application/octet-stream"}).json()
    assert kept["width"] * kept["mm_per_pixel"] == pytest.approx(12000, rel=0.02), "it knows its own scale"
    assert client.get(f"/api/pictures/{kept['picture']}").headers["content-type"].startswith("image/svg+xml")


@pytest.mark.parametrize(
    ("name", "kind", "layer"), [("plan.dxf", "dxf", "TRACK"), ("plan.svg", "svg", "track"), ("tracks.csv", "csv", None)]
)
def test_plans_out_and_in_again(client: TestClient, name: str, kind: str, layer: str | None) -> None:
    data = client.get(f"/api/layouts/gannet-bay/plan-files/{name}").content
    looked = client.post(f"/api/take-in/look?kind={kind}", content=data, headers=AS_FILE).json()
    assert looked["lines"] >= 53 and (layer is None or layer in {x["name"] for x in looked["layers"]})
    i = new(client)
    query = f"kind={kind}" + (f"&layers={layer}" if layer else "")
    took = client.post(f"/api/layouts/{i}/take-in?{query}", content=data, headers=AS_FILE).json()
    assert took["tracks"] == 53 and took["turnouts"] == 24 and took["changed"]["state"]["revision"] == 2
    assert [c["kind"] for c in client.get(f"/api/layouts/{i}/rails").json()["conflicts"]] == ["balloon loop", "wye"]


def test_files_that_cannot_be_taken_say_why(client: TestClient) -> None:
    for kind in ("dxf", "svg", "csv"):
        got = client.post(f"/api/take-in/look?kind={kind}", content=b"\x00garbage", headers=AS_FILE)
        assert got.status_code == 422 and got.json()["message"].endswith(".")
    data = client.get("/api/layouts/gannet-bay/plan-files/plan.dxf").content
    got = client.post("/api/layouts/gannet-bay/take-in?kind=dxf&layers=NONE", content=data, headers=AS_FILE)
    assert got.status_code == 422 and "no lines on those layers" in got.json()["message"]
    assert client.get("/api/layouts/gannet-bay/plan-files/plan.exe").status_code == 404


def test_phase_follows_a_turnout(client: TestClient) -> None:
    rails = client.get("/api/layouts/gannet-bay/rails").json()
    sides = {(p["left"], p["right"]) for p in rails["pieces"]}
    assert {("A", "B"), ("B", "A")} & sides and ("none", "none") in sides, "shed road 3 was forgotten"
    assert all(c["settled"] for c in rails["conflicts"]) and rails["dead"] == 1
    assert {r["role"] for r in rails["sections"]} == {"plain", "reversing", "mixed", "unfed"}


def propose(client: TestClient, layout: str, query: str = "") -> dict[str, Any]:
    lines = [json.loads(x) for x in client.get(f"/api/layouts/{layout}/reversing?{query}").text.splitlines()]
    assert all({"done", "total"} == set(x) for x in lines[:-1])
    return lines[-1]["answer"]  # type: ignore[no-any-return]


def test_a_proposal_streams_its_progress_and_its_change_is_made_on_asking(client: TestClient) -> None:
    i = new(client)
    act(client, i, act="track", spots=[{"x": 0, "y": 0}, {"x": 2000, "y": 0}])
    loop = [
        {"x": 2000, "y": 0, "node": "J2"},
        {"x": 3000, "y": 900},
        {"x": 4000, "y": 0},
        {"x": 3000, "y": -900},
        {"x": 2000, "y": 0, "node": "J2"},
    ]
    act(client, i, act="track", spots=loop)
    answer = propose(client, i, "train=1000")
    option = answer["groups"][0]["options"][0]
    keys = "&".join(f"key={s['key']}" for s in option["sections"])
    change = client.get(f"/api/layouts/{i}/reversing/change?{keys}&train=1000").json()
    assert change["label"] == option["label"]
    revision = client.get(f"/api/layouts/{i}").json()["revision"]
    body = {"summary": change["label"], "patch": change["patch"]}
    assert client.patch(f"/api/layouts/{i}", json=body, headers={"If-Match": f'"{revision}"'}).status_code == 200
    assert propose(client, i)["groups"] == []
    stale = client.get(f"/api/layouts/{i}/reversing/change?{keys}&train=1000")
    assert stale.status_code == 422 and "changed since" in stale.json()["message"]


def test_dead_track_offers_a_change_that_mends_it(client: TestClient) -> None:
    steps = [json.loads(line) for line in client.get("/api/layouts/gannet-bay/dead-track").text.splitlines()]
    (dead,) = steps[-1]["answer"]["stretches"]
    assert steps[0]["found"] == dead and (steps[0]["done"], steps[0]["total"]) == (1, 1), "told as it is found"
    body = {"summary": dead["remedy"]["label"], "patch": dead["remedy"]["patch"]}
    assert client.patch("/api/layouts/gannet-bay", json=body, headers={"If-Match": '"1"'}).status_code == 200
    assert client.get("/api/layouts/gannet-bay/dead-track").json() == {"answer": {"stretches": []}}
