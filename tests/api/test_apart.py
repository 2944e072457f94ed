"""The real program with its processes: hangs and bombs cost their own asker a sentence, and nothing else."""

from __future__ import annotations

import contextlib
import json
import os
import signal
import socket
import threading
import time
from collections.abc import Iterator
from pathlib import Path

import httpx2 as httpx
import pytest

from jolly_copper.api import apart
from jolly_copper.api.apart import FILE, LONG, PAPER, limits_of
from tests.large import row_of_tracks
from tests.long import either
from tests.started import in_a_loop
from tools.served import Served
from tools.soak.clients import clients
from tools.soak.files import dxf, hostile_files
from tools.soak.fuzz import fuzz
from tools.soak.hostile import hostile
from tools.soak.kills import kills
from tools.soak.strangers import strangers

AS_FILE = {"content-type": "application/octet-stream"}


@pytest.fixture(scope="module")
def program(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Served]:
    with Served(tmp_path_factory.mktemp("apart") / "club.sqlite3", command="demo") as found:
        yield found


@pytest.fixture
def client(program: Served) -> Iterator[httpx.Client]:
    with program.client() as found:
        yield found


def children(pid: int) -> list[int]:
    with open(f"/proc/{pid}/task/{pid}/children", encoding="ascii") as kids:
        return [int(k) for k in kids.read().split()]


def test_which_requests_are_heavy() -> None:
    assert limits_of("POST", "/api/take-in/look") is FILE
    assert limits_of("GET", "/api/layouts/a/files/book.pdf") is PAPER
    assert limits_of("GET", "/api/layouts/a/sizing") is LONG
    for light in ("answers", "point", "findings", "history", "under", "files/layout.json", "files/wires.csv"):
        assert limits_of("GET", f"/api/layouts/a/{light}") is None
    assert limits_of("PATCH", "/api/layouts/a") is None


def test_the_findings_of_a_large_layout_are_worked_out_apart(program: Served, client: httpx.Client) -> None:
    """A child is born for those of the large one alone; the answer is the same."""
    (mother,) = children(program.process.pid)[:1]
    large = row_of_tracks(640, 300, 20)
    i = client.post("/api/layouts", json={**large, "notes": "x" * 1900}).json()["id"]
    seen: set[int] = set()
    asking = threading.Event()

    def watch() -> None:
        while not asking.wait(0.005):
            seen.update(children(mother))

    for layout, apart_too in (("gannet-bay", False), (i, True)):
        before = set(children(mother))
        seen.clear()
        asking.clear()
        watcher = threading.Thread(target=watch)
        watcher.start()
        assert client.get(f"/api/layouts/{layout}/findings").status_code == 200
        asking.set()
        watcher.join()
        assert bool(seen - before) == apart_too, layout


def test_an_answer_apart_is_the_same_answer(client: httpx.Client) -> None:
    book = client.get("/api/layouts/gannet-bay/book")
    assert book.status_code == 200 and len(book.json()["chapters"]) > 5
    assert book.headers["x-content-type-options"] == "nosniff" and book.headers["cache-control"] == "no-store"
    missing = client.get("/api/layouts/nothing/book")
    assert missing.status_code == 404 and "nothing" in missing.json()["message"]
    lines = [json.loads(x) for x in client.get("/api/layouts/gannet-bay/dead-track").text.splitlines()]
    assert "answer" in lines[-1]


def test_what_is_taken_in_apart_is_there(client: httpx.Client) -> None:
    i = client.post("/api/layouts/new", json={"name": "Drawn"}).json()["id"]
    plan = client.get("/api/layouts/gannet-bay/plan-files/plan.dxf").content
    took = client.post(f"/api/layouts/{i}/take-in?kind=dxf&layers=TRACK", content=plan, headers=AS_FILE).json()
    assert took["tracks"] == 53 and client.get(f"/api/layouts/{i}").json()["revision"] == 2
    undone = client.post(f"/api/layouts/{i}/undo", headers={"If-Match": "2", "content-type": "application/json"})
    assert undone.json()["state"]["revision"] == 3


def test_whoever_hangs_up_stops_the_work(program: Served) -> None:
    (mother,) = children(program.process.pid)[:1]
    with program.client() as client, client.stream("GET", "/api/layouts/gannet-bay-signalled/sizing") as stream:
        next(stream.iter_bytes())
        at_work = children(mother)
        assert at_work
    until = time.monotonic() + 5
    while set(children(mother)) & set(at_work) and time.monotonic() < until:
        time.sleep(0.05)
    assert not set(children(mother)) & set(at_work)


def test_a_killed_program_takes_its_children_along_and_frees_its_port(tmp_path: Path) -> None:
    with Served(tmp_path / "club.sqlite3", command="demo") as program:
        (mother,) = children(program.process.pid)[:1]
        with (
            program.client() as client,
            client.stream("GET", "/api/layouts/gannet-bay-signalled/sizing") as stream,
        ):
            next(stream.iter_bytes())
            at_work = children(mother)
            assert at_work
            program.stop(signal.SIGKILL)
            until = time.monotonic() + 5
            while any(os.path.exists(f"/proc/{p}") for p in (mother, *at_work)) and time.monotonic() < until:
                time.sleep(0.02)
        assert not any(os.path.exists(f"/proc/{p}") for p in (mother, *at_work))
        with socket.socket() as again:
            again.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            again.bind(("127.0.0.1", program.port))


def test_without_a_mother_heavy_requests_are_answered_all_the_same(tmp_path: Path) -> None:
    with Served(tmp_path / "club.sqlite3", command="demo") as program, program.client() as client:
        (mother,) = children(program.process.pid)[:1]
        os.kill(mother, signal.SIGKILL)
        assert client.get("/api/layouts/gannet-bay/book").status_code == 200
        line = "  0\nLINE\n  8\nT\n 10\n0\n 20\n0\n 11\n900\n 21\n0\n"
        got = client.post("/api/take-in/look?kind=dxf", content=dxf(line), headers=AS_FILE)
        assert got.json()["lines"] == 1


def test_in_a_crowd_a_second_pair_of_hands_answers_the_same(program: Served) -> None:
    answers: list[bytes] = []

    def ask() -> None:
        with program.client() as mine:
            answers.append(mine.get("/api/layouts/gannet-bay/findings").content)
            mine.get("/api/layouts/gannet-bay-signalled/answers")

    crowd = [threading.Thread(target=ask) for _ in range(12)]
    for person in crowd:
        person.start()
    for person in crowd:
        person.join(60)
    assert len(answers) == 12 and len(set(answers)) == 1 and len(json.loads(answers[0])) > 20


def test_a_child_that_is_killed_costs_a_sentence(program: Served) -> None:
    (mother,) = children(program.process.pid)[:1]
    answers: list[httpx.Response] = []
    with program.client() as client:
        asking = threading.Thread(target=lambda: answers.append(client.get("/api/layouts/gannet-bay/files/book.pdf")))
        asking.start()
        while asking.is_alive():  # whichever it is, the second pair of hands among them
            for child in children(mother):
                with contextlib.suppress(ProcessLookupError):
                    os.kill(child, signal.SIGKILL)
            time.sleep(0.02)
        asking.join(20)
        assert answers[0].status_code == 422 and "stopped" in answers[0].json()["message"]
        assert client.get("/api/layouts/gannet-bay/files/book.pdf").status_code == 200


LAUNCHER = """
from jolly_copper.api import drawing
from jolly_copper.cli import main

def wait(data, unit=None):
    kept = []
    while True:
        kept.append(bytearray(10_000_000 if b"eat" in data else 0))

drawing.READERS["dxf"] = wait
main()
"""
"""The program with a reader that never ends, or eats memory without end."""


def test_a_file_that_hangs_its_reader_is_stopped_and_nobody_waits(tmp_path: Path) -> None:
    launcher = tmp_path / "launcher.py"
    launcher.write_text(LAUNCHER)
    with (
        Served(tmp_path / "club.sqlite3", command="demo", launcher=launcher) as program,
        program.client() as client,
    ):
        said: list[httpx.Response] = []

        def send(content: bytes) -> None:
            with program.client() as mine:
                said.append(mine.post("/api/take-in/look?kind=dxf", content=content, headers=AS_FILE))

        bad = [threading.Thread(target=send, args=(c,)) for c in (b"hang", b"eat")]
        begun = time.monotonic()
        for thread in bad:
            thread.start()
        worst = 0.0
        while any(t.is_alive() for t in bad):
            asked = time.monotonic()
            assert client.get("/api/layouts/gannet-bay/answers").status_code == 200
            worst = max(worst, time.monotonic() - asked)
            time.sleep(0.1)
        assert worst < 3 and time.monotonic() - begun < FILE.seconds + 6
        assert sorted(r.status_code for r in said) == [422, 422] and all(r.json()["message"] for r in said)


def test_the_queue_for_heavy_work_has_an_end(monkeypatch: pytest.MonkeyPatch) -> None:
    import anyio

    monkeypatch.setattr(apart, "MOST_WAITING", 0)
    sent = []

    async def nothing(*_: object) -> None:
        raise AssertionError("it is not to be reached")

    async def receive() -> dict[str, object]:
        await anyio.sleep(0)
        return {"type": "http.request", "body": b"", "more_body": False}

    async def send(message: dict[str, object]) -> None:
        sent.append(message)

    async def go() -> None:
        door = apart.Apart(nothing, lambda: object(), lambda _: False)  # type: ignore[arg-type, return-value]
        await door({"type": "http", "method": "GET", "path": "/api/layouts/a/book", "headers": []}, receive, send)

    in_a_loop(go)
    assert sent[0]["status"] == 429


def test_a_drawing_is_read_again_after_all_that(client: httpx.Client) -> None:
    line = "  0\nLINE\n  8\nT\n 10\n0\n 20\n0\n 11\n900\n 21\n0\n"
    got = client.post("/api/take-in/look?kind=dxf", content=dxf(line), headers=AS_FILE)
    assert got.json()["lines"] == 1


# --- short forms of the attacks; `make soak` runs them in full


def test_the_hostile_files_are_of_every_kind() -> None:
    made = list(hostile_files(40, 1))
    assert len({m[0] for m in made}) > 30 and {m[1].split("?")[0].rsplit("/", 1)[-1] for m in made} >= {
        "look",
        "layouts",
    }


@pytest.mark.parametrize(
    "attack",
    [
        lambda folder: kills(folder, either(1, 10)),
        lambda folder: fuzz(folder, either(60, 1000)),
        lambda folder: hostile(folder, either(10, 100)),
        lambda folder: strangers(folder, either(30, 100), either(2, 10)),
    ],
    ids=["kills", "fuzz", "hostile", "strangers"],
)
def test_a_short_attack_fails(attack: object, tmp_path: Path) -> None:
    found = attack(tmp_path)  # type: ignore[operator]
    slow = [w for w in found.wrong if not (w.endswith(" s") or " s:" in w or "waited" in w or "took" in w)]
    assert slow == [], "times are for the full attack on a quiet machine"


def test_some_people_at_once_meet_no_error(tmp_path: Path) -> None:
    found = clients(tmp_path, 5, either(4, 20))
    assert [w for w in found.wrong if not w.startswith("95 %")] == []
