"""Choosing the cheapest things that meet every one of a growing list of demands (implicit hitting set)."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence

import numpy as np
from scipy import sparse
from scipy.optimize import Bounds, LinearConstraint, milp

NO_WAY = 1e5
"""What leaving a demand unmet costs: more than any choice."""


def cheapest(
    costs: Sequence[float],
    unmet: Callable[[Collection[int]], list[frozenset[int]]],
    exclusive: Collection[tuple[int, int]] = (),
    fixed: dict[int, bool] | None = None,
    banned: Collection[tuple[frozenset[int], int]] = (),
) -> tuple[list[int], list[frozenset[int]]]:
    """The cheapest choice that leaves no demand unmet, by adding demands until the best choice meets them all.

    Every demand added must be met by every right answer, so the first choice that leaves none unmet is optimal.

    Args:
        costs: per option.
        unmet: given the options chosen, demands they leave unmet: each the set of options that would meet it.
        exclusive: pairs that may not both be chosen.
        fixed: options the person decided: taken (true) or refused (false).
        banned: sets of options of which no more than so many may be chosen (for the next best answer).

    Returns:
        The options chosen, and the demands nothing may meet (no room).
    """
    demands: list[frozenset[int]] = []
    hopeless: list[frozenset[int]] = []
    chosen: list[int] = []
    known: set[frozenset[int]] = set()
    while True:
        fresh = [d for d in unmet(chosen) if d not in known]
        if not fresh:
            return chosen, hopeless
        for demand in fresh:
            known.add(demand)
            demands.append(demand)
        chosen, slack = _solve(costs, demands, exclusive, fixed or {}, banned)
        hopeless = [demands[k] for k in slack]


def _solve(
    costs: Sequence[float],
    demands: list[frozenset[int]],
    exclusive: Collection[tuple[int, int]],
    fixed: dict[int, bool],
    banned: Collection[tuple[frozenset[int], int]],
) -> tuple[list[int], list[int]]:
    options, extra = len(costs), len(demands)
    rows: list[int] = []
    columns: list[int] = []
    values: list[float] = []
    low: list[float] = []
    high: list[float] = []

    def row(entries: list[tuple[int, float]], at_least: float, at_most: float) -> None:
        rows.extend([len(low)] * len(entries))
        columns.extend(c for c, _ in entries)
        values.extend(v for _, v in entries)
        low.append(at_least)
        high.append(at_most)

    for k, demand in enumerate(demands):
        row([*((o, 1.0) for o in sorted(demand)), (options + k, 1.0)], 1, np.inf)
    for a, b in sorted(exclusive):
        row([(a, 1.0), (b, 1.0)], -np.inf, 1)
    for choice, most in banned:
        row([(o, 1.0) for o in sorted(choice)], -np.inf, most)
    lower, upper = np.zeros(options + extra), np.ones(options + extra)
    for option, taken in fixed.items():
        lower[option] = upper[option] = 1.0 if taken else 0.0
    matrix = sparse.csr_matrix((values, (rows, columns)), shape=(len(low), options + extra))
    answer = milp(
        np.r_[np.asarray(costs, dtype=float), np.full(extra, NO_WAY)],
        constraints=LinearConstraint(matrix, low, high),
        bounds=Bounds(lower, upper),
        integrality=np.ones(options + extra),
        # The solver's usual gap, 0.01 % of the whole, is wider than the difference between two places.
        options={"mip_rel_gap": 0.0},
    )
    if answer.x is None:  # what the person fixed cannot stand together
        return [o for o, taken in fixed.items() if taken], list(range(extra))
    picked = np.flatnonzero(answer.x > 0.5)
    return [int(p) for p in picked if p < options], [int(p) - options for p in picked if p >= options]
