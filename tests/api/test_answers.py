"""What the plan is told: the same figures the core worked out, drawn where the document says."""

from __future__ import annotations

import math

import numpy as np
import pytest

from jolly_copper.api import worked as worked_module
from jolly_copper.api.worked import Worked
from jolly_copper.core.circuits.facts import Facts, derive
from jolly_copper.core.circuits.lengths import point_on_track
from jolly_copper.core.findings.check import check
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.reading import read_layout
from jolly_copper.store import Store
from jolly_copper.telling import answering, points
from jolly_copper.telling.shapes import Answers
from tests.layouts import feeder, plain, without


@pytest.fixture(scope="module")
def told(demo_facts: Facts) -> Answers:
    return answering.answers(demo_facts, 7)


def test_samples_are_the_facts_in_order_of_track(told: Answers, demo_facts: Facts) -> None:
    assert told.revision == 7 and told.scene == "open-day"
    for track, samples in told.samples.items():
        rows = [k for k in range(len(demo_facts.points)) if demo_facts.track_of(k) == track]
        for told_volts, row in zip(samples.volts, rows, strict=True):
            fact = demo_facts.volts[row]
            assert told_volts is None if math.isnan(fact) else told_volts == pytest.approx(fact, abs=1e-4)
        rules = demo_facts.layout.brief.rules
        for lost, low in zip(samples.lost, samples.low, strict=True):
            assert low == (lost is not None and lost > rules.largest_drop)
        for ratio, weak in zip(samples.ratio, samples.weak, strict=True):
            assert weak == (ratio is not None and ratio < rules.coin_margin)


def test_the_marked_points_are_the_extremes(told: Answers) -> None:
    lowest = min(v for s in told.samples.values() for v in s.volts if v is not None)
    weakest = min(v for s in told.samples.values() for v in s.ratio if v is not None)
    assert told.worst and told.worst.value == pytest.approx(lowest, abs=1e-3)
    assert told.weakest and told.weakest.value == pytest.approx(weakest, abs=1e-3)
    assert "V at the wheel" in told.worst.text and "× the trip" in told.weakest.note


def test_drawings_have_their_lengths(told: Answers, demo: Layout) -> None:
    for track_id, drawn in told.tracks.items():
        assert len(drawn.points) == 2 * len(drawn.distance)
        assert drawn.distance[0] == 0 and drawn.distance[-1] == pytest.approx(drawn.length, abs=0.1)
        for along, x, y in zip(drawn.distance, drawn.points[::2], drawn.points[1::2], strict=True):
            assert point_on_track(demo, track_id, along) == pytest.approx((x, y), abs=0.6)
    assert set(told.runs) == set(demo.runs) and set(told.terminals) == set(demo.terminals)


def test_a_feeder_runs_from_its_rail_to_its_terminal(told: Answers, demo: Layout) -> None:
    for feeder_id, drawn in told.feeders.items():
        item = demo.feeders[feeder_id]
        assert (drawn.x1, drawn.y1) == pytest.approx(point_on_track(demo, item.track, item.at), abs=0.1)
        terminal = told.terminals[item.terminal]
        assert (drawn.x2, drawn.y2) == (terminal.x, terminal.y)


def test_gaps_stand_across_their_track(told: Answers, demo: Layout) -> None:
    """On the bridge the mains run straight down the plan: a gap there lies at 90°."""
    for gap_id, gap in demo.gaps.items():
        if gap.track == "down-bridge":
            assert told.gaps[gap_id].degrees == pytest.approx(90, abs=0.5)
        assert (told.gaps[gap_id].x, told.gaps[gap_id].y) == pytest.approx(
            point_on_track(demo, gap.track, gap.at), abs=0.1
        )


def test_every_wire_with_a_source_has_its_load(told: Answers, demo: Layout) -> None:
    assert set(told.loads) == {f"run:{r}" for r in demo.runs} | {f"feeder:{f}" for f in demo.feeders}
    assert told.loads["feeder:F57"].share > 2, "the thin feeder planted in the demo"


def test_a_dead_layout_is_told_as_such() -> None:
    d = plain()
    told = answering.answers(derive(d.plain()), 1)
    assert told.worst is None and told.weakest is None and told.source_volts is None
    assert set(told.samples["t"].volts) == {None}


def test_a_point_on_dead_track(demo_facts: Facts) -> None:
    point = points.point(demo_facts, "shed-3", 200)
    assert not point.live and point.steps == [] and point.trips is None and point.circuit_name == "Engine terminal"


def test_a_point_in_words_and_units(demo: Layout, demo_facts: Facts) -> None:
    point = points.point(demo_facts, "quarry-loader", 745)
    assert point.track_name == "Quarry loader" and point.trip_text == "4 A" and point.trips
    assert point.ratio and point.ratio < 1.5 and point.at_text == "29 1/2 in"
    assert sum(s.volts for s in point.steps) == pytest.approx(point.source_volts - point.volts, abs=1e-3)
    metric = read_layout(without(demo, brief={**demo.brief.model_dump(), "units": "metric"}))
    again = points.point(derive(metric, "open-day"), "quarry-loader", 745)
    assert again.at_text == "745 mm" and again.volts == pytest.approx(point.volts)


def test_findings_speak_the_layouts_units(demo: Layout) -> None:
    metric = read_layout(without(demo, brief={**demo.brief.model_dump(), "units": "metric"}))
    told = [answering.finding(f) for f in check(derive(metric, "open-day"))]
    text = " ".join(f.title for f in told)
    assert " mm of track is dead" in text or " m of track is dead" in text
    assert '"' not in text and "ft" not in text.split()


def test_a_preview_names_what_goes_and_what_comes(demo_facts: Facts) -> None:
    told = answering.preview(demo_facts, [{"op": "remove", "path": "/feeders/F72"}])
    assert any("fights the reverser" in t for t in told.gone)
    worse = answering.preview(demo_facts, [{"op": "replace", "path": "/runs/E1/gauge", "value": "26 AWG"}])
    assert any("E1, 26 AWG, can be left carrying" in t for t in worse.new)
    assert worse.lowest_before != worse.lowest_after


def test_facts_of_a_revision_are_worked_out_once(demo: Layout, monkeypatch: pytest.MonkeyPatch) -> None:
    calls = []
    real = worked_module.derive
    monkeypatch.setattr(worked_module, "derive", lambda *a: calls.append(a) or real(*a))
    store, worked = Store(":memory:"), Worked()
    d = plain()
    feeder(d, "F1", "t", 100, "T1")
    revision = store.add("x", d.plain())
    assert worked.facts(revision, None) is worked.facts(revision, None)
    for n in range(12):
        revision = store.change("x", revision.number, [{"op": "replace", "path": "/notes", "value": str(n)}], "n")
        worked.facts(revision, None)
    assert len(calls) == 13
    monkeypatch.setattr(worked_module, "KEPT_BYTES", 3 * worked_module._weight(real(revision.layout)) + 10)
    before = store.get("x", 2)
    worked.facts(before, "other")
    assert len(worked._kept) == 3, "the oldest are let go"
    store.close()


def test_the_order_of_steps_is_from_the_supply_to_the_wheel(demo_facts: Facts) -> None:
    kinds = [s.kind for s in points.point(demo_facts, "wye-tail", 900).steps]
    order = ["source", "device", "run", "plug", "contact", "feeder", "joiner", "rail", "inductance"]
    assert kinds == sorted(kinds, key=order.index) and kinds[0] == "source"


def test_numbers_that_are_not_finite_never_leave(told: Answers) -> None:
    text = told.model_dump_json()
    assert "NaN" not in text and "Infinity" not in text
    assert np.isfinite([v for s in told.samples.values() for v in s.coin if v is not None]).all()


def test_a_run_and_a_feeder_may_bear_one_id() -> None:
    d = plain()
    feeder(d, "R1", "t", 0, "T1", gauge="26 AWG")
    told = answering.answers(derive(d.plain()), 1)
    rows = {r.kind: r.held_text for r in answering.wire_table(derive(d.plain())).rows}
    assert (
        told.loads["feeder:R1"].held == pytest.approx(5)
        and told.loads["run:R1"].held == 0 == told.loads["run:R1"].share
    )
    assert rows == {"feeder": "5 A", "run": "0 mA"}


def test_what_was_given_up_on_the_way_is_not_kept(demo: Layout) -> None:
    """What-ifs stop when the layout changes under them; what they came to by then answers nobody else."""
    store, worked = Store(":memory:"), Worked()
    store.add("demo", demo)
    revision = store.get("demo")
    asked: list[str] = []

    def work(name: str) -> list[str]:
        asked.append(name)
        return [name]

    assert worked.once("what-if a", revision, None, lambda _: work("half"), lambda: False) == ["half"]
    assert worked.once("what-if a", revision, None, lambda _: work("whole"), lambda: True) == ["whole"]
    assert worked.once("what-if a", revision, None, lambda _: work("again")) == ["whole"]
    assert worked.once("what-if b", revision, None, lambda _: work("other")) == ["other"]
    assert asked == ["half", "whole", "other"]
