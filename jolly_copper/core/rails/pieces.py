"""What rail touches what: pieces between gaps, and sections grown from their named anchors."""

from __future__ import annotations

import itertools
from bisect import bisect_right
from collections.abc import Hashable, Iterator, Mapping
from dataclasses import dataclass
from typing import Literal, NamedTuple

from jolly_copper.core.layout.control import three_rail_tracks
from jolly_copper.core.layout.document import Layout, Node
from jolly_copper.core.layout.frogs import routing_turnouts
from jolly_copper.core.layout.lately import reads
from jolly_copper.core.layout.reading import track_length

Side = Literal["left", "right"]
SIDES: tuple[Side, Side] = ("left", "right")
PAIR_MM = 10.0
"""Gaps this near to each other on a track are one mark; the house rule for staggered gaps reaches farther."""


class Joined:
    """Union-find: which things are one piece of metal."""

    def __init__(self) -> None:
        self._parent: dict[Hashable, Hashable] = {}

    def copy(self) -> Joined:
        """The same things joined, to join more."""
        found = Joined()
        found._parent = dict(self._parent)
        return found

    def find(self, thing: Hashable) -> Hashable:
        parent = self._parent
        root = parent.setdefault(thing, thing)
        if root is thing or (above := parent[root]) is root:
            return root
        while above is not root:  # what stands for itself is its own very object
            root, above = above, parent[above]
        while (above := parent[thing]) is not root:
            parent[thing], thing = root, above
        return root

    def join(self, one: Hashable, other: Hashable) -> None:
        a, b = self.find(one), self.find(other)
        if a != b:
            self._parent[b] = a


class Piece(NamedTuple):
    """A stretch of one track between gaps (of either rail) or ends: mm from the track's A end.

    A named tuple because pieces are looked up tens of thousands of times, and tuples hash several times quicker.
    """

    track: str
    start: float
    end: float


@dataclass(frozen=True)
class RailMap:
    """Pieces and sections of a layout.

    `pieces`: per track, in order from A. `extents`: pieces grouped into stretches that no gap divides.
    `extent_of`: number of each piece's stretch. `sections_in`: ids of the sections anchored in each stretch. `cut_at`:
    where each gap counts as cut, mm from the track's A end: the two of a staggered pair at one place.
    """

    lengths: dict[str, float]
    pieces: dict[str, tuple[Piece, ...]]
    extent_of: dict[Piece, int]
    extents: tuple[tuple[Piece, ...], ...]
    sections_in: tuple[tuple[str, ...], ...]
    cut_at: dict[str, float]

    def piece_at(self, track: str, at: float) -> Piece:
        """The piece that holds this distance from the track's A end."""
        pieces = self.pieces[track]
        return pieces[min(max(bisect_right([p.start for p in pieces], at) - 1, 0), len(pieces) - 1)]

    def end_piece(self, track: str, end: str) -> Piece:
        """The outermost piece at an end of a track."""
        return self.pieces[track][0 if end == "a" else -1]

    def section_at(self, track: str, at: float) -> str | None:
        """The section whose anchor reaches this point without crossing a gap; None where none does."""
        found = self.sections_in[self.extent_of[self.piece_at(track, at)]]
        return found[0] if found else None


def opposite(side: Side) -> Side:
    """The other rail."""
    return "right" if side == "left" else "left"


def is_in(port: str) -> bool:
    """Whether a port lies on the IN side of its node: a train goes IN to OUT or back, never IN to IN."""
    return port in ("points", "1") or port.startswith("west")


def rail_towards(port: str, end: Literal["a", "b"], heading_side: Side) -> Side:
    """Which rail of a track, as the track names them, is the node's `heading_side` rail.

    Same sign keeps left left: the track runs with the node's heading when its B end is at an IN port or its A end
    at an OUT port.
    """
    along = is_in(port) == (end == "b")
    return heading_side if along else opposite(heading_side)


class RailEnd(NamedTuple):
    """One rail at one end of a track."""

    track: str
    end: Literal["a", "b"]
    side: Side


class Setting(NamedTuple):
    """A turnout and how it lies."""

    node: str
    lies: str


class NodeBond(NamedTuple):
    """Two rail ends that meet in a node, for good or while a turnout is set so.

    faces: whether a train runs from the one rail to the other. The two inner rails of a power-routing frog are one
    metal, but no train runs from one to the other, so they say nothing of how track faces.
    """

    one: RailEnd
    other: RailEnd
    setting: Setting | None = None
    faces: bool = True


@reads("brief", "tracks", "nodes")
def node_bonds(layout: Layout) -> tuple[NodeBond, ...]:
    """Every bond across every node.

    Live and dead frogs join left with left and right with right on both legs (the frog itself aside), as seen along the
    node's heading. A power-routing turnout keeps the outer rail of each leg on its stock rail, while both inner rails
    follow the frog, which takes the stock rail of the way it is set. Tables join nothing: a pit parts every rail.
    On three-rail track the centre rail joins the centre rail and the outers the outers, whichever way each track runs.
    """
    return tuple(_node_bonds(layout))


def _node_bonds(layout: Layout) -> Iterator[NodeBond]:
    at: dict[str, list[tuple[str, str, Literal["a", "b"]]]] = {}
    for i, track in layout.tracks.items():
        at.setdefault(track.a.node, []).append((track.a.port, i, "a"))
        at.setdefault(track.b.node, []).append((track.b.port, i, "b"))
    three, routing = three_rail_tracks(layout), routing_turnouts(layout)
    for node_id in sorted(at):
        node, ends = layout.nodes[node_id], sorted(at[node_id])
        if node_id in routing:
            yield from _routing_bonds(node_id, node, {port: (track, end) for port, track, end in ends})
            continue
        ports = [port for port, _, _ in ends]
        for (port, track_id, end), (other_port, other_track, other_end) in itertools.combinations(ends, 2):
            if _meet(node, port, other_port, ports):
                for side in SIDES:
                    one = side if track_id in three else rail_towards(port, end, side)
                    other = side if other_track in three else rail_towards(other_port, other_end, side)
                    yield NodeBond(RailEnd(track_id, end, one), RailEnd(other_track, other_end, other))


def _meet(node: Node, port: str, other: str, ports: list[str]) -> bool:
    """Whether the rails of two ports are one. Where one side of a turnout or slip has no track yet, the ports of its
    other side still meet in the turnout's own rails."""
    match node.kind:
        case "joint":
            return True
        case "crossing":
            return port[-1] == other[-1]
        case "turnout" | "three-way" | "slip":
            return is_in(port) != is_in(other) or all(is_in(p) == is_in(port) for p in ports)
        case _:
            return False


def _routing_bonds(node_id: str, node: Node, ends: dict[str, tuple[str, Literal["a", "b"]]]) -> Iterator[NodeBond]:
    outer: Side = "left" if node.hand == "left" else "right"
    # The rail of each leg that stays on its stock rail, seen from the points; the other one goes to the frog.
    stays: dict[str, Side] = {"diverging": outer, "through": opposite(outer)}

    def rail(port: str, side: Side) -> RailEnd:
        track, end = ends[port]
        return RailEnd(track, end, rail_towards(port, end, side))

    for leg, side in stays.items():
        if leg in ends and "points" in ends:
            yield NodeBond(rail("points", side), rail(leg, side))
            yield NodeBond(rail("points", opposite(side)), rail(leg, opposite(side)), Setting(node_id, leg))
    if "through" in ends and "diverging" in ends:
        yield NodeBond(
            rail("through", opposite(stays["through"])), rail("diverging", opposite(stays["diverging"])), faces=False
        )


def frog_rails(layout: Layout, node_id: str) -> list[RailEnd]:
    """The rails that leave a power-routing turnout's frog: the inner rail of each leg."""
    node = layout.nodes[node_id]
    outer: Side = "left" if node.hand == "left" else "right"
    inner: dict[str, Side] = {"through": outer, "diverging": opposite(outer)}
    ends: tuple[Literal["a", "b"], ...] = ("a", "b")
    return [
        RailEnd(i, end, rail_towards(port.port, end, inner[port.port]))
        for i, track in layout.tracks.items()
        for end in ends
        if (port := track.a if end == "a" else track.b).node == node_id and port.port in inner
    ]


def rail_bonds(layout: Layout) -> Iterator[tuple[RailEnd, RailEnd]]:
    """Every pair of rail ends that are one metal as the turnouts lie."""
    for bond in node_bonds(layout):
        if bond.setting is None or layout.nodes[bond.setting.node].lies == bond.setting.lies:
            yield bond.one, bond.other


def cut_places(layout: Layout, lengths: Mapping[str, float]) -> dict[str, float]:
    """Where each gap counts as cut: its own place; of a left and a right one within the house's stagger, half way
    between.

    Nearest pairs first, each gap in one pair only; a gap of both rails stands for itself.
    """
    found = {i: min(g.at, lengths[g.track]) for i, g in layout.gaps.items()}
    single: dict[str, dict[Side, list[str]]] = {}
    for i, gap in layout.gaps.items():
        if gap.rails in SIDES:
            single.setdefault(gap.track, {"left": [], "right": []})[gap.rails].append(i)
    reach = layout.brief.rules.gap_stagger
    for sides in single.values():
        near = sorted(
            (abs(found[a] - found[b]), a, b)
            for a in sides["left"]
            for b in sides["right"]
            if PAIR_MM < abs(found[a] - found[b]) <= reach
        )
        taken: set[str] = set()
        for _, a, b in near:
            if not taken & {a, b}:
                taken |= {a, b}
                found[a] = found[b] = (found[a] + found[b]) / 2
    return found


@reads("brief", "tracks", "nodes", "gaps", "sections")
def map_rails(layout: Layout) -> RailMap:
    """Cut every track at its gaps and grow the sections. A gap in either rail parts two sections."""
    lengths = {i: track_length(t) for i, t in layout.tracks.items()}
    cuts: dict[str, list[float]] = {i: [] for i in lengths}
    cut_at = cut_places(layout, lengths)
    for i, gap in layout.gaps.items():
        cuts[gap.track].append(cut_at[i])
    pieces: dict[str, tuple[Piece, ...]] = {}
    touching = Joined()
    for i, length in lengths.items():
        marks: list[float] = []
        for mark in sorted(cuts[i]):
            if not marks or mark - marks[-1] > PAIR_MM:
                marks.append(mark)
        edges = [0.0, *(min(max(m, 0.0), length) for m in marks), length]
        pieces[i] = tuple(Piece(i, a, b) for a, b in itertools.pairwise(edges))
        for piece in pieces[i]:
            touching.find(piece)
    for (one, one_end, _), (other, other_end, _) in rail_bonds(layout):
        touching.join(pieces[one][0 if one_end == "a" else -1], pieces[other][0 if other_end == "a" else -1])
    groups: dict[Hashable, list[Piece]] = {}
    for i in pieces:
        for piece in pieces[i]:
            groups.setdefault(touching.find(piece), []).append(piece)
    extents = tuple(tuple(g) for g in groups.values())
    extent_of = {p: n for n, g in enumerate(extents) for p in g}
    anchored: list[list[str]] = [[] for _ in extents]
    partial = RailMap(lengths, pieces, extent_of, extents, (), cut_at)
    for section_id, section in layout.sections.items():
        anchored[extent_of[partial.piece_at(section.track, section.at)]].append(section_id)
    return RailMap(lengths, pieces, extent_of, extents, tuple(tuple(a) for a in anchored), cut_at)
