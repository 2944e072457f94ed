"""Who may come in from the club's network: a ticket for each person, kept over restarts in a file of its own.

Not in the club file, which is copied and passed round: a copy of that lets nobody in. Of a ticket only a digest is
kept.
"""

from __future__ import annotations

import hashlib
import os
import secrets
import threading
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from jolly_copper.store.club_file import ClubFile, FileTrouble, Step
from jolly_copper.store.revision import NotFound, now

Role = Literal["lead", "helper"]
MOST_TICKETS = 500
SEEN_EVERY = 16
"""Letters of an ISO time in which two sightings must differ to be written: to the minute."""
MIGRATIONS: list[Step] = [
    """
    CREATE TABLE ticket (
        number INTEGER PRIMARY KEY,
        digest TEXT NOT NULL UNIQUE,
        name TEXT NOT NULL,
        role TEXT NOT NULL CHECK (role IN ('lead', 'helper')),
        made TEXT NOT NULL,
        seen TEXT NOT NULL
    ) STRICT;
    """
]


@dataclass(frozen=True)
class Person:
    """Somebody who came in with a passphrase. made, seen: ISO times of coming in and of the last call."""

    number: int
    name: str
    role: Role
    made: str
    seen: str


class People:
    """The tickets given out.

    Args:
        path: the file they are kept in; none yet when not given, see `open`.
    """

    def __init__(self, path: Path | str | None = None) -> None:
        self._lock = threading.Lock()
        self._known: dict[str, Person] = {}
        self._file: ClubFile | None = None
        if path is not None:
            self.open(path)

    def open(self, path: Path | str) -> People:
        """Keep tickets in this file, and know those in it.

        Raises:
            FileTrouble: it cannot be used.
        """
        self._file = ClubFile(path, MIGRATIONS)
        if path != ":memory:":
            os.chmod(path, 0o600)
        with self._file.reading() as db:
            rows = db.execute("SELECT digest, number, name, role, made, seen FROM ticket").fetchall()
        self._known = {row[0]: Person(*row[1:]) for row in rows}
        return self

    @property
    def _kept(self) -> ClubFile:
        if self._file is None:
            raise FileTrouble("Nobody can come in: the file of who is in is not open.")
        return self._file

    def let_in(self, name: str, role: Role) -> str:
        """A new ticket for somebody. The oldest not seen for longest goes when there are very many."""
        ticket, moment = secrets.token_urlsafe(32), now()
        with self._lock:
            with self._kept.writing() as db:
                number = db.execute(
                    "INSERT INTO ticket (digest, name, role, made, seen) VALUES (?, ?, ?, ?, ?)",
                    (_digest(ticket), name, role, moment, moment),
                ).lastrowid
            self._known[_digest(ticket)] = Person(number or 0, name, role, moment, moment)
            beyond = sorted(self._known.values(), key=_last_seen, reverse=True)[MOST_TICKETS:]
        for person in beyond:
            with suppress(NotFound):  # sent out meanwhile
                self.send_out(person.number)
        return ticket

    def read(self, ticket: str | None) -> Person | None:
        """Whose ticket this is; None where it was not given here, or was taken back."""
        if not ticket or len(ticket) > 200:
            return None
        digest, moment = _digest(ticket), now()
        with self._lock:
            person = self._known.get(digest)
            if person is None or person.seen[:SEEN_EVERY] == moment[:SEEN_EVERY]:
                return person
            seen = Person(person.number, person.name, person.role, person.made, moment)
            self._known[digest] = seen
        return seen

    def note_sightings(self) -> None:
        """Write down who was seen when."""
        with self._lock:
            rows = [(p.seen, p.number) for p in self._known.values()]
        with self._kept.writing() as db:
            db.executemany("UPDATE ticket SET seen = ? WHERE number = ?", rows)

    def everyone(self) -> list[Person]:
        """All who are in, last seen first."""
        with self._lock:
            return sorted(self._known.values(), key=_last_seen, reverse=True)

    def send_out(self, number: int) -> None:
        """Take a ticket back.

        Raises:
            NotFound: there is none of that number.
        """
        with self._lock:
            digests = [d for d, p in self._known.items() if p.number == number]
            if not digests:
                raise NotFound("That person is not in any more.")
            with self._kept.writing() as db:
                db.execute("DELETE FROM ticket WHERE number = ?", (number,))
            del self._known[digests[0]]

    def close(self) -> None:
        if self._file is not None:
            self.note_sightings()
            self._file.close()


def people_file(club_file: Path | str) -> Path:
    """Where the tickets for a club file are kept: beside it."""
    return Path(f"{club_file}-access")


def _last_seen(person: Person) -> tuple[str, int]:
    """Of those seen in the same moment, who came in later counts as later."""
    return person.seen, person.number


def _digest(ticket: str) -> str:
    return hashlib.sha256(ticket.encode("utf-8", "surrogatepass")).hexdigest()
