"""Which rail is one piece of metal with which, for every turnout setting: nets, and what the feeders put on them."""

from __future__ import annotations

from collections import defaultdict, deque
from collections.abc import Hashable, Iterable, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal, NamedTuple

from jolly_copper.core.layout.connections import circuit_under
from jolly_copper.core.layout.control import a_side, commons, has_three_rails
from jolly_copper.core.layout.document import REVERSERS, Gap, Layout
from jolly_copper.core.layout.power_tree import SOURCES, grow_tree, reads_a_rail
from jolly_copper.core.rails.pieces import (
    PAIR_MM,
    SIDES,
    Joined,
    Piece,
    RailEnd,
    RailMap,
    Setting,
    Side,
    node_bonds,
    opposite,
)


class Rail(NamedTuple):
    """One rail of one piece of track."""

    piece: Piece
    side: Side


class Potential(NamedTuple):
    """What a feeder puts on a rail: a conductor of a circuit."""

    circuit: str
    conductor: Literal["A", "B"]


class Bond(NamedTuple):
    """Two rails that are one metal, for good or while a turnout is set so; see `NodeBond` for `faces`."""

    one: Rail
    other: Rail
    setting: Setting | None = None
    faces: bool = True


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
        for one, other, setting, _ in self.bonds:
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


def read_pieces(layout: Layout, rails: RailMap) -> frozenset[Piece]:
    """Pieces of the sections whose isolated rail a detector reads: the other outer rail goes on beside it, whole."""
    circuits = {d.output for d in layout.devices.values() if reads_a_rail(layout, d)}
    if not circuits:
        return frozenset()
    return frozenset(
        p
        for extent, sections in zip(rails.extents, rails.sections_in, strict=True)
        if any(layout.sections[s].circuit in circuits for s in sections)
        for p in extent
    )


def gap_sides(layout: Layout, gap: Gap) -> tuple[Side, ...]:
    """The conductors a gap cuts: of three-rail track the centre rail (`left`) and the outers (`right`).

    A cut in one outer parts neither, since the other goes on beside it.
    """
    if gap.rails in ("both", "all"):
        return SIDES
    if has_three_rails(layout, layout.tracks[gap.track]):
        return ("left",) if gap.rails == "centre" else ()
    return (gap.rails,) if gap.rails in SIDES else ()


def gaps_at(layout: Layout, rails: RailMap) -> dict[str, list[tuple[float, str]]]:
    """Per track, where its gaps count as cut, mm from its A end, with their ids."""
    found: dict[str, list[tuple[float, str]]] = defaultdict(list)
    for i, gap in layout.gaps.items():
        found[gap.track].append((rails.cut_at[i], i))
    return found


def cut_sides(layout: Layout, gaps: Iterable[tuple[float, str]], at: float) -> set[Side]:
    """The rails that gaps at this mark of a track cut. gaps: of the track, from `gaps_at`."""
    return {s for place, i in gaps if abs(place - at) <= PAIR_MM for s in gap_sides(layout, layout.gaps[i])}


def map_nets(layout: Layout, rails: RailMap) -> Nets:
    """Nets of a layout. Feeders are taken as drawn, the wrong ones too."""
    found: list[Bond] = [*_along_tracks(layout, rails), *_across_nodes(layout, rails)]
    joined = Joined()
    every = [Rail(p, s) for pieces in rails.pieces.values() for p in pieces for s in SIDES]
    for rail in every:
        joined.find(rail)
    for one, other, setting, _ in found:
        if setting is None:
            joined.join(one, other)
    numbers: dict[Hashable, int] = {}
    net_of = {rail: numbers.setdefault(joined.find(rail), len(numbers)) for rail in every}
    guarded: dict[int, list[tuple[int, Setting]]] = defaultdict(list)
    for one, other, setting, _ in found:
        if setting is not None and net_of[one] != net_of[other]:
            guarded[net_of[one]].append((net_of[other], setting))
            guarded[net_of[other]].append((net_of[one], setting))
    fed: dict[int, list[tuple[str, Potential]]] = defaultdict(list)
    for feeder_id, feeder in layout.feeders.items():
        piece = rails.piece_at(feeder.track, feeder.at)
        a, b = circuit_under(layout, feeder, "A"), circuit_under(layout, feeder, "B")
        side = a_side(layout, feeder)
        fed[net_of[Rail(piece, side)]].append((feeder_id, Potential(a, "A")))
        fed[net_of[Rail(piece, opposite(side))]].append((feeder_id, Potential(b, "B")))
    return Nets(
        layout,
        rails,
        net_of,
        {n: tuple(sorted(set(ls))) for n, ls in guarded.items()},
        {n: tuple(f) for n, f in fed.items()},
        tuple(found),
    )


def _along_tracks(layout: Layout, rails: RailMap) -> list[Bond]:
    gaps_on = gaps_at(layout, rails)
    found: list[Bond] = []
    for track, pieces in rails.pieces.items():
        for k in range(len(pieces) - 1):
            cut = cut_sides(layout, gaps_on.get(track, ()), pieces[k].end)
            found += [Bond(Rail(pieces[k], s), Rail(pieces[k + 1], s)) for s in SIDES if s not in cut]
    return found


def _across_nodes(layout: Layout, rails: RailMap) -> list[Bond]:
    def rail(end: RailEnd) -> Rail:
        return Rail(rails.end_piece(end.track, end.end), end.side)

    return [Bond(rail(b.one), rail(b.other), b.setting, b.faces) for b in node_bonds(layout)]


Clash = Literal["short", "bypass", "districts", "boosters", "selectors"]


@dataclass(frozen=True)
class Sources:
    """Where each circuit's power stands still: the circuit behind its reverser or selector, or behind its source."""

    root: dict[str, str]
    reverses: frozenset[str]
    """Circuits a reverser (or reversing switch) turns, with everything below them."""
    selected: frozenset[str]
    """Circuits whose power a selector chooses, with everything below them."""
    shared: dict[str, dict[str, str]]
    """Per circuit and conductor, the circuit whose very wire it is: a detector sits in one conductor only, and a
    circuit may return over another's B."""

    def works(self, one: Potential, other: Potential) -> bool:
        """Whether track with these two on its rails is live: the two conductors of one circuit, or of two that a common
        return, or a wire they share, makes one."""
        if one.conductor == other.conductor:
            return False
        if self.root[one.circuit] == self.root[other.circuit]:
            return True
        a, b = (one, other) if one.conductor == "A" else (other, one)
        return self.wire(a.circuit, "B") == self.wire(b.circuit, "B")

    def wire(self, circuit: str, conductor: str) -> str:
        """The circuit whose very wire a conductor is."""
        return self.shared[circuit][conductor]

    def clash(self, one: Potential, other: Potential) -> Clash | None:
        """What follows when two potentials meet on one rail; None where they are the same wire."""
        if one == other:
            return None
        same = self.wire(one.circuit, one.conductor) == self.wire(other.circuit, other.conductor)
        if same and one.conductor == other.conductor:
            return None
        a, b = self.root[one.circuit], self.root[other.circuit]
        if a == b:
            return "short" if one.conductor != other.conductor else "districts"
        if a in self.reverses or b in self.reverses:
            return "bypass"
        if one.circuit in self.selected or other.circuit in self.selected:
            return "selectors"
        return "short" if one.conductor != other.conductor else "boosters"


def _returns_to(common: Mapping[str, str], circuit: str) -> str:
    """The circuit whose wire a common return is in the end."""
    seen = {circuit}
    while (onward := common.get(circuit)) is not None and onward not in seen:
        circuit = onward
        seen.add(circuit)
    return circuit


def find_sources(layout: Layout) -> Sources:
    """Roots and reversers of every circuit. Boosters of one railroad are taken to run in phase.

    What a selector gives counts as a root of its own, however it lies: it may lie otherwise tomorrow.
    """
    tree = grow_tree(layout)
    root: dict[str, str] = {}
    reverses: set[str] = set()
    selected: set[str] = set()
    shared: dict[str, dict[str, str]] = {}
    for circuit in layout.circuits:
        up = [layout.devices[d] for d in tree.upstream(circuit)]
        # Power stands still behind the nearest reverser or selector; else behind whatever is at the top.
        still = next((d for d in up if d.kind in REVERSERS or d.kind == "selector"), up[-1] if up else None)
        passes = still is not None and still.kind not in (*REVERSERS, *SOURCES, "selector")
        root[circuit] = circuit if still is None else (still.input if passes else None) or still.output
        if still is not None and still.kind in REVERSERS:
            reverses.add(circuit)
        if still is not None and still.kind == "selector":
            selected.add(circuit)
        shared[circuit] = {}
        for conductor in ("A", "B"):
            # A detector sits in one conductor; the other stays its parent's wire.
            wire = circuit
            for device in up:
                if device.kind != "detector" or device.input is None:
                    break
                if device.sensed == conductor and not reads_a_rail(layout, device):
                    break
                wire = device.input
            shared[circuit][conductor] = wire
    common = commons(layout)
    for circuit in layout.circuits:
        shared[circuit]["B"] = _returns_to(common, shared[circuit]["B"])
    return Sources(root, frozenset(reverses), frozenset(selected), shared)
