"""What opens first on a short at every rail, by hand and as an invariant; starting again after a trip; common wires."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jolly_copper.core.circuits.budget import budget, inrush_amps
from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.circuits.protection import Opening, first_to_open, opening_at, opening_stretches
from jolly_copper.core.findings.check import check
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from tests.core.test_budget import two_districts
from tests.core.test_protection import with_device

Row = tuple[float, str | None]


def protected(**times: float) -> Layout:
    """Booster 5 A after 250 ms; East 3 A after 50 ms; West 4 A after 400 ms: West is too slow."""
    layout = with_device(two_districts(), "B1", trip_seconds=0.25)
    layout = with_device(layout, "K-east", trip_seconds=0.05)
    return with_device(layout, "K-west", trip_amps=4, trip_seconds=0.4)


@pytest.mark.parametrize(
    ("circuit", "table"),
    [
        ("east", [(2.9, None), (3.0, "K-east"), (8.0, "K-east")]),
        ("west", [(3.9, None), (4.0, "K-west"), (4.9, "K-west"), (5.0, "B1"), (30.0, "B1")]),
        ("main", [(4.9, None), (5.0, "B1")]),
    ],
)
def test_the_coordination_table_by_hand(circuit: str, table: list[Row]) -> None:
    """Up to 5 A only West itself can open; from there on the booster is quicker than it, and everything stops."""
    facts = derive(protected())
    for amps, opens in table:
        opening = opening_at(facts, circuit, amps)
        assert opening is not None and opening.device == opens, f"{amps} A on {circuit}"
        assert opening.right == (opens is not None and opens == opening.nearest)


def test_a_time_nobody_knows_is_the_slowest() -> None:
    layout = apply_patch(protected(), [{"op": "replace", "path": "/devices/K-east/trip_seconds", "value": None}])
    facts = derive(layout)
    assert opening_at(facts, "east", 4.0) == Opening("K-east", "K-east", None, 4.0)
    assert opening_at(facts, "east", 6.0) == Opening("B1", "K-east", 0.25, 6.0)


def test_every_live_rail_of_the_demo_has_an_answer(demo_facts: Any) -> None:
    openings = first_to_open(demo_facts)
    live = np.isfinite(demo_facts.coin)
    assert all((o is not None) == bool(alive) for o, alive in zip(openings, live, strict=True))
    for o, amps in zip(openings, demo_facts.coin, strict=True):
        assert o is None or (
            o.amps == amps and (o.device is None or amps >= demo_facts.layout.devices[o.device].trip_amps - 1e-9)
        )
    by_track: dict[str, float] = {}
    for s in opening_stretches(demo_facts):
        assert s.end > s.start
        by_track[s.track] = by_track.get(s.track, 0) + s.end - s.start
    for track, length in by_track.items():
        assert length <= demo_facts.rails.lengths[track] + 1
    assert by_track["yard-1"] == pytest.approx(demo_facts.rails.lengths["yard-1"], abs=1), (
        "stretches meet without holes"
    )


@given(st.floats(0.5, 12), st.floats(0.01, 1), st.floats(0.5, 12), st.floats(0.01, 1), st.floats(0.1, 40))
@settings(max_examples=60)
def test_what_opens_is_never_slower_than_another_that_would(
    low: float, quick: float, high: float, slow: float, amps: float
) -> None:
    layout = with_device(
        with_device(two_districts(), "B1", trip_amps=high, trip_seconds=slow),
        "K-east",
        trip_amps=low,
        trip_seconds=quick,
    )
    opening = opening_at(derive(layout), "east", amps)
    assert opening is not None
    reached = {d: t for d, a, t in (("K-east", low, quick), ("B1", high, slow)) if amps >= a}
    assert (opening.device is None) == (not reached)
    if reached:
        assert opening.seconds == min(reached.values())


# --- starting again


def test_starting_again_by_hand() -> None:
    """East holds the express (0.8 A at start) and two goods engines (no figure: 0.1 A each): 1.0 A for a moment. Its
    breaker lets 0.9 A through; after each trip it opens again. West: express and the parked one, 1.6 A + 0.1 A of
    cars."""
    layout = apply_patch(two_districts(), [{"op": "add", "path": "/locos/e/inrush", "value": 0.8}])
    assert inrush_amps(layout, layout.trains["goods"]) == pytest.approx(0.2)
    asked = {a.device: a for a in budget(layout, layout.scenes["night"])}
    assert asked["K-east"].inrush == pytest.approx(1.0) and asked["K-west"].inrush == pytest.approx(1.7)
    assert asked["K-east"].starts == 3, "as much as it trips at, where nobody said more"
    tight = with_device(layout, "K-east", inrush_amps=0.9, recovery_seconds=2.0)
    (f,) = [f for f in check(derive(tight, "night")) if f.rule == "starts after a trip"]
    assert f.severity == "should" and "900 mA through" in f.title and "tries again after 2 s" in f.why


def test_decoders_that_stand_count_in_the_budget() -> None:
    """Four of 30 mA, one throwing at 0.3 A: 0.39 A more on East and on the booster, nothing on West."""
    layout = apply_patch(
        two_districts(),
        [
            {
                "op": "add",
                "path": "/loads/d",
                "value": {
                    "kind": "stationary decoder",
                    "name": "Turnouts",
                    "circuit": "east",
                    "count": 4,
                    "at_once": 1,
                    "amps": 0.03,
                    "working_amps": 0.3,
                },
            }
        ],
    )
    asked = {a.device: a for a in budget(layout, layout.scenes["night"])}
    assert asked["K-east"].worst == pytest.approx(1.4 + 0.39) and asked["K-east"].steady == pytest.approx(0.39)
    assert asked["B1"].worst == pytest.approx(1.6 + 0.39) and asked["K-west"].steady == 0
    assert asked["K-west"].lit == pytest.approx(0.1), "two lit coaches of 50 mA"


def test_trains_by_use_of_track() -> None:
    """The goods runs wherever there is yard track: that is West's, once the only track is a yard."""
    layout = apply_patch(
        two_districts(),
        [
            {"op": "replace", "path": "/tracks/t/use", "value": "yard"},
            {"op": "replace", "path": "/scenes/night/placements/1", "value": {"train": "goods", "uses": ["yard"]}},
        ],
    )
    asked = {a.device: a for a in budget(layout, layout.scenes["night"])}
    assert "goods" in asked["K-west"].trains and "goods" not in asked["K-east"].trains
    elsewhere = apply_patch(
        layout, [{"op": "replace", "path": "/scenes/night/placements/1/uses", "value": ["staging"]}]
    )
    assert not any("goods" in a.trains for a in budget(elsewhere, elsewhere.scenes["night"]))


# --- boosters beside each other


def test_boosters_want_a_common_wire_unless_the_house_says_no(demo: Layout) -> None:
    rules = [f for f in check(derive(demo, "open-day")) if f.rule == "reference wire"]
    assert [f.place.id for f in rules] == ["booster3"] and "earth rod" in rules[0].mend
    tied = apply_patch(demo, rules[0].mends[0].patch)
    assert not [f for f in check(derive(tied, "open-day")) if f.rule == "reference wire"]
    never = apply_patch(demo, [{"op": "add", "path": "/brief/rules/reference_wire", "value": False}])
    assert not [f for f in check(derive(never, "open-day")) if f.rule == "reference wire"]


def test_a_bus_tied_to_another_district_is_named(demo: Layout) -> None:
    y, e = (next(t for t, v in demo.terminals.items() if v.run == r) for r in ("Y1", "E1"))
    joined = apply_patch(demo, [{"op": "add", "path": "/runs/Q1/ends_at_terminal", "value": y}])
    (f,) = [f for f in check(derive(joined, "open-day")) if f.rule == "buses joined"]
    assert f.severity == "must" and "joins Harbour quays to Harbour yard" in f.title and "neither breaker" in f.why
    across = apply_patch(demo, [{"op": "add", "path": "/runs/Q1/ends_at_terminal", "value": e}])
    (f,) = [f for f in check(derive(across, "open-day")) if f.rule == "buses joined"]
    assert "Two boosters on one wire" in f.why


def test_two_boosters_out_of_phase_meet_at_a_gap(demo: Layout) -> None:
    """Every feeder of the third booster's branch turned round: a train over the gap to booster 1 shorts the two."""
    swapped = [
        {"op": "replace", "path": f"/feeders/{i}/a_rail", "value": "right" if f.a_rail == "left" else "left"}
        for i, f in demo.feeders.items()
        if demo.runs[demo.terminals[f.terminal].run].circuit == "quarry"
    ]
    found = [f for f in check(derive(apply_patch(demo, swapped), "open-day")) if f.rule == "phases meet at a gap"]
    assert any("branch" in f.title.lower() for f in found) and all(f.severity == "must" for f in found)
    assert not [f for f in check(derive(demo, "open-day")) if f.rule == "phases meet at a gap"]
