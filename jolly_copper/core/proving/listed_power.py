"""Tests with power on: volts, coins, sources, reversers, detectors, signals, boosters."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from jolly_copper.core.circuits.giving import limit_of, source_volts
from jolly_copper.core.circuits.parts import counts_inductance
from jolly_copper.core.circuits.protection import Opening, opening_at, sure_to_open
from jolly_copper.core.layout.control import control_given, word_of
from jolly_copper.core.layout.document import REVERSERS, Layout
from jolly_copper.core.layout.power_tree import SOURCES
from jolly_copper.core.proving.bands import BAND, alone
from jolly_copper.core.proving.meter_test import (
    COIN_CAUTION,
    LOAD_CAUTION,
    MINUTES,
    SUPPLY_CAUTION,
    MeterTest,
)
from jolly_copper.core.proving.meters import Setting
from jolly_copper.core.proving.proving import Proving
from jolly_copper.core.quantities import print_current, print_volts
from jolly_copper.core.signals.occupancy import sensing
from jolly_copper.core.wirebook.places import on_track

VOLTMETERS: dict[str, tuple[Setting, ...]] = {
    "square": ("ac averaging", "ac true effective", "bridge and dc", "track display"),
    "steady": ("dc",),
    "sine": ("ac true effective", "ac averaging"),
}
SOURCE_MEASURED, SOURCE_LABEL = 0.02, 0.05
"""Of what a source gives, one standard deviation, as measured and by its label. Common practice, no source."""
LOAD_SHARE = 0.8
UNSAID_AMPS = 5.0
"""Of a source whose amps nobody wrote down. Common practice, no source."""
LOADED_AMPS = 1.0
BAD_COIN = "a joint on the way is bad, the trip is set too high, or another one is quicker."
NOT_BY_DESIGN = "as foretold: the wire as drawn lets too few amps through to open anything. Step Wire mends that."
PHASE_VOLTS = 2.0
"""Over a gap, from what the two boosters differ in. Common practice, no source."""


def with_power(known: Proving) -> tuple[MeterTest, ...]:
    """Every test that wants power, in the order it is best done: sources, volts, loads, coins, then what is crossed."""
    return (
        *_supplies(known),
        *_open(known),
        *_loads(known),
        *_coins(known),
        *_phases(known),
        *_flips(known),
        *_addresses(known),
        *_signals(known),
        *_far(known),
        *_heat(known),
    )


def _source_spread(known: Proving, device: str) -> float:
    measured = known.layout.devices[device].measured_volts is not None
    return SOURCE_MEASURED if measured else SOURCE_LABEL


def supply_amps(layout: Layout, device_id: str) -> float:
    """A drawn where a source is read under load: most of what it gives for long."""
    device = layout.devices[device_id]
    return LOAD_SHARE * (
        device.measured_amps or device.label_amps or min(limit_of(layout, device_id).amps, UNSAID_AMPS)
    )


def _supplies(known: Proving) -> Iterator[MeterTest]:
    for i, device in known.layout.devices.items():
        if device.kind not in SOURCES and device.kind != "supply":
            continue
        volts, amps = source_volts(known.layout, i), supply_amps(known.layout, i)
        expected = volts - device.ohms * amps
        spread = BAND * float(np.hypot(_source_spread(known, i) * volts, 0.3 * device.ohms * amps))
        settings: tuple[Setting, ...] = ("dc",) if device.kind == "supply" else VOLTMETERS[known.wave_of(device.output)]
        yield MeterTest(
            f"supply:{i}",
            "supply",
            f"{device.name} under load",
            f"At the output of {device.name}, with {print_current(amps)} drawn right there",
            "Everything it feeds unplugged; lamps or resistors for the load.",
            settings,
            "V",
            print_volts(expected),
            value=expected,
            low=expected - spread,
            high=expected + spread,
            outside="it gives less than its label says, or it is not set to the volts it should have.",
            minutes=MINUTES["supply"],
            caution=f"{LOAD_CAUTION} {SUPPLY_CAUTION}",
            power=True,
            rests_on=f"{volts:.3g} {device.ohms:.3g} {amps:.3g}",
        )


def _open(known: Proving) -> Iterator[MeterTest]:
    layout, facts = known.layout, known.facts
    for section_id, section in layout.sections.items():
        place = known.ac.nearest(section.track, section.at)
        if place is None:
            continue
        g, row = known.ac.where[place.key]
        source = facts.tree.source(section.circuit)
        volts = abs(float(known.ac.grounds[g].open_volts[row]))
        share = _source_spread(known, source[0]) if source else SOURCE_LABEL
        spread = BAND * share * volts
        yield MeterTest(
            f"open:{section_id}",
            "open",
            f"{section.name}, volts without load",
            on_track(layout, place.track, place.at),
            "Power on, nothing on the track.",
            VOLTMETERS[known.wave_at(place.track, place.at)],
            "V",
            print_volts(volts),
            value=volts,
            low=volts - spread,
            high=volts + spread,
            outside="no volts: an open wire, a breaker that is off, a reverser without power. Too few: another source, "
            "or a load still on.",
            minutes=MINUTES["open"],
            power=True,
            track=place.track,
            at=place.at,
            rests_on=f"{section.circuit} {volts:.3g}",
        )


def _loads(known: Proving) -> Iterator[MeterTest]:
    layout = known.layout
    tiers: dict[str, str] = {}
    for tier, cover in known.covers.items():
        for place in cover.places:
            tiers.setdefault(place.key, str(tier))
    spreads = [alone(g, "dc") for g in known.dc.grounds]
    for key, named in tiers.items():
        g, row = known.dc.where[key]
        ground = known.dc.grounds[g]
        place, loop = ground.places[row], float(ground.loop[row])
        spread = BAND * float(spreads[g][row])
        circuit = known.circuit_at(place)
        guard = known.facts.tree.protection(circuit) if circuit else None
        behind = f"the output of {guard[1].name}" if guard else "the start of its bus"
        yield MeterTest(
            f"load:{key}",
            "load",
            f"{layout.tracks[place.track].name}: volts lost at 1 A",
            on_track(layout, place.track, place.at),
            f"One ampere of DC into {behind}, source and breaker unplugged, all engines and lit cars off. Draw it "
            "here; read millivolts from there to each rail here and add them: at the rails, not at the clips.",
            ("dc",),
            "V",
            print_volts(loop * LOADED_AMPS) if loop >= 1 else f"{loop * 1000:.0f} mV",
            value=loop * LOADED_AMPS,
            low=max(loop - spread, 0.0),
            high=loop + spread,
            outside="some joint on the way is bad; Readings says which are the most likely.",
            minutes=MINUTES["load"],
            caution=LOAD_CAUTION,
            power=True,
            track=place.track,
            at=place.at,
            tier=named,
            under_power=_under_power(known, key, loop),
            wound=_wound(known, key),
            rests_on=f"{circuit} {loop:.3g}",
        )


def _under_power(known: Proving, key: str, loop: float) -> float:
    """Ω that source and breaker add to a loop."""
    if key not in known.ac.where:
        return 0.0
    g, row = known.ac.where[key]
    return max(float(known.ac.grounds[g].loop[row]) - loop, 0.0)


def _wound(known: Proving, key: str) -> float:
    """Ω that inductance is worth on a square wave: Λ/T."""
    if key not in known.ac.where:
        return 0.0
    g, row = known.ac.where[key]
    if not counts_inductance(known.ac.network, known.ac.grounds[g].island):
        return 0.0
    return float(known.ac.grounds[g].henries[row]) / known.layout.brief.rules.half_bit


def _coins(known: Proving) -> Iterator[MeterTest]:
    facts, layout = known.facts, known.layout
    for circuit in layout.circuits:
        mine = [n for n, c in enumerate(facts.circuit) if c == circuit and np.isfinite(facts.coin[n])]
        if not mine or facts.tree.protection(circuit) is None:
            continue
        worst = min(mine, key=lambda n: float(facts.coin[n]))
        amps = float(facts.coin[worst])
        opening = opening_at(facts, circuit, amps)
        if opening is None:
            continue
        track, at = facts.place_of(worst)
        foretold = _opens(known, opening)
        yield MeterTest(
            f"coin:{circuit}",
            "coin",
            f"Coin on {layout.circuits[circuit].name}, weakest place",
            on_track(layout, track, at),
            "Power on, nothing on the track. Touch a coin across the rails three times; all others stay lit.",
            ("lamp",),
            "yes",
            foretold,
            wanted=True,
            outside=NOT_BY_DESIGN if opening.device is None else BAD_COIN,
            minutes=MINUTES["coin"],
            caution=COIN_CAUTION,
            power=True,
            track=track,
            at=at,
            rests_on=f"{amps:.3g} {opening.device} {opening.nearest}",
        )


def _opens(known: Proving, opening: Opening) -> str:
    """What a coin does, in words."""
    devices, amps = known.layout.devices, print_current(opening.amps)
    if opening.device is None:
        nearest = devices[opening.nearest] if opening.nearest else None
        under = f", under the {print_current(nearest.trip_amps or 0)} of {nearest.name}" if nearest else ""
        return f"{amps}{under}: nothing opens"
    sure = "opens" if sure_to_open(known.layout, opening.device, opening.amps) else "should open, with little to spare"
    when = f" within {opening.seconds + 0.2:.1f} s" if opening.seconds is not None else ""
    return f"{amps}: {devices[opening.device].name} {sure}{when}"


def _phases(known: Proving) -> Iterator[MeterTest]:
    """Over every gap between two sources: the same rail carries the same wave on both sides."""
    layout, rails, tree = known.layout, known.facts.rails, known.facts.tree
    for gap_id, gap in layout.gaps.items():
        length = rails.lengths[gap.track]
        sources = []
        for beside in (-1.0, 1.0):
            circuit = known.facts.meant[
                rails.extent_of[rails.piece_at(gap.track, min(max(gap.at + beside, 0.0), length))]
            ]
            source = tree.source(circuit) if circuit is not None else None
            sources.append(source[0] if source else None)
        if None in sources or sources[0] == sources[1]:
            continue
        if {control_given(layout, layout.devices[s]) for s in sources if s is not None} != {"dcc"}:
            continue
        one, other = (layout.devices[s].name for s in sources if s is not None)
        yield MeterTest(
            f"phase:{gap_id}",
            "phase",
            f"Over gap {gap_id}, between {one} and {other}",
            on_track(layout, gap.track, gap.at, gap_id),
            "Power on, nothing on the track. AC volts from rail to the same rail over the gap, left and right.",
            VOLTMETERS["square"][:2],
            "V",
            "next to nothing on either rail",
            value=0.0,
            low=-PHASE_VOLTS,
            high=PHASE_VOLTS,
            outside="the two are the wrong way round to each other: swap both wires of one of them.",
            minutes=MINUTES["phase"],
            power=True,
            track=gap.track,
            at=gap.at,
            rests_on=f"{sources}",
        )


def _flips(known: Proving) -> Iterator[MeterTest]:
    layout = known.layout
    gaps = layout.gaps
    for i, device in layout.devices.items():
        if device.kind not in REVERSERS:
            continue
        by_hand = device.kind == "reversing switch"
        for section_id, section in layout.sections.items():
            if section.circuit != device.output:
                continue
            own = known.facts.rails.extent_of[known.facts.rails.piece_at(section.track, section.at)]
            ends = sorted({g for g, gap in gaps.items() if _borders(known, own, gap.track, gap.at)})
            for gap_id in ends:
                gap = gaps[gap_id]
                yield MeterTest(
                    f"flip:{i}/{gap_id}",
                    "flip",
                    f"{device.name}, over gap {gap_id}",
                    on_track(layout, gap.track, gap.at, gap_id),
                    "The longest train with metal wheels, slowly, in and out again, both ways"
                    + (", the switch thrown while all of it is inside." if by_hand else "."),
                    ("lamp",),
                    "yes",
                    "no trip, once the switch is thrown" if by_hand else "no trip; it turns over once a pass",
                    wanted=True,
                    outside=("it was thrown late" if by_hand else "it is slower than the breaker above it")
                    + ", the train is longer than the section, or another feeder reaches inside.",
                    minutes=MINUTES["flip"],
                    power=True,
                    track=gap.track,
                    at=gap.at,
                    rests_on=f"{section_id} {device.trip_seconds}",
                )


def _borders(known: Proving, extent: int, track: str, at: float) -> bool:
    rails = known.facts.rails
    length = rails.lengths[track]
    sides = {rails.extent_of[rails.piece_at(track, min(max(at + d, 0.0), length))] for d in (-1.0, 1.0)}
    return extent in sides and len(sides) > 1


def _addresses(known: Proving) -> Iterator[MeterTest]:
    layout = known.layout
    for sensed in sensing(layout, known.facts.rails):
        if sensed.device is None:
            continue
        device = layout.devices[sensed.device]
        here = [(i, s) for i, s in layout.sections.items() if s.circuit == device.output]
        for section_id, section in here:
            yield MeterTest(
                f"address:{section_id}",
                "address",
                f"{section.name}: its address and no other",
                on_track(layout, section.track, section.at),
                "Power on. A resistor axle or an engine here, then taken off.",
                ("lamp",),
                "yes",
                f"{device.name} lights, address {sensed.address}, and goes out again",
                wanted=True,
                outside="the channel, its threshold, two channels changed over, or a feeder that goes round it.",
                minutes=MINUTES["address"],
                power=True,
                track=section.track,
                at=section.at,
                rests_on=f"{sensed.device} {sensed.address}",
            )


def _signals(known: Proving) -> Iterator[MeterTest]:
    layout = known.layout
    for i, signal in layout.signals.items():
        yield MeterTest(
            f"signal:{i}",
            "signal",
            f"Signal {signal.name or i}: every aspect",
            on_track(layout, signal.track, signal.at),
            "Call up each aspect in turn from the panel; walk to where an engineer would see it.",
            ("lamp",),
            "yes",
            "each aspect as the panel says, and stop with the turnout set against it",
            wanted=True,
            outside="lamps changed over, a wire off, or the driver's output.",
            minutes=MINUTES["signal"],
            power=True,
            track=signal.track,
            at=signal.at,
            rests_on=f"{signal.kind} {signal.track} {signal.at:.0f}",
        )


def _far(known: Proving) -> Iterator[MeterTest]:
    facts = known.facts
    worst = facts.worst_point()
    if worst is None:
        return
    track, at = facts.place_of(worst)
    volts, least = float(facts.volts[worst]), float(facts.least_volts[worst])
    given = float(facts.open_volts[worst])
    source = facts.source[worst]
    share = _source_spread(known, source) if source else SOURCE_LABEL
    loss = given - volts
    spread = BAND * float(np.hypot(share * given, 0.3 * loss))
    yield MeterTest(
        f"far:{track}@{at:.0f}",
        "far",
        "The farthest place, everything running",
        on_track(known.layout, track, at),
        "All trains of the scene running, the nearest of them here.",
        VOLTMETERS[known.wave_at(track, at)],
        "V",
        f"{print_volts(volts)} at the worst, {print_volts(least)} where decoders store much",
        value=volts,
        low=volts - spread,
        high=given + BAND * share * given,
        outside="more is lost on the way than the wire accounts for: a bad joint, or a train that draws more.",
        minutes=MINUTES["far"],
        power=True,
        track=track,
        at=at,
        rests_on=f"{volts:.3g}",
    )


def _heat(known: Proving) -> Iterator[MeterTest]:
    layout = known.layout
    for i, device in known.layout.devices.items():
        if device.kind in SOURCES:
            yield MeterTest(
                f"heat:{i}",
                "heat",
                f"{device.name} after an evening",
                f"On the case of {device.name}",
                f"After two hours with everything running. Can a hand stay on the {word_of(layout, device)}?",
                ("lamp",),
                "yes",
                "warm to the hand, no more",
                wanted=True,
                outside="too much asked of it, no air round it, or a poor short it never notices.",
                minutes=MINUTES["heat"],
                power=True,
                rests_on=f"{device.label_amps}",
            )
