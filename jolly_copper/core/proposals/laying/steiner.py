"""A near-minimal tree in a graph that joins chosen places."""

from __future__ import annotations

import itertools
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


def shallow(cost: sparse.csr_matrix, tree: Tree, root: int, ends: Sequence[int], stretch: float) -> Tree:
    """A tree through the same ends in which none is farther from the root than `stretch` times its shortest way.

    A minimal tree may reach its last end by a long way round, and volts are lost by the way, not by the whole. Walking
    the tree, a place that has become too far is tied by its shortest way to the root. Costs at most
    1 + 2/(stretch − 1) times the tree given, in practice a few per cent.

    Source: S. Khuller, B. Raghavachari, N. Young, Balancing minimum spanning trees and shortest-path trees (1995), from
    memory.
    """
    least, before = csgraph.dijkstra(cost, directed=False, indices=root, return_predecessors=True)
    far: dict[int, float] = {root: 0.0}
    parent: dict[int, int] = {}

    def relax(a: int, b: int) -> None:
        then = far[a] + float(cost[a, b])
        if then < far.get(b, np.inf) - 1e-9:
            far[b], parent[b] = then, a

    def tie(place: int) -> None:
        way = [place]
        while way[-1] != root:
            way.append(int(before[way[-1]]))
        for a, b in itertools.pairwise(reversed(way)):
            relax(a, b)

    stack = [(root, iter(sorted(tree.get(root, ()), key=lambda n: least[n])))]
    seen = {root}
    while stack:
        place, following = stack[-1]
        other = next((n for n in following if n not in seen), None)
        if other is None:
            stack.pop()
            if stack:
                relax(place, stack[-1][0])
            continue
        seen.add(other)
        relax(place, other)
        if far[other] > stretch * least[other] + 1e-9:
            tie(other)
        stack.append((other, iter(sorted(tree[other], key=lambda n: least[n]))))
    found: dict[int, list[int]] = defaultdict(list)
    for end in ends:
        at = end
        while at != root and at in parent and parent[at] not in found[at]:
            found[at].append(parent[at])
            found[parent[at]].append(at)
            at = parent[at]
    return dict(found) or {root: []}


def tree_cost(cost: sparse.csr_matrix, tree: Tree) -> float:
    """What all steps of a tree cost together."""
    return float(sum(cost[a, b] for a, near in tree.items() for b in near if a < b))
