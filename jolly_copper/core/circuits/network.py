"""The electrical network of a layout: every conductor, contact, joiner and device as a resistor between two nodes.

Nothing in here is solved. Resistances in series that nothing taps are one element of several parts, so the matrix
stays small while the staircase can still tell the plug from the wire.
"""

from __future__ import annotations

import itertools
from collections import defaultdict
from collections.abc import Hashable, Iterator, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal, NamedTuple

from jolly_copper.core.circuits.assembly import Assembly, Ints, MeasuredParts, Part, connected
from jolly_copper.core.circuits.devices import add_devices
from jolly_copper.core.circuits.giving import source_volts
from jolly_copper.core.circuits.lengths import feeder_length, run_length
from jolly_copper.core.circuits.rail_work import LaidRails, Point, Span, lay_rails, lay_rails_with
from jolly_copper.core.circuits.wires import feeder_ohms_per_metre, run_ohms_per_metre
from jolly_copper.core.layout.connections import CONDUCTORS, held, tied_at
from jolly_copper.core.layout.control import a_side
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.power_tree import PowerTree, grow_tree
from jolly_copper.core.layout.wiring import Run
from jolly_copper.core.materials import copper, joints
from jolly_copper.core.quantities import read_gauge
from jolly_copper.core.rails.pieces import (
    RailMap,
    opposite,
)


class Element(NamedTuple):
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


def assemble(layout: Layout, extra_points: Sequence[Point] = ()) -> Network:
    """Build the network of a layout.

    Args:
        layout: the document.
        extra_points: (track id, mm from A) where a node is wanted though nothing is attached, for netlists.

    Returns:
        The network. A stretch of rail with no feeder is in it all the same, joined to nothing.
    """
    laid = lay_rails_with(layout, extra_points) if extra_points else lay_rails(layout)
    tree, work = grow_tree(layout), laid.work.begun()
    found = MeasuredParts(layout)
    add_devices(layout, tree, work)
    _runs(layout, found, work)
    _feeders(layout, laid.rails, found, work)
    work.resistors += laid.work.resistors
    return _number(layout, laid, tree, work)


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


def _number(layout: Layout, laid: LaidRails, tree: PowerTree, work: Assembly) -> Network:
    numbers: dict[Hashable, int] = {}
    nodes: dict[Hashable, int] = {}

    def number(key: Hashable) -> int:
        found = nodes.get(key)
        if found is None:
            found = nodes[key] = numbers.setdefault(work.joined.find(key), len(numbers))
        return found

    elements: list[Element] = []
    sources: list[Source] = []
    for kind, owner, conductor, a, b, parts, ohms, henries in work.resistors:
        element = Element(
            kind,  # type: ignore[arg-type]
            owner,
            conductor,
            number(a),
            number(b),
            parts,
            ohms,
            henries,
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
        for s in laid.spans
    )
    # Places where something may be tied without a resistor of its own; those no wire reaches have no number.
    for key in _ties(layout):
        root = work.joined.find(key)
        if root in numbers:
            nodes.setdefault(key, numbers[root])
    return Network(layout, laid.rails, tree, tuple(elements), tuple(sources), numbered, len(numbers), nodes, laid.fed)


def _ties(layout: Layout) -> Iterator[Hashable]:
    for c in CONDUCTORS:
        yield from (("terminal", i, c) for i in layout.terminals)
        yield from (("out", i, c) for i in layout.devices)
        yield from (("run", i, c, run_length(r)) for i, r in layout.runs.items() if r.ends_at_device)
