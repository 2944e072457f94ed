"""Data cables from a panel to the boards: which pair of which cable is for which hole."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass

from jolly_copper.core.layout.ids import natural
from jolly_copper.core.materials.copper import ohms_per_metre
from jolly_copper.core.quantities import Units, print_current, print_length, read_gauge
from jolly_copper.core.signals.cables import PAIR_GAUGE, PAIRS
from jolly_copper.core.wirebook.book import Column, Table
from jolly_copper.core.wirebook.panel import LAMP_AMPS, LAMP_VOLTS, Panel
from jolly_copper.core.wirebook.panel_parts import Hole

FAR_MM = 10_000.0


@dataclass(frozen=True)
class CablePair:
    """One pair of a cable. hole: number on the panel. first, second: colours of its wires. carries: what it is for;
    goes: what is at its other end; board: the board that is on, empty where it is none yet."""

    cable: int
    pair: int
    first: str
    second: str
    hole: int
    name: str
    carries: str
    goes: str
    board: str


def cable_pairs(panel: Panel) -> list[CablePair]:
    """A pair for every lamp, button and turnout switch, board by board, each with cables of its own; what goes to no
    board yet comes last. Selectors and cab lamps are wired on the panel.

    Buttons of one turnout that share an input still have a pair each, so that any can be moved to an input of its own.
    """
    found: list[CablePair] = []
    by_board: dict[str, list[tuple[Hole, str]]] = defaultdict(list)
    for hole, carries in _wired(panel):
        by_board[hole.board].append((hole, carries))
    cable = 0
    for board in sorted(by_board, key=lambda b: (b == "", natural(b))):
        for n, (hole, carries) in enumerate(by_board[board]):
            cable += n % len(PAIRS) == 0
            colour, pair = PAIRS[n % len(PAIRS)], n % len(PAIRS) + 1
            goes = (colour, f"white/{colour}", hole.number, hole.name, carries, hole.follows, board)
            found.append(CablePair(cable, pair, *goes))
    return found


def _wired(panel: Panel) -> Iterator[tuple[Hole, str]]:
    words = {"switch": "switch", "button": "button"}
    for hole in panel.holes:
        if hole.kind not in ("selector", "cab lamp"):
            yield hole, words.get(hole.kind, "lamp")


def cable_table(panel: Panel, units: Units) -> Table | None:
    """Every pair of the panel's data cables; None where all of it is wired on the panel."""
    pairs = cable_pairs(panel)
    if not pairs:
        return None
    lost = 2 * FAR_MM / 1000 * ohms_per_metre(read_gauge(PAIR_GAUGE), "solid", 20) * LAMP_AMPS
    rows = tuple(
        (f"{p.cable}.{p.pair}", f"{p.first} + {p.second}", str(p.hole), p.name, p.carries, p.goes) for p in pairs
    )
    return Table(
        "Data cables, pair by pair",
        (
            Column("Cable, pair", 0.7),
            Column("Wires", 1.4, "colours"),
            Column("Hole", 0.5, "figure"),
            Column("Name", 1),
            Column("Carries", 0.7),
            Column("Other end", 2),
        ),
        rows,
        f"{pairs[-1].cable} cable{'s' if pairs[-1].cable > 1 else ''} of four pairs, {PAIR_GAUGE} solid: a lamp of "
        f"{print_current(LAMP_AMPS)} loses {lost * 1000:.0f} mV over {print_length(FAR_MM, units)} out and back, of "
        f"{LAMP_VOLTS:g} V. Lamps, buttons and switches of slow motors only: track power and coil motors have wire of "
        "their own.",
    )
