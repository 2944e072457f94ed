"""What sources give: volts with nothing drawn, amps for long, for a moment and into a short, and what stands behind
them.

A station or booster gives no more than its own supply does. What nobody wrote down is guessed, and called a guess.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from jolly_copper.core.layout.document import Device, Layout
from jolly_copper.core.layout.power_tree import PROTECTS, SOURCES, PowerTree
from jolly_copper.core.layout.supplies import OwnedSupply

USUAL_DC_VOLTS = 12.0
"""Of a supply for accessories whose label nobody wrote down. Common practice, no source."""
SHORT_OVER_LABEL = 1.5
"""Amps a source gives into a short over those on its label, where nobody knows its limit. Certainty C."""


def supply_behind(layout: Layout, device_id: str) -> str | None:
    """The supply a station or booster takes its power from; None where none is drawn."""
    circuit = layout.devices[device_id].input
    if layout.devices[device_id].kind not in SOURCES or circuit is None:
        return None
    return next((i for i, d in layout.devices.items() if d.kind == "supply" and d.output == circuit), None)


def wanted_volts(layout: Layout, device_id: str) -> float:
    """Volts a source should give by its label; by the brief, or the usual of an accessory supply, where it has none."""
    device = layout.devices[device_id]
    return device.volts or (layout.brief.track_volts if device.kind in SOURCES else USUAL_DC_VOLTS)


def source_volts(layout: Layout, device_id: str) -> float:
    """Volts a source, supply or step-down gives with nothing drawn, V.

    Measured where somebody measured: V_open = V_read + I_read · R_inside, so that what sagged while it was read is not
    counted again. Else its label, else the usual. A station or booster never gives more than the supply behind it.
    """
    device = layout.devices[device_id]
    given = device.measured_volts
    own = wanted_volts(layout, device_id) if given is None else given + device.measured_at_amps * device.ohms
    behind = supply_behind(layout, device_id)
    return min(own, source_volts(layout, behind)) if behind is not None and _says_volts(layout, behind) else own


def circuit_volts(layout: Layout, tree: PowerTree, circuit: str | None) -> float:
    """What a track circuit's own source gives with nothing drawn, V; the brief's volts where none feeds it."""
    source = tree.source(circuit) if circuit is not None else None
    return source_volts(layout, source[0]) if source is not None else layout.brief.track_volts


def _says_volts(layout: Layout, device_id: str) -> bool:
    device = layout.devices[device_id]
    return device.volts is not None or device.measured_volts is not None


@dataclass(frozen=True)
class Limit:
    """The most a source gives, even into a short, A. by: the device that bounds it. guess: nobody wrote it down."""

    amps: float
    by: str | None
    guess: bool


UNKNOWN = Limit(math.inf, None, True)


def limit_of(layout: Layout, device_id: str) -> Limit:
    """The most a source gives into a short: its own limit, or its supply's where that is less.

    Where no limit is typed: 1.5 times the label or the trip, whichever is more (the house's coin margin where that is
    larger), as a guess. Infinite where nothing at all is known.
    """
    own = _own_limit(layout, device_id)
    behind = supply_behind(layout, device_id)
    other = _own_limit(layout, behind) if behind is not None else UNKNOWN
    return min((own, other), key=lambda x: (x.amps, x.guess))


def _own_limit(layout: Layout, device_id: str) -> Limit:
    device = layout.devices[device_id]
    if device.limit_amps is not None:
        return Limit(device.limit_amps, device_id, False)
    known = [a for a in (device.measured_amps or device.label_amps, device.trip_amps) if a]
    times = max(SHORT_OVER_LABEL, layout.brief.rules.coin_margin)
    return Limit(times * max(known), device_id, True) if known else UNKNOWN


def gives(layout: Layout, device_id: str) -> float | None:
    """What a device may give for long, A: the least of its label (or what was measured), its trip and its limit, and of
    its supply's; None where none is known."""
    found = _long(layout.devices[device_id])
    behind = supply_behind(layout, device_id)
    known = [a for a in (found, _long(layout.devices[behind]) if behind is not None else None) if a is not None]
    served = serving(layout, device_id)
    return min([*known, *([served.gives] if served is not None else [])], default=None)


def serving(layout: Layout, device_id: str) -> OwnedSupply | None:
    """The supply of the club's own that a source hangs on; None where none is named."""
    return next((s for s in layout.supplies.values() if s.serves == device_id), None)


def _long(device: Device) -> float | None:
    rated = device.measured_amps or device.label_amps
    return min((a for a in (rated, device.trip_amps, device.limit_amps) if a is not None), default=None)


def starts(layout: Layout, device_id: str) -> float | None:
    """The most a device lets through while everything behind it fills up, A: as said, else its limit or its trip; never
    more than its supply's limit where somebody wrote that down."""
    device = layout.devices[device_id]
    own = device.inrush_amps
    if own is None:
        own = max((a for a in (device.limit_amps, device.trip_amps) if a is not None), default=None)
    behind = supply_behind(layout, device_id)
    most = _own_limit(layout, behind) if behind is not None else UNKNOWN
    if own is None:
        return None
    return own if most.guess else min(own, most.amps)


Basis = Literal["trip", "limit", "label"]


@dataclass(frozen=True)
class Held:
    """Amps a short may draw for as long as nobody notices: just under a trip, or all that the source gives.

    device: whose figure it is. basis: what that figure is.
    """

    amps: float
    device: str
    basis: Basis


def held_short(layout: Layout, tree: PowerTree, circuit: str) -> Held | None:
    """What a short on a circuit may draw without end: the nearest trip, else the source's limit, else its label.

    A limit below the trip comes first: such a source never trips. None where no figure is known.
    """
    up = [d for d in tree.upstream(circuit) if layout.devices[d].kind in PROTECTS]
    found: Held | None = None
    for device_id in up:
        trip = layout.devices[device_id].trip_amps
        if trip is not None:
            found = Held(trip, device_id, "trip")
            break
    source = tree.source(circuit)
    if source is None:
        return found
    most = limit_of(layout, source[0])
    if not most.guess and most.by is not None and (found is None or most.amps < found.amps):
        return Held(most.amps, most.by, "limit")
    if found is not None:
        return found
    behind = supply_behind(layout, source[0])
    labels = [
        (amps, i)
        for i in (source[0], behind)
        if i is not None and (amps := layout.devices[i].measured_amps or layout.devices[i].label_amps)
    ]
    return Held(*min(labels), "label") if labels else None
