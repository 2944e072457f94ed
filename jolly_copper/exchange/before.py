"""Drawings looked over before they are unfolded: how much would come of them, how deep they nest, how far they reach.

A few bytes of a drawing may ask for a thousand million lines; these checks count first, in time and memory that grow
with the file alone.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator
from typing import Any

from jolly_copper.exchange.cells import FileRefused

MOST_ENTITIES = 20_000
MOST_LINES = 1_200_000
"""Of text in a DXF file: thirty for each entity of the largest plan, twice over."""
LONGEST_LINE = 8_000
DEEPEST = 6
"""Blocks in blocks, or what is used in what is used."""
DEEPEST_GROUPS = 120
MOST_NUMBERS = 300_000
"""In all paths of an SVG drawing together."""
LONGEST_ATTRIBUTE = 20_000
TOO_MANY = (
    f"This drawing has over {MOST_ENTITIES} things; a track plan has far fewer. "
    "Save the track layers alone and try again."
)


def look_over_dxf(text: str) -> None:
    """Count what a text DXF file would unfold to.

    Raises:
        FileRefused: far more than a track plan, or blocks that hold themselves.
    """
    own: Counter[str] = Counter()
    holds: dict[str, Counter[str]] = {}
    block = ""  # what is in no block is the drawing itself
    kind, things = "", 0
    for code, value in _pairs(text):
        if code == "0":
            kind = value
            things += 1
            if things > 6 * MOST_ENTITIES:
                raise FileRefused(TOO_MANY)
            if kind == "ENDBLK":
                block = ""
            elif kind not in ("SECTION", "ENDSEC", "EOF", "BLOCK", "VERTEX", "SEQEND", "TABLE", "ENDTAB", "ATTRIB"):
                own[block] += 1
        elif code == "2" and kind == "BLOCK":
            block, kind = value or "?", "BLOCK named"
        elif code == "2" and kind == "INSERT":
            holds.setdefault(block, Counter())[value] += 1
    _count_unfolded(own, holds, {"", "*Model_Space", "*MODEL_SPACE"})


def _pairs(text: str) -> Iterator[tuple[str, str]]:
    """Group codes and values, stripped."""
    start, count = 0, 0
    code: str | None = None
    while start < len(text):
        end = text.find("\n", start)
        end = len(text) if end < 0 else end
        count += 1
        if count > MOST_LINES:
            raise FileRefused(TOO_MANY)
        if end - start > LONGEST_LINE:
            raise FileRefused(f"This drawing holds a line of text of over {LONGEST_LINE} letters; a plan needs none.")
        line = text[start:end].strip()
        start = end + 1
        if code is None:
            code = line
        else:
            yield code, line
            code = None


def _count_unfolded(own: Counter[str], holds: dict[str, Counter[str]], tops: set[str]) -> None:
    sizes: dict[str, int] = {}

    def size(name: str, above: tuple[str, ...]) -> int:
        if name in above:
            raise FileRefused(f"The block {name[:40]} holds itself; a drawing cannot be unfolded that way.")
        if len(above) > DEEPEST:
            raise FileRefused(
                f"Blocks stand over {DEEPEST} deep in each other; save the plan with its blocks exploded."
            )
        if name not in sizes:
            inner = holds.get(name, Counter[str]())
            sizes[name] = own[name] + sum(n * size(b, (*above, name)) for b, n in inner.items())
        if sizes[name] > MOST_ENTITIES:
            raise FileRefused(TOO_MANY)
        return sizes[name]

    if sum(size(top, ()) for top in tops) > MOST_ENTITIES:
        raise FileRefused(TOO_MANY)


DROPPED = ("text", "image", "style", "script", "foreignObject", "metadata", "namedview", "title", "desc", "filter")
"""What of an SVG no line comes of."""
NUMBERS = re.compile(r"[-+.\d]+(?:e[-+]?\d+)?", re.IGNORECASE)


def look_over_svg(root: Any) -> Counter[str]:
    """Count what an SVG tree would unfold to, and take out of it what no line comes of.

    Args:
        root: the parsed tree; it is changed.

    Returns:
        How many of each kind of element there were.

    Raises:
        FileRefused: far more than a track plan, too deep, or things that use themselves.
    """
    names: Counter[str] = Counter()
    by_id: dict[str, Any] = {}
    numbers = 0
    waiting = [(root, 0)]
    while waiting:
        element, depth = waiting.pop()
        names[_name(element)] += 1
        if sum(names.values()) > 4 * MOST_ENTITIES:
            raise FileRefused(TOO_MANY)
        if depth > DEEPEST_GROUPS:
            raise FileRefused(f"Groups stand over {DEEPEST_GROUPS} deep in each other; ungroup the plan first.")
        for child in [c for c in element if _name(c) in DROPPED]:
            names[_name(child)] += 1
            element.remove(child)
        if (i := element.get("id")) is not None:
            by_id.setdefault(i, element)
        for key, value in element.attrib.items():
            if key in ("d", "points"):
                numbers += sum(1 for _ in NUMBERS.finditer(value))
                if numbers > MOST_NUMBERS:
                    raise FileRefused("The paths of this drawing have far more points than a track plan.")
            elif len(value) > LONGEST_ATTRIBUTE:
                raise FileRefused(f"This drawing holds a value of over {LONGEST_ATTRIBUTE} letters; a plan needs none.")
        waiting += [(child, depth + 1) for child in element]
    _count_used(root, by_id)
    return names


def _count_used(root: Any, by_id: dict[str, Any]) -> None:
    sizes: dict[int, int] = {}

    def size(element: Any, above: tuple[int, ...]) -> int:
        if id(element) in sizes:
            return sizes[id(element)]
        total = 1
        if _name(element) == "use":
            key = next((v for k, v in element.attrib.items() if k.rsplit("}", 1)[-1] == "href"), "")
            used = by_id.get(key.lstrip("#"))
            if used is not None:
                if id(used) in above:
                    raise FileRefused("Something in this drawing uses itself; it cannot be unfolded that way.")
                if sum(1 for a in above if a) > DEEPEST_GROUPS:
                    raise FileRefused(f"What is used stands over {DEEPEST_GROUPS} deep in what is used.")
                total += size(used, (*above, id(used)))
        for child in element:
            total += size(child, (*above, id(child)))
            if total > MOST_ENTITIES:
                raise FileRefused(TOO_MANY)
        sizes[id(element)] = total
        if total > MOST_ENTITIES:
            raise FileRefused(TOO_MANY)
        return total

    size(root, (id(root),))


def _name(element: Any) -> str:
    return str(element.tag).rsplit("}", 1)[-1]
