"""Starting, stopping and looking after the club file from the command line: sentences, never a traceback."""

from __future__ import annotations

import os
import re
import shutil
import signal
import socket
import sqlite3
from pathlib import Path

import pytest
from typer.testing import CliRunner

from jolly_copper.cli import app
from jolly_copper.store import Store
from jolly_copper.store.copies import copies_of
from tests.layouts import plain
from tools.served import Served

run = CliRunner()


@pytest.fixture
def club(tmp_path: Path) -> Path:
    path = tmp_path / "club.sqlite3"
    store = Store(path)
    store.add("small", plain().plain())
    store.close()
    return path


def refused(*args: str) -> str:
    got = run.invoke(app, list(args))
    assert got.exit_code == 1 and "Traceback" not in got.output and got.exception is not None
    assert isinstance(got.exception, SystemExit), got.exception
    return str(got.output)


def test_a_backup_is_made_checked_and_put_back(club: Path, tmp_path: Path) -> None:
    got = run.invoke(app, ["backup", str(tmp_path / "usb" / "mine.sqlite3"), "--db", str(club)])
    assert got.exit_code == 0 and "1 layout, 1 change" in got.output and "sound" in got.output
    assert run.invoke(app, ["backup", "--db", str(club)]).exit_code == 0 and len(copies_of(club)) == 1
    store = Store(club)
    store.change("small", 1, [{"op": "replace", "path": "/notes", "value": "spoiled"}], "Spoil")
    store.close()
    got = run.invoke(app, ["restore", str(tmp_path / "usb" / "mine.sqlite3"), "--db", str(club)])
    assert got.exit_code == 0 and "before-restore" in got.output
    again = Store(club)
    assert again.get("small").number == 1
    again.close()


def test_a_damaged_file_is_told_and_a_copy_put_in_its_place(club: Path, tmp_path: Path) -> None:
    copy = shutil.copy(club, tmp_path / "copy.sqlite3")
    with sqlite3.connect(club) as db:
        db.execute("UPDATE revision SET document = x'00', patch = '['")
    db.close()
    got = run.invoke(app, ["check-file", "--db", str(club)])
    assert got.exit_code == 3 and "cannot be read" in got.output
    club.write_bytes(b"\x00" * 9000)
    assert "damaged" in refused("serve", "--port", "0", "--db", str(club))
    assert "club file" in refused("check-file", "--db", str(club))
    got = run.invoke(app, ["restore", str(copy), "--db", str(club)])
    assert got.exit_code == 0 and "damaged" in got.output
    store = Store(club)
    assert store.get("small").number == 1
    store.close()
    assert run.invoke(app, ["check-file", "--db", str(club)]).exit_code == 0


def test_what_cannot_be_opened_is_told_in_a_sentence(club: Path, tmp_path: Path) -> None:
    text = tmp_path / "letter.txt"
    text.write_text("Dear club" * 2000)
    for wrong in (tmp_path, tmp_path / "no" / "where.sqlite3", text):
        assert str(wrong) in refused("serve", "--port", "0", "--db", str(wrong))
    assert text.read_text() == "Dear club" * 2000
    with sqlite3.connect(club) as db:
        db.execute("PRAGMA user_version = 99")
    db.close()
    assert "newer" in refused("serve", "--port", "0", "--db", str(club))
    assert "newer" in refused("demo", "--fresh", "--port", "0", "--db", str(club))
    for command in ("backup", "check-file"):
        assert "There is no club file" in refused(command, "--db", str(tmp_path / "none.sqlite3"))
    assert "There is no club file" in refused("restore", str(tmp_path / "none.sqlite3"), "--db", str(club))


def test_fresh_touches_nothing_until_the_port_is_its_own(tmp_path: Path) -> None:
    path = tmp_path / "demo.sqlite3"
    store = Store(path)
    store.add("gannet-bay", plain().plain())
    store.close()
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        said = refused("demo", "--fresh", "--port", str(taken.getsockname()[1]), "--db", str(path))
    assert "in use" in said
    again = Store(path)
    assert again.get("gannet-bay").layout.name == "Plain"
    again.close()


def test_a_polite_stop_leaves_one_whole_file_and_no_process(tmp_path: Path) -> None:
    db = tmp_path / "club.sqlite3"
    for how in (signal.SIGINT, signal.SIGTERM):
        with Served(db) as program, program.client() as client:
            mother = int(
                Path(f"/proc/{program.process.pid}/task/{program.process.pid}/children").read_text().split()[0]
            )
            client.post("/api/layouts/new", json={"name": f"Stopped by {how}"})
            assert "Everything is saved." in program.stop(how)
        assert not os.path.exists(f"/proc/{mother}")
        assert not db.with_name(db.name + "-wal").exists()
    store = Store(db)
    assert len(store.layouts()) == 2
    store.close()


def test_when_the_program_is_killed_its_processes_go_too(tmp_path: Path) -> None:
    import time

    with Served(tmp_path / "club.sqlite3") as program:
        mother = int(Path(f"/proc/{program.process.pid}/task/{program.process.pid}/children").read_text().split()[0])
        program.stop(signal.SIGKILL)
        until = time.monotonic() + 10
        while os.path.exists(f"/proc/{mother}") and time.monotonic() < until:
            time.sleep(0.05)
        assert not os.path.exists(f"/proc/{mother}")


def test_each_night_is_kept_beside_the_file(tmp_path: Path) -> None:
    import time

    with Served(tmp_path / "club.sqlite3", "--copies", "3") as program:
        until = time.monotonic() + 10
        while not copies_of(tmp_path / "club.sqlite3") and time.monotonic() < until:
            time.sleep(0.05)
        with program.client() as client:
            club = client.get("/api/club").json()
        assert len(club["copies"]) == 1 and re.fullmatch(r"club-\d{4}-\d\d-\d\d\.sqlite3", club["copies"][0]["name"])


def test_trouble_of_the_file_reaches_the_page_in_words(club: Path) -> None:
    from fastapi.testclient import TestClient

    from jolly_copper.api import create_app

    store = Store(club)
    with TestClient(create_app(store), base_url="http://localhost") as client:
        with store.reading() as db:
            db.execute("PRAGMA query_only = 1")
        patch = {"summary": "x", "patch": [{"op": "replace", "path": "/notes", "value": "x"}]}
        for _ in range(12):  # until the connection that may not write is the one that is used
            got = client.patch("/api/layouts/small", json=patch, headers={"If-Match": str(store.newest("small"))})
            if got.status_code != 200:
                break
        assert got.status_code == 507 and "not written" in got.json()["message"]
        for path in ("copies/../../etc/passwd", "copies/club-2026-11-29.sqlite3", "copies/x"):
            assert client.get(f"/api/club/{path}").status_code == 404
        assert client.post("/api/club/check?copy=../x", json={}).status_code == 404
    store.close()
