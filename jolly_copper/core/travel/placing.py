"""Where connectors hang at a joint: at the end of the shared edge away from the public."""

from __future__ import annotations

import math
from typing import NamedTuple

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.travel import Edge
from jolly_copper.core.travel.crossing import BoardJoint, shared_edge

Point = tuple[float, float]
TOUCHING_MM = 60.0
FROM_THE_END_MM = 80.0
AWAY: dict[Edge, Point] = {"top": (0.0, 1.0), "bottom": (0.0, -1.0), "left": (1.0, 0.0), "right": (-1.0, 0.0)}
"""Which way is away from the public, on a plan whose y grows downwards."""
OPPOSITE: dict[Edge, str] = {"top": "lower", "bottom": "upper", "left": "right", "right": "left"}


class Hang(NamedTuple):
    """at: mm on the plan. words: for people."""

    at: Point
    words: str


def where_to_hang(layout: Layout, joint: BoardJoint) -> Hang:
    """Where the couplings of a joint hang: near the end of the shared edge that is farthest from the public; the middle
    of what crosses where the public's side is not said, or the edge runs along it."""
    places = [c.at for c in joint.crossings] or [t.place for t in joint.tracks]
    middle = (sum(p[0] for p in places) / len(places), sum(p[1] for p in places) / len(places))
    public = layout.brief.travelling.public
    one, other = joint.boards
    if public is None or one is None or other is None:
        return Hang(middle, "under the joint, where most wires cross")
    a, b = shared_edge(layout, one, other)
    dx, dy = AWAY[public]
    far, near = sorted((a, b), key=lambda p: -(p[0] * dx + p[1] * dy))
    if abs((far[0] - near[0]) * dx + (far[1] - near[1]) * dy) < TOUCHING_MM:
        return Hang(middle, "under the joint, behind its front: its edge runs along the public's side")
    length = math.dist(far, near)
    share = min(FROM_THE_END_MM / length, 0.5)
    at = (far[0] + (near[0] - far[0]) * share, far[1] + (near[1] - far[1]) * share)
    return Hang(at, f"at the {OPPOSITE[public]} end of the joint, away from the public")
