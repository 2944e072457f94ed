"""Remembering worked-out matrices by what went into them, so that an edit only costs the part it touches.

Keys are digests of all inputs, so a remembered answer is the answer: deriving stays pure.
"""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable
from hashlib import blake2b
from threading import Lock
from typing import Any, TypeVar

import numpy as np

T = TypeVar("T")
KEPT = 600
"""Answers; some three for each connected part of a network, so that ten railroads in one still find theirs."""
KEPT_BYTES = 64_000_000


def digest(*things: Any) -> bytes:
    """A digest of arrays, numbers and strings, order and type included."""
    total = blake2b(digest_size=20)
    for thing in things:
        if isinstance(thing, np.ndarray):
            total.update(f"{thing.dtype}{thing.shape}".encode())
            total.update(np.ascontiguousarray(thing).data)
        elif isinstance(thing, bytes):
            total.update(thing)
        else:
            total.update(repr(thing).encode())
        total.update(b"|")
    return total.digest()


class Memo:
    """The most recently used answers, bounded in number and in memory."""

    def __init__(self) -> None:
        self._kept: OrderedDict[bytes, tuple[Any, int]] = OrderedDict()
        self._bytes = 0
        self._lock = Lock()

    def answer(self, key: bytes, compute: Callable[[], T], size: Callable[[T], int]) -> T:
        """The remembered answer, or a new one. `size` tells its bytes."""
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
                return self._kept[key][0]  # type: ignore[no-any-return]
        found = compute()
        weight = size(found)
        with self._lock:
            if key not in self._kept:
                self._kept[key] = (found, weight)
                self._bytes += weight
            while len(self._kept) > 1 and (len(self._kept) > KEPT or self._bytes > KEPT_BYTES):
                _, (_, gone) = self._kept.popitem(last=False)
                self._bytes -= gone
        return found

    def forget(self) -> None:
        """Drop everything (for benchmarks)."""
        with self._lock:
            self._kept.clear()
            self._bytes = 0


MEMO = Memo()
