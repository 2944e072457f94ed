"""A near-minimal tree in a graph that joins chosen places."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence

import numpy as np
from scipy import sparse
from scipy.sparse import csgraph

from jolly_copper.core.rails.pieces import Joined

Tree = dict[int, list[int]]
"""Neighbours of each place of a tree."""


def near_minimal_tree(cost: sparse.csr_matrix, ends: Sequence[int]) -> Tree:
    """A tree that joins these places, never more than 2·(1 − 1/k) times the shortest one for k places.

    Mehlhorn's way: shortest ways out of all places at once part the graph into regions; the cheapest crossings between
    regions make a spanning tree of the places; what it uses is spanned once more and bare twigs are cut off.

    Args:
        cost: symmetric, what a step between two neighbours costs.
        ends: the places to join; those out of reach of the first are left out.

    Source: K. Mehlhorn, A faster approximation algorithm for the Steiner problem in graphs (1988), from memory.
    """
    wanted = list(dict.fromkeys(ends))
    if len(wanted) < 2:
        return {e: [] for e in wanted}
    far, before, owner = csgraph.dijkstra(cost, directed=False, indices=wanted, min_only=True, return_predecessors=True)
    upper = sparse.triu(cost).tocoo()
    a, b, w = upper.row, upper.col, upper.data
    crossing = np.flatnonzero((owner[a] != owner[b]) & np.isfinite(far[a]) & np.isfinite(far[b]))
    total = far[a[crossing]] + w[crossing] + far[b[crossing]]
    joined, steps = Joined(), set[tuple[int, int]]()
    for k in crossing[np.lexsort((b[crossing], a[crossing], total))].tolist():
        one, other = int(a[k]), int(b[k])
        if joined.find(int(owner[one])) == joined.find(int(owner[other])):
            continue
        joined.join(int(owner[one]), int(owner[other]))
        steps.add((one, other))
        for at in (one, other):
            while far[at] > 0:
                steps.add((min(at, int(before[at])), max(at, int(before[at]))))
                at = int(before[at])
    return _pruned(_spanned(cost, steps), set(wanted), wanted[0])


def _spanned(cost: sparse.csr_matrix, steps: set[tuple[int, int]]) -> Tree:
    joined, tree = Joined(), defaultdict(list)
    for one, other in sorted(steps, key=lambda s: (cost[s[0], s[1]], s)):
        if joined.find(one) != joined.find(other):
            joined.join(one, other)
            tree[one].append(other)
            tree[other].append(one)
    return dict(tree)


def _pruned(tree: Tree, wanted: set[int], root: int) -> Tree:
    """Without twigs that lead to no wanted place, and without what the root cannot reach."""
    bare = [p for p, near in tree.items() if len(near) == 1 and p not in wanted]
    while bare:
        place = bare.pop()
        for other in tree.pop(place):
            tree[other].remove(place)
            if len(tree[other]) == 1 and other not in wanted:
                bare.append(other)
    reached, edge = {root}, [root]
    while edge:
        for other in tree.get(edge.pop(), ()):
            if other not in reached:
                reached.add(other)
                edge.append(other)
    return {p: near for p, near in tree.items() if p in reached} or {root: []}


def tree_cost(cost: sparse.csr_matrix, tree: Tree) -> float:
    """What all steps of a tree cost together."""
    return float(sum(cost[a, b] for a, near in tree.items() for b in near if a < b))
