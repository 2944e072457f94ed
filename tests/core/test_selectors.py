"""Selectors: what each block gets for every lie, clashes with their setting, and what is refused."""

from __future__ import annotations

import itertools
from typing import Any

import numpy as np
import pytest

from jolly_copper.core.circuits.facts import Facts, derive
from jolly_copper.core.circuits.staircase import explain
from jolly_copper.core.drawing.acts import perform
from jolly_copper.core.drawing.levers import PlacePanel, PlaceSelector, Throw
from jolly_copper.core.drawing.moving import Erased, erase
from jolly_copper.core.drawing.sheet import DrawingError, Sheet
from jolly_copper.core.findings.check import check
from jolly_copper.core.layout.control import control_given, control_of, controls, word_of
from jolly_copper.core.layout.levers import thrown
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.layout.power_tree import grow_tree
from jolly_copper.core.layout.reading import LayoutError, read_layout
from jolly_copper.core.materials.copper import ohms_per_metre
from jolly_copper.core.quantities import read_gauge
from tests.core.cab_layouts import selector, source, two_blocks
from tests.core.test_solution import needs_ngspice, spice_volts


def volts_at(facts: Facts, at: float) -> float:
    """Open-circuit volts near a place of the only track; NaN where dead."""
    rows = np.argsort(np.abs(facts.points.at - at))
    return float(facts.open_volts[rows[0]])


LIES = list(itertools.product(("a", "b", None), repeat=2))


@pytest.mark.parametrize("common", [False, True], ids=["both rails", "common rail"])
@pytest.mark.parametrize("lies", LIES)
def test_every_setting_of_a_two_cab_circuit_by_hand(common: bool, lies: tuple[str | None, str | None]) -> None:
    """The textbook two-cab circuit, worked by hand: a block has its own cab's volts, or nothing. Common practice."""
    d = two_blocks(common, "left" if common else "both", lies)
    d.data["devices"]["dev-b"]["volts"] = 9
    facts = derive(d.plain())
    for at, cab in zip((1000, 3000), lies, strict=True):
        wanted = {"a": 12.0, "b": 9.0, None: np.nan}[cab]
        assert volts_at(facts, at) == pytest.approx(wanted, abs=1e-6, nan_ok=True)
    assert not [f for f in check(facts) if f.severity == "must"]


def test_the_drop_of_a_block_is_the_sum_by_hand() -> None:
    """0.3 Ω in the cab, 0.02 Ω in the selector, two wires of 1 m and of 0.1 m, rail beyond: by Ohm's law."""
    d = two_blocks(lies=("a", "a"))
    for feeder in d.data["feeders"].values():
        feeder.update(at={1000: 0, 3000: 4000}[feeder["at"]], tape=100)
    d.data["tracks"]["t"]["ohms_per_metre"] = 0.01
    facts = derive(d.plain())
    row = int(np.argmin(np.abs(facts.points.at - 0)))
    wire = 2 * ohms_per_metre(read_gauge("18 AWG"), "solid", 20) * 1.0
    wire += 2 * ohms_per_metre(read_gauge("20 AWG"), "solid", 20) * 0.1
    loop = 0.3 + 0.02 + wire
    train = facts.layout.brief.rules.test_train
    # Solder and the screws a kind has by itself are a few milliohms beside this.
    assert facts.volts[row] == pytest.approx(12 - train * loop, abs=0.01)


@pytest.mark.parametrize("gap", [None, "right"])
def test_a_missing_gap_is_found_with_the_setting_that_proves_it(gap: str | None) -> None:
    """The edge of a block where the switched rail goes on: two cabs meet for some lie of the selectors."""
    facts = derive(two_blocks(gap=gap, lies=("a", "a")).plain())
    told = [f for f in check(facts) if f.rule == "rails joined through turnouts" and "left rail" in f.why]
    assert told and told[0].severity == "must"
    assert "Selector" in told[0].title and "Source A and Source B meet" in told[0].title
    assert told[0].rails, "the rails are the proof"


def test_a_common_rail_that_is_meant_is_no_fault() -> None:
    for lies in LIES:
        found = check(derive(two_blocks(True, "left", lies).plain()))
        assert not [f for f in found if f.severity != "look"], [f.title for f in found]


def test_two_cabs_on_one_winding_may_not_share_a_rail() -> None:
    d = two_blocks(True, "left")
    d.data["devices"]["dev-b"]["winding"] = "Winding 1"
    told = {f.rule: f for f in check(derive(d.plain()))}
    assert told["common rail on one winding"].severity == "must"
    assert "Winding 1" in told["common rail on one winding"].title
    d.data["devices"]["dev-b"]["winding"] = None
    told = {f.rule: f for f in check(derive(d.plain()))}
    assert told["common rail on one winding"].severity == "look"
    apart = two_blocks(False)
    apart.data["devices"]["dev-b"]["winding"] = "Winding 1"
    assert "common rail on one winding" not in {f.rule for f in check(derive(apart.plain()))}


def test_one_pole_wants_a_common_and_its_mend_mends() -> None:
    d = two_blocks(False)
    d.data["devices"]["sel-one"]["made"] = "toggle, one pole"
    layout = d.plain()
    facts = derive(layout)
    told = next(f for f in check(facts) if f.rule == "selector with one pole")
    assert told.severity == "must"
    assert np.isnan(volts_at(facts, 1000)), "its second wire goes nowhere"
    mended = apply_patch(layout, told.mends[0].patch)
    assert "selector with one pole" not in {f.rule for f in check(derive(mended))}


def test_contacts_weaker_than_the_trip_before_them() -> None:
    d = two_blocks()
    d.data["devices"]["sel-one"]["contact_amps"] = 0.5
    told = next(f for f in check(derive(d.plain())) if f.rule == "selector's contacts")
    assert "0.5" in told.title or "500" in told.title
    d.data["devices"]["sel-one"]["contact_amps"] = 5
    assert "selector's contacts" not in {f.rule for f in check(derive(d.plain()))}


def test_a_block_shorter_than_the_longest_train_is_told_once() -> None:
    d = two_blocks()
    d.data["locos"]["l"] = {"name": "Engine", "idle": 0, "running": 0.3, "stall": 1}
    d.data["trains"]["t"] = {"name": "Long freight", "engines": ["l"], "length": 2500}
    told = [f for f in check(derive(d.plain())) if f.rule == "block shorter than a train"]
    assert len(told) == 2 and all("Long freight" in f.title and f.severity == "look" for f in told)
    d.data["trains"]["t"]["length"] = 1500
    assert not [f for f in check(derive(d.plain())) if f.rule == "block shorter than a train"]


def test_off_is_dark_and_no_fault() -> None:
    """A block whose selector is off is dead on purpose: no rule calls its wire sourceless, its track unfed."""
    found = check(derive(two_blocks(lies=(None, None)).plain()))
    assert not [f for f in found if f.severity != "look"], [f.title for f in found]


def test_a_selector_that_reaches_nothing_is_found() -> None:
    d = two_blocks()
    d.data["circuits"]["nowhere"] = {"name": "Nowhere"}
    d.data["devices"]["sel-one"].update(inputs=["nowhere"], input=None)
    assert "selector without power" in {f.rule for f in check(derive(d.plain()))}


def test_control_belongs_to_the_source() -> None:
    d = two_blocks()
    source(d, "digital", "booster", 14.4, gives="dcc")
    layout = d.plain()
    tree = grow_tree(layout)
    assert controls(layout) == {"dc", "dcc"}
    assert control_of(tree, "digital") == "dcc" and control_of(tree, "one") == "dc"
    assert word_of(layout, layout.devices["dev-a"]) == "cab"
    assert word_of(layout, layout.devices["dev-digital"]) == "booster"
    assert control_of(grow_tree(thrown(layout, {"sel-one": None})), "one") == "dc", (
        "the brief's, where nothing feeds it"
    )


def test_a_scene_says_how_selectors_lie() -> None:
    d = two_blocks(lies=("a", "a"))
    d.data["scenes"]["over"] = {"name": "Over", "selectors": {"sel-two": "b", "sel-one": None}}
    d.data["devices"]["dev-b"]["volts"] = 9
    layout = d.plain()
    assert volts_at(derive(layout, "over"), 3000) == pytest.approx(9)
    assert np.isnan(volts_at(derive(layout, "over"), 1000))
    assert volts_at(derive(layout), 3000) == pytest.approx(12)


def test_the_knob_turns_the_rails_round() -> None:
    """With the knob to the right the right-hand rail is positive (NMRA S-9, "Electrical", from memory)."""
    d = two_blocks(lies=("a", "a"))
    assert derive(d.plain()).parts[0].sign[0] == 1.0
    d.data["devices"]["dev-a"]["turned"] = True
    assert derive(d.plain()).parts[0].sign[0] == -1.0


# --- acts and refusals


def refused(data: dict[str, Any]) -> dict[str, str]:
    with pytest.raises(LayoutError) as told:
        read_layout(data)
    return {p.path: p.sentence for p in told.value.problems}


def test_a_selector_loop_is_refused_and_names_both() -> None:
    d = two_blocks()
    d.data["devices"]["sel-one"]["inputs"] = ["a", "two"]
    d.data["devices"]["sel-two"]["inputs"] = ["b", "one"]
    said = refused(d.data)
    assert "Selector ONE feeds itself through Selector TWO" in said["/devices/sel-one/inputs"]


@pytest.mark.parametrize(
    ("device", "changes", "path", "words"),
    [
        ("sel-one", {"inputs": ["a", "a"]}, "inputs", "one circuit on two ways"),
        ("sel-one", {"inputs": []}, "inputs", "nothing to choose from"),
        ("sel-one", {"input": "two"}, "input", "none of its ways"),
        ("sel-one", {"inputs": ["a", "b", "two"]}, "made", "2 at most"),
        ("sel-one", {"inputs": ["a", "nothing"]}, "inputs/1", "no circuit nothing"),
        ("sel-one", {"panel": "p9"}, "panel", "no control panel p9"),
        ("sel-one", {"gang": "dev-a"}, "gang", "no selector of its own"),
        ("dev-a", {"inputs": ["b"]}, "inputs", "only a selector"),
    ],
)
def test_nonsense_is_refused_in_a_sentence(device: str, changes: dict[str, Any], path: str, words: str) -> None:
    d = two_blocks()
    d.data["devices"][device].update(changes)
    assert words in refused(d.data)[f"/devices/{device}/{path}"]


def test_a_scene_cannot_throw_what_is_not_there() -> None:
    d = two_blocks()
    d.data["scenes"]["s"] = {"name": "S", "selectors": {"sel-one": "two", "sel-x": None}}
    said = refused(d.data)
    assert "does not choose from two" in said["/scenes/s/selectors/sel-one"]
    assert "no selector sel-x" in said["/scenes/s/selectors/sel-x"]


def test_throwing_takes_what_is_on_the_lever_along() -> None:
    d = two_blocks(lies=("b", "b"))
    selector(d, "rider", ["one"], None, gang="sel-one", on_with=["a"])
    layout = d.plain()
    done = perform(derive(layout), Throw(act="throw", device="sel-one", to="a"))
    after = apply_patch(layout, done.patch)
    assert after.devices["sel-one"].input == "a" and after.devices["sel-rider"].input == "one"
    assert done.summary == "Selector ONE to A"
    off = apply_patch(after, perform(derive(after), Throw(act="throw", device="sel-one")).patch)
    assert off.devices["sel-rider"].input is None
    with pytest.raises(DrawingError, match="throw Selector ONE"):
        perform(derive(layout), Throw(act="throw", device="sel-rider", to="one"))
    with pytest.raises(DrawingError, match="does not choose from"):
        perform(derive(layout), Throw(act="throw", device="sel-one", to="two"))
    with pytest.raises(DrawingError, match="only a selector"):
        perform(derive(layout), Throw(act="throw", device="dev-a", to="a"))


def test_throwing_in_a_scene_leaves_the_lever_itself() -> None:
    d = two_blocks(lies=("a", "a"))
    d.data["scenes"]["s"] = {"name": "S", "selectors": {"sel-one": None}}
    layout = d.plain()
    act = Throw(act="throw", device="sel-two", to="b", scene="s")
    after = apply_patch(layout, perform(derive(layout), act).patch)
    assert after.devices["sel-two"].input == "a" and after.scenes["s"].selectors == {"sel-one": None, "sel-two": "b"}


def test_panels_and_selectors_are_placed_and_taken_away() -> None:
    layout = two_blocks().plain()
    layout = apply_patch(layout, perform(derive(layout), PlacePanel(act="panel", name="Yard", x=10, y=20)).patch)
    panel = next(iter(layout.panels))
    act = PlaceSelector(act="selector", name="Loop", inputs=["a", "b"], panel=panel)
    done = perform(derive(layout), act)
    layout = apply_patch(layout, done.patch)
    assert done.made is not None
    made = layout.devices[done.made[1]]
    assert made.panel == panel and made.input is None and layout.circuits[made.output].name == "Loop"
    sheet = Sheet(layout)
    erase(sheet, [Erased(kind="panel", id=panel)])
    assert sheet.layout().devices[done.made[1]].panel is None
    sheet = Sheet(
        apply_patch(
            layout, [{"op": "add", "path": "/scenes/s", "value": {"name": "S", "selectors": {done.made[1]: "a"}}}]
        )
    )
    erase(sheet, [Erased(kind="device", id=done.made[1])])
    assert sheet.layout().scenes["s"].selectors == {}
    with pytest.raises(DrawingError, match="once"):
        perform(derive(layout), PlaceSelector(act="selector", name="Twice", inputs=["a", "a"]))


def test_old_direct_current_layouts_keep_their_controllers() -> None:
    """A booster on a DC brief is a controller still; nothing needs a new field."""
    d = two_blocks()
    source(d, "old", "booster")
    layout = d.plain()
    assert control_given(layout, layout.devices["dev-old"]) == "dc"
    assert word_of(layout, layout.devices["dev-old"]) == "controller"


@needs_ngspice
@pytest.mark.parametrize("lies", [("a", "b"), ("a", "a"), ("b", "a")])
def test_two_cabs_on_a_common_rail_agree_with_ngspice(lies: tuple[str, str]) -> None:
    """Published general simulator (ngspice) on the exported netlist: both trains come home on one rail and one wire,
    within 0.01 %."""
    d = two_blocks(True, "left", lies)
    d.data["devices"]["dev-b"]["volts"] = 9
    d.data["locos"] = {"e": {"name": "Small engine", "idle": 0, "running": 0.6, "stall": 1.2}}
    d.data["trains"] = {
        "one": {"name": "Local", "engines": ["e"], "length": 300},
        "two": {"name": "Goods", "engines": ["e", "e"], "length": 600},
    }
    d.data["scenes"] = {
        "both": {
            "name": "Both",
            "placements": [{"train": t, "doing": "running", "circuits": [t]} for t in ("one", "two")],
        }
    }
    layout = d.plain()
    facts = derive(layout, "both")
    alone = derive(layout)
    for at in (700, 3600):
        answer = explain(facts, "t", at)
        assert len(answer.trains) == 2, "its own train here, and the other cab's where it hurts most"
        found = spice_volts(layout, [(t.track, t.at, t.amps) for t in answer.trains])
        assert found[0] == pytest.approx(answer.exact_volts, rel=1e-4)
        quiet = explain(alone, "t", at).exact_volts
        assert answer.exact_volts < quiet, "what the other cab's train draws is felt in the common"
