"""What turnout motors, lamps and decoders draw, until somebody measures them. Guesses, certainty C: common practice, no
source."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Draw:
    """One of a kind: A at rest and at work, the volts it wants, V, and whether it throws turnouts."""

    amps: float
    working_amps: float
    least_volts: float
    most_volts: float
    throws: bool = False


USUAL: dict[str, Draw] = {
    "switch machine": Draw(0.016, 0.016, 9.0, 16.0, True),  # a stall motor draws the same at its stop
    "solenoid": Draw(0.0, 2.5, 12.0, 24.0, True),  # for a fifth of a second
    "servo": Draw(0.01, 0.25, 4.8, 6.0, True),
    "signal": Draw(0.0, 0.02, 8.0, 16.0),
    "lamp": Draw(0.0, 0.05, 10.0, 14.0),
    "LED": Draw(0.0, 0.01, 10.0, 14.0),  # with its resistor for 12 V
    "stationary decoder": Draw(0.03, 0.3, 10.0, 20.0, True),
    "other": Draw(0.0, 0.1, 9.0, 16.0),
}
