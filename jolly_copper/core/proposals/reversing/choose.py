"""The best choice of reversing sections: fewest reversers, then quiet plain track; with the next best beside it."""

from __future__ import annotations

from collections.abc import Callable, Collection
from dataclasses import dataclass

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.proposals.reversing.candidates import Candidate, find_candidates
from jolly_copper.core.rails.conflicts import Conflict
from jolly_copper.core.rails.hitting import cheapest
from jolly_copper.core.rails.odd_cycles import Cycle, Part, SignedGraph, blocks, some_odd_cycles
from jolly_copper.core.rails.topology import Topology
from jolly_copper.core.rails.ways import Core, Ways

BETWEEN_MM = 600.0
"""Plain track left between two reversing sections on one chain: an engine's length."""
MOST_OPTIONS = 3


@dataclass(frozen=True)
class Option:
    """One way to put a group of conflicts right. `spare`: mm the tightest section has over the train; None: no
    limit."""

    sections: tuple[Candidate, ...]
    cost: float
    spare: float | None


@dataclass(frozen=True)
class Group:
    """Conflicts that hang together, the ways to settle them, best first, and those nothing has room for."""

    conflicts: tuple[Conflict, ...]
    options: tuple[Option, ...]
    no_room: tuple[Conflict, ...]
    weighed: int


Progress = Callable[[int, int], None]


def propose(
    topology: Topology,
    *,
    train: float | None = None,
    keep: Collection[str] = (),
    refuse: Collection[str] = (),
    progress: Progress = lambda done, total: None,
) -> list[Group]:
    """Reversing sections for every conflict that has none, group by group.

    The choice is an implicit hitting set: pick sections so that every odd way round crosses the gaps of one; ways round
    are added as they turn up, so the first choice that leaves none is the cheapest there is among the places weighed.

    Args:
        topology: of the layout as it stands; sections already there are left alone.
        train: the longest train, mm; the layout's own when not given.
        keep: keys of places the person wants used.
        refuse: keys of places the person will not have.
        progress: told (groups done, groups in all).

    Returns:
        One group per part of the railroad that hangs together; empty where no train comes back on itself.
    """
    layout, ways = topology.layout, topology.ways
    length = train or topology.longest_train()
    whole = SignedGraph.of(ways, topology.cut_chains)
    parts = [p for p in blocks(whole) if SignedGraph(p).colour()[1]]
    progress(0, len(parts))
    solved: list[tuple[SignedGraph, Group]] = []

    def settle(part: Part) -> tuple[SignedGraph, Group]:
        graph = SignedGraph(part)
        chains = {n for links in part.values() for n, _, _ in links}
        mine = tuple(c for c in topology.open_conflicts if set(c.chains) & chains)
        return graph, _settle(layout, ways, graph, mine, length, topology.cut_chains, keep, refuse)

    for done, part in enumerate(parts, start=1):
        solved.append(settle(part))
        progress(done, len(parts))
    # Parts that share no way round are settled apart; where their sections would crowd each other, together.
    while (crowded := _crowded([g for _, g in solved])) is not None:
        one, other = crowded
        joined = {**solved[one][0].links, **solved[other][0].links}
        solved = [s for k, s in enumerate(solved) if k not in crowded] + [settle(joined)]
    return [g for _, g in sorted(solved, key=lambda s: min(s[0].links))]


def _crowded(groups: list[Group]) -> tuple[int, int] | None:
    best = [(k, s) for k, g in enumerate(groups) if g.options for s in g.options[0].sections]
    for a, b in _exclusive([s for _, s in best]):
        if best[a][0] != best[b][0]:
            return best[a][0], best[b][0]
    return None


def _settle(
    layout: Layout,
    ways: Ways,
    graph: SignedGraph,
    conflicts: tuple[Conflict, ...],
    train: float,
    blocked: frozenset[int],
    keep: Collection[str],
    refuse: Collection[str],
) -> Group:
    places = find_candidates(layout, ways, graph, train, blocked)
    number = {c.key: k for k, c in enumerate(places)}
    fixed = {number[k]: True for k in keep if k in number} | {number[k]: False for k in refuse if k in number}
    exclusive = _exclusive(places)
    graph, no_room = _set_aside(ways, graph, places, conflicts)

    def unmet(chosen: Collection[int]) -> list[frozenset[int]]:
        gone = frozenset(n for k in chosen for n in places[k].chains)
        cores = frozenset(c for k in chosen for c in places[k].cores)
        return [
            _may_meet(places, cycle)
            for cycle in some_odd_cycles(graph.without(gone, cores), lambda n: ways.chains[n].length)
        ]

    options: list[Option] = []
    banned: list[tuple[frozenset[int], int]] = []
    for _ in range(MOST_OPTIONS):
        chosen, hopeless = cheapest([c.cost for c in places], unmet, exclusive, fixed, banned)
        if not options:  # places there are, but they crowd each other or the person will not have them
            no_room += [c for c in conflicts if c not in no_room and any(_stands_for(places, c, h) for h in hopeless)]
        elif hopeless and not no_room:
            break
        if not chosen:
            break
        sections = tuple(places[k] for k in sorted(chosen, key=lambda k: places[k].key))
        spares = [s.run - train for s in sections if s.run is not None]
        options.append(Option(sections, sum(s.cost for s in sections), min(spares, default=None)))
        # Next best means another place, not the same stretch with its gaps moved a little.
        sites = {places[k].site for k in chosen}
        banned.append((frozenset(k for k, p in enumerate(places) if p.site in sites), len(chosen) - 1))
    return Group(conflicts, tuple(options), tuple(no_room), len(places))


def _set_aside(
    ways: Ways, graph: SignedGraph, places: list[Candidate], conflicts: tuple[Conflict, ...]
) -> tuple[SignedGraph, list[Conflict]]:
    """Ways round on which no place at all has room are taken out, so that the others can still be settled."""
    no_room: list[Conflict] = []
    while True:
        cycles = some_odd_cycles(graph, lambda n: ways.chains[n].length)
        hopeless = [c for c in cycles if not _may_meet(places, c)]
        if not hopeless:
            return graph, no_room
        for cycle in hopeless:
            named = [c for c in conflicts if set(c.chains) & set(cycle.chains) and c not in no_room]
            no_room += named[:1]
        graph = graph.without({cycle.chains[-1] for cycle in hopeless})


def _stands_for(places: list[Candidate], conflict: Conflict, demand: frozenset[int]) -> bool:
    """Whether an unmet demand is about this conflict: every place that would meet it lies on its way round."""
    return all(places[k].chains & set(conflict.chains) for k in demand)


def _may_meet(places: list[Candidate], cycle: Cycle) -> frozenset[int]:
    chains, cores = set(cycle.chains), set(cycle.cores)
    return frozenset(k for k, p in enumerate(places) if p.chains & chains or p.cores & cores)


def _exclusive(places: list[Candidate]) -> list[tuple[int, int]]:
    """Pairs that overlap, touch, or crowd one turnout."""
    found: set[tuple[int, int]] = set()
    by_chain: dict[int, list[tuple[float, float, int]]] = {}
    by_core: dict[Core, list[int]] = {}
    for k, place in enumerate(places):
        for chain, lo, hi in place.spans:
            by_chain.setdefault(chain, []).append((lo, hi, k))
        for core in place.holds:
            by_core.setdefault(core, []).append(k)
    for spans in by_chain.values():
        for i, (lo, hi, a) in enumerate(spans):
            for other_lo, other_hi, b in spans[i + 1 :]:
                if a != b and lo < other_hi + BETWEEN_MM and other_lo < hi + BETWEEN_MM:
                    found.add((min(a, b), max(a, b)))
    for members in by_core.values():
        for i, a in enumerate(members):
            found.update((min(a, b), max(a, b)) for b in members[i + 1 :] if a != b)
    return sorted(found)


def longest_that_fits(topology: Topology, conflict: Conflict, train: float) -> float | None:
    """The longest train, mm, for which there is a place for a section on a conflict's way round, if it is shorter than
    a train for which there is none; None where none at all would do."""
    ways = topology.ways
    chains = set(conflict.chains)
    whole = SignedGraph.of(ways, topology.cut_chains)
    part = next((p for p in blocks(whole) if any(n in chains for links in p.values() for n, _, _ in links)), None)
    if part is None:
        return None
    graph = SignedGraph(part)

    def fits(length: float) -> bool:
        found = find_candidates(topology.layout, ways, graph, length, topology.cut_chains)
        return any(c.chains & chains for c in found)

    low, high = 0.0, train
    if not fits(1.0):
        return None
    while high - low > 5:
        middle = (low + high) / 2
        low, high = (middle, high) if fits(middle) else (low, middle)
    return low


def places(topology: Topology, train: float | None = None) -> dict[str, Candidate]:
    """Every place weighed for the conflicts still open, by key."""
    length = train or topology.longest_train()
    whole = SignedGraph.of(topology.ways, topology.cut_chains)
    return {
        c.key: c
        for part in blocks(whole)
        if SignedGraph(part).colour()[1]
        for c in find_candidates(topology.layout, topology.ways, SignedGraph(part), length, topology.cut_chains)
    }
