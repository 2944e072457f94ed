"""The wire book before anyone prints it: pieces, joints, cutting, materials, labels, the order of building."""

from __future__ import annotations

import itertools
import random

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jolly_copper.core.circuits.facts import Facts, derive
from jolly_copper.core.circuits.lengths import run_length
from jolly_copper.core.layout.connections import pairs_at
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.reading import read_layout
from jolly_copper.core.wirebook.book import Table
from jolly_copper.core.wirebook.building import building_order, closing_checks, to_meter
from jolly_copper.core.wirebook.compose import compose
from jolly_copper.core.wirebook.cutting import cut_spools
from jolly_copper.core.wirebook.joints import joints, plug_pins
from jolly_copper.core.wirebook.labels import SHEETS, labels
from jolly_copper.core.wirebook.materials import items, wire_needs
from jolly_copper.core.wirebook.piece import Piece
from jolly_copper.core.wirebook.pieces import pieces
from jolly_copper.core.wirebook.places import on_track
from jolly_copper.core.wirebook.worked import Worked
from tests.layouts import feeder, plain, without


def bench() -> Layout:
    """A 1 m bus from a booster: strip in the middle, plug at 700, a tap at 850; two feeders at the strip, one at the
    tap."""
    d = plain()
    d.data["terminals"] = {
        "T1": {"run": "R1", "along": 500, "kind": "screw strip"},
        "T2": {"run": "R1", "along": 850, "kind": "tap"},
    }
    d.board("b1", "1", -100, -100, 650, 600)
    d.board("b2", "2", 650, -100, 3100, 600)
    d.plug("R1", 700)
    feeder(d, "F1", "t", 400, "T1", tape=300)
    feeder(d, "F2", "t", 600, "T1", tape=300)
    feeder(d, "F3", "t", 900, "T2", tape=300)
    d.data["runs"]["R1"]["strands"] = "stranded"
    return d.plain()


def test_a_run_is_cut_at_strips_and_plugs_and_nowhere_else() -> None:
    wires = {p.key: p for p in pieces(bench())}
    assert [(p.label, p.start_short, p.end_short, p.length) for p in wires.values() if p.kind == "run"] == [
        ("R1.1", "B1", "T1", 500),
        ("R1.2", "T1", "P1", 200),
        ("R1.3", "P1", "free", 300),
    ]
    # 200 by the house: 200·1.05 + 2·75 = 360.
    assert wires["run:R1/2"].cut == 360
    assert wires["run:R1/3"].notes == ("tap T2 at 6 in from its start",)
    assert [p.board for p in wires.values() if p.kind == "run"] == ["b1", "b1", "b2"]


def test_every_millimetre_of_bus_is_in_one_piece(demo: Layout) -> None:
    wires = pieces(demo)
    for i, run in demo.runs.items():
        assert sum(p.length for p in wires if p.owner == i and p.kind == "run") == pytest.approx(run_length(run))
    assert {p.owner for p in wires if p.kind == "feeder"} == set(demo.feeders)
    assert len({p.label for p in wires}) == len({p.key for p in wires}) == len(wires)


def test_what_is_tied_at_a_terminal() -> None:
    layout = bench()
    strip, tap = joints(layout, pieces(layout))
    assert [(s.label, s.posts, s.towards) for s in strip.seats] == [
        ("R1.1", ("1", "7"), "Booster B1"),
        ("R1.2", ("2", "8"), "plug P1"),
        ("F1", ("3", "9"), "rail, Track, 15 1/2 in from bumper N1"),
        ("F2", ("4", "10"), "rail, Track, 23 1/2 in from bumper N1"),
    ]
    assert (strip.takes, tap.takes, [s.label for s in tap.seats]) == (6, 3, ["F3"])
    said = read_layout(
        without(layout, terminals={**without(layout)["terminals"], "T1": {"run": "R1", "along": 500, "pairs": 2}})
    )
    assert pairs_at(said, said.terminals["T1"]) == 2


def test_a_plug_has_the_same_pins_everywhere_and_stands_between_two_boards() -> None:
    (plug,) = plug_pins(bench())
    assert (plug.between, plug.pins) == (("b1", "b2"), ((1, "red"), (2, "black")))


def test_a_place_is_told_from_what_one_can_see() -> None:
    d = plain()
    d.gap("t", 1000)
    layout = d.plain()
    assert on_track(layout, "t", 300) == "Track, 1' from bumper N1"
    assert on_track(layout, "t", 2900) == "Track, 4 in from bumper N2"
    assert on_track(layout, "t", 1100) == "Track, 4 in past gap G1 towards bumper N2"


def fewest_spools(lengths: list[int], spool: int, on_hand: list[int]) -> int:
    """New spools, by trying every way; only for a few pieces."""
    best = len(lengths)
    for new in range(len(lengths), -1, -1):
        sizes = [*on_hand, *[spool] * new]
        fits = any(
            all(sum(x for x, at in zip(lengths, ways, strict=True) if at == n) <= size for n, size in enumerate(sizes))
            for ways in itertools.product(range(len(sizes)), repeat=len(lengths))
        )
        if not fits:
            break
        best = new
    return best


@pytest.mark.parametrize("seed", range(25))
def test_no_way_of_cutting_opens_fewer_spools(seed: int) -> None:
    rng = random.Random(seed)
    lengths = [rng.randint(2, 10) for _ in range(rng.randint(1, 6))]
    on_hand = [rng.randint(3, 9) for _ in range(rng.randint(0, 2))]
    plan = cut_spools(lengths, 10, on_hand)
    assert plan.exact and plan.new_spools == fewest_spools(lengths, 10, on_hand)


@given(st.lists(st.floats(50, 40_000), max_size=60), st.lists(st.floats(100, 30_000), max_size=3))
def test_every_piece_comes_from_one_spool_that_is_long_enough(lengths: list[float], on_hand: list[float]) -> None:
    plan = cut_spools(lengths, 30_000, on_hand)
    cut = [k for c in plan.cuts for k in c.pieces]
    assert sorted([*cut, *plan.too_long]) == list(range(len(lengths)))
    for c in plan.cuts:
        assert c.left == pytest.approx(c.spool - sum(lengths[k] for k in c.pieces), abs=1e-6) and c.left > -1e-3
    assert all(lengths[k] > 30_000 for k in plan.too_long)


def test_wire_to_buy_by_hand() -> None:
    """R1: 675 + 360 + 465 of each colour in 14 AWG; three feeders of 465 in 20 AWG."""
    layout = bench()
    wires = pieces(layout)
    needs = {(n.gauge, n.colour): n for n in wire_needs(layout, wires)}
    assert needs["14 AWG", "red"].needed == needs["14 AWG", "black"].needed == 675 + 360 + 465
    assert needs["20 AWG", "red"].needed == 3 * 465 and needs["20 AWG", "red"].plan.new_spools == 1
    assert needs["20 AWG", "red"].cost is None


def test_wire_on_hand_is_cut_first_and_prices_are_for_whole_spools() -> None:
    layout = read_layout(
        without(
            bench(),
            spools={
                "s1": {"gauge": "20 AWG", "strands": "solid", "colour": "red", "on_hand": 1000, "price": 0.5},
                "s2": {"gauge": "20 AWG", "strands": "solid", "colour": "black", "on_hand": 5000, "price": 0.5},
            },
        )
    )
    needs = {n.colour: n for n in wire_needs(layout, pieces(layout)) if n.gauge == "20 AWG"}
    assert needs["black"].plan.new_spools == 0 and needs["black"].cost == 0
    assert [c.owned for c in needs["red"].plan.cuts] == [True, False], "two pieces from the metre, one from a new spool"
    assert needs["red"].cost == pytest.approx(30.48 * 0.5)


def test_small_things_are_counted() -> None:
    """One strip halved, its posts joined by a comb each half; the two bus pieces are stranded, so four ferrules; one
    tap, two wires."""
    layout = bench()
    wires = pieces(layout)
    found = {i.key: i.count for i in items(layout, wires, joints(layout, wires))}
    used_up = {"solder-g": 1, "tie": 4, "flag": 24, "bit-3mm": 1}
    counted = {"screw-strip": 1, "comb-6": 2, "tap": 2, "plug": 1, "ferrule-14-AWG": 4, "device-booster": 1}
    assert found == counted | used_up
    priced = read_layout(without(layout, prices={"plug": 3.5}))
    (plug,) = [i for i in items(priced, wires, joints(priced, wires)) if i.key == "plug"]
    assert (plug.price, plug.cost) == (3.5, 3.5)


def test_two_labels_for_each_wire_that_name_each_other() -> None:
    wires = pieces(bench())
    found = labels(wires)
    assert len(found) == 4 * len(wires) and len(labels(wires, "every pair")) == 2 * len(wires)
    for start, end in zip(found[::2], found[1::2], strict=True):
        assert (start.text, start.colour, start.here, start.there) == (end.text, end.colour, end.there, end.here)


@pytest.mark.parametrize("key", SHEETS)
def test_labels_lie_on_their_sheet(key: str) -> None:
    sheet = SHEETS[key]
    wide, high = {"A4": (210.0, 297.0), "Letter": (215.9, 279.4)}[sheet.page]
    assert sheet.left + (sheet.columns - 1) * sheet.pitch_x + sheet.width <= wide + 0.6
    assert sheet.top + (sheet.rows - 1) * sheet.pitch_y + sheet.height <= high + 0.6
    assert sheet.pitch_x >= sheet.width and sheet.pitch_y >= sheet.height


def test_boards_are_built_from_the_power_outwards(demo: Layout) -> None:
    wires = pieces(demo)
    tied = joints(demo, wires)
    order = building_order(demo, wires, tied)
    assert [w.number for w in order] == list(range(1, len(order) + 1))
    assert sorted(p.key for w in order for p in w.pieces) == sorted(p.key for p in wires), "every piece on one board"
    assert sorted(g for w in order for g in w.gaps) == sorted(demo.gaps)
    done: set[str | None] = set()
    sources = {d.name for d in demo.devices.values() if d.kind in ("booster", "supply", "power pack")}
    for work in order:
        feeds_itself = any(p.start in sources or p.start_short in demo.devices for p in work.pieces)
        assert set(work.after) <= done and (work.after or feeds_itself or not any(p.kind == "run" for p in work.pieces))
        done.add(work.board)


def test_what_to_meter_names_colours_rails_and_figures() -> None:
    layout = bench()
    wires = {p.key: p for p in pieces(layout)}
    # 500 mm of 14 AWG at 20 °C, 8.282 mΩ/m solid (ASTM B258 table, from memory), stranded 2 % more: 4.22 mΩ.
    bus = to_meter(layout, wires["run:R1/1"])
    assert "Red to black" in bus and "(4.23 mΩ of wire" in bus
    told = to_meter(layout, wires["feeder:F1"])
    assert "left rail, looking towards bumper N2" in told and "red post of T1" in told and "black post" in told
    (first, *_) = building_order(layout, list(wires.values()), joints(layout, list(wires.values())))
    assert any("Plugs P1: pin 1 to pin 1" in c.words for c in closing_checks(layout, first))


def test_the_book_says_the_same_each_time_and_holds_every_wire(demo_facts: Facts) -> None:
    book = compose(demo_facts, 7, "2026-11-24")
    assert book == compose(demo_facts, 7, "2026-11-24") and book.footer.endswith("change 7 · 2026-11-24")
    rows = [r for c in book.chapters if c.key == "schedule" for b in c.blocks if isinstance(b, Table) for r in b.rows]
    assert {r[0] for r in rows} == {p.label for p in Worked(demo_facts).pieces}
    for chapter in book.chapters:
        for block in chapter.blocks:
            if isinstance(block, Table):
                assert all(len(row) == len(block.columns) for row in block.rows), block.title


def test_only_some_chapters(demo_facts: Facts) -> None:
    book = compose(demo_facts, 7, "2026-11-24")
    assert [c.key for c in book.only(["colours", "cutting"]).chapters] == ["colours", "cutting"]
    assert book.only([]) == book
    assert all(c.key.startswith("board-") for c in book.only(["boards"]).chapters)


def test_an_empty_layout_has_a_book_too() -> None:
    book = compose(derive(read_layout({"name": "Nothing yet"})), 1, "2026-11-24")
    assert [c.key for c in book.chapters][:3] == ["cautions", "power", "colours"]


def piece_of(layout: Layout, key: str) -> Piece:
    return next(p for p in pieces(layout) if p.key == key)


def test_a_filter_is_told_at_the_end_it_hangs_on() -> None:
    data = without(bench())
    data["runs"]["R1"]["filter"] = {"ohms": 100, "farads": 1e-7, "watts": 5}
    layout = read_layout(data)
    assert piece_of(layout, "run:R1/1").notes == ()
    assert piece_of(layout, "run:R1/3").notes[-1] == "filter across its far end: 100 Ω, 5 W, in series with 0.1 µF"
