"""How long wires are: by tape measure when someone measured, else as drawn and hung under the board."""

from __future__ import annotations

import heapq
import itertools
import math
from collections import defaultdict

from jolly_copper.core.layout.connections import tied_at
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.rules import HouseRules
from jolly_copper.core.layout.signalling import Conductor
from jolly_copper.core.layout.wiring import Feeder, Run, Terminal
from jolly_copper.core.materials.copper import area_mm2
from jolly_copper.core.materials.joints import BUS_IS_CUT_AT
from jolly_copper.core.quantities import Gauge


def run_length(run: Run) -> float:
    """Length of a run, mm, measured or drawn."""
    return run.tape if run.tape else run.line.length


def along_drawing(drawn: float, measured: float, along: float) -> float:
    """Where a distance along a tape-measured thing falls on its drawing, mm."""
    return along * drawn / measured if measured > 0 else along


def along_run(run: Run, drawn: float) -> float:
    """Where a distance along a run's drawing falls along the run itself, mm; they differ where it was taped."""
    length = run.line.length
    return drawn * run_length(run) / length if length else drawn


def point_on_run(run: Run, along: float) -> tuple[float, float]:
    """The place on the plan at this distance along a run."""
    line = run.line
    return line.point(along_drawing(line.length, run_length(run), along))


def terminal_point(layout: Layout, terminal: Terminal) -> tuple[float, float]:
    """The place of a terminal on the plan."""
    return point_on_run(layout.runs[terminal.run], terminal.along)


def nearest_terminal_to(layout: Layout, circuit: str, here: tuple[float, float]) -> str | None:
    """The terminal of a circuit nearest to a place of the plan; None where the circuit has none."""
    near = (
        (math.dist(here, terminal_point(layout, t)), i)
        for i, t in layout.terminals.items()
        if layout.runs[t.run].circuit == circuit
    )
    return min(near, default=(0.0, None))[1]


def point_on_track(layout: Layout, track_id: str, at: float) -> tuple[float, float]:
    """The place on the plan at this distance from a track's A end."""
    track = layout.tracks[track_id]
    line = track.line
    return line.point(along_drawing(line.length, track.tape or line.length, at))


def feeder_length(layout: Layout, feeder: Feeder, conductor: Conductor | None = None) -> float:
    """Length of a feeder, mm, rail to terminal, the longer of its wires; or of one of them, where they differ.

    The tape measure's figure when there is one; else the distance on the plan plus the way down through roadbed and
    board (house rule `drop_below_rail`), which one to a bus on top of the board has not.
    """
    if feeder.tape_b and conductor is None:
        return max(feeder_length(layout, feeder, "A"), feeder.tape_b)
    if feeder.tape_b and conductor == "B":
        return feeder.tape_b
    if feeder.tape:
        return feeder.tape
    rail = point_on_track(layout, feeder.track, feeder.at)
    name = feeder.terminal if conductor is None else tied_at(layout, feeder, conductor)
    terminal = layout.terminals[name]
    down = layout.brief.rules.drop_below_rail if layout.runs[terminal.run].lies == "below" else 0.0
    return math.dist(rail, terminal_point(layout, terminal)) + down


FINE_MM2 = 0.52
"""20 AWG and thinner counts as a fine feeder, mm²."""


def is_fine(gauge: Gauge) -> bool:
    """Whether wire counts as fine: it must be kept short."""
    return area_mm2(gauge) <= FINE_MM2


def longest_feeder(rules: HouseRules, gauge: Gauge) -> float:
    """How long a feeder of a gauge may be by the house rule, rail to terminal, mm."""
    return rules.longest_fine_feeder if is_fine(gauge) else rules.longest_heavy_feeder


def cut_length(layout: Layout, measured: float, each_end: float | None = None) -> float:
    """What to cut, mm: measured length, slack along it, and slack at both ends, rounded up to 5 mm.

    cut = measured · (1 + slack share) + 2 · slack at each end (the house's, or as given).
    """
    rules = layout.brief.rules
    each = rules.slack_each_end if each_end is None else each_end
    return math.ceil((measured * (1 + rules.slack_share) + 2 * each) / 5 - 1e-9) * 5


def feeder_needs(layout: Layout, measured: float) -> float:
    """What a feeder's wire must be cut to at least, mm: with the slack the house wants at feeders."""
    return cut_length(layout, measured, layout.brief.rules.slack_at_feeders)


def feeder_cut(layout: Layout, measured: float) -> float:
    """What to cut a feeder's wire to, mm: what it needs, and no less than the length leads are prepared in."""
    return max(feeder_needs(layout, measured), layout.brief.rules.prepared_lead)


SAME_PLACE_MM = 1.0


def cuts_of(layout: Layout) -> dict[str, list[float]]:
    """Where each run is cut right through, mm along it, its two ends included.

    At its ends, where it is fed, at terminals that cut the bus (strips and levers), and at plugs. Taps and solder leave
    the wire whole.
    """
    found: dict[str, list[float]] = {i: [0.0, run_length(r), r.fed.along] for i, r in layout.runs.items()}
    for terminal in layout.terminals.values():
        if terminal.kind in BUS_IS_CUT_AT:
            found[terminal.run].append(terminal.along)
    for plug in layout.plugs.values():
        found[plug.run].append(plug.along)
    return {i: _apart(places, run_length(layout.runs[i])) for i, places in found.items()}


def _apart(places: list[float], length: float) -> list[float]:
    """Places in order, those nearer to each other or to an end than a hair made one."""
    inner = sorted(p for p in places if SAME_PLACE_MM < p < length - SAME_PLACE_MM)
    kept = [0.0]
    for place in inner:
        if place - kept[-1] > SAME_PLACE_MM:
            kept.append(place)
    return [*kept, length]


def cut_of_runs(layout: Layout) -> dict[str, float]:
    """What each wire of every run takes, mm: all its pieces, each cut with slack at both ends."""
    return {
        i: sum(cut_length(layout, b - a) for a, b in itertools.pairwise(places))
        for i, places in cuts_of(layout).items()
    }


def lengths_from_source(layout: Layout) -> dict[str, float]:
    """For each run, mm of bus from the source behind it to the run's far end, by the shortest way that leads there.

    A run that leaves a device goes on from the runs that end at it; one that nothing leads to begins at its own start.
    """
    behind_device: dict[str, list[str]] = defaultdict(list)
    at_terminal: dict[str, list[tuple[str, float]]] = defaultdict(list)
    leads_to = {r.ends_at_device for r in layout.runs.values()} - {None}
    ahead: list[tuple[float, str]] = []
    for i, run in layout.runs.items():
        terminal = layout.terminals.get(run.fed.terminal or "")
        if terminal is not None:
            at_terminal[terminal.run].append((i, terminal.along))
        elif run.fed.device in leads_to:
            behind_device[run.fed.device or ""].append(i)
        else:
            ahead.append((0.0, i))
    starts: dict[str, float] = {}
    heapq.heapify(ahead)
    while ahead:
        start, i = heapq.heappop(ahead)
        if i in starts:
            continue
        starts[i], run = start, layout.runs[i]
        for other, along in at_terminal[i]:
            heapq.heappush(ahead, (start + abs(along - run.fed.along), other))
        for other in behind_device[run.ends_at_device or ""]:
            heapq.heappush(ahead, (start + abs(run_length(run) - run.fed.along), other))
    far = {i: max(run_length(r) - r.fed.along, r.fed.along) for i, r in layout.runs.items()}
    return {i: starts.get(i, 0.0) + far[i] for i in layout.runs}
