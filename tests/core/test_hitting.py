"""The cheapest choice that meets every demand, against every choice there is."""

from __future__ import annotations

import itertools
from collections.abc import Collection

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jolly_copper.core.rails.hitting import NO_WAY, cheapest

DEMANDS = st.lists(st.frozensets(st.integers(0, 6), max_size=4), max_size=7)
COSTS = st.lists(st.floats(0.5, 20), min_size=7, max_size=7)
PAIRS = st.lists(st.tuples(st.integers(0, 6), st.integers(0, 6)).filter(lambda p: p[0] < p[1]), max_size=5)


def brute(
    costs: list[float], demands: list[frozenset[int]], pairs: list[tuple[int, int]], fixed: dict[int, bool]
) -> float:
    best = float("inf")
    for size in range(len(costs) + 1):
        for chosen in itertools.combinations(range(len(costs)), size):
            picked = set(chosen)
            if any(a in picked and b in picked for a, b in pairs) or any((k in picked) != v for k, v in fixed.items()):
                continue
            missed = sum(not d & picked for d in demands)
            best = min(best, sum(costs[k] for k in chosen) + NO_WAY * missed)
    return best


def weight(costs: list[float], demands: list[frozenset[int]], chosen: Collection[int]) -> float:
    return sum(costs[k] for k in chosen) + NO_WAY * sum(not d & set(chosen) for d in demands)


@given(COSTS, DEMANDS, PAIRS)
def test_as_cheap_as_the_cheapest_of_all(
    costs: list[float], demands: list[frozenset[int]], pairs: list[tuple[int, int]]
) -> None:
    """Demands are told as the real ones are: only those the choice so far leaves unmet."""

    def unmet(chosen: Collection[int]) -> list[frozenset[int]]:
        return [d for d in demands if not d & set(chosen)][::-1]

    chosen, hopeless = cheapest(costs, unmet, pairs)
    assert weight(costs, demands, chosen) == pytest.approx(brute(costs, demands, pairs, {}), abs=1e-5)
    assert all(not h & set(chosen) for h in hopeless)
    assert not any(a in chosen and b in chosen for a, b in pairs)


@given(COSTS, DEMANDS, st.dictionaries(st.integers(0, 6), st.booleans(), max_size=3))
def test_what_a_person_fixed_stays_fixed(
    costs: list[float], demands: list[frozenset[int]], fixed: dict[int, bool]
) -> None:
    if not demands:
        return
    chosen, _ = cheapest(costs, lambda c: [d for d in demands if not d & set(c)], (), fixed)
    assert all((k in chosen) == taken for k, taken in fixed.items())
    assert weight(costs, demands, chosen) == pytest.approx(brute(costs, demands, [], fixed), abs=1e-5)


def test_nothing_wanted_is_nothing_chosen() -> None:
    assert cheapest([1.0, 2.0], lambda _: []) == ([], [])


def test_a_demand_nothing_meets_is_hopeless() -> None:
    chosen, hopeless = cheapest([1.0], lambda c: [frozenset(), frozenset({0})] if 0 not in c else [frozenset()])
    assert chosen == [0] and hopeless == [frozenset()]


def test_a_ban_brings_the_next_best() -> None:
    def unmet(chosen: Collection[int]) -> list[frozenset[int]]:
        return [frozenset({0, 1, 2})] if not chosen else []

    assert cheapest([1.0, 2.0, 3.0], unmet)[0] == [0]
    assert cheapest([1.0, 2.0, 3.0], unmet, banned=[(frozenset({0}), 0)])[0] == [1]
    assert cheapest([1.0, 2.0, 3.0], unmet, banned=[(frozenset({0}), 0), (frozenset({1}), 0)])[0] == [2]
