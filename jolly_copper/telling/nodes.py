"""Nodes as the plan draws them: how each lies, how it may lie, and where its tracks leave."""

from __future__ import annotations

import math

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.frogs import frogs_to_choose, turned_frogs
from jolly_copper.core.layout.ids import natural
from jolly_copper.core.layout.reading import LIES
from jolly_copper.telling import shapes


def _stubs(kind: str, leaves: dict[str, float]) -> list[str]:
    """The ports a table's bridge may meet; none of anything else."""
    return sorted(leaves, key=natural) if kind in ("turntable", "traverser") else []


def nodes_drawn(layout: Layout) -> dict[str, shapes.NodeDrawn]:
    """Every node of a layout by id."""
    leaves: dict[str, dict[str, float]] = {i: {} for i in layout.nodes}
    for track in layout.tracks.values():
        for port, one, other in ((track.a, track.path[0], track.path[1]), (track.b, track.path[-1], track.path[-2])):
            leaves[port.node][port.port] = round(math.degrees(math.atan2(other.y - one.y, other.x - one.x)), 1)
    frogs, turned = frogs_to_choose(layout), turned_frogs(layout)
    return {
        i: shapes.NodeDrawn(
            kind=n.kind,
            x=n.at.x,
            y=n.at.y,
            lies=n.lies if n.kind in LIES else n.points_at or "",
            ways=list(LIES.get(n.kind, ())) or _stubs(n.kind, leaves[i]),
            leaves=leaves[i],
            frogs=frogs.get(i, []),
            turned=i in turned,
        )
        for i, n in layout.nodes.items()
    }
