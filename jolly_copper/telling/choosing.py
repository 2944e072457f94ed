"""What is told of controls weighed and supplies shared out."""

from __future__ import annotations

from pydantic import BaseModel

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.proposals.choosing import USUAL_PRICES, Club, advice, weigh_controls
from jolly_copper.core.proposals.supplying import Supplying
from jolly_copper.core.quantities import print_current, print_long_length
from jolly_copper.telling.shapes import MendShape


class ControlOption(BaseModel):
    kind: str
    wire_text: str
    blocks: int
    switches: int
    cost_text: str
    later_text: str
    good: list[str]
    bad: list[str]
    fits: bool


class ChoosingShape(BaseModel):
    advice: str
    options: list[ControlOption]
    note: str


def choosing_shape(layout: Layout, club: Club) -> ChoosingShape:
    """Every control weighed for a club, in words and figures."""
    options = weigh_controls(layout, club)
    prices = ", ".join(f"{name} {club.price(name):g}" for name in USUAL_PRICES)
    return ChoosingShape(
        advice=advice(options, club),
        options=[
            ControlOption(
                kind=o.kind,
                wire_text=print_long_length(o.wire, layout.brief.units) if o.wire else "none",
                blocks=o.blocks,
                switches=o.switches,
                cost_text=f"{o.cost:,.0f}",
                later_text=f"{o.later:,.0f}: {o.later_words}",
                good=list(o.good),
                bad=list(o.bad),
                fits=o.fits,
            )
            for o in options
        ],
        note=f"Wire is single wire, reckoned from this plan. Money is the club's own; prices are guesses: {prices}.",
    )


class MatchShape(BaseModel):
    device: str
    name: str
    supply: str | None
    asked_text: str
    words: str
    short: bool


class SupplyingShape(BaseModel):
    """Supplies shared out, and the change that does it; None where nothing would change."""

    matches: list[MatchShape]
    spare: list[str]
    ladder: list[str]
    change: MendShape | None


def supplying_shape(layout: Layout, found: Supplying) -> SupplyingShape:
    """An assignment of supplies as the page shows it."""
    return SupplyingShape(
        matches=[
            MatchShape(
                device=m.box.device,
                name=m.box.name,
                supply=layout.supplies[m.supply].name if m.supply is not None else None,
                asked_text=print_current(m.box.asked),
                words=m.words,
                short=m.short > 1e-9 or m.supply is None,
            )
            for m in found.matches
        ],
        spare=[layout.supplies[i].name for i in found.spare],
        ladder=list(found.ladder),
        change=MendShape(label="Share the supplies out", patch=list(found.patch)) if found.patch else None,
    )
