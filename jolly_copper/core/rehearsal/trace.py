"""What a rehearsal tells as it goes: motions, stretches lit, heads, turnouts, samples, and a log with reasons."""

from __future__ import annotations

from typing import Literal, NamedTuple

from jolly_copper.core.rehearsal.motion import Phase

Kind = Literal[
    "leaves",
    "arrives",
    "late",
    "waits",
    "unseen train",
    "run through",
    "reversing unit",
    "brakes",
    "works",
    "by hand",
    "not done",
    "turned over",
    "in vain",
    "opens",
    "closes",
    "restart loop",
    "short not seen",
    "dark",
    "power back",
    "low volts",
    "knot",
    "blocked for good",
    "fault",
    "mended",
    "ends",
]


class Entry(NamedTuple):
    """One line of the log. n: its number; cause: number of the entry it follows from; track, at: where, mm from the
    track's A end."""

    n: int
    t: float
    kind: Kind
    words: str
    train: str | None = None
    device: str | None = None
    head: str | None = None
    node: str | None = None
    track: str | None = None
    at: float | None = None
    cause: int | None = None
    others: tuple[str, ...] = ()
    """Trains it waits for, or that stand in one knot with it."""


class WaySpan(NamedTuple):
    """A stretch of one track a train is sent over: from `start` to `finish`, mm from its A end, with the place of its
    beginning along the train's way, mm."""

    track: str
    start: float
    finish: float
    s: float


class Way(NamedTuple):
    """The way of a train from now on; `s` of its spans is what its motion counts in. fresh: it replaces all that was
    known (the train turned)."""

    t: float
    train: str
    spans: tuple[WaySpan, ...]
    fresh: bool


class Motion(NamedTuple):
    """How a train moves from `t` on, until another line says otherwise."""

    t: float
    train: str
    phases: tuple[Phase, ...]


class Lit(NamedTuple):
    """A stretch between gaps whose detector begins or ceases to see something."""

    t: float
    extent: int
    on: bool


class Head(NamedTuple):
    """A head shows something else."""

    t: float
    signal: str
    aspect: str


class Thrown(NamedTuple):
    """A turnout lies otherwise."""

    t: float
    node: str
    lies: str


class Switched(NamedTuple):
    """A device opens or closes, or turns over."""

    t: float
    device: str
    state: Literal["open", "closed", "turned", "straight"]


class Sample(NamedTuple):
    """Amps of every watched device and volts at every train, in the order of `Opening`; None without power."""

    t: float
    amps: tuple[float, ...]
    volts: tuple[float | None, ...]


class Opening(NamedTuple):
    """The first line: what is watched, in which order, and for how long."""

    seconds: float
    devices: tuple[str, ...]
    trains: tuple[str, ...]
    assumed: tuple[str, ...]
    lit: tuple[int, ...]
    heads: dict[str, str]
    lies: dict[str, str]


Line = Opening | Entry | Way | Motion | Lit | Head | Thrown | Switched | Sample
