"""Whether a plan fits its railroad, told before anything runs; and what is assumed where nobody said."""

from __future__ import annotations

from collections.abc import Iterator

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.stopping import USUAL_KMH
from jolly_copper.core.layout.document import REVERSERS, Layout
from jolly_copper.core.layout.plans import PlannedTrain, RunningPlan
from jolly_copper.core.layout.power_tree import SOURCES
from jolly_copper.core.rehearsal.evening import Evening, new_evening
from jolly_copper.core.rehearsal.faults import fault_problems
from jolly_copper.core.rehearsal.ground import Ground, Place, Segment
from jolly_copper.core.rehearsal.hands import move_problems
from jolly_copper.core.rehearsal.legs import Leg, legs_to
from jolly_copper.core.rehearsal.power import BREAKER_SECONDS, REVERSER_SECONDS, REVERSER_SHARE, SOURCE_SECONDS
from jolly_copper.core.rehearsal.under import under_place

Problem = tuple[str, str]
"""A JSON Pointer within the plan, and a sentence."""
SLOP_MM = 0.5


def problems(layout: Layout, facts: Facts, plan: RunningPlan) -> list[Problem]:
    """What is wrong with a plan; empty where it can be run."""
    if not plan.trains:
        return [("/trains", "No train is in this plan: add one, or make the plan from a scene.")]
    evening = new_evening(layout, facts, plan, 0)
    found: list[Problem] = []
    stands: dict[str, list[Segment]] = {}
    for key, train in plan.trains.items():
        wrong = list(_starts(evening, key, train, stands))
        found += wrong
        if not wrong and train.by == "calls":
            found += _calls(evening, key, train)
    found += _together(evening, plan, stands)
    for n, fault in enumerate(plan.faults):
        known = frozenset(plan.trains) | frozenset(x.train for x in plan.trains.values())
        found += [(f"/faults/{n}/{p}", s) for p, s in fault_problems(layout, fault, known, plan.minutes * 60)]
    for n, move in enumerate(plan.moves):
        found += [(f"/moves/{n}/{p}", s) for p, s in move_problems(layout, plan, move)]
    return found


def _starts(evening: Evening, key: str, train: PlannedTrain, stands: dict[str, list[Segment]]) -> Iterator[Problem]:
    """Whether a train can stand where it begins."""
    layout, path = evening.layout, f"/trains/{key}"
    if train.train not in layout.trains:
        yield f"{path}/train", f"There is no train {train.train} any more."
        return
    name = layout.trains[train.train].name
    if train.track not in layout.tracks:
        yield f"{path}/track", f"{name} begins on track {train.track}, which is gone."
        return
    track, length = layout.tracks[train.track], evening.facts.rails.lengths[train.track]
    if train.at > length + SLOP_MM:
        yield f"{path}/at", f"{track.name} is {length:.0f} mm long; {name} would begin {train.at:.0f} mm along it."
        return
    place = Place(train.track, min(train.at, length), train.towards)
    segments = under_place(evening.ground, place, layout.trains[train.train].length)
    if segments is None:
        yield (
            f"{path}/at",
            f"{name} is {layout.trains[train.train].length:.0f} mm long, and the track behind its front on "
            f"{track.name} is shorter.",
        )
        return
    stands[key] = segments


def _together(evening: Evening, plan: RunningPlan, stands: dict[str, list[Segment]]) -> Iterator[Problem]:
    """Trains that begin on the same rails."""
    keys = list(stands)
    for n, key in enumerate(keys):
        for other in keys[:n]:
            for a in stands[key]:
                for b in stands[other]:
                    if a.piece != b.piece:
                        continue
                    low = max(_low(a), _low(b))
                    high = min(_low(a) + a.length, _low(b) + b.length)
                    if high - low > 1:
                        trains = evening.layout.trains
                        one, two = trains[plan.trains[key].train].name, trains[plan.trains[other].train].name
                        yield f"/trains/{key}/at", f"{one} begins where {two} stands, on {_track(evening, a)}."
                        break
                else:
                    continue
                break


def _low(segment: Segment) -> float:
    return segment.at if segment.towards == "b" else segment.at - segment.length


def _track(evening: Evening, segment: Segment) -> str:
    return evening.layout.tracks[segment.track].name


def _calls(evening: Evening, key: str, train: PlannedTrain) -> Iterator[Problem]:
    """Whether a train has a way from each place to the next, through a whole round."""
    layout, ground, path = evening.layout, evening.ground, f"/trains/{key}/calls"
    name = layout.trains[train.train].name
    length = layout.trains[train.train].length
    here = Place(train.track, train.at, train.towards)
    last_leave = -1.0
    calls = [*train.calls, *(train.calls[:1] if evening.plan.round is not None else ())]
    for n, call in enumerate(calls):
        k = n % len(train.calls)
        if call.track not in layout.tracks:
            yield f"{path}/{k}/track", f"{name} calls at track {call.track}, which is gone."
            return
        long = evening.facts.rails.lengths[call.track]
        if call.at > long + SLOP_MM:
            yield (
                f"{path}/{k}/at",
                f"{layout.tracks[call.track].name} is {long:.0f} mm long; {name} cannot come to {call.at:.0f}.",
            )
            return
        for via in call.via:
            if via not in layout.tracks:
                yield f"{path}/{k}/via", f"{name} goes over track {via}, which is gone."
                return
        if n < len(train.calls) and call.leaves is not None:
            if call.leaves <= last_leave:
                yield f"{path}/{k}/leaves", f"{name} would leave there no later than the place before."
                return
            if evening.plan.round is not None and call.leaves > evening.plan.round + train.leaves:
                words = f"{name} would leave there after its round of {evening.plan.round:.0f} s is over."
                yield f"{path}/{k}/leaves", words
                return
            last_leave = call.leaves
        legs = legs_to(ground, here, call.track, min(call.at, long), call.facing, call.via)
        if not legs:
            yield f"{path}/{k}", _no_way(ground, name, here, call.track)
            return
        for leg in legs:
            for segment in leg.segments:
                node = layout.nodes.get(segment.node or "")
                if node is None or segment.lies is None or leg.head is None:
                    continue
                if node.motor == "hand" and node.lies != segment.lies:
                    where = layout.signals[leg.head].name
                    yield (
                        f"{path}/{k}",
                        f"{name} would go from {where} over {node.name or segment.node}, which is thrown by hand and "
                        f"lies {node.lies}: no signal can lead there.",
                    )
                    return
        here = legs[-1].goal
        if call.then == "turn":
            back = under_place(evening.ground, here, length) if n == 0 else None
            tail = _tail(evening, here, legs, length) if back is None else back[0].place(back[0].s)
            if tail is None:
                yield f"{path}/{k}/then", f"{name} is longer than the track it would turn on."
                return
            here = Place(tail.track, tail.at, "a" if tail.towards == "b" else "b")


def _tail(evening: Evening, here: Place, legs: list[Leg], length: float) -> Place | None:
    """Where a train's tail stands that came over these legs; as the turnouts lie where they are shorter than it."""
    left = length
    for leg in reversed(legs):
        for segment in reversed(leg.segments):
            if segment.length >= left - 1e-6:
                return segment.place(segment.end - left)
            left -= segment.length
    return None if left > length - 1 else here


def _no_way(ground: Ground, name: str, here: Place, track: str) -> str:
    tracks = ground.layout.tracks
    one, other = tracks[here.track].name, tracks[track].name
    towards = tracks[here.track].a if here.towards == "a" else tracks[here.track].b
    node = ground.layout.nodes[towards.node].name or towards.node
    return f"{name} has no way from {one}, facing {node}, to {other}: the track ends, or trains run the other way."


def assumptions(evening: Evening) -> Iterator[str]:
    """What is taken for usual because nobody wrote it down, each a sentence."""
    layout = evening.layout
    devices = [layout.devices[i] for i in evening.watched]
    blank = [d.name for d in devices if d.kind in REVERSERS and d.trip_seconds is None]
    if blank:
        yield (
            f"{_few(blank)} turn over after {REVERSER_SECONDS * 1000:.0f} ms, from {REVERSER_SHARE * 100:.0f} % of the "
            "amps of the breaker above on."
        )
    blank = [d.name for d in devices if d.kind == "breaker" and d.trip_seconds is None]
    if blank:
        yield f"{_few(blank)} open after {BREAKER_SECONDS * 1000:.0f} ms."
    blank = [d.name for d in devices if d.kind in SOURCES and d.trip_seconds is None]
    if blank:
        yield f"{_few(blank)} open after {SOURCE_SECONDS * 1000:.0f} ms."
    trains = {x.plan.train for x in evening.trains.values()}
    blank = [layout.trains[i].name for i in trains if layout.trains[i].scale_kmh is None]
    if blank:
        yield f"{_few(sorted(blank))} run at {USUAL_KMH:.0f} scale km/h and stop in {_stops(evening)}."
    blank = [n.name or i for i, n in layout.nodes.items() if n.hand and n.motor is None]
    if blank:
        yield f"{_few(blank)} {'is' if len(blank) == 1 else 'are'} thrown as if by a motor."
    if not layout.signals:
        yield "There are no signals: trains run by sight, and what signals would hold back is not rehearsed."
    if not any(d.kind == "detector" for d in layout.devices.values()):
        yield "Nothing detects trains: what a driver sees counts as known."


def _stops(evening: Evening) -> str:
    paces = {round(x.stock.pace.line**2 / (2 * x.stock.pace.brakes)) for x in evening.trains.values()}
    return f"{min(paces)} mm" if len(paces) == 1 else f"{min(paces)} to {max(paces)} mm"


def _few(names: list[str]) -> str:
    return names[0] if len(names) == 1 else f"{names[0]} and {len(names) - 1} more"
