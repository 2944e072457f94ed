"""What readings teach: which parts are the likely bad ones, how bad, and which reading would settle it.

A part k of element e that is worse by x Ω adds h·s_k to every reading, s_k = f_k(p)², h = x/(1 + x·κ/R_e),
exactly, for any x. So every part at every severity is tried in closed form, and pairs by one change of rank one. See
docs/formulas.md.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from jolly_copper.core.circuits.assembly import Part
from jolly_copper.core.circuits.points import Floats, Ints
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.proving.bands import alone, given_others, spread_matrix
from jolly_copper.core.proving.copper import PRIOR, Copper, Ground, Place, shared_spread

SEVERITIES = np.concatenate([np.geomspace(0.1, 20.0, 16), [np.inf]])
OPEN_CHANCE = 0.25
EXPECTED_BAD = 0.5
"""Bad parts a railroad has when it is proved. Common practice, no source."""
DEAD_OHMS = 30.0
DEAD_DOUBT = 1e-6
FIRST_OF_PAIRS = 8
BEYOND_OPEN = 1e4
LONG_TAILS = 1.3
"""Of the variance: contacts spread with longer tails than a bell, and none is to be accused for that."""
TAIL = 4.0
"""Of the heavy-tailed weights (TAIL + 1)/(TAIL + u²) that keep one bad reading from bending what all share."""


@dataclass(frozen=True)
class Read:
    """A reading of loop ohms at a place: Ω; infinite where the rails are dead."""

    place: str
    ohms: float


@dataclass(frozen=True)
class Suspect:
    """Parts that no reading tells apart, and what speaks for them.

    elements: numbers in the ground. parts: of them, the likeliest first, with the chance of each. chance: that one of
    them is bad. ohms: how much worse, about; low, high: from there to there. open_too: an open one would look alike.
    """

    ground: int
    elements: tuple[int, ...]
    parts: tuple[tuple[Part, str, float], ...]
    chance: float
    ohms: float
    low: float
    high: float
    open_too: bool


@dataclass(frozen=True)
class Judged:
    """A reading against what is foretold: Ω off, and in standard deviations, given the others where there are
    enough."""

    place: str
    read: float
    foretold: float
    off: float
    spread: float
    others: bool

    @property
    def sigmas(self) -> float:
        return self.off / self.spread


@dataclass(frozen=True)
class Learned:
    """What all readings together say.

    sound: chance that nothing they reach is bad. shared: relative change of the ohms of all parts of a kind together,
    with its standard deviation. next: where the leading suspects disagree most.
    """

    judged: tuple[Judged, ...]
    suspects: tuple[Suspect, ...]
    sound: float
    shared: tuple[tuple[str, float, float], ...]
    next: tuple[Place, ...]


ENOUGH_OTHERS = 10


def learn(copper: Copper, readings: Sequence[Read], most: int = 8) -> Learned:
    """Weigh everything that could explain the readings.

    Args:
        copper: as it was read, with the places read among its places.
        readings: one for each place; of several at one place the last counts.
        most: suspects told.
    """
    latest = {r.place: r for r in readings if r.place in copper.where}
    judged: list[Judged] = []
    suspects: list[Suspect] = []
    shared: list[tuple[str, float, float]] = []
    nearer: list[tuple[float, Place]] = []
    sound = 1.0
    for g, ground in enumerate(copper.grounds):
        here = [(row, latest[key].ohms) for key, row in ground.number.items() if key in latest]
        if not here:
            continue
        worked = _weigh(copper, g, ground, here)
        judged += worked.judged
        suspects += worked.suspects
        shared += worked.shared
        nearer += worked.nearer
        sound *= worked.sound
    suspects.sort(key=lambda s: -s.chance)
    nearer.sort(key=lambda x: -x[0])
    return Learned(tuple(judged), tuple(suspects[:most]), sound, _merged(shared), tuple(p for _, p in nearer[:5]))


def _merged(shared: Sequence[tuple[str, float, float]]) -> tuple[tuple[str, float, float], ...]:
    """What grounds that share no copper say of one kind, together: weighed by how sure each is."""
    by: dict[str, list[tuple[float, float]]] = {}
    for name, factor, spread in shared:
        scale = shared_spread(name)
        by.setdefault(name, []).append((factor * scale, 1 / (spread * scale) ** 2))
    return tuple(
        (name, sum(f * w for f, w in found) / sum(w for _, w in found), sum(w for _, w in found) ** -0.5)
        for name, found in sorted(by.items())
    )


@dataclass(frozen=True)
class _Weighed:
    judged: list[Judged]
    suspects: list[Suspect]
    sound: float
    shared: list[tuple[str, float, float]]
    nearer: list[tuple[float, Place]]


def priors(layout: Layout, ground: Ground) -> Floats:
    """Weight of each element by its parts, all of a railroad together as many bad ones as are to be expected."""
    weight = np.array([sum(_prior(layout, p) for p in e.parts) for e in ground.elements])
    total = sum(PRIOR.get(p.kind, 0.0) for e in ground.elements for p in e.parts)
    return np.asarray(EXPECTED_BAD * weight / max(total, 1e-9))


def _prior(layout: Layout, part: Part) -> float:
    track = layout.tracks.get(part.owner)
    if part.kind == "joiner" and track is not None and track.joiners == "soldered":
        return 0.05
    return PRIOR.get(part.kind, 0.0)


def _weigh(copper: Copper, g: int, ground: Ground, here: Sequence[tuple[int, float]]) -> _Weighed:
    rows = np.array([r for r, _ in here], dtype=np.int64)
    read = np.array([y for _, y in here])
    dead = ~(read < DEAD_OHMS)
    live = ~dead
    shown, y = rows[live], read[live]
    spread = spread_matrix(ground, shown, copper.method)
    factor, factor_spread = _shared(ground, shown, y, spread)
    felt = ground.felt[shown]
    residual = y - ground.loop[shown] - felt @ (ground.shared @ factor)
    inverse: Floats = np.asarray(np.linalg.inv(spread)) / LONG_TAILS if len(shown) else np.zeros((0, 0))
    judged = _judge(ground, copper, rows, read, live, spread, residual)
    prior = priors(copper.layout, ground)
    ways = _worse(ground)
    log_one = _evidence(felt, inverse, residual, ways)
    log_one += _dead_doubt(ground, rows[dead], shown, ways)
    log_sound = float(np.log(DEAD_DOUBT)) * len(rows[dead])
    chance_of_severity = np.full(len(SEVERITIES), (1 - OPEN_CHANCE) / (len(SEVERITIES) - 1))
    chance_of_severity[-1] = OPEN_CHANCE
    with np.errstate(divide="ignore"):
        weight = log_one + np.log(prior)[:, None] + np.log(chance_of_severity)[None, :]
    single = _log_sum(weight, axis=1)
    pair_of, pair_log = _pairs(ground, shown, felt, inverse, residual, ways, weight, single, chance_of_severity, prior)
    most = max(float(np.max(single, initial=-np.inf)), log_sound, float(np.max(pair_log, initial=-np.inf)))
    alone_weight = np.exp(single - most)
    total = alone_weight.sum() + np.exp(log_sound - most) + np.exp(pair_log - most).sum()
    chance = alone_weight.copy()
    for (one, other), log in zip(pair_of, pair_log, strict=True):
        both = float(np.exp(log - most))
        chance[one] += both
        chance[other] += both
    chance /= total
    suspects = _alike(copper, g, ground, shown, chance, weight)
    nearer = _next(ground, copper, chance, weight, ways, float(np.exp(log_sound - most) / total), set(rows.tolist()))
    told = [
        (name, float(f), float(s)) for name, f, s in zip(ground.groups, factor, factor_spread, strict=True) if len(y)
    ]
    return _Weighed(judged, suspects, float(np.exp(log_sound - most) / total), told, nearer)


def _worse(ground: Ground) -> Floats:
    """h by element and severity, shape (E, S)."""
    return np.minimum(np.stack([ground.worse(float(x)) for x in SEVERITIES], axis=1), BEYOND_OPEN)


def _shared(ground: Ground, rows: Ints, read: Floats, spread: Floats) -> tuple[Floats, Floats]:
    """How far off all of a kind are, by two weighted steps; a reading far off weighs little."""
    groups = ground.shared.shape[1]
    if not len(rows) or not groups:
        return np.zeros(groups), np.ones(groups)
    felt = ground.felt[rows] @ ground.shared
    own = np.sqrt(np.maximum(np.diagonal(spread) - (felt**2).sum(axis=1), 1e-9))
    residual = read - ground.loop[rows]
    factor = np.zeros(groups)
    weight = np.ones(len(rows))
    information = np.eye(groups)
    for _ in range(3):
        scaled = felt * (weight / own**2)[:, None]
        information = np.eye(groups) + felt.T @ scaled
        factor = np.linalg.solve(information, scaled.T @ residual)
        off = (residual - felt @ factor) / own
        weight = (TAIL + 1) / (TAIL + off**2)
    return np.asarray(factor), np.asarray(np.sqrt(np.diagonal(np.linalg.inv(information))))


def _judge(
    ground: Ground,
    copper: Copper,
    rows: Ints,
    read: Floats,
    live: NDArray[np.bool_],
    spread: Floats,
    residual: Floats,
) -> list[Judged]:
    by_others = len(residual) >= ENOUGH_OTHERS
    single = alone(ground, copper.method)
    if by_others:
        off, deviation = given_others(spread, residual)
    else:
        off, deviation = read[live] - ground.loop[rows[live]], single[rows[live]]
    found, n = [], 0
    for row, value, lives in zip(rows, read, live, strict=True):
        key, foretold = ground.places[int(row)].key, float(ground.loop[int(row)])
        if lives:
            found.append(Judged(key, float(value), foretold, float(off[n]), float(deviation[n]), by_others))
            n += 1
        else:
            found.append(Judged(key, float(value), foretold, np.inf, float(single[int(row)]), False))
    return found


def _evidence(felt: Floats, inverse: Floats, residual: Floats, ways: Floats) -> Floats:
    """ln L of every element at every severity over nothing being bad: h·sᵀC⁻¹r − ½h²·sᵀC⁻¹s.
    Shape (E, S)."""
    if not len(residual):
        return np.zeros_like(ways)
    pulled = felt.T @ (inverse @ residual)
    stiff = np.einsum("pe,pq,qe->e", felt, inverse, felt, optimize=True)
    return np.asarray(ways * pulled[:, None] - 0.5 * ways**2 * stiff[:, None])


def _dead_doubt(ground: Ground, dead: Ints, live: Ints, ways: Floats) -> Floats:
    """What dead readings leave of each: one in a million where it does not foretell it, and the same the other way."""
    doubt = np.zeros_like(ways)
    for rows, meant in ((dead, True), (live, False)):
        for row in rows:
            foretold = ground.felt[int(row)][:, None] * ways > DEAD_OHMS
            doubt += np.where(foretold == meant, 0.0, np.log(DEAD_DOUBT))
    return np.asarray(doubt)


def _pairs(
    ground: Ground,
    rows: Ints,
    felt: Floats,
    inverse: Floats,
    residual: Floats,
    ways: Floats,
    weight: Floats,
    single: Floats,
    severity: Floats,
    prior: Floats,
) -> tuple[list[tuple[int, int]], Floats]:
    """Two bad parts: the best few as the first, changed exactly, everything again as the second."""
    if len(residual) < 4:
        return [], np.zeros(0)
    island, shares = ground.island, ground.share
    pairs: list[tuple[int, int]] = []
    logs: list[float] = []
    with np.errstate(divide="ignore"):
        log_prior = np.log(prior)
    for one in np.argsort(-single)[:FIRST_OF_PAIRS]:
        s = int(np.argmax(weight[one]))
        if not np.isfinite(weight[one, s]):
            continue
        h = float(ways[one, s])
        a, b = island.ends[one]
        reach = island.between_nodes(int(a), int(b))
        across = reach[island.ends[:, 0]] - reach[island.ends[:, 1]]
        # R' = R + (h/R²)·R·d·dᵀ·R, so every other share changes by h·f/R times what an ampere
        # round it sends there.
        change = np.outer(shares[rows][:, one], across / ground.ohms) * (h / ground.ohms[one])
        then = (shares[rows] + change) ** 2
        left = residual - h * felt[:, one]
        evidence = _evidence(then, inverse, left, ways)
        whole = evidence + log_prior[:, None] + np.log(severity)[None, :] + weight[one, s]
        together = _log_sum(whole, axis=1)
        together[one] = -np.inf
        for other in np.argsort(-together)[:FIRST_OF_PAIRS]:
            if (int(other), int(one)) not in pairs:
                pairs.append((int(one), int(other)))
                logs.append(float(together[other]))
    return pairs, np.array(logs)


def _log_sum(values: Floats, axis: int) -> Floats:
    most = np.max(values, axis=axis, keepdims=True, initial=-np.inf)
    most = np.where(np.isfinite(most), most, 0.0)
    with np.errstate(divide="ignore"):
        return np.asarray(np.log(np.exp(values - most).sum(axis=axis)) + np.squeeze(most, axis=axis))


def _alike(copper: Copper, g: int, ground: Ground, rows: Ints, chance: Floats, weight: Floats) -> list[Suspect]:
    """Suspects with those no reading parts put together."""
    found: list[Suspect] = []
    order = [int(n) for n in np.argsort(-chance, kind="stable") if chance[n] > 1e-3][:40]
    taken: set[int] = set()
    felt = ground.felt[rows]
    for n in order:
        if n in taken:
            continue
        same = [m for m in order if m not in taken and _same_shape(felt[:, n], felt[:, m])]
        taken |= set(same)
        parts = sorted(
            (
                (p, ground.elements[m].conductor, float(chance[m]) * _share(copper.layout, ground, m, p))
                for m in same
                for p in ground.elements[m].parts
            ),
            key=lambda x: -x[2],
        )
        likely = np.exp(weight[n] - weight[n].max())
        likely /= likely.sum()
        below = np.cumsum(likely)
        low, high = SEVERITIES[int(np.searchsorted(below, 0.05))], SEVERITIES[int(np.searchsorted(below, 0.95 - 1e-9))]
        middle = SEVERITIES[int(np.searchsorted(below, 0.5))]
        found.append(
            Suspect(
                g,
                tuple(same),
                tuple(parts),
                float(min(sum(chance[m] for m in same), 1.0)),
                float(middle),
                float(low) / 1.5,
                float(high) * 1.5,
                bool(likely[-1] > 0.05),
            )
        )
    return found


def _same_shape(one: Floats, other: Floats) -> bool:
    """Whether two parts act on the readings in the same proportions."""
    length = np.linalg.norm(one) * np.linalg.norm(other)
    return bool(length > 0 and float(one @ other) / length > 0.999)


def _share(layout: Layout, ground: Ground, element: int, part: Part) -> float:
    total = sum(_prior(layout, p) for p in ground.elements[element].parts)
    return _prior(layout, part) / total if total else 0.0


LEADING = 10


def _next(
    ground: Ground, copper: Copper, chance: Floats, weight: Floats, ways: Floats, sound: float, done: set[int]
) -> list[tuple[float, Place]]:
    """Where the leading suspects and nothing being bad foretell the most different readings:
    Σ w(ŷ − mean)²/σ²."""
    leading = [int(n) for n in np.argsort(-chance)[:LEADING] if chance[n] > 1e-4]
    if not leading:
        return []
    h = np.array([ways[n, int(np.argmax(weight[n]))] for n in leading])
    told = np.hstack([ground.felt[:, leading] * np.minimum(h, 1e3), np.zeros((len(ground.places), 1))])
    share = np.array([*chance[leading], max(sound, 1e-6)])
    share /= share.sum()
    mean = told @ share
    worth = ((told - mean[:, None]) ** 2 @ share) / alone(ground, copper.method) ** 2
    worth[list(done)] = 0
    order = np.argsort(-worth)[:5]
    return [(float(worth[n]), ground.places[int(n)]) for n in order if worth[n] > 1e-3]
