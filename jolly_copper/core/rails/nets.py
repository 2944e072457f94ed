"""Which rail is one piece of metal with which, for every turnout setting: nets, and what the feeders put on them."""

from __future__ import annotations

from collections import defaultdict, deque
from collections.abc import Hashable, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal, NamedTuple

from jolly_copper.core.layout.document import REVERSERS, Gap, Layout
from jolly_copper.core.rails.pieces import (
    PAIR_MM,
    SIDES,
    Joined,
    Piece,
    RailMap,
    Side,
    bonds,
    opposite,
    rail_towards,
)


class Rail(NamedTuple):
    """One rail of one piece of track."""

    piece: Piece
    side: Side


class Setting(NamedTuple):
    """A turnout and how it lies."""

    node: str
    lies: str


class Potential(NamedTuple):
    """What a feeder puts on a rail: a conductor of a circuit."""

    circuit: str
    conductor: Literal["A", "B"]


Bond = tuple[Rail, Rail, Setting | None]


@dataclass(frozen=True)
class Nets:
    """Rails joined for good into nets, and the bonds that one turnout setting makes or parts.

    net_of: the net of each rail. guarded: per net, (other net, setting). fed: per net, feeder ids with what they put
    on it. bonds: every bond between rails, with its setting where it has one.
    """

    layout: Layout
    rails: RailMap
    net_of: dict[Rail, int]
    guarded: dict[int, tuple[tuple[int, Setting], ...]]
    fed: dict[int, tuple[tuple[str, Potential], ...]]
    bonds: tuple[Bond, ...] = field(repr=False)

    @cached_property
    def beside(self) -> dict[Rail, list[tuple[Rail, Setting | None]]]:
        """Rails bonded to each rail."""
        found: dict[Rail, list[tuple[Rail, Setting | None]]] = defaultdict(list)
        for one, other, setting in self.bonds:
            found[one].append((other, setting))
            found[other].append((one, setting))
        return found

    @cached_property
    def rails_of(self) -> dict[int, tuple[Rail, ...]]:
        """The rails of each net."""
        found: dict[int, list[Rail]] = defaultdict(list)
        for rail, net in self.net_of.items():
            found[net].append(rail)
        return {n: tuple(r) for n, r in found.items()}

    def routes(self, settings: Mapping[str, str]) -> dict[int, int]:
        """The group each net belongs to once these turnouts are set (others part their guarded bonds)."""
        group = {n: n for n in self.rails_of}

        def find(n: int) -> int:
            while group[n] != n:
                group[n] = group[group[n]]
                n = group[n]
            return n

        for net, links in self.guarded.items():
            for other, setting in links:
                if settings.get(setting.node) == setting.lies:
                    a, b = find(net), find(other)
                    if a != b:
                        group[max(a, b)] = min(a, b)
        return {n: find(n) for n in group}

    def live(self, settings: Mapping[str, str]) -> dict[Rail, frozenset[Potential]]:
        """What every rail carries once these turnouts are set."""
        group = self.routes(settings)
        carried: dict[int, set[Potential]] = defaultdict(set)
        for net, feeds in self.fed.items():
            carried[group[net]].update(p for _, p in feeds)
        frozen = {g: frozenset(ps) for g, ps in carried.items()}
        none: frozenset[Potential] = frozenset()
        return {rail: frozen.get(group[net], none) for rail, net in self.net_of.items()}

    def path(self, start: Rail, goal: Rail, settings: Mapping[str, str]) -> list[Rail]:
        """The rails from one to another with these turnouts set, fewest first; empty where no metal leads there."""
        came: dict[Rail, Rail | None] = {start: None}
        edge = deque([start])
        while edge:
            rail = edge.popleft()
            if rail == goal:
                found = [rail]
                while (back := came[found[-1]]) is not None:
                    found.append(back)
                return found[::-1]
            for other, setting in self.beside.get(rail, ()):
                if other not in came and (setting is None or settings.get(setting.node) == setting.lies):
                    came[other] = rail
                    edge.append(other)
        return []


def lies_now(layout: Layout) -> dict[str, str]:
    """How every turnout lies in the document."""
    return {i: n.lies for i, n in layout.nodes.items() if n.kind in ("turnout", "three-way")}


def cut_sides(gaps: list[Gap], at: float) -> set[Side]:
    """The rails that gaps at this mark of a track cut."""
    return {s for g in gaps if abs(g.at - at) <= PAIR_MM for s in (SIDES if g.rails == "both" else (g.rails,))}


def map_nets(layout: Layout, rails: RailMap) -> Nets:
    """Nets of a layout. Feeders are taken as drawn, the wrong ones too."""
    found: list[Bond] = [*_along_tracks(layout, rails), *_across_nodes(layout, rails)]
    joined = Joined()
    every = [Rail(p, s) for pieces in rails.pieces.values() for p in pieces for s in SIDES]
    for rail in every:
        joined.find(rail)
    for one, other, setting in found:
        if setting is None:
            joined.join(one, other)
    numbers: dict[Hashable, int] = {}
    net_of = {rail: numbers.setdefault(joined.find(rail), len(numbers)) for rail in every}
    guarded: dict[int, list[tuple[int, Setting]]] = defaultdict(list)
    for one, other, setting in found:
        if setting is not None and net_of[one] != net_of[other]:
            guarded[net_of[one]].append((net_of[other], setting))
            guarded[net_of[other]].append((net_of[one], setting))
    fed: dict[int, list[tuple[str, Potential]]] = defaultdict(list)
    for feeder_id, feeder in layout.feeders.items():
        piece = rails.piece_at(feeder.track, feeder.at)
        circuit = layout.runs[layout.terminals[feeder.terminal].run].circuit
        fed[net_of[Rail(piece, feeder.a_rail)]].append((feeder_id, Potential(circuit, "A")))
        fed[net_of[Rail(piece, opposite(feeder.a_rail))]].append((feeder_id, Potential(circuit, "B")))
    return Nets(
        layout, rails, net_of, {n: tuple(sorted(set(ls))) for n, ls in guarded.items()},
        {n: tuple(f) for n, f in fed.items()}, tuple(found),
    )  # fmt: skip


def crossed(layout: Layout, rails: RailMap) -> set[tuple[Rail, Rail]]:
    """Bonds that join left with right as it were: the two inner rails of power-routing frogs.

    They are one metal, but a train never runs from one to the other, so they say nothing of how the track faces.
    """
    found: set[tuple[Rail, Rail]] = set()
    routing = {i for i, n in layout.nodes.items() if n.kind == "turnout" and n.frog == "routing"}
    ends: dict[str, dict[str, Piece]] = defaultdict(dict)
    for i, track in layout.tracks.items():
        for port, k in ((track.a, 0), (track.b, -1)):
            if port.node in routing:
                ends[port.node][port.port] = rails.pieces[i][k]
    for legs in ends.values():
        one, other = legs.get("through"), legs.get("diverging")
        if one is not None and other is not None:
            found |= {(Rail(a, s), Rail(b, t)) for a, b in ((one, other), (other, one)) for s in SIDES for t in SIDES}
    return found


def _along_tracks(layout: Layout, rails: RailMap) -> list[Bond]:
    gaps_on: dict[str, list[Gap]] = defaultdict(list)
    for gap in layout.gaps.values():
        gaps_on[gap.track].append(gap)
    found: list[Bond] = []
    for track, pieces in rails.pieces.items():
        for k in range(len(pieces) - 1):
            cut = cut_sides(gaps_on[track], pieces[k].end)
            found += [(Rail(pieces[k], s), Rail(pieces[k + 1], s), None) for s in SIDES if s not in cut]
    return found


def _across_nodes(layout: Layout, rails: RailMap) -> list[Bond]:
    at: dict[str, list[tuple[str, str, Literal["a", "b"]]]] = defaultdict(list)
    for i, value in layout.tracks.items():
        at[value.a.node].append((value.a.port, i, "a"))
        at[value.b.node].append((value.b.port, i, "b"))
    found: list[Bond] = []
    for node_id in sorted(at):
        node, ends = layout.nodes[node_id], sorted(at[node_id])

        def rail(port: str, track: str, end: Literal["a", "b"], side: Side) -> Rail:
            return Rail(rails.pieces[track][0 if end == "a" else -1], rail_towards(port, end, side))

        if node.kind == "turnout" and node.frog == "routing":
            outer: Side = "left" if node.hand == "left" else "right"
            inner = opposite(outer)
            legs = {p: (t, e) for p, t, e in ends}
            # The inner rails meet in the frog: left of the through leg and right of the diverging one, left-hand.
            frog = {p: rail(p, *legs[p], s) for p, s in (("through", outer), ("diverging", inner)) if p in legs}
            if len(frog) == 2:
                found.append((frog["through"], frog["diverging"], None))
            if "points" in legs:
                stock = {s: rail("points", *legs["points"], s) for s in SIDES}
                if "diverging" in legs:
                    found.append((stock[outer], rail("diverging", *legs["diverging"], outer), None))
                if "through" in legs:
                    found.append((stock[inner], rail("through", *legs["through"], inner), None))
                for leg, side in (("through", outer), ("diverging", inner)):
                    if leg in frog:
                        found.append((stock[side], frog[leg], Setting(node_id, leg)))
            continue
        used = frozenset(p for p, _, _ in ends)
        for k, (port, track, end) in enumerate(ends):
            for other_port, other_track, other_end in ends[k + 1 :]:
                for one, other in bonds(node, port, other_port, used) or ():
                    found.append((rail(port, track, end, one), rail(other_port, other_track, other_end, other), None))
    return found


@dataclass(frozen=True)
class Sources:
    """Where each circuit's power stands still: the circuit behind its reverser, or behind its booster."""

    root: dict[str, str]
    reverses: frozenset[str]
    """Circuits a reverser (or reversing switch) turns, with everything below them."""
    shared: dict[str, dict[str, str]]
    """Per circuit and conductor, the circuit whose very wire it is (a detector sits in one conductor only)."""

    def clash(self, one: Potential, other: Potential) -> Literal["short", "bypass", "districts", "boosters"] | None:
        """What follows when two potentials meet on one rail; None where they are the same wire."""
        if one == other:
            return None
        same = self.shared[one.circuit][one.conductor] == self.shared[other.circuit][other.conductor]
        if same and one.conductor == other.conductor:
            return None
        a, b = self.root[one.circuit], self.root[other.circuit]
        if a == b:
            return "short" if one.conductor != other.conductor else "districts"
        if a in self.reverses or b in self.reverses:
            return "bypass"
        return "short" if one.conductor != other.conductor else "boosters"


def find_sources(layout: Layout) -> Sources:
    """Roots and reversers of every circuit. Boosters of one railroad are taken to run in phase."""
    fed_by = {d.output: d for d in layout.devices.values()}
    root: dict[str, str] = {}
    reverses: set[str] = set()
    shared: dict[str, dict[str, str]] = {}
    for circuit in layout.circuits:
        at = circuit
        while (device := fed_by.get(at)) and device.input and device.kind not in (*REVERSERS, "station", "booster"):
            at = device.input
        root[circuit] = at
        if (device := fed_by.get(at)) and device.kind in REVERSERS:
            reverses.add(circuit)
        shared[circuit] = {}
        for conductor in ("A", "B"):
            at = circuit
            while (device := fed_by.get(at)) and device.input and device.kind == "detector":
                if device.sensed == conductor:
                    break
                at = device.input
            shared[circuit][conductor] = at
    return Sources(root, frozenset(reverses), shared)
