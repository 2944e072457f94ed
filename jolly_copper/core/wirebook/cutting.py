"""Cutting pieces of wire from spools with the least waste."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.optimize import Bounds, LinearConstraint, milp

MOST_EXACT = 26
"""Pieces up to which a programme is asked whether fewer spools would do."""
SECONDS = 2.0


@dataclass(frozen=True)
class Cut:
    """What is cut from one spool: numbers of pieces in the order given, and what is left over, mm. owned: on hand
    already."""

    spool: float
    pieces: tuple[int, ...]
    left: float
    owned: bool


@dataclass(frozen=True)
class CuttingPlan:
    """cuts: spool by spool. exact: no fewer new spools will do. too_long: pieces no spool holds, to be joined or bought
    by the metre."""

    cuts: tuple[Cut, ...]
    exact: bool
    too_long: tuple[int, ...]

    @property
    def new_spools(self) -> int:
        return sum(not c.owned for c in self.cuts)


def cut_spools(lengths: Sequence[float], spool: float, on_hand: Sequence[float] = ()) -> CuttingPlan:
    """Which pieces to cut from which spool, so that the fewest new spools are opened.

    What is on hand is used first. Longest pieces first, each into the fullest spool that still holds it; the count is
    proved by the sum of lengths, or by an integer programme where there are few pieces.

    Args:
        lengths: of the pieces, mm.
        spool: length of a new one, mm.
        on_hand: lengths of what is there already, mm.

    >>> plan = cut_spools([6, 5, 5, 4], 10)
    >>> [c.pieces for c in plan.cuts], plan.exact
    ([(0, 3), (1, 2)], True)
    """
    largest = max([spool, *on_hand])
    too_long = tuple(k for k, x in enumerate(lengths) if x > largest + 1e-6)
    todo = sorted((k for k, x in enumerate(lengths) if k not in too_long), key=lambda k: (-lengths[k], k))
    room = sorted(on_hand)
    owned = len(room)
    bins: list[list[int]] = [[] for _ in room]
    sizes = list(room)
    for k in todo:
        fitting = [n for n, left in enumerate(room) if left >= lengths[k] - 1e-6]
        if not fitting:
            room.append(spool)
            sizes.append(spool)
            bins.append([])
            fitting = [len(room) - 1]
        n = min(fitting, key=lambda n: (n >= owned, room[n], n))
        room[n] -= lengths[k]
        bins[n].append(k)
    new = len(bins) - owned
    total = sum(lengths[k] for k in todo)
    least = max(0, math.ceil((total - sum(sizes[:owned])) / spool - 1e-9))
    exact = new <= least
    if not exact and len(todo) <= MOST_EXACT:
        fewer = _exactly([lengths[k] for k in todo], sizes[:owned], spool, new - 1)
        if fewer is None:
            exact = True
        else:
            bins = [[todo[k] for k in members] for members in fewer]
            sizes = sizes[:owned] + [spool] * (len(bins) - owned)
            exact = (
                len(bins) - owned <= least
                or _exactly([lengths[k] for k in todo], sizes[:owned], spool, len(bins) - owned - 1) is None
            )
    cuts = tuple(
        Cut(sizes[n], tuple(members), sizes[n] - sum(lengths[k] for k in members), n < owned)
        for n, members in enumerate(bins)
        if members
    )
    return CuttingPlan(cuts, exact, too_long)


def _exactly(lengths: list[float], owned: list[float], spool: float, most: int) -> list[list[int]] | None:
    """The pieces in what is on hand and at most so many new spools; None where they do not go in (or none was found in
    time)."""
    sizes = [*owned, *[spool] * most]
    items, count = len(lengths), len(sizes)
    if count == 0 or sum(lengths) > sum(sizes) + 1e-6:
        return None
    # x[k, n]: piece k from spool n.
    each = np.zeros((items, items * count))
    load = np.zeros((count, items * count))
    for k in range(items):
        each[k, k * count : (k + 1) * count] = 1
        for n in range(count):
            load[n, k * count + n] = lengths[k]
    found = milp(
        np.zeros(items * count),
        integrality=np.ones(items * count),
        bounds=Bounds(0, 1),
        constraints=[LinearConstraint(each, 1, 1), LinearConstraint(load, 0, np.array(sizes))],
        options={"time_limit": SECONDS},
    )
    if found.x is None:
        return None
    chosen = found.x.reshape(items, count).argmax(axis=1)
    return [[k for k in range(items) if chosen[k] == n] for n in range(count)]
