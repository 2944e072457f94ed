"""Single lines: track that is run over in opposite ways by those who must not meet on it."""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

Over = Sequence[tuple[int, str]]
"""Pieces of track run over in order, by number, each with the end run towards."""


@dataclass(frozen=True)
class Line:
    """A single line: its pieces as bits, and for each piece the end that its first way runs towards."""

    bits: int
    first: Mapping[int, str]

    def ways(self, over: Over) -> frozenset[int]:
        """+1, −1 or both, by which way pieces run over it; empty where none of them lies on it."""
        return frozenset(1 if self.first[p] == towards else -1 for p, towards in over if p in self.first)


def find_lines(ways: Mapping[str, Iterable[Over]]) -> tuple[Line, ...]:
    """The single lines of trains' ways.

    Args:
        ways: for each train, everything it may run over: sequences of pieces with the end run towards.
    """
    runs: dict[tuple[int, str], set[str]] = {}
    follows: dict[tuple[int, str], set[tuple[int, str]]] = {}
    for train, overs in ways.items():
        for over in overs:
            for one in over:
                runs.setdefault(one, set()).add(train)
            for one, other in itertools.pairwise(over):
                if one[0] != other[0]:
                    follows.setdefault(one, set()).add(other)

    def single(piece: int) -> bool:
        a, b = runs.get((piece, "a"), set()), runs.get((piece, "b"), set())
        return bool(a and b) and len(a | b) > 1

    pieces = sorted({p for p, _ in runs if single(p)})
    parent: dict[int, tuple[int, int]] = {p: (p, 1) for p in pieces}

    def find(p: int) -> tuple[int, int]:
        sign = 1
        while parent[p][0] != p:
            p, s = parent[p]
            sign *= s
        return p, sign

    for one, onward in sorted(follows.items()):
        for other in sorted(onward):
            if one[0] not in parent or other[0] not in parent:
                continue
            # The two ways part where somebody comes the other way and goes elsewhere.
            (a, sa), (b, sb) = find(one[0]), find(other[0])
            same = (1 if one[1] == "b" else -1) * (1 if other[1] == "b" else -1)
            if a != b:
                parent[b] = (a, sa * sb * same)
    groups: dict[int, dict[int, str]] = {}
    for p in pieces:
        root, sign = find(p)
        groups.setdefault(root, {})[p] = "b" if sign > 0 else "a"
    return tuple(Line(sum(1 << p for p in first), first) for first in groups.values())
