"""What was worked out lately of a few fields of a layout, for when those very fields are asked about again.

A change leaves most of a layout as it was, and what was not changed is the same object before and after (`read_layout`
shares it). A function that reads track alone need not work again when a wire changes. It is shown the fields it named
and no others, so that it cannot come to depend on one of which nobody knows.
"""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable
from functools import wraps
from threading import Lock
from typing import TypeVar

from jolly_copper.core.layout.document import Layout

T = TypeVar("T")
KEPT_BYTES = 12_000_000
"""Of the answers of one function, about."""
KEPT = 8
"""Answers of one function at most, however small they are thought to be."""
ENTRY_BYTES = 3_000
"""What an answer takes for each thing in the fields it was worked out of, about."""


def only(layout: Layout, fields: tuple[str, ...]) -> Layout:
    """A layout that has these fields; asking for another raises `AttributeError`."""
    found = object.__new__(Layout)
    object.__setattr__(found, "__dict__", {f: layout.__dict__[f] for f in fields})
    object.__setattr__(found, "__pydantic_fields_set__", set(fields))
    object.__setattr__(found, "__pydantic_extra__", None)
    object.__setattr__(found, "__pydantic_private__", None)
    return found


def reads(*fields: str) -> Callable[[Callable[[Layout], T]], Callable[[Layout], T]]:
    """Of a pure function of a layout: it reads these fields alone. Its last answers are kept by those very things.

    An answer is shared, so nobody may change it. Kept things are held, so that none can take another's place.
    """

    def of(work: Callable[[Layout], T]) -> Callable[[Layout], T]:
        kept: OrderedDict[tuple[int, ...], tuple[tuple[object, ...], T, int]] = OrderedDict()
        lock = Lock()

        @wraps(work)
        def answer(layout: Layout) -> T:
            things = tuple(layout.__dict__[f] for f in fields)
            key = tuple(map(id, things))
            with lock:
                if key in kept:
                    kept.move_to_end(key)
                    return kept[key][1]
            found = work(only(layout, fields))
            weight = ENTRY_BYTES * sum(len(x) for x in things if isinstance(x, dict))
            with lock:
                kept[key] = (things, found, weight)
                while len(kept) > 1 and (len(kept) > KEPT or sum(w for _, _, w in kept.values()) > KEPT_BYTES):
                    kept.popitem(last=False)
            return found

        return answer

    return of
