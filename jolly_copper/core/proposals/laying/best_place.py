"""Where a source stands best: in the middle of what it feeds, as wire goes."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.sparse import csgraph

from jolly_copper.core.circuits.edits import Patch
from jolly_copper.core.circuits.lengths import point_on_track
from jolly_copper.core.circuits.whereabouts import extent_circuits
from jolly_copper.core.drawing.sheet import DrawingError, Sheet
from jolly_copper.core.layout.benchwork import board_at
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.proposals.laying.corridors import Corridors, Floats, map_corridors, map_ground
from jolly_copper.core.proposals.laying.feeding import fresh_places
from jolly_copper.core.proposals.laying.steiner import near_minimal_tree
from jolly_copper.core.rails.pieces import map_rails

WORTH_MM = 300.0
"""A move that shortens the middle way by less is not worth a wall box."""
BESIDE_MM = 180.0
"""Devices of one district stand so far from each other."""


@dataclass(frozen=True)
class BestPlace:
    """mean, farthest: mm of bus from the device to what it feeds, now and there. tree: mm of bus in all, from there.

    here: it stands well enough already; patch moves it, and the breakers that stand by it, where it does not.
    """

    x: float
    y: float
    board: str | None
    mean_now: float
    mean_then: float
    farthest_now: float
    farthest_then: float
    tree: float
    here: bool
    patch: Patch


def best_place(layout: Layout, device: str) -> BestPlace:
    """The place, on a board that stays, from which the buses of a source and of the breakers by it are shortest in the
    mean.

    Every feeder counts alike, as it does for drop where trains roam: the place is the median of the near-minimal tree
    over all of them (on a tree the one with half of them on each side), which shortens every run's way at once.

    Raises:
        DrawingError: it feeds no track.
    """
    devices = _standing_with(layout, device)
    spots = _spots(layout, {layout.devices[d].output for d in devices})
    if not spots:
        raise DrawingError(f"{layout.devices[device].name} feeds no track yet: give it some in step Zones.")
    ground = map_ground(layout)
    at = layout.devices[device].at
    corridors = map_corridors(ground, [(at.x, at.y)], ends_of_wire=1)
    home = len(corridors.places) - 1
    ends = [corridors.nearest(x, y) for x, y in spots]
    tree = near_minimal_tree(corridors.cost, ends)
    fixed = [b.corners for b in layout.boards.values() if not b.removable]
    candidates = [
        p
        for p in tree
        if not fixed
        or ((board := board_at(layout, *corridors.places[p])) is not None and not layout.boards[board].removable)
    ] or list(tree)
    weighed = csgraph.dijkstra(corridors.cost, directed=False, indices=candidates)[:, ends]
    best = min(
        enumerate(candidates), key=lambda c: (round(float(weighed[c[0]].mean()), 3), float(weighed[c[0]].max()), c[1])
    )[1]
    x, y = (round(float(c), 1) for c in corridors.places[best])
    length = sum(math.dist(corridors.places[a], corridors.places[b]) for a, near in tree.items() for b in near if a < b)
    now, then = _lengths(corridors, home, ends), _lengths(corridors, best, ends)
    here = float(now.mean() - then.mean()) < WORTH_MM
    return BestPlace(
        x,
        y,
        board_at(layout, x, y),
        float(now.mean()),
        float(then.mean()),
        float(np.max(now)),
        float(np.max(then)),
        length,
        here,
        [] if here else _moved(layout, devices, x, y),
    )


def _lengths(corridors: Corridors, start: int, ends: Sequence[int]) -> Floats:
    """How long the cheapest ways from a place to others are, mm as wire lies, not as it is weighed."""
    _, before = csgraph.dijkstra(corridors.cost, directed=False, indices=start, return_predecessors=True)
    known = {start: 0.0}
    for end in ends:
        way, at = [], end
        while at not in known:
            way.append(at)
            at = int(before[at])
        for place in reversed(way):
            known[place] = known[at] + math.dist(corridors.places[at], corridors.places[place])
            at = place
    return np.array([known[end] for end in ends])


def _standing_with(layout: Layout, device: str) -> list[str]:
    """The device, and breakers fed by it without wire of their own: they stand beside it and move with it."""
    if device not in layout.devices:
        raise DrawingError("That device is not there any more.")
    wired = {r.ends_at_device for r in layout.runs.values()}
    found = [device]
    for i in found:
        output = layout.devices[i].output
        found += [
            k
            for k, d in layout.devices.items()
            if d.input == output and d.kind in ("breaker", "switch") and k not in wired and k not in found
        ]
    return found


def _spots(layout: Layout, circuits: set[str]) -> list[tuple[float, float]]:
    """Rail points of these circuits: the feeders that are there, and those that would be laid."""
    rails = map_rails(layout)
    mine = {n for n, c in enumerate(extent_circuits(layout, rails)) if c in circuits}
    points = [(p.track, p.at) for p in fresh_places(layout, rails, sorted(mine))]
    points += [
        (f.track, f.at) for f in layout.feeders.values() if rails.extent_of[rails.piece_at(f.track, f.at)] in mine
    ]
    return [point_on_track(layout, track, at) for track, at in points]


def _moved(layout: Layout, devices: Sequence[str], x: float, y: float) -> Patch:
    sheet = Sheet(layout)
    for n, i in enumerate(devices):
        at = {"x": round(x + BESIDE_MM * ((n + 1) // 2) * (-1 if n % 2 else 1), 1), "y": y}
        sheet["devices"][i]["at"] = at
        for name, run in sheet["runs"].items():
            if run["fed"]["device"] == i and run["fed"]["along"] < 1:
                sheet.reshape_run(name, [{**run["path"][0], **at}, *run["path"][1:]])
    return sheet.patch()
