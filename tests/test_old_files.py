"""Club and layout files written by every earlier version open, compute and can be changed.

Each file of `tests/old` was written by that version's own code and holds the demo railroads it had.
"""

from __future__ import annotations

import json
import re
import shutil
from pathlib import Path

import pytest

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.circuits.lengths import run_length
from jolly_copper.core.findings.check import check
from jolly_copper.core.layout.reading import LayoutError, read_layout
from jolly_copper.core.layout.saved import read_saved
from jolly_copper.store import Store
from tests.layouts import plain

OLD = Path(__file__).parent / "old"


def in_order(versions: list[str]) -> list[str]:
    """Versions as they followed each other: 0.10.0 comes after 0.9.0."""
    return sorted(versions, key=lambda v: tuple(int(part) for part in v.split(".")))


VERSIONS = in_order(re.findall(r"^## (\d+\.\d+\.\d+)", (OLD.parents[1] / "CHANGELOG.md").read_text("utf-8"), re.M))[:-1]


def test_every_earlier_version_is_here() -> None:
    assert in_order([f.stem.removeprefix("club-") for f in OLD.glob("*.db")]) == VERSIONS


@pytest.mark.parametrize("version", VERSIONS)
def test_a_club_file_opens_computes_and_takes_a_change(version: str, tmp_path: Path) -> None:
    kept = shutil.copy(OLD / f"club-{version}.db", tmp_path / "club.sqlite3")
    store = Store(kept)
    listed = store.layouts()
    assert listed and "gannet-bay" in {row["id"] for row in listed}
    for row in listed:
        revision = store.get(row["id"])
        facts = derive(revision.layout, next(iter(revision.layout.scenes), None))
        told = check(facts)
        assert len(facts.points) > 100 and told and all(f.title and f.why for f in told)
        assert read_layout(json.loads(revision.layout.model_dump_json())) == revision.layout
        after = store.change(row["id"], revision.number, [{"op": "replace", "path": "/notes", "value": "kept"}], "Note")
        assert after.layout.notes == "kept" and after.layout.tracks == revision.layout.tracks
    store.close()


@pytest.mark.parametrize("version", VERSIONS)
def test_a_field_that_came_later_can_be_set_and_taken_back(version: str, tmp_path: Path) -> None:
    store = Store(shutil.copy(OLD / f"club-{version}.db", tmp_path / "club.sqlite3"))
    set_now = [
        {"op": "replace", "path": "/runs/W1/peak_to_peak", "value": 48},
        {"op": "add", "path": "/measured/M1", "value": {"what": "contact", "of": "F1", "side": "A", "ohms": 0.04}},
    ]
    after = store.change("gannet-bay", 1, set_now, "Measured")
    assert after.layout.runs["W1"].peak_to_peak == 48 and after.layout.measured["M1"].ohms == 0.04
    assert store.undo("gannet-bay", 2).layout.measured == {}
    store.close()


def test_what_the_first_version_let_stand_beyond_a_run_stands_at_its_end(tmp_path: Path) -> None:
    """Its arcs came out longer where two of them share a leg: T45 stood 150 mm past the end of S1 as drawn today."""
    store = Store(shutil.copy(OLD / "club-0.1.0.db", tmp_path / "club.sqlite3"))
    layout = store.get("gannet-bay").layout
    store.close()
    assert layout.terminals["T45"].along == run_length(layout.runs["S1"])


@pytest.mark.parametrize(("beyond", "opens"), [(0.04, True), (0.3, False)])
def test_only_a_little_beyond_is_set_right(beyond: float, opens: bool) -> None:
    data = plain().plain().model_dump(mode="json")
    data["terminals"]["T1"]["along"] = run_length(plain().plain().runs["R1"]) * (1 + beyond)
    with pytest.raises(LayoutError):
        read_layout(data)
    if opens:
        assert read_saved(data).terminals["T1"].along == run_length(plain().plain().runs["R1"])
    else:
        with pytest.raises(LayoutError, match="only"):
            read_saved(data)


@pytest.mark.parametrize("along", ["far", None, -5])
def test_a_distance_that_is_none_is_refused_in_words(along: object) -> None:
    data = plain().plain().model_dump(mode="json")
    data["terminals"]["T1"]["along"] = along
    with pytest.raises(LayoutError, match="/terminals/T1/along"):
        read_saved(data)


@pytest.mark.parametrize("version", VERSIONS)
def test_what_was_not_known_then_is_taken_as_before(version: str, tmp_path: Path) -> None:
    """New fields have the meaning their absence had: nothing is measured, guessed or returned in common."""
    store = Store(shutil.copy(OLD / f"club-{version}.db", tmp_path / "club.sqlite3"))
    layout = store.get("gannet-bay").layout
    store.close()
    assert layout.measured == {} and not any(d.guessed for d in layout.devices.values())
    assert all(c.return_of is None for c in layout.circuits.values())
    assert all(r.ohms_per_metre is None and r.peak_to_peak is None for r in layout.runs.values())
    assert all(d.measured_at_amps == 0 for d in layout.devices.values())
