"""The command line, and the server as a person starts and stops it."""

from __future__ import annotations

import json
import re
import signal
import socket
import subprocess
import sys
import urllib.request
from pathlib import Path

import pytest
from typer.testing import CliRunner

from jolly_copper.cli import app
from jolly_copper.core.layout.document import Layout
from jolly_copper.exchange.names import NamesFile

run = CliRunner()


@pytest.fixture
def file(tmp_path: Path, demo: Layout) -> str:
    path = tmp_path / "demo.json"
    path.write_text(demo.model_dump_json(), "utf-8")
    return str(path)


def test_check_lists_findings_and_says_so_by_its_exit_code(file: str) -> None:
    plain = run.invoke(app, ["check", file])
    assert plain.exit_code == 3 and "fights the reverser in Quarry wye" in plain.stdout
    as_json = run.invoke(app, ["check", file, "--json", "--scene", "work-night"])
    assert {f["severity"] for f in json.loads(as_json.stdout)} <= {"must", "should", "look"}
    assert run.invoke(app, ["check", file, "--scene", "never"]).exit_code == 1


def test_export_in_every_format(file: str, tmp_path: Path, demo: Layout) -> None:
    assert run.invoke(app, ["export", file, "--to", "csv"]).stdout.startswith("Label,Kind")
    out = tmp_path / "again.json"
    assert run.invoke(app, ["export", file, "--to", "json", "--out", str(out)]).exit_code == 0
    assert Layout.model_validate_json(out.read_text("utf-8")) == demo
    assert ".end" in run.invoke(app, ["export", file, "--to", "spice"]).stdout
    assert run.invoke(app, ["export", file, "--to", "song"]).exit_code == 1


@pytest.mark.parametrize(("text", "code"), [("{", 1), ('{"name": "x", "moons": 1}', 2), ("[]", 2), ("\x00\xff", 1)])
def test_bad_files_are_refused_in_words(tmp_path: Path, text: str, code: int) -> None:
    path = tmp_path / "bad.json"
    path.write_text(text, "latin-1")
    got = run.invoke(app, ["check", str(path)])
    assert got.exit_code == code and got.stderr.strip() and "Traceback" not in got.output
    assert run.invoke(app, ["check", str(tmp_path / "missing.json")]).exit_code == 1


def test_quick_sums_on_the_command_line() -> None:
    assert "→    12 AWG" in run.invoke(app, ["size-run", "35'", "5 A"]).stdout
    assert "mm²" in run.invoke(app, ["size-run", "10 m", "3 A", "--metric"]).stdout
    assert "8 trains of 500 mA" in run.invoke(app, ["trains", "5 A"]).stdout
    assert "430 Ω" in run.invoke(app, ["led", "12 V", "2 V", "20 mA", "--series", "2"]).stdout
    wrong = run.invoke(app, ["size-run", "far", "5 A"])
    assert wrong.exit_code == 1 and wrong.stderr.startswith("length: ")


def test_the_schema_in_docs_is_the_programs_own() -> None:
    docs = Path(__file__).parents[2] / "docs" / "layout.schema.json"
    assert json.loads(docs.read_text("utf-8")) == Layout.model_json_schema()
    assert json.loads((docs.parent / "names.schema.json").read_text("utf-8")) == NamesFile.model_json_schema()


def test_the_demo_starts_says_its_address_and_stops_cleanly(tmp_path: Path) -> None:
    command = [sys.executable, "-m", "jolly_copper.cli", "demo", "--port", "0", "--db", str(tmp_path / "d.sqlite3")]
    for stop in (signal.SIGINT, signal.SIGTERM):
        server = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)
        assert server.stdout is not None
        said = server.stdout.readline()
        address = re.search(r"http://127\.0\.0\.1:\d+/", said)
        assert address, said
        with urllib.request.urlopen(address[0] + "api/layouts", timeout=20) as answer:
            assert json.load(answer)[0]["id"] == "gannet-bay"
        server.send_signal(stop)
        out, err = server.communicate(timeout=20)
        assert "Traceback" not in err and "Everything is saved" in out


def test_a_port_in_use_is_said_plainly(tmp_path: Path) -> None:
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = str(taken.getsockname()[1])
        command = [
            sys.executable,
            "-m",
            "jolly_copper.cli",
            "serve",
            "--port",
            port,
            "--db",
            str(tmp_path / "x.sqlite3"),
        ]
        got = subprocess.run(command, capture_output=True, text=True, timeout=60, check=False)
    assert got.returncode == 1 and "in use" in got.stderr and "Traceback" not in got.stderr
