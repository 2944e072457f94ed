"""Who comes in: passphrases, waits, tickets kept over restarts, half-open connections, the club's own certificate."""

from __future__ import annotations

import contextlib
import shutil
import socket
import ssl
import subprocess
import time
from collections.abc import Iterator
from pathlib import Path

import httpx2 as httpx
import pytest
from fastapi.testclient import TestClient
from hypothesis import given
from hypothesis import strategies as st
from typer.testing import CliRunner

from jolly_copper.api import create_app, doorway
from jolly_copper.api.access import Access
from jolly_copper.api.doorway import Doors
from jolly_copper.api.passphrases import (
    FREE_IN_ALL,
    FREE_TRIES,
    LONGEST_WAIT_IN_ALL_S,
    LONGEST_WAIT_S,
    WORDS,
    Tries,
    new_phrase,
    same,
    why_too_weak,
)
from jolly_copper.cli import app
from jolly_copper.exchange.qr import qr_modules, qr_svg
from jolly_copper.store import NotFound, Store
from jolly_copper.store import people as people_module
from jolly_copper.store.people import People, people_file
from tests.api.conftest import Layouts
from tests.layouts import plain
from tests.started import started
from tools.served import Served

LEAD, HELPER = "the lead of the line", "a helper at hand"


class Clock:
    now = 1000.0

    def __call__(self) -> float:
        return self.now


@pytest.fixture
def layouts() -> Layouts:
    return {"small": plain().plain}


def shared(store: Store, access: Access, host: str = "192.168.1.20") -> TestClient:
    return TestClient(create_app(store, shared=access), client=(host, 5000), base_url="http://club.local")


def test_passphrases_are_four_words_of_thousands() -> None:
    assert len(WORDS) >= 2000 and len(set(WORDS)) == len(WORDS)
    assert len(new_phrase().split("-")) == 4 and len(new_phrase(2).split("-")) == 4 and new_phrase() != new_phrase()
    assert why_too_weak(new_phrase()) is None


@pytest.mark.parametrize("weak", ["", "   ", "short", "a b c d e f", "aaaaaaaaaaaa", "ababababab", "---------------"])
def test_weak_passphrases_are_refused(weak: str) -> None:
    assert why_too_weak(weak)
    got = CliRunner().invoke(app, ["serve", "--share", "--lead-phrase", weak, "--port", "0", "--db", "/nowhere/x"])
    assert got.exit_code == 1 and "too weak" in got.output and "Traceback" not in got.output


@given(st.text(max_size=30))
def test_nothing_said_is_a_blank_passphrase(said: str) -> None:
    assert not same(said, "") and not same(said, "  - ")
    assert same("The Lead  of-the LINE", LEAD) and not Access(LEAD, HELPER).role_of("")


def test_wrong_tries_wait_longer_and_longer_and_are_forgotten() -> None:
    clock = Clock()
    tries = Tries(clock)
    waits = []
    for _ in range(16):
        clock.now += tries.wait("a") + 0.001
        tries.wrong("a")
        waits.append(tries.wait("a"))
    assert waits[: FREE_TRIES - 1] == [0] * (FREE_TRIES - 1)
    growing = waits[FREE_TRIES - 1 :]
    assert growing == sorted(growing) and growing[0] == 1 and max(growing) <= LONGEST_WAIT_S
    assert tries.wait("b") == 0, "another address comes straight in"
    clock.now += LONGEST_WAIT_S + 1
    assert tries.wait("a") == 0
    tries.right("a")
    tries.wrong("a")
    assert tries.wait("a") == 0


def test_many_addresses_together_are_slowed_down_but_a_first_try_never() -> None:
    clock = Clock()
    tries = Tries(clock)
    for k in range(FREE_IN_ALL + 30):
        tries.wrong(f"10.0.{k // 250}.{k % 250}")
    assert 0 < tries.wait("10.0.0.3") <= LONGEST_WAIT_IN_ALL_S and tries.wait("10.9.9.9") == 0
    for k in range(12_000):
        tries.wrong(f"x{k}")
    assert len(tries._wrong) <= 10_000, "memory has an end"


def test_guessing_on_the_page_is_told_to_wait_and_the_own_machine_never_is(store: Store) -> None:
    access = Access(LEAD, HELPER, People(":memory:"))
    with shared(store, access) as phone:
        said = [phone.post("/api/enter", json={"phrase": f"guess {n}"}) for n in range(FREE_TRIES + 2)]
        assert [s.status_code for s in said] == [403] * FREE_TRIES + [429] * 2
        assert said[-1].headers["retry-after"] == "1" and "Wait 1 s" in said[-1].json()["message"]
        assert phone.post("/api/enter", json={"phrase": LEAD}).status_code == 429
    with shared(store, access, "192.168.1.21") as other:
        assert other.post("/api/enter", json={"phrase": HELPER, "name": "Wren"}).json() == {"role": "helper"}
    with TestClient(
        create_app(store, shared=access), client=("127.0.0.1", 1), base_url="http://127.0.0.1:8127"
    ) as here:
        for _ in range(20):
            assert here.post("/api/enter", json={"phrase": "nonsense"}).json() == {"role": "lead"}
        assert here.get("/api/layouts").status_code == 200


def test_everyone_has_a_ticket_of_their_own_that_can_be_taken_back(store: Store) -> None:
    access = Access(LEAD, HELPER, People(":memory:"), address="http" + "://192.168.1.2:8127/under")
    with shared(store, access) as wren, shared(store, access, "192.168.1.9") as lead:
        assert wren.get("/api/layouts").status_code == 401
        wren.post("/api/enter", json={"phrase": HELPER, "name": " Wren "})
        lead.post("/api/enter", json={"phrase": LEAD, "name": "Pell"})
        assert wren.get("/api/layouts").status_code == 200
        for path in ("/api/door", "/api/club", "/api/club/backup", "/api/club/copies/x"):
            assert wren.get(path).status_code == 403, "the lead's alone"
        assert wren.post("/api/club/copies", json={}).status_code == 403
        assert wren.delete("/api/people/2").status_code == 403
        door = lead.get("/api/door").json()
        assert door["shared"] and door["phrase"] == HELPER and door["picture"].startswith("<svg")
        assert sorted((p["name"], p["role"]) for p in door["people"]) == [("Pell", "lead"), ("Wren", "helper")]
        number = next(p["number"] for p in door["people"] if p["name"] == "Wren")
        assert lead.delete(f"/api/people/{number}").status_code == 204
        assert wren.get("/api/layouts").status_code == 401 and lead.get("/api/layouts").status_code == 200
        assert lead.delete(f"/api/people/{number}").status_code == 404
        assert lead.delete("/api/people/9223372036854775808").status_code == 404


def test_an_unshared_program_says_so(store: Store) -> None:
    with TestClient(create_app(store), base_url="http://localhost") as client:
        assert client.get("/api/door").json()["shared"] is False
        assert client.post("/api/enter", json={"phrase": ""}).json() == {"role": "lead"}


def test_tickets_outlive_the_program_and_are_kept_as_digests(tmp_path: Path) -> None:
    path = people_file(tmp_path / "club.sqlite3")
    people = People(path)
    ticket = people.let_in("Wren", "helper")
    people.close()
    assert path.stat().st_mode & 0o077 == 0 and ticket.encode() not in path.read_bytes()
    again = People(path)
    found = again.read(ticket)
    assert found is not None and (found.name, found.role) == ("Wren", "helper")
    for wrong in (None, "", ticket + "x", ticket[:-1], "x" * 999, "\ud800"):
        assert again.read(wrong) is None
    again.send_out(found.number)
    with pytest.raises(NotFound):
        again.send_out(found.number)
    again.close()
    last = People(path)
    assert last.read(ticket) is None and last.everyone() == []
    last.close()


def test_very_many_tickets_do_not_pile_up(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(people_module, "MOST_TICKETS", 5)
    people = People(":memory:")
    tickets = [people.let_in(f"n{k}", "helper") for k in range(9)]
    assert len(people.everyone()) == 5 and people.read(tickets[-1]) is not None
    people.close()


def test_a_restart_logs_nobody_out_and_a_copy_of_the_club_file_lets_nobody_in(tmp_path: Path) -> None:
    db = tmp_path / "club.sqlite3"
    phrases = ("--share", "--lead-phrase", LEAD, "--helper-phrase", HELPER)
    from jolly_copper.serving import own_address

    with Served(db, *phrases) as program:
        address = own_address()
        with httpx.Client(base_url=f"http://{address}:{program.port}") as phone:
            assert phone.get("/api/layouts").status_code == 401
            phone.post("/api/enter", json={"phrase": HELPER, "name": "Wren"})
            cookie = dict(phone.cookies)
        assert "Everything is saved" in program.stop()
    with (
        Served(db, "--share") as program,
        httpx.Client(base_url=f"http://{address}:{program.port}", cookies=cookie) as phone,
    ):
        assert phone.get("/api/layouts").status_code == 200
    shutil.copy(db, tmp_path / "copied.sqlite3")
    with (
        Served(tmp_path / "copied.sqlite3", "--share") as program,
        httpx.Client(base_url=f"http://{address}:{program.port}", cookies=cookie) as phone,
    ):
        assert phone.get("/api/layouts").status_code == 401


class Door:
    gone = False

    def cut_off(self) -> None:
        self.gone = True


def test_half_open_connections_never_keep_others_out() -> None:
    doors = Doors(each=3, in_all=6)
    held = {(f"10.0.0.{n}", k): Door() for n in range(2) for k in range(3)}
    assert all(doors.come(who, door) for who, door in held.items())  # type: ignore[arg-type]
    assert not doors.come(("10.0.0.1", 9), Door()), "an address has had its share"  # type: ignore[arg-type]
    doors.prove(("10.0.0.0", 0))
    doors.prove(("10.0.0.7", 1))  # not here at all
    assert doors.come(("10.0.0.5", 1), Door())  # type: ignore[arg-type]
    assert [who for who, door in held.items() if door.gone] == [("10.0.0.0", 1)], "the oldest without a ticket goes"
    for k in range(50):
        assert doors.come(("127.0.0.1", k), Door()), "this machine is never counted"  # type: ignore[arg-type]
    doors.go(("10.0.0.1", 0))
    assert doors.come(("10.0.0.1", 10), Door())  # type: ignore[arg-type]


@contextlib.contextmanager
def hurried(monkeypatch: pytest.MonkeyPatch) -> Iterator[int]:
    """The app behind its doorway, where nobody has much time. Gives its port."""
    for name, seconds in (("HEAD_S", 0.6), ("BODY_S", 3.0), ("STALLED_S", 0.8), ("LOOK_EVERY_S", 0.1)):
        monkeypatch.setattr(doorway, name, seconds)
    with started(create_app(Store(":memory:")), http=doorway.Doorway) as port:
        yield port


def _cut_after(port: int, sent: bytes) -> float:
    """Seconds until somebody who sends so much and no more is cut off."""
    with socket.create_connection(("127.0.0.1", port)) as slow:
        slow.sendall(sent)
        slow.settimeout(15)
        begun = time.monotonic()
        with contextlib.suppress(ConnectionResetError):
            while slow.recv(100):
                pass
        return time.monotonic() - begun


def test_a_request_that_never_ends_is_cut_off(monkeypatch: pytest.MonkeyPatch) -> None:
    with hurried(monkeypatch) as port:
        assert 0.5 < _cut_after(port, b"GET /api/layouts HTTP/1.1\r\nHost: localhost\r\nX-Slow: ") < 10
        assert httpx.get(f"http://127.0.0.1:{port}/api/house-rules").status_code == 200


def test_a_connection_that_is_kept_and_used_is_left_alone(monkeypatch: pytest.MonkeyPatch) -> None:
    """Longer than a slow request may take: each of its requests is quick."""
    with hurried(monkeypatch) as port, httpx.Client(base_url=f"http://127.0.0.1:{port}") as client:
        until = time.monotonic() + 1.5
        while time.monotonic() < until:
            assert client.get("/api/house-rules").status_code == 200


def test_a_body_that_stops_coming_is_given_up(monkeypatch: pytest.MonkeyPatch) -> None:
    head = b"POST /api/layouts HTTP/1.1\r\nHost: localhost\r\nContent-Type: application/json\r\nContent-Length: 5000"
    with hurried(monkeypatch) as port:
        assert 0.7 < _cut_after(port, head + b"\r\n\r\n{") < 10


def test_the_line_is_encrypted_with_the_clubs_own_certificate(tmp_path: Path) -> None:
    key, certificate = tmp_path / "key.pem", tmp_path / "cert.pem"
    made = "openssl req -x509 -newkey rsa:2048 -nodes -days 2 -subj /CN=localhost -addext subjectAltName=IP:127.0.0.1"
    subprocess.run([*made.split(), "-keyout", key, "-out", certificate], check=True, capture_output=True)
    more = ("--share", "--certificate", str(certificate), "--key", str(key))
    with Served(tmp_path / "club.sqlite3", *more) as program:
        assert program.url.startswith("https://")
        trusted = ssl.create_default_context(cafile=certificate)
        with httpx.Client(base_url=program.url, verify=trusted) as client:
            assert client.get("/api/layouts").json() == []
            door = client.get("/api/door").json()
            assert door["encrypted"] and door["address"].startswith("https://")
        said = program.more(3) + program.stop()
        assert "not encrypted" not in said
    (tmp_path / "bad.pem").write_text("no certificate")
    for wrong in (["--certificate", "bad.pem"], ["--certificate", "none.pem"], ["--key", str(key)]):
        args = [
            "serve",
            "--share",
            *[str(tmp_path / w) if w.endswith("bad.pem") or w == "none.pem" else w for w in wrong],
        ]
        got = CliRunner().invoke(app, [*args, "--port", "0", "--db", str(tmp_path / "x.sqlite3")])
        assert got.exit_code == 1 and "certificate" in got.output.lower() and "Traceback" not in got.output
        assert not (tmp_path / "x.sqlite3").exists()


def test_a_qr_code_is_of_its_size_with_three_corners() -> None:
    """Finder patterns of seven modules in three corners: ISO/IEC 18004."""
    rows = qr_modules("http" + "://192.168.1.20:8127/under")
    size = len(rows)
    assert (size - 17) % 4 == 0
    finder = [[r in (0, 6) or c in (0, 6) or (2 <= r <= 4 and 2 <= c <= 4) for c in range(7)] for r in range(7)]
    for top, left in ((0, 0), (0, size - 7), (size - 7, 0)):
        assert [row[left : left + 7] for row in rows[top : top + 7]] == finder
    assert f'viewBox="0 0 {size + 8} {size + 8}"' in qr_svg("http" + "://192.168.1.20:8127/under")


def test_a_helper_proves_and_hunts_and_changes_no_design(store: Store) -> None:
    access = Access(LEAD, HELPER, People(":memory:"))
    with shared(store, access) as wren:
        wren.post("/api/enter", json={"phrase": HELPER, "name": "Wren"})
        path = "/api/layouts/" + wren.get("/api/layouts").json()[0]["id"]
        reading = {"id": "reading-01", "test": "gap:G1/left", "shown": "OL", "done": "2026-11-20T20:00:00Z"}
        taken = wren.post(f"{path}/readings", json={"readings": [reading]})
        assert taken.status_code == 200 and len(taken.json()["readings"]) == 1
        tried = {"id": "tried-00001", "show": "Fair", "day": "2026-11-20", "what": "proof:coin:main", "state": "sound"}
        sent = {"entries": [{**tried, "done": "2026-11-20T20:00:00Z"}]}
        assert wren.post(f"{path}/shows", json=sent).status_code == 200
        hunt = {"id": "hunt-00001", "symptom": {"kind": "hot"}}
        assert wren.post(f"{path}/hunts", json=hunt).status_code == 200
        assert wren.post(f"{path}/hunts/hunt-00001/end", json={"cause": "fan"}).status_code == 200
        meter = {"id": "meter-blue", "name": "Blue", "setting": "dc"}
        assert wren.post(f"{path}/meters", json=meter).status_code == 403, "the club's meters are the lead's"
        patch = {"summary": "x", "patch": [{"op": "replace", "path": "/name", "value": "X"}]}
        assert wren.patch(path, json=patch, headers={"If-Match": "1"}).status_code == 403
