"""How fast a train runs on direct current: as its cab's knob was set, less what the copper loses on the way to it."""

from __future__ import annotations

from jolly_copper.core.rehearsal.asking import set_motion
from jolly_copper.core.rehearsal.driving import cab_of
from jolly_copper.core.rehearsal.evening import Evening
from jolly_copper.core.rehearsal.motion import STILL_MM_S
from jolly_copper.core.rehearsal.moving import schedule
from jolly_copper.core.rehearsal.rolling import Rolling, Slowed

STARTS_AT_VOLTS = 3.0
"""An engine begins to move at 2 to 4 V and is linear above. Common practice, no source; certainty C."""
WORTH_TELLING = 0.02
"""A change of less than that share of its leg's speed changes no motion."""
LEAST_LEFT = 0.05
"""It crawls on at that share rather than stand for ever: volts come back when others stop. Certainty C."""


def share_left(volts: float, open_volts: float, starts_at: float = STARTS_AT_VOLTS) -> float:
    """The share of full speed that a loss of volts takes none of: s = 1 − (V_open − V)/(V_open − V_start).

    >>> share_left(10.2, 12.0)
    0.8

    Args:
        volts: at the train, V. open_volts: with nothing drawn, V. starts_at: where an engine begins to move, V.

    Returns:
        From 0, where it stands, to 1. The speed of an engine is linear in its volts above where it starts.

    Source: common practice, no source.
    """
    if open_volts <= starts_at:
        return 0.0
    return min(1.0, max(0.0, 1 - (open_volts - volts) / (open_volts - starts_at)))


def slow_by_volts(evening: Evening, train: Rolling, volts: float, open_volts: float) -> None:
    """Let a train on direct current run as fast as the volts where it stands let it.

    Its driver turned the knob for the speed of its leg and leaves it; v = v_leg − v_line·(1 − s). Nothing
    changes on other power, or for a train that stands.

    Args:
        evening: of the train. volts: at the train, V. open_volts: there with nothing drawn, V.
    """
    if train.state != "running" or cab_of(evening, train.key) is None:
        return
    _, v = train.where(evening.t)
    if v <= STILL_MM_S or train.most <= 0:
        return
    lost = train.stock.pace.line * (1 - share_left(volts, open_volts))
    left = max(LEAST_LEFT, 1 - lost / train.most)
    if train.slowest is None or left < train.slowest.left:
        train.slowest = Slowed(left, evening.t, evening.front_of(train).track, open_volts - volts, open_volts)
    if abs(left - train.left) <= WORTH_TELLING:
        return
    train.left = left
    set_motion(evening, train)
    schedule(evening, train)
