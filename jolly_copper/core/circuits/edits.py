"""Small changes to a layout as JSON Patch operations: what a mend or a what-if would do."""

from __future__ import annotations

import math
from typing import Any

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.lengths import point_on_track, terminal_point
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.rails.pieces import opposite

Patch = list[dict[str, Any]]


CLEAR_OF_GAP_MM = 40.0
"""A feeder is soldered no nearer to a gap or a rail's end than this."""


def new_id(existing: object, letter: str) -> str:
    """The next free id of the form F83: one above the highest number in use."""
    numbers = [int(i[len(letter) :]) for i in existing if i.startswith(letter) and i[len(letter) :].isdigit()]  # type: ignore[attr-defined]
    return f"{letter}{max(numbers, default=0) + 1}"


def nearest_terminal(layout: Layout, circuit: str, track: str, at: float) -> str | None:
    """The terminal of a circuit nearest to a place on the track, or None where the circuit has none."""
    here = point_on_track(layout, track, at)
    ours = [i for i, t in layout.terminals.items() if layout.runs[t.run].circuit == circuit]
    return min(ours, key=lambda i: (math.dist(here, terminal_point(layout, layout.terminals[i])), i), default=None)


def usual_feeder(layout: Layout) -> tuple[str, str]:
    """Gauge and strands this layout uses most for feeders; 20 AWG solid where it has none."""
    used = [(f.gauge, f.strands) for f in layout.feeders.values()]
    return max(sorted(set(used)), key=used.count, default=("20 AWG", "solid"))


def add_feeder(facts: Facts, circuit: str, track: str, at: float) -> Patch | None:
    """A feeder at this place from the nearest terminal of the circuit, in phase with its neighbours."""
    layout, rails, phase = facts.layout, facts.rails, facts.phase
    terminal = nearest_terminal(layout, circuit, track, at)
    if terminal is None:
        return None
    gauge, strands = usual_feeder(layout)
    feeder = new_id(layout.feeders, "F")
    here = rails.piece_at(track, at)
    clear = min(CLEAR_OF_GAP_MM, (here.end - here.start) / 2)
    at = min(max(round(at, 1), here.start + clear), here.end - clear)
    # Agree with the feeders on the same stretch of rail, whatever track they are on; else with most of the layout.
    mates = [layout.feeders[f] for f in facts.network.fed_extents.get(rails.extent_of[here], ())]
    agree = [phase[rails.piece_at(f.track, f.at)] == f.a_rail for f in mates or layout.feeders.values()]
    side = phase[here] if 2 * sum(agree) >= len(agree) else opposite(phase[here])
    value = {
        "label": feeder, "track": track, "at": at, "terminal": terminal, "gauge": gauge, "strands": strands, "a_rail": side,
    }  # fmt: skip
    return [{"op": "add", "path": f"/feeders/{feeder}", "value": value}]
