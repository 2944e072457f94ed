"""Detection and signals over the wire: proposals, the moment, a driven train, tables, the panel's files; nonsense
refused."""

from __future__ import annotations

import io
from collections.abc import Iterator
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import pypdf
import pytest
from fastapi.testclient import TestClient

from jolly_copper.api import create_app
from jolly_copper.demo import gannet_bay, signalled_bay
from jolly_copper.store import Store
from tests.api.test_zones_api import streamed
from tests.signalled import junction

G, S = "/api/layouts/gannet", "/api/layouts/signalled"


@pytest.fixture
def client(tmp_path: Path) -> Iterator[TestClient]:
    store = Store(tmp_path / "club.sqlite3")
    store.add("gannet", gannet_bay())
    store.add("signalled", signalled_bay())
    store.add("junction", junction().plain())
    with TestClient(create_app(store), base_url="http://localhost") as client:
        yield client
    store.close()


def make(client: TestClient, layout: str, change: dict[str, Any]) -> dict[str, Any]:
    revision = client.get(layout).json()["revision"]
    got = client.patch(
        layout, json={"summary": change["label"], "patch": change["patch"]}, headers={"If-Match": f'"{revision}"'}
    )
    assert got.status_code == 200, got.text[:400]
    return got.json()["state"]["document"]  # type: ignore[no-any-return]


def test_blocked_then_signalled_as_two_undoable_changes(client: TestClient) -> None:
    steps, blocking = streamed(client, f"{G}/blocking?per_block=1&channels=8&first_address=33")
    assert [s["doing"] for s in steps] == ["cuts, blocks and boards", "feeders", "wires home"]
    assert blocking["words"][0].endswith("detection sections") and blocking["lots"][0]["why"] and blocking["cuts"]
    document = make(client, G, blocking["change"])
    assert document["brief"]["detecting"]["first_address"] == 33
    assert min(b["address"] for b in document["detectors"].values()) == 33
    detection = client.get(f"{G}/detection").json()
    assert sum(b["used"] for b in detection["boards"]) == len(
        {(s["board"], s["channel"]) for s in detection["sections"] if s["board"]}
    )
    _, signalling = streamed(client, f"{G}/signalling?school=two%20aspects&kind=searchlight")
    document = make(client, G, signalling["change"])
    assert (
        len(document["signals"]) == len(signalling["heads"])
        and document["brief"]["signalling"]["school"] == "two aspects"
    )
    assert {s["kind"] for s in document["signals"].values()} == {"searchlight", "dwarf"}
    shape = client.get(f"{G}/signals").json()
    assert {r["shows"] for r in shape["routes"]} <= {
        "clear",
        "restricting",
        "stop, as nothing detects a train there",
        "restricting, as nothing detects a train there",
    }
    for _ in range(2):
        revision = client.get(G).json()["revision"]
        assert client.post(f"{G}/undo", headers={"If-Match": f'"{revision}"'}).status_code == 200
    left = client.get(G).json()["document"]
    assert not left["signals"] and not left["detectors"]


@pytest.mark.parametrize(
    "query", ["per_block=4", "channels=0", "spare=2", "spare=nan", "first_address=0", "kind=magic", "shortest=1"]
)
def test_wishes_beyond_sense_are_refused_beside_their_field(client: TestClient, query: str) -> None:
    got = client.get(f"{G}/blocking?{query}")
    assert got.status_code == 422 and got.json()["problems"][0]["path"] == f"/{query.split('=')[0]}"


def test_what_cannot_be_done_says_why(client: TestClient) -> None:
    from jolly_copper.api.streaming import Tell  # noqa: F401  (the trouble comes down the stream)

    lines = client.get(f"{S}/blocking").text.splitlines()
    assert "There are detector channels already" in lines[-1]
    assert "Block it" in client.get(f"{G}/signalling").text
    for path, words in (
        ("renumbering", "no detector board"),
        ("detection-off", "no detector board"),
        ("signals-off", "no signal"),
    ):
        got = client.get(f"{G}/{path}")
        assert got.status_code == 422 and words in got.json()["message"]


def place(**more: Any) -> dict[str, Any]:
    return {"name": "E", "track": "down-west", "at": 3000, "towards": "b", **more}


def test_the_moment_lights_sections_and_tells_every_head_why(client: TestClient) -> None:
    got = client.post(f"{S}/moment", json={"trains": [place()]}).json()
    sections = {s["number"]: s for s in client.get(f"{S}/detection").json()["sections"]}
    assert [sections[n]["name"] for n in got["lit"]] == ["M10"]
    shows = got["shows"]
    assert shows["S9"]["aspect"] == "stop" and shows["S9"]["reasons"] == ["M10 is occupied."]
    assert (
        shows["S8"]["aspect"] == "approach"
        and shows["S7"]["aspect"] == "clear"
        and all(x["reasons"] for x in shows.values())
    )
    assert client.get(S).json()["revision"] == 1, "looking changes nothing"


def test_a_train_is_driven_over_a_gap_and_waits_at_a_stop(client: TestClient) -> None:
    trains = [place(at=2300)]
    lit = []
    for _ in range(6):
        got = client.post(f"{S}/moment/drive", json={"trains": trains, "distance": 40}).json()
        trains = got["trains"]
        lit.append(len(got["lit"]))
    assert 2 in lit and trains[0]["at"] == pytest.approx(2540), "both sections light while it bridges the gap"
    ahead = {**place(name="F"), "at": 4500}
    got = client.post(f"{S}/moment/drive", json={"trains": [place(at=2200), ahead], "distance": 900}).json()
    assert got["stopped"] == "S9 shows stop." and got["trains"][0]["at"] == pytest.approx(2370.9, abs=0.1)
    got = client.post(
        f"{S}/moment/drive", json={"trains": [place(at=2200), ahead], "distance": 900, "obeys": False}
    ).json()
    assert got["stopped"] is None and got["trains"][0]["at"] == pytest.approx(3100)


def test_turned_its_rear_is_its_front(client: TestClient) -> None:
    train = next(iter(signalled_bay().trains))
    length = signalled_bay().trains[train].length
    got = client.post(
        f"{S}/moment/drive", json={"trains": [place(train=train, at=4000)], "distance": 0, "turn": True}
    ).json()
    assert got["trains"][0]["at"] == pytest.approx(4000 - length) and got["trains"][0]["towards"] == "a"


@pytest.mark.parametrize(
    ("body", "words"),
    [
        ({"trains": [place(track="nowhere")]}, "There is no track nowhere"),
        ({"trains": [place(train="ghost")]}, "There is no train ghost"),
        ({"trains": [], "drives": 0}, "not on the plan any more"),
        ({"trains": [place()], "distance": -5}, "0 or more"),
        ({"trains": [place(at="x")]}, ""),
    ],
)
def test_trains_that_cannot_be_are_refused(client: TestClient, body: dict[str, Any], words: str) -> None:
    got = client.post(f"{S}/moment/drive", json=body)
    assert got.status_code == 422 and words in got.json()["message"]


def test_the_interlocking_prints_in_plain_words(client: TestClient) -> None:
    (table,) = client.get("/api/layouts/junction/interlocking").json()
    assert table["title"] == "Junction T" and table["columns"][-1] == "Never with"
    assert ["1", "SA", "Branch, bumper", "T diverging", "J, B", "2, 3, 4"] in table["rows"] or len(table["rows"]) == 4
    assert table["proof"].startswith("Tried: 32 states")


def test_an_axle_worked_out_and_nonsense_refused(client: TestClient) -> None:
    got = client.get("/api/sums/axle?volts=14.4&ohms=10000&threshold=0.005&cars=12").json()
    assert got["each_car"] == 6 and got["train"] == 72 and got["watts_text"] == "21 mW"
    bad = client.get("/api/sums/axle?volts=14.4&ohms=5&threshold=0.005")
    assert bad.status_code == 422 and bad.json()["problems"][0]["path"] == "/ohms"


@pytest.mark.parametrize("paper", ["A4", "Letter", "one sheet"])
def test_the_template_prints_at_its_true_size(client: TestClient, paper: str) -> None:
    got = client.get(f"{S}/files/panel.pdf", params={"paper": paper, "width": 500})
    read = pypdf.PdfReader(io.BytesIO(got.content))
    panel = client.get(f"{S}/panel?width=500").json()
    first = read.pages[0]
    if paper == "one sheet":
        assert float(first.mediabox.width) / 72 * 25.4 == pytest.approx(500 + 24, abs=0.1)
    else:
        assert "sheet 1.1 of" in first.extract_text() and len(read.pages) > 6
    assert "1 to 1" in first.extract_text() and "100 mm" in first.extract_text()
    holes = " ".join(p.extract_text() for p in read.pages[-6:])
    assert len(panel["rows"]) == 126 and all(f"{r[0]}" in holes for r in panel["rows"][-3:])
    again = client.get(f"{S}/files/panel.pdf", params={"paper": paper, "width": 500})
    assert again.content == got.content, "same revision, same file"


def test_the_panel_as_svg_is_in_true_millimetres(client: TestClient) -> None:
    got = client.get(f"{S}/files/panel.svg?width=500&template=true")
    root = ElementTree.fromstring(got.content)
    assert root.attrib["width"] == "500.0mm" and len(root.findall(".//{*}path")) > 300
    assert client.get(f"{S}/panel?width=10").status_code == 422


def test_heads_answer_within_fifty_milliseconds_of_work(client: TestClient) -> None:
    """Not a timed test: the routes are worked out once, and a moment only looks them up."""
    worked = client.app.state.worked  # type: ignore[attr-defined]
    client.post(f"{S}/moment", json={"trains": [place()]})
    kept = [v for k, v in worked._kept.items() if k[0] == "signalling"]
    client.post(f"{S}/moment", json={"trains": [place(at=100)]})
    assert [v for k, v in worked._kept.items() if k[0] == "signalling"] == kept and len(kept) == 1
