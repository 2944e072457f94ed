"""What a piece of wire is: the thing somebody cuts, labels at both ends and connects."""

from __future__ import annotations

from dataclasses import dataclass

KINDS = ("run", "feeder", "control")
"""The order they are worked on: what brings power, what takes it to the rails, what reports and commands."""


@dataclass(frozen=True)
class Piece:
    """Wires that lie together from one joint to the next: mostly a pair, one behind a detector, several to a signal.

    key: `run:R3/2`, `feeder:F37`, `feeder:F37/A` or `control:S4`, stable while the wire stands. label: what is written
    on its ends. colours: of each wire. length: mm as measured. cut: mm to cut each wire to. board: where it is worked
    on; None beside all boards. start_short, end_short: for a label. middle: its middle, mm from the start of its run,
    or where it meets its track.
    """

    key: str
    kind: str
    owner: str
    label: str
    circuit: str
    colours: tuple[str, ...]
    gauge: str
    strands: str
    make: str
    start: str
    end: str
    start_short: str
    end_short: str
    length: float
    cut: float
    board: str | None
    middle: float
    notes: tuple[str, ...] = ()

    @property
    def worn(self) -> str:
        """Its colours in words for a table: `red + black`."""
        return " + ".join(self.colours)


def is_before_plug(piece: Piece) -> bool:
    """Whether a piece of cable ends in a plug at the joint of two boards."""
    return piece.kind == "control" and piece.end.startswith("plug ")
