"""What may be wrong, and what can be asked: the catalogue a hunt is made of.

Weights, minutes and find rates are common practice, no source; they are weighed anew by the club's own log.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

import numpy as np

from jolly_copper.core.circuits.points import Floats

Symptom = Literal["trips", "stalls", "dead", "gap", "turnout", "occupied", "unseen", "hot", "control", "one way"]
SYMPTOMS: dict[Symptom, str] = {
    "trips": "A breaker trips, or a district is dead and its breaker is off",
    "stalls": "A train stalls or its sound cuts out at one place",
    "dead": "Track is dead, and nothing has tripped",
    "gap": "It trips as a train crosses a gap",
    "turnout": "It trips, or a train stops, at a turnout",
    "occupied": "A block is shown taken while nothing stands in it",
    "unseen": "A train stands in a block and is not shown",
    "hot": "A booster or wire gets hot, and nothing trips",
    "control": "Trains run away, do not answer, or lose their settings",
    "one way": "It works one way only",
}
DEAD_READS = 60.0
"""Ω that stand for rails no power reaches, where a reading of the loop is wanted."""
Family = Literal["short", "open", "other"]


@dataclass(frozen=True)
class Cause:
    """Something that may be wrong. weight: against the others. mend: what
    puts it right. track, at: where it is, when that is known. ohms: of a short, about."""

    key: str
    words: str
    family: Family
    weight: float
    mend: str
    track: str | None = None
    at: float | None = None
    ohms: float = 0.3


@dataclass(frozen=True)
class Act:
    """Something to do in a hunt.

    look: whether it is a search, answered found or not found; else a question, answered yes or no, or a reading.
    covers: of a search, 1 for each cause it may find.
    finds: share of searches that find what is there. setup: minutes the first of its kind takes more, with its name.
    clears: chance of yes for each cause. part: of a reading, V (or Ω) foretold for each cause; spread: its own.
    also: what it tells besides, in words.
    """

    key: str
    words: str
    how: str
    minutes: float
    look: bool = False
    finds: float = 0.9
    covers: Floats = field(default_factory=lambda: np.zeros(0), repr=False)
    setup: float = 0.0
    gear: str = ""
    yes: Floats = field(default_factory=lambda: np.zeros(0), repr=False)
    yes_words: str = "Yes"
    no_words: str = "No"
    part: Floats = field(default_factory=lambda: np.zeros(0), repr=False)
    unit: str = ""
    unknown_base: bool = False
    track: str | None = None
    at: float | None = None
    caution: str = ""

    @property
    def reads(self) -> bool:
        return len(self.part) > 0


@dataclass(frozen=True)
class Case:
    """A symptom with everything that may cause it and everything that can be done about it. meanwhile: how the rest of
    the railroad runs on."""

    symptom: Symptom
    words: str
    causes: tuple[Cause, ...]
    acts: tuple[Act, ...]
    missing: tuple[str, ...] = ()
    meanwhile: str = ""
