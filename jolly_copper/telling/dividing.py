"""What is told of a division: districts, boosters, cuts, and an evening played many times."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.lengths import point_on_track
from jolly_copper.core.circuits.session import Chance
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.words import many
from jolly_copper.core.proposals.dividing.choose import Division
from jolly_copper.core.proposals.dividing.words import needs, warning
from jolly_copper.core.quantities import print_current, print_length, print_long_length
from jolly_copper.telling.shapes import MendShape


class DistrictShape(BaseModel):
    """A district of a proposal."""

    name: str
    ink: str
    why: str
    length_text: str
    trains: list[str]
    worst_text: str
    stalled_text: str
    trip_text: str
    booster: str
    kept: bool
    over: bool
    chance_text: str


class BoosterShape(BaseModel):
    """A booster of a proposal, and what is asked of it."""

    name: str
    bought: bool
    asked_text: str
    gives_text: str
    share: float
    chance_text: str


class CutShape(BaseModel):
    """A place to gap both rails."""

    x: float
    y: float
    words: str
    new: bool


class InkShape(BaseModel):
    """Track inked by the district it would be in."""

    track: str
    start: float
    end: float
    ink: str


class DivisionShape(BaseModel):
    """A division worked out: districts, boosters, gaps, what it needs, and the change that makes it."""

    districts: list[DistrictShape]
    boosters: list[BoosterShape]
    cuts: list[CutShape]
    inks: list[InkShape]
    needs: list[str]
    warning: str | None
    change: MendShape


def chance_text(chance: Chance | None) -> str:
    """How likely a device is asked for too much, in words."""
    if chance is None or chance.over_evenings is None or chance.between is None:
        return "not known: nobody said what it gives"
    low, high = (round(100 * x) for x in chance.between)
    return f"in {100 * chance.over_evenings:.0f} of 100 evenings ({low} to {max(high, 1)})"


def shape(
    facts: Facts, proposal: Division, patch: list[dict[str, Any]], then: Layout, chances: dict[str, Chance]
) -> DivisionShape:
    layout, units = facts.layout, facts.layout.brief.units
    by_name = {d.name: i for i, d in then.devices.items()}
    breaker_of = {then.circuits[d.output].name: i for i, d in then.devices.items() if d.kind == "breaker"}
    ink_of = {c.name: c.ink for c in then.circuits.values()}
    inks = [ink_of[d.name] for d in proposal.districts]
    districts = [
        DistrictShape(
            name=d.name,
            ink=inks[k],
            why=d.why,
            length_text=print_long_length(d.length, units),
            trains=[layout.trains[t].name for t in d.trains],
            worst_text=print_current(d.worst),
            stalled_text=print_current(d.stalled),
            trip_text=print_current(d.trip),
            booster=proposal.boosters[d.booster].name,
            kept=d.kept is not None,
            over=d.worst > d.trip + 1e-9,
            chance_text=chance_text(chances.get(breaker_of.get(d.name, ""))),
        )
        for k, d in enumerate(proposal.districts)
    ]
    boosters = [
        BoosterShape(
            name=b.name,
            bought=b.device is None,
            asked_text=print_current(b.asked),
            gives_text=print_current(b.gives),
            share=b.asked / b.gives,
            chance_text=chance_text(chances.get(by_name.get(b.name, ""))),
        )
        for b in proposal.boosters
    ]
    cuts = []
    for edge in proposal.cuts:
        x, y = point_on_track(layout, edge.track, edge.at)
        where = f"{layout.tracks[edge.track].name}, {print_length(edge.at, units)} from its A end: {edge.why}"
        cuts.append(CutShape(x=round(x, 1), y=round(y, 1), words=where, new=not edge.gaps))
    drawn = [
        InkShape(track=t, start=start, end=end, ink=inks[k])
        for k, d in enumerate(proposal.districts)
        for n in d.stretches
        for t, start, end in proposal.plan.stretches[n].pieces
    ]
    label = f"Divide into {many(len(districts), 'district')} on {many(len(boosters), 'booster')}"
    return DivisionShape(
        districts=districts,
        boosters=boosters,
        cuts=cuts,
        inks=drawn,
        needs=needs(layout, proposal, then),
        warning=warning(layout, proposal),
        change=MendShape(label=label, patch=patch),
    )


class ChanceShape(BaseModel):
    """What a source or breaker met over all evenings."""

    device: str
    name: str
    kind: str
    mean_text: str
    usual_text: str
    most_text: str
    gives_text: str | None
    share: float | None
    """The busiest of twenty minutes over what it gives."""
    over: bool
    chance_text: str
    minutes_text: str


class SessionShape(BaseModel):
    """Evenings played."""

    scene: str | None
    words: str
    chances: list[ChanceShape]
