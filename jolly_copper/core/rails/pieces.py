"""What rail touches what: pieces between gaps, and sections grown from their named anchors."""

from __future__ import annotations

import itertools
from bisect import bisect_right
from collections.abc import Hashable, Iterable
from dataclasses import dataclass
from typing import Literal, NamedTuple

from jolly_copper.core.layout.document import Layout, Node
from jolly_copper.core.layout.reading import track_length

Side = Literal["left", "right"]
SIDES: tuple[Side, Side] = ("left", "right")
PAIR_MM = 10.0
"""Two one-rail gaps on opposite rails this near to each other count as a cut through both."""


class Joined:
    """Union-find: which things are one piece of metal."""

    def __init__(self) -> None:
        self._parent: dict[Hashable, Hashable] = {}

    def find(self, thing: Hashable) -> Hashable:
        self._parent.setdefault(thing, thing)
        root = thing
        while self._parent[root] != root:
            root = self._parent[root]
        while self._parent[thing] != root:
            self._parent[thing], thing = root, self._parent[thing]
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
    `extent_of`: number of each piece's stretch. `sections_in`: ids of the sections anchored in each stretch.
    """

    lengths: dict[str, float]
    pieces: dict[str, tuple[Piece, ...]]
    extent_of: dict[Piece, int]
    extents: tuple[tuple[Piece, ...], ...]
    sections_in: tuple[tuple[str, ...], ...]

    def piece_at(self, track: str, at: float) -> Piece:
        """The piece that holds this distance from the track's A end."""
        pieces = self.pieces[track]
        return pieces[min(max(bisect_right([p.start for p in pieces], at) - 1, 0), len(pieces) - 1)]

    def section_at(self, track: str, at: float) -> str | None:
        """The section whose anchor reaches this point without crossing a gap; None where none does."""
        found = self.sections_in[self.extent_of[self.piece_at(track, at)]]
        return found[0] if found else None


def bonds(
    node: Node, port: str, other: str, used: frozenset[str] = frozenset()
) -> tuple[tuple[Side, Side], ...] | None:
    """How the rails of two ports of a node are bonded: pairs (rail at port, rail at other), or None.

    Sides are as seen along the node's own heading, from its IN ports to its OUT ports: `points` to the legs, `1` to
    `2`, `west…` to `east…`. Live and dead frogs join left with left and right with right on both legs (the frog
    itself aside). A power-routing turnout feeds only the leg it is set for: the outer rail of the other leg stays on
    its stock rail, while its inner rail follows the frog. Tables join nothing: a pit parts every rail.

    `used` holds the ports that have a track: where one side of a turnout or slip has none, the ports of the other side
    still meet in the rails of the turnout itself.
    """
    straight: tuple[tuple[Side, Side], ...] = (("left", "left"), ("right", "right"))
    if node.kind in ("turnout", "three-way", "slip") and is_in(port) == is_in(other):
        bare = bool(used) and all(is_in(p) == is_in(port) for p in used)
        return straight if bare and node.frog != "routing" else None
    match node.kind:
        case "joint":
            return straight
        case "crossing":
            return straight if port[-1] == other[-1] else None
        case "slip" | "three-way":
            return straight
        case "turnout":
            if node.frog != "routing":
                return straight
            leg = other if port == "points" else port
            if leg == node.lies:
                return straight
            diverging_outer: Side = "left" if node.hand == "left" else "right"
            outer = diverging_outer if leg == "diverging" else opposite(diverging_outer)
            return ((outer, outer),)
        case _:
            return None


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


def rail_bonds(layout: Layout) -> Iterable[tuple[tuple[str, str, Side], tuple[str, str, Side]]]:
    """Every pair of rail ends bonded across a node: ((track, end, rail), (track, end, rail))."""
    at: dict[str, list[tuple[str, str, Literal["a", "b"]]]] = {}
    for i, track in layout.tracks.items():
        at.setdefault(track.a.node, []).append((track.a.port, i, "a"))
        at.setdefault(track.b.node, []).append((track.b.port, i, "b"))
    for node_id in sorted(at):
        node, ends = layout.nodes[node_id], sorted(at[node_id])
        used = frozenset(p for p, _, _ in ends)
        for k, (port, track_id, end) in enumerate(ends):
            for other_port, other_track, other_end in ends[k + 1 :]:
                for one, other in bonds(node, port, other_port, used) or ():
                    yield (
                        (track_id, end, rail_towards(port, end, one)),
                        (other_track, other_end, rail_towards(other_port, other_end, other)),
                    )
        if node.kind == "turnout" and node.frog == "routing":
            yield from _frog_bonds(node, {port: (track, end) for port, track, end in ends})


def _frog_bonds(
    node: Node, ends: dict[str, tuple[str, Literal["a", "b"]]]
) -> Iterable[tuple[tuple[str, str, Side], tuple[str, str, Side]]]:
    """The two inner rails of a power-routing turnout meet in its frog, whatever way it lies."""
    if "through" not in ends or "diverging" not in ends:
        return
    diverging_inner: Side = "right" if node.hand == "left" else "left"
    (t, t_end), (d, d_end) = ends["through"], ends["diverging"]
    yield (
        (t, t_end, rail_towards("through", t_end, opposite(diverging_inner))),
        (d, d_end, rail_towards("diverging", d_end, diverging_inner)),
    )


def map_rails(layout: Layout) -> RailMap:
    """Cut every track at its gaps and grow the sections. A gap in either rail parts two sections."""
    lengths = {i: track_length(t) for i, t in layout.tracks.items()}
    cuts: dict[str, list[float]] = {i: [] for i in lengths}
    for gap in layout.gaps.values():
        cuts[gap.track].append(min(gap.at, lengths[gap.track]))
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
    partial = RailMap(lengths, pieces, extent_of, extents, ())
    for section_id, section in layout.sections.items():
        anchored[extent_of[partial.piece_at(section.track, section.at)]].append(section_id)
    return RailMap(lengths, pieces, extent_of, extents, tuple(tuple(a) for a in anchored))
