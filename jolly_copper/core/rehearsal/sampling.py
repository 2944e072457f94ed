"""What every device gives and every train gets, second by second: for strips, for overloads, for who loses power."""

from __future__ import annotations

from jolly_copper.core.layout.power_tree import SOURCES
from jolly_copper.core.rehearsal.amps import Spot, StandingLoads
from jolly_copper.core.rehearsal.by_volts import slow_by_volts
from jolly_copper.core.rehearsal.driving import cab_of
from jolly_copper.core.rehearsal.evening import Evening
from jolly_copper.core.rehearsal.motion import STILL_MM_S
from jolly_copper.core.rehearsal.power import acts_after, powered_anew, sees_from
from jolly_copper.core.rehearsal.rolling import Rolling
from jolly_copper.core.rehearsal.stock import STARTING
from jolly_copper.core.rehearsal.trace import Sample

EVERY = 1.0
"""Seconds between two samples."""
HIDDEN = frozenset({"staging"})
"""Uses of track the public does not see."""
NAMED = 4


def sample(evening: Evening) -> None:
    """Take one sample of the whole railroad."""
    powered_anew(evening)
    if _nothing_moved(evening):
        amps_then, volts_then = evening.last_sample
        evening.told.append(Sample(round(evening.t, 3), amps_then, volts_then))
        _seen_running(evening)
        return
    spots: list[Spot | None] = []
    amps: list[float] = []
    whose: list[Rolling] = []
    drawn: dict[str, float] = {}
    for train in evening.trains.values():
        if not train.segments:
            continue
        total = 0.0
        for spot, amp in _loads(evening, train):
            spots.append(spot)
            amps.append(amp)
            whose.append(train)
            total += amp
        drawn[train.key] = total
    volts = evening.copper.volts(spots, amps)
    at_train: dict[str, float | None] = {}
    for train, v in zip(whose, volts, strict=True):
        known = at_train.get(train.key)
        if v is not None and train.powered:
            at_train[train.key] = v if known is None else min(known, v)
    if any(cab_of(evening, key) is not None for key in evening.trains):
        most = evening.copper.volts(spots, [0.0] * len(spots))
        lowest: dict[str, tuple[float, float]] = {}
        for train, v, unloaded in zip(whose, volts, most, strict=True):
            if v is not None and unloaded is not None and train.powered:
                lowest[train.key] = min(lowest.get(train.key, (v, unloaded)), (v, unloaded))
        for key, (v, unloaded) in lowest.items():
            slow_by_volts(evening, evening.trains[key], v, unloaded)
    by_device = _by_device(evening, drawn)
    _note(evening, by_device, at_train)
    evening.last_sample = (
        tuple(round(sum(a for _, a in by_device.get(d, ())), 3) for d in evening.watched),
        tuple(None if (v := at_train.get(k)) is None else round(v, 2) for k in evening.trains),
    )
    evening.told.append(Sample(round(evening.t, 3), *evening.last_sample))
    _overloads(evening, by_device)
    _seen_running(evening)


def _nothing_moved(evening: Evening) -> bool:
    """Whether every train stands where it stood at the last sample, with as much power."""
    now = tuple(
        (x.phases[-1].s, x.powered) if evening.t > x.phases[-1].t and x.phases[-1].v == 0 else None
        for x in evening.trains.values()
    )
    same = None not in now and now == evening.stood and not evening.overloaded
    evening.stood = now
    return same


def _loads(evening: Evening, train: Rolling) -> list[tuple[Spot | None, float]]:
    """A train's loads where they stand now: engines each at its place, lit cars in two lumps."""
    s, v = train.where(evening.t)
    moving = v > STILL_MM_S
    starting = moving and _gathers(train, evening.t)
    known = evening.standing_loads.get(train.key)
    if known is not None and not moving and abs(known.s - s) < 0.5 and known.powered == train.powered:
        return known.loads
    found: list[tuple[Spot | None, float]] = []
    for engine in train.stock.engines:
        amps = engine.running * (STARTING if starting else 1.0) if moving else engine.idle
        found.append((_spot(evening, train, s - engine.middle), amps if train.powered else 0.0))
    for behind, amps in train.stock.lit:
        found.append((_spot(evening, train, s - behind), amps if train.powered else 0.0))
    if moving:
        evening.standing_loads.pop(train.key, None)
    else:
        evening.standing_loads[train.key] = StandingLoads(s, train.powered, found)
    return found


def _gathers(train: Rolling, t: float) -> bool:
    """Whether a train gains speed."""
    for phase in reversed(train.phases):
        if phase.t <= t + 1e-9:
            return phase.a > 0
    return False


def _spot(evening: Evening, train: Rolling, s: float) -> Spot | None:
    segment = evening.segment_at(train, s)
    place = segment.place(min(max(s, segment.s), segment.end))
    return evening.copper.spot(place.track, place.at)


def _by_device(evening: Evening, drawn: dict[str, float]) -> dict[str, list[tuple[str, float]]]:
    """For every watched device, the trains that hang under it with what each draws, A."""
    found: dict[str, list[tuple[str, float]]] = {}
    for key, amps in drawn.items():
        if amps <= 0:
            continue
        for device_id in evening.devices_over(evening.trains[key]):
            found.setdefault(device_id, []).append((evening.trains[key].stock.name, amps))
    return found


def _note(evening: Evening, by_device: dict[str, list[tuple[str, float]]], at_train: dict[str, float | None]) -> None:
    """Keep the most amps of every device and the least volts of every train."""
    for device_id in evening.watched:
        draws = by_device.get(device_id, [])
        total = sum(a for _, a in draws)
        known = evening.now_amps.get(device_id)
        if known is None or known[0] != total:
            names = ", ".join(f"{n} {a:.2f}" for n, a in sorted(draws, key=lambda x: -x[1])[:NAMED])
            evening.now_amps[device_id] = (total, evening.t, names)
        if total > evening.most_amps.get(device_id, (-1.0, 0.0, ""))[0] + 1e-9:
            evening.most_amps[device_id] = evening.now_amps[device_id]
    limits = evening.least_allowed
    for key, v in at_train.items():
        train = evening.trains[key]
        if v is None:
            continue
        if train.least_volts is None or v < train.least_volts[0]:
            place = evening.front_of(train)
            train.least_volts = (v, evening.t, place.track, place.at)
        least = limits.get(evening.meant_for(train) or "", 0.0)
        if v < least and key not in evening.told_low:
            evening.told_low.add(key)
            evening.log(
                "low volts",
                f"{train.stock.name} gets {v:.1f} V on {evening.layout.tracks[evening.front_of(train).track].name}, "
                f"less than the {least:.1f} V the house asks for.",
                train=key,
                place=evening.front_of(train)[:2],
            )


def _overloads(evening: Evening, by_device: dict[str, list[tuple[str, float]]]) -> None:
    """Start the clock of a device whose trains draw more than it lets through for long."""
    for device_id in evening.watched:
        if evening.layout.devices[device_id].kind not in ("breaker", *SOURCES) or device_id in evening.opened:
            continue
        trip = sees_from(evening, device_id)
        total = sum(a for _, a in by_device.get(device_id, ()))
        if trip is not None and total >= trip:
            if device_id not in evening.overloaded:
                evening.overloaded.add(device_id)
                if device_id not in evening.clocks:
                    due = evening.t + acts_after(evening, device_id)
                    evening.clocks[device_id] = (due, None)
                    evening.at(due, "act", device_id)
        else:
            evening.overloaded.discard(device_id)


def _seen_running(evening: Evening) -> None:
    """Whether a train moves where the public sees it; the longest time without one."""
    for train in evening.trains.values():
        s, v = train.where(evening.t)
        if v > STILL_MM_S and train.segments:
            track = evening.segment_at(train, s).track
            if evening.layout.tracks[track].use not in HIDDEN:
                evening.in_sight = evening.t
                return
    without = evening.t - evening.in_sight
    if without > evening.out_of_sight[0]:
        evening.out_of_sight = (without, evening.t)
