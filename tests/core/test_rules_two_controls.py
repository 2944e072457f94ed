"""Rules about three-rail track, stretches that brake, two controls and joints of boards, on both sides of where they
begin to speak.

Thresholds are common practice, no source, where nothing else is said; sums are worked out again by hand.
"""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.proving.bench import Bench
from jolly_copper.core.rails.frogs import behind_frogs
from jolly_copper.core.rehearsal.smallest import smallest_test_track
from jolly_copper.demo.drafting import Draft
from tests.core.cab_layouts import two_blocks
from tests.core.test_joints_of_boards import two_boards, with_coupling
from tests.core.test_three_rail import straight
from tests.judged import falls_silent, mended, said, severities, told
from tests.layouts import feeder, plain

# Three-rail track

PHASE, SLOW, ISOLATED, FIT = "transformers out of phase", "slow breaker", "isolated rail", "rails that do not fit"


@pytest.mark.parametrize(
    ("read", "severity"),
    [(None, "should"), (0.0, None), (2.69, None), (2.8, "should"), (18.0, "should"), (18.1, "must")],
)
def test_volts_between_two_hot_posts(read: float | None, severity: str | None) -> None:
    """At 18 V: up to 15 % is what meters and knobs do, up to 18 V they were not set alike, beyond they are out of
    phase."""
    d = straight(units=("T1", "T2"))
    d.data["circuits"]["b"]["return_of"] = "a"
    d.data["devices"]["dev-b"]["phasing_volts"] = read
    found = told(d, PHASE)
    assert severities(found) == ([severity] if severity else [])
    for f in found:
        assert ("out of phase" in f.why) is (severity == "must") or read is None


@pytest.mark.parametrize("units", [("T1", "T1"), ("T1", "T2")])
def test_two_outputs_of_one_transformer_are_in_phase(units: tuple[str, str]) -> None:
    d = straight(units=units)
    found = told(d, PHASE)
    assert bool(found) is (units[0] != units[1])
    commons = [f for f in found if f.key.startswith("commons")]
    assert [said(f)["out of phase"] for f in commons] == (["36.0 V"] if commons else []), (
        "18 V and 18 V against each other"
    )
    for f in commons:
        assert mended(d, f).circuits["b"].return_of == "a" and falls_silent(d, f)


@pytest.mark.parametrize(("gap", "meets"), [("centre", True), ("all", True), ("outer left", False)])
def test_transformers_meet_at_gaps_of_the_centre_rail_alone(gap: str, meets: bool) -> None:
    d = straight(units=("T1", "T2"))
    d.data["gaps"]["G1"]["rails"] = gap
    if not meets:  # then nothing parts the two, which other rules tell
        d.data["sections"].pop("s-b")
    assert bool(told(d, PHASE)) is meets


@pytest.mark.parametrize(
    ("seconds", "behind", "heard"),
    [(5.0, None, True), (1.0, None, True), (0.9, None, False), (5.0, 0.05, False), (5.0, 2.0, True)],
)
def test_a_thermal_breaker_tells_its_heat_by_hand(seconds: float, behind: float | None, heard: bool) -> None:
    """18 V · 8 A · 5 s = 720 J; a quick breaker behind it opens first."""
    d = straight()
    d.data["devices"]["dev-a"]["trip_seconds"] = seconds
    if behind is not None:
        d.data["circuits"]["quick"] = {"name": "Quick", "colour_a": "pink", "colour_b": "grey"}
        quick = {"kind": "breaker", "name": "Fuse", "at": {"x": 0, "y": 0}, "input": "a", "output": "quick"}
        d.data["devices"]["K1"] = {**quick, "trip_seconds": behind, "trip_amps": 5}
    found = told(d, SLOW)
    assert severities(found) == (["look"] if heard else [])
    assert all(said(f)["lets through"] == f"{18 * 8 * seconds:.0f} J" for f in found)


def isolated(length: float, seconds: float | None = None, outers: str = "apart", **track: Any) -> Draft:
    d = straight(outers=outers, **track)
    rail = {"name": "Crossing bell", "track": "t", "at": 500, "length": length, "outer": "left", "works": "the bell"}
    d.data["isolated"]["X1"] = {**rail, "seconds": seconds}
    return d


@pytest.mark.parametrize(
    ("length", "seconds", "short"),
    [(130, None, False), (129, None, True), (700, 2.0, False), (690, 2.0, True), (129, 0.1, True)],
)
def test_an_isolated_rail_is_as_long_as_its_warning(length: float, seconds: float | None, short: bool) -> None:
    """60 km/h to O scale, 1:48, are 347 mm/s: two seconds are 694 mm; a long car leaves 130 mm between its axles."""
    assert pytest.approx(347.2, abs=0.1) == 60 / 3.6 * 1000 / 48
    found = [f for f in told(isolated(length, seconds), ISOLATED) if f.key.startswith("isolated-short")]
    assert severities(found) == (["should"] if short else [])


@pytest.mark.parametrize(
    ("change", "key", "severity"),
    [
        ({"outers": "joined"}, "isolated-ties", "must"),
        ({"rails": 2}, "isolated-two", "must"),
        ({}, None, None),
    ],
)
def test_an_isolated_rail_wants_an_outer_of_its_own(
    change: dict[str, Any], key: str | None, severity: str | None
) -> None:
    d = isolated(300, **change)
    if "rails" in change:
        d.data["gaps"].clear()
    found = told(d, ISOLATED)
    assert [(f.key.split(":")[0], f.severity) for f in found] == ([(key, severity)] if key else [])
    assert all(falls_silent(d, f) for f in found if f.mends)


@pytest.mark.parametrize(("at", "heard"), [(500, False), (501, True), (799, True), (800, False)])
def test_no_gap_lies_inside_an_isolated_rail(at: float, heard: bool) -> None:
    d = isolated(300)
    d.gap("t", at, rails="centre")
    found = [f for f in told(d, ISOLATED) if f.key.startswith("isolated-gap")]
    assert bool(found) is heard


@pytest.mark.parametrize(
    ("control", "rails", "cuts", "heard"),
    [
        ("ac3", None, "centre", False),
        ("dcc", None, "centre", True),
        ("dcc", 3, "centre", False),
        ("ac3", 2, "outer left", True),
        ("dcc", None, "both", False),
        ("dcc", None, "left", False),
    ],
)
def test_a_gap_cuts_a_rail_that_is_there(control: str, rails: int | None, cuts: str, heard: bool) -> None:
    d = plain(rails=rails)
    d.data["brief"]["control"] = control
    d.gap("t", 1500, rails=cuts)
    found = [f for f in told(d, FIT) if f.key.startswith("gap-rail")]
    assert severities(found) == (["should"] if heard else [])
    for f in found:
        assert mended(d, f, 0).gaps["G1"].rails == "both" and mended(d, f, 1).tracks["t"].rails == 3
        assert falls_silent(d, f)


@pytest.mark.parametrize(("one", "other", "heard"), [(2, 2, False), (3, 3, False), (2, 3, True), (None, 3, True)])
def test_three_rails_do_not_go_on_into_two(one: int | None, other: int, heard: bool) -> None:
    d = Draft("Meets")
    for name, x, kind in (("W", 0, "bumper"), ("J", 1000, "joint"), ("E", 2000, "bumper")):
        d.node(name, x, 0, kind)
    d.track("a", "West", "W.1", "J.1", rails=one)
    d.track("b", "East", "J.2", "E.1", rails=other)
    found = told(d, FIT)
    assert bool(found) is heard and all(f.place.id == "J" and said(f) == {"rails": "2 and 3"} for f in found)


# Braking sections

BRAKES = "braking section"


def braking(start: float = 1000, length: float = 1500, **more: Any) -> Draft:
    """Digital track with a feeder at its beginning, and a stretch that brakes by an unequal wave."""
    d = plain(6000)
    feeder(d, "F1", "t", 400, "T1")
    stretch = {"name": "Stop", "track": "t", "at": start, "length": length, "rail": "left", "module": "M1"}
    d.data["braking"]["S1"] = {**stretch, **more}
    d.data["locos"]["e"] = {"name": "Engine", "idle": 0.1, "running": 0.3, "stall": 1, "pickups": 150}
    d.data["trains"]["x"] = {"name": "Local", "engines": ["e"], "length": 800}
    return d


STOPS = (60 / 3.6 * 1000 / 87) ** 2 / (2 * 60)
"""v²/2a at 60 km/h to HO scale, 1:87, and 60 mm/s²: elementary mechanics."""


@given(st.floats(400, 900))
def test_a_braking_section_holds_pickups_and_the_way_to_stop(length: float) -> None:
    need = 150 + 1.3 * STOPS
    assume(abs(length - need) > 0.5)
    found = [f for f in told(braking(length=length), BRAKES) if f.key.startswith("braking-short")]
    assert severities(found) == (["look"] if length < need else [])
    assert need == pytest.approx(547.6, abs=0.5)


@pytest.mark.parametrize(("at", "heard"), [(999, False), (1000, True), (2500, True), (2501, False)])
def test_no_feeder_inside_a_braking_section(at: float, heard: bool) -> None:
    d = braking()
    feeder(d, "F2", "t", at, "T2")
    found = [f for f in told(d, BRAKES) if f.key.startswith("braking-bypass")]
    assert severities(found) == (["must"] if heard else [])
    for f in found:
        assert mended(d, f).feeders["F2"].at == 920 and falls_silent(d, f)


@pytest.mark.parametrize(("at", "heard"), [(1000, False), (1001, True), (2499, True), (2500, False)])
def test_no_gap_inside_a_braking_section(at: float, heard: bool) -> None:
    d = braking()
    d.gap("t", at)
    found = [f for f in told(d, BRAKES) if f.key.startswith("braking-gap")]
    assert severities(found) == (["should"] if heard else [])


@pytest.mark.parametrize(("gives", "heard"), [("dcc", False), ("dc", True)])
def test_only_a_decoder_reads_an_unequal_wave(gives: str, heard: bool) -> None:
    d = braking()
    d.data["devices"]["B1"]["gives"] = gives
    found = [f for f in told(d, BRAKES) if f.key.startswith("braking-control")]
    assert severities(found) == (["should"] if heard else [])


@pytest.mark.parametrize(
    ("whys", "rails", "keys"),
    [
        (("shuttle", "shuttle"), ("left", "left"), []),
        (("shuttle", "shuttle"), ("left", "right"), ["braking-rails"]),
        (("stop", "shuttle"), ("left", "left"), ["braking-shared"]),
        (("stop", "stop"), ("left", "right"), ["braking-rails", "braking-shared"]),
    ],
)
def test_one_module_serves_both_ends_of_a_shuttle_alone(
    whys: tuple[str, str], rails: tuple[str, str], keys: list[str]
) -> None:
    d = braking(why=whys[0], rail=rails[0])
    d.data["braking"]["S2"] = {
        **d.data["braking"]["S1"],
        "name": "Far stop",
        "at": 4000,
        "why": whys[1],
        "rail": rails[1],
    }
    found = told(d, "braking module")
    assert sorted(f.key.split(":")[0] for f in found) == keys
    d.data["braking"]["S2"]["module"] = "M2"
    assert told(d, "braking module") == []


# Two controls

BARE, BUFFER, MIXED = "two controls at a bare gap", "buffer too short", "one pole between two controls"


def mixed(buffer: float | None, pickups: float | None = 150) -> Draft:
    """A booster's block and a cab's block of one line, with a stretch between that hangs on neither."""
    d = two_blocks(lies=("a", "b"))
    d.data["devices"]["dev-b"] |= {"kind": "booster", "gives": "dcc", "trip_amps": 5}
    for key, only in (("one", "a"), ("two", "b")):
        d.data["devices"][f"sel-{key}"] |= {"inputs": [only], "input": only}
    if buffer is not None:
        d.data["gaps"]["G1"]["at"] = 2000 - buffer / 2
        d.gap("t", 2000 + buffer / 2, rails="both")
    d.data["locos"]["e"] = {"name": "Engine", "idle": 0, "running": 0.3, "stall": 1, "pickups": pickups}
    d.data["trains"]["x"] = {"name": "Local", "engines": ["e"], "length": 400}
    return d


def test_a_single_gap_between_two_controls_is_a_must() -> None:
    (f,) = told(mixed(None), BARE)
    assert f.severity == "must" and said(f) == {"longest pickup": "6 in", "whose": "Local"}
    same = mixed(None)
    same.data["devices"]["dev-b"]["gives"] = "dc"
    assert told(same, BARE) == [], "two cabs at a gap are how cabs meet"


@pytest.mark.parametrize(
    ("length", "pickups", "severity"),
    [(151, 150, None), (150, 150, "must"), (80, 150, "must"), (149, None, "should"), (151, None, None)],
)
def test_a_buffer_is_longer_than_the_longest_pickup(length: float, pickups: float | None, severity: str | None) -> None:
    """150 mm is also the usual of an HO engine where nobody measured; a guess is no must."""
    d = mixed(length, pickups)
    assert told(d, BARE) == []
    found = told(d, BUFFER)
    assert severities(found) == ([severity] if severity else [])
    assert all(f.place.at == pytest.approx(2000) for f in found)


@pytest.mark.parametrize(
    ("made", "gives", "heard"),
    [
        ("toggle, one pole", "dcc", True),
        ("rotary, one pole", "dcc", True),
        ("toggle, two poles", "dcc", False),
        ("toggle, one pole", "dc", False),
    ],
)
def test_a_selector_between_two_controls_has_two_poles(made: str, gives: str, heard: bool) -> None:
    d = two_blocks()
    d.data["devices"]["dev-b"] |= {"kind": "booster", "gives": gives, "trip_amps": 5}
    d.data["devices"]["sel-one"]["made"] = made
    found = [f for f in told(d, MIXED) if f.key.startswith("one-pole-mixed")]
    assert [f.place.id for f in found] == (["sel-one"] if heard else [])
    for f in found:
        assert mended(d, f).devices["sel-one"].made == made.replace("one pole", "two poles") and falls_silent(d, f)


@pytest.mark.parametrize(("gives", "heard"), [("dcc", True), ("dc", False)])
def test_a_common_rail_is_for_cabs_alone(gives: str, heard: bool) -> None:
    d = two_blocks(common=True)
    d.data["devices"]["dev-b"] |= {"kind": "booster", "gives": gives, "trip_amps": 5}
    found = [f for f in told(d, MIXED) if f.key.startswith("common-mixed")]
    assert severities(found) == (["must"] if heard else [])
    for f in found:
        assert mended(d, f).circuits["b"].return_of is None and falls_silent(d, f)


# Joints of boards


@pytest.mark.parametrize(("rated", "severity"), [(5.0, None), (4.9, "should"), (3.34, "should"), (3.33, "must")])
def test_a_pole_carries_what_its_protection_lets_through(rated: float, severity: str | None) -> None:
    """The booster trips at 5 A; half as much again over the rating burns."""
    d = with_coupling(two_boards())
    d.data["connectors"]["two"]["amps"] = rated
    assert severities(told(d, "pole beyond its rating")) == ([severity] if severity else [])


@pytest.mark.parametrize(
    ("wish", "at", "bare"),
    [
        (300, (), "before and beyond"),
        (300, (700, 1300), ""),
        (300, (699, 1300), "before"),
        (300, (700, 1301), "beyond"),
        (None, (), ""),
        (1001, (), ""),
    ],
)
def test_feeders_within_a_wish_of_every_joint(wish: float | None, at: tuple[float, ...], bare: str) -> None:
    """A joint at 1 m of a track of 2 m: a wish beyond the track's own end asks for nothing there."""
    d = two_boards()
    d.data["brief"]["travelling"] = {"feeder_by_joint": wish}
    for n, place in enumerate(at):
        feeder(d, f"F{n + 1}", "t", place, "T1")
    found = told(d, "no feeder by a joint")
    assert bool(found) is bool(bare) and all(f" {bare} the joint between" in f.title for f in found)


# Frogs of three-rail track


@pytest.mark.parametrize(("control", "turned"), [("dcc", True), ("dc", True), ("ac3", False)])
def test_nothing_turns_a_frog_of_the_outer_rails(control: str, turned: bool) -> None:
    """Both outers are one conductor: a frog among them has no polarity, no unit, no test and no power to route."""
    d = plain()
    d.data["brief"]["control"] = control
    d.data["brief"]["rules"]["frog_unit_volts"] = 30
    d.node("N2", 3000, 0, "turnout", hand="left", frog="live", contact="none", name="T")
    d.data["tracks"]["t"]["b"] = {"node": "N2", "port": "points"}
    for name, y in (("through", 0), ("diverging", 500)):
        d.node(f"E-{name}", 4000, y, "bumper")
        d.track(name, name, f"N2.{name}", f"E-{name}.1")
    feeder(d, "F1", "t", 500, "T2")
    assert bool(told(d, "frogs")) is turned
    d.data["nodes"]["N2"]["contact"] = "automatic"
    assert bool(told(d, "frog unit volts")) is turned
    layout = d.plain()
    facts = derive(layout)
    assert any(t.kind == "frog" for t in Bench(facts).tests) is turned
    assert ("live frog" in smallest_test_track(facts)[0].what) is turned
    d.data["nodes"]["N2"]["frog"] = "routing"
    routed = derive(d.plain())
    assert bool(behind_frogs(routed.layout, routed.rails)) is turned
    feeder(d, "F2", "through", 500, "T2")
    assert bool(told(d, "power-routing turnout fed from its frog")) is turned
