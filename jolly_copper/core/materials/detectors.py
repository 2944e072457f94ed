"""What detector boards of each kind do, until somebody reads their own sheet. Guesses, certainty C: common practice, no
source."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class DetectorUsual:
    """drop: V its diodes take. ohms: Ω in series. threshold: A it is sure to see. common_input: all channels of a
    board share one bus, so they lie in one district. why: what speaks for it, and against."""

    drop: float
    ohms: float
    threshold: float
    common_input: bool
    why: str


DETECTORS: dict[str, DetectorUsual] = {
    "current transformer": DetectorUsual(
        0.0,
        0.005,
        0.005,
        False,
        "The wire goes through a coil: nothing is lost, nothing is joined, and a board may serve several districts. "
        "Not on DC track; "
        "more turns through the coil make it see less current.",
    ),
    "diode drop": DetectorUsual(
        1.2,
        0.02,
        0.002,
        True,
        "Two pairs of diodes in the wire: sees very little, also on DC. They take more than a volt from every train, "
        "and get warm.",
    ),
    "opto": DetectorUsual(
        1.4,
        0.02,
        0.003,
        True,
        "A bridge and a light coupler: the electronics are apart from the track. Takes about as many volts as diodes.",
    ),
    "isolated rail": DetectorUsual(
        0.0,
        0.001,
        0.02,
        False,
        "Three-rail track: a piece of one outer rail cut off is joined to the other by any wheel. Nothing in the "
        "power wire at all.",
    ),
}


def deaf_kind(control: str, kind: str) -> str | None:
    """Why a kind of detector sees nothing on track run so; None where it does. Common practice, no source."""
    if kind == "current transformer" and control == "dc":
        return "A coil answers only to current that changes; the steady current of DC track passes it unseen."
    if kind == "isolated rail" and control != "ac3":
        return "It takes a rail that carries no power of its own: only three-rail track has one to spare."
    return None


def usual_kind(control: str, wished: str) -> str:
    """The kind to begin with on track run so: what the club wishes where it sees anything there.

    >>> usual_kind("dc", "current transformer"), usual_kind("ac3", "current transformer"), usual_kind("dcc", "opto")
    ('diode drop', 'isolated rail', 'opto')
    """
    if control == "ac3":
        return "isolated rail"
    return wished if deaf_kind(control, wished) is None else "diode drop"


LEAK_OHM_METRES = {"dry": 1.0e6, "damp": 5.0e4, "wet": 5.0e3}
"""Ballast between the rails, Ω for a metre of track; half of it for two metres. Wet: just glued and not yet dry.
Guesses, certainty C: measure with no train and no feeder, rail to rail."""
TRACK_FARADS_PER_METRE = 30e-12
"""Rails and wires of a section, F per metre, which every edge of a digital signal must fill. Calculated, certainty
C."""
AXLE_WATTS = (0.1, 0.125, 0.25, 0.5)
"""Resistors small enough for an axle, W."""
