"""Requests made by the program's own description of itself, and by hand-made nastiness."""

from __future__ import annotations

import json
import random
import string
import threading
import time
from pathlib import Path
from typing import Any
from urllib.parse import quote

import httpx2 as httpx

from tools.served import Served
from tools.soak.found import Found

SLOW_S = 10.0
THREADS = 4
NASTY: list[Any] = [
    None,
    True,
    -1,
    0,
    1,
    2**31,
    2**63,
    2**64,
    -(2**63) - 1,
    10**400,
    1e308,
    -0.0,
    0.5,
    "",
    " ",
    "0",
    "NaN",
    "Infinity",
    "-1",
    "1e999",
    "9" * 5000,
    "x" * 3000,
    "\x00",
    "a\x00b",
    "\x1b[31m",
    "\ud800",
    "=1+1",
    "../../etc/passwd",
    "%00",
    "%2e%2e%2f",
    "'; DROP TABLE layout; --",
    "𝕏" * 40,
    "0001-01-01T00:00:00+23:59",
    "9999-12-31T23:59:59-23:59",
    "2026-11-29T25:00:00Z",
    [],
    {},
    [[[[[[]]]]]],
]
KNOWN = {
    "layout_id": ["small", "small", "gannet-bay"],
    "track": ["main-1", "t"],
    "use": ["main", "unknown", "yard"],
    "device": ["B1", "B2"],
    "kind": ["dxf", "svg", "csv", "length", "amps"],
    "name": ["plan.dxf", "book.pdf", "0" * 64],
    "revision": [1, 2, None],
    "scene": ["open-day", "none"],
}


def _value(rng: random.Random, schema: dict[str, Any], shapes: dict[str, Any], depth: int = 0) -> Any:
    """Something of a schema, more or less."""
    if rng.random() < 0.06 or depth > 7:
        return rng.choice(NASTY)
    while "$ref" in schema:
        schema = shapes.get(schema["$ref"].rsplit("/", 1)[-1], {})
    if "const" in schema:
        return schema["const"]
    if "enum" in schema:
        return rng.choice(schema["enum"])
    for many in ("anyOf", "oneOf", "allOf"):
        if many in schema:
            return _value(rng, rng.choice(schema[many]), shapes, depth + 1)
    kind = schema.get("type")
    if kind == "object":
        fields = schema.get("properties", {})
        wanted = schema.get("required", [])
        made = {k: _value(rng, v, shapes, depth + 1) for k, v in fields.items() if k in wanted or rng.random() < 0.5}
        if isinstance(schema.get("additionalProperties"), dict):
            more = schema["additionalProperties"]
            made |= {f"k{n}": _value(rng, more, shapes, depth + 1) for n in range(rng.randint(0, 2))}
        return made
    if kind == "array":
        return [_value(rng, schema.get("items", {}), shapes, depth + 1) for _ in range(rng.choice([0, 1, 1, 2, 3]))]
    if kind == "integer":
        return rng.choice([schema.get("minimum", 0), schema.get("maximum", 9), rng.randint(-3, 5000)])
    if kind == "number":
        return rng.choice([schema.get("minimum", 0.0), rng.uniform(-10, 5000), rng.randint(0, 9)])
    if kind == "boolean":
        return rng.random() < 0.5
    if kind == "string":
        return rng.choice(
            ["main", "t", "small", "x", "14.4 V", "5 A", "35'", "".join(rng.choices(string.printable, k=9))]
        )
    return rng.choice(NASTY)


def _text(value: Any) -> str:
    if isinstance(value, bool):
        return str(value).lower()
    return value if isinstance(value, str) else json.dumps(value, default=str)


def _safe(text: str) -> str:
    return quote(text.encode("utf-8", "surrogatepass"), safe="")


class _Nonsense:
    """Makes requests from the program's description."""

    def __init__(self, described: dict[str, Any], seed: int) -> None:
        self._rng = random.Random(seed)
        self._shapes = described["components"]["schemas"]
        self._routes = [(m, p, o) for p, ms in described["paths"].items() for m, o in ms.items()]

    def request(self) -> tuple[str, str, dict[str, str], bytes | None]:
        """A method, an address, headers and a body."""
        rng = self._rng
        method, path, told = rng.choice(self._routes)
        query: list[str] = []
        headers: dict[str, str] = {}
        for wanted in told.get("parameters", []):
            name, where = wanted["name"], wanted["in"]
            value = _value(rng, wanted.get("schema", {}), self._shapes)
            if name in KNOWN and rng.random() < 0.75:
                value = rng.choice(KNOWN[name])
            if where == "path":
                path = path.replace(f"{{{name}}}", _safe(_text(value)[:3000]) or "x")
            elif where == "query" and value is not None and (wanted.get("required") or rng.random() < 0.5):
                query += [f"{name}={_safe(_text(v))}" for v in (value if isinstance(value, list) else [value])]
            elif where == "header":
                headers[name] = rng.choice(["1", "2", '"3"', "9" * 4000, str(2**63), "-1", 'W/"1"', "x"])
        body = None
        if method in ("post", "put", "patch", "delete"):
            content = told.get("requestBody", {}).get("content", {}).get("application/json", {})
            if "schema" in content:
                body = self._body(content["schema"])
            elif rng.random() < 0.7:
                body = rng.choice(
                    [b"", b"x", b"<svg/>", b"  0\nEOF\n", b"name,points\nX,0 0; 9 9\n", rng.randbytes(300)]
                )
            kinds = ["application/json"] * 14 + ["application/dxf", "text/plain", "image/svg+xml", "text/csv", ""]
            headers["content-type"] = rng.choice(kinds)
        return method.upper(), path + ("?" + "&".join(query) if query else ""), headers, body

    def _body(self, schema: dict[str, Any]) -> bytes:
        rng = self._rng
        if rng.random() < 0.05:
            deep = rng.choice([1000, 5000, 60_000])
            return rng.choice([b"[" * deep + b"]" * deep, b'{"a":' * deep + b"1" + b"}" * deep])
        if rng.random() < 0.05:
            return rng.choice([b"{", b"", b"\xff\xfe\x00", b"null", b'{"a":NaN}', b'{"a":1e999}', b'"\\ud800"'])
        made = _value(rng, schema, self._shapes)
        if isinstance(made, dict) and "patch" in made and rng.random() < 0.8:
            made["patch"] = [self._operation() for _ in range(rng.choice([1, 1, 2, 5]))]
        return json.dumps(made, default=str).encode("utf-8", "surrogatepass")

    def _operation(self) -> dict[str, Any]:
        rng = self._rng
        fields = [
            "name",
            "notes",
            "tracks",
            "tracks/t",
            "feeders/F1",
            "brief",
            "circuits/main",
            "accepted",
            "nodes",
            "",
        ]
        path = "/" + rng.choice(fields) + rng.choice(["", "", "/at", "/name", "/x~1y", "/-", "/0", "/path/0/x"])
        made = {"op": rng.choice(["add", "remove", "replace", "move", "copy", "test", "sing"]), "path": path}
        return made | {"value": rng.choice(NASTY), "from": "/" + rng.choice(fields)}


def fuzz(folder: Path, count: int, seed: int = 1) -> Found:
    """Send so many requests."""
    found = Found(f"{count} requests of nonsense", f"0 × 5xx, 0 over {SLOW_S:.0f} s")
    codes: dict[int, int] = {}
    slow = 0.0
    guard = threading.Lock()
    with Served(folder / "fuzzed.sqlite3", command="demo") as program:
        with program.client() as client:
            client.post("/api/layouts/new", json={"name": "Small"})
            described = client.get("/api/openapi.json").json()

        def send(number: int, most: int) -> None:
            nonlocal slow
            nonsense = _Nonsense(described, seed * 100 + number)
            with program.client() as mine:
                for _ in range(most):
                    method, path, headers, body = nonsense.request()
                    begun = time.monotonic()
                    try:
                        with mine.stream(method, path, headers=headers, content=body) as got:
                            status, words = got.status_code, ""
                            kind = got.headers.get("content-type", "")
                            if kind.startswith("text/event-stream"):
                                pass  # news that goes on for as long as somebody listens
                            elif kind.startswith("application/x-ndjson"):
                                next(got.iter_bytes(), b"")  # it tells of its progress; whoever hangs up stops it
                            else:
                                words = got.read().decode("utf-8", "replace")
                    except (httpx.InvalidURL, UnicodeError, httpx.LocalProtocolError, ValueError):
                        continue  # not even a request
                    except httpx.HTTPError as error:
                        status, words = 599, type(error).__name__
                    took = time.monotonic() - begun
                    with guard:
                        codes[status // 100] = codes.get(status // 100, 0) + 1
                        slow = max(slow, took)
                        if status >= 500:
                            sent = body[:80] if body else b""
                            found.wrong.append(f"{method} {path[:120]} {sent!r}: {status} {words[:90]}")
                        if took > SLOW_S:
                            found.wrong.append(f"{method} {path[:120]}: {took:.1f} s")

        hands = [threading.Thread(target=send, args=(n, count // THREADS)) for n in range(THREADS)]
        for hand in hands:
            hand.start()
        for hand in hands:
            hand.join()
        with program.client() as client:
            if client.get("/api/layouts").status_code != 200:
                found.wrong.append("it does not answer any more")
    said = ", ".join(f"{n} × {c}xx" for c, n in sorted(codes.items()))
    found.measured = f"{said}; slowest {slow:.1f} s"
    return found
