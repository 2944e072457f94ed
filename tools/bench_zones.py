"""Times of dividing, laying and sizing wire, evenings and accessory buses, on the demo and on ten of it side by side.
Run by `make bench`."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable
from typing import Any

from jolly_copper.core.circuits.facts import Facts, derive
from jolly_copper.core.circuits.protection import first_to_open
from jolly_copper.core.circuits.session import Habits, play
from jolly_copper.core.proposals.dividing.choose import divide
from jolly_copper.core.proposals.dividing.make import make_division
from jolly_copper.core.proposals.laying.whole import lay_railroad
from jolly_copper.core.proposals.sizing import size_runs
from jolly_copper.demo import gannet_bay, undivided_bay
from jolly_copper.demo.drafting import stripped
from tools.bench import copies


def median(work: Callable[[], Any], times: int = 3) -> float:
    """Median seconds."""
    took = []
    for _ in range(times):
        start = time.perf_counter()
        work()
        took.append(time.perf_counter() - start)
    return statistics.median(took)


def rows(name: str, facts: Facts) -> None:
    layout, scene = facts.layout, facts.layout.scenes.get(facts.scene or "")
    division = divide(facts)
    print(
        f"{name}: {len(layout.tracks)} tracks, {len(division.districts)} districts on {len(division.boosters)} boosters"
    )
    for what, work in (
        ("  proposal", lambda: divide(facts)),
        ("  the change that makes it, wires laid", lambda: make_division(layout, division)),
        ("  1000 evenings of 3 hours", lambda: play(layout, scene, Habits(), rails=facts.rails)),
        ("  what opens first at every rail", lambda: first_to_open(facts)),
        ("  the whole railroad laid from nothing", lambda: lay_railroad(stripped(layout))),
        ("  all runs sized", lambda: size_runs(facts)),
    ):
        print(f"{what:44}{median(work) * 1000:9.0f} ms")


def main() -> None:
    demo = undivided_bay()
    rows("undivided demo", derive(demo, "open-day"))
    rows("the demo", derive(gannet_bay(), "open-day"))
    rows("ten of it", derive(copies(gannet_bay(), 10), None))


if __name__ == "__main__":
    main()
