"""What a cut in the rails leaves behind, told as it is made."""

from __future__ import annotations

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.drawing.acts import CutGap


def after_cut(facts: Facts, act: CutGap) -> str | None:
    """What a fresh cut leaves without a feeder, in a sentence; None where both sides have one, or nothing has any
    yet."""
    if not facts.layout.feeders:
        return None
    counts = [
        len(facts.network.fed_extents.get(facts.rails.extent_of[piece], ()))
        for piece in facts.rails.pieces[act.track]
        if abs(piece.start - act.at) < 1 or abs(piece.end - act.at) < 1
    ]
    if len(counts) != 2 or 0 not in counts:
        return None
    side, name = "A" if counts[0] == 0 else "B", facts.layout.tracks[act.track].name
    return f"The cut leaves the {side} side of {name} without a feeder; the other has {max(counts)}."
