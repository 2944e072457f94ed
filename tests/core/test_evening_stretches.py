"""Stretches that act on trains, trains that act on stretches, speed by volts, and what a person does: how a decoder
sees a braking section, where an engine begins to move: common practice, no source."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jolly_copper.core.circuits.stopping import scale_speed
from jolly_copper.core.rehearsal.by_volts import STARTS_AT_VOLTS, share_left
from jolly_copper.core.rehearsal.motion import at_time
from jolly_copper.core.rehearsal.proof import prove
from jolly_copper.core.rehearsal.run import PlanRefused
from jolly_copper.core.rehearsal.trace import Motion, Sample
from jolly_copper.core.rehearsal.verdict import verdict
from jolly_copper.demo.drafting import Draft
from tests.core.test_evening_cabs import braked
from tests.core.test_three_rail import straight
from tests.layouts import feeder, plain
from tests.running import entries, goes, passing, plan, powered, run, stock
from tests.signalled import line


def test_a_train_stands_in_a_section_for_its_seconds_and_goes_on() -> None:
    d = braked(2000, 0)
    d.data["braking"]["b1"]["seconds"] = 12
    lines, found = run(d, plan(goes("one", "t", 1000, {"track": "t", "at": 7500}), minutes=4))
    (held,) = entries(lines, "brakes")
    assert held.words == "One stops by itself in Stop at the platform."
    train = found.evening.trains["one"]
    joined = max(b for a, b in train.stock.touches if b - a > 10)
    v = train.speeds[0][1] if train.speeds else train.most
    assert held.at == pytest.approx(4000 + joined + 0.3 * v + v * v / (2 * train.stock.pace.brakes), abs=0.2)
    moves = [m for m in lines if isinstance(m, Motion) and m.t > held.t]
    assert moves[0].t == pytest.approx(held.t + 12) and entries(lines, "arrives")
    # For the other way it does nothing.
    other_way = braked(2000, 0, towards="a")
    assert not entries(run(other_way, plan(goes("one", "t", 1000, {"track": "t", "at": 7500})))[0], "brakes")


def test_a_call_in_a_section_is_one_halt_not_two() -> None:
    d = braked(3000, 0)
    lines, _ = run(d, plan(goes("one", "t", 1000, {"track": "t", "at": 7500}), minutes=4))
    at = entries(lines, "brakes")[0].at
    assert at is not None
    again = run(braked(3000, 0), plan(goes("one", "t", 1000, {"track": "t", "at": round(at, 1)}), minutes=4))[0]
    assert entries(again, "arrives") and not entries(again, "brakes")


def held_line(length: float) -> Draft:
    d = stock(powered(line(4, 3000)), "one", "two", length=400)
    d.data["braking"] = {
        "b": {
            "name": "Before S2",
            "track": "t",
            "at": 6000 - 60 - length,
            "length": length,
            "rail": "right",
            "module": "M",
            "held_by": "S2",
        }
    }
    return d


def test_a_section_held_by_a_signal_stops_a_train_until_it_clears() -> None:
    p = plan(
        goes("one", "t", 1000, {"track": "t", "at": 8500}),
        goes("two", "t", 8000, {"track": "t", "at": 11500}, leaves=120),
        minutes=6,
    )
    lines, _ = run(held_line(2500), p)
    (held,) = entries(lines, "brakes")
    assert held.words == "One stops by itself in Before S2 until S2 clears." and held.train == "one"
    assert held.at is not None and 3440 < held.at < 5940 - 25, "it stands in the section, before the head"
    goes_on = [m for m in lines if isinstance(m, Motion) and m.train == "one" and m.t > held.t + 1]
    assert goes_on[0].t > 120, "not before the other has left"
    assert {e.train for e in entries(lines, "arrives")} == {"one", "two"}
    # With its way given ahead it runs through without a halt, as with the module lifted.
    free = plan(goes("one", "t", 1000, {"track": "t", "at": 8500}), minutes=4)
    assert not entries(run(held_line(2500), free)[0], "brakes", "run through")


def test_power_lost_while_a_section_holds_a_train_does_not_hold_it_for_ever() -> None:
    d = braked(2000, 0)
    d.data["braking"]["b1"]["seconds"] = 30
    p = plan(goes("one", "t", 1000, {"track": "t", "at": 7500}), minutes=6)
    held = entries(run(d, p)[0], "brakes")[0]
    off = {"kind": "device off", "seconds": held.t + 5, "device": "B1", "lasts": 60}
    lines, _ = run(d, plan(goes("one", "t", 1000, {"track": "t", "at": 7500}), minutes=6, faults=[off]))
    assert entries(lines, "dark") and entries(lines, "arrives")


def three_rail() -> Draft:
    d = stock(straight(), "one", length=200, lit=0)
    d.data["isolated"]["i"] = {
        "name": "Gate rail",
        "track": "t",
        "at": 900,
        "length": 500,
        "outer": "right",
        "works": "Crossing gate",
    }
    return d


def test_an_isolated_rail_works_while_a_train_is_on_it() -> None:
    lines, found = run(three_rail(), plan(goes("one", "t", 400, {"track": "t", "at": 1900, "then": "turn"}), minutes=3))
    on, off = entries(lines, "works")
    assert on.words == "Crossing gate begins: One is on Gate rail."
    assert off.words.startswith("Crossing gate ends after") and off.t > on.t
    train = found.evening.trains["one"]
    way = [m for m in lines if isinstance(m, Motion)]
    before = [m for m in way if m.t <= on.t][-1]
    s0 = way[0].phases[0].s
    assert at_time(before.phases, on.t)[0] - s0 == pytest.approx(900 - 400, abs=0.1)
    last = [m for m in way if m.t <= off.t][-1]
    assert at_time(last.phases, off.t)[0] - s0 == pytest.approx(1400 + train.stock.length - 400, abs=0.1)


def test_a_train_that_turns_on_an_isolated_rail_lets_it_go_when_it_leaves() -> None:
    there = {"track": "t", "at": 1250, "then": "turn", "dwell": 5}
    lines, _ = run(three_rail(), plan(goes("one", "t", 400, there, {"track": "t", "at": 300}), minutes=4))
    words = [e.words.split(":")[0] for e in entries(lines, "works")]
    assert words[0] == "Crossing gate begins" and words[1].startswith("Crossing gate ends") and len(words) == 2


def test_a_train_that_begins_on_an_isolated_rail_works_it_from_the_start() -> None:
    lines, found = run(three_rail(), plan(goes("one", "t", 1100, {"track": "t", "at": 1900}), minutes=3))
    on, off = entries(lines, "works")
    assert on.t == 0 and on.words.startswith("Crossing gate begins") and off.t > 0
    assert [e.n for e in entries(lines)] == list(range(len(found.evening.entries)))
    before, _ = run(three_rail(), plan(goes("one", "t", 500, {"track": "t", "at": 800}), minutes=2))
    assert not entries(before, "works"), "it never comes to it"


def test_what_two_trains_work_ends_with_the_last_and_counts_from_the_first() -> None:
    d = stock(three_rail(), "first", "second", length=200, lit=0)
    p = plan(
        goes("first", "t", 1390, {"track": "t", "at": 1900}, leaves=5),
        goes("second", "t", 950, {"track": "t", "at": 600}, towards="a", leaves=60),
        minutes=4,
    )
    on, off = entries(run(d, p)[0], "works")
    assert "First is on" in on.words and "Second has left" in off.words
    assert off.words.startswith(f"Crossing gate ends after {off.t:.0f} s")


def test_a_section_held_by_a_signal_its_way_does_not_pass_wants_a_person() -> None:
    d = held_line(2500)
    p = plan(goes("one", "t", 1000, {"track": "t", "at": 5800}), minutes=6, person_after=30)
    lines, _ = run(d, p)
    (held,) = entries(lines, "brakes")
    assert held.words.endswith("Before S2, and its way does not lead past S2.")
    goes_on = [m for m in lines if isinstance(m, Motion) and m.t > held.t + 1]
    assert goes_on[0].t == pytest.approx(held.t + 30) and entries(lines, "arrives")


def test_a_derailment_in_a_section_leaves_the_calls_as_they_were() -> None:
    d = braked(2000, 0)
    d.data["braking"]["b1"]["seconds"] = 10
    there = goes("one", "t", 1000, {"track": "t", "at": 7000}, {"track": "t", "at": 7600})
    held = entries(run(d, plan(there, minutes=6))[0], "brakes")[0]
    off = {"kind": "derailment", "seconds": held.t + 3, "train": "one", "lasts": 40}
    lines, found = run(d, plan(there, minutes=6, faults=[off]))
    assert len(entries(lines, "arrives")) == 2 and found.evening.trains["one"].state == "done"


def far_fed(ohms: float) -> Draft:
    """A line on a cab, fed at one end alone over a source of so many ohms inside."""
    d = stock(plain(8000, ohms_per_metre=0.02), "one", running=0.8)
    d.data["brief"]["control"] = "dc"
    d.data["devices"]["B1"] |= {"kind": "cab", "name": "Cab", "volts": 12, "ohms": ohms, "trip_amps": 3}
    feeder(d, "F1", "t", 100, "T1")
    return d


def test_on_direct_current_a_train_runs_as_fast_as_its_volts_let_it() -> None:
    """v = v_leg − v_line·lost/(V_open − 3), by hand from the volts that are told."""
    there = goes("one", "t", 1000, {"track": "t", "at": 7000})
    lines, found = run(far_fed(4.0), plan(there, minutes=4))
    train = found.evening.trains["one"]
    assert train.slowest is not None and train.slowest[0] < 0.8
    even = [x for x in lines if isinstance(x, Sample) and x.volts[0] is not None and x.amps[0] == pytest.approx(0.8)]
    checked = 0
    for sample in even:
        phases = [m for m in lines if isinstance(m, Motion) and m.t <= sample.t + 1][-1].phases
        now = [p for p in phases if p.t <= sample.t + 1][-1]
        if now.a or now.v == 0 or sample.volts[0] is None:
            continue
        leg = scale_speed("HO", 40)  # no head says otherwise
        want = leg - train.stock.pace.line * (12 - sample.volts[0]) / (12 - STARTS_AT_VOLTS)
        assert now.v == pytest.approx(want, abs=0.03 * leg)
        checked += 1
    assert checked > 20
    assert any("of the speed its knob was set to" in s.words for s in verdict(found.evening, "x"))
    quick, stiff = run(far_fed(0.01), plan(there, minutes=4))
    assert entries(quick, "arrives")[0].t < entries(lines, "arrives")[0].t
    assert not any("knob was set to" in s.words for s in verdict(stiff.evening, "x"))


def test_digital_trains_do_not_slow_with_their_volts() -> None:
    d = far_fed(4.0)
    d.data["brief"]["control"] = "dcc"
    d.data["devices"]["B1"] |= {"kind": "booster"}
    _, found = run(d, plan(goes("one", "t", 1000, {"track": "t", "at": 7000}), minutes=4))
    assert found.evening.trains["one"].slowest is None and found.evening.trains["one"].left == 1


@given(st.floats(0, 30), st.floats(0, 30), st.floats(0.1, 30))
def test_the_share_of_speed_is_between_none_and_all_and_grows_with_volts(one: float, other: float, most: float) -> None:
    low, high = sorted((min(one, most), min(other, most)))
    assert 0 <= share_left(low, most) <= share_left(high, most) <= 1
    assert share_left(most, most) == (1 if most > STARTS_AT_VOLTS else 0)


def test_what_a_person_does_is_part_of_the_plan() -> None:
    moves = [
        {"does": "go", "seconds": 10, "train": "mine"},
        {"does": "stop", "seconds": 16, "train": "mine"},
        {"does": "turn", "seconds": 17, "train": "mine"},
        {"does": "throw", "seconds": 20, "node": "P2", "lies": "diverging"},
        {"does": "power off", "seconds": 30, "device": "B1"},
        {"does": "power on", "seconds": 40, "device": "B1"},
        {"does": "turn", "seconds": 60, "train": "mine"},
        {"does": "go", "seconds": 70, "train": "mine"},
    ]
    mine = {"train": "mine", "track": "west", "at": 1000, "by": "hand"}
    d = stock(passing(), "mine")
    lines, found = run(d, plan(mine, minutes=5, moves=moves))
    told = [(round(e.t), e.kind, e.words) for e in entries(lines, "by hand", "not done")]
    assert told[0] == (10, "by hand", "Mine is driven on.")
    assert (17, "not done", "Not done: Mine is under way: stop it first.") in told
    assert (20, "by hand", "P2 is thrown to diverging by hand.") in told
    assert [k for t, k, _ in told if t in (30, 40)] == ["by hand", "by hand"]
    assert entries(lines, "dark") and entries(lines, "power back")
    assert found.evening.trains["mine"].arrivals >= 1
    assert run(d, plan(mine, minutes=5, moves=moves))[0] == lines


def test_what_a_driven_train_does_is_never_proved() -> None:
    by_calls = goes("other", "east", 1500, {"track": "east", "at": 700}, towards="a")
    mine = {"train": "mine", "track": "west", "at": 1000, "by": "hand"}
    d = stock(passing(), "mine", "other")
    _, found = run(d, plan(by_calls, mine, minutes=2))
    proof = prove(found.evening, "signals alone")
    assert proof.verdict == "not settled" and "where Mine may go" in proof.words
    _, alone = run(d, plan(by_calls, {**mine, "by": "parked"}, minutes=2))
    assert prove(alone.evening, "signals alone").verdict == "free"


@pytest.mark.parametrize(
    ("move", "field", "words"),
    [
        ({"does": "go", "seconds": 1}, "train", "No train named here"),
        ({"does": "go", "seconds": 1, "train": "other"}, "train", "Nobody drives other"),
        ({"does": "throw", "seconds": 1, "node": "W", "lies": "through"}, "node", "no turnout W"),
        ({"does": "throw", "seconds": 1, "node": "P1", "lies": "up"}, "lies", "P1 cannot lie up"),
        ({"does": "power on", "seconds": 1, "device": "K9"}, "device", "no breaker or booster K9"),
        ({"does": "go", "seconds": 9999, "train": "mine"}, "seconds", "after the end"),
    ],
)
def test_what_cannot_be_done_by_hand_is_refused_beside_its_field(move: dict[str, Any], field: str, words: str) -> None:
    mine = {"train": "mine", "track": "west", "at": 1000, "by": "hand"}
    other = {"train": "other", "track": "east", "at": 1000, "by": "parked"}
    with pytest.raises(PlanRefused) as refused:
        run(stock(passing(), "mine", "other"), plan(mine, other, moves=[move]))
    assert [p for p, s in refused.value.wrong if words in s] == [f"/moves/0/{field}"]
