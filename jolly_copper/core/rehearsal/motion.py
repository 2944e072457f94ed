"""How a train moves: stretches of constant acceleration, known in closed form, so nothing is stepped through."""

from __future__ import annotations

import math
from typing import NamedTuple

from jolly_copper.core.circuits.stopping import scale_speed
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.stock import Train

STOPPING_SECONDS = 4.0
"""Seconds at line speed that a stopping distance is worth, where the house says more or nothing. Certainty C."""
COASTS_MM_S2 = 600.0
"""How hard an engine without power slows, mm/s². Certainty C."""
STILL_MM_S = 0.01
NEVER = math.inf


class Phase(NamedTuple):
    """From time t, s, at place s, mm along the way, at v mm/s, changing by a mm/s²."""

    t: float
    s: float
    v: float
    a: float


class Pace(NamedTuple):
    """How a train runs: line speed, mm/s, and how hard it starts and brakes, mm/s²."""

    line: float
    starts: float
    brakes: float


def pace_of(layout: Layout, train: Train) -> Pace:
    """Line speed of a train and its braking, b = v²/2d from the distance it stops in.

    Args:
        layout: for its scale and the house's stopping distance.
        train: its own speed and stopping distance where it has them.

    Source: elementary mechanics, uniform deceleration.
    """
    line = scale_speed(layout.brief.scale, train.scale_kmh) if train.scale_kmh else scale_speed(layout.brief.scale)
    house = layout.brief.signalling.stopping or math.inf
    distance = train.stops_in or min(house, STOPPING_SECONDS * line)
    brakes = line * line / (2 * distance)
    return Pace(line, brakes, brakes)


def run_up_to(t: float, s: float, v: float, stop: float, most: float, pace: Pace) -> tuple[Phase, ...]:
    """Phases of a train that is at `s` with `v` and must stand at `stop`, never faster than `most`.

    Args:
        t: now, s. s: place, mm. v: speed, mm/s. stop: where it stands in the end, mm. most: mm/s. pace: of the train.

    Returns:
        Phases whose last stands still at `stop`. Too near to brake as usual, it brakes as hard as it takes.

    >>> [round(p.t, 3) for p in run_up_to(0, 0, 0, 1000, 200, Pace(200, 50, 50))]
    [0, 4.0, 5.0, 9.0]
    """
    left = stop - s
    if left <= 1e-6:
        return (Phase(t, s, 0.0, 0.0),)
    found: list[Phase] = []
    a, b = pace.starts, pace.brakes
    if v * v / (2 * b) >= left - 1e-9:
        b = v * v / (2 * left)
        return (Phase(t, s, v, -b), Phase(t + v / b, stop, 0.0, 0.0))
    if v > most:  # the speed it should have is less than it has: slow down first
        slow = (v * v - most * most) / (2 * b)
        found.append(Phase(t, s, v, -b))
        t, s, v, left = t + (v - most) / b, s + slow, most, left - slow
    # The highest speed from which it still stops in time: v² + 2·a·x = top², top² = 2·b·(left − x).
    top = min(most, math.sqrt((2 * a * b * left + b * v * v) / (a + b)))
    up = max(0.0, (top * top - v * v) / (2 * a))
    down = top * top / (2 * b)
    if up > 1e-9:
        found.append(Phase(t, s, v, a))
        t, s, v = t + (top - v) / a, s + up, top
    even = left - up - down
    if even > 1e-9:
        found.append(Phase(t, s, v, 0.0))
        t, s = t + even / v, s + even
    found.append(Phase(t, s, v, -b))
    found.append(Phase(t + v / b, stop, 0.0, 0.0))
    return tuple(found)


def coasting(t: float, s: float, v: float, slows: float = COASTS_MM_S2) -> tuple[Phase, ...]:
    """Phases of a train whose power is gone: it runs out by v²/2a."""
    if v <= STILL_MM_S:
        return (Phase(t, s, 0.0, 0.0),)
    return (Phase(t, s, v, -slows), Phase(t + v / slows, s + v * v / (2 * slows), 0.0, 0.0))


def at_time(phases: tuple[Phase, ...], t: float) -> tuple[float, float]:
    """Place, mm, and speed, mm/s, at a time."""
    for phase in reversed(phases):
        if t >= phase.t:
            d = t - phase.t
            return phase.s + phase.v * d + phase.a * d * d / 2, max(0.0, phase.v + phase.a * d)
    return phases[0].s, phases[0].v


def when_at(phases: tuple[Phase, ...], s: float, after: float) -> float:
    """The time a place is reached: d/t from t = 2d/(v + √(v² + 2ad)); never where the train stands before it.

    Args:
        phases: of the train. s: the place, mm. after: no time before this, s.
    """
    for n, phase in enumerate(phases):
        last = n + 1 == len(phases)
        end = phase.s if last else phases[n + 1].s
        if s > end + 1e-7:
            continue
        d = s - phase.s
        if d <= 0:
            return max(after, phase.t)
        under = phase.v * phase.v + 2 * phase.a * d
        speed = phase.v + math.sqrt(max(under, 0.0))
        return NEVER if speed <= 0 else max(after, phase.t + 2 * d / speed)
    return NEVER
