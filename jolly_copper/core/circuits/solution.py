"""The solved network: transfer resistances between every two places a train may stand.

Each connected part of the network that holds a source is solved once: G is its grounded Laplacian with every source
as a Norton pair (conductance 1/r between its terminals, current V/r into them). With R = G⁻¹ and u_p the vector that
takes the difference between the rails at p, a train of I amperes at q lowers the volts at p by Z_pq·I,
Z_pq = u_pᵀ R u_q plus, when p and q stand in one span, the span's own share min(α,β)·(1 − max(α,β))·R_span
for each rail. This is exact for the model, also with a crossed feeder or a common rail: the two conductors are never
assumed to be apart. See docs/formulas.md.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import sparse

from jolly_copper.core.circuits.inverse import Inverse, invert
from jolly_copper.core.circuits.memo import MEMO, digest
from jolly_copper.core.circuits.network import Network, Source
from jolly_copper.core.circuits.points import Floats, Ints, Points

ELEMENTS_AT_ONCE = 512
"""Currents are worked out for so many elements at a time, so that memory does not grow with points × elements."""


@dataclass(frozen=True)
class Island:
    """One connected part of the network with at least one source, solved.

    elements: numbers in `network.elements`. resistance: R with a zero row and column for the ground node.
    local: node number in the network → row of `resistance`, or −1 outside. key: a digest of all that went in.
    loops: M = Σ (L_e/R_e²)·(e_a − e_b)(e_a − e_b)ᵀ, so that uᵀ(R·M·R)u is the inductance a current drawn
    at p meets, H.
    open_volts_by_node: (nodes,) V with no load, against the ground node.
    """

    sources: tuple[Source, ...]
    elements: Ints
    ends: Ints
    ohms: Floats
    henries: Floats
    local: Ints
    resistance: Inverse
    loops: sparse.csr_matrix
    open_volts_by_node: Floats
    key: bytes

    def holds(self, points: Points) -> NDArray[np.bool_]:
        """Which points have all four span ends in this island (both rails reach a source)."""
        return np.asarray((self.local[points.nodes] >= 0).all(axis=1))

    def pick(self, points: Points) -> sparse.csr_matrix:
        """U, one row u_p for each point: it takes the difference of the rails from a vector of node volts."""
        s, ones = points.share[:, None], np.ones((len(points), 1))
        weights = np.hstack([(1 - s) * ones, s * ones, (s - 1) * ones, -s * ones])
        starts = np.arange(0, 4 * len(points) + 1, 4)
        nodes = self.local[points.nodes].ravel()
        return sparse.csr_matrix((weights.ravel(), nodes, starts), shape=(len(points), self.resistance.size + 1))

    def reach(self, points: Points, inductive: bool = False) -> Floats:
        """Rows of R seen from each point: u_pᵀR, shape (N, nodes), Ω; or of R·M·R, H."""
        rows = self.resistance.rows(self.pick(points))
        return self.resistance.columns(np.asarray(self.loops @ rows.T)).T if inductive else rows

    def between(self, reach: Floats, points: Points) -> Floats:
        """u_qᵀ applied to rows of R: shape (rows, N). Ω, without the span's own share."""
        return np.ascontiguousarray((self.pick(points) @ reach.T).T)

    def open_volts(self, points: Points) -> Floats:
        """Volts between the rails at each point with no load on the network."""
        return np.asarray(self.between(self.open_volts_by_node[None, :], points)[0])

    def shares(self, reach: Floats, which: slice = slice(None)) -> Floats:
        """Current in each element for 1 A drawn at each point: shape (rows, elements), signed from `a` to `b`.

        For the span a point itself stands in this is the mean over the span; the rest is `own_share`.
        """
        ends = self.ends[which]
        found = reach[:, ends[:, 0]]
        found -= reach[:, ends[:, 1]]
        found /= self.ohms[which][None, :]
        return np.asarray(found)

    def pieces(self) -> Iterator[slice]:
        """Elements, some at a time."""
        for start in range(0, len(self.ends), ELEMENTS_AT_ONCE):
            yield slice(start, start + ELEMENTS_AT_ONCE)

    def between_nodes(self, a: int, b: int) -> Floats:
        """R·(e_a − e_b): volts everywhere for 1 A from one node to another. Shape (nodes,)."""
        drawn = np.zeros(self.resistance.size + 1)
        drawn[a] += 1
        drawn[b] -= 1
        return self.resistance.columns(drawn)


def own_share(p: Points, q: Points, per_span: Floats) -> Floats:
    """What two points in one span add beyond the span's ends: 2·min(α,β)·(1 − max(α,β))·per_span.
    Shape (P, Q).

    `per_span` is the span's Ω (or H) of one rail, for each point of p; both rails carry it.
    """
    low = np.minimum(p.share[:, None], q.share[None, :])
    high = np.maximum(p.share[:, None], q.share[None, :])
    return np.where(p.span[:, None] == q.span[None, :], 2 * low * (1 - high) * per_span[:, None], 0.0)


def add_own_share(matrix: Floats, points: Points, per_span: Floats) -> None:
    """Add `own_share` of points with themselves to a square matrix, in place.

    Points come in order of their spans, so the pairs that share one are blocks along the diagonal: touching only
    those is some fifty times quicker than the full square.
    """
    starts = np.flatnonzero(np.r_[True, points.span[1:] != points.span[:-1]])
    sizes = np.diff(np.r_[starts, len(points)])
    row = np.repeat(np.arange(len(points)), np.repeat(sizes, sizes))
    first = np.repeat(starts, sizes)  # of each point's block
    width = np.repeat(sizes, sizes)
    column = np.arange(len(row)) - np.repeat(np.cumsum(width) - width, width) + np.repeat(first, width)
    a, b = points.share[row], points.share[column]
    matrix[row, column] += 2 * np.minimum(a, b) * (1 - np.maximum(a, b)) * per_span[row]


def solve(network: Network) -> tuple[Island, ...]:
    """Solve every connected part of a network that holds a source.

    Args:
        network: from `assemble`.

    Returns:
        One `Island` each, in order of their first source. Parts without a source are left out (their track is dead:
        a finding, never a singular matrix).
    """
    elements, label = network.elements, network.part_of_node
    if not network.sources:
        return ()
    ends = np.array([(e.a, e.b) for e in elements], dtype=np.int64).reshape(-1, 2)
    ohms = np.array([e.ohms for e in elements])
    henries = np.array([e.henries for e in elements])
    by_label: dict[int, list[Source]] = {}
    for source in network.sources:
        by_label.setdefault(int(label[source.a]), []).append(source)
    return tuple(
        _solve_island(tuple(sources), np.flatnonzero(label[ends[:, 0]] == k), ends, ohms, henries, label == k)
        for k, sources in by_label.items()
    )


def _solve_island(
    sources: tuple[Source, ...],
    rows: Ints,
    ends: Ints,
    ohms: Floats,
    henries: Floats,
    inside: NDArray[np.bool_],
) -> Island:
    ground = sources[0].b
    local = np.full(len(inside), -1, dtype=np.int64)
    members = np.flatnonzero(inside)
    members = members[members != ground]
    size = len(members)
    local[members] = np.arange(size)
    local[ground] = size  # the padded zero row
    here = local[ends[rows]]
    g = 1 / ohms[rows]
    i, j = here[:, 0], here[:, 1]
    laplacian = sparse.coo_matrix(
        (np.concatenate([g, g, -g, -g]), (np.concatenate([i, j, i, j]), np.concatenate([i, j, j, i]))),
        shape=(size + 1, size + 1),
    ).tocsc()[:size, :size]
    drive = np.zeros(size + 1)
    for source in sources:
        norton = source.volts / ohms[source.element]
        drive[local[source.a]] += norton
        drive[local[source.b]] -= norton
    key = digest(here, ohms[rows], henries[rows], drive)

    def work() -> tuple[Inverse, sparse.csr_matrix, Floats]:
        found = invert(laplacian)
        return found, _loops(here, henries[rows] * g * g, size + 1), found.columns(drive)

    resistance, loops, open_volts = MEMO.answer(key, work, lambda w: w[0].nbytes + 12 * w[1].nnz + w[2].nbytes)
    return Island(sources, rows, here, ohms[rows], henries[rows], local, resistance, loops, open_volts, key)


def _loops(here: Ints, weight: Floats, size: int) -> sparse.csr_matrix:
    """M, see `Island`."""
    i, j = here[:, 0], here[:, 1]
    values = np.concatenate([weight, weight, -weight, -weight])
    places = (np.concatenate([i, j, i, j]), np.concatenate([i, j, j, i]))
    return sparse.coo_matrix((values, places), shape=(size, size)).tocsr()
