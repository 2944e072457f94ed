"""The state of a rehearsal at one moment: where trains are, what they keep, how everything stands, what is told."""

from __future__ import annotations

import heapq
import random
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.giving import starts
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.plans import RunningPlan
from jolly_copper.core.rails.nets import map_nets
from jolly_copper.core.rehearsal.amps import Copper, StandingLoads
from jolly_copper.core.rehearsal.ground import Ground, Place, Segment
from jolly_copper.core.rehearsal.heads import Heads
from jolly_copper.core.rehearsal.legs import head_at
from jolly_copper.core.rehearsal.metal import Metal, Standing, Tie
from jolly_copper.core.rehearsal.rolling import Rolling
from jolly_copper.core.rehearsal.stock import Stock
from jolly_copper.core.rehearsal.trace import Entry, Kind, Line
from jolly_copper.core.signals.aspects import lies_of, signalling_of

if TYPE_CHECKING:
    from jolly_copper.core.rehearsal.hands import Act
    from jolly_copper.core.rehearsal.lines import Lines
    from jolly_copper.core.rehearsal.safe import Safe

TOOL_OHMS = 0.05
"""Of a screw or a derailed wheel across the rails. Certainty C."""
MOST_AT_ONCE = 4000
"""Events in one instant before time is said to stand still."""


class StandsStill(Exception):
    """Two things undo each other in one instant for ever."""


@dataclass
class Evening:
    """A whole evening in the making."""

    layout: Layout
    facts: Facts
    plan: RunningPlan
    ground: Ground
    heads: Heads
    metal: Metal
    copper: Copper
    rng: random.Random
    trains: dict[str, Rolling] = field(default_factory=dict)
    t: float = 0.0
    heap: list[tuple[float, int, str, str, int]] = field(default_factory=list)
    number: int = 0
    told: list[Line] = field(default_factory=list)
    entries: list[Entry] = field(default_factory=list)
    shown: list[int] = field(default_factory=list)
    lit: int = 0
    stuck_lit: int = 0
    """Pieces whose detector tells of a train that is not there, as bits."""
    stuck_lit_extents: int = 0
    dumb: dict[str, int] = field(default_factory=dict)
    """Turnouts that do not answer, with the entry of the fault."""
    clocks: dict[str, tuple[float, int | None]] = field(default_factory=dict)
    """Devices that carry too much: when they act, and the entry it follows from."""
    opened: dict[str, tuple[float, int]] = field(default_factory=dict)
    """Devices that are open: since when, and the entry."""
    filled: dict[str, float] = field(default_factory=dict)
    """For devices that tried to close: the share by which the engines behind are filled."""
    tries: dict[str, int] = field(default_factory=dict)
    flips: dict[str, list[float]] = field(default_factory=dict)
    trips: dict[str, int] = field(default_factory=dict)
    off_by_hand: set[str] = field(default_factory=set)
    set_amps: dict[str, float] = field(default_factory=dict)
    tools: dict[int, tuple[str, float]] = field(default_factory=dict)
    """Faults that lie across both rails: track and mm, by number of the fault."""
    fault_entry: dict[int, int] = field(default_factory=dict)
    now_amps: dict[str, tuple[float, float, str]] = field(default_factory=dict)
    most_amps: dict[str, tuple[float, float, str]] = field(default_factory=dict)
    """Most amps of a device: A, s, and who drew them."""
    unset: dict[tuple[str, str], int] = field(default_factory=dict)
    """Legs no signal gives a way for: signal and track led to, with how often."""
    seen_knots: dict[frozenset[str], int] = field(default_factory=dict)
    unseen_pairs: dict[tuple[str, int], int] = field(default_factory=dict)
    in_sight: float = 0.0
    """When a train was last seen moving on track the public sees."""
    out_of_sight: tuple[float, float] = (0.0, 0.0)
    """The longest time without one: s, and when it ended."""

    set_seconds: dict[str, float] = field(default_factory=dict)
    overloaded: set[str] = field(default_factory=set)
    """Devices whose trains draw more than they let through for long."""
    shorts: list[tuple[str, str, float, float]] = field(default_factory=list)
    """Shorts that last just now: who makes them, track, mm, A."""
    told_shorts: set[tuple[str, str]] = field(default_factory=set)
    dim: set[str] = field(default_factory=set)
    """Circuits under a short that nothing opens on."""
    chatter: dict[str, int] = field(default_factory=dict)
    first_open: dict[str, float] = field(default_factory=dict)
    helped: set[str] = field(default_factory=set)
    """Devices whose trains a person brings back one by one at the next try."""
    acts: dict[int, tuple[Act, Callable[[str | None], None]]] = field(default_factory=dict)
    """What a person does while it runs, by number, with who is told how it went."""
    thrown: dict[str, str | None] = field(default_factory=dict)
    """Selectors that drivers have thrown, with the circuit each gives its track to."""
    braked: set[tuple[str, str]] = field(default_factory=set)
    """Braking sections that were told to be too short, and for which train."""
    bridged: dict[str, tuple[float, set[str]]] = field(default_factory=dict)
    """Isolated rails that wheels bridge: since when, and whose."""
    cabs: dict[str, str | None] = field(default_factory=dict)
    """For each train the DC source that drives it, as far as asked."""
    watched: tuple[str, ...] = ()
    last_sample: tuple[tuple[float, ...], tuple[float | None, ...]] = ((), ())
    stood: tuple[tuple[float, bool] | None, ...] = ()
    least_allowed: dict[str, float] = field(default_factory=dict)
    told_low: set[str] = field(default_factory=set)
    standing_loads: dict[str, StandingLoads] = field(default_factory=dict)
    """Loads of trains that stand, as last worked out."""
    loose_wheels: dict[int, str] = field(default_factory=dict)
    """Trains with a wheelset that joins both rails, by number of the fault."""
    derailed: dict[int, str] = field(default_factory=dict)
    """Trains that lie beside the rails, by number of the fault."""
    mended: set[int] = field(default_factory=set)
    cut_facts: bool = False
    """Some joiner carries nothing: volts come from the network without it."""
    every: float = 1.0
    """Seconds between samples."""
    hot: dict[tuple[int, str, int, str], bool] = field(default_factory=dict)
    """Joints over which a wheel would join what differs just now, as far as asked."""
    at_once: int = 0
    """Lines that may wait to be told together."""
    judge: bool = False
    """The metal is to be judged once all that is due in this instant is done."""
    quiet: bool = False
    """Nobody looks: heads are asked only where a train needs to know."""
    stale_heads: bool = False
    waits_changed: bool = False
    channels: tuple[int, ...] = ()
    """For each detector channel the stretches that light with it, as bits."""
    lines: Lines | None = None
    safe: Safe | None = None
    _dead: int | None = None
    _edges: dict[str, list[float]] = field(default_factory=dict)

    @property
    def ends(self) -> float:
        return self.plan.minutes * 60.0

    def edges_of(self, stock: Stock) -> list[float]:
        """Where wheels of a train begin and cease to touch a joint, mm behind its front, sorted."""
        if stock.id not in self._edges:
            self._edges[stock.id] = sorted({x for pair in stock.touches for x in pair})
        return self._edges[stock.id]

    def tool_tie(self, number: int) -> Tie | None:
        """What a fault joins: both rails at its place."""
        return self.across_tie(self.tools[number], f"fault {number}")

    def across_tie(self, place: tuple[str, float], who: str) -> Tie | None:
        """Both rails joined at a place; None where they are one metal already."""
        track, at = place
        piece = self.facts.rails.piece_at(track, at)
        left, right = self.metal.group(piece, "left"), self.metal.group(piece, "right")
        return None if left == right else Tie(left, right, track, at, None, who, TOOL_OHMS)

    def cause_of(self, who: str) -> int | None:
        """The log entry of the fault that makes a short; None where a train's own wheels do."""
        if who.startswith("fault "):
            return self.fault_entry.get(int(who.removeprefix("fault ")))
        return None

    def circuits_under(self, train: Rolling) -> list[str]:
        """The circuits that feed the rails under a train's engines just now."""
        found: dict[str, None] = {}
        s, _ = train.where(self.t)
        for engine in train.stock.engines:
            piece = self.ground.pieces[self.segment_at(train, s - engine.middle).piece]
            across = self.metal.across(piece)
            if across is None or across[1].size <= 1.0 or across[0][0] in self.dim:
                continue
            if (
                self.cut_facts
                and self.copper.spot(*self.segment_at(train, s - engine.middle).place(s - engine.middle)[:2]) is None
            ):
                continue  # a dead joiner parts it from its feeder
            found[across[0][0]] = None
        return list(found)

    def segment_at(self, train: Rolling, s: float) -> Segment:
        """The segment of a train's way at a place."""
        for n in range(min(train.front, len(train.segments) - 1), -1, -1):
            if train.segments[n].s <= s + 1e-6:
                return train.segments[n]
        return train.segments[0]

    @property
    def dead(self) -> int:
        """Pieces of rail with no volts across them just now, as bits."""
        if self._dead is None:
            live = [self.metal.across(p) for p in self.ground.pieces]
            self._dead = sum(1 << n for n, x in enumerate(live) if x is None or x[1].size <= 1.0)
        return self._dead

    def has_power(self, train: Rolling) -> bool:
        """Whether one of a train's engines stands on live rails."""
        if not self.cut_facts and not self.dim and not train.body & self.dead:
            return True
        return bool(self.circuits_under(train))

    def meant_for(self, train: Rolling) -> str | None:
        """The circuit meant to feed where a train's front stands."""
        return self.facts.meant[self.ground.extent[train.segments[train.front].piece]]

    def devices_over(self, train: Rolling) -> tuple[str, ...]:
        """Devices over the track where a train's front stands, nearest first."""
        circuit = self.meant_for(train)
        return () if circuit is None else self.metal.upstream(circuit)

    def open_over(self, train: Rolling) -> int | None:
        """The entry of the open device that a train is dark for."""
        return next((self.opened[d][1] for d in self.devices_over(train) if d in self.opened), None)

    def starts_with(self, source: str) -> float:
        """The most a source lets through while engines fill, A."""
        known = starts(self.layout, source)
        return known if known is not None else self.copper.limit(source)

    def overload_words(self, device_id: str) -> str:
        """Why a device opens on its own trains' running: who draws how much."""
        name = self.layout.devices[device_id].name
        amps, _, who = self.now_amps.get(device_id, (0.0, 0.0, ""))
        return f"{name} opens: its trains draw {amps:.2f} A ({who})."

    def late(self, train: Rolling, by: float) -> None:
        """A train cannot leave when its plan says."""
        train.late_rounds += 1
        train.most_late = max(train.most_late, by)
        if train.late_rounds == 1:
            self.log(
                "late",
                f"{train.stock.name} leaves {by:.0f} s late in round {train.rounds + 1}.",
                train=train.key,
                place=self.front_of(train)[:2],
            )

    def metal_changed(self) -> None:
        """A device or a turnout stands otherwise: what rails carry is to be worked out again."""
        self.metal.changed()
        self.hot.clear()
        self._dead = None
        self.judge = True

    def at(self, t: float, kind: str, who: str, version: int = 0) -> None:
        """Something will be due."""
        if t <= self.ends + 1e-9:
            self.number += 1
            heapq.heappush(self.heap, (t, self.number, kind, who, version))

    def log(
        self,
        kind: Kind,
        words: str,
        *,
        train: str | None = None,
        device: str | None = None,
        head: str | None = None,
        node: str | None = None,
        place: tuple[str, float] | None = None,
        cause: int | None = None,
        others: tuple[str, ...] = (),
    ) -> int:
        """Write a line into the log; its number."""
        n = len(self.entries)
        track, at = (place[0], round(place[1], 1)) if place is not None else (None, None)
        entry = Entry(n, self.t, kind, words, train, device, head, node, track, at, cause, others)
        self.entries.append(entry)
        self.told.append(entry)
        return n

    def head_before(self, train: Rolling) -> str | None:
        """The signal a waiting train stands at."""
        return head_at(self.ground, train.limit_place) if train.segments else None

    def name_of(self, node: str) -> str:
        """What a junction is called."""
        return self.layout.nodes[node].name or node

    def front_of(self, train: Rolling) -> Place:
        """Where a train's front is now."""
        return train.place(train.where(self.t)[0])


def new_evening(layout: Layout, facts: Facts, plan: RunningPlan, seed: int) -> Evening:
    """An evening before anybody is on the track."""
    known = signalling_of(facts)
    channels: dict[object, int] = {}
    for s in known.sensed:
        if s.device is not None:
            channels[s.device] = channels.get(s.device, 0) | 1 << s.number
    ground = Ground(layout, known)
    lies = lies_of(layout)
    standing = Standing(
        turned={i for i, d in layout.devices.items() if d.turned},
        inputs={i: d.input for i, d in layout.devices.items() if d.kind == "selector"},
        lies=dict(lies),
    )
    metal = Metal(facts, map_nets(layout, facts.rails), standing)
    heads = Heads(ground, dict(lies))
    return Evening(
        layout,
        facts,
        plan,
        ground,
        heads,
        metal,
        Copper(facts),
        random.Random(seed),
        shown=[0] * len(heads.ids),
        channels=tuple(channels.values()),
    )
