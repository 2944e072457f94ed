"""Two people at one layout: each window hears within a second what another changed, and who is here.

One look at the club file every `LOOK_EVERY_S` serves all windows, so what a child process, the command line or
another program saved is heard of like what was saved here. A window holds one connection, and lets it go while it is
hidden.
"""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterable, Iterator
from contextlib import suppress
from dataclasses import dataclass, field
from typing import Annotated

import anyio.to_thread
from fastapi import APIRouter, Query, Request
from fastapi.sse import EventSourceResponse, ServerSentEvent

from jolly_copper.api.who import named
from jolly_copper.store import FileTrouble, Store

LOOK_EVERY_S = 0.4
MOST_WINDOWS = 200
"""Windows that listen at once."""
TRY_AGAIN_MS = 60_000
"""When one that found no place asks again."""

router = APIRouter(prefix="/api")


@dataclass(eq=False)
class Window:
    """One window that listens: whose it is, which layout it shows, and what it has not been told yet."""

    layout: str
    name: str
    news: asyncio.Queue[ServerSentEvent | None] = field(default_factory=lambda: asyncio.Queue(32))

    def tell(self, event: ServerSentEvent | None) -> None:
        """Something to tell it; a window that does not listen misses the oldest."""
        if self.news.full():
            self.news.get_nowait()
        self.news.put_nowait(event)


class Live:
    """The windows that listen, and the one look at the file for all of them."""

    def __init__(self) -> None:
        self._windows: list[Window] = []
        self._looking: asyncio.Task[None] | None = None
        self._loop: asyncio.AbstractEventLoop | None = None

    def come(self, store: Store, window: Window) -> bool:
        """A window begins to listen; False where too many do already."""
        if len(self._windows) >= MOST_WINDOWS:
            return False
        self._windows.append(window)
        self._loop = asyncio.get_running_loop()
        if self._looking is None or self._looking.done():
            self._looking = self._loop.create_task(self._look(store))
        self._say_who(window.layout)
        return True

    def go(self, window: Window) -> None:
        """A window is closed."""
        if window in self._windows:
            self._windows.remove(window)
            self._say_who(window.layout)
        if not self._windows and self._looking is not None:
            self._looking.cancel()

    def close(self) -> None:
        """Let every window go, from whatever thread."""
        if self._loop is not None and not self._loop.is_closed():
            self._loop.call_soon_threadsafe(self._let_all_go)

    def _let_all_go(self) -> None:
        for window in self._windows:
            window.tell(None)

    def _say_who(self, layout: str) -> None:
        here = [w for w in self._windows if w.layout == layout]
        for window in here:
            others = sorted(w.name or "somebody" for w in here if w is not window)
            window.tell(ServerSentEvent(event="here", data=others))

    async def _look(self, store: Store) -> None:
        known: dict[str, Newest] = {}
        while self._windows:
            watched = tuple({w.layout for w in self._windows})
            newest: dict[str, Newest] = {}
            with suppress(FileTrouble):  # the file may be exchanged or busy just now; the next look tells
                newest = await anyio.to_thread.run_sync(_newest, store, watched)
            for layout, now in newest.items():
                for event in _news(known.setdefault(layout, now), now):
                    for window in [w for w in self._windows if w.layout == layout]:
                        window.tell(event)
                known[layout] = now
            known = {layout: seen for layout, seen in known.items() if layout in watched}
            await asyncio.sleep(LOOK_EVERY_S)


@dataclass(frozen=True)
class Newest:
    """The newest change of a layout, and a mark for each kind of row kept beside it that differs once one is added or
    taken away."""

    revision: int
    who: str
    summary: str
    marks: tuple[object, ...]


KEPT = {
    "work": "SELECT max(number) FROM work WHERE layout = r.layout",
    "readings": "SELECT max(number) FROM reading WHERE layout = r.layout",
    "hunts": "SELECT count(*) + count(closed) || ' ' || (SELECT count(*) FROM hunt_answer a JOIN hunt h "
    "ON h.id = a.hunt WHERE h.layout = r.layout) FROM hunt WHERE layout = r.layout",
    "rehearsals": "SELECT max(number) || ' ' || count(*) FROM rehearsal WHERE layout = r.layout",
    "shows": "SELECT max(number) FROM show_entry WHERE layout = r.layout",
    "notes": "SELECT max(number) FROM note WHERE layout = r.layout",
}
"""What is written beside a layout, and how to see that some was."""


def _newest(store: Store, layouts: tuple[str, ...]) -> dict[str, Newest]:
    """The newest of each layout."""
    with store.reading() as db:
        rows = db.execute(
            f"SELECT layout, number, who, summary, {', '.join(f'({sql})' for sql in KEPT.values())} FROM revision r "
            "WHERE number = (SELECT max(number) FROM revision WHERE layout = r.layout) "
            f"AND layout IN ({','.join('?' * len(layouts))})",
            layouts,
        ).fetchall()
    return {layout: Newest(number, who, summary, tuple(marks)) for layout, number, who, summary, *marks in rows}


def _news(known: Newest, now: Newest) -> Iterator[ServerSentEvent]:
    """What windows are told of what is new."""
    if now.revision != known.revision:
        told = {"revision": now.revision, "who": now.who, "summary": now.summary}
        yield ServerSentEvent(event="change", data=told)
    kinds = [kind for kind, old, new in zip(KEPT, known.marks, now.marks, strict=True) if old != new]
    if kinds:
        yield ServerSentEvent(event="kept", data=kinds)


@router.get("/live", response_class=EventSourceResponse)
async def live(
    request: Request, layout: Annotated[str, Query(max_length=60)], name: Annotated[str, Query(max_length=40)] = ""
) -> AsyncIterable[ServerSentEvent]:
    """Changes of a layout as they are made (`change`: number, who, what), what kinds of rows were kept beside it
    (`kept`: `notes`, `readings` and so on), and who else has it open (`here`)."""
    hub: Live = request.app.state.live
    window = Window(layout, named(request) or name.strip())
    if not hub.come(request.app.state.store, window):
        yield ServerSentEvent(comment="Too many windows are open on this club file.", retry=TRY_AGAIN_MS)
        return
    try:
        while (event := await window.news.get()) is not None:
            yield event
    finally:
        hub.go(window)
