"""A bus that ends, closed into a ring: what it takes, and what it does to volts, shorts and edges.

A bus needs no closing: a ring halves the longest way for the amps, costs the wire home, and hides an open from
everybody but a meter, since both ends go on feeding. Common practice, no source.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from scipy.sparse import csgraph

from jolly_copper.core.circuits.edits import Patch
from jolly_copper.core.circuits.facts import Facts, derive
from jolly_copper.core.circuits.lengths import run_length, terminal_point
from jolly_copper.core.circuits.waveform import Line, Spread, line_of, spread_at_end, why_no_edges
from jolly_copper.core.drawing.copper import add_run
from jolly_copper.core.drawing.sheet import Sheet, bend
from jolly_copper.core.layout.benchwork import lifting_joints
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.fields import Bend
from jolly_copper.core.layout.geometry import draw
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.proposals.laying.corridors import map_corridors, map_ground
from jolly_copper.core.proposals.laying.runs import straightened
from jolly_copper.core.proposals.whatif import lowest_in_district

NEAR_ITS_START_MM, AT_ITS_START_MM, LEAST_RING_MM = 1000.0, 100.0, 3000.0


class NoRing(ValueError):
    """A run that cannot be closed, in a plain sentence."""


@dataclass(frozen=True)
class Ring:
    """A ring and what it does. more: mm of wire pair wanted. lowest: V in the district, short: A of the weakest there,
    both before and after, NaN where nothing is live. edges: at the end as it is, and opposite the source in the ring;
    None where the run carries no square wave."""

    patch: Patch
    more: float
    lowest: tuple[float, float]
    short: tuple[float, float]
    edges: tuple[Spread, Spread] | None


def close_ring(facts: Facts, run_id: str) -> Ring:
    """Close a bus into a ring, from its far end back to where it begins, along the benchwork.

    Raises:
        NoRing: it ends at something already, is no pair, or is too short for it.
    """
    layout = facts.layout
    run = layout.runs[run_id]
    if run.ends_at_device is not None or run.ends_at_terminal is not None:
        raise NoRing(f"Bus {run.label} does not end free: it leads to something already.")
    if run.wires != "both":
        raise NoRing(f"Bus {run.label} is the one sensed wire of a section; its other wire goes another way.")
    if run_length(run) < LEAST_RING_MM:
        raise NoRing(f"Bus {run.label} is too short for a ring to be worth its joints.")
    sheet = Sheet(layout)
    end = _terminal_near(sheet, run_id, run_length(run) - 0.05)
    home = run.fed.terminal or _terminal_near(sheet, run_id, run.fed.along + AT_ITS_START_MM)
    drawn = sheet.layout()
    label = _way_home(sheet, drawn, run_id, end, home)
    patch = sheet.patch()
    after = derive(apply_patch(layout, patch), facts.scene)
    more = run_length(after.layout.runs[label])
    edges = None
    if why_no_edges(layout, run_id) is None:
        line = line_of(layout, run_id)
        edges = spread_at_end(line), spread_at_end(as_ring(line, more / 1000))
    both = (facts, after)
    lowest = tuple(lowest_in_district(f, run.circuit) for f in both)
    short = tuple(_weakest(f, run.circuit) for f in both)
    return Ring(patch, more, (lowest[0], lowest[1]), (short[0], short[1]), edges)


def as_ring(line: Line, more: float) -> Line:
    """A line and the way home as the place opposite the source sees them: two halves side by side.

    R' = R'₁/2, L' = L'₁/2, C' = 2·C'₁ over (l + more)/2; what branches off at x stands at
    min(x, l + more − x). Exact for a ring whose branches lie alike on both sides.

    Args:
        line: from the source to its end. more: m of the way home.
    """
    whole = line.length + more
    branches = tuple((min(at, whole - at), farads) for at, farads in line.branches)
    return replace(
        line,
        length=whole / 2,
        ohms=line.ohms / 2,
        henries=line.henries / 2,
        farads=line.farads * 2,
        branches=branches,
    )


def _terminal_near(sheet: Sheet, run_id: str, along: float) -> str:
    """The terminal of a run nearest to a place, within reach of it; a new one there where there is none."""
    near = [(abs(t["along"] - along), i) for i, t in sheet["terminals"].items() if t["run"] == run_id]
    best = min(near, default=None)
    if best is not None and best[0] <= NEAR_ITS_START_MM:
        return best[1]
    new = {"run": run_id, "along": round(along, 1), "kind": "screw strip", "ohms": None}
    return sheet.add("terminals", "T", new)


def _way_home(sheet: Sheet, layout: Layout, run_id: str, end: str, home: str) -> str:
    """The wire from one terminal to the other, with plugs where boards part. Answers its run."""
    ends = [terminal_point(layout, layout.terminals[t]) for t in (end, home)]
    corridors = map_corridors(map_ground(layout), ends)
    start, goal = len(corridors.places) - 2, len(corridors.places) - 1
    _, before = csgraph.dijkstra(corridors.cost, indices=start, return_predecessors=True)
    way = [goal]
    while way[-1] != start and before[way[-1]] >= 0:
        way.append(int(before[way[-1]]))
    points = [tuple(corridors.places[k]) for k in reversed(way)] if way[-1] == start else ends
    run = layout.runs[run_id]
    path = [bend(x, y) for x, y in straightened(points)]
    line = draw([Bend(**v) for v in path])
    if line.length < AT_ITS_START_MM:
        raise NoRing(f"Bus {run.label} comes back to its own beginning already.")
    label = add_run(
        sheet,
        run.circuit,
        path,
        device=None,
        terminal=end,
        ends_at_device=None,
        gauge=run.gauge,
        strands=run.strands,
        make=run.make,
    )
    sheet["runs"][label] |= {"ends_at_terminal": home, "spacing": run.spacing}
    for joint in lifting_joints(layout, line):
        if 0 < joint.at < line.length:
            sheet.add("plugs", "P", {"run": label, "along": round(joint.at, 1), "ohms": None})
    return label


def _weakest(facts: Facts, circuit: str) -> float:
    """The weakest short of a district, A."""
    home = facts.tree.district(circuit)
    rows = [k for k, c in enumerate(facts.circuit) if c is not None and facts.tree.district(c) == home]
    amps = facts.coin[rows]
    return float(np.nanmin(amps)) if np.isfinite(amps).any() else float("nan")
