"""Two states of a layout beside each other, and the picture of both."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.comparing import KINDS, compare, outcomes
from jolly_copper.core.findings.check import check
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.layout.reading import read_layout
from jolly_copper.core.plan_picture import MOST_POINTS, picture
from jolly_copper.demo import gannet_bay
from tests.large import row_of_tracks
from tests.layouts import random_layout


def changed(layout: Layout, *patch: dict[str, object]) -> Layout:
    return apply_patch(layout, list(patch))


def test_a_layout_differs_from_itself_in_nothing(demo: Layout) -> None:
    assert compare(demo, demo) == ()


def test_a_field_is_told_from_what_to_what_with_its_unit(demo: Layout) -> None:
    after = changed(
        demo,
        {"op": "replace", "path": "/runs/W1/gauge", "value": "12 AWG"},
        {"op": "replace", "path": "/devices/booster1/label_amps", "value": 8},
        {"op": "replace", "path": "/tracks/quay-lead/tape", "value": 609.6},
    )
    told = {d.id: d for d in compare(demo, after)}
    assert told["W1"].how == "changed" and told["W1"].words == ("gauge: 16 AWG → 12 AWG",)
    assert told["quay-lead"].words == ("tape: not given → 2'",)
    assert "8" in told["booster1"].words[0] and told["booster1"].words[0].endswith(" A")
    assert len(told) == 3


def test_added_gone_and_moved_are_told_apart(demo: Layout) -> None:
    device = demo.devices["booster1"].model_dump(mode="json")
    after = changed(
        demo,
        {"op": "add", "path": "/circuits/spare", "value": {"name": "Spare"}},
        {"op": "add", "path": "/devices/B9", "value": {**device, "name": "Spare booster", "output": "spare"}},
        {"op": "remove", "path": "/feeders/F1"},
        {"op": "replace", "path": "/devices/booster1/at", "value": {"x": 1, "y": 2}},
    )
    told = {d.id: (d.how, d.name, d.words) for d in compare(demo, after)}
    assert told["B9"] == ("added", "Device Spare booster", ())
    assert told["F1"][0] == "gone" and told["booster1"][2] == ("at: moved",)


def test_metric_lengths_are_told_in_millimetres(demo: Layout) -> None:
    metric = changed(demo, {"op": "replace", "path": "/brief/units", "value": "metric"})
    after = changed(metric, {"op": "replace", "path": "/tracks/quay-lead/tape", "value": 600})
    words = [w for d in compare(metric, after) for w in d.words]
    assert words == ["tape: not given → 600 mm"]


def test_outcomes_tell_what_a_thicker_bus_does(demo: Layout) -> None:
    after = changed(demo, {"op": "replace", "path": "/runs/W1/gauge", "value": "12 AWG"})
    facts = derive(demo, "open-day"), derive(after, "open-day")
    found = outcomes(*facts, *(check(f) for f in facts))
    volts = next(o for o in found.outcomes if o.name.startswith("Lowest"))
    assert float(volts.after.split()[0]) > float(volts.before.split()[0])
    count = next(o for o in found.outcomes if o.name == "Findings to settle")
    assert int(count.before) - len(found.settled) + len(found.new) == int(count.after)
    assert found.shared > 300


def test_nothing_live_is_said_so() -> None:
    facts = derive(Layout(name="Paper"), None)
    found = outcomes(facts, facts, [], [])
    assert found.outcomes[0].before == "nothing live" and found.differences == ()


@given(st.integers(0, 40), st.integers(0, 40))
def test_what_is_gone_one_way_is_added_the_other(one: int, other: int) -> None:
    a, b = random_layout(one, 4), random_layout(other, 4)
    there, back = compare(a, b), compare(b, a)
    turned = {"added": "gone", "gone": "added", "changed": "changed"}
    assert {(d.kind, d.id, d.how) for d in there} == {(d.kind, d.id, turned[d.how]) for d in back}


def test_the_picture_marks_what_differs_and_draws_what_is_gone(demo: Layout) -> None:
    after = changed(demo, {"op": "remove", "path": "/feeders/F1"})
    marks = picture(after, compare(demo, after), demo).marks
    assert [m.how for m in marks if m.kind == "feeder"] == ["gone"]
    assert {m.how for m in marks if m.kind == "track"} == {"same"}
    assert len([m for m in picture(after).marks if m.kind == "track"]) == len(demo.tracks)


def test_a_picture_stays_small_however_large_the_railroad() -> None:
    found = picture(read_layout(row_of_tracks(2000, 400, 10)))
    assert sum(m.path.count("L") for m in found.marks) < 3 * MOST_POINTS


def test_an_empty_plan_has_a_picture_all_the_same() -> None:
    found = picture(Layout(name="Paper"))
    assert found.marks == () and found.box[2] > 0
    assert picture(gannet_bay()).box[2] > 10_000


def test_house_rules_are_told_in_their_own_units(demo: Layout) -> None:
    after = changed(
        demo,
        {"op": "replace", "path": "/brief/rules/largest_drop", "value": 0.08},
        {"op": "replace", "path": "/brief/rules/drop_below_rail", "value": 304.8},
    )
    (brief,) = compare(demo, after)
    words = " ".join(brief.words)
    assert "largest drop: 5 % → 8 %" in words and words.count("→") == 2 and "1'" in words


def test_every_map_of_the_document_is_compared() -> None:
    assert set(KINDS) == {k for k, f in Layout.model_fields.items() if f.default == {}}
