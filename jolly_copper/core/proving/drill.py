"""A hidden fault to practise on, and how long a hunt takes: by the best next act, and by pulling plugs in order."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np

from jolly_copper.core.proving.cases import case_of
from jolly_copper.core.proving.causes import Act, Case
from jolly_copper.core.proving.hunt import MEND_MINUTES, OPEN_SHARE, Answer, Standing, best_next, stand
from jolly_copper.core.proving.proving import Proving

LONGEST = 400.0
RUNS_OF_PAR = 4
TRUE_WRONG = 0.05
PASSES = 60


@dataclass(frozen=True)
class Hidden:
    """The fault: number of its cause, and what no one knows: how the rail differs (a), and Ω of the short (b)."""

    cause: int
    rail: float
    base: float
    seed: int


def hide(case: Case, seed: int) -> Hidden:
    """A cause drawn by its weight, the same for the same seed."""
    rng = np.random.default_rng(seed)
    weight = np.array([c.weight for c in case.causes])
    cause = int(rng.choice(len(weight), p=weight / weight.sum()))
    return Hidden(
        cause,
        float(np.exp(0.15 * rng.standard_normal())),
        float(case.causes[cause].ohms * np.exp(rng.uniform(np.log(0.3), np.log(5.0)))),
        seed,
    )


def answer_of(case: Case, act: Act, hidden: Hidden, time: int, slips: bool = True) -> Answer:
    """What an act shows of the hidden fault; now and then it is read wrong, the same for the same seed and place.

    Args:
        time: how many acts came before, so that looking again may find it.
    """
    rng = np.random.default_rng([hidden.seed, time, sum(act.key.encode())])
    wrong = slips and bool(rng.random() < TRUE_WRONG)
    if act.look:
        return Answer(act.key, "found" if act.covers[hidden.cause] > 0 and rng.random() < act.finds else "not found")
    if act.reads:
        part = float(act.part[hidden.cause])
        if act.unknown_base:
            value = hidden.rail * part + hidden.base + 0.002 * rng.standard_normal()
        else:
            value = part * float(np.exp(OPEN_SHARE * rng.standard_normal()))
        if wrong:
            value *= 1.5
        return Answer(act.key, f"{max(value, 0.0):.4g}")
    yes = bool(rng.random() < act.yes[hidden.cause]) != wrong
    return Answer(act.key, "yes" if yes else "no")


Policy = Callable[[Case, Standing, list[Answer]], Act | None]


def by_worth(case: Case, at: Standing, answers: list[Answer]) -> Act | None:
    """The best next act."""
    found = best_next(case, at, answers)
    return found.act if found else None


def in_order(case: Case, _: Standing, answers: list[Answer]) -> Act | None:
    """What people do: walk every rail, lift trains, look at turnouts, then feeders, terminals, runs, the breaker."""
    ranks = ("wipe", "other", "metal", "train", "frog", "joint", "feeder", "terminal", "run", "breaker")
    looks = [a for a in case.acts if a.look and not a.key.startswith("close:")]
    looks.sort(key=lambda a: next((n for n, r in enumerate(ranks) if a.key.startswith(r)), len(ranks)))
    return looks[len(answers) % len(looks)] if looks else None


@dataclass(frozen=True)
class Hunted:
    """A hunt played to its end: minutes by the table, acts made, and whether the fault was found."""

    minutes: float
    answers: tuple[Answer, ...]
    found: bool


def play(case: Case, hidden: Hidden, policy: Policy = by_worth, slips: bool = True) -> Hunted:
    """Hunt the hidden fault by a policy. What is found but is not the cause goes on, as in life."""
    answers: list[Answer] = []
    for time in range(PASSES * max(len(case.acts), 1)):
        at = stand(case, answers)
        if at.minutes > LONGEST:
            break
        act = policy(case, at, answers)
        if act is None:
            break
        answers.append(answer_of(case, act, hidden, time, slips))
        if answers[-1].said == "found":
            return Hunted(stand(case, answers).minutes + MEND_MINUTES, tuple(answers), True)
    return Hunted(stand(case, answers).minutes, tuple(answers), False)


def par(case: Case, hidden: Hidden) -> float:
    """Minutes the best way takes on this fault, the mean of a few hunts whose answers slip differently."""
    runs = [
        play(case, Hidden(hidden.cause, hidden.rail, hidden.base, hidden.seed * 31 + n)).minutes
        for n in range(RUNS_OF_PAR)
    ]
    return float(np.mean(runs))


Hardness = Literal["easy", "fair", "hard"]
BETWEEN: dict[Hardness, tuple[float, float]] = {"easy": (3.0, 9.5), "fair": (9.5, 13.5), "hard": (13.5, 30.0)}
"""Minutes the best way takes."""
TRIES = 10


@dataclass(frozen=True)
class Drill:
    """A hidden fault on a layout: the symptom as data, its case, and the fault."""

    symptom: dict[str, Any]
    case: Case
    hidden: Hidden


def set_drill(known: Proving, seed: int, hardness: Hardness) -> Drill | None:
    """A fault of the wanted hardness, the same for the same seed and layout; None where nothing can be hunted.

    Where none of a few draws is as hard as wanted, the nearest.
    """
    rng = np.random.default_rng(seed)
    guarded = [c for c, x in known.layout.circuits.items() if x.purpose == "track" and known.facts.tree.protection(c)]
    low, high = BETWEEN[hardness]
    nearest: tuple[float, Drill] | None = None
    for n in range(TRIES):
        symptom = _drawn(known, rng, guarded)
        case = case_of(known, symptom) if symptom else None
        if symptom is None or case is None or case.missing or not case.causes:
            continue
        drill = Drill(symptom, case, hide(case, seed * 101 + n))
        minutes = play(case, drill.hidden, slips=False).minutes
        off = max(low - minutes, minutes - high, 0.0)
        if nearest is None or off < nearest[0]:
            nearest = (off, drill)
        if off <= 0:
            break
    return nearest[1] if nearest else None


def _drawn(known: Proving, rng: np.random.Generator, guarded: list[str]) -> dict[str, Any] | None:
    if guarded and rng.random() < 0.6:
        return {"kind": "trips", "circuit": guarded[int(rng.integers(len(guarded)))]}
    places = [p for g in known.ac.grounds for p in g.places]
    if not places:
        return None
    place = places[int(rng.integers(len(places)))]
    return {"kind": "stalls", "track": place.track, "at": round(place.at)}
