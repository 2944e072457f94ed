"""What can be made ready before anybody lies under a board: at home with a box of wire, or at the bench."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator

from jolly_copper.core.layout.benchwork import board_name, in_board_order
from jolly_copper.core.layout.words import many
from jolly_copper.core.travel.couplings import couplings_of
from jolly_copper.core.wirebook.book import Chapter, Column, Table
from jolly_copper.core.wirebook.worked import Worked

KIND_WORDS = {"run": "bus", "feeder": "feeders", "control": "cables"}
FEW = 3
HOME, BENCH = "at home", "at the bench"
Row = tuple[str, str, str, str, str]


def preparing(worked: Worked) -> Chapter | None:
    """A list by place and board, with boxes to tick; None where there is nothing to prepare."""
    rows = tuple((*row, "") for row in (*_wires(worked), *_couplings(worked), *_bench(worked)))
    if not rows:
        return None
    columns = (
        Column("Where", 0.8),
        Column("What", 2.2),
        Column("How many", 0.8, "figure"),
        Column("For", 1.2),
        Column("How", 2.4),
        Column("Done", 0.4, "tick"),
    )
    note = "The rest is done under the boards, in the order of building."
    return Chapter(
        "preparing", "Before going under", (Table("At home and at the bench", columns, rows, note),), short=True
    )


def _wires(worked: Worked) -> Iterator[Row]:
    """Wire cut and labelled, board by board, to be carried along as one bundle."""
    counted = Counter((p.board, p.kind) for p in worked.pieces)
    wires = Counter((p.board, p.kind) for p in worked.pieces for _ in p.colours)
    for board in in_board_order(worked.layout, [b for b, _ in counted]):
        for kind, called in KIND_WORDS.items():
            if n := counted[board, kind]:
                how = (
                    "cut, labelled at both ends, leads bent and their ends stripped and tinned in one go"
                    if kind == "feeder"
                    else "cut and labelled at both ends, bundled in the order they are pulled"
                )
                each = f"{many(n, 'piece')}, {many(wires[board, kind], 'wire')}"
                yield HOME, f"{called.capitalize()}", each, board_name(worked.layout, board), how


def _couplings(worked: Worked) -> Iterator[Row]:
    """Halves of couplings: their pins crimped on tails, so that under the board only tails are joined."""
    for read in couplings_of(worked.facts):
        if read.pins:
            boards = " and ".join(board_name(worked.layout, b) for b in read.coupling.boards)
            pins = f"{many(2 * len(read.pins), 'pin')}"
            how = "pins crimped or soldered on tails, pin by pin as its list has it, both halves metered while mated"
            yield BENCH, f"Coupling {read.coupling.name}, both halves", pins, boards, how


def _bench(worked: Worked) -> Iterator[Row]:
    """Devices set, numbered and tried alone; panels wired."""
    for part in worked.tasks:
        devices = [t for t in part.tasks if t.key.startswith(("device:", "board:"))]
        if devices:
            names = ", ".join(t.label for t in devices[:3]) + (
                f" and {len(devices) - 3} more" if len(devices) > 3 else ""
            )
            how = "set, numbered with nothing else on the line, and tried alone"
            yield BENCH, f"Devices: {names}", many(len(devices), "device"), part.name, how
        if part.panel is not None:
            yield BENCH, "Panel", many(len(part.tasks), "job"), part.name, "wired and metered pin by pin"
