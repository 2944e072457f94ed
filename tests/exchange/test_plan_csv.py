"""Runs of a plan as a table, there and back, and what is wrong with one told by its row."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.plans import RunningPlan
from jolly_copper.demo import signalled_bay
from jolly_copper.exchange.cells import FileRefused
from jolly_copper.exchange.fleet import fleet_csv, read_fleet
from jolly_copper.exchange.plan_csv import plan_csv, read_plan

HEAD = "run,train,track,at_mm,towards,by,leaves_s,call,stands_s,then,via,cab,circuits,uses\n"


@pytest.fixture(scope="module")
def bay() -> Layout:
    return signalled_bay()


@pytest.mark.parametrize("name", ["open-day", "round"])
def test_a_plan_comes_back_as_it_went_out(bay: Layout, name: str) -> None:
    plan = bay.plans[name]
    back = read_plan(("\ufeff" + plan_csv(bay, plan)).encode(), bay)
    again = RunningPlan.model_validate({**plan.model_dump(mode="json"), "trains": back})
    assert again == plan


def test_where_a_free_train_stays_comes_back_too(bay: Layout) -> None:
    train = {"train": "ore", "track": "yard-1", "at": 300}
    stays = {"circuits": list(bay.circuits)[:2], "uses": ["yard", "main"]}
    plan = RunningPlan.model_validate({"name": "P", "trains": {"r": train | stays}})
    (back,) = read_plan(plan_csv(bay, plan).encode(), bay).values()
    assert back["circuits"] == stays["circuits"] and back["uses"] == stays["uses"]


def test_names_and_ids_both_do_and_decimals_may_be_commas(bay: Layout) -> None:
    text = HEAD + 'r,Ore drag,Yard 1,"300,5",A,calls,,,,,,\n,,yard-2,100,b,,,1,5,turn,Yard 3; yard-1,\n'
    (run,) = read_plan(text.encode(), bay).values()
    assert run["at"] == 300.5 and run["towards"] == "a"
    assert run["calls"] == [
        {"track": "yard-2", "at": 100.0, "then": "turn", "facing": "b", "dwell": 5.0, "via": ["yard-3", "yard-1"]}
    ]


@pytest.mark.parametrize(
    ("rows", "words"),
    [
        ("r,Nobody,Yard 1,1,,,,,,,,\n", "Row 2: there is no train “Nobody”"),
        ("r,Ore drag,Nowhere,1,,,,,,,,\n", "Row 2: there is no track “Nowhere”"),
        ("r,Ore drag,Yard 1,x,,,,,,,,\n", "Row 2: at_mm must be a number from 0"),
        ("r,Ore drag,Yard 1,1,c,,,,,,,\n", "Row 2: towards is a or b"),
        ("r,Ore drag,Yard 1,1,,flies,,,,,,\n", "Row 2: by is free or calls or hand or parked"),
        (",,Yard 1,1,,,,,,,,\n", "Row 2: a call comes after the train"),
        ("r,Ore drag,Yard 1,1,,,,,,,,\nr,Night mail,Yard 1,1,,,,,,,,\n", "Row 3: r is in the plan already"),
        ("r,Ore drag,Yard 1,1,,,,,,,,\n,,Yard 1,1,,,,1,,,Mars,\n", "Row 3: there is no track “Mars” to go by"),
        ("r,Ore drag,Yard 1,1,,,,,,,,\n" + ",,Yard 1,1,,,,1,,,,\n" * 61, "over 60 calls"),
        ("r,Ore drag,Yard 1,1,,,,,,,,nothing,,\n", "Row 2: there is no source “nothing”"),
        ("r,Ore drag,Yard 1,1,,,,,,,,,b1; moon,\n", "Row 2: there is no circuit “moon”"),
        ("r,Ore drag,Yard 1,1,,,,,,,,,,racing\n", "Row 2: there is no use of track “racing”"),
    ],
    ids=["train", "track", "place", "end", "by", "call first", "twice", "via", "calls", "cab", "circuit", "use"],
)
def test_a_row_that_cannot_be_is_named(bay: Layout, rows: str, words: str) -> None:
    with pytest.raises(FileRefused, match=words):
        read_plan((HEAD + rows).encode(), bay)


@pytest.mark.parametrize("data", [b"", b"\xff\xfe\x00", b"a,b\n1,2\n"])
def test_what_is_no_table_is_refused(bay: Layout, data: bytes) -> None:
    with pytest.raises(FileRefused):
        read_plan(data, bay)


@given(st.text(max_size=200))
def test_any_text_is_taken_or_refused_in_words(text: str) -> None:
    layout = Layout(name="Empty")
    try:
        read_plan((HEAD + text).encode(), layout)
    except FileRefused as refused:
        assert str(refused)


def test_speeds_and_helpers_go_with_the_fleet(bay: Layout) -> None:
    ore = bay.trains["ore"].model_copy(update={"scale_kmh": 45.0, "stops_in": 700.0, "helpers": 1})
    layout = bay.model_copy(update={"trains": {**bay.trains, "ore": ore}})
    patch = read_fleet(fleet_csv(layout).encode(), bay)
    value = next(p["value"] for p in patch if p["path"] == "/trains/ore")
    assert (value["scale_kmh"], value["stops_in"], value["helpers"]) == (45.0, 700.0, 1)
    tank = next(p["value"] for p in patch if p["path"] == "/locos/quarry-tank")
    assert (tank["fill_seconds"], tank["hold_seconds"]) == (0.09, 2.0)
