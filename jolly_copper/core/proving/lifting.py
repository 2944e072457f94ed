"""What changes when elements are lifted out of a solved network: a change of low rank, never a new inverse."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from jolly_copper.core.circuits.points import Floats
from jolly_copper.core.circuits.solution import Island
from jolly_copper.core.proving.copper import Ground

WORSE = 1e6
"""A lifted element is a million times worse: nothing gets singular."""
MOST_COPPER = 500.0
"""Ω no way through copper has: what reads more are the lifted sources themselves, a million times worse."""


class Lifted:
    """R with some elements lifted, for any columns that were solved before.

    R' = R + R·D·(diag(1/Δg) − DᵀR·D)⁻¹·Dᵀ·R, with Δg = g·(1 − 10⁻⁶) for each lifted element and
    D their ends (Woodbury's identity).
    """

    def __init__(self, island: Island, elements: Sequence[int]) -> None:
        self._ends = island.ends[list(elements)]
        size = island.resistance.size + 1
        drawn = np.zeros((size, len(elements)))
        rows = np.arange(len(elements))
        drawn[self._ends[:, 0], rows] += 1
        drawn[self._ends[:, 1], rows] -= 1
        self._reach = island.resistance.columns(drawn)
        inner = self._across(self._reach)
        ohms = island.ohms[list(elements)]
        self._core = np.linalg.inv(np.diag(ohms / (1 - 1 / WORSE)) - inner)

    def _across(self, columns: Floats) -> Floats:
        return np.asarray(columns[self._ends[:, 0]] - columns[self._ends[:, 1]])

    def columns(self, solved: Floats) -> Floats:
        """R'·X from R·X. Shapes (nodes, k) or (nodes,)."""
        return np.asarray(solved + self._reach @ (self._core @ self._across(solved)))


def without_sources(ground: Ground, a: int, b: int) -> float:
    """Ω between two nodes with every source unplugged; infinite where nothing else joins them."""
    island = ground.island
    sources = [n for n, e in enumerate(ground.elements) if e.kind == "source"]
    solved = island.between_nodes(a, b)
    if sources:
        solved = Lifted(island, sources).columns(solved)
    ohms = float(solved[a] - solved[b])
    return ohms if ohms < MOST_COPPER else np.inf
