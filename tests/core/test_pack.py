"""Sharing sections out to boards: against every way there is, and never below its own bound."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jolly_copper.core.proposals.blocking.pack import pack


def brute(far: np.ndarray, weights: list[int], room: int, boards: int) -> float | None:
    """The least wire on so many boards, by trying every way to give items to groups."""
    best: float | None = None
    for choice in itertools.product(range(boards), repeat=len(weights)):
        loads = [sum(w for w, c in zip(weights, choice, strict=True) if c == b) for b in range(boards)]
        if max(loads) > room:
            continue
        wire = sum(
            float(far[[i for i, c in enumerate(choice) if c == b]].sum(axis=0).min()) for b in range(boards) if loads[b]
        )
        best = wire if best is None else min(best, wire)
    return best


@settings(max_examples=25)
@given(st.integers(0, 10**6), st.integers(3, 6), st.booleans())
def test_small_packings_are_the_best_there_are(seed: int, count: int, alike: bool) -> None:
    rng = np.random.default_rng(seed)
    far = rng.uniform(10, 1000, (count, 4)).round(1)
    weights = [2] * count if alike else rng.integers(1, 4, count).tolist()
    found = pack(far, weights, 4, 0.0)
    assert sorted(i for m in found.members for i in m) == list(range(count))
    assert all(sum(weights[i] for i in m) <= 4 for m in found.members)
    best = brute(far, weights, 4, len(found.members))
    assert best is not None and found.wire == pytest.approx(best, rel=1e-6)
    assert found.bound <= found.wire + 1e-6
    fewer = len(found.members) - 1
    assert fewer == 0 or brute(far, weights, 4, fewer) is None, "a board too many"


@pytest.mark.parametrize("count", [30, 90])
def test_large_packings_keep_their_room_and_say_how_far_from_the_best(count: int) -> None:
    rng = np.random.default_rng(count)
    spots, places = rng.uniform(0, 9000, (count, 2)), rng.uniform(0, 9000, (20, 2))
    far = np.abs(spots[:, None] - places[None]).sum(axis=2)
    found = pack(far, [1] * count, 8, 0.1)
    assert all(len(m) <= 7 for m in found.members) and len(found.members) == -(-count // 7)
    assert found.bound <= found.wire <= 1.15 * found.bound


def test_spare_is_kept_and_an_item_too_large_is_refused() -> None:
    far = np.ones((9, 2))
    assert len(pack(far, [1] * 9, 10, 0.2).members) == 2
    with pytest.raises(ValueError, match="a board has 4"):
        pack(far, [1] * 8 + [5], 4, 0.0)
