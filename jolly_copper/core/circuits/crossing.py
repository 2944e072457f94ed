"""What flows when a train bridges a gap between two sources: through its wheels on two rails, its rollers on three."""

from __future__ import annotations

from dataclasses import dataclass

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.points import one_point
from jolly_copper.core.circuits.solution import Island

BRIDGE_OHMS = 0.05
"""A pickup, the wire to the next one, and the pickup beyond the gap. Certainty C: rollers and wheels differ widely."""
BESIDE_MM = 1.0


@dataclass(frozen=True)
class Crossing:
    """volts: between the switched rails on both sides of a gap with nothing drawn. loop: Ω of the way round, without
    the
    bridge. full: V of the stronger side against its return. amps: as the sources stand. unlike: A with the one at its
    volts and the other turned down."""

    volts: float
    loop: float
    full: float
    amps: float
    unlike: float


def crossing(facts: Facts, track: str, at: float, bridge: float = BRIDGE_OHMS) -> Crossing | None:
    """The current through a train that joins conductor A of both sides of a gap, as selectors lie.

    I = V/(R + b), with V between the two rails open, R the resistance between them through wires and sources, b the
    bridge. Resistance alone: rails and wires at 50 or 60 Hz have no inductance worth counting beside it.

    Args:
        facts: of the layout.
        track, at: the gap, mm from the track's A end.
        bridge: Ω of the pickups and what joins them.

    Returns:
        None where the two sides share no return, or one is dead: nothing flows.
    """
    ends = [one_point(facts.network, track, at + d) for d in (-BESIDE_MM, BESIDE_MM)]
    for part in facts.parts:
        island = part.island
        if not all(island.holds(e)[0] for e in ends):
            continue
        nodes = [_hot(facts, island, track, at + d) for d in (-BESIDE_MM, BESIDE_MM)]
        if None in nodes:
            return None
        (a, ra), (b, rb) = (n for n in nodes if n is not None)
        v = island.open_volts_by_node
        drop = island.between_nodes(a, b)
        loop = float(drop[a] - drop[b])
        volts = float(v[a] - v[b])
        full = max(abs(float(v[a] - v[ra])), abs(float(v[b] - v[rb])))
        return Crossing(volts, loop, full, abs(volts) / (loop + bridge), full / (loop + bridge))
    return None


def _hot(facts: Facts, island: Island, track: str, at: float) -> tuple[int, int] | None:
    """Rows of the rail of conductor A and of the other one at the near end of a span, in an island."""
    piece = facts.rails.piece_at(track, at)
    circuit = facts.meant[facts.rails.extent_of[piece]]
    if circuit is None:
        return None
    zone = facts.topology.zones.at(piece)
    side = zone.a_rail(piece) if zone.votes else facts.phase[piece]
    spans = [facts.network.spans[n] for n in facts.network.spans_on[track] if facts.network.spans[n].piece == piece]
    span = min(spans, key=lambda s: min(abs(s.start - at), abs(s.end - at)))
    end = 0 if abs(span.start - at) < abs(span.end - at) else 1
    hot, back = (span.left, span.right) if side == "left" else (span.right, span.left)
    a, b = int(island.local[hot[end]]), int(island.local[back[end]])
    return (a, b) if a >= 0 and b >= 0 else None
