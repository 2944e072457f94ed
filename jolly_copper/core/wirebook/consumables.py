"""Tools and things used up, from the jobs there are. Amounts a job: common practice, no source (certainty C)."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Sequence
from fractions import Fraction

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.words import many
from jolly_copper.core.materials.copper import area_mm2
from jolly_copper.core.quantities import read_gauge
from jolly_copper.core.travel.crossing import track_crossings
from jolly_copper.core.wirebook.joints import Joint
from jolly_copper.core.wirebook.piece import Piece

SOLDER_A_JOINT, SLEEVE_A_JOINT_MM, TIE_EVERY_MM = 0.12, 25.0, 300.0
"""Solder, g, at a rail or a soldered joint; shrink sleeve over it, mm; ties along a run."""
OVER_THE_WIRE_MM = 1.0
"""A drill bit is so much wider than the wire's insulation."""
TIES_AN_END = 2
"""Copper-clad ties that hold the rails at the end of a board, so that no knock moves them."""
INSULATION = 2.0
"""Outside over copper diameter of hook-up wire."""

Used = tuple[str, str, int, str]
"""key, name, how many, why."""


def _fraction(millimetres: float) -> Fraction:
    """The next size of inch bit up, in thirty-seconds.

    >>> str(_fraction(3.0)), str(_fraction(3.5))
    ('1/8', '5/32')
    """
    return Fraction(math.ceil(millimetres / 25.4 * 32 - 1e-9), 32)


def consumables(layout: Layout, wires: Sequence[Piece], tied: Sequence[Joint]) -> list[Used]:
    """What is used up: solder by joints, sleeve, ties, flags; and the bits for holes, by gauge of the feeders."""
    feeders = [p for p in wires if p.kind == "feeder"]
    on_rails = sum(len(p.colours) for p in feeders)
    soldered = sum(len(s.colours) for j in tied if j.kind == "soldered" for s in j.seats)
    joints = on_rails + soldered
    along = sum(p.length for p in wires if p.kind != "feeder")
    metric = layout.brief.units == "metric"
    apart = f"{TIE_EVERY_MM:g} mm" if metric else "12 in"
    found: list[Used] = []
    if joints:
        grams = max(1, math.ceil(joints * SOLDER_A_JOINT))
        found.append(("solder-g", "Solder, grams", grams, f"{joints} joints, {SOLDER_A_JOINT:g} g each"))
    if soldered:
        length = math.ceil(soldered * SLEEVE_A_JOINT_MM / 1000 * 10)
        each = "100 mm" if metric else "4 in"
        found.append(("sleeve-100mm", f"Shrink sleeve, lengths of {each}", length, "over soldered joints of the bus"))
    if along:
        found.append(("tie", "Cable tie or clip", math.ceil(along / TIE_EVERY_MM), f"every {apart} of run"))
    if wires:
        flags = 2 * sum(len(p.colours) for p in wires)
        found.append(("flag", "Label flag", flags, "one at each end of every wire"))
    holes = Counter(_bit(p.gauge) for p in feeders)
    for size, count in sorted(holes.items()):
        bit = f"{size:g} mm" if metric else f"{_fraction(size)} in"
        found.append((f"bit-{size:g}mm", f"Drill bit, {bit}", 1, f"holes for {many(count, 'pair')} of leads"))
    cuts = sum(g.made == "cut and filled" for g in layout.gaps.values())
    if cuts:
        found.append(("gap-filler", "Slip of plastic for a gap", cuts, "glued into rails that are cut"))
    ends = 2 * sum(1 for _ in track_crossings(layout))
    if ends:
        found.append(
            (
                "copper-clad-tie",
                "Copper-clad tie",
                ends * TIES_AN_END,
                f"{TIES_AN_END} at each of {ends} board ends of track",
            )
        )
    return found


def _bit(gauge: str) -> float:
    """A bit for one lead, mm, by halves: √(4A/π) of copper, with its insulation, and a little more."""
    across = math.sqrt(4 * area_mm2(read_gauge(gauge)) / math.pi) * INSULATION + OVER_THE_WIRE_MM
    return math.ceil(across * 2) / 2
