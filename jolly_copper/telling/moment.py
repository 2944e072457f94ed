"""What is told of one moment: trains on the plan, what they light, what every head shows and why."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Literal

from fastapi import HTTPException
from pydantic import BaseModel, Field

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.signals.aspects import Signalling, lies_of
from jolly_copper.core.signals.heads import MEANS
from jolly_copper.core.signals.occupancy import Standing, occupied
from jolly_copper.core.signals.promises import Promise, kept_of, renewed
from jolly_copper.core.signals.routes import Leg


class PlacedTrain(BaseModel):
    """A train put on the plan for a look: its front, and the end of the track it faces. Not saved with the layout."""

    name: Annotated[str, Field(max_length=80)] = "Test engine"
    train: Annotated[str, Field(max_length=40)] | None = None
    track: Annotated[str, Field(max_length=40)]
    at: Annotated[float, Field(ge=0, le=1e7, allow_inf_nan=False)]
    towards: Literal["a", "b"] = "b"


class LegShape(BaseModel):
    track: str
    start: float
    end: float


class ShownShape(BaseModel):
    """What a signal shows just now, and why."""

    aspect: str
    lights: list[str]
    means: str
    reasons: list[str]
    dark: bool
    legs: list[LegShape]


class PromiseShape(BaseModel):
    """A way given to a train on the plan, which keeps it until its tail has left. Sent back with the next question."""

    train: Annotated[str, Field(max_length=80)]
    signal: Annotated[str, Field(max_length=40)]
    way: Annotated[int, Field(ge=0, le=200)]
    entered: bool = False


class MomentShape(BaseModel):
    """The railroad at one moment: where trains stand, what they light, what every head shows."""

    revision: int
    trains: list[PlacedTrain]
    stands: list[list[LegShape]]
    lit: list[int]
    unseen: list[int]
    shows: dict[str, ShownShape]
    promised: list[PromiseShape]
    stopped: str | None
    """Why the train that was driven stopped, in words; None where it came all the way."""


def _legs(legs: Sequence[Leg]) -> list[LegShape]:
    return [LegShape(track=leg.track, start=round(leg.low, 1), end=round(leg.high, 1)) for leg in legs]


def standing(layout: Layout, known: Signalling, trains: Sequence[PlacedTrain]) -> list[Standing]:
    found = []
    for t in trains:
        if t.track not in layout.tracks:
            raise HTTPException(422, f"There is no track {t.track} to stand {t.name} on.")
        if t.train is not None and t.train not in layout.trains:
            raise HTTPException(422, f"There is no train {t.train}.")
        found.append(Standing(t.name, t.train, t.track, min(t.at, known.rails.lengths[t.track]), t.towards))
    return found


def promised_of(promises: Sequence[PromiseShape]) -> list[Promise]:
    return [Promise(p.train, p.signal, p.way, p.entered) for p in promises]


def moment_told(
    layout: Layout,
    known: Signalling,
    revision: int,
    trains: list[PlacedTrain],
    stopped: str | None = None,
    before: Sequence[Promise] = (),
) -> MomentShape:
    """The railroad at one moment. before: what was promised to trains until now."""
    lies = lies_of(layout)
    stands = standing(layout, known, trains)
    where = occupied(layout, known.rails, known.ways, known.sensed, stands, lies)
    legs = {t.name: x for t, x in zip(stands, where.legs, strict=True)}
    promises = renewed(known, stands, legs, lies, where.lit, before)
    shown = known.show(lies, where.lit, kept=kept_of(known, promises, legs))
    return MomentShape(
        revision=revision,
        trains=trains,
        stands=[_legs(legs) for legs in where.legs],
        lit=sorted(where.lit),
        unseen=sorted(where.unseen),
        stopped=stopped,
        promised=[PromiseShape(train=p.train, signal=p.signal, way=p.way, entered=p.entered) for p in promises],
        shows={
            i: ShownShape(
                aspect=s.aspect,
                lights=["dark"] * len(s.lights) if s.dark else list(s.lights),
                means=MEANS[s.aspect],
                reasons=list(s.reasons),
                dark=s.dark,
                legs=_legs(s.route.legs) if s.route else [],
            )
            for i, s in shown.items()
        },
    )
