"""Boards that travel in the book, in the wire table, among the tasks of a phone and in the list of materials."""

from __future__ import annotations

import re

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.travel.couplings import held_by, read_couplings
from jolly_copper.core.travel.crossing import board_joints
from jolly_copper.core.wirebook.book import Paragraphs, Table
from jolly_copper.core.wirebook.compose import compose
from jolly_copper.core.wirebook.travel_pages import travel_chapters
from jolly_copper.core.wirebook.worked import Worked
from jolly_copper.demo import gannet_bay, harbour_arm, harbour_open, tinplate_lane

ARM = harbour_arm()
FACTS = derive(ARM, "show")


def test_every_pin_stands_in_the_book_once() -> None:
    joints, setting_up = travel_chapters(FACTS)
    rows = [r for b in joints.blocks if isinstance(b, Table) for r in b.rows]
    pins = {(r.coupling.name, str(p.number)) for r in read_couplings(ARM, board_joints(ARM)) for p in r.pins}
    assert {(r[0], r[2]) for r in rows} == pins and len(rows) == len(pins)
    assert setting_up.title == "Setting up and taking down"
    titles = [b.title for b in setting_up.blocks]
    assert titles[0] == "1. Board 6 Power, out of Lid C" and titles[-1] == "Packing list"
    back = next(b for b in setting_up.blocks if isinstance(b, Paragraphs) and b.title == "Take down")
    assert len(back.lines) == 9 and back.lines[0].startswith("Engines and cars off")


def test_the_book_has_them_and_one_that_stays_has_not() -> None:
    keys = [c.key for c in compose(FACTS, 1, "2026-11-30").chapters]
    assert "joints" in keys and "setting-up" in keys
    assert travel_chapters(derive(tinplate_lane(), "evening")) == []
    # A bridge with plugs of its own and no couplings: its pins are listed all the same.
    (joints, _) = travel_chapters(derive(gannet_bay(), "open-day"))
    assert any(r[1] == "plug of its own" for b in joints.blocks if isinstance(b, Table) for r in b.rows)


def test_what_a_wire_ends_in_is_told_with_its_pins() -> None:
    worked = Worked(FACTS)
    held = held_by(ARM)
    ends = [p.end for p in worked.pieces if p.end.startswith("plug ")]
    assert ends and all(re.search(r" in coupling \d[A-Z], pins? \d", e) for e in ends)
    (task,) = [t for b in worked.tasks for t in b.tasks if t.key == "plug:P4"]
    name, pins = held["plug:P4"]
    assert (
        dict(task.rows)["Goes through"].startswith(f"Coupling {name.lower()}")
        or name in dict(task.rows)["Goes through"]
    )
    assert f"Pin {pins[1]} to pin {pins[1]} and pin {pins[2]} to pin {pins[2]}: closed." in task.meter


def test_connectors_are_counted_and_plugs_of_their_own_no_more() -> None:
    counted = {i.key: i for i in Worked(FACTS).items}
    used = [c.kind for c in ARM.couplings.values()]
    assert counted["connector-keyed"].count == used.count("keyed")
    assert "plug" not in counted and not any(k.startswith("cable-plug") for k in counted)
    opened = {i.key: i for i in Worked(derive(harbour_open(), "show")).items}
    assert opened["plug"].count == len(harbour_open().plugs) and opened["cable-plug-2"].count > 5


def test_pin_lists_of_other_chapters_leave_out_what_is_coupled() -> None:
    book = compose(FACTS, 1, "2026-11-30")
    terminals = next(c for c in book.chapters if c.key == "terminals")
    assert not any(isinstance(b, Table) and b.title.startswith("Plugs") for b in terminals.blocks)
