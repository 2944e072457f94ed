"""What the API answers, as typed shapes; the front end's types are generated from these."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel

from jolly_copper.core.layout.document import Layout


class Drawn(BaseModel):
    """A path to draw: x, y pairs in mm, the distance of each point from the start, and the length that counts."""

    points: list[float]
    distance: list[float]
    length: float
    length_text: str
    radius_text: str | None = None
    tight: bool = False
    """Its tightest curve, and whether that is under what the scale or the house rule wants."""


class Samples(BaseModel):
    """Sample points of one track in order: mm from A, worst volts, share of source volts lost, short amps, over trip.

    low, weak: beyond the house rule for drop, under the house rule for the coin test.
    """

    at: list[float]
    volts: list[float | None]
    lost: list[float | None]
    coin: list[float | None]
    ratio: list[float | None]
    low: list[bool]
    weak: list[bool]


class FeederDrawn(BaseModel):
    x1: float
    y1: float
    x2: float
    y2: float
    length_text: str


class NodeDrawn(BaseModel):
    """A node to draw: its kind and place, how a turnout lies, the ways it can, and per port the direction its track
    leaves in (degrees)."""

    kind: str
    x: float
    y: float
    lies: str
    ways: list[str]
    """The ways it can be set; none where it is no turnout."""
    leaves: dict[str, float]
    frogs: list[str] = []
    """What its frog can be said to be; none where it has no frog."""
    turned: bool = False
    """Whether something must turn its frog's polarity."""


class GapDrawn(BaseModel):
    x: float
    y: float
    degrees: float
    rails: str


class XY(BaseModel):
    """A place on the plan, mm."""

    x: float
    y: float


class Figure(BaseModel):
    """A number of a finding, printed, with what it is."""

    name: str
    value: str


class Spot(BaseModel):
    """A marked point."""

    track: str
    at: float
    x: float
    y: float
    value: float
    text: str
    note: str


class PlaceShape(BaseModel):
    kind: str
    id: str
    track: str | None
    at: float | None


class MendShape(BaseModel):
    label: str
    patch: list[dict[str, Any]]


class RailShape(BaseModel):
    """One rail of a stretch of track, mm from its A end."""

    track: str
    start: float
    end: float
    side: str


class FindingShape(BaseModel):
    key: str
    rule: str
    steps: list[str]
    """Steps of the work, besides Wire, where it is settled."""
    severity: Literal["must", "should", "look"]
    title: str
    why: str
    mend: str
    place: PlaceShape
    figures: list[Figure]
    shows: list[str]
    rails: list[RailShape]
    mends: list[MendShape]
    source: str
    accepted: str | None


class WireLoad(BaseModel):
    """Worst current of a run or feeder: in the scene, and in a short that just does not trip. Amperes."""

    scene_text: str
    held_text: str
    held: float
    share: float
    """Held amps over what the gauge may carry."""


class Answers(BaseModel):
    """Everything the plan shows of one revision in one scene."""

    revision: int
    scene: str | None
    tracks: dict[str, Drawn]
    runs: dict[str, Drawn]
    terminals: dict[str, XY]
    plugs: dict[str, XY]
    feeders: dict[str, FeederDrawn]
    gaps: dict[str, GapDrawn]
    nodes: dict[str, NodeDrawn]
    samples: dict[str, Samples]
    worst: Spot | None
    weakest: Spot | None
    source_volts: float | None
    loads: dict[str, WireLoad]
    """By `run:id` and `feeder:id`."""
    copper: dict[str, float]
    """mm² of each run's conductors."""
    rail_gauge: float
    """mm between the rails."""
    least_radius: float
    """mm, the tightest curve the layout allows itself."""
    track_metres: float
    track_text: str


class StepShape(BaseModel):
    kind: str
    title: str
    detail: str
    volts: float
    text: str
    estimate: bool
    owners: list[str]


class TrainShape(BaseModel):
    name: str
    amps_text: str
    where: str
    x: float
    y: float


class PointShape(BaseModel):
    """One point explained: see `core.circuits.staircase.PointAnswer`. Texts are printed with units."""

    track: str
    track_name: str
    at: float
    at_text: str
    x: float
    y: float
    section: str | None
    circuit: str | None
    circuit_name: str | None
    live: bool
    volts: float
    volts_text: str
    least_text: str
    """With the high end of the inductive estimate."""
    exact_text: str
    lost_text: str
    source_text: str
    source_volts: float
    loop_text: str
    coin_text: str
    coin_exact_text: str
    coin_mean_text: str | None
    """As a breaker that reads the mean would see it, where that differs."""
    coin_peak_text: str | None
    limit_text: str | None
    """What bounds it at the source: a limit somebody wrote down, or a guess."""
    trip_text: str | None
    trips: bool | None
    ratio: float | None
    trip_device: str | None
    opens_text: str | None
    """What opens first on a short here, and what goes dark with it."""
    trains: list[TrainShape]
    steps: list[StepShape]


class WhatIfShape(BaseModel):
    label: str
    reason: str
    patch: list[dict[str, Any]]
    before_text: str
    after_text: str
    lowest_before_text: str
    lowest_after_text: str
    coin_before_text: str
    coin_after_text: str
    coin_gain: float


class WireShape(BaseModel):
    kind: Literal["run", "feeder", "control"]
    id: str
    thing: Literal["run", "feeder", "signal", "node", "detector", "driver"]
    """What the plan shows for it."""
    label: str
    circuit: str
    circuit_name: str
    colours: list[str]
    gauge: str
    strands: str
    start: str
    end: str
    measured_text: str
    by_tape: bool
    cut_text: str
    connectors: str
    held_text: str
    measured: float
    cut: float
    held: float
    mm2: float
    """Beside the printed texts: mm, mm, A and mm², to sort by."""


class TotalShape(BaseModel):
    gauge: str
    strands: str
    colour: str
    length_text: str
    spools: int
    spool_text: str


class WireTable(BaseModel):
    rows: list[WireShape]
    totals: list[TotalShape]


class Head(BaseModel):
    """Which revision of a layout this is, and what can be done from it."""

    id: str
    revision: int
    summary: str
    made: str
    can_undo: str | None
    can_redo: str | None
    mended: str | None = None
    """What was damaged or too large in the club file, and what stands instead."""
    who: str = ""
    """Whose change it was; empty where nobody said."""


class State(Head):
    """A layout at a revision."""

    document: Layout


class MapDiffers(BaseModel):
    """Things that went from a map of a document, and those that are new or other."""

    gone: list[str]
    put: dict[str, Any]


class Differs(Head):
    """A layout at a revision, for somebody who has an older one: what turns that document into this."""

    since: int
    fields: dict[str, Any]
    maps: dict[str, MapDiffers]


class Made(BaseModel):
    """The thing an act of drawing made."""

    kind: str
    id: str


class Changed(BaseModel):
    """What a change answers: the new state, its answers in the scene asked for, and what an act made or has to say."""

    state: State | Differs
    answers: Answers
    made: Made | None = None
    note: str | None = None


class PreviewShape(BaseModel):
    """A change not made: lowest volts and weakest coin test before and after, findings gone and new."""

    lowest_before: str
    lowest_after: str
    coin_before: str
    coin_after: str
    gone: list[str]
    new: list[str]


class ProblemShape(BaseModel):
    path: str
    sentence: str


class Trouble(BaseModel):
    """An error in plain words, with the places it is about."""

    message: str
    problems: list[ProblemShape] = []
    current: State | None = None
