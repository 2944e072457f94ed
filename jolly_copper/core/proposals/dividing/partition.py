"""Cutting a set of stretches into connected parts of nearly equal weight, at the cheapest places."""

from __future__ import annotations

import random
from collections import defaultdict, deque
from collections.abc import Sequence

import numpy as np
from scipy import sparse
from scipy.optimize import Bounds, LinearConstraint, milp

from jolly_copper.core.rails.pieces import Joined

BALANCE = 12.0
"""What a part twice as heavy as the average weighs against the prices of cuts."""
EXACT_UP_TO = 14
MOST_MEMBERS = 26
"""More members than this are first joined across the dearest cuts, the smallest first."""
TREES = 60
SHAKES = 100
"""For up to `MOST_MEMBERS`; fewer for more."""
SLACK = 0.3
"""From one bettering to the next the cost may rise by so much, to get out of hollows."""
ROUNDS = 40
Link = tuple[int, int, float]
"""Two members and what parting them costs; nothing where they only lie side by side."""


def cost_of(parts: Sequence[int], weights: Sequence[float], links: Sequence[Link]) -> float:
    """What a partition costs: prices of the links it cuts, and how far its heaviest part is over the average.

    >>> cost_of([0, 0, 1], [1.0, 1.0, 2.0], [(0, 1, 1.0), (1, 2, 1.5)])
    1.5
    """
    count = max(parts) + 1
    by_part = np.bincount(parts, weights=weights, minlength=count)
    cut = sum(price for a, b, price in links if parts[a] != parts[b])
    return float(cut + BALANCE * (by_part.max() * count / max(sum(weights), 1e-9) - 1))


def connected(members: set[int], near: dict[int, set[int]]) -> list[set[int]]:
    """The connected components of some members."""
    left, found = set(members), []
    while left:
        edge = deque([left.pop()])
        part = set(edge)
        while edge:
            for other in near[edge.popleft()] & left:
                left.discard(other)
                part.add(other)
                edge.append(other)
        found.append(part)
    return found


def neighbours(count: int, links: Sequence[Link]) -> dict[int, set[int]]:
    """Who is linked to whom."""
    near: dict[int, set[int]] = {k: set() for k in range(count)}
    for a, b, _ in links:
        near[a].add(b)
        near[b].add(a)
    return near


def greedy_parts(weights: Sequence[float], links: Sequence[Link], count: int) -> list[int]:
    """Parts grown from seeds far apart, the lightest first: the simple way others are measured against."""
    near = neighbours(len(weights), links)
    seeds = [0]
    while len(seeds) < count:
        far: dict[int, int] = dict.fromkeys(seeds, 0)
        edge = deque(seeds)
        while edge:
            at = edge.popleft()
            for other in sorted(near[at]):
                if other not in far:
                    far[other] = far[at] + 1
                    edge.append(other)
        seeds.append(max((k for k in range(len(weights)) if k not in seeds), key=lambda k: (far.get(k, 10**6), -k)))
    part = dict(zip(seeds, range(count), strict=True))
    weight = [weights[s] for s in seeds]
    while len(part) < len(weights):
        grown = False
        for p in sorted(range(count), key=lambda p: weight[p]):
            rim = {o for k, q in part.items() if q == p for o in near[k] if o not in part}
            if rim:
                take = min(rim, key=lambda k: (-len(near[k] & {m for m, q in part.items() if q == p}), k))
                part[take], weight[p], grown = p, weight[p] + weights[take], True
                break
        if not grown:  # what nothing links goes with the lightest
            take = next(k for k in range(len(weights)) if k not in part)
            lightest = min(range(count), key=lambda p: weight[p])
            part[take], weight[lightest] = lightest, weight[lightest] + weights[take]
    return [part[k] for k in range(len(weights))]


def best_parts(weights: Sequence[float], links: Sequence[Link], count: int) -> list[int]:
    """A partition into connected parts, cheap by `cost_of`.

    Up to `EXACT_UP_TO` members the cheapest of all, as a mixed integer programme: where a part comes out in pieces, the
    demand that something between them be in it too is added and it is solved again; the first answer in one piece
    everywhere is optimal. Above that, members are first joined across the dearest cuts, and the greedy partition is
    bettered by moving one at a time, from many starts (seeded). Never worse than the greedy way.

    Args:
        weights: of each member. links: who lies beside whom, with the price of a cut. count: parts wanted.
    """
    count = min(count, len(weights))
    if count <= 1:
        return [0] * len(weights)
    greedy = greedy_parts(weights, links, count)
    joined = _joined(weights, links, MOST_MEMBERS, sum(weights) / count / 2)
    numbers = sorted(set(joined))
    small = [sum(w for w, j in zip(weights, joined, strict=True) if j == n) for n in numbers]
    place = {n: k for k, n in enumerate(numbers)}
    between: dict[tuple[int, int], float] = defaultdict(float)
    for a, b, price in links:
        one, other = sorted((place[joined[a]], place[joined[b]]))
        if one != other:
            between[one, other] += price
    fewer = [(a, b, p) for (a, b), p in sorted(between.items())]
    found = _exact(small, fewer, count) if len(small) <= EXACT_UP_TO else None
    if found is None:
        found = _bettered(small, fewer, count)
    return min(([found[place[j]] for j in joined], greedy), key=lambda p: cost_of(p, weights, links))


class _Search:
    """A partition being bettered by moves of one member, each weighed by what it alone changes."""

    def __init__(self, weights: Sequence[float], links: Sequence[Link], count: int) -> None:
        self.weights, self.count, self.near = weights, count, neighbours(len(weights), links)
        self.price: list[dict[int, float]] = [{} for _ in weights]
        for a, b, price in links:
            self.price[a][b] = self.price[b][a] = price
        self.scale = BALANCE * count / max(sum(weights), 1e-9)

    def moves(self, parts: list[int]) -> list[tuple[float, int, int]]:
        """Every member that could go to a part beside it, with what that changes, cheapest first."""
        heavy = [0.0] * self.count
        for member, part in enumerate(parts):
            heavy[part] += self.weights[member]
        most, found = max(heavy), []
        for member, part in enumerate(parts):
            beside: dict[int, float] = defaultdict(float)
            for other, price in self.price[member].items():
                beside[parts[other]] += price
            for to in beside:
                if to != part:
                    w = self.weights[member]
                    top = max(h - w if p == part else h + w if p == to else h for p, h in enumerate(heavy))
                    found.append((beside.get(part, 0.0) - beside[to] + self.scale * (top - most), member, to))
        return sorted(found)

    def whole_without(self, parts: list[int], member: int) -> bool:
        """Whether the part a member leaves stays in one piece, and is not empty."""
        mine = {k for k, p in enumerate(parts) if p == parts[member]}
        return len(mine) > 1 and len(connected(mine - {member}, self.near)) <= len(connected(mine, self.near))

    def descend(self, parts: list[int]) -> list[int]:
        parts = list(parts)
        while True:
            step = next(
                ((m, to) for change, m, to in self.moves(parts) if change < -1e-12 and self.whole_without(parts, m)),
                None,
            )
            if step is None:
                return parts
            parts[step[0]] = step[1]

    def shake(self, parts: list[int], rng: random.Random) -> list[int]:
        parts = list(parts)
        for _ in range(rng.randint(1, 6)):
            options = [(m, to) for _, m, to in self.moves(parts)]
            rng.shuffle(options)
            step = next(((m, to) for m, to in options if self.whole_without(parts, m)), None)
            if step is not None:
                parts[step[0]] = step[1]
        return parts


def _from_tree(weights: Sequence[float], links: Sequence[Link], count: int, rng: random.Random) -> list[int]:
    """Parts of a random spanning tree: cut where it is cheapest, once for each part more."""
    joined, tree = Joined(), []
    for a, b, _ in rng.sample(list(links), len(links)):
        if joined.find(a) != joined.find(b):
            joined.join(a, b)
            tree.append((a, b))
    near: dict[int, set[int]] = {k: set() for k in range(len(weights))}
    for a, b in tree:
        near[a].add(b)
        near[b].add(a)
    parts = [0] * len(weights)
    for part in range(1, count):
        best: tuple[float, list[int]] | None = None
        for a, b in tree:
            if parts[a] != parts[b]:
                continue
            near[a].discard(b)
            near[b].discard(a)
            side = next(c for c in connected({k for k, p in enumerate(parts) if p == parts[a]}, near) if b in c)
            near[a].add(b)
            near[b].add(a)
            tried = [part if k in side else p for k, p in enumerate(parts)]
            cost = cost_of(tried, weights, links)
            if best is None or cost < best[0]:
                best = cost, tried
        if best is None:
            return greedy_parts(weights, links, count)
        parts = best[1]
    return parts


def _bettered(weights: Sequence[float], links: Sequence[Link], count: int) -> list[int]:
    """The greedy partition, and parts of many random trees, bettered; the best shaken and bettered again."""
    search, rng = _Search(weights, links, count), random.Random(1)
    fewer = min(1.0, (MOST_MEMBERS / len(weights)) ** 2)
    trees = (_from_tree(weights, links, count, rng) for _ in range(max(2, round(TREES * fewer))))
    starts = [greedy_parts(weights, links, count), *trees]
    best = min((search.descend(s) for s in starts), key=lambda p: cost_of(p, weights, links))
    least = cost_of(best, weights, links)
    here, cost = best, least
    for _ in range(max(5, round(SHAKES * fewer))):
        then = search.descend(search.shake(here, rng))
        reached = cost_of(then, weights, links)
        if reached < cost + SLACK:
            here, cost = then, reached
        if reached < least - 1e-12:
            best, least = then, reached
    return best


def _joined(weights: Sequence[float], links: Sequence[Link], most: int, heaviest: float) -> list[int]:
    """Members joined until there are few enough, across the dearest cuts first; none grows too heavy. A name for
    each."""
    name = list(range(len(weights)))
    weight = dict(enumerate(weights))
    while len(weight) > most:
        pairs = sorted(
            {
                (-price, weight[name[a]] + weight[name[b]], min(name[a], name[b]), max(name[a], name[b]))
                for a, b, price in links
                if name[a] != name[b] and weight[name[a]] + weight[name[b]] <= heaviest
            }
        )
        now: dict[int, int] = {}
        for _, total, keep, gone in pairs:
            if (
                len(weight) > most
                and keep not in now
                and gone not in now
                and gone not in now.values()
                and keep not in now.values()
            ):
                now[gone] = keep
                weight[keep] = total
                del weight[gone]
        if not now:
            break
        name = [now.get(n, n) for n in name]
    return name


def _exact(weights: Sequence[float], links: Sequence[Link], count: int) -> list[int] | None:
    size = len(weights)
    near = neighbours(size, links)
    whole = {frozenset(c) for c in connected(set(range(size)), near)}
    mean = sum(weights) / count
    columns = size * count + len(links) + 1
    costs = np.r_[np.zeros(size * count), [price for _, _, price in links], BALANCE]
    rows: list[dict[int, float]] = []
    low: list[float] = []
    high: list[float] = []

    def demand(entries: dict[int, float], at_least: float, at_most: float) -> None:
        rows.append(entries)
        low.append(at_least)
        high.append(at_most)

    for k in range(size):
        demand({k * count + p: 1.0 for p in range(count)}, 1, 1)
    for p in range(count):
        demand({k * count + p: 1.0 for k in range(size)}, 1, np.inf)
        demand({**{k * count + p: weights[k] / mean for k in range(size)}, columns - 1: -1.0}, -np.inf, 1)
    for number, (a, b, price) in enumerate(links):
        for p in range(count) if price > 0 else ():
            demand({a * count + p: 1.0, b * count + p: -1.0, size * count + number: -1.0}, -np.inf, 0)
    upper = np.ones(columns)
    upper[-1] = np.inf
    lower = np.zeros(columns)
    lower[int(np.argmax(weights)) * count] = 1  # parts are alike: the heaviest member is in the first
    whole_numbers = np.r_[np.ones(size * count), np.zeros(len(links) + 1)]
    for _ in range(ROUNDS):
        entries = [(r, c, v) for r, row in enumerate(rows) for c, v in row.items()]
        r, c, v = zip(*entries, strict=True)
        matrix = sparse.csr_matrix((v, (r, c)), shape=(len(rows), columns))
        answer = milp(
            costs,
            constraints=LinearConstraint(matrix, low, high),
            bounds=Bounds(lower, upper),
            integrality=whole_numbers,
            options={"mip_rel_gap": 0.0},
        )
        if answer.x is None:
            return None
        chosen = answer.x[: size * count].reshape(size, count).argmax(axis=1)
        torn = False
        for p in range(count):
            pieces = connected({k for k in range(size) if chosen[k] == p}, near)
            pieces.sort(key=lambda s: -sum(weights[k] for k in s))
            for piece in pieces[1:]:
                if frozenset(piece) in whole or any(piece <= w and not (pieces[0] & w) for w in whole):
                    continue
                torn = True
                rim = set().union(*(near[k] for k in piece)) - piece
                one, other = min(piece), min(pieces[0])
                for q in range(count):
                    demand(
                        {one * count + q: 1.0, other * count + q: 1.0, **{m * count + q: -1.0 for m in rim}}, -np.inf, 1
                    )
        if not torn:
            return [int(x) for x in chosen]
    return None


def by_part(parts: Sequence[int]) -> list[list[int]]:
    """Members of each part."""
    found: dict[int, list[int]] = defaultdict(list)
    for member, part in enumerate(parts):
        found[part].append(member)
    return [found[p] for p in sorted(found)]
