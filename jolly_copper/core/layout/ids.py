"""Ids for new things: a prefix and the next free number."""

from __future__ import annotations

import re
from collections.abc import Iterable
from functools import lru_cache


def next_number(taken: Iterable[str], prefix: str) -> int:
    """One above the highest number in use after this prefix.

    >>> next_number(["F1", "F12", "feeder-x", "Fa"], "F")
    13
    """
    numbers = (i[len(prefix) :] for i in taken if i.startswith(prefix))
    return max((int(n) for n in numbers if n.isdecimal()), default=0) + 1


def next_id(taken: Iterable[str], prefix: str) -> str:
    """The next free id of the form F83.

    >>> next_id(["F1", "F12"], "F")
    'F13'
    """
    return f"{prefix}{next_number(taken, prefix)}"


@lru_cache(maxsize=1 << 16)
def natural(text: str) -> tuple[tuple[int, int, str], ...]:
    """A key that sorts names as people do: numbers inside them as numbers, case left aside.

    >>> sorted(["F10", "f2", "F1.2"], key=natural)
    ['F1.2', 'f2', 'F10']
    """
    parts = re.split(r"(\d+)", text.lower())
    return tuple((0, int(p), "") if p.isdecimal() else (1, 0, p) for p in parts if p)
