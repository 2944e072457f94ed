"""Wheels over joints: where the metal of a train's way differs just now, and what wheels join there."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterator

from jolly_copper.core.rails.pieces import SIDES, Side, opposite
from jolly_copper.core.rehearsal.amps import WHEEL_OHMS
from jolly_copper.core.rehearsal.evening import Evening
from jolly_copper.core.rehearsal.ground import Segment
from jolly_copper.core.rehearsal.metal import Tie
from jolly_copper.core.rehearsal.rolling import Rolling
from jolly_copper.core.signals.occupancy import WHEEL_MM

JUST_AFTER = 1e-3
"""The metal is judged so many mm after the place where a wheel begins or ceases to touch."""


def joints(train: Rolling) -> Iterator[tuple[float, Segment, Segment]]:
    """Places under a train, and the first two ahead of it, where one piece of rail ends and another begins: mm along
    its way."""
    for n in range(train.tail, min(train.front + 2, len(train.segments) - 1)):
        yield train.segments[n].end, train.segments[n], train.segments[n + 1]


def rail_pairs(evening: Evening, one: Segment, other: Segment) -> Iterator[tuple[Side, int, int]]:
    """The rails left and right of a train at a joint, with the metal on both sides of it."""
    metal, pieces = evening.metal, evening.ground.pieces
    for side in SIDES:
        a = metal.group(pieces[one.piece], side if one.towards == "b" else opposite(side))
        b = metal.group(pieces[other.piece], side if other.towards == "b" else opposite(side))
        yield side, a, b


def is_hot(evening: Evening, one: Segment, other: Segment) -> bool:
    """Whether a wheel over a joint would join what differs just now."""
    key = (one.piece, one.towards, other.piece, other.towards)
    known = evening.hot.get(key)
    if known is None:
        known = any(evening.metal.differ(a, b) for _, a, b in rail_pairs(evening, one, other))
        evening.hot[key] = known
    return known


def hot_edges(evening: Evening, train: Rolling, s: float) -> Iterator[float]:
    """Where its front next is when a wheel begins or ceases to touch a hot joint."""
    edges = evening.edges_of(train.stock)
    for at, one, other in joints(train):
        if not is_hot(evening, one, other):
            continue
        k = bisect_right(edges, s - at + JUST_AFTER / 2)
        if k < len(edges):
            yield at + edges[k] + JUST_AFTER


def ties(evening: Evening) -> list[Tie]:
    """Every wheel that lies over a hot joint now, and every tool on the rails."""
    found: list[Tie] = []
    for train in evening.trains.values():
        if not train.segments:
            continue
        s, _ = train.where(evening.t)
        for at, one, other in joints(train):
            if at > s + WHEEL_MM + 1:
                break
            if not is_hot(evening, one, other) or not _touches(train, s - at):
                continue
            for side, a, b in rail_pairs(evening, one, other):
                if a != b:
                    found.append(Tie(a, b, one.track, one.place(one.end).at, side, train.key, WHEEL_OHMS))
    for key in evening.loose_wheels.values():
        tie = evening.across_tie(evening.front_of(evening.trains[key])[:2], key)
        if tie is not None:
            found.append(tie)
    return found


def _touches(train: Rolling, behind: float) -> bool:
    """Whether a wheel lies over a joint so many mm behind the front."""
    return any(a <= behind <= b for a, b in train.stock.touches)


def is_hot_here(evening: Evening, train: Rolling) -> bool:
    """Whether some joint under a train is hot, so that what it does matters to the metal."""
    return any(is_hot(evening, a, b) for _, a, b in joints(train))
