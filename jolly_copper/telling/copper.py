"""What is told of copper: a railroad laid by the chosen school, and its runs sized."""

from __future__ import annotations

import math
from typing import get_args

from pydantic import BaseModel

from jolly_copper.core.circuits.edits import Patch
from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.lengths import feeder_length, lengths_from_source, run_length
from jolly_copper.core.layout.connections import misfits
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.materials.charts import chart_bus, chart_feeder
from jolly_copper.core.materials.copper import Make
from jolly_copper.core.materials.joints import TerminalKind
from jolly_copper.core.proposals.laying.corridors import WAYS
from jolly_copper.core.proposals.laying.feeding import SPACINGS
from jolly_copper.core.proposals.ring import Ring
from jolly_copper.core.proposals.sizing import DROPS, Limits, Neighbour, Sized
from jolly_copper.core.proposals.sizing_feeders import FeederSize, by_gauge, feeders_price
from jolly_copper.core.proposals.wire_market import Market
from jolly_copper.core.quantities import print_current, print_long_length, print_volts, read_gauge
from jolly_copper.telling.shapes import MendShape


class SpacingShape(BaseModel):
    name: str
    why: str


class DropShape(BaseModel):
    share: float
    words: str


class SchoolsShape(BaseModel):
    """The schools of wiring there are to choose from, with their reasons."""

    spacings: list[SpacingShape]
    terminals: list[str]
    makes: list[str]
    ways: list[SpacingShape]
    drops: list[DropShape]


class Laid(BaseModel):
    """A railroad laid: what it takes, and the change that lays it."""

    words: list[str]
    change: MendShape


def laid(before: Layout, after: Layout, patch: Patch) -> Laid:
    units = before.brief.units
    length = sum(run_length(r) for i, r in after.runs.items() if i not in before.runs)
    words = [
        f"{print_long_length(length, units)} of bus in {sum(i not in before.runs for i in after.runs)} runs",
        f"{len(after.feeders) - len(before.feeders)} feeders more, {len(after.feeders)} in all",
        f"{sum(i not in before.terminals for i in after.terminals)} terminals, "
        f"{sum(i not in before.plugs for i in after.plugs)} plugs",
    ]
    gone = sum(i not in after.runs for i in before.runs)
    if gone:
        words.append(f"{gone} runs taken away")
    return Laid(words=words, change=MendShape(label="Lay the railroad", patch=patch))


class RunSizeShape(BaseModel):
    """A run with its gauge, and what keeps it from being lighter."""

    run: str
    label: str
    circuit: str
    length_text: str
    before: str
    after: str
    why: str
    chart: str
    """What the charts that go from club to club have for it, by scale and length alone."""


class SourceSizeShape(BaseModel):
    """One source's copper sized."""

    source: str
    name: str
    runs: list[RunSizeShape]
    before_text: str
    price_text: str
    bound_text: str
    drop_text: str
    lowest_text: str
    coin_text: str
    beyond: str | None
    cheaper: str | None
    """The next cheaper design, and what it would break."""
    better: str | None
    """The next better design, and what it would cost."""


class FeederGaugeShape(BaseModel):
    """Feeders of one gauge, and what keeps them from being lighter."""

    gauge: str
    count: int
    reasons: str
    chart: str
    """What a usual chart has for them, by length alone."""


class SizedShape(BaseModel):
    """All runs sized, and the change that makes it; none where every gauge is right already."""

    sources: list[SourceSizeShape]
    before_text: str
    price_text: str
    words: str
    feeders: list[FeederGaugeShape]
    feeders_text: str | None
    """What all feeders cost before and after; None where they were not sized."""
    change: MendShape | None


def sized_shape(
    facts: Facts, sized: list[Sized], goods: Market, limits: Limits, feeders: list[FeederSize]
) -> SizedShape:
    changed = [x for s in sized for x in s.runs if x.before != x.after]
    patch: Patch = [{"op": "replace", "path": f"/runs/{x.run}/gauge", "value": x.after} for x in changed]
    many = f"{len(changed)} run{'s' if len(changed) != 1 else ''}"
    other = [f for f in feeders if f.before != f.after]
    patch += [{"op": "replace", "path": f"/feeders/{f.feeder}/gauge", "value": f.after} for f in other]
    if other:
        many += f" and {len(other)} feeder{'s' if len(other) != 1 else ''}"
    layout = facts.layout
    return SizedShape(
        sources=[_source(facts, s, goods) for s in sized],
        before_text=_price(sum(s.before for s in sized), goods),
        price_text=_price(sum(s.price for s in sized), goods),
        words=f"Held: {limits.drop * 100:g} % drop by resistance alone, {limits.margin:g} times the trip in a short, "
        f"and what each wire may carry.",
        feeders=[
            FeederGaugeShape(
                gauge=g,
                count=n,
                reasons=", ".join(f"{k} by {REASONS[r]}" for r, k in why.items()),
                chart=_charts_of(layout, [f for f in feeders if f.after == g]),
            )
            for g, n, why in by_gauge(feeders)
        ],
        feeders_text=f"{_price(feeders_price(layout, goods), goods)} now, "
        f"{_price(feeders_price(layout, goods, feeders), goods)} sized"
        if feeders
        else None,
        change=MendShape(label=f"Size {many}", patch=patch) if patch else None,
    )


def _charts_of(layout: Layout, feeders: list[FeederSize]) -> str:
    """What a usual chart has for these feeders, the shorter ones first."""
    metric = layout.brief.units == "metric"
    lengths = sorted(feeder_length(layout, layout.feeders[f.feeder]) for f in feeders)
    return " or ".join(dict.fromkeys(chart_feeder(mm, metric) for mm in lengths))


REASONS = {
    "lightest": "nothing, they are the lightest",
    "heat": "their share of a short",
    "length": "the house rule for their length",
    "connector": "their connector",
    "drop": "the drop",
    "coin test": "the coin test",
    "nothing holds": "more than any gauge here holds",
}


def _neighbour(layout: Layout, found: Neighbour | None, goods: Market, track: bool) -> str | None:
    if found is None:
        return None
    runs = ", ".join(layout.runs[i].label for i in found.runs)
    coin = "" if found.coin == float("inf") else f", weakest short {found.coin:.2f} × the trip"
    down = f", {found.drop * 100:.1f} % down{coin}" if track else ""
    told = f"{runs} in {found.gauge}: {_price(abs(found.more), goods)} {'more' if found.more >= 0 else 'less'}{down}"
    if found.breaks is None:
        return told
    what, at = found.breaks
    return f"{told}; breaks the limit of {what}{f' on {layout.tracks[at].name}' if at else ''}"


def _price(value: float, goods: Market) -> str:
    if goods.money:
        return f"{value:.2f} in money"
    return f"{value / 1000:.2f} kg of copper"


def _source(facts: Facts, s: Sized, goods: Market) -> SourceSizeShape:
    layout, units = facts.layout, facts.layout.brief.units
    device, far = layout.devices[s.source], lengths_from_source(layout)
    rows = []
    for x in s.runs:
        run = layout.runs[x.run]
        where = f" on {layout.tracks[x.at].name}" if x.at else ""
        why = {
            "lightest": "the lightest there is to choose",
            "price": "cheaper than a lighter one: it is on hand",
            "heat": "by what it may carry",
            "volts": "by the volts its loads want",
        }.get(x.bound_by, f"by the {x.bound_by}{where}")
        small = misfits(layout, x.run, read_gauge(x.after))
        if small:
            why += f"; its {' and '.join(small)} do not take {x.after}: larger ones, or solder"
        rows.append(
            RunSizeShape(
                run=x.run,
                label=run.label,
                circuit=layout.circuits[run.circuit].name,
                length_text=print_long_length(run_length(run), units),
                before=x.before,
                after=x.after,
                why=why,
                chart=chart_bus(layout.brief.scale, far[x.run], units == "metric"),
            )
        )
    beyond = None
    if s.beyond is not None:
        what, track = s.beyond
        where = f" on {layout.tracks[track].name}" if track else ""
        beyond = (
            f"No gauge here holds the {what}{where}: rail, contacts, breaker and source take too much. Sized to "
            f"within a tenth of the best; see Where the volts go."
        )
    bound = "none is cheaper" if s.exact else f"none under {_price(s.least, goods)} holds"
    return SourceSizeShape(
        source=s.source,
        name=device.name,
        runs=rows,
        before_text=_price(s.before, goods),
        price_text=_price(s.price, goods),
        bound_text=f"{bound}; {s.designs} designs tried",
        drop_text=f"{s.score.drop * 100:.1f} %",
        lowest_text=print_volts(s.score.lowest),
        coin_text="no protection" if s.score.coin == float("inf") else f"{s.score.coin:.2f} × the trip",
        beyond=beyond,
        cheaper=_neighbour(layout, s.cheaper, goods, bool(s.score.tracks)),
        better=_neighbour(layout, s.better, goods, bool(s.score.tracks)),
    )


class BestPlaceShape(BaseModel):
    """Where a source stands best, and the change that moves it; none where it stands well already."""

    words: str
    change: MendShape | None


def schools_shape() -> SchoolsShape:
    """How feeders may be spaced, what terminals and makes of run there are, and the drops clubs size for."""
    return SchoolsShape(
        spacings=[SpacingShape(name=n, why=w) for n, w in SPACINGS.items()],
        terminals=list(get_args(TerminalKind)),
        makes=list(get_args(Make)),
        ways=[SpacingShape(name=n, why=w) for n, w in WAYS.items()],
        drops=[DropShape(share=s, words=w) for s, w in DROPS],
    )


class RingRow(BaseModel):
    """A figure of the bus as it ends, and of the ring."""

    what: str
    ended: str
    ring: str


class RingShape(BaseModel):
    """A bus closed into a ring: what it takes, what it does, and the change that makes it."""

    label: str
    more_text: str
    rows: list[RingRow]
    words: str
    change: MendShape


BETTER_BY = 0.1
"""Volts that a ring must win for it to be said to help."""


def ring_shape(layout: Layout, run_id: str, ring: Ring) -> RingShape:
    """A ring told: figures beside each other, and a sentence of what they come to."""
    run, units = layout.runs[run_id], layout.brief.units
    rows = []
    if all(math.isfinite(v) for v in ring.lowest):
        rows.append(_beside("Lowest at the wheel in its district", *(print_volts(max(v, 0.0)) for v in ring.lowest)))
    if all(math.isfinite(v) for v in ring.short):
        rows.append(_beside("Weakest short there", *(print_current(v) for v in ring.short)))
    if ring.edges is not None:
        ended, closed = ring.edges
        rows.append(_beside("Beyond the square wave, at worst", *(f"{e.worst.over:.1f} V" for e in (ended, closed))))
        rows.append(_beside("Crossings of zero after an edge", *(str(e.worst.crossings) for e in (ended, closed))))
    gain = ring.lowest[1] - ring.lowest[0]
    if not math.isfinite(gain):
        words = "Nothing runs behind it in this scene, so no volts can be compared."
    elif gain > BETTER_BY:
        words = f"The ring wins {print_volts(gain)} where it is lowest."
    else:
        words = "The ring wins next to nothing in volts here: what drops is elsewhere."
    calmer = ring.edges is not None and ring.edges[1].worst.crossings < ring.edges[0].worst.crossings
    if ring.edges is not None:
        words += (
            " Edges come in calmer."
            if calmer
            else " Edges come in no calmer: wires laid together, or a filter, do that."
        )
    words += (
        f" It takes {print_long_length(ring.more, units)} of pair, and an open in it is seen by nobody: both sides go "
        "on feeding, so meter it with one end lifted."
    )
    return RingShape(
        label=run.label,
        more_text=print_long_length(ring.more, units),
        rows=rows,
        words=words,
        change=MendShape(label=f"Close bus {run.label} to a ring", patch=ring.patch),
    )


def _beside(what: str, ended: str, ring: str) -> RingRow:
    return RingRow(what=what, ended=ended, ring=ring)
