"""What opens first, what goes dark, and hanging devices and track elsewhere; coordination worked by hand."""

from __future__ import annotations

from typing import Any

import pytest

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.circuits.protection import Pair, coordination, goes_dark
from jolly_copper.core.drawing.sheet import DrawingError
from jolly_copper.core.findings.check import check
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.rails.pieces import map_rails
from tests.core.test_budget import two_districts
from tests.core.test_drawing import do


def with_device(layout: Layout, device: str, **fields: Any) -> Layout:
    return apply_patch(layout, [{"op": "add", "path": f"/devices/{device}/{k}", "value": v} for k, v in fields.items()])


def test_coordination_by_hand() -> None:
    """Booster 5 A after 250 ms. East 3 A after 50 ms: right in both. West 5 A after 400 ms: wrong in both. A reverser
    of 20 ms behind East is in time, one of 80 ms is not: East opens first."""
    layout = with_device(two_districts(), "B1", trip_seconds=0.25)
    layout = with_device(with_device(layout, "K-east", trip_seconds=0.05), "K-west", trip_amps=5, trip_seconds=0.4)
    layout = do(layout, "device", kind="reverser", input="east", name="Loop")
    assert coordination(layout) == [
        Pair("K-east", "B1", True, True),
        Pair("K-west", "B1", False, False),
        Pair("V1", "K-east", None, True),
    ]
    slow = with_device(layout, "V1", trip_seconds=0.08)
    late = {f.key: f for f in check(derive(slow, None)) if f.rule == "opens too late"}
    assert set(late) == {"too-late:K-west", "too-late:V1"}
    assert "80 ms" in late["too-late:V1"].title and "before the reverser has turned over" in late["too-late:V1"].why
    mended = apply_patch(slow, late["too-late:V1"].mends[0].patch)
    assert "too-late:V1" not in {f.key for f in check(derive(mended, None))}


def test_figures_nobody_gave_are_not_judged() -> None:
    pairs = coordination(two_districts())
    assert all(p.in_time is None for p in pairs) and all(p.in_current for p in pairs)


def test_what_goes_dark(demo: Layout) -> None:
    rails = map_rails(demo)
    whole = goes_dark(demo, rails, "booster3")
    assert set(whole.circuits) == {"b3", "quarry", "staging", "loop", "wye"}
    parts = [goes_dark(demo, rails, d) for d in ("K6", "K7")]
    assert whole.track == pytest.approx(sum(p.track for p in parts)) and set(whole.sections) == {
        s for p in parts for s in p.sections
    }
    assert goes_dark(demo, rails, "V1").sections == ("loop",)


def test_amps_asked_of_a_breaker_too_small() -> None:
    layout = with_device(two_districts(), "K-east", trip_amps=1.0)
    (f,) = [f for f in check(derive(layout, "night")) if f.rule == "amps asked"]
    assert f.place.id == "K-east" and "1.40 A" in f.title and "1 A" in f.title.replace("1.00", "1")


def test_a_new_breaker_has_a_circuit_of_its_own(demo: Layout) -> None:
    layout = do(demo, "device", kind="breaker", input="b2", name="Carriage works")
    made = layout.devices["K8"]
    assert (made.kind, made.input, made.trip_amps) == ("breaker", "b2", 4)
    assert layout.circuits[made.output].name == "Carriage works"


def test_a_district_hung_under_another_booster_gets_a_wire_from_there(demo: Layout) -> None:
    layout = do(demo, "rehang", device="V1", input="quarry")
    assert layout.devices["V1"].input == "quarry" and "G2" not in layout.runs, "the old wire is gone"
    (run,) = [r for r in layout.runs.values() if r.ends_at_device == "V1"]
    assert run.circuit == "quarry" and run.fed.terminal is not None
    assert not [f for f in check(derive(layout, "open-day")) if f.rule == "wire with no source"]
    for device, circuit in (("K7", "loop"), ("K7", "acc"), ("SD1", "yard"), ("SD1", "lamps")):
        with pytest.raises(DrawingError, match="cannot take its power from"):
            do(demo, "rehang", device=device, input=circuit)
    with pytest.raises(DrawingError, match="hangs under nothing"):
        do(demo, "rehang", device="booster1", input="b2")
    with pytest.raises(DrawingError, match="there already"):
        do(demo, "rehang", device="K1", input="b1")


def test_track_painted_into_a_district_takes_its_feeders_along(demo: Layout) -> None:
    layout = do(demo, "assign", track="up-north-3", at=900, circuit="west")
    assert layout.sections["main-east-up"].circuit == "west"
    rails = map_rails(layout)
    number = rails.extent_of[rails.piece_at("up-north-3", 900)]
    moved = [f for f in layout.feeders.values() if rails.extent_of[rails.piece_at(f.track, f.at)] == number]
    assert moved and all(layout.runs[layout.terminals[f.terminal].run].circuit == "west" for f in moved)
    bare = do(demo, "gap", track="shed-4", at=500)
    named = do(bare, "assign", track="shed-4", at=700, circuit="shed")
    assert len(named.sections) == len(bare.sections) + 1, "a stretch nobody named is named"
