"""Pages of the book before the boards: the whole plan on one page, and what is made ready at home and at the bench."""

from __future__ import annotations

import math
from collections.abc import Callable

import pytest

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.wirebook.book import Table
from jolly_copper.core.wirebook.compose import compose
from jolly_copper.core.wirebook.preparing import preparing
from jolly_copper.core.wirebook.whole_plan import UNFED, whole_plan
from jolly_copper.core.wirebook.worked import Worked
from jolly_copper.demo import gannet_bay, harbour_arm, harbour_open, millbeck, signalled_bay, tinplate_lane
from tests.layouts import plain

DEMOS = [gannet_bay, signalled_bay, harbour_arm, harbour_open, millbeck, tinplate_lane]


@pytest.mark.parametrize("demo", DEMOS)
def test_the_whole_plan_is_on_its_page_in_the_inks_of_its_districts(demo: Callable[[], Layout]) -> None:
    layout = demo()
    facts = derive(layout)
    sketch = whole_plan(facts)
    assert sketch is not None and sketch.width <= 180.01 and sketch.height <= 118.01
    points = [p for s in sketch.strokes for p in s.points]
    assert all(-0.01 <= x <= sketch.width + 0.01 and -0.01 <= y <= sketch.height + 0.01 for x, y in points)
    scale = float(sketch.title.rsplit(" ", 1)[1])
    drawn = sum(
        math.dist(a, b) for s in sketch.strokes if s.width == 0.8 for a, b in zip(s.points, s.points[1:], strict=False)
    )
    laid = sum(t.line.length for t in layout.tracks.values())
    assert drawn * scale == pytest.approx(laid, rel=0.5 / scale + 0.005), "every length of track, once"
    inks = {s.ink for s in sketch.strokes if s.width == 0.8} - {UNFED}
    assert inks and inks <= {c.ink for c in layout.circuits.values()}


def test_no_word_of_the_whole_plan_lies_on_another() -> None:
    sketch = whole_plan(derive(gannet_bay()))
    assert sketch is not None
    assert {"Booster 1", "Staging"} <= {w.text for w in sketch.words}
    places = [(w.x, w.y) for w in sketch.words]
    assert len(set(places)) == len(places)


def rows(layout: Layout) -> list[tuple[str, ...]]:
    chapter = preparing(Worked(derive(layout)))
    assert chapter is not None
    (table,) = chapter.blocks
    assert isinstance(table, Table)
    return list(table.rows)


def test_every_wire_is_prepared_once_for_the_board_it_is_worked_on() -> None:
    layout = harbour_arm()
    pieces = Worked(derive(layout)).pieces
    counted = [r for r in rows(layout) if r[0] == "at home"]
    assert sum(int(r[2].split()[0]) for r in counted) == len(pieces)
    assert sum(int(r[2].split(", ")[1].split()[0]) for r in counted) == sum(len(p.colours) for p in pieces)


def test_couplings_devices_and_panels_are_for_the_bench() -> None:
    said = [r[1] for r in rows(harbour_arm()) if r[0] == "at the bench"]
    coupled = [w for w in said if w.startswith("Coupling")]
    assert len(coupled) == len(harbour_arm().couplings) and any(w.startswith("Devices:") for w in said)
    assert any(r[1] == "Panel" for r in rows(millbeck()))


def test_both_stand_before_the_order_of_building_and_nowhere_without_cause() -> None:
    keys = [c.key for c in compose(derive(gannet_bay()), 1, "2026-11-30").chapters]
    assert keys.index("plan") < keys.index("preparing") < keys.index("order")
    empty = (
        plain()
        .plain()
        .model_copy(
            update={
                k: {}
                for k in ("boards", "tracks", "nodes", "gaps", "sections", "feeders", "terminals", "runs", "devices")
            }
        )
    )
    assert whole_plan(derive(empty)) is None and preparing(Worked(derive(empty))) is None
