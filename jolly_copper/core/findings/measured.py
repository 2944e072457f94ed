"""Rules about single parts that somebody measured or found broken."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.findings.model import Finding, Mend, Place, rule
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.wiring import MeasuredPart
from jolly_copper.core.materials import joints
from jolly_copper.core.quantities import print_length, print_long_length, print_ohms


def part_name(layout: Layout, part: MeasuredPart) -> str:
    """A measured part as people would find it."""
    if part.track is not None:
        where = print_length(part.at, layout.brief.units)
        return f"the joiner in the {part.side} rail of {layout.tracks[part.track].name}, {where} from its A end"
    if part.of is not None and part.of in layout.feeders:
        feeder = layout.feeders[part.of]
        what = "wire" if part.what == "wire" else "contact at the terminal"
        return f"the {part.side} {what} of feeder {feeder.label}"
    return (
        f"pole {part.side} of plug {part.of}"
        if part.what == "plug"
        else f"the {part.side} contacts of terminal {part.of}"
    )


def part_place(layout: Layout, part: MeasuredPart) -> Place:
    """Where it is shown."""
    if part.track is not None:
        return Place("track", part.track, part.track, part.at)
    assert part.of is not None  # the reader saw to it
    if part.of in layout.feeders:
        feeder = layout.feeders[part.of]
        return Place("feeder", part.of, feeder.track, feeder.at)
    return Place("plug" if part.what == "plug" else "terminal", part.of)


@rule("part broken", "book")
def broken(facts: Facts) -> Iterator[Finding]:
    """What somebody found broken, with what is dead for it."""
    layout, units = facts.layout, facts.layout.brief.units
    dead = 0.0
    for k, span in enumerate(facts.network.spans):
        rows = facts.points.span == k
        fed = facts.network.fed_extents.get(facts.rails.extent_of[span.piece])
        if fed and rows.any() and not np.isfinite(facts.volts[rows]).any():
            dead += span.end - span.start
    for i, part in layout.measured.items():
        if part.ohms is not None:
            continue
        name = part_name(layout, part)
        yield Finding(
            key=f"broken:{i}",
            rule="part broken",
            severity="must",
            title=f"{name[0].upper()}{name[1:]} is broken",
            why="What hung on it gets its power another way or not at all"
            + (
                f": {print_long_length(dead, units)} of track with feeders is dead."
                if dead
                else "; no track is dead for it."
            ),
            mend="Mend it, measure again, and take the entry off or type the new reading.",
            place=part_place(layout, part),
            shows=(part.track or part.of or "",),
            figures=(("track without power", print_long_length(dead, units)), ("written down", part.on or "no date")),
            mends=(Mend("It is mended", [{"op": "remove", "path": f"/measured/{i}"}]),),
        )


MOST_OHMS = {
    "joiner": joints.RAIL_JOINER["usual"][2],
    "contact": joints.TERMINAL["screw strip"][2],
    "plug": joints.PLUG[2],
}
"""The worst a sound part of the kind reads, Ω."""


@rule("part worse than sound", "book")
def worn(facts: Facts) -> Iterator[Finding]:
    """A joint measured far over what a sound one reads."""
    layout = facts.layout
    for i, part in layout.measured.items():
        most = MOST_OHMS.get(part.what)
        if part.ohms is None or most is None or part.ohms <= 2 * most:
            continue
        name = part_name(layout, part)
        yield Finding(
            key=f"worn:{i}",
            rule="part worse than sound",
            severity="look",
            title=f"{name[0].upper()}{name[1:]} reads {print_ohms(part.ohms)}; a sound one up to {print_ohms(most)}",
            why="It is worked out with here. A joint that has begun to fail gets worse with heat, cold and damp.",
            mend="Clean, tighten or solder it, and measure again.",
            place=part_place(layout, part),
            shows=(part.track or part.of or "",),
            figures=(("measured", print_ohms(part.ohms)), ("sound, at most", print_ohms(most))),
            mends=(Mend("Forget this reading", [{"op": "remove", "path": f"/measured/{i}"}]),),
        )
