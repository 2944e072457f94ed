"""Rules about how wires are cut, laid, coloured, labelled and joined, on both sides of where they begin to speak.

Thresholds are house rules and common practice, no source; lengths are worked out again by hand.
"""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jolly_copper.core.findings.marking import PAIRS
from jolly_copper.core.findings.model import Finding
from jolly_copper.demo.drafting import Draft
from tests.judged import falls_silent, mended, number, said, told
from tests.layouts import booster, feeder, plain

CUT, MAKE, OBSTACLE, COLOURS, LABELS, CROWDED, RATED, PLUGS = (
    "cut too short",
    "run longer than its make allows",
    "wire through an obstacle",
    "colour code broken",
    "label repeated",
    "terminal too crowded",
    "connector not rated for its wire",
    "plug missing at a joint",
)


def metric(d: Draft) -> Draft:
    d.data["brief"]["units"] = "metric"
    return d


def branch_run(d: Draft, key: str, circuit: str = "main", **more: Any) -> None:
    """A second run beside the first, 1 m long, from the same booster."""
    d.data["runs"][key] = {**d.data["runs"]["R1"], "label": key, "circuit": circuit, **more}


# Wire cut already


@pytest.mark.parametrize(
    ("cut", "severity"), [(1200, None), (1197.5, None), (1197.4, "should"), (1001, "should"), (1000, "must")]
)
def test_a_bus_cut_already(cut: float, severity: str | None) -> None:
    """1,000 mm with 5 % along the way and 75 mm at each end want 1,200; 2.5 mm are nothing; the way alone is 1,000."""
    d = metric(plain())
    d.data["runs"]["R1"]["cut"] = cut
    found = told(d, CUT)
    assert [f.severity for f in found] == ([severity] if severity else [])
    for f in found:
        assert said(f) == {"cut to": f"{cut / 1000:.2f} m", "way": "1.00 m", "with slack": "1.20 m"}
        assert falls_silent(d, f)


def test_a_bus_cut_at_a_strip_wants_slack_at_four_ends() -> None:
    """Cut through in the middle it is two pieces of 500 mm: 2 · (525 + 150) = 1,350 mm."""
    d = metric(plain())
    d.data["terminals"]["T2"] |= {"along": 500, "kind": "screw strip"}
    d.data["runs"]["R1"]["cut"] = 1300
    (f,) = told(d, CUT)
    assert said(f)["with slack"] == "1.35 m"


@pytest.mark.parametrize(("cut", "severity"), [(260, None), (230, "should"), (100, "must"), (99, "must")])
def test_a_feeder_cut_already(cut: float, severity: str | None) -> None:
    """Its terminal stands 100 mm from the rail: with 5 % along the way and 75 mm at each end it wants 255 mm."""
    d = metric(plain())
    d.data["runs"]["R1"]["path"] = [{"x": 0, "y": 100}, {"x": 1000, "y": 100}]
    feeder(d, "F1", "t", 1000, "T2", cut=cut)
    assert [f.severity for f in told(d, CUT)] == ([severity] if severity else [])


@pytest.mark.parametrize(("tape", "heard"), [(971, False), (970, False), (969, True), (1500, False)])
def test_a_tape_shorter_than_the_straight_way_was_read_wrong(tape: float, heard: bool) -> None:
    """From 3 % under: a wire is never shorter than the straight way between its ends."""
    d = metric(plain())
    d.data["runs"]["R1"]["tape"] = tape
    d.data["terminals"]["T2"]["along"] = 900
    found = told(d, CUT)
    assert [f.severity for f in found] == (["look"] if heard else [])
    for f in found:
        assert said(f) == {"by tape": "969 mm", "straight": "1.00 m"} and mended(d, f).runs["R1"].tape is None


# How two wires lie to each other


@pytest.mark.parametrize(
    ("make", "length", "severity"),
    [
        ("apart", 3000.5, None),
        ("apart", 3001, "should"),
        ("side by side", 9144.5, None),
        ("side by side", 9145, "look"),
        ("twisted", 30_000, None),
    ],
)
def test_wires_may_lie_apart_or_side_by_side_for_so_long(make: str, length: float, severity: str | None) -> None:
    """House rules: 3 m apart; 30 ft side by side."""
    d = plain()
    d.data["runs"]["R1"] |= {"make": make, "tape": length, **({"spacing": 50} if make == "apart" else {})}
    found = told(d, MAKE)
    assert [f.severity for f in found] == ([severity] if severity else [])
    for f in found:
        assert mended(d, f).runs["R1"].make == "twisted" and falls_silent(d, f)


@pytest.mark.parametrize(("gives", "heard"), [("dcc", True), ("dc", False), ("ac3", False)])
def test_inductance_is_nothing_to_a_steady_current(gives: str, heard: bool) -> None:
    """By the source of the run's own circuit, whatever the brief says."""
    for brief in ("dcc", "dc"):
        d = plain()
        d.data["brief"]["control"] = brief
        d.data["devices"]["B1"]["gives"] = gives
        d.data["runs"]["R1"] |= {"make": "side by side", "tape": 20_000}
        assert bool(told(d, MAKE)) is heard


# Braces and legs


@pytest.mark.parametrize(
    ("x0", "x1", "y0", "y1", "heard"),
    [
        (400, 500, 300, 500, True),  # across it
        (400, 500, 401, 500, False),  # a millimetre beside it
        (-100, 1100, 300, 500, True),  # all of the wire inside
        (1001, 1100, 300, 500, False),  # beyond its end
    ],
)
def test_a_bus_through_a_brace(x0: float, x1: float, y0: float, y1: float, heard: bool) -> None:
    d = metric(plain())
    d.obstacle("O1", "Cross brace", "brace", x0, y0, x1, y1)
    found = told(d, OBSTACLE)
    assert [f.severity for f in found] == (["should"] if heard else [])
    if heard and x0 > 0:
        assert found[0].title.startswith("Bus R1 goes through Cross brace, 400 mm")
        assert said(found[0]) == {"from its start": "400 mm"}


@pytest.mark.parametrize(("y", "heard"), [(100, True), (-200, False)])
def test_a_feeder_through_a_leg_is_only_looked_at(y: float, heard: bool) -> None:
    d = plain()
    feeder(d, "F1", "t", 500, "T2")
    d.obstacle("O1", "North", "leg", 550, y, 900, y + 80)
    found = told(d, OBSTACLE)
    assert [f.severity for f in found] == (["look"] if heard else [])
    for f in found:
        assert "leg North" in f.title, "what it is, where its name does not say so"


# Colours


def two_circuits(
    one: tuple[str, str], other: tuple[str, str], purpose: str = "track", by_district: bool = True
) -> Draft:
    d = plain()
    d.data["brief"]["rules"]["colours_by_district"] = by_district
    d.board("N", "North", -100, 0, 1200, 600)
    booster(d, circuit="two", key="B2")
    if purpose == "accessory":
        d.data["devices"]["B2"] = {
            "kind": "supply",
            "name": "Supply",
            "at": {"x": 0, "y": 0},
            "output": "two",
            "volts": 12,
            "label_amps": 2,
        }
    d.data["circuits"]["main"] |= {"colour_a": one[0], "colour_b": one[1]}
    d.data["circuits"]["two"] |= {"colour_a": other[0], "colour_b": other[1], "purpose": purpose}
    branch_run(d, "R2", "two", fed={"device": "B2"})
    return d


@pytest.mark.parametrize(
    ("one", "other", "purpose", "key", "severity"),
    [
        (("red", "black"), ("blue", "white"), "track", None, None),
        (("red", "red"), ("blue", "white"), "track", "colours-same", "must"),
        (("red", "black"), ("red", "black"), "track", "colours-shared", "should"),
        (("red", "black"), ("red", "black"), "accessory", "colours-shared", "should"),
        (("red", "black"), ("black", "white"), "track", "colours-crossed", "look"),
        (("red", "black"), ("blue", "red"), "track", "colours-crossed", "look"),
        (("red", "black"), ("orange", "black"), "track", None, None),
    ],
)
def test_wires_that_cannot_be_told_apart(
    one: tuple[str, str], other: tuple[str, str], purpose: str, key: str | None, severity: str | None
) -> None:
    d = two_circuits(one, other, purpose)
    found = told(d, COLOURS)
    assert [(f.key.split(":")[0], f.severity) for f in found] == ([(key, severity)] if key else [])
    for f in found:
        after = mended(d, f)
        pairs = {(c.colour_a, c.colour_b) for c in after.circuits.values()}
        assert pairs & set(PAIRS) and len(pairs) == 2, "a pair nobody wears yet"
        assert falls_silent(d, f)


def test_two_districts_of_one_pair_on_different_boards_are_never_mixed_up() -> None:
    d = two_circuits(("red", "black"), ("red", "black"))
    d.board("S", "South", -100, 900, 1200, 1500)
    d.data["runs"]["R2"]["path"] = [{"x": 0, "y": 1000}, {"x": 1000, "y": 1000}]
    assert told(d, COLOURS) == []
    d.data["runs"]["R2"]["path"][1] = {"x": 1000, "y": 400}
    (f,) = told(d, COLOURS)
    assert "both lie at Board North" in f.title


def test_one_pair_for_all_track_where_the_house_says_so() -> None:
    d = two_circuits(("red", "black"), ("blue", "white"), by_district=False)
    (f,) = told(d, COLOURS)
    assert (f.key, f.severity) == ("colours-many", "look") and said(f) == {"pairs in use": "2"}
    assert {c.colour_a for c in mended(d, f).circuits.values()} == {"red"} and falls_silent(d, f)
    assert told(two_circuits(("red", "black"), ("red", "black"), by_district=False), COLOURS) == []


# Labels


@pytest.mark.parametrize(
    ("one", "other", "twice"),
    [("F1", "F2", False), ("F1", "F1", True), ("F1", "f1", True), ("F1", " F1", True), ("R1", "F2", True)],
)
def test_a_label_is_worn_once(one: str, other: str, twice: bool) -> None:
    """Capitals and blanks do not tell two wires apart; a feeder called like the bus is another wire with its label."""
    d = plain()
    feeder(d, "F1", "t", 500, "T2", label=one)
    feeder(d, "F2", "t", 700, "T2", label=other)
    found = told(d, LABELS)
    assert bool(found) is twice
    for f in found:
        assert f.severity == "should" and said(f) == {"wires": "2"} and falls_silent(d, f)


def test_pieces_of_a_bus_wear_numbers_after_its_label() -> None:
    """Cut through at a strip, R1 is R1.1 and R1.2: a feeder may not be called so."""
    d = plain()
    d.data["terminals"]["T2"] |= {"along": 500, "kind": "screw strip"}
    feeder(d, "F1", "t", 500, "T2", label="R1.2")
    (f,) = told(d, LABELS)
    assert "wear the label R1.2" in f.title
    d.data["terminals"]["T2"]["kind"] = "soldered"
    assert told(d, LABELS) == [], "solder leaves the bus whole"


# Terminals


@given(st.integers(1, 9), st.integers(2, 12), st.integers(0, 3))
def test_a_strip_holds_so_many_pairs_by_hand(feeders: int, takes: int, spare: int) -> None:
    """A strip in the middle of a bus holds its two pieces and every feeder."""
    d = plain()
    d.data["brief"]["rules"]["spare_posts"] = spare
    d.data["terminals"]["T2"] |= {"along": 500, "kind": "screw strip", "pairs": takes}
    for n in range(feeders):
        feeder(d, f"F{n + 1}", "t", 400 + 10 * n, "T2")
    tied = feeders + 2
    found = told(d, CROWDED)
    if tied > takes:
        (f,) = found
        assert (f.key, f.severity) == ("crowded:T2", "should")
        assert said(f) == {"pairs": str(tied), "takes": str(takes), "feeders": str(feeders)}
        # Two strips with a jumper lose a place each to it; where even that is too few none is offered.
        assert bool(f.mends) is (tied <= 2 * takes - 1)
        assert not f.mends or falls_silent(d, f)
    elif takes - tied < spare:
        (f,) = found
        assert (f.key, f.severity) == ("no-spare:T2", "look")
        after = mended(d, f)
        assert after.terminals["T2"].pairs == takes + spare and not told(after, CROWDED)
    else:
        assert found == []


@pytest.mark.parametrize(("kind", "takes"), [("lever", 5), ("tap", 3), ("soldered", 12), ("screw strip", 6)])
def test_what_connectors_take_when_nothing_is_printed_on_them(kind: str, takes: int) -> None:
    d = plain()
    d.data["terminals"]["T2"]["kind"] = kind
    for n in range(takes - 1):  # the bus ends in it
        feeder(d, f"F{n + 1}", "t", 400 + 10 * n, "T2")
    assert told(d, CROWDED) == []
    feeder(d, "F99", "t", 900, "T2")
    (f,) = told(d, CROWDED)
    assert said(f)["takes"] == str(takes) and number(said(f)["pairs"]) == takes + 1


# Gauges connectors do not hold

MM2 = {"24 AWG": 0.2047, "22 AWG": 0.3255, "20 AWG": 0.5176, "14 AWG": 2.081, "12 AWG": 3.309, "10 AWG": 5.261}
"""Cross sections of solid wire, mm² (ASTM B258)."""
HOLDS = {"screw strip": (0.20, 4.2), "lever": (0.20, 4.2), "tap": (0.30, 2.6), "soldered": (0.05, 10.0)}
"""What each kind takes, mm²: common practice, no source."""


@pytest.mark.parametrize("gauge", MM2)
@pytest.mark.parametrize("kind", HOLDS)
def test_a_gauge_a_connector_does_not_hold(kind: str, gauge: str) -> None:
    d = plain(gauge="16 AWG")
    d.data["terminals"]["T2"]["kind"] = kind
    feeder(d, "F1", "t", 500, "T2", gauge=gauge)
    least, most = HOLDS[kind]
    found = told(d, RATED)
    assert bool(found) is not (least <= MM2[gauge] <= most)
    for f in found:
        assert f.severity == "must" and said(f)["gauge"] == gauge and f.shows == ("T2",)
        assert mended(d, f).terminals["T2"].kind == "soldered" and falls_silent(d, f)


@pytest.mark.parametrize(
    ("gauge", "takes", "held"),
    [
        ("12 AWG", None, True),
        ("10 AWG", None, False),
        ("10 AWG", "10 AWG", True),
        ("14 AWG", "16 AWG", False),
        ("24 AWG", None, False),
    ],
)
def test_a_plug_holds_what_is_printed_on_it(gauge: str, takes: str | None, held: bool) -> None:
    d = plain(gauge=gauge)
    d.plug("R1", 500)
    if takes:
        d.data["plugs"]["P1"]["takes"] = takes
    found = told(d, RATED)
    assert (found == []) is held
    for f in found:
        assert mended(d, f).plugs["P1"].takes == gauge and falls_silent(d, f)


def test_many_terminals_of_one_kind_are_one_finding() -> None:
    d = plain(gauge="10 AWG")
    for n in range(5):
        d.data["terminals"][f"T{n + 1}"] = {"run": "R1", "along": 200.0 * n, "kind": "tap"}
    (f,) = told(d, RATED)
    assert "taps T1, T2, T3 and 2 more on bus R1" in f.title and len(f.shows) == 5
    assert all(t.kind == "soldered" for t in mended(d, f).terminals.values())


# Boards that lift out


def lifting(plug_at: float | None = None) -> Draft:
    """Two boards beside each other, the right one lifts out; the bus crosses their edge at 500 mm."""
    d = metric(plain())
    d.board("L", "Left", -100, -100, 500, 600)
    d.board("R", "Right", 500, -100, 3100, 600, removable=True)
    if plug_at is not None:
        d.plug("R1", plug_at)
    return d


def buses(found: list[Finding]) -> list[Finding]:
    return [f for f in found if f.place.kind == "run"]


def test_a_bus_over_the_edge_of_a_board_that_lifts_out_wants_a_plug() -> None:
    d = lifting()
    (f,) = buses(told(d, PLUGS))
    assert f.severity == "should" and "the edge of Board Right without a plug, 500 mm from its start" in f.title
    (made,) = mended(d, f).plugs.values()
    assert (made.run, made.along) == ("R1", 500) and falls_silent(d, f)
    fixed = lifting()
    fixed.data["boards"]["R"]["removable"] = False
    assert buses(told(fixed, PLUGS)) == []


@pytest.mark.parametrize(("at", "near"), [(500, True), (50, True), (950, True), (49, False), (951, False)])
def test_a_plug_serves_a_joint_a_foot_and_a_half_away(at: float, near: bool) -> None:
    assert (buses(told(lifting(at), PLUGS)) == []) is near


@pytest.mark.parametrize(("rail", "terminal", "heard"), [(300, "T1", False), (900, "T1", True), (300, "T2", True)])
def test_a_feeder_has_its_rail_and_its_terminal_on_one_board(rail: float, terminal: str, heard: bool) -> None:
    """T1 stands on the left board at the start of the bus, T2 on the right one at its end."""
    d = lifting(500)
    feeder(d, "F1", "t", rail, terminal)
    found = [f for f in told(d, PLUGS) if f.place.kind == "feeder"]
    assert bool(found) is heard
    for f in found:
        here = "Left" if rail < 500 else "Right"
        assert said(f)["rail on"] == f"Board {here}"
        assert mended(d, f).feeders["F1"].terminal == ("T1" if here == "Left" else "T2") and falls_silent(d, f)
