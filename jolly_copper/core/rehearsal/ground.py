"""The track as trains take it: pieces and junctions with a bit each, and ways over them cut where trains may wait."""

from __future__ import annotations

import heapq
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Literal, NamedTuple

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.rails.pieces import Piece, RailMap
from jolly_copper.core.rails.ways import TrackEnd, Ways
from jolly_copper.core.signals.aspects import Signalling
from jolly_copper.core.signals.routes import Step, steps_on

TURN_COSTS_MM = 400.0
"""A way over the diverging leg of a turnout counts so much longer."""
End = Literal["a", "b"]


class Place(NamedTuple):
    """A place on a track, mm from its A end, and the end looked towards."""

    track: str
    at: float
    towards: End


class Segment(NamedTuple):
    """A stretch of a way within one piece of track. s: mm along the way where it begins; at: mm from the track's A end
    there; length: mm; towards: the end run towards; piece: its number; node: the junction or joint passed to enter it,
    None within a track; lies: how a turnout there must lie, None where there is none."""

    s: float
    length: float
    track: str
    at: float
    towards: End
    piece: int
    node: str | None
    lies: str | None

    @property
    def end(self) -> float:
        return self.s + self.length

    def place(self, s: float) -> Place:
        """Where on the track a place of the way is."""
        d = s - self.s
        return Place(self.track, self.at + d if self.towards == "b" else self.at - d, self.towards)

    def along(self, at: float) -> float:
        """Where on the way a place of its track is, mm, also beyond its ends; `place` undone."""
        return self.s + (at - self.at if self.towards == "b" else self.at - at)


@dataclass(frozen=True)
class Ground:
    """A layout's track with a number, and a bit, for every piece and junction."""

    layout: Layout
    known: Signalling

    @property
    def rails(self) -> RailMap:
        return self.known.rails

    @property
    def ways(self) -> Ways:
        return self.known.ways

    @cached_property
    def pieces(self) -> tuple[Piece, ...]:
        return tuple(p for track in self.layout.tracks for p in self.rails.pieces[track])

    @cached_property
    def number(self) -> dict[Piece, int]:
        return {p: n for n, p in enumerate(self.pieces)}

    @cached_property
    def extent(self) -> tuple[int, ...]:
        """The stretch between gaps of each piece."""
        return tuple(self.rails.extent_of[p] for p in self.pieces)

    @cached_property
    def node_bit(self) -> dict[str, int]:
        """A bit for every place where tracks meet, above those of the pieces."""
        return {n: 1 << (len(self.pieces) + k) for k, n in enumerate(self.layout.nodes)}

    @cached_property
    def extent_mask(self) -> tuple[int, ...]:
        """The pieces of each stretch, as bits."""
        found = [0] * len(self.rails.extents)
        for n, extent in enumerate(self.extent):
            found[extent] |= 1 << n
        return tuple(found)

    @cached_property
    def detected(self) -> int:
        """Pieces whose detector tells that they are clear, as bits."""
        return sum(1 << n for n, extent in enumerate(self.extent) if self.known.sensed[extent].device is not None)

    def bits(self, segment: Segment) -> int:
        """What a segment takes: its piece, and the junction passed to enter it."""
        return 1 << segment.piece | (self.node_bit[segment.node] if segment.node is not None else 0)

    def along(self, start: Place, steps: Sequence[Step], stop: float | None, s: float) -> tuple[Segment, ...]:
        """The segments of a way.

        Args:
            start: where it begins. steps: how it goes on at each track end it comes to. stop: where it ends on its last
            track, mm from the A end; that track's end when None. s: mm along the way where it begins.
        """
        return tuple(self._along(start, steps, stop, s))

    def _along(self, start: Place, steps: Sequence[Step], stop: float | None, s: float) -> Iterator[Segment]:
        here, node, lies = start, None, None
        for k in range(len(steps) + 1):
            length = self.rails.lengths[here.track]
            finish = length if here.towards == "b" else 0.0
            if k == len(steps) and stop is not None:
                finish = stop
            for segment in self.on_track(here, finish, s, node, lies):
                yield segment
                s, node, lies = segment.end, None, None
            if k < len(steps):
                end = steps[k].end
                assert end is not None
                node = steps[k].node
                lies = steps[k].needs[0].lies if steps[k].needs else None
                here = Place(end.track, 0.0 if end.end == "a" else self.rails.lengths[end.track], end.far.end)

    def on_track(self, here: Place, finish: float, s: float, node: str | None, lies: str | None) -> Iterator[Segment]:
        pieces = self.rails.pieces[here.track]
        forward = here.towards == "b"
        low, high = min(here.at, finish), max(here.at, finish)
        first = True
        for piece in pieces if forward else reversed(pieces):
            a, b = max(piece.start, low), min(piece.end, high)
            if b - a <= 1e-6 and not (first and high - low <= 1e-6 and piece.start - 1e-6 <= a <= piece.end + 1e-6):
                continue
            at = a if forward else b
            yield Segment(
                s,
                max(b - a, 0.0),
                here.track,
                at,
                here.towards,
                self.number[piece],
                *((node, lies) if first else (None, None)),
            )
            s += max(b - a, 0.0)
            first = False
            if high - low <= 1e-6:
                return

    def against(self, end: TrackEnd) -> bool:
        """Whether trains do not run this way on the track they would enter at an end."""
        return self.layout.tracks[end.track].runs == ("backward" if end.end == "a" else "forward")

    def onward(self, arriving: TrackEnd) -> list[Step]:
        """Ways on from a track end that trains run."""
        return [x for x in steps_on(self.layout, self.ways, arriving) if x.end is not None and not self.against(x.end)]

    def way_to(
        self,
        start: Place,
        goal: Place | tuple[str, float],
        via: Sequence[str] = (),
        without: frozenset[str] = frozenset(),
    ) -> list[Step] | None:
        """The shortest way from a place, always going on as it faces, to another.

        Args:
            start: where the front is. goal: where it is to come; with a direction, it must face so there.
            via: tracks to go over on the way, in order. without: tracks it must not go over.

        Returns:
            The steps at the track ends passed; empty where both are ahead on one track; None where no way leads there.
        """
        steps: list[Step] = []
        here = start
        for track in via:
            part = self._shortest(here, Place(track, -1.0, "b"), any_way=True, whole=True, without=without)
            if part is None:
                return None
            steps += part
            if part:
                end = part[-1].end
                assert end is not None
                here = Place(end.track, 0.0 if end.end == "a" else self.rails.lengths[end.track], end.far.end)
        facing = goal.towards if isinstance(goal, Place) else None
        last = self._shortest(here, Place(goal[0], goal[1], facing or "b"), any_way=facing is None, without=without)
        return None if last is None else steps + last

    def _shortest(
        self,
        start: Place,
        goal: Place,
        any_way: bool,
        whole: bool = False,
        without: frozenset[str] = frozenset(),
    ) -> list[Step] | None:
        """Dijkstra over track ends. whole: anywhere on the goal's track will do."""

        def reached(track: str, towards: End, at: float) -> bool:
            if track != goal.track or not (any_way or towards == goal.towards):
                return False
            return whole or (goal.at >= at - 1e-6 if towards == "b" else goal.at <= at + 1e-6)

        if reached(start.track, start.towards, start.at):
            return []
        length = self.rails.lengths[start.track]
        tree: list[tuple[int, Step | None]] = [(-1, None)]
        heap = [(length - start.at if start.towards == "b" else start.at, 0, TrackEnd(start.track, start.towards))]
        closed: set[TrackEnd] = set()
        while heap:
            far, n, end = heapq.heappop(heap)
            if n:  # the start itself may be come to again, all the way round
                if end in closed:
                    continue
                closed.add(end)
                if reached(end.track, end.end, 0.0 if end.end == "b" else self.rails.lengths[end.track]):
                    found: list[Step] = []
                    while (step := tree[n][1]) is not None:
                        found.append(step)
                        n = tree[n][0]
                    return found[::-1]
            for on in self.onward(end):
                assert on.end is not None
                if on.end.track in without:
                    continue
                tree.append((n, on))
                cost = far + self.rails.lengths[on.end.track] + (TURN_COSTS_MM if on.turns else 0.0)
                heapq.heappush(heap, (cost, len(tree) - 1, on.end.far))
        return None

    @cached_property
    def heads(self) -> dict[tuple[str, str], tuple[tuple[float, str], ...]]:
        """Signals of each track for one direction, in the order a train meets them."""
        return self.known.yard.along
