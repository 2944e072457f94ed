"""Turning facts into the shapes of the API: numbers to texts in the layout's own unit world, nothing decided here."""

from __future__ import annotations

import math
from dataclasses import asdict
from functools import lru_cache
from itertools import pairwise
from typing import Any

import numpy as np

from jolly_copper.core.circuits.facts import Facts, derive
from jolly_copper.core.circuits.lengths import (
    feeder_length,
    point_on_run,
    point_on_track,
    run_length,
    terminal_point,
)
from jolly_copper.core.findings.check import check
from jolly_copper.core.findings.model import STEPS, Finding
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.geometry import Polyline
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.layout.radius import smallest_radius
from jolly_copper.core.materials.ampacity import may_carry_amps
from jolly_copper.core.materials.copper import area_mm2
from jolly_copper.core.materials.rail import RAIL_GAUGE_MM
from jolly_copper.core.quantities import (
    Units,
    print_current,
    print_length,
    print_long_length,
    print_volts,
    read_gauge,
)
from jolly_copper.core.wirebook.schedule import schedule, totals
from jolly_copper.store import Revision
from jolly_copper.store.keeping import difference
from jolly_copper.telling import shapes
from jolly_copper.telling.nodes import nodes_drawn


def state(revision: Revision) -> shapes.State:
    return shapes.State(**_head(revision), document=revision.layout)


def differs(revision: Revision, held: Revision) -> shapes.State | shapes.Differs:
    """A revision for somebody who has another: what differs, or the whole where only that tells it."""
    made = difference(held.data, revision.data)
    if made is None:
        return state(revision)
    return shapes.Differs(**_head(revision), since=held.number, fields=made["fields"], maps=made["maps"])


def _head(revision: Revision) -> dict[str, Any]:
    return {
        "id": revision.layout_id,
        "revision": revision.number,
        "summary": revision.summary,
        "made": revision.made,
        "can_undo": revision.can_undo,
        "can_redo": revision.can_redo,
        "mended": revision.mended,
        "who": revision.who,
    }


def _or_none(values: np.ndarray, digits: int) -> list[float | None]:
    told = np.round(values, digits).astype(object)
    told[~np.isfinite(values)] = None
    return told.tolist()  # type: ignore[no-any-return]


KEPT_LINES = 4096
"""Paths kept as they are told: an edit changes few of them."""


@lru_cache(maxsize=KEPT_LINES)
def _drawn(line: Polyline, length: float, units: Units, least: float = 0.0) -> shapes.Drawn:
    stretch = length / line.length if line.length else 1.0
    return shapes.Drawn(
        points=[round(c, 1) for pair in zip(line.xs, line.ys, strict=True) for c in pair],
        distance=[round(d * stretch, 1) for d in line.distance],
        length=length,
        length_text=print_length(length, units),
        radius_text=print_length(line.tightest, units) if line.tightest else None,
        tight=line.tightest is not None and line.tightest < least - 0.5,
    )


def answers(facts: Facts, revision: int) -> shapes.Answers:
    """All the plan needs. Findings are asked for apart: the ink need not wait for the sentences."""
    layout = facts.layout
    units = layout.brief.units
    least = smallest_radius(layout)
    metres = sum(facts.rails.lengths.values()) / 1000
    source = float(np.nanmax(facts.source_volts)) if np.isfinite(facts.source_volts).any() else None
    return shapes.Answers(
        revision=revision,
        scene=facts.scene,
        tracks={i: _drawn(t.line, facts.rails.lengths[i], units, least) for i, t in layout.tracks.items()},
        runs={i: _drawn(r.line, run_length(r), units) for i, r in layout.runs.items()},
        terminals={i: _xy(terminal_point(layout, t)) for i, t in layout.terminals.items()},
        plugs={i: _xy(point_on_run(layout.runs[p.run], p.along)) for i, p in layout.plugs.items()},
        feeders={i: _feeder(layout, i) for i in layout.feeders},
        nodes=nodes_drawn(layout),
        gaps={i: _gap(layout, g.track, g.at, g.rails) for i, g in layout.gaps.items()},
        samples=_samples(facts),
        worst=_spot(facts, facts.worst_point(), volts=True),
        weakest=_spot(facts, facts.weakest_short(), volts=False),
        source_volts=source,
        loads=_loads(facts),
        least_radius=least,
        rail_gauge=RAIL_GAUGE_MM[layout.brief.scale],
        copper={i: area_mm2(read_gauge(r.gauge)) for i, r in layout.runs.items()},
        track_metres=metres,
        track_text=print_long_length(metres * 1000, units),
    )


def _xy(at: tuple[float, float]) -> shapes.XY:
    return shapes.XY(x=round(at[0], 1), y=round(at[1], 1))


def finding(found: Finding) -> shapes.FindingShape:
    return shapes.FindingShape(
        key=found.key,
        rule=found.rule,
        steps=list(STEPS[found.rule]),
        severity=found.severity,
        title=found.title,
        why=found.why,
        mend=found.mend,
        place=shapes.PlaceShape(**asdict(found.place)),
        figures=[shapes.Figure(name=n, value=v) for n, v in found.figures],
        shows=list(found.shows),
        rails=[shapes.RailShape(**asdict(r)) for r in found.rails],
        mends=[shapes.MendShape(label=m.label, patch=m.patch) for m in found.mends],
        source=found.source,
        accepted=found.accepted,
    )


def _feeder(layout: Layout, feeder_id: str) -> shapes.FeederDrawn:
    feeder = layout.feeders[feeder_id]
    (x1, y1), (x2, y2) = (
        point_on_track(layout, feeder.track, feeder.at),
        terminal_point(layout, layout.terminals[feeder.terminal]),
    )
    text = print_length(feeder_length(layout, feeder), layout.brief.units)
    return shapes.FeederDrawn(x1=round(x1, 1), y1=round(y1, 1), x2=round(x2, 1), y2=round(y2, 1), length_text=text)


def _gap(layout: Layout, track: str, at: float, rails: str) -> shapes.GapDrawn:
    x, y = point_on_track(layout, track, at)
    (ax, ay), (bx, by) = point_on_track(layout, track, max(at - 5, 0)), point_on_track(layout, track, at + 5)
    return shapes.GapDrawn(
        x=round(x, 1), y=round(y, 1), degrees=round(math.degrees(math.atan2(by - ay, bx - ax)), 1), rails=rails
    )


def _samples(facts: Facts) -> dict[str, shapes.Samples]:
    lost = 1 - facts.volts / facts.source_volts
    ratio = facts.coin / facts.trip
    rules = facts.layout.brief.rules
    columns = {
        "at": np.round(facts.points.at, 1).tolist(),
        "volts": _or_none(facts.volts, 4),
        "lost": _or_none(lost, 5),
        "coin": _or_none(facts.coin, 3),
        "ratio": _or_none(ratio, 4),
        "low": (lost > rules.largest_drop).tolist(),
        "weak": (ratio < rules.coin_margin).tolist(),
    }
    # Spans of a track stand one after the other, and so do the points of a span.
    ends = [0, *(np.flatnonzero(np.diff(facts.points.span)) + 1).tolist(), len(facts.points)]
    found: dict[str, dict[str, list[Any]]] = {}
    for begin, end in pairwise(ends) if len(facts.points) else ():
        track = facts.network.spans[int(facts.points.span[begin])].track
        here = found.setdefault(track, {name: [] for name in columns})
        for name, column in columns.items():
            here[name] += column[begin:end]
    # These are our own figures, and many: they are not looked at once more.
    return {track: shapes.Samples.model_construct(set(columns), **columns) for track, columns in found.items()}


def _spot(facts: Facts, row: int | None, volts: bool) -> shapes.Spot | None:
    if row is None:
        return None
    track, at = facts.place_of(row)
    x, y = point_on_track(facts.layout, track, at)
    name = facts.layout.tracks[track].name
    if volts:
        value = float(facts.volts[row])
        text = f"{print_volts(value)} at the wheel"
        note = f"lowest on the layout, {name}"
    else:
        value = float(facts.coin[row] / facts.trip[row])
        text = f"{print_current(float(facts.coin[row]))} into a short"
        note = f"weakest, {value:.2f} × the trip, {name}"
    return shapes.Spot(track=track, at=at, x=round(x, 1), y=round(y, 1), value=value, text=text, note=note)


def _loads(facts: Facts) -> dict[str, shapes.WireLoad]:
    """Loads by `run:id` and `feeder:id`, since a run and a feeder may bear one id."""
    layout, found = facts.layout, {}
    for (kind, owner), (scene, held) in facts.carried.items():
        gauge = read_gauge((layout.runs[owner] if kind == "run" else layout.feeders[owner]).gauge)
        found[f"{kind}:{owner}"] = shapes.WireLoad(
            scene_text=print_current(scene),
            held_text=print_current(held),
            held=held,
            share=round(max(scene, held) / may_carry_amps(gauge), 3),
        )
    return found


def _thing(layout: Layout, kind: str, i: str) -> str:
    """What on the plan a wire of the table belongs to."""
    if kind != "control":
        return kind
    return next(
        t
        for t, where in (
            ("signal", layout.signals),
            ("node", layout.nodes),
            ("detector", layout.detectors),
            ("driver", layout.drivers),
        )
        if i in where
    )


def wire_table(facts: Facts) -> shapes.WireTable:
    layout, units = facts.layout, facts.layout.brief.units
    loads = _loads(facts)
    wires = schedule(layout)
    rows = [
        shapes.WireShape(
            kind=w.kind,
            id=w.id,
            thing=_thing(layout, w.kind, w.id),
            label=w.label,
            circuit=w.circuit,
            circuit_name=w.circuit_name,
            colours=list(w.colours),
            gauge=w.gauge,
            strands=w.strands,
            start=w.start,
            end=w.end,
            measured_text=print_length(w.measured, units),
            by_tape=w.by_tape,
            cut_text=print_length(w.cut, units),
            connectors=w.connectors,
            held_text=load.held_text if load else "—" if w.kind == "control" else "no source",
            held=load.held if load else 0.0,
            measured=w.measured,
            cut=w.cut,
            mm2=area_mm2(read_gauge(w.gauge)),
        )
        for w in wires
        for load in [loads.get(f"{w.kind}:{w.id}")]
    ]
    sums = [
        shapes.TotalShape(
            gauge=t.gauge,
            strands=t.strands,
            colour=t.colour,
            length_text=print_long_length(t.length, units),
            spools=t.spools,
            spool_text=print_long_length(t.spool, units),
        )
        for t in totals(layout)
    ]
    return shapes.WireTable(rows=rows, totals=sums)


def preview(facts: Facts, patch: list[dict[str, object]]) -> shapes.PreviewShape:
    """Before and after of a change that is not made."""
    changed = derive(apply_patch(facts.layout, patch), facts.scene)
    before, after = check(facts), check(changed)
    old, new = {f.key for f in before}, {f.key for f in after}

    def lowest(of: Facts) -> str:
        spot = _spot(of, of.worst_point(), volts=True)
        return f"{print_volts(max(spot.value, 0.0))} on {of.layout.tracks[spot.track].name}" if spot else "nothing live"

    def coin(of: Facts) -> str:
        spot = _spot(of, of.weakest_short(), volts=False)
        return f"{spot.value:.2f} × the trip on {of.layout.tracks[spot.track].name}" if spot else "no protection"

    return shapes.PreviewShape(
        lowest_before=lowest(facts),
        lowest_after=lowest(changed),
        coin_before=coin(facts),
        coin_after=coin(changed),
        gone=[f.title for f in before if f.key not in new],
        new=[f.title for f in after if f.key not in old],
    )
