"""Ways cut into legs: from one place where a train may wait to the next."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal, NamedTuple

from jolly_copper.core.rails.ways import TrackEnd
from jolly_copper.core.rehearsal.ground import Ground, Place, Segment
from jolly_copper.core.signals.routes import Step

BEFORE_HEAD_MM = 20.0
"""A train stops so far before a head, or before the end of the track. Certainty C."""
BEFORE_NODE_MM = 150.0
"""Where nothing signals, a train stops so far before a turnout. Certainty C."""
SHORT_MM = 300.0
"""Where nothing signals, no train waits on a track shorter than this."""
MOST_STEPS = 60
MOST_CHOICES = 24


class Leg(NamedTuple):
    """A way from where a train may wait to where it may wait next.

    head: the signal it begins at. segments: with `s` counted from its beginning. halt: mm before its end where the
    front stands. stops: whether the train has come where it was going. ends: what is there.
    """

    head: str | None
    segments: tuple[Segment, ...]
    halt: float
    stops: bool
    ends: Literal["signal", "place", "track end", "turnout"]

    @property
    def length(self) -> float:
        return self.segments[-1].end

    @property
    def goal(self) -> Place:
        last = self.segments[-1]
        return last.place(last.end)


def head_at(ground: Ground, place: Place) -> str | None:
    """The signal a place stands at."""
    for at, signal in ground.heads.get((place.track, place.towards), ()):
        if abs(at - place.at) < 0.6:
            return signal
    return None


def _cuts(ground: Ground, segments: Sequence[Segment]) -> list[float]:
    """Heads passed on a way, mm along it, its two ends apart."""
    found = []
    for segment in segments:
        for at, _ in ground.heads.get((segment.track, segment.towards), ()):
            d = at - segment.at if segment.towards == "b" else segment.at - at
            s = segment.s + d
            if -1e-6 <= d <= segment.length + 1e-6 and segments[0].s + 1 < s < segments[-1].end - 1:
                found.append(s)
    return sorted({round(s, 3) for s in found})


def _node_cuts(ground: Ground, segments: Sequence[Segment]) -> list[float]:
    """Where nothing signals: before each turnout, on track long enough to wait on."""
    found = []
    begins = segments[0].s
    for k, segment in enumerate(segments):
        if k and segment.node is not None and ground.layout.nodes[segment.node].kind != "joint":
            s = segment.s - BEFORE_NODE_MM
            if s - begins >= SHORT_MM:
                found.append(s)
            begins = segment.s
    return found


def _both_ways(segments: Sequence[Segment]) -> list[float]:
    """Before each turnout that a way takes a second time and otherwise: it can be thrown only in between."""
    lies: dict[str, str] = {}
    found = []
    for segment in segments:
        if segment.node is not None and segment.lies is not None:
            if lies.get(segment.node, segment.lies) != segment.lies:
                found.append(max(segment.s - BEFORE_NODE_MM, segments[0].s + 1))
                lies = {}
            lies[segment.node] = segment.lies
    return found


def cut(ground: Ground, segments: Sequence[Segment], stops: bool, ends: Literal["place", "track end"]) -> list[Leg]:
    """Cut a way where trains may wait.

    Args:
        segments: of the whole way. stops: whether its end is where the train was going. ends: what its end is.
    """
    marks = _cuts(ground, segments) if ground.layout.signals else _node_cuts(ground, segments)
    marks = sorted({*marks, *_both_ways(segments)})
    edges = [*marks, segments[-1].end]
    found: list[Leg] = []
    start = segments[0].s
    for n, end in enumerate(edges):
        part = _between(segments, start, end)
        last = n + 1 == len(edges)
        head = head_at(ground, part[0].place(part[0].s))
        at_head = head_at(ground, part[-1].place(part[-1].end)) is not None
        halt = BEFORE_HEAD_MM if at_head or (last and ends == "track end") else 0.0
        what: Literal["signal", "place", "track end", "turnout"] = ends if last else "signal" if at_head else "turnout"
        found.append(Leg(head, part, halt, last and stops, what))
        start = end
    return found


def _between(segments: Sequence[Segment], start: float, end: float) -> tuple[Segment, ...]:
    """The part of a way between two places of it, counted from nought."""
    found = []
    for segment in segments:
        a, b = max(segment.s, start), min(segment.end, end)
        if b - a <= 1e-6 and not (segment.length <= 1e-6 and start <= segment.s <= end):
            continue
        at = segment.place(a).at
        whole = abs(a - segment.s) < 1e-6
        found.append(
            segment._replace(
                s=a - start,
                length=b - a,
                at=at,
                node=segment.node if whole else None,
                lies=segment.lies if whole else None,
            )
        )
    return tuple(found)


def legs_to(ground: Ground, start: Place, track: str, at: float, facing: str | None, via: Sequence[str]) -> list[Leg]:
    """The legs to a place; empty where no way leads there."""
    goal = (track, at) if facing is None else Place(track, at, "a" if facing == "a" else "b")
    steps = ground.way_to(start, goal, via)
    if steps is None:
        return []
    segments = ground.along(start, steps, at, 0.0)
    if segments[-1].end < 1:
        return []
    return cut(ground, segments, True, "place")


def free_legs(ground: Ground, start: Place) -> tuple[Leg, ...]:
    """Every leg a train may take next that goes where it likes: to the next head, or to the end of the track."""
    found: list[Leg] = []
    stack: list[tuple[TrackEnd, tuple[Step, ...], frozenset[str]]] = [
        (TrackEnd(start.track, start.towards), (), frozenset({start.track}))
    ]
    while stack and len(found) < MOST_CHOICES:
        end, steps, over = stack.pop()
        after = start.at if not steps else (0.0 if end.end == "b" else ground.rails.lengths[end.track])
        ahead = next(
            (
                at
                for at, _ in ground.heads.get((end.track, end.end), ())
                if (at > after + 0.5 if end.end == "b" else at < after - 0.5)
            ),
            None,
        )
        if ahead is not None:
            segments = ground.along(start, steps, ahead, 0.0)
            found.append(Leg(head_at(ground, start), segments, BEFORE_HEAD_MM, False, "signal"))
            continue
        length = ground.rails.lengths[end.track]
        on = ground.onward(end)
        if steps and on and not ground.layout.signals and length >= SHORT_MM + BEFORE_NODE_MM:
            stop = length - BEFORE_NODE_MM if end.end == "b" else BEFORE_NODE_MM
            segments = ground.along(start, steps, stop, 0.0)
            found.append(Leg(None, segments, 0.0, False, "turnout"))
            continue
        if not on or len(steps) >= MOST_STEPS:
            segments = ground.along(start, steps, None, 0.0)
            if segments[-1].end > BEFORE_HEAD_MM + 1:
                found.append(Leg(head_at(ground, start), segments, BEFORE_HEAD_MM, True, "track end"))
            continue
        for step in reversed(on):
            assert step.end is not None
            lies = {x.node: x.needs[0].lies for x in steps if x.needs}
            both = any(lies.get(need.node, need.lies) != need.lies for need in step.needs)
            if step.end.track not in over and not both:
                stack.append((step.end.far, (*steps, step), over | {step.end.track}))
    return tuple(found)


def room_before(ground: Ground, leg: Leg) -> float:
    """Length of track from the last turnout passed to a leg's end, mm: what a train has to stand in clear of it; the
    whole leg where it passes none."""
    for segment in reversed(leg.segments):
        if segment.node is not None and ground.layout.nodes[segment.node].kind != "joint":
            return leg.length - segment.s
    return leg.length
