"""Labels for both ends of every wire, and the sheets they are printed on."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from jolly_copper.core.wirebook.piece import Piece

PerPair = Literal["every wire", "every pair"]


@dataclass(frozen=True)
class Label:
    """What is written on one end. colour: of the wire, both colours for a pair. here: where this end goes; there: the
    other."""

    text: str
    colour: str
    here: str
    there: str


@dataclass(frozen=True)
class Sheet:
    """A sheet of labels, mm. pitch: from one label to the next. cut_lines: for plain paper, to cut along."""

    name: str
    page: Literal["A4", "Letter"]
    columns: int
    rows: int
    left: float
    top: float
    width: float
    height: float
    pitch_x: float
    pitch_y: float
    cut_lines: bool = False


SHEETS: dict[str, Sheet] = {
    "a4-65": Sheet("A4, 65 to the sheet, 38 × 21 mm", "A4", 5, 13, 4.7, 10.7, 38.1, 21.2, 40.6, 21.2),
    "a4-24": Sheet("A4, 24 to the sheet, 70 × 37 mm", "A4", 3, 8, 0.0, 0.5, 70.0, 37.0, 70.0, 37.0),
    "letter-80": Sheet("Letter, 80 to the sheet, 1 3/4 × 1/2 in", "Letter", 4, 20, 7.4, 12.7, 44.5, 12.7, 52.1, 12.7),
    "letter-30": Sheet("Letter, 30 to the sheet, 2 5/8 × 1 in", "Letter", 3, 10, 4.8, 12.7, 66.7, 25.4, 69.9, 25.4),
    "a4-plain": Sheet("A4, plain paper to cut, 45 × 12 mm", "A4", 4, 22, 12.0, 15.0, 45.0, 12.0, 46.5, 12.1, True),
    "letter-plain": Sheet(
        "Letter, plain paper to cut, 45 × 12 mm", "Letter", 4, 21, 15.0, 12.0, 45.0, 12.0, 46.5, 12.1, True
    ),
}
"""Sheet sizes in common use; measures by rule from such sheets, certainty C: print one on plain paper first."""


def labels(wires: Sequence[Piece], for_each: PerPair = "every wire") -> list[Label]:
    """The labels in the order wires are worked on: for each wire (or pair) its start, then its end."""
    found = []
    for p in wires:
        colours = p.colours if for_each == "every wire" else (p.worn,)
        for colour in colours:
            found.append(Label(p.label, colour, p.start_short, p.end_short))
            found.append(Label(p.label, colour, p.end_short, p.start_short))
    return found
