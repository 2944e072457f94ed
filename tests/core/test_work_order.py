"""Where the work stands: the four states of every step, the reason, and what is done next."""

from __future__ import annotations

from typing import Any

import pytest

from jolly_copper.core.circuits.facts import Facts, derive
from jolly_copper.core.findings.check import check
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.layout.reading import read_layout
from jolly_copper.core.work_order import SAYS, Standing, next_step, work_order
from jolly_copper.demo import gannet_bay, undivided_bay, unwired_bay
from tests.layouts import feeder, plain, random_layout
from tests.track_plans import balloon, oval


def order(layout: Layout, done: int = 0) -> dict[str, Standing]:
    facts = derive(layout, next(iter(layout.scenes), None))
    return {s.step: s for s in work_order(facts, check(facts), done)}


def with_(layout: Layout, path: str, value: Any) -> Layout:
    return apply_patch(layout, [{"op": "add", "path": path, "value": value}])


def test_an_empty_layout_has_no_step_that_is_sound() -> None:
    steps = order(read_layout({"name": "Paper"}))
    assert list(steps) == list(SAYS), "in the order the work is best done"
    assert {s.condition for s in steps.values()} == {"begun", "not begun"}
    assert steps["brief"].condition == "begun", "a new layout has its scale and control"
    onward = next_step(tuple(steps.values()))
    assert onward is not None and onward.step == "track" and onward.act is not None
    assert onward.act.words == "Draw the first track, or take in a drawing."


def test_nothing_is_said_to_be_done_where_there_is_nothing_to_do_it_to() -> None:
    steps = order(read_layout({"name": "Paper"}))
    for step in ("reverse", "cabs", "book"):
        assert steps[step].act is None and steps[step].reason.startswith("There is no ")


def test_the_next_act_of_the_demo_is_its_first_must_with_its_place() -> None:
    steps = order(gannet_bay())
    assert steps["track"].condition == "to settle" and steps["track"].must
    onward = next_step(tuple(steps.values()))
    assert onward is steps["track"] and onward.act is not None
    assert "T31" in onward.act.words and onward.act.place is not None and onward.act.finding == "frog-contact:T31"


def test_without_wire_the_step_is_not_begun_however_much_is_dead() -> None:
    steps = order(unwired_bay())
    assert (steps["wire"].condition, steps["book"].condition) == ("not begun", "not begun")
    assert steps["zones"].condition == "to settle" and steps["reverse"].condition == "sound"


def test_wire_under_way_is_begun_until_every_piece_has_a_feeder() -> None:
    d = plain()
    d.data["gaps"] = {"G1": {"track": "t", "at": 1500, "rails": "both"}}
    d.section("far", "Far", "t", 2900, "main")
    feeder(d, "F1", "t", 100, "T1")
    steps = order(d.plain())
    assert steps["wire"].condition == "begun" and steps["wire"].reason == "1 piece waits for wire."
    assert steps["wire"].act is not None and steps["wire"].act.place is not None
    feeder(d, "F2", "t", 2000, "T2")
    assert order(d.plain())["wire"].condition != "begun"


@pytest.mark.parametrize(("step", "brief"), [("detect", "detecting"), ("signal", "signalling")])
def test_what_the_club_does_not_want_is_sound(step: str, brief: str) -> None:
    layout = gannet_bay()
    assert order(layout)[step].condition == "not begun"
    steps = order(with_(layout, f"/brief/{brief}/wanted", False))
    assert steps[step].condition == "sound" and "wants no" in steps[step].reason


def test_trains_without_a_place_are_counted() -> None:
    layout = gannet_bay()
    train = layout.trains[next(iter(layout.trains))].model_dump(mode="json")
    steps = order(with_(layout, "/trains/extra", {**train, "name": "Late goods"}))
    assert steps["trains"].condition == "begun" and steps["trains"].act is not None
    assert steps["trains"].act.words == "Say where trains run: 1 of 13 has no place."


def test_a_guess_never_stands_before_a_must() -> None:
    steps = order(gannet_bay())
    assert steps["trains"].act is not None and steps["trains"].act.urgency == "some day"
    settled = order(undivided_bay())
    onward = next_step(tuple(settled.values()))
    assert onward is not None and onward.step == "detect", "what is not begun comes before what is a guess"


def test_an_accepted_finding_is_settled() -> None:
    layout = gannet_bay()
    facts = derive(layout, "open-day")
    mine = [f for f in check(facts) if f.place and f.rule == "frogs"]
    assert mine
    accepted = {f.key: {"reason": "We throw it by hand"} for f in check(facts)}
    steps = order(read_layout({**layout.model_dump(mode="json"), "accepted": accepted}))
    assert {s.condition for s in steps.values()} <= {"sound", "not begun"}


def test_three_rail_track_may_come_back_on_itself() -> None:
    two_rail, three_rail = balloon().plain(), balloon()
    three_rail.data["brief"] = {"control": "ac3"}
    assert order(two_rail)["reverse"].must
    assert order(three_rail.plain())["reverse"].condition == "sound"
    assert order(oval().plain())["reverse"].condition == "sound"


def test_work_logged_makes_the_book_sound_without_a_next_act() -> None:
    d = plain()
    feeder(d, "F1", "t", 100, "T1")
    before, after = order(d.plain()), order(d.plain(), done=3)
    assert before["book"].act is not None
    if after["book"].condition == "sound":
        assert after["book"].act is None and "3 tasks" in after["book"].reason


@pytest.mark.parametrize("seed", range(6))
def test_every_step_has_a_reason_and_every_open_one_something_to_do(seed: int) -> None:
    layout = random_layout(seed)
    facts: Facts = derive(layout, None)
    for s in work_order(facts, check(facts)):
        assert s.reason.endswith(".") and (s.act is None or s.act.words)
        assert s.must <= (s.condition == "to settle")
        if s.condition in ("begun", "to settle"):
            assert s.act is not None, s.step
