"""A board by itself on a bench: what its track hangs on, and what to feed where so that it can be tested."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

from jolly_copper.core.circuits.lengths import point_on_track
from jolly_copper.core.layout.benchwork import board_finder, lifting_boards
from jolly_copper.core.layout.document import Gap, Layout
from jolly_copper.core.layout.ids import next_id
from jolly_copper.core.rails.dead import SHORTEST_STAND_MM
from jolly_copper.core.rails.nets import read_pieces
from jolly_copper.core.rails.pieces import RailMap, map_rails
from jolly_copper.core.travel.crossing import POWER_FIRST, BoardJoint, Crossing, TrackCrossing


@dataclass(frozen=True)
class Lone:
    """Track that is dead once the joints around it are open: it lives off the rails over them. length: of it, mm."""

    board: str | None
    track: str
    at: float
    length: float


@dataclass(frozen=True)
class Alone:
    """A board by itself. feeds: what comes to it from elsewhere, power for the track first; clip: track of it that
    none of these reaches."""

    board: str
    feeds: tuple[Crossing, ...]
    clip: tuple[Lone, ...]


def parted(layout: Layout, tracks: Sequence[TrackCrossing]) -> RailMap:
    """The rails with every joint open, as they are while the boards stand in a van."""
    gaps = dict(layout.gaps)
    for crossing in tracks:
        gaps[next_id(gaps, "G")] = Gap(track=crossing.track, at=round(crossing.at, 2))
    return map_rails(layout.model_copy(update={"gaps": gaps}))


def lone_tracks(layout: Layout, joints: Sequence[BoardJoint]) -> tuple[Lone, ...]:
    """Stretches that a feeder reaches only over the rails of a joint: dead on a bench, and dead in the hall as soon as
    a joiner of the joint is loose. What has no feeder at all is another finding's."""
    tracks = [t for j in joints for t in j.tracks]
    if not tracks:
        return ()
    whole, open_ones = map_rails(layout), parted(layout, tracks)
    fed = {open_ones.extent_of[open_ones.piece_at(f.track, f.at)] for f in layout.feeders.values()}
    fed_whole = {whole.extent_of[whole.piece_at(f.track, f.at)] for f in layout.feeders.values()}
    read = read_pieces(layout, whole)
    board = board_finder(layout)
    found = []
    for number, extent in enumerate(open_ones.extents):
        length = sum(p.end - p.start for p in extent)
        longest = max(extent, key=lambda p: (p.end - p.start, p.track))
        at = (longest.start + longest.end) / 2
        there = whole.piece_at(longest.track, at)
        if number in fed or length < SHORTEST_STAND_MM or there in read or whole.extent_of[there] not in fed_whole:
            continue
        found.append(Lone(board(*point_on_track(layout, longest.track, at)), longest.track, at, length))
    return tuple(found)


def boards_alone(layout: Layout, joints: Sequence[BoardJoint]) -> tuple[Alone, ...]:
    """Every board that lifts out, by itself, in the order of their names."""
    lone: dict[str | None, list[Lone]] = defaultdict(list)
    for stretch in lone_tracks(layout, joints):
        lone[stretch.board].append(stretch)
    found = []
    for i in lifting_boards(layout):
        comes = [c for j in joints if i in j.boards for c in j.crossings if c.live != i]
        comes.sort(key=lambda c: POWER_FIRST.index(c.power.kind))
        found.append(Alone(i, tuple(comes), tuple(lone[i])))
    return tuple(found)
