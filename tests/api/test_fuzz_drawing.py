"""Hundreds of random acts on the demo through the API: whatever is drawn, every answer comes, in words where it is
no."""

from __future__ import annotations

import json
import random
from pathlib import Path
from typing import Any

import pytest
from starlette.testclient import TestClient

from jolly_copper.api import create_app
from jolly_copper.demo import gannet_bay
from jolly_copper.store import Store
from tests.long import either

ACTS = either(15, 70)


def some_act(rng: random.Random, d: dict[str, Any]) -> dict[str, Any]:
    track, other, node = (rng.choice(sorted(d[k])) for k in ("tracks", "tracks", "nodes"))
    board = rng.choice(sorted(d["boards"]) or ["none"])
    x, y, at = rng.uniform(-500, 12500), rng.uniform(-500, 6500), rng.uniform(0, 5000)
    here = d["nodes"][node]["at"]
    rails = rng.choice(["both", "left", "right"])
    return rng.choice(
        [
            {"act": "track", "spots": [{**here, "node": node}, {"x": x, "y": y}]},
            {
                "act": "track",
                "spots": [{"x": x, "y": y}, {"x": x + 300, "y": y - 200}, {**here, "track": track, "at": at}],
                "frog": rng.choice(["live", "routing"]),
            },
            {"act": "split", "track": track, "at": at},
            {"act": "join", "node": node},
            {"act": "gap", "track": track, "at": at, "rails": rails},
            {"act": "erase", "things": [{"kind": "track", "id": track}, {"kind": "node", "id": node}]},
            {
                "act": "move",
                "things": [{"kind": "node", "id": node}, {"kind": "track", "id": track}],
                "dx": rng.uniform(-900, 900),
                "dy": 50,
            },
            {
                "act": "copy board",
                "board": board,
                "dx": 100,
                "dy": 7000,
                "mirror": rng.choice(["no", "left to right", "top to bottom"]),
            },
            {"act": "insert bend", "track": track, "at": at, "x": x, "y": y},
            {"act": "delete bend", "track": track, "index": 1},
            {"act": "radius", "track": track, "index": 1, "radius": rng.choice([None, 0, 500])},
            {"act": "cross", "one": track, "one_at": at, "other": other, "other_at": at / 2},
            {"act": "weld", "node": node, "spot": {"x": x, "y": y, "track": track, "at": at}},
            {"act": "feeder", "track": track, "at": at},
            {"act": "section", "track": track, "at": at, "name": "S"},
            {"act": "extend", "node": node, "radius": 300, "turn": 60},
            {"act": "turn into", "node": node, "kind": rng.choice(["bumper", "joint", "slip", "crossing"])},
            {"act": "source", "x": x, "y": y},
            {"act": "table", "kind": rng.choice(["turntable", "traverser"]), "x": x, "y": y, "size": 400},
            {"act": "assign", "track": track, "at": at, "circuit": rng.choice(sorted(d["circuits"]))},
            {"act": "rehang", "device": rng.choice(sorted(d["devices"])), "input": rng.choice(sorted(d["circuits"]))},
            {"act": "source", "kind": "supply", "x": x, "y": y},
            {
                "act": "add load",
                "kind": rng.choice(["servo", "LED", "stationary decoder"]),
                "name": "L",
                "circuit": rng.choice(sorted(d["circuits"])),
                "count": 3,
            },
            {"act": "stand load", "load": rng.choice(sorted(d["loads"]) or ["none"]), "x": x, "y": y},
            {
                "act": "erase",
                "things": [
                    {"kind": "load", "id": rng.choice(sorted(d["loads"]) or ["none"])},
                    {"kind": "terminal", "id": rng.choice(sorted(d["terminals"]))},
                ],
            },
            {
                "act": "obstacle",
                "kind": rng.choice(["brace", "leg", "panel"]),
                "outline": [{"x": x, "y": y}, {"x": x + 200, "y": y}, {"x": x, "y": y + 90}],
            },
            {
                "act": "bend run",
                "run": rng.choice(sorted(d["runs"]) or ["none"]),
                "x": x,
                "y": y,
                rng.choice(["leg", "index"]): rng.randint(0, 3),
            },
            {"act": "straighten run", "run": rng.choice(sorted(d["runs"]) or ["none"]), "index": rng.randint(1, 3)},
            {
                "act": "put on run",
                "run": rng.choice(sorted(d["runs"]) or ["none"]),
                "what": rng.choice(["terminal", "plug"]),
                "x": x,
                "y": y,
            },
            {
                "act": "slide",
                "what": rng.choice(["terminal", "plug"]),
                "id": rng.choice(sorted({**d["terminals"], **d["plugs"]}) or ["none"]),
                "x": x,
                "y": y,
            },
            {
                "act": "retie",
                "feeder": rng.choice(sorted(d["feeders"]) or ["none"]),
                "terminal": rng.choice(sorted(d["terminals"]) or ["none"]),
            },
            {"act": "signal", "track": track, "at": at, "towards": rng.choice("ab"), "heads": rng.choice([1, 2])},
            {"act": "move signal", "signal": rng.choice(sorted(d["signals"]) or ["none"]), "x": x, "y": y},
            {"act": "control board", "kind": rng.choice(["detector", "lamps", "turnouts"]), "x": x, "y": y},
            {"act": "detect", "track": track, "at": at},
            {"act": "running", "tracks": [track, other], "runs": rng.choice(["both", "forward", "backward"])},
            {
                "act": "erase",
                "things": [
                    {
                        "kind": rng.choice(["signal", "detector", "driver"]),
                        "id": rng.choice(sorted({**d["signals"], **d["detectors"], **d["drivers"]}) or ["none"]),
                    }
                ],
            },
            {
                "act": "device",
                "kind": rng.choice(["breaker", "reverser", "switch", "detector", "step-down"]),
                "input": rng.choice(sorted(d["circuits"])),
                "name": "New",
            },
        ]
    )


@pytest.mark.parametrize("seed", either([1], [1, 2, 3]))
def test_whatever_is_drawn_every_answer_comes(tmp_path: Path, seed: int) -> None:
    store = Store(tmp_path / "club.sqlite3")
    store.add("g", gannet_bay())
    client, rng, done = TestClient(create_app(store), base_url="http://localhost"), random.Random(seed), 0
    for n in range(ACTS):
        document = client.get("/api/layouts/g").json()["document"]
        got = client.post("/api/layouts/g/draw", json={"act": some_act(rng, document)})
        assert got.status_code in (200, 422), got.text[:300]
        if got.status_code == 200:
            done += 1
        else:
            trouble = got.json()
            rings = [p for p in trouble["problems"] if "the power tree has a loop" in p["sentence"]]
            assert trouble["problems"] == rings and trouble["message"].endswith("."), (
                "a sentence of its own, not a field that broke"
            )
        if n % 10 == 9:
            for what in (
                "answers",
                "findings",
                "rails",
                "zones",
                "fleet",
                "detection",
                "signals",
                "interlocking",
                "wires",
                "accessories",
                "book",
                "under",
            ):
                assert client.get(f"/api/layouts/g/{what}").status_code == 200, what
            for what in ("reversing", "dead-track", "session?evenings=100&minutes=20"):
                assert "answer" in json.loads(client.get(f"/api/layouts/g/{what}").text.splitlines()[-1]), what
        if n % 30 == 29:
            now = client.get("/api/layouts/g").json()["revision"]
            for what in (
                "division",
                "division?keep=true",
                "laying?anew=true",
                "laying?anew=true&way=along the edges",
                "laying?anew=true&way=free",
                "sizing?feeders=true",
                f"change-order?before=1&after={now}",
                f"change-order?before={now}&after=1",
            ):
                last = json.loads(client.get(f"/api/layouts/g/{what}").text.splitlines()[-1])
                assert "answer" in last or "could not be worked out" not in last["trouble"], (what, last)
            for what in (
                "book.csv",
                "book.html",
                "labels.csv",
                "book.pdf?chapters=power,cutting",
                "book.xlsx?chapters=schedule",
            ):
                assert client.get(f"/api/layouts/g/files/{what}").status_code == 200, what
            for device in document["devices"]:
                assert client.get(f"/api/layouts/g/best-place?device={device}").status_code in (200, 422)
    assert done > ACTS / 3
    for _ in range(done):
        revision = client.get("/api/layouts/g").json()["revision"]
        assert client.post("/api/layouts/g/undo", headers={"If-Match": f'"{revision}"'}).status_code == 200
    assert client.get("/api/layouts/g").json()["document"] == gannet_bay().model_dump(mode="json"), (
        "every act undone, to the last millimetre"
    )
