"""Tests of selectors, transformers that meet, and places where trains stop by themselves."""

from __future__ import annotations

from collections.abc import Iterator

from jolly_copper.core.circuits.giving import source_volts
from jolly_copper.core.findings.three_rail import NEAR_NOTHING, meeting_transformers
from jolly_copper.core.proving.meter_test import MINUTES, SUPPLY_CAUTION, MeterTest
from jolly_copper.core.proving.proving import Proving
from jolly_copper.core.quantities import print_volts
from jolly_copper.core.wirebook.places import on_track

OFF = "Power off at every source; nothing on the track."


def listed_cabs(known: Proving) -> Iterator[MeterTest]:
    """What a layout with cabs, several transformers or stops wants proved besides; nothing where there are none."""
    yield from _hot(known)
    yield from _switches(known)
    yield from _stops(known)


def _hot(known: Proving) -> Iterator[MeterTest]:
    """From hot post to hot post of two transformers, before their track is joined by a train."""
    layout = known.layout
    for one, other, track, at in meeting_transformers(known.facts):
        a, b = layout.devices[one], layout.devices[other]
        full = max(source_volts(layout, one), source_volts(layout, other))
        yield MeterTest(
            f"hot:{other}:{one}",
            "hot",
            f"{a.name} and {b.name}, hot to hot",
            f"One lead on the hot post of each; their track meets on {on_track(layout, track, at)}",
            "Commons joined, nothing else between them; both set to the same volts.",
            ("ac true effective", "ac averaging"),
            "V",
            "next to nothing",
            value=0.0,
            low=0.0,
            high=NEAR_NOTHING * full,
            outside=f"up to {print_volts(2 * full)} at full: out of phase. Switch off, and turn one plug round where "
            "its maker allows it.",
            minutes=MINUTES["hot"],
            caution=SUPPLY_CAUTION,
            power=True,
            rests_on=f"{a.winding} {b.winding} {full:.3g}",
        )


def _switches(known: Proving) -> Iterator[MeterTest]:
    layout = known.layout
    for i, device in layout.devices.items():
        if device.kind != "selector":
            continue
        ways = " and ".join(layout.circuits[c].name for c in device.inputs)
        lever = layout.devices[device.gang].name if device.gang is not None else device.name
        poles = "one wire" if device.made.endswith("one pole") and device.gang is None else "both wires"
        panel = layout.panels[device.panel].name if device.panel is not None else "its place"
        yield MeterTest(
            f"switch:{i}",
            "switch",
            f"{device.name}, every position",
            f"At {panel}, from the posts of {layout.circuits[device.output].name} to those of {ways}",
            f"{OFF} Throw {lever} through all positions, {poles} each time.",
            ("ohms",),
            "yes",
            "joined to the one it lies at and to no other; off joins nothing",
            wanted=True,
            outside="a wire on the wrong pin, a joint between two pins, or a lever that joins its far end.",
            minutes=MINUTES["switch"],
            rests_on=f"{device.inputs} {device.output} {device.made} {device.on_with}",
        )


def _stops(known: Proving) -> Iterator[MeterTest]:
    layout = known.layout
    for i, stop in layout.braking.items():
        end = stop.end if stop.towards == "b" else stop.start
        yield MeterTest(
            f"stop:{i}",
            "stop",
            f"{stop.name}, with the longest train it is for",
            on_track(layout, stop.track, end),
            "Run it in at its usual speed, engine first; then once more turned end for end.",
            ("lamp",),
            "yes",
            "it stands before its first wheels reach the far cut, and waits",
            wanted=True,
            outside="it ran over the cut: a longer stretch or a shorter stop in its decoder. Some decoders do not obey "
            "when the train is turned end for end.",
            minutes=MINUTES["stop"],
            power=True,
            track=stop.track,
            at=end,
            rests_on=f"{stop.track} {stop.at:.0f} {stop.length:.0f} {stop.rail} {stop.module}",
        )
