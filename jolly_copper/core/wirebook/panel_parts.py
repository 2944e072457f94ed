"""What panels are made of: holes, and places on the lines they are drawn along."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass

from jolly_copper.core.wirebook.sketch import Point

MARGIN_MM = 22.0
LAMP_MM, SIGNAL_LAMP_MM, SWITCH_MM, ROTARY_MM, BUTTON_MM = 5.0, 3.0, 6.4, 9.5, 7.0
"""Holes: for a 5 mm lamp, a 3 mm lamp, the bush of a small toggle switch, of a small rotary, for a small push button.
Common sizes; measure
what is bought."""
APART_MM = 8.5
LEG_LAMP_MM = 14.0
"""How far out on its leg a turnout's lamp stands."""


@dataclass(frozen=True)
class Hole:
    """A hole in the panel. number: written beside it and in the list. kind: lamp of a section, switch of a turnout,
    lamp of a signal. x, y: mm from the upper left corner of the panel. follows: what it shows or works, in words.
    board: the board or device its wire goes to; empty where it goes to none yet."""

    number: int
    kind: str
    x: float
    y: float
    across: float
    name: str
    follows: str
    board: str = ""


def unit(a: Point, b: Point) -> Point:
    span = math.dist(a, b) or 1.0
    return (b[0] - a[0]) / span, (b[1] - a[1]) / span


def at_share(way: Sequence[Point], share: float) -> tuple[Point, Point]:
    """The place at a share of a way, and its direction there."""
    left = share * sum(math.dist(a, b) for a, b in itertools.pairwise(way))
    for a, b in itertools.pairwise(way):
        span = math.dist(a, b)
        if left <= span or (a, b) == (way[-2], way[-1]):
            t = min(left / span, 1.0) if span else 0.0
            return (a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t), unit(a, b)
        left -= span
    raise AssertionError("a way has at least one leg")


def free_spot(taken: Sequence[Point], tries: Sequence[Point]) -> Point:
    """The first place that is clear of all others, else the one farthest from any."""
    clear = next((p for p in tries if all(math.dist(p, t) >= APART_MM for t in taken)), None)
    return clear or max(tries, key=lambda p: min((math.dist(p, t) for t in taken), default=math.inf))
