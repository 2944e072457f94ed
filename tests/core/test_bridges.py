"""Bridges of turntables and traversers as rail: what they join for where they point, and who turns them."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.layout.reading import LayoutError, read_layout
from jolly_copper.core.rails.bridges import across, bridge_bonds
from jolly_copper.demo.drafting import Draft
from tests.core.cab_layouts import FLAT, run, source, tie


def table(bridge: str = "aligned stub", points_at: str | None = "stub1", feeds: str = "left") -> Draft:
    """A turntable with a fed lead, a road straight across it and one at a right angle."""
    d = Draft("Table", brief={**FLAT, "scale": "HO"})
    d.node("TT", 0, 0, "turntable", diameter=300, bridge=bridge, points_at=points_at)
    for k, (x, y) in enumerate(((-1000, 0), (1000, 0), (0, 1000)), start=1):
        d.node(f"N{k}", x, y, "bumper")
        d.track(f"t{k}", f"Road {k}", f"N{k}.1", f"TT.stub{k}", joiner_every=None)
    source(d, "main", "booster", 12, 0.1)
    d.section("s", "Lead", "t1", 500, "main")
    tie(d, "t1", 500, run(d, "main", 400), a_rail=feeds)
    return d


def volts(d: Draft, scene: str | None = None) -> dict[str, bool]:
    facts = derive(d.plain(), scene)
    return {
        t: bool(np.isfinite(facts.open_volts[[facts.track_of(n) == t for n in range(len(facts.points))]]).all())
        for t in ("t1", "t2", "t3")
    }


def test_a_bridge_joins_the_stub_it_meets_with_the_one_across() -> None:
    assert volts(table()) == {"t1": True, "t2": True, "t3": False}
    assert volts(table(points_at="stub2")) == {"t1": True, "t2": True, "t3": False}
    assert volts(table(points_at="stub3")) == {"t1": True, "t2": False, "t3": False}, "nothing lies across from it"
    assert volts(table(points_at=None)) == {"t1": True, "t2": False, "t3": False}


@pytest.mark.parametrize("bridge", ["split ring", "reverser"])
def test_a_bridge_with_power_of_its_own_parts_its_stubs(bridge: str) -> None:
    assert volts(table(bridge)) == {"t1": True, "t2": False, "t3": False}


def test_rails_keep_their_side_straight_across() -> None:
    """Seen outwards from the pit, the left rail of the one road runs on as the right rail of the other."""
    layout = table().plain()
    for bond in bridge_bonds(layout):
        assert {bond.one.track, bond.other.track} == {"t1", "t2"} and bond.one.side != bond.other.side
    facts = derive(layout)
    signs = {
        t: {
            float(facts.parts[0].sign[int(facts.row_in_part[n])])
            for n in range(len(facts.points))
            if facts.track_of(n) == t
        }
        for t in ("t1", "t2")
    }
    # Both roads run towards the pit, so what is left of one is right of the other: opposite signs, one metal.
    assert signs == {"t1": {1.0}, "t2": {-1.0}}


def test_a_traverser_carries_straight_over() -> None:
    d = Draft("Traverser", brief={**FLAT, "scale": "HO"})
    d.node("TV", 0, 0, "traverser", diameter=300, bridge="aligned stub", points_at="west2")
    for side, x in (("west", -1000), ("east", 1000)):
        for k in (1, 2):
            d.node(f"{side[0].upper()}{k}", x, 60 * k, "bumper")
            d.track(f"{side}{k}", f"{side} {k}", f"{side[0].upper()}{k}.1", f"TV.{side}{k}", joiner_every=None)
    layout = d.plain()
    assert across(layout, "TV", "west2") == "east2" and across(layout, "TV", "east1") == "west1"
    assert {(b.one.track, b.other.track) for b in bridge_bonds(layout)} == {("west2", "east2")}


def test_a_scene_turns_the_bridge() -> None:
    d = table(points_at="stub3")
    d.data["scenes"]["out"] = {"name": "Engine out", "bridges": {"TT": "stub2"}}
    assert volts(d)["t2"] is False and volts(d, "out")["t2"] is True


@pytest.mark.parametrize(
    ("change", "path", "words"),
    [
        (lambda d: d.data["nodes"]["TT"].update(points_at="west1"), "/nodes/TT/points_at", "port of its own"),
        (lambda d: d.data["nodes"]["N1"].update(points_at="stub1"), "/nodes/N1/points_at", "no bridge to point"),
        (
            lambda d: d.data["scenes"].update(s={"name": "S", "bridges": {"N1": "stub1"}}),
            "/scenes/s/bridges/N1",
            "no bridge N1",
        ),
    ],
)
def test_bridges_that_are_none_are_refused(change: Any, path: str, words: str) -> None:
    d = table()
    change(d)
    with pytest.raises(LayoutError) as told:
        read_layout(d.data)
    assert words in {p.path: p.sentence for p in told.value.problems}[path]


def test_the_angle_across_is_a_few_degrees_wide() -> None:
    d = table()
    d.data["tracks"]["t2"]["path"] = [
        {"x": 1000 * math.cos(math.radians(a)), "y": 1000 * math.sin(math.radians(a))} for a in (20,)
    ] + [{"x": 0, "y": 0}]
    d.data["nodes"]["N2"]["at"] = d.data["tracks"]["t2"]["path"][0]
    assert across(d.plain(), "TT", "stub1") is None
