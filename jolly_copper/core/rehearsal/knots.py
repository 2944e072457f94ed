"""Whether trains of a plan can ever wait for each other for ever, whatever the delays: a search over where they stand.

A train stands at heads and places and keeps what is under it; it goes on when all it needs to the next is free. A move
once begun ends, and while it lasts the train keeps more, so standings are enough, and delays only change the order.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from typing import Literal

import numpy as np
from scipy.sparse import coo_matrix, csgraph

from jolly_copper.core.rehearsal.itinerary import Itinerary
from jolly_copper.core.rehearsal.lines import ways_ahead
from jolly_copper.core.signals.single_lines import Line

MOST_STATES = 200_000
State = tuple[int, ...]


@dataclass(frozen=True)
class Answer:
    """What a search found: no knot; none, but somebody may be kept waiting for ever; a knot; or too much to try.

    moves: the numbers of the trains that move, one after another, into the knot. knot: trains in it. states: how many
    were tried.
    """

    verdict: Literal["free", "starves", "knot", "not settled"]
    states: int
    moves: tuple[int, ...] = ()
    end: State = ()
    knot: tuple[int, ...] = ()


@dataclass(frozen=True)
class Yard:
    """Trains by their itineraries, with what always stands besides: `always` is kept by trains that never move."""

    trains: tuple[Itinerary, ...]
    always: int = 0
    lines: tuple[Line, ...] = ()
    known: dict[tuple[int, int, int], frozenset[int]] = field(default_factory=dict, compare=False)
    against: dict[tuple[int, int], tuple[tuple[tuple[int, int], ...], bool] | None] = field(
        default_factory=dict, compare=False
    )

    def start(self) -> State:
        return tuple(0 for _ in self.trains)

    def blockers(self, state: State, n: int) -> tuple[list[int], bool] | None:
        """Who holds what train n needs next, and whether something that never moves does; None where it has come to its
        end."""
        found = self._of(n, state[n])
        if found is None:
            return None
        against, always = found
        return [k for k, standings in against if standings >> state[k] & 1], always

    def _of(self, n: int, at: int) -> tuple[tuple[tuple[int, int], ...], bool] | None:
        """What keeps train n from going on from a standing: for each other train the standings of it that do, as bits;
        and whether something that never moves does. Worked out once: a search asks for it at every state."""
        if (n, at) not in self.against:
            self.against[n, at] = self._work_out(n, at)
        return self.against[n, at]

    def _work_out(self, n: int, at: int) -> tuple[tuple[tuple[int, int], ...], bool] | None:
        if self.trains[n].after(at) is None:
            return None
        standing = self.trains[n].standings[at]
        need = standing.needs & ~standing.holds
        found = []
        for k, other in enumerate(self.trains):
            if k == n:
                continue
            bits = 0
            for j, theirs in enumerate(other.standings):
                if need & theirs.holds or self._locked(n, at, k, j):
                    bits |= 1 << j
            if bits:
                found.append((k, bits))
        return tuple(found), bool(need & self.always)

    def _locked(self, n: int, at: int, k: int, there: int) -> bool:
        """Whether train n may not enter a single line for train k, which is on it and leaves it the other way."""
        mine, other = self.trains[n].standings[at], self.trains[k].standings[there]
        for number, line in enumerate(self.lines):
            if mine.holds & line.bits or not other.holds & line.bits or not line.ways(mine.over):
                continue
            ways, theirs = self._ahead(n, at, number), self._ahead(k, there, number)
            if len(ways) > 1 or (theirs and theirs != ways):
                return True
        return False

    def _ahead(self, n: int, at: int, line: int) -> frozenset[int]:
        key = (n, at, line)
        if key not in self.known:
            self.known[key] = ways_ahead(self.lines[line], self.trains[n], at)
        return self.known[key]

    def moves(self, state: State) -> Iterator[tuple[int, State]]:
        """Every train that may go on, with where all stand then."""
        for n, at in enumerate(state):
            found = self._of(n, at)
            if found is None or found[1] or any(bits >> state[k] & 1 for k, bits in found[0]):
                continue
            onward = self.trains[n].after(at)
            assert onward is not None
            yield n, (*state[:n], onward, *state[n + 1 :])

    def knotted(self, state: State) -> tuple[int, ...]:
        """Trains that wait for each other for ever in a state; empty where nobody does."""
        waits: dict[int, list[int]] = {}
        still: set[int] = set()
        for n in range(len(state)):
            found = self.blockers(state, n)
            if found is None:
                still.add(n)
            elif found[1]:
                still.add(n)  # what never moves is in its way
                waits[n] = []
            elif found[0]:
                waits[n] = found[0]
        # Every train has one way on alone: it is stuck as soon as one of those that hold it is.
        stuck = set(still) | set(waits)
        while True:
            free = {n for n in stuck if n not in still and not any(k in stuck for k in waits[n])}
            if not free:
                return tuple(sorted(stuck & waits.keys()))
            stuck -= free


def search(yard: Yard, most: int = MOST_STATES, tell: Callable[[int], None] | None = None) -> Answer:
    """Look for a knot, the shortest way into it first.

    Args:
        yard: trains and lines. most: states tried before it is not settled. tell: called now and then with how many.

    Returns:
        `free` where every state that can be reached was tried and none is a knot.
    """
    start = yard.start()
    came: dict[State, tuple[State, int] | None] = {start: None}
    ahead = deque([start])
    while ahead:
        state = ahead.popleft()
        knot = yard.knotted(state)
        if knot:
            return Answer("knot", len(came), tuple(_way(came, state)), state, knot)
        for n, then in yard.moves(state):
            if then not in came:
                came[then] = (state, n)
                ahead.append(then)
        if len(came) > most:
            return Answer("not settled", len(came))
        if tell is not None and len(came) % 2000 < 2:
            tell(len(came))
    starved = starving(yard, list(came))
    return Answer("starves" if starved else "free", len(came), knot=starved)


def starving(yard: Yard, states: Sequence[State]) -> tuple[int, ...]:
    """Trains that the others can keep waiting for ever, though nobody is in a knot: where everything has come round to
    the same standings again and again, they never move.

    Args:
        yard: trains. states: all that can be reached.
    """
    number = {s: k for k, s in enumerate(states)}
    arcs = [(number[s], number[then], n) for s in states for n, then in yard.moves(s)]
    if not arcs:
        return ()
    rows, columns = np.array([a for a, _, _ in arcs]), np.array([b for _, b, _ in arcs])
    graph = coo_matrix((np.ones(len(arcs)), (rows, columns)), shape=(len(states), len(states)))
    count, label = csgraph.connected_components(graph.tocsr(), connection="strong")
    leaves = np.zeros(count, dtype=bool)
    leaves[label[rows[label[rows] != label[columns]]]] = True
    movers: dict[int, set[int]] = {}
    for a, _, n in arcs:
        if not leaves[label[a]]:
            movers.setdefault(int(label[a]), set()).add(n)
    ever = {n for n, t in enumerate(yard.trains) if t.again is not None}
    return tuple(sorted({n for moving in movers.values() for n in ever - moving}))


def _way(came: dict[State, tuple[State, int] | None], state: State) -> list[int]:
    found: list[int] = []
    while (before := came[state]) is not None:
        found.append(before[1])
        state = before[0]
    return found[::-1]


def apart(trains: Sequence[Itinerary]) -> list[list[int]]:
    """Trains in groups that share nothing with each other, to be searched apart."""
    masks = [_all(t) for t in trains]
    left = set(range(len(trains)))
    found = []
    while left:
        group, edge = set(), [min(left)]
        while edge:
            n = edge.pop()
            if n not in left:
                continue
            left.discard(n)
            group.add(n)
            edge += [m for m in left if masks[m] & masks[n]]
        found.append(sorted(group))
    return found


def _all(train: Itinerary) -> int:
    found = 0
    for s in train.standings:
        found |= s.holds | s.needs
    return found
