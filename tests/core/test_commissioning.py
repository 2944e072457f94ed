"""Commissioning: every device, board, lamp and head has its task; settings stand in the book."""

from __future__ import annotations

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.rails.pieces import map_rails
from jolly_copper.core.signals.heads import lamps_of
from jolly_copper.core.signals.occupancy import sensing
from jolly_copper.core.wirebook.commissioning import commissioning, settings_chapter
from jolly_copper.core.wirebook.compose import compose
from jolly_copper.core.wirebook.task import Task
from jolly_copper.core.wirebook.worked import Worked
from jolly_copper.demo import gannet_bay, harbour_arm, millbeck, signalled_bay, tinplate_lane


def tasks(layout: Layout) -> dict[str, Task]:
    return {t.key: t for many in commissioning(layout).values() for t in many}


def test_every_device_and_board_has_its_task_where_it_stands() -> None:
    layout = harbour_arm()
    found = commissioning(layout)
    keys = [t.key for many in found.values() for t in many]
    assert len(keys) == len(set(keys))
    wanted = {f"device:{i}" for i, d in layout.devices.items() if d.board is None}
    wanted |= {f"board:{i}" for i in (*layout.detectors, *layout.drivers)}
    assert set(keys) == wanted
    assert {t.key for t in found["back2"]} >= {"device:booster1", "device:K1", "board:motors"}


def test_a_board_is_numbered_with_nothing_else_on_the_line() -> None:
    layout = harbour_arm()
    rows = dict(tasks(layout)["board:DB2"].rows)
    first = layout.detectors["DB2"].address
    assert rows["Number"].startswith("With nothing else on the report line: ")
    assert f"{first} to {first + layout.detectors['DB2'].channels - 1}" in rows["Number"]


def test_what_each_kind_is_tried_by_alone() -> None:
    found = tasks(gannet_bay())
    assert (
        "about 14.4 V" in found["device:booster1"].meter
        and "Before old wiring is cut" in found["device:booster1"].meter
    )
    assert "A touch only" in found["device:K1"].meter and dict(found["device:K1"].rows)["Opens at"] == "4 A after 50 ms"
    assert "turns over each time" in found["device:V1"].meter
    assert "licensed" in found["device:PS1"].meter


def test_each_lamp_and_each_aspect_once() -> None:
    layout = signalled_bay()
    found = tasks(layout)
    for i, signal in layout.signals.items():
        if signal.driver is None or signal.output is None:
            continue
        driver = layout.drivers[signal.driver]
        lamps = found[f"lamps:{i}"].rows
        assert len(lamps) == len(lamps_of(signal))
        assert lamps[0][0] == f"Output {signal.output}, number {driver.address + signal.output - 1}"
        assert found[f"aspects:{i}"].rows[0][0] == "Stop"


def test_settings_are_told_on_the_phone_and_printed() -> None:
    layout = harbour_arm()
    assert settings_chapter(layout) is None
    patch = [
        {"op": "replace", "path": "/devices/K1/settings", "value": "Jumper J3 open; the leaflet says closed"},
        {"op": "replace", "path": "/detectors/DB1/settings", "value": "Switch 2 on"},
    ]
    after = apply_patch(layout, patch)
    assert dict(tasks(after)["device:K1"].rows)["Set"] == "Jumper J3 open; the leaflet says closed"
    assert tasks(after)["device:K1"].told != tasks(layout)["device:K1"].told, "what is said of it changed"
    chapter = settings_chapter(after)
    assert chapter is not None and "settings" in [c.key for c in compose(derive(after), 1, "2026-11-30").chapters]


def test_every_device_is_on_the_phone_whatever_the_control() -> None:
    for layout in (millbeck(), tinplate_lane(), gannet_bay(), signalled_bay()):
        on_phone = [t.key for b in Worked(derive(layout)).tasks for t in b.tasks]
        assert len(on_phone) == len(set(on_phone))
        assert set(tasks(layout)) <= set(on_phone)


def test_a_detector_board_tells_which_numbers_should_come_and_of_what() -> None:
    layout = signalled_bay()
    told = {key: t.numbers for key, t in tasks(layout).items() if t.numbers}
    assert set(told) == {f"board:{i}" for i in layout.detectors}
    assert [n for n, _ in told["board:DB1"]] == list(range(1, 8)), "the eighth channel is spare"
    every = [n for numbers in told.values() for n in numbers]
    sensed = {(s.address, s.name) for s in sensing(layout, map_rails(layout)) if s.address is not None}
    assert {n for n, _ in every} == {a for a, _ in sensed} and len(every) == len(set(every))
