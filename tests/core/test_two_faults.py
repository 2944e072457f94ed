"""Two faults in one place, or on one train: what the one does the mend of the other leaves alone."""

from __future__ import annotations

from typing import Any

import pytest

from jolly_copper.core.rehearsal.evening import Evening
from jolly_copper.core.rehearsal.faults import begin, mend
from jolly_copper.core.rehearsal.run import PlanRefused
from jolly_copper.core.rehearsal.trace import Entry, Sample
from jolly_copper.demo.drafting import Draft
from tests.layouts import feeder, plain
from tests.running import entries, fed_oval, goes, passing, plan, run, stock


def straight(*trains: str) -> Draft:
    d = stock(plain(8000), *trains)
    feeder(d, "F1", "t", 100, "T1")
    return d


def derails(seconds: float, lasts: float, train: str = "one") -> dict[str, Any]:
    return {"kind": "derailment", "seconds": seconds, "train": train, "lasts": lasts}


def arrival(d: Draft, *faults: dict[str, Any], **train: Any) -> float:
    """When a train that goes to the far end comes there; infinity if it never does."""
    p = plan(
        goes("one", "t", 1000, {"track": "t", "at": 7000}, **train),
        minutes=4,
        person_after=1,
        faults=list(faults),
    )
    lines, _ = run(d, p)
    return next((e.t for e in entries(lines, "arrives")), float("inf"))


def test_a_train_that_derails_twice_goes_on_when_both_are_mended() -> None:
    d = straight("one")
    d.data["devices"]["B1"] |= {"trip_seconds": 0.02, "limit_amps": 8, "recovery_seconds": 1}
    calm = arrival(d)
    once = arrival(d, derails(3, 20))
    twice = arrival(d, derails(3, 20), derails(8, 40))
    within = arrival(d, derails(3, 45), derails(8, 20))
    assert once == pytest.approx(calm + 20, abs=3)
    assert twice == pytest.approx(calm + 45, abs=5)  # it starts twice
    assert within == pytest.approx(twice, abs=3)


def test_a_train_that_derails_in_a_dark_stretch_stays_when_power_returns() -> None:
    d = straight("one")
    off = {"kind": "device off", "seconds": 3, "device": "B1", "lasts": 10}
    d.data["devices"]["B1"] |= {"trip_amps": 60, "limit_amps": 90}  # nothing opens on the train itself
    arrives = arrival(d, off, derails(6, 60))
    assert 66 < arrives < float("inf")


def test_a_train_that_derails_at_its_stop_leaves_after_the_mend() -> None:
    d = straight("one")
    p = plan(
        goes("one", "t", 1000, {"track": "t", "at": 3000, "dwell": 15}, {"track": "t", "at": 7000}),
        minutes=4,
        person_after=1,
        faults=[derails(26, 60)],
    )
    lines, _ = run(d, p)
    first, second = entries(lines, "arrives")
    assert first.t < 26 < first.t + 15, "it derails while it stands"
    assert 86 < second.t < 86 + 40


def test_a_train_that_derails_while_it_waits_asks_again_after_the_mend() -> None:
    d = stock(passing(), "east", "west")
    one = goes("east", "west", 1000, {"track": "east", "at": 2000}, leaves=60)
    other = goes("west", "east", 1500, {"track": "west", "at": 500, "via": ["siding"]}, towards="a")
    p = plan(one, other, minutes=6, person_after=1)
    calm, _ = run(d, p)
    waits = entries(calm, "waits")
    assert waits, "one of the two waits for the other"
    upset = p.model_copy(
        update={"faults": plan(faults=[derails(waits[0].t + 1, 100, waits[0].train or "")]).faults},
    )
    lines, _ = run(d, upset)
    assert {e.train for e in entries(lines, "arrives")} == {e.train for e in entries(calm, "arrives")}


def test_a_source_that_two_hands_turned_off_comes_back_with_the_second() -> None:
    faults = [
        {"kind": "device off", "seconds": 5, "device": "B1", "lasts": 10},
        {"kind": "device off", "seconds": 8, "device": "B1", "lasts": 30},
    ]
    p = plan({"train": "one", "track": "t", "at": 3000, "by": "parked"}, minutes=1, faults=faults)
    lines, _ = run(straight("one"), p)
    amps = {round(x.t): x.amps[0] for x in lines if isinstance(x, Sample)}
    assert amps[3] > 0 and amps[12] == amps[20] == amps[36] == 0 and amps[40] > 0


def begun(d: Draft, *faults: dict[str, Any]) -> Evening:
    """An evening that stands at its beginning, with these faults begun one after the other."""
    p = plan({"train": "one", "track": "t", "at": 3000, "by": "parked"}, minutes=1, faults=list(faults))
    _, found = run(d, p.model_copy(update={"faults": []}))
    evening = found.evening
    evening.plan = p
    for n in range(len(faults)):
        begin(evening, n)
    return evening


def test_a_device_set_twice_falls_back_to_what_it_was_set_to_before() -> None:
    more = {"kind": "device set", "seconds": 1, "device": "B1", "lasts": 5}
    evening = begun(straight("one"), {**more, "amps": 9, "acts_after": 0.3}, {**more, "amps": 12})
    assert evening.set_amps == {"B1": 12} and evening.set_seconds == {"B1": 0.3}
    mend(evening, 1)
    assert evening.set_amps == {"B1": 9}
    mend(evening, 0)
    assert not evening.set_amps and not evening.set_seconds


def test_a_train_made_longer_twice_is_longer_by_both_and_shrinks_again() -> None:
    more = {"kind": "train longer", "seconds": 1, "train": "one", "lasts": 5}
    evening = begun(straight("one"), {**more, "longer": 400}, {**more, "longer": 250})
    train = evening.trains["one"]
    assert train.stock.length == 300 + 400 + 250
    mend(evening, 0)
    assert train.stock.length == 300 + 250
    mend(evening, 1)
    assert train.stock.length == 300


@pytest.mark.parametrize("first", [0, 1])
def test_two_tools_on_one_district_keep_it_dark_until_the_second_is_gone(first: int) -> None:
    lasts = [20.0, 40.0] if first == 0 else [40.0, 20.0]
    d = stock(fed_oval(), "one")
    d.data["devices"]["B1"] |= {"trip_seconds": 0.02, "limit_amps": 8, "recovery_seconds": 2}
    faults = [
        {"kind": "tool on the rail", "seconds": 5, "track": t, "at": 800, "lasts": for_how_long}
        for t, for_how_long in zip(("north", "south"), lasts, strict=True)
    ]
    p = plan({"train": "one", "track": "north", "at": 2000, "by": "parked"}, minutes=2, faults=faults)
    lines, found = run(d, p)
    closes: Entry = entries(lines, "closes")[0]
    assert 45 <= closes.t < 48.5
    assert found.evening.trains["one"].powered


def test_nonsense_in_a_fault_is_refused_beside_its_field() -> None:
    p = plan(
        {"train": "one", "track": "t", "at": 3000, "by": "parked"},
        faults=[derails(5, 5, "ghost"), {"kind": "device off", "seconds": 5, "device": "B9"}],
    )
    with pytest.raises(PlanRefused) as refused:
        run(straight("one"), p)
    assert "ghost" in str(refused.value) and "B9" in str(refused.value)
