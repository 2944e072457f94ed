"""Facts: everything worked out about a layout in one scene. Same document, same facts."""

from __future__ import annotations

import math
from collections import Counter
from dataclasses import dataclass, field
from functools import cached_property
from typing import NamedTuple

import numpy as np

from jolly_copper.core.circuits.accessory import Accessory, solve_accessories
from jolly_copper.core.circuits.budget import Asked, budget
from jolly_copper.core.circuits.giving import Held, held_short, limit_of, wanted_volts
from jolly_copper.core.circuits.giving import source_volts as source_volts_of
from jolly_copper.core.circuits.lengths import terminal_point
from jolly_copper.core.circuits.network import Element, Network, assemble
from jolly_copper.core.circuits.parts import (
    Part,
    counts_inductance,
    judged_by,
    on_one_conductor,
    taken_by_all,
    tied_loads,
    work_part,
)
from jolly_copper.core.circuits.points import Floats, Ints, Points, one_point, sample
from jolly_copper.core.circuits.solution import Island, solve
from jolly_copper.core.circuits.square_wave import LEAST_HENRIES, high_end_volts, square_wave_share
from jolly_copper.core.circuits.whereabouts import extent_circuits
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.ids import next_id
from jolly_copper.core.layout.levers import as_in_scene
from jolly_copper.core.layout.power_tree import PowerTree
from jolly_copper.core.materials.copper import in_units
from jolly_copper.core.materials.joints import COIN
from jolly_copper.core.rails.frogs import behind_frogs
from jolly_copper.core.rails.pieces import Piece, RailMap, Side
from jolly_copper.core.rails.topology import Topology, map_topology


class WireFact(NamedTuple):
    """What one element of the network carries.

    scene_amps: the most any placement of the scene's trains drives through it (never too low). held_amps: what it
    carries in a short that nothing ends, at the worst place: `held` says whose figure that is.
    """

    element: Element
    scene_amps: float
    held_amps: float
    held: Held | None


@dataclass(frozen=True)
class Facts:
    """The worked-out layout. Arrays have one row per sample point in `points`.

    source: the station or booster a point is judged by: its own circuit's. source_volts: what that should give, or
    gives where that is more, NaN where dead. volts: the worst a train meets there, with the low end of the inductive
    estimate; least_volts: with its high end; exact_volts: by resistance alone. coin_exact: short current by resistance
    alone, A. coin: as a breaker that reads the effective value would see it, bounded by what the source gives, A. trip:
    A, NaN without one. meant: the circuit meant to feed each stretch in `rails.extents`.
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
    source: tuple[str | None, ...]
    source_volts: Floats
    open_volts: Floats
    volts: Floats
    least_volts: Floats
    exact_volts: Floats
    coin_exact: Floats
    coin: Floats
    trip: Floats
    wires: tuple[WireFact, ...]
    meant: tuple[str | None, ...]
    kept: dict[str, object] = field(default_factory=dict, compare=False, repr=False)
    """What layers above worked out from these facts and will ask for again; nothing that is not pure."""

    @cached_property
    def given_volts(self) -> Floats:
        """What the source a point is judged by gives with nothing drawn, V; NaN where dead."""
        gives = {d: math.nan if d is None else source_volts_of(self.layout, d) for d in set(self.source)}
        return np.array([gives[d] for d in self.source], dtype=float)

    @property
    def rails(self) -> RailMap:
        return self.network.rails

    @cached_property
    def topology(self) -> Topology:
        """What the rails alone tell: zones, shorts, dead track, places where trains come back on themselves."""
        return map_topology(self.layout, self.rails)

    @cached_property
    def routed(self) -> frozenset[Piece]:
        """Track that gets its power through a frog: a feeder there is a short for one setting."""
        return behind_frogs(self.layout, self.rails, self.topology.nets)

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
            most = (fed.trip_amps or fed.limit_amps or fed.measured_amps or fed.label_amps) if fed else None
            found["run", run] = (amps, most or amps)
        return found

    @cached_property
    def held_in(self) -> dict[tuple[str, str], Held]:
        """By kind and id of a run or feeder: whose figure its short without end is, of the element that carries
        most."""
        best: dict[tuple[str, str], WireFact] = {}
        for wire in self.wires:
            key = (wire.element.kind, wire.element.owner)
            if wire.held is not None and (key not in best or wire.held_amps > best[key].held_amps):
                best[key] = wire
        return {k: w.held for k, w in best.items() if w.held is not None}

    @cached_property
    def usual_feeder(self) -> tuple[str, str]:
        """Gauge and strands this layout uses most for feeders; 20 AWG or 0.5 mm² solid where it has none."""
        used = Counter((f.gauge, f.strands) for f in self.layout.feeders.values())
        return max(sorted(used), key=used.__getitem__, default=(in_units("20 AWG", self.layout.brief.units), "solid"))

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


def derive(layout: Layout, scene: str | None = None) -> Facts:
    """Work out a layout in one scene.

    Args:
        layout: the document.
        scene: id of a scene; None for no trains but the house's test train.

    Returns:
        Facts, pure: the same document gives the same facts.
    """
    layout = as_in_scene(layout, scene)
    network = assemble(layout)
    points = sample(network)
    meant = extent_circuits(layout, network.rails)
    section, circuit = _whose(network, points, meant)
    count = len(points)
    nan = np.full(count, np.nan)
    source_volts, open_volts, volts, exact = nan.copy(), nan.copy(), nan.copy(), nan.copy()
    least_volts = nan.copy()
    source: list[str | None] = [None] * count
    coin_exact, coin, trip = nan.copy(), nan.copy(), nan.copy()
    guards = {c: network.tree.protection(c) if c is not None else None for c in set(circuit)}
    trips = {c: math.nan if g is None or g[1].trip_amps is None else g[1].trip_amps for c, g in guards.items()}
    trip[:] = [trips[c] for c in circuit]
    part_of, row_in_part = np.full(count, -1), np.full(count, -1)
    parts: list[Part] = []
    wires: list[WireFact] = []
    the_scene = layout.scenes.get(scene) if scene is not None else None
    islands = solve(network)
    tied = tied_loads(network, islands)
    for number, island in enumerate(islands):
        rows = np.flatnonzero(island.holds(points))
        here = [circuit[r] for r in rows]
        part = work_part(network, island, points.take(rows), rows, the_scene, here, tied[number])
        part_of[rows], row_in_part[rows] = len(parts), np.arange(len(rows))
        parts.append(part)
        wires += _wires(network, part)
        if not len(rows):
            continue
        judges = {c: judged_by(network, island, c) for c in set(here)}
        for r, c in zip(rows, here, strict=True):
            source[r] = judges[c]
        lost = {c: diodes(network, c) for c in judges}
        base = {c: base_volts(layout, d) for c, d in judges.items()}
        open_volts[rows] = island.open_volts(part.points) * part.sign
        drawn = open_volts[rows] - np.array([lost[c] for c in here])
        source_volts[rows] = [base[c] for c in here]
        worked = part.worked
        wound = taken_by_all(part, worked.inductance) + worked.tied_henries
        exact[rows] = drawn - taken_by_all(part, worked.transfer) - worked.tied
        volts[rows] = exact[rows] - worked.rate * wound
        own, own_wound = np.diagonal(worked.transfer), np.diagonal(worked.inductance)
        most = _high_end(network, island, wound, own, own_wound, drawn)
        least_volts[rows] = np.minimum(volts[rows], exact[rows] - most)
        loop = own + COIN[1]
        coin_exact[rows] = np.maximum(drawn, 0.0) / loop
        seen = coin_exact[rows]
        if counts_inductance(network, island):
            seen = seen * square_wave_share(loop, own_wound, layout.brief.rules.half_bit)
        limits = {d: limit_of(layout, d) for d in set(judges.values())}
        most_given = {c: limits[d].amps for c, d in judges.items()}
        coin[rows] = np.minimum(seen, [most_given[c] for c in here])
        for device in limits:
            mine = np.array([judges[c] == device for c in here])
            dead = rows[mine & on_one_conductor(network, island, device, open_volts[rows])]
            for column in (source_volts, open_volts, volts, least_volts, exact, coin_exact, coin):
                column[dead] = np.nan
    return Facts(
        layout,
        scene,
        network,
        points,
        tuple(parts),
        part_of,
        row_in_part,
        tuple(section),
        tuple(circuit),
        tuple(source),
        source_volts,
        open_volts,
        volts,
        least_volts,
        exact,
        coin_exact,
        coin,
        trip,
        tuple(wires),
        tuple(meant),
    )


def base_volts(layout: Layout, device_id: str) -> float:
    """What drop is a share of, V: what a source should give, or gives where that is more."""
    return max(wanted_volts(layout, device_id), source_volts_of(layout, device_id))


def _high_end(network: Network, island: Island, wound: Floats, ohms: Floats, henries: Floats, volts: Floats) -> Floats:
    """The high end of the inductive loss at each point, V; nothing where inductance is not counted.

    wound: H·A of all trains as placed. They count as one train there that draws wound over the point's own henries.
    """
    if not counts_inductance(network, island):
        return np.zeros(len(wound))
    amps = np.maximum(wound, 0.0) / np.maximum(henries, LEAST_HENRIES)
    return high_end_volts(amps, ohms, henries, network.layout.brief.rules.half_bit, np.maximum(volts, 0.1))


def diodes(network: Network, circuit: str | None) -> float:
    """Volts that the diodes of detectors take on the way to a circuit, whatever the current. 0 where there are none."""
    if circuit is None:
        return 0.0
    layout = network.layout
    boards = [layout.devices[d].board for d in network.tree.upstream(circuit)]
    return sum(layout.detectors[b].drop for b in boards if b is not None)


def _whose(network: Network, points: Points, meant: list[str | None]) -> tuple[list[str | None], list[str | None]]:
    """Section and feeding circuit of each point."""
    anchors = network.rails.sections_in
    extents = [network.rails.extent_of[s.piece] for s in network.spans]
    sections = [anchors[n][0] if anchors[n] else None for n in extents]
    return [sections[s] for s in points.span], [meant[extents[s]] for s in points.span]


def _wires(network: Network, part: Part) -> list[WireFact]:
    """Currents in every element of an island: in the scene, and in a short that does not trip."""
    holds: dict[str | None, Held | None] = {}
    found = []
    worked = part.worked
    for number, in_scene, share in zip(
        part.island.elements.tolist(), worked.scene_amps.tolist(), worked.unit_amps.tolist(), strict=True
    ):
        element = network.elements[number]
        circuit = _circuit_of(network, element)
        if circuit not in holds:
            holds[circuit] = held_short(network.layout, network.tree, circuit) if circuit is not None else None
        held = holds[circuit]
        found.append(WireFact(element, in_scene, share * held.amps if held is not None else 0.0, held))
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
