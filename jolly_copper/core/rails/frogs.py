"""Track that gets its power through the frog of a turnout: a feeder there would be a short for one setting."""

from __future__ import annotations

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.frogs import routing_turnouts
from jolly_copper.core.rails.nets import Nets, Rail, map_nets
from jolly_copper.core.rails.pieces import Piece, RailMap, frog_rails


def behind_frogs(layout: Layout, rails: RailMap, nets: Nets | None = None) -> frozenset[Piece]:
    """Pieces with a rail that is one metal with the frog of a turnout that routes power.

    Args:
        layout, rails: the document and its rails.
        nets: of the same, where they are known already.
    """
    frogs = [r for i in sorted(routing_turnouts(layout)) for r in frog_rails(layout, i)]
    if not frogs:
        return frozenset()
    nets = nets or map_nets(layout, rails)
    routed = {nets.net_of[Rail(rails.end_piece(r.track, r.end), r.side)] for r in frogs}
    return frozenset(rail.piece for rail, net in nets.net_of.items() if net in routed)
