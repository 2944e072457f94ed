"""What is kept of a function of a few fields is the answer to those very fields, and of nothing else."""

from __future__ import annotations

import random
from typing import Any

import numpy as np
import pytest

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.circuits.rail_work import lay_rails, lay_rails_with
from jolly_copper.core.findings.check import check
from jolly_copper.core.layout import lately
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.lately import only, reads
from jolly_copper.core.layout.patching import patched, patched_on
from jolly_copper.core.layout.reading import LayoutError, read_layout
from jolly_copper.core.rails.pieces import map_rails, node_bonds
from jolly_copper.demo import DEMOS
from tests.layouts import random_layout
from tests.long import either


def after(layout: Layout, *patch: dict[str, Any]) -> Layout:
    """The layout with a change made as the club file makes it: what was not touched is shared."""
    return patched_on((layout.model_dump(mode="json"), layout), list(patch))


TAPED = {"op": "replace", "path": "/runs/W1/tape", "value": 18_000.0}


def test_what_no_change_touched_is_the_very_same_map(demo: Layout) -> None:
    changed = after(demo, TAPED)
    other = {f for f in Layout.model_fields if getattr(changed, f) is not getattr(demo, f)}
    assert other == {"runs"}
    renamed = after(demo, {"op": "replace", "path": "/name", "value": "By night"})
    assert renamed.tracks is demo.tracks and renamed.brief is demo.brief and renamed.name == "By night"


def test_things_in_another_order_are_another_map(demo: Layout) -> None:
    """What is drawn and told goes by order, so a thing that moved to the end is a change."""
    first = next(iter(demo.feeders))
    data = demo.model_dump(mode="json")
    moved = {**data, "feeders": {**{i: f for i, f in data["feeders"].items() if i != first}, first: None}}
    moved["feeders"][first] = data["feeders"][first]
    found = read_layout(moved, (data, demo))
    assert found.feeders == demo.feeders and list(found.feeders)[-1] == first
    assert found.feeders is not demo.feeders and found.tracks is demo.tracks


def test_track_is_not_worked_out_again_when_a_wire_changes(demo: Layout) -> None:
    changed = after(demo, TAPED)
    assert map_rails(changed) is map_rails(demo)
    assert node_bonds(changed) is node_bonds(demo)
    assert lay_rails(changed) is lay_rails(demo)
    gap = next(iter(demo.gaps))
    cut = after(demo, {"op": "remove", "path": f"/gaps/{gap}"})
    assert map_rails(cut) is not map_rails(demo) and gap not in map_rails(cut).cut_at
    assert node_bonds(cut) is node_bonds(demo), "a gap is in plain track"


def test_what_is_kept_is_what_would_be_worked_out_anew(demo: Layout) -> None:
    kept, anew = lay_rails(demo), lay_rails_with(demo, ())
    assert kept.spans == anew.spans and kept.fed == anew.fed
    assert [r[:6] for r in kept.work.resistors] == [r[:6] for r in anew.work.resistors]
    before = len(kept.work.resistors)
    begun = kept.work.begun()
    begun.joined.join("one", "other")
    assert begun.resistors == [] and len(kept.work.resistors) == before
    assert kept.work.joined.find("one") == "one" and kept.work.joined.find("other") == "other", "a copy takes it on"


def test_a_function_sees_no_field_but_those_it_named(demo: Layout) -> None:
    @reads("tracks")
    def too_curious(layout: Layout) -> int:
        return len(layout.tracks) + len(layout.runs)

    with pytest.raises(AttributeError, match="runs"):
        too_curious(demo)
    assert only(demo, ("tracks", "name")).name == demo.name


def test_it_is_worked_out_once_for_the_same_things_and_anew_for_others(demo: Layout) -> None:
    asked: list[int] = []

    @reads("runs", "brief")
    def count(layout: Layout) -> int:
        asked.append(len(layout.runs))
        return len(layout.runs)

    same_but_new = read_layout(demo.model_dump(mode="json"))
    assert count(demo) == count(after(demo, {"op": "replace", "path": "/name", "value": "x"})) == len(demo.runs)
    assert len(asked) == 1
    assert count(same_but_new) == len(demo.runs) and len(asked) == 2, "equal is not the same"
    assert count(demo) == len(demo.runs) and len(asked) == 2, "the one before is still known"


def test_what_is_kept_is_bounded(demo: Layout, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(lately, "KEPT_BYTES", 3 * lately.ENTRY_BYTES * len(demo.tracks))
    asked: list[Layout] = []

    @reads("tracks")
    def count(layout: Layout) -> int:
        asked.append(layout)
        return len(layout.tracks)

    monkeypatch.setattr(lately, "KEPT", 99)
    many = [read_layout(demo.model_dump(mode="json")) for _ in range(5)]
    for layout in many:
        count(layout)
    for layout in reversed(many[2:]):
        count(layout)
    assert len(asked) == 5, "the last three are known"
    count(many[0])
    assert len(asked) == 6, "the first was let go"
    monkeypatch.setattr(lately, "KEPT", 1)
    count(many[1])
    count(many[0])
    assert len(asked) == 8, "one, however small it is thought to be"


def changes(rng: random.Random, layout: Layout) -> list[dict[str, Any]]:
    """A change of track, of wire, of power or of trains: what people do, and what undoes what is kept."""

    def one_of(things: dict[str, Any]) -> str:
        return rng.choice(sorted(things))

    found: list[dict[str, Any]] = [{"op": "replace", "path": "/notes", "value": str(rng.random())}]
    if layout.runs:
        run = one_of(layout.runs)
        found.append({"op": "replace", "path": f"/runs/{run}/tape", "value": rng.uniform(200, 9000)})
        found.append({"op": "replace", "path": f"/runs/{run}/gauge", "value": rng.choice(["10 AWG", "18 AWG"])})
    if layout.feeders:
        feeder = one_of(layout.feeders)
        found.append({"op": "replace", "path": f"/feeders/{feeder}/at", "value": rng.uniform(0, 200)})
        found.append({"op": "remove", "path": f"/feeders/{feeder}"})
    if layout.gaps:
        found.append({"op": "remove", "path": f"/gaps/{one_of(layout.gaps)}"})
    track = one_of(layout.tracks)
    found.append({"op": "replace", "path": f"/tracks/{track}/code", "value": rng.choice([55, 83, 100])})
    found.append({"op": "replace", "path": f"/tracks/{track}/joiner_every", "value": rng.choice([None, 450.0])})
    found.append({"op": "add", "path": "/gaps/Gx", "value": {"track": track, "at": 60.0, "rails": "left"}})
    found.append({"op": "replace", "path": "/brief/rules/drop_below_rail", "value": rng.uniform(20, 90)})
    turnouts = {i: n for i, n in layout.nodes.items() if n.kind == "turnout"}
    if turnouts:
        lies = rng.choice(["through", "diverging"])
        found.append({"op": "replace", "path": f"/nodes/{one_of(turnouts)}/lies", "value": lies})
    if layout.devices:
        found.append(
            {"op": "replace", "path": f"/devices/{one_of(layout.devices)}/ohms", "value": rng.uniform(0.01, 1)}
        )
    return rng.sample(found, rng.randint(1, 2))


def told(facts: Any) -> list[bytes]:
    columns = ("volts", "least_volts", "exact_volts", "coin", "coin_exact", "trip", "source_volts", "open_volts")
    carried = np.array([x for pair in facts.carried.values() for x in pair])
    return [*(getattr(facts, c).tobytes() for c in columns), carried.tobytes()]


def walk(layout: Layout, seed: int, steps: int) -> None:
    rng = random.Random(seed)
    data = layout.model_dump(mode="json")
    for _ in range(steps):
        try:
            then = patched(data, changes(rng, layout))
            shared = read_layout(then, (data, layout))
        except LayoutError:
            continue  # such a change is refused, and changes nothing
        anew = read_layout(then)
        scene = next(iter(layout.scenes), None)
        one, other = derive(shared, scene), derive(anew, scene)
        assert told(one) == told(other)
        assert one.network.elements == other.network.elements and one.network.spans == other.network.spans
        assert check(one) == check(other)
        data, layout = then, shared


@pytest.mark.parametrize("name", sorted(DEMOS))
def test_after_changes_of_a_demo_all_is_as_from_nothing_to_the_byte(name: str) -> None:
    walk(DEMOS[name](), 1, either(2, 12))


@pytest.mark.parametrize("seed", range(either(4, 20)))
def test_after_changes_of_a_random_railroad_all_is_as_from_nothing_to_the_byte(seed: int) -> None:
    walk(random_layout(seed, 7), seed, either(5, 15))
