"""What wire there is to choose from, and what it costs: in the club's own money, or in grams of copper."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.materials.copper import area_mm2, gauges_light_to_heavy
from jolly_copper.core.quantities import Gauge, read_gauge

COPPER_G_PER_MM2_M = 8.93
"""Grams of copper in a metre of 1 mm²; density 8.93 g/cm³ at 20 °C, IEC 60028 from memory. Certainty A."""
USUAL_AWG = (18, 16, 14, 12, 10)
USUAL_MM2 = (0.75, 1.0, 1.5, 2.5, 4.0)
"""What is tried where no spools are entered."""


@dataclass(frozen=True)
class Market:
    """Gauges that may be used, light to heavy, with the price of a metre of one conductor. money: typed, else grams."""

    gauges: tuple[Gauge, ...]
    prices: dict[Gauge, float]
    money: bool
    per_gram: float


def market(layout: Layout) -> Market:
    """Wire to choose from: spools entered that are on hand or may be bought; the usual gauges where none are.

    Without any price grams of copper stand for money. A gauge without a price costs by its copper what the others do.
    """
    entered = {read_gauge(s.gauge): s.price for s in layout.spools.values() if s.buy or s.on_hand > 0}
    if not entered:
        metric = layout.brief.units == "metric"
        wanted = USUAL_MM2 if metric else USUAL_AWG
        entered = {g: None for g in gauges_light_to_heavy("mm2" if metric else "awg") if g.size in wanted}
    grams = {g: area_mm2(g) * COPPER_G_PER_MM2_M for g in entered}
    typed = {g: p for g, p in entered.items() if p is not None}
    per_gram = sum(typed.values()) / sum(grams[g] for g in typed) if typed else 1.0
    prices = {g: typed.get(g, grams[g] * per_gram) for g in entered}
    return Market(tuple(sorted(entered, key=area_mm2)), prices, bool(typed), per_gram)


def price_of(
    layout: Layout, design: Mapping[str, Gauge], goods: Market, cuts: Mapping[str, float], buying: bool = False
) -> float:
    """What the wire of some runs costs: both conductors of each, cut with slack. What is on hand costs nothing.

    Args:
        cuts: what each wire of every run takes, mm, by run (`cut_of_runs`).
        buying: as if all of it were bought.
    """
    needed: dict[Gauge, float] = {}
    for i, gauge in design.items():
        needed[gauge] = needed.get(gauge, 0.0) + 2 * cuts[i]
    total = 0.0
    for gauge, length in needed.items():
        owned = sum(s.on_hand for s in layout.spools.values() if read_gauge(s.gauge) == gauge)
        per_metre = goods.prices.get(gauge, area_mm2(gauge) * COPPER_G_PER_MM2_M * goods.per_gram)
        total += max(length - (0 if buying else owned), 0.0) / 1000 * per_metre
    return total
