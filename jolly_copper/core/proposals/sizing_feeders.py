"""Sizing feeders: for each the lightest gauge that carries its share of a short, is not too long for it, and fits its
connector."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from jolly_copper.core.circuits.facts import Facts, derive
from jolly_copper.core.circuits.lengths import feeder_cut, feeder_length, longest_feeder
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.materials.ampacity import may_carry_amps
from jolly_copper.core.materials.connectors import CONNECTORS, fits
from jolly_copper.core.materials.copper import area_mm2, gauges_light_to_heavy
from jolly_copper.core.proposals.sizing import Limits
from jolly_copper.core.proposals.wire_market import COPPER_G_PER_MM2_M, Market
from jolly_copper.core.quantities import Gauge, read_gauge

USUAL_FEEDER_AWG = (22, 20, 18, 16)
USUAL_FEEDER_MM2 = (0.34, 0.5, 0.75, 1.0, 1.5)
"""What is tried where no spools as thin as a feeder are entered. Common practice, no source."""
THICKEST_FEEDER_MM2 = 1.6
"""Nothing thicker is soldered to rail."""
ROUNDS = 6
HAIR = 0.002


@dataclass(frozen=True)
class FeederSize:
    """A feeder with its gauge before and after. bound_by: what one gauge lighter would break: `heat`, `length`,
    `connector`, `drop`, `coin test`; `lightest` where there is none lighter, `nothing holds` where even the thickest
    does not."""

    feeder: str
    before: str
    after: str
    bound_by: str


def feeder_gauges(layout: Layout) -> tuple[Gauge, ...]:
    """Gauges feeders may have, light to heavy: thin spools that are entered, else the usual ones."""
    entered = {read_gauge(s.gauge) for s in layout.spools.values() if s.buy or s.on_hand > 0}
    thin = {g for g in entered if area_mm2(g) <= THICKEST_FEEDER_MM2}
    if not thin:
        metric = layout.brief.units == "metric"
        wanted = USUAL_FEEDER_MM2 if metric else USUAL_FEEDER_AWG
        thin = {g for g in gauges_light_to_heavy("mm2" if metric else "awg") if g.size in wanted}
    return tuple(sorted(thin, key=area_mm2))


def size_feeders(facts: Facts, limits: Limits, stop: Callable[[], bool] = lambda: False) -> list[FeederSize]:
    """The lightest gauge for every feeder.

    Heat, length and connector bind each feeder by itself, so the lightest that holds them is the least there is; where
    that costs the track more drop or less short than the limits, and than it had, the feeders there go up until it does
    not.

    Args:
        facts: the layout, its runs as they are to be, in the scene to size for.
        limits: of drop and coin test.
        stop: asked between trials.
    """
    layout, gauges = facts.layout, feeder_gauges(facts.layout)
    chosen: dict[str, int] = {}
    why: dict[str, str] = {}
    for i, feeder in layout.feeders.items():
        amps = max(facts.carried.get(("feeder", i), (0.0, 0.0)))
        length = feeder_length(layout, feeder)
        takes = CONNECTORS[layout.terminals[feeder.terminal].kind]
        breaks = [_breaks(layout, g, amps, length, fits(takes, g)) for g in gauges]
        n = next((k for k, broken in enumerate(breaks) if broken is None), None)
        chosen[i] = len(gauges) - 1 if n is None else n
        why[i] = "nothing holds" if n is None else "lightest" if n == 0 else str(breaks[n - 1])
    for _ in range(ROUNDS):
        if stop():
            break
        worse = _worse(facts, _with(layout, gauges, chosen), limits)
        raised = {
            i: kind
            for i, f in layout.feeders.items()
            if (kind := worse.get(f.track)) and chosen[i] < len(gauges) - 1 and gauges[chosen[i]] != read_gauge(f.gauge)
        }
        if not raised:
            break
        for i, kind in raised.items():
            chosen[i] += 1
            why[i] = kind
    return [FeederSize(i, f.gauge, str(gauges[chosen[i]]), why[i]) for i, f in layout.feeders.items()]


def _breaks(layout: Layout, gauge: Gauge, amps: float, length: float, held: bool) -> str | None:
    if may_carry_amps(gauge) < amps - 1e-9:
        return "heat"
    if length > longest_feeder(layout.brief.rules, gauge) + 0.5:
        return "length"
    return None if held else "connector"


def _with(layout: Layout, gauges: tuple[Gauge, ...], chosen: dict[str, int]) -> Layout:
    feeders = {i: f.model_copy(update={"gauge": str(gauges[chosen[i]])}) for i, f in layout.feeders.items()}
    return layout.model_copy(update={"feeders": feeders})


def _worse(before: Facts, layout: Layout, limits: Limits) -> dict[str, str]:
    """Tracks that a design leaves worse than the limits and than before, with the limit."""
    after = derive(layout, before.scene)
    with np.errstate(invalid="ignore", divide="ignore"):
        lost, had = 1 - after.exact_volts / after.source_volts, 1 - before.exact_volts / before.source_volts
        ratio, was = after.coin / after.trip, before.coin / before.trip
        drop = lost > np.maximum(limits.drop, had) + HAIR
        coin = ratio < np.minimum(limits.margin, was) - HAIR
    found: dict[str, str] = {}
    for row in np.flatnonzero(drop | coin):
        track, _ = after.place_of(int(row))
        found.setdefault(track, "drop" if drop[row] else "coin test")
    return found


def feeders_price(layout: Layout, goods: Market, sizes: list[FeederSize] | None = None) -> float:
    """What all feeders cost: both wires of each, cut with slack, as they are or as sized."""
    gauge = {s.feeder: s.after for s in sizes} if sizes is not None else {}
    total = 0.0
    for i, feeder in layout.feeders.items():
        g = read_gauge(gauge.get(i, feeder.gauge))
        per_metre = goods.prices.get(g, area_mm2(g) * COPPER_G_PER_MM2_M * goods.per_gram)
        total += 2 * feeder_cut(layout, feeder_length(layout, feeder)) / 1000 * per_metre
    return total if math.isfinite(total) else 0.0


def by_gauge(sizes: list[FeederSize]) -> list[tuple[str, int, dict[str, int]]]:
    """How many feeders of each gauge, light to heavy, and how many of them each reason holds there."""
    ordered = sorted(sizes, key=lambda s: area_mm2(read_gauge(s.after)))
    found = []
    for gauge, some in itertools.groupby(ordered, key=lambda s: s.after):
        group = list(some)
        reasons: dict[str, int] = {}
        for s in group:
            reasons[s.bound_by] = reasons.get(s.bound_by, 0) + 1
        found.append((gauge, len(group), dict(sorted(reasons.items(), key=lambda r: -r[1]))))
    return found
