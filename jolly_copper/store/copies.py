"""Copies of the club file: made while it is in use, checked, kept night by night, and put back.

A copy is one file, complete by itself. It is made under another name and renamed when it is whole, so that a copy
with its own name is never half of one.
"""

from __future__ import annotations

import contextlib
import os
import re
import sqlite3
import threading
from collections.abc import Iterator
from contextlib import closing
from dataclasses import dataclass
from datetime import date, datetime
from pathlib import Path

from jolly_copper.store.club_file import FileTrouble, in_words, told_in_words
from jolly_copper.store.layouts import Store
from jolly_copper.store.revision import NotFound

PAGES_AT_ONCE = 2000
COPY = re.compile(r"[\w.-]+-(?:\d{4}-\d{2}-\d{2}|(?:before-restore|backup)-\d{8}-\d{6})\.sqlite3")
NIGHTLY = re.compile(r"-(\d{4}-\d{2}-\d{2})\.sqlite3$")
LOOK_AGAIN_S = 900.0


class CopyRefused(FileTrouble):
    """A copy that is not put back, and why; the club file itself is as it was."""


@dataclass(frozen=True)
class Checked:
    """What a look into a club file found.

    layouts, changes: how many can be read. problems: a sentence each; none where all is sound.
    """

    layouts: int
    changes: int
    problems: tuple[str, ...]


@dataclass(frozen=True)
class Copy:
    """A copy kept beside the club file."""

    name: str
    size: int
    made: str


def backup(path: Path | str, to: Path) -> Path:
    """Copy a club file as it is at this moment, whoever is writing to it.

    Args:
        path: the club file.
        to: where the copy goes; a file of that name is exchanged.

    Raises:
        FileTrouble: there is no such file, or the copy cannot be written.
    """
    if not Path(path).is_file():
        raise FileTrouble(f"There is no club file {path}.")
    half = to.with_name(to.name + ".half")
    try:
        to.parent.mkdir(parents=True, exist_ok=True)
        half.unlink(missing_ok=True)
        with (
            told_in_words(),
            closing(sqlite3.connect(path, timeout=10)) as source,
            closing(sqlite3.connect(half)) as out,
        ):
            source.backup(out, pages=PAGES_AT_ONCE, sleep=0.01)
            out.execute("PRAGMA journal_mode = DELETE")
        os.replace(half, to)
    except OSError as error:
        raise FileTrouble(f"The copy {to} cannot be written: {error.strerror or error}.") from None
    finally:
        with contextlib.suppress(OSError):
            half.unlink(missing_ok=True)
    return to


def keep_now(path: Path | str, what: str = "backup") -> Path:
    """Copy a club file into the folder beside it, under the time of day.

    Raises:
        FileTrouble: see `backup`.
    """
    return backup(path, folder_of(path) / f"{Path(path).stem}-{what}-{_stamp()}.sqlite3")


def _stamp() -> str:
    return datetime.now().strftime("%Y%m%d-%H%M%S")


def check_file(path: Path | str) -> Checked:
    """Look whether a club file is sound: SQLite's own check, and every layout read with its newest changes.

    Raises:
        FileTrouble: it cannot be opened at all.
    """
    if not Path(path).is_file():
        raise FileTrouble(f"There is no club file {path}.")
    problems: list[str] = []
    with closing(sqlite3.connect(f"file:{_quoted(path)}?mode=ro", uri=True, timeout=10)) as db:
        try:
            found = [row[0] for row in db.execute("PRAGMA integrity_check(20)")]
            tables = {row[0] for row in db.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
        except sqlite3.DatabaseError as error:
            trouble = in_words(error)
            if getattr(error, "sqlite_errorname", "").startswith("SQLITE_CORRUPT"):
                return Checked(0, 0, (str(trouble),))
            raise trouble from error
    problems += [f"SQLite: {line}" for line in found if line != "ok"]
    if not {"layout", "revision"} <= tables:
        raise FileTrouble(f"{path} is no club file.")
    layouts, changes = _read_all(path, problems)
    return Checked(layouts, changes, tuple(problems))


def _quoted(path: Path | str) -> str:
    return str(Path(path).resolve()).replace("%", "%25").replace("?", "%3f").replace("#", "%23")


def _read_all(path: Path | str, problems: list[str]) -> tuple[int, int]:
    """Reads every layout of a copy in memory, so that looking changes nothing."""
    with closing(sqlite3.connect(f"file:{_quoted(path)}?mode=ro", uri=True)) as source:
        store = Store(":memory:")
        try:
            with store.reading() as db:
                source.backup(db)
            store.file.migrate()
            layouts = changes = 0
            for row in store.layouts():
                try:
                    found = store.get(row["id"])
                    layouts, changes = layouts + 1, changes + found.number
                    if found.mended is not None:
                        problems.append(f"{row['name']}: {found.mended}")
                except (ValueError, NotFound, FileTrouble) as error:
                    problems.append(f"{row['name']} cannot be read: {error}")
            return layouts, changes
        except (sqlite3.DatabaseError, FileTrouble) as error:
            problems.append(str(error))
            return 0, 0
        finally:
            store.close()


def folder_of(path: Path | str) -> Path:
    """Where the copies of a club file are kept: a folder beside it."""
    return Path(f"{path}-copies")


def copies_of(path: Path | str) -> list[Copy]:
    """The copies kept beside a club file, newest first."""
    folder = folder_of(path)
    if not folder.is_dir():
        return []
    found = [f for f in folder.iterdir() if f.is_file() and COPY.fullmatch(f.name)]
    stats = [(f.stat(), f.name) for f in found]
    stats.sort(key=lambda s: (-s[0].st_mtime, s[1]))
    return [Copy(n, s.st_size, datetime.fromtimestamp(s.st_mtime).isoformat(timespec="seconds")) for s, n in stats]


def nightly(path: Path | str, keep: int, today: date) -> Path | None:
    """Make the copy of a day when there is none yet, and drop those over the number kept.

    Returns:
        The copy; None where there was one.
    """
    folder, stem = folder_of(path), Path(path).stem
    wanted = folder / f"{stem}-{today.isoformat()}.sqlite3"
    made = None if wanted.exists() else backup(path, wanted)
    days = sorted((f for f in folder.glob(f"{stem}-*.sqlite3") if NIGHTLY.search(f.name)), reverse=True)
    for old in days[keep:]:
        with contextlib.suppress(OSError):
            old.unlink()
    return made


def restore(store: Store, copy: Path) -> Path:
    """Put a copy in the place of the club file, and keep what was there.

    Returns:
        Where what was there is kept.

    Raises:
        CopyRefused: the copy is not sound; nothing is changed then.
    """
    _sound(copy)
    kept = keep_now(store.path, "before-restore")
    with told_in_words(), closing(sqlite3.connect(f"file:{_quoted(copy)}?mode=ro", uri=True)) as source:
        store.file.exchange(source)
    store.forget()
    return kept


def _sound(copy: Path) -> None:
    try:
        checked = check_file(copy)
    except FileTrouble as trouble:
        raise CopyRefused(f"It is not put back. {trouble}") from None
    if checked.problems or not checked.layouts:
        why = checked.problems[0] if checked.problems else "There is no layout in it."
        raise CopyRefused(f"It is not put back, for it is not sound. {why}")


def put_back_damaged(path: Path, copy: Path) -> Path:
    """Put a copy in the place of a club file that cannot be opened any more, while no program has it open.

    Returns:
        Where the damaged file is kept.

    Raises:
        CopyRefused: the copy is not sound; nothing is changed then.
    """
    _sound(copy)
    kept = path.with_name(f"{path.stem}-damaged-{_stamp()}.sqlite3")
    try:
        for end in ("", "-wal", "-shm"):
            if Path(f"{path}{end}").exists():
                os.replace(f"{path}{end}", f"{kept}{end}")
    except OSError as error:
        raise FileTrouble(f"{path} cannot be set aside: {error.strerror or error}.") from None
    backup(copy, path)
    return kept


class Nights:
    """Makes the copy of each day while the program runs."""

    def __init__(self, path: Path | str, keep: int) -> None:
        self._path, self._keep = path, keep
        self._stop = threading.Event()
        self._thread = threading.Thread(target=self._run, daemon=True, name="nightly copies")
        self.trouble: str | None = None

    def _days(self) -> Iterator[date]:
        yield date.today()
        while not self._stop.wait(LOOK_AGAIN_S):
            yield date.today()

    def _run(self) -> None:
        for today in self._days():
            try:
                nightly(self._path, self._keep, today)
                self.trouble = None
            except FileTrouble as error:
                self.trouble = str(error)

    def start(self) -> None:
        self._thread.start()

    def stop(self) -> None:
        self._stop.set()
        self._thread.join(10)
