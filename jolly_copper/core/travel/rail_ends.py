"""How rails meet at a joint of two boards: what is done to them there, how it is tried, and the way back.

Common practice, no source.
"""

from __future__ import annotations

from typing import NamedTuple

from jolly_copper.core.layout.travel import RailEnds
from jolly_copper.core.materials.joints import CLOSED_OHMS
from jolly_copper.core.quantities import print_ohms

HIDES = "Feeders on both sides hide a loose one from the meter"


class Meeting(NamedTuple):
    """closes: what is done, with how to try it; foretold: what it should be. opens: the way back, empty where nothing
    is undone. along: what is taken along for it, empty for nothing."""

    closes: str
    foretold: str
    opens: str
    along: str


MEETINGS: dict[RailEnds, Meeting] = {
    "sliding joiners": Meeting(
        f"Power off again; slide the joiners over the joint. Each rail to the same rail beyond. {HIDES}: tug each.",
        f"under {print_ohms(CLOSED_OHMS)}, and no joiner moves",
        "slide the rail joiners back; ",
        "Loose rail joiners, a few, and the small pliers that open them",
    ),
    "bridged by wire": Meeting(
        "Power off again; clip the wires that bridge the rails, each to its own rail. Each rail to the same rail "
        f"beyond. {HIDES}: tug each clip.",
        f"under {print_ohms(CLOSED_OHMS)}, and no clip comes off",
        "take the wires off that bridge the rails; ",
        "Wires with clips that bridge rails, two more than there are tracks over one joint",
    ),
    "butted": Meeting(
        "Rail ends pushed together: a fingernail drawn over tops and insides of both rails. No power is counted on "
        "across them.",
        "it catches nowhere",
        "",
        "A fine file for rail ends",
    ),
}
