"""The fewest places that prove the copper: a cover of every part that matters by places that would show it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Literal

import numpy as np
from scipy import optimize, sparse

from jolly_copper.core.circuits.points import Floats
from jolly_copper.core.materials.joints import COIN
from jolly_copper.core.proving.bands import alone
from jolly_copper.core.proving.copper import Copper, Ground, Place

Tier = Literal["must", "every part", "every joint"]
WORSE_OHMS = 1.0
ENOUGH = 9.0
"""Σ D² that proves a spot: three standard deviations, from one place or a few together."""
CAP = 3.0
SEEN = 2.0
"""A spot that no place shows with so many standard deviations is metered by hand."""
WEAK_VOLTS = 0.95
WEAK_TRIP = 1.5
EVERYWHERE: dict[str, frozenset[str]] = {
    "every part": frozenset({"feeder", "run", "device"}),
    "every joint": frozenset({"feeder", "run", "device", "rail", "bond"}),
}
CONTACTS = frozenset({"contact", "plug", "device", "feeder wire", "joiner", "blade"})


@dataclass(frozen=True)
class Spot:
    """A thing that may be bad, both its conductors: kind and owner as in the network, with its elements by ground."""

    kind: str
    owner: str
    ground: int
    elements: tuple[int, ...]


@dataclass(frozen=True)
class Cover:
    """Places that prove all spots of a tier. spots: how many are proved. unseen: spots no place can show.

    needs: by ground, what each place shows of each spot and what is wanted of it, for the bound.
    """

    tier: Tier
    places: tuple[Place, ...]
    spots: int
    unseen: tuple[Spot, ...]
    needs: tuple[tuple[Floats, Floats, int], ...] = field(repr=False, compare=False)


def spots(copper: Copper, kinds: frozenset[str]) -> list[Spot]:
    """Everything of these kinds that holds a contact, a wire end or a joint: what goes bad."""
    found: dict[tuple[int, str, str, str], list[int]] = {}
    for g, ground in enumerate(copper.grounds):
        for n, element in enumerate(ground.elements):
            bad = element.kind == "feeder" or any(p.kind in CONTACTS for p in element.parts)
            if element.kind in kinds and bad:
                # Both wires of a feeder are one thing to prove; joints of rails and contacts along a run stand apart.
                own = "" if element.kind in ("feeder", "device") else str(n)
                found.setdefault((g, element.kind, element.owner, own), []).append(n)
    return [Spot(kind, owner, g, tuple(where)) for (g, kind, owner, _), where in found.items()]


def power(ground: Ground, spread: Floats, elements: tuple[int, ...], ohms: float = WORSE_OHMS) -> Floats:
    """D at every place for the weaker of a spot's conductors: h·f²/σ, capped. Shape (places,)."""
    which = list(elements)
    worse = ground.worse(ohms)[which]
    return np.asarray(np.minimum((ground.felt[:, which] * worse / spread[:, None]).min(axis=1), CAP))


def matters(copper: Copper, trip: Callable[[Place], float], want: float = WEAK_VOLTS) -> list[Spot]:
    """Spots that, open, would leave some rail under its trip current, or under 95 % of its volts and 1.5 trips.

    Args:
        copper: read under the railroad's own power.
        trip: A of the nearest protection of a place, NaN without one.
        want: share of the volts with the test train there.
    """
    train = copper.layout.brief.rules.test_train
    found = []
    trips = [np.array([trip(p) for p in g.places]) for g in copper.grounds]
    for spot in spots(copper, EVERYWHERE["every joint"]):
        ground = copper.grounds[spot.ground]
        volts = np.abs(ground.open_volts)
        for element in spot.elements:
            reached = ground.felt[:, element] > 1e-9
            extra = np.where(reached, ground.felt[:, element] * np.minimum(ground.worse(np.inf)[element], 1e6), 0.0)
            loop = ground.loop + extra
            short = volts / (loop + COIN[1])
            before = volts / (ground.loop + COIN[1])
            limit = trips[spot.ground]
            was_sound = before >= limit
            low = (volts - train * loop < want * volts) & (short < WEAK_TRIP * limit) & (before >= WEAK_TRIP * limit)
            if bool((reached & ((was_sound & (short < limit)) | low)).any()):
                found.append(spot)
                break
    return found


def cover(copper: Copper, tier: Tier, of: list[Spot]) -> Cover:
    """The fewest places found that prove every one of these spots that any place can show.

    Greedy by what is still missing, then what became idle is dropped.

    Args:
        copper: as it will be read.
        tier: what it is called.
        of: what is to be proved.
    """
    places: list[Place] = []
    unseen: list[Spot] = []
    proved = 0
    needs: list[tuple[Floats, Floats, int]] = []
    for g, ground in enumerate(copper.grounds):
        mine = [s for s in of if s.ground == g]
        if not mine:
            continue
        spread = alone(ground, copper.method)
        shown = np.stack([power(ground, spread, s.elements) for s in mine], axis=1)
        best = shown.max(axis=0)
        unseen += [s for s, d in zip(mine, best, strict=True) if d < SEEN]
        seen = best >= SEEN
        weight = shown[:, seen] ** 2
        # A spot all places together cannot bring to nine wants all they have.
        want = np.minimum(weight.sum(axis=0), ENOUGH)
        chosen = _greedy(weight, want)
        places += [ground.places[n] for n in chosen]
        needs.append((weight, want, len(chosen)))
        proved += int(seen.sum())
    return Cover(tier, tuple(places), proved, tuple(unseen), tuple(needs))


def _greedy(weight: Floats, want: Floats) -> list[int]:
    left, chosen = want.copy(), list[int]()
    while bool((left > 1e-6).any()):
        gain = np.minimum(weight, left).sum(axis=1)
        gain[chosen] = -1
        best = int(np.argmax(np.round(gain, 9)))
        if gain[best] <= 1e-9:
            break
        chosen.append(best)
        left = np.maximum(left - weight[best], 0.0)
    for n in sorted(chosen, key=lambda n: float(weight[n].sum())):
        rest = [m for m in chosen if m != n]
        if bool((weight[rest].sum(axis=0) >= want - 1e-6).all()):
            chosen = rest
    return sorted(chosen)


def least(cover: Cover, seconds: float = 0.5) -> int:
    """No set of fewer places proves the tier: an integer programme's answer, or its bound when time is up."""
    share = seconds / max(len(cover.needs), 1)
    return sum(_bound(weight, want, found, share) for weight, want, found in cover.needs)


def _bound(weight: Floats, want: Floats, found: int, seconds: float) -> int:
    """No fewer places than this: the integer programme's answer, or its bound when time is up."""
    if not found or not weight.shape[1]:
        return 0
    needed = optimize.LinearConstraint(sparse.csr_matrix(weight.T), lb=want - 1e-6)
    answer = optimize.milp(
        np.ones(len(weight)),
        constraints=needed,
        integrality=np.ones(len(weight)),
        bounds=optimize.Bounds(0, 1),
        options={"time_limit": max(seconds, 0.05)},
    )
    bound = getattr(answer, "mip_dual_bound", None)
    return min(found, int(np.ceil((bound if bound is not None else 1.0) - 1e-6)))


def tier_spots(dc: Copper, ac: Copper, tier: Tier, trip: Callable[[Place], float]) -> list[Spot]:
    """What a tier proves, as spots of the copper read with one ampere of DC."""
    if tier != "must":
        return spots(dc, EVERYWHERE[tier])
    want = {(s.kind, s.owner, _ends(ac, s)) for s in matters(ac, trip)}
    return [s for s in spots(dc, EVERYWHERE["every joint"]) if (s.kind, s.owner, _ends(dc, s)) in want]


def _ends(copper: Copper, spot: Spot) -> tuple[tuple[int, int], ...]:
    """What a spot joins, by node of the whole network: the same whatever method it is read by."""
    ground = copper.grounds[spot.ground]
    return tuple((ground.elements[n].a, ground.elements[n].b) for n in spot.elements)
