"""Heavy requests are answered apart: by the same application in a process of its own, within limits, and no longer
than somebody waits.

Which are heavy is said here, in one table. A file that hangs its reader or fills its memory costs whoever sent it a
sentence, and nobody else anything.
"""

from __future__ import annotations

import asyncio
import json
import os
import pickle
import re
import signal
from collections.abc import Callable, MutableMapping
from contextlib import suppress
from typing import Any

import anyio.to_thread

from jolly_copper.api.mother import ASK, BEGIN, BODY, HEAD, INSIDE, Application, Limits, Mother, Scope, frame
from jolly_copper.api.rim import say

MB = 1_000_000
FILE = Limits(
    8.0,
    180 * MB,
    "This file takes longer or more memory to read than any track plan does, so reading it was stopped. Save the track "
    "layers alone and try again.",
)
TAKEN = Limits(
    9.0,
    240 * MB,
    "This takes longer or more memory to take in and work out than any club's railroad does, so it was stopped.",
)
PAPER = Limits(60.0, 400 * MB, "Making this took more time or memory than it may, so it was stopped.")
LONG = Limits(600.0, 800 * MB, "Working this out took more time or memory than it may, so it was stopped.")
TRACED = Limits(
    180.0,
    1600 * MB,
    "Tracing this picture took more time or memory than it may, so it was stopped. Scale it down, or trace a part.",
)
LARGE = 400_000
"""Bytes of JSON from which a layout's findings and tables are worked out apart as well: twice the signalled demo. A
smaller one takes as long to pass out as to work out."""
ONE = r"^/api/layouts/[^/]+/"
HEAVY = tuple(
    (method, re.compile(path), limits)
    for method, path, limits in (
        ("POST", r"^/api/pictures$", FILE),
        ("POST", r"^/api/take-in/look$", FILE),
        ("POST", r"^/api/layouts$", TAKEN),
        ("POST", r"^/api/(archives|photos)$", TAKEN),
        ("POST", ONE + r"(take-in|fleet|roster|readings/file|names/compare|plans/[^/]+/runs)$", TAKEN),
        ("GET", ONE + r"files/[\w.-]+\.(pdf|xlsx|html|svg|zip)$", PAPER),
        ("GET", ONE + r"files/panels/", PAPER),
        ("GET", ONE + r"files/(book|change-order|labels)\.csv$", PAPER),
        ("GET", ONE + r"plan-files/", PAPER),
        ("GET", ONE + r"book$", PAPER),
        ("GET", ONE + r"(laying|sizing|division|session|blocking|signalling|dead-track|reversing|change-order)$", LONG),
        (
            "GET",
            ONE + r"(reversing/change|best-place|ring|interlocking|panel|renumbering|accessory-bus|couplings-offer)$",
            LONG,
        ),
        ("POST", ONE + r"rehearse(/proof|/evenings)?$", LONG),
        ("POST", ONE + r"(trace|straighten)$", TRACED),
        ("POST", ONE + r"trace/take$", TAKEN),
        (
            "GET",
            ONE + r"(cab-blocks|cab-link|stops|isolated-rail|throttle-loops|choosing|supplying|panels/[^/]+)$",
            LONG,
        ),
    )
)
WHEN_LARGE = re.compile(
    ONE + r"(findings|zones|cabs|rails|detection|signals|waveform|accessories|wires|what-if|files/.*|"
    r"bench|learned|learned/offer|hunts|drill|travel)$"
)
QUESTIONS = re.compile(
    ONE + r"(findings|zones|cabs|rails|detection|signals|waveform|accessories|wires|fleet|under|travel)$"
)
"""What the second pair of hands answers when there is a crowd."""
HANDS = Limits(60.0, 400 * MB, "Working this out took more time or memory than it may, so it was stopped.")
CROWD = 2
"""So many requests at once that two processes are quicker than one that has all of it worked out already."""
PLACES = 4
"""Heavy requests worked on at once; the others wait."""
MOST_WAITING = 40


def limits_of(method: str, path: str) -> Limits | None:
    """What a request may take apart; None where it is answered here, unless its layout is large."""
    for its_method, pattern, limits in HEAVY:
        if method == its_method and pattern.match(path):
            return limits
    return None


class Apart:
    """ASGI middleware: passes heavy requests to children of `mother`, all others on.

    A child answers one heavy request and ends. One stays, a second pair of hands: it takes questions about layouts
    while several people are being answered here, for two processes use two processors.

    Args:
        app: what answers here.
        mother: gives the mother process; None where there is none, and everything is answered here.
        large: tells whether the layout of an id is large.
    """

    def __init__(self, app: Application, mother: Callable[[], Mother | None], large: Callable[[str], bool]) -> None:
        self._application, self._mother, self._large = app, mother, large
        self._places = asyncio.Semaphore(PLACES)
        self._waiting = 0
        self._here = 0
        self._hands: Child | None = None
        self._hands_busy = asyncio.Lock()

    async def __call__(self, scope: Scope, receive: Any, send: Any) -> None:
        mother = self._mother() if scope["type"] == "http" else None
        if mother is None:
            await self._application(scope, receive, send)
            return
        method, path = scope["method"], scope["path"]
        limits = limits_of(method, path)
        if limits is None and method == "GET" and WHEN_LARGE.match(path):
            # asked of the club file, so not on the event loop
            limits = LONG if await anyio.to_thread.run_sync(self._large, path.split("/")[3]) else None
        if limits is not None:
            await self._apart(mother, limits, scope, receive, send)
        elif self._here >= CROWD and method == "GET" and QUESTIONS.match(path):
            async with self._hands_busy:
                await self._by_hand(mother, scope, receive, send)
        else:
            await self._answer_here(scope, receive, send)

    async def _answer_here(self, scope: Scope, receive: Any, send: Any) -> None:
        self._here += 1
        try:
            await self._application(scope, receive, send)
        finally:
            self._here -= 1

    async def _apart(self, mother: Mother, limits: Limits, scope: Scope, receive: Any, send: Any) -> None:
        body = await _whole(receive)
        if body is None:
            return  # whoever asked is gone
        gone = asyncio.create_task(_hung_up(receive))
        try:
            if self._waiting >= MOST_WAITING:
                await say(send, 429, "Much is being worked out just now. Try again in a moment.")
                return
            self._waiting += 1
            try:
                place = asyncio.create_task(self._places.acquire())
                await asyncio.wait({place, gone}, return_when=asyncio.FIRST_COMPLETED)
            finally:
                self._waiting -= 1
            if gone.done() and not place.done():
                place.cancel()
                return
            await place
            try:
                try:
                    child = await Child.born(mother)
                except (OSError, asyncio.IncompleteReadError):  # no child can be had: better here than not at all
                    await self._answer_here(scope, _said_before(body), send)
                    return
                try:
                    await child.answer(scope, body, limits, send, gone)
                finally:
                    child.end()
            finally:
                self._places.release()
        finally:
            gone.cancel()

    async def _by_hand(self, mother: Mother, scope: Scope, receive: Any, send: Any) -> None:
        try:
            if self._hands is None:
                self._hands = await Child.born(mother)
        except (OSError, asyncio.IncompleteReadError):
            await self._answer_here(scope, receive, send)
            return
        # Though the asker may hang up meanwhile, it answers to the end: it has worked out what the next one asks for.
        if not await self._hands.answer(scope, b"", HANDS, send, None):
            self._hands.end()
            self._hands = None


def _said_before(body: bytes) -> Any:
    """Receives a body that was received already, and waits from then on."""
    parts = [{"type": "http.request", "body": body, "more_body": False}]

    async def receive() -> dict[str, Any]:
        if not parts:
            await asyncio.Event().wait()
        return parts.pop()

    return receive


async def _whole(receive: Any) -> bytes | None:
    parts = []
    while True:
        message = await receive()
        if message["type"] == "http.disconnect":
            return None
        parts.append(message.get("body", b""))
        if not message.get("more_body", False):
            return b"".join(parts)


async def _hung_up(receive: Any) -> None:
    while (await receive())["type"] != "http.disconnect":
        pass


def _plain(scope: MutableMapping[str, Any]) -> dict[str, Any]:
    """What of a request can be passed on."""
    keys = ("type", "asgi", "http_version", "method", "scheme", "path", "raw_path", "query_string", "root_path")
    kept = {k: scope[k] for k in (*keys, "headers", "client", "server") if k in scope}
    return kept | {
        "headers": [(bytes(k), bytes(v)) for k, v in scope["headers"]],
        "state": {},
        "extensions": {INSIDE: {}},
    }


class Child:
    """A child process and the line to it."""

    def __init__(self, pid: int, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        self._pid, self._reader, self._writer = pid, reader, writer

    @classmethod
    async def born(cls, mother: Mother) -> Child:
        """A new one."""
        line = mother.child()
        line.setblocking(False)
        reader, writer = await asyncio.open_connection(sock=line, limit=1 << 22)
        try:
            number = int.from_bytes(await reader.readexactly(4), "big")
            return cls(os.pidfd_open(number), reader, writer)
        except BaseException:
            writer.close()
            raise

    async def answer(
        self, scope: Scope, body: bytes, limits: Limits, send: Any, gone: asyncio.Task[None] | None
    ) -> bool:
        """Pass a request on and its answer back.

        Returns:
            Whether it was answered to the end; if not, the child is of no more use.
        """
        begun = streams = False
        self._writer.write(frame(ASK, pickle.dumps((_plain(scope), body, limits))))
        until = asyncio.get_running_loop().time() + limits.seconds
        part: asyncio.Task[tuple[int, bytes]] | None = None
        try:
            while True:
                part = asyncio.create_task(self._next())
                left = until - asyncio.get_running_loop().time()
                waits = {part} if gone is None else {part, gone}
                await asyncio.wait(waits, timeout=max(left, 0), return_when=asyncio.FIRST_COMPLETED)
                if gone is not None and gone.done() and not part.done():
                    return False
                if not part.done():
                    raise TimeoutError
                kind, data = part.result()
                if kind == BEGIN:
                    status, headers = pickle.loads(data)
                    streams = any(v.startswith(b"application/x-ndjson") for k, v in headers if k == b"content-type")
                    begun = True
                    await send({"type": "http.response.start", "status": status, "headers": headers})
                else:
                    await send({"type": "http.response.body", "body": data, "more_body": kind == BODY})
                    if kind != BODY:
                        return True
        except (TimeoutError, asyncio.IncompleteReadError, ConnectionError):
            if not begun:
                await say(send, 422, limits.said)
            else:
                trouble = json.dumps({"trouble": limits.said}).encode() + b"\n" if streams else b""
                await send({"type": "http.response.body", "body": trouble, "more_body": False})
            return False
        finally:
            if part is not None:
                part.cancel()

    async def _next(self) -> tuple[int, bytes]:
        size, kind = HEAD.unpack(await self._reader.readexactly(HEAD.size))
        return kind, await self._reader.readexactly(size)

    def end(self) -> None:
        """Stop it at once."""
        with suppress(ProcessLookupError):
            signal.pidfd_send_signal(self._pid, signal.SIGKILL)
        os.close(self._pid)
        self._writer.close()
