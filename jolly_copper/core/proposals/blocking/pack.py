"""Which sections go on which board: fewest boards, then least wire, each board where its sections are."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import sparse
from scipy.optimize import Bounds, LinearConstraint, linear_sum_assignment, linprog, milp

SECONDS = 0.6
EXACT_ITEMS = 40
MOST_ROUNDS = 12
MOST_BOARDS = 16
MOST_SITES = 24
"""Beyond so many boards a railroad is packed part by part, each choosing among so many places."""

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Packing:
    """members: numbers of items on each board, boards in order of their first item. sites: which place each board
    stands at. wire: mm of home runs, straight. bound: no packing on as many boards has less, mm. exact: bound met."""

    members: tuple[tuple[int, ...], ...]
    sites: tuple[int, ...]
    wire: float
    bound: float
    exact: bool


def pack(far: Floats, weights: Sequence[int], capacity: int, spare: float) -> Packing:
    """Share items out to boards of so many channels.

    Args:
        far: wire from each item to each place a board may stand at, mm, shape (items, places).
        weights: channels or outputs each item takes.
        capacity: of a board.
        spare: share of a board's channels to keep free.

    Returns:
        The fewest boards that hold all with the spare kept, and among those packings the least wire: proved where there
        are few items, else the best found with a bound under it.

    >>> p = pack(np.array([[0.0, 90], [1, 89], [90, 0], [91, 1]]), [1, 1, 1, 1], 2, 0.0)
    >>> p.members, p.exact
    (((0, 1), (2, 3)), True)

    Raises:
        ValueError: an item takes more than a whole board has.
    """
    room = max(1, math.floor(capacity * (1 - spare) + 1e-9))
    if any(w > room for w in weights):
        room = capacity
    if any(w > room for w in weights):
        raise ValueError(f"One of them takes {max(weights)} outputs; a board has {capacity}.")
    if not len(far):
        return Packing((), (), 0.0, 0.0, True)
    boards = _least_boards(weights, room)
    if boards > MOST_BOARDS:
        return _in_parts(far, weights, capacity, spare, room)
    best = _greedy(far, weights, room, boards)
    while best is None:
        boards += 1
        best = _greedy(far, weights, room, boards)
    chosen, wire = best
    bound, better = _programme(far, weights, room, boards, integral=False)
    if wire - bound > 1e-3 * max(wire, 1.0) and len(weights) <= EXACT_ITEMS:
        bound, better = _programme(far, weights, room, boards, integral=True)
    if better is not None and better[1] < wire - 1e-6:
        chosen, wire = better
    return _packing(chosen, wire, min(bound, wire))


def _in_parts(far: Floats, weights: Sequence[int], capacity: int, spare: float, room: int) -> Packing:
    """A large railroad packed part by part, items in the order given: neighbours stay together, and every part but the
    last fills whole boards. The bound is each item's own nearest place."""
    boards = _least_boards(weights, room)
    most = math.ceil(boards / math.ceil(boards / MOST_BOARDS)) * room
    if len(set(weights)) == 1:
        most -= most // room * (room % weights[0])  # what a board cannot fill with items of this weight
    edges, held = [0], 0
    for n, weight in enumerate(weights):
        if held + weight > most:
            edges.append(n)
            held = 0
        held += weight
    edges.append(len(weights))
    chosen: Chosen = []
    for a, b in itertools.pairwise(edges):
        # Each part chooses among the places nearest to it.
        near = np.argsort(far[a:b].min(axis=0), kind="stable")[:MOST_SITES]
        found = pack(far[a:b][:, near], weights[a:b], capacity, spare)
        chosen += [(int(near[s]), [a + i for i in m]) for s, m in zip(found.sites, found.members, strict=True)]
    return _packing(*_settled(far, weights, room, chosen), float(far.min(axis=1).sum()))


def _settled(far: Floats, weights: Sequence[int], room: int, chosen: Chosen) -> tuple[Chosen, float]:
    """All boards of a large railroad at once: items shared out anew over them, boards moved to where their items are,
    in turns while that saves wire."""
    wire = _wire(far, chosen)
    for _ in range(MOST_ROUNDS):
        sites = [int(far[group].sum(axis=0).argmin()) if group else s for s, group in chosen]
        then = _shared(far, weights, room, sites)
        if then is None or (cost := _wire(far, then)) >= wire - 1e-6:
            break
        chosen, wire = then, cost
    return chosen, wire


def _least_boards(weights: Sequence[int], room: int) -> int:
    return max(1, math.ceil(sum(weights) / room))


Chosen = list[tuple[int, list[int]]]
"""Site and items of each board."""


def _packing(chosen: Chosen, wire: float, bound: float) -> Packing:
    ordered = sorted(((sorted(members), site) for site, members in chosen if members), key=lambda c: c[0])
    return Packing(
        tuple(tuple(m) for m, _ in ordered),
        tuple(s for _, s in ordered),
        wire,
        bound,
        wire - bound <= 1e-3 * max(wire, 1.0),
    )


def _greedy(far: Floats, weights: Sequence[int], room: int, boards: int) -> tuple[Chosen, float] | None:
    """Boards at sites, one exchanged for another while that saves wire, with the items shared out anew each time."""
    first = _shared(far, weights, room, [int(far.sum(axis=0).argmin())] * boards)
    if first is None:
        return None
    best, wire = first, _wire(far, first)
    for _ in range(MOST_ROUNDS):
        start = wire
        for k in range(boards):
            sites = [s for s, _ in best]
            for s in range(far.shape[1]):
                then = _shared(far, weights, room, [*sites[:k], s, *sites[k + 1 :]]) if s != sites[k] else None
                if then is not None and (cost := _wire(far, then)) < wire - 1e-6:
                    best, wire = then, cost
        if wire >= start - 1e-6:
            break
    return best, wire


def _shared(far: Floats, weights: Sequence[int], room: int, sites: list[int]) -> Chosen | None:
    """Items shared out to boards at these sites: least wire where all weigh the same, else those first that lose most
    by waiting."""
    if len(set(weights)) == 1:
        each = room // weights[0]
        slots = np.repeat(np.arange(len(sites)), each)
        rows, columns = linear_sum_assignment(far[:, np.asarray(sites)[slots]])
        groups: list[list[int]] = [[] for _ in sites]
        if len(rows) < len(weights):
            return None
        for i, c in zip(rows.tolist(), columns.tolist(), strict=True):
            groups[int(slots[c])].append(i)
        return list(zip(sites, groups, strict=True))
    near = np.sort(far[:, sites], axis=1)
    regret = near[:, min(1, near.shape[1] - 1)] - near[:, 0]
    left = [room] * len(sites)
    groups = [[] for _ in sites]
    for i in sorted(range(len(weights)), key=lambda i: (-weights[i], -regret[i])):
        k = min(
            (k for k in range(len(sites)) if left[k] >= weights[i]),
            key=lambda k: (far[i, sites[k]], -left[k]),
            default=None,
        )
        if k is None:
            return None
        groups[k].append(i)
        left[k] -= weights[i]
    return list(zip(sites, groups, strict=True))


def _wire(far: Floats, chosen: Chosen) -> float:
    return float(sum(far[i, s] for s, group in chosen for i in group))


def _programme(
    far: Floats, weights: Sequence[int], room: int, boards: int, integral: bool
) -> tuple[float, tuple[Chosen, float] | None]:
    """The capacitated median programme: its bound, and what it found. x[i, s]: item i at site s; y[s]: boards there."""
    n, m = far.shape
    cost = np.concatenate([far.ravel(), np.zeros(m)])
    each = sparse.hstack([sparse.kron(sparse.eye(n), np.ones((1, m))), sparse.csr_matrix((n, m))]).tocsr()
    load = sparse.hstack(
        [
            sparse.csr_matrix(np.kron(np.asarray(weights, dtype=float)[None, :], np.eye(m))),
            -room * sparse.eye(m),
        ]
    ).tocsr()
    # No item at a site without a board: not implied by capacity alone in the relaxation, and it lifts the bound much.
    link = sparse.hstack([sparse.eye(n * m), -sparse.kron(np.ones((n, 1)), sparse.eye(m))]).tocsr()
    total = sparse.hstack([sparse.csr_matrix((1, n * m)), np.ones((1, m))]).tocsr()
    upper = np.concatenate([np.ones(n * m), np.full(m, boards)])
    if not integral:
        found = linprog(
            cost,
            A_ub=sparse.vstack([load, link]),
            b_ub=np.zeros(m + n * m),
            A_eq=sparse.vstack([each, total]),
            b_eq=np.concatenate([np.ones(n), [boards]]),
            bounds=list(zip(np.zeros_like(upper), upper, strict=True)),
            method="highs",
        )
        return (float(found.fun) if found.fun is not None else 0.0), None
    rows = [
        LinearConstraint(each, 1, 1),
        LinearConstraint(load, -np.inf, 0),
        LinearConstraint(link, -np.inf, 0),
        LinearConstraint(total, boards, boards),
    ]
    found = milp(
        cost, integrality=np.ones(len(cost)), bounds=Bounds(0, upper), constraints=rows, options={"time_limit": SECONDS}
    )
    bound = (
        float(found.mip_dual_bound) if found.mip_dual_bound is not None and math.isfinite(found.mip_dual_bound) else 0.0
    )
    if found.x is None:
        return bound, None
    at = found.x[: n * m].reshape(n, m).argmax(axis=1)
    counts = np.rint(found.x[n * m :]).astype(int)
    chosen: Chosen = []
    for s in range(m):
        mine = [i for i in range(n) if at[i] == s]
        shares: list[list[int]] = [[] for _ in range(max(counts[s], 1))]
        for i in sorted(mine, key=lambda i: -weights[i]):
            host = next((g for g in shares if sum(weights[k] for k in g) + weights[i] <= room), None)
            if host is None:
                return bound, None  # what fits by weight does not fit by pieces
            host.append(i)
        chosen += [(s, g) for g in shares if g]
    return bound, (chosen, _wire(far, chosen))
