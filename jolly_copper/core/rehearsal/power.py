"""Amps in the moment: which device acts on a short and after how long, trips, turn-overs, and power that returns."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence

from jolly_copper.core.layout.document import REVERSERS
from jolly_copper.core.layout.power_tree import SOURCES
from jolly_copper.core.rehearsal.asking import set_motion
from jolly_copper.core.rehearsal.driving import steps_its_unit
from jolly_copper.core.rehearsal.evening import Evening
from jolly_copper.core.rehearsal.metal import Clash
from jolly_copper.core.rehearsal.motion import STILL_MM_S, coasting
from jolly_copper.core.rehearsal.moving import go_on, schedule
from jolly_copper.core.rehearsal.rolling import Rolling
from jolly_copper.core.rehearsal.stock import Engine
from jolly_copper.core.rehearsal.trace import Motion, Switched
from jolly_copper.core.rehearsal.wheels import ties
from jolly_copper.core.rehearsal.words import spoken

REVERSER_SECONDS = 0.010
BREAKER_SECONDS = 0.050
SOURCE_SECONDS = 0.250
"""How long devices take to act where nobody wrote it down, s. Common practice, no source; certainty C."""
REVERSER_SHARE = 0.5
"""Of the trip of the breaker above: what a reverser sees where nobody wrote it down. Certainty C."""
USUAL_REVERSER_AMPS = 2.0
MANY_TURNS = 2
"""Turn-overs within a second beyond which a reverser is said to chatter."""
MOST_TRIES = 400


def acts_after(evening: Evening, device_id: str) -> float:
    """How long a device takes to act, s; the usual of its kind where nobody wrote it down."""
    device = evening.layout.devices[device_id]
    if device_id in evening.set_seconds:
        return evening.set_seconds[device_id]
    if device.trip_seconds is not None:
        return device.trip_seconds
    if device.kind in REVERSERS:
        return REVERSER_SECONDS
    return SOURCE_SECONDS if device.kind in SOURCES else BREAKER_SECONDS


def sees_from(evening: Evening, device_id: str) -> float | None:
    """From how many amps on a device acts; None where it never does."""
    if device_id in evening.set_amps:
        return evening.set_amps[device_id]
    device = evening.layout.devices[device_id]
    if device.trip_amps is not None:
        return min(device.trip_amps, evening.copper.limit(device_id)) if device.kind in SOURCES else device.trip_amps
    if device.kind == "reverser":
        above = evening.facts.tree.protection(device.input) if device.input is not None else None
        trip = above[1].trip_amps if above is not None else None
        return REVERSER_SHARE * trip if trip is not None else USUAL_REVERSER_AMPS
    return None


def judge(evening: Evening) -> None:
    """Judge the metal once: what shorts, which devices see it, whose clocks run."""
    evening.judge = False
    standing = ties(evening)
    standing += [t for n in evening.tools if (t := evening.tool_tie(n)) is not None]
    clashes = evening.metal.judge(standing)[0] if standing else []
    amps, why = _seen(evening, clashes)
    for device_id, carried in amps.items():
        trip = sees_from(evening, device_id)
        if trip is not None and carried >= trip - 1e-9 and device_id not in evening.clocks:
            due = evening.t + acts_after(evening, device_id)
            evening.clocks[device_id] = (due, why.get(device_id))
            evening.at(due, "act", device_id)
    for device_id in list(evening.clocks):
        trip = sees_from(evening, device_id)
        if trip is None or (amps.get(device_id, 0.0) < trip - 1e-9 and device_id not in evening.overloaded):
            del evening.clocks[device_id]
    _unseen_short(evening, clashes, amps)
    powered_anew(evening)


def _seen(evening: Evening, clashes: list[Clash]) -> tuple[dict[str, float], dict[str, int | None]]:
    """Amps every device reads of the shorts there are, and the log entry each follows from."""
    amps: dict[str, float] = defaultdict(float)
    why: dict[str, int | None] = {}
    at_one_place: dict[tuple[str, str, float], list[Clash]] = defaultdict(list)
    for clash in clashes:
        at_one_place[clash.tie.who, clash.tie.track, clash.tie.at].append(clash)
    evening.shorts = []
    for (who, track, at), here in at_one_place.items():
        first = here[0]
        near = {d for c in first.near for d in evening.metal.upstream(c)}
        far = {d for c in first.far for d in evening.metal.upstream(c)}
        limits = {d: evening.copper.limit(d) for d in near | far if evening.layout.devices[d].kind in SOURCES}
        gives = sum(limits.values())
        if first.tie.side is None:
            flows = evening.copper.short(track, at, first.volts, first.tie.ohms)
            own = dict.fromkeys(near | far, flows)
        else:
            flows = evening.copper.over_gap(track, at, first.volts, len(here))
            own = {d: flows * (len(here) if d in near and d in far else 1) for d in near | far}
        evening.shorts.append((who, track, at, min(flows, gives) if gives else flows))
        for device_id, carried in own.items():
            amps[device_id] += min(carried, limits.get(device_id, gives or carried))
            why.setdefault(device_id, evening.cause_of(who))
    return amps, why


def _unseen_short(evening: Evening, clashes: list[Clash], amps: dict[str, float]) -> None:
    """A short that nothing opens on is the worst of all: tell it once, and take its circuits for dim."""
    dim: set[str] = set()
    for clash in clashes:
        circuits = clash.near | clash.far
        up = {d for c in circuits for d in evening.metal.upstream(c)}
        if not any(d in evening.clocks for d in up):
            dim |= circuits
            key = (clash.tie.who, clash.tie.track)
            if key not in evening.told_shorts:
                evening.told_shorts.add(key)
                flows = max((amps.get(d, 0.0) for d in up), default=0.0)
                evening.log(
                    "short not seen",
                    f"A short on {evening.layout.tracks[clash.tie.track].name} draws {flows:.1f} A, and nothing opens: "
                    "everything on its power goes dim.",
                    place=(clash.tie.track, clash.tie.at),
                    cause=evening.cause_of(clash.tie.who),
                )
    evening.dim = dim


def acts(evening: Evening, device_id: str) -> None:
    """The time of a device's clock is up."""
    known = evening.clocks.get(device_id)
    if known is None or known[0] > evening.t + 1e-9:
        return
    cause = known[1]
    del evening.clocks[device_id]
    device = evening.layout.devices[device_id]
    if device.kind in REVERSERS:
        _turn_over(evening, device_id, cause)
        return
    overloaded = device_id in evening.overloaded
    evening.overloaded.discard(device_id)
    evening.trips[device_id] = evening.trips.get(device_id, 0) + 1
    words = evening.overload_words(device_id) if overloaded else _short_words(evening, device_id, cause)
    open_device(evening, device_id, words, cause)


def _short_words(evening: Evening, device_id: str, cause: int | None) -> str:
    """Why a device opens on a short: where it is and what flows."""
    name = evening.layout.devices[device_id].name
    if not evening.shorts:
        return f"{name} opens."
    who, track, _, flows = evening.shorts[0]
    on = evening.layout.tracks[track].name
    train = evening.trains.get(who)
    what = f"{train.stock.name} joins unlike rails on {on}" if train is not None else f"the rails are shorted on {on}"
    return f"{name} opens: {what}, {flows:.1f} A."


def open_device(evening: Evening, device_id: str, words: str, cause: int | None, wants_person: bool = False) -> None:
    """A device opens; it closes by itself, or a person closes it. wants_person: it will not hold by itself."""
    device = evening.layout.devices[device_id]
    tries = evening.tries.get(device_id, 0)
    quiet = tries > 0 and tries % 10
    entry = evening.opened.get(device_id, (0.0, -1))[1]
    if not quiet or entry < 0:
        again = f" (try {tries + 1})" if tries else ""
        entry = evening.log(
            "opens", words.rstrip(".") + again + ".", device=device_id, cause=cause, place=_place(evening)
        )
    evening.opened[device_id] = (evening.t, entry)
    evening.first_open.setdefault(device_id, evening.t)
    evening.metal.standing.open.add(device_id)
    evening.told.append(Switched(evening.t, device_id, "open"))
    evening.metal_changed()
    waits = device.recovery_seconds
    if waits is None or wants_person or tries >= MOST_TRIES:
        waits = max(evening.plan.person_after, 1.0)
    evening.at(evening.t + waits, "close", device_id)


def _place(evening: Evening) -> tuple[str, float] | None:
    return evening.shorts[0][1:3] if evening.shorts else None


def _turn_over(evening: Evening, device_id: str, cause: int | None) -> None:
    """A reverser turns over."""
    turned = evening.metal.standing.turned
    turned ^= {device_id}
    times = evening.flips.setdefault(device_id, [])
    times.append(evening.t)
    recent = [x for x in times[-MANY_TURNS - 2 :] if x > evening.t - 1.0]
    name = evening.layout.devices[device_id].name
    place = _place(evening)
    who = next((evening.trains[w].stock.name for w, *_ in evening.shorts if w in evening.trains), "a short")
    if len(recent) == 1:
        evening.log("turned over", f"{name} turns over under {who}.", device=device_id, place=place, cause=cause)
    elif len(recent) == MANY_TURNS + 1:
        evening.log(
            "in vain",
            f"{name} turns over again and again under {who}: both ends of its section are bridged at once.",
            device=device_id,
            place=place,
            cause=cause,
        )
        evening.chatter[device_id] = evening.chatter.get(device_id, 0) + 1
    evening.told.append(Switched(evening.t, device_id, "turned" if device_id in turned else "straight"))
    evening.metal_changed()


def switch_on(evening: Evening, device_id: str) -> None:
    """The evening begins: all engines behind a device fill at once."""
    if device_id in evening.opened:
        return
    evening.tries[device_id] = 1
    evening.opened[device_id] = (0.0, -1)
    verdict = _fills(evening, device_id, 60.0)
    del evening.opened[device_id]
    evening.tries.pop(device_id, None)
    if verdict is not None:
        name = evening.layout.devices[device_id].name
        open_device(evening, device_id, f"{name} opens as the evening begins.", None, wants_person=not verdict)


def close(evening: Evening, device_id: str) -> None:
    """A device closes again: power returns, unless its own trains, or the short, open it anew."""
    if device_id not in evening.opened or device_id in evening.off_by_hand:
        return
    since, entry = evening.opened[device_id]
    device = evening.layout.devices[device_id]
    evening.metal.standing.open.discard(device_id)
    evening.tries[device_id] = evening.tries.get(device_id, 0) + 1
    evening.told.append(Switched(evening.t, device_id, "closed"))
    evening.metal_changed()
    judge(evening)
    if device_id in evening.clocks:  # still shorted
        return
    verdict = _fills(evening, device_id, evening.t - since)
    if verdict is not None:
        evening.metal.standing.open.add(device_id)
        evening.told.append(Switched(evening.t, device_id, "open"))
        evening.opened[device_id] = (evening.t, entry)
        evening.metal_changed()
        judge(evening)
        waits = (
            device.recovery_seconds if verdict and device.recovery_seconds is not None else evening.plan.person_after
        )
        evening.at(evening.t + max(waits, 1.0), "close", device_id)
        return
    tries = evening.tries.pop(device_id)
    off = evening.t - evening.first_open.pop(device_id, since)
    del evening.opened[device_id]
    evening.filled.pop(device_id, None)
    evening.helped.discard(device_id)
    evening.log(
        "closes",
        f"{device.name} closes again after {spoken(off)}" + (f", at try {tries}." if tries > 1 else "."),
        device=device_id,
        cause=entry,
    )


def trains_behind(evening: Evening, device_id: str) -> list[Rolling]:
    """Trains that stand on track a device feeds."""
    return [x for x in evening.trains.values() if device_id in evening.devices_over(x)]


def let_through(evening: Evening, device_id: str, engines: Sequence[Engine]) -> tuple[float, float]:
    """Inrush of engines that start together, ΣI in A, and the share of it their source lets through, k = limit/ΣI."""
    total = sum(e.inrush for e in engines)
    over = evening.metal.upstream(evening.layout.devices[device_id].output)
    source = next((d for d in over if evening.layout.devices[d].kind in SOURCES), None)
    most = evening.starts_with(source) if source is not None else total
    return total, min(1.0, most / total) if total else 1.0


def _fills(evening: Evening, device_id: str, off: float) -> bool | None:
    """Whether engines behind a device open it again as they fill up: None where they do not; True where a later try
    holds; False where none ever does, so that a person must help.

    Each engine takes its inrush for t_fill; a source that gives less than all of it, k = limit/ΣI, makes that
    t_fill/k. It opens where ΣI·k ≥ trip and (1 − q)·t_fill/k ≥ t_trip; q gains t_trip·k/t_fill a try and
    loses t_off/t_hold until the next.
    """
    behind = trains_behind(evening, device_id)
    engines = [e for x in behind for e in x.stock.engines if off >= e.holds or x.state == "dark"]
    trip = sees_from(evening, device_id)
    if trip is None or not engines or device_id in evening.helped:
        return None
    total, k = let_through(evening, device_id, engines)
    own = evening.layout.devices[device_id].inrush_amps
    fills, holds = max(e.fills for e in engines), min(e.holds for e in engines)
    after = acts_after(evening, device_id)
    q = evening.filled.get(device_id, 0.0)
    if total * k < max(trip, own or 0.0) - 1e-9 or (1 - q) * fills / k < after - 1e-12:
        return None
    again = evening.layout.devices[device_id].recovery_seconds
    gain, loss = after * k / fills, (again if again is not None else evening.plan.person_after) / holds
    evening.filled[device_id] = max(0.0, q + gain - loss)
    if evening.tries.get(device_id, 0) == 1:
        name = evening.layout.devices[device_id].name
        names = ", ".join(dict.fromkeys(x.stock.name for x in behind))
        for_ever = loss >= gain or again is None
        evening.log(
            "restart loop",
            f"{name} opens again on its own trains: {len(engines)} engines ({names}) start together, {total * k:.1f} A "
            f"for {fills / k * 1000:.0f} ms against {trip:g} A and {after * 1000:.0f} ms"
            + (", at each try for ever; a person brings them back one by one." if for_ever else "."),
            device=device_id,
            cause=max(evening.opened[device_id][1], 0) if evening.entries else None,
        )
    if loss >= gain or again is None:
        evening.helped.add(device_id)
        return False
    return True


def powered_anew(evening: Evening) -> None:
    """Which trains have power now: those that lost it run out, those that have it again go on."""
    for train in evening.trains.values():
        if not train.segments:
            continue
        has = evening.has_power(train)
        if has == train.powered:
            continue
        train.powered = has
        (_light if has else _darken)(evening, train)


def helped(evening: Evening, train: Rolling) -> None:
    """A person has come to a train that stood, and it goes on: at once, or when it has power again."""
    if train.key in evening.derailed.values():
        return
    if train.state == "dark" and train.before_dark == "stopped":
        train.before_dark = train.before_stop
    elif train.state == "stopped":
        train.state = train.before_stop
        _resume(evening, train)


def _resume(evening: Evening, train: Rolling) -> None:
    """A train that was kept from what it was about takes it up again."""
    if train.state == "running":
        s, _ = train.where(evening.t)
        set_motion(evening, train)
        schedule(evening, train)
        if train.stop - s < 1 and not train.arriving:
            go_on(evening, train)
    elif train.state == "waiting":
        go_on(evening, train)
    elif train.state == "standing" and train.plan.by != "hand" and train.wakes <= evening.t:
        train.wakes = evening.t  # its time to go passed meanwhile
        evening.at(train.wakes, "wake", train.key)


def _darken(evening: Evening, train: Rolling) -> None:
    s, v = train.where(evening.t)
    train.dark_since = evening.t
    cause = evening.open_over(train)
    train.before_dark = train.state
    if v > STILL_MM_S or train.state == "running":
        planned = train.phases[-1].s
        train.phases = coasting(evening.t, s, v)
        if train.phases[-1].s > planned:  # it was about to stop anyway, and rolls no farther for want of power
            train.phases = coasting(evening.t, s, v, v * v / (2 * max(planned - s, 1e-3)))
        evening.told.append(Motion(evening.t, train.key, train.phases))
    train.state = "dark"
    train.dark_entry = evening.log(
        "dark",
        f"{train.stock.name} has no power on {evening.layout.tracks[evening.front_of(train).track].name}.",
        train=train.key,
        place=evening.front_of(train)[:2],
        cause=cause,
    )
    schedule(evening, train)


def _light(evening: Evening, train: Rolling) -> None:
    train.stood_dark += evening.t - train.dark_since
    evening.log(
        "power back",
        f"{train.stock.name} has power again after {spoken(evening.t - train.dark_since)}.",
        train=train.key,
        cause=train.dark_entry,
    )
    if train.dark_entry is not None:
        train.delayed_by = (evening.t, train.dark_entry)
    train.dark_entry = None
    train.state = train.before_dark
    if train.state == "running" and steps_its_unit(evening, train):
        evening.log(
            "reversing unit",
            f"The reversing unit of {train.stock.name} has stepped into neutral: it stands until a person comes.",
            train=train.key,
            cause=train.delayed_by[1] if train.delayed_by else None,
        )
        train.state, train.before_stop = "stopped", "running"
        evening.at(evening.t + max(evening.plan.person_after, 1.0), "person", train.key)
        return
    _resume(evening, train)
