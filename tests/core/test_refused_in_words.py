"""Every reason a layout file is refused for: where, and in a sentence a person understands. And its other side: what is
just within its bounds is taken."""

from __future__ import annotations

import copy
import math
from functools import cache
from typing import Any

import pytest

from jolly_copper.core.layout.bounds import LEAST_JOINER_SPACING_MM, MOST_JOINERS, MOST_TRACK_MM
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.reading import LayoutError, read_layout
from jolly_copper.demo import DEMOS
from jolly_copper.demo.drafting import Draft
from tests.core.cab_layouts import two_blocks
from tests.layouts import feeder, plain
from tests.signalled import junction, line


@cache
def _whole(name: str) -> dict[str, Any]:
    return DEMOS[name]().model_dump(mode="json")


def whole(name: str = "gannet-bay-signalled") -> dict[str, Any]:
    return copy.deepcopy(_whole(name))


def put(data: dict[str, Any], path: str, value: Any) -> None:
    """Set what a path leads to; numbers lead into lists."""
    *way, last = path.split("/")[1:]
    at: Any = data
    for step in way:
        at = at[int(step)] if isinstance(at, list) else at[step]
    at[int(last) if isinstance(at, list) else last] = value


def refused(data: dict[str, Any]) -> dict[str, str]:
    """Sentences by path; empty where it is taken."""
    try:
        read_layout(data)
    except LayoutError as error:
        return {p.path: p.sentence for p in error.problems}
    return {}


def told(data: dict[str, Any], changes: dict[str, Any], where: str, says: str) -> None:
    assert refused(data) == {}, "it was sound before"
    for path, value in changes.items():
        put(data, path, value)
    problems = refused(data)
    assert where in problems, problems
    assert says in problems[where], problems[where]
    assert not problems[where][0].islower() and problems[where].endswith(".")


# Track

TRACK = [
    ({"/nodes/T1/lies": "left"}, "/nodes/T1/lies", "A turnout lies through, diverging."),
    ({"/nodes/T1/points_at": "stub1"}, "/nodes/T1/points_at", "A turnout has no bridge to point."),
    ({"/nodes/TT/points_at": "through"}, "/nodes/TT/points_at", "points at a port of its own, such as stub1"),
    ({"/tracks/yard-1/a/port": "stub1"}, "/tracks/yard-1/a/port", "it has diverging, points, through"),
    ({"/tracks/yard-1/a/node": "TT"}, "/tracks/yard-1/a/port", "a number to each: stub1, or west1 and east1"),
    ({"/tracks/yard-1/joiner_every": 1}, "/tracks/yard-1/joiner_every", "leave it empty where there are none"),
    ({"/sections/yard/track": "moon"}, "/sections/yard/track", "There is no track moon."),
    ({"/signals/S1/at": 99_000}, "/signals/S1/at", "99000 mm is past the end of"),
    ({"/feeders/F1/at": 99_000}, "/feeders/F1/at", "is past the end of"),
]


@pytest.mark.parametrize(("changes", "where", "says"), TRACK, ids=[w for _, w, _ in TRACK])
def test_track_that_cannot_be(changes: dict[str, Any], where: str, says: str) -> None:
    told(whole(), changes, where, says)


def test_more_track_and_more_joiners_than_anybody_waits_for() -> None:
    data = whole()
    for track in data["tracks"].values():
        track |= {"tape": MOST_TRACK_MM / len(data["tracks"]) * 0.99, "joiner_every": None}
    assert refused(data) == {}
    for track in data["tracks"].values():
        track["tape"] *= 1.02
    assert "km of track at most" in refused(data)["/tracks"]
    for track in data["tracks"].values():
        track |= {"tape": 1.1 * MOST_JOINERS * LEAST_JOINER_SPACING_MM / len(data["tracks"])}
        track["joiner_every"] = LEAST_JOINER_SPACING_MM
    assert f"A layout has {MOST_JOINERS} joiners at most" in refused(data)["/tracks"]


def test_track_of_no_length() -> None:
    d = plain()
    d.data["tracks"]["t"]["path"] = [{"x": 0, "y": 0}, {"x": 0.5, "y": 0}]
    d.data["sections"]["s"]["at"] = 0
    assert refused(d.data) == {"/tracks/t/path": "Track has no length."}


def test_a_port_holds_one_track() -> None:
    d = junction()
    d.data["tracks"]["m"]["a"] = {"node": "T", "port": "diverging"}
    assert "already holds track" in "".join(refused(d.data).values())
    d = plain()
    d.data["tracks"]["t"]["b"] = {"node": "N1", "port": "1"}
    assert refused(d.data) == {"/tracks/t/b/port": "Port 1 of N1 already holds track t."}


def test_a_three_way_does_not_route_power() -> None:
    d = Draft("Three-way")
    d.node("W", 0, 0, "bumper")
    d.node("T", 1000, 0, "three-way", frog="live", lies="left")
    d.track("a", "A", "W.1", "T.points")
    assert refused(d.data) == {}
    d.data["nodes"]["T"]["frog"] = "routing"
    assert "gap them and call its frogs live" in refused(d.data)["/nodes/T/frog"]
    d.data["nodes"]["T"] |= {"frog": "live", "lies": "diverging"}
    assert refused(d.data)["/nodes/T/lies"] == "A three-way lies left, through, right."


# Wire

WIRE = [
    ({"/runs/W1/fed/device": "ghost"}, "/runs/W1/fed/device", "There is no device ghost."),
    ({"/runs/W1/fed": {"terminal": "T999"}}, "/runs/W1/fed/terminal", "There is no terminal T999."),
    ({"/runs/W1/fed": {"terminal": "T1"}}, "/runs/W1/fed/terminal", "A run cannot be fed from its own terminal."),
    ({"/runs/W1/fed/along": 1e6}, "/runs/W1/fed/along", "Run W1 is only"),
    ({"/runs/W1/ends_at_device": "ghost"}, "/runs/W1/ends_at_device", "There is no device ghost."),
    ({"/runs/W1/ends_at_terminal": "T999"}, "/runs/W1/ends_at_terminal", "There is no terminal T999."),
    ({"/feeders/F1/other": "T999"}, "/feeders/F1/other", "There is no terminal T999."),
    ({"/runs/W1/wires": "A"}, "/feeders/F1/other", "holds wire A only: name one for the other wire"),
]


@pytest.mark.parametrize(("changes", "where", "says"), WIRE, ids=[f"{w} {s[:12]}" for _, w, s in WIRE])
def test_wire_that_cannot_be(changes: dict[str, Any], where: str, says: str) -> None:
    told(whole("gannet-bay"), changes, where, says)


def test_wire_of_no_length() -> None:
    d = plain()
    d.data["runs"]["R1"] |= {"path": [{"x": 0, "y": 0}, {"x": 0.2, "y": 0}]}
    d.data["terminals"] = {}
    assert refused(d.data) == {"/runs/R1/path": "Run R1 has no length."}


def test_a_run_that_ends_at_a_device_is_of_what_that_device_takes() -> None:
    d = two_blocks()
    ends = {"label": "X", "gauge": "18 AWG", "path": [{"x": 0, "y": 0}, {"x": 900, "y": 0}]}
    d.data["runs"]["X"] = {**ends, "circuit": "a", "fed": {"device": "dev-a"}, "ends_at_device": "sel-one"}
    assert refused(d.data) == {}
    d.data["devices"]["sel-one"] |= {"inputs": ["b"], "input": "b"}
    assert refused(d.data)["/runs/X/ends_at_device"] == "Selector ONE takes its power from b, not a."


@pytest.mark.parametrize(
    ("part", "where", "says"),
    [
        ({"what": "joiner", "track": "moon", "side": "left"}, "track", "There is no track moon."),
        ({"what": "joiner", "track": "t", "at": 9e3, "side": "left"}, "at", "Track is only 3000 mm long."),
        ({"what": "joiner", "track": "t", "at": 900, "side": "A"}, "side", "left or right, its rail"),
        ({"what": "contact", "of": "P1", "side": "A"}, "of", "There is no terminal or feeder P1."),
        ({"what": "plug", "of": "T1", "side": "A"}, "of", "There is no plug T1."),
        ({"what": "wire", "of": "T1", "side": "A"}, "of", "There is no feeder T1."),
        ({"what": "wire", "of": "F1", "side": "left"}, "side", "A or B, its conductor"),
        ({"what": "wire", "of": "F1", "track": "t", "side": "A"}, "of", "There is no feeder F1."),
    ],
)
def test_a_measured_part_is_of_something_that_has_it(part: dict[str, Any], where: str, says: str) -> None:
    d = plain()
    d.plug("R1", 500)
    feeder(d, "F1", "t", 500, "T2")
    told(d.data, {"/measured": {"m": {"ohms": 0.1, **part}}}, f"/measured/m/{where}", says)


# Power

SELECTOR = [
    ({"inputs": []}, "inputs", "has nothing to choose from"),
    ({"inputs": ["a", "a"]}, "inputs", "has one circuit on two ways"),
    ({"inputs": ["b"], "input": "a"}, "input", "lies at a, which is none of its ways"),
    ({"inputs": ["a", "gone"]}, "inputs/1", "There is no circuit gone."),
    ({"inputs": ["a", "b", "two"], "made": "toggle, two poles"}, "made", "has 3 ways, and a toggle, two poles has 2"),
    ({"panel": "P9"}, "panel", "There is no control panel P9."),
    ({"gang": "dev-a", "inputs": ["a"], "input": None}, "gang", "hangs on a lever that is no selector of its own"),
    ({"gang": "sel-one", "inputs": ["a"], "input": None}, "gang", "hangs on a lever that is no selector of its own"),
    ({"gang": "sel-two"}, "inputs", "it has one way, on or off"),
    ({"gang": "sel-two", "inputs": ["a"], "input": None, "on_with": ["z"]}, "on_with", "does not choose from z"),
    ({"gang": "sel-two", "inputs": ["a"], "input": None, "on_with": ["b"]}, "input", "on the same lever"),
]


@pytest.mark.parametrize(("change", "where", "says"), SELECTOR, ids=[s[:30] for _, _, s in SELECTOR])
def test_a_selector_that_cannot_be(change: dict[str, Any], where: str, says: str) -> None:
    d = two_blocks()
    paths = {f"/devices/sel-one/{k}": v for k, v in change.items()}
    told(d.data, paths, f"/devices/sel-one/{where}", says)


POWER = [
    ({"/devices/dev-a/inputs": ["b"]}, "/devices/dev-a/inputs", "is a cab; only a selector chooses from several"),
    ({"/devices/dev-a/output": "gone"}, "/devices/dev-a/output", "There is no circuit gone."),
    ({"/devices/dev-a/input": "gone"}, "/devices/dev-a/input", "There is no circuit gone."),
    ({"/devices/dev-b/output": "a"}, "/devices/dev-b/output", "Circuit a is already fed by Source A."),
    ({"/circuits/a/return_of": "gone"}, "/circuits/a/return_of", "There is no circuit gone."),
    ({"/sections/s-one/block": "B7"}, "/sections/s-one/block", "There is no block B7."),
]


@pytest.mark.parametrize(("changes", "where", "says"), POWER, ids=[w for _, w, _ in POWER])
def test_power_that_cannot_be(changes: dict[str, Any], where: str, says: str) -> None:
    told(two_blocks().data, changes, where, says)


def test_selectors_that_feed_each_other_are_told_at_both() -> None:
    d = two_blocks()
    d.data["devices"]["sel-one"] |= {"inputs": ["two"], "input": "two"}
    d.data["devices"]["sel-two"] |= {"inputs": ["one"], "input": "one"}
    problems = refused(d.data)
    assert set(problems) == {"/devices/sel-one/inputs", "/devices/sel-two/inputs"}
    assert all("feeds itself through" in s for s in problems.values())


SCENE = [
    ({"selectors": {"dev-a": "a"}}, "selectors/dev-a", "There is no selector dev-a."),
    ({"selectors": {"sel-one": "gone"}}, "selectors/sel-one", "does not choose from gone"),
    ({"bridges": {"N1": "stub1"}}, "bridges/N1", "There is no bridge N1."),
    ({"placements": [{"train": "ghost", "circuits": ["a"]}]}, "placements/0/train", "There is no train ghost."),
    ({"placements": [{"train": "x", "circuits": ["gone"]}]}, "placements/0/circuits/0", "There is no circuit gone."),
    ({"placements": [{"train": "x"}]}, "placements/0", "say which"),
    ({"placements": [{"train": "x", "track": "t", "at": 1, "circuits": ["a"]}]}, "placements/0", "say which"),
    ({"placements": [{"train": "x", "track": "gone", "at": 1}]}, "placements/0/track", "There is no track gone."),
    ({"placements": [{"train": "x", "track": "t", "at": 9e3}]}, "placements/0/at", "past the end of Line"),
]


@pytest.mark.parametrize(("scene", "where", "says"), SCENE, ids=[f"{w} {n}" for n, (_, w, _) in enumerate(SCENE)])
def test_a_scene_that_cannot_be(scene: dict[str, Any], where: str, says: str) -> None:
    d = two_blocks()
    d.data["locos"]["e"] = {"name": "Engine", "idle": 0, "running": 0.3, "stall": 1}
    d.data["trains"]["x"] = {"name": "Train", "engines": ["e"], "length": 300}
    told(d.data, {"/scenes": {"s": {"name": "Show", **scene}}}, f"/scenes/s/{where}", says)


def test_supplies_serve_one_source_each() -> None:
    d = two_blocks()
    for key, serves in (("S1", "dev-a"), ("S2", "dev-a"), ("S3", "sel-one"), ("S4", None)):
        d.data["supplies"][key] = {"name": f"Brick {key}", "volts": 16, "amps": 3, "serves": serves}
    assert refused(d.data) == {
        "/supplies/S2/serves": "Brick S1 serves Source A already.",
        "/supplies/S3/serves": "There is no source sel-one to serve.",
    }


LOADS = [
    ({"circuit": "gone"}, "circuit", "There is no circuit gone."),
    ({"terminal": "T999"}, "terminal", "There is no terminal T999."),
    ({"circuit": "two"}, "terminal", "Terminal T1 is on another circuit."),
    ({"at_once": 3}, "at_once", "There are only 2 of them."),
    ({"least_volts": 12, "most_volts": 9}, "most_volts", "less than the least it needs"),
]


@pytest.mark.parametrize(("change", "where", "says"), LOADS, ids=[w for _, w, _ in LOADS])
def test_a_load_that_cannot_be(change: dict[str, Any], where: str, says: str) -> None:
    d = two_blocks()
    d.data["loads"]["L"] = {"kind": "lamp", "name": "Lamps", "circuit": "one", "terminal": "T1", "count": 2}
    told(d.data, {f"/loads/L/{k}": v for k, v in change.items()}, f"/loads/L/{where}", says)


def test_rails_are_not_fed_from_an_accessory_circuit() -> None:
    d = two_blocks()
    d.data["circuits"]["one"]["purpose"] = "accessory"
    assert refused(d.data)["/sections/s-one/circuit"] == "ONE is for accessories, not for rails."


# Detection and signals

BOARDS = [
    ({"/devices/DB1.1/channel": None}, "/devices/DB1.1/channel", "Detector DB1 has channels 1 to 16."),
    ({"/devices/DB1.1/channel": 17}, "/devices/DB1.1/channel", "has channels 1 to 16"),
    ({"/devices/DB1.2/channel": 1}, "/devices/DB1.2/channel", "Channel 1 is DB1 channel 1 already."),
    ({"/devices/DB1.1/board": "gone"}, "/devices/DB1.1/board", "There is no detector board gone."),
    ({"/devices/DB1.1/kind": "breaker"}, "/devices/DB1.1/board", "Only a detector is a channel"),
    ({"/detectors/DB1/supply": "gone"}, "/detectors/DB1/supply", "There is no circuit gone."),
    ({"/detectors/DB1/supply": "main"}, "/detectors/DB1/supply", "an accessory circuit, not from track power"),
    ({"/signals/S1/driver": "gone", "/signals/S1/output": 1}, "/signals/S1/driver", "There is no driver board gone."),
    ({"/signals/S1/track": "gone"}, "/signals/S1/track", "There is no track gone."),
]


@pytest.mark.parametrize(("changes", "where", "says"), BOARDS, ids=[f"{w} {n}" for n, (_, w, _) in enumerate(BOARDS)])
def test_boards_that_cannot_be(changes: dict[str, Any], where: str, says: str) -> None:
    told(line(3).data, changes, where, says)


@pytest.mark.parametrize("drives", ["lamps", "turnouts", "buttons", "hand controllers"])
@pytest.mark.parametrize(
    ("thing", "board", "way", "wants"),
    [
        ("signals/SA", "driver", "output", "lamps"),
        ("nodes/T", "driver", "output", "turnouts"),
        ("nodes/T", "report_board", "report_input", "buttons"),
        ("nodes/T", "button_board", "button_input", "buttons"),
    ],
)
def test_a_board_does_what_it_is_made_for(drives: str, thing: str, board: str, way: str, wants: str) -> None:
    d = junction()
    d.data["drivers"]["D1"] = {"name": "Board 1", "drives": drives, "at": {"x": 0, "y": 0}, "outputs": 8}
    put(d.data, f"/{thing}/{board}", "D1")
    put(d.data, f"/{thing}/{way}", 1)
    problems = refused(d.data)
    assert problems == ({} if drives == wants else {f"/{thing}/{board}": f"Board 1 drives {drives}, not {wants}."})
    if drives == wants:
        for number, taken in ((8, True), (9, False)):
            put(d.data, f"/{thing}/{way}", number)
            ways = "outputs" if way == "output" else "inputs"
            assert refused(d.data) == ({} if taken else {f"/{thing}/{way}": f"Board 1 has {ways} 1 to 8."})


# Stretches, dates


@pytest.mark.parametrize("kind", ["braking", "isolated"])
@pytest.mark.parametrize(("length", "fits"), [(1000, True), (1000.5, True), (1001, False)])
def test_a_stretch_lies_on_its_track(kind: str, length: float, fits: bool) -> None:
    d = plain(rails=3 if kind == "isolated" else 2)
    more = {"rail": "left", "module": "M"} if kind == "braking" else {"outer": "left", "works": "the bell"}
    d.data[kind]["X"] = {"name": "Stretch", "track": "t", "at": 2000, "length": length, **more}
    problems = refused(d.data)
    assert (problems == {}) is fits
    if not fits:
        assert "at 3000 mm of Track bumper N2 stands: it lies on plain track alone" in problems[f"/{kind}/X/length"]
    d.data[kind]["X"] |= {"track": "moon"}
    assert refused(d.data)[f"/{kind}/X/track"] == "There is no track moon."


def test_a_stop_is_held_by_a_signal_that_is_there() -> None:
    d = line(2)
    stop = {"name": "Stop", "track": "t", "at": 900, "length": 600, "rail": "left", "module": "M"}
    d.data["braking"]["X"] = {**stop, "held_by": "S1"}
    assert refused(d.data) == {}
    d.data["braking"]["X"]["held_by"] = "S9"
    assert refused(d.data) == {"/braking/X/held_by": "There is no signal S9."}


@pytest.mark.parametrize(
    ("change", "where", "says"),
    [
        ({"ends": "09:00"}, "ends", "It ends after it begins, on the same day."),
        ({"starts": None}, "ends", "It ends after it begins"),
        ({"until": "2026-01-01"}, "until", "a day after its first"),
    ],
)
def test_a_date_ends_after_it_begins(change: dict[str, Any], where: str, says: str) -> None:
    d = plain()
    d.data["dates"]["D"] = {"name": "Work night", "day": "2026-12-01", "starts": "19:00", "ends": "22:00"}
    told(d.data, {f"/dates/D/{k}": v for k, v in change.items()}, f"/dates/D/{where}", says)


# Bounds of single fields


def _bounded() -> list[tuple[str, str, str, float, bool]]:
    """Of every model of the document: each number with a bound, which bound, its value, whether it is a whole one."""
    found = []
    for model, shape in Layout.model_json_schema()["$defs"].items():
        for field, about in shape.get("properties", {}).items():
            for one in (about, *about.get("anyOf", ())):
                for bound in ("minimum", "maximum", "exclusiveMinimum"):
                    if bound in one:
                        found.append((model, field, bound, one[bound], one.get("type") == "integer"))
    return found


HOMES = {
    "Track": "/tracks/yard-1",
    "Device": "/devices/booster1",
    "Run": "/runs/W1",
    "Feeder": "/feeders/F1",
    "Node": "/nodes/T1",
    "Section": "/sections/yard",
    "HouseRules": "/brief/rules",
    "Signal": "/signals/S1",
    "Train": "/trains/ore",
}
"""Where the demo has one of each."""
AT_HOME = [b for b in _bounded() if b[0] in HOMES]


@pytest.mark.parametrize(
    ("model", "field", "bound", "value", "entire"), AT_HOME, ids=[" ".join(b[:3]) for b in AT_HOME]
)
def test_a_number_beyond_its_bound_is_refused_beside_its_field(
    model: str, field: str, bound: str, value: float, entire: bool
) -> None:
    """And told with the bound, so that nobody has to guess."""
    data, path = whole(), f"{HOMES[model]}/{field}"
    up = bound == "maximum"
    beyond = value + (1 if up else -1) if entire else math.nextafter(value, math.inf if up else -math.inf)
    put(data, path, value if bound == "exclusiveMinimum" else beyond)
    problems = refused(data)
    assert path in problems, (path, problems)
    assert f"{value:g}" in problems[path].replace(".0", "") or str(value) in problems[path], problems[path]


def test_most_of_the_bounds_are_looked_at() -> None:
    assert len(AT_HOME) > 80, "the schema tells every bound"
