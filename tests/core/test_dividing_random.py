"""Random railroads, sound and unsound, divided, laid and sized: always an answer that can be read, never less power."""

from __future__ import annotations

import random

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.circuits.whereabouts import LEAST_STAND_MM, extent_circuits, roams, survey
from jolly_copper.core.drawing.sheet import DrawingError
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.layout.stock import Placement
from jolly_copper.core.proposals.dividing.choose import Wish, divide
from jolly_copper.core.proposals.dividing.make import make_division
from jolly_copper.core.proposals.dividing.stretches import find_stretches
from jolly_copper.core.proposals.laying.whole import School, lay_railroad
from jolly_copper.core.rails.pieces import map_rails
from jolly_copper.demo.drafting import stripped
from tests.layouts import random_layout
from tests.track_plans import routing_yard

USES = ["main", "branch", "yard", "staging", "engine terminal", "industry", "siding", "programming"]


def with_uses(layout: Layout, seed: int) -> Layout:
    """The layout with a use for every track, drawn by lot."""
    rng = random.Random(seed)
    return apply_patch(
        layout, [{"op": "replace", "path": f"/tracks/{t}/use", "value": rng.choice(USES)} for t in layout.tracks]
    )


@given(st.integers(0, 400))
@settings(max_examples=12)
def test_any_railroad_is_divided_into_something_that_can_be_read(seed: int) -> None:
    layout = with_uses(routing_yard(seed).plain(), seed)
    facts = derive(layout)
    for wish in (Wish(main_parts=1 + seed % 3), Wish(keep=True)):
        division = divide(facts, wish)
        assert sorted(n for d in division.districts for n in d.stretches) == sorted(
            s.number for s in division.plan.stretches
        )
        owner = {n: k for k, d in enumerate(division.districts) for n in d.stretches}
        assert {(e.track, e.at) for e in division.cuts} == {
            (e.track, e.at) for e in division.plan.edges if owner[e.a] != owner[e.b]
        }
        then = apply_patch(layout, make_division(layout, division, wish))
        assert set(layout.gaps) <= set(then.gaps), "no gap is taken away"
        assert set(then.tracks) == set(layout.tracks) and set(layout.feeders) <= set(then.feeders)
        for i, device in then.devices.items():
            assert device.input is None or device.input in then.circuits, i


@given(st.integers(0, 400))
@settings(max_examples=12)
def test_any_railroad_with_districts_is_laid(seed: int) -> None:
    layout = with_uses(routing_yard(seed).plain(), seed)
    bare = stripped(layout)
    for school in (School(), School("every piece of rail")):
        try:
            then = derive(apply_patch(bare, lay_railroad(bare, school)))
        except DrawingError as refused:
            assert "place a source" in str(refused)
            continue
        circuits = extent_circuits(then.layout, then.rails)
        for row, circuit in enumerate(then.circuit):
            span = then.network.spans[int(then.points.span[row])]
            if (
                circuit is not None
                and circuit in then.tree.fed_by
                and sum(p.end - p.start for p in then.rails.extents[then.rails.extent_of[span.piece]]) > 400
            ):
                assert np.isfinite(then.volts[row]), (then.track_of(row), circuit)
        assert all(c is None or c in then.layout.circuits for c in circuits)


@pytest.mark.parametrize("seed", range(6))
def test_stretches_agree_with_each_other(seed: int) -> None:
    layout = with_uses(random_layout(seed), seed)
    plan = find_stretches(derive(layout).topology)
    numbers = {s.number for s in plan.stretches}
    assert all(e.a in numbers and e.b in numbers and e.a != e.b and e.price >= 0 for e in plan.edges)
    assert all(a < b and a in numbers and b in numbers for a, b in plan.beside)
    for e in plan.edges:
        (one,) = [s for s in plan.stretches if any(t == e.track and abs(end - e.at) < 1 for t, _, end in s.pieces)] or [
            None
        ]
        assert one is None or one.number in (e.a, e.b)


@given(st.integers(0, 200), st.sets(st.sampled_from(USES), max_size=3), st.booleans())
@settings(max_examples=40)
def test_where_a_train_roams_is_where_both_its_circuits_and_its_uses_are(
    seed: int, uses: set[str], named: bool
) -> None:
    """Against the plain reading of it: every piece of rail whose circuit and use are both wanted."""
    layout = with_uses(random_layout(seed % 5), seed)
    rails = map_rails(layout)
    facts_tree = derive(layout).tree
    circuits = ["c1"] if named else []
    if not uses and not circuits:
        circuits = ["c1", "c2"]
    placed = Placement(train="x", circuits=circuits, uses=sorted(uses))
    wanted: dict[str, float] = {}
    for circuit, extent in zip(extent_circuits(layout, rails), rails.extents, strict=True):
        for piece in extent:
            if (
                circuit
                and (not circuits or circuit in circuits)
                and (not uses or layout.tracks[piece.track].use in uses)
            ):
                wanted[circuit] = wanted.get(circuit, 0.0) + piece.end - piece.start
    found = roams(facts_tree, survey(layout, rails), placed)
    enough = {c: mm for c, mm in wanted.items() if mm >= LEAST_STAND_MM} or wanted
    assert found == pytest.approx(enough)
