"""Times of topology, reversing proposals and drawing: the demo, 20 conflicts, 2,000 tracks. Run by `make bench`."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable
from typing import Any

from pydantic import TypeAdapter

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.drawing.acts import Act, perform
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.proposals.reversing.choose import propose
from jolly_copper.core.rails import topology as topology_module
from jolly_copper.core.rails.pieces import map_rails
from jolly_copper.core.rails.topology import Topology, map_topology
from jolly_copper.demo import gannet_bay
from jolly_copper.demo.drafting import Draft

YARD = 6


def line_of_parts(parts: int) -> Layout:
    """A main line of many parts, each with a balloon loop on a lead and a yard of six tracks: 21 tracks a part."""
    d = Draft(f"{parts} parts")
    d.node("S", 0, 0, "bumper")
    before = "S.1"
    for p in range(parts):
        x = 8000.0 * p
        d.turnout(f"A{p}", x + 1000, 0, "right")
        d.turnout(f"B{p}", x + 2500, 0, "right")
        d.turnout(f"C{p}", x + 6500, 0, "left")
        d.turnout(f"L{p}", x + 1000, -1500, "left")
        d.track(f"m{p}a", f"Main {p}a", before, f"A{p}.points")
        d.track(f"m{p}b", f"Main {p}b", f"A{p}.through", f"B{p}.points")
        d.track(f"m{p}c", f"Main {p}c", f"B{p}.through", f"C{p}.through")
        d.track(f"l{p}", f"Lead {p}", f"A{p}.diverging", f"L{p}.points", (x + 1000, -500))
        corners = ((x + 200, -2500), (x + 200, -4000), (x + 1800, -4000), (x + 1800, -2500))
        d.track(f"o{p}", f"Loop {p}", f"L{p}.through", f"L{p}.diverging", *corners)
        up, down = f"B{p}.diverging", f"C{p}.diverging"
        for k in range(YARD - 1):
            d.turnout(f"P{p}.{k}", x + 2800 + 100 * k, 150 + 100 * k, "left")
            d.turnout(f"Q{p}.{k}", x + 6200 - 100 * k, 150 + 100 * k, "right")
            d.track(f"u{p}.{k}", f"Up {p}.{k}", up, f"P{p}.{k}.points")
            d.track(f"d{p}.{k}", f"Down {p}.{k}", f"Q{p}.{k}.points", down)
            d.track(f"y{p}.{k}", f"Yard {p}.{k}", f"P{p}.{k}.through", f"Q{p}.{k}.through")
            up, down = f"P{p}.{k}.diverging", f"Q{p}.{k}.diverging"
        d.track(f"y{p}.x", f"Yard {p}.x", up, down, (x + 3400, 700), (x + 5600, 700))
        before = f"C{p}.points"
    d.node("E", 8000.0 * parts, 0, "bumper")
    d.track("end", "End", before, "E.1")
    return d.plain()


def timed(work: Callable[[], Any], times: int = 5) -> float:
    took = []
    for _ in range(times):
        began = time.perf_counter()
        work()
        took.append((time.perf_counter() - began) * 1000)
    return statistics.median(took)


def whole(layout: Layout) -> Topology:
    """Everything topology tells, nothing remembered."""
    topology_module._CONFLICTS.clear()
    found = map_topology(layout, map_rails(layout))
    _ = found.zones, found.shorts, found.stands, found.live_now, found.conflicts, found.open_conflicts
    return found


def main() -> None:
    act = TypeAdapter(Act).validate_python
    print(f"\n{'':22}{'tracks':>10}{'conflicts':>12}{'topology':>12}{'proposal':>12}{'one act':>12}")
    for name, layout in (
        ("the demo", gannet_bay()),
        ("20 loops", line_of_parts(20)),
        ("2,000 tracks", line_of_parts(95)),
    ):
        found = whole(layout)
        facts = derive(layout, None)
        track = next(iter(layout.tracks))
        gap = act({"act": "gap", "track": track, "at": 333})
        proposal = timed(lambda f=found: propose(f, train=1500), 3)
        cells = (timed(lambda x=layout: whole(x)), proposal, timed(lambda f=facts, g=gap: perform(f, g)))
        print(f"{name:22}{len(layout.tracks):>10}{len(found.conflicts):>12}" + "".join(f"{c:>12.1f}" for c in cells))


if __name__ == "__main__":
    main()
