"""Turns: who asked first goes first, and nobody waits without end."""

from __future__ import annotations

import threading
from collections import deque
from collections.abc import Iterator
from contextlib import contextmanager

MOST_WAITING = 24
PATIENCE_S = 30.0


class TooBusy(Exception):
    """The queue is full, or the wait was too long: nothing was changed."""


class Turns:
    """A lock that is given in the order of asking. The thread that holds it may take it again."""

    def __init__(self, most: int = MOST_WAITING) -> None:
        self._most = most
        self._lock = threading.Lock()
        self._waiting: deque[threading.Event] = deque()
        self._holder: int | None = None

    @contextmanager
    def turn(self, patience: float = PATIENCE_S) -> Iterator[None]:
        """Wait for a turn, s at most.

        Raises:
            TooBusy: too many wait already, or the turn did not come in time.
        """
        me = threading.get_ident()
        if self._holder == me:
            yield
            return
        self._take(me, patience)
        try:
            yield
        finally:
            self._pass_on()

    def _take(self, me: int, patience: float) -> None:
        with self._lock:
            if self._holder is None and not self._waiting:
                self._holder = me
                return
            if len(self._waiting) >= self._most:
                raise TooBusy("Very many changes are being made at once. Try again in a moment.")
            mine = threading.Event()
            self._waiting.append(mine)
        came = mine.wait(patience)
        with self._lock:
            if not came and not mine.is_set():
                self._waiting.remove(mine)
                raise TooBusy(f"Others have been changing this for over {patience:.0f} s. Try again in a moment.")
            self._holder = me

    def _pass_on(self) -> None:
        with self._lock:
            self._holder = None
            if self._waiting:
                self._holder = -1  # given, not yet taken up: nobody slips in between
                self._waiting.popleft().set()
