"""What sources of track power usually give, by scale and control, until somebody reads the label. Common practice, no
source."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

Control = Literal["dcc", "dc", "ac3"]


@dataclass(frozen=True)
class UsualSource:
    """A source as one starts with: volts with nothing drawn, amps on its label, A into a short, s to its trip, Ω
    inside."""

    volts: float
    amps: float
    limit: float
    trip_seconds: float
    ohms: float


DIGITAL: dict[str, tuple[float, float]] = {
    "Z": (10.0, 2.0),
    "N": (12.0, 3.0),
    "TT": (13.0, 3.0),
    "HO": (14.4, 5.0),
    "OO": (14.4, 5.0),
    "S": (15.0, 5.0),
    "O": (16.0, 8.0),
    "G": (18.0, 10.0),
}
"""V and A by scale. Certainty C."""
DIRECT: dict[str, tuple[float, float]] = {
    "Z": (8.0, 0.5),
    "N": (12.0, 1.0),
    "TT": (12.0, 1.0),
    "HO": (12.0, 1.0),
    "OO": (12.0, 1.0),
    "S": (14.0, 2.0),
    "O": (14.0, 3.0),
    "G": (20.0, 5.0),
}
ALTERNATING: dict[str, tuple[float, float]] = {
    "Z": (10.0, 1.0),
    "N": (12.0, 1.0),
    "TT": (14.0, 1.5),
    "HO": (16.0, 2.0),
    "OO": (16.0, 2.0),
    "S": (16.0, 4.0),
    "O": (18.0, 8.0),
    "G": (18.0, 8.0),
}
TABLES: dict[str, dict[str, tuple[float, float]]] = {"dcc": DIGITAL, "dc": DIRECT, "ac3": ALTERNATING}
SHORT_OVER_LABEL = 1.6
TRIP_SECONDS: dict[str, float] = {"dcc": 0.25, "dc": 2.0, "ac3": 5.0}
"""An electronic breaker, and thermal ones. Certainty C."""
VOLTS_SCHOOLS: dict[str, str] = {
    "dcc": "As low as runs well, 12 V in N and 14 V in HO; or the station's highest, for speed; the published "
    "standard lets the track stand up to 2 V over the scale's.",
    "dc": "12 V at full throttle in small scales; 16 to 24 V outdoors.",
    "ac3": "16 V in small scales, 18 to 20 V in O.",
}
"""Common practice; the standard is NMRA S-9.1, from memory, certainty B."""


def usual_source(scale: str, control: str) -> UsualSource:
    """What a source starts with for a scale and a control, to be put right from its label.

    >>> usual_source("N", "dcc").volts, usual_source("O", "ac3").amps
    (12.0, 8.0)

    Args:
        scale: as in the brief. control: `dcc`, `dc` or `ac3`.
    """
    volts, amps = TABLES[control][scale]
    inside = {"dcc": 0.025, "dc": 0.3, "ac3": 0.1}[control]
    return UsualSource(volts, amps, round(SHORT_OVER_LABEL * amps, 1), TRIP_SECONDS[control], inside)
