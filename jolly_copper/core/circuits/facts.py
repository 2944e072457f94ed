"""Facts: everything worked out about a layout in one scene. Same document, same facts."""

from __future__ import annotations

import math
from collections import Counter
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from jolly_copper.core.circuits.accessory import Accessory, solve_accessories
from jolly_copper.core.circuits.budget import Asked, budget
from jolly_copper.core.circuits.lengths import terminal_point
from jolly_copper.core.circuits.loads import Bools, Load, Worst, load_of, too_near, worst_placement
from jolly_copper.core.circuits.memo import MEMO, digest
from jolly_copper.core.circuits.network import Element, Network, assemble
from jolly_copper.core.circuits.points import Floats, Ints, Points, one_point, sample
from jolly_copper.core.circuits.solution import Island, add_own_share, solve
from jolly_copper.core.circuits.whereabouts import extent_circuits
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.ids import next_id
from jolly_copper.core.layout.power_tree import PowerTree
from jolly_copper.core.layout.stock import Scene
from jolly_copper.core.materials.joints import COIN
from jolly_copper.core.rails.pieces import Piece, RailMap, Side
from jolly_copper.core.rails.topology import Topology, map_topology


@dataclass(frozen=True)
class _Worked:
    """The heavy half of a part. transfer: (N, N) Ω, exact for the model; estimated: with the inductive estimate in it.

    own_inductance: (N,) H of the loop to each point. scene_amps, unit_amps: per element, see `_currents`.
    """

    transfer: Floats
    estimated: Floats
    own_inductance: Floats
    near: Bools
    worst: Worst
    scene_amps: Floats
    unit_amps: Floats


@dataclass(frozen=True)
class Part:
    """An island with its points solved against each other. Rows and columns follow `rows`.

    sign: +1 where the left rail is positive with no load, else −1.
    """

    island: Island
    rows: Ints
    points: Points
    sign: Floats
    load: Load
    worked: _Worked


@dataclass(frozen=True)
class WireFact:
    """What one element of the network carries.

    scene_amps: the most any placement of the scene's trains drives through it (never too low). held_amps: what it
    carries in a short that draws just less than the protection's trip, at the worst place.
    """

    element: Element
    scene_amps: float
    held_amps: float
    trip_amps: float | None


@dataclass(frozen=True)
class Facts:
    """The worked-out layout. Arrays have one row per sample point in `points`.

    source_volts: open-circuit volts of the source that feeds the point, NaN where dead. volts: the worst a train
    meets there, with the inductive estimate; exact_volts: without it. coin_exact: short current by resistance alone,
    A. coin: as a breaker would read it (source limit and inductive estimate counted), A. trip: A, NaN without one.
    meant: the circuit meant to feed each stretch in `rails.extents`.
    """

    layout: Layout
    scene: str | None
    network: Network
    points: Points
    parts: tuple[Part, ...]
    part_of: Ints
    row_in_part: Ints
    section: tuple[str | None, ...]
    circuit: tuple[str | None, ...]
    source_volts: Floats
    open_volts: Floats
    volts: Floats
    exact_volts: Floats
    coin_exact: Floats
    coin: Floats
    trip: Floats
    wires: tuple[WireFact, ...]
    meant: tuple[str | None, ...]
    kept: dict[str, object] = field(default_factory=dict, compare=False, repr=False)
    """What layers above worked out from these facts and will ask for again; nothing that is not pure."""

    @property
    def rails(self) -> RailMap:
        return self.network.rails

    @cached_property
    def topology(self) -> Topology:
        """What the rails alone tell: zones, shorts, dead track, places where trains come back on themselves."""
        return map_topology(self.layout, self.rails)

    @cached_property
    def phase(self) -> dict[Piece, Side]:
        """The rail of each piece that conductor A should feed."""
        return self.topology.phase

    @cached_property
    def terminals_of(self) -> dict[str, list[tuple[str, tuple[float, float]]]]:
        """Terminals of each circuit with their places on the plan."""
        found: dict[str, list[tuple[str, tuple[float, float]]]] = {}
        for i, terminal in self.layout.terminals.items():
            circuit = self.layout.runs[terminal.run].circuit
            found.setdefault(circuit, []).append((i, terminal_point(self.layout, terminal)))
        return found

    @cached_property
    def accessory(self) -> Accessory:
        """Volts and amps of the accessory buses."""
        return solve_accessories(self.network, [p.island for p in self.parts])

    @cached_property
    def asked(self) -> list[Asked]:
        """What the scene may ask of every source and breaker at worst."""
        return budget(self.layout, self.layout.scenes.get(self.scene) if self.scene else None, self.rails)

    @cached_property
    def carried(self) -> dict[tuple[str, str], tuple[float, float]]:
        """For each live run and feeder, by kind and id: the most it carries in the scene, and in a held short. A."""
        found: dict[tuple[str, str], tuple[float, float]] = {}
        for wire in self.wires:
            if wire.element.kind in ("run", "feeder"):
                key = (wire.element.kind, wire.element.owner)
                scene, held = found.get(key, (0.0, 0.0))
                found[key] = (max(scene, wire.scene_amps), max(held, wire.held_amps))
        for run, amps in self.accessory.runs.items():
            source = self.tree.upstream(self.layout.runs[run].circuit)
            fed = self.layout.devices[source[0]] if source else None
            most = (fed.trip_amps or fed.limit_amps or fed.label_amps) if fed else None
            found["run", run] = (amps, most or amps)
        return found

    @cached_property
    def usual_feeder(self) -> tuple[str, str]:
        """Gauge and strands this layout uses most for feeders; 20 AWG solid where it has none."""
        used = Counter((f.gauge, f.strands) for f in self.layout.feeders.values())
        return max(sorted(used), key=used.__getitem__, default=("20 AWG", "solid"))

    @cached_property
    def next_feeder(self) -> str:
        """The next free feeder id of the form F83: one above the highest number in use."""
        return next_id(self.layout.feeders, "F")

    @property
    def tree(self) -> PowerTree:
        return self.network.tree

    def worst_point(self) -> int | None:
        """The point with the lowest volts as a share of its source's, or None when nothing is live."""
        share = self.volts / self.source_volts
        return int(np.nanargmin(share)) if np.isfinite(share).any() else None

    def weakest_short(self) -> int | None:
        """The point with the least short current over trip current, or None."""
        ratio = self.coin / self.trip
        return int(np.nanargmin(ratio)) if np.isfinite(ratio).any() else None

    def track_of(self, point: int) -> str:
        return self.network.spans[int(self.points.span[point])].track

    def place_of(self, point: int) -> tuple[str, float]:
        """Track and mm from its A end, a hair inside the point's own piece of rail where it stands at a gap."""
        span, at = self.network.spans[int(self.points.span[point])], float(self.points.at[point])
        return span.track, min(max(at, span.piece.start + 0.05), max(span.piece.end - 0.05, span.piece.start))


def counts_inductance(layout: Layout) -> bool:
    """Whether the inductive estimate applies: square-wave (digital) track, and the house has not switched it off."""
    return layout.brief.control == "dcc" and layout.brief.rules.count_inductance


def square_wave_share(ohms: float | Floats, henries: float | Floats, half_bit: float) -> NDArray[np.float64]:
    """RMS of a short's current on a square wave over V/R: √(1 − tanh x / x), x = T·R/(2L).

    Args:
        ohms: Ω of the whole loop, the coin in it. henries: H of the whole loop. half_bit: T, s.

    >>> float(round(square_wave_share(0.75, 60.6e-6, 58e-6), 2))   # 30 m of 14 AWG run 100 mm apart
    0.2

    Source: derived; agrees with a circuit simulator within 0.01 %. Certainty A for the formula, C for L.
    """
    x = half_bit * np.asarray(ohms, dtype=float) / (2 * np.maximum(np.asarray(henries, dtype=float), 1e-12))
    small = x < 1e-3
    safe = np.where(small, 1.0, x)
    return np.sqrt(np.where(small, x**2 / 3, np.maximum(1 - np.tanh(safe) / safe, 0.0)))


def derive(layout: Layout, scene: str | None = None) -> Facts:
    """Work out a layout in one scene.

    Args:
        layout: the document.
        scene: id of a scene; None for no trains but the house's test train.

    Returns:
        Facts, pure: the same document gives the same facts.
    """
    network = assemble(layout)
    points = sample(network)
    meant = extent_circuits(layout, network.rails)
    section, circuit = _whose(network, points, meant)
    count = len(points)
    nan = np.full(count, np.nan)
    source_volts, open_volts, volts, exact = nan.copy(), nan.copy(), nan.copy(), nan.copy()
    coin_exact, coin, trip = nan.copy(), nan.copy(), nan.copy()
    guards = {c: network.tree.protection(c) if c is not None else None for c in set(circuit)}
    trips = {c: math.nan if g is None or g[1].trip_amps is None else g[1].trip_amps for c, g in guards.items()}
    trip[:] = [trips[c] for c in circuit]
    part_of, row_in_part = np.full(count, -1), np.full(count, -1)
    parts: list[Part] = []
    wires: list[WireFact] = []
    the_scene = layout.scenes.get(scene) if scene is not None else None
    for island in solve(network):
        rows = np.flatnonzero(island.holds(points))
        part = _part(network, island, points.take(rows), rows, the_scene, [circuit[r] for r in rows])
        part_of[rows], row_in_part[rows] = len(parts), np.arange(len(rows))
        parts.append(part)
        wires += _wires(network, part)
        if not len(rows):
            continue
        source = _island_volts(island)
        taken = np.array([diodes(network, circuit[r]) for r in rows])
        drawn = island.open_volts(part.points) * part.sign
        source_volts[rows] = source
        open_volts[rows] = drawn
        volts[rows] = drawn - taken - part.worked.worst.loss
        exact[rows] = drawn - taken - _exact_loss(part)
        loop = np.diagonal(part.worked.transfer) + COIN[1]
        coin_exact[rows] = np.maximum(drawn - taken, 0.0) / loop
        limit = min((_limit(layout, s.device) for s in island.sources), default=math.inf)
        seen = coin_exact[rows]
        if counts_inductance(layout):
            seen = seen * square_wave_share(loop, part.worked.own_inductance, layout.brief.rules.half_bit)
        coin[rows] = np.minimum(seen, limit)
    return Facts(
        layout, scene, network, points, tuple(parts), part_of, row_in_part, tuple(section), tuple(circuit),
        source_volts, open_volts, volts, exact, coin_exact, coin, trip, tuple(wires), tuple(meant),
    )  # fmt: skip


def diodes(network: Network, circuit: str | None) -> float:
    """Volts that the diodes of detectors take on the way to a circuit, whatever the current. 0 where there are none."""
    if circuit is None:
        return 0.0
    layout = network.layout
    boards = [layout.devices[d].board for d in network.tree.upstream(circuit)]
    return sum(layout.detectors[b].drop for b in boards if b is not None)


def _limit(layout: Layout, device_id: str) -> float:
    limit = layout.devices[device_id].limit_amps
    return math.inf if limit is None else limit


def _island_volts(island: Island) -> float:
    return max(s.volts for s in island.sources)


def _whose(network: Network, points: Points, meant: list[str | None]) -> tuple[list[str | None], list[str | None]]:
    """Section and feeding circuit of each point."""
    anchors = network.rails.sections_in
    extents = [network.rails.extent_of[s.piece] for s in network.spans]
    sections = [anchors[n][0] if anchors[n] else None for n in extents]
    return [sections[s] for s in points.span], [meant[extents[s]] for s in points.span]


def _part(
    network: Network, island: Island, points: Points, rows: Ints, scene: Scene | None, circuits: list[str | None]
) -> Part:
    layout = network.layout
    drawn = island.open_volts(points)
    sign = np.where(drawn < 0, -1.0, 1.0)
    load = load_of(layout, scene, network, points, circuits)
    rate = 2 / layout.brief.rules.half_bit if counts_inductance(layout) else 0.0
    span_starts = points.span[1:] != points.span[:-1]
    tracks = [(s.track, s.start) for s in (network.spans[k] for k in np.unique(points.span))]
    ends = [(layout.tracks[t].a, layout.tracks[t].b) for t, _ in tracks]
    key = digest(
        island.key, island.local[points.nodes], points.share, points.at, points.ohms, span_starts, tracks, ends, rate,
        load.spacing, layout.brief.rules.test_train, load.standing,
        *[x for r in load.roaming for x in (r.train, r.amps, r.allowed, r.may_test)],
    )  # fmt: skip

    def work() -> _Worked:
        pick = island.pick(points).multiply(sign[:, None]).tocsr()
        reach = np.asarray(pick @ island.resistance)
        transfer = np.asarray(pick @ reach.T)  # symmetric, so its transpose is as good
        inductance = np.asarray(pick @ np.asarray(pick @ island.inductance).T)
        if len(points):
            add_own_share(transfer, points, points.ohms)
            add_own_share(inductance, points, points.henries)
        estimated = transfer + rate * inductance if rate else transfer
        near = too_near(network, points, load.spacing)
        worst = worst_placement(
            load, estimated, np.diagonal(estimated), np.arange(len(points)), near, layout.brief.rules.test_train
        )
        scene_amps, unit_amps = _currents(island.shares(reach), load, layout.brief.rules.test_train)
        return _Worked(transfer, estimated, np.diagonal(inductance).copy(), near, worst, scene_amps, unit_amps)

    worked = MEMO.answer(key, work, lambda w: w.transfer.nbytes + w.estimated.nbytes + w.near.nbytes)
    return Part(island, rows, points, sign, load, worked)


def _exact_loss(part: Part) -> Floats:
    """The loss of the same placement by resistance alone, V."""
    loss = part.worked.worst.tested * np.diagonal(part.worked.transfer)
    for parked in part.load.standing:
        loss = loss + parked.amps * part.worked.transfer[:, parked.point]
    rows = np.arange(len(part.rows))
    for amps, _, spot in part.worked.worst.others:
        loss = loss + np.where(spot >= 0, amps * part.worked.transfer[rows, spot], 0.0)
    return np.asarray(loss)


def _currents(shares: Floats, load: Load, test_amps: float) -> tuple[Floats, Floats]:
    """For every element: the most the scene drives through it, A; and its largest share of one train's ampere.

    The first adds each train at its own worst place, whether or not the trains could stand so: never too low. The
    largest share over all places is met at one of the element's own ends (maximum principle), which are sampled.
    """
    count = shares.shape[1]
    if not len(shares):
        return np.zeros(count), np.zeros(count)
    extremes: dict[bytes, tuple[Floats, Floats]] = {}
    most = [np.zeros(count), np.zeros(count)]
    for train in load.roaming:
        key = train.allowed.tobytes()
        if key not in extremes:
            mine = shares[train.allowed]
            extremes[key] = np.maximum(mine.max(axis=0), 0), np.maximum(-mine.min(axis=0), 0)
        for k in (0, 1):
            most[k] = most[k] + train.amps * extremes[key][k]
    for parked in load.standing:
        most[0] = most[0] + parked.amps * np.maximum(shares[parked.point], 0)
        most[1] = most[1] + parked.amps * np.maximum(-shares[parked.point], 0)
    share = np.maximum(shares.max(axis=0), -shares.min(axis=0))
    if not load.roaming and not load.standing:
        return share * test_amps, share
    return np.maximum(most[0], most[1]), share


def _wires(network: Network, part: Part) -> list[WireFact]:
    """Currents in every element of an island: in the scene, and in a short that does not trip."""
    trips: dict[str | None, float | None] = {}
    found = []
    for k, number in enumerate(part.island.elements):
        element = network.elements[number]
        circuit = _circuit_of(network, element)
        if circuit not in trips:
            guard = network.tree.protection(circuit) if circuit is not None else None
            trips[circuit] = guard[1].trip_amps if guard else None
        trip = trips[circuit]
        held = float(part.worked.unit_amps[k]) * trip if trip else 0.0
        found.append(WireFact(element, float(part.worked.scene_amps[k]), held, trip))
    return found


def _circuit_of(network: Network, element: Element) -> str | None:
    """The circuit a wire or device belongs to; rails belong to several."""
    layout = network.layout
    if element.kind == "run":
        return layout.runs[element.owner].circuit
    if element.kind == "feeder":
        return layout.runs[layout.terminals[layout.feeders[element.owner].terminal].run].circuit
    if element.kind in ("device", "source"):
        return layout.devices[element.owner].output
    return None


def point_at(facts: Facts, track: str, at: float) -> tuple[Points, int | None]:
    """The exact point asked for, and the part of the network it stands in (None when dead)."""
    point = one_point(facts.network, track, at)
    for number, part in enumerate(facts.parts):
        if bool(part.island.holds(point)[0]):
            return point, number
    return point, None
