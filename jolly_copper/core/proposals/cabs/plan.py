"""Where a railroad of direct current parts into blocks for cabs: one for every place where an engine may wait."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace
from typing import Literal

from jolly_copper.core.circuits.whereabouts import extent_circuits
from jolly_copper.core.layout.control import control_of, has_three_rails
from jolly_copper.core.layout.document import REVERSERS, Gap, Layout
from jolly_copper.core.layout.frogs import JUNCTIONS, routing_turnouts
from jolly_copper.core.layout.power_tree import PowerTree, grow_tree
from jolly_copper.core.layout.stock import TrackUse
from jolly_copper.core.proposals.blocking.make import with_wishes
from jolly_copper.core.proposals.blocking.plan import Cut, a_rail_at, divide_into_blocks
from jolly_copper.core.rails.dead import SHORTEST_STAND_MM
from jolly_copper.core.rails.pieces import Joined, Piece, RailMap, map_rails
from jolly_copper.core.rails.through import longest_way
from jolly_copper.core.rails.topology import map_topology
from jolly_copper.core.rails.ways import map_ways

School = Literal["both rails", "common rail"]
PARKS: frozenset[TrackUse] = frozenset({"yard", "siding", "staging", "industry", "engine terminal"})
"""Uses of track whose dead ends get an on–off switch: an engine is parked there."""
LOOKED_AT_AS: dict[TrackUse, TrackUse] = {"industry": "yard", "engine terminal": "yard"}
"""What counts as what while cuts are looked for: all of them are places where engines wait."""
LEAST_PARKED_MM = {"Z": 90, "N": 120, "TT": 160, "HO": 220, "OO": 250, "S": 300, "O": 420, "G": 550}
"""A dead end shorter than a short engine and its coupling holds nothing worth a switch. Certainty C."""


@dataclass(frozen=True)
class CabBlock:
    """A stretch that one selector gives to a cab, or a dead end that a switch turns off.

    extent: number in the cut railroad's rail map. holds: the longest way a train may stand in it, mm. parent: of a dead
    end, the extent of the block whose cab it shares. behind: the reversing switch it is fed through. why: in words.
    """

    name: str
    extent: int
    use: TrackUse
    holds: float
    parent: int | None
    behind: str | None
    why: str


@dataclass(frozen=True)
class CabPlan:
    """The railroad cut on paper. left_out: stretches no cab drives, with why. paper: the layout with its cuts, rails:
    of it."""

    school: School
    cuts: tuple[Cut, ...]
    blocks: tuple[CabBlock, ...]
    left_out: tuple[str, ...]
    paper: Layout
    rails: RailMap


def driven_by_cabs(layout: Layout, tree: PowerTree, rails: RailMap) -> frozenset[str]:
    """Tracks of two rails that no digital or three-rail source feeds for more than half their length: what blocks for
    cabs may be made of."""
    other: dict[str, float] = defaultdict(float)
    for circuit, extent in zip(extent_circuits(layout, rails), rails.extents, strict=True):
        if circuit is not None and tree.source(circuit) is not None and control_of(tree, circuit) != "dc":
            for p in extent:
                other[p.track] += p.end - p.start
    return frozenset(
        i
        for i, t in layout.tracks.items()
        if not has_three_rails(layout, t) and t.use != "programming" and other[i] <= rails.lengths[i] / 2
    )


def plan_cab_blocks(layout: Layout, school: School = "both rails", shortest: float | None = None) -> CabPlan:
    """Cut the track that direct current drives into blocks, on paper.

    Passing tracks, yard and staging tracks are a block each; the line between stations is parted into blocks no shorter
    than the longest train; turnouts go with the line on their points side, so that gaps stand beyond their frogs; dead
    ends get a switch, or nothing where their turnout routes the power. Gaps that are there are used.

    Args:
        layout: the document.
        school: gaps in both rails, or in the one that is switched.
        shortest: of a block on the line, mm; the longest train when not given.
    """
    return _Cutting(layout, school).plan(shortest)


class _Cutting:
    def __init__(self, layout: Layout, school: School) -> None:
        self.layout, self.school, self.tree = layout, school, grow_tree(layout)
        self.before = map_rails(layout)
        self.circuits = extent_circuits(layout, self.before)
        self.mine = driven_by_cabs(layout, self.tree, self.before)
        self.routing = routing_turnouts(layout)
        self.turning = {
            p.track: i
            for circuit, extent in zip(self.circuits, self.before.extents, strict=True)
            if circuit is not None and (i := self._reverser(circuit)) is not None
            for p in extent
        }

    def _reverser(self, circuit: str) -> str | None:
        return next((i for i in self.tree.upstream(circuit) if self.layout.devices[i].kind in REVERSERS), None)

    def plan(self, shortest: float | None) -> CabPlan:
        tracks = {
            i: t.model_copy(update={"use": LOOKED_AT_AS.get(t.use, t.use) if self._cuts_in(i) else "programming"})
            for i, t in self.layout.tracks.items()
        }
        wished = with_wishes(
            self.layout.model_copy(update={"tracks": tracks}),
            0.0,
            per_block=1,
            gaps="both rails" if self.school == "both rails" else "one rail",
            sensed="A",
            shortest_block=shortest,
        )
        first = divide_into_blocks(wished)
        useful = [
            c for c in first.cuts if not all(self._digital(first.rails.extents[n]) for n in _sides(first.rails, c))
        ]
        kept = self._merged(first.rails, useful)
        rails = map_rails(_with_gaps(self.layout, kept))
        blocks, left_out = self._blocks(rails)
        ends = {b.extent for b in blocks if b.parent is not None}
        topology = map_topology(self.layout, self.before)
        kept = [
            replace(c, rails=a_rail_at(topology, c.track, c.at), why="one rail parks an engine")
            if any(n in ends for n in _sides(rails, c))
            else replace(c, why="where the direct-current line ends" if "not detected" in c.why else c.why)
            for c in kept
        ]
        paper = _with_gaps(self.layout, kept)
        return CabPlan(self.school, tuple(kept), tuple(blocks), tuple(left_out), paper, rails)

    def _cuts_in(self, track: str) -> bool:
        return track in self.mine and track not in self.turning

    def _merged(self, rails: RailMap, cuts: list[Cut]) -> list[Cut]:
        """The cuts without those between a junction and the line on its points side, those of dead ends whose turnout
        routes the power, and those round track too short to park on."""
        joined = Joined()
        routed = [c for c in cuts if self._routed(c)]
        cuts = [c for c in cuts if c not in routed]
        lengths = [sum(p.end - p.start for p in e) for e in rails.extents]
        for c in routed:
            joined.join(*_sides(rails, c))
        crowded = [
            n
            for n, e in enumerate(rails.extents)
            if self._nodes(rails, e, JUNCTIONS) or lengths[n] < LEAST_PARKED_MM[self.layout.brief.scale]
        ]
        for n in sorted(crowded, key=lambda n: (lengths[n], n)):
            beside = [c for c in cuts if len({joined.find(x) for x in _sides(rails, c)}) == 2 and n in _sides(rails, c)]
            if beside:
                drop = max(beside, key=lambda c: self._fitness(rails, lengths, c, n))
                cuts.remove(drop)
                joined.join(*_sides(rails, drop))
        return cuts

    def _fitness(self, rails: RailMap, lengths: Sequence[float], cut: Cut, mine: int) -> tuple[bool, bool, float, str]:
        """How well track beyond a cut goes with a junction: its points side first, no dead end, then the longest."""
        one, other = _sides(rails, cut)
        beyond = other if one == mine else one
        track = self.layout.tracks[cut.track]
        port = (track.a if one == mine else track.b).port
        dead_end = bool(self._nodes(rails, rails.extents[beyond], ("bumper",)))
        return port == "points", not dead_end, lengths[beyond], cut.track

    def _routed(self, cut: Cut) -> bool:
        """Whether a cut parks a dead end whose turnout parks it by itself."""
        track = self.layout.tracks[cut.track]
        for near, far in ((track.a, track.b), (track.b, track.a)):
            if near.node in self.routing and near.port != "points":
                return self.layout.nodes[far.node].kind == "bumper"
        return False

    def _nodes(self, rails: RailMap, extent: Sequence[Piece], kinds: Collection[str]) -> set[str]:
        """Nodes of these kinds that a stretch reaches."""
        found = set()
        for p in extent:
            track = self.layout.tracks[p.track]
            for here, port in ((p.start < 1, track.a), (p.end > rails.lengths[p.track] - 1, track.b)):
                if here and self.layout.nodes[port.node].kind in kinds:
                    found.add(port.node)
        return found

    def _blocks(self, rails: RailMap) -> tuple[list[CabBlock], list[str]]:
        ways = map_ways(self.layout)
        names: dict[str, int] = {}
        beside = _neighbours(rails)
        found: list[CabBlock] = []
        left_out: list[str] = []
        driven = {
            n
            for n, extent in enumerate(rails.extents)
            if all(p.track in self.mine for p in extent if p.end - p.start > SHORTEST_STAND_MM)
            and sum(p.end - p.start for p in extent) >= SHORTEST_STAND_MM
            and not self._digital(extent)
        }
        order = list(self.layout.tracks)
        for n, extent in sorted(enumerate(rails.extents), key=lambda e: _rank(order, e[1])):
            widest = max(extent, key=lambda p: (p.end - p.start, p.track))
            track = self.layout.tracks[widest.track]
            if n not in driven:
                if 2 * sum(p.end - p.start for p in extent if p.track in self.mine) > sum(
                    p.end - p.start for p in extent
                ):
                    left_out.append(f"{track.name}: it is one metal with track of another control")
                continue
            names[track.name] = names.get(track.name, 0) + 1
            name = track.name if names[track.name] == 1 else f"{track.name} {names[track.name]}"
            near = sorted(beside[n])
            parks = (
                track.use in PARKS and len(near) == 1 and near[0] in driven and self._nodes(rails, extent, ("bumper",))
            )
            junction = self._nodes(rails, extent, JUNCTIONS)
            why = (
                "a dead end: one rail is switched off to park an engine"
                if parks
                else "an engine waits here while another moves"
                + (", and its turnouts go with the line on their points side" if junction else "")
            )
            found.append(
                CabBlock(
                    name,
                    n,
                    track.use,
                    longest_way(rails, ways, extent),
                    near[0] if parks else None,
                    self.turning.get(widest.track),
                    why,
                )
            )
        return found, left_out

    def _digital(self, extent: Sequence[Piece]) -> bool:
        """Whether a source of another control feeds a stretch today."""
        for p in extent:
            circuit = self.circuits[self.before.extent_of[self.before.piece_at(p.track, (p.start + p.end) / 2)]]
            if circuit is not None and self.tree.source(circuit) and control_of(self.tree, circuit) != "dc":
                return True
        return False


def _with_gaps(layout: Layout, cuts: Sequence[Cut]) -> Layout:
    paper = {f"paper-{n}": Gap(track=c.track, at=c.at) for n, c in enumerate(cuts)}
    return layout.model_copy(update={"gaps": {**layout.gaps, **paper}})


def _sides(rails: RailMap, cut: Cut) -> tuple[int, int]:
    """The stretches before and after a cut."""
    before, after = (rails.piece_at(cut.track, cut.at + off) for off in (-1.0, 1.0))
    return rails.extent_of[before], rails.extent_of[after]


def _neighbours(rails: RailMap) -> list[set[int]]:
    """The stretches on the other side of each stretch's gaps."""
    found: list[set[int]] = [set() for _ in rails.extents]
    for pieces in rails.pieces.values():
        for k in range(len(pieces) - 1):
            a, b = rails.extent_of[pieces[k]], rails.extent_of[pieces[k + 1]]
            if a != b:
                found[a].add(b)
                found[b].add(a)
    return found


def _rank(order: Sequence[str], extent: Sequence[Piece]) -> tuple[int, float]:
    widest = max(extent, key=lambda p: (p.end - p.start, p.track))
    return order.index(widest.track), widest.start
