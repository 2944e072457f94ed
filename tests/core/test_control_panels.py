"""Backs and fronts of control panels: pins, strips, holes and lamps, and the pages of the book that tell them."""

from __future__ import annotations

import itertools
import math
from collections import Counter
from dataclasses import replace

import pytest

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.signals.cables import cables
from jolly_copper.core.signals.panel_leads import panel_leads
from jolly_copper.core.travel.crossing import cable_crossings
from jolly_copper.core.wirebook.cab_pages import (
    bench_jobs,
    cab_chapters,
    lamp_words,
    pin_table,
    strip_table,
    with_lamps,
)
from jolly_copper.core.wirebook.control import control_pieces
from jolly_copper.core.wirebook.panel import draw_panel
from jolly_copper.core.wirebook.panel_cables import cable_pairs, cable_table
from jolly_copper.core.wirebook.switch_backs import panel_back
from jolly_copper.core.wirebook.switch_pictures import back_sketch
from jolly_copper.demo import gannet_bay, millbeck, signalled_bay
from tests.core.cab_layouts import two_blocks


def test_every_pin_of_every_switch_has_a_wire_and_middles_are_the_block() -> None:
    layout = millbeck()
    back = panel_back(layout, "panel")
    toggles = [s for s in back.switches if "double throw" in s.part]
    assert len(toggles) == 8
    for s in toggles:
        by = {p.number: p for p in s.pins}
        block = layout.circuits[layout.devices[s.device].output]
        assert set(by) == set("123456")
        assert by["2"].label == f"{block.name} A" and by["5"].label == f"{block.name} B"
        assert by["1"].label == "Cab A A" and by["3"].label == "Cab B A"
        assert (by["2"].colour, by["5"].colour) == (block.colour_a, block.colour_b)
    numbers = [(s.number, p.number) for s in back.switches for p in s.pins]
    assert len(numbers) == len(set(numbers)), "decks of one lever have letters of their own"


def test_a_reversing_switch_has_its_outer_pins_crossed() -> None:
    """Supply on one end pair, two wires crossed to the other end, track on the middle. Common practice, no source."""
    d = two_blocks()
    d.data["panels"] = {"p": {"name": "Panel", "at": {"x": 0, "y": 0}}}
    d.data["circuits"]["loop"] = {"name": "Loop"}
    d.data["devices"]["rev"] = {
        "kind": "reversing switch",
        "name": "Loop direction",
        "at": {"x": 0, "y": 0},
        "input": "one",
        "output": "loop",
        "panel": "p",
    }
    switch = panel_back(d.plain(), "p").switches[0]
    by = {p.number: p for p in switch.pins}
    assert by["3"].label == by["4"].label == "ONE B" and by["6"].label == by["1"].label == "ONE A"
    assert by["2"].label == "Loop A" and switch.links == (("1", "6"), ("4", "3"))


def test_strips_have_a_post_for_every_wire_and_parts_are_counted() -> None:
    back = panel_back(millbeck(), "panel")
    rows = {r.name: r for r in back.rows}
    assert len(rows["Cab A A"].tied) == 1 + 9, "its supply, eight toggles and the rotary"
    posts = sum(len(r.tied) for r in back.rows)
    assert (posts, "posts of screw strip") in back.parts
    assert (8, "toggle, double pole, double throw, centre off") in back.parts
    assert any("6 poles" in what for _, what in back.parts), "the rotary carries the buffers' poles"
    assert len(pin_table(back).rows) == sum(len(s.pins) for s in back.switches)
    assert len(strip_table(back).rows) == len(back.rows) and len(bench_jobs(back)) == 5


def test_the_front_has_a_hole_in_each_block_under_the_number_of_its_back() -> None:
    layout = millbeck()
    drawn = draw_panel(layout, 420, "panel")
    holes = [h for h in drawn.holes if h.kind == "selector"]
    back = [s for s in panel_back(layout, "panel").switches if not s.ganged]
    assert [(h.number, h.name) for h in holes] == [
        (s.number, layout.circuits[layout.devices[s.device].output].name) for s in back
    ]
    assert {h.across for h in holes} == {6.4, 9.5}
    assert not [h for h in draw_panel(layout, 420).holes if h.kind == "selector"]
    sketch = back_sketch(panel_back(layout, "panel"), "Millbeck panel")
    for stroke in sketch.strokes:
        assert all(0 <= x <= sketch.width and 0 <= y <= sketch.height for x, y in stroke.points)


def test_the_book_tells_cabs_and_three_rails_only_where_there_are_some() -> None:
    assert [c.key for c in cab_chapters(derive(millbeck()))] == ["cabs", "panel-panel"]
    assert cab_chapters(derive(gannet_bay())) == []


def test_lamps_of_a_panel_stand_beside_what_they_show_and_are_counted() -> None:
    layout = millbeck()
    lamps = ["turnouts, one a leg", "cab in use", "breakers"]
    lit = layout.model_copy(update={"panels": {"panel": layout.panels["panel"].model_copy(update={"lamps": lamps})}})
    drawn = draw_panel(lit, 420, "panel")
    kinds = Counter(h.kind for h in drawn.holes)
    turnouts = sum(n.kind == "turnout" for n in layout.nodes.values())
    assert kinds["turnout lamp"] == 2 * turnouts and kinds["cab lamp"] == 10 and kinds["breaker lamp"] == 1
    back = with_lamps(panel_back(lit, "panel"), drawn)
    assert back.lamps == 2 * turnouts + 11 and back.lamp_amps == pytest.approx(back.lamps * 0.008)
    assert f"{back.lamps} lamps draw" in lamp_words(back, drawn)
    for a, b in itertools.combinations([(h.x, h.y) for h in drawn.holes], 2):
        assert math.dist(a, b) > 4, "no two holes in one place"
    dark = layout.model_copy(update={"panels": {"panel": layout.panels["panel"].model_copy(update={"lamps": []})}})
    assert with_lamps(panel_back(dark, "panel"), draw_panel(dark, 420, "panel")).lamps == 0


def buttoned() -> Layout:
    layout = millbeck()
    shown = layout.panels["panel"].model_copy(
        update={"lamps": ["turnouts, one a leg"], "turnouts_by": "push buttons, one a leg"}
    )
    return layout.model_copy(update={"panels": {"panel": shown}})


def test_a_push_button_stands_on_each_leg_and_never_where_another_hole_is() -> None:
    layout = buttoned()
    drawn = draw_panel(layout, 420, "panel")
    kinds = Counter(h.kind for h in drawn.holes)
    turnouts = sum(n.kind == "turnout" for n in layout.nodes.values())
    assert kinds["button"] == kinds["turnout lamp"] == 2 * turnouts and "switch" not in kinds
    for n in (n for n in layout.nodes.values() if n.kind == "turnout"):
        thrown = {h.follows.split(":")[0] for h in drawn.holes if h.kind == "button" and h.name == n.name}
        assert thrown == {"throws it to through", "throws it to diverging"}
    for a, b in itertools.combinations([(h.x, h.y) for h in drawn.holes], 2):
        assert math.dist(a, b) > 4


def test_every_hole_that_goes_to_the_boards_has_a_pair_of_its_own() -> None:
    for layout in (millbeck(), buttoned()):
        drawn = draw_panel(layout, 420, "panel")
        pairs = cable_pairs(drawn)
        wired = [h.number for h in drawn.holes if h.kind not in ("selector", "cab lamp")]
        assert sorted(p.hole for p in pairs) == wired
        assert len({(p.cable, p.pair) for p in pairs}) == len(pairs)
        assert {p.first for p in pairs[:4]} == {"blue", "orange", "green", "brown"}
        assert all(p.second == f"white/{p.first}" and 1 <= p.pair <= 4 for p in pairs)


def fitted() -> Layout:
    """The signalled demo with two panels that show all they can, some turnouts on no board yet."""
    at = ({"x": 600, "y": 4800}, {"x": 6000, "y": 300})
    lamps = ["turnouts, one a leg", "occupancy", "breakers"]
    panels = [
        {"name": "West", "at": at[0], "lamps": lamps, "turnouts_by": "push buttons, one a leg"},
        {"name": "East", "at": at[1], "lamps": ["turnouts, one of two colours"], "turnouts_by": "toggle switches"},
    ]
    return apply_patch(
        signalled_bay(), [{"op": "add", "path": f"/panels/P{n}", "value": p} for n, p in enumerate(panels, start=1)]
    )


def test_cables_laid_from_a_panel_are_those_its_page_tells_pair_by_pair() -> None:
    """Counted from the plan, for laying and joints, and from the drawn panel, for its page: by two ways, alike."""
    layout = fitted()
    leads = panel_leads(layout)
    assert len({lead.panel for lead in leads}) == 2 and len(leads) > 4
    laid = Counter(c.key.rsplit(".", 1)[0] for c in cables(layout) if c.key.startswith("panel:"))
    for panel in layout.panels:
        pairs = [p for p in cable_pairs(draw_panel(layout, 500, panel)) if p.board]
        assert Counter(p.board for p in pairs) == {e.board: e.pairs for e in leads if e.panel == panel}
        for board in {p.board for p in pairs}:
            assert laid[f"panel:{panel}-{board}"] == len({p.cable for p in pairs if p.board == board})


def test_panel_cables_are_cut_and_cross_joints_like_others() -> None:
    layout = fitted()
    names = {c.label for c in cables(layout) if c.key.startswith("panel:")}
    cut = [p for p in control_pieces(layout) if p.key.startswith("panel:")]
    assert {p.label.split(".")[0] for p in cut} == names and all(p.cut > 0 and len(p.colours) == 8 for p in cut)
    lifting = apply_patch(
        layout, [{"op": "replace", "path": f"/boards/{b}/removable", "value": True} for b in layout.boards]
    )
    over = [c for c in cable_crossings(lifting) if c.owner.startswith("panel:")]
    assert over and all(c.power.kind == "control" and c.live is not None for c in over)


def test_what_a_lamp_loses_over_its_pair_by_hand() -> None:
    """24 AWG solid is 84.2 mΩ/m at 20 °C (ASTM B258 diameters, from memory): 20 m of wire, 8 mA, 13.5 mV."""
    drawn = draw_panel(millbeck(), 420, "panel")
    metric, imperial = (cable_table(drawn, u) for u in ("metric", "imperial"))
    assert metric is not None and imperial is not None
    assert "loses 13 mV over 10.00 m" in metric.note and "over 33 ft" in imperial.note
    bare = replace(drawn, holes=tuple(h for h in drawn.holes if h.kind == "selector"))
    assert cable_table(bare, "metric") is None
