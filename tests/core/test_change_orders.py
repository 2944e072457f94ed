"""Change orders: the work between two revisions is all of it and no more, in an order that can be done and keeps trains
running."""

from __future__ import annotations

from typing import Any

import pytest

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.proposals.dividing.choose import divide
from jolly_copper.core.proposals.dividing.make import make_division
from jolly_copper.core.wirebook.book import Table
from jolly_copper.core.wirebook.change_pages import change_book
from jolly_copper.core.wirebook.evenings import EVENING_MINUTES, ChangeOrder, order_work, running
from jolly_copper.core.wirebook.job import Job
from jolly_copper.core.wirebook.jobs import find_jobs
from jolly_copper.demo import undivided_bay
from tests.layouts import booster, feeder, plain, random_layout


def bench() -> Layout:
    """A bus with strips at 100 and 900 and a feeder at each end of a 3 m track."""
    d = plain()
    d.board("b1", "1", -200, -200, 4000, 800)
    d.data["terminals"] = {
        "T1": {"run": "R1", "along": 100, "kind": "screw strip"},
        "T2": {"run": "R1", "along": 900, "kind": "screw strip"},
    }
    feeder(d, "F1", "t", 400, "T1")
    feeder(d, "F2", "t", 2000, "T2")
    return d.plain()


def jobs(patch: list[dict[str, Any]], layout: Layout | None = None) -> list[Job]:
    before = layout or bench()
    return find_jobs(before, apply_patch(before, patch))


def told(found: list[Job]) -> list[tuple[str, str]]:
    return [(j.key, j.words) for j in found]


def test_nothing_changed_is_nothing_to_do(demo: Layout) -> None:
    assert find_jobs(demo, demo) == []
    order = order_work(demo, demo)
    assert order.evenings == ()


@pytest.mark.parametrize("field", ["name", "notes", "club"])
def test_words_of_the_layout_are_no_work(field: str) -> None:
    assert jobs([{"op": "replace", "path": f"/{field}", "value": "Another"}]) == []


@pytest.mark.parametrize(
    ("patch", "keys", "words"),
    [
        (
            [{"op": "replace", "path": "/feeders/F1/gauge", "value": "16 AWG"}],
            ["add feeder:F1"],
            "Replace feeder F1: 16 AWG in red and black",
        ),
        (
            [{"op": "replace", "path": "/feeders/F1/terminal", "value": "T2"}],
            ["move feeder:F1"],
            "from terminal T1 to T2",
        ),
        ([{"op": "replace", "path": "/feeders/F1/at", "value": 800}], ["move feeder:F1"], "on the rail"),
        ([{"op": "replace", "path": "/feeders/F1/at", "value": 420}], [], ""),
        (
            [{"op": "replace", "path": "/feeders/F1/a_rail", "value": "right"}],
            ["move feeder:F1"],
            "Change the two wires of feeder F1 over",
        ),
        ([{"op": "replace", "path": "/feeders/F1/label", "value": "YARD1"}], ["relabel feeder:F1"], "F1 becomes YARD1"),
        ([{"op": "remove", "path": "/feeders/F1"}], ["take away feeder:F1"], "off its rail and off T1"),
        ([{"op": "add", "path": "/gaps/G1", "value": {"track": "t", "at": 1000}}], ["cut gap:G1"], "both rails"),
        (
            [{"op": "add", "path": "/plugs/P1", "value": {"run": "R1", "along": 500}}],
            ["add plug:P1", "cut run:run:R1/2", "relabel run:R1"],
            "pin 1 red",
        ),
        ([{"op": "replace", "path": "/devices/B1/trip_amps", "value": 4}], ["set device:B1"], "trip amps 4"),
        ([{"op": "replace", "path": "/terminals/T1/kind", "value": "lever"}], ["move terminal:T1"], "Make T1 a lever"),
        (
            [{"op": "add", "path": "/runs/R1/filter", "value": {}}],
            ["add filter:R1"],
            "100 Ω, 2 W, in series with 0.1 µF",
        ),
    ],
)
def test_each_change_is_its_job(patch: list[dict[str, Any]], keys: list[str], words: str) -> None:
    found = jobs(patch)
    assert [j.key for j in found] == keys, told(found)
    if words:
        assert words in found[0].words


def test_a_terminal_put_into_a_bus_is_a_cut_not_a_new_bus() -> None:
    found = jobs([{"op": "add", "path": "/terminals/T3", "value": {"run": "R1", "along": 500, "kind": "screw strip"}}])
    assert [(j.key, j.label) for j in found] == [
        ("add terminal:T3", "T3"),
        ("cut run:run:R1/2", "R1.2"),
        ("relabel run:R1", "R1.4"),
    ]
    cut, relabel = found[1], found[2]
    assert "where T3 stands now" in cut.words and "R1.2, R1.3" in cut.words
    assert "R1.3 becomes R1.4" in relabel.words, "the piece beyond has moved up by one"


def test_a_heavier_bus_is_laid_new_and_the_old_one_taken_out() -> None:
    found = jobs([{"op": "replace", "path": "/runs/R1/gauge", "value": "12 AWG"}])
    assert [j.key for j in found if j.kind == "add"] == ["add run:run:R1/1", "add run:run:R1/2", "add run:run:R1/3"]
    assert [j.key for j in found if j.kind == "take away"] == [
        "take away run:run:R1/1",
        "take away run:run:R1/2",
        "take away run:run:R1/3",
    ]


def test_what_a_job_hangs_on_comes_first() -> None:
    patch = [
        {"op": "add", "path": "/terminals/T3", "value": {"run": "R1", "along": 500, "kind": "screw strip"}},
        {"op": "replace", "path": "/feeders/F2/terminal", "value": "T3"},
        {"op": "remove", "path": "/terminals/T2"},
    ]
    keys = [j.key for j in order_work(bench(), apply_patch(bench(), patch)).jobs]
    assert keys.index("add terminal:T3") < keys.index("move feeder:F2") < keys.index("take away terminal:T2")


def divided() -> tuple[Layout, Layout]:
    before = undivided_bay()
    return before, apply_patch(before, make_division(before, divide(derive(before, "open-day"))))


@pytest.fixture(scope="module")
def division() -> tuple[Layout, Layout, ChangeOrder]:
    before, after = divided()
    return before, after, order_work(before, after)


def test_dividing_a_railroad_leaves_it_running(division: tuple[Layout, Layout, ChangeOrder]) -> None:
    """All in one evening, or in a careless order, most of it would stand dark for weeks."""
    before, after, order = division
    assert running(before)[0] == running(after)[0] == order.running_before == 1
    assert min(e.running for e in order.evenings) > 0.9 and order.evenings[-1].running == 1
    assert sum(e.running < 1 for e in order.evenings) <= 2


def test_every_job_once_and_after_what_it_needs(division: tuple[Layout, Layout, ChangeOrder]) -> None:
    before, after, order = division
    keys = [j.key for j in order.jobs]
    assert sorted(keys) == sorted(j.key for j in find_jobs(before, after)) and len(set(keys)) == len(keys)
    place = {k: n for n, k in enumerate(keys)}
    for job in order.jobs:
        for need in job.after:
            assert place[need] < place[job.key] or job.zone is not None, (need, job.key)
    for evening in order.evenings:
        assert (
            evening.minutes <= EVENING_MINUTES
            or len({j.zone for j in evening.jobs}) <= 2
            or any(j.thing == "gap" for j in evening.jobs)
        )


def test_gaps_are_cut_before_the_feeders_behind_them_go_over(division: tuple[Layout, Layout, ChangeOrder]) -> None:
    _, after, order = division
    keys = [j.key for j in order.jobs]
    from jolly_copper.core.rails.pieces import map_rails

    rails = map_rails(after)
    gaps = {i: g for i, g in after.gaps.items() if f"cut gap:{i}" in keys}
    for job in order.jobs:
        if job.thing != "feeder" or job.zone is None or job.zone < 0:
            continue
        for i, gap in gaps.items():
            sides = {rails.extent_of[rails.piece_at(gap.track, gap.at + s)] for s in (-12, 12)}
            if job.zone in sides:
                assert keys.index(f"cut gap:{i}") < keys.index(job.key)


@pytest.mark.parametrize("seed", range(4))
def test_any_two_layouts_come_to_an_end(seed: int) -> None:
    one, other = random_layout(seed), random_layout(seed + 50)
    order = order_work(one, other)
    assert [j.key for j in order.jobs] and order.evenings[-1].running == pytest.approx(running(other)[0])
    assert order_work(one, other) == order, "the same work in the same order each time"


def test_shorter_evenings_are_more_evenings(division: tuple[Layout, Layout, ChangeOrder]) -> None:
    before, after, order = division
    short = order_work(before, after, 60)
    assert len(short.evenings) > len(order.evenings)
    assert {j.key for j in short.jobs} == {j.key for j in order.jobs}


def test_what_runs_is_track_fed_by_one_live_circuit() -> None:
    layout = bench()
    assert running(layout) == (1.0, ())
    cut = apply_patch(layout, [{"op": "add", "path": "/gaps/G1", "value": {"track": "t", "at": 2500}}])
    assert running(cut)[0] == pytest.approx(2500 / 3000) and running(cut)[1] == ("Track",)
    d = plain()
    booster(d, circuit="east", key="B2")
    d.bus("R2", "east", "14 AWG", [(0, 500), (1000, 500)], fed={"device": "B2"}, first=0, every=500)
    feeder(d, "F1", "t", 400, "T1")
    feeder(d, "F9", "t", 900, next(i for i, t in d.data["terminals"].items() if t["run"] == "R2"))
    assert running(d.plain())[0] == 0, "two sources on one stretch of rail is a fault, not power"


def test_it_prints(division: tuple[Layout, Layout, ChangeOrder]) -> None:
    _, after, order = division
    book = change_book(order, after, 1, 2, "2026-11-24")
    assert book.called == "change order" and len(book.chapters) == 1 + len(order.evenings)
    rows = [r for c in book.chapters[1:] for b in c.blocks if isinstance(b, Table) for r in b.rows]
    assert [r[3] for r in rows] == [j.words for j in order.jobs]
