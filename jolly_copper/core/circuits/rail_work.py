"""Rails as resistors: every stretch of track, its joiners, and what meets at nodes. Nothing of wires is in here, so it
is worked out anew only when track changes."""

from __future__ import annotations

import itertools
from bisect import bisect_left, bisect_right
from collections import defaultdict
from collections.abc import Hashable, Sequence
from dataclasses import dataclass
from typing import Literal

from jolly_copper.core.circuits.assembly import Assembly, MeasuredParts, Part, joiner_places
from jolly_copper.core.layout.control import outers_in_parallel
from jolly_copper.core.layout.document import Layout, Track
from jolly_copper.core.layout.lately import reads
from jolly_copper.core.materials import copper, joints, rail
from jolly_copper.core.rails.bridges import bridge_bonds
from jolly_copper.core.rails.nets import cut_sides, gaps_at, read_pieces
from jolly_copper.core.rails.pieces import SIDES, Piece, RailMap, map_rails, node_bonds

Point = tuple[str, float]
"""A track, and mm from its A end."""


@dataclass(frozen=True, slots=True)
class Span:
    """Track between two points where something is attached: both rails, with where joiners lie in it.

    Along it resistance grows by `per_mm` and jumps by `joiner` at each of `joiners` (mm from the track's A end).
    """

    track: str
    piece: Piece
    start: float
    end: float
    left: tuple[int, int]
    right: tuple[int, int]
    per_mm: float
    joiner: float
    joiners: tuple[float, ...]
    after: bool = False
    """It begins just beyond a joiner that was measured by itself, which is an element of its own."""

    def key(self, end: Literal["start", "end"], side: str) -> Hashable:
        """Where a rail of this span begins or ends, as the assembly names it."""
        if end == "end":
            return ("rail", self.piece, self.end, side)
        return (
            ("rail", self.piece, self.start, side, "beyond") if self.after else ("rail", self.piece, self.start, side)
        )

    @property
    def ohms(self) -> float:
        return self.per_mm * (self.end - self.start) + self.joiner * len(self.joiners)

    def ohms_to(self, at: float, after: bool = False) -> float:
        """Resistance of one rail from the span's start to a point, before or after a joiner that lies right there."""
        count = (bisect_right if after else bisect_left)(self.joiners, at)
        return self.per_mm * (at - self.start) + self.joiner * count


@dataclass(frozen=True)
class LaidRails:
    """The rails of a layout, not yet numbered. work: what they add to a network; copy it before adding more.

    fed: feeder ids by stretch of rail (number in `rails.extents`).
    """

    rails: RailMap
    spans: tuple[Span, ...]
    work: Assembly
    fed: dict[int, tuple[str, ...]]


def lay_rails_with(layout: Layout, extra_points: Sequence[Point]) -> LaidRails:
    """Rails with a node at every feeder, at the ends of isolated rails, and at points more."""
    rails, work = map_rails(layout), Assembly()
    stops: dict[Piece, set[float]] = defaultdict(set)
    fed: dict[int, list[str]] = defaultdict(list)
    for feeder_id, feeder in layout.feeders.items():
        piece = rails.piece_at(feeder.track, feeder.at)
        stops[piece].add(min(max(feeder.at, piece.start), piece.end))
        fed[rails.extent_of[piece]].append(feeder_id)
    for track_id, at in extra_points:
        piece = rails.piece_at(track_id, at)
        stops[piece].add(min(max(at, piece.start), piece.end))
    for alone in layout.isolated.values():
        for at in (alone.start, alone.end):
            stops[rails.piece_at(alone.track, at)].add(at)
    spans = _rails(layout, rails, stops, MeasuredParts(layout), work)
    return LaidRails(rails, tuple(spans), work, {k: tuple(v) for k, v in fed.items()})


TRACK = ("brief", "tracks", "nodes", "gaps", "sections", "isolated", "measured")
WHAT_FEEDS_IT = ("feeders", "devices", "circuits", "detectors")


@reads(*TRACK, *WHAT_FEEDS_IT)
def lay_rails(layout: Layout) -> LaidRails:
    """The same with no points more."""
    return lay_rails_with(layout, ())


def rail_ohms_per_mm(track: Track) -> float:
    """Resistance of one rail of a track, Ω per mm: measured when someone measured it."""
    if track.ohms_per_metre is not None:
        return track.ohms_per_metre / 1000
    return rail.ohms_per_metre(track.code, track.metal).used / 1000


def _rails(
    layout: Layout, rails: RailMap, stops: dict[Piece, set[float]], found: MeasuredParts, work: Assembly
) -> list[Span]:
    gaps_on = gaps_at(layout, rails)
    read = read_pieces(layout, rails)
    spans: list[Span] = []
    at_ends: dict[tuple[str, str, str], float | None] = {}
    for track_id, track in layout.tracks.items():
        per_mm, joiner = rail_ohms_per_mm(track), joints.RAIL_JOINER[track.joiners][1]
        length = rails.lengths[track_id]
        gaps = gaps_on.get(track_id, ())
        places = joiner_places(track, length, [at for at, _ in gaps])
        own = found.joiners(track_id, places, length)
        for place, end in ((0.0, "a"), (length, "b")):
            at_ends |= {(track_id, end, side): ohms for side, ohms in own.pop(place, {}).items()}
        pieces = rails.pieces[track_id]
        for piece, following in itertools.pairwise(pieces):
            cut = cut_sides(layout, gaps, piece.end)
            if len(cut) == 1 and (piece in read or following in read):
                cut = set()  # an isolated rail: the other outer rail carries on where this one is cut
            for side in SIDES:
                if side not in cut:
                    work.joined.join(("rail", piece, piece.end, side), ("rail", following, following.start, side))
        for piece in pieces:
            inner = {p for p in own if piece.start < p < piece.end}
            marks = sorted({piece.start, piece.end, *stops.get(piece, ()), *inner})
            for start, end in itertools.pairwise(marks):
                inside = tuple(p for p in places if start < p <= end and p not in own)
                share = {side: rail_share(layout, track_id, side, start, end) for side in SIDES}
                mean = sum(share.values()) / 2  # of both rails: what a loop over the two of them takes, halved
                span = Span(
                    track_id,
                    piece,
                    start,
                    end,
                    (-1, -1),
                    (-1, -1),
                    per_mm * mean,
                    joiner * mean,
                    inside,
                    start in inner,
                )
                spans.append(span)
                henries = copper.RAIL_PAIR_HENRIES / 2000 * (end - start)
                for side in SIDES:
                    parts = [
                        Part("rail", track_id, per_mm * share[side] * (end - start), henries, end - start),
                        Part("joiner", track_id, joiner * share[side] * len(inside)),
                    ]
                    work.resistor("rail", track_id, side, span.key("start", side), span.key("end", side), parts)
                    if start in inner:
                        ohms = own[start].get(side, joiner)
                        part = None if ohms is None else Part("joiner", track_id, ohms)
                        work.series(
                            "bond", track_id, side, ("rail", piece, start, side), span.key("start", side), [part]
                        )
    _across_nodes(layout, rails, at_ends, work)
    return spans


def rail_share(layout: Layout, track: str, side: str, start: float, end: float) -> float:
    """Resistance of a conductor of track against one rail's: a half for two outer rails in parallel, one elsewhere.

    Along an isolated rail a single outer carries the return.
    """
    if side == "left" or not outers_in_parallel(layout, track):
        return 1.0
    middle = (start + end) / 2
    alone = any(x.track == track and x.start < middle < x.end for x in layout.isolated.values())
    return 1.0 if alone else 0.5


def _across_nodes(
    layout: Layout, rails: RailMap, measured: dict[tuple[str, str, str], float | None], work: Assembly
) -> None:
    """Rails that meet at nodes as the turnouts lie: a joiner, and the blade where a turnout routes power over it."""
    blade = layout.brief.rules.blade_ohms
    for one, other, setting, _ in (*node_bonds(layout), *bridge_bonds(layout)):
        if setting is not None and layout.nodes[setting.node].lies != setting.lies:
            continue
        ohms: float | None = max(
            joints.RAIL_JOINER[layout.tracks[e.track].joiners][1] * rail_share(layout, e.track, e.side, 0.0, 0.0)
            for e in (one, other)
        )
        for end in (one, other):
            if tuple(end) in measured:
                ohms = measured[end.track, end.end, end.side]
        nodes = []
        for track_id, end_name, side in (one, other):
            piece = rails.pieces[track_id][0 if end_name == "a" else -1]
            nodes.append(("rail", piece, piece.start if end_name == "a" else piece.end, side))
        parts = [None if ohms is None else Part("joiner", one.track, ohms)]
        if setting is not None and blade > 0:
            parts.append(Part("blade", setting.node, blade))
        work.series("bond", one.track, one.side, nodes[0], nodes[1], parts)
