"""A whole evening: a pure function of layout, plan and seed to lines in the order of time.

Between events nothing changes but the places of trains, and those are known in closed form; so the evening is a heap of
things that fall due, and no time step.
"""

from __future__ import annotations

import heapq
from collections.abc import Callable, Iterator
from dataclasses import dataclass

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.plans import RunningPlan
from jolly_copper.core.layout.power_tree import SOURCES
from jolly_copper.core.rehearsal import faults, hands, power
from jolly_copper.core.rehearsal.asking import legs_of_call
from jolly_copper.core.rehearsal.checks import assumptions, problems
from jolly_copper.core.rehearsal.evening import MOST_AT_ONCE, Evening, StandsStill, new_evening
from jolly_copper.core.rehearsal.ground import Place
from jolly_copper.core.rehearsal.lines import lines_of
from jolly_copper.core.rehearsal.moving import go_on, lifted, passed, schedule, stand, wake
from jolly_copper.core.rehearsal.rolling import Rolling
from jolly_copper.core.rehearsal.safe import safe_of
from jolly_copper.core.rehearsal.sampling import EVERY, sample
from jolly_copper.core.rehearsal.stock import stock_of
from jolly_copper.core.rehearsal.telling_heads import tell_heads
from jolly_copper.core.rehearsal.trace import Entry, Line, Motion, Opening, Way
from jolly_copper.core.rehearsal.under import under_place
from jolly_copper.core.rehearsal.waits import look_for_knots
from jolly_copper.core.signals.heads import ASPECTS

LINES_AT_ONCE = 64
ENGINE_VERSION = 2
"""Counts up when the same plan would run otherwise."""


class PlanRefused(Exception):
    """A plan that cannot be run, with what is wrong: JSON Pointers within the plan, and sentences."""

    def __init__(self, wrong: list[tuple[str, str]]) -> None:
        super().__init__("; ".join(s for _, s in wrong))
        self.wrong = wrong


@dataclass(frozen=True)
class Rehearsal:
    """A rehearsal under way: its lines as they come, and the evening they come from, complete once they ended."""

    evening: Evening
    lines: Iterator[Line]


def by_hand(evening: Evening, act: hands.Act, tell: Callable[[str | None], None]) -> None:
    """Have something done while an evening runs, at the moment it has come to.

    Args:
        evening: whose lines are being asked for. act: what. tell: called with why it was not done, or None.
    """
    number = len(evening.acts) + evening.number
    evening.acts[number] = (act, tell)
    evening.at(evening.t, "hand", str(number))


def rehearse(
    layout: Layout,
    facts: Facts,
    plan: RunningPlan,
    seed: int | None = None,
    every: float = EVERY,
    quiet: bool = False,
    at_once: int = LINES_AT_ONCE,
) -> Rehearsal:
    """Run an evening.

    Args:
        layout: the railroad as it stands in the plan's scene.
        facts: of it.
        plan: who runs how, and what goes wrong.
        seed: of all chance; the plan's own when not given.
        every: seconds between two samples. quiet: nobody looks, so heads are asked only where a train needs to know.
        at_once: lines that may wait to be told together; 0 where a person acts between them.

    Returns:
        Lines in the order of time; the first is an `Opening`. Same layout, plan and seed: the same lines.

    Raises:
        PlanRefused: the plan does not fit the railroad.
    """
    wrong = problems(layout, facts, plan)
    if wrong:
        raise PlanRefused(wrong)
    evening = new_evening(layout, facts, plan, plan.seed if seed is None else seed)
    evening.every, evening.quiet, evening.at_once = every, quiet, at_once
    return Rehearsal(evening, _lines(evening))


def set_out(layout: Layout, facts: Facts, plan: RunningPlan) -> Evening:
    """An evening with its trains on the track, before anybody moves: to be searched, not run. No rule for single lines
    is worked out.

    Raises:
        PlanRefused: the plan does not fit the railroad.
    """
    run = rehearse(layout, facts, plan.model_copy(update={"single_lines": "signals alone"}))
    next(run.lines)
    run.evening.plan = plan
    return run.evening


def _lines(evening: Evening) -> Iterator[Line]:
    _set_out(evening)
    yield _opening(evening)
    yield from _told(evening)
    yield from _loop(evening)


def _set_out(evening: Evening) -> None:
    """Put every train where it begins, and everything on the heap that is known now."""
    layout, plan = evening.layout, evening.plan
    for key, planned in plan.trains.items():
        train = Rolling(key, planned, stock_of(layout, planned.train))
        evening.trains[key] = train
        segments = under_place(evening.ground, Place(planned.track, planned.at, planned.towards), train.stock.length)
        assert segments is not None, "a plan is checked before it is run"
        stand(evening, train, segments)
        train.state = "parked" if planned.by == "parked" else "standing"
    evening.watched = watched(layout)
    evening.least_allowed = _least_allowed(evening)
    evening.lines = lines_of(evening) if plan.single_lines == "direction" else None
    evening.safe = safe_of(evening) if plan.single_lines == "safe moves" else None
    tell_heads(evening)
    # What is lit and what heads show stands in the opening; where trains stand, and what they work there, is told.
    evening.told = [x for x in evening.told if isinstance(x, Way | Motion | Entry)]
    for train in evening.trains.values():
        _begin(evening, train)
    for device_id in evening.watched:  # the evening begins: all power comes on at once
        if layout.devices[device_id].kind in ("breaker", *SOURCES):
            evening.at(0.0, "switch on", device_id)
    evening.at(0.0, "sample", "")
    for n, fault in enumerate(plan.faults):
        evening.at(fault.seconds, "fault", str(n))
    for n, move in enumerate(plan.moves):
        evening.at(move.seconds, "move", str(n))
    evening.judge = True


def _begin(evening: Evening, train: Rolling) -> None:
    if train.plan.by in ("parked", "hand"):
        return
    if train.plan.by == "calls":
        if not train.plan.calls:
            train.state = "parked"
            return
        train.ahead = legs_of_call(evening, train)
    train.state = "waiting"
    train.since = train.plan.leaves
    evening.at(train.plan.leaves, "start", train.key)


def watched(layout: Layout) -> tuple[str, ...]:
    """Devices whose amps are told: sources, breakers and reversers of the track."""
    return tuple(
        i
        for i, d in layout.devices.items()
        if d.kind in ("breaker", "reverser", "reversing switch", *SOURCES)
        and layout.circuits[d.output].purpose == "track"
    )


def _least_allowed(evening: Evening) -> dict[str, float]:
    """The least volts the house allows on the track of each circuit."""
    share = 1 - evening.layout.brief.rules.largest_drop
    found: dict[str, float] = {}
    for volts, circuit in zip(evening.facts.source_volts, evening.facts.circuit, strict=True):
        if circuit and volts == volts:
            found.setdefault(circuit, share * float(volts))
    return found


def _opening(evening: Evening) -> Opening:
    return Opening(
        evening.ends,
        evening.watched,
        tuple(evening.trains),
        tuple(assumptions(evening)),
        tuple(n for n in range(evening.lit.bit_length()) if evening.lit >> n & 1),
        {i: ASPECTS[a] for i, a in zip(evening.heads.ids, evening.shown, strict=True)},
        dict(evening.heads.lies),
    )


def _told(evening: Evening) -> Iterator[Line]:
    told, evening.told = evening.told, []
    yield from told


def _loop(evening: Evening) -> Iterator[Line]:
    """Everything that falls due, until the evening ends."""
    at_once = 0
    while evening.heap and evening.heap[0][0] <= evening.ends + 1e-9:
        t = evening.heap[0][0]
        at_once = at_once if t <= evening.t + 1e-12 else 0
        evening.t = max(t, evening.t)
        while evening.heap and evening.heap[0][0] <= t + 1e-12:
            _, _, kind, who, version = heapq.heappop(evening.heap)
            at_once += 1
            if at_once > MOST_AT_ONCE:
                raise StandsStill(f"Time stands still at {t:.3f} s, with {kind} of {who} again and again.")
            _due(evening, kind, who, version)
        if evening.judge:
            power.judge(evening)
            for train in evening.trains.values():
                schedule(evening, train)
        if evening.waits_changed:
            look_for_knots(evening)
        if len(evening.told) > evening.at_once:
            yield from _told(evening)
    evening.t = evening.ends
    evening.log("ends", "The evening ends.")
    yield from _told(evening)


def _due(evening: Evening, kind: str, who: str, version: int) -> None:
    match kind:
        case "sample":
            sample(evening)
            evening.at(evening.t + evening.every, "sample", "")
        case "fault":
            faults.begin(evening, int(who))
        case "mend":
            faults.mend(evening, int(who))
        case "act":
            power.acts(evening, who)
        case "close":
            power.close(evening, who)
        case "switch on":
            power.switch_on(evening, who)
        case "start":
            train = evening.trains[who]
            go_on(evening, train)
        case "hand":
            act, tell = evening.acts.pop(int(who))
            tell(hands.do(evening, act))
        case "move":
            hands.move(evening, int(who))
        case "person":
            power.helped(evening, evening.trains[who])
        case "wake":
            train = evening.trains[who]
            if abs(train.wakes - evening.t) < 1e-6:
                wake(evening, train)
        case "lifted":
            lifted(evening, evening.trains[who])
        case _:
            train = evening.trains[who]
            if train.version == version:
                passed(evening, train, kind)
                schedule(evening, train)
