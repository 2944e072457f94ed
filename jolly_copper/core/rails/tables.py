"""Turntables and traversers: which stubs their bridges join, and which way round those stubs are fed."""

from __future__ import annotations

import math
from typing import NamedTuple

from jolly_copper.core.rails.topology import Topology
from jolly_copper.core.rails.ways import TrackEnd
from jolly_copper.core.rails.zones import Zone

LINED_UP_MM = 30.0
"""Two stubs of a traverser this near to one line are met by its bridge at once. Certainty C."""


class StubPair(NamedTuple):
    """Two stubs that a bridge meets at once."""

    one: TrackEnd
    other: TrackEnd


def stub_zone(topology: Topology, stub: TrackEnd) -> Zone:
    """The zone a stub's pit end lies in."""
    return topology.zones.at(topology.rails.end_piece(stub.track, stub.end))


def faces(topology: Topology, stub: TrackEnd) -> bool:
    """Whether conductor A is on the left rail of a stub, looking outwards from the pit; as fed, or as it would be."""
    piece = topology.rails.end_piece(stub.track, stub.end)
    zone = topology.zones.at(piece)
    left = (zone.a_rail(piece) if zone.votes else zone.facing[piece]) == "left"
    return left == (stub.end == "a")


def aligned_pairs(topology: Topology, node_id: str) -> list[StubPair]:
    """Stubs opposite each other: of a turntable by angle, of a traverser by the line its bridge lies in."""
    found: list[StubPair] = []
    for core, (ins, outs) in sorted(topology.ways.ends.items()):
        if core.node != node_id:
            continue
        for one in ins:
            found += [StubPair(one, other) for other in outs if _in_line(topology, node_id, one, other)]
    return found


def _in_line(topology: Topology, node_id: str, one: TrackEnd, other: TrackEnd) -> bool:
    node = topology.layout.nodes[node_id]
    if node.kind != "traverser":
        return True
    along = math.radians(node.angle)
    ends = []
    for stub in (one, other):
        path = topology.layout.tracks[stub.track].path
        ends.append(path[0] if stub.end == "a" else path[-1])
    across = (ends[1].x - ends[0].x) * -math.sin(along) + (ends[1].y - ends[0].y) * math.cos(along)
    return abs(across) <= LINED_UP_MM
