"""Placing signals, boards and single channels by hand; what a split, a turn-round or an erasure does to them."""

from __future__ import annotations

import math
from typing import Any

import pytest
from pydantic import TypeAdapter

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.drawing import tracks
from jolly_copper.core.drawing.acts import Act, perform
from jolly_copper.core.drawing.sheet import DrawingError, Sheet
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.signals.places import heading_of, signal_point
from jolly_copper.demo import signalled_bay
from tests.layouts import feeder, plain
from tests.signalled import junction, line


def act(layout: Layout, **fields: Any) -> tuple[Layout, tuple[str, str] | None]:
    done = perform(derive(layout), TypeAdapter(Act).validate_python(fields))
    return apply_patch(layout, done.patch), done.made


def test_a_signal_stands_beside_its_track_on_the_side_of_its_driver() -> None:
    layout, made = act(line(3).plain(), act="signal", track="t", at=3940, towards="a")
    assert made == ("signal", "S3")
    s = layout.signals["S3"]
    assert (s.at, s.towards, s.aspects) == (3940, "a", 3)
    assert heading_of(layout, s) == pytest.approx(180) and signal_point(layout, s)[1] < 0, (
        "right of a train that runs west is north"
    )
    assert signal_point(layout, layout.signals["S1"])[1] > 0


def test_a_signal_is_moved_along_its_track() -> None:
    layout, _ = act(line(3).plain(), act="move signal", signal="S1", x=1500, y=900)
    assert layout.signals["S1"].at == pytest.approx(1500)


def test_a_channel_for_one_stretch_takes_the_nearest_free_one() -> None:
    d = plain()
    feeder(d, "F1", "t", 500, "T1")
    layout, made = act(d.plain(), act="detect", track="t", at=1500)
    assert made == ("detector", "DB1") and layout.devices["DB1.1"].input == "main"
    assert layout.sections["s"].circuit == layout.devices["DB1.1"].output
    worn = layout.circuits[layout.devices["DB1.1"].output]
    assert (worn.colour_a, worn.colour_b) == ("red/white", "black")
    with pytest.raises(DrawingError, match="looks at this stretch already"):
        act(layout, act="detect", track="t", at=500)
    more = apply_patch(
        layout, [{"op": "add", "path": "/gaps/G1", "value": {"track": "t", "at": 1000, "rails": "left"}}]
    )
    second, made = act(more, act="detect", track="t", at=2000)
    assert made == ("detector", "DB1") and "DB1.2" in second.devices


def test_bare_track_must_be_fed_before_it_is_detected() -> None:
    d = plain()
    d.data["sections"].clear()
    with pytest.raises(DrawingError, match="No circuit feeds this stretch"):
        act(d.plain(), act="detect", track="t", at=1500)


def test_boards_follow_on_with_their_addresses() -> None:
    layout, _ = act(line(3).plain(), act="control board", kind="detector", x=10, y=20)
    assert layout.detectors["DB2"].address == 17
    layout, made = act(layout, act="control board", kind="lamps", x=10, y=20)
    layout, other = act(layout, act="control board", kind="turnouts", x=10, y=20)
    assert made and other and layout.drivers[other[1]].address == layout.drivers[made[1]].outputs + 1


def test_erasing_a_driver_leaves_its_signals_without_an_output() -> None:
    layout = signalled_bay()
    driver = next(i for i, d in layout.drivers.items() if d.drives == "lamps")
    then, _ = act(layout, act="erase", things=[{"kind": "driver", "id": driver}])
    assert driver not in then.drivers and all(s.driver != driver for s in then.signals.values())
    assert len(then.signals) == len(layout.signals)


def test_erasing_a_board_of_inputs_leaves_reports_and_buttons_without_one() -> None:
    bay = signalled_bay()
    board = bay.nodes["T1"].report_board
    then, _ = act(bay, act="erase", things=[{"kind": "driver", "id": board}])
    assert board not in then.drivers and then.nodes["T1"].report_board is None and then.nodes["T1"].report_input is None
    assert then.nodes["T1"].button_input == bay.nodes["T1"].button_input, "on another board"


def test_a_copied_turnout_has_no_output_or_input_of_the_first() -> None:
    bay = signalled_bay()
    uplands = next(i for i, b in bay.boards.items() if b.name == "16 uplands")
    then, _ = act(bay, act="copy board", board=uplands, dx=0, dy=9000)
    fresh = [n for i, n in then.nodes.items() if i not in bay.nodes and n.kind == "turnout"]
    assert fresh and all(
        n.motor and n.driver is n.report_board is n.button_board is n.button_input is None for n in fresh
    )


def test_erasing_one_channel_gives_its_section_back_to_the_bus() -> None:
    layout = signalled_bay()
    device = next(i for i, d in layout.devices.items() if d.board and d.channel == 1)
    mates = [i for i, d in layout.devices.items() if d.board == layout.devices[device].board and i != device]
    brought = [r.ends_at_device for r in layout.runs.values() if r.ends_at_device == device]
    then, _ = act(layout, act="erase", things=[{"kind": "device", "id": device}])
    assert device not in then.devices and all(m in then.devices for m in mates)
    if brought:
        assert any(r.ends_at_device in mates for r in then.runs.values()), (
            "its mates keep the wire that comes to the board"
        )
    assert not [s for s in then.sections.values() if s.circuit == layout.devices[device].output]


def test_a_split_keeps_signals_where_they_stand() -> None:
    before = line(3).plain()
    layout, _ = act(before, act="split", track="t", at=3000)
    for i, s in layout.signals.items():
        assert math.dist(signal_point(layout, s), signal_point(before, before.signals[i])) < 0.5


def test_a_track_turned_round_changes_nothing_on_the_ground() -> None:
    before = line(3).plain()
    sheet = Sheet(before)
    sheet["tracks"]["t"]["runs"] = "forward"
    tracks.reverse_track(sheet, "t")
    after = sheet.layout()
    assert after.tracks["t"].runs == "backward"
    for i, s in after.signals.items():
        old = before.signals[i]
        assert heading_of(after, s) % 360 == pytest.approx(heading_of(before, old) % 360)
        assert math.dist(signal_point(after, s), signal_point(before, old)) < 0.5


def test_which_way_trains_run_is_set_for_several_tracks_at_once() -> None:
    layout, _ = act(junction().plain(), act="running", tracks=["a", "m"], runs="forward")
    assert {i: t.runs for i, t in layout.tracks.items()} == {"a": "forward", "m": "forward", "b": "both"}


def test_a_board_moved_takes_its_channels_along() -> None:
    layout, _ = act(signalled_bay(), act="move", things=[{"kind": "detector", "id": "DB1"}], dx=50, dy=-20)
    board = layout.detectors["DB1"]
    assert all(d.at == board.at for d in layout.devices.values() if d.board == "DB1")
