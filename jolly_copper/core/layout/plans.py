"""Plans of a running evening: which trains run, from where, how, and what goes wrong on purpose.

Tracks, turnouts and devices that a plan names may be gone: a change of the railroad leaves its plans alone, and what
does not fit any more is told when one is rehearsed.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from jolly_copper.core.layout.fields import Id, Millimetres, Model, Name, Number
from jolly_copper.core.layout.stock import TrackUse

Seconds = Annotated[Number, Field(ge=0, le=43200)]
MOST_CALLS, MOST_FAULTS, MOST_MOVES = 60, 60, 400
SingleLines = Literal["signals alone", "direction", "safe moves"]
"""Who may go on where trains could come face to face: whoever finds the signal clear; trains one way alone; or only who
leaves everybody a way on."""
RunsBy = Literal["free", "calls", "hand", "parked"]
"""A train that goes where signals let it, one that goes from place to place, one a person drives, and one that
stands."""


class Call(Model):
    """A place a train runs to: its front at `at` mm from the track's A end. then: it goes on, or turns where it
    stands, its rear the front."""

    track: Id
    at: Millimetres
    facing: Literal["a", "b"] | None = Field(default=None, description="The end it faces there, where that matters.")
    via: Annotated[list[Id], Field(max_length=12)] = Field(default=[], description="Tracks it goes over, in order.")
    dwell: Seconds = Field(default=20, description="How long it stands there at least, s.")
    leaves: Seconds | None = Field(
        default=None, description="It leaves no sooner than so many seconds into the round; when it likes if not given."
    )
    then: Literal["on", "turn"] = "on"


class PlannedTrain(Model):
    """One train of a plan: where its front stands at first, which end it faces, and how it runs."""

    train: Id
    track: Id
    at: Millimetres
    towards: Literal["a", "b"] = "b"
    by: RunsBy = "free"
    leaves: Seconds = Field(default=0, description="It leaves its first place no sooner than so many seconds on.")
    calls: Annotated[list[Call], Field(max_length=MOST_CALLS)] = []
    cab: Id | None = Field(
        default=None, description="The source that drives it, on DC; what feeds its first place when not given."
    )
    circuits: Annotated[list[Id], Field(max_length=60)] = Field(
        default=[], description="Where a free train stays: track of these circuits and of what hangs below them."
    )
    uses: Annotated[list[TrackUse], Field(max_length=12)] = Field(
        default=[], description="Where a free train stays: track of these uses."
    )


FaultKind = Literal[
    "derailment",
    "tool on the rail",
    "turnout dumb",
    "dead joiner",
    "device off",
    "device set",
    "train longer",
    "wheels not insulated",
    "stuck contact",
]


class Fault(Model):
    """Something that goes wrong at a moment of the evening, until a person has mended it.

    Which of the other fields count goes by its kind: a derailment, a longer train or wheels without insulation have a
    train; a tool, a dead joiner and a stuck contact a track and a place; a dumb turnout a node; a device that is off,
    or set otherwise, a device.
    """

    kind: FaultKind
    seconds: Seconds = Field(description="When it happens, s from the start.")
    lasts: Seconds | None = Field(
        default=None, description="How long until it is mended, s; as long as the plan says when not given."
    )
    train: Id | None = None
    track: Id | None = None
    at: Millimetres | None = None
    node: Id | None = None
    device: Id | None = None
    amps: Annotated[Number, Field(gt=0, le=100)] | None = Field(default=None, description="What a device is set to, A.")
    acts_after: Annotated[Number, Field(gt=0, le=60)] | None = Field(
        default=None, description="How long a device takes to act, s."
    )
    longer: Millimetres | None = Field(default=None, description="How much longer the train is, mm.")


MoveKind = Literal["go", "stop", "turn", "throw", "power off", "power on"]


class Move(Model):
    """Something a person does at a moment of the evening: drives a train that runs by hand, throws a turnout, or
    switches the power of a breaker or source."""

    does: MoveKind
    seconds: Seconds = Field(description="When, s from the start.")
    train: Id | None = None
    node: Id | None = None
    lies: str | None = Field(default=None, max_length=40, description="How a turnout is thrown to lie.")
    device: Id | None = None


class RunningPlan(Model):
    """An evening to rehearse."""

    name: Name
    minutes: Annotated[Number, Field(ge=1, le=720)] = 180
    round: Annotated[Number, Field(ge=30, le=43200)] | None = Field(
        default=None, description="Calls begin again every so many seconds; once through when not given."
    )
    single_lines: SingleLines = "signals alone"
    person_after: Seconds = Field(default=60, description="How long until a person comes to what has stopped, s.")
    scene: Id | None = Field(default=None, description="The scene whose selectors and bridges hold.")
    seed: Annotated[int, Field(ge=0, le=1_000_000)] = 1
    trains: Annotated[dict[Id, PlannedTrain], Field(max_length=40)] = {}
    faults: Annotated[list[Fault], Field(max_length=MOST_FAULTS)] = []
    moves: Annotated[list[Move], Field(max_length=MOST_MOVES)] = []
