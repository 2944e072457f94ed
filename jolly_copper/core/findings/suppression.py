"""Rules about suppression capacitors: made for DC, they load the square wave of digital track at every edge."""

from __future__ import annotations

from collections.abc import Iterator

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.findings.model import Finding, Mend, Place, rule
from jolly_copper.core.layout.connections import circuit_under
from jolly_copper.core.layout.control import control_given
from jolly_copper.core.layout.words import many

WHY = (
    "A capacitor between the rails is nearly a short to every edge of the square wave: commands are lost, the station "
    "or the capacitor warms, and engines near it stutter."
)
TEST = "Test: taken off the track, a meter on ohms across it settles at open, and on capacitance it shows nothing."


@rule("suppression capacitor on digital track", "track", "trains")
def suppression(facts: Facts) -> Iterator[Finding]:
    """Power clips and engines with a capacitor of their DC days, where the track carries digital."""
    layout = facts.layout
    digital = {c for c in layout.circuits if (s := facts.tree.source(c)) and control_given(layout, s[1]) == "dcc"}
    for i, feeder in layout.feeders.items():
        if feeder.capacitor and circuit_under(layout, feeder, "A") in digital:
            yield Finding(
                key=f"capacitor:{i}",
                rule="suppression capacitor on digital track",
                severity="should",
                title=f"Feeder {feeder.label} is a power clip with a suppression capacitor, on digital track",
                why=WHY,
                mend=f"Cut the capacitor out, or solder a plain feeder. {TEST}",
                place=Place("feeder", i, feeder.track, feeder.at),
                shows=(i,),
                mends=(
                    Mend(
                        f"{feeder.label}: its capacitor is cut out",
                        [{"op": "replace", "path": f"/feeders/{i}/capacitor", "value": False}],
                    ),
                ),
                source="common practice",
            )
    carriers = [k for k, kind in layout.locos.items() if kind.capacitor and kind.runs_on != "direct current"]
    for k in carriers if digital else ():
        trains = [t.name for t in layout.trains.values() if k in t.engines]
        if not trains:
            continue
        yield Finding(
            key=f"capacitor:loco:{k}",
            rule="suppression capacitor on digital track",
            severity="look",
            title=f"{layout.locos[k].name} still has its suppression capacitor; {many(len(trains), 'train')} on a "
            "digital railroad use it",
            why=WHY,
            mend=f"Cut it out when the decoder is fitted, between pickups and decoder. {TEST}",
            place=Place("train", next(i for i, t in layout.trains.items() if k in t.engines)),
            shows=(),
            source="common practice",
        )
