"""Stretches that act on trains, or that trains act on: braking sections, and isolated rails of three-rail track."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import Literal, NamedTuple

from jolly_copper.core.circuits.stopping import SCALE_OF
from jolly_copper.core.layout.stretches import BrakingSection, IsolatedRail
from jolly_copper.core.rehearsal.evening import Evening
from jolly_copper.core.rehearsal.ground import Segment
from jolly_copper.core.rehearsal.rolling import Rolling
from jolly_copper.core.signals.occupancy import WHEEL_MM

SEES_BRAKING_SECONDS = 0.3
"""A decoder makes sure of unequal halves for so long before it brakes. Certainty C."""
USUAL_HALT_SECONDS = 20.0
"""How long a section without a signal holds a train where nobody said. Certainty C."""


class Brake(NamedTuple):
    """A braking section ahead of a train. at: where its front comes to stand, mm along its way."""

    at: float
    section: str


class Mark(NamedTuple):
    """Where a train's front is, mm along its way, when an isolated rail begins or ceases to be bridged."""

    at: float
    stretch: str
    on: bool


def _along(segment: Segment, start: float, end: float) -> tuple[float, float]:
    """Where a stretch of a segment's track begins and ends for who runs over it, mm along its way."""
    if segment.towards == "b":
        return segment.s + start - segment.at, segment.s + end - segment.at
    return segment.s + segment.at - end, segment.s + segment.at - start


def _spans(segment: Segment, start: float, end: float) -> tuple[float, float] | None:
    """The same; None where the segment does not come to the beginning of the stretch."""
    first, last = _along(segment, start, end)
    return (first, last) if segment.s - 0.5 <= first <= segment.end + 0.5 else None


def needs_mm(train: Rolling, v: float) -> tuple[float, float]:
    """What a train needs of a braking section to stop in it, and how much of it for pickups that are joined, mm.

    l = joined + 0.3·v + v²/2b: it begins to brake when its last joined pickup has been inside for 0.3 s; lit coaches
    carry plain power over the gap. Elementary mechanics; certainty C for the 0.3 s.

    Args:
        train: its wheels and braking. v: the speed it comes in with, mm/s.
    """
    joined = max((b for a, b in train.stock.touches if b - a > 2 * WHEEL_MM + 0.1), default=0.0)
    return joined + SEES_BRAKING_SECONDS * v + v * v / (2 * train.stock.pace.brakes), joined


def meet_stretches(evening: Evening, train: Rolling, segments: Iterable[Segment], v: float) -> None:
    """Note what lies on a way a train has been given: where it will stop by itself, and what its wheels will work.

    Args:
        evening: of the train. segments: of the leg, along the train's way. v: the speed of the leg, mm/s.
    """
    for segment in segments:
        for i, section in evening.layout.braking.items():
            if section.track != segment.track or section.towards != segment.towards:
                continue
            on = _spans(segment, section.start, section.end)
            if on is not None:
                _brakes(evening, train, i, section, on[0], v)
        for i, rail in evening.layout.isolated.items():
            on = _spans(segment, rail.start, rail.end) if rail.track == segment.track else None
            if on is not None:
                train.marks += [Mark(on[0], i, True), Mark(on[1] + train.stock.length, i, False)]
                train.marks.sort()


def _brakes(evening: Evening, train: Rolling, key: str, section: BrakingSection, first: float, v: float) -> None:
    need, joined = needs_mm(train, v)
    if need <= section.length:
        train.brakes.append(Brake(first + need, key))
        return
    if (key, train.key) in evening.braked:
        return
    evening.braked.add((key, train.key))
    scale = v * 3.6 / 1000 * SCALE_OF[evening.layout.brief.scale]
    evening.log(
        "run through",
        f"{train.stock.name} runs through {section.name}: at {scale:.0f} scale km/h it needs {need:.0f} mm to stop "
        f"there, {joined:.0f} of them for pickups that are joined, and the section is {section.length:.0f} mm long.",
        train=train.key,
        place=(section.track, section.start),
    )


def lifted_by(evening: Evening, train: Rolling, head: str | None) -> None:
    """A train has its way past a signal: sections that it holds do not stop it any more."""
    if head is not None and train.brakes:
        train.brakes = [b for b in train.brakes if evening.layout.braking[b.section].held_by != head]


def stops_at(train: Rolling, s: float) -> Brake | None:
    """The next place where a train stops by itself."""
    return min((b for b in train.brakes if b.at >= s - 1e-3), default=None)


def standing_in(train: Rolling, s: float) -> Brake | None:
    """The braking section a train has just come to stand in."""
    return next((b for b in train.brakes if abs(b.at - s) < 1), None)


def brake_words(evening: Evening, train: Rolling, section: BrakingSection) -> str:
    """That a train stopped by itself, and until when."""
    signal = evening.layout.signals.get(section.held_by or "")
    until = f" until {signal.name} clears" if signal is not None else ""
    return f"{train.stock.name} stops by itself in {section.name}{until}."


def halt_seconds(section: BrakingSection) -> float:
    """How long a section without a signal holds a train, s."""
    return section.seconds if section.seconds is not None else USUAL_HALT_SECONDS


def work(evening: Evening, train: Rolling) -> None:
    """The first mark ahead of a train has come: what an isolated rail works begins, or ends when the last train that
    bridges it is off."""
    mark = train.marks.pop(0)
    rail: IsolatedRail = evening.layout.isolated[mark.stretch]
    under = evening.bridged.setdefault(mark.stretch, {})
    if mark.on:
        under.setdefault(train.key, evening.t)
        if len(under) > 1:
            return
    else:
        since = under.pop(train.key, evening.t)
        if under:
            return
    begins: Literal["begins", "ends"] = "begins" if mark.on else "ends"
    after = "" if mark.on else f" after {evening.t - since:.0f} s"
    evening.log(
        "works",
        f"{rail.works} {begins}{after}: {train.stock.name} {'is on' if mark.on else 'has left'} {rail.name}.",
        train=train.key,
        place=(rail.track, rail.start),
    )


def turned_on(evening: Evening, train: Rolling) -> Iterator[Mark]:
    """Marks of a train that turned while it bridged isolated rails: it leaves them the way it came."""
    for key, under in evening.bridged.items():
        if train.key not in under:
            continue
        rail = evening.layout.isolated[key]
        for segment in train.segments:
            if segment.track == rail.track:
                yield Mark(_along(segment, rail.start, rail.end)[1] + train.stock.length, key, False)
                break
