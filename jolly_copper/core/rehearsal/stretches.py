"""Stretches that act on trains, or that trains act on: braking sections, and isolated rails of three-rail track."""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple

from jolly_copper.core.circuits.stopping import SCALE_OF
from jolly_copper.core.layout.stretches import BrakingSection, Stretch
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


def _spans(segment: Segment, stretch: Stretch) -> tuple[float, float] | None:
    """Where a stretch begins and ends for who runs over a segment, mm along the way; None where it is not on its
    track."""
    if stretch.track != segment.track:
        return None
    first, last = sorted((segment.along(stretch.start), segment.along(stretch.end)))
    return first, last


def _ahead(segment: Segment, stretch: Stretch) -> tuple[float, float] | None:
    """The same; None where the segment does not come to its beginning."""
    on = _spans(segment, stretch)
    return on if on is not None and segment.s - 0.5 <= on[0] <= segment.end + 0.5 else None


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
            on = _ahead(segment, section) if section.towards == segment.towards else None
            if on is not None:
                _brakes(evening, train, i, section, on[0], v)
        for i, rail in evening.layout.isolated.items():
            on = _ahead(segment, rail)
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


def standing_in(train: Rolling) -> Brake | None:
    """The braking section a train stands in."""
    s = train.phases[-1].s
    return next((b for b in train.brakes if abs(b.at - s) < 1), None)


def begin_on(evening: Evening, train: Rolling) -> None:
    """A train was put on the track, or turned where it stands: what its wheels bridge there they work, until it leaves
    the way it faces now."""
    train.brakes, train.marks = [], []
    for key, rail in evening.layout.isolated.items():
        under = [on for x in train.segments if (on := _spans(x, rail)) is not None]
        if under and under[0][0] < train.end and under[0][1] > train.end - train.stock.length:
            _on(evening, train, key)
            train.marks.append(Mark(under[0][1] + train.stock.length, key, False))
    train.marks.sort()


def work(evening: Evening, train: Rolling) -> None:
    """The first mark ahead of a train has come: its wheels begin to bridge an isolated rail, or cease to."""
    mark = train.marks.pop(0)
    if mark.on:
        _on(evening, train, mark.stretch)
        return
    since, under = evening.bridged[mark.stretch]
    under.discard(train.key)
    if not under:
        del evening.bridged[mark.stretch]
        _tell(evening, train, mark.stretch, f"ends after {evening.t - since:.0f} s", "has left")


def _on(evening: Evening, train: Rolling, key: str) -> None:
    if key in evening.bridged:
        evening.bridged[key][1].add(train.key)
        return
    evening.bridged[key] = (evening.t, {train.key})
    _tell(evening, train, key, "begins", "is on")


def _tell(evening: Evening, train: Rolling, key: str, what: str, how: str) -> None:
    rail = evening.layout.isolated[key]
    words = f"{rail.works} {what}: {train.stock.name} {how} {rail.name}."
    evening.log("works", words, train=train.key, place=(rail.track, rail.start))
