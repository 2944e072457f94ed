"""Connectors for every joint of boards that travel: fewest of kinds the club owns, unlike volts never mating."""

from __future__ import annotations

import itertools
import string
from collections import Counter, defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from scipy import sparse
from scipy.optimize import Bounds, LinearConstraint, milp

from jolly_copper.core.circuits.edits import Patch
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.ids import natural, next_id
from jolly_copper.core.layout.travel import Connector
from jolly_copper.core.quantities import print_current
from jolly_copper.core.travel.couplings import takes_wire
from jolly_copper.core.travel.crossing import (
    POWER_FIRST,
    BoardJoint,
    Boards,
    Crossing,
    Power,
    board_joints,
    joint_name,
)

SECONDS_AT_MOST = 5.0
MOST_PATTERNS = 4000
"""Ways to fill one connector at one joint; beyond it only those of like wires are tried."""
WITHOUT, BOUGHT, POLE = 1000.0, 50.0, 0.001
"""Costs against one connector: a wire with no pole, a connector to buy, a pole."""

Class = tuple[str, float]
"""Of power: its kind and its volts. Two classes never share a kind of connector keyed alike."""


@dataclass(frozen=True)
class Item:
    """Wires that stay together: of a crossing, from its wire `first` on. kinds: of connector that hold them."""

    crossing: Crossing
    first: int
    wires: int
    kinds: tuple[str, ...]

    @property
    def alike(self) -> tuple[int, tuple[str, ...]]:
        """Items that fill connectors in the same way."""
        return self.wires, self.kinds


@dataclass(frozen=True)
class Group:
    """What may share a connector: of one joint, one class of power, fed from one side."""

    boards: Boards
    power: Power
    live: str | None
    items: tuple[Item, ...]

    @property
    def of(self) -> Class:
        """Its class of power."""
        return self.power.kind, self.power.volts


@dataclass(frozen=True)
class Chosen:
    """A connector at a joint: its kind, how it is keyed, what goes through it in the order of its poles."""

    boards: Boards
    power: Power
    live: str | None
    kind: str
    coding: int
    items: tuple[Item, ...]
    name: str = ""


@dataclass(frozen=True)
class CouplingOffer:
    """A proposal. left: sentences on what it holds no pole for. bought: how many of each kind to buy beside those on
    hand. settled: no better answer exists; false where time ran out first."""

    patch: Patch
    chosen: tuple[Chosen, ...]
    left: tuple[str, ...]
    bought: dict[str, int]
    plugs: int
    settled: bool


def propose_couplings(layout: Layout) -> CouplingOffer:
    """Connectors for all that crosses joints.

    Fewest wires without a pole come first, then fewest connectors bought, then fewest connectors, then fewest poles: a
    small integer programme over the ways each kind may be filled. What has no plug yet is given one.
    """
    plugs, joints = _with_plugs(layout, board_joints(layout))
    groups = _groups(layout, joints)
    fewest, settled = fewest_connectors(layout.connectors, groups)
    chosen = _named(layout, _keyed(layout, fewest))
    patch: Patch = [
        *({"op": "add", "path": f"/plugs/{i}", "value": v} for i, v in plugs.items()),
        {"op": "add", "path": "/couplings", "value": {f"J{c.name}": _written(c) for c in chosen}},
    ]
    used = Counter(c.kind for c in chosen)
    bought = {k: n - c.on_hand for k, n in sorted(used.items()) if n > (c := layout.connectors[k]).on_hand}
    left = tuple(_left(layout, groups, chosen))
    return CouplingOffer(patch if chosen or plugs else [], chosen, left, bought, len(plugs), settled)


def _written(chosen: Chosen) -> dict[str, Any]:
    return {
        "name": chosen.name,
        "boards": [b for b in chosen.boards if b is not None],
        "kind": chosen.kind,
        "coding": chosen.coding,
        "socket_on": chosen.live,
        "holds": [{"of": i.crossing.key, "first": i.first, "wires": i.wires} for i in chosen.items],
    }


def _with_plugs(
    layout: Layout, joints: Sequence[BoardJoint]
) -> tuple[dict[str, dict[str, Any]], tuple[BoardJoint, ...]]:
    """Plugs that are missing, and the joints as they are with them."""
    taken, plugs, found = set(layout.plugs), {}, []
    for joint in joints:
        crossings = []
        for c in joint.crossings:
            if c.key is None:
                new = next_id(taken, "P")
                taken.add(new)
                plugs[new] = {"run": c.owner, "along": round(c.along, 1)}
                c = replace(c, key=f"plug:{new}")
            crossings.append(c)
        found.append(replace(joint, crossings=tuple(crossings)))
    return plugs, tuple(found)


def holds_wire(kind: Connector, crossing: Crossing) -> bool:
    """Whether a pole of a kind takes one wire of a crossing: its gauge, and its amps where they are known."""
    return takes_wire(kind, crossing.gauge) and (crossing.amps is None or crossing.amps <= kind.amps + 1e-9)


def _groups(layout: Layout, joints: Sequence[BoardJoint]) -> list[Group]:
    found: dict[tuple[Boards, Class, str | None], list[Crossing]] = defaultdict(list)
    for joint in joints:
        for c in joint.crossings:
            found[joint.boards, (c.power.kind, c.power.volts), c.live].append(c)
    return [
        Group(boards, members[0].power, live, tuple(i for c in members for i in _items(layout.connectors, c)))
        for (boards, _, live), members in found.items()
    ]


def _items(kinds: dict[str, Connector], crossing: Crossing) -> Iterator[Item]:
    """A crossing as it stays together: whole where a connector has poles enough, else in equal parts."""
    fit = [i for i, k in kinds.items() if holds_wire(k, crossing)]
    wires = len(crossing.colours)
    most = max((kinds[i].poles for i in fit), default=wires)
    parts = -(-wires // most)
    first = 1
    for n in range(parts):
        size = wires // parts + (n < wires % parts)
        yield Item(crossing, first, size, tuple(i for i in fit if kinds[i].poles >= size))
        first += size


def fewest_connectors(kinds: dict[str, Connector], groups: Sequence[Group]) -> tuple[list[Chosen], bool]:
    """The fewest connectors that hold all that can be held, not keyed yet; and whether no better answer exists.

    Args:
        kinds: connectors owned, by id. groups: what may share one.
    """
    ways, settled = _choose(kinds, groups)
    return [c for g, taken in zip(groups, ways, strict=True) for c in _filled(g, taken)], settled


def _patterns(poles: int, wires: Sequence[tuple[int, int]]) -> Iterator[tuple[int, ...]]:
    """Ways to fill a connector that take no further item. wires: poles an item takes, and how many such items there
    are."""
    if not wires:
        yield ()
        return
    (each, count), rest = wires[0], wires[1:]
    for n in range(min(count, poles // each), -1, -1):
        for more in _patterns(poles - n * each, rest):
            yield n, *more


@dataclass(frozen=True)
class _Way:
    group: int
    kind: str
    takes: tuple[tuple[tuple[int, tuple[str, ...]], int], ...]


def _ways(kinds: dict[str, Connector], groups: Sequence[Group]) -> tuple[list[_Way], bool]:
    """Ways to fill connectors at each joint; whether they are all of them."""
    found: list[_Way] = []
    whole = True
    for g, group in enumerate(groups):
        counts = Counter(i.alike for i in group.items)
        for kind, connector in kinds.items():
            fit = sorted(a for a in counts if kind in a[1])
            ways = list(
                itertools.islice(_patterns(connector.poles, [(a[0], counts[a]) for a in fit]), MOST_PATTERNS + 1)
            )
            whole = whole and len(ways) <= MOST_PATTERNS
            full = [w for w in ways[:MOST_PATTERNS] if any(w) and not _takes_more(w, fit, counts, connector.poles)]
            found += [_Way(g, kind, tuple((a, n) for a, n in zip(fit, w, strict=True) if n)) for w in full]
    return found, whole


def _takes_more(
    way: Sequence[int],
    fit: Sequence[tuple[int, tuple[str, ...]]],
    counts: Counter[tuple[int, tuple[str, ...]]],
    poles: int,
) -> bool:
    left = poles - sum(n * a[0] for n, a in zip(way, fit, strict=True))
    return any(n < counts[a] and a[0] <= left for n, a in zip(way, fit, strict=True))


def _choose(kinds: dict[str, Connector], groups: Sequence[Group]) -> tuple[list[list[_Way]], bool]:
    """The ways taken at each group, and whether nothing better exists."""
    ways, whole = _ways(kinds, groups)
    wants = [
        (g, a, n) for g, group in enumerate(groups) for a, n in sorted(Counter(i.alike for i in group.items).items())
    ]
    if not ways:
        return [[] for _ in groups], True
    classes = sorted({g.of for g in groups})
    uses = [(c, k) for c in classes for k in kinds]
    stock = list(kinds)
    # Columns: ways, wires without a pole, whether a class uses a kind, bought of each kind.
    w, s, u, b = len(ways), len(wants), len(uses), len(stock)
    cost = np.concatenate(
        [
            [1 + POLE * kinds[x.kind].poles for x in ways],
            [WITHOUT * a[0] for _, a, _ in wants],
            np.zeros(u),
            np.full(b, BOUGHT),
        ]
    )
    cells_of: list[dict[int, float]] = []
    low: list[float] = []
    high: list[float] = []

    def row(cells: dict[int, float], least: float, most: float) -> None:
        cells_of.append(cells)
        low.append(least)
        high.append(most)

    for n, (g, a, count) in enumerate(wants):
        cells = {k: float(dict(x.takes).get(a, 0)) for k, x in enumerate(ways) if x.group == g}
        row({**cells, w + n: 1.0}, count, np.inf)
    total = sum(n for _, _, n in wants)
    for n, (of, kind) in enumerate(uses):
        mine = {k: 1.0 for k, x in enumerate(ways) if x.kind == kind and groups[x.group].of == of}
        row({**mine, w + s + n: -float(total)}, -np.inf, 0)
    for kind, connector in kinds.items():
        row({w + s + n: 1.0 for n, (_, k) in enumerate(uses) if k == kind}, 0, connector.codings)
    for n, kind in enumerate(stock):
        mine = {k: 1.0 for k, x in enumerate(ways) if x.kind == kind}
        row({**mine, w + s + u + n: -1.0}, -np.inf, kinds[kind].on_hand)
    most = np.concatenate(
        [
            np.full(w, total),
            [n for _, _, n in wants],
            np.ones(u),
            [total if kinds[k].buy else 0 for k in stock],
        ]
    )
    entries = [(r, at, value) for r, line in enumerate(cells_of) for at, value in line.items() if value]
    r, at, value = zip(*entries, strict=True)
    matrix = sparse.csr_matrix((value, (r, at)), shape=(len(cells_of), w + s + u + b))
    found = milp(
        cost,
        constraints=LinearConstraint(matrix, low, high),
        bounds=Bounds(0, most),
        integrality=np.ones(w + s + u + b),
        options={"time_limit": SECONDS_AT_MOST},
    )
    taken: list[list[_Way]] = [[] for _ in groups]
    if found.x is None:
        return taken, False
    for way, count in zip(ways, np.rint(found.x[:w]).astype(int), strict=True):
        taken[way.group] += [way] * int(count)
    return taken, whole and found.status == 0


def _filled(group: Group, ways: Sequence[_Way]) -> Iterator[Chosen]:
    """Connectors of a group with the items that go through each; those that stay empty are left out."""
    waiting: dict[tuple[int, tuple[str, ...]], list[Item]] = defaultdict(list)
    for item in sorted(group.items, key=lambda i: (natural(i.crossing.label), i.first)):
        waiting[item.alike].append(item)
    for way in ways:
        mine = [waiting[a].pop(0) for a, n in way.takes for _ in range(min(n, len(waiting[a])))]
        if mine:
            yield Chosen(group.boards, group.power, group.live, way.kind, 1, tuple(mine))


def _keyed(layout: Layout, chosen: Sequence[Chosen]) -> list[Chosen]:
    """Each keyed: classes of power never alike; what is left over parts those at one joint from each other."""
    classes: dict[str, list[Class]] = defaultdict(list)
    for c in chosen:
        of = (c.power.kind, c.power.volts)
        if of not in classes[c.kind]:
            classes[c.kind].append(of)
    found: list[Chosen] = []
    seen: Counter[tuple[Boards, str, Class]] = Counter()
    for c in chosen:
        of = (c.power.kind, c.power.volts)
        mine = sorted(classes[c.kind]).index(of) + 1
        own = range(mine, layout.connectors[c.kind].codings + 1, len(classes[c.kind]))
        found.append(replace(c, coding=own[seen[c.boards, c.kind, of] % len(own)]))
        seen[c.boards, c.kind, of] += 1
    return found


def _named(layout: Layout, chosen: Sequence[Chosen]) -> tuple[Chosen, ...]:
    """Named by joint and letter, power first: 1A, 1B, 2A."""
    joints = list(dict.fromkeys(c.boards for c in chosen))
    found: list[Chosen] = []
    for n, boards in enumerate(joints, start=1):
        here = sorted(
            (c for c in chosen if c.boards == boards),
            key=lambda c: (POWER_FIRST.index(c.power.kind), c.power.volts, c.kind),
        )
        found += [replace(c, name=f"{n}{letter}") for c, letter in zip(here, _letters(), strict=False)]
    return tuple(found)


def _letters() -> Iterator[str]:
    for size in itertools.count(1):
        yield from ("".join(x) for x in itertools.product(string.ascii_uppercase, repeat=size))


def _left(layout: Layout, groups: Sequence[Group], chosen: Sequence[Chosen]) -> Iterator[str]:
    """What has no pole, in sentences that name it and say why."""
    held = {(i.crossing.key, i.first) for c in chosen for i in c.items}
    for group in groups:
        for item in group.items:
            if (item.crossing.key, item.first) in held:
                continue
            c = item.crossing
            between = joint_name(layout, group.boards)
            amps = f", {print_current(c.amps)}" if c.amps is not None else ""
            why = (
                f"no connector of yours takes {c.gauge}{amps}"
                if not item.kinds
                else "there are too few of the connectors that would take it, or too few ways to key them"
            )
            yield f"{c.label} between {between} ({item.wires} × {c.gauge}{amps}): {why}."
