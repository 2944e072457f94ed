"""A straight line of blocks, drawn in any number of tracks from either end: what detectors see, what signals protect
and show, where a train comes to, all worked out again by plain arithmetic along the line.

What each aspect means is common practice, no source.
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.signals.aspects import lies_of, signalling
from jolly_copper.core.signals.occupancy import WHEEL_MM, Standing, occupied
from jolly_copper.core.signals.routes import drive
from jolly_copper.demo.drafting import Draft
from tests.layouts import booster
from tests.signalled import detect, signal

BEFORE_MM = 60.0
"""Signals stand so far before their gaps."""


@dataclass(frozen=True)
class Line:
    """A line along x. gaps: between blocks, mm. joints: where one track ends and the next begins. backward: tracks that
    were drawn from the far end."""

    length: float
    gaps: tuple[float, ...]
    joints: tuple[float, ...]
    backward: tuple[bool, ...]

    @property
    def ends(self) -> tuple[float, ...]:
        return (0.0, *self.joints, self.length)

    @property
    def blocks(self) -> list[tuple[float, float]]:
        marks = [0.0, *self.gaps, self.length]
        return list(itertools.pairwise(marks))

    def place(self, x: float) -> tuple[str, float]:
        """A place along the line as a track and mm from its A end."""
        n = max(k for k, start in enumerate(self.ends[:-1]) if start <= x)
        start, end = self.ends[n], self.ends[n + 1]
        return f"t{n}", end - x if self.backward[n] else x - start

    def towards(self, x: float, east: bool) -> Any:
        """The end of the track there that lies to the east, or to the west."""
        n = int(self.place(x)[0][1:])
        return "b" if east != self.backward[n] else "a"

    def drawn(self, school: str = "three aspects") -> Draft:
        d = Draft("Line", brief={"signalling": {"school": school}})
        booster(d)
        for k, x in enumerate(self.ends):
            d.node(f"N{k}", x, 0, "bumper" if k in (0, len(self.ends) - 1) else "joint")
        for k in range(len(self.ends) - 1):
            ends = (f"N{k}.{1 if k == 0 else 2}", f"N{k + 1}.1")
            d.track(f"t{k}", f"Track {k}", *(ends[::-1] if self.backward[k] else ends), joiner_every=None)
        for k, (start, end) in enumerate(self.blocks):
            detect(d, f"B{k}", *self.place((start + end) / 2), k + 1)
        for k, x in enumerate(self.gaps, start=1):
            d.gap(*self.place(x))
            for name, at, east in ((f"E{k}", x - BEFORE_MM, True), (f"W{k}", x + BEFORE_MM, False)):
                signal(d, name, *self.place(at), self.towards(at, east))
        return d


@st.composite
def lines(draw: st.DrawFn) -> Line:
    """Two to six blocks of 0.9 to 2.5 m; joints anywhere but on a gap, a signal or each other."""
    gaps: list[float] = []
    for _ in range(draw(st.integers(1, 5))):
        gaps.append((gaps[-1] if gaps else 0.0) + draw(st.integers(900, 2500)))
    length = gaps[-1] + draw(st.integers(900, 2500))
    clear = [g + d for g in gaps for d in (0, -BEFORE_MM, BEFORE_MM)]
    wanted = draw(st.lists(st.integers(20, int(length) - 20), max_size=4))
    joints: list[float] = []
    for x in sorted(wanted):
        if min(abs(x - c) for c in [*clear, *joints, -100.0]) > 12:
            joints.append(float(x))
    backward = draw(st.lists(st.booleans(), min_size=len(joints) + 1, max_size=len(joints) + 1))
    return Line(float(length), tuple(map(float, gaps)), tuple(joints), tuple(backward))


def read(d: Draft, **train: Any) -> Layout:
    d.data["locos"]["k"] = {"name": "Kind", "idle": 0.1, "running": 0.3, "stall": 1, "pickups": 200}
    d.data["trains"]["x"] = {"name": "X", "engines": ["k"], "length": 700, **train}
    return d.plain()


def blocks_under(line: Line, low: float, high: float) -> set[str]:
    """Blocks that a wheel touches between two places."""
    return {f"B{k}" for k, (start, end) in enumerate(line.blocks) if start - WHEEL_MM < high and low < end + WHEEL_MM}


@given(lines(), st.floats(0.05, 1), st.booleans(), st.booleans(), st.integers(300, 1500))
def test_a_train_lights_the_blocks_its_wheels_touch(
    line: Line, share: float, east: bool, lit: bool, length: int
) -> None:
    layout = read(line.drawn(), length=length, lit_cars=2 if lit else 0)
    # The front stands so far along; the train reaches back the other way, as far as there is track.
    front = line.length * share
    front = max(front, min(length, line.length)) if east else min(front, max(line.length - length, 0.0))
    known = signalling(layout)
    standing = Standing("X", "x", *line.place(front), line.towards(front, east))
    found = occupied(layout, known.rails, known.ways, known.sensed, [standing], lies_of(layout))

    def under(reach: float) -> set[str]:
        return blocks_under(line, *((front - reach, front) if east else (front, front + reach)))

    def names(numbers: frozenset[int]) -> set[str]:
        return {known.sensed[n].name for n in numbers}

    assert names(found.there) == under(length)
    assert names(found.lit) == under(length if lit else min(200, length))
    assert found.unseen == found.there - found.lit


@given(lines())
def test_a_signal_protects_the_block_beyond_its_gap(line: Line) -> None:
    known = signalling(read(line.drawn()))
    last = len(line.gaps)
    for k in range(1, last + 1):
        (east,), (west,) = known.routes[f"E{k}"], known.routes[f"W{k}"]
        assert [known.sensed[n].name for n in east.sections] == [f"B{k}"]
        assert [known.sensed[n].name for n in west.sections] == [f"B{k - 1}"]
        assert (east.exit, east.ends) == ((f"E{k + 1}", "signal") if k < last else (None, "bumper"))
        assert (west.exit, west.ends) == ((f"W{k - 1}", "signal") if k > 1 else (None, "bumper"))
        assert east.needs == west.needs == () and not east.turns and not west.turns


@pytest.mark.parametrize("school", ["two aspects", "three aspects"])
@given(lines(), st.data())
def test_what_signals_show_for_any_blocks_taken(school: str, line: Line, data: st.DataObject) -> None:
    """Of ways that share track the one a train waits for goes first, then the one named first. Whoever may go shows
    approach where the next signal is at stop or none follows, else clear."""
    taken = data.draw(st.sets(st.integers(0, len(line.gaps))))
    known = signalling(read(line.drawn(school)))
    numbers = {s.name: s.number for s in known.sensed}
    shown = known.show(lies_of(known.layout), {numbers[f"B{k}"] for k in taken})
    marks, last = [0.0, *line.gaps, line.length], len(line.gaps)
    ways: dict[str, tuple[int, int, str | None, float, float]] = {}  # block entered, block waited in, next, from, to
    for k in range(1, last + 1):
        far = marks[k + 1] - (BEFORE_MM if k < last else 0)
        near = marks[k - 1] + (BEFORE_MM if k > 1 else 0)
        ways[f"E{k}"] = k, k - 1, f"E{k + 1}" if k < last else None, marks[k] - BEFORE_MM, far
        ways[f"W{k}"] = k - 1, k, f"W{k - 1}" if k > 1 else None, near, marks[k] + BEFORE_MM
    going: list[str] = []
    for name in sorted(ways, key=lambda n: (ways[n][1] not in taken, n)):
        block, _, _, low, high = ways[name]
        if block not in taken and not any(min(high, ways[g][4]) - max(low, ways[g][3]) > 1 for g in going):
            going.append(name)
    for name, (_, _, beyond, _, _) in ways.items():
        slow = school == "three aspects" and (beyond is None or beyond not in going)
        wanted = "stop" if name not in going else "approach" if slow else "clear"
        assert shown[name].aspect == wanted, (name, sorted(taken))


@given(lines(), st.floats(0, 1), st.floats(0, 20_000), st.booleans())
def test_where_a_train_comes_to(line: Line, share: float, way: float, east: bool) -> None:
    """Its front goes so far, or to the bumper; it passes just that much track."""
    layout = read(line.drawn())
    known = signalling(layout)
    begins = 5 + share * (line.length - 10)
    ends = min(begins + way, line.length) if east else max(begins - way, 0.0)
    came = drive(layout, known.ways, *line.place(begins), line.towards(begins, east), way, {})
    track, at = line.place(min(ends, line.length - 1e-9))
    if came.track == track:  # on a joint it may be said either way
        assert came.at == pytest.approx(at, abs=1e-3)
    assert sum(leg.high - leg.low for leg in came.passed) == pytest.approx(abs(ends - begins), abs=1e-3)
    assert (came.stopped is not None) is (begins + way > line.length if east else begins - way < 0)


@given(lines(), st.floats(0.2, 0.8))
def test_a_train_stops_at_the_first_signal_against_it(line: Line, share: float) -> None:
    layout = read(line.drawn())
    known = signalling(layout)
    begins = share * line.gaps[0]
    at = {n: line.place(x - BEFORE_MM) for n, x in enumerate(line.gaps, start=1)}
    stops = {(at[1][0], line.towards(line.gaps[0] - BEFORE_MM, True)): [(at[1][1], "E1")]}
    came = drive(layout, known.ways, *line.place(begins), line.towards(begins, True), 1e6, {}, stops)
    if begins < line.gaps[0] - BEFORE_MM:
        assert came.stopped == "E1" and (came.track, came.at) == (at[1][0], pytest.approx(at[1][1], abs=1e-3))
    else:
        assert came.stopped == "the end of the track"
