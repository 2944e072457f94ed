"""Sizing wire: the cheapest gauges for all runs that hold drop, coin test and heat at once, on the whole network.

More copper anywhere never lowers a short current or raises a resistance between two places (Rayleigh's monotonicity),
so what is too thin with everything else at its heaviest is too thin in every design: that bounds each run from below,
and the bounds' price bounds the whole. Between bound and heaviest the designs are tried in order of price, leaving out
those no heavier than one that failed: the first that holds is the cheapest there is. Sources share no copper, so one
solution of the network tries a design of each at once.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Generator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from jolly_copper.core.circuits.facts import Facts, derive
from jolly_copper.core.circuits.giving import source_volts
from jolly_copper.core.circuits.lengths import cut_of_runs, run_length
from jolly_copper.core.circuits.points import Floats
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.materials.ampacity import may_carry_amps
from jolly_copper.core.proposals.wire_market import Market, market, price_of
from jolly_copper.core.quantities import Gauge, read_gauge

DROPS = ((0.03, "3 %, the strict school"), (0.05, "5 %"), (0.10, "10 %, the easy school"))
"""Drops to size for, besides the house rule's. Common practice, no source."""
MOST_DESIGNS = 40
"""Designs tried for one source before the best so far is taken, with its bound."""
MOST_LISTED = 60_000
SHORT_BRANCH_MM = 2000.0
SHORT_BRANCH_SHARE = 0.2
MOST_NEIGHBOURS = 3
"""Heavier neighbours looked at for the next better design: the longest runs first."""
LEAST_GAIN = 0.0005
NEAR = 1.1
"""Where no copper holds a limit, a design within a tenth of the best there is will do."""


@dataclass(frozen=True)
class Limits:
    """What a design must hold. drop: share of source volts, by resistance alone. margin: short over trip."""

    drop: float
    margin: float


@dataclass(frozen=True)
class Score:
    """How one source's copper does, point by point.

    volts: of the source with no load, V. tracks: of each sample point. lost: share of source volts a train may miss
    there. ratio: short over trip there. heat: amps in each run over what it may carry. short_of: V missing at the
    worst-off accessory.
    """

    volts: float
    tracks: tuple[str, ...]
    lost: Floats
    ratio: Floats
    heat: dict[str, float]
    short_of: float

    @property
    def drop(self) -> float:
        """The largest drop, as a share; 0 where there is no track."""
        return float(np.nanmax(self.lost, initial=0.0))

    @property
    def lowest(self) -> float:
        """The lowest volts at a wheel, by resistance alone."""
        return self.volts * (1 - self.drop)

    @property
    def coin(self) -> float:
        """The least short over trip; infinite where nothing protects, or there is no track."""
        return float(np.nanmin(self.ratio, initial=math.inf))

    def fails(self, bars: Bars) -> tuple[str, str | None] | None:
        """The first limit broken (drop, coin test, volts or heat) and on which track; None when all hold."""
        over = _most(self.lost - bars.lost)
        if over is not None and self.lost[over] > bars.lost[over] + 1e-9:
            return "drop", self.tracks[over]
        under = _most(bars.ratio - self.ratio)
        if under is not None and self.ratio[under] < bars.ratio[under] - 1e-9:
            return "coin test", self.tracks[under]
        if self.short_of > bars.short_of + 1e-9:
            return "volts", None
        return ("heat", None) if any(h > 1 + 1e-9 for h in self.heat.values()) else None


@dataclass(frozen=True)
class Bars:
    """The limits at each point: as asked where copper can hold them, else a tenth worse than the best it can do
    there."""

    lost: Floats
    ratio: Floats
    short_of: float


@dataclass(frozen=True)
class RunSize:
    """A run with its gauge before and after. bound_by: the limit that one gauge lighter would break ("lightest" where
    there is none lighter), at a track where that is a place."""

    run: str
    before: str
    after: str
    bound_by: str
    at: str | None


@dataclass(frozen=True)
class Neighbour:
    """A design beside the one given: these runs one gauge lighter or heavier. more: of the price. drop, coin: what it
    has then. breaks: the limit it breaks, and the track; None where it holds all."""

    runs: tuple[str, ...]
    gauge: str
    more: float
    drop: float
    coin: float
    breaks: tuple[str, str | None] | None


@dataclass(frozen=True)
class Sized:
    """One source's copper sized.

    price: of all its runs, in money or grams. least: no design that holds is cheaper than this. exact: none at all is
    cheaper than the one given. before: price of the runs as they are. beyond: the limit, and the track, that no copper
    holds; None where all hold. designs: tried. cheaper: the neighbour that would save most, with what it breaks.
    better: the one that takes off most drop for its price.
    """

    source: str
    runs: tuple[RunSize, ...]
    price: float
    least: float
    exact: bool
    beyond: tuple[str, str | None] | None
    score: Score
    before: float
    designs: int
    cheaper: Neighbour | None = None
    better: Neighbour | None = None


Design = dict[str, Gauge]
Told = Callable[[int, int], None]


def size_runs(
    facts: Facts,
    limits: Limits | None = None,
    told: Told = lambda _done, _total: None,
    stop: Callable[[], bool] = lambda: False,
) -> list[Sized]:
    """The cheapest gauges for the runs of every source.

    Args:
        facts: the layout in the scene to size for.
        limits: what to hold; the house rules when not given.
        told: progress, sources done and in all.
        stop: asked between trials; when true, what is not finished is left out.
    """
    layout, rules = facts.layout, facts.layout.brief.rules
    limits = limits or Limits(rules.largest_drop, rules.coin_margin)
    goods = market(layout)
    mine: dict[str, list[str]] = {}
    for i, run in layout.runs.items():
        up = facts.tree.upstream(run.circuit)
        if up:
            mine.setdefault(up[-1], []).append(i)
    searches = {s: _search(layout, s, runs, goods, limits) for s, runs in mine.items()}
    asked: dict[str, Design] = {s: next(search) for s, search in searches.items()}
    found: dict[str, Sized] = {}
    while asked and not stop():
        scores = _try(layout, facts.scene, asked, mine)
        for source, score in scores.items():
            try:
                asked[source] = searches[source].send(score)
            except StopIteration as over:
                found[source] = over.value
                del asked[source]
                told(len(found), len(mine))
    return [found[s] for s in mine if s in found]


def designed(layout: Layout, design: Mapping[str, Gauge]) -> Layout:
    """A layout with these gauges on its runs."""
    runs = {i: r.model_copy(update={"gauge": str(design[i])}) if i in design else r for i, r in layout.runs.items()}
    return layout.model_copy(update={"runs": runs})


def _try(layout: Layout, scene: str | None, asked: dict[str, Design], mine: dict[str, list[str]]) -> dict[str, Score]:
    whole = {i: g for design in asked.values() for i, g in design.items()}
    facts = derive(designed(layout, whole), scene)
    return {s: score_of(facts, s, mine[s]) for s in asked}


def score_of(facts: Facts, source: str, runs: Sequence[str]) -> Score:
    """How a source's copper does as it is."""
    layout = facts.layout
    heat = {}
    for i in runs:
        scene, held = facts.carried.get(("run", i), (0.0, 0.0))
        heat[i] = max(scene, held) / may_carry_amps(read_gauge(layout.runs[i].gauge))
    rows = np.array(
        [r for p in facts.parts if any(s.device == source for s in p.island.sources) for r in p.rows], dtype=int
    )
    lost = 1 - facts.exact_volts[rows] / facts.source_volts[rows] if len(rows) else np.zeros(0)
    ratio = facts.coin[rows] / facts.trip[rows] if len(rows) else np.zeros(0)
    short_of = max(
        (
            (layout.loads[i].least_volts or 0) - (v.work if math.isfinite(v.work) else 0)
            for i, v in facts.accessory.loads.items()
            if source in facts.tree.upstream(layout.loads[i].circuit)
        ),
        default=0.0,
    )
    tracks = tuple(facts.place_of(int(r))[0] for r in rows)
    return Score(source_volts(layout, source), tracks, np.asarray(lost), np.asarray(ratio), heat, max(short_of, 0.0))


def _most(values: np.ndarray) -> int | None:
    return int(np.nanargmax(values)) if np.isfinite(values).any() else None


def together(layout: Layout, runs: Sequence[str]) -> list[list[str]]:
    """Runs that share a gauge: a short branch is cut from the same spool as the bus it leaves, and all wires home to
    one detector board are of one gauge."""
    length = {i: run_length(layout.runs[i]) for i in runs}
    whole: dict[str, float] = {}
    for i in runs:
        whole[layout.runs[i].circuit] = whole.get(layout.runs[i].circuit, 0.0) + length[i]
    group = {i: i for i in runs}
    for i in runs:
        terminal = layout.runs[i].fed.terminal
        parent = layout.terminals[terminal].run if terminal is not None else None
        short = length[i] < max(SHORT_BRANCH_MM, SHORT_BRANCH_SHARE * whole[layout.runs[i].circuit])
        if parent is not None and parent in group and short and layout.runs[i].circuit == layout.runs[parent].circuit:
            group[i] = parent

    board_of = {d.output: (d.board, d.input) for d in layout.devices.values() if d.board is not None}
    first: dict[tuple[str | None, str | None], str] = {}
    for i in runs:
        home = board_of.get(layout.runs[i].circuit)
        if home is not None:
            group[i] = first.setdefault(home, i)

    def head(i: str) -> str:
        return i if group[i] == i else head(group[i])

    found: dict[str, list[str]] = {}
    for i in runs:
        found.setdefault(head(i), []).append(i)
    return list(found.values())


def _search(
    layout: Layout, source: str, runs: list[str], goods: Market, wanted: Limits
) -> Generator[Design, Score, Sized]:
    """Asks for scores of designs; its value in the end is the best."""
    gauges, top = goods.gauges, len(goods.gauges) - 1
    groups, cuts = together(layout, runs), cut_of_runs(layout)
    tried: dict[tuple[int, ...], Score] = {}

    def design(vector: tuple[int, ...]) -> Design:
        return {i: gauges[k] for members, k in zip(groups, vector, strict=True) for i in members}

    def ask(vector: tuple[int, ...]) -> Generator[Design, Score, Score]:
        if vector not in tried:
            tried[vector] = yield design(vector)
        return tried[vector]

    best_there_is = yield from ask((top,) * len(groups))
    limits = Bars(
        np.maximum(wanted.drop, best_there_is.lost * NEAR),
        np.minimum(wanted.margin, best_there_is.ratio / NEAR),
        max(0.0, best_there_is.short_of * NEAR),
    )
    asked = Bars(np.full_like(limits.lost, wanted.drop), np.full_like(limits.ratio, wanted.margin), 0.0)
    least = []
    for n in range(len(groups)):
        low, high = 0, top
        while low < high:
            middle = (low + high) // 2
            score = yield from ask(tuple(middle if m == n else top for m in range(len(groups))))
            low, high = (low, middle) if score.fails(limits) is None else (middle + 1, high)
        least.append(low)

    def price(vector: tuple[int, ...]) -> float:
        return price_of(layout, design(vector), goods, cuts)

    count = math.prod(top + 1 - k for k in least)
    listed = itertools.product(*(range(k, top + 1) for k in least)) if count <= MOST_LISTED else iter([tuple(least)])
    chosen, exact = (top,) * len(groups), False
    failed: list[tuple[int, ...]] = []
    before = len(tried)
    order = sorted(listed, key=lambda v: (price(v), v))
    bound = price(order[0])
    for vector in order:
        if any(all(a <= b for a, b in zip(vector, f, strict=True)) for f in failed):
            continue
        bound = price(vector)
        if len(tried) - before >= MOST_DESIGNS:
            break
        score = yield from ask(vector)
        if score.fails(limits) is None:
            chosen, exact = vector, True
            break
        failed.append(vector)
    if not exact:
        chosen = yield from _lowered(least, top, limits, price, ask)
        exact = price(chosen) <= bound + 1e-9
    sizes = []
    cheaper: Neighbour | None = None
    for n, members in enumerate(groups):
        why, at = "lightest", None
        if chosen[n] > 0:
            lighter = yield from ask(tuple(k - 1 if m == n else k for m, k in enumerate(chosen)))
            why, at = lighter.fails(limits) or ("price", None)
            saves = price(chosen) - price(tuple(k - 1 if m == n else k for m, k in enumerate(chosen)))
            cheaper = _keener(
                cheaper,
                Neighbour(
                    tuple(members),
                    str(gauges[chosen[n] - 1]),
                    -saves,
                    lighter.drop,
                    lighter.coin,
                    lighter.fails(limits),
                ),
            )
        sizes += [RunSize(i, layout.runs[i].gauge, str(gauges[chosen[n]]), why, at) for i in members]
    final = yield from ask(chosen)
    now = price_of(layout, {i: read_gauge(layout.runs[i].gauge) for i in runs}, goods, cuts, buying=True)
    better: Neighbour | None = None
    lengths = {n: sum(cuts[i] for i in members) for n, members in enumerate(groups)}
    for n in sorted(lengths, key=lambda n: -lengths[n])[:MOST_NEIGHBOURS]:
        if chosen[n] < top:
            vector = tuple(k + 1 if m == n else k for m, k in enumerate(chosen))
            heavier = yield from ask(vector)
            offer = Neighbour(
                tuple(groups[n]),
                str(gauges[chosen[n] + 1]),
                price(vector) - price(chosen),
                heavier.drop,
                heavier.coin,
                None,
            )
            better = _better(better, offer, final.drop)
    beyond = best_there_is.fails(asked)
    least_price = min(bound, price(chosen))
    return Sized(
        source, tuple(sizes), price(chosen), least_price, exact, beyond, final, now, len(tried), cheaper, better
    )


def _keener(one: Neighbour | None, other: Neighbour) -> Neighbour:
    """The neighbour that saves more."""
    return other if one is None or other.more < one.more else one


def _better(one: Neighbour | None, other: Neighbour, drop: float) -> Neighbour | None:
    """The neighbour that takes off more drop for its price; none that takes off nothing."""
    if drop - other.drop <= LEAST_GAIN:
        return one
    if one is None:
        return other
    gain = [(drop - x.drop) / max(x.more, 1e-9) for x in (one, other)]
    return other if gain[1] > gain[0] else one


Ask = Callable[[tuple[int, ...]], Generator[Design, Score, Score]]


def _lowered(
    least: list[int], top: int, limits: Bars, price: Callable[[tuple[int, ...]], float], ask: Ask
) -> Generator[Design, Score, tuple[int, ...]]:
    """From the heaviest design down, one gauge of one run at a time, where it saves most and still holds."""
    here = (top,) * len(least)
    stuck: set[int] = set()
    while len(stuck) < len(least):
        steps = [
            (price(then) - price(here), n, then)
            for n in range(len(least))
            if n not in stuck
            and here[n] > least[n]
            and (then := tuple(k - 1 if m == n else k for m, k in enumerate(here)))
        ]
        if not steps:
            break
        _, n, then = min(steps)
        score = yield from ask(then)
        if score.fails(limits) is None:
            here = then
        else:
            stuck.add(n)
    return here
