"""Single lines with a direction: track that different trains run over in opposite ways, locked to one way at a time.

A single line is pieces of track run over both ways by different trains, joined where one follows the other on a
train's way; it ends where the two ways part. The rule asks only on entering: who is inside may go on. Nobody follows
past one who has waited longer at the other end, unless that politeness closes a ring.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import TYPE_CHECKING

from jolly_copper.core.rehearsal.itinerary import Itinerary, itineraries
from jolly_copper.core.rehearsal.legs import Leg, free_legs
from jolly_copper.core.rehearsal.roving import may_go
from jolly_copper.core.rehearsal.rules import Refused
from jolly_copper.core.signals.single_lines import Line, Over, find_lines

if TYPE_CHECKING:
    from jolly_copper.core.rehearsal.evening import Evening
from jolly_copper.core.rehearsal.rolling import Rolling

MOST_PLACES = 600


def ways_ahead(line: Line, train: Itinerary, n: int) -> frozenset[int]:
    """The ways a train runs over a line from a standing on until it has left it: both where it turns inside."""
    found: frozenset[int] = frozenset()
    at = n
    for _ in range(len(train.standings)):
        standing = train.standings[at]
        if at != n and not standing.holds & line.bits:
            break
        found |= line.ways(standing.over)
        onward = train.after(at)
        if onward is None:
            break
        at = onward
    return found


@dataclass
class Lines:
    """The single lines of a plan."""

    lines: tuple[Line, ...]

    def refuses(self, evening: Evening, train: Rolling, leg: Leg) -> Refused | None:
        """Why a train may not enter a single line by a leg; None where it may."""
        over = [(s.piece, s.towards) for s in leg.segments]
        for n, line in enumerate(self.lines):
            if not line.ways(over) or train.kept & line.bits:
                continue
            ways = self._ahead(train, line) | line.ways(over)
            others = {
                k: self._ahead(o, line) | line.ways([(s.piece, s.towards) for s in o.segments[o.front :]])
                for k, o in evening.trains.items()
                if o is not train and o.kept & line.bits and o.state not in ("parked", "done")
            }
            against = tuple(k for k, w in others.items() if len(ways) > 1 or w != ways)
            where = evening.layout.tracks[leg.segments[-1].track].name
            if against:
                names = " and ".join(evening.trains[k].stock.name for k in against)
                return Refused(line.bits, against, f"the line to {where} is locked the other way for {names}")
            if others and not train.let_go and (first := self._waits_longer(evening, train, n, ways)) is not None:
                name = evening.trains[first].stock.name
                words = f"{name} has waited longer to come the other way over the line"
                return Refused(line.bits, (first,), words, polite=True)
        return None

    @staticmethod
    def _ahead(train: Rolling, line: Line) -> frozenset[int]:
        """The ways a train runs over a line until it has left it, as far as its plan says."""
        return frozenset() if train.itinerary is None else ways_ahead(line, train.itinerary, train.standing_no)

    def _waits_longer(self, evening: Evening, train: Rolling, n: int, ways: frozenset[int]) -> str | None:
        """Who waits at the other end since before a train came."""
        for key, other in sorted(evening.trains.items(), key=lambda x: (x[1].since, x[0])):
            if other is train or other.state != "waiting" or other.kept & self.lines[n].bits:
                continue
            wants = other.ahead[:1] if other.plan.by == "calls" else other.choices
            line = self.lines[n]
            if any(line.ways([(s.piece, s.towards) for s in leg.segments]) - ways for leg in wants):
                mine = train.since if train.state == "waiting" else evening.t
                if other.since < mine:
                    return key
        return None


def lines_of(evening: Evening) -> Lines:
    """The single lines of an evening's plan."""
    ways: dict[str, list[Over]] = {}
    for found in itineraries(evening):
        evening.trains[found.key].itinerary = found if found.whole else None
        ways[found.key] = [[x for s in found.standings for x in s.over]]
    for key, train in evening.trains.items():
        if train.plan.by == "free":
            ways[key] = list(_free_ways(evening, train))
    return Lines(find_lines(ways))


def _free_ways(evening: Evening, train: Rolling) -> Iterable[Over]:
    """Everything a free train may run over, leg by leg, turning at the ends of tracks."""
    ground = evening.ground
    seen = {train.limit_place}
    ahead = [train.limit_place]
    while ahead and len(seen) < MOST_PLACES:
        here = ahead.pop()
        for leg in free_legs(ground, here):
            if not may_go(evening, train, leg):
                continue
            yield [(s.piece, s.towards) for s in leg.segments]
            onward = leg.goal
            if leg.ends == "track end":
                onward = onward._replace(towards="a" if onward.towards == "b" else "b")
            if onward not in seen:
                seen.add(onward)
                ahead.append(onward)
