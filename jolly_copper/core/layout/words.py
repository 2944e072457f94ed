"""The trade's words for what feeds the track, by how it is controlled."""

from __future__ import annotations

from jolly_copper.core.layout.changes import MAPS
from jolly_copper.core.layout.document import Control, Layout

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


def many(count: int, what: str) -> str:
    """A count with its thing, in the plural where it is one.

    >>> many(1, "booster"), many(3, "pair")
    ('1 booster', '3 pairs')
    """
    return f"{count} {what}{'' if count == 1 else 's'}"


def thing_words(layout: Layout, about: str) -> str:
    """A thing of the layout by its name, from `board:b6`: `Board 6 bridge`; as it is written where there is none such
    any more, and nothing for the whole railroad.

    >>> from jolly_copper.core.layout.document import Layout
    >>> thing_words(Layout(name="Pier"), "board:b6"), thing_words(Layout(name="Pier"), "")
    ('board b6, which is gone', '')
    """
    kind, _, thing = about.partition(":")
    if not thing:
        return ""
    found = getattr(layout, f"{kind}s").get(thing) if f"{kind}s" in MAPS else None
    name = getattr(found, "name", None) or getattr(found, "label", None) or thing
    return f"{kind.capitalize()} {name}" if found is not None else f"{kind} {thing}, which is gone"
