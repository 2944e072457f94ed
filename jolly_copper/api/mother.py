"""A process that forks one more for every heavy request, so that each has limits of its own and can be ended.

It is forked from the program when that is loaded but has neither threads nor open files, so a child starts in some ten
milliseconds with everything in place and takes memory only for what it does. Only where the system can do this
(Linux); elsewhere heavy requests are answered by threads.
"""

from __future__ import annotations

import asyncio
import contextlib
import ctypes
import os
import pickle
import signal
import socket
import struct
import sys
from collections.abc import Awaitable, Callable, MutableMapping
from dataclasses import dataclass
from typing import Any, NoReturn

Scope = MutableMapping[str, Any]
Application = Callable[[Scope, Any, Any], Awaitable[None]]
INSIDE = "jolly-copper.inside"
"""Marks a request that was let in already, in `scope["extensions"]`, where no client can write."""
HEAD = struct.Struct("!IB")
ASK, BEGIN, BODY, END = range(4)
NICENESS = 10
"""Whoever edits comes first."""


@dataclass(frozen=True)
class Limits:
    """What one heavy request may take: s by the clock, and bytes of memory beside what is loaded anyway.

    said: what to say where it took more.
    """

    seconds: float
    memory: int
    said: str


def available() -> bool:
    """Whether this system can do it."""
    return sys.platform == "linux" and hasattr(os, "pidfd_open")


def frame(kind: int, data: bytes) -> bytes:
    """One message between the program and a child."""
    return HEAD.pack(len(data), kind) + data


class Mother:
    """Forks when it is made; make it before there are threads.

    Args:
        application: what answers in a child.
        before: called in a child first, to open what must not be shared.
    """

    def __init__(self, application: Application, before: Callable[[], None]) -> None:
        ours, theirs = socket.socketpair(socket.AF_UNIX, socket.SOCK_STREAM)
        self.pid = os.fork()
        if self.pid == 0:
            ours.close()
            _wait_for_work(theirs, application, before)
        theirs.close()
        self._line = ours

    def child(self) -> socket.socket:
        """The line to a new child, which waits for its request there."""
        ours, theirs = socket.socketpair(socket.AF_UNIX, socket.SOCK_STREAM)
        with theirs:
            socket.send_fds(self._line, [b"x"], [theirs.fileno()])
        return ours

    def close(self) -> None:
        """Let it end."""
        self._line.close()
        with contextlib.suppress(ChildProcessError):
            os.waitpid(self.pid, 0)


def _die_with_parent() -> None:
    """Be killed when whoever forked this process ends, however it ends."""
    ctypes.CDLL(None).prctl(1, signal.SIGKILL)  # PR_SET_PDEATHSIG: prctl(2)


def _wait_for_work(line: socket.socket, application: Application, before: Callable[[], None]) -> NoReturn:
    _die_with_parent()
    # Above all the port, which would stay taken after the program was killed.
    os.closerange(3, line.fileno())
    os.closerange(line.fileno() + 1, 4096)
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # Ctrl-C is for the program, which then closes the line
    signal.signal(signal.SIGTERM, signal.SIG_DFL)
    signal.signal(signal.SIGCHLD, signal.SIG_IGN)  # nobody waits for children: let them go by themselves
    while True:
        try:
            asked, fds, _, _ = socket.recv_fds(line, 1, 1)
        except OSError:
            os._exit(0)
        if not asked:
            os._exit(0)
        try:
            born = os.fork()
        except OSError:  # no room for another process: its line is closed below, and the program answers itself
            born = -1
        if born == 0:
            _die_with_parent()
            line.close()
            code = 1
            try:
                with socket.socket(fileno=fds[0]) as mine:
                    _serve_line(mine, application, before)
                code = 0
            finally:
                os._exit(code)
        for fd in fds:
            os.close(fd)


def _serve_line(line: socket.socket, application: Application, before: Callable[[], None]) -> None:
    """Answer what comes down a line, one request after the other, until it is closed."""
    line.sendall(struct.pack("!I", os.getpid()))
    first = True
    while True:
        try:
            scope, body, limits = pickle.loads(_exactly(line, HEAD.unpack(_exactly(line, HEAD.size))[0]))
        except EOFError:
            return
        if first:
            _hold_to(limits)
            before()
            first = False
        signal.alarm(int(limits.seconds) + 5)  # should the program be gone by then
        asyncio.run(_answer(line, application, scope, body))
        signal.alarm(0)


def _exactly(line: socket.socket, count: int) -> bytes:
    parts = []
    while count:
        part = line.recv(min(count, 1 << 20))
        if not part:
            raise EOFError
        parts.append(part)
        count -= len(part)
    return b"".join(parts)


def _hold_to(limits: Limits) -> None:
    import resource

    os.nice(NICENESS)
    with open("/proc/self/status", encoding="ascii") as status:
        now = next(int(s.split()[1]) * 1024 for s in status if s.startswith("VmData"))
    resource.setrlimit(resource.RLIMIT_DATA, (now + limits.memory, now + limits.memory))
    signal.signal(signal.SIGALRM, signal.SIG_DFL)


async def _answer(line: socket.socket, application: Application, scope: Scope, body: bytes) -> None:
    asked = False
    never = asyncio.Event()

    async def receive() -> dict[str, Any]:
        nonlocal asked
        if asked:
            await never.wait()
        asked = True
        return {"type": "http.request", "body": body, "more_body": False}

    async def send(message: MutableMapping[str, Any]) -> None:
        if message["type"] == "http.response.start":
            told = (message["status"], [(bytes(k), bytes(v)) for k, v in message.get("headers", [])])
            line.sendall(frame(BEGIN, pickle.dumps(told)))
        elif message["type"] == "http.response.body":
            content = message.get("body", b"")
            for start in range(0, len(content), 1 << 20):
                line.sendall(frame(BODY, content[start : start + (1 << 20)]))
            if not message.get("more_body", False):
                line.sendall(frame(END, b""))

    await application(scope, receive, send)
