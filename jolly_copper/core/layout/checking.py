"""What one field of a layout cannot know about another, of its power and its boards: each thing wrong as a sentence."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from graphlib import CycleError, TopologicalSorter

from jolly_copper.core.layout.document import Device, Layout
from jolly_copper.core.layout.levers import as_ganged
from jolly_copper.core.layout.power_tree import SOURCES

SLOP_MM = 0.5
"""Distances may lie this far past an end: rounding of drawn lengths."""


@dataclass(frozen=True)
class Problem:
    """One reason a layout was refused: where (a JSON Pointer) and a plain sentence."""

    path: str
    sentence: str


def power_problems(layout: Layout) -> Iterator[Problem]:
    """Circuits that are not there, fed twice, or fed by themselves for any lie of a selector."""
    feeds: dict[str, str] = {}
    for i, device in layout.devices.items():
        yield from _ends_of(layout, i, device)
        if device.output in feeds:
            other = layout.devices[feeds[device.output]].name
            yield Problem(f"/devices/{i}/output", f"Circuit {device.output} is already fed by {other}.")
        feeds[device.output] = i
    yield from _loops(layout, feeds)
    for i, circuit in layout.circuits.items():
        if circuit.return_of is not None and circuit.return_of not in layout.circuits:
            yield Problem(f"/circuits/{i}/return_of", f"There is no circuit {circuit.return_of}.")
    taken: dict[str, str] = {}
    for i, supply in layout.supplies.items():
        served = layout.devices.get(supply.serves) if supply.serves is not None else None
        if supply.serves is not None and (served is None or served.kind not in SOURCES):
            yield Problem(f"/supplies/{i}/serves", f"There is no source {supply.serves} to serve.")
        elif supply.serves is not None and (other := taken.setdefault(supply.serves, i)) != i:
            yield Problem(
                f"/supplies/{i}/serves",
                f"{layout.supplies[other].name} serves {layout.devices[supply.serves].name} already.",
            )
    for i, section in layout.sections.items():
        if section.circuit not in layout.circuits:
            yield Problem(f"/sections/{i}/circuit", f"There is no circuit {section.circuit}.")
        elif layout.circuits[section.circuit].purpose == "accessory":
            yield Problem(
                f"/sections/{i}/circuit", f"{layout.circuits[section.circuit].name} is for accessories, not for rails."
            )
    for i, scene in layout.scenes.items():
        for selector, circuit_id in scene.selectors.items():
            path, thrown = f"/scenes/{i}/selectors/{selector}", layout.devices.get(selector)
            if thrown is None or thrown.kind != "selector":
                yield Problem(path, f"There is no selector {selector}.")
            elif circuit_id is not None and circuit_id not in thrown.inputs:
                yield Problem(path, f"{thrown.name} does not choose from {circuit_id}.")


def _ends_of(layout: Layout, i: str, device: Device) -> Iterator[Problem]:
    path = f"/devices/{i}"
    if device.output not in layout.circuits:
        yield Problem(f"{path}/output", f"There is no circuit {device.output}.")
    for k, circuit in enumerate(device.inputs):
        if circuit not in layout.circuits:
            yield Problem(f"{path}/inputs/{k}", f"There is no circuit {circuit}.")
    if device.panel is not None and device.panel not in layout.panels:
        yield Problem(f"{path}/panel", f"There is no control panel {device.panel}.")
    if device.input is not None and device.input not in layout.circuits:
        yield Problem(f"{path}/input", f"There is no circuit {device.input}.")
    if device.kind != "selector":
        if device.inputs:
            yield Problem(f"{path}/inputs", f"{device.name} is a {device.kind}; only a selector chooses from several.")
        if device.kind not in ("supply", *SOURCES) and device.input is None:
            yield Problem(f"{path}/input", f"A {device.kind} needs a circuit to take its power from.")
        return
    yield from _ganged(layout, path, device)
    if not device.inputs:
        yield Problem(f"{path}/inputs", f"{device.name} has nothing to choose from: name a circuit for each way.")
    elif len(set(device.inputs)) < len(device.inputs):
        yield Problem(f"{path}/inputs", f"{device.name} has one circuit on two ways.")
    elif device.input is not None and device.input not in device.inputs:
        yield Problem(f"{path}/input", f"{device.name} lies at {device.input}, which is none of its ways.")
    most = 2 if device.made.startswith("toggle") else 11
    if len(device.inputs) > most:
        yield Problem(
            f"{path}/made", f"{device.name} has {len(device.inputs)} ways, and a {device.made} has {most} at most."
        )


def _ganged(layout: Layout, path: str, device: Device) -> Iterator[Problem]:
    if device.gang is None:
        return
    lever = layout.devices.get(device.gang)
    if lever is None or lever.kind != "selector" or lever.gang is not None or lever is device:
        yield Problem(f"{path}/gang", f"{device.name} hangs on a lever that is no selector of its own: {device.gang}.")
    elif len(device.inputs) != 1:
        yield Problem(f"{path}/inputs", f"{device.name} is on the lever of {lever.name}: it has one way, on or off.")
    elif wrong := [c for c in device.on_with if c not in lever.inputs]:
        yield Problem(f"{path}/on_with", f"{lever.name} does not choose from {wrong[0]}.")
    elif device.input != as_ganged(device, lever.input):
        yield Problem(f"{path}/input", f"{device.name} lies as {lever.name} has it, on the same lever.")


def _loops(layout: Layout, feeds: dict[str, str]) -> Iterator[Problem]:
    """Devices that feed themselves for some lie of the selectors: the first loop found, told at each of its members."""
    graph = {
        i: [feeds[c] for c in (*d.inputs, d.input) if c in feeds]
        for i, d in layout.devices.items()
        if d.kind not in SOURCES
    }
    try:
        TopologicalSorter(graph).prepare()
    except CycleError as error:
        round_it: list[str] = error.args[1][:-1]
        for k, i in enumerate(round_it):
            device, other = layout.devices[i], layout.devices[round_it[k - 1]]
            through = f" through {other.name}" if other is not device else ""
            field = "inputs" if device.kind == "selector" else "input"
            yield Problem(f"/devices/{i}/{field}", f"{device.name} feeds itself{through}: the power tree has a loop.")


def stretch_problems(layout: Layout, lengths: dict[str, float]) -> Iterator[Problem]:
    """Braking sections and isolated rails that are not on plain track of their own."""
    for kind, stretches in (("braking", layout.braking), ("isolated", layout.isolated)):
        for i, stretch in stretches.items():
            path, track = f"/{kind}/{i}", layout.tracks.get(stretch.track)
            if track is None:
                yield Problem(f"{path}/track", f"There is no track {stretch.track}.")
            elif stretch.end > lengths[stretch.track] + SLOP_MM:
                beyond = layout.nodes[track.b.node]
                what = f"{beyond.kind} {beyond.name or track.b.node} stands" if beyond.kind != "joint" else "it ends"
                yield Problem(
                    f"{path}/length",
                    f"{stretch.name} reaches to {stretch.end:.0f} mm, and at {lengths[stretch.track]:.0f} mm of "
                    f"{track.name} {what}: it lies on plain track alone.",
                )
    for i, stretch in layout.braking.items():
        if stretch.held_by is not None and stretch.held_by not in layout.signals:
            yield Problem(f"/braking/{i}/held_by", f"There is no signal {stretch.held_by}.")


def signalling_problems(layout: Layout) -> Iterator[Problem]:
    """Channels, inputs and outputs that are taken twice or are not there."""
    taken: dict[tuple[str, int], str] = {}
    for i, device in layout.devices.items():
        if device.board is None:
            continue
        path, board = f"/devices/{i}", layout.detectors.get(device.board)
        if device.kind != "detector":
            yield Problem(f"{path}/board", "Only a detector is a channel of a detector board.")
        elif board is None:
            yield Problem(f"{path}/board", f"There is no detector board {device.board}.")
        elif device.channel is None or device.channel > board.channels:
            yield Problem(f"{path}/channel", f"{board.name} has channels 1 to {board.channels}.")
        elif (other := taken.setdefault((device.board, device.channel), i)) != i:
            yield Problem(f"{path}/channel", f"Channel {device.channel} is {layout.devices[other].name} already.")
    for i, section in layout.sections.items():
        if section.block is not None and section.block not in layout.blocks:
            yield Problem(f"/sections/{i}/block", f"There is no block {section.block}.")
    for kind in ("detectors", "drivers"):
        for i, board in getattr(layout, kind).items():
            if board.supply is not None and board.supply not in layout.circuits:
                yield Problem(f"/{kind}/{i}/supply", f"There is no circuit {board.supply}.")
            elif board.supply is not None and layout.circuits[board.supply].purpose != "accessory":
                yield Problem(f"/{kind}/{i}/supply", "It runs from an accessory circuit, not from track power.")
    for kind, of, way, wanted in (
        ("signals", "driver", "output", "lamps"),
        ("nodes", "driver", "output", "turnouts"),
        ("nodes", "report_board", "report_input", "buttons"),
        ("nodes", "button_board", "button_input", "buttons"),
    ):
        for i, thing in getattr(layout, kind).items():
            board_id, number = getattr(thing, of), getattr(thing, way)
            if board_id is None:
                continue
            driver, ways = layout.drivers.get(board_id), way.split("_")[-1] + "s"
            if driver is None:
                yield Problem(f"/{kind}/{i}/{of}", f"There is no driver board {board_id}.")
            elif driver.drives != wanted:
                yield Problem(f"/{kind}/{i}/{of}", f"{driver.name} drives {driver.drives}, not {wanted}.")
            elif number is None or number > driver.outputs:
                yield Problem(f"/{kind}/{i}/{way}", f"{driver.name} has {ways} 1 to {driver.outputs}.")


def date_problems(layout: Layout) -> Iterator[Problem]:
    """Dates that end before they begin."""
    for i, when in layout.dates.items():
        if when.ends is not None and (when.starts is None or when.ends <= when.starts):
            yield Problem(f"/dates/{i}/ends", "It ends after it begins, on the same day.")
        if when.until is not None and when.until < when.day:
            yield Problem(f"/dates/{i}/until", "It comes again until a day after its first.")


def coupling_problems(layout: Layout) -> Iterator[Problem]:
    """Couplings of a kind nobody owns, keyed in a way their kind cannot be. What they hold may be gone."""
    for i, coupling in layout.couplings.items():
        kind = layout.connectors.get(coupling.kind)
        if kind is None:
            yield Problem(f"/couplings/{i}/kind", f"There is no kind of connector {coupling.kind}.")
        elif coupling.coding > kind.codings:
            yield Problem(
                f"/couplings/{i}/coding",
                f"{kind.name} is keyed in ways 1 to {kind.codings}; {coupling.coding} is none of them.",
            )
        if len(set(coupling.boards)) != len(coupling.boards):
            yield Problem(f"/couplings/{i}/boards", "A coupling joins two boards; these are one.")
