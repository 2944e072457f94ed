"""Wire of one conductor behind a detector: solved as it is, counted wire by wire in the book, tied and untied by
hand."""

from __future__ import annotations

import numpy as np
import pytest

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.circuits.staircase import explain
from jolly_copper.core.drawing.acts import perform
from jolly_copper.core.drawing.moving import Erased, erase
from jolly_copper.core.drawing.nudging import Retie
from jolly_copper.core.drawing.sheet import Sheet
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.layout.reading import LayoutError, read_layout
from jolly_copper.core.materials.copper import ohms_per_metre
from jolly_copper.core.proposals.whatif import what_if
from jolly_copper.core.quantities import read_gauge
from jolly_copper.core.wirebook.jobs import find_jobs
from jolly_copper.core.wirebook.joints import joints, plug_pins
from jolly_copper.core.wirebook.labels import labels
from jolly_copper.core.wirebook.materials import items, wire_needs
from jolly_copper.core.wirebook.pieces import pieces
from jolly_copper.core.wirebook.schedule import schedule
from jolly_copper.demo import signalled_bay
from jolly_copper.demo.drafting import Draft
from tests.core.test_solution import needs_ngspice, spice_volts
from tests.layouts import feeder, plain
from tests.long import either


def sensed(home_mm: float = 3000.0, ohms: float = 0.05, drop: float = 0.0, wires: str = "A") -> Draft:
    """The plain bench with its one section behind a channel: the sensed wire home is `home_mm` of 20 AWG, soldered."""
    d = plain()
    d.data["detectors"] = {
        "DB1": {"name": "Detector 1", "at": {"x": 0, "y": 300}, "ohms": ohms, "drop": drop, "sensed": wires}
    }
    d.data["circuits"]["d1"] = {"name": "Sensed", "colour_a": "red/white"}
    d.data["devices"]["DB1.1"] = {
        "kind": "detector",
        "name": "Channel 1",
        "at": {"x": 0, "y": 300},
        "input": "main",
        "output": "d1",
        "board": "DB1",
        "channel": 1,
        "sensed": wires,
    }
    d.data["runs"]["H1"] = {
        "circuit": "d1",
        "label": "H1",
        "gauge": "20 AWG",
        "strands": "solid",
        "make": "twisted",
        "wires": wires,
        "path": [{"x": 0, "y": 300}, {"x": home_mm, "y": 300}],
        "fed": {"device": "DB1.1"},
    }
    d.data["terminals"]["T9"] = {"run": "H1", "along": home_mm, "kind": "soldered", "ohms": 0}
    d.data["sections"]["s"]["circuit"] = "d1"
    feeder(d, "F1", "t", 1500, "T9", other="T2")
    return d


@pytest.mark.parametrize("wires", ["A", "B"])
def test_the_loop_is_the_bus_one_way_and_the_home_wire_the_other_by_hand(wires: str) -> None:
    layout = sensed(wires=wires).plain()
    answer = explain(derive(layout), "t", 1500)
    twenty, fourteen = (ohms_per_metre(read_gauge(g), "solid", 20) for g in ("20 AWG", "14 AWG"))
    a, b = (np.hypot(1500 - x, y) for x, y in ((3000, 300), (1000, 400)))
    solder = 2 * 0.0005
    by_hand = 0.1 + 0.05 + 3 * twenty + 1 * fourteen + twenty * (a + b) / 1000
    assert answer.live and answer.loop_ohms == pytest.approx(by_hand, abs=solder + 1e-6)


@needs_ngspice
@pytest.mark.parametrize("wires", ["A", "B"])
def test_agrees_with_ngspice(wires: str) -> None:
    """Published general simulator (ngspice) on the exported netlist, within 0.01 %."""
    layout = sensed(wires=wires).plain()
    facts = derive(layout)
    answer = explain(facts, "t", 700)
    train = answer.trains[0]
    sign = facts.parts[0].sign[0]
    (volts,) = spice_volts(layout, [("t", 700, train.amps * sign)])
    assert volts * sign == pytest.approx(answer.exact_volts, rel=1e-4)


def test_diodes_take_their_volts_whatever_the_current() -> None:
    none, some = (explain(derive(sensed(drop=v).plain()), "t", 1500) for v in (0.0, 1.2))
    assert none.volts - some.volts == pytest.approx(1.2)
    assert some.coin_exact == pytest.approx(none.coin_exact * (14.4 - 1.2) / 14.4)
    step = next(s for s in some.steps if "diodes" in s.detail)
    assert step.volts == pytest.approx(1.2) and sum(s.volts for s in some.steps) == pytest.approx(14.4 - some.volts)


def test_a_terminal_of_one_wire_needs_a_place_for_the_other() -> None:
    d = sensed()
    d.data["feeders"]["F1"].pop("other")
    with pytest.raises(LayoutError, match="name one for the other wire"):
        read_layout(d.data)


def test_the_book_counts_wires_not_pairs() -> None:
    layout = sensed().plain()
    found = {p.key: p for p in pieces(layout)}
    assert found["run:H1/1"].colours == ("red/white",) and found["run:R1/1"].colours == ("red", "black")
    assert found["feeder:F1/A"].end_short == "T9" and found["feeder:F1/B"].end_short == "T2"
    assert (
        found["feeder:F1/B"].colours == ("black",)
        and "left rail" in found["feeder:F1/A"].notes[0]
        and "right rail" in found["feeder:F1/B"].notes[0]
    )
    seats = {j.terminal: j.seats for j in joints(layout, list(found.values()))}
    assert [(s.label, s.posts) for s in seats["T9"]] == [("H1", ("",)), ("F1 A", ("",))], "solder has no posts"
    assert [(s.label, s.posts) for s in seats["T2"]] == [("R1", ("", "")), ("F1 B", ("",))]
    need = {(n.gauge, n.colour): n.needed for n in wire_needs(layout, list(found.values()))}
    assert need["20 AWG", "red/white"] == found["run:H1/1"].cut and need["20 AWG", "red"] == found["feeder:F1/A"].cut
    assert need["20 AWG", "black"] == found["feeder:F1/B"].cut
    assert sum(x.text == "H1" for x in labels(list(found.values()))) == 2, "two ends, one wire"


@pytest.mark.parametrize(("kind", "key", "ends"), [("lever", "lever", 1), ("tap", "tap", 1), ("screw strip", None, 2)])
def test_a_terminal_of_one_wire_takes_half_of_what_a_pair_takes(kind: str, key: str | None, ends: int) -> None:
    """One wire: one lever, one tap, an end of bus and an end at the channel. T2, a lever or tap beside it, takes one
    feeder wire."""
    d = sensed()
    d.data["terminals"]["T9"]["kind"] = kind
    layout = d.plain()
    parts = pieces(layout)
    counted = {i.key: i.count for i in items(layout, parts, joints(layout, parts))}
    assert key is None or counted[key] == ends
    (row,) = [w for w in schedule(layout) if w.label == "H1"]
    assert row.connectors.startswith("2 bare ends" if kind != "tap" else "1 bare end"), row.connectors


def test_a_plug_in_one_wire_has_one_pin() -> None:
    d = sensed()
    d.data["plugs"]["P1"] = {"run": "H1", "along": 1000}
    (pins,) = plug_pins(d.plain())
    assert pins.pins == ((1, "red/white"),)


def retied(layout: Layout, terminal: str) -> Layout:
    done = perform(derive(layout), Retie(act="retie", feeder="F1", terminal=terminal))
    return apply_patch(layout, done.patch)


def test_tied_by_hand_each_wire_goes_where_it_can() -> None:
    layout = sensed().plain()
    moved = retied(layout, "T1")
    assert (moved.feeders["F1"].terminal, moved.feeders["F1"].other) == ("T9", "T1"), "the bus wire alone"
    back = retied(
        apply_patch(
            layout,
            [
                {
                    "op": "replace",
                    "path": "/feeders/F1",
                    "value": {**layout.feeders["F1"].model_dump(), "terminal": "T1", "other": None},
                }
            ],
        ),
        "T9",
    )
    assert (back.feeders["F1"].terminal, back.feeders["F1"].other) == ("T9", "T1")


def test_when_the_home_wire_goes_its_feeders_fall_back_on_the_bus() -> None:
    sheet = Sheet(sensed().plain())
    erase(sheet, [Erased(kind="run", id="H1")])
    feeder_left = sheet["feeders"]["F1"]
    assert (feeder_left["terminal"], feeder_left["other"]) == ("T2", None)
    sheet = Sheet(sensed().plain())
    erase(sheet, [Erased(kind="detector", id="DB1")])
    then = sheet.layout()
    assert (
        not then.detectors
        and "d1" not in then.circuits
        and then.sections["s"].circuit == "main"
        and "H1" not in then.runs
    )


def test_a_change_order_moves_the_one_wire() -> None:
    after = sensed().plain()
    before = apply_patch(
        after,
        [
            {
                "op": "replace",
                "path": "/feeders/F1",
                "value": {**after.feeders["F1"].model_dump(), "terminal": "T2", "other": None},
            }
        ],
    )
    words = " ".join(j.words for j in find_jobs(before, after))
    assert "Move the red wire of feeder F1 from terminal T2 to T9." in words


def test_what_ifs_of_a_detected_railroad_name_where_the_other_wire_goes() -> None:
    """Behind a detector the run home holds one wire: a feeder from it has its other wire on the district's bus."""
    facts = derive(signalled_bay(), "open-day")
    offered = 0
    for track in list(facts.layout.tracks)[:: either(18, 6)]:
        for change in what_if(facts, track, facts.rails.lengths[track] / 2):
            read_layout(apply_patch(facts.layout, change.patch).model_dump(mode="json"))
            offered += change.label == "Add a feeder here"
    assert offered > 0
