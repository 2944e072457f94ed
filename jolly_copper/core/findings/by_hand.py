"""Rules about reversing sections of digital track that a hand turns over."""

from __future__ import annotations

from collections.abc import Iterator

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.findings.model import Finding, Mend, Place, rule
from jolly_copper.core.layout.control import control_given
from jolly_copper.core.quantities import print_length


@rule("section turned over by hand", "reverse")
def by_hand(facts: Facts) -> Iterator[Finding]:
    """Reversing sections of digital track whose polarity somebody throws."""
    layout, units = facts.layout, facts.layout.brief.units
    for i, device in layout.devices.items():
        source = facts.tree.source(device.output)
        if device.kind != "reversing switch" or source is None or control_given(layout, source[1]) != "dcc":
            continue
        inside = sum(
            p.end - p.start
            for n, extent in enumerate(facts.rails.extents)
            if facts.meant[n] == device.output
            for p in extent
        )
        yield Finding(
            key=f"by-hand:{i}",
            rule="section turned over by hand",
            severity="look",
            title=f"{device.name} is thrown by hand: {print_length(inside, units)} of section, and a train must be "
            "whole inside while it is",
            why="Digital trains run on through it whichever way it lies, so nobody is reminded: the first wheel over "
            "the far gap is a short, and the district stops.",
            mend="A sign beside it, or a unit that turns over by itself; then nobody has to be there.",
            place=Place("device", i),
            shows=(i,),
            mends=(
                Mend(
                    f"A unit that turns over by itself for {device.name}",
                    [{"op": "replace", "path": f"/devices/{i}/kind", "value": "reverser"}],
                ),
            ),
            source="common practice",
        )
