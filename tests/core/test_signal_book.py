"""Detection and signals in the book: every channel, output and cable can be found; the panel is drawn without
collisions."""

from __future__ import annotations

import itertools
import math

import pytest

from jolly_copper.core.circuits.facts import Facts, derive
from jolly_copper.core.circuits.quick_sums import E24
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.layout.underways import cable_length
from jolly_copper.core.signals.heads import lamps_of
from jolly_copper.core.signals.outputs import driver_amps, outputs_of, resistor_for
from jolly_copper.core.wirebook.book import Book, Table
from jolly_copper.core.wirebook.compose import compose
from jolly_copper.core.wirebook.control import control_pieces
from jolly_copper.core.wirebook.jobs import find_jobs
from jolly_copper.core.wirebook.joints import joints
from jolly_copper.core.wirebook.materials import items
from jolly_copper.core.wirebook.panel import draw_panel, panel_sketch
from jolly_copper.core.wirebook.panel_parts import APART_MM
from jolly_copper.core.wirebook.pieces import pieces
from jolly_copper.core.wirebook.schedule import schedule
from jolly_copper.core.wirebook.signal_pages import panel_list
from jolly_copper.demo import gannet_bay, signalled_bay


@pytest.fixture(scope="module")
def facts() -> Facts:
    return derive(signalled_bay(), "open-day")


@pytest.fixture(scope="module")
def book(facts: Facts) -> Book:
    return compose(facts, 3, "2026-11-28")


def tables(book: Book, key: str) -> list[Table]:
    return [b for c in book.chapters if c.key == key for b in c.blocks if isinstance(b, Table)]


def test_every_channel_stands_with_its_address_and_wire_home(book: Book, facts: Facts) -> None:
    layout = facts.layout
    rows = {(t.title, r[0]): r for t in tables(book, "detection") for r in t.rows}
    for device in layout.devices.values():
        if device.board is None:
            continue
        board = layout.detectors[device.board]
        row = rows[board.name, str(device.channel)]
        assert (
            row[1] == str(board.address + int(device.channel or 0) - 1)
            and row[4] == layout.circuits[device.output].colour_a
        )
        assert all(r.label in row[5].split(", ") for r in layout.runs.values() if r.circuit == device.output)
    assert sum(r[2] == "spare" for t in tables(book, "detection") for r in t.rows) == 64 - 55


def test_the_aspect_table_and_the_interlocking_hold_every_signal(book: Book, facts: Facts) -> None:
    names = {s.name for s in facts.layout.signals.values()}
    (aspects, _) = tables(book, "aspects")
    assert {r[0] for r in aspects.rows} - {""} == names
    *junctions, lines = tables(book, "interlocking")
    assert lines.title == "Traffic direction between junctions" and lines.rows
    assert {s for r in lines.rows for cell in r[2:] for s in cell.split(", ")} <= names
    for t in junctions:
        assert t.note.startswith("Tried: ") and "No two conflicting routes clear together" in t.note


def test_every_output_has_its_lamp_its_wire_and_its_resistor(book: Book, facts: Facts) -> None:
    layout = facts.layout
    rows = [(t.title, *r) for t in tables(book, "outputs") for r in t.rows]
    used = outputs_of(layout)
    assert len(rows) == len(used)
    lamps = sum(len(lamps_of(s)) for s in layout.signals.values())
    assert sum(o.kind == "signal" for o in used) == lamps
    assert len({(o.driver, o.number) for o in used if o.kind == "signal"}) == lamps, "no lamp shares an output"
    for o in used:
        if o.kind == "signal":
            each = resistor_for(layout.drivers[o.driver], layout.signals[o.id])
            assert not isinstance(each, str)
            # IEC 60063: the E24 series; (12 − 2) V at 8 mA wants 1250 Ω, the next value up is 1.3 kΩ.
            assert each.ohms == 1300 and any(math.isclose(each.ohms / 10**p, v) for v in E24 for p in range(6))


def test_every_report_and_button_has_an_input_of_its_own(book: Book, facts: Facts) -> None:
    """A contact to each turnout that reports; a button to each output, so both ends of a crossover have one."""
    layout = facts.layout
    reporting = {i: n for i, n in layout.nodes.items() if n.reports}
    assert reporting and all(layout.drivers[str(n.report_board)].drives == "buttons" for n in reporting.values())
    assert len({(n.report_board, n.report_input) for n in reporting.values()}) == len(reporting)
    pushed = {(n.driver, n.output): (n.button_board, n.button_input) for n in layout.nodes.values() if n.driver}
    assert len(set(pushed.values())) == len(pushed) and None not in {b for b, _ in pushed.values()}
    assert not set(pushed.values()) & {(n.report_board, n.report_input) for n in reporting.values()}
    cable = next(p for p in control_pieces(layout) if p.key == "report:T1")
    board = layout.drivers[str(layout.nodes["T1"].report_board)]
    assert cable.start == f"{board.name}, input {layout.nodes['T1'].report_input}" and cable.colours == (
        "green",
        "white",
    )
    listed = {r[2]: t.title for t in tables(book, "outputs") for r in t.rows}
    assert (
        listed["Turnout T1, closed when it lies diverging"] == board.name
        and "Turnout T1, button on the panel" in listed
    )
    (hole,) = [h for h in draw_panel(layout).holes if h.kind == "switch" and h.name == "T1"]
    assert (
        hole.follows
        == f"input {layout.nodes['T1'].button_input} of {layout.drivers[str(layout.nodes['T1'].button_board)].name}"
    )


def test_both_ends_of_a_crossover_are_on_one_output(facts: Facts) -> None:
    nodes = facts.layout.nodes
    for a, b in (("T1", "T3"), ("T2", "T6")):
        assert (nodes[a].driver, nodes[a].output) == (nodes[b].driver, nodes[b].output) != (None, None)


def test_every_signal_motor_and_board_has_a_cable_in_book_labels_and_table(book: Book, facts: Facts) -> None:
    layout = facts.layout
    every = control_pieces(layout)
    cables = {p.owner: p for p in every if not p.key.startswith("report:")}
    wanted = {*layout.signals, *(i for i, n in layout.nodes.items() if n.driver), *layout.detectors, *layout.drivers}
    assert set(cables) == wanted
    for i, s in layout.signals.items():
        cable = cables[i]
        assert len(cable.colours) == len(lamps_of(s)) + 1 == len(set(cable.colours)), "a wire to a lamp, and the common"
        assert cable.length > 0 and cable.board is not None
    listed = {r[0] for t in tables(book, "cables") for r in t.rows}
    assert listed == {p.label for p in every}
    assert {w.id for w in schedule(layout) if w.kind == "control"} == wanted
    keys = {p.key for p in pieces(layout)}
    assert {p.key for p in every} <= keys
    rows = {
        r[0]
        for c in book.chapters
        if c.key.startswith("board-")
        for t in c.blocks
        if isinstance(t, Table) and t.title.startswith("Wires")
        for r in t.rows
    }
    assert {p.label for p in every} <= rows, "each is somebody's work on some board"


def test_every_board_signal_motor_and_resistor_is_in_the_materials(facts: Facts) -> None:
    layout = facts.layout
    parts = pieces(layout)
    counted = {i.key: i.count for i in items(layout, parts, joints(layout, parts))}
    assert "device-detector" not in counted, "channels are bought by the board"
    sums = {
        start: sum(n for k, n in counted.items() if k.startswith(start))
        for start in ("detector-", "driver-", "signal-", "motor-", "resistor-")
    }
    assert sums == {
        "detector-": len(layout.detectors),
        "driver-": len(layout.drivers),
        "signal-": len(layout.signals),
        "motor-": sum(n.motor not in (None, "hand") for n in layout.nodes.values()),
        "resistor-": sum(len(lamps_of(s)) for s in layout.signals.values()),
    }
    assert counted["resistor-1300-0.25"] == sums["resistor-"], "(12 − 2) V / 8 mA is 1250 Ω; the next above is 1300"


def test_what_signals_ask_of_their_supply(facts: Facts) -> None:
    layout = facts.layout
    for i, d in layout.drivers.items():
        mine = [s for s in layout.signals.values() if s.driver == i]
        if d.drives == "lamps":
            assert driver_amps(layout, i) == pytest.approx(d.amps + sum(s.heads * s.lamp_amps for s in mine))


def test_cables_follow_the_benchwork() -> None:
    layout = gannet_bay()
    near = cable_length(layout, (1000, 300), (2000, 300))
    across = cable_length(layout, (1000, 300), (1000, 5500))
    assert near == pytest.approx(1000, abs=1) and across > 5200, "round the room, not through its middle"
    assert cable_length(layout, (1000, 300), (2000, 400)) == cable_length(layout, (2000, 400), (1000, 300))


def test_the_panel_keeps_the_railroad_in_order_and_no_two_holes_meet() -> None:
    layout = signalled_bay()
    panel = draw_panel(layout)
    assert panel.width == 600 and all(0 < h.x < 600 and 0 < h.y < panel.height for h in panel.holes)
    kinds = {k: sum(h.kind == k for h in panel.holes) for k in ("section", "switch", "signal")}
    assert kinds == {
        "section": 55,
        "switch": sum(n.kind == "turnout" for n in layout.nodes.values()),
        "signal": len(layout.signals),
    }
    close = [
        (a.name, b.name)
        for a, b in itertools.combinations(panel.holes, 2)
        if math.dist((a.x, a.y), (b.x, b.y)) < (a.across + b.across) / 2 + 0.5
    ]
    assert not close
    assert APART_MM > 6 and len({h.number for h in panel.holes}) == len(panel.holes)
    lamps = {h.name: h for h in panel.holes if h.kind == "section"}
    assert lamps["M1"].x < lamps["M2"].x < lamps["M3"].x and lamps["M1"].y < lamps["M7"].y, "west is left, north is up"
    sketch = panel_sketch(layout, panel, template=True)
    assert (sketch.width, sketch.height) == (panel.width, panel.height)
    assert len(panel_list(panel).rows) == len(panel.holes)


@pytest.mark.parametrize("width", [100, 5000])
def test_a_panel_of_no_sensible_size_is_refused(width: float) -> None:
    with pytest.raises(ValueError, match="200 to 2000 mm"):
        draw_panel(gannet_bay(), width)


def test_the_same_railroad_is_the_same_book_to_the_letter(book: Book) -> None:
    assert compose(derive(signalled_bay(), "open-day"), 3, "2026-11-28") == book


def test_the_work_of_signalling_is_a_change_order_that_makes_all_of_it() -> None:
    before, after = gannet_bay(), signalled_bay()
    jobs = find_jobs(before, after)
    puts = {p for j in jobs for p in j.puts}
    assert {("detectors", i) for i in after.detectors} <= puts and {("signals", i) for i in after.signals} <= puts
    assert {("drivers", i) for i in after.drivers} <= puts and {
        ("devices", i) for i, d in after.devices.items() if d.board
    } <= puts
    words = " ".join(j.words for j in jobs)
    assert (
        "Mount Detector 1 (8 channels, addresses 1 to 8)" in words
        and "Mount signal S1" in words
        and "Lay cable S1" in words
    )
    assert not find_jobs(after, after)
    moved = apply_patch(after, [{"op": "replace", "path": "/signals/S1/at", "value": 2000}])
    assert any("Set signal S1 anew" in j.words for j in find_jobs(after, moved))
