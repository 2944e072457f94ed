"""Data cables from a panel to the boards: which pair of which cable is for which hole."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from jolly_copper.core.materials.copper import ohms_per_metre
from jolly_copper.core.quantities import Units, print_current, print_length, read_gauge
from jolly_copper.core.wirebook.book import Column, Table
from jolly_copper.core.wirebook.panel import LAMP_AMPS, LAMP_VOLTS, Panel
from jolly_copper.core.wirebook.panel_parts import Hole

PAIRS = ("blue", "orange", "green", "brown")
"""Pairs of a four-pair data cable in their usual order, each with a white mate striped in its colour: the order of
ANSI/TIA-568, from memory."""
PAIR_GAUGE, FAR_MM = "24 AWG", 10_000.0


@dataclass(frozen=True)
class CablePair:
    """One pair of a cable. hole: number on the panel. first, second: colours of its wires. carries: what it is for;
    goes: what is at its other end."""

    cable: int
    pair: int
    first: str
    second: str
    hole: int
    name: str
    carries: str
    goes: str


def cable_pairs(panel: Panel) -> list[CablePair]:
    """A pair for every lamp, button and turnout switch, hole by hole; selectors and cab lamps are wired on the panel.

    Buttons of one turnout that share an input still have a pair each, so that any can be moved to an input of its own.
    """
    found = []
    for n, (hole, carries) in enumerate(_wired(panel)):
        colour = PAIRS[n % len(PAIRS)]
        cable, pair = n // len(PAIRS) + 1, n % len(PAIRS) + 1
        found.append(CablePair(cable, pair, colour, f"white/{colour}", hole.number, hole.name, carries, hole.follows))
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
