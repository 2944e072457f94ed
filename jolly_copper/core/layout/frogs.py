"""Frogs of junctions: which route power, which want something to turn their polarity, what may be said of each."""

from __future__ import annotations

from jolly_copper.core.layout.control import has_three_rails
from jolly_copper.core.layout.document import Layout, NodeKind

JUNCTIONS: tuple[NodeKind, ...] = ("turnout", "three-way", "slip", "crossing")
"""Where tracks branch or cross: the kinds of node that have frogs."""


def centred_nodes(layout: Layout) -> frozenset[str]:
    """Ids of the nodes where track with a centre rail meets.

    A frog there is of the outer rails, which are one conductor: nothing turns its polarity, and it routes no power.
    """
    return frozenset(p.node for t in layout.tracks.values() if has_three_rails(layout, t) for p in (t.a, t.b))


def routing_turnouts(layout: Layout) -> frozenset[str]:
    """Ids of the turnouts that route power: the frog takes the rail beyond it with it. None where a centre rail is."""
    centred = centred_nodes(layout)
    return frozenset(
        i for i, n in layout.nodes.items() if n.kind == "turnout" and n.frog == "routing" and i not in centred
    )


def turned_frogs(layout: Layout) -> frozenset[str]:
    """Ids of the nodes with a live frog whose polarity something must turn. None where a centre rail is."""
    centred = centred_nodes(layout)
    return frozenset(
        i for i, n in layout.nodes.items() if n.kind in JUNCTIONS and n.frog == "live" and i not in centred
    )


def frogs_to_choose(layout: Layout) -> dict[str, list[str]]:
    """Per junction the frogs that can be said of it, and what is said already."""
    centred = centred_nodes(layout)
    return {
        i: ["live", "dead", *(["routing"] if n.frog == "routing" or (n.kind == "turnout" and i not in centred) else [])]
        for i, n in layout.nodes.items()
        if n.kind in JUNCTIONS
    }
