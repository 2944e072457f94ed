"""Who makes a change: the name on a helper's or lead's ticket, else the one the page was told."""

from __future__ import annotations

from typing import Any
from urllib.parse import quote, unquote

from fastapi import Request

from jolly_copper.api.mother import Application, Scope
from jolly_copper.store.revision import WHO

HEADER = b"x-who"
"""A name, percent-encoded: header fields hold no more than ASCII."""
LONGEST = 40


def with_name(scope: Scope, name: str) -> Scope:
    """A request as of somebody whose name is known, whatever the page itself says."""
    others = [(k, v) for k, v in scope["headers"] if k.lower() != HEADER]
    return {**scope, "headers": [*others, (HEADER, quote(name).encode())]}


def named(request: Request) -> str:
    """The name a request bears; empty where it bears none."""
    return _clean(request.headers.get(HEADER.decode(), ""))


def _clean(text: str) -> str:
    printable = "".join(c for c in unquote(text, errors="replace") if c.isprintable())
    return " ".join(printable.split())[:LONGEST]


class Who:
    """ASGI middleware: what is changed in a request is written down as done by its name."""

    def __init__(self, app: Application) -> None:
        self._application = app

    async def __call__(self, scope: Scope, receive: Any, send: Any) -> None:
        given = next((v for k, v in scope.get("headers", ()) if k.lower() == HEADER), b"")
        token = WHO.set(_clean(given.decode("latin-1")))
        try:
            await self._application(scope, receive, send)
        finally:
            WHO.reset(token)
