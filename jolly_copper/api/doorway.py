"""Connections: how many each address may hold, and how long a request may take to come.

Whoever holds connections half open is cut off before anybody else is: this machine's own are never counted, and those
that have shown a ticket are the last to go.
"""

from __future__ import annotations

import asyncio
import sys
from collections import Counter, OrderedDict
from typing import Any

import h11
from uvicorn.protocols.http.h11_impl import H11Protocol

EACH = 24
"""Connections an address on the network may hold: four browsers' worth."""
IN_ALL = 240
HEAD_S = 10.0
"""For the first line and headers of a request to come."""
BODY_S = 90.0
STALLED_S = 15.0
"""A body of which nothing came for so long is given up."""
LOOK_EVERY_S = 2.0
HERE = frozenset({"127.0.0.1", "::1", "::ffff:127.0.0.1"})


class Doors:
    """The connections from the network that are open."""

    def __init__(self, each: int = EACH, in_all: int = IN_ALL) -> None:
        self._each, self._in_all = each, in_all
        self._open: OrderedDict[tuple[str, int], Doorway] = OrderedDict()
        self._of: Counter[str] = Counter()
        self._proven: set[tuple[str, int]] = set()

    def come(self, who: tuple[str, int], door: Doorway) -> bool:
        """Whether a new connection may stay. Where there are too many, one without a ticket goes, the oldest first."""
        if who[0] in HERE:
            return True
        if self._of[who[0]] >= self._each:
            return False
        if len(self._open) >= self._in_all:
            oldest = next((w for w in self._open if w not in self._proven), None)
            if oldest is None:
                return False
            self._open[oldest].cut_off()
            self.go(oldest)
        self._open[who] = door
        self._of[who[0]] += 1
        return True

    def go(self, who: tuple[str, int]) -> None:
        """A connection is closed."""
        if self._open.pop(who, None) is not None:
            self._of[who[0]] -= 1
            if not self._of[who[0]]:
                del self._of[who[0]]
        self._proven.discard(who)

    def prove(self, who: Any) -> None:
        """Somebody with a ticket is on this connection."""
        if isinstance(who, tuple) and tuple(who) in self._open:
            self._proven.add((who[0], who[1]))


class Doorway(H11Protocol):
    """The server's protocol with limits on how slowly a request may come."""

    doors = Doors()

    def connection_made(self, transport: Any) -> None:
        super().connection_made(transport)
        peer = transport.get_extra_info("peername")
        self._who = (str(peer[0]), int(peer[1])) if isinstance(peer, tuple) else ("", 0)
        self._since = self._last = self.loop.time()
        self._partial = True
        """Whether the first line and headers of a request are still coming."""
        self._looking: asyncio.TimerHandle | None = None
        if not self.doors.come(self._who, self):
            self.cut_off()
            return
        self._looking = self.loop.call_later(LOOK_EVERY_S, self._look)

    def connection_lost(self, exc: Exception | None) -> None:
        self.doors.go(self._who)
        if self._looking is not None:
            self._looking.cancel()
        super().connection_lost(exc)

    def cut_off(self) -> None:
        """Close the connection at once."""
        self.transport.abort()

    def data_received(self, data: bytes) -> None:
        self._last = self.loop.time()
        if not self._partial:
            self._since = self._last
        if not self.transport.is_closing():
            super().data_received(data)
        self._partial = self.conn.their_state is h11.IDLE and not self._answering()

    def _answering(self) -> bool:
        return self.cycle is not None and not self.cycle.response_complete

    def _look(self) -> None:
        """Whether what is coming comes quickly enough."""
        now, theirs = self.loop.time(), self.conn.their_state
        if theirs is h11.SEND_BODY:
            late = now - self._since > BODY_S or (now - self._last > STALLED_S and not self.flow.read_paused)
        else:
            late = self._partial and now - self._since > HEAD_S
        if late:
            self.cut_off()
            return
        self._looking = self.loop.call_later(LOOK_EVERY_S, self._look)


def open_many_files() -> None:
    """Let the program hold as many connections as the system allows it."""
    if sys.platform == "win32":
        return
    import resource

    _, most = resource.getrlimit(resource.RLIMIT_NOFILE)
    wanted = min(most, 65_536) if most != resource.RLIM_INFINITY else 65_536
    resource.setrlimit(resource.RLIMIT_NOFILE, (wanted, most))
