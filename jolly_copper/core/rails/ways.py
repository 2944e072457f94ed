"""The ways a train can take: cores where tracks meet, and chains of plain track between them.

A core is the part of a node where rails meet. It has IN and OUT sides; a train goes IN to OUT or back, never IN to IN.
Its heading runs IN to OUT, so every track end attached has a sign against it: +1 where the track runs (A to B) with
that heading.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import Literal, NamedTuple

from jolly_copper.core.layout.document import Layout, Node
from jolly_copper.core.layout.reading import track_length
from jolly_copper.core.rails.pieces import is_in

OPPOSITE_STUBS_DEGREES = 4.0
"""Two turntable stubs this near to one straight line through the pit's middle can be run straight through."""


ENDS: tuple[Literal["a", "b"], Literal["a", "b"]] = ("a", "b")


class Core(NamedTuple):
    """Where rails meet: a node, and which of its parts (a crossing has two, a turntable one per pair of stubs)."""

    node: str
    part: int = 0


class TrackEnd(NamedTuple):
    """One end of a track, `a` or `b`."""

    track: str
    end: Literal["a", "b"]

    @property
    def far(self) -> TrackEnd:
        return TrackEnd(self.track, "b" if self.end == "a" else "a")


@dataclass(frozen=True)
class Chain:
    """Plain track between two branching cores (or a branching core and a dead end), through joints and crossings.

    tracks: each with whether the chain runs it A to B. start, finish: the outer track ends. sign: +1 where a train
    that leaves `start` along its core's heading arrives in `finish` along that core's heading. ring: no branching
    core at all.
    """

    tracks: tuple[tuple[str, bool], ...]
    start: TrackEnd
    finish: TrackEnd
    sign: int
    length: float
    ring: bool = False

    @property
    def names(self) -> tuple[str, ...]:
        return tuple(t for t, _ in self.tracks)


@dataclass(frozen=True)
class Ways:
    """Every core with its track ends, and every chain. `ends`: per core, the IN ends and the OUT ends, sorted."""

    lengths: dict[str, float]
    core_of: dict[TrackEnd, Core]
    enters: dict[TrackEnd, bool]
    ends: dict[Core, tuple[tuple[TrackEnd, ...], tuple[TrackEnd, ...]]]

    def sign(self, end: TrackEnd) -> int:
        """+1 where the track runs, A to B, along its core's heading at this end."""
        return 1 if self.enters[end] == (end.end == "b") else -1

    def onward(self, arriving: TrackEnd) -> tuple[TrackEnd, ...]:
        """The ends by which a train that arrives at this end may leave again."""
        ins, outs = self.ends[self.core_of[arriving]]
        return outs if self.enters[arriving] else ins

    def branches(self, core: Core) -> bool:
        """Whether a train has a choice here."""
        ins, outs = self.ends[core]
        return len(ins) > 1 or len(outs) > 1

    @cached_property
    def chains(self) -> tuple[Chain, ...]:
        return tuple(self._chains())

    @cached_property
    def chain_of(self) -> dict[str, int]:
        """The number of each track's chain."""
        return {t: n for n, chain in enumerate(self.chains) for t in chain.names}

    def _chains(self) -> Iterator[Chain]:
        seen: set[str] = set()
        starts = [e for e in sorted(self.core_of) if self.branches(self.core_of[e])]
        dead = [e for e in sorted(self.core_of) if not self.onward(e)]
        for start in [*starts, *dead]:
            if start.track not in seen:
                yield self._follow(start, seen)
        for track in sorted(self.lengths):
            if track not in seen:
                yield self._follow(TrackEnd(track, "a"), seen)

    def _follow(self, start: TrackEnd, seen: set[str]) -> Chain:
        tracks: list[tuple[str, bool]] = []
        sign, at, ring = 1, start, False
        while True:
            tracks.append((at.track, at.end == "a"))
            seen.add(at.track)
            sign *= self.sign(at) * self.sign(at.far)
            at = at.far
            onward = self.onward(at)
            if self.branches(self.core_of[at]) or not onward:
                break
            if onward[0] == start:
                ring = True
                break
            if onward[0].track in seen:
                break
            at = onward[0]
        return Chain(tuple(tracks), start, at, sign, sum(self.lengths[t] for t, _ in tracks), ring)


def map_ways(layout: Layout) -> Ways:
    """Cores and track ends of a layout."""
    lengths = {i: track_length(t) for i, t in layout.tracks.items()}
    at: dict[str, list[tuple[str, TrackEnd]]] = {i: [] for i in layout.nodes}
    for i, track in layout.tracks.items():
        at[track.a.node].append((track.a.port, TrackEnd(i, "a")))
        at[track.b.node].append((track.b.port, TrackEnd(i, "b")))
    core_of: dict[TrackEnd, Core] = {}
    enters: dict[TrackEnd, bool] = {}
    ends: dict[Core, tuple[tuple[TrackEnd, ...], tuple[TrackEnd, ...]]] = {}
    for node_id, here in at.items():
        for part, (ins, outs) in enumerate(_parts(layout, layout.nodes[node_id], sorted(here))):
            core = Core(node_id, part)
            ends[core] = (tuple(ins), tuple(outs))
            for side, inward in ((ins, True), (outs, False)):
                for end in side:
                    core_of[end], enters[end] = core, inward
    return Ways(lengths, core_of, enters, ends)


Sides = tuple[list[TrackEnd], list[TrackEnd]]


def _parts(layout: Layout, node: Node, here: list[tuple[str, TrackEnd]]) -> list[Sides]:
    if node.kind == "turntable":
        return _pairs_of_stubs(layout, node, here)
    if node.kind == "crossing":
        return [
            ([e for p, e in here if is_in(p) and p[-1] == k], [e for p, e in here if not is_in(p) and p[-1] == k])
            for k in "12"
            if any(p[-1] == k for p, _ in here)
        ]
    return [([e for p, e in here if is_in(p)], [e for p, e in here if not is_in(p)])] if here else []


def stub_angle(layout: Layout, node: Node, end: TrackEnd) -> float:
    """The direction from a turntable's middle to where a stub meets its pit, degrees, 0 to 360, clockwise on the
    plan."""
    path = layout.tracks[end.track].path
    edge = path[0] if end.end == "a" else path[-1]
    if math.hypot(edge.x - node.at.x, edge.y - node.at.y) < 1:  # drawn to the middle: take the direction it came from
        edge = path[1] if end.end == "a" else path[-2]
    return math.degrees(math.atan2(edge.y - node.at.y, edge.x - node.at.x)) % 360


def _pairs_of_stubs(layout: Layout, node: Node, here: list[tuple[str, TrackEnd]]) -> list[Sides]:
    angles = {end: stub_angle(layout, node, end) for _, end in here}
    parts: list[Sides] = []
    left = [end for _, end in here]
    while left:
        end = left.pop(0)
        off = {o: abs((angles[o] - angles[end]) % 360 - 180) for o in left}
        across = min(left, key=lambda o: (off[o], o), default=None)
        if across is not None and off[across] <= OPPOSITE_STUBS_DEGREES:
            left.remove(across)
            parts.append(([end], [across]))
        else:
            parts.append(([end], []))
    return parts
