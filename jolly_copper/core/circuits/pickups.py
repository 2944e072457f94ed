"""How far a train reaches electrically: from the first wheel that picks up power to the last."""

from __future__ import annotations

from dataclasses import dataclass

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.stock import Train

USUAL_MM = {"Z": 60.0, "N": 85.0, "TT": 110.0, "HO": 150.0, "OO": 170.0, "S": 200.0, "O": 280.0, "G": 360.0}
"""First to last pickup of one engine where nobody measured, by scale. Certainty C."""
COUPLED_OVER_PICKUPS = 1.4
"""Length over couplings of an engine against the reach of its pickups. Certainty C."""


@dataclass(frozen=True)
class Reach:
    """The farthest a train bridges, mm; whose it is in words; guess: some of it nobody measured."""

    millimetres: float
    whose: str
    guess: bool


def reach_of(layout: Layout, train: Train) -> Reach:
    """First to last wheel of a train that picks up power: its engines coupled, or all of it where its cars are lit."""
    usual = USUAL_MM[layout.brief.scale]
    each = [layout.locos[e].pickups for e in train.engines]
    known = [p if p is not None else usual for p in each]
    engines = sum(p * COUPLED_OVER_PICKUPS for p in known[:-1]) + known[-1]
    guess = None in each
    if train.lit_cars and train.length > engines:
        return Reach(train.length, f"{train.name}, whose cars are lit", False)
    return Reach(engines, train.name, guess)


def longest_reach(layout: Layout) -> Reach:
    """The train that reaches farthest; one usual engine of the scale where no train is entered."""
    found = [reach_of(layout, t) for t in layout.trains.values()]
    usual = Reach(USUAL_MM[layout.brief.scale], f"a usual engine in {layout.brief.scale}", True)
    return max(found, key=lambda r: (r.millimetres, r.whose), default=usual)
