"""What goes wrong on purpose: how each fault begins, and how it is mended."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.plans import Fault, FaultKind
from jolly_copper.core.layout.wiring import MeasuredPart
from jolly_copper.core.rails.pieces import SIDES, map_rails
from jolly_copper.core.rehearsal.amps import Copper
from jolly_copper.core.rehearsal.asking import keep
from jolly_copper.core.rehearsal.evening import Evening
from jolly_copper.core.rehearsal.motion import coasting
from jolly_copper.core.rehearsal.moving import released, relight, schedule
from jolly_copper.core.rehearsal.power import close, helped, open_device
from jolly_copper.core.rehearsal.rolling import Rolling
from jolly_copper.core.rehearsal.stock import stock_of
from jolly_copper.core.rehearsal.trace import Motion

DERAILED_MM_S2 = 2000.0
"""How hard a derailed train stops. Certainty C."""

NEEDS: dict[str, tuple[str, ...]] = {
    "derailment": ("train",),
    "tool on the rail": ("track", "at"),
    "turnout dumb": ("node",),
    "dead joiner": ("track", "at"),
    "device off": ("device",),
    "device set": ("device",),
    "train longer": ("train", "longer"),
    "wheels not insulated": ("train",),
    "stuck contact": ("track", "at"),
}
"""What each kind of fault must name."""


def fault_problems(layout: Layout, fault: Fault, trains: frozenset[str], seconds: float) -> Iterator[tuple[str, str]]:
    """What is wrong with a fault: the field and a sentence."""
    for name in NEEDS[fault.kind]:
        if getattr(fault, name) is None:
            yield name, f"A {fault.kind} wants its {'place' if name == 'at' else name}."
    if fault.train is not None and fault.train not in trains:
        yield "train", f"No train {fault.train} runs in this plan."
    if fault.track is not None:
        track = layout.tracks.get(fault.track)
        if track is None:
            yield "track", f"There is no track {fault.track} any more."
        elif fault.at is not None and fault.at > (length := map_rails(layout).lengths[fault.track]) + 0.5:
            yield "at", f"{track.name} is {length:.0f} mm long; the fault lies beyond it."
    if fault.node is not None and (fault.node not in layout.nodes or not layout.nodes[fault.node].hand):
        yield "node", f"There is no turnout {fault.node}."
    if fault.device is not None and fault.device not in layout.devices:
        yield "device", f"There is no device {fault.device}."
    if fault.kind == "device set" and fault.amps is None and fault.acts_after is None:
        yield "amps", "Say the amps it is set to, or how long it takes to act."
    if fault.seconds > seconds:
        yield "seconds", "It would happen after the end of the evening."


def words_of(layout: Layout, fault: Fault) -> str:
    """A fault as a sentence's beginning: what happens, and where."""
    track = layout.tracks[fault.track].name if fault.track in layout.tracks else ""
    train = layout.trains[fault.train].name if fault.train in layout.trains else fault.train or ""
    device = layout.devices[fault.device].name if fault.device in layout.devices else ""
    node = (layout.nodes[fault.node].name or fault.node) if fault.node in layout.nodes else ""
    match fault.kind:
        case "derailment":
            return f"{train} derails"
        case "tool on the rail":
            return f"A tool lies across the rails of {track}"
        case "turnout dumb":
            return f"{node} does not answer any more"
        case "dead joiner":
            return f"A joiner on {track} carries nothing any more"
        case "device off":
            return f"{device} is switched off"
        case "device set":
            amps = f" at {fault.amps:g} A" if fault.amps is not None else ""
            after = f" after {fault.acts_after * 1000:.0f} ms" if fault.acts_after is not None else ""
            return f"{device} acts{amps}{after} from now on"
        case "train longer":
            return f"{train} is {(fault.longer or 0):.0f} mm longer"
        case "wheels not insulated":
            return f"A wheelset of {train} is not insulated"
        case _:
            return f"The detector under {track} tells of a train that is not there"


def begin(evening: Evening, number: int) -> None:
    """A fault happens."""
    fault = evening.plan.faults[number]
    place = (fault.track, fault.at or 0.0) if fault.track is not None else None
    train = _train_of(evening, fault)
    if train is not None:
        place = evening.front_of(train)[:2]
    key = train.key if train is not None else None
    evening.fault_entry[number] = evening.log(
        "fault", words_of(evening.layout, fault) + ".", train=key, device=fault.device, node=fault.node, place=place
    )
    lasts = fault.lasts if fault.lasts is not None else max(evening.plan.person_after, 1.0)
    match fault.kind:
        case "tool on the rail" if place is not None:
            evening.tools[number] = place
            evening.judge = True
        case "derailment" if train is not None and place is not None:
            evening.tools[number] = place
            evening.judge = True
            evening.derailed[number] = train.key
            s, v = train.where(evening.t)
            train.phases = coasting(evening.t, s, v, max(DERAILED_MM_S2, v * v / (2 * max(train.end - s, 1e-3))))
            if train.state == "dark":
                if train.before_dark != "stopped":
                    train.before_stop, train.before_dark = train.before_dark, "stopped"
            elif train.state != "stopped":
                train.before_stop, train.state = train.state, "stopped"
            evening.told.append(Motion(evening.t, train.key, train.phases))
            schedule(evening, train)
        case "wheels not insulated" if train is not None:
            evening.loose_wheels[number] = train.key
            evening.judge = True
        case "turnout dumb" if fault.node is not None:
            evening.dumb[fault.node] = evening.fault_entry[number]
        case "device off" if fault.device is not None:
            evening.off_by_hand.add(fault.device)
            name = evening.layout.devices[fault.device].name
            open_device(evening, fault.device, f"{name} is off.", evening.fault_entry[number])
        case "device set" if fault.device is not None:
            _set_device(evening, fault.device)
        case "train longer" if train is not None:
            _lengthen(evening, train)
        case "dead joiner":
            _part_rails(evening)
        case "stuck contact" if fault.track is not None:
            _stuck(evening)
    # What is set, or built, otherwise stays so; the rest a person mends.
    if fault.kind not in ("device set", "train longer") or fault.lasts is not None:
        evening.at(evening.t + lasts, "mend", str(number))


def _train_of(evening: Evening, fault: Fault) -> Rolling | None:
    """The train a fault happens to: the plan's train of that name, or one made up as that train of the fleet."""
    if fault.train is None:
        return None
    named = evening.trains.get(fault.train)
    return named or next((x for x in evening.trains.values() if x.plan.train == fault.train), None)


def _standing(evening: Evening, kind: FaultKind) -> list[Fault]:
    """The faults of a kind that have begun and are not mended, in the order they began."""
    begun = (n for n in evening.fault_entry if n not in evening.mended)
    return [f for f in (evening.plan.faults[n] for n in begun) if f.kind == kind]


def mend(evening: Evening, number: int) -> None:
    """A person has mended a fault. Another of its kind in the same place stays as it is."""
    fault = evening.plan.faults[number]
    evening.mended.add(number)
    evening.log("mended", f"Mended: {_lower(words_of(evening.layout, fault))}.", cause=evening.fault_entry.get(number))
    evening.tools.pop(number, None)
    evening.judge = True
    train = _train_of(evening, fault)
    if train is not None:
        train.delayed_by = (evening.t, evening.fault_entry[number])
    match fault.kind:
        case "derailment" if train is not None:
            evening.derailed.pop(number, None)
            helped(evening, train)
        case "wheels not insulated":
            evening.loose_wheels.pop(number, None)
        case "turnout dumb" if fault.node is not None and not any(
            f.node == fault.node for f in _standing(evening, "turnout dumb")
        ):
            evening.dumb.pop(fault.node, None)
            released(evening, evening.ground.node_bit[fault.node])
        case "device off" if fault.device is not None and not any(
            f.device == fault.device for f in _standing(evening, "device off")
        ):
            evening.off_by_hand.discard(fault.device)
            close(evening, fault.device)
        case "device set" if fault.device is not None:
            _set_device(evening, fault.device)
        case "train longer" if train is not None:
            _lengthen(evening, train)
        case "dead joiner":
            _part_rails(evening)
        case "stuck contact":
            _stuck(evening)


def _lower(words: str) -> str:
    return words[0].lower() + words[1:] if words.startswith(("A ", "The ")) else words


def _stuck(evening: Evening) -> None:
    """Stretches whose detector tells of a train for ever."""
    before, extents = evening.stuck_lit, 0
    for n in evening.fault_entry:
        fault = evening.plan.faults[n]
        if fault.kind == "stuck contact" and n not in evening.mended and fault.track is not None:
            extents |= 1 << evening.facts.rails.extent_of[evening.facts.rails.piece_at(fault.track, fault.at or 0.0)]
    bits = 0
    for n, mask in enumerate(evening.ground.extent_mask):
        if extents >> n & 1:
            bits |= mask
    evening.stuck_lit_extents, evening.stuck_lit = extents, bits
    released(evening, before & ~bits)


def _set_device(evening: Evening, device: str) -> None:
    """A device acts as it was last set, or as it was built where nothing is set otherwise any more."""
    evening.set_amps.pop(device, None)
    evening.set_seconds.pop(device, None)
    for fault in _standing(evening, "device set"):
        if fault.device == device and fault.amps is not None:
            evening.set_amps[device] = fault.amps
        if fault.device == device and fault.acts_after is not None:
            evening.set_seconds[device] = fault.acts_after


def _lengthen(evening: Evening, train: Rolling) -> None:
    """A train has more cars than it was planned with, or again no more, from where it stands on."""
    longer = sum(f.longer or 0.0 for f in _standing(evening, "train longer") if _train_of(evening, f) is train)
    layout = evening.layout
    of = layout.trains[train.plan.train]
    grown = of.model_copy(update={"length": of.length + longer})
    trains = {**layout.trains, train.plan.train: grown}
    stock = stock_of(layout.model_copy(update={"trains": trains}), train.plan.train)
    # What is not under it yet comes on as it goes: it is longer by as much as it has behind it.
    train.stock = replace(stock, id=f"{stock.id}+{longer:.0f}") if longer else stock
    given_back = keep(evening, train)
    relight(evening)
    if given_back:
        released(evening, given_back)


def _part_rails(evening: Evening) -> None:
    """Ohms with dead joiners in: both rails of each are broken in the network that volts are asked of. Detection and
    nets stay as they are drawn, since a joint that carries no amps still looks like one."""
    layout = evening.layout
    cut = [
        evening.plan.faults[n]
        for n in evening.fault_entry
        if evening.plan.faults[n].kind == "dead joiner" and n not in evening.mended
    ]
    evening.cut_facts = bool(cut)
    if not cut:
        evening.copper = Copper(evening.facts)
        return
    broken = {
        f"dead-{n}-{side}": MeasuredPart(what="joiner", track=f.track, at=f.at or 0.0, side=side, ohms=None)
        for n, f in enumerate(cut)
        for side in SIDES
    }
    parted = layout.model_copy(update={"measured": {**layout.measured, **broken}})
    evening.copper = Copper(derive(parted, evening.facts.scene))
    evening.standing_loads.clear()
