"""The bench over the API: tests, readings from two phones, meters, tables both ways, hunts and drills."""

from __future__ import annotations

import base64
import io
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import openpyxl
import pytest
from starlette.testclient import TestClient

from jolly_copper.api import create_app
from jolly_copper.api.worked import Worked
from jolly_copper.demo import gannet_bay
from jolly_copper.store import Store

BAY = "/api/layouts/gannet-bay"
WHEN = "2026-11-20T20:00:00Z"


def right_now() -> str:
    return datetime.now(UTC).isoformat()


@pytest.fixture(scope="module")
def known() -> Worked:
    return Worked()


@pytest.fixture
def client(tmp_path: Path, known: Worked) -> Iterator[TestClient]:
    store = Store(tmp_path / "club.sqlite3")
    store.add("gannet-bay", gannet_bay())
    app = create_app(store)
    app.state.worked = known
    with TestClient(app, base_url="http://localhost") as made:
        yield made
    store.close()


def listed(client: TestClient) -> dict[str, dict[str, Any]]:
    return {t["key"]: t for t in client.get(f"{BAY}/bench").json()["tests"]}


def sent(client: TestClient, *readings: dict[str, Any]) -> dict[str, Any]:
    got = client.post(f"{BAY}/readings", json={"readings": [{"done": WHEN, **r} for r in readings]})
    assert got.status_code == 200, got.text
    return got.json()  # type: ignore[no-any-return]


def test_a_reading_is_judged_kept_and_shown_with_its_test(client: TestClient) -> None:
    before = listed(client)["feeder:F21/A"]
    assert before["state"] == "open" and before["last"] is None and before["x"] is not None
    made = sent(client, {"id": "reading-01", "test": "feeder:F21/A", "shown": "0,9", "who": "Ada"})["readings"][0]
    assert made["sound"] is False and "most likely the joint" in made["verdict"] and made["value"] == 0.9
    after = listed(client)["feeder:F21/A"]
    assert after["state"] == "bad" and after["last"]["who"] == "Ada" and after["last"]["shown"] == "0,9"
    sent(client, {"id": "reading-02", "test": "feeder:F21/A", "shown": "0.05", "done": "2026-11-21T20:00:00Z"})
    assert listed(client)["feeder:F21/A"]["state"] == "sound"
    order = client.get(f"{BAY}/work-order").json()["steps"]
    assert next(s for s in order if s["step"] == "bench")["condition"] == "sound"


def test_sent_twice_from_two_phones_it_is_kept_once(client: TestClient) -> None:
    one = {"id": "reading-01", "test": "feeder:F21/A", "shown": "0.04"}
    for _ in range(3):
        sent(client, one)
    assert len(client.get(f"{BAY}/readings").json()) == 1


def test_a_bad_one_keeps_no_other_back(client: TestClient) -> None:
    made = sent(
        client,
        {"id": "reading-01", "test": "feeder:F21/A", "shown": "0.04"},
        {"id": "reading-02", "test": "feeder:F21/A", "shown": "14 A"},
        {"id": "x", "test": "feeder:F21/A", "shown": "0.04"},
        {"id": "reading-04", "test": "feeder:GONE/A", "shown": "something of old"},
    )
    assert [r["id"] for r in made["readings"]] == ["reading-01", "reading-04"]
    assert [r["place"] for r in made["refused"]] == [1, 2] and "is amps" in made["refused"][0]["why"]
    gone = next(r for r in client.get(f"{BAY}/readings").json() if r["id"] == "reading-04")
    assert gone["shown"] == "something of old" and "no such test" in gone["verdict"], "never thrown away"


def test_a_reading_taken_back_counts_no_more(client: TestClient) -> None:
    sent(client, {"id": "reading-01", "test": "feeder:F21/A", "shown": "0.9"})
    sent(client, {"id": "reading-02", "test": "feeder:F21/A", "shown": "taken back", "withdraws": "reading-01"})
    assert listed(client)["feeder:F21/A"]["state"] == "open" and client.get(f"{BAY}/readings").json() == []


def test_after_a_change_it_is_told_as_from_before(client: TestClient) -> None:
    sent(client, {"id": "reading-01", "test": "feeder:F21/A", "shown": "0.04"})
    sent(client, {"id": "reading-02", "test": "gap:G3/left", "shown": "OL"})
    patch = [{"op": "replace", "path": "/feeders/F21/gauge", "value": "24 AWG"}]
    edit = {"summary": "Thinner", "patch": patch}
    assert client.patch(BAY, json=edit, headers={"If-Match": "1"}).status_code == 200
    now = listed(client)
    assert now["feeder:F21/A"]["state"] == "changed" and now["gap:G3/left"]["state"] == "sound"


def test_a_year_later_the_coin_is_due(client: TestClient) -> None:
    sent(client, {"id": "reading-01", "test": "coin:yard", "shown": "trips at once", "done": "2024-01-02T20:00:00Z"})
    sent(client, {"id": "reading-02", "test": "coin:quays", "shown": "trips at once"})
    now = listed(client)
    assert now["coin:yard"]["state"] == "due" and now["coin:quays"]["state"] == "sound"


def test_a_meter_is_kept_with_its_factor_and_converts(client: TestClient) -> None:
    meter = {"id": "meter-blue", "name": "The blue one", "setting": "ac averaging", "factor": 0.93}
    assert client.post(f"{BAY}/meters", json=meter).json()[0]["setting_name"] == "AC volts, averaging"
    made = sent(client, {"id": "reading-01", "test": "open:main-west", "shown": "15.5", "meter": "meter-blue"})
    assert made["readings"][0]["value"] == pytest.approx(15.5 * 0.93) and made["readings"][0]["sound"]
    client.post(f"{BAY}/meters", json=meter | {"factor": 0.9})
    assert [m["factor"] for m in client.get(f"{BAY}/bench").json()["meters"]] == [0.9]
    refused = sent(client, {"id": "reading-02", "test": "feeder:F21/A", "shown": "0.05", "meter": "meter-blue"})
    assert "does not read this" in refused["refused"][0]["why"]


def test_readings_teach_and_offer(client: TestClient) -> None:
    none = client.get(f"{BAY}/learned").json()
    assert none["judged"] == [] and "No reading under load yet" in none["words"]
    must = [t for t in listed(client).values() if t["tier"] == "must"]
    worse = next(t for t in must if t["key"].startswith("load:up-south-2"))
    readings = [
        {"id": f"reading-{n:03d}", "test": t["key"], "shown": f"{1000 * (t['value'] + 0.5 * (t is worse)):.0f} mV"}
        for n, t in enumerate(must)
    ]
    sent(client, *readings)
    learned = client.get(f"{BAY}/learned").json()
    assert len(learned["judged"]) == len(must) and learned["sound"] < 0.05
    assert any("F31" in s["words"] or "Up main, south 2" in s["words"] for s in learned["suspects"][:2])
    assert learned["next"] and learned["suspects"][0]["x"] is not None
    assert client.get(f"{BAY}/learned/offer").status_code == 200
    sent(client, {"id": "reading-900", "test": "feeder:F21/A", "shown": "0.05"})
    offer = client.get(f"{BAY}/learned/offer").json()
    assert any("F21" in line for line in offer["lines"])
    assert client.post(f"{BAY}/preview", json={"patch": offer["mend"]["patch"]}).status_code == 200


def test_tables_go_out_and_come_back(client: TestClient) -> None:
    sent(
        client,
        {"id": "reading-01", "test": "feeder:F21/A", "shown": "0,9", "note": "=1+1", "who": "Ada"},
        {"id": "reading-02", "test": "load:yard-1@0", "shown": "240 mV", "amps": 0.5},
    )
    text = client.get(f"{BAY}/files/readings.csv").content
    book = client.get(f"{BAY}/files/readings.xlsx").content
    assert b"0,9" in text and openpyxl.load_workbook(io.BytesIO(book)).active is not None
    copy = "/api/layouts/" + client.post(f"{BAY}/copy", json={"name": "Another"}).json()["id"]
    for name, file in (("readings.csv", text), ("readings.xlsx", book)):
        body = {
            "name": name,
            "base64": base64.b64encode(file.replace(b"reading-0", b"csv-read0")).decode(),
        }
        if name.endswith("xlsx"):
            body["base64"] = base64.b64encode(file).decode()
        got = client.post(f"{BAY}/readings/file", json=body)
        assert got.status_code == 200 and got.json()["refused"] == [], got.text
    assert client.get(f"{copy}/readings").json() == []
    kept = client.get(f"{BAY}/readings").json()
    assert {r["shown"] for r in kept} == {"0,9", "240 mV"}


@pytest.mark.parametrize(
    ("name", "file", "why"),
    [
        ("a.csv", b"one,two\n1,2\n", "No table of readings"),
        ("a.xlsx", b"PK no zip", "no workbook"),
        ("a.csv", b"Test,Reading\n", "no readings in it"),
    ],
)
def test_a_file_that_is_no_table_is_told(client: TestClient, name: str, file: bytes, why: str) -> None:
    got = client.post(f"{BAY}/readings/file", json={"name": name, "base64": base64.b64encode(file).decode()})
    assert got.status_code == 422 and why in got.text


def begin(client: TestClient, **symptom: Any) -> dict[str, Any]:
    got = client.post(f"{BAY}/hunts", json={"id": "hunt-00001", "symptom": symptom})
    assert got.status_code == 200, got.text
    return got.json()  # type: ignore[no-any-return]


def test_a_hunt_goes_on_from_its_answers_and_is_written_up(client: TestClient) -> None:
    hunt = begin(client, kind="trips", circuit="yard")
    assert hunt["standing"]["next"] and len(hunt["standing"]["likely"]) == 3 and hunt["standing"]["why"]
    act = hunt["standing"]["next"]
    path = f"{BAY}/hunts/hunt-00001/answers"
    said = "0,31" if act["unit"] else act["answers"][-1]["said"]
    for _ in range(2):
        told = client.post(path, json={"id": "answer-0001", "act": act["key"], "said": said}).json()
    assert len(told["standing"]["answers"]) == 1, "sent twice it is kept once"
    assert told["standing"]["minutes"] > 0 and told["standing"]["next"]["key"] != act["key"]
    assert client.get(f"{BAY}/hunts/hunt-00001").json() == told, "nothing of it is lost on a reload"
    back = client.post(path, json={"id": "answer-0002", "said": "back"}).json()
    assert back["standing"]["answers"] == [] and back["standing"]["next"]["key"] == act["key"]
    found = client.post(path, json={"id": "answer-0003", "act": "frog:T11", "said": "found"}).json()
    assert found["standing"]["found"]["key"] == "frog:T11" and found["standing"]["next"] is None
    ended = client.post(
        f"{BAY}/hunts/hunt-00001/end", json={"cause": "frog:T11", "mend": "a screw", "minutes": 7}
    ).json()
    assert ended["hunt"]["cause"] == "frog:T11"
    listed = client.get(f"{BAY}/hunts").json()
    assert listed["causes"] == [{"cause": "frog", "count": 1}] and listed["hunts"][0]["minutes"] == 7


def test_a_hunt_of_what_a_file_cannot_say_is_asked_about(client: TestClient) -> None:
    got = client.post(f"{BAY}/hunts", json={"id": "hunt-00002", "symptom": {"kind": "stalls"}})
    assert got.status_code == 422 and "click the place" in got.text
    begin(client, kind="stalls", track="yard-1", at=500)
    path = f"{BAY}/hunts/hunt-00001/answers"
    wrong = client.post(path, json={"id": "answer-0001", "act": "no such act", "said": "yes"})
    assert wrong.status_code == 422 and "no such test" in wrong.text
    reads = client.get(f"{BAY}/hunts/hunt-00001").json()["standing"]
    meter = next((a for a in [reads["next"], *reads["others"]] if a["unit"]), None)
    if meter:
        bad = client.post(path, json={"id": "answer-0002", "act": meter["key"], "said": "a lot"})
        assert bad.status_code == 422 and "no reading" in bad.text
    assert client.get(f"{BAY}/hunts/nothing-there").status_code == 404


def test_a_drill_is_made_again_by_its_seed(client: TestClient) -> None:
    ask = {"seed": 7, "hardness": "easy"}
    first = client.post(f"{BAY}/drill", json=ask).json()
    assert first == client.post(f"{BAY}/drill", json=ask).json() and first["steps"] == [] and first["acts"]
    looks = [a["key"] for a in first["acts"] if a["answers"] and a["answers"][0]["said"] == "found"]
    ended = client.post(f"{BAY}/drill", json=ask | {"tried": looks * 3}).json()
    assert ended["score"] and ended["score"]["par"] > 0 and ended["score"]["best"]
    assert ended["steps"][-1]["said"] == "that was it" and ended["acts"] == []
    assert client.get(f"{BAY}/hunts").json()["hunts"] == [], "never mixed with the real log"
    assert client.post(f"{BAY}/drill", json={"seed": -1}).status_code == 422


def test_the_book_has_a_chapter_of_what_was_metered(client: TestClient) -> None:
    before = client.get(f"{BAY}/files/book.html?chapters=proving").text
    assert "The fewest places that prove every part that matters" in before and "None is kept yet" in before
    for year, shown in ((2024, "0.04"), (2025, "0.07"), (2026, "0.9")):
        sent(
            client, {"id": f"reading-{year}", "test": "feeder:F21/A", "shown": shown, "done": f"{year}-05-01T20:00:00Z"}
        )
    after = client.get(f"{BAY}/files/book.html?chapters=proving").text
    assert "F21, orange wire" in after and "2024-05-01" in after and "3 readings; broken lines" in after
    assert "proving" in [c["key"] for c in client.get(f"{BAY}/book").json()["chapters"]]
    pdf = client.get(f"{BAY}/files/book.pdf?chapters=proving")
    assert pdf.status_code == 200 and pdf.content == client.get(f"{BAY}/files/book.pdf?chapters=proving").content


def test_a_change_tells_which_tests_it_touched(client: TestClient) -> None:
    patch = [{"op": "replace", "path": "/feeders/F21/gauge", "value": "24 AWG"}]
    client.patch(BAY, json={"summary": "Thinner", "patch": patch}, headers={"If-Match": "1"})
    touched = {t["key"] for t in client.get(f"{BAY}/bench?since=1").json()["tests"] if t["touched"]}
    assert {"feeder:F21/A", "feeder:F21/B"} <= touched and "feeder:F22/A" not in touched
    assert not any(t["touched"] for t in client.get(f"{BAY}/bench?since=2").json()["tests"])
    assert client.get(f"{BAY}/bench?since=99").status_code == 404


def test_trouble_logged_under_the_boards_weighs_in_a_hunt(client: TestClient) -> None:
    begin(client, kind="trips", circuit="yard")
    before = client.get(f"{BAY}/hunts/hunt-00001").json()["standing"]["likely"]
    entry = {
        "id": "entry-0001",
        "task": "terminal:T33",
        "state": "trouble",
        "note": "stray strands",
        "done": right_now(),
    }
    assert client.post(f"{BAY}/work", json={"entries": [entry]}).json()["refused"] == []
    after = client.get(f"{BAY}/hunts/hunt-00001").json()["standing"]["likely"]
    assert after[0]["key"] == "terminal:T33" != before[0]["key"] or after[0]["chance"] != before[0]["chance"]
