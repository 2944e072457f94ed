"""What locomotives draw, by scale and age, until somebody measures them. Guesses, certainty C: common practice, no source."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

Age = Literal["modern", "old motor"]


@dataclass(frozen=True)
class Draws:
    """Idle, running and stall current of one locomotive, A."""

    idle: float
    running: float
    stall: float


SOUND_AMPS = 0.1
"""What a sound decoder adds, idle and running alike, A."""
STARTING: dict[str, dict[Age, Draws]] = {
    "Z": {"modern": Draws(0.01, 0.1, 0.35), "old motor": Draws(0.02, 0.25, 0.7)},
    "N": {"modern": Draws(0.02, 0.15, 0.5), "old motor": Draws(0.03, 0.4, 1.0)},
    "TT": {"modern": Draws(0.03, 0.2, 0.7), "old motor": Draws(0.05, 0.5, 1.2)},
    "HO": {"modern": Draws(0.04, 0.3, 1.0), "old motor": Draws(0.05, 0.8, 2.0)},
    "OO": {"modern": Draws(0.04, 0.3, 1.0), "old motor": Draws(0.05, 0.8, 2.0)},
    "S": {"modern": Draws(0.08, 0.6, 2.0), "old motor": Draws(0.1, 1.2, 3.0)},
    "O": {"modern": Draws(0.15, 1.0, 3.0), "old motor": Draws(0.2, 2.0, 5.0)},
    "G": {"modern": Draws(0.2, 1.5, 5.0), "old motor": Draws(0.3, 2.5, 7.0)},
}


def starting_values(scale: str, age: Age, sound: bool) -> Draws:
    """A starting guess for a locomotive of a scale.

    >>> starting_values("HO", "modern", sound=True)
    Draws(idle=0.14, running=0.4, stall=1.1)

    Args:
        scale: as in the brief.
        age: modern, or with an old motor.
        sound: whether it has a sound decoder, which draws the same standing and running.
    """
    base = STARTING[scale][age]
    extra = SOUND_AMPS if sound else 0.0
    return Draws(round(base.idle + extra, 3), round(base.running + extra, 3), round(base.stall + extra, 3))
