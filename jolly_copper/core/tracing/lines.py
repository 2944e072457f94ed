"""What tracing answers: lines with where they leave each other, crossings, lines left out, places in doubt."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from jolly_copper.core.tracing.fitting import Corner
from jolly_copper.core.tracing.inks import Ink
from jolly_copper.core.tracing.turnouts import line_of


class NotTraced(ValueError):
    """A picture that cannot be traced, in a sentence."""


@dataclass(frozen=True)
class Settings:
    """gauge: of the track in the picture, px. inks: the ones chosen, by number; None for what looks like track.
    shortest: length of the shortest line kept, px; None for a usual one. area: only what is inside (x0, y0, x1, y1),
    px. left_out: boxes that are not looked at. drawn: one line, or told by itself from two rails."""

    gauge: float
    inks: tuple[int, ...] | None = None
    shortest: float | None = None
    area: tuple[float, float, float, float] | None = None
    left_out: tuple[tuple[float, float, float, float], ...] = ()
    drawn: Literal["by itself", "one line"] = "by itself"


@dataclass(frozen=True)
class Lead:
    """Where a line leaves another: the line it leaves by number, how far along it, and whether it goes its way."""

    host: int
    along: float
    ahead: bool


@dataclass(frozen=True)
class Line:
    """A traced line, px. why: it is left out, in a few words; empty where it is proposed. starts, ends: the lines it
    leaves there. ink: the one it was drawn in, by its place in the list."""

    number: int
    corners: tuple[Corner, ...]
    closed: bool
    starts: Lead | None
    ends: Lead | None
    why: str = ""
    ink: int = 0

    @property
    def length(self) -> float:
        return line_of(list(self.corners)).length


@dataclass(frozen=True)
class Crossing:
    """Two lines that cross, each by number with how far along. flat: at so small an angle that it may be a slip. kind:
    what it is laid as."""

    one: int
    one_at: float
    other: int
    other_at: float
    x: float
    y: float
    flat: bool
    kind: Literal["crossing", "slip"] = "crossing"


@dataclass(frozen=True)
class Stub:
    """An end of a line that leads to a turntable: the line by number, and whether it is its first end."""

    line: int
    first: bool


@dataclass(frozen=True)
class Table:
    """A turntable: its middle and radius, px, and what leads to it."""

    x: float
    y: float
    radius: float
    stubs: tuple[Stub, ...]


DoubtKind = Literal["loose end near a line", "flat crossing", "turntable"]


@dataclass(frozen=True)
class Doubt:
    """A place to look at."""

    kind: DoubtKind
    x: float
    y: float


@dataclass(frozen=True)
class Traced:
    """What was found. width: of a stroke, px. turned: light lines on dark paper. two_rails: it is drawn with
    both rails. sleepers, roadbed: and with sleepers, or over a filled
    roadbed, which trace less well."""

    lines: tuple[Line, ...]
    crossings: tuple[Crossing, ...]
    doubts: tuple[Doubt, ...]
    inks: tuple[Ink, ...]
    chosen: tuple[int, ...]
    width: float
    turned: bool
    two_rails: bool = False
    tables: tuple[Table, ...] = ()
    sleepers: bool = False
    roadbed: bool = False
