"""Small changes to a layout as JSON Patch operations: what a mend or a what-if would do."""

from __future__ import annotations

import math
from typing import Any

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.lengths import point_on_track, terminal_point
from jolly_copper.core.rails.pieces import opposite

Patch = list[dict[str, Any]]


CLEAR_OF_GAP_MM = 40.0
"""A feeder is soldered no nearer to a gap or a rail's end than this."""
SAID_ENOUGH = 60
"""Feeders elsewhere that are asked which way round this layout is wired."""


def nearest_terminal(facts: Facts, circuit: str, track: str, at: float) -> str | None:
    """The terminal of a circuit nearest to a place on the track, or None where the circuit has none."""
    here = point_on_track(facts.layout, track, at)
    near = min(facts.terminals_of.get(circuit, ()), key=lambda t: (math.dist(here, t[1]), t[0]), default=None)
    return near[0] if near else None


def _other_terminal(facts: Facts, circuit: str, held: str, mates: list[str], here: tuple[float, float]) -> str | None:
    """Where the other wire of a feeder goes that is tied to a run of one wire: where its neighbours' go, else the
    nearest terminal of the circuits above that holds it."""
    layout = facts.layout
    above = [i for c in facts.tree.lineage(circuit) for i, _ in facts.terminals_of.get(c, ())]
    holding = [t for t in above if layout.runs[layout.terminals[t].run].wires != held]
    near = [t for t in mates if t in layout.terminals] or holding
    return min(near, key=lambda t: (math.dist(here, terminal_point(layout, layout.terminals[t])), t), default=None)


def offer_feeder(facts: Facts, circuit: str | None, track: str, at: float) -> Patch | None:
    """A feeder as a mend: none where no circuit is meant, or where a frog routes the power and it would be a short."""
    if circuit is None or facts.rails.piece_at(track, at) in facts.routed:
        return None
    return add_feeder(facts, circuit, track, at)


def add_feeder(facts: Facts, circuit: str, track: str, at: float) -> Patch | None:
    """A feeder at this place from the nearest terminal of the circuit, in phase with its neighbours."""
    layout, rails, phase = facts.layout, facts.rails, facts.phase
    terminal = nearest_terminal(facts, circuit, track, at)
    if terminal is None:
        return None
    gauge, strands = facts.usual_feeder
    feeder = facts.next_feeder
    here = rails.piece_at(track, at)
    clear = min(CLEAR_OF_GAP_MM, (here.end - here.start) / 2)
    at = min(max(round(at, 1), here.start + clear), here.end - clear)
    # Agree with the feeders on the same stretch of rail, whatever track they are on; else with most of the layout.
    mates = [layout.feeders[f] for f in facts.network.fed_extents.get(rails.extent_of[here], ())]
    others = mates or list(layout.feeders.values())[:SAID_ENOUGH]
    agree = [phase[rails.piece_at(f.track, f.at)] == f.a_rail for f in others]
    side = phase[here] if 2 * sum(agree) >= len(agree) else opposite(phase[here])
    value = {
        "label": feeder,
        "track": track,
        "at": at,
        "terminal": terminal,
        "gauge": gauge,
        "strands": strands,
        "a_rail": side,
    }
    wires = layout.runs[layout.terminals[terminal].run].wires
    if wires != "both":
        other = _other_terminal(
            facts, circuit, wires, [f.other for f in mates if f.other], point_on_track(layout, track, at)
        )
        if other is None:
            return None
        value["other"] = other
    return [{"op": "add", "path": f"/feeders/{feeder}", "value": value}]
