"""What the rails carry at a moment: potentials by circuit as devices stand, and where wheels join what differs.

Potentials hang on frames: all digital power on one, all AC on one, a DC cab on its own wires until rails join it to
others. Wheels and tools are ties between rails; a tie that does not fit is a clash, at that very wheel.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import NamedTuple

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.giving import source_volts
from jolly_copper.core.layout.control import commons, control_given
from jolly_copper.core.layout.document import REVERSERS, Device
from jolly_copper.core.layout.power_tree import SOURCES
from jolly_copper.core.rails.nets import Nets, Rail
from jolly_copper.core.rails.pieces import Piece, Side

UNEQUAL_VOLTS = 0.5
"""Rails that differ by less are the same: two sources are never quite alike. Certainty C."""
MOST_UP = 200


class Volts(NamedTuple):
    """A potential against its frame, by kind: direct, digital and alternating volts add up in nothing."""

    dc: float = 0.0
    dcc: float = 0.0
    ac: float = 0.0

    def less(self, other: Volts) -> Volts:
        return Volts(self.dc - other.dc, self.dcc - other.dcc, self.ac - other.ac)

    def plus(self, other: Volts) -> Volts:
        return Volts(self.dc + other.dc, self.dcc + other.dcc, self.ac + other.ac)

    @property
    def size(self) -> float:
        """The most volts between two rails that differ so."""
        return abs(self.dc) + abs(self.dcc) + abs(self.ac)


class Potential(NamedTuple):
    """What a rail stands at: so many volts in a frame."""

    frame: str
    volts: Volts


class Tie(NamedTuple):
    """Two rails joined at a place by a wheel or a tool. who: the train, or the fault."""

    one: int
    other: int
    track: str
    at: float
    side: Side | None
    who: str
    ohms: float


class Clash(NamedTuple):
    """A tie that does not fit. near, far: the circuits that feed into it from the one and the other rail; either may be
    empty where the rail is fed through wheels alone."""

    tie: Tie
    volts: float
    near: frozenset[str]
    far: frozenset[str]


@dataclass
class Standing:
    """How the devices stand just now: which are open or off, which reversers are turned over, where selectors and
    turnouts lie."""

    open: set[str] = field(default_factory=set)
    turned: set[str] = field(default_factory=set)
    inputs: dict[str, str | None] = field(default_factory=dict)
    lies: dict[str, str] = field(default_factory=dict)


@dataclass
class Metal:
    """The rails of a layout with what they carry, asked again and again while devices and turnouts change.

    nets: of the railroad as it is just now (a dead joiner cuts it); standing: how devices stand.
    """

    facts: Facts
    nets: Nets
    standing: Standing
    _carried: dict[str, tuple[Potential, Potential] | None] = field(default_factory=dict)
    _up: dict[str, tuple[str, ...]] = field(default_factory=dict)
    _across: dict[Piece, tuple[tuple[str, ...], Volts] | None] = field(default_factory=dict)
    _groups: dict[int, int] | None = None
    _feeds: dict[int, tuple[tuple[str, str], ...]] | None = None

    def changed(self) -> None:
        """Forget what was worked out: a device or a turnout stands otherwise."""
        self._carried.clear()
        self._up.clear()
        self._across.clear()
        self._groups = self._feeds = None

    @cached_property
    def fed_by(self) -> dict[str, str]:
        return {d.output: i for i, d in self.facts.layout.devices.items()}

    @cached_property
    def common(self) -> dict[str, str]:
        return commons(self.facts.layout)

    def input_of(self, device_id: str) -> str | None:
        """The circuit a device takes its power from, as selectors lie."""
        device = self.facts.layout.devices[device_id]
        return self.standing.inputs.get(device_id, device.input) if device.kind == "selector" else device.input

    def upstream(self, circuit: str) -> tuple[str, ...]:
        """Devices from the one that feeds a circuit up to its source, as selectors lie."""
        if (known := self._up.get(circuit)) is not None:
            return known
        found: list[str] = []
        at: str | None = circuit
        while at is not None and at in self.fed_by and len(found) < MOST_UP:
            found.append(self.fed_by[at])
            device = self.facts.layout.devices[found[-1]]
            at = None if device.kind in SOURCES else self.input_of(found[-1])
        self._up[circuit] = tuple(found)
        return self._up[circuit]

    def carried(self, circuit: str) -> tuple[Potential, Potential] | None:
        """What conductors A and B of a circuit stand at; None where no power reaches it."""
        if circuit not in self._carried:
            self._carried[circuit] = self._carry(circuit)
        return self._carried[circuit]

    def _carry(self, circuit: str) -> tuple[Potential, Potential] | None:
        up = self.upstream(circuit)
        if not up or any(d in self.standing.open for d in up):
            return None
        devices = self.facts.layout.devices
        source = devices[up[-1]]
        if source.kind not in SOURCES:
            return None
        a, b = self._source(up[-1], source)
        for device_id in reversed(up[:-1]):
            if devices[device_id].kind in REVERSERS and device_id in self.standing.turned:
                a, b = b, a
        return a, b

    def _source(self, device_id: str, device: Device) -> tuple[Potential, Potential]:
        volts = source_volts(self.facts.layout, device_id)
        match control_given(self.facts.layout, device):
            case "dcc":
                return Potential("digital", Volts(dcc=volts / 2)), Potential("digital", Volts(dcc=-volts / 2))
            case "ac3":
                frame = "alternating"
                return Potential(frame, Volts(ac=volts)), Potential(frame, Volts())
            case _:
                frame = self._return(device.output)
                sign = -1 if device_id in self.standing.turned else 1
                return Potential(frame, Volts(dc=sign * volts)), Potential(frame, Volts())

    def _return(self, circuit: str) -> str:
        """The circuit whose conductor B a DC source returns over."""
        for _ in range(MOST_UP):
            if circuit not in self.common:
                break
            circuit = self.common[circuit]
        return circuit

    @property
    def group_of(self) -> dict[int, int]:
        """The metal each net belongs to as the turnouts lie."""
        if self._groups is None:
            self._groups = self.nets.routes(self.standing.lies)
        return self._groups

    def group(self, piece: Piece, side: Side) -> int:
        """The metal a rail is part of."""
        return self.group_of[self.nets.net_of[Rail(piece, side)]]

    @property
    def feeds(self) -> dict[int, tuple[tuple[str, str], ...]]:
        """What feeds each piece of metal: circuits with the conductor, each once."""
        if self._feeds is None:
            found: dict[int, dict[tuple[str, str], None]] = {}
            for net, fed in self.nets.fed.items():
                here = found.setdefault(self.group_of[net], {})
                for _, potential in fed:
                    here[potential.circuit, potential.conductor] = None
            self._feeds = {g: tuple(f) for g, f in found.items()}
        return self._feeds

    def live(self, group: int) -> list[tuple[str, Potential]]:
        """Circuits that feed a piece of metal just now, with what they put on it."""
        found = []
        for circuit, conductor in self.feeds.get(group, ()):
            both = self.carried(circuit)
            if both is not None:
                found.append((circuit, both[0] if conductor == "A" else both[1]))
        return found

    def differ(self, one: int, other: int) -> bool:
        """Whether a wheel that joins two pieces of metal would change anything: one is live and the other dead, or they
        stand at unlike potentials."""
        if one == other:
            return False
        a, b = self.live(one), self.live(other)
        if not a or not b:
            return bool(a) != bool(b)
        return a[0][1].frame != b[0][1].frame or a[0][1].volts.less(b[0][1].volts).size > UNEQUAL_VOLTS

    def across(self, piece: Piece) -> tuple[tuple[str, ...], Volts] | None:
        """The circuits that feed both rails of a piece and the volts left to right; None where it is dead."""
        if piece not in self._across:
            self._across[piece] = self._find_across(piece)
        return self._across[piece]

    def _find_across(self, piece: Piece) -> tuple[tuple[str, ...], Volts] | None:
        left, right = self.live(self.group(piece, "left")), self.live(self.group(piece, "right"))
        for circuit, one in left:
            for other_circuit, other in right:
                if one.frame == other.frame:
                    return tuple(dict.fromkeys((circuit, other_circuit))), one.volts.less(other.volts)
        return None

    def judge(self, ties: Sequence[Tie]) -> tuple[list[Clash], dict[int, frozenset[str]]]:
        """Which ties clash, and what circuits feed each piece of metal that a tie touches.

        Ties are put together one by one: rails, and the frames they hang on, stand so many volts above each other. One
        that joins what stands already, at another height, clashes.
        """
        above: dict[object, tuple[object, Volts]] = {}

        def find(x: object) -> tuple[object, Volts]:
            height, at = Volts(), x
            while at in above:
                at, d = above[at]
                height = height.plus(d)
            return at, height

        def join(x: object, y: object, volts: Volts) -> float:
            """x stands `volts` above y. How far off that is from what is known."""
            (rx, hx), (ry, hy) = find(x), find(y)
            if rx == ry:
                return hx.less(hy).less(volts).size
            above[rx] = (ry, hy.plus(volts).less(hx))
            return 0.0

        touched: dict[int, None] = {}
        for tie in ties:
            touched[tie.one] = touched[tie.other] = None
        fed: dict[int, set[str]] = {}
        for group in touched:
            for circuit, potential in self.live(group):
                fed.setdefault(group, set()).add(circuit)
                join(group, potential.frame, potential.volts)
        clashes: list[tuple[Tie, float]] = []
        metal: dict[int, int] = {g: g for g in touched}

        def rail(g: int) -> int:
            while metal[g] != g:
                g = metal[g]
            return g

        for tie in ties:
            off = join(tie.one, tie.other, Volts())
            if off > UNEQUAL_VOLTS:
                clashes.append((tie, off))
            elif rail(tie.one) != rail(tie.other):
                metal[rail(tie.one)] = rail(tie.other)
        whose: dict[int, set[str]] = {}
        for g in touched:
            whose.setdefault(rail(g), set()).update(fed.get(g, ()))
        by_group = {g: frozenset(whose[rail(g)]) for g in touched}
        return [Clash(t, v, by_group[t.one], by_group[t.other]) for t, v in clashes], by_group
