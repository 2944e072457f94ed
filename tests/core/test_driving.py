"""Trains driven along a signalled line: distances by hand, stops where heads say stop, and nothing lost by turning
twice."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jolly_copper.core.signals.aspects import Signalling, lies_of, signalling
from jolly_copper.core.signals.driving import driven, turned
from jolly_copper.core.signals.occupancy import Standing, train_length
from tests.signalled import junction, line

LINE = signalling(line(4).plain())


def at(mm: float, name: str = "A", towards: str = "b", track: str = "t") -> Standing:
    return Standing(name, None, track, mm, "a" if towards == "a" else "b")


def go(known: Signalling, trains: list[Standing], distance: float, obeys: bool = True) -> tuple[Standing, str | None]:
    return driven(known, trains, 0, distance, lies_of(known.layout), obeys)


def test_it_comes_as_far_as_it_is_driven() -> None:
    then, stopped = go(LINE, [at(500)], 750)
    assert (then.at, then.towards, stopped) == (1250, "b", None)


def test_it_waits_at_the_signal_before_an_occupied_block() -> None:
    """S1 stands before the gap at 2000 mm; a train in the block behind it holds it at stop."""
    mark = LINE.layout.signals["S1"].at
    then, stopped = go(LINE, [at(500), at(2500, "B")], 1800)
    assert then.at == mark < 2000 and stopped == "S1 shows stop."
    again, stopped = go(LINE, [then, at(2500, "B")], 500)
    assert again.at == mark and stopped == "S1 shows stop.", "it does not creep past"


def test_it_passes_where_it_need_not_obey_and_where_the_block_is_clear() -> None:
    assert go(LINE, [at(500), at(2500, "B")], 1800, obeys=False) == (at(2300), None)
    assert go(LINE, [at(500), at(6500, "B")], 1800) == (at(2300), None)


def test_signals_for_the_other_way_do_not_hold_it() -> None:
    then, stopped = go(LINE, [at(3500, towards="a"), at(6500, "B")], 2500)
    assert (then.at, stopped) == (1000, None)


def test_the_track_ends() -> None:
    then, stopped = go(LINE, [at(7900)], 500)
    assert (then.at, stopped) == (8000, "Stopped: the end of the track.")


def test_a_turnout_against_it_is_told_by_name() -> None:
    known = signalling(junction().plain())
    lies = lies_of(known.layout)
    trailing = next(
        t
        for i, t in known.layout.tracks.items()
        for e in (t.a, t.b)
        if e.port == "diverging" and lies[e.node] == "through"
    )
    track = next(i for i, t in known.layout.tracks.items() if t == trailing)
    towards = "a" if trailing.a.port == "diverging" else "b"
    node = (trailing.a if towards == "a" else trailing.b).node
    then, stopped = go(known, [at(known.rails.lengths[track] / 2, towards=towards, track=track)], 20000, obeys=False)
    assert then.track == track and stopped == f"Stopped: {known.layout.nodes[node].name or node} lies against it."


@settings(max_examples=60)
@given(st.floats(400, 7600), st.sampled_from("ab"))
def test_turned_twice_it_stands_as_before(mm: float, towards: str) -> None:
    train, lies = at(mm, towards=towards), lies_of(LINE.layout)
    once = turned(LINE, train, lies)
    assert once.towards != train.towards
    assert abs(once.at - train.at) == pytest.approx(train_length(LINE.layout, train)), "its rear was so far behind"
    assert turned(LINE, once, lies).at == pytest.approx(train.at)


@settings(max_examples=60)
@given(st.floats(300, 5000), st.floats(5200, 7800), st.floats(0, 8000))
def test_whoever_obeys_never_enters_the_block_of_another(mine: float, other: float, distance: float) -> None:
    """Blocks are 2 m. One that starts in a block of its own ends before the other's."""
    if int(mine // 2000) >= int((other - 400) // 2000):
        return
    then, _ = go(LINE, [at(mine), at(other, "B")], distance)
    assert int(then.at // 2000) < int((other - 1) // 2000) or int(then.at // 2000) == int(mine // 2000)
