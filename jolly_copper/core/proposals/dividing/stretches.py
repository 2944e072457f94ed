"""The stretches a division is made of: track between all the places where a district may sensibly end."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass

from scipy.spatial import cKDTree

from jolly_copper.core.circuits.whereabouts import extent_circuits
from jolly_copper.core.layout.document import Gap, Layout, Track
from jolly_copper.core.layout.geometry import Polyline, crossings
from jolly_copper.core.layout.reading import track_length
from jolly_copper.core.layout.stock import TrackUse
from jolly_copper.core.rails.pieces import Piece, map_rails
from jolly_copper.core.rails.topology import Topology, map_topology
from jolly_copper.core.rails.zones import Border

CLEAR_OF_TURNOUT_MM = 150.0
"""A gap stands so far from the middle of a turnout: beyond its frog."""
APART_MM = 400.0
"""Two places for a gap on one track are at least so far apart."""
LONELY_MM = 1300.0
"""Plain track is cut only so far from any better place."""
BESIDE_JOINT_MM = 60.0
EVERY_MM = 3000.0
PARALLEL_MM = 250.0
Why = str
PRICE: dict[Why, float] = {
    "there already": 0.0,
    "board joint": 1.0,
    "crossover": 1.2,
    "turnout leg": 1.5,
    "rail joint": 2.0,
    "plain track": 2.5,
}
"""What a pair of gaps there weighs against others: a board joint is cut anyway, plain track is cut for this alone."""


@dataclass(frozen=True)
class Edge:
    """A place where a district may end: between stretches `a` and `b`, on a track, and why there."""

    a: int
    b: int
    track: str
    at: float
    why: Why
    gaps: tuple[str, ...]

    @property
    def price(self) -> float:
        return PRICE[self.why]


@dataclass(frozen=True)
class Stretch:
    """Track that stays in one district.

    pieces: (track, start, end), mm. uses: mm of track by use. circuit: what feeds it today; None where nothing does.
    turns: a reverser feeds it. length: mm.
    """

    number: int
    pieces: tuple[tuple[str, float, float], ...]
    uses: dict[TrackUse, float]
    circuit: str | None
    turns: bool

    @property
    def length(self) -> float:
        return sum(end - start for _, start, end in self.pieces)

    @property
    def use(self) -> TrackUse:
        """What most of it is for."""
        return max(sorted(self.uses), key=lambda u: self.uses[u])


@dataclass(frozen=True)
class Plan:
    """All stretches of a layout, the places between them, and which lie beside each other without rails between."""

    stretches: tuple[Stretch, ...]
    edges: tuple[Edge, ...]
    beside: frozenset[tuple[int, int]]


def find_stretches(topology: Topology) -> Plan:
    """Cut a layout, on paper, at every sensible place.

    Never inside a turnout, a reversing section or what one detector senses; at board joints where there are some, at
    crossovers, in the legs of turnouts clear of their frogs, at joints between tracks, and on long plain track every
    few metres.
    """
    layout = topology.layout
    reasons: dict[tuple[str, float], Why] = {}
    gaps = dict(layout.gaps)
    for number, (track, at, why) in enumerate(_places(topology)):
        gaps[f"paper-{number}"] = Gap(track=track, at=at)
        reasons[track, at] = why
    paper = layout.model_copy(update={"gaps": gaps})
    cut = map_topology(paper, map_rails(paper))
    circuits = extent_circuits(layout, topology.rails)
    stretches = []
    for zone in cut.zones.zones:
        uses: dict[TrackUse, float] = defaultdict(float)
        fed: dict[str, float] = defaultdict(float)
        for p in zone.pieces:
            uses[layout.tracks[p.track].use] += p.end - p.start
            old = topology.rails.piece_at(p.track, (p.start + p.end) / 2)
            circuit = circuits[topology.rails.extent_of[old]]
            if circuit is not None:
                fed[circuit] += p.end - p.start
        middle = max(zone.pieces, key=lambda p: (p.end - p.start, p.track))
        old = topology.rails.piece_at(middle.track, (middle.start + middle.end) / 2)
        turns = topology.is_reversing(topology.zones.at(old))
        circuit = max(sorted(fed), key=lambda c: fed[c], default=None)
        stretches.append(
            Stretch(zone.number, tuple((p.track, p.start, p.end) for p in zone.pieces), dict(uses), circuit, turns)
        )
    edges = [_edge(b, cut.zones.zone_of, reasons) for b in cut.zones.borders]
    return Plan(
        tuple(stretches), tuple(e for e in edges if e.a != e.b), frozenset(_tables(paper, cut) | _parallel(paper, cut))
    )


def _edge(border: Border, zone_of: dict[Piece, int], reasons: dict[tuple[str, float], Why]) -> Edge:
    why = next((w for (t, at), w in reasons.items() if t == border.track and abs(at - border.at) < 1), "there already")
    gaps = tuple(g for g in border.gaps if not g.startswith("paper-"))
    return Edge(zone_of[border.before], zone_of[border.after], border.track, border.at, why, gaps)


def _places(topology: Topology) -> Iterator[tuple[str, float, Why]]:
    layout = topology.layout
    boards = [b.corners for b in layout.boards.values()]
    named: set[str] = set()  # joints that another track has spoken for
    circuits = extent_circuits(layout, topology.rails)
    feeds = {d.output: i for i, d in layout.devices.items()}
    for track_id, track in layout.tracks.items():
        length, line = track_length(track), track.line
        taken = [b.at for b in topology.zones.borders if b.track == track_id]
        taken += [g.at for g in layout.gaps.values() if g.track == track_id and g.rails == "both"]
        for at, why in _wanted(layout, track, line, length, boards, named):
            piece = topology.rails.piece_at(track_id, at)
            circuit = circuits[topology.rails.extent_of[piece]]
            sensed = (
                circuit is not None and (d := feeds.get(circuit)) is not None and layout.devices[d].kind == "detector"
            )
            if (
                sensed
                or topology.is_reversing(topology.zones.at(piece))
                or any(abs(at - t) < (LONELY_MM if why == "plain track" else APART_MM) for t in taken)
            ):
                continue
            taken.append(at)
            yield track_id, round(at, 1), why


def _wanted(
    layout: Layout,
    track: Track,
    line: Polyline,
    length: float,
    boards: list[list[tuple[float, float]]],
    named: set[str],
) -> Iterator[tuple[float, Why]]:
    """Places on one track, the best kinds first."""
    kinds = [layout.nodes[p.node].kind for p in (track.a, track.b)]
    branching = [k not in ("joint", "bumper") for k in kinds]
    clear = [CLEAR_OF_TURNOUT_MM if b else BESIDE_JOINT_MM for b in branching]
    if length < clear[0] + clear[1] + 40:
        if all(branching) and length >= 120:
            yield length / 2, "crossover"
        return
    scale = length / line.length
    for at in crossings(line, boards):
        if clear[0] <= at * scale <= length - clear[1]:
            yield at * scale, "board joint"
    crossover = all(k == "turnout" for k in kinds) and track.a.port == track.b.port == "diverging"
    if crossover:
        yield length / 2, "crossover"
    for end, at in enumerate((clear[0], length - clear[1])):
        if kinds[end] == "joint":
            node = (track.a, track.b)[end].node
            if node not in named:
                named.add(node)
                yield at, "rail joint"
        elif branching[end]:
            yield at, "turnout leg"
    count = math.floor(length / EVERY_MM)
    for k in range(1, count + 1):
        yield length * k / (count + 1), "plain track"


def _tables(layout: Layout, cut: Topology) -> set[tuple[int, int]]:
    """Stretches that meet at a turntable or traverser: its pit parts them, and they belong together."""
    meeting: dict[str, set[int]] = defaultdict(set)
    for track_id, track in layout.tracks.items():
        for end, port in (("a", track.a), ("b", track.b)):
            if layout.nodes[port.node].kind in ("turntable", "traverser"):
                meeting[port.node].add(cut.zones.zone_of[cut.rails.end_piece(track_id, end)])
    return {(a, b) for zones in meeting.values() for a in zones for b in zones if a < b}


def _parallel(layout: Layout, cut: Topology) -> set[tuple[int, int]]:
    """Stretches that run side by side, so that one bus can feed both."""
    points, owner = [], []
    for track_id, pieces in cut.rails.pieces.items():
        line = layout.tracks[track_id].line
        scale = line.length / cut.rails.lengths[track_id]
        for piece in pieces:
            for k in range(max(1, math.ceil((piece.end - piece.start) / 200))):
                count = max(1, math.ceil((piece.end - piece.start) / 200))
                points.append(line.point((piece.start + (piece.end - piece.start) * (k + 0.5) / count) * scale))
                owner.append(cut.zones.zone_of[piece])
    if not points:
        return set()
    pairs = cKDTree(points).query_pairs(PARALLEL_MM)
    return {(min(owner[a], owner[b]), max(owner[a], owner[b])) for a, b in pairs if owner[a] != owner[b]}
