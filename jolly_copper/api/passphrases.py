"""Passphrases that can be read out across a room, and how often a wrong one may be tried."""

from __future__ import annotations

import hmac
import itertools
import math
import secrets
import threading
import time
from collections import OrderedDict
from collections.abc import Callable

CONSONANTS = "bdfgklmnrstvz"
VOWELS = "aeiou"
UNWELCOME = frozenset({"kaka", "kako", "kuku", "mama", "nazi", "negi", "nego", "niga", "nigo", "putu", "tito", "titi"})
WORDS = tuple(
    w
    for a, b, c, d in itertools.product(CONSONANTS, VOWELS, CONSONANTS, VOWELS)
    if (w := a + b + c + d) not in UNWELCOME and a + b != c + d
)
"""Words of two open syllables, spoken as they are written: over four thousand. Made up, so nobody guesses them from a
person's life."""
LEAST_WORDS = 4
LEAST_LETTERS = 10
FREE_TRIES = 5
"""Wrong ones from one address before it must wait."""
FREE_IN_ALL = 40
"""Wrong ones from all addresses together before everyone without a ticket must wait a little."""
LONGEST_WAIT_S = 900.0
LONGEST_WAIT_IN_ALL_S = 20.0
FORGOTTEN_AFTER_S = 3600.0
MOST_ADDRESSES = 10_000


def new_phrase(words: int = LEAST_WORDS) -> str:
    """A passphrase of so many words, four at least: 12 bits each.

    >>> len(new_phrase().split("-"))
    4
    """
    return "-".join(secrets.choice(WORDS) for _ in range(max(words, LEAST_WORDS)))


def why_too_weak(phrase: str) -> str | None:
    """Why a passphrase somebody typed is not taken; None where it is.

    >>> why_too_weak("short")
    'A passphrase has at least 10 letters; this has 5.'
    """
    letters = len(plain(phrase).replace(b" ", b"").decode())
    if letters < LEAST_LETTERS:
        return f"A passphrase has at least {LEAST_LETTERS} letters; this has {letters}."
    if len(set(plain(phrase)) - {32}) < 4:
        return "A passphrase has at least four different letters."
    return None


def plain(phrase: str) -> bytes:
    """A passphrase as it is compared: case, spaces and hyphens do not matter."""
    return " ".join(phrase.lower().replace("-", " ").split()).encode("utf-8", "replace")


def same(said: str, phrase: str) -> bool:
    """Whether this is the passphrase; takes as long whatever is said. A blank one is never it."""
    return bool(plain(phrase)) and hmac.compare_digest(plain(said), plain(phrase))


class Tries:
    """Wrong tries, by address and in all, and the waits they bring: 1 s, 2 s, 4 s and so on.

    Args:
        clock: seconds that only go forward.
    """

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        self._clock = clock
        self._wrong: OrderedDict[str, tuple[int, float]] = OrderedDict()
        self._all: tuple[float, float] = (0.0, clock())
        self._lock = threading.Lock()

    def wait(self, address: str) -> float:
        """How long an address must wait before it may try, s; 0 where it may."""
        with self._lock:
            now = self._clock()
            count, last = self._wrong.get(address, (0, now))
            own = _wait(count - FREE_TRIES, LONGEST_WAIT_S) - (now - last) if count >= FREE_TRIES else 0.0
            everyone, since = self._all
            left = everyone * 0.5 ** ((now - since) / FORGOTTEN_AFTER_S)
            # Only who has tried wrongly before waits for others: a helper at the first try comes straight in.
            shared = 0.0
            if left > FREE_IN_ALL and count:
                shared = min(left - FREE_IN_ALL, LONGEST_WAIT_IN_ALL_S) - (now - last)
            return max(own, shared, 0.0)

    def wrong(self, address: str) -> None:
        """Note a wrong try."""
        with self._lock:
            now = self._clock()
            count, last = self._wrong.pop(address, (0, now))
            self._wrong[address] = (1 if now - last > FORGOTTEN_AFTER_S else count + 1, now)
            while len(self._wrong) > MOST_ADDRESSES:
                self._wrong.popitem(last=False)
            everyone, since = self._all
            self._all = (everyone * 0.5 ** ((now - since) / FORGOTTEN_AFTER_S) + 1, now)

    def right(self, address: str) -> None:
        """Forget the wrong tries of an address that came in."""
        with self._lock:
            self._wrong.pop(address, None)


def _wait(beyond: int, longest: float) -> float:
    return min(math.ldexp(1.0, min(beyond, 30)), longest)
