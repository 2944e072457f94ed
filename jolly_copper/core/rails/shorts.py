"""Dead shorts the track itself makes, each with the rails from feeder to feeder and the turnouts that close it."""

from __future__ import annotations

import itertools
from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from jolly_copper.core.rails.nets import Nets, Potential, Rail, Sources
from jolly_copper.core.rails.pieces import Setting, opposite

Kind = Literal["short", "bypass", "districts", "boosters"]
MOST_STEPS = 20_000
"""Search steps in all; plans of hundreds of power-routing turnouts stay far below."""


@dataclass(frozen=True)
class Short:
    """Two feeders joined by rail though their wires differ.

    kind: `short` (opposite conductors), `bypass` (a reverser's output joined to anything else: it cannot turn over),
    `districts` (two breakers of one booster bridged), `boosters` (two boosters bridged). settings: the turnouts that
    close it, empty when it is always there. rails: the way, from the first feeder's rail to the other's.
    """

    kind: Kind
    one: str
    one_conductor: Literal["A", "B"]
    other: str
    other_conductor: Literal["A", "B"]
    settings: tuple[Setting, ...]
    rails: tuple[Rail, ...]


def find_shorts(nets: Nets, sources: Sources) -> list[Short]:
    """Every minimal short, one for each set of turnouts and each pair of circuits that meet.

    Vertices are nets, edges the bonds a turnout's setting makes. A path from a fed net through unfed nets to another
    fed net is a short in exactly the states it names, provided it never needs one turnout both ways.
    """
    found: dict[tuple[object, ...], Short] = {}

    def take(a: tuple[str, Potential], b: tuple[str, Potential], state: tuple[Setting, ...]) -> None:
        kind = sources.clash(a[1], b[1])
        if kind is None:
            return
        key = (state, kind, *sorted((a[1], b[1])))
        if key not in found:
            found[key] = _short(nets, kind, a, b, state)

    for feeds in nets.fed.values():
        for a, b in itertools.combinations(_one_each(feeds), 2):
            take(a, b, ())
    for start in sorted(nets.fed):
        for goal, state in _paths(nets, start):
            for a, b in itertools.product(_one_each(nets.fed[start]), _one_each(nets.fed[goal])):
                take(a, b, state)
    return _minimal(list(found.values()))


def _one_each(feeds: tuple[tuple[str, Potential], ...]) -> list[tuple[str, Potential]]:
    """One feeder for each potential: the first by name stands for its mates."""
    first: dict[Potential, str] = {}
    for feeder, potential in sorted(feeds):
        first.setdefault(potential, feeder)
    return [(f, p) for p, f in first.items()]


def _paths(nets: Nets, start: int) -> list[tuple[int, tuple[Setting, ...]]]:
    """Fed nets that can be reached from a fed net through unfed ones, each with the settings it takes."""
    found: list[tuple[int, tuple[Setting, ...]]] = []
    steps = 0
    stack: list[tuple[int, dict[str, str], frozenset[int]]] = [(start, {}, frozenset((start,)))]
    while stack and steps < MOST_STEPS:
        net, state, seen = stack.pop()
        for other, setting in nets.guarded.get(net, ()):
            steps += 1
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
    """Leave out a short whose turnouts already close a smaller one between the same circuits."""
    by_pair: dict[object, list[Short]] = defaultdict(list)
    for short in sorted(shorts, key=lambda s: (len(s.settings), s.settings, s.one, s.other)):
        mates = by_pair[short.kind]
        if not any(set(m.settings) < set(short.settings) for m in mates):
            mates.append(short)
    return [s for mates in by_pair.values() for s in mates]


def _short(
    nets: Nets, kind: Kind, one: tuple[str, Potential], other: tuple[str, Potential], state: tuple[Setting, ...]
) -> Short:
    settings: Mapping[str, str] = {s.node: s.lies for s in state}
    rails = nets.path(feeder_rail(nets, *one), feeder_rail(nets, *other), settings)
    return Short(kind, one[0], one[1].conductor, other[0], other[1].conductor, state, tuple(rails))


def feeder_rail(nets: Nets, feeder_id: str, potential: Potential) -> Rail:
    """The rail that this conductor of a feeder is soldered to."""
    feeder = nets.layout.feeders[feeder_id]
    side = feeder.a_rail if potential.conductor == "A" else opposite(feeder.a_rail)
    return Rail(nets.rails.piece_at(feeder.track, feeder.at), side)
