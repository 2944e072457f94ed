"""The ink a wire's colour is printed in."""

from __future__ import annotations

WIRE_INKS = {
    "red": "#c33b26",
    "black": "#15191b",
    "white": "#ffffff",
    "blue": "#2f6cb3",
    "green": "#3d8a4a",
    "yellow": "#e3be2b",
    "brown": "#7a4a26",
    "grey": "#8a8f92",
    "gray": "#8a8f92",
    "orange": "#e0812b",
    "purple": "#7c4a9c",
    "violet": "#7c4a9c",
    "pink": "#e58fa6",
    "clear": "#dde3e4",
}


def inks_of(colour: str) -> tuple[str, str | None]:
    """Base and stripe of a wire's colour as inks; grey for a name not known here.

    >>> inks_of("white/blue")
    ('#ffffff', '#2f6cb3')
    """
    base, _, stripe = colour.partition("/")
    unknown = WIRE_INKS["grey"]
    return WIRE_INKS.get(base, unknown), WIRE_INKS.get(stripe, unknown) if stripe else None


def wires_in(cell: str) -> list[str]:
    """The wires a `colours` cell of the book names."""
    return [w.strip() for w in cell.split("+") if w.strip()]
