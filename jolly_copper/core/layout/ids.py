"""Ids for new things: a prefix and the next free number."""

from __future__ import annotations

from collections.abc import Iterable


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
