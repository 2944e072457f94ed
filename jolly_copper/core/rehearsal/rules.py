"""Who may go on where trains could come face to face: the rule of the plan for single lines, asked at every leg."""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

from jolly_copper.core.rehearsal.legs import Leg

if TYPE_CHECKING:
    from jolly_copper.core.rehearsal.evening import Evening
from jolly_copper.core.rehearsal.rolling import Rolling


class Refused(NamedTuple):
    """Why a leg is not given. bits: what it waits for; trains: who has it; words: a sentence without its subject;
    polite: it is free, but for somebody who has waited longer."""

    bits: int
    trains: tuple[str, ...]
    words: str
    polite: bool = False


def may_enter(evening: Evening, train: Rolling, leg: Leg) -> Refused | None:
    """Why the plan's rule for single lines does not let a train have a leg; None where it does."""
    rule = evening.plan.single_lines
    if rule == "direction" and evening.lines is not None:
        return evening.lines.refuses(evening, train, leg)
    if rule == "safe moves" and evening.safe is not None:
        return evening.safe.refuses(evening, train, leg)
    return None
