"""What a division takes, and where it falls short, in words."""

from __future__ import annotations

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.words import SOURCE, many, sources_word
from jolly_copper.core.proposals.dividing.choose import Division
from jolly_copper.core.quantities import print_current


def needs(layout: Layout, division: Division, then: Layout) -> list[str]:
    """What must be cut, bought and soldered for a division, given the layout it makes."""
    source = SOURCE[layout.brief.control]
    fresh = sum(not e.gaps for e in division.cuts)
    breakers = sum(d.kept is None for d in division.districts)
    bought = sum(b.device is None for b in division.boosters)
    feeders = len(then.feeders) - len(layout.feeders)
    found = [
        f"{many(fresh, 'pair')} of gaps to cut" if fresh else "no new gaps",
        many(breakers, "breaker") if breakers else "no new breaker",
        f"{many(bought, source)} to buy" if bought else f"no new {source}",
    ]
    if feeders > 0:
        found.append(f"{many(feeders, 'feeder')} more")
    if len(division.boosters) > 1 and layout.brief.rules.reference_wire and layout.brief.control == "dcc":
        found.append("a floating reference wire between the boosters")
    return found


def warning(layout: Layout, division: Division) -> str | None:
    """Where even the best sharing asks a booster for more than it should give; None where none is asked so much."""
    if not division.too_much:
        return None
    booster = division.too_much[0]
    return (
        f"{booster.name} may be asked for {print_current(booster.asked)} of the {print_current(booster.gives)} that "
        f"should be asked: "
        f"larger {sources_word(layout.brief.control)}, or fewer trains that roam everywhere."
    )
