"""The document: strict reading, refusals with path and sentence, geometry of drawn paths."""

from __future__ import annotations

import copy
import itertools
import json
import math
from typing import Any

import jsonschema
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.fields import Bend
from jolly_copper.core.layout.geometry import draw
from jolly_copper.core.layout.reading import LayoutError, read_layout
from jolly_copper.core.layout.rules import HouseRules, rule_catalogue


@pytest.fixture
def data(demo: Layout) -> dict[str, Any]:
    return copy.deepcopy(demo.model_dump(mode="json"))


def refused(data: Any) -> dict[str, str]:
    with pytest.raises(LayoutError) as error:
        read_layout(data)
    assert all(p.sentence.endswith(".") and not p.sentence[0].islower() for p in error.value.problems)
    return {p.path: p.sentence for p in error.value.problems}


def test_a_layout_survives_its_own_file(demo: Layout) -> None:
    assert read_layout(json.loads(demo.model_dump_json())) == demo


def test_the_published_schema_takes_the_demo_and_refuses_nonsense(demo: Layout) -> None:
    schema = Layout.model_json_schema()
    plain = json.loads(demo.model_dump_json())
    jsonschema.validate(plain, schema)
    plain["runs"]["W1"]["gouge"] = "14 AWG"
    with pytest.raises(jsonschema.ValidationError):
        jsonschema.validate(plain, schema)


def _set(path: str, value: Any) -> Any:
    def change(data: dict[str, Any]) -> None:
        *way, last = path.split("/")[1:]
        at: Any = data
        for step in way:
            at = at[int(step)] if isinstance(at, list) else at[step]
        at[int(last) if isinstance(at, list) else last] = value

    return change


@pytest.mark.parametrize(
    ("path", "value", "where", "says"),
    [
        ("/colour", "blue", "/colour", "no field called “colour”"),
        ("/runs/W1/insulation", "thin", "/runs/W1/insulation", "no field called"),
        ("/tracks/yard-1/tape", -5, "/tracks/yard-1/tape", "0 or more"),
        ("/tracks/yard-1/tape", float("nan"), "/tracks/yard-1/tape", "finite"),
        ("/tracks/yard-1/tape", "5", "/tracks/yard-1/tape", "must be a number"),
        ("/tracks/yard-1/tape", True, "/tracks/yard-1/tape", "must be a number"),
        ("/tracks/yard-1/metal", "gold", "/tracks/yard-1/metal", "one of"),
        ("/tracks/yard-1/a/node", "nowhere", "/tracks/yard-1/a/node", "no node nowhere"),
        ("/tracks/yard-1/a/port", "sideways", "/tracks/yard-1/a/port", "has no port"),
        ("/tracks/yard-1/a", {"node": "T11", "port": "through"}, "/tracks/yard-2/a/port", "already holds track yard-1"),
        ("/gaps/G1/track", "moon", "/gaps/G1/track", "no track moon"),
        ("/gaps/G1/at", 99999, "/gaps/G1/at", "past the end of Down main"),
        ("/runs/W1/gauge", "fat", "/runs/W1/gauge", "not a wire gauge"),
        ("/runs/W1/fed", {"along": 0}, "/runs/W1/fed", "name one of the two"),
        ("/runs/W1/fed/device", "K2", "/runs/W1/fed/device", "feeds east, not west"),
        ("/runs/W1/circuit", "north", "/runs/W1/circuit", "no circuit north"),
        ("/terminals/T1/run", "Z9", "/terminals/T1/run", "no run Z9"),
        ("/terminals/T1/along", 1e6, "/terminals/T1/along", "only"),
        ("/feeders/F1/terminal", "T999", "/feeders/F1/terminal", "no terminal T999"),
        ("/devices/K1/input", "west", "/devices/K1/input", "power tree has a loop"),
        ("/devices/K1/input", None, "/devices/K1/input", "needs a circuit to take its power from"),
        ("/devices/K1/output", "east", "/devices/K2/output", "already fed by"),
        ("/devices/booster1/trip_amps", 0, "/devices/booster1/trip_amps", "more than 0"),
        ("/sections/yard/circuit", "nope", "/sections/yard/circuit", "no circuit nope"),
        ("/trains/ore/engines/0", "dragon", "/trains/ore/engines/0", "no kind of locomotive"),
        ("/scenes/open-day/placements/0/circuits", [], "/scenes/open-day/placements/0", "say which"),
        ("/brief/rules/largest_drop", 0.9, "/brief/rules/largest_drop", "0.5 or less"),
        ("/circuits/west/colour_a", "Red!", "/circuits/west/colour_a", "wants it"),
        ("/name", "", "/name", "not be empty"),
        ("/schema_version", 2, "/schema_version", "one of 1"),
    ],
)
def test_what_is_wrong_is_refused_with_its_path(
    data: dict[str, Any], path: str, value: Any, where: str, says: str
) -> None:
    _set(path, value)(data)
    problems = refused(data)
    assert where in problems, problems
    assert says in problems[where]


def test_a_longer_loop_in_the_power_tree_is_found(data: dict[str, Any]) -> None:
    data["circuits"]["x"], data["circuits"]["y"] = {"name": "X"}, {"name": "Y"}
    spot = {"x": 0, "y": 0}
    data["devices"]["L1"] = {"kind": "breaker", "name": "L1", "at": spot, "input": "y", "output": "x"}
    data["devices"]["L2"] = {"kind": "breaker", "name": "L2", "at": spot, "input": "x", "output": "y"}
    assert set(refused(data)) == {"/devices/L1/input", "/devices/L2/input"}


@pytest.mark.parametrize("nonsense", [None, [], "layout", 5, {}, {"name": 3}, {"name": "x", "tracks": []}])
def test_nonsense_is_refused_politely(nonsense: Any) -> None:
    assert refused(nonsense)


def test_every_house_rule_has_its_reason_schools_and_source() -> None:
    rows = rule_catalogue()
    assert {r["key"] for r in rows} == set(HouseRules.model_fields)
    assert all(r["title"] and r["reason"] and r["unit"] and r["schools"] and r["source"] for r in rows)


def test_a_corner_with_a_radius_has_its_exact_length() -> None:
    line = draw([Bend(x=0, y=0), Bend(x=1000, y=0, radius=400), Bend(x=1000, y=1000)])
    assert line.length == pytest.approx(600 + 400 * math.pi / 2 + 600)
    assert line.tightest == pytest.approx(400)
    assert line.point(0) == (0, 0) and line.point(1e9) == pytest.approx((1000, 1000))


def test_a_radius_that_does_not_fit_is_made_to_fit() -> None:
    tight = draw([Bend(x=0, y=0), Bend(x=300, y=0, radius=5000), Bend(x=300, y=1000)])
    assert tight.tightest == pytest.approx(300)
    square = [Bend(x=0, y=0), Bend(x=100, y=0), Bend(x=100, y=100), Bend(x=200, y=100)]
    assert draw(square).tightest == pytest.approx(50), "two bends share the leg between them"


coordinates = st.integers(-5000, 5000)


@settings(max_examples=150)
@given(st.lists(st.tuples(coordinates, coordinates), min_size=2, max_size=8, unique=True))
def test_a_drawn_path_keeps_its_ends_and_is_no_longer_than_its_legs(vertices: list[tuple[int, int]]) -> None:
    line = draw([Bend(x=x, y=y) for x, y in vertices])
    legs = sum(math.dist(a, b) for a, b in itertools.pairwise(vertices))
    assert math.dist(vertices[0], vertices[-1]) - 1e-6 <= line.length <= legs + 1e-6
    assert (line.xs[0], line.ys[0]) == vertices[0]
    assert (line.xs[-1], line.ys[-1]) == pytest.approx(vertices[-1])
    assert list(line.distance) == sorted(line.distance)
    at, away = line.nearest(*line.point(line.length / 3))
    assert away < 1e-3 and 0 <= at <= line.length + 1e-6


def test_the_demo_is_what_it_says(demo: Layout) -> None:
    length = sum(draw(t.path).length for t in demo.tracks.values()) / 1000
    assert 100 < length < 140
    assert (
        demo.brief.scale == "TT" and demo.brief.track_volts == 14.4 and len(demo.trains) == 12 and len(demo.scenes) == 2
    )
    kinds = [d.kind for d in demo.devices.values()]
    assert kinds.count("booster") == 3 and kinds.count("breaker") == 7 and kinds.count("reverser") == 2
    assert 65 <= len(demo.feeders) <= 90 and any(b.removable for b in demo.boards.values())
