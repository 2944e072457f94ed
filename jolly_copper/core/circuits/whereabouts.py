"""Where the trains of a scene may be: which circuits feed the track they may stand on, and how much of it there is."""

from __future__ import annotations

from collections import defaultdict

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.power_tree import PowerTree
from jolly_copper.core.layout.stock import Placement, TrackUse
from jolly_copper.core.rails.pieces import RailMap
from jolly_copper.core.rails.zones import circuit_of_feeder

LEAST_STAND_MM = 450.0
"""Less track of a use than this is the leg of a turnout, and no place for a train."""
Grounds = dict[tuple[str, TrackUse], float]
"""Length of track, mm, by the circuit meant to feed it and its use."""


def extent_circuits(layout: Layout, rails: RailMap) -> list[str | None]:
    """For each stretch between gaps, the circuit meant to feed it: its section's, else its first feeder's, else
    None."""
    fed: dict[int, str] = {}
    for i, feeder in layout.feeders.items():
        fed.setdefault(rails.extent_of[rails.piece_at(feeder.track, feeder.at)], circuit_of_feeder(layout, i))
    return [
        layout.sections[anchors[0]].circuit if anchors else fed.get(number)
        for number, anchors in enumerate(rails.sections_in)
    ]


def survey(layout: Layout, rails: RailMap) -> Grounds:
    """How much track of each use every circuit feeds."""
    found: Grounds = defaultdict(float)
    for circuit, extent in zip(extent_circuits(layout, rails), rails.extents, strict=True):
        if circuit is None:
            continue
        for piece in extent:
            found[circuit, layout.tracks[piece.track].use] += piece.end - piece.start
    return dict(found)


def roams(tree: PowerTree, grounds: Grounds, placed: Placement) -> dict[str, float]:
    """The circuits whose track a roaming train may be on, with the length of it there, mm.

    Empty for a train that stands at one place, and for one whose circuits and uses have no track in common.
    """
    if placed.track is not None:
        return {}
    named, uses = frozenset(placed.circuits), frozenset(placed.uses)
    found: dict[str, float] = defaultdict(float)
    for (circuit, use), length in grounds.items():
        if (not named or tree.within(circuit, named)) and (not uses or use in uses):
            found[circuit] += length
    return {c: mm for c, mm in found.items() if mm >= LEAST_STAND_MM} or dict(found)


def stands_on(layout: Layout, rails: RailMap, placed: Placement) -> str | None:
    """The circuit under a train that stands at one place."""
    if placed.track is None:
        return None
    section = rails.section_at(placed.track, placed.at or 0.0)
    return layout.sections[section].circuit if section else None
