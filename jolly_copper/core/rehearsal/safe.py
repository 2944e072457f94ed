"""Only moves from which everybody can still go on: worked out beforehand over all standings, one look a move."""

from __future__ import annotations

from collections import deque
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from scipy.sparse import coo_matrix, csgraph

from jolly_copper.core.rehearsal.itinerary import itineraries
from jolly_copper.core.rehearsal.knots import MOST_STATES, State, Yard, apart
from jolly_copper.core.rehearsal.legs import Leg
from jolly_copper.core.rehearsal.rules import Refused

if TYPE_CHECKING:
    from jolly_copper.core.rehearsal.evening import Evening
from jolly_copper.core.rehearsal.rolling import Rolling

EVERYTHING = -1


@dataclass(frozen=True)
class Group:
    """Trains that share track, with the states from which all of them can go on for ever; None where there were too
    many to try."""

    keys: tuple[str, ...]
    safe: frozenset[State] | None
    tried: int


@dataclass
class Safe:
    """Which moves leave everybody a way on."""

    groups: tuple[Group, ...]

    def refuses(self, evening: Evening, train: Rolling, leg: Leg) -> Refused | None:
        """Why a train may not go on; None where it may, or where it is not settled."""
        for group in self.groups:
            if train.key not in group.keys or group.safe is None:
                continue
            state = tuple(evening.trains[k].standing_no for k in group.keys)
            n = group.keys.index(train.key)
            onward = train.itinerary.after(state[n]) if train.itinerary is not None else None
            if onward is None or state not in group.safe:
                return None
            if (*state[:n], onward, *state[n + 1 :]) not in group.safe:
                others = tuple(k for k in group.keys if k != train.key)
                return Refused(EVERYTHING, others, "to go on would leave somebody no way out")
        return None


def safe_states(yard: Yard, most: int = MOST_STATES) -> tuple[frozenset[State] | None, int]:
    """States that can reach a ring of states in which every train moves, or in which all have come to their end.

    Args:
        yard: trains. most: states tried.

    Returns:
        The states, or None where there are more than `most`; and how many were tried.
    """
    number: dict[State, int] = {yard.start(): 0}
    ahead = deque([yard.start()])
    arcs: list[tuple[int, int, int]] = []
    while ahead:
        state = ahead.popleft()
        for n, then in yard.moves(state):
            if then not in number:
                number[then] = len(number)
                ahead.append(then)
            arcs.append((number[state], number[then], n))
        if len(number) > most:
            return None, len(number)
    count = len(number)
    rows = np.array([a for a, _, _ in arcs], dtype=np.int64)
    columns = np.array([b for _, b, _ in arcs], dtype=np.int64)
    graph = coo_matrix((np.ones(len(arcs)), (rows, columns)), shape=(count, count)).tocsr()
    _, label = csgraph.connected_components(graph, connection="strong")
    moving: dict[int, set[int]] = {}
    for a, b, n in arcs:
        if label[a] == label[b]:
            moving.setdefault(int(label[a]), set()).add(n)
    ever = {n for n, t in enumerate(yard.trains) if t.again is not None}
    states = list(number)
    good = {
        k
        for k in range(count)
        if (ever and moving.get(int(label[k]), set()) >= ever)
        or (all(t.after(states[k][n]) is None for n, t in enumerate(yard.trains) if n not in ever) and not ever)
    }
    back = graph.T.tocsr()
    reached = set(good)
    edge = deque(good)
    while edge:
        at = edge.popleft()
        for before in back.indices[back.indptr[at] : back.indptr[at + 1]]:
            if int(before) not in reached:
                reached.add(int(before))
                edge.append(int(before))
    return frozenset(states[k] for k in reached), count


def safe_of(evening: Evening) -> Safe:
    """The safe moves of an evening's plan, for its trains that run by calls."""
    found = tuple(itineraries(evening))
    for one in found:
        evening.trains[one.key].itinerary = one if one.whole else None
    groups = []
    for members in apart(found):
        yard = Yard(tuple(found[n] for n in members), standing_for_good(evening))
        safe, tried = safe_states(yard) if all(t.whole for t in yard.trains) else (None, 0)
        groups.append(Group(tuple(found[n].key for n in members), safe, tried))
    return Safe(tuple(groups))


def standing_for_good(evening: Evening) -> int:
    """What parked trains keep, as bits."""
    found = 0
    for train in evening.trains.values():
        if train.plan.by == "parked":
            found |= train.kept
    return found
