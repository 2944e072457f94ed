"""Rules about detectors, each on both sides of where it begins to speak, and silent once mended.

What they hold is common practice, no source; figures are worked out again by Ohm's law.
"""

from __future__ import annotations

from typing import Any

import pytest

from jolly_copper.core.findings.model import Finding
from jolly_copper.core.signals.occupancy import engine_length, seen_length
from jolly_copper.core.signals.sensitivity import CAR_MM
from jolly_copper.demo.drafting import Draft
from tests.core.cab_layouts import run
from tests.judged import falls_silent, mended, number, said, told
from tests.layouts import booster
from tests.signalled import line

ROUND, WRONG, ADDRESSES, DISTRICTS, SEES = (
    "feeder round its detector",
    "gap in the wrong rail for detection",
    "addresses of detectors",
    "detector boards and districts",
    "what detectors see",
)


def the_one(found: list[Finding]) -> Finding:
    assert len(found) == 1, [f.title for f in found]
    return found[0]


def tie(d: Draft, key: str, at: float, terminal: str, **more: Any) -> None:
    """A feeder on the line whose wire A goes to the left rail."""
    d.data["feeders"][key] = {"label": key, "track": "t", "at": at, "terminal": terminal, "a_rail": "left", **more}


# A feeder whose sensed wire goes round the channel


def fed_line(sensed: str = "A") -> tuple[Draft, str, str]:
    """Two blocks, a bus of the booster and a run behind the first channel: their last terminals."""
    d = line(2)
    d.data["detectors"]["DB1"]["sensed"] = sensed
    return d, run(d, "main"), run(d, "dDB11")


@pytest.mark.parametrize(("sensed", "colour"), [("A", "red/white"), ("B", "black")])
def test_both_wires_on_the_bus_go_round_the_channel(sensed: str, colour: str) -> None:
    d, bus, sense = fed_line(sensed)
    d.data["circuits"]["main"] |= {"colour_a": colour, "colour_b": colour}
    tie(d, "F1", 900, bus)
    f = the_one(told(d, ROUND))
    assert (f.severity, f.place.kind, f.place.id) == ("must", "feeder", "F1")
    assert "goes round DB1 channel 1" in f.title and colour in f.why
    assert said(f) == {"channel": "DB1 channel 1", "tied to": "Main"}
    after = mended(d, f).feeders["F1"]
    assert (after.terminal, after.other) == (sense, bus), "one wire behind the channel, the other stays on the bus"
    if sensed == "A":
        assert falls_silent(d, f)


@pytest.mark.parametrize(("wire_a", "wire_b", "heard"), [("own", "bus", False), ("bus", "own", True)])
def test_only_the_sensed_wire_counts(wire_a: str, wire_b: str, heard: bool) -> None:
    """Wire A is sensed: it behind its channel and B on the bus is how it should be, the other way round is not."""
    d, bus, sense = fed_line("A")
    ends = {"own": sense, "bus": bus}
    tie(d, "F1", 900, ends[wire_a], other=ends[wire_b])
    assert bool(told(d, ROUND)) is heard


def test_a_feeder_that_is_all_behind_its_channel_is_right() -> None:
    d, _, sense = fed_line()
    tie(d, "F1", 900, sense)
    assert told(d, ROUND) == []


def test_a_section_without_a_detector_has_nothing_to_go_round() -> None:
    d, bus, _ = fed_line()
    d.data["sections"]["B0"]["circuit"] = "main"
    tie(d, "F1", 900, bus)
    assert told(d, ROUND) == []


def test_where_no_sensed_run_lies_there_is_nowhere_to_move_it() -> None:
    d = line(2)
    tie(d, "F1", 900, run(d, "main"))
    f = the_one(told(d, ROUND))
    assert f.mends == () and "home first" in f.mend


# A gap in the rail that is not sensed


@pytest.mark.parametrize("sensed", ["A", "B"])
@pytest.mark.parametrize("a_rail", ["left", "right"])
@pytest.mark.parametrize("cut", ["left", "right", "both"])
def test_a_gap_parts_two_channels_only_in_the_sensed_rail(sensed: str, a_rail: str, cut: str) -> None:
    d = line(2)
    d.data["detectors"]["DB1"]["sensed"] = sensed
    d.data["gaps"]["G1"]["rails"] = cut
    for n, at in ((1, 900.0), (2, 3000.0)):
        tie(d, f"F{n}", at, run(d, f"dDB1{n}", at), a_rail=a_rail)
    live = a_rail if sensed == "A" else {"left": "right", "right": "left"}[a_rail]
    found = told(d, WRONG)
    assert bool(found) is (cut != "both" and cut != live)
    for f in found:
        assert f.severity == "must" and f.place.at == 2000
        assert f"cuts the {cut} rail, but the {live} rail" in f.title
        assert said(f)["sections"] in ("B0, B1", "B1, B0")
        assert mended(d, f).gaps["G1"].rails == "both" and falls_silent(d, f)


def test_one_channel_on_both_sides_of_a_gap_is_never_wrong() -> None:
    d = line(2)
    d.data["gaps"]["G1"]["rails"] = "right"
    d.data["sections"]["B1"]["circuit"] = "dDB11"
    for n, at in ((1, 900.0), (2, 3000.0)):
        tie(d, f"F{n}", at, run(d, "dDB11", at))
    assert told(d, WRONG) == []


# Numbers of boards


def boards(*begin_and_size: tuple[int, int], **wishes: Any) -> Draft:
    d = Draft("Boards", brief={"detecting": wishes})
    for n, (address, channels) in enumerate(begin_and_size, start=1):
        at = {"x": 100.0 * n, "y": 0}
        d.data["detectors"][f"DB{n}"] = {"name": f"Board {n}", "at": at, "channels": channels, "address": address}
    return d


@pytest.mark.parametrize(
    ("second", "severity", "says"),
    [
        (1, "must", "both answer to address 1"),
        (8, "must", "both answer to address 8"),
        (9, None, ""),
        (10, "should", "A hole in the addresses: Board 1 ends at 8, Board 2 begins at 10"),
    ],
)
def test_two_boards_of_eight(second: int, severity: str | None, says: str) -> None:
    """Channels 1 to 8 are taken: 8 is not free, 9 is the next, 10 leaves a hole."""
    d = boards((1, 8), (second, 8))
    found = told(d, ADDRESSES)
    assert [f.severity for f in found] == ([severity] if severity else [])
    for f in found:
        assert says in f.title and said(f) == {"Board 1": "1 to 8", "Board 2": f"from {second}"}
        assert [mended(d, f).detectors[i].address for i in ("DB1", "DB2")] == [1, 9]
        assert falls_silent(d, f)


@pytest.mark.parametrize(("second", "quiet"), [(13, True), (17, True), (14, False), (16, False), (18, False)])
def test_a_board_of_twelve_takes_two_modules_of_eight(second: int, quiet: bool) -> None:
    """Numbers 1 to 12 answer, 13 to 16 are the rest of its second module: the next begins at 17, or at 13 where boards
    are counted by channel after all; but then it lies inside a module, which is told by itself."""
    found = [f for f in told(boards((1, 12), (second, 8), module=8), ADDRESSES) if f.key.startswith("address:")]
    assert (found == []) is quiet


@pytest.mark.parametrize(("begins", "rightly"), [(1, 1), (5, 9), (8, 9), (9, 9), (16, 17)])
def test_a_board_begins_where_a_module_does(begins: int, rightly: int) -> None:
    found = [f for f in told(boards((begins, 8), module=8), ADDRESSES) if f.key.startswith("address-module")]
    assert [f.severity for f in found] == ([] if begins == rightly else ["should"])
    for f in found:
        assert f"from {rightly}" in f.mend and "1, 9, 17" in f.why


@pytest.mark.parametrize(("first", "told_of"), [(1, False), (2, True), (9, True)])
def test_boards_that_are_counted_from_one(first: int, told_of: bool) -> None:
    d = boards((first, 8), (first + 8, 8), from_one=True)
    found = told(d, ADDRESSES)
    assert bool(found) is told_of
    for f in found:
        after = mended(d, f)
        assert [after.detectors[i].address for i in ("DB1", "DB2")] == [1, 9]
        assert said(f) == {"begins at": str(first)} and falls_silent(d, f)
    assert told(boards((first, 8), (first + 8, 8)), ADDRESSES) == [], "nobody said that they begin at one"


@pytest.mark.parametrize(
    ("drives", "second", "heard"),
    [("lamps", 16, True), ("lamps", 17, False), ("lamps", 30, False), ("hand controllers", 1, False)],
)
def test_driver_boards_may_leave_holes_but_not_overlap(drives: str, second: int, heard: bool) -> None:
    d = Draft("Drivers")
    for n, address in ((1, 1), (2, second)):
        what = {"name": f"Driver {n}", "drives": drives, "at": {"x": 0, "y": 0}, "outputs": 16, "address": address}
        d.data["drivers"][f"LD{n}"] = what
    found = told(d, ADDRESSES)
    assert [f.severity for f in found] == (["must"] if heard else [])
    for f in found:
        assert f.why.endswith(": an output does what the other is told.") and falls_silent(d, f)


# Boards, districts and what hangs behind them


def two_districts(kind: str = "diode drop", control: str = "dcc") -> Draft:
    """One board with a channel in each of two districts, a gap between."""
    d = line(2)
    d.data["brief"]["control"] = control
    booster(d, circuit="north", key="B2")
    d.data["detectors"]["DB1"]["kind"] = kind
    d.data["devices"]["DB1.2"]["input"] = "north"
    return d


def keyed(d: Draft, beginning: str) -> list[Finding]:
    return [f for f in told(d, DISTRICTS) if f.key.startswith(beginning)]


@pytest.mark.parametrize(
    ("kind", "joins"), [("diode drop", True), ("opto", True), ("current transformer", False), ("isolated rail", False)]
)
def test_a_board_with_one_input_joins_two_districts(kind: str, joins: bool) -> None:
    """A coil is round the wire and joins nothing."""
    d = two_districts(kind)
    found = keyed(d, "board-districts")
    assert bool(found) is joins
    for f in found:
        assert f.severity == "must" and "Main and North" in f.title and said(f) == {"districts": "2"}
    d.data["devices"]["DB1.2"]["input"] = "main"
    assert keyed(d, "board-districts") == []


@pytest.mark.parametrize("kind", ["current transformer", "diode drop", "opto", "isolated rail"])
@pytest.mark.parametrize("control", ["dcc", "dc", "ac3"])
def test_a_kind_that_sees_nothing_on_its_track(kind: str, control: str) -> None:
    """A coil wants current that changes; an isolated rail wants a third one."""
    d = two_districts(kind, control)
    deaf = (kind, control) in {
        ("current transformer", "dc"),
        ("isolated rail", "dcc"),
        ("isolated rail", "dc"),
    }
    found = keyed(d, "board-kind")
    assert bool(found) is deaf
    for f in found:
        assert f.severity == "must" and said(f) == {"kind": kind}
        assert mended(d, f).detectors["DB1"].kind == "diode drop" and falls_silent(d, f)


@pytest.mark.parametrize(("source", "deaf"), [("dc", True), ("dcc", False)])
def test_a_detector_is_judged_by_the_source_of_its_own_track(source: str, deaf: bool) -> None:
    """The brief says the other control: what the board's booster gives counts."""
    d = two_districts("current transformer", {"dc": "dcc", "dcc": "dc"}[source])
    for booster_id in ("B1", "B2"):
        d.data["devices"][booster_id]["gives"] = source
    assert bool(keyed(d, "board-kind")) is deaf


def test_a_board_is_judged_by_each_of_its_channels() -> None:
    """A coil in a digital and a DC district at once: deaf in one of them is enough."""
    d = two_districts("current transformer")
    d.data["devices"]["B2"]["gives"] = "dc"
    assert keyed(d, "board-kind")


def test_a_block_that_lies_in_two_districts() -> None:
    d = two_districts()
    assert keyed(d, "block-districts") == []
    d.data["sections"]["B1"]["block"] = "B0"
    f = the_one(keyed(d, "block-districts"))
    assert f.severity == "should" and "Block B0 lies in Main and North" in f.title
    assert said(f) == {"circuits": "2"} and "trip" in f.why
    d.data["devices"]["DB1.2"]["input"] = "main"
    assert keyed(d, "block-districts") == [], "two channels of one district are one block"


def test_a_block_half_in_a_reversing_section_says_so() -> None:
    d = two_districts()
    d.data["circuits"]["turned"] = {"name": "Turned", "colour_a": "blue", "colour_b": "white"}
    d.data["devices"]["AR"] = {
        "kind": "reverser",
        "name": "Reverser",
        "at": {"x": 0, "y": 0},
        "input": "main",
        "output": "turned",
    }
    d.data["devices"]["DB1.2"]["input"] = "turned"
    d.data["sections"]["B1"]["block"] = "B0"
    f = the_one(keyed(d, "block-districts"))
    assert "stand half in what turns over" in f.why


@pytest.mark.parametrize(("hangs_on", "heard"), [("dDB11", True), ("main", False)])
def test_a_reverser_or_a_load_behind_a_detector(hangs_on: str, heard: bool) -> None:
    """Both draw current for ever, and the detector shows a train."""
    d = line(2)
    d.data["circuits"]["turned"] = {"name": "Turned", "colour_a": "blue", "colour_b": "white"}
    d.data["devices"]["AR"] = {
        "kind": "reverser",
        "name": "Reverser",
        "at": {"x": 0, "y": 0},
        "input": hangs_on,
        "output": "turned",
    }
    d.data["loads"]["L1"] = {"kind": "lamp", "name": "Lamp", "circuit": hangs_on, "amps": 0.05}
    reverser, load = keyed(d, "reverser-behind"), keyed(d, "load-behind")
    assert (bool(reverser), bool(load)) == (heard, heard)
    if heard:
        assert reverser[0].severity == "should" and said(reverser[0]) == {"first in the wire": "DB1 channel 1"}
        assert load[0].severity == "must" and said(load[0]) == {"draws": "50 mA"}


# What detectors see


def with_engine(idle: float, threshold: float = 0.01) -> Draft:
    d = line(2)
    d.data["detectors"]["DB1"]["threshold"] = threshold
    d.data["locos"]["e"] = {"name": "Shunter", "idle": idle, "running": 0.3, "stall": 1.0}
    return d


def seen(d: Draft, beginning: str) -> list[Finding]:
    return [f for f in told(d, SEES) if f.key.startswith(beginning)]


@pytest.mark.parametrize(("idle", "blind"), [(0.0149, True), (0.015, False), (0.1, False), (0.0, True)])
def test_an_engine_is_sure_to_be_seen_from_half_as_much_again(idle: float, blind: bool) -> None:
    found = seen(with_engine(idle), "blind")
    assert bool(found) is blind
    for f in found:
        assert f.severity == "should" and "B0, B1" in f.title and "1.5 times" in f.why
        assert said(f) == {"threshold": "10 mA", "sections": "2"}


@pytest.mark.parametrize(("metres", "ghost"), [(20, False), (40, True)])
def test_damp_ballast_shows_a_train_where_a_section_is_long(metres: float, ghost: bool) -> None:
    """I = V·l/R, with 50 kΩ·m damp: 14.4 V and 20 m leak 5.8 mA, 40 m 11.5; two thirds of 15 mA are 10."""
    d = line(2, each=1000 * metres)
    d.data["detectors"]["DB1"]["threshold"] = 0.015
    found = seen(d, "ghost")
    assert bool(found) is ghost
    for f in found:
        assert f.title.startswith("Damp ballast")
        assert number(said(f)["leak"]) == pytest.approx(14.4 * metres / 50e3 * 1000, rel=0.05)


def test_a_direct_current_section_does_not_fill_with_edges() -> None:
    """A brief that says digital, a line on direct current: nothing switches there, so only the leak is told."""
    digital, direct = line(2, each=34000), line(2, each=34000)
    for d in (digital, direct):
        d.data["detectors"]["DB1"] |= {"threshold": 0.0151, "kind": "diode drop"}
    direct.data["devices"]["B1"]["gives"] = "dc"
    assert seen(digital, "ghost"), "9.8 mA of leak and 0.5 of filling"
    assert seen(direct, "ghost") == [], "9.8 mA of leak alone"


@pytest.mark.parametrize(("axles", "gone"), [(17, True), (18, False)])
def test_cars_that_vanish(axles: int, gone: bool) -> None:
    """An axle of 10 kΩ at 14.4 V draws 1.44 mA; 1.5 times 5 mA want six to a car, and three cars eighteen."""
    d = with_engine(0.1, threshold=0.005)
    d.data["locos"]["e"]["pickups"] = 100
    d.data["trains"]["x"] = {"name": "Local", "engines": ["e"], "length": 1000, "resistor_axles": axles}
    layout = d.plain()
    d.data["trains"]["x"]["length"] = engine_length(layout, layout.trains["x"]) + 3 * CAR_MM["HO"]
    found = seen(d, "vanish")
    assert bool(found) is gone
    for f in found:
        assert f.severity == "look" and said(f) == {"trains": "1", "axles wanted": "18"}
    d.data["trains"]["x"]["lit_cars"] = 3
    assert seen(d, "vanish") == [], "a lit car shows by itself"


def test_an_isolated_rail_sees_any_metal_wheel() -> None:
    """No current of a train closes it: a dead engine and a car without lamps show all the same."""
    d = with_engine(0.0)
    d.data["brief"]["control"] = "ac3"
    d.data["detectors"]["DB1"]["kind"] = "isolated rail"
    d.data["trains"]["x"] = {"name": "Local", "engines": ["e"], "length": 1000}
    assert seen(d, "blind") == seen(d, "vanish") == []
    layout = d.plain()
    train = layout.trains["x"]
    assert seen_length(layout, train) == 1000
    plastic = train.model_copy(update={"metal_wheels": False})
    assert seen_length(layout, plastic) == engine_length(layout, plastic) < 1000


@pytest.mark.parametrize(("volts", "wanted"), [(14.4, 18), (18.0, 15), (12.0, 21)])
def test_axles_are_counted_by_the_volts_of_the_channels_own_source(volts: float, wanted: int) -> None:
    """n = 1.5 · 5 mA · 10 kΩ / V for each of three cars: 5.2, 4.2 and 6.3 axles, rounded up."""
    d = with_engine(0.1, threshold=0.005)
    d.data["devices"]["B1"]["volts"] = volts
    d.data["trains"]["x"] = {"name": "Local", "engines": ["e"], "length": 200 + 3 * CAR_MM["HO"]}
    assert said(the_one(seen(d, "vanish")))["axles wanted"] == str(wanted)
