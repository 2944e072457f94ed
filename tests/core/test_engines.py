"""Engines on track of a control they are not made for, as selectors lie; and whose volts are weighed against whom."""

from __future__ import annotations

from typing import Any

import pytest

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.findings.check import check
from jolly_copper.core.findings.model import Finding
from jolly_copper.core.layout.document import Layout
from jolly_copper.demo import millbeck
from tests.core.cab_layouts import two_blocks

RULE = "engine under the other control"


def told(layout: Layout, scene: str | None) -> list[Finding]:
    return [f for f in check(derive(layout, scene)) if f.rule == RULE]


def with_scene(placement: dict[str, Any], selectors: dict[str, str | None], **engine: Any) -> Layout:
    """Millbeck with one train more, of one engine, placed so."""
    data = millbeck().model_dump(mode="json")
    data["locos"]["new"] = {"name": "New engine", "idle": 0, "running": 0.3, "stall": 0.9, **engine}
    data["trains"]["new"] = {"name": "New train", "engines": ["new"], "length": 200}
    data["scenes"]["new"] = {
        "name": "New",
        "placements": [{"train": "new", "doing": "running", **placement}],
        "selectors": selectors,
    }
    return Layout.model_validate(data)


def exchange() -> tuple[str, str, float]:
    """The selector that may give the exchange to either control, the track there and a place on it."""
    layout = millbeck()
    lever = next(i for i, d in layout.devices.items() if d.name == "Selector Exchange")
    section = next(s for s in layout.sections.values() if s.circuit == layout.devices[lever].output)
    return lever, section.track, section.at


def test_the_demo_keeps_its_engines_to_their_own_control() -> None:
    layout = millbeck()
    assert all(k.runs_on is not None for k in layout.locos.values())
    for scene in (None, *layout.scenes):
        assert told(layout, scene) == []


@pytest.mark.parametrize(
    ("lies", "runs_on", "severity"),
    [
        ("main", "direct current", "should"),
        ("main", "digital", None),
        ("main", "both", None),
        ("main", None, None),
        ("cab-a", "digital", "look"),
        ("cab-a", "direct current", None),
        ("cab-b", "digital", "look"),
        (None, "digital", None),
        (None, "direct current", None),
    ],
)
def test_a_parked_engine_is_told_by_what_its_block_is_given(
    lies: str | None, runs_on: str | None, severity: str | None
) -> None:
    """Common practice, no source: the block of either control, under every lie of its selector."""
    lever, track, at = exchange()
    found = told(with_scene({"track": track, "at": at}, {lever: lies}, runs_on=runs_on), "new")
    assert [f.severity for f in found] == ([] if severity is None else [severity])
    for f in found:
        assert "New train stands on Exchange" in f.title and "New engine is made for" in f.title
        assert f.place is not None and f.place.track == track


def test_a_train_that_roams_is_told_once_for_each_source() -> None:
    layout = with_scene({"circuits": ["main", "branch", "cab-a"]}, {}, runs_on="direct current")
    assert [f.key for f in told(layout, "new")] == [
        f"other-control:new:{i}" for i, d in layout.devices.items() if d.output == "main"
    ]
    assert told(layout, None) == [], "without a scene nobody knows where it is"


def test_a_train_of_which_only_half_the_place_is_known_roams_its_circuits() -> None:
    """A track without a place on it is no place: it may be wherever its circuits lead, and is shown at their source."""
    _, track, _ = exchange()
    layout = with_scene({"track": track, "circuits": ["main"]}, {}, runs_on="direct current")
    found = told(layout, "new")
    assert [f.severity for f in found] == ["should"] and "New train runs on" in found[0].title
    assert found[0].place is not None and (found[0].place.kind, found[0].place.track) == ("device", None)


def test_volts_are_weighed_against_engines_that_may_run_there() -> None:
    """An engine of the other control is no must against a source it never meets."""
    d = two_blocks()
    d.data["locos"] = {"e": {"name": "Coreless", "idle": 0.1, "running": 0.2, "stall": 0.5, "most_volts": 9}}

    def burns(**engine: Any) -> int:
        d.data["locos"]["e"].update(engine)
        return sum(f.key.startswith("burns:") for f in check(derive(d.plain())))

    assert burns() == 2 and burns(runs_on="direct current") == 2 and burns(runs_on="both") == 2
    assert burns(runs_on="digital") == 0
