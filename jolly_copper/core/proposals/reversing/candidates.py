"""Places where a reversing section could be: stretches of plain track, regions round turnouts, bridges of tables."""

from __future__ import annotations

import itertools
from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal, NamedTuple

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.rails.odd_cycles import SignedGraph
from jolly_copper.core.rails.ways import Chain, Core, TrackEnd, Ways

NEAR_MM = 60.0
"""A gap stands this far from the turnout: beyond its frog and points."""
CLEAR_MM = 600.0
"""Two sections whose gaps stand this clear of a turnout may share it: an engine fits between them."""
SPARE = 0.03
"""A section is at least this much longer than the train: couplings stretch, and gaps are cut by hand."""
MOST_PAIRS = 4
MOST_CORES = 6
TRAFFIC = {
    "main": 40.0,
    "yard": 25.0,
    "staging": 15.0,
    "branch": 10.0,
    "engine terminal": 8.0,
    "siding": 8.0,
    "industry": 5.0,
    "programming": 5.0,
}


class Spot(NamedTuple):
    """A place on a track, mm from its A end."""

    track: str
    at: float


@dataclass(frozen=True)
class Candidate:
    """A place for a reversing section.

    gaps: where both rails are to be cut. chains, cores: what a way round may not pass without crossing its gaps. spans:
    per chain, the part of it that lies in the section. holds: turnouts it comes too near to share with another section.
    run: the shortest drive from gap to gap, mm; None where a train can only go in and come back. anchor: a spot inside.
    """

    key: str
    kind: Literal["plain track", "round turnouts", "bridge"]
    gaps: tuple[Spot, ...]
    chains: frozenset[int]
    cores: frozenset[Core]
    spans: tuple[tuple[int, float, float], ...]
    holds: frozenset[Core]
    run: float | None
    turnouts: int
    crossings: int
    traffic: float
    anchor: Spot
    cost: float

    @property
    def site(self) -> str:
        """The place, whatever its gaps' exact distance from the turnouts."""
        return self.key.rsplit(":", 1)[0] if self.kind == "plain track" else self.key


def room_for(train: float) -> float:
    """What a section must measure between its gaps to hold a train, mm."""
    return train * (1 + SPARE)


def spot_on(ways: Ways, chain: Chain, along: float) -> Spot:
    """The place at this distance along a chain."""
    for track, forward in chain.tracks:
        length = ways.lengths[track]
        if along <= length or track == chain.tracks[-1][0]:
            along = min(along, length)
            return Spot(track, round(along if forward else length - along, 1))
        along -= length
    raise AssertionError("a chain has tracks")


def _cost(pairs: int, traffic: float, turnouts: int, crossings: int, spare: float) -> float:
    """Fewest reversers first, then quiet track, then plain track, then few gaps; a little off for room to spare."""
    return 1000 + traffic + 30 * turnouts + 20 * crossings + 4 * pairs - min(spare / 1000, 3)


def _traffic(layout: Layout, ways: Ways, tracks: set[str]) -> float:
    total = sum(ways.lengths[t] for t in tracks)
    return sum(TRAFFIC[layout.tracks[t].use] * ways.lengths[t] for t in tracks) / total if total else 0.0


def _inner_nodes(layout: Layout, ways: Ways, chain: Chain) -> list[tuple[float, str]]:
    """Nodes a chain passes between its ends, each with its distance along the chain."""
    found, along = [], 0.0
    for track, forward in chain.tracks[:-1]:
        along += ways.lengths[track]
        found.append((along, ways.core_of[TrackEnd(track, "b" if forward else "a")].node))
    return found


def find_candidates(
    layout: Layout, ways: Ways, graph: SignedGraph, train: float, blocked: frozenset[int]
) -> list[Candidate]:
    """Every place worth weighing. `blocked`: chains that already hold a reversing section."""
    chains = sorted({n for links in graph.links.values() for n, _, _ in links} - blocked)
    found: list[Candidate] = []
    for number in chains:
        found += _stretches(layout, ways, number, train)
    for core in graph.links:
        region = _grow(layout, ways, graph, core, train, blocked)
        if region is not None:
            found.append(region)
    unique: dict[object, Candidate] = {}
    for candidate in sorted(found, key=lambda c: (c.cost, c.key)):
        unique.setdefault((candidate.gaps, candidate.cores), candidate)
    return list(unique.values())


def _stretches(layout: Layout, ways: Ways, number: int, train: float) -> Iterator[Candidate]:
    chain = ways.chains[number]
    inner = _inner_nodes(layout, ways, chain)
    pits = [(at, n) for at, n in inner if layout.nodes[n].kind in ("turntable", "traverser")]
    ends = frozenset({ways.core_of[chain.start], ways.core_of[chain.finish]})
    marks = [0.0, *(at for at, _ in pits), chain.length]
    for k, (lo, hi) in enumerate(itertools.pairwise(marks)):
        for clear in (NEAR_MM, CLEAR_MM):
            first = lo + (0.0 if k else clear)
            last = hi - (0.0 if k < len(pits) else clear)
            if last - first < room_for(train):
                continue
            crossings = sum(first < at < last and layout.nodes[n].kind == "crossing" for at, n in inner)
            tracks = _tracks_within(ways, chain, first, last)
            gaps = tuple(
                spot_on(ways, chain, at) for at, is_pit in ((first, k > 0), (last, k < len(pits))) if not is_pit
            )
            traffic = _traffic(layout, ways, tracks)
            yield Candidate(
                key=f"plain:{chain.names[0]}:{k}:{'clear' if clear == CLEAR_MM else 'near'}",
                kind="plain track",
                gaps=gaps,
                chains=frozenset({number}),
                cores=frozenset(),
                spans=((number, first, last),),
                holds=frozenset() if clear == CLEAR_MM else ends,
                run=last - first,
                turnouts=0,
                crossings=crossings,
                traffic=traffic,
                anchor=spot_on(ways, chain, (first + last) / 2),
                cost=_cost(len(gaps), traffic, 0, crossings, last - first - train) + (0.5 if clear == CLEAR_MM else 0),
            )
    for at, node_id in pits:
        node = layout.nodes[node_id]
        if node.diameter and node.diameter >= train:
            track = spot_on(ways, chain, at)
            yield Candidate(
                key=f"bridge:{node_id}",
                kind="bridge",
                gaps=(),
                chains=frozenset({number}),
                cores=frozenset(),
                spans=((number, at, at),),
                holds=frozenset(),
                run=node.diameter,
                turnouts=0,
                crossings=0,
                traffic=0.0,
                anchor=track,
                cost=_cost(0, 0.0, 0, 0, 0.0),
            )


def _tracks_within(ways: Ways, chain: Chain, first: float, last: float) -> set[str]:
    found, along = set(), 0.0
    for track in chain.names:
        if along < last and along + ways.lengths[track] > first:
            found.add(track)
        along += ways.lengths[track]
    return found


class _Edge(NamedTuple):
    """A chain that leaves a region at one of its cores: which way, and how far the section may reach along it."""

    chain: int
    end: TrackEnd
    reach: float
    dead: bool


def _grow(
    layout: Layout, ways: Ways, graph: SignedGraph, seed: Core, train: float, blocked: frozenset[int]
) -> Candidate | None:
    """The smallest region round a core that holds a train, grown over the shortest chains first."""
    region = [seed]
    while len(region) <= MOST_CORES:
        found = _region(layout, ways, frozenset(region), train, blocked)
        if found is not None:
            return found
        following = [
            (ways.chains[n].length, far)
            for core in region
            for n, far, _ in graph.links.get(core, ())
            if far not in region and n not in blocked
        ]
        if not following:
            return None
        region.append(min(following)[1])
    return None


def _region(
    layout: Layout, ways: Ways, cores: frozenset[Core], train: float, blocked: frozenset[int]
) -> Candidate | None:
    kinds = {layout.nodes[c.node].kind for c in cores}
    if kinds & {"turntable", "traverser"}:
        return None
    inside, edges = _inside_and_edges(layout, ways, cores, train)
    if (inside | {e.chain for e in edges}) & blocked:
        return None
    gapped = [k for k, e in enumerate(edges) if not e.dead]
    if len(gapped) > MOST_PAIRS:
        return None
    between = _between(ways, cores, inside, edges)
    reach = {k: edges[k].reach for k in gapped}
    if any(reach[k] < NEAR_MM for k in gapped) or any(
        base + reach[i] + (reach[j] if i != j else reach[i]) < room_for(train) for (i, j), base in between.items()
    ):
        return None
    for i in sorted(gapped, key=lambda k: (-reach[k], edges[k].chain)):
        wants = [
            (room_for(train) - base) / 2 if a == b else room_for(train) - base - reach[b if a == i else a]
            for (a, b), base in between.items()
            if i in (a, b)
        ]
        reach[i] = max([NEAR_MM, *wants])
    runs = [base + reach[i] + reach[j] for (i, j), base in between.items()]
    spans: list[tuple[int, float, float]] = []
    gaps: list[Spot] = []
    tracks: set[str] = set()
    for k, edge in enumerate(edges):
        chain = ways.chains[edge.chain]
        far = chain.length if edge.dead else reach[k]
        lo, hi = (0.0, far) if edge.end == chain.start else (chain.length - far, chain.length)
        spans.append((edge.chain, lo, hi))
        tracks |= _tracks_within(ways, chain, lo, hi)
        if not edge.dead:
            gaps.append(spot_on(ways, chain, hi if edge.end == chain.start else lo))
    for number in inside:
        spans.append((number, 0.0, ways.chains[number].length))
        tracks |= set(ways.chains[number].names)
    turnouts = sum(layout.nodes[c.node].kind in ("turnout", "three-way", "slip") for c in cores)
    traffic = _traffic(layout, ways, tracks)
    longest = max(spans, key=lambda s: (s[2] - s[1], -s[0]))
    run = min(runs, default=None)
    return Candidate(
        key="round:" + "+".join(sorted(f"{c.node}.{c.part}" if c.part else c.node for c in cores)),
        kind="round turnouts",
        gaps=tuple(gaps),
        chains=frozenset(inside | {e.chain for e in edges}),
        cores=cores,
        spans=tuple(spans),
        holds=cores,
        run=run,
        turnouts=turnouts,
        crossings=0,
        traffic=traffic,
        anchor=spot_on(ways, ways.chains[longest[0]], (longest[1] + longest[2]) / 2),
        cost=_cost(len(gaps), traffic, turnouts, 0, (run - train) if run else 0.0),
    )


def _inside_and_edges(layout: Layout, ways: Ways, cores: frozenset[Core], train: float) -> tuple[set[int], list[_Edge]]:
    """Chains wholly inside a region, as long as the region stays free of conflict, and those that leave it.

    A chain that leaves it at one end and comes back at the other keeps plain track in its middle that holds the train
    too: the train must not stand on both of its gaps, which want the section opposite ways round.
    """
    touching: dict[int, list[TrackEnd]] = defaultdict(list)
    for number, chain in enumerate(ways.chains):
        for end in (chain.start, chain.finish):
            if ways.core_of[end] in cores:
                touching[number].append(end)
    inside: set[int] = set()
    edges: list[_Edge] = []
    for number in sorted(touching, key=lambda n: (ways.chains[n].length, n)):
        chain, ends = ways.chains[number], touching[number]
        pit = any(layout.nodes[n].kind in ("turntable", "traverser") for _, n in _inner_nodes(layout, ways, chain))
        if len(ends) == 2 and not pit:
            tried = inside | {number}
            others = set(range(len(ways.chains))) - tried
            if not SignedGraph.of(ways, others).colour()[1]:
                inside = tried
                continue
        for end in ends:
            far = chain.finish if end == chain.start else chain.start
            dead = len(ends) == 1 and not ways.onward(far) and not pit
            room = chain.length - NEAR_MM
            if pit:
                at = [
                    a
                    for a, n in _inner_nodes(layout, ways, chain)
                    if layout.nodes[n].kind in ("turntable", "traverser")
                ]
                room = min(at[0], chain.length - at[-1]) - NEAR_MM
            both = (chain.length - room_for(train)) / 2
            edges.append(_Edge(number, end, min(both, room) if len(ends) == 2 else room, dead))
    return inside, edges


def _between(ways: Ways, cores: frozenset[Core], inside: set[int], edges: list[_Edge]) -> dict[tuple[int, int], float]:
    """For each pair of edges with gaps, the shortest drive between their cores, mm; pairs no train can drive are left
    out."""
    at_end = {e.end: k for k, e in enumerate(edges)}
    found: dict[tuple[int, int], float] = {}
    for k, edge in enumerate(edges):
        if edge.dead:
            continue
        best: dict[TrackEnd, float] = {edge.end: 0.0}
        queue = [(0.0, edge.end)]
        while queue:
            queue.sort()
            so_far, arriving = queue.pop(0)
            if so_far > best[arriving]:
                continue
            for leaving in ways.onward(arriving):
                other = at_end.get(leaving)
                if other is not None:
                    if not edges[other].dead:
                        pair = (min(k, other), max(k, other))
                        found[pair] = min(found.get(pair, so_far), so_far)
                    continue
                number = ways.chain_of[leaving.track]
                if number not in inside:
                    continue
                chain = ways.chains[number]
                far = chain.finish if leaving == chain.start else chain.start
                then = so_far + chain.length
                if then < best.get(far, float("inf")):
                    best[far] = then
                    queue.append((then, far))
    return found
