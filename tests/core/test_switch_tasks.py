"""Control panels and stretches of one rail as work, one thing at a time."""

from __future__ import annotations

import re

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.wirebook.switch_backs import panel_back
from jolly_copper.core.wirebook.task import BoardTasks
from jolly_copper.core.wirebook.worked import Worked
from jolly_copper.demo import millbeck, tinplate_lane


def tasks(layout: Layout) -> list[BoardTasks]:
    return Worked(derive(layout)).tasks


def test_a_panel_is_wired_at_the_bench_strips_first_then_every_switch_then_proved() -> None:
    layout = millbeck()
    benches = {b.panel: b for b in tasks(layout) if b.panel is not None}
    assert set(benches) == {i for i in layout.panels if panel_back(layout, i).switches}
    for panel, bench in benches.items():
        back = panel_back(layout, panel)
        keys = [t.key for t in bench.tasks]
        assert keys[0].startswith("strips:") and keys[-1].endswith("/proof")
        assert keys[1:-1] == [f"switch:{s.device}" for s in back.switches]
        for task, switch in zip(bench.tasks[1:-1], back.switches, strict=True):
            pins = [h for h, _ in task.rows if h.startswith("Pin ")]
            assert pins == [f"Pin {p.number}" for p in switch.pins], "no pin is left out or told twice"
            assert "open" in task.meter or re.search(r"over \S+ .?Ω", task.meter)


def test_every_task_of_every_board_and_bench_has_a_key_of_its_own() -> None:
    for layout in (millbeck(), tinplate_lane()):
        keys = [t.key for b in tasks(layout) for t in b.tasks]
        assert len(keys) == len(set(keys))
        boards = [b.key for b in tasks(layout)]
        assert len(boards) == len(set(boards))


def test_the_cuts_of_every_stop_and_isolated_rail_are_work_under_one_board() -> None:
    for layout in (millbeck(), tinplate_lane()):
        keys = [t.key for b in tasks(layout) for t in b.tasks if t.key.split(":")[0] in ("stop", "isolated")]
        assert sorted(keys) == sorted(
            [f"stop:{i}" for i in layout.braking] + [f"isolated:{i}" for i in layout.isolated]
        )
    assert keys, "the three-rail railroad has an isolated rail"
    bare = layout.model_copy(update={"isolated": {}})
    assert [t for b in tasks(bare) for t in b.tasks if t.key.startswith("isolated:")] == []


def test_a_panel_task_changes_its_mark_when_its_wires_change() -> None:
    layout = millbeck()
    before = {t.key: t.told for b in tasks(layout) for t in b.tasks}
    switch = next(i for i, d in layout.devices.items() if d.kind == "selector" and len(d.inputs) == 2)
    turned = layout.devices[switch].model_copy(update={"inputs": tuple(reversed(layout.devices[switch].inputs))})
    after_layout = layout.model_copy(update={"devices": {**layout.devices, switch: turned}})
    after = {t.key: t.told for b in tasks(after_layout) for t in b.tasks}
    assert before[f"switch:{switch}"] != after[f"switch:{switch}"]
    assert all(before[k] == after[k] for k in before if k.startswith(("gap:", "terminal:")))
