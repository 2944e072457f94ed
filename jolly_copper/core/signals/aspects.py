"""The rules: what every signal shows for a state of the railroad, and why.

A signal clears when the turnouts lie for one of its routes, every section of it is clear, and no route that crosses it
has been cleared first. Among routes that cross, the one with a train waiting for it comes first, else the signal named
first, so no two conflicting routes are ever cleared together; `interlocking` proves that by trying every state. A way
once promised to a train comes before all others, and keeps what the train has not left yet.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.ids import natural
from jolly_copper.core.layout.reading import LIES
from jolly_copper.core.layout.signalling import School
from jolly_copper.core.rails.pieces import RailMap, map_rails
from jolly_copper.core.rails.ways import Ways, map_ways
from jolly_copper.core.signals.heads import Aspect, Light, nearest_shown, shows
from jolly_copper.core.signals.kept import Kept
from jolly_copper.core.signals.occupancy import Sensed, sensing
from jolly_copper.core.signals.routes import Route, Yard

SCHOOLS: dict[School, str] = {
    "two aspects": "Stop or go: a driver who sees the next signal in time needs no more. Fewest lamps and wires.",
    "three aspects": "Stop, approach, clear: a train learns one signal ahead that it must stop, so it may run faster.",
    "three aspects and "
    "diverging": "Besides, a second head tells a train that it will leave the straight way, so that it slows for "
    "the turnout.",
}
"""The sets of rules there are, with their reasons. Common practice, no source."""


def lies_of(layout: Layout) -> dict[str, str]:
    """How everything lies that a train can be led by."""
    return {i: n.lies for i, n in layout.nodes.items() if n.kind in LIES or n.kind == "slip"}


@dataclass(frozen=True)
class Shown:
    """What a signal shows. reasons: sentences, the deciding one first. route: the one it stands for, None at stop for
    want of one. dark: its lamps rest since no train is near."""

    signal: str
    aspect: Aspect
    lights: tuple[Light, ...]
    reasons: tuple[str, ...]
    route: Route | None
    dark: bool = False


@dataclass(frozen=True)
class Signalling:
    """A railroad's signals with all their routes, ready to be asked."""

    layout: Layout
    rails: RailMap
    ways: Ways

    @cached_property
    def yard(self) -> Yard:
        return Yard(self.layout, self.rails, self.ways)

    @cached_property
    def sensed(self) -> tuple[Sensed, ...]:
        return sensing(self.layout, self.rails)

    @cached_property
    def routes(self) -> dict[str, tuple[Route, ...]]:
        """Every way each signal can lead, signals in order of their names."""
        order = sorted(self.layout.signals, key=lambda i: (natural(self.layout.signals[i].name), i))
        return {i: self.yard.routes(i) for i in order}

    @cached_property
    def approach(self) -> dict[str, int]:
        """The stretch a train stands in that waits at each signal."""
        return {
            i: self.rails.extent_of[self.rails.piece_at(s.track, s.at - 1 if s.towards == "b" else s.at + 1)]
            for i, s in self.layout.signals.items()
        }

    @cached_property
    def crossing(self) -> dict[int, tuple[int, ...]]:
        """For every route by its number in `numbered`, those of other signals that it crosses."""
        found: dict[int, list[int]] = {n: [] for n in range(len(self.numbered))}
        for n, one in enumerate(self.numbered):
            for m in range(n + 1, len(self.numbered)):
                other = self.numbered[m]
                if one.signal != other.signal and one.crosses(other):
                    found[n].append(m)
                    found[m].append(n)
        return {n: tuple(ms) for n, ms in found.items()}

    @cached_property
    def numbered(self) -> tuple[Route, ...]:
        return tuple(r for routes in self.routes.values() for r in routes)

    @cached_property
    def number_of(self) -> dict[int, int]:
        return {id(r): n for n, r in enumerate(self.numbered)}

    def set_route(self, signal: str, lies: Mapping[str, str]) -> Route | None:
        """The route of a signal the turnouts lie for."""
        return next((r for r in self.routes[signal] if r.lies_so(lies)), None)

    def cleared(
        self,
        lies: Mapping[str, str],
        occupied: Collection[int],
        only: Collection[str] | None = None,
        kept: Sequence[Kept] = (),
    ) -> tuple[dict[str, Route], dict[str, tuple[str, ...]]]:
        """Which signals are cleared for which route, and for the others why not.

        Args:
            lies: how the turnouts lie. occupied: stretches that are. only: ask these signals alone. kept: ways promised
            to trains before.
        """
        asking: list[tuple[bool, bool, int, str, Route]] = []
        held: dict[str, tuple[str, ...]] = {}
        for rank, signal in enumerate(self.routes):
            if only is not None and signal not in only:
                continue
            route = self.set_route(signal, lies)
            if route is None:
                held[signal] = (self._against(signal, lies),)
                continue
            taken = [n for n in route.sections if n in occupied]
            if taken:
                names = self.names(taken)
                held[signal] = (f"{', '.join(names)} {'is' if len(names) == 1 else 'are'} occupied.",)
            elif not route.sections:
                held[signal] = ("It protects nothing: the track ends here.",)
            elif (barring := next((k for k in kept if k.bars(route)), None)) is not None:
                held[signal] = (self._kept_words(barring),)
            else:
                mine = any(k.waiting and k.route == route for k in kept)
                asking.append((not mine, self.approach[signal] not in occupied, rank, signal, route))
        found: dict[str, Route] = {}
        given: dict[int, str] = {}
        for _, _, _, signal, route in sorted(asking, key=lambda a: a[:3]):
            number = self.number_of[id(route)]
            first = next((given[m] for m in self.crossing[number] if m in given), None)
            if first is None:
                found[signal] = route
                given[number] = signal
            else:
                name = self.layout.signals[first].name
                held[signal] = (f"{name} is cleared over the same track, and only one of the two may be.",)
        return found, held

    def _kept_words(self, kept: Kept) -> str:
        if kept.route is None:
            return "A train keeps part of this way for itself."
        name = self.layout.signals[kept.route.signal].name
        return f"{name} was given first over part of this way, and its train has not left it yet."

    def _against(self, signal: str, lies: Mapping[str, str]) -> str:
        """Which turnout lies against every way of a signal."""
        best = min(self.routes[signal], key=lambda r: sum(lies.get(s.node) != s.lies for s in r.needs), default=None)
        if best is None:
            return "It leads nowhere: the track ends, or trains run the other way."
        wrong = [s for s in best.needs if lies.get(s.node) != s.lies]
        names = " and ".join(f"{self.layout.nodes[s.node].name or s.node} lies {lies.get(s.node)}" for s in wrong)
        return f"{names}: against this way."

    def show(
        self,
        lies: Mapping[str, str],
        occupied: Collection[int],
        near: Collection[int] = (),
        kept: Sequence[Kept] = (),
    ) -> dict[str, Shown]:
        """What every signal shows.

        Args:
            lies: how the turnouts lie.
            occupied: numbers of the stretches whose detectors see something.
            near: numbers of stretches that count as a train coming near, besides those occupied, for lamps lit on
            approach.
            kept: ways promised to trains before; they come first, and hold what their trains have not left.
        """
        cleared, held = self.cleared(lies, occupied, kept=kept)
        lit = self.layout.brief.signalling.approach_lit
        signals = self.layout.signals

        # Every cleared signal starts from its best, and all come down together until nothing changes: so a ring without
        # a train is clear all round, whichever signal is asked first.
        aspects: dict[str, Aspect] = {i: "clear" if i in cleared else "stop" for i in self.routes}
        reasons: dict[str, tuple[str, ...]] = dict(held)
        for _ in range(len(aspects) + 1):
            before = dict(aspects)
            for i, route in cleared.items():
                wanted, why = self._wanted(route, before)
                aspects[i] = nearest_shown(signals[i], wanted)
                reasons[i] = (
                    why if aspects[i] == wanted else (*why, f"It cannot show {wanted}, so it shows {aspects[i]}.")
                )
            if aspects == before:
                break
        return {
            i: Shown(
                i,
                aspect,
                shows(signals[i], aspect),
                reasons[i],
                cleared.get(i) or self.set_route(i, lies),
                lit and self.approach[i] not in occupied and self.approach[i] not in near,
            )
            for i, aspect in aspects.items()
        }

    def names(self, sections: Sequence[int]) -> list[str]:
        """What sections are called, those behind one channel once."""
        found: dict[object, str] = {}
        for n in sections:
            sensed = self.sensed[n]
            key = sensed.device or n
            found[key] = min(found.get(key, sensed.name), sensed.name, key=len)
        return list(found.values())

    def _wanted(self, route: Route, aspects: Mapping[str, Aspect]) -> tuple[Aspect, tuple[str, ...]]:
        """The aspect the rules want for a cleared route, with the others as they stand."""
        layout, wishes = self.layout, self.layout.brief.signalling
        names = self.names(route.sections)
        clear = f"{', '.join(names)} {'is' if len(names) == 1 else 'are'} clear" + (
            f" and {', '.join(f'{layout.nodes[s.node].name or s.node} lies {s.lies}' for s in route.needs)}."
            if route.needs
            else "."
        )
        blind = [self.sensed[n].name for n in route.sections if self.sensed[n].device is None]
        if blind:
            why = f"Nothing detects a train on {', '.join(blind)}."
            return ("restricting", (why, clear)) if wishes.restricting else ("stop", (why,))
        if wishes.school == "two aspects":
            return "clear", (clear,)
        turns = route.turns and wishes.school == "three aspects and diverging"
        if route.exit is None:
            where = {"bumper": "The track ends at a bumper", "pit": "The way ends at a pit"}.get(
                route.ends, "No signal follows"
            )
            return ("diverging approach" if turns else "approach"), (f"{where}: be ready to stop there.", clear)
        beyond = aspects[route.exit]
        told = f"The next signal, {layout.signals[route.exit].name}, shows {beyond}."
        if beyond in ("stop", "restricting"):
            return ("diverging approach" if turns else "approach"), (told, clear)
        if turns:
            return "diverging clear", ("The way leaves the straight at a turnout.", told, clear)
        return "clear", (told, clear)


def signalling_of(facts: Facts) -> Signalling:
    """The signals of a worked-out layout, worked out once for all who ask."""
    found = facts.kept.get("signalling")
    if not isinstance(found, Signalling):
        facts.kept["signalling"] = found = Signalling(facts.layout, facts.rails, facts.topology.ways)
    return found


def signalling(layout: Layout) -> Signalling:
    """The signals of a layout, from the rails alone."""
    return Signalling(layout, map_rails(layout), map_ways(layout))
