"""Where signals stand on the plan, beside their track."""

from __future__ import annotations

import math

from jolly_copper.core.circuits.lengths import point_on_track
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.signalling import Signal

BESIDE_MM = {"Z": 12.0, "N": 17.0, "TT": 22.0, "HO": 30.0, "OO": 34.0, "S": 40.0, "O": 55.0, "G": 90.0}
"""From the middle of the track to the post: half a loading gauge and a little. A guess by scale, certainty C."""


def heading_of(layout: Layout, signal: Signal) -> float:
    """The direction trains run that a signal is for, degrees clockwise from east on the plan."""
    (ax, ay), (bx, by) = (
        point_on_track(layout, signal.track, max(signal.at - 5, 0)),
        point_on_track(layout, signal.track, signal.at + 5),
    )
    turn = math.degrees(math.atan2(by - ay, bx - ax))
    return turn if signal.towards == "b" else (turn + 180) % 360


def signal_point(layout: Layout, signal: Signal) -> tuple[float, float]:
    """Where a signal's post stands on the plan, mm."""
    x, y = point_on_track(layout, signal.track, signal.at)
    turn = math.radians(heading_of(layout, signal) + (90 if signal.side == "right" else -90))
    off = BESIDE_MM[layout.brief.scale]
    return x + off * math.cos(turn), y + off * math.sin(turn)
