"""Sources and devices as elements of the network: what each passes on, in which conductor, with what loss."""

from __future__ import annotations

from collections.abc import Hashable

from jolly_copper.core.circuits.assembly import Assembly, Part
from jolly_copper.core.circuits.lengths import run_length
from jolly_copper.core.layout.connections import CONDUCTORS, held
from jolly_copper.core.layout.control import commons
from jolly_copper.core.layout.document import Device, Layout
from jolly_copper.core.layout.power_tree import DC_SOURCES, SOURCES, PowerTree, reads_a_rail


def add_devices(layout: Layout, tree: PowerTree, work: Assembly) -> None:
    """Every source, and every device between two circuits, as selectors and reversing switches lie."""
    for circuit, other in commons(layout).items():
        if circuit in tree.fed_by and other in tree.fed_by:
            work.joined.join(("out", tree.fed_by[circuit], "B"), ("out", tree.fed_by[other], "B"))
    arrives = {
        r.ends_at_device: i
        for i, r in layout.runs.items()
        if r.ends_at_device is not None and r.circuit == layout.devices[r.ends_at_device].input
    }
    # One wire serves all channels of a board that take their power from the same circuit.
    shared = {
        (layout.devices[d].board, layout.devices[d].input): i
        for d, i in arrives.items()
        if d is not None and layout.devices[d].board is not None
    }
    for device_id, device in layout.devices.items():
        starts = device.kind in SOURCES or layout.circuits[device.output].purpose == "accessory"
        if device.kind in DC_SOURCES and not starts:
            continue  # it feeds a station or booster, which makes its own track power
        out = {c: ("out", device_id, c) for c in CONDUCTORS}
        if device.kind in SOURCES or device.kind in DC_SOURCES:
            work.resistor("source", device_id, "", out["A"], out["B"], [Part("source", device_id, device.ohms)])
            continue
        if reads_a_rail(layout, device):
            continue  # it sits in no power wire: what it reads is a rail with no feeder of its own
        run_id = arrives.get(device_id) or (shared.get((device.board, device.input)) if device.board else None)
        if run_id is not None:
            # A run of one wire brings only that one: the other stays the bus it was tapped from.
            come: dict[str, Hashable] = {
                c: ("out", tree.fed_by.get(device.input or "", device_id), c) for c in CONDUCTORS
            }
            come |= {c: ("run", run_id, c, run_length(layout.runs[run_id])) for c in held(layout.runs[run_id])}
        elif device.input in tree.fed_by:
            come = {c: ("out", tree.fed_by[device.input], c) for c in CONDUCTORS}
        else:
            continue
        for c in CONDUCTORS:
            if one_pole(device) and c == "B":
                continue  # its conductor B is the common one, which no switch parts
            ohms = series_ohms(layout, device) if c == device.sensed else 0.0
            crossed = device.kind == "reversing switch" and device.turned
            onward = out[c] if not crossed else out["B" if c == "A" else "A"]
            work.resistor("device", device_id, c, come[c], onward, [Part("device", device_id, ohms)])


def one_pole(device: Device) -> bool:
    """Whether a selector switches conductor A alone."""
    return device.kind == "selector" and device.made.endswith("one pole")


def series_ohms(layout: Layout, device: Device) -> float:
    """Ω a device adds in its sensed conductor; of a detector channel, what its board says."""
    return layout.detectors[device.board].ohms if device.board else device.ohms
