"""A hunt: what is believed after each answer, and what is best done next.

Belief is worked out again from the answers, so nothing of it is kept. The next act is the one that costs the least
minutes in the end: search in order of chance per minute, or ask first what halves the doubt.
"""

from __future__ import annotations

import itertools
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from scipy.special import ndtr

from jolly_copper.core.circuits.points import Floats
from jolly_copper.core.proving.causes import DEAD_READS, Act, Case

WRONG = 0.05
"""Answers that are wrong: somebody looked at another wire. Common practice, no source."""
HALF = 0.5
FLOOR = 1e-4
"""Of the best likelihood: one slip of the meter is survived."""
MEND_MINUTES = 2.0
RAIL_SPREAD = 0.15
"""Relative, of the rail on the way to a short. Common practice, no source."""
BASE_MEAN, BASE_SPREAD = 1.5, 1.2
"""Of the ohms of a short, as known before it is read: times what its kind has. Common practice, no source."""
BASE_READ = 0.01
"""Ω that are not known of a short once one reading was taken of it."""
READ_FLOOR, READ_SHARE = 0.004, 0.03
"""Of a reading of millivolts: V, and of what it shows; one standard deviation. Common practice, no source."""
OPEN_SHARE = 0.3
"""Relative, of the ohms read with a part open. Common practice, no source."""
BINS = 5
SECOND_SLIP = 0.1
"""Of a slip beyond those that are left out."""
MOST_PAIRED = 14
SLIP_RANGE = 2.0
"""V over which a wrong reading may lie."""
UNFORESEEN = 1e-6


@dataclass(frozen=True)
class Answer:
    """What came of an act: `found`, `not found`, `yes`, `no`, `unsure`, or a reading as a number."""

    act: str
    said: str


@dataclass(frozen=True)
class Likely:
    """A cause with its chance."""

    number: int
    chance: float


@dataclass(frozen=True)
class Standing:
    """Where a hunt stands. strange: nothing in the catalogue foretells these answers."""

    chance: Floats
    minutes: float
    gear: frozenset[str]
    strange: bool
    found: int | None
    mean: Floats
    spread: Floats


def stand(case: Case, answers: Sequence[Answer]) -> Standing:
    """What is believed after these answers.

    Args:
        case: the symptom with its causes and acts.
        answers: from first to last; those of acts that are not in the case are passed over.
    """
    acts = {a.key: a for a in case.acts}
    chance = np.array([c.weight for c in case.causes])
    chance = chance / chance.sum() if len(chance) else chance
    ohms = np.array([c.ohms for c in case.causes])
    mean = np.stack([np.ones(len(ohms)), BASE_MEAN * ohms], axis=1)
    spread = np.zeros((len(ohms), 2, 2))
    spread[:, 0, 0], spread[:, 1, 1] = RAIL_SPREAD**2, (BASE_SPREAD * ohms) ** 2
    minutes, gear, found = 0.0, set[str](), None
    fits = np.ones(len(chance))
    readings: list[tuple[Act, float]] = []
    for answer in answers:
        act = acts.get(answer.act)
        if act is None:
            continue
        minutes += act.minutes + (act.setup if act.gear and act.gear not in gear else 0.0)
        gear |= {act.gear} if act.gear else set()
        if answer.said == "unsure":
            continue
        if act.look:
            mine = act.covers > 0
            if answer.said == "found":
                found = int(np.argmax(np.where(mine, chance, -1.0)))
                likelihood = np.where(mine, act.finds, WRONG * 0.1)
            else:
                likelihood = np.where(mine, 1 - act.finds, 1.0)
        elif act.unknown_base:
            readings.append((act, float(answer.said)))
            continue
        elif act.reads:
            likelihood = _read(act, float(answer.said))
            fits = fits * likelihood / max(float(likelihood.max()), 1e-300)
        else:
            yes = WRONG + (1 - 2 * WRONG) * act.yes
            likelihood = yes if answer.said == "yes" else 1 - yes
            fits = fits * likelihood / (1 - WRONG)
        after = chance * likelihood
        total = float(after.sum())
        chance = after / total if total > 0 else chance
    if readings:
        log, mean, spread = _fitted(readings, mean, spread)
        after = chance * np.exp(log - log.max())
        chance = after / after.sum()
        # Against slips alone: where no short makes them better than that, none of these is it.
        fits = fits * np.exp(np.minimum(log - len(readings) * np.log(WRONG / SLIP_RANGE), 0.0))
    strange = len(fits) > 0 and float(fits.max()) < UNFORESEEN
    return Standing(chance, minutes, frozenset(gear), strange, found, mean, spread)


def _read(act: Act, value: float) -> Floats:
    """How likely each cause makes a reading that wants no more than its place."""
    deviation = np.hypot(OPEN_SHARE * act.part, 0.03)
    off = (np.minimum(value, DEAD_READS) - act.part) / deviation
    density = np.exp(-0.5 * off**2) / deviation
    return np.asarray(np.maximum(density, FLOOR * density.max()))


def _fitted(readings: Sequence[tuple[Act, float]], mean: Floats, spread: Floats) -> tuple[Floats, Floats, Floats]:
    """ln of how likely each cause makes all readings of a·part + b, and what it then knows of a and b.

    Any one or two of them may be slips of the meter: with none, and with each one and each two left out, summed. Going
    by the order they were taken in would let a slip that came first speak against all the others.
    """
    slip = np.log(WRONG / (1 - WRONG) / SLIP_RANGE)
    ways = []
    for left_out in _slips(len(readings)):
        log, m, s = _passed(readings, left_out, mean, spread)
        ways.append((log + slip * len(left_out), m, s))
    logs = np.stack([w[0] for w in ways])
    best = logs.argmax(axis=0)
    rows = np.arange(logs.shape[1])
    means, spreads = np.stack([w[1] for w in ways]), np.stack([w[2] for w in ways])
    top = logs.max(axis=0)
    whole = top + np.log(np.exp(logs - top).sum(axis=0))
    return np.asarray(whole), means[best, rows], spreads[best, rows]


def _slips(count: int) -> list[tuple[int, ...]]:
    """Which readings may be slips: none, each one, and of more than a few each two."""
    found: list[tuple[int, ...]] = [()]
    if count > 2:
        found += [(n,) for n in range(count)]
    if 4 < count <= MOST_PAIRED:
        found += list(itertools.combinations(range(count), 2))
    return found


def _passed(
    readings: Sequence[tuple[Act, float]], left_out: Sequence[int], mean: Floats, spread: Floats
) -> tuple[Floats, Floats, Floats]:
    log = np.zeros(len(mean))
    for n, (act, value) in enumerate(readings):
        if n in left_out:
            continue
        taken = np.stack([act.part, np.ones_like(act.part)], axis=1)
        noise = READ_FLOOR**2 + (READ_SHARE * value) ** 2
        pushed = np.einsum("cij,cj->ci", spread, taken)
        whole = np.einsum("ci,ci->c", taken, pushed) + noise
        off = value - np.einsum("ci,ci->c", taken, mean)
        gain = pushed / whole[:, None]
        mean = mean + gain * off[:, None]
        spread = spread - gain[:, :, None] * pushed[:, None, :]
        density = np.exp(-0.5 * off**2 / whole) / np.sqrt(2 * np.pi * whole)
        log = log + np.log((1 - WRONG) * density + WRONG / SLIP_RANGE * SECOND_SLIP)
    return log, mean, spread


def doubt(chance: Floats) -> float:
    """Bits: how much is not known."""
    some = chance[chance > 0]
    return float(-(some * np.log2(some)).sum())


@dataclass(frozen=True)
class Next:
    """What is best done now. why: in a sentence. worth: bits it is expected to tell, or the chance that it finds it.
    other: what else could be done, with what it tells or finds a minute."""

    act: Act
    why: str
    minutes: float
    worth: float
    other: tuple[tuple[Act, float], ...]


def best_next(case: Case, at: Standing, done: Sequence[Answer]) -> Next | None:
    """The act that costs the fewest minutes in the end.

    1. One search that holds half the belief is made. 2. Asking costs, at least, set-up and (H − 1) bits at the
    minutes per bit of the best act, and then the mend; searching in order of chance per minute costs V. 3. The smaller
    is done. Set-up is counted once over the whole hunt.
    """
    if not len(at.chance):
        return None
    looks = [(a, float(a.covers @ at.chance)) for a in case.acts if a.look]
    if not looks:
        return None
    searches = sorted(looks, key=lambda x: (-x[1] * x[0].finds / x[0].minutes, x[0].key))
    best_look, held = max(looks, key=lambda x: (x[1] * x[0].finds, x[0].key))
    asked = {a.act for a in done}
    questions = [a for a in case.acts if not a.look and a.key not in asked]
    ready = _once_read(at)
    # The first reading of a short tells how good it is; the lamp is worth what the readings after it tell.
    worth = {a.key: told(a, ready if a.unknown_base and a.gear not in at.gear else at) for a in questions}
    other = tuple(
        sorted(((a, worth[a.key] / a.minutes) for a in questions), key=lambda x: (-x[1], x[0].key))[:4]
    ) + tuple((a, h * a.finds / a.minutes) for a, h in searches[:4])
    if held >= HALF:
        why = f"It finds what is {held * 100:.0f} % of all that is left."
        return Next(best_look, why, best_look.minutes, held, other)
    searching = _search_minutes(searches, at.chance)
    left = doubt(at.chance)
    asking, question = min(
        (
            (_setup(a, at) + max(left - 1, 0.5) * a.minutes / worth[a.key] + MEND_MINUTES, a)
            for a in questions
            if worth[a.key] > 1e-3
        ),
        key=lambda x: (x[0], x[1].key),
        default=(np.inf, None),
    )
    if question is not None and asking < searching:
        why = (
            f"It tells {worth[question.key]:.1f} of the {left:.1f} bits of doubt; searching in order would take about "
            f"{searching:.0f} minutes, this way about {asking:.0f}."
        )
        return Next(question, why, question.minutes + _setup(question, at), worth[question.key], other)
    first, chance = searches[0]
    why = (
        f"For a minute of searching nothing else finds it as often: {chance * 100:.0f} % in {first.minutes:g} minutes."
    )
    return Next(first, why, first.minutes, chance, other)


def _once_read(at: Standing) -> Standing:
    """The same with every short's ohms known as one reading leaves them."""
    spread = at.spread.copy()
    spread[:, 1, 1] = np.minimum(spread[:, 1, 1], BASE_READ**2)
    middle = at.mean.copy()
    middle[:, 1] = 0.0
    return replace(at, spread=spread, mean=middle)


def _setup(act: Act, at: Standing) -> float:
    if not act.gear or act.gear in at.gear:
        return 0.0
    return act.setup + (act.minutes if act.unknown_base else 0.0)


def _search_minutes(searches: Sequence[tuple[Act, float]], chance: Floats) -> float:
    """V: the minutes of searching in this order until it is found, V = Σ minutes·(1 − chance before)."""
    total, left = MEND_MINUTES, chance.copy()
    for act, _ in searches:
        mine = act.covers * left
        # What another search covers already is hardly worth a second one.
        if mine.sum() * act.finds / act.minutes < 1e-4:
            continue
        total += act.minutes * float(left.sum())
        left = left - act.finds * mine
    # What no round finds is found in the next.
    return float(total / max(1 - float(left.sum()), 0.2))


def told(act: Act, at: Standing) -> float:
    """Bits an answer is expected to tell: H before less H after, over its answers."""
    odds = outcomes(act, at)
    whole = odds @ at.chance
    with np.errstate(divide="ignore", invalid="ignore"):
        ratio = np.where(odds > 0, odds * np.log2(odds / np.maximum(whole, 1e-300)[:, None]), 0.0)
    return float((ratio @ at.chance).sum())


def outcomes(act: Act, at: Standing) -> Floats:
    """Chance of each answer for each cause: shape (answers, causes). Readings fall into five bins."""
    if not act.reads:
        yes = WRONG + (1 - 2 * WRONG) * act.yes
        return np.stack([yes, 1 - yes])
    if act.unknown_base:
        taken = np.stack([act.part, np.ones_like(act.part)], axis=1)
        middle = np.einsum("ci,ci->c", taken, at.mean)
        deviation = np.sqrt(np.einsum("ci,cij,cj->c", taken, at.spread, taken) + READ_FLOOR**2)
    else:
        middle, deviation = act.part, np.hypot(OPEN_SHARE * act.part, 0.03)
    order = np.argsort(middle)
    below = np.cumsum(at.chance[order])
    edges = middle[order][np.minimum(np.searchsorted(below, np.arange(1, BINS) / BINS), len(order) - 1)]
    under = ndtr((edges[:, None] - middle[None, :]) / deviation[None, :])
    steps = np.vstack([np.zeros(len(middle)), under, np.ones(len(middle))])
    return np.asarray(np.maximum(np.diff(steps, axis=0), 0.0))


def likeliest(at: Standing, most: int = 3) -> list[Likely]:
    """The causes most believed, first the likeliest."""
    order = np.argsort(-at.chance, kind="stable")[:most]
    return [Likely(int(n), float(at.chance[n])) for n in order]


TOUCHED = 10.0
"""Times a cause is likelier where somebody worked, or met trouble, lately. Common practice, no source."""


def reweighed(
    case: Case, log: Mapping[str, int], touched: Collection[str] = frozenset(), expected: float = 1.0
) -> Case:
    """The same case with weights by what this club's log counts: weight·(1 + count)/(1 + expected).

    Args:
        case: as the layout makes it.
        log: how often each kind of cause was found.
        touched: tasks worked on lately, or logged as trouble, by kind and thing: `feeder:F12`.
        expected: what the log would count of each by now.
    """
    causes = []
    for cause in case.causes:
        kind, _, thing = cause.key.partition(":")
        weight = cause.weight * ((1 + log.get(kind, 0)) / (1 + expected) if log else 1.0)
        if f"{kind}:{thing.partition('@')[0].partition(':')[0]}" in touched:
            weight *= TOUCHED
        causes.append(replace(cause, weight=weight))
    return replace(case, causes=tuple(causes))
