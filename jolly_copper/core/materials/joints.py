"""Joints: the resistance of each thing two conductors meet in. All are practice, none from a standard (certainty C)."""

from __future__ import annotations

from typing import Literal

JoinerKind = Literal["soldered", "tight", "usual", "old"]
TerminalKind = Literal["screw strip", "lever", "tap", "soldered"]

RAIL_JOINER: dict[str, tuple[float, float, float]] = {
    "soldered": (0.0005, 0.0008, 0.001),
    "tight": (0.001, 0.005, 0.010),
    "usual": (0.010, 0.025, 0.050),
    "old": (0.050, 0.150, 0.500),
}
"""Ω per rail joint: lowest, used, highest. Old joiners go open in the end."""

TERMINAL: dict[str, tuple[float, float, float]] = {
    "screw strip": (0.0005, 0.002, 0.005),
    "lever": (0.0005, 0.002, 0.005),
    "tap": (0.001, 0.004, 0.010),
    "soldered": (0.0002, 0.0005, 0.001),
}
"""Ω per contact. `tap` cuts through the insulation and leaves the bus whole; strips and levers cut the bus."""
BUS_IS_CUT_AT: frozenset[str] = frozenset({"screw strip", "lever"})

CLOSED_OHMS, OPEN_OHMS = 1.0, 10_000.0
"""What a meter should show over a sound wire with its own leads, at most; and between what must not touch, at least.
Common practice, no source."""

PLUG = (0.001, 0.005, 0.020)
"""Ω per pole of a plug at a board joint."""
RAIL_SOLDER = 0.0005
"""Ω where a feeder is soldered to the rail."""
COIN = (0.005, 0.020, 0.050)
"""Ω of a coin laid across the rails: the coin test's own resistance."""
