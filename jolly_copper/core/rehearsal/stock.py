"""Trains as the rails meet them: where each wheel is, which wheels are one piece of metal, what draws how much."""

from __future__ import annotations

from dataclasses import dataclass

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.stock import LocoKind, Train
from jolly_copper.core.rehearsal.motion import Pace, pace_of
from jolly_copper.core.signals.occupancy import ENGINE_MM, WHEEL_MM, seen_length
from jolly_copper.core.signals.sensitivity import CAR_MM

AXLE_FROM_END = 0.12
"""Outer axles of a car stand so far from its ends, as a share of its length. Certainty C."""
STARTING = 1.3
"""Amps of an engine that gathers speed, over those at a steady run. Certainty C."""
FILLS_PLAIN, FILLS_SOUND = 0.03, 0.05
"""Seconds a decoder takes its inrush. Certainty C."""
SOUND_AMPS = 0.5
"""An inrush from here on is taken for one of a sound decoder. Certainty C."""
HOLDS = 0.5
"""Seconds a decoder runs on without power. Certainty C."""


@dataclass(frozen=True)
class Engine:
    """One engine of a train: the place of its middle behind the front, mm, and what it draws, A."""

    middle: float
    first: float
    last: float
    idle: float
    running: float
    inrush: float
    fills: float
    holds: float


@dataclass(frozen=True)
class Stock:
    """A train to be run. Places are mm behind its front.

    touches: intervals over which it bridges a gap that many mm behind its front: one for each axle, or for each group
    of axles whose pickups are joined. seen: how much of it a detector sees. lit: places of the middles of lit cars, in
    two lumps, each with its amps.
    """

    id: str
    name: str
    length: float
    seen: float
    pace: Pace
    engines: tuple[Engine, ...]
    touches: tuple[tuple[float, float], ...]
    lit: tuple[tuple[float, float], ...]

    @property
    def idle(self) -> float:
        """A, standing."""
        return sum(e.idle for e in self.engines) + sum(a for _, a in self.lit)

    @property
    def running(self) -> float:
        """A, at a steady run."""
        return sum(e.running for e in self.engines) + sum(a for _, a in self.lit)


def stock_of(layout: Layout, train_id: str) -> Stock:
    """A train of the layout as the rails meet it.

    Engines stand in front, helpers at the rear; cars between are of the usual length of the scale. Wheels of plastic
    bridge nothing, so only engines and lit cars touch then.
    """
    train = layout.trains[train_id]
    engines = _engines(layout, train)
    touches = [(e.first - WHEEL_MM, e.last + WHEEL_MM) for e in engines]
    front = max((e.last for e in engines[: len(engines) - train.helpers]), default=0.0)
    rear = min((e.first for e in engines[len(engines) - train.helpers :]), default=train.length)
    if not train.helpers:
        rear = train.length
    lit: tuple[tuple[float, float], ...] = ()
    car = CAR_MM[layout.brief.scale]
    space = rear - front
    count = max(0, round(space / car))
    if count:
        step = space / count
        first_lit = count - min(train.lit_cars, count)
        for k in range(count):
            a, b = front + (k + AXLE_FROM_END) * step, front + (k + 1 - AXLE_FROM_END) * step
            if k >= first_lit:  # lit cars pick up with all their wheels
                touches.append((a - WHEEL_MM, b + WHEEL_MM))
            elif train.metal_wheels:
                touches += [(a - WHEEL_MM, a + WHEEL_MM), (b - WHEEL_MM, b + WHEEL_MM)]
    if train.lit_cars and space > 1:
        amps = train.lit_cars * train.amps_per_lit_car
        lit = ((front + space / 4, amps / 2), (front + 3 * space / 4, amps / 2))
    return Stock(
        train_id,
        train.name,
        train.length,
        min(train.length, seen_length(layout, train) if not train.helpers else train.length),
        pace_of(layout, train),
        engines,
        tuple(sorted(touches)),
        lit,
    )


def _engines(layout: Layout, train: Train) -> tuple[Engine, ...]:
    kinds = [layout.locos[i] for i in train.engines if i in layout.locos]
    lengths = [k.pickups or ENGINE_MM[layout.brief.scale] for k in kinds]
    room = train.length / max(sum(lengths), 1e-9)
    lengths = [x * min(1.0, room) for x in lengths]
    helpers = min(train.helpers, len(kinds))
    found: list[Engine] = []
    at = 0.0
    for n, (kind, length) in enumerate(zip(kinds, lengths, strict=True)):
        if helpers and n == len(kinds) - helpers:
            at = train.length - sum(lengths[n:])
        found.append(_engine(kind, at, at + length))
        at += length
    return tuple(found)


def _engine(kind: LocoKind, first: float, last: float) -> Engine:
    inrush = kind.inrush if kind.inrush is not None else kind.idle
    fills = kind.fill_seconds or (FILLS_SOUND if inrush >= SOUND_AMPS else FILLS_PLAIN)
    middle = (first + last) / 2
    return Engine(middle, first, last, kind.idle, kind.running, inrush, fills, kind.hold_seconds or HOLDS)
