"""Wires home from detection sections: the one sensed conductor from each section's rails to its channel; the other
stays on the bus of the district."""

from __future__ import annotations

import math
from collections.abc import Sequence

from jolly_copper.core.circuits.lengths import point_on_track, terminal_point
from jolly_copper.core.circuits.whereabouts import extent_circuits
from jolly_copper.core.drawing.copper import add_run
from jolly_copper.core.drawing.sheet import Sheet, bend
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.signalling import Conductor
from jolly_copper.core.proposals.laying.corridors import Ground
from jolly_copper.core.proposals.laying.runs import Spot, Wire, lay
from jolly_copper.core.rails.pieces import map_rails

HOME_GAUGE = {"imperial": "16 AWG", "metric": "1.5 mm²"}
"""Wire home of one section. Common practice, no source; step Wire sizes it."""
FROM_TERMINAL_MM = 60.0


def run_home(sheet: Sheet, layout: Layout, channels: Sequence[str], wire: Wire, ground: Ground) -> None:
    """Lay the wire of these detector channels, and move the sensed wire of their feeders to it.

    Args:
        sheet: drawn on; its feeders of each channel's sections are tied to the bus of the circuit above, both wires.
        layout: the sheet's, with devices, sections and that bus as they are.
        channels: detector devices with a board. feeders of each: those on stretches of its circuit.
        wire: what other runs are made of.
        ground: corridors of the layout.
    """
    feeders: dict[str, list[str]] = {}
    stretch = _circuit_of_feeders(layout)
    for i, circuit in stretch.items():
        feeders.setdefault(circuit, []).append(i)
    gauge = HOME_GAUGE[layout.brief.units]
    single = Wire(gauge, wire.strands, "side by side", wire.terminal, wire.feeder_gauge, wire.feeder_strands)
    for device_id in channels:
        device = layout.devices[device_id]
        mine = feeders.get(device.output, [])
        if not mine:
            continue
        _bring(sheet, layout, device_id, gauge, wire)
        before = set(sheet["runs"])
        spots = [Spot(*point_on_track(layout, layout.feeders[f].track, layout.feeders[f].at)) for f in mine]
        terminals = lay(sheet, device_id, spots, (), single, ground, layout)
        for run in set(sheet["runs"]) - before:
            sheet["runs"][run]["wires"] = sensed_by(layout, device_id)
        for f, terminal in zip(mine, terminals, strict=True):
            value = sheet["feeders"][f]
            value.update(terminal=terminal, other=_bus_terminal(layout, f, device.input), tape=None)


def sensed_by(layout: Layout, device_id: str) -> Conductor:
    """The conductor a detector sits in: as its board has it."""
    device = layout.devices[device_id]
    return layout.detectors[device.board].sensed if device.board else device.sensed


def _circuit_of_feeders(layout: Layout) -> dict[str, str]:
    rails = map_rails(layout)
    circuits = extent_circuits(layout, rails)
    found = {}
    for i, f in layout.feeders.items():
        circuit = circuits[rails.extent_of[rails.piece_at(f.track, f.at)]]
        if circuit is not None:
            found[i] = circuit
    return found


def _bus_terminal(layout: Layout, feeder_id: str, circuit: str | None) -> str:
    """Where the other wire of a feeder stays: at its own terminal if that is on the bus above, else at the nearest
    there."""
    feeder = layout.feeders[feeder_id]
    for name in (feeder.other, feeder.terminal):
        if name is not None and layout.runs[layout.terminals[name].run].circuit == circuit:
            return name
    here = point_on_track(layout, feeder.track, feeder.at)
    near = [
        (math.dist(here, terminal_point(layout, t)), i)
        for i, t in layout.terminals.items()
        if layout.runs[t.run].circuit == circuit
    ]
    return min(near)[1] if near else feeder.terminal


def _bring(sheet: Sheet, layout: Layout, device_id: str, gauge: str, wire: Wire) -> None:
    """One wire of the bus above to the channel's board, where none comes yet for that circuit."""
    device = layout.devices[device_id]
    mates = [i for i, d in layout.devices.items() if d.board == device.board and d.input == device.input]
    if any(r["ends_at_device"] in mates for r in sheet["runs"].values()):
        return
    near = [
        (math.dist((device.at.x, device.at.y), terminal_point(layout, t)), i)
        for i, t in layout.terminals.items()
        if layout.runs[t.run].circuit == device.input
    ]
    if not near:
        return
    terminal = min(near)[1]
    x, y = terminal_point(layout, layout.terminals[terminal])
    end = (device.at.x, device.at.y)
    if math.dist((x, y), end) < FROM_TERMINAL_MM:
        end = (x + FROM_TERMINAL_MM, y)
    run = add_run(
        sheet,
        device.input or "",
        [bend(x, y), bend(*end)],
        device=None,
        terminal=terminal,
        ends_at_device=device_id,
        gauge=_heavier_bus(layout, device.input, gauge),
        strands=wire.strands,
        make="side by side",
    )
    sheet["runs"][run]["wires"] = sensed_by(layout, device_id)


def _heavier_bus(layout: Layout, circuit: str | None, gauge: str) -> str:
    """The gauge of the bus above: the wire to a board carries what all its sections draw."""
    return next((r.gauge for r in layout.runs.values() if r.circuit == circuit), gauge)
