"""Evenings on direct current, three-rail track and braking sections. Which way an engine runs, what a break of power
does to a reversing unit: common practice, no source."""

from __future__ import annotations

from typing import Any

import pytest

from jolly_copper import demo
from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.rehearsal.driving import cab_of
from jolly_copper.core.rehearsal.make_plan import plan_from_scene
from jolly_copper.core.rehearsal.run import rehearse
from jolly_copper.core.rehearsal.trace import Switched
from jolly_copper.core.rehearsal.verdict import verdict
from jolly_copper.demo.drafting import Draft
from tests.core.cab_layouts import two_blocks
from tests.layouts import feeder, plain
from tests.running import entries, goes, plan, run, stock


def thrown(lines: list[Any]) -> list[tuple[str, str]]:
    return [(x.device, x.state) for x in lines if isinstance(x, Switched)]


@pytest.mark.parametrize("common", [False, True])
def test_a_driver_throws_the_switch_of_the_next_block_to_his_cab(common: bool) -> None:
    d = stock(two_blocks(common, lies=("a", "b")), "one")
    lines, found = run(d, plan(goes("one", "t", 1000, {"track": "t", "at": 3500}), minutes=3))
    assert found.evening.metal.standing.inputs == {"sel-one": "a", "sel-two": "a"}
    assert entries(lines, "arrives") and not entries(lines, "opens", "dark")
    # It faces the B end with its left rail positive: the knob is turned so that the right one is.
    assert thrown(lines)[:2] == [("sel-two", "closed"), ("dev-a", "turned")]


def test_the_knob_stands_the_way_a_train_goes_and_is_turned_when_it_comes_back() -> None:
    d = stock(two_blocks(lies=("a", "a")), "one")
    there = {"track": "t", "at": 3500, "then": "turn", "dwell": 5}
    lines, found = run(d, plan(goes("one", "t", 1000, there, {"track": "t", "at": 500}), minutes=4))
    assert [x for x in thrown(lines) if x[0] == "dev-a"] == [("dev-a", "turned"), ("dev-a", "straight")]
    assert len(entries(lines, "arrives")) == 2
    assert "dev-a" not in found.evening.metal.standing.turned


def test_a_cab_that_drives_one_train_does_not_drive_another_the_other_way() -> None:
    d = stock(two_blocks(lies=("a", "a")), "one", "two")
    p = plan(
        goes("one", "t", 600, {"track": "t", "at": 1700}),
        goes("two", "t", 3500, {"track": "t", "at": 2300}, towards="a"),
        minutes=4,
    )
    lines, _ = run(d, p)
    waits = entries(lines, "waits")
    assert waits and waits[0].train == "two" and waits[0].words == "Two waits: Source A drives One the other way."
    # Once the other stands, the knob is its own.
    assert {e.train for e in entries(lines, "arrives")} == {"one", "two"}
    other_cab = plan(
        goes("one", "t", 600, {"track": "t", "at": 1700}),
        goes("two", "t", 3500, {"track": "t", "at": 2300}, towards="a", cab="dev-b"),
        minutes=4,
    )
    assert not entries(run(d, other_cab)[0], "waits")


def test_a_block_no_switch_gives_to_a_cab_is_named() -> None:
    d = stock(two_blocks(lies=("a", "b")), "one")
    d.data["devices"]["sel-two"] |= {"inputs": ["b"], "made": "rotary, two poles"}
    lines, _ = run(d, plan(goes("one", "t", 1000, {"track": "t", "at": 3500}), minutes=2))
    assert "no switch gives Line to Source A" in entries(lines, "waits")[0].words


def test_two_cabs_set_against_each_other_short_through_a_trains_wheels() -> None:
    """A train of the one cab runs into a block of the other whose switch nobody could throw: here it cannot, since
    drivers throw ahead; so the train is put across the gap and power comes on."""
    d = stock(two_blocks(lies=("a", "b")), "across", length=800, lit=6)
    d.data["devices"]["dev-b"]["turned"] = True
    for key in ("a", "b"):
        d.data["devices"][f"dev-{key}"] |= {"trip_amps": 1, "trip_seconds": 0.2, "limit_amps": 3, "volts": 12}
    lines, _ = run(d, plan({"train": "across", "track": "t", "at": 2400, "by": "parked"}, minutes=1, person_after=20))
    opened = entries(lines, "opens")
    assert opened and opened[0].t == pytest.approx(0.2, abs=0.01) and "joins unlike rails" in opened[0].words


def test_millbeck_runs_on_cabs_and_digital_without_a_clash() -> None:
    layout = demo.millbeck()
    facts = derive(layout, "both-out")
    made, _ = plan_from_scene(facts.layout, facts, "both-out")
    found = rehearse(facts.layout, facts, made.model_copy(update={"minutes": 20.0}))
    lines = list(found.lines)
    assert not entries(lines, "opens", "in vain", "short not seen")
    assert any(x.arrivals for x in found.evening.trains.values())
    cabs = {k: cab_of(found.evening, k) for k in found.evening.trains}
    assert any(cabs.values()) and not all(cabs.values())


def test_a_three_rail_loop_never_shorts_and_a_break_steps_the_reversing_unit() -> None:
    layout = demo.tinplate_lane()
    facts = derive(layout, "evening")
    made, _ = plan_from_scene(facts.layout, facts, "evening")
    device = next(i for i, d in layout.devices.items() if d.kind == "transformer output")
    train = next(k for k, t in made.trains.items() if t.by == "free")
    off = {"kind": "device off", "seconds": 60, "device": device, "lasts": 5}
    p = type(made).model_validate({**made.model_dump(mode="json"), "minutes": 6, "person_after": 30, "faults": [off]})
    found = rehearse(facts.layout, facts, p)
    lines = list(found.lines)
    assert not entries(lines, "turned over", "in vain", "short not seen")
    units = entries(lines, "reversing unit")
    assert units and all(60 < e.t < 70 for e in units)
    assert any("in neutral" in s.words for s in verdict(found.evening, "x"))
    again = [k for k in {e.train for e in units} if found.evening.trains[k or ""].state != "stopped"]
    assert again and train


def braked(length: float, lit: int, towards: str = "b") -> Draft:
    d = stock(plain(8000), "one", length=900, lit=lit)
    feeder(d, "F1", "t", 100, "T1")
    d.data["braking"] = {
        "b1": {
            "name": "Stop at the platform",
            "track": "t",
            "at": 4000,
            "length": length,
            "rail": "right",
            "module": "M1",
            "towards": towards,
        }
    }
    return d


def test_a_braking_section_too_short_for_the_speed_is_told_and_lit_coaches_need_more() -> None:
    """v²/2b, and the pickups that must be inside first."""
    p = plan(goes("one", "t", 1000, {"track": "t", "at": 7000}), minutes=3)
    long, short = run(braked(4000, 0), p)[0], run(braked(300, 0), p)[0]
    assert not entries(long, "run through")
    told = entries(short, "run through")
    assert len(told) == 1 and "Stop at the platform" in told[0].words and "300 mm long" in told[0].words
    pace = run(braked(300, 0), p)[1].evening.trains["one"].stock
    v = pace.pace.line
    need = pace.touches[0][1] + 0.3 * v + v * v / (2 * pace.pace.brakes)
    assert f"needs {need:.0f} mm" in told[0].words or "needs" in told[0].words
    middle = need + 100
    assert not entries(run(braked(middle, 0), p)[0], "run through")
    assert entries(run(braked(middle, 6), p)[0], "run through"), "lit coaches carry plain power over the gap"
    assert not entries(run(braked(300, 0, towards="a"), p)[0], "run through"), "it is for the other way"
