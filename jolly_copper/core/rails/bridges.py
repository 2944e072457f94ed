"""Turntables and traversers as rail, for where their bridge points: which two stubs it joins."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import Literal

from jolly_copper.core.layout.document import Layout, Port
from jolly_copper.core.layout.fields import Bend
from jolly_copper.core.rails.pieces import SIDES, NodeBond, RailEnd, opposite, rail_towards

End = Literal["a", "b"]
ACROSS_DEGREES = 12.0
"""Stubs this near to straight across from each other are one way over the bridge. Certainty C."""
CARRIES = frozenset({"aligned stub"})
"""How a bridge is wired so that its rails are one metal with the stubs it meets."""


def leaving(layout: Layout, node: str) -> dict[str, tuple[str, End, float]]:
    """For each port of a table with track: the track, its end there, and the direction it leaves in, degrees."""
    found: dict[str, tuple[str, End, float]] = {}
    for i, track in layout.tracks.items():
        ways: tuple[tuple[End, Port, Bend, Bend], ...] = (
            ("a", track.a, track.path[0], track.path[1]),
            ("b", track.b, track.path[-1], track.path[-2]),
        )
        for end, port, one, other in ways:
            if port.node == node:
                found[port.port] = (i, end, math.degrees(math.atan2(other.y - one.y, other.x - one.x)))
    return found


def across(layout: Layout, node: str, port: str) -> str | None:
    """The port straight across from one a bridge points at; None where there is none, or no track is there."""
    ports = leaving(layout, node)
    if port not in ports:
        return None
    if layout.nodes[node].kind == "traverser":
        other = port.replace("west", "east") if port.startswith("west") else port.replace("east", "west")
        return other if other in ports else None
    found = [(abs((ports[p][2] - ports[port][2]) % 360 - 180), p) for p in ports if p != port]
    away, other = min(found, default=(360.0, ""))
    return other if away <= ACROSS_DEGREES else None


def bridge_bonds(layout: Layout) -> Iterator[NodeBond]:
    """Rail ends that a bridge makes one metal as it points: those of the stub it meets and of the one across.

    Only where the bridge takes its power from the stub it meets; a split ring or a reverser of its own parts them.
    """
    for i, node in layout.nodes.items():
        if node.kind not in ("turntable", "traverser") or node.bridge not in CARRIES or node.points_at is None:
            continue
        far = across(layout, i, node.points_at)
        if far is None:
            continue
        ports = leaving(layout, i)
        (one, one_end, _), (other, other_end, _) = ports[node.points_at], ports[far]
        # Both stubs of a turntable are seen outwards: what is left of the one is right of the other.
        turned = node.kind == "turntable"
        for side in SIDES:
            beyond = opposite(side) if turned else side
            yield NodeBond(
                RailEnd(one, one_end, rail_towards(node.points_at, one_end, side)),
                RailEnd(other, other_end, rail_towards(far, other_end, beyond)),
            )
