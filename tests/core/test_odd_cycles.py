"""Odd cycles of random signed graphs against every cycle there is, and against networkx."""

from __future__ import annotations

import itertools
import math
import random
from collections import defaultdict

import networkx as nx
import pytest
from hypothesis import given
from hypothesis import strategies as st

from jolly_copper.core.rails.odd_cycles import Cycle, SignedGraph, blocks, some_odd_cycles
from jolly_copper.core.rails.ways import Core

Edges = list[tuple[int, int, int]]
"""Ends and sign of each chain; its number is its place."""


def core(n: int) -> Core:
    return Core(f"N{n}", 0)


def graph_of(edges: Edges) -> SignedGraph:
    links: dict[Core, list[tuple[int, Core, int]]] = defaultdict(list)
    for number, (u, v, sign) in enumerate(edges):
        links[core(u)].append((number, core(v), sign))
        if u != v:
            links[core(v)].append((number, core(u), sign))
    return SignedGraph({c: tuple(sorted(ls)) for c, ls in sorted(links.items())})


@st.composite
def random_edges(draw: st.DrawFn) -> Edges:
    count = draw(st.integers(2, 6))
    node = st.integers(0, count - 1)
    return draw(st.lists(st.tuples(node, node, st.sampled_from([1, -1])), min_size=1, max_size=9))


def simple_cycles(edges: Edges) -> list[tuple[int, ...]]:
    """Every set of chains that closes one round without meeting a core twice, by trying all sets."""
    found = []
    for size in range(1, len(edges) + 1):
        for chosen in itertools.combinations(range(len(edges)), size):
            graph = nx.MultiGraph([edges[n][:2] for n in chosen])
            if nx.is_connected(graph) and all(d == 2 for _, d in graph.degree()):
                found.append(chosen)
    return found


def is_odd(edges: Edges, chains: tuple[int, ...]) -> bool:
    return math.prod(edges[n][2] for n in chains) == -1


def is_a_way_round(edges: Edges, cycle: Cycle) -> None:
    """Each chain leads from its core to the next one's, no core comes twice, and the sign is −1."""
    assert len(set(cycle.cores)) == len(cycle.cores) == len(cycle.chains) == len(set(cycle.chains))
    for k, chain in enumerate(cycle.chains):
        ends = {core(edges[chain][0]), core(edges[chain][1])}
        assert ends == {cycle.cores[k], cycle.cores[(k + 1) % len(cycle.cores)]}
    assert is_odd(edges, cycle.chains)


@given(random_edges(), st.integers(0, 1000))
def test_an_odd_cycle_is_found_exactly_where_there_is_one(edges: Edges, seed: int) -> None:
    rng = random.Random(seed)
    weights = [rng.uniform(1, 50) for _ in edges]
    graph = graph_of(edges)
    odd = [c for c in simple_cycles(edges) if is_odd(edges, c)]
    found = some_odd_cycles(graph, weights.__getitem__)
    assert bool(found) == bool(odd)
    for cycle in found:
        is_a_way_round(edges, cycle)
    for number in range(len(edges)):
        through = graph.odd_cycle_through(number, weights.__getitem__)
        lightest = min((sum(weights[n] for n in c) for c in odd if number in c), default=math.inf)
        if math.isfinite(lightest):
            assert through is not None, "there is one through this chain"
        if through is not None:
            is_a_way_round(edges, through)
            if number in through.chains:
                assert sum(weights[n] for n in through.chains) == pytest.approx(lightest, abs=1e-4)


def test_of_a_walk_that_meets_a_core_twice_the_odd_half_is_kept() -> None:
    """A figure of eight: one loop turns trains, the other does not."""
    edges: Edges = [(0, 1, 1), (1, 2, 1), (2, 0, 1), (0, 3, 1), (3, 4, -1), (4, 0, 1)]
    graph = graph_of(edges)
    even_first = [(core(0), 0), (core(1), 1), (core(2), 2), (core(0), 3), (core(3), 4), (core(4), 5)]
    odd_first = [*even_first[3:], *even_first[:3]]
    for walk in (even_first, odd_first):
        assert set(graph._odd_part(walk).chains) == {3, 4, 5}


@given(random_edges())
def test_two_colours_fit_but_for_the_chains_it_names(edges: Edges) -> None:
    graph = graph_of(edges)
    colours, frustrated = graph.colour()
    for number, (u, v, sign) in enumerate(edges):
        fits = colours[core(u)] * sign == colours[core(v)]
        assert fits == (number not in frustrated)


@given(random_edges())
def test_what_hangs_together_by_ways_round_is_what_networkx_leaves_without_bridges(edges: Edges) -> None:
    graph = graph_of(edges)
    whole = nx.MultiGraph()
    for number, (u, v, _) in enumerate(edges):
        whole.add_edge(u, v, key=number)
    parts = nx.number_connected_components(whole)
    for number, (u, v, _) in enumerate(edges):
        without = whole.copy()
        without.remove_edge(u, v, key=number)
        bridge = nx.number_connected_components(without) > parts
        kept = any(number == n for part in blocks(graph) for ls in part.values() for n, _, _ in ls)
        assert kept == (not bridge)
    together = [set(part) for part in blocks(graph)]
    assert sum(map(len, together)) == len(set().union(*together)) == len({n for e in edges for n in e[:2]})


@given(random_edges(), st.sets(st.integers(0, 8)), st.sets(st.integers(0, 5)))
def test_without_some_is_the_graph_of_the_rest(edges: Edges, gone: set[int], nodes: set[int]) -> None:
    left = graph_of(edges).without(gone, {core(n) for n in nodes})
    assert not any(c in left.links for c in map(core, nodes))
    told = {n for ls in left.links.values() for n, _, _ in ls}
    assert told == {n for n, (u, v, _) in enumerate(edges) if n not in gone and not {u, v} & nodes}
