"""Which sections a train lights: by the wheels and lamps of it that draw current, and both sides of a gap it
bridges."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

from jolly_copper.core.circuits.whereabouts import extent_circuits
from jolly_copper.core.layout.document import Device, Layout
from jolly_copper.core.layout.stock import Train
from jolly_copper.core.rails.pieces import RailMap
from jolly_copper.core.rails.ways import Ways
from jolly_copper.core.signals.routes import Leg, drive

ENGINE_MM = {"Z": 80.0, "N": 110.0, "TT": 140.0, "HO": 200.0, "OO": 220.0, "S": 260.0, "O": 350.0, "G": 500.0}
"""How much of the front of a train one engine is, where its kind does not say where it picks up. A guess, certainty
C."""
WHEEL_MM = 1.5
"""A wheel touches the rail over so much to each side of its middle."""


@dataclass(frozen=True)
class Standing:
    """A train put on the plan: its front at a place on a track, facing one end of it. train: its id, None for an engine
    alone."""

    name: str
    train: str | None
    track: str
    at: float
    towards: Literal["a", "b"]


@dataclass(frozen=True)
class Sensed:
    """A stretch between gaps with what detects it. device: its channel; None where nothing looks. board, channel,
    address: of it."""

    number: int
    name: str
    device: str | None
    board: str | None
    channel: int | None
    address: int | None
    block: str | None
    section: str | None


def address_of(layout: Layout, device: Device) -> int | None:
    """What a detector channel reports as; None for one that is on no board."""
    if device.board is None or device.channel is None:
        return None
    return layout.detectors[device.board].address + device.channel - 1


def sensing(layout: Layout, rails: RailMap) -> tuple[Sensed, ...]:
    """Every stretch between gaps, with its detector channel where its circuit hangs behind one."""
    feeds = {d.output: i for i, d in layout.devices.items()}
    circuits = extent_circuits(layout, rails)
    found = []
    for number, extent in enumerate(rails.extents):
        anchors = rails.sections_in[number]
        section = layout.sections[anchors[0]] if anchors else None
        widest = max(extent, key=lambda p: (p.end - p.start, p.track))
        name = section.name if section else f"part of {layout.tracks[widest.track].name}"
        device_id = feeds.get(circuits[number] or "")
        device = layout.devices[device_id] if device_id else None
        if device is None or device.kind != "detector":
            device_id = device = None
        found.append(
            Sensed(
                number,
                name,
                device_id,
                device.board if device else None,
                device.channel if device else None,
                address_of(layout, device) if device else None,
                section.block if section else None,
                anchors[0] if anchors else None,
            )
        )
    return tuple(found)


def engine_length(layout: Layout, train: Train | None) -> float:
    """How much of a train's front picks up current with its engines, mm."""
    usual = ENGINE_MM[layout.brief.scale]
    if train is None:
        return usual
    return min(sum(layout.locos[k].pickups or usual for k in train.engines), train.length)


def train_length(layout: Layout, standing: Standing) -> float:
    """Length of a train on the plan, mm."""
    train = layout.trains.get(standing.train or "")
    return train.length if train else engine_length(layout, None)


def seen_length(layout: Layout, train: Train | None) -> float:
    """How much of a train detectors see, from its front, mm: all of it with lit cars or resistor axles, else its
    engines, which draw current.

    An isolated rail is closed by any metal wheel. Where a railroad has other boards too, what those see counts.
    """
    if train is None:
        return engine_length(layout, None)
    boards = layout.detectors.values()
    by_wheels = train.metal_wheels and bool(boards) and all(b.kind == "isolated rail" for b in boards)
    whole = by_wheels or train.lit_cars or train.resistor_axles
    return train.length if whole else engine_length(layout, train)


def behind(layout: Layout, ways: Ways, standing: Standing, length: float, lies: Mapping[str, str]) -> tuple[Leg, ...]:
    """The track a train's first `length` millimetres stand on, from its front backwards, as the turnouts lie."""
    back: Literal["a", "b"] = "a" if standing.towards == "b" else "b"
    return drive(layout, ways, standing.track, standing.at, back, length, lies).passed


@dataclass(frozen=True)
class Occupancy:
    """What a set of trains lights. lit: numbers of stretches whose detector sees something. there: stretches that a
    train stands in, seen or not. legs: for each train, the track it stands on."""

    lit: frozenset[int]
    there: frozenset[int]
    legs: tuple[tuple[Leg, ...], ...]

    @cached_property
    def unseen(self) -> frozenset[int]:
        """Stretches a train stands in without being seen."""
        return self.there - self.lit


def occupied(
    layout: Layout,
    rails: RailMap,
    ways: Ways,
    sensed: Sequence[Sensed],
    trains: Sequence[Standing],
    lies: Mapping[str, str],
) -> Occupancy:
    """The sections trains light. A wheel on both sides of a gap lights both; stretches behind one channel light
    together."""
    behind_channel: dict[str, list[int]] = {}
    for s in sensed:
        if s.device is not None:
            behind_channel.setdefault(s.device, []).append(s.number)
    lit: set[int] = set()
    there: set[int] = set()
    legs = []
    for standing in trains:
        train = layout.trains.get(standing.train or "")
        whole = behind(layout, ways, standing, train_length(layout, standing), lies)
        seen = behind(layout, ways, standing, seen_length(layout, train), lies)
        legs.append(whole)
        there |= _under(rails, whole)
        # A channel lights for all it looks at.
        lit |= {
            k for n in _under(rails, seen) if (device := sensed[n].device) is not None for k in behind_channel[device]
        }
    return Occupancy(frozenset(lit), frozenset(there), tuple(legs))


def _under(rails: RailMap, legs: Sequence[Leg]) -> set[int]:
    """Stretches under a train, each leg a wheel's touch longer at both ends."""
    found: set[int] = set()
    for leg in legs:
        for piece in rails.pieces[leg.track]:
            if piece.start - WHEEL_MM < leg.high and leg.low < piece.end + WHEEL_MM:
                found.add(rails.extent_of[piece])
    return found
