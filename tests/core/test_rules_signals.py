"""Rules about lineside signals on both sides of where they begin to speak, wherever the track is cut in two.

What they hold is common practice, no source; resistors and amps are worked out again by Ohm's law.
"""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.drawing.sheet import Sheet
from jolly_copper.core.drawing.tracks import split_track
from jolly_copper.core.findings.check import check
from jolly_copper.core.findings.model import Finding
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.signals.aspects import signalling_of
from jolly_copper.demo.drafting import Draft
from tests.judged import falls_silent, mended, number, said, told
from tests.layouts import booster
from tests.signalled import detect, double, junction, line, signal

DARK, REPORT, BEYOND, JOINS, OUTPUTS = (
    "signal with no detection behind it",
    "turnout without report",
    "signal beyond its gap",
    "overlapping routes",
    "outputs of signals",
)
ALL = (DARK, REPORT, BEYOND, JOINS, OUTPUTS)


def keyed(d: Draft | Layout, rule: str, beginning: str) -> list[Finding]:
    return [f for f in told(d, rule) if f.key.startswith(beginning)]


def verdict(layout: Layout) -> set[tuple[str, str, str]]:
    """What the rules of signals say, without where it is."""
    return {(f.rule, f.severity, f.key) for f in check(derive(layout)) if f.rule in ALL}


# Where a signal stands to its gap


@pytest.mark.parametrize(
    ("at", "severity"),
    [
        (1700, None),  # 300 mm before the gap
        (1699, "should"),
        (2000, None),
        (2001, "must"),
        (2300, "must"),
        (2301, "should"),
    ],
)
@pytest.mark.parametrize("towards", ["a", "b"])
def test_a_signal_stands_up_to_a_foot_before_its_gap(at: float, severity: str | None, towards: str) -> None:
    """A gap at 2,000 mm: 300 mm count as before it, and as just beyond it."""
    d = line(3)
    d.data["signals"].clear()
    where = at if towards == "b" else 6000 - at
    signal(d, "S", "t", where, towards)
    found = told(d, BEYOND)
    assert [f.severity for f in found] == ([severity] if severity else [])
    for f in found:
        if severity == "must":
            assert f"{number(said(f)['beyond the gap']):g}" in f.title
            moved = mended(d, f).signals["S"]
            assert moved.at == (1940 if towards == "b" else 4060) and falls_silent(d, f)
        else:
            assert f.mends == () and f.title.startswith("No gap follows within 1'")


def test_a_signal_near_the_end_of_its_track_is_not_moved_off_it() -> None:
    """A gap 40 mm from the end: a place 60 mm before it is off the track, so no mend is offered."""
    d = line(1)
    d.gap("t", 40, rails="left")
    signal(d, "S", "t", 50, "b")
    (f,) = told(d, BEYOND)
    assert f.severity == "must" and f.mends == ()


@given(st.floats(10, 5990), st.sampled_from(["three", "junction"]))
def test_a_joint_in_plain_track_says_nothing_of_signals(at: float, which: str) -> None:
    """However a line was drawn, in one piece or in two: the same signals protect the same track."""
    d, track = (line(3), "t") if which == "three" else (junction(), "a")
    layout = d.plain()
    length = derive(layout).rails.lengths[track]
    place = at / 6000 * length
    sheet = Sheet(layout)
    split_track(sheet, track, min(max(place, 6), length - 6))
    cut = sheet.layout()
    assert verdict(cut) == verdict(layout)
    one, other = signalling_of(derive(layout)), signalling_of(derive(cut))
    for i in layout.signals:
        names = [
            sorted(
                [k.sensed[n].device for n in r.sections if k.sensed[n].device] + [r.exit or r.ends] for r in k.routes[i]
            )
            for k in (one, other)
        ]
        assert names[0] == names[1], f"what {i} leads over"


@pytest.mark.parametrize(("before", "after", "sound"), [(40, 40, True), (150, 149, True), (160, 160, False)])
def test_the_gap_may_lie_on_the_next_track(before: float, after: float, sound: bool) -> None:
    """A signal so far before a joint, the gap so far beyond it: 300 mm together are near."""
    d = Draft("Two tracks")

    booster(d)
    for name, x, kind in (("W", 0, "bumper"), ("J", 2000, "joint"), ("E", 6000, "bumper")):
        d.node(name, x, 0, kind)
    d.track("a", "West", "W.1", "J.1", joiner_every=None)
    d.track("b", "East", "E.1", "J.2", joiner_every=None)  # drawn the other way round
    d.gap("b", 4000 - after)
    detect(d, "A", "a", 1000, 1)
    detect(d, "B", "b", 1000, 2)
    signal(d, "S", "a", 2000 - before, "b")
    assert bool(told(d, BEYOND)) is not sound
    known = signalling_of(derive(d.plain()))
    (route,) = known.routes["S"]
    sensed = [known.sensed[n].name for n in route.sections]
    assert sensed == (["B"] if sound else ["A", "B"]), "its own section is not what it protects"


# What lies behind a signal


def test_a_signal_into_the_dark_says_which_track_is_dark() -> None:
    d = line(3)
    d.data["sections"]["B1"]["circuit"] = "main"
    (f,) = keyed(d, DARK, "no-detection:S1")
    assert f.severity == "should" and "leads into B1" in f.title
    assert said(f) == {"sections without a detector": "1"} and "never clears" in f.why


def test_one_way_in_the_dark_of_two_is_only_worth_a_look() -> None:
    d = junction()
    d.data["sections"]["B"]["circuit"] = "main"
    (f,) = keyed(d, DARK, "no-detection:SA")
    assert f.severity == "look" and "other ways are detected" in f.why


def test_a_signal_turned_to_a_bumper_faces_nothing_and_can_be_turned() -> None:
    d = line(3)
    signal(d, "S9", "t", 5999.9, "b")
    (f,) = keyed(d, DARK, "faces-nothing")
    assert f.severity == "must" and f.place.id == "S9"
    assert mended(d, f, 0).signals["S9"].towards == "a" and "S9" not in mended(d, f, 1).signals
    assert falls_silent(d, f)


@pytest.mark.parametrize(("runs", "faces"), [("both", True), ("backward", True), ("forward", False)])
def test_a_signal_against_the_only_way_trains_run_faces_nothing(runs: str, faces: bool) -> None:
    """Two tracks: beyond the joint trains run only from A to B, only back, or both ways."""
    d = Draft("One way")

    booster(d)
    for name, x, kind in (("W", 0, "bumper"), ("J", 2000, "joint"), ("E", 6000, "bumper")):
        d.node(name, x, 0, kind)
    d.track("a", "West", "W.1", "J.1", joiner_every=None)
    d.track("b", "East", "E.1", "J.2", joiner_every=None, runs=runs)
    d.gap("b", 3960)
    detect(d, "A", "a", 1000, 1)
    detect(d, "B", "b", 1000, 2)
    signal(d, "S", "a", 1960, "b")
    assert (keyed(d, DARK, "faces-nothing") == []) is faces


# Turnouts that do not say how they lie


@pytest.mark.parametrize("kind", ["junction", "crossing", "slip"])
def test_what_can_lie_two_ways_must_report(kind: str) -> None:
    """A turnout and a slip may lie against the way; a crossing has nothing that moves."""
    d = junction() if kind == "junction" else double(kind)
    found = told(d, REPORT)
    assert bool(found) is (kind != "crossing")
    for f in found:
        assert f.severity == "must" and f.place.kind == "node"
        assert number(said(f)["signals"]) == len(d.data["signals"])
        assert falls_silent(d, f)


def test_many_signals_that_depend_on_one_turnout_are_named_up_to_five() -> None:
    d = junction()
    for k in range(4):
        signal(d, f"SX{k}", "a", 400 + 500.0 * k, "b")
    (f,) = told(d, REPORT)
    assert said(f) == {"signals": "3"}, "only the last signal before the points depends on them"
    d.data["signals"].clear()
    assert told(d, REPORT) == [], "a railroad without signals"


# Track that joins a signalled way


@pytest.mark.parametrize(
    ("use", "guard", "heard"),
    [
        ("branch", False, True),
        ("branch", True, False),
        ("industry", False, True),
        ("yard", False, True),
        ("siding", False, True),
    ],
)
def test_track_that_joins_the_main_wants_a_signal_whatever_it_is_for(use: str, guard: bool, heard: bool) -> None:
    d = junction()
    d.data["tracks"]["b"]["use"] = use
    if not guard:
        del d.data["signals"]["SB"]
    found = told(d, JOINS)
    assert [f.place.id for f in found] == (["b"] if heard else [])
    for f in found:
        assert f.severity == "should" and said(f) == {"joins at": "T"}


def test_inside_a_yard_nothing_wants_a_signal() -> None:
    d = junction()
    for track in ("a", "m", "b"):
        d.data["tracks"][track]["use"] = "yard"
    del d.data["signals"]["SB"]
    assert told(d, JOINS) == []


@pytest.mark.parametrize(("runs", "heard"), [("both", True), ("forward", False), ("backward", True)])
def test_a_branch_that_only_leads_away_needs_no_signal_back(runs: str, heard: bool) -> None:
    d = junction()
    d.data["tracks"]["b"]["runs"] = runs
    del d.data["signals"]["SB"]
    assert bool(told(d, JOINS)) is heard


# Outputs, lamps and their supply


def driven(*kinds: str, **board: Any) -> Draft:
    """A line with a signal of each kind on one driver board, one after the other."""
    d = line(len(kinds) + 1)
    d.data["drivers"] = {"DR1": {"name": "Driver 1", "at": {"x": 0, "y": 0}, "outputs": 32, **board}}
    lamps = {"colour light": 3, "searchlight": 2, "semaphore": 1, "dwarf": 2}
    first = 1
    for n, kind in enumerate(kinds, start=1):
        d.data["signals"][f"S{n}"] |= {"kind": kind, "driver": "DR1", "output": first}
        first += lamps[kind]
    return d


KINDS = ("colour light", "searchlight", "semaphore", "dwarf")


def test_signals_one_after_the_other_share_no_output() -> None:
    assert told(driven(*KINDS), OUTPUTS) == []


@pytest.mark.parametrize(("outputs", "over"), [(8, 0), (7, 1), (6, 2)])
def test_outputs_a_board_does_not_have(outputs: int, over: int) -> None:
    """Two lamps, an arm, two and three: eight outputs; a signal begins on one that is there, or the file is refused."""
    found = keyed(driven(*reversed(KINDS), outputs=outputs), OUTPUTS, "output:")
    assert len(found) == over and all(f.severity == "must" and said(f) == {"outputs": str(outputs)} for f in found)


@pytest.mark.parametrize(("amps", "heard"), [(0.02, False), (0.0201, True), (0.5, True)])
def test_a_lamp_may_draw_what_its_output_gives(amps: float, heard: bool) -> None:
    d = driven("colour light", most=0.02)
    d.data["signals"]["S1"]["lamp_amps"] = amps
    found = keyed(d, OUTPUTS, "output-amps")
    assert len(found) == (3 if heard else 0), "red, yellow and green"
    for f in found:
        assert mended(d, f).signals["S1"].lamp_amps == 0.005 and falls_silent(d, f)


def test_a_semaphore_has_no_lamps_to_burn() -> None:
    d = driven("semaphore", most=0.02)
    d.data["signals"]["S1"] |= {"lamp_amps": 0.5, "lamp_volts": 16}
    assert told(d, OUTPUTS) == []


@pytest.mark.parametrize(("lamp_volts", "heard"), [(2.0, False), (11.9, False), (12.0, True), (14.0, True)])
def test_lamps_want_fewer_volts_than_the_board_gives(lamp_volts: float, heard: bool) -> None:
    """R = (V − V_lamp)/I wants something left for the resistor: 12 V for lamps of 12 leave nothing."""
    d = driven("colour light", volts=12)
    d.data["signals"]["S1"]["lamp_volts"] = lamp_volts
    found = keyed(d, OUTPUTS, "lamp-volts")
    assert bool(found) is heard
    for f in found:
        assert f.severity == "must" and said(f) == {"supply": "12 V"}


@pytest.mark.parametrize(
    ("second", "heard"), [({"kind": "signal"}, True), ({"kind": "turnout"}, True), ({"kind": "crossover"}, False)]
)
def test_one_output_for_two(second: dict[str, str], heard: bool) -> None:
    """Two turnouts of a crossover share one output by right; a signal shares with nothing."""
    d = junction()
    d.data["drivers"] = {"DR1": {"name": "Driver 1", "at": {"x": 0, "y": 0}, "drives": "turnouts", "outputs": 8}}
    d.data["nodes"]["T"] |= {"driver": "DR1", "output": 1, "motor": "stall motor"}
    if second["kind"] == "crossover":
        d.turnout("T2", 3000, 500, "right", driver="DR1", output=1, motor="stall motor")
    else:
        d.data["drivers"]["DR1"]["drives"] = "lamps"
        d.data["drivers"]["DR2"] = {**d.data["drivers"]["DR1"], "name": "Driver 2", "drives": "turnouts", "address": 50}
        d.data["nodes"]["T"]["driver"] = "DR2"
        d.data["signals"]["SA"] |= {"driver": "DR1", "output": 1, "heads": 1}
        d.data["signals"]["SM"] |= {"driver": "DR1", "output": 3 if second["kind"] == "signal" else 4}
        if second["kind"] == "turnout":
            d.data["signals"]["SB"] |= {"driver": "DR1", "output": 4}
    assert bool(keyed(d, OUTPUTS, "output-twice")) is heard


@pytest.mark.parametrize(("gives", "heard"), [(0.069, True), (0.0701, False)])
def test_what_a_board_asks_of_its_supply_by_hand(gives: float, heard: bool) -> None:
    """Its electronics 20 mA, one lamp of 8 mA of a colour light, both of a searchlight, and a detector board of 26."""
    d = driven("colour light", "searchlight", supply="acc", amps=0.02)
    d.data["detectors"]["DB1"] |= {"supply": "acc", "supply_amps": 0.026}
    d.data["circuits"]["acc"] = {"name": "Accessories", "purpose": "accessory"}
    supply = {"kind": "supply", "name": "Supply", "at": {"x": 0, "y": 0}, "output": "acc", "volts": 12}
    d.data["devices"]["PS"] = {**supply, "label_amps": gives}
    found = keyed(d, OUTPUTS, "control-supply")
    assert bool(found) is heard
    for f in found:
        assert f.severity == "should" and said(f)["asked"] == "70 mA"
    d.data["devices"]["PS"]["measured_amps"] = 5.0
    assert keyed(d, OUTPUTS, "control-supply") == [], "what was measured comes before the label"


def test_what_has_no_output_yet_is_worth_a_look() -> None:
    d = driven("colour light", "dwarf")
    d.data["signals"]["S2"] |= {"driver": None, "output": None}
    (f,) = told(d, OUTPUTS)
    assert (f.severity, f.key) == ("look", "undriven:S2")
    d = junction()
    d.data["nodes"]["T"]["reports"] = True
    (f,) = keyed(d, OUTPUTS, "unheard")
    assert f.severity == "look" and said(f) == {"turnouts": "1"} and f.title.startswith("The report of T ")
