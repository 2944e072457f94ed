"""Sharing districts out among boosters: as few as will do, none asked for more than it may give, evenly."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

EXACT_UP_TO = 9
"""Up to so many districts every way is weighed; above that the greedy way is bettered by moving one at a time."""


@dataclass(frozen=True)
class Asking:
    """What one district asks: trains that may be in it (by name), amps it draws always, and where it hangs now."""

    trains: frozenset[str]
    steady: float = 0.0
    hangs: int | None = None


Weigh = Callable[[Sequence[int], Sequence[Asking]], tuple[float, ...]]


def asked_of(members: Sequence[Asking], amps: dict[str, float]) -> float:
    """What some districts together may ask for at worst, A: each train once, wherever it is.

    >>> asked_of([Asking(frozenset("ab")), Asking(frozenset("bc"), 0.1)], {"a": 1.0, "b": 0.5, "c": 0.25})
    1.85
    """
    trains = frozenset[str]().union(*(m.trains for m in members))
    return sum(amps[t] for t in sorted(trains)) + sum(m.steady for m in members)


def score(
    shares: Sequence[int], districts: Sequence[Asking], amps: dict[str, float], limits: Sequence[float], owned: int = 0
) -> tuple[float, float, float, float]:
    """How bad a sharing is, worst first: amps too many, boosters to buy, the fullest one's share, districts moved.

    The first `owned` boosters are there already; using them costs nothing.
    """
    too_much, fullest, used = 0.0, 0.0, 0
    for number, limit in enumerate(limits):
        mine = [d for d, s in zip(districts, shares, strict=True) if s == number]
        if not mine:
            continue
        used += number >= owned
        asked = asked_of(mine, amps)
        too_much += max(asked - limit, 0.0)
        fullest = max(fullest, asked / limit)
    moved = sum(d.hangs is not None and d.hangs != s for d, s in zip(districts, shares, strict=True))
    return round(too_much, 6), float(used), round(fullest, 6), float(moved)


def greedy_shares(districts: Sequence[Asking], amps: dict[str, float], limits: Sequence[float]) -> list[int]:
    """The simple way: the hungriest district first, each onto the first booster with room, else the emptiest."""
    order = sorted(range(len(districts)), key=lambda k: (-asked_of([districts[k]], amps), k))
    shares = [-1] * len(districts)
    for k in order:

        def then(b: int, k: int = k) -> float:
            return (
                asked_of([d for d, s in zip(districts, shares, strict=True) if s == b] + [districts[k]], amps)
                / limits[b]
            )

        shares[k] = next((b for b in range(len(limits)) if then(b) <= 1 + 1e-9), min(range(len(limits)), key=then))
    return shares


def share_out(
    districts: Sequence[Asking], amps: dict[str, float], limits: Sequence[float], owned: int = 0, stay: bool = False
) -> list[int]:
    """The best sharing by `score`.

    Args:
        districts: what each asks.
        amps: of each train.
        limits: what each booster may give, A; there are at least as many as could be needed, and those of one limit
            that nothing hangs on are taken in order.
        owned: how many of the boosters, the first ones, are there already.
        stay: districts that hang on a booster with room stay there; moving counts before evenness.

    Returns:
        A booster's number for each district.
    """

    def weigh(shares: Sequence[int], among: Sequence[Asking]) -> tuple[float, ...]:
        too_much, used, fullest, moved = score(shares, among, amps, limits, owned)
        return (too_much, used, moved, fullest) if stay else (too_much, used, fullest, moved)

    best = greedy_shares(districts, amps, limits)
    if stay and all(d.hangs is not None for d in districts):
        best = min(best, [d.hangs or 0 for d in districts], key=lambda s: weigh(s, districts))
    if len(districts) <= EXACT_UP_TO:
        return _every_way(districts, amps, limits, best, weigh, owned)
    while True:
        others = [
            [*best[:k], b, *best[k + 1 :]] for k in range(len(districts)) for b in range(len(limits)) if b != best[k]
        ] + [
            [best[j] if i == k else best[k] if i == j else s for i, s in enumerate(best)]
            for k in range(len(districts))
            for j in range(k)
            if best[k] != best[j]
        ]
        better = min(others, key=lambda s: weigh(s, districts), default=best)
        if weigh(better, districts) >= weigh(best, districts):
            return best
        best = better


def _every_way(
    districts: Sequence[Asking],
    amps: dict[str, float],
    limits: Sequence[float],
    start: list[int],
    weigh: Weigh,
    owned: int,
) -> list[int]:
    """Every sharing, but for boosters that are alike, and for those that begin no better than the best known.

    Every figure of a score can only grow as districts are added, so what begins worse ends worse.
    """
    order = sorted(range(len(districts)), key=lambda k: (-asked_of([districts[k]], amps), k))
    best, least = start, weigh(start, districts)
    shares: list[int] = []

    def go() -> None:
        nonlocal best, least
        if shares and weigh(shares, [districts[k] for k in order[: len(shares)]]) >= least:
            return
        if len(shares) == len(districts):
            best = [shares[order.index(k)] for k in range(len(districts))]
            least = weigh(best, districts)
            return
        alike: set[float] = set()
        for b, limit in enumerate(limits):
            fresh = b >= owned and b not in shares
            if fresh and limit in alike:
                continue
            if fresh:
                alike.add(limit)
            shares.append(b)
            go()
            shares.pop()

    go()
    return best
