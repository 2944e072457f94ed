"""One train of an evening: where it is, what it has and keeps, what it waits for."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Literal, NamedTuple

from jolly_copper.core.layout.plans import PlannedTrain
from jolly_copper.core.rehearsal.ground import Place, Segment
from jolly_copper.core.rehearsal.legs import Leg
from jolly_copper.core.rehearsal.motion import Phase, at_time
from jolly_copper.core.rehearsal.stock import Stock

if TYPE_CHECKING:
    from jolly_copper.core.rehearsal.itinerary import Itinerary
    from jolly_copper.core.rehearsal.stretches import Brake, Mark

State = Literal["running", "waiting", "standing", "dark", "parked", "done", "stopped"]
"""running: it moves, or is about to. waiting: for its way. standing: at a place for a while. dark: without power.
stopped: by a fault, until a person comes."""


class Slowed(NamedTuple):
    """The least that copper left of a speed: its share, when, s, on which track, V lost there, V with nothing drawn."""

    left: float
    t: float
    track: str
    lost: float
    most: float


@dataclass
class Rolling:
    """One train of the evening.

    segments: its way, from under its tail to where it may go. phases: its motion. stop: where its front comes to stand,
    mm along the way. tail, seen: numbers of the segments under its tail, and under the end of what detectors see.
    """

    key: str
    plan: PlannedTrain
    stock: Stock
    segments: list[Segment] = field(default_factory=list)
    phases: tuple[Phase, ...] = (Phase(0.0, 0.0, 0.0, 0.0),)
    stop: float = 0.0
    front: int = 0
    seen: int = 0
    tail: int = 0
    state: State = "standing"
    powered: bool = True
    most: float = 0.0
    version: int = 0
    ahead: list[Leg] = field(default_factory=list)
    call: int = 0
    rounds: int = 0
    promised: list[tuple[float, str, int]] = field(default_factory=list)
    """Heads it has a way by and has not passed: place along the way, signal, number of the way (−1 for none)."""
    speeds: list[tuple[float, float]] = field(default_factory=list)
    """Places along the way from which another speed holds, mm/s."""
    choices: list[Leg] = field(default_factory=list)
    since: float = 0.0
    blocked: int = 0
    blockers: tuple[str, ...] = ()
    waits_entry: int | None = None
    dark_entry: int | None = None
    delayed_by: tuple[float, int] | None = None
    """When something last kept it back that was not its way, and the log entry."""
    dark_since: float = 0.0
    before_dark: State = "standing"
    before_stop: State = "standing"
    wakes: float = 0.0
    body: int = 0
    kept: int = 0
    lit: int = 0
    arrivals: int = 0
    longest_wait: float = 0.0
    arriving: bool = False
    """It has its way to where it is going."""
    by_sight: int = 0
    """What the train it sees in its way covers, as bits."""
    going: bool = False
    """A person who drives it has it going."""
    turned_in_vain: int = 0
    late_rounds: int = 0
    most_late: float = 0.0
    options: list[tuple[str, ...]] = field(default_factory=list)
    """For each leg it would take, the trains that have some of it."""
    why: str = ""
    polite: bool = False
    """It waits for somebody who has waited longer, and for nothing else."""
    let_go: bool = False
    """Politeness would close a ring: it need not wait for who waits longer."""
    standing_no: int = 0
    """Of its itinerary, the standing it is at or going to."""
    itinerary: Itinerary | None = None
    least_volts: tuple[float, float, str, float] | None = None
    """Least volts it had: V, s, track, mm from the track's A end."""
    stood_dark: float = 0.0
    brakes: list[Brake] = field(default_factory=list)
    marks: list[Mark] = field(default_factory=list)
    """Isolated rails it will bridge, in the order it comes to them."""
    left: float = 1.0
    """Of the speed its driver set, what the copper leaves: below 1 on direct current alone."""
    slowest: Slowed | None = None

    def where(self, t: float) -> tuple[float, float]:
        """Place of its front along its way, mm, and its speed, mm/s."""
        return at_time(self.phases, t)

    def place(self, s: float) -> Place:
        """A place of its way on the track."""
        for segment in reversed(self.segments):
            if s >= segment.s - 1e-6:
                return segment.place(min(s, segment.end))
        return self.segments[0].place(self.segments[0].s)

    @property
    def end(self) -> float:
        """Where what it may take ends, mm along its way."""
        return self.segments[-1].end

    @property
    def limit_place(self) -> Place:
        """Where its next leg begins."""
        last = self.segments[-1]
        return last.place(last.end)
