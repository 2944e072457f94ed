"""If you changed one thing: the few single changes that help a point most, each truly computed."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from jolly_copper.core.circuits.edits import Patch, offer_feeder
from jolly_copper.core.circuits.facts import Facts, derive
from jolly_copper.core.circuits.lengths import point_on_run, run_length
from jolly_copper.core.circuits.staircase import explain
from jolly_copper.core.circuits.wires import gauge_patch
from jolly_copper.core.layout.control import control_of
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.geometry import inside
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.materials.copper import next_gauges_up, skin_effect
from jolly_copper.core.quantities import Gauge, print_length, read_gauge

SHOWN = 5
WORTH_SAYING = 1.1
"""Skin effect of less than a tenth is left unsaid."""


@dataclass(frozen=True)
class WhatIf:
    """A single change and what it would do, before and after.

    volts, coin: at the point, V, and A of a short as a breaker would read it. lowest: V, in the point's district.
    """

    label: str
    reason: str
    patch: Patch
    volts_before: float
    volts_after: float
    lowest_before: float
    lowest_after: float
    coin_before: float
    coin_after: float


def lowest_in_district(facts: Facts, circuit: str | None) -> float:
    """The lowest volts of a district, V; NaN when it has no live track."""
    if circuit is None:
        return float("nan")
    home = facts.tree.district(circuit)
    mine = {c for c in set(facts.circuit) if c is not None and facts.tree.district(c) == home}
    rows = [k for k, c in enumerate(facts.circuit) if c in mine]
    volts = facts.volts[rows]
    return float(np.nanmin(volts)) if np.isfinite(volts).any() else float("nan")


def what_if(facts: Facts, track: str, at: float, stop: Callable[[], bool] = lambda: False) -> list[WhatIf]:
    """The single changes that raise the volts at a point most, best first, at most five.

    Tried: the next two gauges on the run that takes most, tying it together when its wires are apart, one feeder at
    the point, the run fed at the best of three other places, and the biggest feeder one gauge heavier.

    Args:
        facts: as things are.
        track: track id.
        at: mm from its A end.
        stop: asked between candidates; when it says yes, what was tried so far is the answer.
    """
    answer = explain(facts, track, at)
    if not answer.live:
        return []
    before = lowest_in_district(facts, answer.circuit)
    tried: list[WhatIf] = []
    for label, reason, patch in _candidates(facts, track, at):
        if stop():
            break
        changed = derive(apply_patch(facts.layout, patch), facts.scene)
        after = explain(changed, track, at)
        lowest = lowest_in_district(changed, answer.circuit)
        tried.append(WhatIf(label, reason, patch, answer.volts, after.volts, before, lowest, answer.coin, after.coin))
    helpful = [w for w in tried if w.volts_after > w.volts_before + 0.005]
    fed = [w for w in helpful if "/fed/" in w.patch[0]["path"]]
    best_fed = max(fed, key=lambda w: w.lowest_after, default=None)
    kept = [w for w in helpful if w not in fed or w is best_fed]
    return sorted(kept, key=lambda w: -w.volts_after)[:SHOWN]


def _candidates(facts: Facts, track: str, at: float) -> list[tuple[str, str, Patch]]:
    layout = facts.layout
    answer = explain(facts, track, at)
    found: list[tuple[str, str, Patch]] = []
    runs = sorted((s for s in answer.steps if s.kind == "run"), key=lambda s: -s.volts)
    apart = [s for s in answer.steps if s.kind == "inductance" and s.volts > 0.05]
    mine = {o for s in runs for o in s.owners}
    for run_id in [o for s in apart for o in s.owners if o in mine and layout.runs[o].make == "apart"][:1]:
        label = layout.runs[run_id].label
        patch: Patch = [{"op": "replace", "path": f"/runs/{run_id}/make", "value": "twisted"}]
        found.append((f"Twist bus {label}", "its two wires run apart", patch))
    if runs:
        run_id = runs[0].owners[0]
        run = layout.runs[run_id]
        for gauge in next_gauges_up(read_gauge(run.gauge), units=layout.brief.units):
            patch = gauge_patch(layout, "run", run_id, str(gauge))
            found.append((f"Bus {run.label} to {gauge}", f"now {run.gauge}{_skin(facts, run.circuit, gauge)}", patch))
        if run.fed.device is not None:
            length = run_length(run)
            for share in (0.35, 0.5, 0.65):
                if abs(length * share - run.fed.along) > 0.1 * length:
                    found.append(_fed_at(layout, run_id, round(length * share, 0)))
    feeder = offer_feeder(facts, answer.circuit, track, at)
    if feeder:
        terminal = feeder[0]["value"]["terminal"]
        found.append(("Add a feeder here", f"from {terminal}, {feeder[0]['value']['gauge']}", feeder))
    feeders = [s for s in answer.steps if s.kind == "feeder"]
    if feeders and feeders[0].volts > 0.05:
        feeder_id = feeders[0].owners[0]
        for gauge in next_gauges_up(read_gauge(layout.feeders[feeder_id].gauge), 1, layout.brief.units):
            patch = gauge_patch(layout, "feeder", feeder_id, str(gauge))
            found.append(
                (f"Feeder {layout.feeders[feeder_id].label} to {gauge}", "the biggest feeder on the way", patch)
            )
    return found


def _skin(facts: Facts, circuit: str, gauge: Gauge) -> str:
    """What is not counted where a heavier gauge is praised on a square wave."""
    most = skin_effect(gauge)
    if control_of(facts.tree, circuit) != "dcc" or most < WORTH_SAYING:
        return ""
    return f"; skin effect, not counted, takes up to {100 * (most - 1):.0f} % of its copper back"


def _fed_at(layout: Layout, run_id: str, along: float) -> tuple[str, str, Patch]:
    """The same run fed elsewhere: its device moved to that board."""
    run = layout.runs[run_id]
    x, y = point_on_run(run, along)
    board = next((b.name for b in layout.boards.values() if inside(b.corners, x, y)), None)
    device = layout.devices[run.fed.device or ""]
    patch: Patch = [
        {"op": "replace", "path": f"/runs/{run_id}/fed/along", "value": along},
        {"op": "replace", "path": f"/devices/{run.fed.device}/at", "value": {"x": round(x, 1), "y": round(y, 1)}},
    ]
    where = f"board {board}" if board else print_length(along, layout.brief.units)
    return f"Feed {run.label} at {where}", f"{device.name} moved there, with a supply to it", patch
