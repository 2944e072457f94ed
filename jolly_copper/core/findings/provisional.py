"""Rules about what was meant for a while, and about track that must stay by itself."""

from __future__ import annotations

from collections.abc import Iterator

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.findings.model import Finding, Mend, Place, rule


@rule("tied for the time being", "book")
def temporary(facts: Facts) -> Iterator[Finding]:
    """Feeders somebody marked as provisional, until they are done properly."""
    for i, feeder in facts.layout.feeders.items():
        if feeder.temporary:
            track = facts.layout.tracks[feeder.track]
            yield Finding(
                key=f"temporary:{i}",
                rule="tied for the time being",
                severity="look",
                title=f"Feeder {feeder.label} on {track.name} is tied for the time being",
                why="What is twisted together for one evening is still there in five years, and nobody knows why.",
                mend="Solder and label it, then say on its card that it is done.",
                place=Place("feeder", i, feeder.track, feeder.at),
                shows=(i,),
                mends=(
                    Mend(
                        f"{feeder.label} is done properly",
                        [{"op": "replace", "path": f"/feeders/{i}/temporary", "value": False}],
                    ),
                ),
            )


@rule("programming track joined to the rest", "zones")
def programming(facts: Facts) -> Iterator[Finding]:
    """Programming track that no gap parts from other track: what is written there goes to every engine."""
    layout = facts.layout
    for extent in facts.rails.extents:
        here = {p.track for p in extent}
        mine = [p for p in extent if layout.tracks[p.track].use == "programming"]
        # What lies between a turnout and the gap is its foot, not the track itself.
        own = sorted({p.track for p in mine if p.end - p.start > facts.rails.lengths[p.track] / 2})
        others = sorted(t for t in here if layout.tracks[t].use != "programming")
        if not own or not others:
            continue
        name, other = layout.tracks[own[0]].name, layout.tracks[others[0]].name
        yield Finding(
            key=f"programming:{own[0]}",
            rule="programming track joined to the rest",
            severity="should",
            title=f"{name} is for programming, and its rails go on into {other} without a gap",
            why="What is written on it is written into every engine that stands on the same rails.",
            mend="Both rails gapped, and its feeders to the programming output, or through a switch that takes it off "
            "the rest.",
            place=Place("track", own[0], own[0], facts.rails.lengths[own[0]] / 2),
            shows=(own[0], others[0]),
        )
