"""The API: thin, typed, polite."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from starlette.testclient import TestClient

from jolly_copper.api import create_app
from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.layout.document import Layout
from jolly_copper.store import Store
from jolly_copper.store.keeping import differing

HOME = "/api/layouts/gannet-bay"


@pytest.fixture
def client(tmp_path: Path, demo: Layout) -> Iterator[TestClient]:
    store = Store(tmp_path / "club.sqlite3")
    store.add("gannet-bay", demo)
    web = tmp_path / "web"
    (web / "assets").mkdir(parents=True)
    (web / "index.html").write_text("<title>Jolly Copper</title>")
    (web / "assets" / "app-12345678.js").write_text("1")
    (tmp_path / "secret").write_text("no")
    with TestClient(create_app(store, web), base_url="http://localhost") as found:
        yield found
    store.close()


def change(client: TestClient, patch: list[dict[str, Any]], based_on: int = 1, **query: str | int) -> Any:
    return client.patch(
        HOME, json={"summary": "Change", "patch": patch}, headers={"If-Match": f'"{based_on}"'}, params=query
    )


TO_12 = [{"op": "replace", "path": "/runs/W1/gauge", "value": "12ga"}]


def test_a_change_answers_with_the_new_state_and_everything_the_plan_shows(client: TestClient) -> None:
    before = client.get(f"{HOME}/answers", params={"scene": "open-day"}).json()
    got = change(client, TO_12, scene="open-day")
    assert got.status_code == 200
    state, after = got.json()["state"], got.json()["answers"]
    assert (
        state["revision"] == 2
        and state["can_undo"] == "Change"
        and state["document"]["runs"]["W1"]["gauge"] == "12 AWG"
    )
    assert after["revision"] == 2 and after["worst"]["value"] > before["worst"]["value"] + 0.3
    assert set(after["samples"]) == set(state["document"]["tracks"])
    for samples in after["samples"].values():
        assert len({len(v) for v in samples.values()}) == 1 and samples["at"] == sorted(samples["at"])


def test_what_if_had_predicted_it(client: TestClient) -> None:
    worst = client.get(f"{HOME}/answers", params={"scene": "open-day"}).json()["worst"]
    place = {"track": worst["track"], "at": worst["at"], "scene": "open-day"}
    said = {w["label"]: w for w in client.get(f"{HOME}/what-if", params=place).json()}["Bus W1 to 12 AWG"]
    change(client, said["patch"])
    assert client.get(f"{HOME}/point", params=place).json()["volts_text"] == said["after_text"]


def test_who_has_a_revision_is_told_what_differs_from_it(client: TestClient) -> None:
    """Made good by what the club file itself reads its rows with, each change is the whole document told apart."""
    renamed = [{"op": "replace", "path": "/name", "value": "Gannet Bay by night"}]
    gone = [{"op": "remove", "path": "/feeders/F33"}]
    again = [{"op": "add", "path": "/feeders/F33", "value": client.get(HOME).json()["document"]["feeders"]["F33"]}]
    document, number = client.get(HOME).json()["document"], 1
    track, whole_ones = next(iter(document["tracks"])), 0
    asked = [lambda p=p, n=n: change(client, p, n, holds=n) for n, p in enumerate((TO_12, renamed, gone, again), 1)]
    asked += [
        lambda way=way, n=n: client.post(f"{HOME}/{way}", headers={"If-Match": str(n)}, params={"holds": n})
        for n, way in enumerate(("undo", "undo", "redo", "undo", "undo"), 5)
    ]
    act = {"act": "gap", "track": track, "at": 200.0}
    asked.append(lambda: client.post(f"{HOME}/draw", json={"act": act}, params={"holds": 10}))
    for ask in asked:
        answer = ask()
        assert answer.status_code == 200, answer.text
        told = answer.json()["state"]
        if "document" in told:  # a thing went back to where it stood among others
            whole_ones, document = whole_ones + 1, told["document"]
        else:
            assert told["since"] == number and len(json.dumps([told["fields"], told["maps"]])) < 10_000
            document = differing(document, told)
        number = told["revision"]
        whole = client.get(HOME).json()
        assert document == whole["document"] and number == whole["revision"]
        assert {k: whole[k] for k in ("can_undo", "can_redo", "who", "summary")}.items() <= told.items()
    assert (number, whole_ones) == (11, 2)


def test_who_has_a_revision_that_is_not_there_or_none_gets_the_whole(client: TestClient) -> None:
    assert change(client, TO_12, 1, holds=99).json()["state"]["document"]["runs"]["W1"]["gauge"] == "12 AWG"
    assert (
        change(client, [{**TO_12[0], "value": "14 AWG"}], 2)
        .json()["state"]["document"]["name"]
        .startswith("Gannet Bay")
    )
    assert change(client, TO_12, 3, holds=0).status_code == 422


def test_what_is_foreseen_is_worked_out_once_and_nothing_is_saved(
    client: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    client.get(f"{HOME}/answers", params={"scene": "open-day"})
    asked: list[str] = []

    def counted(layout: Layout, scene: str | None = None) -> Any:
        asked.append(f"{layout.runs['W1'].gauge} {scene}")
        return derive(layout, scene)

    monkeypatch.setattr("jolly_copper.api.worked.derive", counted)

    def foresee(patch: list[dict[str, Any]], based_on: str = '"1"', scene: str = "open-day") -> int:
        headers, query = {"If-Match": based_on}, {"scene": scene}
        return client.post(f"{HOME}/foresee", json={"patch": patch}, headers=headers, params=query).status_code

    assert foresee(TO_12) == 204 and asked == ["12 AWG open-day"]
    assert client.get(HOME).json()["revision"] == 1, "nothing is saved"
    assert change(client, TO_12, scene="open-day").json()["state"]["revision"] == 2
    assert asked == ["12 AWG open-day"], "it was worked out already"
    assert foresee([{**TO_12[0], "value": "14 AWG"}]) == 204, "the page is behind, and will be told when it saves"
    assert foresee([{**TO_12[0], "value": "a song"}], "2") == 204
    assert foresee([{"op": "remove", "path": "/runs/W99"}], "2") == 204
    assert asked == ["12 AWG open-day"]
    assert foresee([{**TO_12[0], "value": "10 AWG"}], "2", "work-night") == 204
    assert asked[1:] == ["10 AWG open-day", "10 AWG work-night"], "to be saved, and to be seen"
    assert foresee(TO_12, "yesterday") == 428
    assert client.post("/api/layouts/none/foresee", json={"patch": TO_12}, headers={"If-Match": "1"}).status_code == 404


def test_undo_redo_and_history(client: TestClient) -> None:
    change(client, TO_12)
    back = client.post(f"{HOME}/undo", headers={"If-Match": "2"}).json()["state"]
    assert back["document"]["runs"]["W1"]["gauge"] == "16 AWG" and back["can_redo"] == "Change"
    assert (
        client.post(f"{HOME}/redo", headers={"If-Match": "3"}).json()["state"]["document"]["runs"]["W1"]["gauge"]
        == "12 AWG"
    )
    assert [r["kind"] for r in client.get(f"{HOME}/history").json()] == ["redo", "undo", "edit", "new"]
    assert client.post(f"{HOME}/redo", headers={"If-Match": "4"}).status_code == 404


def test_a_stale_change_gets_409_and_the_newer_state(client: TestClient) -> None:
    change(client, TO_12)
    late = change(client, [{"op": "replace", "path": "/name", "value": "Late"}], based_on=1)
    assert late.status_code == 409 and late.json()["current"]["revision"] == 2
    assert client.get(HOME).json()["document"]["name"] == "Gannet Bay & Uplands"


@pytest.mark.parametrize("header", [None, "", "*", "one", '"1', "-1"])
def test_a_change_must_say_what_it_is_based_on(client: TestClient, header: str | None) -> None:
    headers = {} if header is None else {"If-Match": header}
    got = client.patch(HOME, json={"summary": "x", "patch": TO_12}, headers=headers)
    assert got.status_code in (428, 409) and got.json()["message"]


def test_a_change_that_cannot_be_read_is_refused_with_path_and_sentence(client: TestClient) -> None:
    got = change(client, [{"op": "replace", "path": "/runs/W1/gauge", "value": "purple"}])
    assert got.status_code == 422
    assert got.json()["problems"] == [
        {"path": "/runs/W1/gauge", "sentence": "“purple” is not a wire gauge. Try 14 AWG or 2.5 mm²."}
    ]
    assert client.get(HOME).json()["revision"] == 1


@pytest.mark.parametrize(
    ("path", "params", "status"),
    [
        ("/api/layouts/nobody", {}, 404),
        (f"{HOME}/point", {"track": "moon", "at": 1}, 404),
        (f"{HOME}/point", {"track": "yard-1", "at": "nan"}, 422),
        (f"{HOME}/point", {"track": "yard-1", "at": -1}, 422),
        (f"{HOME}/what-if", {"track": "moon", "at": 1}, 404),
        ("/api/nothing", {}, 404),
        (HOME, {"revision": 77}, 404),
    ],
)
def test_what_is_not_there_is_said_in_words(client: TestClient, path: str, params: dict[str, Any], status: int) -> None:
    got = client.get(path, params=params)
    assert got.status_code == status and got.json()["message"]


def test_a_scene_that_is_gone_falls_back_to_the_first(client: TestClient) -> None:
    assert client.get(f"{HOME}/answers", params={"scene": "long-ago"}).json()["scene"] == "open-day"


def test_a_mend_is_previewed_without_being_made(client: TestClient) -> None:
    findings = client.get(f"{HOME}/findings").json()
    (wrong,) = [f for f in findings if f["rule"] == "feeder fights a reverser"]
    seen = client.post(f"{HOME}/preview", json={"patch": wrong["mends"][0]["patch"]}).json()
    assert wrong["title"] in seen["gone"] and client.get(HOME).json()["revision"] == 1
    bad = client.post(
        f"{HOME}/preview", json={"patch": [{"op": "add", "path": "/feeders/nope/terminal/x", "value": 1}]}
    )
    assert bad.status_code == 422 and bad.json()["message"]


def test_the_wire_table_and_its_files(client: TestClient) -> None:
    table = client.get(f"{HOME}/wires").json()
    assert table["rows"][0]["label"] == "W1" and all(r["held_text"] for r in table["rows"])
    file = client.get(f"{HOME}/files/wires.csv")
    assert "attachment" in file.headers["content-disposition"]
    assert len(list(csv.reader(io.StringIO(file.text)))) == len(table["rows"]) + 1
    layout = client.get(f"{HOME}/files/layout.json")
    again = client.post("/api/layouts", json=json.loads(layout.text))
    assert again.status_code == 201 and again.json()["id"] == "gannet-bay-uplands"
    assert client.get(f"{HOME}/files/netlist.cir").text.startswith("* Gannet Bay")


@pytest.mark.parametrize("body", [{}, {"name": "x", "moons": {}}, {"name": 5}])
def test_a_bad_layout_file_is_refused(client: TestClient, body: dict[str, Any]) -> None:
    got = client.post("/api/layouts", json=body)
    assert got.status_code == 422 and got.json()["problems"][0]["sentence"]
    assert len(client.get("/api/layouts").json()) == 1


def test_a_huge_body_is_refused(client: TestClient) -> None:
    assert client.post("/api/layouts", content=b"{}", headers={"content-length": "99000000"}).status_code == 413


def test_other_names_for_this_machine_are_not_answered(client: TestClient) -> None:
    assert client.get("/api/layouts", headers={"host": "evil.example"}).status_code == 421


def test_the_page_and_nothing_outside_it(client: TestClient) -> None:
    assert "Jolly Copper" in client.get("/").text and "Jolly Copper" in client.get("/some/deep/link").text
    assert "immutable" in client.get("/assets/app-12345678.js").headers["cache-control"]
    assert client.get("/..%2fsecret").text != "no" and "Jolly Copper" in client.get("/%2e%2e/secret").text


def test_reading_what_people_type(client: TestClient) -> None:
    def read(**query: str) -> Any:
        return client.get("/api/read", params=query).json()

    assert read(kind="length", text="8' 2", units="imperial")["value"] == pytest.approx(2489.2)
    assert read(kind="length", text="2", units="metric")["value"] == 2000
    assert read(kind="length", text="30", bare="in")["text"] == "30 in"
    assert read(kind="gauge", text="14ga")["gauge"] == "14 AWG"
    assert read(kind="current", text="300 mA")["value"] == 0.3
    wrong = client.get("/api/read", params={"kind": "volts", "text": "lots"})
    assert wrong.status_code == 422 and wrong.json()["problems"][0]["path"] == "/text"


def test_quick_sums(client: TestClient) -> None:
    run = client.post("/api/quick/run", json={"length": "35'", "current": "5 A", "volts": "14.4 V"}).json()
    assert run["answer"] == "12 AWG" and "70 ft of wire there and back" in run["sentence"]
    far = client.post(
        "/api/quick/run", json={"length": "900 m", "current": "5 A", "volts": "14.4 V", "units": "metric"}
    ).json()
    assert far["answer"] is None and "No gauge" in far["sentence"]
    assert client.post("/api/quick/trains", json={"booster": "5 A", "train": "500 mA"}).json()["trains"] == 8
    assert (
        client.post("/api/quick/led", json={"supply": "12", "led": "2 V", "current": "10 mA"}).json()["resistor"]
        == "1 kΩ"
    )
    for path, body, field in (
        ("run", {"length": "long", "current": "5 A", "volts": "14.4 V"}, "/length"),
        ("run", {"length": "0 ft", "current": "5 A", "volts": "14.4 V"}, "/length"),
        ("run", {"length": "9 ft", "current": "5 A", "volts": "14.4 V", "drop": "lots"}, "/drop"),
        ("trains", {"booster": "5 A", "train": "0"}, "/train"),
        ("led", {"supply": "3 V", "led": "3.2 V", "current": "10 mA"}, "/supply"),
    ):
        wrong = client.post(f"/api/quick/{path}", json=body)
        assert wrong.status_code == 422 and wrong.json()["problems"][0]["path"] == field


def test_house_rules_and_gauges(client: TestClient) -> None:
    assert all(r["schools"] and r["source"] for r in client.get("/api/house-rules").json())
    assert client.get("/api/gauges").json()["imperial"][0] == "6 AWG"


def test_the_demo_is_added_once(client: TestClient) -> None:
    assert client.post("/api/demo").json()["id"] == "gannet-bay"
    assert len(client.get("/api/layouts").json()) == 1
