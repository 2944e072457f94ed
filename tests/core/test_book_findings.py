"""Findings of the wire book: each fires where it should, says so with figures, is mended by its mend, and is silent
else.

What counts as crowded, too thick or too long is common practice, no source.
"""

from __future__ import annotations

from typing import Any

import pytest

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.findings.check import check
from jolly_copper.core.findings.joining import pairs_tied
from jolly_copper.core.findings.model import Finding
from jolly_copper.core.layout.connections import misfits
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.quantities import read_gauge
from jolly_copper.core.wirebook.joints import joints
from jolly_copper.core.wirebook.pieces import pieces
from jolly_copper.demo.drafting import Draft
from tests.layouts import feeder, plain, random_layout


def bench(**run: Any) -> Draft:
    """A bus of 1 m with a strip at 500 on board 1; two feeders."""
    d = plain()
    d.board("b1", "1", -200, -200, 4000, 800)
    d.data["terminals"] = {"T1": {"run": "R1", "along": 500, "kind": "screw strip"}}
    d.data["runs"]["R1"] |= run
    feeder(d, "F1", "t", 400, "T1")
    feeder(d, "F2", "t", 600, "T1")
    return d


def found(layout: Layout, rule: str) -> list[Finding]:
    return [f for f in check(derive(layout)) if f.rule == rule]


def mended(layout: Layout, finding: Finding, rule: str) -> None:
    after = found(apply_patch(layout, finding.mends[0].patch), rule)
    assert finding.key not in {f.key for f in after}


RULES = (
    "terminal too crowded",
    "connector not rated for its wire",
    "cut too short",
    "colour code broken",
    "run longer than its make allows",
    "plug missing at a joint",
    "wire through an obstacle",
    "label repeated",
)


@pytest.mark.parametrize("rule", RULES)
def test_a_sound_bench_has_none(rule: str) -> None:
    assert found(bench().plain(), rule) == []


def test_pairs_are_counted_as_the_book_lists_them(demo: Layout) -> None:
    for layout in (demo, *(random_layout(seed) for seed in range(4))):
        assert {j.terminal: len(j.seats) for j in joints(layout, pieces(layout))} == {
            i: pairs_tied(layout)[i] for i in layout.terminals
        }


def test_six_pairs_in_a_strip_and_no_more() -> None:
    d = bench()
    for n in range(3, 5):
        feeder(d, f"F{n}", "t", 100 * n, "T1")
    assert found(d.plain(), RULES[0]) == [], "two ends of the bus and four feeders"
    feeder(d, "F5", "t", 900, "T1")
    (crowd,) = found(d.plain(), RULES[0])
    assert "T1 has 7 pairs" in crowd.title and "takes 6" in crowd.title
    mended(d.plain(), crowd, RULES[0])
    d.data["terminals"]["T1"]["pairs"] = 7
    assert found(d.plain(), RULES[0]) == []


@pytest.mark.parametrize(
    ("kind", "gauge", "fits"),
    [
        ("screw strip", "12 AWG", True),
        ("screw strip", "10 AWG", False),
        ("tap", "12 AWG", False),
        ("tap", "14 AWG", True),
        ("soldered", "10 AWG", True),
        ("lever", "4 mm²", True),
        ("lever", "6 mm²", False),
        ("screw strip", "28 AWG", False),
    ],
)
def test_gauges_and_the_connectors_they_go_into(kind: str, gauge: str, fits: bool) -> None:
    d = bench(gauge=gauge)
    d.data["terminals"]["T1"]["kind"] = kind
    rated = found(d.plain(), RULES[1])
    assert (rated == []) is fits
    if rated:
        assert rated[0].severity == "must" and gauge in rated[0].title
        mended(d.plain(), rated[0], RULES[1])


def test_a_feeder_too_thin_for_its_tap_and_a_plug_too_small() -> None:
    d = bench()
    d.data["terminals"]["T1"]["kind"] = "tap"
    d.data["feeders"]["F1"]["gauge"] = "24 AWG"
    (thin,) = found(d.plain(), RULES[1])
    assert "24 AWG does not fit the tap T1" in thin.title
    d = bench(gauge="10 AWG")
    d.data["terminals"]["T1"]["kind"] = "soldered"
    d.plug("R1", 700)
    (small,) = found(d.plain(), RULES[1])
    assert "plug P1" in small.title
    mended(d.plain(), small, RULES[1])


def test_cut_lengths_against_the_way_and_its_slack() -> None:
    """F1: taped 500, so 500·1.05 + 150 = 675 with slack."""
    d = bench()
    d.data["feeders"]["F1"] |= {"tape": 500, "cut": 675}
    assert found(d.plain(), RULES[2]) == []
    d.data["feeders"]["F1"]["cut"] = 600
    (tight,) = found(d.plain(), RULES[2])
    assert tight.severity == "should" and "with slack it wants" in tight.title
    d.data["feeders"]["F1"]["cut"] = 480
    (short,) = found(d.plain(), RULES[2])
    assert short.severity == "must" and "the way alone is" in short.title
    mended(d.plain(), short, RULES[2])
    d = bench(cut=1000)
    (bus,) = found(d.plain(), RULES[2])
    assert bus.place.kind == "run"


def test_a_tape_shorter_than_the_plan_is_asked_about() -> None:
    d = bench()
    d.data["feeders"]["F1"]["tape"] = 300  # its ends are 412 mm apart
    (short,) = found(d.plain(), RULES[2])
    assert short.severity == "look"
    mended(d.plain(), short, RULES[2])


def two_districts(one: tuple[str, str], other: tuple[str, str], purpose: str = "track", apart: float = 0) -> Draft:
    d = bench()
    d.data["circuits"]["main"] |= {"colour_a": one[0], "colour_b": one[1]}
    d.data["circuits"]["east"] = {"name": "East", "colour_a": other[0], "colour_b": other[1], "purpose": purpose}
    d.data["devices"]["B2"] = {
        "kind": "booster" if purpose == "track" else "supply",
        "name": "Second",
        "at": {"x": 0, "y": 500},
        "output": "east",
        "trip_amps": 5,
    }
    d.data["runs"]["R2"] = {
        "circuit": "east",
        "label": "R2",
        "gauge": "14 AWG",
        "path": [{"x": apart, "y": 500}, {"x": apart + 1000, "y": 500}],
        "fed": {"device": "B2"},
    }
    return d


@pytest.mark.parametrize(
    ("one", "other", "purpose", "severities"),
    [
        (("red", "black"), ("blue", "white"), "track", []),
        (("red", "black"), ("red", "black"), "track", ["should"]),
        (("red", "black"), ("red", "black"), "accessory", ["should"]),
        (("red", "black"), ("black", "red"), "track", ["look"]),
        (("red", "red"), ("blue", "white"), "track", ["must"]),
        (("red", "black"), ("orange", "black"), "track", []),
    ],
)
def test_colours_that_mislead(
    one: tuple[str, str], other: tuple[str, str], purpose: str, severities: list[str]
) -> None:
    layout = two_districts(one, other, purpose).plain()
    broken = found(layout, RULES[3])
    assert [f.severity for f in broken] == severities
    for f in broken:
        mended(layout, f, RULES[3])


def test_one_pair_may_serve_two_districts_that_never_meet_or_by_house_rule() -> None:
    far = two_districts(("red", "black"), ("red", "black"), apart=20_000)
    assert found(far.plain(), RULES[3]) == []
    near = two_districts(("red", "black"), ("red", "black"))
    near.data["brief"]["rules"]["colours_by_district"] = False
    assert found(near.plain(), RULES[3]) == []
    many = two_districts(("red", "black"), ("blue", "white"))
    many.data["brief"]["rules"]["colours_by_district"] = False
    (odd,) = found(many.plain(), RULES[3])
    assert odd.severity == "look" and "2 pairs" in odd.title
    mended(many.plain(), odd, RULES[3])


@pytest.mark.parametrize(
    ("make", "length", "control", "severity"),
    [
        ("apart", 3000, "dcc", None),
        ("apart", 3100, "dcc", "should"),
        ("side by side", 9100, "dcc", None),
        ("side by side", 9200, "dcc", "look"),
        ("twisted", 30000, "dcc", None),
        ("apart", 9000, "dc", None),
    ],
)
def test_how_long_two_wires_may_lie_as_they_do(make: str, length: float, control: str, severity: str | None) -> None:
    d = bench(make=make, path=[{"x": 0, "y": 400}, {"x": length, "y": 400}])
    d.data["brief"]["control"] = control
    rules = found(d.plain(), RULES[4])
    assert [f.severity for f in rules] == ([severity] if severity else [])
    for f in rules:
        mended(d.plain(), f, RULES[4])


def lifting() -> Draft:
    d = bench()
    d.data["boards"] = {}
    d.board("b1", "1", -200, -200, 650, 800)
    d.board("b2", "2 lift-out", 650, -200, 4000, 800, removable=True)
    return d


def test_a_joint_of_a_board_that_lifts_out_wants_a_plug() -> None:
    d = lifting()
    missing = found(d.plain(), RULES[5])
    assert ([f.place.id for f in missing] == ["R1"] and "2' 1 1/2\"" in missing[0].title) or "25 1/2 in" in missing[
        0
    ].title
    mended(d.plain(), missing[0], RULES[5])
    d.plug("R1", 500)
    assert found(d.plain(), RULES[5]) == [], "a hand's breadth off the joint will do"
    d.data["boards"]["b2"]["removable"] = False
    d.data["plugs"] = {}
    assert found(d.plain(), RULES[5]) == []


def test_a_feeder_across_that_joint_belongs_to_a_terminal_on_its_own_board() -> None:
    d = lifting()
    d.plug("R1", 650)
    feeder(d, "F3", "t", 900, "T1")
    (across,) = found(d.plain(), RULES[5])
    assert across.place.id == "F3" and "2 lift-out" in across.title
    after = apply_patch(d.plain(), across.mends[0].patch)
    assert after.feeders["F3"].terminal == "T2" and found(after, RULES[5]) == []


def in_the_way(d: Draft, x0: float, y0: float, x1: float, y1: float) -> None:
    d.data["obstacles"]["o1"] = {
        "name": "Leg",
        "kind": "leg",
        "outline": [{"x": x0, "y": y0}, {"x": x1, "y": y0}, {"x": x1, "y": y1}, {"x": x0, "y": y1}],
    }


def test_wire_drawn_through_a_leg() -> None:
    d = bench()
    in_the_way(d, 700, 450, 760, 510)
    assert found(d.plain(), RULES[6]) == [], "beside it"
    in_the_way(d, 700, 380, 760, 440)
    (bus,) = found(d.plain(), RULES[6])
    assert bus.place.id == "R1" and bus.severity == "should" and "27 1/2 in from its start" in bus.title
    in_the_way(d, 420, 180, 470, 240)
    (near,) = found(d.plain(), RULES[6])
    assert near.place.id == "F1" and near.severity == "look"


def test_a_bus_wholly_inside_what_is_in_the_way() -> None:
    d = bench()
    in_the_way(d, -100, 300, 1100, 500)
    assert "R1" in {f.place.id for f in found(d.plain(), RULES[6])}


def test_two_wires_with_one_label() -> None:
    d = bench()
    d.data["feeders"]["F2"]["label"] = "f1 "
    (twice,) = found(d.plain(), RULES[7])
    assert "2 wires wear the label" in twice.title and twice.place.id == "F2"
    mended(d.plain(), twice, RULES[7])
    d = bench()
    d.data["feeders"]["F2"]["label"] = "R1.2"
    assert [f.place.id for f in found(d.plain(), RULES[7])] == ["F2"], "the second piece of R1 wears that already"


def test_what_on_a_bus_does_not_take_a_gauge() -> None:
    d = bench()
    d.plug("R1", 700)
    layout = d.plain()
    assert misfits(layout, "R1", read_gauge("12 AWG")) == []
    assert misfits(layout, "R1", read_gauge("10 AWG")) == ["screw strips", "plugs"]
    d.data["plugs"]["P1"]["takes"] = "8 AWG"
    d.data["terminals"]["T1"]["kind"] = "soldered"
    assert misfits(d.plain(), "R1", read_gauge("10 AWG")) == []
