"""Who draws what in a scene, and where the others stand to make it worst for a train at each point."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import sparse
from scipy.sparse import csgraph

from jolly_copper.core.circuits.giving import source_volts
from jolly_copper.core.circuits.network import Network
from jolly_copper.core.circuits.points import Floats, Ints, Points
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.document import Load as Tied
from jolly_copper.core.layout.power_tree import SOURCES
from jolly_copper.core.layout.stock import Scene, Train

Bools = NDArray[np.bool_]
SAME_OHMS_DIGITS = 8


@dataclass(frozen=True)
class Roaming:
    """A train that may stand on any of the points in `allowed`, drawing `amps`. `may_test`: it runs (not idles)."""

    train: str
    amps: float
    allowed: Bools
    may_test: bool


@dataclass(frozen=True)
class Standing:
    """A train parked at one point, drawing `amps`."""

    train: str
    amps: float
    point: int


@dataclass(frozen=True)
class Load:
    """A scene as it bears on some points."""

    roaming: tuple[Roaming, ...]
    standing: tuple[Standing, ...]
    spacing: float
    """Least distance along the track between two trains' engines, mm: the shortest roaming train's length."""


def load_amps(load: Tied) -> float:
    """What a load draws with as many at work as may be, the rest at rest, A."""
    return load.at_once * load.working_amps + (load.count - load.at_once) * load.amps


LEAST_SHARE = 0.4
"""Of its volts: below that a converter gives up, and asks for no more amps. Certainty C."""


def amps_at(load: Tied, amps: float, volts: float, nominal: float) -> float:
    """What a load draws when its volts are not those its amps are told at, A.

    Constant current: I. Constant power: I·U₀/U, down to the volts at which converters give up.
    Resistance: I·U/U₀.

    Args:
        load: for how it draws. amps: at `nominal` volts. volts: what it gets.
    """
    if load.draws == "current" or nominal <= 0:
        return amps
    share = max(abs(volts) / nominal, 0.0)
    return amps * share if load.draws == "resistance" else amps / max(share, LEAST_SHARE)


def train_amps(layout: Layout, train: Train, running: bool = True) -> float:
    """What a train draws, A: engines running (or idling), its lit cars, and its resistor axles at the most volts that
    any source of the railroad puts on them."""
    kinds = [layout.locos[e] for e in train.engines]
    axles = 0.0
    if train.resistor_axles:
        given = [source_volts(layout, i) for i, d in layout.devices.items() if d.kind in SOURCES]
        axles = train.resistor_axles * max(given, default=layout.brief.track_volts) / train.ohms_per_axle
    return sum(k.running if running else k.idle for k in kinds) + train.lit_cars * train.amps_per_lit_car + axles


def load_of(layout: Layout, scene: Scene | None, network: Network, points: Points, circuits: list[str | None]) -> Load:
    """What a scene puts on these points.

    Args:
        circuits: the circuit that feeds each point, or None.
    """
    if scene is None:
        return Load((), (), 0.0)
    within: dict[tuple[tuple[str, ...], tuple[str, ...]], Bools] = {}
    use_of = [network.layout.tracks[s.track].use for s in network.spans]
    roaming, standing, lengths = [], [], []
    for placed in scene.placements:
        train = layout.trains[placed.train]
        amps = train_amps(layout, train, placed.doing == "running")
        if placed.track is not None:
            point = _nearest(network, points, placed.track, placed.at or 0.0)
            if point is not None:
                standing.append(Standing(placed.train, amps, point))
            continue
        key = (tuple(placed.circuits), tuple(placed.uses))
        if key not in within:
            named = frozenset(placed.circuits)
            answer = {c: c is not None and (not named or network.tree.within(c, named)) for c in set(circuits)}
            within[key] = np.array([answer[c] for c in circuits], dtype=bool)
            if placed.uses:
                within[key] &= np.array([use in placed.uses for use in use_of], dtype=bool)[points.span]
        if within[key].any():
            roaming.append(Roaming(placed.train, amps, within[key], placed.doing == "running"))
            lengths.append(train.length)
    roaming.sort(key=lambda r: (-r.amps, r.train))
    return Load(tuple(roaming), tuple(standing), min(lengths, default=0.0))


def _nearest(network: Network, points: Points, track: str, at: float) -> int | None:
    rows = np.flatnonzero([network.spans[s].track == track for s in points.span])
    return int(rows[np.argmin(np.abs(points.at[rows] - at))]) if len(rows) else None


def too_near(network: Network, points: Points, spacing: float) -> Bools:
    """Which pairs of points lie nearer along the track than `spacing` mm. Shape (N, N); a point is near itself."""
    count = len(points)
    if spacing <= 0:
        return np.eye(count, dtype=bool)
    number = {s.track: k for k, s in enumerate(network.spans)}
    tracks = np.array([number[network.spans[s].track] for s in points.span])
    names = [network.spans[s].track for s in points.span]
    follows = np.flatnonzero(tracks[1:] == tracks[:-1])
    a, b = follows.tolist(), (follows + 1).tolist()
    far = np.maximum(points.at[follows + 1] - points.at[follows], 1e-6).tolist()
    starts = np.flatnonzero(np.r_[True, tracks[1:] != tracks[:-1]])
    stops = np.r_[starts[1:] - 1, count - 1]
    firsts = {(names[k], "a"): int(k) for k in starts} | {(names[k], "b"): int(k) for k in stops}
    at_node: dict[str, list[tuple[int, float]]] = {}
    for (track, end), k in firsts.items():
        port = getattr(network.layout.tracks[track], end)
        left = float(points.at[k]) if end == "a" else network.rails.lengths[track] - float(points.at[k])
        at_node.setdefault(port.node, []).append((k, max(left, 0.0)))
    for ends in at_node.values():
        ends.sort(key=lambda e: e[1])
        for other, left in ends[1:]:
            a.append(ends[0][0])
            b.append(other)
            far.append(ends[0][1] + left + 1e-6)
    graph = sparse.coo_matrix((far, (a, b)), shape=(count, count)).tocsr()
    return np.asarray(csgraph.dijkstra(graph, directed=False, limit=spacing) < spacing)


@dataclass(frozen=True)
class Worst:
    """For each point: the volts lost there, the amps of the train tried, and who stands where.

    loss: (N,) V below the open-circuit volts. tested: (N,) A. others: one (amps, (N,) point number or −1) per train.
    tester: (N,) number in `load.roaming`, or −1 for the house's test train.
    """

    loss: Floats
    tested: Floats
    tester: Ints
    others: tuple[tuple[float, str, Ints], ...]


def worst_placement(load: Load, transfer: Floats, own: Floats, rows: Ints, near: Bools, test_amps: float) -> Worst:
    """Put a train on each of some points in turn and all others where they hurt it most.

    At each point stands the heaviest running train that may be there, or the house's test train. The others are
    placed greedily, heaviest first, each at the largest transfer resistance still free at the allowed spacing.
    Greedy may miss the true worst by a few mΩ beside a turnout; see docs/formulas.md.

    Args:
        load: the scene on the N sample points.
        transfer: (P, N) Ω from each point tried to every sample point, with any inductive estimate in it.
        own: (P,) Ω, each tried point with itself.
        rows: (P,) the sample point each tried point stands at or next to.
        near: (N, N) from `too_near`.
        test_amps: A, where the scene sends no running train.
    """
    count = transfer.shape[1]
    tester_at = np.full(count, -1, dtype=np.int64)
    for number in range(len(load.roaming) - 1, -1, -1):  # heaviest first in the list, so the last to write wins
        if load.roaming[number].may_test:
            tester_at[load.roaming[number].allowed] = number
    tester = tester_at[rows]
    tested = np.array([test_amps, *(r.amps for r in load.roaming)])[tester + 1]
    loss = tested * own
    for parked in load.standing:
        loss = loss + parked.amps * transfer[:, parked.point]
    taken = near[rows]
    others = []
    everyone = np.arange(len(rows))
    # Rounded, so that of places alike the first is taken whichever way the matrix was worked out.
    alike = np.round(transfer, SAME_OHMS_DIGITS) if load.roaming else transfer
    free, barred = np.empty_like(alike), np.empty_like(taken)
    for number, train in enumerate(load.roaming):
        np.logical_or(taken, ~train.allowed, out=barred)
        np.copyto(free, alike)
        np.putmask(free, barred, -np.inf)
        spot = free.argmax(axis=1)
        best = transfer[everyone, spot]
        placed = ~barred[everyone, spot] & (tester != number)
        loss = loss + np.where(placed, train.amps * np.where(placed, best, 0.0), 0.0)
        taken |= near[spot] & placed[:, None]
        others.append((train.amps, train.train, np.where(placed, spot, -1)))
    return Worst(loss, tested, tester, tuple(others))
