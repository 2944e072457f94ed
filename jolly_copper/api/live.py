"""Two people at one layout: each window hears within a second what another changed, and who is here.

One look at the club file every `LOOK_EVERY_S` serves all windows, so what a child process, the command line or
another program saved is heard of like what was saved here. A window holds one connection, and lets it go while it is
hidden.
"""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterable
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
        known: dict[str, int] = {}
        while self._windows:
            watched = tuple({w.layout for w in self._windows})
            newest: dict[str, tuple[int, str, str]] = {}
            with suppress(FileTrouble):  # the file may be exchanged or busy just now; the next look tells
                newest = await anyio.to_thread.run_sync(_newest, store, watched)
            for layout, (number, who, summary) in newest.items():
                if known.setdefault(layout, number) != number:
                    event = ServerSentEvent(event="change", data={"revision": number, "who": who, "summary": summary})
                    for window in [w for w in self._windows if w.layout == layout]:
                        window.tell(event)
                known[layout] = number
            known = {layout: number for layout, number in known.items() if layout in watched}
            await asyncio.sleep(LOOK_EVERY_S)


def _newest(store: Store, layouts: tuple[str, ...]) -> dict[str, tuple[int, str, str]]:
    """The newest change of each layout: its number, who made it, and what it is."""
    with store.reading() as db:
        rows = db.execute(
            "SELECT layout, number, who, summary FROM revision r WHERE number = (SELECT max(number) FROM revision "
            f"WHERE layout = r.layout) AND layout IN ({','.join('?' * len(layouts))})",
            layouts,
        ).fetchall()
    return {layout: (number, who, summary) for layout, number, who, summary in rows}


@router.get("/live", response_class=EventSourceResponse)
async def live(
    request: Request, layout: Annotated[str, Query(max_length=60)], name: Annotated[str, Query(max_length=40)] = ""
) -> AsyncIterable[ServerSentEvent]:
    """Changes of a layout as they are made (`change`: number, who, what), and who else has it open (`here`)."""
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
