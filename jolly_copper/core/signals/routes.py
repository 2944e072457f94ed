"""Where a train goes from a place when the turnouts lie so, and every way a signal can lead."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Literal, NamedTuple

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.reading import LIES, track_length
from jolly_copper.core.layout.signalling import Signal
from jolly_copper.core.rails.pieces import RailMap, Setting, is_in
from jolly_copper.core.rails.ways import TrackEnd, Ways

BEFORE_GAP_MM = 300.0
"""A signal stands at most so far before the gap of what it protects."""
MOST_STEPS = 60
MOST_ROUTES = 48


class Leg(NamedTuple):
    """A stretch of one track driven over: from `start` to `finish`, mm from its A end (start > finish going towards
    A)."""

    track: str
    start: float
    finish: float

    @property
    def low(self) -> float:
        return min(self.start, self.finish)

    @property
    def high(self) -> float:
        return max(self.start, self.finish)


@dataclass(frozen=True)
class Step:
    """How a train goes on from a track end: over which end it enters the next track, what setting that takes, and
    whether it turned off. None: it cannot go on."""

    end: TrackEnd | None
    needs: tuple[Setting, ...]
    turns: bool
    node: str


def steps_on(layout: Layout, ways: Ways, arriving: TrackEnd) -> list[Step]:
    """Every way on from a track end: one on plain track, one for each leg a facing turnout offers, none at a bumper or
    pit."""
    track = layout.tracks[arriving.track]
    port = track.a if arriving.end == "a" else track.b
    node = layout.nodes[port.node]
    found = []
    for end in ways.onward(arriving) if node.kind not in ("turntable", "traverser") else ():
        other = layout.tracks[end.track]
        leaving = (other.a if end.end == "a" else other.b).port
        needs: tuple[Setting, ...] = ()
        turns = False
        if node.kind in LIES:
            leg = leaving if is_in(port.port) else port.port
            needs = (Setting(port.node, leg),)
            turns = leg != "through"
        elif node.kind == "slip":
            turns = port.port[-1] != leaving[-1]
            needs = (Setting(port.node, "diverging" if turns else "through"),)
        found.append(Step(end, needs, turns, port.node))
    return found


@dataclass(frozen=True)
class Route:
    """A way from a signal to the next one for the same direction, or to where the track ends.

    needs: how turnouts must lie. legs: track driven over, in order, from the signal on. sections: stretches between
    gaps (numbers in the rail map) it enters, in order; the one the signal itself stands in is not among them where a
    gap lies just ahead. exit: the signal it ends at. ends: what is there. turns: it leaves the straight way at a
    turnout.
    """

    signal: str
    needs: tuple[Setting, ...]
    legs: tuple[Leg, ...]
    nodes: tuple[str, ...]
    sections: tuple[int, ...]
    exit: str | None
    ends: Literal["signal", "bumper", "pit", "too far", "open"]
    turns: bool

    @cached_property
    def settings(self) -> dict[str, str]:
        return {s.node: s.lies for s in self.needs}

    def lies_so(self, lies: Mapping[str, str]) -> bool:
        """Whether the turnouts lie for it."""
        return all(lies.get(s.node) == s.lies for s in self.needs)

    def crosses(self, other: Route) -> bool:
        """Whether two trains, one on each, may meet: they share track or a place where tracks meet."""
        if set(self.nodes) & set(other.nodes):
            return True
        return any(
            a.track == b.track and min(a.high, b.high) - max(a.low, b.low) > 1 for a in self.legs for b in other.legs
        )


@dataclass(frozen=True)
class Yard:
    """What routes are made of: a layout's ways, rails, and its signals by track and direction."""

    layout: Layout
    rails: RailMap
    ways: Ways

    @cached_property
    def along(self) -> dict[tuple[str, str], tuple[tuple[float, str], ...]]:
        """Signals of each track for one direction, in the order a train meets them."""
        found: dict[tuple[str, str], list[tuple[float, str]]] = {}
        for i, s in self.layout.signals.items():
            found.setdefault((s.track, s.towards), []).append((s.at, i))
        return {k: tuple(sorted(v, reverse=k[1] == "a")) for k, v in found.items()}

    def next_signal(self, track: str, towards: str, after: float) -> tuple[float, str] | None:
        """The next signal for this direction on a track."""
        for at, i in self.along.get((track, towards), ()):
            if (at > after + 0.5) if towards == "b" else (at < after - 0.5):
                return at, i
        return None

    def sections_of(self, legs: Sequence[Leg]) -> tuple[int, ...]:
        """The stretches between gaps that legs run through, in order, each once."""
        found: dict[int, None] = {}
        for leg in legs:
            pieces = self.rails.pieces[leg.track]
            for piece in pieces if leg.start <= leg.finish else reversed(pieces):
                if min(piece.end, leg.high) - max(piece.start, leg.low) > 0.5:
                    found[self.rails.extent_of[piece]] = None
        return tuple(found)

    def gap_ahead(self, signal: Signal) -> tuple[int, float] | None:
        """The gap just ahead of a signal, perhaps on the next track: how many plain joints lie before it, and its place
        in mm from the A end of the track it is on. None where there is none near."""
        end, at, left = TrackEnd(signal.track, signal.towards), signal.at, BEFORE_GAP_MM
        for joints in range(MOST_STEPS):
            pieces, length = self.rails.pieces[end.track], self.rails.lengths[end.track]
            ahead = [m for p in pieces[:-1] if 0 <= (m := p.end - at if end.end == "b" else at - p.end) <= left]
            if ahead:
                return joints, at + min(ahead) * (1 if end.end == "b" else -1)
            left -= length - at if end.end == "b" else at
            port = getattr(self.layout.tracks[end.track], end.end)
            if left < 0 or self.layout.nodes[port.node].kind != "joint":
                return None
            on = next(iter(self.ways.onward(end)), None)
            if on is None:
                return None
            beyond = self.rails.pieces[on.track]
            here, there = pieces[-1 if end.end == "b" else 0], beyond[0 if on.end == "a" else -1]
            at = 0.0 if on.end == "a" else self.rails.lengths[on.track]
            if self.rails.extent_of[here] != self.rails.extent_of[there]:
                return joints + 1, at
            end = on.far
        return None

    def routes(self, signal_id: str) -> tuple[Route, ...]:
        """Every way a signal can lead."""
        signal = self.layout.signals[signal_id]
        return tuple(self._routes(signal_id, signal))

    def _routes(self, signal_id: str, signal: Signal) -> Iterator[Route]:
        gap = self.gap_ahead(signal)
        stack: list[tuple[TrackEnd, float, tuple[Leg, ...], tuple[Setting, ...], tuple[str, ...], bool]] = []
        stack.append((TrackEnd(signal.track, "b" if signal.towards == "b" else "a"), signal.at, (), (), (), False))
        count = 0
        while stack and count < MOST_ROUTES:
            end, at, legs, needs, nodes, turns = stack.pop()
            beyond = self.next_signal(end.track, end.end, at)
            length = self.rails.lengths[end.track]
            if beyond is not None:
                count += 1
                yield self._route(
                    signal_id, gap, (*legs, Leg(end.track, at, beyond[0])), needs, nodes, beyond[1], "signal", turns
                )
                continue
            legs = (*legs, Leg(end.track, at, length if end.end == "b" else 0.0))
            on = steps_on(self.layout, self.ways, end)
            if on and all(self._against(s.end) for s in on if s.end is not None):
                continue  # it would lead only where trains run the other way
            if not on or len(legs) > MOST_STEPS:
                port = getattr(self.layout.tracks[end.track], end.end)
                kind = self.layout.nodes[port.node].kind
                ends: Literal["bumper", "pit", "too far", "open"] = (
                    "too far"
                    if on
                    else "bumper"
                    if kind == "bumper"
                    else "pit"
                    if kind in ("turntable", "traverser")
                    else "open"
                )
                count += 1
                yield self._route(signal_id, gap, legs, needs, nodes, None, ends, turns)
                continue
            for step in reversed(on):
                assert step.end is not None
                held = {s.node: s.lies for s in needs}
                if (
                    self._against(step.end)
                    or any(held.get(s.node, s.lies) != s.lies for s in step.needs)
                    or any(leg.track == step.end.track for leg in legs[1:])
                ):
                    continue  # it would need one turnout both ways, or runs in a ring without a signal
                start = 0.0 if step.end.end == "a" else self.rails.lengths[step.end.track]
                stack.append(
                    (
                        step.end.far,
                        start,
                        legs,
                        (*needs, *step.needs),
                        (*nodes, step.node),
                        turns or step.turns,
                    )
                )

    def _against(self, end: TrackEnd) -> bool:
        """Whether trains do not run this way on the track they would enter at an end."""
        runs = self.layout.tracks[end.track].runs
        return runs == ("backward" if end.end == "a" else "forward")

    def _route(
        self,
        signal: str,
        gap: tuple[int, float] | None,
        legs: tuple[Leg, ...],
        needs: tuple[Setting, ...],
        nodes: tuple[str, ...],
        leads: str | None,
        ends: Literal["signal", "bumper", "pit", "too far", "open"],
        turns: bool,
    ) -> Route:
        entered = legs
        if gap is not None and gap[0] < len(legs):
            first = legs[gap[0]]
            entered = (Leg(first.track, gap[1], first.finish), *legs[gap[0] + 1 :])
        sections = self.sections_of(entered)
        return Route(
            signal, tuple(dict.fromkeys(needs)), legs, tuple(dict.fromkeys(nodes)), sections, leads, ends, turns
        )


@dataclass(frozen=True)
class Progress:
    """Where a train comes to when it drives on: the place of its front, and what stopped it before it was there."""

    track: str
    at: float
    towards: Literal["a", "b"]
    stopped: str | None
    passed: tuple[Leg, ...]


def drive(
    layout: Layout,
    ways: Ways,
    track: str,
    at: float,
    towards: Literal["a", "b"],
    distance: float,
    lies: Mapping[str, str],
    stops: Mapping[tuple[str, str], Sequence[tuple[float, str]]] | None = None,
) -> Progress:
    """Drive a train's front so far as the turnouts lie.

    Args:
        layout: the document.
        ways: its cores and track ends.
        track: where its front is.
        at: mm from that track's A end.
        towards: the end it runs towards.
        distance: mm.
        lies: how the turnouts lie.
        stops: signals at stop by track and direction, as (mm, signal id), which it does not pass.

    Returns:
        Its place, and in `stopped` why it stopped early: a signal's id, or words.
    """
    left, legs = distance, []
    for _ in range(400):
        length = track_length(layout.tracks[track])
        to = min(at + left, length) if towards == "b" else max(at - left, 0.0)
        for mark, signal in (stops or {}).get((track, towards), ()):
            if (at <= mark < to) if towards == "b" else (to < mark <= at):
                legs.append(Leg(track, at, mark))
                return Progress(track, mark, towards, signal, tuple(legs))
        legs.append(Leg(track, at, to))
        left -= abs(to - at)
        at = to
        if left <= 1e-9:
            return Progress(track, at, towards, None, tuple(legs))
        here = TrackEnd(track, towards)
        choices = steps_on(layout, ways, here)
        if not choices:
            return Progress(track, at, towards, "the end of the track", tuple(legs))
        chosen = next((s for s in choices if all(lies.get(n.node, "through") == n.lies for n in s.needs)), None)
        if chosen is None:
            name = layout.nodes[choices[0].node].name or choices[0].node
            return Progress(track, at, towards, f"{name} lies against it", tuple(legs))
        assert chosen.end is not None
        track, towards = chosen.end.track, chosen.end.far.end
        at = 0.0 if chosen.end.end == "a" else track_length(layout.tracks[track])
    return Progress(track, at, towards, "a ring that never ends", tuple(legs))
