"""Another track for one train that keeps a plan out of knots, where no rule alone can."""

from __future__ import annotations

import itertools
from collections.abc import Collection, Iterator, Sequence
from typing import NamedTuple, get_args

from jolly_copper.core.layout.plans import RunningPlan, SingleLines
from jolly_copper.core.rehearsal.checks import problems
from jolly_copper.core.rehearsal.evening import Evening
from jolly_copper.core.rehearsal.itinerary import Itinerary, itineraries
from jolly_copper.core.rehearsal.proof import Proof, prove
from jolly_copper.core.rehearsal.run import set_out
from jolly_copper.core.signals.routes import Step

MOST_TRIED = 60
MOST_STATES = 20_000


class OtherWay(NamedTuple):
    """A train sent over another track on its way to some of its calls. rule: what keeps the plan free then."""

    train: str
    calls: tuple[int, ...]
    via: str
    rule: SingleLines
    proof: Proof
    words: str


def candidates(evening: Evening) -> Iterator[tuple[str, tuple[int, ...], str]]:
    """Trains, calls and tracks that another way would lead over: for each call alone, then for all of them at once."""
    for found in itineraries(evening):
        calls: dict[str, list[int]] = {}
        for n, via in dict.fromkeys(_turned_off(evening, found)):
            calls.setdefault(via, []).append(n)
        yield from ((found.key, (n,), via) for via, ns in calls.items() for n in ns)
        yield from ((found.key, tuple(sorted(ns)), via) for via, ns in calls.items() if len(ns) > 1)


def _turned_off(evening: Evening, found: Itinerary) -> Iterator[tuple[int, str]]:
    """Calls of a train, with a track that another way there leads over."""
    ground, train = evening.ground, evening.trains[found.key]
    call = 0
    for standing in found.standings:
        if standing.call is not None and standing.call >= 0:
            call = standing.call + 1
        n = call % len(train.plan.calls)
        goal = train.plan.calls[n]
        usual = _tracks(ground.way_to(standing.place, (goal.track, goal.at)))
        for track in usual:
            other = ground.way_to(standing.place, (goal.track, goal.at), without=frozenset({track}))
            new = [t for t in _tracks(other) if t not in usual]
            # The longest track it would go over is what people would call the other way.
            if new and (via := max(new, key=lambda t: (ground.rails.lengths[t], t))) not in goal.via:
                yield n, via


def _tracks(steps: list[Step] | None) -> list[str]:
    return [s.end.track for s in steps or () if s.end is not None]


def other_ways(evening: Evening, proofs: Sequence[Proof]) -> Iterator[OtherWay]:
    """Ways that free the plan, as they are found; none where a rule alone does, or where it is not settled.

    Args:
        evening: with its trains on the track. proofs: of its plan under every rule.
    """
    if any(p.verdict != "knot" for p in proofs):
        return
    for key, calls, via in itertools.islice(candidates(evening), MOST_TRIED):
        then = with_via(evening.plan, key, calls, via)
        if problems(evening.layout, evening.facts, then):
            continue
        changed = set_out(evening.layout, evening.facts, then)
        for rule in get_args(SingleLines):
            proof = prove(changed, rule, MOST_STATES)
            if proof.verdict == "free":
                train = evening.trains[key].stock.name
                words = f"Send {train} by {evening.layout.tracks[via].name}. {proof.words}"
                yield OtherWay(key, calls, via, proof.rule, proof, words)
                break


def with_via(plan: RunningPlan, key: str, ns: Collection[int], via: str) -> RunningPlan:
    """The plan with one train sent over a track on its way to some of its calls."""
    train = plan.trains[key]
    calls = [c.model_copy(update={"via": [via]}) if k in ns else c for k, c in enumerate(train.calls)]
    return plan.model_copy(update={"trains": {**plan.trains, key: train.model_copy(update={"calls": calls})}})
