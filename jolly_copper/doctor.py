"""What keeps the program from running on this machine, in words: version, page, port, club file, disk, copies."""

from __future__ import annotations

import contextlib
import os
import shutil
import socket
import sqlite3
import sys
import urllib.request
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from urllib.error import URLError

from jolly_copper.page import page_folder
from jolly_copper.store import FileTrouble
from jolly_copper.store.copies import check_file, copies_of
from jolly_copper.store.migrations import MIGRATIONS

LEAST_PYTHON = (3, 11)
LEAST_FREE_BYTES = 200_000_000
"""Below this a night's copy or a printed book may not find room."""
OLD_COPY_DAYS = 7


@dataclass(frozen=True)
class Finding:
    """One thing looked at. mend: what to do about it; empty where it is well."""

    about: str
    said: str
    mend: str = ""


def examine(db: Path, port: int) -> Iterator[Finding]:
    """Look at everything that has to be well, one after the other; nothing is changed by it.

    Args:
        db: the club file.
        port: where the program would serve.
    """
    yield _python()
    yield _page()
    yield _port(port)
    yield _folder(db)
    yield _disk(db)
    yield from _club_file(db)


def _python() -> Finding:
    now = ".".join(str(n) for n in sys.version_info[:3])
    if sys.version_info < LEAST_PYTHON:
        return Finding("Python", f"This is {now}.", "Install Python 3.11 or newer.")
    return Finding("Python", f"This is {now}; SQLite is {sqlite3.sqlite_version}.")


def _page() -> Finding:
    if (page_folder() / "index.html").exists():
        return Finding("Page", "The page is here.")
    return Finding("Page", "The page is not built.", "Run “make build”, or install the wheel, which has it inside.")


def _port(port: int) -> Finding:
    if port == 0:
        return Finding("Port", "A free one will be picked.")
    with socket.socket(socket.AF_INET, socket.SOCK_STREAM) as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except PermissionError:
            return Finding("Port", f"Port {port} may not be used by this person.", "Choose one above 1023 with --port.")
        except OSError:
            who = _who_serves(port)
            mend = (
                "Open it in the browser, or stop it first."
                if who
                else "Choose another with --port; 0 picks a free one."
            )
            return Finding("Port", f"Port {port} is in use{who}.", mend)
    return Finding("Port", f"Port {port} is free.")


def _who_serves(port: int) -> str:
    """Whether it is this program that holds the port, asked of nobody but this machine."""
    try:
        with urllib.request.urlopen(f"http://127.0.0.1:{port}/", timeout=4) as answer:
            own = b"<title>Jolly Copper</title>" in answer.read(4000)
    except (URLError, OSError, ValueError):
        own = False
    return " by Jolly Copper itself" if own else ""


def _folder(db: Path) -> Finding:
    folder = db.absolute().parent
    if not folder.is_dir():
        return Finding("Folder", f"{folder} is not there.", "Make it, or name a club file elsewhere with --db.")
    if not os.access(folder, os.W_OK):
        return Finding("Folder", f"{folder} may not be written to.", "See who owns it; SQLite writes beside the file.")
    return Finding("Folder", f"{folder} can be written to.")


def _disk(db: Path) -> Finding:
    folder = next(p for p in (db.absolute().parent, *db.absolute().parents) if p.exists())
    free = shutil.disk_usage(folder).free
    wanted = max(LEAST_FREE_BYTES, 3 * (db.stat().st_size if db.exists() else 0))
    said = f"{free / 1e6:,.0f} MB are free."
    if free < wanted:
        return Finding("Disk", said, f"Make room: {wanted / 1e6:,.0f} MB are wanted for the file, its log and a copy.")
    return Finding("Disk", said)


def _club_file(db: Path) -> Iterator[Finding]:
    if not db.exists():
        yield Finding("Club file", f"{db} is not there yet; it is made at the first start.")
        return
    try:
        with contextlib.closing(sqlite3.connect(f"{db.absolute().as_uri()}?mode=ro", uri=True)) as file:
            (version,) = file.execute("PRAGMA user_version").fetchone()
    except sqlite3.Error as error:
        mend = "Put a copy back: “jolly-copper restore COPY”."
        yield Finding("Club file", f"{db} cannot be read ({error}).", mend)
        return
    if version > len(MIGRATIONS):
        yield Finding("Club file", "A newer version of this program wrote it.", "Install that version or a newer one.")
        return
    if version < len(MIGRATIONS):
        yield Finding("Club file", "An older version wrote it; it is brought up to now at the next start.")
        return
    try:
        found = check_file(db)
    except FileTrouble as trouble:
        yield Finding("Club file", str(trouble), "Put a copy back: “jolly-copper restore COPY”.")
        return
    said = f"{found.layouts} layouts with {found.changes} changes"
    if found.problems:
        yield Finding("Club file", f"{said}; {found.problems[0]}", "Put a copy back: “jolly-copper restore COPY”.")
    else:
        yield Finding("Club file", f"{said}, all sound.")
    yield _copies(db)


def _copies(db: Path) -> Finding:
    copies = copies_of(db)
    if not copies:
        mend = "Make one with “jolly-copper backup”, and keep it elsewhere."
        return Finding("Copies", "There is none yet.", mend)
    newest = max(datetime.fromisoformat(c.made) for c in copies)
    days = (datetime.now(UTC) - (newest if newest.tzinfo else newest.replace(tzinfo=UTC))).days
    said = (
        f"{len(copies)} kept; the newest is {days} days old."
        if days
        else f"{len(copies)} kept; the newest is of today."
    )
    return Finding("Copies", said, "Make one with “jolly-copper backup”." if days > OLD_COPY_DAYS else "")
