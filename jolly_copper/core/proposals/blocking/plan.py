"""Where the railroad parts into blocks: cuts clear of turnouts, blocks that hold a train, sections inside them."""

from __future__ import annotations

import itertools
import math
from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass

from jolly_copper.core.circuits.whereabouts import extent_circuits
from jolly_copper.core.layout.document import Gap, Layout
from jolly_copper.core.layout.geometry import Polyline, crossings
from jolly_copper.core.layout.power_tree import grow_tree
from jolly_copper.core.layout.signalling import Role
from jolly_copper.core.proposals.blocking.lots import DETECTED, Lot, Mark, Naming, Stretch
from jolly_copper.core.rails.nets import gap_sides
from jolly_copper.core.rails.pieces import RailMap, Side, map_rails, opposite
from jolly_copper.core.rails.topology import Topology, map_topology
from jolly_copper.core.rails.ways import TrackEnd, map_ways

CLEAR_MM = {"Z": 22.0, "N": 32.0, "TT": 42.0, "HO": 54.0, "OO": 60.0, "S": 74.0, "O": 100.0, "G": 150.0}
"""Two trains pass where track centres are this far apart: what stands nearer to a turnout fouls it. By scale; certainty
C."""
POINTS_MM = 90.0
"""A cut on the points side of a turnout stands so far before its middle."""
FARTHEST_MM = 900.0
SAME_CUT_MM = 350.0
"""A gap that is there serves where one is wanted this near."""
LEAST_SECTION_MM = 260.0


@dataclass(frozen=True)
class Cut:
    """A gap to be made. rails: one rail (the sensed one) or both. why: in words."""

    track: str
    at: float
    rails: str
    why: str


@dataclass(frozen=True)
class BlockPlan:
    """The railroad cut on paper. lots: in the order they are numbered. blind: extents that get no detector, with
    why."""

    cuts: tuple[Cut, ...]
    lots: tuple[Lot, ...]
    blind: tuple[tuple[int, str], ...]
    paper: Layout
    rails: RailMap


def divide_into_blocks(layout: Layout) -> BlockPlan:
    """Cut a railroad into blocks and detection sections, on paper.

    Every junction is a section of its own, cut where trains on its legs pass each other; what lies between is parted
    into blocks no shorter than the longest train and what it needs to stop; yard and staging tracks are a block each. A
    block lies in one district. Gaps that are there are used.
    """
    return _Dividing(layout).plan()


class _Dividing:
    def __init__(self, layout: Layout) -> None:
        self.layout = layout
        self.wishes = layout.brief.detecting
        self.rails, self.ways = map_rails(layout), map_ways(layout)
        self.lengths = self.rails.lengths
        self.lines: dict[str, Polyline] = {i: t.line for i, t in layout.tracks.items()}
        self.circuits = [grow_tree(layout).unsensed(c) for c in extent_circuits(layout, self.rails)]
        self.topology = map_topology(layout, self.rails)
        self.cuts: list[Cut] = []
        self.marks: list[Mark] = []
        self.gapped: dict[str, list[float]] = defaultdict(list)
        for gap in layout.gaps.values():
            if self.sensed_rail(gap.track, gap.at) in gap_sides(self.layout, gap):
                self.gapped[gap.track].append(gap.at)

    def sensed_rail(self, track: str, at: float) -> Side:
        side = a_rail_at(self.topology, track, at)
        return side if self.wishes.sensed == "A" else opposite(side)

    def in_scope(self, track: str) -> bool:
        return self.layout.tracks[track].use in DETECTED

    def plan(self) -> BlockPlan:
        for stretch in self._stretches():
            self._part(stretch)
        self._edges_of_scope()
        paper = self.layout.model_copy(update={"gaps": {**self.layout.gaps, **self._paper_gaps()}})
        rails = map_rails(paper)
        lots, blind = Naming(self.layout, self.rails, self.circuits, self.marks).lots(rails)
        return BlockPlan(tuple(self.cuts), tuple(lots), tuple(blind), paper, rails)

    # --- where cuts go

    def _stretches(self) -> Iterator[Stretch]:
        for chain in self.ways.chains:
            run: list[tuple[str, bool]] = []
            for track, forward in [*chain.tracks, ("", True)]:
                if track and self.in_scope(track) and not (run and self._pit_after(run[-1])):
                    run.append((track, forward))
                    continue
                if run:
                    yield self._stretch(run, chain.ring and len(run) == len(chain.tracks))
                run = [(track, forward)] if track and self.in_scope(track) else []

    def _pit_after(self, one: tuple[str, bool]) -> bool:
        end = self.layout.tracks[one[0]].b if one[1] else self.layout.tracks[one[0]].a
        return self.layout.nodes[end.node].kind in ("turntable", "traverser", "crossing")

    def _stretch(self, run: list[tuple[str, bool]], ring: bool) -> Stretch:
        starts, at = [], 0.0
        for track, _ in run:
            starts.append(at)
            at += self.lengths[track]
        head = TrackEnd(run[0][0], "a" if run[0][1] else "b")
        tail = TrackEnd(run[-1][0], "b" if run[-1][1] else "a")
        crossover = len(run) == 1 and all(
            self.layout.nodes[p.node].kind == "turnout" and p.port == "diverging"
            for p in (self.layout.tracks[run[0][0]].a, self.layout.tracks[run[0][0]].b)
        )
        ends = (None, None) if ring else (self._clear(head), self._clear(tail))
        return Stretch(tuple(run), tuple(starts), at, ends[0], ends[1], crossover)

    def _clear(self, end: TrackEnd) -> float | None:
        """How far from the node at this end of a track a train must stand to be clear of it, mm; None at a bumper."""
        track = self.layout.tracks[end.track]
        port = track.a if end.end == "a" else track.b
        node = self.layout.nodes[port.node]
        if (
            node.kind == "bumper"
            or len(self.ways.ends[self.ways.core_of[end]][0] + self.ways.ends[self.ways.core_of[end]][1]) < 2
        ):
            return None
        if node.kind == "joint":
            return POINTS_MM  # where track of another use begins
        if node.kind in ("turntable", "traverser"):
            return POINTS_MM
        if node.kind in ("turnout", "three-way") and port.port == "points":
            return POINTS_MM
        others = [
            e for e in self.ways.core_of if e != end and self._node(e) == port.node and e not in self.ways.onward(end)
        ]
        return max((self._apart(end, other) for other in others), default=POINTS_MM)

    def _node(self, end: TrackEnd) -> str:
        track = self.layout.tracks[end.track]
        return (track.a if end.end == "a" else track.b).node

    def _apart(self, one: TrackEnd, other: TrackEnd) -> float:
        """How far out on one leg its middle is clear of the other leg."""
        clear, mine, theirs = CLEAR_MM[self.layout.brief.scale], self.lines[one.track], self.lines[other.track]
        far = 30.0
        while far < min(FARTHEST_MM, mine.length):
            x, y = mine.point(far if one.end == "a" else mine.length - far)
            if theirs.nearest(x, y)[1] >= clear:
                break
            far += 15.0
        return far * self.lengths[one.track] / mine.length

    def _part(self, s: Stretch) -> None:
        first, last = s.first or 0.0, s.last or 0.0
        if s.length < first + last + LEAST_SECTION_MM:
            if s.crossover and s.length >= 120:
                self._cut(s, s.length / 2, "middle of a crossover: one main does not light the other")
            return
        a = self._cut(s, first, "clear of the turnout") if s.first else 0.0
        b = self._cut(s, s.length - last, "clear of the turnout") if s.last else s.length
        hard = [x for x in self._gaps_along(s) if a + 1 < x < b - 1 and self._changes(s, x)]
        edges = [a, *hard, b]
        for start, end in itertools.pairwise(edges):
            self._blocks(s, start, end)

    def _shortest(self, s: Stretch) -> float:
        wished = self.wishes.shortest_block
        if wished is not None:
            return wished
        trains = [t.length for t in self.layout.trains.values()] or [self.layout.brief.rules.longest_train]
        return max(trains) + self.layout.brief.signalling.stopping

    def _blocks(self, s: Stretch, start: float, end: float) -> None:
        use = self.layout.tracks[s.place((start + end) / 2, self.lengths)[0]].use
        through = use in ("main", "branch")
        count = max(1, math.floor((end - start) / self._shortest(s))) if through else 1
        each = (end - start) / count
        marks = [start]
        for k in range(1, count):
            marks.append(
                self._cut(s, self._snap(s, start + k * each, each / 4), "a train and its stopping distance long")
            )
        marks.append(end)
        for a, b in itertools.pairwise(marks):
            parts = self._parts(s, a, b, through)
            for (x, y, role), why in parts:
                self.marks.append(Mark(s, x, y, f"{a:.0f}-{b:.0f}", role, why))

    def _parts(self, s: Stretch, a: float, b: float, through: bool) -> list[tuple[tuple[float, float, Role], str]]:
        """The detection sections of one block."""
        stop, wanted = self.layout.brief.signalling.stopping, self.wishes.per_block
        whole: list[tuple[tuple[float, float, Role], str]] = [
            ((a, b, "whole"), "one section to a block: a train is in it or not")
        ]
        if wanted == 1 or not through or b - a < stop + LEAST_SECTION_MM * 2 or stop <= 0:
            return whole
        if wanted == 2 or b - a < 2 * stop + LEAST_SECTION_MM:
            x = self._cut(s, b - stop, "stopping distance before the end")
            return [
                ((a, x, "enter"), "where a train comes in"),
                ((x, b, "leave"), "a train here must be about to stop or go on"),
            ]
        x = self._cut(s, a + stop, "stopping distance from the end")
        y = self._cut(s, b - stop, "stopping distance before the end")
        return [
            ((a, x, "enter"), "where a train comes in"),
            ((x, y, "middle"), "a train is all the way in"),
            ((y, b, "leave"), "a train here must be about to stop or go on"),
        ]

    def _gaps_along(self, s: Stretch) -> list[float]:
        """Gaps there are in the sensed rail, along a stretch."""
        found = []
        for (track, forward), start in zip(s.tracks, s.starts, strict=True):
            found += [start + (at if forward else self.lengths[track] - at) for at in self.gapped[track]]
        return sorted(found)

    def _changes(self, s: Stretch, x: float) -> bool:
        """Whether another circuit begins at a gap."""
        sides = []
        for off in (-2.0, 2.0):
            track, at = s.place(min(max(x + off, 0.0), s.length), self.lengths)
            sides.append(self.circuits[self.rails.extent_of[self.rails.piece_at(track, at)]])
        return sides[0] != sides[1]

    def _snap(self, s: Stretch, x: float, reach: float) -> float:
        """A gap, else a board joint, near a wanted place."""
        gaps = [g for g in self._gaps_along(s) if abs(g - x) <= reach]
        if gaps:
            return min(gaps, key=lambda g: abs(g - x))
        boards = [b.corners for b in self.layout.boards.values()]
        near = []
        for (track, forward), start in zip(s.tracks, s.starts, strict=True):
            line = self.lines[track]
            for drawn in crossings(line, boards):
                at = drawn * self.lengths[track] / line.length
                along = start + (at if forward else self.lengths[track] - at)
                if abs(along - x) <= reach:
                    near.append(along)
        return min(near, key=lambda g: abs(g - x)) if near else x

    def _cut(self, s: Stretch, x: float, why: str) -> float:
        """A cut at a place, or the one that is there already near it. Answers where it is."""
        near = [g for g in self._gaps_along(s) if abs(g - x) <= SAME_CUT_MM]
        if near:
            return min(near, key=lambda g: abs(g - x))
        track, at = s.place(x, self.lengths)
        at = round(min(max(at, 15.0), self.lengths[track] - 15.0), 1)
        self.gapped[track].append(at)
        rails = "both" if self.wishes.gaps == "both rails" else self.sensed_rail(track, at)
        self.cuts.append(Cut(track, at, rails, why))
        return x

    def _edges_of_scope(self) -> None:
        """Track that is not detected is cut off where it leaves a turnout of track that is."""
        for i, track in self.layout.tracks.items():
            if self.in_scope(i):
                continue
            for one, port in ((TrackEnd(i, "a"), track.a), (TrackEnd(i, "b"), track.b)):
                mates = [t for t, x in self.layout.tracks.items() if t != i and port.node in (x.a.node, x.b.node)]
                if not any(self.in_scope(m) for m in mates) or self.layout.nodes[port.node].kind in (
                    "turntable",
                    "traverser",
                ):
                    continue
                clear = self._clear(one)
                if clear is None:
                    continue
                s = Stretch(((i, one.end == "a"),), (0.0,), self.lengths[i], clear, None, False)
                if clear < self.lengths[i] - 30:
                    self._cut(s, clear, f"{track.name} is not detected")

    def _paper_gaps(self) -> dict[str, Gap]:
        return {f"paper-{n}": Gap(track=c.track, at=c.at, rails=c.rails) for n, c in enumerate(self.cuts)}


def a_rail_at(topology: Topology, track: str, at: float) -> Side:
    """The rail that carries conductor A at a place: as the feeders of its zone have it, else as the whole layout is
    wired."""
    piece = topology.rails.piece_at(track, at)
    zone = topology.zones.at(piece)
    if zone.votes:
        return zone.a_rail(piece)
    phase = topology.phase
    votes = [phase[topology.rails.piece_at(f.track, f.at)] == f.a_rail for f in topology.layout.feeders.values()]
    return phase[piece] if 2 * sum(votes) >= len(votes) else opposite(phase[piece])
