"""Odd cycles: ways round on which a train comes back facing the other way, so that its left rail meets its right.

The chain graph is a signed graph: vertices are cores, edges chains with a sign. A cycle is odd when the product of its
signs is −1. No odd cycle exists exactly when the cores can be coloured in two so that every chain agrees (Harary,
1953: balance of signed graphs; from memory).
"""

from __future__ import annotations

import heapq
from collections import defaultdict, deque
from collections.abc import Callable, Collection
from dataclasses import dataclass

from jolly_copper.core.rails.ways import Core, TrackEnd, Ways

Part = dict[Core, tuple[tuple[int, Core, int], ...]]


@dataclass(frozen=True)
class Cycle:
    """Chains in order round a cycle, with the core each one is entered from."""

    chains: tuple[int, ...]
    cores: tuple[Core, ...]


@dataclass(frozen=True)
class SignedGraph:
    """Cores joined by chains. Links: per core (chain, far core, sign); rings and dead ends are left out."""

    links: dict[Core, tuple[tuple[int, Core, int], ...]]

    @staticmethod
    def of(ways: Ways, without: Collection[int] = ()) -> SignedGraph:
        """The graph of a layout's chains, some of them taken away."""
        links: dict[Core, list[tuple[int, Core, int]]] = defaultdict(list)
        for number, chain in enumerate(ways.chains):
            u, v = ways.core_of[chain.start], ways.core_of[chain.finish]
            if number in without or chain.ring or not ways.branches(u) or not ways.branches(v):
                continue
            links[u].append((number, v, chain.sign))
            if u != v:
                links[v].append((number, u, chain.sign))
        return SignedGraph({c: tuple(sorted(ls)) for c, ls in sorted(links.items())})

    def without(self, gone: Collection[int], cores: Collection[Core] = ()) -> SignedGraph:
        """The graph with these chains and cores taken away."""
        return SignedGraph(
            {
                c: tuple(link for link in ls if link[0] not in gone and link[1] not in cores)
                for c, ls in self.links.items()
                if c not in cores
            }
        )

    def colour(self) -> tuple[dict[Core, int], list[int]]:
        """±1 for every core, and the chains that cannot agree. Breadth first, so linear in the size of the plan."""
        found: dict[Core, int] = {}
        frustrated: set[int] = set()
        for first in self.links:
            if first in found:
                continue
            found[first] = 1
            edge = deque([first])
            while edge:
                core = edge.popleft()
                for chain, far, sign in self.links[core]:
                    if far not in found:
                        found[far] = found[core] * sign
                        edge.append(far)
                    elif found[far] != found[core] * sign:
                        frustrated.add(chain)
        return found, sorted(frustrated)

    def odd_cycle_through(self, chain: int, weight: Callable[[int], float]) -> Cycle | None:
        """The lightest odd cycle found through this chain, or an odd part of it where it crosses itself.

        Dijkstra over (core, sign so far) from one end of the chain back to its other end.
        """
        start = next(((c, far, s) for c, ls in self.links.items() for n, far, s in ls if n == chain), None)
        if start is None:
            return None
        u, v, own = start
        if u == v:
            return Cycle((chain,), (u,)) if own == -1 else None
        goal, source = (v, -own), (u, 1)
        best: dict[tuple[Core, int], float] = {source: 0.0}
        came: dict[tuple[Core, int], tuple[tuple[Core, int], int]] = {}
        queue: list[tuple[float, tuple[Core, int]]] = [(0.0, source)]
        while queue:
            far_so, state = heapq.heappop(queue)
            if state == goal:
                break
            if far_so > best[state]:
                continue
            core, sign = state
            for number, other, link_sign in self.links.get(core, ()):
                if number == chain:
                    continue
                then = (other, sign * link_sign)
                cost = far_so + weight(number) + 1e-6
                if cost < best.get(then, float("inf")) - 1e-12:
                    best[then] = cost
                    came[then] = (state, number)
                    heapq.heappush(queue, (cost, then))
        if goal not in came:
            return None
        steps: list[tuple[Core, int]] = []
        state = goal
        while state != source:
            state, number = came[state]
            steps.append((state[0], number))
        steps.reverse()
        return self._odd_part([*steps, (v, chain)])

    def _odd_part(self, steps: list[tuple[Core, int]]) -> Cycle:
        """Where a closed walk visits a core twice, keep the half that is odd."""
        signs = {n: s for ls in self.links.values() for n, _, s in ls}
        again = True
        while again:
            again = False
            seen: dict[Core, int] = {}
            for k, (core, _) in enumerate(steps):
                if core in seen:
                    inner = steps[seen[core] : k]
                    product = 1
                    for _, number in inner:
                        product *= signs[number]
                    steps = inner if product == -1 else steps[: seen[core]] + steps[k:]
                    again = True
                    break
                seen[core] = k
        return Cycle(tuple(n for _, n in steps), tuple(c for c, _ in steps))


def some_odd_cycles(graph: SignedGraph, weight: Callable[[int], float]) -> list[Cycle]:
    """For every chain that a colouring cannot satisfy, the lightest odd cycle through it; none when there is no
    conflict."""
    _, frustrated = graph.colour()
    found: dict[tuple[int, ...], Cycle] = {}
    for chain in frustrated:
        cycle = graph.odd_cycle_through(chain, weight)
        if cycle is not None:
            found.setdefault(tuple(sorted(cycle.chains)), cycle)
    return list(found.values())


def cusps(ways: Ways, cycle: Cycle) -> list[Core]:
    """The cores where a cycle uses two track ends of one side: where a train going round would have to back."""
    found = []
    for k, core in enumerate(cycle.cores):
        before, after = cycle.chains[k - 1], cycle.chains[k]
        into, out = _ends_at(ways, core, before), _ends_at(ways, core, after)
        if before == after:  # a loop of one chain: its two ends
            sides = [ways.enters[e] for e in into]
        else:
            sides = [ways.enters[into[0]], ways.enters[out[0]]]
            if len(into) > 1 or len(out) > 1:
                continue
        if sides[0] == sides[-1] and len(sides) > 1:
            found.append(core)
    return found


def _ends_at(ways: Ways, core: Core, number: int) -> list[TrackEnd]:
    chain = ways.chains[number]
    return [e for e in (chain.start, chain.finish) if ways.core_of[e] == core]


def blocks(graph: SignedGraph) -> list[Part]:
    """The parts of a graph that hang together by ways round: what is left once every chain on no way round is gone.

    Bridges by lowlink (Tarjan, 1974; from memory), then connected components.
    """
    order: dict[Core, int] = {}
    low: dict[Core, int] = {}
    bridges: set[int] = set()
    for root in graph.links:
        if root in order:
            continue
        order[root] = low[root] = len(order)
        stack = [(root, -1, iter(graph.links[root]))]
        while stack:
            core, came, links = stack[-1]
            step = next(links, None)
            if step is None:
                stack.pop()
                if stack:
                    above = stack[-1][0]
                    low[above] = min(low[above], low[core])
                    if low[core] > order[above]:
                        bridges.add(came)
                continue
            number, far, _ = step
            if number == came:
                continue
            if far in order:
                low[core] = min(low[core], order[far])
            else:
                order[far] = low[far] = len(order)
                stack.append((far, number, iter(graph.links[far])))
    return _connected(graph.without(bridges))


def _connected(graph: SignedGraph) -> list[Part]:
    seen: set[Core] = set()
    found = []
    for first in graph.links:
        if first in seen:
            continue
        part, edge = [], [first]
        seen.add(first)
        while edge:
            core = edge.pop()
            part.append(core)
            for _, far, _ in graph.links[core]:
                if far not in seen:
                    seen.add(far)
                    edge.append(far)
        found.append({c: graph.links[c] for c in sorted(part)})
    return found
