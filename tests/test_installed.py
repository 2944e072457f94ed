"""The program as a club installs it: one file, a clean environment without Node, and what the doctor says."""

from __future__ import annotations

import shutil
import socket
import sqlite3
import subprocess
import sys
import venv
import zipfile
from pathlib import Path

import httpx2 as httpx
import pytest
from typer.testing import CliRunner

from jolly_copper import doctor, page
from jolly_copper.cli import app
from jolly_copper.store import Store
from jolly_copper.store.copies import keep_now
from tests.layouts import plain
from tools.served import Served

ROOT = Path(__file__).resolve().parents[1]


@pytest.fixture(scope="module")
def wheel(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("dist")
    subprocess.run(
        [sys.executable, "-m", "hatchling", "build", "--target", "wheel", "--directory", str(folder)],
        cwd=ROOT,
        check=True,
        capture_output=True,
    )
    (found,) = folder.glob("*.whl")
    return found


def test_the_wheel_has_the_page_inside_and_nothing_of_the_tests(wheel: Path) -> None:
    names = zipfile.ZipFile(wheel).namelist()
    assert "jolly_copper/built_page/index.html" in names
    assert any(n.startswith("jolly_copper/built_page/assets/") and n.endswith(".woff2") for n in names)
    assert not [n for n in names if n.startswith(("tests/", "tools/", "web/"))]


def test_it_runs_in_a_clean_environment_without_node(wheel: Path, tmp_path: Path) -> None:
    """The libraries are lent by this environment, so the test asks no network; the program itself is the wheel's."""
    venv.create(tmp_path / "clean", with_pip=False)
    packages = next((tmp_path / "clean").glob("lib/python*/site-packages"))
    zipfile.ZipFile(wheel).extractall(packages)
    lent = Path(httpx.__file__).resolve().parents[1]
    for found in lent.iterdir():
        if (
            not found.name.startswith(("jolly_copper", "_jolly", "__editable__", "_editable"))
            and found.suffix != ".pth"
        ):
            (packages / found.name).exists() or (packages / found.name).symlink_to(found)
    launcher = tmp_path / "start.py"
    python = tmp_path / "clean" / "bin" / "python"
    launcher.write_text(
        f"import os, sys\nos.chdir({str(tmp_path)!r})\n"
        f"command = [{str(python)!r}, '-m', 'jolly_copper.cli', *sys.argv[1:]]\n"
        f"os.execve(command[0], command, {{'PATH': {str(tmp_path)!r}}})"
    )
    with Served(tmp_path / "demo.sqlite3", command="demo", launcher=launcher) as program, program.client() as client:
        index = client.get("/l/gannet-bay/wire")
        assert index.status_code == 200 and '<div id="root">' in index.text
        script = index.text.split('src="')[1].split('"')[0]
        assert client.get(script).status_code == 200
        assert client.get("/api/layouts/gannet-bay/work-order").json()["next"] == "track"


def told(*args: str) -> tuple[int, str]:
    got = CliRunner().invoke(app, ["doctor", *args])
    return got.exit_code, got.output


def test_the_doctor_finds_nothing_on_a_sound_machine(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    (tmp_path / "index.html").write_text("page")
    monkeypatch.setattr(doctor, "page_folder", lambda: tmp_path)
    db = tmp_path / "club.sqlite3"
    store = Store(db)
    store.add("plain", plain().plain())
    store.close()
    keep_now(db)
    code, words = told("--db", str(db), "--port", "0")
    assert code == 0 and "Nothing stands in the way" in words and "1 layouts with 1 changes, all sound" in words


def test_a_page_that_was_not_built_is_told(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(doctor, "page_folder", lambda: tmp_path)
    code, words = told("--db", str(tmp_path / "x.sqlite3"), "--port", "0")
    assert code == 3 and "make build" in words


def test_a_port_in_use_is_told_with_who_uses_it(tmp_path: Path) -> None:
    with socket.socket() as other:
        other.bind(("127.0.0.1", 0))
        other.listen()
        port = other.getsockname()[1]
        assert "in use" in told("--port", str(port), "--db", str(tmp_path / "x.sqlite3"))[1]
    with Served(tmp_path / "club.sqlite3") as program:
        code, words = told("--port", str(program.port), "--db", str(tmp_path / "x.sqlite3"))
        assert code == 3 and "by Jolly Copper" in words


def test_a_full_disk_and_a_missing_folder_are_told(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    usage = shutil.disk_usage(tmp_path)
    monkeypatch.setattr(doctor.shutil, "disk_usage", lambda _: usage._replace(free=1_000_000))
    code, words = told("--db", str(tmp_path / "none" / "x.sqlite3"), "--port", "0")
    assert code == 3 and "1 MB are free" in words and "is not there" in words


def test_a_damaged_a_foreign_and_a_newer_file_are_told_apart(tmp_path: Path) -> None:
    nonsense = tmp_path / "nonsense.sqlite3"
    nonsense.write_bytes(b"not a database" * 100)
    assert "cannot be read" in told("--db", str(nonsense), "--port", "0")[1]
    newer = tmp_path / "newer.sqlite3"
    with sqlite3.connect(newer) as file:
        file.execute("PRAGMA user_version = 999")
    assert "newer version" in told("--db", str(newer), "--port", "0")[1]
    before = newer.read_bytes()
    told("--db", str(newer), "--port", "0")
    assert newer.read_bytes() == before, "the doctor changes nothing"


def test_an_older_file_is_said_to_be_brought_up(tmp_path: Path) -> None:
    old = tmp_path / "old.sqlite3"
    shutil.copy(min((ROOT / "tests" / "old").glob("club-*.db"), key=lambda f: f.stem), old)
    assert "brought up to now" in told("--db", str(old), "--port", "0")[1]


def test_the_page_of_an_installed_program_comes_first(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(page, "HERE", tmp_path / "jolly_copper")
    assert page.page_folder() == tmp_path / "web" / "dist"
    built = tmp_path / "jolly_copper" / "built_page"
    built.mkdir(parents=True)
    (built / "index.html").write_text("page")
    assert page.page_folder() == built
