"""Where a train goes that has no calls: anywhere its plan lets it, and where it can stand clear."""

from __future__ import annotations

from jolly_copper.core.rehearsal.evening import Evening
from jolly_copper.core.rehearsal.legs import BEFORE_HEAD_MM, Leg, room_before
from jolly_copper.core.rehearsal.rolling import Rolling


def may_go(evening: Evening, train: Rolling, leg: Leg) -> bool:
    """Whether a free train may go there: its own circuits and uses, and room to stand clear of turnouts at an end."""
    plan, layout = train.plan, evening.layout
    if plan.by == "hand":
        return True
    if leg.ends == "track end" and room_before(evening.ground, leg) < train.stock.length + BEFORE_HEAD_MM:
        return False
    last = leg.segments[-1]
    if plan.uses and layout.tracks[last.track].use not in plan.uses:
        return False
    if plan.circuits:
        circuit = evening.facts.meant[evening.ground.extent[last.piece]]
        if circuit is None or not evening.facts.tree.within(circuit, frozenset(plan.circuits)):
            return False
    return True
