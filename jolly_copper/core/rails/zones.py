"""Zones: track between full gaps, how each is fed, which way round, and how long a train may be in it."""

from __future__ import annotations

import heapq
import itertools
from collections import defaultdict, deque
from collections.abc import Hashable
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

from jolly_copper.core.layout.control import a_side
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.rails.nets import Nets, Sources, cut_sides, gaps_at
from jolly_copper.core.rails.pieces import PAIR_MM, SIDES, Joined, Piece, RailMap, Side, opposite
from jolly_copper.core.rails.ways import TrackEnd, Ways


class Border(NamedTuple):
    """A place where both rails are cut: between two pieces of a track, by these gaps."""

    track: str
    at: float
    before: Piece
    after: Piece
    gaps: tuple[str, ...]


@dataclass(frozen=True)
class Zone:
    """Track that no full gap parts. `facing`: the rail of each piece that runs on from the first piece's left.

    odd: its own rails disagree (a train comes back on itself inside). votes: per feeder, whether its A conductor is on
    the facing rail. roots: the circuits its feeders come from, behind reverser or booster.
    """

    number: int
    pieces: tuple[Piece, ...]
    facing: dict[Piece, Side]
    odd: bool
    votes: dict[str, bool]
    roots: frozenset[str]

    @property
    def length(self) -> float:
        return sum(p.end - p.start for p in self.pieces)

    @cached_property
    def agrees(self) -> bool:
        """Whether most feeders have A on the facing rail. Among equals the first feeder by name is believed."""
        yes = sum(self.votes.values())
        no = len(self.votes) - yes
        if yes != no or not self.votes:
            return yes > no
        return self.votes[min(self.votes)]

    @property
    def minority(self) -> tuple[str, ...]:
        """Feeders the other way round than most."""
        return tuple(f for f, vote in sorted(self.votes.items()) if vote != self.agrees)

    def a_rail(self, piece: Piece) -> Side:
        """The rail of a piece that carries conductor A, by its feeders."""
        return self.facing[piece] if self.agrees else opposite(self.facing[piece])


@dataclass(frozen=True)
class Run:
    """The shortest way a train can drive through zones from gap to gap, mm; where it begins and ends, and the number of
    the zone it comes into then."""

    length: float
    start: tuple[str, float]
    finish: tuple[str, float]
    into: int


@dataclass(frozen=True)
class Zones:
    """All zones of a layout, and the borders between them."""

    zones: tuple[Zone, ...]
    zone_of: dict[Piece, int]
    borders: tuple[Border, ...]

    def at(self, piece: Piece) -> Zone:
        return self.zones[self.zone_of[piece]]

    @cached_property
    def borders_of(self) -> dict[int, tuple[Border, ...]]:
        found: dict[int, list[Border]] = defaultdict(list)
        for border in self.borders:
            for number in {self.zone_of[border.before], self.zone_of[border.after]}:
                found[number].append(border)
        return {n: tuple(b) for n, b in found.items()}


def map_zones(layout: Layout, nets: Nets, sources: Sources) -> Zones:
    """Zones of a layout: pieces joined by any bond or turnout setting, parted only where both rails are cut."""
    rails = nets.rails
    gaps_on = gaps_at(layout, rails)
    joined, borders = Joined(), []
    relation: dict[Piece, list[tuple[Piece, bool]]] = defaultdict(list)
    for pieces in rails.pieces.values():
        for piece in pieces:
            joined.find(piece)
        for one, other in itertools.pairwise(pieces):
            near = [(at, i) for at, i in gaps_on.get(one.track, ()) if abs(at - one.end) <= PAIR_MM]
            if len(cut_sides(layout, near, one.end)) == 2:
                borders.append(Border(one.track, one.end, one, other, tuple(i for _, i in near)))
    for a, b, _, faces in nets.bonds:
        joined.join(a.piece, b.piece)
        if not faces:
            continue
        same = a.side == b.side
        relation[a.piece].append((b.piece, same))
        relation[b.piece].append((a.piece, same))
    groups: dict[Hashable, list[Piece]] = {}
    for piece in (p for pieces in rails.pieces.values() for p in pieces):
        groups.setdefault(joined.find(piece), []).append(piece)
    feeders_on: dict[Piece, list[str]] = defaultdict(list)
    for i, feeder in layout.feeders.items():
        feeders_on[rails.piece_at(feeder.track, feeder.at)].append(i)
    zones = []
    for number, pieces_in in enumerate(groups.values()):
        facing, odd = _face(pieces_in, relation)
        votes = {f: a_side(layout, layout.feeders[f]) == facing[p] for p in pieces_in for f in feeders_on[p]}
        roots = frozenset(sources.root[circuit_of_feeder(layout, f)] for f in votes)
        zones.append(Zone(number, tuple(pieces_in), facing, odd, votes, roots))
    zone_of = {p: z.number for z in zones for p in z.pieces}
    return Zones(tuple(zones), zone_of, tuple(borders))


def circuit_of_feeder(layout: Layout, feeder_id: str) -> str:
    """The circuit a feeder is tied to, by its terminal's run."""
    return layout.runs[layout.terminals[layout.feeders[feeder_id].terminal].run].circuit


def _face(pieces: list[Piece], relation: dict[Piece, list[tuple[Piece, bool]]]) -> tuple[dict[Piece, Side], bool]:
    facing: dict[Piece, Side] = {}
    odd = False
    for first in pieces:
        if first in facing:
            continue
        facing[first] = SIDES[0]
        edge = deque([first])
        while edge:
            piece = edge.popleft()
            for other, same in relation[piece]:
                wanted = facing[piece] if same else opposite(facing[piece])
                if other not in facing:
                    facing[other] = wanted
                    edge.append(other)
                elif facing[other] != wanted:
                    odd = True
    return facing, odd


def shortest_run(zones: Zones, rails: RailMap, ways: Ways, within: frozenset[int]) -> Run | None:
    """The shortest drive through some zones from a full gap (or pit) that leads out of them to another; None where
    there is none. Gaps between two of them do not count.

    A train whose first and last wheels could stand on both ends at once is too long for a reverser there.
    """
    best: Run | None = None
    for start in edges_of(zones, within):
        found = _drive(zones, rails, ways, start, within, best.length if best else float("inf"))
        if found is not None and (best is None or found.length < best.length):
            best = found
    return best


def drive_from(
    zones: Zones, rails: RailMap, ways: Ways, start: State, within: frozenset[int], limit: float
) -> Run | None:
    """The shortest drive from a place into some zones and on to where they end, if that is less than a limit, mm."""
    return _drive(zones, rails, ways, start, within, limit)


State = tuple[Piece, bool]  # a piece, and whether it is driven A to B


def _piece_at_end(rails: RailMap, end: TrackEnd) -> Piece:
    return rails.pieces[end.track][0 if end.end == "a" else -1]


def edges_of(zones: Zones, within: frozenset[int]) -> list[State]:
    """Where a train drives over a full gap into some zones: the piece it comes to, and whether it is driven A to B."""
    found: list[State] = []
    for border in zones.borders:
        inside = [zones.zone_of[p] in within for p in (border.before, border.after)]
        if inside == [True, False]:
            found.append((border.before, False))
        elif inside == [False, True]:
            found.append((border.after, True))
    return found


def _drive(zones: Zones, rails: RailMap, ways: Ways, start: State, within: frozenset[int], limit: float) -> Run | None:
    first = (start[0].track, start[0].start if start[1] else start[0].end)
    best: dict[State, float] = {start: 0.0}
    queue: list[tuple[float, State]] = [(0.0, start)]
    while queue:
        so_far, state = heapq.heappop(queue)
        if so_far > best[state] or so_far >= limit:
            continue
        piece, forward = state
        then = so_far + piece.end - piece.start
        mark = (piece.track, piece.end if forward else piece.start)
        for following in _onward(rails, ways, state):
            if zones.zone_of[following[0]] not in within:
                return Run(
                    then, first, mark, zones.zone_of[following[0]]
                )  # a gap, or a pit: its edge parts the rails as a gap does
            if then < best.get(following, float("inf")):
                best[following] = then
                heapq.heappush(queue, (then, following))
    return None


def _onward(rails: RailMap, ways: Ways, state: State) -> list[State]:
    piece, forward = state
    pieces = rails.pieces[piece.track]
    k = pieces.index(piece) + (1 if forward else -1)
    if 0 <= k < len(pieces):
        return [(pieces[k], forward)]
    leaving = ways.onward(TrackEnd(piece.track, "b" if forward else "a"))
    return [(_piece_at_end(rails, e), e.end == "a") for e in leaving]
