"""Every stretch between gaps, as the section table reads it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.rails.dead import SHORTEST_STAND_MM
from jolly_copper.core.rails.zones import shortest_run

Role = Literal["plain", "reversing", "mixed", "unfed"]


@dataclass(frozen=True)
class Stretch:
    """Track no gap divides: its sections, what it is meant for, and for reversing ones how long a train may be.

    role: `mixed` is a reverser's section that other feeders reach. length: mm of track. run: shortest drive from gap to
    gap, mm, longest: the longest train let in, mm; both None for plain track. track, at: a place in it.
    """

    ids: tuple[str, ...]
    name: str
    circuit: str | None
    role: Role
    length: float
    feeders: int
    run: float | None
    longest: float | None
    track: str
    at: float
    tracks: tuple[str, ...]


def list_sections(facts: Facts) -> list[Stretch]:
    """Every stretch long enough to stand on, or named."""
    layout, topology = facts.layout, facts.topology
    found = []
    for number, extent in enumerate(facts.rails.extents):
        ids, length = facts.rails.sections_in[number], sum(p.end - p.start for p in extent)
        if not ids and length < SHORTEST_STAND_MM:
            continue
        zone = topology.zones.at(extent[0])
        widest = max(extent, key=lambda p: (p.end - p.start, p.track))
        first = layout.sections[ids[0]] if ids else None
        feeders = facts.network.fed_extents.get(number, ())
        turning = topology.is_reversing(zone)
        region = next((r for r in topology.regions if zone.number in r), frozenset({zone.number}))
        run = shortest_run(topology.zones, facts.rails, topology.ways, region) if turning else None
        role: Role = (
            "mixed" if turning and len(zone.roots) > 1 else "reversing" if turning else "plain" if feeders else "unfed"
        )
        found.append(
            Stretch(
                ids,
                " + ".join(layout.sections[i].name for i in ids)
                or f"no name, round {layout.tracks[widest.track].name}",
                first.circuit if first else None,
                role,
                length,
                len(feeders),
                run.length if run else None,
                topology.longest_train(zone) if turning else None,
                first.track if first else widest.track,
                first.at if first else (widest.start + widest.end) / 2,
                tuple(sorted({p.track for p in extent})),
            )
        )
    return found
