"""The roster as CSV and back, what it teaches, and what is found about it."""

from __future__ import annotations

from typing import Any

import pytest

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.findings.check import check
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.layout.reading import LayoutError, read_layout
from jolly_copper.core.proposals.roster import taught
from jolly_copper.demo import harbour_arm
from jolly_copper.exchange.cells import FileRefused
from jolly_copper.exchange.roster import read_roster, roster_csv
from tests.layouts import without


def with_engines(**engines: dict[str, Any]) -> Layout:
    return read_layout(without(harbour_arm(), engines=engines))


def found(layout: Layout, rule: str) -> list[str]:
    return [f.title for f in check(derive(layout)) if f.rule == rule]


def test_a_roster_goes_out_and_comes_back() -> None:
    layout = with_engines(
        a={"name": "Wren", "kind": "tank", "number": 7, "running": 0.35, "most_volts": 21, "settings": "=CV 3 is 12"},
        b={"name": "Gull", "kind": "railcar", "stops_in": 320, "troubles": "loses a bogie, sometimes"},
    )
    text = roster_csv(layout)
    assert '\n7,Wren,"Tank locomotive, sound",21.0,,0.35,,,' in text.replace("\r", "") and ",'=CV 3" in text
    assert apply_patch(layout, read_roster(text.encode(), layout)).engines == layout.engines
    bare = harbour_arm()
    again = apply_patch(bare, read_roster(text.encode(), bare))
    assert [e.model_dump() for e in again.engines.values()] == [e.model_dump() for e in layout.engines.values()]


def test_a_known_number_is_changed_and_keeps_what_the_file_does_not_say() -> None:
    layout = with_engines(a={"name": "Wren", "kind": "tank", "number": 7, "running": 0.35})
    after = apply_patch(layout, read_roster(b'number,name,kind,held_amps\n7,Wren of the hill,tank,"1,2"\n', layout))
    assert list(after.engines) == ["a"]
    assert (after.engines["a"].name, after.engines["a"].running, after.engines["a"].stall) == (
        "Wren of the hill",
        0.35,
        1.2,
    )


@pytest.mark.parametrize(
    ("text", "why"),
    [
        ("name,number\nWren,7\n", "kind and name are needed"),
        ("name,kind\n,tank\n", "Row 2: the name is missing"),
        ("name,kind\nWren,dragon\n", "Row 2: there is no kind of locomotive “dragon”"),
        ("name,kind,number\nWren,tank,nine\n", "Row 2: number must be a number from 1 to 9999"),
        ("name,kind,running_amps\nWren,tank,900\n", "Row 2: running_amps must be a number from 0 to 100"),
        ("name,kind,number\nWren,tank,7\nWren,tank,7\n", "Row 3: the engine stands in row 2 already"),
    ],
)
def test_what_is_wrong_is_told_with_its_row(text: str, why: str) -> None:
    layout = with_engines(a={"name": "Wren", "kind": "tank", "number": 7})
    with pytest.raises(FileRefused, match=why):
        read_roster(text.encode(), layout)


def test_an_engine_of_no_kind_is_refused() -> None:
    with pytest.raises(LayoutError) as refused:
        with_engines(a={"name": "Wren", "kind": "dragon"})
    assert refused.value.problems[0].sentence == "There is no kind of locomotive dragon."


def test_measured_engines_teach_their_kind_the_worst_of_them() -> None:
    layout = with_engines(
        a={"name": "Wren", "kind": "tank", "idle": 0.1, "running": 0.52, "stall": 1.1, "stops_in": 300},
        b={"name": "Gull", "kind": "tank", "running": 0.41, "stops_in": 420},
    )
    offer = taught(layout)
    assert offer.words[0].startswith("Tank locomotive, sound, by 2 engines: standing 120 mA → 100 mA, running")
    after = apply_patch(layout, list(offer.patch))
    assert (after.locos["tank"].idle, after.locos["tank"].running, after.locos["tank"].stall) == (0.1, 0.52, 1.1)
    assert after.locos["tank"].measured and after.trains["fish"].stops_in == 420
    assert after.locos["railcar"] == layout.locos["railcar"]
    assert taught(after).patch == []
    assert taught(harbour_arm()).patch == [], "nothing measured, nothing taught"


def test_two_of_one_number_and_one_that_stands_too_little() -> None:
    layout = with_engines(
        a={"name": "Wren", "kind": "tank", "number": 7, "most_volts": 14},
        b={"name": "Gull", "kind": "tank", "number": 7, "most_volts": 21},
        c={"name": "Tern", "kind": "tank", "number": 8},
    )
    assert found(layout, "engines of one number") == ["Wren and Gull answer to the same number, 7"]
    assert found(layout, "engine that does not stand the volts") == ["Wren stands 14.0 V; Booster gives 15.0 V"]


def test_a_direct_current_engine_is_not_judged_by_digital_volts() -> None:
    layout = with_engines(a={"name": "Wren", "kind": "tank", "most_volts": 12})
    direct = apply_patch(layout, [{"op": "add", "path": "/locos/tank/runs_on", "value": "direct current"}])
    assert found(direct, "engine that does not stand the volts") == []
