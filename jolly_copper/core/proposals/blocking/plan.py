"""Where the railroad parts into blocks: cuts clear of turnouts, blocks that hold a train, sections inside them."""

from __future__ import annotations

import itertools
import math
from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass

from jolly_copper.core.circuits.whereabouts import extent_circuits
from jolly_copper.core.layout.document import Gap, Layout
from jolly_copper.core.layout.geometry import Polyline, crossings, draw
from jolly_copper.core.layout.power_tree import grow_tree
from jolly_copper.core.layout.signalling import Role
from jolly_copper.core.layout.stock import TrackUse
from jolly_copper.core.rails.dead import SHORTEST_STAND_MM
from jolly_copper.core.rails.nets import cut_sides
from jolly_copper.core.rails.pieces import RailMap, Side, map_rails, opposite
from jolly_copper.core.rails.topology import Topology, map_topology
from jolly_copper.core.rails.ways import TrackEnd, map_ways

CLEAR_MM = {"Z": 22.0, "N": 32.0, "TT": 42.0, "HO": 54.0, "OO": 60.0, "S": 74.0, "O": 100.0, "G": 150.0}
"""Two trains pass where track centres are this far apart: what stands nearer to a turnout fouls it. By scale; certainty C."""
POINTS_MM = 90.0
"""A cut on the points side of a turnout stands so far before its middle."""
FARTHEST_MM = 900.0
SAME_CUT_MM = 350.0
"""A gap that is there serves where one is wanted this near."""
LEAST_SECTION_MM = 260.0
DETECTED: frozenset[TrackUse] = frozenset({"main", "branch", "siding", "yard", "staging"})
"""Uses of track that are detected. Industry, engine terminals and programming track need none: who works there, looks."""
PREFIX: dict[TrackUse, str] = {"main": "M", "branch": "B", "siding": "S", "yard": "Y", "staging": "H"}
NAMED = "Blocks of the main are M, of branches B, of sidings S, of yards Y, of hidden staging H; junctions are called by their points."


@dataclass(frozen=True)
class Cut:
    """A gap to be made. rails: one rail (the sensed one) or both. why: in words."""

    track: str
    at: float
    rails: str
    why: str


@dataclass(frozen=True)
class Lot:
    """Rail behind one detector channel. extents: numbers in the cut railroad's rail map. block: its name. circuit: what
    feeds it today, behind no detector. why: in words."""

    name: str
    block: str
    role: Role
    use: TrackUse
    extents: tuple[int, ...]
    circuit: str | None
    length: float
    why: str


@dataclass(frozen=True)
class BlockPlan:
    """The railroad cut on paper. lots: in the order they are numbered. blind: extents that get no detector, with why."""

    cuts: tuple[Cut, ...]
    lots: tuple[Lot, ...]
    blind: tuple[tuple[int, str], ...]
    paper: Layout
    rails: RailMap


@dataclass(frozen=True)
class _Stretch:
    """Plain track between turnouts, in one direction. tracks: with whether it runs A to B. legs start at these distances.
    first, last: the kept-clear length at its two ends, mm; None where the track ends at a bumper."""

    tracks: tuple[tuple[str, bool], ...]
    starts: tuple[float, ...]
    length: float
    first: float | None
    last: float | None
    crossover: bool

    def place(self, along: float, lengths: dict[str, float]) -> tuple[str, float]:
        for k in range(len(self.tracks) - 1, -1, -1):
            if along >= self.starts[k] - 1e-9:
                track, forward = self.tracks[k]
                on = min(along - self.starts[k], lengths[track])
                return track, on if forward else lengths[track] - on
        raise AssertionError("a stretch starts at 0")


def divide_into_blocks(layout: Layout) -> BlockPlan:
    """Cut a railroad into blocks and detection sections, on paper.

    Every junction is a section of its own, cut where trains on its legs pass each other; what lies between is parted into
    blocks no shorter than the longest train and what it needs to stop; yard and staging tracks are a block each. A block
    lies in one district. Gaps that are there are used.
    """
    return _Dividing(layout).plan()


class _Dividing:
    def __init__(self, layout: Layout) -> None:
        self.layout = layout
        self.wishes = layout.brief.detecting
        self.rails, self.ways = map_rails(layout), map_ways(layout)
        self.lengths = self.rails.lengths
        self.lines: dict[str, Polyline] = {i: draw(t.path) for i, t in layout.tracks.items()}
        self.circuits = [grow_tree(layout).unsensed(c) for c in extent_circuits(layout, self.rails)]
        self.topology = map_topology(layout, self.rails)
        self.cuts: list[Cut] = []
        self.marks: list[tuple[_Stretch, float, float, str, Role, str]] = []
        self.gapped: dict[str, list[float]] = defaultdict(list)
        for gap in layout.gaps.values():
            if self.sensed_rail(gap.track, gap.at) in cut_sides([gap], gap.at):
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
        lots, blind = self._lots(rails)
        return BlockPlan(tuple(self.cuts), tuple(lots), tuple(blind), paper, rails)

    # --- where cuts go

    def _stretches(self) -> Iterator[_Stretch]:
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

    def _stretch(self, run: list[tuple[str, bool]], ring: bool) -> _Stretch:
        starts, at = [], 0.0
        for track, _ in run:
            starts.append(at)
            at += self.lengths[track]
        head = TrackEnd(run[0][0], "a" if run[0][1] else "b")
        tail = TrackEnd(run[-1][0], "b" if run[-1][1] else "a")
        crossover = len(run) == 1 and all(
            self.layout.nodes[p.node].kind == "turnout" and p.port == "diverging"
            for p in (self.layout.tracks[run[0][0]].a, self.layout.tracks[run[0][0]].b)
        )  # fmt: skip
        ends = (None, None) if ring else (self._clear(head), self._clear(tail))
        return _Stretch(tuple(run), tuple(starts), at, ends[0], ends[1], crossover)

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
        ]  # fmt: skip
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

    def _part(self, s: _Stretch) -> None:
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

    def _shortest(self, s: _Stretch) -> float:
        wished = self.wishes.shortest_block
        if wished is not None:
            return wished
        trains = [t.length for t in self.layout.trains.values()] or [self.layout.brief.rules.longest_train]
        return max(trains) + self.layout.brief.signalling.stopping

    def _blocks(self, s: _Stretch, start: float, end: float) -> None:
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
                self.marks.append((s, x, y, f"{a:.0f}-{b:.0f}", role, why))

    def _parts(self, s: _Stretch, a: float, b: float, through: bool) -> list[tuple[tuple[float, float, Role], str]]:
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
            ((a, x, "enter"), "where a train comes in"), ((x, y, "middle"), "a train is all the way in"),
            ((y, b, "leave"), "a train here must be about to stop or go on"),
        ]  # fmt: skip

    def _gaps_along(self, s: _Stretch) -> list[float]:
        """Gaps there are in the sensed rail, along a stretch."""
        found = []
        for (track, forward), start in zip(s.tracks, s.starts, strict=True):
            found += [start + (at if forward else self.lengths[track] - at) for at in self.gapped[track]]
        return sorted(found)

    def _changes(self, s: _Stretch, x: float) -> bool:
        """Whether another circuit begins at a gap."""
        sides = []
        for off in (-2.0, 2.0):
            track, at = s.place(min(max(x + off, 0.0), s.length), self.lengths)
            sides.append(self.circuits[self.rails.extent_of[self.rails.piece_at(track, at)]])
        return sides[0] != sides[1]

    def _snap(self, s: _Stretch, x: float, reach: float) -> float:
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

    def _cut(self, s: _Stretch, x: float, why: str) -> float:
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
                s = _Stretch(((i, one.end == "a"),), (0.0,), self.lengths[i], clear, None, False)
                if clear < self.lengths[i] - 30:
                    self._cut(s, clear, f"{track.name} is not detected")

    def _paper_gaps(self) -> dict[str, Gap]:
        return {f"paper-{n}": Gap(track=c.track, at=c.at, rails=c.rails) for n, c in enumerate(self.cuts)}

    # --- what comes of it

    def _lots(self, rails: RailMap) -> tuple[list[Lot], list[tuple[int, str]]]:
        circuits = self._circuits_on(rails)
        home = self._marked(rails)
        grouped: dict[object, list[int]] = {}
        blind: list[tuple[int, str]] = []
        for number, extent in enumerate(rails.extents):
            length = sum(p.end - p.start for p in extent)
            widest = max(extent, key=lambda p: (p.end - p.start, p.track))
            inside = [p for p in extent if self.in_scope(p.track)]
            if not inside:
                blind.append((number, f"{self.layout.tracks[widest.track].use}: who works there, looks"))
            elif length < SHORTEST_STAND_MM:
                blind.append((number, "too short for a train to stand on"))
            else:
                mark = home.get(number)
                # Where a whole circuit changes inside one block, each part has a channel of its own.
                grouped.setdefault((mark, circuits[number]) if mark is not None else ("junction", number), []).append(
                    number
                )
        return self._named(rails, grouped, circuits), blind

    def _circuits_on(self, rails: RailMap) -> list[str | None]:
        found = []
        for extent in rails.extents:
            fed: dict[str, float] = defaultdict(float)
            for p in extent:
                old = self.rails.piece_at(p.track, (p.start + p.end) / 2)
                circuit = self.circuits[self.rails.extent_of[old]]
                if circuit is not None:
                    fed[circuit] += p.end - p.start
            found.append(max(sorted(fed), key=lambda c: fed[c], default=None))
        return found

    def _marked(self, rails: RailMap) -> dict[int, int]:
        """Which section of which block each extent is, by the number of its mark; junctions have none."""
        found: dict[int, int] = {}
        for n, (s, a, b, _, _, _) in enumerate(self.marks):
            for (track, forward), start in zip(s.tracks, s.starts, strict=True):
                for piece in rails.pieces[track]:
                    low, high = (
                        (piece.start, piece.end)
                        if forward
                        else (self.lengths[track] - piece.end, self.lengths[track] - piece.start)
                    )
                    middle = start + (low + high) / 2
                    if a - 1 <= middle <= b + 1 and self._plain(rails, rails.extent_of[piece]):
                        found.setdefault(rails.extent_of[piece], n)
        return found

    def _plain(self, rails: RailMap, number: int) -> bool:
        """Whether no turnout or crossing lies in a stretch: both its ends are gaps, joints or bumpers."""
        for p in rails.extents[number]:
            track = self.layout.tracks[p.track]
            for here, port in ((p.start < 1, track.a), (p.end > self.lengths[p.track] - 1, track.b)):
                if here and self.layout.nodes[port.node].kind in ("turnout", "three-way", "slip", "crossing"):
                    return False
        return True

    def _named(self, rails: RailMap, grouped: dict[object, list[int]], circuits: list[str | None]) -> list[Lot]:
        counts: dict[str, int] = defaultdict(int)
        names: dict[tuple[object, str], str] = {}
        taken: dict[str, int] = defaultdict(int)
        lots = []
        order = sorted(grouped.items(), key=lambda g: self._rank(rails, g[1]))
        for key, numbers in order:
            length = sum(p.end - p.start for n in numbers for p in rails.extents[n])
            widest = max((p for n in numbers for p in rails.extents[n]), key=lambda p: (p.end - p.start, p.track))
            use = self.layout.tracks[widest.track].use
            circuit = circuits[numbers[0]]
            if isinstance(key, tuple) and key[0] == "junction":
                nodes = self._junction_nodes(rails, numbers[0])
                name = f"Points {' '.join(nodes[:4])}" if nodes else self.layout.tracks[widest.track].name
                taken[name] += 1
                name = name if taken[name] == 1 else f"{name} part {taken[name]}"
                why = "a junction is a section of its own: a train in it holds every way over it"
                lots.append(
                    Lot(
                        name[:60],
                        name[:60],
                        "junction" if nodes else "whole",
                        use,
                        tuple(numbers),
                        circuit,
                        length,
                        why,
                    )
                )
                continue
            assert isinstance(key, tuple)
            s, _, _, block, role, why = self.marks[key[0]]
            mine = (s.tracks, block)
            if (mine, str(circuit)) not in names:
                letter = PREFIX.get(use, "M")
                counts[letter] += 1
                names[mine, str(circuit)] = f"{letter}{counts[letter]}"
            name = names[mine, str(circuit)]
            lots.append(
                Lot(
                    name if role == "whole" else f"{name} {role}", name, role, use, tuple(numbers), circuit, length, why
                )
            )
        return lots

    def _junction_nodes(self, rails: RailMap, number: int) -> list[str]:
        nodes: dict[str, None] = {}
        for p in rails.extents[number]:
            track = self.layout.tracks[p.track]
            for here, port in ((p.start < 1, track.a), (p.end > self.lengths[p.track] - 1, track.b)):
                node = self.layout.nodes[port.node]
                if here and node.kind in ("turnout", "three-way", "slip", "crossing"):
                    nodes[node.name or port.node] = None
        return sorted(nodes)

    def _rank(self, rails: RailMap, numbers: list[int]) -> tuple[int, int, int, float]:
        """Main first, then branches and the rest; inside each as one walks along its chains."""
        widest = max((p for n in numbers for p in rails.extents[n]), key=lambda p: (p.end - p.start, p.track))
        uses = list(PREFIX)
        use = self.layout.tracks[widest.track].use
        order = list(self.layout.tracks)
        return uses.index(use) if use in uses else len(uses), 0, order.index(widest.track), widest.start


def a_rail_at(topology: Topology, track: str, at: float) -> Side:
    """The rail that carries conductor A at a place: as the feeders of its zone have it, else as the whole layout is wired."""
    piece = topology.rails.piece_at(track, at)
    zone = topology.zones.at(piece)
    if zone.votes:
        return zone.a_rail(piece)
    phase = topology.phase
    votes = [phase[topology.rails.piece_at(f.track, f.at)] == f.a_rail for f in topology.layout.feeders.values()]
    return phase[piece] if 2 * sum(votes) >= len(votes) else opposite(phase[piece])
