"""The trade's words for what feeds the track, by how it is controlled."""

from __future__ import annotations

from jolly_copper.core.layout.document import Control

SOURCE: dict[Control, str] = {"dcc": "booster", "dc": "controller", "ac3": "transformer"}
"""What one source of track power is called."""
CONTROL: dict[Control, str] = {"dcc": "digital", "dc": "DC", "ac3": "three-rail AC"}
"""What a control is called."""
FILLS: dict[Control, str] = {
    "dcc": "decoders and sound",
    "dc": "motors and lamps",
    "ac3": "motors, lamps and smoke units",
}
"""What draws more than usual for the moment power returns."""
PARKED: dict[Control, str] = {
    "dcc": "A sound engine parked there falls silent.",
    "dc": "An engine parked there stays where it is.",
    "ac3": "An engine parked there stays where it is, its lamps dark.",
}
"""What dead track means for an engine that stands on it."""
WEARS: dict[Control, str] = {
    "dcc": "lamps and motors and warms decoders",
    "dc": "motors and lamps",
    "ac3": "motors, lamps and reversing relays",
}
"""What too many volts on the track wear out. Common practice, no source."""


def sources_word(control: Control, count: int = 2) -> str:
    """`booster`, or `boosters`.

    >>> sources_word("dc", 1), sources_word("ac3")
    ('controller', 'transformers')
    """
    return SOURCE[control] + ("" if count == 1 else "s")
