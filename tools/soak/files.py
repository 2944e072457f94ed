"""Files that ask for more than they are: bombs, hangs, lies and honest mistakes, made anew from a seed."""

from __future__ import annotations

import json
import random
from collections.abc import Iterator
from typing import Any

NAMESPACE = "http" + "://www.w3.org/2000/svg"
Hostile = tuple[str, str, str, bytes]
"""What it is, the address it goes to, its media type, and its bytes."""


def dxf(entities: str, blocks: str = "", lead: str = "  ") -> bytes:
    """A DXF file of these entities."""
    text = f"  0\nSECTION\n  2\nBLOCKS\n{blocks}  0\nENDSEC\n" if blocks else ""
    text += f"  0\nSECTION\n  2\nENTITIES\n{entities}  0\nENDSEC\n  0\nEOF\n"
    return text.replace("  0\n", f"{lead}0\n").replace("  2\n", f"{lead}2\n").encode("utf-8", "replace")


def _block(name: str, inside: str) -> str:
    return (
        f"  0\nBLOCK\n  8\n0\n  2\n{name}\n 70\n0\n 10\n0\n 20\n0\n 30\n0\n  3\n{name}\n{inside}  0\nENDBLK\n  8\n0\n"
    )


def _insert(name: str, x: float = 0, columns: int = 1) -> str:
    return (
        f"  0\nINSERT\n  8\n0\n  2\n{name}\n 10\n{x}\n 20\n0\n 30\n0\n 70\n{columns}\n 71\n{columns}\n 44\n1\n 45\n1\n"
    )


LINE = "  0\nLINE\n  8\n0\n 10\n0\n 20\n0\n 30\n0\n 11\n900\n 21\n5\n 31\n0\n"


def dxf_files(rng: random.Random) -> Iterator[tuple[str, bytes]]:
    """Hostile DXF files."""
    big = rng.choice(["1e15", "1e300", "inf", "nan", "-1e12", "9" * 400])
    yield (
        "circle without end",
        dxf(f"  0\nCIRCLE\n  8\n0\n 10\n0\n 20\n0\n 40\n{big}\n", lead=rng.choice(["  ", "", " "])),
    )
    yield "arc without end", dxf(f"  0\nARC\n  8\n0\n 10\n0\n 20\n0\n 40\n{big}\n 50\n0\n 51\n{big}\n")
    yield (
        "ellipse",
        dxf(
            "  0\nELLIPSE\n100\nAcDbEllipse\n  8\n0\n 10\n0\n 20\n0\n 30\n0\n"
            f" 11\n{big}\n 21\n0\n 31\n0\n 40\n1e-9\n 41\n0\n 42\n{big}\n"
        ),
    )
    deep = rng.randint(5, 60)
    blocks = "".join(_block(f"B{k}", _insert(f"B{k + 1}") * 2 if k < deep else LINE) for k in range(deep + 1))
    yield "blocks in blocks", dxf(_insert("B0"), blocks)
    each = rng.randint(20, 60)
    wide = "".join(_block(f"B{k}", _insert(f"B{k + 1}") * each if k < 3 else LINE) for k in range(4))
    yield "blocks of many blocks", dxf(_insert("B0"), wide)
    yield "a block of itself", dxf(_insert("B"), _block("B", _insert("B") + LINE))
    yield "a grid of inserts", dxf(_insert("B", columns=rng.randint(1000, 32000)), _block("B", LINE))
    yield "far too many lines", dxf(LINE * rng.randint(25_000, 150_000), lead=rng.choice(["  ", ""]))
    yield (
        "a long text",
        dxf(f"  0\nTEXT\n  8\n0\n 10\n0\n 20\n0\n 40\n1\n  1\n{'x' * rng.randint(10_000, 9_000_000)}\n"),
    )
    bulges = "".join(
        f" 10\n{rng.uniform(-1e6, 1e6)}\n 20\n{k}\n 42\n{rng.choice([1e-12, 1e9, -1, 0])}\n" for k in range(400)
    )
    yield "bulges", dxf(f"  0\nLWPOLYLINE\n  8\n0\n 90\n400\n 70\n0\n{bulges}")
    count = rng.randint(8, 3000)
    knots = "".join(f" 40\n{k}\n" for k in range(count + 4))
    points = "".join(f" 10\n{rng.uniform(-1e9, 1e9)}\n 20\n{rng.uniform(-1e9, 1e9)}\n 30\n0\n" for _ in range(count))
    yield "a wild spline", dxf(f"  0\nSPLINE\n  8\n0\n 70\n8\n 71\n3\n 72\n{count + 4}\n 73\n{count}\n{knots}{points}")
    yield "noise", rng.randbytes(rng.randint(1, 60_000))
    whole = dxf(LINE * 50)
    cut = bytearray(whole[: rng.randint(10, len(whole))])
    for _ in range(rng.randint(0, 30)):
        cut[rng.randrange(len(cut))] = rng.randrange(256)
    yield "cut and bitten", bytes(cut)


def svg(inside: str, declared: str = "") -> bytes:
    """An SVG file of this."""
    return f"{declared}<svg xmlns='{NAMESPACE}' width='100mm'>{inside}</svg>".encode("utf-8", "replace")


def svg_files(rng: random.Random) -> Iterator[tuple[str, bytes]]:
    """Hostile SVG files."""
    deep = rng.randint(14, 26)
    uses = "".join(f"<g id='a{k}'><use href='#a{k - 1}'/><use href='#a{k - 1}'/></g>" for k in range(1, deep))
    yield "uses of uses", svg(f"<defs><path id='a0' d='M0 0L9 9'/>{uses}</defs><use href='#a{deep - 1}'/>")
    yield "a use of itself", svg("<g id='a'><use href='#b'/></g><g id='b'><use href='#a'/><path d='M0 0L9 9'/></g>")
    yield "groups without end", svg("<g>" * rng.randint(200, 20_000) + "<path d='M0 0L9 9'/>")
    nest = rng.randint(200, 5000)
    yield "deep groups", svg("<g>" * nest + "<path d='M0 0L9 9'/>" + "</g>" * nest)
    yield "a path of a million", svg(f"<path d='M0 0{'L1 1 2 2' * rng.randint(50_000, 900_000)}'/>")
    yield "curves", svg(f"<path d='M0 0{'C1 1 2 2 3 3' * rng.randint(1000, 200_000)}'/>")
    yield (
        "arcs without end",
        svg(
            f"<path d='M0 0A1e{rng.randint(9, 300)} 1e9 0 0 1 1e{rng.randint(5, 300)} 1'/>"
            f"<circle r='1e{rng.randint(9, 308)}'/>"
        ),
    )
    yield "style", svg(f"<style>{'a b>c{d:e}' * rng.randint(10_000, 400_000)}</style><path d='M0 0L9 9'/>")
    yield "transforms", svg(f"<g transform='{'scale(1e9)rotate(3)' * rng.randint(10, 900)}'><path d='M0 0L9 9'/></g>")
    yield (
        "odd encoding",
        svg(
            "",
            f"<?xml version='1.0' encoding='{rng.choice(['utf-7', 'klingon', 'idna', 'utf-32', 'rot13', 'zlib'])}'?>",
        ),
    )
    yield (
        "entities",
        b"<!DOCTYPE svg [<!ENTITY a 'aaaaaaaaaa'><!ENTITY b '&a;&a;&a;&a;&a;&a;'>]>"
        + f"<svg xmlns='{NAMESPACE}'>&b;</svg>".encode(),
    )
    yield "dashes and points", svg(f"<polyline points='{'1,2 ' * rng.randint(100, 400_000)}'/>")
    yield "noise", b"<svg" + rng.randbytes(rng.randint(1, 20_000))


def csv_files(rng: random.Random) -> Iterator[tuple[str, bytes]]:
    """Hostile CSV files."""
    yield "many rows", b"name,points\n" + b"X,0 0; 1 1\n" * rng.randint(3000, 900_000)
    yield "one long cell", b'name,points\nX,"' + b"0 0; 1 1; " * rng.randint(1000, 1_500_000) + b'"\n'
    yield "open quote", b'name,points\n"' + b"x" * rng.randint(1000, 4_000_000)
    yield "formulas", b"what,name,idle_amps,running_amps,stall_amps\nkind,=cmd|' /C'!A0,1e999,nan,-1\n"
    yield "noise", rng.randbytes(5000)


def layout_files(rng: random.Random) -> Iterator[tuple[str, bytes]]:
    """Hostile layout files."""
    deep = rng.randint(500, 200_000)
    yield "deep JSON", b"[" * deep + b"]" * deep
    yield "deep in a field", b'{"name":"x","notes":' + b'{"a":' * 5000 + b"1" + b"}" * 5000 + b"}"
    yield "huge number", b'{"name":"x","brief":{"track_volts":' + b"9" * rng.randint(400, 100_000) + b"}}"
    yield (
        "many keys",
        json.dumps({"name": "x", "tracks": {f"t{k}": {} for k in range(rng.randint(1000, 100_000))}}).encode(),
    )
    yield "controls in names", json.dumps({"name": "a\x00b\x1b[31m\ud800", "notes": "\x07" * 100}).encode()
    track = {"name": "t", "a": {"node": "a", "port": "1"}, "b": {"node": "b", "port": "1"}}
    nodes = {"a": {"kind": "bumper", "at": {"x": 0, "y": 0}}, "b": {"kind": "bumper", "at": {"x": 9e6, "y": 0}}}
    far: dict[str, Any] = {
        "name": "x",
        "nodes": nodes,
        "tracks": {"t": {**track, "path": [{"x": 0, "y": 0}, {"x": 9e6, "y": 0}]}},
    }
    yield "far away", json.dumps(far).encode()
    near = json.loads(json.dumps(far).replace("9000000.0", "900000"))
    near["tracks"]["t"]["joiner_every"] = rng.choice([1e-3, 0, 1e-300, 20])
    yield "joiners", json.dumps(near).encode()
    near["tracks"]["t"] |= {"tape": 1e7, "joiner_every": 914}
    yield "long by tape", json.dumps(near).encode()
    yield "cut short", json.dumps(near).encode()[: rng.randint(5, 200)]


def hostile_files(count: int, seed: int) -> Iterator[Hostile]:
    """So many files with the addresses they are sent to."""
    rng = random.Random(seed)
    made = 0
    while True:
        makers = (("dxf", dxf_files), ("svg", svg_files), ("csv", csv_files), ("json", layout_files))
        for kind, maker in makers:
            for name, data in maker(rng):
                to = {
                    "dxf": ["/api/take-in/look?kind=dxf", "/api/layouts/{id}/take-in?kind=dxf", "/api/pictures"],
                    "svg": ["/api/take-in/look?kind=svg", "/api/layouts/{id}/take-in?kind=svg", "/api/pictures"],
                    "csv": [
                        "/api/take-in/look?kind=csv",
                        "/api/layouts/{id}/take-in?kind=csv",
                        "/api/layouts/{id}/fleet",
                    ],
                    "json": ["/api/layouts"],
                }[kind]
                media = {
                    "dxf": "application/dxf",
                    "svg": "image/svg+xml",
                    "csv": "text/csv",
                    "json": "application/json",
                }[kind]
                yield f"{kind}: {name}", rng.choice(to), media, data[:19_000_000]
                made += 1
                if made == count:
                    return
