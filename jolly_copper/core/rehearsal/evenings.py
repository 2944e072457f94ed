"""Many evenings with everything that may go wrong, by seed: how often what stops, and the first weakness to mend."""

from __future__ import annotations

import random
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.session import wilson
from jolly_copper.core.layout.document import REVERSERS, Layout
from jolly_copper.core.layout.plans import MOST_FAULTS, Fault, RunningPlan
from jolly_copper.core.layout.reading import track_length
from jolly_copper.core.rehearsal.evening import Evening, StandsStill
from jolly_copper.core.rehearsal.faults import words_of
from jolly_copper.core.rehearsal.run import rehearse
from jolly_copper.core.rehearsal.words import clock

SAMPLES_EVERY = 10.0
"""Seconds between samples of an evening nobody looks at."""
AN_HOUR: dict[str, float] = {
    "derailment": 0.5,
    "tool on the rail": 0.1,
    "turnout dumb": 0.2,
    "dead joiner": 0.05,
    "device off": 0.03,
    "stuck contact": 0.05,
    "wheels not insulated": 0.02,
}
"""How often each happens in an hour of running, twelve trains. Certainty C: compare designs, do not promise an
evening."""


@dataclass(frozen=True)
class OneEvening:
    """What one evening came to. faults: what went wrong on purpose. stopped: minutes trains stood dark or in knots, all
    together. opens: devices with how often they opened. kinds: log entries by kind."""

    seed: int
    faults: tuple[str, ...]
    stopped: float
    opens: dict[str, int]
    kinds: dict[str, int]
    first: str | None


@dataclass(frozen=True)
class Weakness:
    """Something that stops trains. evenings: in how many of those played; between: the 95 % interval of that share;
    minutes: what it costs an evening on average, in minutes of standing trains."""

    words: str
    evenings: int
    between: tuple[float, float]
    minutes: float
    seed: int
    """An evening to look at."""


def chance(layout: Layout, plan: RunningPlan, seed: int) -> RunningPlan:
    """A plan with faults by chance in place of its own.

    Each kind comes as often as `AN_HOUR` says, anywhere alike on the track; what a person mends lasts as the plan says.
    """
    rng = random.Random(seed * 7919 + 1)
    hours = plan.minutes / 60
    tracks = list(layout.tracks)
    lengths = [track_length(layout.tracks[t]) for t in tracks]
    nodes = [i for i, n in layout.nodes.items() if n.hand]
    moving = [k for k, t in plan.trains.items() if t.by != "parked"]
    devices = [i for i, d in layout.devices.items() if d.kind == "breaker"]
    found: list[Fault] = []
    for kind, rate in AN_HOUR.items():
        t = 0.0
        while True:
            t += rng.expovariate(rate) * 3600
            if t > hours * 3600:
                break
            track = rng.choices(tracks, lengths)[0]
            at = rng.random() * track_length(layout.tracks[track])
            picks = {
                "train": rng.choice(moving) if moving else None,
                "node": rng.choice(nodes) if nodes else None,
                "device": rng.choice(devices) if devices else None,
            }
            fault = _fault(kind, t, track, at, picks)
            if fault is not None:
                found.append(fault)
    found.sort(key=lambda f: f.seconds)
    return plan.model_copy(update={"faults": found[:MOST_FAULTS], "seed": seed})


def _fault(kind: str, t: float, track: str, at: float, picks: dict[str, str | None]) -> Fault | None:
    said: dict[str, object] = {"kind": kind, "seconds": round(t, 1)}
    match kind:
        case "derailment" | "wheels not insulated":
            said["train"] = picks["train"]
        case "turnout dumb":
            said["node"] = picks["node"]
        case "device off":
            said["device"] = picks["device"]
        case _:
            said |= {"track": track, "at": round(at, 1)}
    return None if None in said.values() else Fault.model_validate(said)


def evenings(layout: Layout, facts: Facts, plan: RunningPlan, count: int) -> Iterator[OneEvening]:
    """Play a plan again and again, each evening with its own faults by chance.

    Args:
        layout, facts: of the railroad. plan: who runs how. count: evenings.

    Yields:
        What each came to, as soon as it is over; who stops asking keeps what is known so far.
    """
    for seed in range(1, count + 1):
        with_faults = chance(layout, plan, seed)
        run = rehearse(layout, facts, with_faults, seed, SAMPLES_EVERY, quiet=True)
        try:
            for _ in run.lines:
                pass
        except StandsStill as error:  # told as it is: such an evening is nobody's
            yield OneEvening(seed, (), 0.0, {}, {"stands still": 1}, str(error))
            continue
        yield _came_to(layout, run.evening, with_faults, seed)


def _came_to(layout: Layout, evening: Evening, plan: RunningPlan, seed: int) -> OneEvening:
    stopped = 0.0
    knotted = {k: evening.entries[n].t for ks, n in evening.seen_knots.items() for k in ks}
    for key, train in evening.trains.items():
        stopped += train.stood_dark
        if train.state == "dark":
            stopped += evening.ends - train.dark_since
        if key in knotted:
            stopped += evening.ends - knotted[key]
    opens = {layout.devices[d].name: n for d, n in evening.trips.items() if layout.devices[d].kind not in REVERSERS}
    first = next((e for e in evening.entries if e.kind in ("opens", "knot", "restart loop")), None)
    return OneEvening(
        seed,
        tuple(f"{clock(f.seconds)} {words_of(layout, f)}" for f in plan.faults),
        stopped / 60,
        opens,
        dict(Counter(e.kind for e in evening.entries)),
        f"{clock(first.t)} {first.words}" if first is not None else None,
    )


WEAK: dict[str, str] = {
    "knot": "Trains waited for each other for ever",
    "restart loop": "A breaker opened again on its own trains",
    "in vain": "A reverser turned over in vain: a train bridged both ends of its section",
    "short not seen": "A short was not seen by any breaker",
    "unseen train": "A stretch told that it was clear while the tail of a train stood in it",
    "low volts": "A train got less volts than the house asks for",
    "blocked for good": "A train had no way on for the rest of the evening",
}


def weaknesses(played: list[OneEvening]) -> list[Weakness]:
    """What stops trains most, the first to mend on top: by minutes of standing trains an evening where it happens."""
    found: list[Weakness] = []
    if not played:
        return found
    for kind, words in WEAK.items():
        hit = [e for e in played if e.kinds.get(kind)]
        if hit:
            found.append(_weak(words + ".", hit, played))
    for name in sorted({n for e in played for n in e.opens}):
        hit = [e for e in played if e.opens.get(name)]
        times = sum(e.opens[name] for e in hit)
        found.append(_weak(f"{name} opened {times} times.", hit, played))
    return sorted(found, key=lambda w: (-w.evenings * (w.minutes + 1), w.words))


def _weak(words: str, hit: list[OneEvening], played: list[OneEvening]) -> Weakness:
    mean = sum(e.stopped for e in hit) / len(hit)
    others = [e for e in played if e not in hit]
    base = sum(e.stopped for e in others) / len(others) if others else 0.0
    worst = max(hit, key=lambda e: e.stopped)
    return Weakness(words, len(hit), wilson(len(hit), len(played)), max(0.0, mean - base), worst.seed)
