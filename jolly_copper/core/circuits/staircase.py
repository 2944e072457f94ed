"""Where the volts go: the drop at one point, split by the things the current passes, from the supply to the wheel.

By Tellegen's theorem the drop at p is Σ f_e(p)·R_e·i_e over all elements, with f_e(p) the share of a test ampere at
p that passes e and i_e the whole current in e: exact in a ring or a mesh as on a simple bus. The inductive estimate
splits the same way with henries in place of ohms, and is a step of its own.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from jolly_copper.core.circuits.facts import Facts, base_volts, diodes, point_at
from jolly_copper.core.circuits.giving import Limit, limit_of, source_volts
from jolly_copper.core.circuits.loads import worst_placement
from jolly_copper.core.circuits.parts import Part, counts_inductance, judged_by, on_one_conductor
from jolly_copper.core.circuits.points import Points
from jolly_copper.core.circuits.solution import own_share
from jolly_copper.core.circuits.square_wave import (
    LEAST_HENRIES,
    ShortReading,
    high_end_volts,
    low_end_share,
    short_reading,
)
from jolly_copper.core.materials.copper import SPACING_MM
from jolly_copper.core.materials.joints import COIN
from jolly_copper.core.quantities import print_length, print_volts


@dataclass(frozen=True)
class Step:
    """One step of the staircase. `owners` are the ids of the things it is made of, the biggest first."""

    kind: str
    title: str
    detail: str
    volts: float
    owners: tuple[str, ...]
    estimate: bool = False


@dataclass(frozen=True)
class Standing:
    """A train as placed for this answer."""

    train: str | None
    amps: float
    track: str
    at: float


@dataclass(frozen=True)
class PointAnswer:
    """Everything about one point. Volts and amps.

    source_volts: what its source should give, or gives where that is more. volts: with the low end of the inductive
    estimate; least_volts: with its high end; exact_volts: by resistance alone. coin: as a breaker that reads the
    effective value would see it; coin_exact: by resistance alone; reading: by what breakers read, before `limit`, the
    most the source gives.
    """

    track: str
    at: float
    section: str | None
    circuit: str | None
    live: bool
    source: str | None
    source_volts: float
    volts: float
    least_volts: float
    exact_volts: float
    loop_ohms: float
    loop_henries: float
    coin: float
    coin_exact: float
    reading: ShortReading | None
    limit: Limit | None
    trip: float | None
    trip_device: str | None
    tested_amps: float
    trains: tuple[Standing, ...]
    steps: tuple[Step, ...]

    @property
    def limited(self) -> bool:
        """Whether the source gives no more than this into a short, whatever the wire, as somebody wrote it down."""
        return self.limit is not None and not self.limit.guess and self.coin >= self.limit.amps - 1e-9


ORDER = ["source", "device", "run", "plug", "contact", "feeder", "joiner", "blade", "rail"]
LEAST_STEP_VOLTS = 5e-5
"""A step smaller than this is left out of the list; it is in the sum all the same."""


def explain(facts: Facts, track: str, at: float) -> PointAnswer:
    """Work out one point: the volts a train meets there at worst, and what each thing on the way takes.

    Args:
        facts: from `derive`.
        track: track id.
        at: mm from the track's A end.

    Returns:
        The answer; with `live` false and no steps where a rail has no way to a source.

    Raises:
        KeyError: there is no such track.
    """
    layout = facts.layout
    if track not in layout.tracks:
        raise KeyError(track)
    at = min(max(at, 0.0), facts.rails.lengths[track])
    section = facts.rails.section_at(track, at)
    sample = _nearest_sample(facts, track, at)
    circuit = facts.circuit[sample]
    point, number = point_at(facts, track, at)
    guard = facts.tree.protection(circuit) if circuit else None
    trip, trip_device = (guard[1].trip_amps, guard[0]) if guard else (None, None)
    if number is None or _on_one_conductor(facts, number, point, circuit):
        return PointAnswer(
            track, at, section, circuit, False, None, 0, 0, 0, 0, 0, 0, 0, 0, None, None, trip, trip_device, 0, (), ()
        )
    part = facts.parts[number]
    row = _Row(facts, part, point, sample)
    source = judged_by(facts.network, part.island, circuit)
    base, gives = base_volts(layout, source), source_volts(layout, source)
    open_volts = float(part.island.open_volts(point)[0] * row.sign)
    loop, taken = float(row.own_transfer), diodes(facts.network, circuit)
    coin_exact = max(open_volts - taken, 0.0) / (loop + COIN[1])
    reading = ShortReading(coin_exact, coin_exact, coin_exact)
    if counts_inductance(facts.network, part.island):
        reading = short_reading(coin_exact, loop + COIN[1], row.own_inductance, layout.brief.rules.half_bit)
    limit = limit_of(layout, source)
    steps, resisted, wound = row.steps()
    if taken and circuit:
        boards = [d for d in facts.tree.upstream(circuit) if layout.devices[d].board is not None]
        name = layout.devices[boards[0]].name
        steps.insert(
            sum(s.kind in ("source", "device") for s in steps),
            Step("device", name, "diodes of the detector, at any current", taken, tuple(boards)),
        )
    if base - gives > LEAST_STEP_VOLTS:
        wants = f"gives {print_volts(gives)} of the {print_volts(base)} it should"
        steps.insert(0, Step("source", layout.devices[source].name, wants, base - gives, (source,)))
    exact = open_volts - taken - resisted
    low, high, owners = row.inductive(wound, open_volts - taken)
    if counts_inductance(facts.network, part.island):
        steps.append(Step("inductance", "Inductance", _wound(facts, owners, low, high), low, owners, estimate=True))
    return PointAnswer(
        track,
        at,
        section,
        circuit,
        True,
        source,
        base,
        exact - low,
        min(exact - low, exact - high),
        exact,
        loop,
        float(row.own_inductance),
        min(reading.effective, limit.amps),
        coin_exact,
        reading,
        limit,
        trip,
        trip_device,
        row.tested,
        row.trains(),
        tuple(steps),
    )


def _on_one_conductor(facts: Facts, part: int, point: Points, circuit: str | None) -> bool:
    island = facts.parts[part].island
    device = judged_by(facts.network, island, circuit)
    return bool(on_one_conductor(facts.network, island, device, island.open_volts(point))[0])


def _nearest_sample(facts: Facts, track: str, at: float) -> int:
    spans = facts.network.spans_on[track]
    piece = facts.rails.piece_at(track, at)
    here = [n for n in spans if facts.network.spans[n].piece == piece] or spans
    first, end = np.searchsorted(facts.points.span, [here[0], here[-1] + 1])
    return int(first + np.argmin(np.abs(facts.points.at[first:end] - at)))


class _Row:
    """One point against all sample points of its island, with the placement of trains that hurts it most."""

    def __init__(self, facts: Facts, part: Part, point: Points, sample: int) -> None:
        self.facts, self.part, self.point = facts, part, point
        island, points = part.island, part.points
        self.sign = -1.0 if island.open_volts(point)[0] < 0 else 1.0
        reach = island.reach(point) * self.sign
        self.share = island.shares(reach)[0]
        transfer = (island.between(reach, points) * part.sign[None, :] + own_share(point, points, point.ohms))[0]
        wound = island.reach(point, inductive=True) * self.sign
        inductance = (island.between(wound, points) * part.sign[None, :] + own_share(point, points, point.henries))[0]
        own = island.between(reach, point) * self.sign + own_share(point, point, point.ohms)
        own_wound = island.between(wound, point) * self.sign + own_share(point, point, point.henries)
        self.own_transfer, self.own_inductance = float(own[0, 0]), float(own_wound[0, 0])
        self.half_bit = facts.layout.brief.rules.half_bit if counts_inductance(facts.network, island) else 0.0
        share = float(low_end_share(self.own_transfer, self.own_inductance, self.half_bit)) if self.half_bit else 0.0
        self.rate = rate = share / self.half_bit if self.half_bit else 0.0
        # The scene's trains stand as everywhere: the same greedy choice, for this one row.
        worst = worst_placement(
            part.load,
            (transfer + rate * inductance)[None, :],
            np.array([self.own_transfer + rate * self.own_inductance]),
            np.array([facts.row_in_part[sample]]),
            part.worked.near,
            facts.layout.brief.rules.test_train,
        )
        self.tested, self.tester = float(worst.tested[0]), int(worst.tester[0])
        self.loads: list[tuple[float, str | None, int]] = [
            (amps, train, int(spot[0])) for amps, train, spot in worst.others if spot[0] >= 0
        ]
        self.loads += [(s.amps, s.train, s.point) for s in part.load.standing]

    def trains(self) -> tuple[Standing, ...]:
        facts, part = self.facts, self.part
        tester = part.load.roaming[self.tester].train if self.tester >= 0 else None
        mine = facts.network.spans[int(self.point.span[0])].track
        placed = [Standing(tester, self.tested, mine, float(self.point.at[0]))]
        for amps, train, spot in self.loads:
            placed.append(Standing(train, amps, *facts.place_of(int(part.rows[spot]))))
        return tuple(placed)

    def steps(self) -> tuple[list[Step], float, dict[str, float]]:
        """The steps of copper and contacts, from the source on; all they take together, V, those too small to list
        among it; and H·A by run, with all else under an empty name."""
        facts, part, island = self.facts, self.part, self.part.island
        current = self.share * self.tested
        if self.loads:
            spots = np.array([spot for _, _, spot in self.loads])
            theirs = island.shares(island.reach(part.points.take(spots)) * part.sign[spots, None])
            current = current + np.array([amps for amps, _, _ in self.loads]) @ theirs
        for tied in part.tied:
            drawn = tied.amps * island.between_nodes(tied.a, tied.b)
            current = current + island.shares(drawn[None, :])[0]
        weight = self.share * current  # times Ω gives the drop at the point
        volts: dict[tuple[str, str], float] = {}
        wound: dict[str, float] = {}
        for number, w in zip(island.elements.tolist(), weight.tolist(), strict=True):
            if abs(w) < 1e-15:
                continue
            element = facts.network.elements[number]
            owner = element.owner if element.kind == "run" else ""
            wound[owner] = wound.get(owner, 0.0) + w * element.henries
            for piece in element.parts:
                key = (_step_kind(piece.kind), piece.owner)
                volts[key] = volts.get(key, 0.0) + w * piece.ohms
        here = facts.network.spans[int(self.point.span[0])]
        wound[""] = wound.get("", 0.0) + self._own_span(island_ohms=False)
        local = self._own_span(island_ohms=True)
        ratio = here.joiner * len(here.joiners) / here.ohms if here.ohms else 0.0
        for kind, part_of_it in (("rail", 1 - ratio), ("joiner", ratio)):
            key = (kind, here.track)
            volts[key] = volts.get(key, 0.0) + local * part_of_it
        return [s for kind in ORDER for s in self._group(kind, volts)], sum(volts.values()), wound

    def inductive(self, wound: dict[str, float], volts: float) -> tuple[float, float, tuple[str, ...]]:
        """The low and the high end of what inductance takes here, V, and the runs it is in, the most first."""
        if not self.half_bit:
            return 0.0, 0.0, ()
        total = sum(wound.values())
        amps = max(total, 0.0) / max(self.own_inductance, LEAST_HENRIES)
        high = float(high_end_volts(amps, self.own_transfer, self.own_inductance, self.half_bit, max(volts, 0.1)))
        owners = tuple(sorted((r for r in wound if r), key=lambda r: -wound[r]))
        return self.rate * total, high, owners

    def _own_span(self, island_ohms: bool) -> float:
        """The part of the drop inside the span the point stands in, beyond the span's ends. V, or V·s for henries."""
        per = self.point.ohms if island_ohms else self.point.henries
        total = self.tested * float(own_share(self.point, self.point, per)[0, 0])
        if self.loads:
            spots = np.array([spot for _, _, spot in self.loads])
            amps = np.array([a for a, _, _ in self.loads])
            total += float((own_share(self.point, self.part.points.take(spots), per)[0] * amps).sum())
        return total

    def _group(self, kind: str, volts: dict[tuple[str, str], float]) -> list[Step]:
        layout = self.facts.layout
        rows = sorted(((v, o) for (k, o), v in volts.items() if k == kind), reverse=True)
        total, owners = sum(v for v, _ in rows), tuple(o for v, o in rows if abs(v) > LEAST_STEP_VOLTS / 10)
        if kind in ("source", "device", "run"):
            rows = [r for r in rows if abs(r[0]) > LEAST_STEP_VOLTS]
        if not rows or not owners or abs(total) <= LEAST_STEP_VOLTS:
            return []
        if kind == "source":
            return [Step(kind, layout.devices[o].name, "inside the source", v, (o,)) for v, o in rows]
        if kind == "device":
            rows.sort(key=lambda r: len(self.facts.tree.upstream(layout.devices[r[1]].output)))
            return [Step(kind, layout.devices[o].name, layout.devices[o].kind, v, (o,)) for v, o in rows]
        if kind == "run":
            # From the source outwards, as the current goes: shallower circuits first.
            rows.sort(key=lambda r: (len(self.facts.tree.upstream(layout.runs[r[1]].circuit)), -r[0]))
            return [Step(kind, f"Bus {layout.runs[o].label}", layout.runs[o].gauge, v, (o,)) for v, o in rows]
        if kind == "plug":
            return [Step(kind, f"Plugs × {len(owners)}", "board joints", total, owners)]
        if kind == "contact":
            return [Step(kind, f"Terminals × {len(owners)}", "contacts on the way", total, owners)]
        if kind == "feeder":
            first = layout.feeders[owners[0]]
            title = f"Feeder {first.label}" if len(owners) == 1 else f"Feeders × {len(owners)}"
            detail = first.gauge if len(owners) == 1 else f"mostly {first.label}, {first.gauge}"
            return [Step(kind, title, detail, total, owners)]
        if kind == "joiner":
            kinds = sorted({layout.tracks[o].joiners for o in owners})
            return [Step(kind, "Rail joiners", " and ".join(kinds), total, owners)]
        if kind == "blade":
            return [Step(kind, f"Turnout blades × {len(owners)}", "contact by house rule", total, owners)]
        here = self.facts.network.spans[int(self.point.span[0])].track
        codes = layout.tracks[here]
        return [Step(kind, "Rail", f"code {codes.code} {codes.metal}", total, owners)]


def _wound(facts: Facts, owners: tuple[str, ...], low: float, high: float) -> str:
    band = f"estimate, {print_volts(low)} to {print_volts(high)}"
    if not owners:
        return f"rails and feeders; {band}"
    run = facts.layout.runs[owners[0]]
    units = facts.layout.brief.units
    apart = f"wires {print_length(run.spacing or SPACING_MM['apart'], units)} apart"
    return f"{run.label}, {apart if run.make == 'apart' else run.make}; {band}"


def _step_kind(part_kind: str) -> str:
    return {"wire": "run", "feeder wire": "feeder", "solder": "feeder"}.get(part_kind, part_kind)
