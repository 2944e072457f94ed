"""Every place where a train can come back on itself, one by one, with its kind in the trade's words."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass, replace
from typing import Literal

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.rails.hitting import cheapest
from jolly_copper.core.rails.odd_cycles import Cycle, SignedGraph, blocks, cusps, some_odd_cycles
from jolly_copper.core.rails.ways import ENDS, Core, TrackEnd, Ways

Kind = Literal[
    "balloon loop", "dogbone", "wye", "star", "return cut-off", "diagonal", "turntable loop", "traverser loop"
]
SHORT_LINK = 0.25
"""A link under this share of the way round is a cut-off; a longer one a diagonal. Only lengths tell them apart."""


@dataclass(frozen=True)
class Conflict:
    """A way round on which left rail meets right rail.

    at: the node where a train that went round stands facing the other way (the first cusp). tracks: the way round, in
    order. link: the chain that, parted, would end it.
    """

    kind: Kind
    at: str
    tracks: tuple[str, ...]
    link: tuple[str, ...]
    cusps: tuple[str, ...]
    length: float
    chains: tuple[int, ...]


def find_conflicts(layout: Layout, ways: Ways) -> list[Conflict]:
    """Independent conflicts of the plan: the fewest chains that meet every odd cycle, each with a cycle of its own.

    Args:
        layout: the document.
        ways: from `map_ways(layout)`.
    """
    graph = SignedGraph.of(ways)
    if not graph.colour()[1]:
        return []

    # One each, and among equals the plainer track: a chain with joints only rather than the ladder of a yard.
    longest = max((c.length for c in ways.chains), default=1.0)
    costs = [1.0 + 1e-3 * (1 - c.length / longest) for c in ways.chains]
    found = []
    for part in blocks(graph):
        block = SignedGraph(part)
        if block.colour()[1]:
            found += _in_block(layout, ways, block, costs)
    return _dogbones(ways, sorted(found, key=lambda c: (c.at, c.tracks)))


def _in_block(layout: Layout, ways: Ways, graph: SignedGraph, costs: list[float]) -> list[Conflict]:
    """The conflicts of one part whose ways round share no chain with any other part."""

    def length(number: int) -> float:
        return ways.chains[number].length

    chains = sorted({n for links in graph.links.values() for n, _, _ in links})
    if len(chains) == len(graph.links):  # a single way round: nothing to choose but its plainest chain
        chain = min(chains, key=lambda n: (costs[n], n))
        cycle = graph.odd_cycle_through(chain, length)
        return [_name(layout, ways, cycle, chain, set(chains))] if cycle else []

    def unmet(chosen: Collection[int]) -> list[frozenset[int]]:
        return [frozenset(c.chains) for c in some_odd_cycles(graph.without(set(chosen)), length)]

    chosen, _ = cheapest(costs, unmet)
    found = []
    for chain in sorted(chosen):
        cycle = graph.without(set(chosen) - {chain}).odd_cycle_through(chain, length)
        if cycle is not None:
            found.append(_name(layout, ways, cycle, chain, set(chains)))
    return found


def _name(layout: Layout, ways: Ways, cycle: Cycle, link: int, block: set[int]) -> Conflict:
    kinds = {layout.nodes[ways.core_of[e].node].kind for n in cycle.chains for e in _ends_along(ways, n)}
    at = cusps(ways, cycle)
    length = sum(ways.chains[n].length for n in cycle.chains)
    kind: Kind
    if "turntable" in kinds:
        kind = "turntable loop"
    elif "traverser" in kinds:
        kind = "traverser loop"
    elif len(at) == 3:
        kind = "wye"
    elif len(at) > 3:
        kind = "star"
    elif not at or not _comes_back(ways, cycle, at[0], block):
        kind = "balloon loop"
    else:
        # The link joins two places of a longer way round; the rest of that way need not be on this cycle.
        rest = length - ways.chains[link].length
        kind = "return cut-off" if ways.chains[link].length < SHORT_LINK * rest else "diagonal"
    where = at[0] if at else cycle.cores[0]
    return Conflict(
        kind,
        where.node,
        _in_order(ways, cycle, where),
        ways.chains[link].names,
        tuple(c.node for c in at),
        length,
        cycle.chains,
    )


def _ends_along(ways: Ways, number: int) -> list[TrackEnd]:
    return [TrackEnd(t, end) for t in ways.chains[number].names for end in ENDS]


def _in_order(ways: Ways, cycle: Cycle, first: Core) -> tuple[str, ...]:
    """Tracks in the order a train meets them, leaving the place named first."""
    k = cycle.cores.index(first)
    order = [*range(k, len(cycle.chains)), *range(k)]
    names: list[str] = []
    for i in order:
        chain = ways.chains[cycle.chains[i]]
        forward = ways.core_of[chain.start] == cycle.cores[i]
        names.extend(chain.names if forward else reversed(chain.names))
    return tuple(names)


def _comes_back(ways: Ways, cycle: Cycle, cusp: Core, block: set[int]) -> bool:
    """Whether the approach to the cusp leads to the loop again by another way: then it lies on a way round itself."""
    loop = set(cycle.chains)
    ends = [e for side in ways.ends[cusp] for e in side]
    used = [ways.enters[e] for e in ends if ways.chain_of[e.track] in loop]
    approach = ways.ends[cusp][1] if used and used[0] else ways.ends[cusp][0]
    return any(ways.chain_of[e.track] in block - loop for e in approach)


def _dogbones(ways: Ways, found: list[Conflict]) -> list[Conflict]:
    """Two balloon loops whose approaches meet with nothing else between make a dogbone."""
    loops = {c.at for c in found if c.kind == "balloon loop"}
    twins: set[str] = set()
    for chain in ways.chains:
        u, v = ways.core_of[chain.start].node, ways.core_of[chain.finish].node
        if u != v and u in loops and v in loops:
            twins |= {u, v}
    return [replace(c, kind="dogbone") if c.kind == "balloon loop" and c.at in twins else c for c in found]
