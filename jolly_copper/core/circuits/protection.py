"""What opens first when a rail shorts, and what goes dark with it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.layout.document import REVERSERS, Layout
from jolly_copper.core.layout.power_tree import PROTECTS, grow_tree
from jolly_copper.core.rails.pieces import RailMap


@dataclass(frozen=True)
class Pair:
    """A protection and the next one above it on the way to the source.

    in_current, in_time: whether the lower one trips at fewer amps, and opens sooner; None where a figure is missing. A
    reverser has no trip of its own: only its time counts, and it must turn over before the breaker above opens.
    """

    below: str
    above: str
    in_current: bool | None
    in_time: bool | None


def coordination(layout: Layout) -> list[Pair]:
    """Every protection and reverser with the next protection above it, in the order of the document."""
    tree = grow_tree(layout)
    found = []
    for device_id, device in layout.devices.items():
        guards = device.kind in PROTECTS and device.kind not in ("station", "booster")
        if not (guards or device.kind in REVERSERS) or device.input is None:
            continue
        above = tree.protection(device.input)
        if above is None:
            continue
        name, upper = above
        current: bool | None = None
        if guards and device.trip_amps is not None and upper.trip_amps is not None:
            current = device.trip_amps < upper.trip_amps
        time: bool | None = None
        if device.trip_seconds is not None and upper.trip_seconds is not None:
            time = device.trip_seconds < upper.trip_seconds
        found.append(Pair(device_id, name, current, time))
    return found


@dataclass(frozen=True)
class Dark:
    """What goes dark when a device opens: circuits behind it, their sections, and the track in them, mm."""

    circuits: tuple[str, ...]
    sections: tuple[str, ...]
    track: float


def goes_dark(layout: Layout, rails: RailMap, device_id: str) -> Dark:
    """What is lost when a source, breaker or other device opens."""
    tree = grow_tree(layout)
    below = frozenset({layout.devices[device_id].output})
    circuits = tuple(c for c in layout.circuits if tree.within(c, below))
    sections, track = [], 0.0
    for number, extent in enumerate(rails.extents):
        mine = [s for s in rails.sections_in[number] if layout.sections[s].circuit in circuits]
        if mine:
            sections += mine
            track += sum(p.end - p.start for p in extent)
    return Dark(circuits, tuple(sections), track)


def in_order(layout: Layout) -> list[str]:
    """Devices depth first from the sources, each before what hangs under it.

    Channels of detector boards are left out: there are dozens, they protect nothing, and they have pages of their own.
    """
    below: dict[str | None, list[str]] = {}
    outputs = {d.output for d in layout.devices.values()}
    through = {d.output: d.input for d in layout.devices.values() if d.board is not None}
    for i, d in layout.devices.items():
        if d.board is not None:
            continue
        above = d.input
        while above in through:
            above = through[above]
        below.setdefault(above if above in outputs else None, []).append(i)
    found: list[str] = []
    stack = list(reversed(below.get(None, [])))
    while stack:
        i = stack.pop()
        found.append(i)
        stack += reversed(below.get(layout.devices[i].output, []))
    return found


def sure_to_open(layout: Layout, device_id: str, amps: float) -> bool:
    """Whether a short of so many amps opens a device with the house's margin; one without a trip has none to miss."""
    trip = layout.devices[device_id].trip_amps
    return trip is None or amps >= layout.brief.rules.coin_margin * trip - 1e-9


@dataclass(frozen=True)
class Opening:
    """What opens when the rails are shorted at a place.

    device: the first to open, None where nothing does. nearest: the protection that should. seconds: after so long,
    where known. amps: of the short, as a breaker reads it.
    """

    device: str | None
    nearest: str | None
    seconds: float | None
    amps: float

    @property
    def right(self) -> bool:
        """Whether the nearest protection is the first to open."""
        return self.device is not None and self.device == self.nearest


def opening_at(facts: Facts, circuit: str, amps: float) -> Opening | None:
    """What opens first when so many amps flow into a short on a circuit's track; None where nothing protects it.

    Of all protections on the way to the source whose trip the short reaches, the quickest; among equals the nearest.
    One whose time nobody knows is taken to be slower than any that is known.
    """
    devices = facts.layout.devices
    guards = [
        d for d in facts.tree.upstream(circuit) if devices[d].kind in PROTECTS and devices[d].trip_amps is not None
    ]
    if not guards:
        return None
    reached = [d for d in guards if amps >= (devices[d].trip_amps or 0) - 1e-9]
    first = min(reached, key=lambda d: _seconds(devices[d].trip_seconds), default=None)
    return Opening(first, guards[0], devices[first].trip_seconds if first else None, amps)


def first_to_open(facts: Facts) -> list[Opening | None]:
    """For every sample point, what opens first there; None where the rails are dead or nothing protects them."""
    return [
        opening_at(facts, circuit, float(amps)) if circuit is not None and np.isfinite(amps) else None
        for circuit, amps in zip(facts.circuit, facts.coin, strict=True)
    ]


def _seconds(known: float | None) -> float:
    return float("inf") if known is None else known


@dataclass(frozen=True)
class Stretch:
    """Track, mm from its A end, where the same opens first."""

    track: str
    start: float
    end: float
    opening: Opening


def opening_stretches(facts: Facts) -> list[Stretch]:
    """All live track in stretches by what opens first, each reaching half way to the next sample point."""
    points, openings = facts.points, first_to_open(facts)
    found: list[Stretch] = []
    for row, opening in enumerate(openings):
        if opening is None:
            continue
        span = facts.network.spans[int(points.span[row])]
        same_before = row > 0 and points.span[row - 1] == points.span[row]
        same_after = row + 1 < len(openings) and points.span[row + 1] == points.span[row]
        at = float(points.at[row])
        start = (at + float(points.at[row - 1])) / 2 if same_before else span.start
        end = (at + float(points.at[row + 1])) / 2 if same_after else span.end
        last = found[-1] if found else None
        if last and last.track == span.track and abs(last.end - start) < 1 and _alike(last.opening, opening):
            weaker = min(last.opening, opening, key=lambda o: o.amps)
            found[-1] = Stretch(span.track, last.start, end, weaker)
        else:
            found.append(Stretch(span.track, start, end, opening))
    return found


def _alike(one: Opening, other: Opening) -> bool:
    return one.device == other.device and one.nearest == other.nearest
