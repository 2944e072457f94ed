"""Couplings read: which pin of which carries what, on both halves."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.ids import natural
from jolly_copper.core.layout.travel import Connector, Coupling
from jolly_copper.core.materials.copper import area_mm2
from jolly_copper.core.quantities import read_gauge
from jolly_copper.core.travel.crossing import BoardJoint, Boards, Crossing, Power, board_joints, joints_of

UNLIKE_VOLTS = 0.5
"""Wires whose volts differ by more are unlike. Common practice, no source."""


Coupled = dict[str, tuple[str, dict[int, int]]]
"""The name of the coupling that holds something, and the pin of each of its wires, by its key."""


@dataclass(frozen=True)
class Pin:
    """A pole, the same on both halves. of: the crossing; wire: which of its wires, from 1. live: whose half is fed."""

    number: int
    of: Crossing
    wire: int

    @property
    def colour(self) -> str:
        """Of its wire."""
        return self.of.colours[self.wire - 1]


@dataclass(frozen=True)
class CouplingRead:
    """A coupling with its pins. gone: what it holds that does not cross its joint; without: how many of its wires have
    no pole left."""

    id: str
    coupling: Coupling
    pins: tuple[Pin, ...]
    gone: tuple[str, ...]
    without: int

    @property
    def live(self) -> frozenset[str | None]:
        """The boards its pins are fed from."""
        return frozenset(p.of.live for p in self.pins)


def boards_of(coupling: Coupling) -> Boards:
    """The two boards of a coupling; None for what hangs off the boards."""
    one, other = [*coupling.boards, None][:2]
    return one, other


def joined_by(coupling: Coupling) -> frozenset[str | None]:
    """The two boards of a coupling, whichever comes first."""
    return frozenset(boards_of(coupling))


def takes_wire(kind: Connector, gauge: str) -> bool:
    """Whether the poles of a kind take a wire of a gauge."""
    return area_mm2(read_gauge(gauge)) <= area_mm2(read_gauge(kind.takes)) + 1e-6


def couplings_of(facts: Facts) -> tuple[CouplingRead, ...]:
    """The couplings of a worked-out layout, read once for all who ask."""
    found = facts.kept.get("couplings")
    if not isinstance(found, tuple):
        facts.kept["couplings"] = found = read_couplings(facts.layout, joints_of(facts))
    return found


def read_couplings(layout: Layout, joints: Sequence[BoardJoint]) -> tuple[CouplingRead, ...]:
    """Every coupling with its pins, in the order of their names."""
    by_joint: dict[frozenset[str | None], dict[str, Crossing]] = {
        frozenset(j.boards): {c.key: c for c in j.crossings if c.key is not None} for j in joints
    }
    order = sorted(layout.couplings, key=lambda i: (natural(layout.couplings[i].name), i))
    return tuple(_read(layout, i, by_joint.get(joined_by(layout.couplings[i]), {})) for i in order)


def _read(layout: Layout, coupling_id: str, here: Mapping[str, Crossing]) -> CouplingRead:
    coupling = layout.couplings[coupling_id]
    poles = layout.connectors[coupling.kind].poles
    pins: list[Pin] = []
    gone: list[str] = []
    without = 0
    for held in coupling.holds:
        crossing = here.get(held.of)
        if crossing is None:
            gone.append(held.of)
            continue
        for wire in range(held.first, min(held.first + held.wires, len(crossing.colours) + 1)):
            if len(pins) < poles:
                pins.append(Pin(len(pins) + 1, crossing, wire))
            else:
                without += 1
    return CouplingRead(coupling_id, coupling, tuple(pins), tuple(gone), without)


def held_by(layout: Layout, joints: Sequence[BoardJoint] | None = None) -> Coupled:
    """For everything a coupling holds, by its key: the name of the coupling, and the pin of each of its wires. What is
    parted over two couplings is told by the first."""
    if not layout.couplings:
        return {}
    found: Coupled = {}
    for read in read_couplings(layout, board_joints(layout) if joints is None else joints):
        for pin in read.pins:
            name, pins = found.setdefault(pin.of.name, (read.coupling.name, {}))
            if name == read.coupling.name:
                pins[pin.wire] = pin.number
    return found


def in_coupling(coupled: Coupled, key: str) -> str:
    """Where something is held, to follow its name: ` in coupling 1A, pins 1 and 2`; empty where it is in none."""
    if key not in coupled:
        return ""
    name, pins = coupled[key]
    numbers = [str(pins[w]) for w in sorted(pins)]
    said = " and ".join([", ".join(numbers[:-1]), numbers[-1]] if len(numbers) > 1 else numbers)
    return f" in coupling {name}, pin{'s' if len(numbers) > 1 else ''} {said}"


def unplugged(joints: Sequence[BoardJoint], read: Sequence[CouplingRead]) -> Iterator[tuple[Boards, Crossing, int]]:
    """What crosses a joint with wires that no coupling holds, and how many of its wires those are."""
    held = {(p.of.key, p.wire) for c in read for p in c.pins}
    for joint in joints:
        for crossing in joint.crossings:
            bare = sum((crossing.key, n) not in held for n in range(1, len(crossing.colours) + 1))
            if crossing.key is None or bare:
                yield joint.boards, crossing, bare


def unlike(one: Power, other: Power) -> bool:
    """Whether wires must never be put together: another kind of power, or volts that differ."""
    return one.kind != other.kind or abs(one.volts - other.volts) > UNLIKE_VOLTS


def mates(one: Coupling, other: Coupling) -> bool:
    """Whether the halves of two couplings go together though they should not: of one kind, keyed alike."""
    return one.kind == other.kind and one.coding == other.coding


def mixed_up(read: Sequence[CouplingRead]) -> Iterator[tuple[CouplingRead, CouplingRead, Pin, Pin]]:
    """Couplings whose halves mate crosswise and would put unlike volts together, with the first pole where they do."""
    for n, one in enumerate(read):
        for other in read[n + 1 :]:
            if mates(one.coupling, other.coupling):
                pair = next(
                    ((p, q) for p, q in zip(one.pins, other.pins, strict=False) if unlike(p.of.power, q.of.power)), None
                )
                if pair is not None:
                    yield one, other, *pair


def plain_plugs(joints: Sequence[BoardJoint], read: Sequence[CouplingRead]) -> tuple[CouplingRead, ...]:
    """Plugs and cable joints that no coupling holds, each told as a connector of its own: what is there until the club
    chooses its connectors."""
    held = {p.of.key for r in read for p in r.pins}
    found = []
    for joint in joints:
        for c in joint.crossings:
            if c.key is None or c.key in held:
                continue
            name = c.key.split(":", 1)[1] if c.key.startswith("plug:") else c.label
            coupling = Coupling.model_construct(
                name=name, boards=[b for b in joint.boards if b is not None], kind="plug", socket_on=c.live, holds=[]
            )
            pins = tuple(Pin(n, c, n) for n in range(1, len(c.colours) + 1))
            found.append(CouplingRead(name, coupling, pins, (), 0))
    return tuple(found)
