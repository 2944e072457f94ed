"""Rules about how track lies: corners at joints, and curves tighter than the scale allows."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterator

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.findings.model import Finding, Place, rule
from jolly_copper.core.layout.radius import smallest_radius
from jolly_copper.core.quantities import print_length

KINK_DEGREES = 4.0
"""Two tracks that meet end to end at a sharper corner derail cars. Common practice, no source."""


@rule("kink at a joint", "track")
def kinks(facts: Facts) -> Iterator[Finding]:
    """Two tracks, or the ends of a ring, that meet at a corner where nothing curves."""
    layout = facts.layout
    leaving: dict[str, list[tuple[str, float, float]]] = defaultdict(list)
    for i, track in layout.tracks.items():
        line = track.line
        xs, ys = line.xs, line.ys
        for port, end, far in ((track.a, 0, 1), (track.b, -1, -2)):
            if layout.nodes[port.node].kind == "joint":
                heading = math.degrees(math.atan2(ys[far] - ys[end], xs[far] - xs[end]))
                along = 0.0 if end == 0 else facts.rails.lengths[i]
                leaving[port.node].append((i, along, heading))
    for node, ends in leaving.items():
        if len(ends) != 2:
            continue
        (one, at, first), (other, _, second) = ends
        corner = abs((first - second) % 360 - 180)
        if corner < KINK_DEGREES:
            continue
        names = layout.tracks[one].name, layout.tracks[other].name
        where = f"{names[0]} and {names[1]} meet" if one != other else f"The ring {names[0]} closes"
        yield Finding(
            key=f"kink:{node}",
            rule="kink at a joint",
            severity="look",
            title=f"{where} at a corner of {corner:.0f}°",
            why="At a joint nothing curves: a corner there is a kink of no radius, and cars climb the rail.",
            mend="Move the joint to a straight place: make the two one with Join, give the bend its curve, then split "
            "elsewhere."
            if one != other
            else "Pull the bends beside the joint until it lies on a straight line.",
            place=Place("node", node, one, at),
            figures=(("corner", f"{corner:.0f}°"), ("told from", f"{KINK_DEGREES:.0f}°")),
            shows=(one, other),
        )


@rule("curve too tight", "track")
def tight_curves(facts: Facts) -> Iterator[Finding]:
    """Track whose tightest curve is under the least of the house or the scale: one finding for each radius."""
    layout = facts.layout
    least = smallest_radius(layout)
    by_radius: dict[float, list[str]] = defaultdict(list)
    for i, track in layout.tracks.items():
        tightest = track.line.tightest
        if tightest is not None and tightest < least - 0.5:
            by_radius[round(tightest)].append(i)
    units = layout.brief.units
    wanted = print_length(least, units)
    for radius, tracks in sorted(by_radius.items()):
        names = [layout.tracks[t].name for t in tracks]
        more = f" and {len(names) - 1} more" if len(names) > 1 else ""
        yield Finding(
            key=f"tight:{tracks[0]}",
            rule="curve too tight",
            severity="look",
            title=f"{names[0]}{more} curves at {print_length(radius, units)}; the least is {wanted}",
            why="Long engines and cars bind or derail on curves tighter than the club allows itself.",
            mend="Give its bend a larger radius, or set house rule Shortest radius to what your stock takes.",
            place=Place("track", tracks[0], tracks[0], 0.0),
            figures=(("tightest", print_length(radius, units)), ("least", wanted)),
            shows=tuple(tracks),
        )
