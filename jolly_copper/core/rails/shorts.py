"""Dead shorts the track itself makes, each with the rails from feeder to feeder and the turnouts that close it."""

from __future__ import annotations

import itertools
from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from jolly_copper.core.layout.control import a_side
from jolly_copper.core.rails.nets import Clash, Nets, Potential, Rail, Sources
from jolly_copper.core.rails.pieces import Joined, Setting, opposite
from jolly_copper.core.rails.switching import can_join

Kind = Clash
MOST_STEPS = 3000
"""Search steps in one yard before each pair of wires there goes to an integer programme, which shows one case."""


@dataclass(frozen=True)
class Short:
    """Two feeders joined by rail though their wires differ.

    kind: `short` (opposite conductors), `bypass` (a reverser's output joined to anything else: it cannot turn over),
    `districts` (two breakers of one booster bridged), `boosters` (two boosters bridged), `selectors` (some lie of a
    selector feeds one rail from two sources). settings: the turnouts that
    close it, empty when it is always there. rails: the way, from the first feeder's rail to the other's. yard: the
    number of the metal it is in, over all settings. one_of_many: other settings join the same wires there, too many to
    name.
    """

    kind: Kind
    one: str
    one_conductor: Literal["A", "B"]
    other: str
    other_conductor: Literal["A", "B"]
    settings: tuple[Setting, ...]
    rails: tuple[Rail, ...]
    yard: int = 0
    one_of_many: bool = False


@dataclass(frozen=True)
class Shorts:
    """All shorts found, and whether some pair of wires could not be settled within the bound on the work."""

    found: tuple[Short, ...]
    settled: bool


def find_shorts(nets: Nets, sources: Sources) -> Shorts:
    """Every minimal short, one for each set of turnouts and each pair of wires that meet.

    Vertices are nets, edges the bonds a turnout's setting makes. A path from a fed net through unfed nets to another
    fed net is a short in exactly the states it names, provided it never needs one turnout both ways. Yards with too
    many such paths to follow are asked for one case of each pair of wires instead, which is exact all the same.
    """
    yards = _yards(nets)
    found: list[Short] = []
    settled = True
    for number, members in enumerate(yards):
        fed = sorted(n for n in members if n in nets.fed)
        here: dict[tuple[object, ...], Short] = {}
        for net in fed:
            for a, b in itertools.combinations(_one_each(nets.fed[net]), 2):
                _take(nets, sources, here, a, b, (), number)
        steps = [MOST_STEPS]
        by_path = dict(here)
        for start in fed:
            for goal, state in _paths(nets, start, steps):
                for a, b in itertools.product(_one_each(nets.fed[start]), _one_each(nets.fed[goal])):
                    _take(nets, sources, by_path, a, b, state, number)
        if steps[0] < 0:
            sure = _one_case_each(nets, sources, fed, here, number)
            settled = settled and sure
        else:
            here = by_path
        found += _minimal(list(here.values()))
    return Shorts(tuple(found), settled)


Fed = tuple[str, Potential]


def _yards(nets: Nets) -> list[list[int]]:
    """Nets that some settings or other join, in the order of the nets."""
    joined = Joined()
    for net in nets.rails_of:
        joined.find(net)
        for other, _ in nets.guarded.get(net, ()):
            joined.join(net, other)
    groups: dict[object, list[int]] = {}
    for net in nets.rails_of:
        groups.setdefault(joined.find(net), []).append(net)
    return list(groups.values())


def _take(
    nets: Nets,
    sources: Sources,
    found: dict[tuple[object, ...], Short],
    a: Fed,
    b: Fed,
    state: tuple[Setting, ...],
    yard: int,
    one_of_many: bool = False,
) -> None:
    kind = sources.clash(a[1], b[1])
    if kind is None:
        return
    key = (state, kind, *sorted((a[1], b[1])))
    if key not in found:
        found[key] = _short(nets, kind, a, b, state, yard, one_of_many)


def _one_case_each(
    nets: Nets, sources: Sources, fed: list[int], found: dict[tuple[object, ...], Short], yard: int
) -> bool:
    """For every pair of wires in a yard that clash, one case where they meet; whether every pair was settled."""
    carrying: dict[Potential, list[int]] = defaultdict(list)
    feeder: dict[tuple[int, Potential], str] = {}
    for net in fed:
        for name, potential in _one_each(nets.fed[net]):
            carrying[potential].append(net)
            feeder[net, potential] = name
    settled = True
    for p, q in itertools.combinations(sorted(carrying), 2):
        starts, goals = set(carrying[p]) - set(carrying[q]), set(carrying[q]) - set(carrying[p])
        if sources.clash(p, q) is None or not starts or not goals:
            continue
        closed = set(fed) - starts - goals
        state = can_join(nets, starts, goals, closed)
        if state == "not settled":
            settled = False
        elif state != "no":
            ends = _ends(nets, state, starts, goals)
            if ends is not None:
                a, b = (feeder[ends[0], p], p), (feeder[ends[1], q], q)
                _take(nets, sources, found, a, b, state, yard, one_of_many=True)
    return settled


def _ends(nets: Nets, state: tuple[Setting, ...], starts: set[int], goals: set[int]) -> tuple[int, int] | None:
    """Which two of these nets some settings join."""
    group = nets.routes({s.node: s.lies for s in state})
    return next(((s, g) for s in sorted(starts) for g in sorted(goals) if group[s] == group[g]), None)


def _one_each(feeds: tuple[Fed, ...]) -> list[Fed]:
    """One feeder for each potential: the first by name stands for its mates."""
    first: dict[Potential, str] = {}
    for feeder, potential in sorted(feeds):
        first.setdefault(potential, feeder)
    return [(f, p) for p, f in first.items()]


def _paths(nets: Nets, start: int, steps: list[int]) -> list[tuple[int, tuple[Setting, ...]]]:
    """Fed nets that can be reached from a fed net through unfed ones, each with the settings it takes, while steps
    last."""
    found: list[tuple[int, tuple[Setting, ...]]] = []
    stack: list[tuple[int, dict[str, str], frozenset[int]]] = [(start, {}, frozenset((start,)))]
    while stack and steps[0] >= 0:
        net, state, seen = stack.pop()
        for other, setting in nets.guarded.get(net, ()):
            steps[0] -= 1
            if other in seen or state.get(setting.node, setting.lies) != setting.lies:
                continue
            then = {**state, setting.node: setting.lies}
            if other in nets.fed:
                if other > start:
                    found.append((other, tuple(sorted(Setting(n, s) for n, s in then.items()))))
                continue
            stack.append((other, then, seen | {other}))
    return found


def _minimal(shorts: list[Short]) -> list[Short]:
    """Leave out a short whose turnouts already close a smaller one between the same wires of the same yard."""
    by_pair: dict[object, list[Short]] = defaultdict(list)
    for short in sorted(shorts, key=lambda s: (len(s.settings), s.settings, s.one, s.other)):
        mates = by_pair[short.kind]
        if not any(set(m.settings) < set(short.settings) for m in mates):
            mates.append(short)
    return [s for mates in by_pair.values() for s in mates]


def _short(
    nets: Nets, kind: Kind, one: Fed, other: Fed, state: tuple[Setting, ...], yard: int, one_of_many: bool
) -> Short:
    settings: Mapping[str, str] = {s.node: s.lies for s in state}
    rails = nets.path(feeder_rail(nets, *one), feeder_rail(nets, *other), settings)
    return Short(kind, one[0], one[1].conductor, other[0], other[1].conductor, state, tuple(rails), yard, one_of_many)


def feeder_rail(nets: Nets, feeder_id: str, potential: Potential) -> Rail:
    """The rail that this conductor of a feeder is soldered to."""
    feeder = nets.layout.feeders[feeder_id]
    a = a_side(nets.layout, feeder)
    side = a if potential.conductor == "A" else opposite(a)
    return Rail(nets.rails.piece_at(feeder.track, feeder.at), side)
