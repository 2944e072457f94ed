"""The rim of the program: what every request must be before it is looked into, and what every answer carries.

Answers only to names of this machine (so that no page elsewhere reaches it under a name of its own), lets nothing be
changed by a page of another origin, takes only bodies that are what they say and no larger than they may be, counted as
they come, and tells the browser to trust nothing but its own files.
"""

from __future__ import annotations

import json
import re
from contextlib import suppress
from typing import Any

from jolly_copper.api.mother import Application, Scope

OWN_NAMES = frozenset({"127.0.0.1", "localhost", "[::1]"})
LARGEST = 1_000_000
LARGE_BODIES = (
    (re.compile(r"^/api/(pictures|take-in/look|layouts)$"), 20_000_000),
    (re.compile(r"^/api/layouts/[^/]+/(take-in|fleet|roster)$"), 20_000_000),
    (re.compile(r"^/api/layouts/[^/]+/(readings/file|names/compare|plans/[^/]+/runs)$"), 3_000_000),
    (re.compile(r"^/api/photos$"), 20_000_000),
    (re.compile(r"^/api/archives$"), 120_000_000),
    (re.compile(r"^/api/layouts/(?!new$)[^/]+(/preview)?$"), 8_000_000),
    (re.compile(r"^/api/club/restore$"), 500_000_000),
)
"""Files, whole layouts and changes to them; every other question is small."""
FILES = re.compile(
    r"^/api/(pictures|photos|archives|take-in/look|layouts/[^/]+/(take-in|fleet|roster|names/compare|plans/[^/]+/runs)|"
    r"club/restore)$"
)
"""These take a file as it is; all others take JSON."""
PLAIN_TYPES = ("text/plain", "application/x-www-form-urlencoded", "multipart/form-data")
"""What any page may send anywhere without being asked first."""
CHANGES = frozenset({"POST", "PUT", "PATCH", "DELETE"})
METHODS = CHANGES | {"GET", "HEAD", "OPTIONS"}
POLICY = (
    "default-src 'self'; img-src 'self' data: blob:; style-src 'self' 'unsafe-inline'; object-src 'none'; "
    "base-uri 'none'; form-action 'self'; frame-ancestors 'self'"
)
ALWAYS = (
    (b"x-content-type-options", b"nosniff"),
    (b"x-frame-options", b"SAMEORIGIN"),
    (b"referrer-policy", b"same-origin"),
    (b"cross-origin-resource-policy", b"same-origin"),
)


class TooLarge(Exception):
    """A body came that is larger than it may be."""


class Rim:
    """ASGI middleware, see the module.

    Args:
        app: what is inside.
        any_name: answer under whatever name one is called by: on a club's network nobody knows it beforehand, and the
            passphrase keeps strangers out.
    """

    def __init__(self, app: Application, any_name: bool = False) -> None:
        self._application, self._any_name = app, any_name

    async def __call__(self, scope: Scope, receive: Any, send: Any) -> None:
        if scope["type"] != "http":
            if scope["type"] == "lifespan":
                await self._application(scope, receive, send)
            return  # sockets are not served
        headers = {k.lower(): v.decode("latin-1") for k, v in scope["headers"]}
        refused = self._refused(scope, headers)
        if refused is not None:
            await say(_dressed(scope, send), *refused)
            return
        most = largest_body(scope["path"])
        counted, begun = 0, False

        async def counting() -> Any:
            nonlocal counted
            message = await receive()
            counted += len(message.get("body", b""))
            if counted > most:
                raise TooLarge
            return message

        dressed = _dressed(scope, send)

        async def noting(message: Any) -> None:
            nonlocal begun
            if counted > most:
                return  # whatever the inside makes of half a body, it was too large
            begun = True
            await dressed(message)

        with suppress(TooLarge):
            await self._application(scope, counting, noting)
        if counted > most and not begun:
            await say(dressed, 413, _too_large(most))

    def _refused(self, scope: Scope, headers: dict[bytes, str]) -> tuple[int, str] | None:
        """Why a request is not looked into: a status and a sentence; None where all is well."""
        host, method, path = headers.get(b"host", ""), scope["method"], scope["path"]
        if not self._any_name and re.sub(r":\d+$", "", host) not in OWN_NAMES:
            return 421, "This program answers only under this machine’s own names."
        if method not in METHODS:
            return 405, "That is not done here."
        if len(path) > 2000 or len(scope.get("query_string", b"")) > 40_000:
            return 414, "That address is far too long."
        if any(ord(c) < 32 or ord(c) == 127 or 0xD800 <= ord(c) <= 0xDFFF for c in path):
            return 404, "There is no such address."
        if method not in CHANGES:
            return None
        origin = headers.get(b"origin")
        if origin is not None and origin not in (f"http://{host}", f"https://{host}"):
            return 403, "A page of another origin may not change anything here."
        if headers.get(b"sec-fetch-site", "same-origin") not in ("same-origin", "none"):
            return 403, "A page of another origin may not change anything here."
        return _body_refused(path, headers)


def _body_refused(path: str, headers: dict[bytes, str]) -> tuple[int, str] | None:
    most, length = largest_body(path), headers.get(b"content-length", "")
    if length and (not length.isdigit() or len(length) > 12):
        return 400, "The length of the body is not a number."
    if length and int(length) > most:
        return 413, _too_large(most)
    kind = headers.get(b"content-type", "").split(";")[0].strip().lower()
    if not kind and length in ("", "0") and b"transfer-encoding" not in headers:
        return None  # nothing is sent
    if not kind or kind in PLAIN_TYPES:
        return 415, "Say what the body is: application/json, or the kind of file it is."
    if not FILES.match(path) and kind != "application/json":
        return 415, "This takes application/json."
    return None


def largest_body(path: str) -> int:
    """Bytes a request may bring to an address."""
    return next((most for pattern, most in LARGE_BODIES if pattern.match(path)), LARGEST)


def _too_large(most: int) -> str:
    return f"That is larger than the {most // 1_000_000} MB this takes."


def _dressed(scope: Scope, send: Any) -> Any:
    """Sends with the headers every answer carries, unless it has its own."""

    async def dressed(message: Any) -> None:
        if message["type"] == "http.response.start":
            given = {k.lower() for k, _ in message.get("headers", [])}
            more = [(k, v) for k, v in ALWAYS if k not in given]
            if b"content-security-policy" not in given:
                more.append((b"content-security-policy", POLICY.encode()))
            if scope["path"].startswith("/api/") and b"cache-control" not in given:
                more.append((b"cache-control", b"no-store"))
            message = {**message, "headers": [*message.get("headers", []), *more]}
        await send(message)

    return dressed


async def say(send: Any, status: int, words: str, headers: tuple[tuple[bytes, bytes], ...] = ()) -> None:
    """Answer with a sentence."""
    content = json.dumps({"message": words, "problems": [], "current": None}).encode()
    own = [(b"content-type", b"application/json"), (b"content-length", str(len(content)).encode()), *headers]
    await send({"type": "http.response.start", "status": status, "headers": own})
    await send({"type": "http.response.body", "body": content})
