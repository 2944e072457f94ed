"""Plans and faults that cannot be, refused in words; and a train that a person drives while the evening runs."""

from __future__ import annotations

from typing import Any

import pytest

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.rehearsal.hands import Act
from jolly_copper.core.rehearsal.run import PlanRefused, by_hand, rehearse
from tests.layouts import feeder, plain
from tests.running import entries, goes, passing, plan, run, stock
from tests.signalled import junction

BAD: list[tuple[dict[str, Any], str]] = [
    (goes("one", "t", 9000, {"track": "t", "at": 100}), "6000 mm long; One would begin 9000"),
    (goes("one", "t", 100, {"track": "t", "at": 500}), "the track behind its front on Track is shorter"),
    (goes("one", "gone", 100), "begins on track gone, which is gone"),
    (goes("one", "t", 1000, {"track": "gone", "at": 1}), "calls at track gone"),
    (goes("one", "t", 1000, {"track": "t", "at": 7000}), "cannot come to 7000"),
    (goes("one", "t", 1000, {"track": "t", "at": 500}), "has no way from Track, facing N2"),
    (goes("one", "t", 1000, {"track": "t", "at": 2000, "via": ["gone"]}), "goes over track gone"),
    (
        goes("one", "t", 1000, {"track": "t", "at": 2000, "leaves": 50}, {"track": "t", "at": 3000, "leaves": 50}),
        "no later than the place before",
    ),
    ({**goes("one", "t", 1000), "train": "ghost"}, "There is no train ghost any more"),
]


@pytest.mark.parametrize(("train", "words"), BAD, ids=[w for _, w in BAD])
def test_a_plan_that_cannot_be_is_refused_in_words_that_name_why(train: dict[str, Any], words: str) -> None:
    d = stock(plain(6000), "one")
    feeder(d, "F1", "t", 100, "T1")
    with pytest.raises(PlanRefused) as refused:
        run(d, plan(train))
    assert any(words in s for _, s in refused.value.wrong), refused.value.wrong
    assert all(p.startswith("/trains/") for p, _ in refused.value.wrong)


def test_two_trains_on_the_same_rails_are_refused_with_both_names() -> None:
    d = stock(plain(6000), "one", "two")
    with pytest.raises(PlanRefused) as refused:
        run(d, plan(goes("one", "t", 1000), goes("two", "t", 1200)))
    assert refused.value.wrong == [("/trains/two/at", "Two begins where One stands, on Track.")]
    with pytest.raises(PlanRefused, match="No train is in this plan"):
        run(d, plan())


def test_a_turnout_thrown_by_hand_is_no_way_of_a_signal() -> None:
    d = stock(junction(), "one", length=300)
    d.data["nodes"]["T"]["motor"] = "hand"
    with pytest.raises(PlanRefused, match="thrown by hand and lies through"):
        run(d, plan(goes("one", "a", 1000, {"track": "b", "at": 2000})))


FAULTS = [
    ({"kind": "tool on the rail", "seconds": 5}, "track", "wants its track"),
    ({"kind": "tool on the rail", "seconds": 5, "track": "t", "at": 99_999}, "at", "lies beyond it"),
    ({"kind": "derailment", "seconds": 5, "train": "nobody"}, "train", "No train nobody"),
    ({"kind": "turnout dumb", "seconds": 5, "node": "N1"}, "node", "no turnout N1"),
    ({"kind": "device off", "seconds": 5, "device": "K9"}, "device", "no device K9"),
    ({"kind": "device set", "seconds": 5, "device": "B1"}, "amps", "Say the amps"),
    ({"kind": "tool on the rail", "seconds": 900, "track": "t", "at": 1}, "seconds", "after the end"),
]


@pytest.mark.parametrize(("fault", "field", "words"), FAULTS, ids=[w for *_, w in FAULTS])
def test_a_fault_that_cannot_be_is_refused_beside_its_field(fault: dict[str, Any], field: str, words: str) -> None:
    d = stock(plain(6000), "one")
    with pytest.raises(PlanRefused) as refused:
        run(d, plan({"train": "one", "track": "t", "at": 1000, "by": "parked"}, faults=[fault]))
    assert (f"/faults/0/{field}", True) in [(p, words in s) for p, s in refused.value.wrong]


def hand(p: Any) -> tuple[list[Any], Any, Any]:
    """A plan run bit by bit: its lines so far, how to run on to a moment, and how to have something done."""
    d = stock(passing(), "mine", "other")
    layout = d.plain()
    found = rehearse(layout, derive(layout), p, at_once=0)
    lines: list[Any] = [next(found.lines)]
    ahead: list[Any] = []

    def until(t: float) -> None:
        while True:
            line = ahead.pop() if ahead else next(found.lines, None)
            if line is None:
                return
            if line.t > t:
                ahead.append(line)
                return
            lines.append(line)

    def does(what: str, train: str = "mine") -> str | None:
        said: list[str | None] = []
        by_hand(found.evening, Act("drive", train, does=what), said.append)  # type: ignore[arg-type]
        until(found.evening.t + 1.5)
        return said[0] if said else "not yet"

    return lines, until, (does, found)


def test_a_person_drives_one_train_while_the_rest_go_by_plan() -> None:
    p = plan(
        {"train": "mine", "track": "west", "at": 1000, "by": "hand"},
        goes("other", "east", 1500, {"track": "east", "at": 700}, towards="a", leaves=5),
        minutes=10,
    )
    lines, until, (does, found) = hand(p)
    mine = found.evening.trains["mine"]
    until(4)
    assert mine.where(4)[1] == 0
    assert does("go", "other") == "There is no train other that a person drives."
    assert does("go") is None
    until(8)
    s, v = mine.where(8)
    assert v > 20 and s > mine.stock.length
    assert does("turn") == "Mine is under way: stop it first."
    assert does("stop") is None
    until(30)
    assert mine.where(30)[1] == 0 and not mine.going
    stood = mine.where(30)[0]
    assert does("go") is None
    until(90)
    # It runs as the turnout lies, and waits before what the other has.
    assert mine.where(90)[0] > stood and mine.where(90)[1] == 0
    assert does("turn") is None and does("go") is None
    until(200)
    assert mine.place(mine.where(200)[0]).track == "west"
    assert {e.train for e in entries(lines, "arrives")} >= {"other"}
