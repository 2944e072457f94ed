"""What an evening comes to, in sentences, the worst first, each with what would mend it."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any, Literal

from jolly_copper.core.circuits.giving import gives
from jolly_copper.core.layout.power_tree import SOURCES
from jolly_copper.core.layout.words import many
from jolly_copper.core.rehearsal.evening import Evening
from jolly_copper.core.rehearsal.power import acts_after, let_through, trains_behind
from jolly_copper.core.rehearsal.proof import Proof, prove
from jolly_copper.core.rehearsal.rolling import Rolling
from jolly_copper.core.rehearsal.trace import Entry
from jolly_copper.core.rehearsal.words import clock, spoken
from jolly_copper.core.signals.sensitivity import cars_of

Grade = Literal["bad", "look", "good"]
LONGER_THAN_FILLING, WELL_WITHIN = 1.2, 0.67
"""A breaker waits so many times as long as engines take to fill, and no longer than that share of what stands above it
waits. Certainty C."""
NEARLY_ALL = 0.9
"""Of what a source may give: from here on it is worth a look. Certainty C."""
SLOW_SHARE = 0.85
"""A train that runs slower than that for want of volts is seen to. Certainty C."""
LONG_WAIT_SECONDS, OUT_OF_SIGHT_SECONDS = 300.0, 60.0
"""A wait, and a time with nothing moving in sight, that are worth a look. Certainty C."""
MOST_SEARCHED = 60_000
"""Standings tried for a verdict; the proof itself, when asked for, tries more."""


@dataclass(frozen=True)
class Mend:
    """What would mend it: a sentence, the step where it is done, and where the program can do it a change of the layout
    (`plan` stands for the plan's own path)."""

    words: str
    step: str
    patch: tuple[dict[str, Any], ...] = ()


@dataclass(frozen=True)
class Sentence:
    """One thing the evening showed. t: when, s. entry: the log entry to look at."""

    grade: Grade
    words: str
    t: float | None = None
    entry: int | None = None
    mends: tuple[Mend, ...] = ()


def verdict(evening: Evening, plan_id: str) -> list[Sentence]:
    """What an evening that has ended came to.

    Args:
        evening: whose lines have all come. plan_id: of the plan in the layout, for changes that are offered.
    """
    found = [
        *_knots(evening, plan_id),
        *_trips(evening),
        *_chatter(evening),
        *_dim(evening),
        *_braking(evening),
        *_slow(evening),
        *_faults(evening),
        *_stuck(evening),
        *_volts(evening),
        *_amps(evening),
        *_late(evening),
        *_unseen(evening),
        *_ways(evening),
        *_public(evening),
    ]
    order = {"bad": 0, "look": 1, "good": 2}
    return sorted(found, key=lambda s: order[s.grade])


def _of(evening: Evening, *kinds: str) -> list[Entry]:
    return [e for e in evening.entries if e.kind in kinds]


def _knots(evening: Evening, plan_id: str) -> Iterator[Sentence]:
    knots, rule = _of(evening, "knot"), evening.plan.single_lines
    proof = prove(evening, rule, MOST_SEARCHED) if not knots else None
    proofs: list[Proof] = []
    if proof is None or (proof.verdict == "knot" and rule == "signals alone"):
        proofs = [prove(evening, r, MOST_SEARCHED) for r in ("direction", "safe moves") if r != rule]
    mends = tuple(
        Mend(
            f"{_rule_words(p.rule)} {p.words}",
            "rehearse",
            ({"op": "add", "path": f"/plans/{plan_id}/single_lines", "value": p.rule},),
        )
        for p in proofs
        if p.verdict == "free"
    )
    for e in knots:
        yield Sentence("bad", e.words, e.t, e.n, mends)
    if proof is None:
        return
    if proof.verdict == "knot":
        yield Sentence("look", f"It went well this time. {proof.words}", mends=mends)
    elif proof.verdict == "starves":
        yield Sentence("look", proof.words, mends=mends)
    elif proof.verdict == "free":
        yield Sentence("good", proof.words)
    elif any(x.plan.by != "parked" for x in evening.trains.values()):
        yield Sentence("look", proof.words)


def _rule_words(rule: str) -> str:
    if rule == "direction":
        return "Let trains run one way at a time on single lines."
    return "Make only moves that leave everybody a way on."


def _trips(evening: Evening) -> Iterator[Sentence]:
    opens = _of(evening, "opens")
    by_fault = {e.n for e in _of(evening, "fault")}
    own = [e for e in opens if e.cause not in by_fault]
    loops = {e.device: e for e in _of(evening, "restart loop")}
    if not opens:
        yield Sentence("good", f"Nothing tripped in {spoken(evening.ends)}.")
    for device_id in dict.fromkeys(e.device for e in own if e.device is not None):
        mine = [e for e in own if e.device == device_id]
        if device_id in loops:
            continue
        times = "" if len(mine) == 1 else f" {len(mine)} times, first"
        name = evening.layout.devices[device_id].name
        words = f"{name} opened{times} at {clock(mine[0].t)}: {_after_colon(mine[0])}"
        mend = Mend("Look at what it feeds and what it is set to.", "zones")
        yield Sentence("bad", words, mine[0].t, mine[0].n, (mend,))
    for looping, e in loops.items():
        if looping is not None:
            yield Sentence("bad", e.words, e.t, e.n, tuple(_restart_mends(evening, looping)))


def _after_colon(entry: Entry) -> str:
    head, _, tail = entry.words.partition(": ")
    return tail or head


def _restart_mends(evening: Evening, device_id: str) -> Iterator[Mend]:
    engines = [e for x in trains_behind(evening, device_id) for e in x.stock.engines]
    fills = max((e.fills for e in engines), default=0.0)
    _, k = let_through(evening, device_id, engines)
    wanted = math.ceil(fills / k * LONGER_THAN_FILLING * 100) / 100
    over = evening.metal.upstream(evening.layout.devices[device_id].output)
    above = min(
        (acts_after(evening, d) for d in over[1:] if evening.layout.devices[d].kind in SOURCES), default=math.inf
    )
    if acts_after(evening, device_id) < wanted < above * WELL_WITHIN:
        yield Mend(
            f"Let it wait {wanted * 1000:.0f} ms: longer than its engines take to fill, and well within the "
            f"{above * 1000:.0f} ms of what stands above it.",
            "zones",
            ({"op": "add", "path": f"/devices/{device_id}/trip_seconds", "value": wanted},),
        )
    yield Mend("Put fewer engines behind it: a district of its own for some of its track.", "zones")


def _chatter(evening: Evening) -> Iterator[Sentence]:
    for device_id, times in evening.chatter.items():
        first = next(e for e in evening.entries if e.kind == "in vain" and e.device == device_id)
        name = evening.layout.devices[device_id].name
        words = (
            f"{name} turned over in vain {many(times, 'time')}, first at {clock(first.t)}: a train bridges both ends "
            "of its section at once, so the section is too short for it."
        )
        mend = Mend("Lengthen the section, or let only shorter trains in.", "reverse")
        yield Sentence("bad", words, first.t, first.n, (mend,))
    for device_id, flips in evening.flips.items():
        if device_id not in evening.chatter:
            name = evening.layout.devices[device_id].name
            yield Sentence("good", f"{name} turned over {len(flips)} times in {spoken(evening.ends)}, always in time.")


def _dim(evening: Evening) -> Iterator[Sentence]:
    for e in _of(evening, "short not seen"):
        yield Sentence("bad", e.words, e.t, e.n, (Mend("More copper, or a breaker that trips at fewer amps.", "wire"),))


def _braking(evening: Evening) -> Iterator[Sentence]:
    for e in _of(evening, "run through"):
        yield Sentence("bad", e.words, e.t, e.n, (Mend("Lengthen it, or let trains in more slowly.", "cabs"),))
    units = _of(evening, "reversing unit")
    if units:
        words = f"{many(len(units), 'time')} a break of power left a three-rail engine in neutral: {units[0].words}"
        yield Sentence("look", words, units[0].t, units[0].n)


def _slow(evening: Evening) -> Iterator[Sentence]:
    """Trains on direct current that the copper slows down."""
    for train in evening.trains.values():
        if train.slowest is None or train.slowest.left > SLOW_SHARE:
            continue
        left, t, track, lost, most = train.slowest
        words = (
            f"{train.stock.name} ran at {left:.0%} of the speed its knob was set to on "
            f"{evening.layout.tracks[track].name} at {clock(t)}: {lost:.1f} V of {most:.1f} V are lost on the way."
        )
        yield Sentence("look", words, t, None, (Mend("Raise the buses that lead there.", "wire"),))


def _faults(evening: Evening) -> Iterator[Sentence]:
    """What each fault stopped, and for how long."""
    for e in _of(evening, "fault"):
        family = {e.n}
        for x in evening.entries[e.n :]:
            if x.cause in family:
                family.add(x.n)
        dark = {x.train for x in evening.entries if x.n in family and x.kind == "dark" and x.train is not None}
        behind = {
            x.train for x in evening.entries if x.n in family and x.kind == "waits" and x.train is not None
        } - dark
        opened = [
            evening.layout.devices[x.device].name
            for x in evening.entries
            if x.n in family and x.kind == "opens" and x.device is not None
        ]
        back = [x.t for x in evening.entries if x.n in family and x.kind in ("closes", "mended", "power back")]
        lasted = (max(back) if back else evening.ends) - e.t
        what = f"{', '.join(dict.fromkeys(opened))} opened" if opened else "nothing opened"
        runs = [x for x in evening.trains.values() if x.plan.by != "parked"]
        stood = len(dark) + len(behind)
        on = max(0, len(runs) - stood)
        words = (
            f"{e.words.rstrip('.')} at {clock(e.t)}: {what}, {many(len(dark), 'train')} dark and "
            f"{many(len(behind), 'train')} waiting behind, for {spoken(lasted)}; {on} of {len(runs)} ran on."
        )
        yield Sentence("look", words, e.t, e.n)


def _stuck(evening: Evening) -> Iterator[Sentence]:
    knots = set(evening.seen_knots.values())
    for e in _of(evening, "blocked for good"):
        if e.cause not in knots:  # who only stands behind a knot is told with it
            yield Sentence("look", e.words, e.t, e.n, (Mend("Say another way in the plan.", "rehearse"),))
    knotted = {k for known in evening.seen_knots for k in known}
    waits = [(_longest_wait(evening, x), x.stock.name) for x in evening.trains.values() if x.key not in knotted]
    wait, name = max(waits, default=(0.0, ""))
    if wait > LONG_WAIT_SECONDS:
        yield Sentence("look", f"{name} waited longest for its way: {spoken(wait)}.")


def _longest_wait(evening: Evening, train: Rolling) -> float:
    """The longest a train has waited for its way, s, with the wait it is in."""
    return max(train.longest_wait, evening.t - train.since if train.state == "waiting" else 0.0)


def _volts(evening: Evening) -> Iterator[Sentence]:
    known = [x for x in evening.trains.values() if x.least_volts is not None]
    if not known:
        return
    low = {e.train: e for e in _of(evening, "low volts")}
    worst = min(known, key=lambda x: x.least_volts or (0.0, 0.0, "", 0.0))
    assert worst.least_volts is not None
    v, t, track, _ = worst.least_volts
    said = f"{worst.stock.name} had least, {v:.1f} V on {evening.layout.tracks[track].name} at {clock(t)}"
    if low:
        names = len(low)
        words = f"{said}; {many(names, 'train')} got less than the house asks for."
        yield Sentence(
            "look",
            words,
            t,
            low[worst.key].n if worst.key in low else None,
            (Mend("Raise the buses that lead there.", "wire"),),
        )
    else:
        yield Sentence("good", f"{said}: within what the house asks for.", t)


def _amps(evening: Evening) -> Iterator[Sentence]:
    for device_id in evening.watched:
        device = evening.layout.devices[device_id]
        amps, t, who = evening.most_amps.get(device_id, (0.0, 0.0, ""))
        may = gives(evening.layout, device_id)
        if device.kind not in SOURCES or may is None or amps <= 0:
            continue
        grade: Grade = "bad" if amps > may else "look" if amps > NEARLY_ALL * may else "good"
        mends = (Mend("Another booster, or fewer trains on it.", "zones"),) if grade != "good" else ()
        yield Sentence(
            grade, f"{device.name} gave {amps:.2f} A of {may:g} at most, at {clock(t)} ({who}).", t, None, mends
        )


def _late(evening: Evening) -> Iterator[Sentence]:
    for train in evening.trains.values():
        if train.late_rounds > 1 and evening.plan.round is not None:
            words = (
                f"{train.stock.name} left late in {train.late_rounds} rounds, by {spoken(train.most_late)} at most: "
                f"its round takes longer than {spoken(evening.plan.round)}."
            )
            yield Sentence(
                "look", words, mends=(Mend("Give the round more time, or the train fewer calls.", "rehearse"),)
            )


def _unseen(evening: Evening) -> Iterator[Sentence]:
    if not evening.unseen_pairs:
        return
    first = next(e for e in evening.entries if e.kind == "unseen train")
    trains: list[Rolling] = []
    for key, _ in evening.unseen_pairs:
        if evening.trains[key] not in trains:
            trains.append(evening.trains[key])
    layout = evening.layout
    patch = tuple(
        {
            "op": "add",
            "path": f"/trains/{x.plan.train}/resistor_axles",
            "value": 2 * cars_of(layout, layout.trains[x.plan.train]),
        }
        for x in trains
    )
    names = ", ".join(x.stock.name for x in trains[:3]) + (" and others" if len(trains) > 3 else "")
    mend = Mend(f"Resistor axles on the cars of {names}.", "trains", patch)
    words = (
        f"{many(sum(evening.unseen_pairs.values()), 'time')} a stretch told that it was clear while the tail of a "
        f"train stood in it ({names}): a signal cleared, and only the driver's eyes kept trains apart."
    )
    yield Sentence("bad", words, first.t, first.n, (mend,))


def _ways(evening: Evening) -> Iterator[Sentence]:
    for (head, track), times in evening.unset.items():
        name = evening.layout.signals[head].name
        words = (
            f"{name} has no way to {evening.layout.tracks[track].name}: {many(times, 'time')} a train was let past "
            "it at stop, by word."
        )
        yield Sentence("look", words, mends=(Mend("Put a signal where the way should end.", "signal"),))


def _public(evening: Evening) -> Iterator[Sentence]:
    runs = any(x.plan.by != "parked" for x in evening.trains.values())
    without, ended = evening.out_of_sight
    if runs:
        grade: Grade = "good" if without <= OUT_OF_SIGHT_SECONDS else "look"
        words = f"The longest time without a train moving in sight was {spoken(without)}, until {clock(ended)}."
        if without < 1:
            words = "There was a train moving in sight at every second."
        yield Sentence(grade, words, ended - without)
