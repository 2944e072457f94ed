"""The club file itself: connections, one writer at a time, the log written back, and trouble in words."""

from __future__ import annotations

import contextlib
import sqlite3
import threading
import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path

from jolly_copper.store.turns import Turns

IDLE_S = 2.0
"""After so long without a change the write-ahead log goes into the file, so that a plain copy of it has everything."""
IDLE_KEPT = 8
"""Connections kept open while nobody uses them."""
Step = str | Callable[[sqlite3.Connection], None]
"""One migration: SQL, or something to do with a connection inside the transaction."""


class FileTrouble(Exception):
    """The club file cannot be read or written just now: a sentence for a person. `busy`: trying again may help."""

    def __init__(self, sentence: str, busy: bool = False) -> None:
        self.busy = busy
        super().__init__(sentence)


TROUBLES = {
    "SQLITE_FULL": "The disk is full, so nothing was saved. Make room, then try again.",
    "SQLITE_READONLY": "The club file may be read but not written here. See who may write to it and its folder.",
    "SQLITE_CORRUPT": "The club file is damaged. Run “jolly-copper check-file”, and restore the newest "
    "copy that is sound.",
    "SQLITE_NOTADB": "This is not a club file, or it is damaged from its first page on. Restore a copy that is sound.",
    "SQLITE_CANTOPEN": "The club file cannot be opened. See that its folder exists and may be written.",
    "SQLITE_IOERR": "The disk gave an error, so nothing was saved. See to the disk, then restore the newest copy.",
    "SQLITE_PERM": "This program may not open the club file. See who may read and write it.",
    "SQLITE_BUSY": "Another program is writing to the club file. Try again in a moment.",
    "SQLITE_LOCKED": "Another program is writing to the club file. Try again in a moment.",
    "SQLITE_TOOBIG": "That is too large for the club file.",
}


def in_words(error: sqlite3.Error) -> FileTrouble:
    """What SQLite says, in a sentence."""
    name = getattr(error, "sqlite_errorname", "") or ""
    for known, sentence in TROUBLES.items():
        if name.startswith(known):
            return FileTrouble(sentence, known in ("SQLITE_BUSY", "SQLITE_LOCKED"))
    if "malformed" in str(error):
        return FileTrouble(TROUBLES["SQLITE_CORRUPT"])
    return FileTrouble(f"The club file cannot be used just now ({error}).")


@contextmanager
def told_in_words() -> Iterator[None]:
    """Turns SQLite's errors into `FileTrouble`."""
    try:
        yield
    except sqlite3.Error as error:
        raise in_words(error) from error


class ClubFile:
    """One SQLite file, safe to use from several threads and beside other programs; one writer at a time.

    Args:
        path: the file, made when it is not there; `:memory:` for one thread alone.
        migrations: what brings an older file up to now, in order; the file's number tells how many it has had.

    Raises:
        FileTrouble: it cannot be opened, is none, or comes from a newer version.
    """

    def __init__(self, path: Path | str, migrations: Sequence[Step]) -> None:
        self.path = str(path)
        self._local = threading.local()
        self._idle: list[sqlite3.Connection] = []
        self._guard = threading.Lock()
        self._writers = Turns()
        self._last_write: float | None = None
        self._stop = threading.Event()
        self._sweeper: threading.Thread | None = None
        self._migrations = migrations
        try:
            self.migrate()
        except BaseException:
            self.close()
            raise

    @contextmanager
    def reading(self) -> Iterator[sqlite3.Connection]:
        """A connection of this thread's own for as long as it is in here; the same one when it is in here already."""
        mine: sqlite3.Connection | None = getattr(self._local, "db", None)
        with told_in_words():
            if mine is not None:
                yield mine
                return
            with self._guard:
                db = self._idle.pop() if self._idle else None
            self._local.db = db = db or self._connect()
            try:
                yield db
            finally:
                self._local.db = None
                with self._guard:
                    kept = len(self._idle) < IDLE_KEPT
                    if kept:
                        self._idle.append(db)
                if not kept:
                    db.close()

    def _connect(self) -> sqlite3.Connection:
        # In memory, all connections of this file share one; it goes with the last of them.
        name = f"file:{id(self)}?mode=memory&cache=shared" if self.path == ":memory:" else self.path
        db = sqlite3.connect(
            name, timeout=10, isolation_level=None, check_same_thread=False, uri=self.path == ":memory:"
        )
        try:
            db.execute("PRAGMA journal_mode = WAL")
            db.execute("PRAGMA synchronous = FULL")
            db.execute("PRAGMA foreign_keys = ON")
        except BaseException:
            db.close()
            raise
        return db

    @contextmanager
    def writing(self) -> Iterator[sqlite3.Connection]:
        """A transaction: all of it is kept, or nothing.

        Raises:
            TooBusy: too many wait to write.
        """
        with self._writers.turn(), self.reading() as db:
            db.execute("BEGIN IMMEDIATE")
            try:
                yield db
            except BaseException:
                with contextlib.suppress(sqlite3.Error):  # a full disk rolls back by itself
                    db.execute("ROLLBACK")
                raise
            try:
                db.execute("COMMIT")
            except BaseException:
                with contextlib.suppress(sqlite3.Error):
                    db.execute("ROLLBACK")
                raise
            self._last_write = time.monotonic()
            self._sweep_soon()

    def _sweep_soon(self) -> None:
        if self._sweeper is None and self.path != ":memory:":
            with self._guard:
                if self._sweeper is None:
                    self._sweeper = threading.Thread(target=self._sweep, daemon=True, name="write-ahead log")
                    self._sweeper.start()

    def _sweep(self) -> None:
        while not self._stop.wait(IDLE_S / 4):
            since = self._last_write
            if since is not None and time.monotonic() - since > IDLE_S:
                self._last_write = None
                with contextlib.suppress(FileTrouble):
                    self.write_back()

    def write_back(self) -> None:
        """Put the write-ahead log into the file. What others are writing meanwhile stays in the log."""
        with self.reading() as db:
            db.execute("PRAGMA busy_timeout = 200")
            try:
                db.execute("PRAGMA wal_checkpoint(TRUNCATE)").fetchone()
            finally:
                db.execute("PRAGMA busy_timeout = 10000")

    def close(self) -> None:
        """Write the log back and close what is open. It opens again when it is used again."""
        self._stop.set()
        if self._sweeper is not None and self._sweeper is not threading.current_thread():
            self._sweeper.join(5)
        with self._guard:
            for db in self._idle:
                with contextlib.suppress(sqlite3.Error):
                    db.close()  # the last one to close writes the log back
            self._idle.clear()
        self._sweeper, self._stop = None, threading.Event()

    def exchange(self, source: sqlite3.Connection) -> None:
        """Put all of another club file in the place of this one, in one transaction."""
        with self._writers.turn(), self.reading() as db:
            source.backup(db)
        self.migrate()
        self.write_back()

    def migrate(self) -> None:
        """Bring the file up to this version.

        Raises:
            FileTrouble: it comes from a newer one.
        """
        with self.reading() as db:
            self._migrate(db, self._migrations)

    @staticmethod
    def _migrate(db: sqlite3.Connection, migrations: Sequence[Step]) -> None:
        (version,) = db.execute("PRAGMA user_version").fetchone()
        if version > len(migrations):
            raise FileTrouble("This club file was written by a newer Jolly Copper. Update the program to open it.")
        if version == len(migrations):
            return
        db.execute("BEGIN IMMEDIATE")
        try:
            (version,) = db.execute("PRAGMA user_version").fetchone()  # another program may have been quicker
            for number in range(version, len(migrations)):
                step = migrations[number]
                if callable(step):
                    step(db)
                else:
                    for statement in step.split(";"):
                        if statement.strip():
                            db.execute(statement)
                db.execute(f"PRAGMA user_version = {number + 1}")
            db.execute("COMMIT")
        except BaseException:
            with contextlib.suppress(sqlite3.Error):
                db.execute("ROLLBACK")
            raise
