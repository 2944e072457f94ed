"""Parting stretches into districts and sharing districts among boosters: against brute force and the simple ways."""

from __future__ import annotations

import itertools
import random

import networkx as nx
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jolly_copper.core.proposals.dividing import partition
from jolly_copper.core.proposals.dividing.choose import TRIPS, trip_for
from jolly_copper.core.proposals.dividing.partition import Link, best_parts, by_part, cost_of, greedy_parts
from jolly_copper.core.proposals.dividing.sharing import Asking, asked_of, greedy_shares, score, share_out


def random_links(rng: random.Random, size: int) -> list[Link]:
    """A connected web of members: a random tree, some more links, prices as for real gaps."""
    links = [(rng.randrange(k), k, rng.choice([0.0, 1.0, 1.5, 2.0])) for k in range(1, size)]
    for _ in range(size // 2):
        a, b = sorted(rng.sample(range(size), 2))
        if all((a, b) != (x, y) for x, y, _ in links):
            links.append((a, b, rng.choice([0.0, 1.0, 2.5])))
    return links


def whole(parts: list[int], links: list[Link]) -> bool:
    """Whether every part hangs together, by networkx."""
    graph = nx.Graph((a, b) for a, b, _ in links)
    graph.add_nodes_from(range(len(parts)))
    return all(nx.is_connected(graph.subgraph(members)) for members in by_part(parts))


def cheapest_by_hand(weights: list[float], links: list[Link], count: int) -> float:
    """Every partition into so many connected parts, weighed."""
    best = float("inf")
    for rest in itertools.product(range(count), repeat=len(weights) - 1):
        parts = [0, *rest]
        if len(set(parts)) == count and whole(parts, links):
            best = min(best, cost_of(parts, weights, links))
    return best


@pytest.mark.parametrize("seed", range(14))
def test_small_partitions_are_the_cheapest_of_all(seed: int) -> None:
    rng = random.Random(seed)
    size, count = rng.randint(4, 8), rng.choice([2, 2, 3])
    weights = [rng.uniform(300, 4000) for _ in range(size)]
    links = random_links(rng, size)
    parts = best_parts(weights, links, count)
    assert whole(parts, links) and len(set(parts)) == count
    assert cost_of(parts, weights, links) == pytest.approx(cheapest_by_hand(weights, links, count))


@pytest.mark.parametrize("seed", range(8))
def test_the_search_of_larger_ones_finds_the_optimum_of_small_ones_too(seed: int) -> None:
    """What serves above the exact limit, tried where the exact answer is known: within 2 % here, mostly equal."""
    rng = random.Random(100 + seed)
    weights = [rng.uniform(300, 4000) for _ in range(9)]
    links = random_links(rng, 9)
    found = cost_of(partition._bettered(weights, links, 2), weights, links)
    assert found <= cheapest_by_hand(weights, links, 2) * 1.02 + 1e-9


@given(st.integers(0, 10_000), st.integers(5, 45), st.integers(1, 5))
@settings(max_examples=40)
def test_partitions_hang_together_and_are_never_worse_than_the_greedy_way(seed: int, size: int, count: int) -> None:
    rng = random.Random(seed)
    weights = [rng.uniform(100, 4000) for _ in range(size)]
    links = random_links(rng, size)
    parts = best_parts(weights, links, count)
    assert len(parts) == size and len(set(parts)) == min(count, size) and whole(parts, links)
    greedy = greedy_parts(weights, links, min(count, size))
    assert cost_of(parts, weights, links) <= cost_of(greedy, weights, links) + 1e-9


def test_more_parts_than_members_is_one_each() -> None:
    assert sorted(best_parts([1.0, 2.0], [(0, 1, 1.0)], 5)) == [0, 1]


def test_members_that_nothing_links_are_no_reason_to_fail() -> None:
    parts = best_parts([1.0, 1.0, 1.0, 1.0], [(0, 1, 1.0)], 2)
    assert len(set(parts)) == 2 and len(parts) == 4


# --- boosters


def random_districts(rng: random.Random, count: int) -> tuple[list[Asking], dict[str, float]]:
    amps = {f"t{k}": rng.choice([0.2, 0.45, 0.6, 0.9, 1.4]) for k in range(rng.randint(4, 12))}
    return [
        Asking(
            frozenset(rng.sample(sorted(amps), rng.randint(0, 4))),
            rng.choice([0.0, 0.0, 0.3]),
            rng.choice([None, 0, 1]),
        )
        for _ in range(count)
    ], amps


@pytest.mark.parametrize("seed", range(12))
@pytest.mark.parametrize("stay", [False, True])
def test_sharing_is_the_best_of_every_way(seed: int, stay: bool) -> None:
    rng = random.Random(seed)
    districts, amps = random_districts(rng, rng.randint(2, 5))
    limits = [4.5, 2.7, 4.5, 4.5]

    def weigh(shares: tuple[int, ...] | list[int]) -> tuple[float, ...]:
        over, bought, fullest, moved = score(shares, districts, amps, limits, owned=2)
        return (over, bought, moved, fullest) if stay else (over, bought, fullest, moved)

    found = weigh(share_out(districts, amps, limits, owned=2, stay=stay))
    assert found == min(weigh(s) for s in itertools.product(range(4), repeat=len(districts)))


@given(st.integers(0, 10_000), st.integers(1, 14))
@settings(max_examples=40)
def test_sharing_is_never_worse_than_the_greedy_way(seed: int, count: int) -> None:
    rng = random.Random(seed)
    districts, amps = random_districts(rng, count)
    limits = [4.5] * max(count, 3)
    best = score(share_out(districts, amps, limits), districts, amps, limits)
    assert best <= score(greedy_shares(districts, amps, limits), districts, amps, limits)


def test_a_train_that_roams_two_districts_counts_once_on_their_booster() -> None:
    """By hand: a 1 A roams both; b 0.5 A in the one; 0.1 A of decoders in the other. Together 1.6 A, not 2.6 A."""
    districts = [Asking(frozenset("ab")), Asking(frozenset("a"), 0.1)]
    assert asked_of(districts, {"a": 1.0, "b": 0.5}) == pytest.approx(1.6)


def test_five_engines_on_one_booster_and_one_on_the_other_is_no_use() -> None:
    """Six districts of 0.9 A on two boosters that are there: three each, whichever way they come. Common practice, no
    source."""
    amps = {f"t{k}": 0.9 for k in range(6)}
    districts = [Asking(frozenset([f"t{k}"])) for k in range(6)]
    shares = share_out(districts, amps, [4.5, 4.5], owned=2)
    assert sorted(shares.count(b) for b in (0, 1)) == [3, 3]


@given(st.floats(0, 20), st.floats(0.5, 20))
def test_a_trip_is_below_the_boosters_and_as_small_as_starting_allows(wanted: float, most: float) -> None:
    trip = trip_for(wanted, most)
    assert trip <= most + 1e-9
    assert trip >= wanted or not [t for t in TRIPS if wanted <= t <= most]
    assert not [t for t in TRIPS if wanted <= t < trip]
