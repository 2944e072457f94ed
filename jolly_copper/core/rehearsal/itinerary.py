"""A train's calls as a ring of places where it stands, with what it keeps at each and what it needs to go on."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from jolly_copper.core.rehearsal.asking import takes
from jolly_copper.core.rehearsal.evening import Evening
from jolly_copper.core.rehearsal.ground import Ground, Place, Segment
from jolly_copper.core.rehearsal.legs import Leg, legs_to
from jolly_copper.core.rehearsal.rolling import Rolling
from jolly_copper.core.rehearsal.under import turned_segments, under_place

MOST_STANDINGS = 400


@dataclass(frozen=True)
class Standing:
    """A place where a train may wait. holds: what it keeps there, as bits. call: number of the call it has come to;
    None at a head on the way. needs: what it must have to itself to go on. over: what it runs over then, in order: the
    number of each piece with the end run towards."""

    place: Place
    head: str | None
    holds: int
    call: int | None
    needs: int = 0
    over: tuple[tuple[int, str], ...] = ()


@dataclass(frozen=True)
class Itinerary:
    """A train's standings in order. again: the one that follows the last; None where it ends there for good. whole: all
    of them are here; otherwise there were too many, and nothing can be proved of the train."""

    key: str
    name: str
    standings: tuple[Standing, ...]
    again: int | None
    whole: bool = True

    def after(self, n: int) -> int | None:
        """The standing that follows; None at the end for good."""
        return n + 1 if n + 1 < len(self.standings) else self.again


def itinerary(evening: Evening, train: Rolling) -> Itinerary:
    """The standings of a train that runs by calls. Round trips close on themselves: two rounds are laid, and the end of
    the second leads to the end of the first."""
    ground = evening.ground
    length = train.stock.length
    plan = train.plan
    under = under_place(evening.ground, Place(plan.track, plan.at, plan.towards), length)
    assert under is not None, "a plan is checked before it is searched"
    found: list[Standing] = []
    here = under[-1].place(under[-1].end)
    marks: list[int] = []
    rounds = 2 if evening.plan.round is not None else 1
    for _ in range(rounds):
        for n, call in enumerate(train.plan.calls):
            legs = legs_to(ground, here, call.track, call.at, call.facing, call.via)
            for leg in legs:
                found.append(_standing(evening, under, length, here, leg, n - 1 if leg is legs[0] else None))
                base = under[-1].end
                under = _trim([*under, *(s._replace(s=s.s + base) for s in leg.segments)], length)
                here = leg.goal
            if call.then == "turn":
                under = turned_segments(under, length)
                here = under[-1].place(under[-1].end)
        marks.append(len(found))
        if len(found) > MOST_STANDINGS:
            return Itinerary(train.key, train.stock.name, tuple(found), None, whole=False)
    end = len(train.plan.calls) - 1
    if rounds == 2:
        # The standing after the second round is that after the first.
        return Itinerary(train.key, train.stock.name, tuple(found), marks[0])
    found.append(Standing(here, None, _bits(ground, under), end))
    return Itinerary(train.key, train.stock.name, tuple(found), None)


def _standing(
    evening: Evening, under: list[Segment], length: float, here: Place, leg: Leg, call: int | None
) -> Standing:
    over = tuple((s.piece, s.towards) for s in leg.segments)
    return Standing(here, leg.head, _bits(evening.ground, under), call, takes(evening, leg), over)


def _bits(ground: Ground, under: list[Segment]) -> int:
    found = 0
    for n, segment in enumerate(under):
        found |= ground.bits(segment) if n else 1 << segment.piece
    return found


def _trim(segments: list[Segment], length: float) -> list[Segment]:
    """Only what lies under a train whose front is at the end."""
    tail = segments[-1].end - length
    return [s for s in segments if s.end > tail + 1e-6]


def itineraries(evening: Evening) -> Iterator[Itinerary]:
    """Those of all trains that run by calls."""
    for train in evening.trains.values():
        if train.plan.by == "calls" and train.plan.calls:
            yield itinerary(evening, train)
