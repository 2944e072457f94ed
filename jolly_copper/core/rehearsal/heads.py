"""What the heads show, by bit masks: the rule of `signals.aspects` with the same answers, some ten times quicker."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from jolly_copper.core.rehearsal.ground import Ground
from jolly_copper.core.signals.heads import ASPECTS, nearest_shown
from jolly_copper.core.signals.routes import Route

STOP, RESTRICTING, DIVERGING_APPROACH, APPROACH, DIVERGING_CLEAR, CLEAR = range(6)


@dataclass(frozen=True)
class Masked:
    """A way of a signal by bits. sections: stretches it enters. takes: their pieces and the junctions passed. crosses:
    ways it shares track with, by number. exits: number of the signal at its end, −1 for none. blind: some of it has
    no detector."""

    route: Route
    sections: int
    takes: int
    crosses: int
    exits: int
    blind: bool
    turns: bool


@dataclass
class Heads:
    """All heads of a railroad, with how the turnouts lie.

    lies: how they lie now; change them by `throw` alone.
    """

    ground: Ground
    lies: dict[str, str]
    ids: tuple[str, ...] = field(init=False)
    ways: tuple[Masked, ...] = field(init=False)
    of_head: tuple[tuple[int, ...], ...] = field(init=False)
    way_set: list[int] = field(init=False)

    def __post_init__(self) -> None:
        known = self.ground.known
        self.ids = tuple(known.routes)
        index = {s: k for k, s in enumerate(self.ids)}
        wishes = known.layout.brief.signalling
        school = wishes.school == "three aspects and diverging"
        numbers = known.number_of
        crossing = known.crossing
        self.ways = tuple(
            Masked(
                route,
                _bits(route.sections),
                self._takes(route),
                _bits(crossing[numbers[id(route)]]),
                index[route.exit] if route.exit is not None else -1,
                any(known.sensed[n].device is None for n in route.sections),
                route.turns and school,
            )
            for route in known.numbered
        )
        self.of_head = tuple(tuple(numbers[id(r)] for r in known.routes[s]) for s in self.ids)
        self._approach = tuple(1 << known.approach[s] for s in self.ids)
        self._needing: dict[str, list[int]] = {}
        for k, ways in enumerate(self.of_head):
            for n in ways:
                for setting in self.ways[n].route.needs:
                    if k not in self._needing.setdefault(setting.node, []):
                        self._needing[setting.node].append(k)
        self._shown = [
            [ASPECTS.index(nearest_shown(known.layout.signals[s], wanted)) for wanted in ASPECTS] for s in self.ids
        ]
        self._blind = RESTRICTING if wishes.restricting else STOP
        self._two = wishes.school == "two aspects"
        self.way_set = [self._set(k) for k in range(len(self.ids))]

    def _takes(self, route: Route) -> int:
        found = 0
        for n in route.sections:
            found |= self.ground.extent_mask[n]
        for node in route.nodes:
            found |= self.ground.node_bit[node]
        return found

    def _set(self, head: int) -> int:
        """The way of a head that the turnouts lie for, by number; −1 for none."""
        return next((n for n in self.of_head[head] if self.ways[n].route.lies_so(self.lies)), -1)

    def throw(self, node: str, lies: str) -> None:
        """A turnout lies otherwise."""
        self.lies[node] = lies
        for head in self._needing.get(node, ()):
            self.way_set[head] = self._set(head)

    def show(self, lit: int, kept: int = 0, promised: Mapping[int, int] | None = None) -> list[int]:
        """What every head shows, as numbers of `ASPECTS`, in the order of `ids`.

        Args:
            lit: stretches whose detector sees something, as bits.
            kept: pieces and junctions kept by trains, as bits.
            promised: for heads that a train was promised a way by and has not passed yet: the number of that way.
        """
        promised = promised or {}
        ways, way_set = self.ways, self.way_set
        asking: list[tuple[bool, bool, int]] = []
        for head, n in enumerate(way_set):
            if n < 0:
                continue
            way = ways[n]
            if way.sections & lit or not way.sections:
                continue
            mine = promised.get(head) == n
            if not mine and way.takes & kept:
                continue
            asking.append((not mine, not self._approach[head] & lit, head))
        asking.sort()
        given = 0
        cleared: list[int] = []
        for _, _, head in asking:
            n = way_set[head]
            if not ways[n].crosses & given:
                given |= 1 << n
                cleared.append(head)
        return self._aspects(cleared)

    def _aspects(self, cleared: Sequence[int]) -> list[int]:
        found = [STOP] * len(self.ids)
        for head in cleared:
            found[head] = CLEAR
        for _ in range(len(found) + 1):
            before = list(found)
            for head in cleared:
                found[head] = self._shown[head][self._wanted(self.ways[self.way_set[head]], before)]
            if found == before:
                break
        return found

    def _wanted(self, way: Masked, before: Sequence[int]) -> int:
        if way.blind:
            return self._blind
        if self._two:
            return CLEAR
        if way.exits < 0 or before[way.exits] <= RESTRICTING:
            return DIVERGING_APPROACH if way.turns else APPROACH
        return DIVERGING_CLEAR if way.turns else CLEAR


def _bits(numbers: Sequence[int]) -> int:
    found = 0
    for n in numbers:
        found |= 1 << n
    return found
