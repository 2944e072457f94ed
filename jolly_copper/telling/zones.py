"""What is told of districts: the power tree with amps, head-room and trips, and volts at every accessory."""

from __future__ import annotations

from pydantic import BaseModel

from jolly_copper.core.circuits.accessory import wrong_with
from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.giving import source_volts
from jolly_copper.core.circuits.loads import load_amps
from jolly_copper.core.circuits.protection import (
    Stretch,
    coordination,
    goes_dark,
    in_order,
    opening_stretches,
    sure_to_open,
)
from jolly_copper.core.layout.power_tree import SOURCES, may_hang
from jolly_copper.core.materials.accessories import USUAL
from jolly_copper.core.quantities import print_current, print_long_length, print_volts


class Step(BaseModel):
    """One device on the one-line diagram. `above`: the device that feeds it."""

    device: str
    name: str
    kind: str
    above: str | None
    circuit: str
    colours: list[str]
    ink: str
    share: float | None
    """Amps asked at worst over amps given."""
    sure: bool | None
    dark_text: str
    sections: list[str]
    late: bool
    purpose: str
    lines: list[str]
    """What stands in its box under its name: amps of amps, trips, what goes dark."""
    trips_text: str | None
    """What its own track has to expect of a short anywhere on it."""
    hosts: list[str]
    """Devices it may be hung under."""


class WrongTrip(BaseModel):
    """Track where a short does not open the nearest protection first: mm from its A end."""

    track: str
    start: float
    end: float
    nothing: bool
    words: str


class ZonesShape(BaseModel):
    steps: list[Step]
    balance_text: str
    wrong: list[WrongTrip]
    trips_text: str


def balance(facts: Facts) -> str:
    loads = [a.worst for a in facts.asked if facts.layout.devices[a.device].kind in SOURCES]
    if len(loads) < 2 or max(loads) <= 0:
        return ""
    return f"The busiest source is asked for {print_current(max(loads))}, the idlest for {print_current(min(loads))}."


def wrong_trip(facts: Facts, stretch: Stretch) -> WrongTrip:
    opening, layout = stretch.opening, facts.layout
    nearest = layout.devices[opening.nearest].name if opening.nearest else "no protection"
    if opening.device is None:
        words = f"A short draws {print_current(opening.amps)}: nothing opens, {nearest} trips at more."
    else:
        words = (
            f"A short draws {print_current(opening.amps)}: {layout.devices[opening.device].name} opens before "
            f"{nearest}."
        )
    return WrongTrip(
        track=stretch.track,
        start=round(stretch.start, 1),
        end=round(stretch.end, 1),
        nothing=opening.device is None,
        words=words,
    )


def step(facts: Facts, i: str, asked: tuple[float, float | None] | None, late: bool, stretches: list[Stretch]) -> Step:
    layout, units = facts.layout, facts.layout.brief.units
    device, circuit = layout.devices[i], layout.circuits[layout.devices[i].output]
    feeds = {d.output: k for k, d in layout.devices.items()}
    dark = goes_dark(layout, facts.rails, i)
    mine = [x for x in stretches if x.opening.nearest == i]
    weak = min(mine, key=lambda x: x.opening.amps, default=None)
    sure = sure_to_open(layout, i, weak.opening.amps) if weak else None
    hosts = [
        h
        for h in in_order(layout)
        if layout.devices[h].output != device.input and may_hang(layout, i, layout.devices[h].output)
    ]
    trip = f"{device.trip_amps:g} A" if device.trip_amps else None
    if trip and device.trip_seconds:
        trip += f", {device.trip_seconds * 1000:.0f} ms"
    share = asked[0] / asked[1] if asked and asked[1] else None
    over = share is not None and share > 1 + 1e-9
    lines = [
        f"{print_current(asked[0])} of {print_current(asked[1]) if asked[1] else '?'}{', too much' if over else ''}"
        if asked
        else circuit.name
    ]
    if trip:
        lines.append(f"trips {trip}{', too late' if late else ''}")
    elif circuit.purpose == "accessory":
        lines.append(f"{source_volts(layout, i):g} V")
    else:
        lines.append(f"{print_long_length(dark.track, units)} of track")
    trips = None
    if mine and weak is not None:
        bad = sum(x.end - x.start for x in mine if not x.opening.right)
        whole = sum(x.end - x.start for x in mine)
        trips = f"weakest short {print_current(weak.opening.amps)} on {layout.tracks[weak.track].name}; " + (
            f"opens first on all {print_long_length(whole, units)}"
            if bad <= 0
            else f"does not open first on {print_long_length(bad, units)} of {print_long_length(whole, units)}"
        )
    return Step(
        device=i,
        name=device.name,
        kind=device.kind,
        above=feeds.get(device.input) if device.input else None,
        circuit=device.output,
        colours=[circuit.colour_a, circuit.colour_b],
        ink=circuit.ink,
        share=share,
        sure=sure,
        dark_text=print_long_length(dark.track, units),
        sections=[layout.sections[s].name for s in dark.sections],
        late=late,
        purpose=circuit.purpose,
        lines=lines,
        trips_text=trips,
        hosts=hosts,
    )


class LoadShape(BaseModel):
    """A load with the volts that reach it."""

    load: str
    rest_text: str
    work_text: str
    wants_text: str
    ok: bool
    why: str
    tied: str
    amps_text: str


class AccessoriesShape(BaseModel):
    """What the accessory buses give their loads."""

    loads: dict[str, LoadShape]


class UsualLoad(BaseModel):
    """What one of a kind usually draws, A, and the volts it wants."""

    kind: str
    amps_text: str
    working_text: str
    volts_text: str


def zones_shape(facts: Facts) -> ZonesShape:
    """Every device from source to reverser, in the order a diagram draws them."""
    layout = facts.layout
    asked = {a.device: (a.worst, a.gives) for a in facts.asked}
    asked |= {a.device: (a.work, a.gives) for a in facts.accessory.supplies}
    late = {p.below for p in coordination(layout) if p.in_time is False or p.in_current is False}
    stretches = opening_stretches(facts)
    steps = [step(facts, i, asked.get(i), i in late, stretches) for i in in_order(layout)]
    wrong = [x for x in stretches if not x.opening.right]
    total, bad = sum(x.end - x.start for x in stretches), sum(x.end - x.start for x in wrong)
    units = layout.brief.units
    if not stretches:
        told = "No live track behind a protection yet."
    elif not wrong:
        told = (
            f"A short anywhere on the {print_long_length(total, units)} of live track opens the protection nearest to "
            "it first."
        )
    else:
        told = (
            f"On {print_long_length(bad, units)} of {print_long_length(total, units)} a short does not open the "
            f"protection nearest to it first."
        )
    return ZonesShape(
        steps=steps, balance_text=balance(facts), wrong=[wrong_trip(facts, x) for x in wrong], trips_text=told
    )


def accessories_shape(facts: Facts) -> AccessoriesShape:
    """Volts at every load, at rest and with all at work that may be."""
    shapes = {}
    for i, load in facts.layout.loads.items():
        volts = facts.accessory.loads.get(i)
        limits = [f"{v:g} V" for v in (load.least_volts, load.most_volts) if v is not None]
        wrong = wrong_with(load, volts) if volts else None
        dead = wrong == "nothing there"
        shapes[i] = LoadShape(
            load=i,
            rest_text="track power" if volts is None else "nothing" if dead else print_volts(volts.rest),
            work_text="track power" if volts is None else "nothing" if dead else print_volts(volts.work),
            wants_text=" to ".join(limits),
            ok=wrong is None,
            why=wrong or "",
            tied=(volts.terminal if volts else load.terminal) or "at its supply",
            amps_text=print_current(load_amps(load)),
        )
    return AccessoriesShape(loads=shapes)


def usual_load_shapes() -> list[UsualLoad]:
    """Starting values of accessories; guesses until measured."""
    return [
        UsualLoad(
            kind=k,
            amps_text=print_current(d.amps),
            working_text=print_current(d.working_amps),
            volts_text=f"{d.least_volts:g} to {d.most_volts:g} V",
        )
        for k, d in USUAL.items()
    ]
