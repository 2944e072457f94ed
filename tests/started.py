"""The real app on a port of its own, in a thread of the test."""

from __future__ import annotations

import socket
import threading
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from typing import Any

import anyio
import uvicorn
from fastapi import FastAPI


@contextmanager
def started(app: FastAPI, **more: Any) -> Iterator[int]:
    """Serve an app; gives its port. The socket is bound before the server starts, so there is no race for it."""
    listener = socket.socket(socket.AF_INET, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    listener.bind(("127.0.0.1", 0))
    listener.listen(128)
    config: dict[str, Any] = {"log_level": "error", "lifespan": "off", "timeout_graceful_shutdown": 1, **more}
    server = uvicorn.Server(uvicorn.Config(app, **config))
    thread = threading.Thread(target=server.run, kwargs={"sockets": [listener]}, daemon=True)
    thread.start()
    try:
        yield listener.getsockname()[1]
    finally:
        app.state.live.close()
        server.should_exit = True
        thread.join(timeout=10)


def in_a_loop(work: Callable[..., Any], *args: Any) -> Any:
    """Run something asynchronous to its end, in a loop and a thread of its own: a browser's loop may be on this one."""
    with ThreadPoolExecutor(1) as apart:
        return apart.submit(anyio.run, work, *args).result()
