"""Amps in the moment: what acts first, power that returns, metal under every wheel. Times are common practice, no
source."""

from __future__ import annotations

import shutil
import subprocess
from pathlib import Path
from typing import Any

import pytest

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.layout.plans import RunningPlan
from jolly_copper.core.rehearsal.evening import Evening, new_evening
from jolly_copper.core.rehearsal.metal import Tie, Volts
from jolly_copper.core.rehearsal.power import acts_after, sees_from
from jolly_copper.core.rehearsal.stock import stock_of
from jolly_copper.core.rehearsal.trace import Sample
from jolly_copper.demo.drafting import Draft
from tests.core.cab_layouts import run as cab_run
from tests.core.cab_layouts import source
from tests.layouts import booster, feeder, plain
from tests.running import entries, goes, loop_section, plan, run, stock
from tests.track_plans import power, tie


def evening_of(d: Draft) -> Evening:
    layout = d.plain()
    return new_evening(layout, derive(layout), RunningPlan(name="none"), 0)


def rails(evening: Evening, track: str, at: float) -> tuple[int, int]:
    piece = evening.facts.rails.piece_at(track, at)
    return evening.metal.group(piece, "left"), evening.metal.group(piece, "right")


def wheel(one: int, other: int) -> Tie:
    return Tie(one, other, "t", 3000, "left", "train", 0.05)


def test_a_wheel_over_a_gap_between_opposite_phases_clashes_and_turned_over_it_does_not() -> None:
    evening = evening_of(loop_section())
    (a, b), (c, e) = rails(evening, "t", 1000), rails(evening, "t", 3700)
    clashes, _ = evening.metal.judge([wheel(a, c)])
    assert len(clashes) == 1 and clashes[0].volts == pytest.approx(14.4)
    assert clashes[0].near == {"main"} and clashes[0].far == {"turned"}
    evening.metal.standing.turned.add("V1")
    evening.metal_changed()
    assert not evening.metal.judge([wheel(a, c), wheel(b, e)])[0]
    assert not evening.metal.differ(a, c)


def cabs(turned: bool = False, common: bool = False) -> Draft:
    """Two cabs, each with its own half of a straight."""
    d = Draft("Cabs", brief={"control": "dc", "track_volts": 12})
    d.node("W", 0, 0, "bumper")
    d.node("E", 6000, 0, "bumper")
    d.track("t", "Line", "W.1", "E.1", joiner_every=None)
    d.gap("t", 3000)
    source(d, "a")
    source(d, "b", volts=9, **({"return_of": "a"} if common else {}))
    d.data["devices"]["dev-b"]["turned"] = turned
    for key, at in (("a", 1000), ("b", 5000)):
        terminal = cab_run(d, key)
        feeder(d, f"F{key}", "t", at, terminal)
    return d


def test_two_floating_cabs_clash_only_through_both_rails() -> None:
    """One wheel between two supplies that float joins them and carries nothing; the second closes the loop."""
    evening = evening_of(cabs(turned=True))
    (a, b), (c, e) = rails(evening, "t", 1000), rails(evening, "t", 5000)
    assert not evening.metal.judge([wheel(a, c)])[0]
    both = evening.metal.judge([wheel(a, c), wheel(b, e)])[0]
    assert len(both) == 1 and both[0].volts == pytest.approx(12 + 9)
    same_way = evening_of(cabs(turned=False))
    (a, b), (c, e) = rails(same_way, "t", 1000), rails(same_way, "t", 5000)
    assert same_way.metal.judge([wheel(a, c), wheel(b, e)])[0][0].volts == pytest.approx(3)


def test_on_a_common_return_one_wheel_is_enough() -> None:
    evening = evening_of(cabs(turned=True, common=True))
    (a, b), (c, e) = rails(evening, "t", 1000), rails(evening, "t", 5000)
    clashes = evening.metal.judge([wheel(a, c)])[0]
    assert len(clashes) == 1 and clashes[0].volts == pytest.approx(21)
    assert not evening.metal.judge([wheel(b, e)])[0]


def test_volts_of_unlike_kinds_add_up_in_nothing() -> None:
    assert Volts(dc=5).less(Volts(dcc=7)).size == 12 and Volts(dc=5).less(Volts(dc=5)).size == 0


def test_a_dead_rail_is_fed_through_the_wheels_by_its_neighbour() -> None:
    evening = evening_of(loop_section())
    evening.metal.standing.open.add("V1")
    evening.metal_changed()
    (a, b), (c, e) = rails(evening, "t", 1000), rails(evening, "t", 3700)
    assert evening.metal.differ(a, c) and evening.metal.across(evening.facts.rails.piece_at("t", 3700)) is None
    clashes, fed = evening.metal.judge([wheel(a, c), wheel(b, e)])
    assert not clashes and fed[c] == {"main"}
    screw = Tie(c, e, "t", 3700, None, "fault 0", 0.05)
    assert [x.tie for x in evening.metal.judge([wheel(a, c), wheel(b, e), screw])[0]] == [screw]


def test_what_devices_see_and_when_they_act() -> None:
    d = loop_section()
    d.data["devices"]["V1"] |= {"trip_amps": None, "trip_seconds": None}
    d.data["devices"]["B1"] |= {"trip_amps": 6, "trip_seconds": None, "limit_amps": 4}
    evening = evening_of(d)
    assert sees_from(evening, "V1") == pytest.approx(3) and acts_after(evening, "V1") == pytest.approx(0.010)
    assert sees_from(evening, "B1") == pytest.approx(4) and acts_after(evening, "B1") == pytest.approx(0.250)
    evening.set_amps["V1"], evening.set_seconds["B1"] = 9.0, 0.5
    assert sees_from(evening, "V1") == 9 and acts_after(evening, "B1") == 0.5


SPICE = shutil.which("ngspice")


@pytest.mark.skipif(SPICE is None, reason="ngspice is not here")
@pytest.mark.parametrize("both", [False, True])
def test_amps_over_a_bridged_gap_agree_with_ngspice(tmp_path: Path, both: bool) -> None:
    """A published general simulator: two supplies' wires and rails as resistances, wheels of 0.05 Ω over the gap."""
    d = cabs(turned=True, common=True)
    d.data["brief"] = {"control": "dc", "track_volts": 12, "rules": {"count_inductance": False}}
    evening = evening_of(d)
    copper = evening.copper
    one, other = copper.spot("t", 2999), copper.spot("t", 3001)
    assert one is not None and other is not None
    p, q = copper.between(one, one), copper.between(other, other)
    mutual = copper.between(one, other)
    # Each side is its volts behind half of its loop in each rail, as the estimate has it; B conductors of one wire.
    deck = [
        "bridged gap",
        "VA pa 0 12",
        f"RA1 pa a {p / 2}",
        f"RA2 b 0 {p / 2}",
        "VB pb 0 -9",
        f"RB1 pb c {q / 2}",
        f"RB2 e 0 {q / 2}",
        "RW1 a c 0.05",
        *(["RW2 b e 0.05"] if both else []),
        ".control",
        "op",
        "print (v(a)-v(c))/0.05",
        ".endc",
        ".end",
    ]
    path = tmp_path / "gap.cir"
    path.write_text("\n".join(deck) + "\n")
    told = subprocess.run([str(SPICE), "-b", str(path)], capture_output=True, text=True, check=False).stdout
    amps = float(next(x for x in told.splitlines() if "=" in x and "v(a)" in x).split("=")[1])
    assert copper.over_gap("t", 3000, 21, 1) == pytest.approx(amps, rel=0.1)
    assert mutual >= 0


@pytest.mark.skipif(SPICE is None, reason="ngspice is not here")
@pytest.mark.parametrize("limit", [20.0, 3.0])
def test_filling_engines_take_as_long_as_ngspice_says(tmp_path: Path, limit: float) -> None:
    """Inrush against breaker time: a source that gives less than all of it fills them the longer, t_fill/k.

    Four stores that would take 1 A each for 50 ms at full volts, as constant currents into capacitors, behind a source
    of limited amps: in ngspice the time until they are full, against the figure that restarts are judged by.
    """
    inrush, fills, engines = 1.0, 0.05, 4
    k = min(1.0, limit / (inrush * engines))
    farads = inrush * fills / 12.0 * engines
    deck = [
        "filling",
        f"I1 0 a DC {min(limit, inrush * engines)}",
        f"C1 a 0 {farads} IC=0",
        ".control",
        "tran 0.1m 400m uic",
        "meas tran full WHEN v(a)=12",
        ".endc",
        ".end",
    ]
    path = tmp_path / "fill.cir"
    path.write_text("\n".join(deck) + "\n")
    told = subprocess.run([str(SPICE), "-b", str(path)], capture_output=True, text=True, check=False).stdout
    full = float(next(x for x in told.splitlines() if x.strip().startswith("full")).split("=")[1].split()[0])
    assert fills / k == pytest.approx(full, rel=0.01)


def starting(engines: int, trip: float, after: float, recovery: float | None, **kind: Any) -> Draft:
    d = stock(plain(6000), "many", length=200 * engines, lit=0, **kind)
    feeder(d, "F1", "t", 100, "T1")
    d.data["trains"]["many"]["engines"] = ["engine"] * engines
    d.data["devices"]["B1"] |= {"trip_amps": trip, "trip_seconds": after, "limit_amps": 40, "ohms": 0.02}
    if recovery is not None:
        d.data["devices"]["B1"]["recovery_seconds"] = recovery
    return d


PARKED = {"train": "many", "track": "t", "at": 3000, "by": "parked"}


def test_engines_that_start_together_open_the_breaker_again_for_ever_until_a_person_helps() -> None:
    d = starting(4, 4, 0.05, 2.0, inrush=1.15, fill_seconds=0.09, hold_seconds=0.5)
    lines, _ = run(d, plan(PARKED, minutes=3, person_after=30))
    loops = entries(lines, "restart loop")
    assert (
        len(loops) == 1 and "4 engines" in loops[0].words and "4.6 A for 90 ms against 4 A and 50 ms" in loops[0].words
    )
    assert entries(lines, "closes")[0].t == pytest.approx(30, abs=3)


@pytest.mark.parametrize(
    ("change", "starts"),
    [({"after": 0.1}, True), ({"trip": 5.0}, True), ({"engines": 3}, True), ({}, False)],
    ids=["a breaker that waits longer", "one of more amps", "an engine less", "as it is"],
)
def test_each_cure_of_a_restart_loop_cures_it(change: dict[str, Any], starts: bool) -> None:
    said = {"engines": 4, "trip": 4.0, "after": 0.05, **change}
    d = starting(said["engines"], said["trip"], said["after"], 2.0, inrush=1.15, fill_seconds=0.09, hold_seconds=0.5)
    lines, _ = run(d, plan(PARKED, minutes=1))
    assert bool(entries(lines, "restart loop")) is not starts


def test_engines_that_hold_on_are_full_after_a_few_tries() -> None:
    """q gains t_trip/t_fill a try and loses t_off/t_hold in between: 0.05/0.09 against 0.2/5."""
    d = starting(4, 4, 0.05, 0.2, inrush=1.15, fill_seconds=0.09, hold_seconds=5.0)
    lines, found = run(d, plan(PARKED, minutes=1))
    loop = entries(lines, "restart loop")[0]
    assert "for ever" not in loop.words
    assert entries(lines, "closes")[0].t == pytest.approx(0.2, abs=0.05) or found.evening.trips.get("B1", 0) < 5


def test_trains_that_draw_too_much_open_their_breaker_and_it_says_who() -> None:
    d = stock(plain(8000), "one", length=400, running=4.0, idle=0.1)
    feeder(d, "F1", "t", 100, "T1")
    d.data["devices"]["B1"] |= {"trip_amps": 3, "trip_seconds": 0.2, "limit_amps": 8}
    lines, _ = run(d, plan(goes("one", "t", 1000, {"track": "t", "at": 7000}), minutes=1, person_after=20))
    opened = entries(lines, "opens")[0]
    assert "its trains draw" in opened.words and "One" in opened.words and opened.t < 2


def test_wheels_are_where_engines_and_cars_have_them() -> None:
    d = stock(plain(6000), "dark", "lit", length=900, lit=0, pickups=180)
    d.data["trains"]["lit"]["lit_cars"] = 4
    d.data["trains"]["plastic"] = {**d.data["trains"]["dark"], "name": "Plastic", "metal_wheels": False}
    d.data["trains"]["pushed"] = {**d.data["trains"]["dark"], "engines": ["engine", "engine"], "helpers": 1}
    layout = d.plain()
    dark, lit, plastic = (stock_of(layout, t) for t in ("dark", "lit", "plastic"))
    assert len(dark.touches) == 1 + 2 * 4 and all(b - a == pytest.approx(3) for a, b in dark.touches[1:])
    assert len(lit.touches) == 1 + 4 and lit.touches[-1][1] - lit.touches[-1][0] > 100
    assert plastic.touches == ((-1.5, 181.5),)
    pushed = stock_of(layout, "pushed")
    assert pushed.engines[1].last == pytest.approx(900) and pushed.seen == 900
    assert dark.seen == 180 and lit.seen == 900


def test_a_joiner_that_carries_nothing_darkens_what_lies_beyond_it_and_a_mend_brings_it_back() -> None:
    d = power(Draft("Joiner"))
    d.node("W", 0, 0, "bumper")
    d.node("E", 8000, 0, "bumper")
    d.track("t", "Line", "W.1", "E.1", joiner_every=1000)
    tie(d, "F1", "t", 500)
    stock(d, "near", "far")
    p = plan(
        {"train": "near", "track": "t", "at": 1600, "by": "parked"},
        {"train": "far", "track": "t", "at": 6500, "by": "parked"},
        minutes=1,
        faults=[{"kind": "dead joiner", "seconds": 10, "track": "t", "at": 4000, "lasts": 20}],
    )
    lines, _ = run(d, p)
    dark, back = entries(lines, "dark"), entries(lines, "power back")
    assert [e.train for e in dark] == ["far"] and dark[0].t == pytest.approx(10, abs=1.1)
    assert [e.train for e in back] == ["far"] and back[0].t == pytest.approx(30, abs=1.1)


def test_a_wheelset_without_insulation_shorts_where_it_stands() -> None:
    d = stock(plain(6000), "one")
    feeder(d, "F1", "t", 100, "T1")
    d.data["devices"]["B1"] |= {"trip_seconds": 0.1, "limit_amps": 8}
    p = plan(
        {"train": "one", "track": "t", "at": 3000, "by": "parked"},
        minutes=1,
        person_after=5,
        faults=[{"kind": "wheels not insulated", "seconds": 5, "train": "one", "lasts": 20}],
    )
    lines, _ = run(d, p)
    assert entries(lines, "opens")[0].t == pytest.approx(5.1, abs=0.01)
    assert entries(lines, "closes")[0].t > 25


def test_a_device_set_otherwise_acts_otherwise() -> None:
    d = stock(loop_section(), "one", length=400)
    d.data["devices"]["B1"] |= {"trip_amps": 5, "trip_seconds": 0.05, "limit_amps": 8}
    slow = [{"kind": "device set", "seconds": 0, "device": "V1", "acts_after": 0.5}]
    lines, _ = run(d, plan(goes("one", "t", 2000, {"track": "t", "at": 7500}), minutes=1, faults=slow))
    assert (
        entries(lines, "opens") and entries(lines, "fault")[0].words == "Reverser turned acts after 500 ms from now on."
    )


def test_off_by_hand_stays_off_until_a_hand_turns_it_on() -> None:
    d = stock(plain(6000), "one")
    feeder(d, "F1", "t", 100, "T1")
    off = [{"kind": "device off", "seconds": 10, "device": "B1", "lasts": 20}]
    lines, found = run(d, plan({"train": "one", "track": "t", "at": 3000, "by": "parked"}, minutes=1, faults=off))
    amps = {round(x.t): x.amps[0] for x in lines if isinstance(x, Sample)}
    assert amps[5] > 0 and amps[20] == 0 and amps[40] > 0
    assert found.evening.trains["one"].stood_dark == pytest.approx(20, abs=1.1)


__all__ = ["booster"]
