"""What locomotives draw, by scale and age, until somebody measures them. Guesses, certainty C: common practice, no
source."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, NamedTuple

Age = Literal["modern", "old motor"]


@dataclass(frozen=True)
class Draws:
    """Idle, running and stall current of one locomotive, and what it takes for the moment power returns, A."""

    idle: float
    running: float
    stall: float
    inrush: float


SOUND_AMPS = 0.1
"""What a sound decoder adds, idle and running alike, A."""
INRUSH_AMPS = {"Z": 0.15, "N": 0.2, "TT": 0.25, "HO": 0.3, "OO": 0.3, "S": 0.4, "O": 0.6, "G": 0.8}
SOUND_INRUSH = 2.0
"""A sound decoder fills its reservoirs with about twice the current of a plain one, for some 10 to 50 ms."""


class _Base(NamedTuple):
    idle: float
    running: float
    stall: float


STARTING: dict[str, dict[Age, _Base]] = {
    "Z": {"modern": _Base(0.01, 0.1, 0.35), "old motor": _Base(0.02, 0.25, 0.7)},
    "N": {"modern": _Base(0.02, 0.15, 0.5), "old motor": _Base(0.03, 0.4, 1.0)},
    "TT": {"modern": _Base(0.03, 0.2, 0.7), "old motor": _Base(0.05, 0.5, 1.2)},
    "HO": {"modern": _Base(0.04, 0.3, 1.0), "old motor": _Base(0.05, 0.8, 2.0)},
    "OO": {"modern": _Base(0.04, 0.3, 1.0), "old motor": _Base(0.05, 0.8, 2.0)},
    "S": {"modern": _Base(0.08, 0.6, 2.0), "old motor": _Base(0.1, 1.2, 3.0)},
    "O": {"modern": _Base(0.15, 1.0, 3.0), "old motor": _Base(0.2, 2.0, 5.0)},
    "G": {"modern": _Base(0.2, 1.5, 5.0), "old motor": _Base(0.3, 2.5, 7.0)},
}


def starting_values(scale: str, age: Age, sound: bool) -> Draws:
    """A starting guess for a locomotive of a scale.

    >>> starting_values("HO", "modern", sound=True)
    Draws(idle=0.14, running=0.4, stall=1.1, inrush=0.6)

    Args:
        scale: as in the brief.
        age: modern, or with an old motor.
        sound: whether it has a sound decoder, which draws the same standing and running.
    """
    base = STARTING[scale][age]
    extra = SOUND_AMPS if sound else 0.0
    inrush = INRUSH_AMPS[scale] * (SOUND_INRUSH if sound else 1)
    return Draws(
        round(base.idle + extra, 3), round(base.running + extra, 3), round(base.stall + extra, 3), round(inrush, 3)
    )
