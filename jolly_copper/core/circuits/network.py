"""The electrical network of a layout: every conductor, contact, joiner and device as a resistor between two nodes.

Nothing in here is solved. Resistances in series that nothing taps are one element of several parts, so the matrix
stays small while the staircase can still tell the plug from the wire.
"""

from __future__ import annotations

import itertools
from bisect import bisect_left, bisect_right
from collections import defaultdict
from collections.abc import Hashable, Iterator, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal

from jolly_copper.core.circuits.assembly import Assembly, Ints, MeasuredParts, Part, connected, joiner_places
from jolly_copper.core.circuits.devices import add_devices
from jolly_copper.core.circuits.giving import source_volts
from jolly_copper.core.circuits.lengths import feeder_length, run_length
from jolly_copper.core.circuits.wires import feeder_ohms_per_metre, run_ohms_per_metre
from jolly_copper.core.layout.connections import CONDUCTORS, held, tied_at
from jolly_copper.core.layout.control import a_side, outers_in_parallel
from jolly_copper.core.layout.document import Layout, Track
from jolly_copper.core.layout.power_tree import PowerTree, grow_tree
from jolly_copper.core.layout.wiring import Run
from jolly_copper.core.materials import copper, joints, rail
from jolly_copper.core.quantities import read_gauge
from jolly_copper.core.rails.bridges import bridge_bonds
from jolly_copper.core.rails.nets import cut_sides, gaps_at, read_pieces
from jolly_copper.core.rails.pieces import (
    SIDES,
    Piece,
    RailMap,
    map_rails,
    node_bonds,
    opposite,
)


@dataclass(frozen=True, slots=True)
class Element:
    """A resistor of the network, from node `a` to node `b`. `owner` is the run, feeder, device or track it belongs
    to."""

    kind: Literal["source", "device", "run", "feeder", "rail", "bond"]
    owner: str
    conductor: str
    a: int
    b: int
    parts: tuple[Part, ...]
    ohms: float
    henries: float


@dataclass(frozen=True, slots=True)
class Source:
    """A station or booster: open-circuit volts between nodes `a` and `b`, its internal Ω as element number
    `element`."""

    device: str
    a: int
    b: int
    volts: float
    element: int


@dataclass(frozen=True, slots=True)
class Span:
    """Track between two points where something is attached: both rails, with where joiners lie in it.

    Along it resistance grows by `per_mm` and jumps by `joiner` at each of `joiners` (mm from the track's A end).
    """

    track: str
    piece: Piece
    start: float
    end: float
    left: tuple[int, int]
    right: tuple[int, int]
    per_mm: float
    joiner: float
    joiners: tuple[float, ...]
    after: bool = False
    """It begins just beyond a joiner that was measured by itself, which is an element of its own."""

    def key(self, end: Literal["start", "end"], side: str) -> Hashable:
        """Where a rail of this span begins or ends, as the assembly names it."""
        if end == "end":
            return ("rail", self.piece, self.end, side)
        return (
            ("rail", self.piece, self.start, side, "beyond") if self.after else ("rail", self.piece, self.start, side)
        )

    @property
    def ohms(self) -> float:
        return self.per_mm * (self.end - self.start) + self.joiner * len(self.joiners)

    def ohms_to(self, at: float, after: bool = False) -> float:
        """Resistance of one rail from the span's start to a point, before or after a joiner that lies right there."""
        count = (bisect_right if after else bisect_left)(self.joiners, at)
        return self.per_mm * (at - self.start) + self.joiner * count


@dataclass(frozen=True)
class Network:
    """The whole network: elements between numbered nodes, sources, spans of track, and where each node came from."""

    layout: Layout
    rails: RailMap
    tree: PowerTree
    elements: tuple[Element, ...]
    sources: tuple[Source, ...]
    spans: tuple[Span, ...]
    node_count: int
    nodes: dict[Hashable, int] = field(repr=False)
    fed_extents: dict[int, tuple[str, ...]] = field(repr=False)
    """Feeder ids by stretch of rail (number in `rails.extents`)."""

    @cached_property
    def part_of_node(self) -> Ints:
        """Number of the connected part of the network that each node lies in."""
        return connected([(e.a, e.b) for e in self.elements], self.node_count)

    @cached_property
    def spans_on(self) -> dict[str, list[int]]:
        """Numbers of the spans of each track, in order from its A end."""
        found: dict[str, list[int]] = {}
        for number, span in enumerate(self.spans):
            found.setdefault(span.track, []).append(number)
        return found


Point = tuple[str, float]


def assemble(layout: Layout, extra_points: Sequence[Point] = ()) -> Network:
    """Build the network of a layout.

    Args:
        layout: the document.
        extra_points: (track id, mm from A) where a node is wanted though nothing is attached, for netlists.

    Returns:
        The network. A stretch of rail with no feeder is in it all the same, joined to nothing.
    """
    rails, tree, work = map_rails(layout), grow_tree(layout), Assembly()
    stops: dict[Piece, set[float]] = defaultdict(set)
    fed: dict[int, list[str]] = defaultdict(list)
    for feeder_id, feeder in layout.feeders.items():
        piece = rails.piece_at(feeder.track, feeder.at)
        stops[piece].add(min(max(feeder.at, piece.start), piece.end))
        fed[rails.extent_of[piece]].append(feeder_id)
    for track_id, at in extra_points:
        piece = rails.piece_at(track_id, at)
        stops[piece].add(min(max(at, piece.start), piece.end))
    for alone in layout.isolated.values():
        for at in (alone.start, alone.end):
            stops[rails.piece_at(alone.track, at)].add(at)
    found = MeasuredParts(layout)
    add_devices(layout, tree, work)
    _runs(layout, found, work)
    _feeders(layout, rails, found, work)
    spans = _rails(layout, rails, stops, found, work)
    return _number(layout, rails, tree, work, spans, {k: tuple(v) for k, v in fed.items()})


def _runs(layout: Layout, found: MeasuredParts, work: Assembly) -> None:
    terminals: dict[str, list[tuple[float, str]]] = defaultdict(list)
    plugs: dict[str, list[tuple[float, str]]] = defaultdict(list)
    for i, terminal in layout.terminals.items():
        terminals[terminal.run].append((terminal.along, i))
    for i, plug in layout.plugs.items():
        plugs[plug.run].append((plug.along, i))
    for run_id, run in layout.runs.items():
        length, gauge = run_length(run), read_gauge(run.gauge)
        per_mm = run_ohms_per_metre(layout, run) / 1000
        henries = copper.pair_henries_per_metre(run.make, gauge, run.spacing) / 2000
        here = sorted((min(a, length), t) for a, t in terminals[run_id])
        marks = sorted({run.fed.along, *(a for a, _ in here), *([length] if _has_far_end(run) else [])})
        for c in held(run):

            def node(along: float, c: str = c, run_id: str = run_id) -> Hashable:
                return ("run", run_id, c, along)

            if run.fed.device is not None:
                work.joined.join(("out", run.fed.device, c), node(run.fed.along))
            elif run.fed.terminal is not None:
                contact = _contact(layout, found, run.fed.terminal, c)
                work.series("run", run_id, c, ("terminal", run.fed.terminal, c), node(run.fed.along), [contact])
            for along, terminal_id in here:
                work.joined.join(node(along), ("terminal", terminal_id, c))
            if run.ends_at_terminal is not None:
                contact = _contact(layout, found, run.ends_at_terminal, c)
                work.series("run", run_id, c, node(length), ("terminal", run.ends_at_terminal, c), [contact])
            for start, end in itertools.pairwise(marks):
                parts: list[Part | None] = [
                    Part("wire", run_id, per_mm * (end - start), henries * (end - start), end - start)
                ]
                for along, plug_id in plugs[run_id]:
                    if start < along <= end or (along == 0 == start):
                        ohms = layout.plugs[plug_id].ohms
                        usual = joints.PLUG[1] if ohms is None else ohms
                        parts.append(found.part("plug", "plug", plug_id, c, usual))
                for along, terminal_id in here:
                    if along in (start, end) and layout.terminals[terminal_id].kind in joints.BUS_IS_CUT_AT:
                        parts.append(_contact(layout, found, terminal_id, c))
                work.series("run", run_id, c, node(start), node(end), parts)


def _has_far_end(run: Run) -> bool:
    return run.ends_at_device is not None or run.ends_at_terminal is not None


def _contact(
    layout: Layout, found: MeasuredParts, terminal_id: str, conductor: str, of: str | None = None
) -> Part | None:
    """A contact at a terminal: the one of a feeder where `of` names it and it was measured by itself; None where
    broken."""
    terminal = layout.terminals[terminal_id]
    usual = joints.TERMINAL[terminal.kind][1] if terminal.ohms is None else terminal.ohms
    if of is not None and found.knows("contact", of, conductor):
        return found.part("contact", "contact", of, conductor, usual, owner=terminal_id)
    return found.part("contact", "contact", terminal_id, conductor, usual)


def _feeders(layout: Layout, rails: RailMap, found: MeasuredParts, work: Assembly) -> None:
    for feeder_id, feeder in layout.feeders.items():
        piece = rails.piece_at(feeder.track, feeder.at)
        at = min(max(feeder.at, piece.start), piece.end)
        for c in CONDUCTORS:
            terminal = tied_at(layout, feeder, c)
            length = feeder_length(layout, feeder, c)
            per_mm = feeder_ohms_per_metre(layout, feeder, c) / 1000
            henries = copper.pair_henries_per_metre("side by side", read_gauge(feeder.gauge)) / 2000
            parts = [
                _contact(layout, found, terminal, c, feeder_id),
                found.part("feeder wire", "wire", feeder_id, c, per_mm * length, henries * length, length),
                Part("solder", feeder_id, joints.RAIL_SOLDER),
            ]
            a = a_side(layout, feeder)
            side = a if c == "A" else opposite(a)
            work.series("feeder", feeder_id, c, ("terminal", terminal, c), ("rail", piece, at, side), parts)


def rail_ohms_per_mm(track: Track) -> float:
    """Resistance of one rail of a track, Ω per mm: measured when someone measured it."""
    if track.ohms_per_metre is not None:
        return track.ohms_per_metre / 1000
    return rail.ohms_per_metre(track.code, track.metal).used / 1000


def _rails(
    layout: Layout, rails: RailMap, stops: dict[Piece, set[float]], found: MeasuredParts, work: Assembly
) -> list[Span]:
    gaps_on = gaps_at(layout, rails)
    read = read_pieces(layout, rails)
    spans: list[Span] = []
    at_ends: dict[tuple[str, str, str], float | None] = {}
    for track_id, track in layout.tracks.items():
        per_mm, joiner = rail_ohms_per_mm(track), joints.RAIL_JOINER[track.joiners][1]
        length = rails.lengths[track_id]
        gaps = gaps_on.get(track_id, ())
        places = joiner_places(track, length, [at for at, _ in gaps])
        own = found.joiners(track_id, places, length)
        for place, end in ((0.0, "a"), (length, "b")):
            at_ends |= {(track_id, end, side): ohms for side, ohms in own.pop(place, {}).items()}
        pieces = rails.pieces[track_id]
        for piece, following in itertools.pairwise(pieces):
            cut = cut_sides(layout, gaps, piece.end)
            if len(cut) == 1 and (piece in read or following in read):
                cut = set()  # an isolated rail: the other outer rail carries on where this one is cut
            for side in SIDES:
                if side not in cut:
                    work.joined.join(("rail", piece, piece.end, side), ("rail", following, following.start, side))
        for piece in pieces:
            inner = {p for p in own if piece.start < p < piece.end}
            marks = sorted({piece.start, piece.end, *stops.get(piece, ()), *inner})
            for start, end in itertools.pairwise(marks):
                inside = tuple(p for p in places if start < p <= end and p not in own)
                share = {side: rail_share(layout, track_id, side, start, end) for side in SIDES}
                mean = sum(share.values()) / 2  # of both rails: what a loop over the two of them takes, halved
                span = Span(
                    track_id,
                    piece,
                    start,
                    end,
                    (-1, -1),
                    (-1, -1),
                    per_mm * mean,
                    joiner * mean,
                    inside,
                    start in inner,
                )
                spans.append(span)
                henries = copper.RAIL_PAIR_HENRIES / 2000 * (end - start)
                for side in SIDES:
                    parts = [
                        Part("rail", track_id, per_mm * share[side] * (end - start), henries, end - start),
                        Part("joiner", track_id, joiner * share[side] * len(inside)),
                    ]
                    work.resistor("rail", track_id, side, span.key("start", side), span.key("end", side), parts)
                    if start in inner:
                        ohms = own[start].get(side, joiner)
                        part = None if ohms is None else Part("joiner", track_id, ohms)
                        work.series(
                            "bond", track_id, side, ("rail", piece, start, side), span.key("start", side), [part]
                        )
    _across_nodes(layout, rails, at_ends, work)
    return spans


def rail_share(layout: Layout, track: str, side: str, start: float, end: float) -> float:
    """Resistance of a conductor of track against one rail's: a half for two outer rails in parallel, one elsewhere.

    Along an isolated rail a single outer carries the return.
    """
    if side == "left" or not outers_in_parallel(layout, track):
        return 1.0
    middle = (start + end) / 2
    alone = any(x.track == track and x.start < middle < x.end for x in layout.isolated.values())
    return 1.0 if alone else 0.5


def _across_nodes(
    layout: Layout, rails: RailMap, measured: dict[tuple[str, str, str], float | None], work: Assembly
) -> None:
    """Rails that meet at nodes as the turnouts lie: a joiner, and the blade where a turnout routes power over it."""
    blade = layout.brief.rules.blade_ohms
    for one, other, setting, _ in (*node_bonds(layout), *bridge_bonds(layout)):
        if setting is not None and layout.nodes[setting.node].lies != setting.lies:
            continue
        ohms: float | None = max(
            joints.RAIL_JOINER[layout.tracks[e.track].joiners][1] * rail_share(layout, e.track, e.side, 0.0, 0.0)
            for e in (one, other)
        )
        for end in (one, other):
            if tuple(end) in measured:
                ohms = measured[end.track, end.end, end.side]
        nodes = []
        for track_id, end_name, side in (one, other):
            piece = rails.pieces[track_id][0 if end_name == "a" else -1]
            nodes.append(("rail", piece, piece.start if end_name == "a" else piece.end, side))
        parts = [None if ohms is None else Part("joiner", one.track, ohms)]
        if setting is not None and blade > 0:
            parts.append(Part("blade", setting.node, blade))
        work.series("bond", one.track, one.side, nodes[0], nodes[1], parts)


def _number(
    layout: Layout,
    rails: RailMap,
    tree: PowerTree,
    work: Assembly,
    spans: list[Span],
    fed: dict[int, tuple[str, ...]],
) -> Network:
    numbers: dict[Hashable, int] = {}
    nodes: dict[Hashable, int] = {}

    def number(key: Hashable) -> int:
        found = nodes.get(key)
        if found is None:
            found = nodes[key] = numbers.setdefault(work.joined.find(key), len(numbers))
        return found

    elements: list[Element] = []
    sources: list[Source] = []
    for kind, owner, conductor, a, b, parts in work.resistors:
        element = Element(
            kind,  # type: ignore[arg-type]
            owner,
            conductor,
            number(a),
            number(b),
            parts,
            sum(p.ohms for p in parts),
            sum(p.henries for p in parts),
        )
        if element.a == element.b:
            continue  # both ends are one piece of metal by another way: no current, no equation
        if kind == "source":
            volts = source_volts(layout, owner) * (-1 if layout.devices[owner].turned else 1)
            sources.append(Source(owner, element.a, element.b, volts, len(elements)))
        elements.append(element)
    numbered = tuple(
        Span(
            s.track,
            s.piece,
            s.start,
            s.end,
            (number(s.key("start", "left")), number(s.key("end", "left"))),
            (number(s.key("start", "right")), number(s.key("end", "right"))),
            s.per_mm,
            s.joiner,
            s.joiners,
            s.after,
        )
        for s in spans
    )
    # Places where something may be tied without a resistor of its own; those no wire reaches have no number.
    for key in _ties(layout):
        root = work.joined.find(key)
        if root in numbers:
            nodes.setdefault(key, numbers[root])
    return Network(layout, rails, tree, tuple(elements), tuple(sources), numbered, len(numbers), nodes, fed)


def _ties(layout: Layout) -> Iterator[Hashable]:
    for c in CONDUCTORS:
        yield from (("terminal", i, c) for i in layout.terminals)
        yield from (("out", i, c) for i in layout.devices)
        yield from (("run", i, c, run_length(r)) for i, r in layout.runs.items() if r.ends_at_device)
