"""Times of the running railroad: an evening of three hours, the rule of heads at both speeds, searches for knots,
evenings by chance, and how many trains arrive in an hour under each rule. Run by `make bench`."""

from __future__ import annotations

import random
import resource
import time

from jolly_copper.core.circuits.facts import Facts, derive
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.plans import SingleLines
from jolly_copper.core.rehearsal.evenings import evenings
from jolly_copper.core.rehearsal.ground import Ground
from jolly_copper.core.rehearsal.heads import Heads
from jolly_copper.core.rehearsal.proof import prove
from jolly_copper.core.rehearsal.run import rehearse
from jolly_copper.core.rehearsal.verdict import verdict
from jolly_copper.core.signals.aspects import lies_of, signalling_of
from jolly_copper.demo import signalled_bay

FIRST_SECONDS = 600
STATES = 300
RULES: tuple[SingleLines, ...] = ("signals alone", "direction", "safe moves")
SEEDS = 3


def evening(facts: Facts, bay: Layout) -> None:
    """Three hours of the open day: when the first picture and the first ten minutes are there, and the whole."""
    start = time.perf_counter()
    run = rehearse(facts.layout, facts, bay.plans["open-day"])
    first = ten = 0.0
    count = 0
    for count, line in enumerate(run.lines, start=1):
        if not first:
            first = time.perf_counter() - start
        if not ten and count > 1 and line.t >= FIRST_SECONDS:
            ten = time.perf_counter() - start
    whole = time.perf_counter() - start
    begun = time.perf_counter()
    verdict(run.evening, "open-day")
    judged = time.perf_counter() - begun
    times = run.evening.ends / whole
    print(f"open day, 3 h, 12 trains: opening {first:.2f} s, ten minutes {ten:.2f} s, {count:,} lines in {whole:.1f} s")
    print(f"  {times:,.0f} times as fast as in truth; what it came to {judged:.1f} s")


def heads(facts: Facts, bay: Layout) -> None:
    """The rule with its reasons, and by masks, on the same random states."""
    known = signalling_of(facts)
    quick = Heads(Ground(bay, known), lies_of(bay))
    rng = random.Random(1)
    states = [{s.number for s in known.sensed if s.device is not None and rng.random() < 0.25} for _ in range(STATES)]
    lies = lies_of(bay)
    start = time.perf_counter()
    for lit in states:
        known.show(lies, lit)
    slow = (time.perf_counter() - start) / STATES
    masks = [sum(1 << n for n in lit) for lit in states]
    start = time.perf_counter()
    for mask in masks:
        quick.show(mask)
    fast = (time.perf_counter() - start) / STATES
    print(f"heads: {slow * 1e6:.0f} µs with reasons, {fast * 1e6:.0f} µs by masks, {slow / fast:.0f} times quicker")


def rules(facts: Facts, bay: Layout) -> None:
    """Each rule searched, then run: knots, arrivals an hour, the longest wait."""
    plan = bay.plans["open-day"].model_copy(update={"faults": [], "minutes": 120.0})
    ready = rehearse(facts.layout, facts, plan.model_copy(update={"single_lines": "signals alone"}))
    next(ready.lines)
    for rule in RULES:
        start = time.perf_counter()
        proof = prove(ready.evening, rule)
        took = time.perf_counter() - start
        arrivals = knots = 0
        longest = 0.0
        for seed in range(SEEDS):
            run = rehearse(facts.layout, facts, plan.model_copy(update={"single_lines": rule}), seed, 10.0, quiet=True)
            for _ in run.lines:
                pass
            arrivals += sum(x.arrivals for x in run.evening.trains.values())
            knots += len(run.evening.seen_knots)
            longest = max(longest, *(x.longest_wait for x in run.evening.trains.values()))
        hours = SEEDS * plan.minutes / 60
        print(
            f"{rule}: {proof.verdict} in {proof.states:,} standings, {took:.2f} s; {knots} knots in {hours:.0f} h, "
            f"{arrivals / hours:.0f} arrivals an hour, longest wait {longest:.0f} s"
        )


def many(facts: Facts, bay: Layout) -> None:
    """Evenings by chance."""
    start = time.perf_counter()
    count = len(list(evenings(facts.layout, facts, bay.plans["open-day"].model_copy(update={"faults": []}), 4)))
    each = (time.perf_counter() - start) / count
    print(f"evenings by chance: {each:.1f} s each, a hundred in {each * 100:.0f} s on one processor")


def main() -> None:
    bay = signalled_bay()
    facts = derive(bay, "open-day")
    evening(facts, bay)
    heads(facts, bay)
    rules(facts, bay)
    many(facts, bay)
    print(f"most memory {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1000:.0f} MB")


if __name__ == "__main__":
    main()
