"""Control belongs to the source: what the brief wishes says nothing of track that some source feeds.

Every demo says for each source what it gives, and for each track how many rails it has; then the brief is put to the
other controls. Nothing may change but what is said of the wish itself.
"""

from __future__ import annotations

from functools import cache
from typing import Any

import pytest

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.circuits.giving import wanted_volts
from jolly_copper.core.circuits.waveform import bus_volts, filter_advice, line_of
from jolly_copper.core.findings.check import check
from jolly_copper.core.layout.control import control_given, has_three_rails
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.layout.power_tree import SOURCES
from jolly_copper.core.layout.reading import read_layout
from jolly_copper.core.proposals.reversing.accept import make_sections
from jolly_copper.core.proposals.reversing.choose import propose
from jolly_copper.core.proposals.reversing.words import control_words
from jolly_copper.core.proposals.whatif import what_if
from jolly_copper.core.proving.bench import Bench
from jolly_copper.core.rails.pieces import map_rails
from jolly_copper.core.rails.topology import map_topology
from jolly_copper.core.signals.sensitivity import sensitivity
from jolly_copper.core.wirebook.compose import compose
from jolly_copper.demo import DEMOS
from tests.judged import number, said, told
from tests.layouts import booster, feeder, plain
from tests.long import either
from tests.track_plans import balloon, oval, power, tie

SOME = ["harbour-arm", "millbeck", "tinplate-lane"]
each_demo = pytest.mark.parametrize("name", either(SOME, list(DEMOS)))
wished = pytest.mark.parametrize("wish", ["dcc", "dc", "ac3"])


@cache
def outspoken(name: str) -> dict[str, Any]:
    """A demo whose sources and tracks say for themselves what the brief said for them."""
    layout = DEMOS[name]()
    data: dict[str, Any] = layout.model_dump(mode="json")
    for i, device in layout.devices.items():
        if device.kind in SOURCES:
            data["devices"][i]["gives"] = control_given(layout, device)
    for i, track in layout.tracks.items():
        data["tracks"][i]["rails"] = 3 if has_three_rails(layout, track) else 2
    return data


def wishing(name: str, wish: str) -> Layout:
    data = outspoken(name)
    return read_layout({**data, "brief": {**data["brief"], "control": wish}})


@cache
def findings(name: str, wish: str) -> list[tuple[str, str, str, str]]:
    layout = wishing(name, wish)
    facts = derive(layout, next(iter(layout.scenes), None))
    return [(f.rule, f.severity, f.title, f.why) for f in check(facts)]


@each_demo
@wished
def test_no_finding_goes_by_the_wish(name: str, wish: str) -> None:
    own = DEMOS[name]()
    assert findings(name, wish) == findings(name, own.brief.control)


@each_demo
@wished
def test_the_bench_reads_what_the_source_gives(name: str, wish: str) -> None:
    """The same tests, foretold the same: a wave is read as it is, square, steady or sine."""
    own = DEMOS[name]().brief.control
    one, other = (Bench(derive(wishing(name, w))).tests for w in (wish, own))
    assert [(t.key, t.low, t.high, t.foretold) for t in one] == [(t.key, t.low, t.high, t.foretold) for t in other]


@each_demo
@wished
def test_the_book_and_detectors_go_by_the_source(name: str, wish: str) -> None:
    """Page by page; only Read me first tells the wish."""
    own = DEMOS[name]().brief.control
    one, other = (derive(wishing(name, w)) for w in (wish, own))
    for page, same in zip(
        compose(one, 1, "2026-11-30").chapters, compose(other, 1, "2026-11-30").chapters, strict=True
    ):
        assert page == same or page.key == "read-me", page.title
    assert sensitivity(one) == sensitivity(other)


@pytest.mark.parametrize(("gives", "heard"), [("dcc", True), ("dc", False)])
@wished
def test_a_reverser_without_work_is_told_on_digital_track_alone(wish: str, gives: str, heard: bool) -> None:
    """On direct current its switch sets the direction, which is work enough."""
    d = power(oval(), "turned")
    d.data["brief"] = {"control": wish}
    for device in d.data["devices"].values():
        if device["kind"] == "booster":
            device["gives"] = gives
    for track in ("north", "south"):
        d.data["tracks"][track]["rails"] = 2
        d.gap(track, 1000)
    tie(d, "F1", "north", 400)
    tie(d, "F2", "north", 1500, "turned")
    assert bool(told(d, "reverser with nothing to do")) is heard


@pytest.mark.parametrize(("gives", "kind"), [("dcc", "reverser"), ("dc", "reversing switch")])
@wished
def test_a_loop_gets_what_its_own_source_asks_for(wish: str, gives: str, kind: str) -> None:
    d = power(balloon())
    d.data["brief"] = {"control": wish}
    d.data["devices"]["B1"]["gives"] = gives
    for track in d.data["tracks"].values():
        track["rails"] = 2
    tie(d, "F1", "lead", 500)
    layout = d.plain()
    (group,) = propose(map_topology(layout, map_rails(layout)), train=800)
    made = apply_patch(layout, make_sections(layout, group.options[0].sections))
    assert [v.kind for v in made.devices.values()] == ["booster", kind]


def test_a_railroad_of_two_controls_is_told_what_each_asks_for() -> None:
    d = power(balloon())
    booster(d, circuit="branch", key="B2", gives="dc")
    layout = d.plain()
    words = control_words(map_topology(layout, map_rails(layout)))
    assert any(w.startswith("On digital track: An automatic reverser") for w in words)
    assert any(w.startswith("On DC track: Two reversing switches") for w in words)
    assert not any("three-rail" in w for w in words)


@pytest.mark.parametrize(("gives", "praised"), [("dcc", True), ("dc", False)])
@wished
def test_skin_effect_is_said_where_a_square_wave_runs(wish: str, gives: str, praised: bool) -> None:
    """A heavy bus keeps part of its copper idle on a square wave alone."""
    d = power(oval())
    d.data["runs"]["R1"]["tape"] = 30_000
    d.data["brief"] = {"control": wish}
    d.data["devices"]["B1"]["gives"] = gives
    for track in d.data["tracks"].values():
        track["rails"] = 2
    tie(d, "F1", "north", 400)
    facts = derive(d.plain())
    details = [w.reason for w in what_if(facts, "south", 1500)]
    assert any("skin effect" in x for x in details) is praised


# Volts belong to the source too


def at_volts(name: str, wish: float) -> Layout:
    """A demo whose sources say their volts for themselves, under a brief that says others."""
    data = outspoken(name)
    own = DEMOS[name]()
    devices = {
        i: {**d, "volts": wanted_volts(own, i)} if own.devices[i].kind in SOURCES else d
        for i, d in data["devices"].items()
    }
    brief = {**data["brief"], "control": own.brief.control, "track_volts": wish}
    return read_layout({**data, "devices": devices, "brief": brief})


@cache
def found_at(name: str, wish: float) -> list[tuple[str, str, str, str]]:
    layout = at_volts(name, wish)
    facts = derive(layout, next(iter(layout.scenes), None))
    return [(f.rule, f.severity, f.title, f.why) for f in check(facts)]


@each_demo
@pytest.mark.parametrize("wish", [9.0, 24.0])
def test_no_finding_goes_by_the_briefs_volts(name: str, wish: float) -> None:
    assert found_at(name, wish) == found_at(name, DEMOS[name]().brief.track_volts)


@each_demo
def test_the_bench_foretells_by_the_sources_volts(name: str) -> None:
    own = DEMOS[name]().brief.track_volts
    one, other = (Bench(derive(at_volts(name, w))).tests for w in (24.0, own))
    assert [(t.key, t.low, t.high, t.foretold) for t in one] == [(t.key, t.low, t.high, t.foretold) for t in other]


@pytest.mark.parametrize("volts", [12.0, 14.4, 18.0])
@pytest.mark.parametrize("wish", [14.4, 20.0])
def test_a_filter_heats_by_the_volts_of_its_own_bus(volts: float, wish: float) -> None:
    """P goes with U²: 0.7 W at 14.4 V, 1.1 W at 18 V, whatever the brief says (calculated)."""
    d = plain()
    d.data["brief"]["track_volts"] = wish
    d.data["devices"]["B1"]["volts"] = volts
    d.data["runs"]["R1"]["filter"] = {"ohms": 100, "farads": 1e-7, "watts": 0.1}
    (f,) = told(d, "filter resistor too small")
    assert number(said(f)["heat"]) == pytest.approx(0.71 * (volts / 14.4) ** 2, rel=0.03)
    layout = d.plain()
    assert line_of(layout, "R1").volts == bus_volts(layout, "R1") == volts
    assert f"W at {volts:g} V in usual traffic" in filter_advice(layout, "R1")


def test_resistor_axles_draw_by_the_volts_where_they_roll() -> None:
    """A hundred axles of 10 kΩ draw 144 mA at 14.4 V and 180 mA at 18 V."""
    for volts, amps in ((14.4, 0.144), (18.0, 0.18)):
        d = plain()
        d.data["devices"]["B1"]["volts"] = volts
        feeder(d, "F1", "t", 500, "T2")
        d.data["locos"]["e"] = {"name": "Engine", "idle": 0.0, "running": 0.0, "stall": 1}
        d.data["trains"]["x"] = {"name": "Train", "engines": ["e"], "length": 900, "resistor_axles": 100}
        d.data["scenes"]["s"] = {"name": "Show", "placements": [{"train": "x", "circuits": ["main"]}]}
        facts = derive(d.plain(), "s")
        (asked,) = facts.asked
        assert asked.worst == pytest.approx(amps, rel=1e-6)
