"""How long tests take, as last measured: which of them people wait for, and which the gate runs after those.

`times.txt` names the tests of 0.3 s and more with their seconds, longest first; `make test-times` measures them anew.
A test that is not named there is new, or quick: it always runs.
"""

from __future__ import annotations

from functools import cache
from pathlib import Path

FILE = Path(__file__).with_name("times.txt")
LEAST = 0.3
"""Quicker ones are not named, and are all that `make test-core` runs, s."""
LONG, LONG_IN_BROWSER = 1.5, 5.0
"""From here on a test is left out of `make test` and run by `make test-rest`, s."""
LONGEST = 15.0
"""Up to here the quickest test of a file is not left out, so that every room is looked into, s."""


@cache
def times() -> dict[str, float]:
    """Seconds by test, of those that take some."""
    found = {}
    for line in FILE.read_text("utf-8").splitlines():
        seconds, _, name = line.partition(" ")
        found[name] = float(seconds)
    return found


@cache
def quickest() -> frozenset[str]:
    """The quickest test of each file, of those that are named."""
    last = {name.partition("::")[0]: name for name in times()}
    return frozenset(name for name in last.values() if times()[name] < LONGEST)


def is_slow(test: str) -> bool:
    """Whether a test is too slow for a run of the core alone."""
    return test in times()


def is_long(test: str, browser: bool) -> bool:
    """Whether a test is left to the run after the one people wait for."""
    return times().get(test, 0.0) >= (LONG_IN_BROWSER if browser else LONG) and test not in quickest()
