"""Small railroads with trains to run on them, and where a trace says its trains are. Invented data."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from jolly_copper.core.circuits.facts import Facts, derive
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.plans import RunningPlan
from jolly_copper.core.rehearsal.run import Rehearsal, rehearse
from jolly_copper.core.rehearsal.trace import Entry, Line, Motion, Way
from jolly_copper.demo.drafting import Draft
from tests.layouts import booster
from tests.track_plans import oval, power, tie


def stock(d: Draft, *trains: str, length: float = 300, lit: int = 2, **kind: Any) -> Draft:
    """One kind of engine and some trains of one engine each; lit, so that all of them is seen."""
    d.data["locos"] = {"engine": {"name": "Engine", "idle": 0.1, "running": 0.5, "stall": 1, "inrush": 0.2, **kind}}
    d.data["trains"] = {
        t: {"name": t.capitalize(), "engines": ["engine"], "length": length, "lit_cars": lit, "amps_per_lit_car": 0}
        for t in trains
    }
    return d


def fed_oval(reach: float = 3000) -> Draft:
    """A ring fed in the middle of each half."""
    d = power(oval(reach))
    tie(d, "F1", "north", 1000)
    tie(d, "F2", "south", 1000)
    return d


def passing() -> Draft:
    """A single line west, two tracks side by side, a single line east; bumpers at both ends, no signals."""
    d = power(Draft("Passing place"))
    d.node("W", 0, 0, "bumper")
    d.node("E", 9000, 0, "bumper")
    d.turnout("P1", 3000, 0, "left")
    d.turnout("P2", 6000, 0, "right")
    d.track("west", "West", "W.1", "P1.points", joiner_every=None)
    d.track("main", "Main", "P1.through", "P2.through", joiner_every=None)
    d.track("siding", "Siding", "P1.diverging", "P2.diverging", (4500, -200), joiner_every=None)
    d.track("east", "East", "P2.points", "E.1", joiner_every=None)
    for k, track in enumerate(("west", "main", "siding", "east")):
        tie(d, f"F{k}", track, 500)
    return d


def powered(d: Draft) -> Draft:
    """A railroad of sections behind detector channels, each with a bus and a feeder of its own."""
    for k, (key, section) in enumerate(list(d.data["sections"].items())):
        circuit = section["circuit"]
        device = next(i for i, v in d.data["devices"].items() if v["output"] == circuit)
        d.bus(
            f"R{key}", circuit, "14 AWG", [(0, 500 + k), (800, 500 + k)], fed={"device": device}, first=400, every=900
        )
        tie(d, f"F{key}", section["track"], section["at"], circuit)
    return d


def loop_section(gap_apart: float = 1500, **reverser: Any) -> Draft:
    """A straight with a section of its own in the middle behind a reverser; power beyond it stands the other way round
    than before it, as at the two ends of a loop."""
    d = power(Draft("Section"), "turned")
    d.node("W", 0, 0, "bumper")
    d.node("E", 8000, 0, "bumper")
    d.track("t", "Line", "W.1", "E.1", joiner_every=None)
    d.gap("t", 3000)
    d.gap("t", 3000 + gap_apart)
    tie(d, "F1", "t", 1000)
    tie(d, "F2", "t", 7000, a_rail="right")
    tie(d, "F3", "t", 3000 + gap_apart / 2, "turned", a_rail="right")
    d.data["devices"]["V1"] |= {"trip_amps": 1, "trip_seconds": 0.01, **reverser}
    return d


def plan(*trains: dict[str, Any], minutes: float = 5, **more: Any) -> RunningPlan:
    """A plan of trains, each called like the train it runs."""
    return RunningPlan.model_validate(
        {"name": "Evening", "minutes": minutes, "trains": {t["train"]: t for t in trains}, **more}
    )


def goes(train: str, track: str, at: float, *calls: dict[str, Any], towards: str = "b", **more: Any) -> dict[str, Any]:
    """A train that runs by calls."""
    return {"train": train, "track": track, "at": at, "towards": towards, "by": "calls", "calls": list(calls), **more}


def run(d: Draft | Layout, p: RunningPlan, **more: Any) -> tuple[list[Line], Rehearsal]:
    """Run a plan to its end."""
    layout = d if isinstance(d, Layout) else d.plain()
    facts: Facts = derive(layout, p.scene)
    found = rehearse(facts.layout, facts, p, **more)
    return list(found.lines), found


def entries(lines: Iterable[Line], *kinds: str) -> list[Entry]:
    return [x for x in lines if isinstance(x, Entry) and (not kinds or x.kind in kinds)]


class Places:
    """Where a trace says its trains are, worked out from ways and motions alone, as the page does."""

    def __init__(self, lines: Iterable[Line], lengths: dict[str, float]) -> None:
        self.lengths = lengths
        self._ways: dict[str, list[tuple[float, list[tuple[str, float, float, float]]]]] = {}
        self._motions: dict[str, list[Motion]] = {}
        for line in lines:
            if isinstance(line, Way):
                known = self._ways.setdefault(line.train, [])
                if line.fresh or not known:
                    known.append((line.t, []))
                known[-1][1].extend(tuple(s) for s in line.spans)
            elif isinstance(line, Motion):
                self._motions.setdefault(line.train, []).append(line)

    def front(self, train: str, t: float) -> tuple[float, float]:
        """Place along its way, mm, and speed, mm/s."""
        motions = [m for m in self._motions.get(train, []) if m.t <= t + 1e-9]
        if not motions:
            return self._ways[train][0][1][-1][3], 0.0
        phases = [p for p in motions[-1].phases if p.t <= t + 1e-9] or [motions[-1].phases[0]]
        p = phases[-1]
        d = max(0.0, t - p.t)
        return p.s + p.v * d + p.a * d * d / 2, p.v + p.a * d

    def body(self, train: str, t: float) -> list[tuple[str, float, float]]:
        """Stretches of track it stands on: track, and mm from its A end, from and to."""
        epochs = [e for e in self._ways.get(train, []) if e[0] <= t + 1e-9]
        if not epochs:
            return []
        s, _ = self.front(train, t)
        found = []
        for track, start, finish, at in epochs[-1][1]:
            length = abs(finish - start)
            a, b = max(at, s - self.lengths[train]), min(at + length, s)
            if b > a:
                way = 1 if finish >= start else -1
                p, q = start + way * (a - at), start + way * (b - at)
                found.append((track, min(p, q), max(p, q)))
        return found


def overlap(one: list[tuple[str, float, float]], other: list[tuple[str, float, float]]) -> float:
    """How far two trains stand in each other, mm."""
    return max(
        (min(b, d) - max(a, c) for t, a, b in one for u, c, d in other if t == u),
        default=-1.0,
    )


__all__ = ["booster"]
