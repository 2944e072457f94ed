"""Questions about every setting of the turnouts that route power, settled by integer programmes (HiGHS through scipy).

A search that tries settings one after another is quick while few turnouts matter, and hopeless when many do. Each
question here is one programme: a 0–1 variable for each turnout, the rest continuous. So the answer is yes with a
setting, no for every setting, or not settled where the solver's own bound on its work ran out: never a guess.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass
from typing import Literal

import numpy as np
from scipy import sparse
from scipy.optimize import Bounds, LinearConstraint, milp

from jolly_copper.core.rails.nets import Nets, Potential
from jolly_copper.core.rails.pieces import Setting

MOST_TURNOUTS = 400
"""Turnouts of one question; more are not tried."""
NODE_LIMIT = 3000
INFEASIBLE = 2

Answer = dict[str, str] | Literal["no", "not settled"]
"""Settings that show it, or no setting does, or the bound on the work ran out."""


@dataclass(frozen=True)
class _Yard:
    """The nets that settings can join to some nets, and the bonds between them. bonds: (net, net, setting)."""

    nets: tuple[int, ...]
    bonds: tuple[tuple[int, int, Setting], ...]
    turnouts: tuple[str, ...]


def _yard(nets: Nets, starts: Collection[int], closed: Collection[int] = ()) -> _Yard:
    """All that can be reached from some nets by any settings, not going on from closed ones."""
    seen, edge = set(starts), sorted(starts)
    bonds: set[tuple[int, int, Setting]] = set()
    while edge:
        net = edge.pop()
        if net in closed:
            continue
        for other, setting in nets.guarded.get(net, ()):
            bonds.add((min(net, other), max(net, other), setting))
            if other not in seen:
                seen.add(other)
                edge.append(other)
    turnouts = sorted({s.node for _, _, s in bonds})
    return _Yard(tuple(sorted(seen)), tuple(sorted(bonds)), tuple(turnouts))


class _Programme:
    """Rows of a programme as they are written down. Variables come in blocks; the turnouts are the first."""

    def __init__(self, yard: _Yard) -> None:
        self.yard = yard
        self.count = len(yard.turnouts)
        self.turnout = {t: k for k, t in enumerate(yard.turnouts)}
        self._rows: list[tuple[dict[int, float], float, float]] = []

    def block(self, size: int) -> int:
        first, self.count = self.count, self.count + size
        return first

    def row(self, terms: Mapping[int, float], low: float, high: float) -> None:
        self._rows.append((dict(terms), low, high))

    def open(self, setting: Setting) -> tuple[int, float, float]:
        """Whether a bond is made as (variable, factor, constant): x for `through`, 1 − x for the other way."""
        k = self.turnout[setting.node]
        return (k, 1.0, 0.0) if setting.lies == "through" else (k, -1.0, 1.0)

    def fix(self, settings: Mapping[str, str]) -> None:
        for node, lies in settings.items():
            if node in self.turnout:
                value = 1.0 if lies == "through" else 0.0
                self.row({self.turnout[node]: 1.0}, value, value)

    def solve(self, cost: np.ndarray | None = None) -> tuple[np.ndarray | None, bool]:
        """A solution, or None; and whether that is settled."""
        rows, columns, values = [], [], []
        for k, (terms, _, _) in enumerate(self._rows):
            for column, value in terms.items():
                rows.append(k)
                columns.append(column)
                values.append(value)
        matrix = sparse.csr_matrix((values, (rows, columns)), shape=(len(self._rows), self.count))
        low, high = (np.array([r[k] for r in self._rows]) for k in (1, 2))
        whole = np.zeros(self.count)
        whole[: len(self.turnout)] = 1
        found = milp(
            np.zeros(self.count) if cost is None else cost,
            constraints=LinearConstraint(matrix, low, high),
            integrality=whole,
            bounds=Bounds(0, 1),
            options={"node_limit": NODE_LIMIT},
        )
        if found.x is not None:
            return found.x, True
        return None, found.status == INFEASIBLE

    def settings(self, x: np.ndarray) -> dict[str, str]:
        return {t: "through" if x[k] > 0.5 else "diverging" for t, k in self.turnout.items()}


def _flow(
    programme: _Programme, starts: Collection[int], goals: Collection[int]
) -> list[tuple[int, int, int, Setting]]:
    """One unit of flow from any start to any goal over bonds that are made. Answers (variable, from, to, setting)."""
    yard = programme.yard
    arcs: list[tuple[int, int, int, Setting]] = []
    for one, other, setting in yard.bonds:
        first = programme.block(2)
        arcs += [(first, one, other, setting), (first + 1, other, one, setting)]
        k, factor, constant = programme.open(setting)
        programme.row({first: 1.0, first + 1: 1.0, k: -factor}, -np.inf, constant)
    into = {g: programme.block(1) for g in sorted(goals)}
    out = {s: programme.block(1) for s in sorted(starts)}
    for net in yard.nets:
        terms: dict[int, float] = {}
        for variable, a, b, _ in arcs:
            if a == net:
                terms[variable] = terms.get(variable, 0.0) + 1.0
            elif b == net:
                terms[variable] = terms.get(variable, 0.0) - 1.0
        if net in into:
            terms[into[net]] = 1.0
        if net in out:
            terms[out[net]] = -1.0
        programme.row(terms, 0.0, 0.0)
    programme.row(dict.fromkeys(into.values(), 1.0), 1.0, 1.0)
    programme.row(dict.fromkeys(out.values(), 1.0), 1.0, 1.0)
    return arcs


def can_join(
    nets: Nets, starts: Collection[int], goals: Collection[int], closed: Collection[int]
) -> tuple[Setting, ...] | Literal["no", "not settled"]:
    """The fewest settings that join one of some nets with one of others, never through closed nets."""
    yard = _yard(nets, starts, (*closed, *goals))
    ends = set(goals) & set(yard.nets)
    if not ends:
        return "no"
    if len(yard.turnouts) > MOST_TURNOUTS:
        return "not settled"
    programme = _Programme(yard)
    arcs = _flow(programme, set(starts) & set(yard.nets), ends)
    cost = np.zeros(programme.count)
    cost[[a[0] for a in arcs]] = 1.0
    x, settled = programme.solve(cost)
    if x is None:
        return "no" if settled else "not settled"
    return tuple(sorted({setting for variable, _, _, setting in arcs if x[variable] > 0.5}))


Live = tuple[Potential, Potential]
"""What the left rail and the right rail carry where track is live."""


def can_live(nets: Nets, left: int, right: int, live: Collection[tuple[Collection[int], Collection[int]]]) -> Answer:
    """Settings that join the two rails to a live pair. live: pairs of net sets, of the left rail and of the right."""
    settled = True
    yard = _yard(nets, {left, right})
    if len(yard.turnouts) > MOST_TURNOUTS:
        return "not settled"
    reach = set(yard.nets)
    for for_left, for_right in live:
        ends = set(for_left) & reach, set(for_right) & reach
        if not all(ends):
            continue
        programme = _Programme(yard)
        _flow(programme, {left}, ends[0])
        _flow(programme, {right}, ends[1])
        x, sure = programme.solve()
        if x is not None:
            return programme.settings(x)
        settled = settled and sure
    return "no" if settled else "not settled"


def can_die(
    nets: Nets,
    left: int,
    right: int,
    live: Collection[tuple[Collection[int], Collection[int]]],
    fixed: Mapping[str, str],
) -> Answer:
    """Settings, the fixed ones among them, for which the two rails reach no live pair. Only turnouts that matter are
    named."""
    yard = _yard(nets, {left, right})
    if len(yard.turnouts) > MOST_TURNOUTS:
        return "not settled"
    programme = _Programme(yard)
    programme.fix(fixed)
    number = {n: k for k, n in enumerate(yard.nets)}
    reached = [programme.block(len(yard.nets)) for _ in range(2)]
    for first, start in zip(reached, (left, right), strict=True):
        programme.row({first + number[start]: 1.0}, 1.0, 1.0)
        for one, other, setting in yard.bonds:
            k, factor, constant = programme.open(setting)
            for a, b in ((one, other), (other, one)):
                # reached(b) ≥ reached(a) + open − 1
                programme.row({first + number[b]: 1.0, first + number[a]: -1.0, k: -factor}, constant - 1.0, np.inf)
    for ends in live:
        has = []
        for first, side in zip(reached, ends, strict=True):
            variable = programme.block(1)
            has.append(variable)
            for net in set(side) & set(yard.nets):
                programme.row({variable: 1.0, first + number[net]: -1.0}, 0.0, np.inf)
        programme.row({has[0]: 1.0, has[1]: 1.0}, -np.inf, 1.0)
    x, settled = programme.solve()
    if x is None:
        return "no" if settled else "not settled"
    return _that_matter(nets, (left, right), {**programme.settings(x), **fixed}, fixed)


def _that_matter(
    nets: Nets, starts: Collection[int], settings: Mapping[str, str], fixed: Mapping[str, str]
) -> dict[str, str]:
    """The settings of turnouts that touch what two rails are joined to, and the fixed ones."""
    group, edge, touched = set(starts), sorted(starts), set(fixed)
    while edge:
        for other, setting in nets.guarded.get(edge.pop(), ()):
            touched.add(setting.node)
            if settings.get(setting.node) == setting.lies and other not in group:
                group.add(other)
                edge.append(other)
    return {n: settings[n] for n in sorted(touched) if n in settings}
