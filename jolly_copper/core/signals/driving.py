"""Driving trains that stand on the plan: round the other way, on as the turnouts lie, and no farther than a signal at
stop."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Literal

from jolly_copper.core.signals.aspects import Signalling
from jolly_copper.core.signals.occupancy import Standing, occupied, train_length
from jolly_copper.core.signals.promises import Promise, kept_of
from jolly_copper.core.signals.routes import drive


def turned(known: Signalling, train: Standing, lies: Mapping[str, str]) -> Standing:
    """A train that faces the other way where it stands: its rear is its front."""
    back: Literal["a", "b"] = "a" if train.towards == "b" else "b"
    rear = drive(known.layout, known.ways, train.track, train.at, back, train_length(known.layout, train), lies)
    return replace(train, track=rear.track, at=rear.at, towards=rear.towards)


def driven(
    known: Signalling,
    trains: Sequence[Standing],
    which: int,
    distance: float,
    lies: Mapping[str, str],
    obeys: bool,
    promises: Sequence[Promise] = (),
) -> tuple[Standing, str | None]:
    """A train driven on.

    Args:
        known: the signals.
        trains: all that stand on the plan, with what they light.
        which: number of the one that is driven.
        distance: mm.
        lies: how the turnouts lie.
        obeys: it does not pass a signal at stop.
        promises: ways given to trains before.

    Returns:
        Where it stands then, and why it stopped early, in words; None where it came all the way.
    """
    layout, train = known.layout, trains[which]
    stops: dict[tuple[str, str], list[tuple[float, str]]] = defaultdict(list)
    if obeys:
        where = occupied(layout, known.rails, known.ways, known.sensed, trains, lies)
        legs = {t.name: x for t, x in zip(trains, where.legs, strict=True)}
        for i, shown in known.show(lies, where.lit, kept=kept_of(known, promises, legs)).items():
            if shown.aspect == "stop":
                signal = layout.signals[i]
                stops[signal.track, signal.towards].append((signal.at, i))
        for (_, towards), marks in stops.items():
            marks.sort(reverse=towards == "a")  # the one it comes to first, first
    came = drive(layout, known.ways, train.track, train.at, train.towards, distance, lies, stops)
    then = replace(train, track=came.track, at=came.at, towards=came.towards)
    if came.stopped in layout.signals:
        return then, f"{layout.signals[came.stopped].name} shows stop."
    return then, f"Stopped: {came.stopped}." if came.stopped else None
