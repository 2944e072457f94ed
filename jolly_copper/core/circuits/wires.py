"""The copper of runs and feeders as it is: what was measured or printed on it, else what its gauge says."""

from __future__ import annotations

from jolly_copper.core.layout.connections import gauge_of
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.signalling import Conductor
from jolly_copper.core.layout.wiring import Feeder, Run
from jolly_copper.core.materials.copper import ohms_per_metre, warmed
from jolly_copper.core.quantities import read_gauge


def run_ohms_per_metre(layout: Layout, run: Run) -> float:
    """Resistance of one conductor of a run at the house's wire temperature, Ω per metre."""
    celsius = layout.brief.rules.wire_celsius
    if run.ohms_per_metre is not None:
        return warmed(run.ohms_per_metre, celsius)
    return ohms_per_metre(read_gauge(run.gauge), run.strands, celsius)


def feeder_ohms_per_metre(layout: Layout, feeder: Feeder, conductor: Conductor = "A") -> float:
    """Resistance of one wire of a feeder at the house's wire temperature, Ω per metre."""
    celsius = layout.brief.rules.wire_celsius
    if feeder.ohms_per_metre is not None:
        return warmed(feeder.ohms_per_metre, celsius)
    return ohms_per_metre(read_gauge(gauge_of(feeder, conductor)), feeder.strands, celsius)


def gauge_patch(layout: Layout, kind: str, owner: str, gauge: str) -> list[dict[str, object]]:
    """Another gauge on a run or a feeder, as JSON Patch: other copper, so what was measured of the old goes with it."""
    thing = layout.runs[owner] if kind == "run" else layout.feeders[owner]
    base = f"/{'runs' if kind == 'run' else 'feeders'}/{owner}"
    patch: list[dict[str, object]] = [{"op": "replace", "path": f"{base}/gauge", "value": gauge}]
    for field in ("ohms_per_metre", "gauge_b"):
        if getattr(thing, field, None) is not None:
            patch.append({"op": "replace", "path": f"{base}/{field}", "value": None})
    return patch
