"""One solved island with its points tried against each other: the heavy half of the facts."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from jolly_copper.core.circuits.giving import source_volts
from jolly_copper.core.circuits.loads import Bools, Load, Worst, amps_at, load_amps, load_of, too_near, worst_placement
from jolly_copper.core.circuits.memo import MEMO, digest
from jolly_copper.core.circuits.network import Network
from jolly_copper.core.circuits.points import Floats, Ints, Points
from jolly_copper.core.circuits.solution import Island, add_own_share
from jolly_copper.core.circuits.square_wave import low_end_share
from jolly_copper.core.circuits.ties import farthest_terminals, output_keys, terminal_keys, tie
from jolly_copper.core.layout.control import control_given
from jolly_copper.core.layout.power_tree import SOURCES
from jolly_copper.core.layout.stock import Scene

NODES_AT_ONCE = 1024


@dataclass(frozen=True)
class Tied:
    """A load tied to a track circuit, drawing `amps` from row `a` to row `b` of its island whatever the trains do."""

    load: str
    amps: float
    a: int
    b: int


@dataclass(frozen=True)
class Worked:
    """The heavy half of a part.

    transfer: (N, N) Ω, exact for the model. inductance: (N, N) H. rate: (N,) 1/s, what a henry counts in Ω at each
    point by the low end of the estimate; 0 where it is not counted. tied: (N,) V that loads tied to the circuits take
    there by resistance, tied_henries: (N,) H·A of them. scene_amps, unit_amps: per element, see `_currents`.
    """

    transfer: Floats
    inductance: Floats
    rate: Floats
    tied: Floats
    tied_henries: Floats
    near: Bools
    worst: Worst
    scene_amps: Floats
    unit_amps: Floats


@dataclass(frozen=True)
class Part:
    """An island with its points solved against each other. Rows and columns follow `rows`.

    sign: +1 where the left rail is positive with no load, else −1. tied: loads that are no trains.
    """

    island: Island
    rows: Ints
    points: Points
    sign: Floats
    load: Load
    tied: tuple[Tied, ...]
    worked: Worked


def counts_inductance(network: Network, island: Island) -> bool:
    """Whether the inductive estimate applies: square-wave (digital) power, and the house has not switched it off."""
    devices = network.layout.devices
    digital = any(
        devices[s.device].kind in SOURCES and control_given(network.layout, devices[s.device]) == "dcc"
        for s in island.sources
    )
    return digital and network.layout.brief.rules.count_inductance


def tied_loads(network: Network, islands: Sequence[Island]) -> list[list[Tied]]:
    """Loads on track circuits, by island: where they are tied, else at the farthest terminal of their circuit, else
    right at the device that feeds it."""
    layout = network.layout
    mine = {i: x for i, x in layout.loads.items() if layout.circuits[x.circuit].purpose == "track" and load_amps(x) > 0}
    found: list[list[Tied]] = [[] for _ in islands]
    if not mine:
        return found
    farthest = farthest_terminals(network, islands, {x.circuit for x in mine.values()})
    for i, load in mine.items():
        feeds = network.tree.fed_by.get(load.circuit)
        terminal = load.terminal or farthest.get(load.circuit)
        places = [terminal_keys(terminal)] if terminal is not None else []
        places += [output_keys(feeds)] if feeds is not None else []
        drawn = next((d for keys in places if (d := tie(network, islands, keys)) is not None), None)
        if drawn is not None:
            open_volts = islands[drawn.island].open_volts_by_node
            a, b = (drawn.a, drawn.b) if open_volts[drawn.a] >= open_volts[drawn.b] else (drawn.b, drawn.a)
            found[drawn.island].append(Tied(i, load_amps(load), a, b))
    return [_as_volts_sag(network, island, tied) for island, tied in zip(islands, found, strict=True)]


SETTLING = 30
SETTLED_AMPS = 1e-9


def _as_volts_sag(network: Network, island: Island, tied: list[Tied]) -> list[Tied]:
    """Loads of an island with what they draw at the volts they get, beside each other: those of constant power or of
    constant resistance by fixed point, which converges wherever the wires can carry the loads at all."""
    layout = network.layout
    if all(layout.loads[x.load].draws == "current" for x in tied):
        return tied
    columns = [island.between_nodes(x.a, x.b) for x in tied]
    ohms = np.array([[c[x.a] - c[x.b] for c in columns] for x in tied])
    open_volts = np.array([island.open_volts_by_node[x.a] - island.open_volts_by_node[x.b] for x in tied])
    nominal = []
    for x in tied:
        source = network.tree.source(layout.loads[x.load].circuit)
        nominal.append(source_volts(layout, source[0]) if source is not None else 0.0)
    told = np.array([x.amps for x in tied])
    amps = told.copy()
    for _ in range(SETTLING):
        volts = open_volts - ohms @ amps
        then = np.array(
            [amps_at(layout.loads[x.load], t, v, n) for x, t, v, n in zip(tied, told, volts, nominal, strict=True)]
        )
        moved = float(np.abs(then - amps).max())
        amps = then
        if moved < SETTLED_AMPS:
            break
    return [replace(x, amps=float(i)) for x, i in zip(tied, amps, strict=True)]


def work_part(
    network: Network,
    island: Island,
    points: Points,
    rows: Ints,
    scene: Scene | None,
    circuits: list[str | None],
    tied: Sequence[Tied],
) -> Part:
    """Solve the points of an island against each other, with the scene's trains at their worst for each."""
    layout = network.layout
    sign = np.where(island.open_volts(points) < 0, -1.0, 1.0)
    load = load_of(layout, scene, network, points, circuits)
    half_bit = layout.brief.rules.half_bit if counts_inductance(network, island) else 0.0
    span_starts = points.span[1:] != points.span[:-1]
    tracks = [(s.track, s.start) for s in (network.spans[k] for k in np.unique(points.span))]
    ends = [(layout.tracks[t].a, layout.tracks[t].b) for t, _ in tracks]
    places = digest(points.at, span_starts, tracks, ends, load.spacing)
    key = digest(
        island.key,
        island.local[points.nodes],
        points.share,
        points.ohms,
        places,
        half_bit,
        layout.brief.rules.test_train,
        load.standing,
        list(tied),
        *[x for r in load.roaming for x in (r.train, r.amps, r.allowed, r.may_test)],
    )

    def work() -> Worked:
        pick = island.pick(points).multiply(sign[:, None]).tocsr()
        reach = island.resistance.rows(pick)
        transfer = np.asarray(pick @ reach.T)  # symmetric, so its transpose is as good
        inductance = _mutual(island, reach)
        if len(points):
            add_own_share(transfer, points, points.ohms)
            add_own_share(inductance, points, points.henries)
        own, own_wound = np.diagonal(transfer), np.diagonal(inductance)
        rate = low_end_share(own, own_wound, half_bit) / half_bit if half_bit else np.zeros(len(points))
        near = MEMO.answer(places, lambda: too_near(network, points, load.spacing), lambda n: n.nbytes)
        estimated = transfer + rate[:, None] * inductance if half_bit else transfer
        worst = worst_placement(
            load, estimated, np.diagonal(estimated), np.arange(len(points)), near, layout.brief.rules.test_train
        )
        del estimated
        drawn = np.zeros(island.resistance.size + 1)
        for x in tied:
            drawn += x.amps * island.between_nodes(x.a, x.b)
        steady, wound = np.asarray(pick @ drawn), reach @ (island.loops @ drawn)
        scene_amps, unit_amps = _currents(island, reach, load, layout.brief.rules.test_train, drawn)
        return Worked(transfer, inductance, rate, steady, wound, near, worst, scene_amps, unit_amps)

    worked = MEMO.answer(key, work, lambda w: w.transfer.nbytes + w.inductance.nbytes + w.near.nbytes)
    return Part(island, rows, points, sign, load, tuple(tied), worked)


def _mutual(island: Island, reach: Floats) -> Floats:
    """u_pᵀ(R·M·R)u_q for every two points, H."""
    found = np.zeros((len(reach), len(reach)))
    for start in range(0, reach.shape[1], NODES_AT_ONCE):
        some = slice(start, start + NODES_AT_ONCE)
        found += reach[:, some] @ np.asarray(island.loops[some] @ reach.T)
    return found


def taken_by_all(part: Part, matrix: Floats) -> Floats:
    """The sum over the trains as worst placed of amps times a matrix of the part, at each point: V, or H·A."""
    worst = part.worked.worst
    total = worst.tested * np.diagonal(matrix)
    for parked in part.load.standing:
        total = total + parked.amps * matrix[:, parked.point]
    rows = np.arange(len(part.rows))
    for amps, _, spot in worst.others:
        total = total + np.where(spot >= 0, amps * matrix[rows, spot], 0.0)
    return np.asarray(total)


def _currents(island: Island, reach: Floats, load: Load, test_amps: float, drawn: Floats) -> tuple[Floats, Floats]:
    """For every element: the most the scene drives through it, A; and its largest share of one train's ampere.

    The first adds each train at its own worst place, whether or not the trains could stand so: never too low. The
    largest share over all places is met at one of the element's own ends (maximum principle), which are sampled.
    drawn: volts at every node by the loads tied there, V.
    """
    always = island.shares(drawn[None, :])[0]
    if not len(reach):
        return np.abs(always), np.zeros(len(always))
    found = [_currents_in(island.shares(reach, some), load, test_amps, always[some]) for some in island.pieces()]
    return np.concatenate([scene for scene, _ in found]), np.concatenate([share for _, share in found])


def _currents_in(shares: Floats, load: Load, test_amps: float, always: Floats) -> tuple[Floats, Floats]:
    """See `_currents`. shares: (points, elements). always: A that tied loads draw through each."""
    extremes: dict[bytes, tuple[Floats, Floats]] = {}
    most = [np.maximum(always, 0.0), np.maximum(-always, 0.0)]
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
        return share * test_amps + np.abs(always), share
    return np.maximum(most[0], most[1]), share


IDLE_AMPS = 1e-3
ONE_CONDUCTOR_VOLTS = 1e-3


def on_one_conductor(network: Network, island: Island, device: str, open_volts: Floats) -> Bools:
    """Places whose rails stand on one conductor as the turnouts lie: no volts between them though their source drives
    nothing. Dead, and not shorted."""
    idle = []
    for source in island.sources:
        if source.device == device:
            a, b = island.local[source.a], island.local[source.b]
            across = float(island.open_volts_by_node[a] - island.open_volts_by_node[b])
            idle.append(abs(source.volts - across) / network.elements[source.element].ohms < IDLE_AMPS)
    return np.asarray((np.abs(open_volts) < ONE_CONDUCTOR_VOLTS) & all(idle))


def judged_by(network: Network, island: Island, circuit: str | None) -> str:
    """The source a point is judged by: its own circuit's where that is in its island, else the one of the most volts
    there."""
    here = [s.device for s in island.sources]
    own = network.tree.source(circuit) if circuit is not None else None
    if own is not None and own[0] in here:
        return own[0]
    return max(here, key=lambda d: source_volts(network.layout, d))
