"""Lines that run from the station to one board after the other: the report line, and that of hand controllers."""

from __future__ import annotations

import itertools
import math
from collections.abc import Mapping
from typing import NamedTuple

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.ids import natural
from jolly_copper.core.layout.signalling import DetectorBoard, Driver
from jolly_copper.core.layout.underways import cable_lengths

Point = tuple[float, float]
MOST_ROUNDS, MOST_BY_CABLE = 60, 60
"""Beyond so many boards the nearest next is all that is looked for, by the straight way."""
SOURCES_OF_IT = ("station", "booster")


class Stop(NamedTuple):
    """A board or source on the line. id: of the detector board, driver board or device. at: mm on the plan."""

    id: str
    name: str
    at: Point


def report_line(layout: Layout) -> tuple[Stop, ...]:
    """The detector and driver boards on the report line, the station first. Empty where the club wants none or there
    is nothing to join."""
    if layout.brief.detecting.line_wires is None:
        return ()
    joined: tuple[Mapping[str, DetectorBoard | Driver], ...] = (layout.detectors, layout.drivers)
    return _line_through(
        layout,
        [
            Stop(i, b.name, (b.at.x, b.at.y))
            for kind in joined
            for i, b in kind.items()
            if not isinstance(b, Driver) or b.drives != "hand controllers"
        ],
    )


def hand_line(layout: Layout) -> tuple[Stop, ...]:
    """The sockets on the line of the hand controllers, the station first; empty where there is no socket."""
    sockets = ((i, d) for i, d in layout.drivers.items() if d.drives == "hand controllers")
    return _line_through(layout, [Stop(i, d.name, (d.at.x, d.at.y)) for i, d in sockets])


def _line_through(layout: Layout, boards: list[Stop]) -> tuple[Stop, ...]:
    """All stops in an order that wants little cable, the source first: the nearest next, then stretches turned round
    for as long as that shortens it."""
    if not boards:
        return ()
    sources = ((d.kind != "station", natural(d.name), i) for i, d in layout.devices.items() if d.kind in SOURCES_OF_IT)
    start = min(sources, default=None)
    boards.sort(key=lambda s: (natural(s.name), s.id))
    stops = boards
    if start is not None:
        source = layout.devices[start[2]]
        stops = [Stop(start[2], source.name, (source.at.x, source.at.y)), *boards]
    if len(stops) > MOST_BY_CABLE:
        far = [[math.dist(s.at, o.at) for o in stops] for s in stops]
        return tuple(stops[n] for n in _nearest_next(far))
    far = [cable_lengths(layout, s.at, [o.at for o in stops]) for s in stops]
    return tuple(stops[n] for n in _shortened(far, _nearest_next(far)))


def _nearest_next(far: list[list[float]]) -> list[int]:
    order = [0]
    left = set(range(1, len(far)))
    while left:
        order.append(min(left, key=lambda n: (far[order[-1]][n], n)))
        left.remove(order[-1])
    return order


def _shortened(far: list[list[float]], order: list[int]) -> list[int]:
    """The order with stretches turned round while that makes the line shorter; the first stop stays."""

    def length(line: list[int]) -> float:
        return sum(far[a][b] for a, b in itertools.pairwise(line))

    places = range(1, len(order) + 1)
    for _ in range(MOST_ROUNDS):
        turned = ([*order[:i], *order[i:j][::-1], *order[j:]] for i, j in itertools.combinations(places, 2))
        best = min(turned, key=length, default=order)
        if length(best) >= length(order) - 1e-6:
            break
        order = best
    return order
