"""Block it for cabs, links between two controls, stops and panels: proposals that hold on railroads unlike the demo."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Any

import pytest

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.circuits.pickups import COUPLED_OVER_PICKUPS, USUAL_MM, Reach, longest_reach, reach_of
from jolly_copper.core.circuits.stopping import SLOWS_MM_S2, scale_speed, stopping_distance
from jolly_copper.core.drawing.sheet import DrawingError
from jolly_copper.core.findings.check import check
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.levers import thrown, ways_of
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.layout.power_tree import grow_tree
from jolly_copper.core.proposals.cabs.link import link_controls
from jolly_copper.core.proposals.cabs.make import CabWishes, block_for_cabs
from jolly_copper.core.proposals.cabs.plan import plan_cab_blocks
from jolly_copper.core.proposals.cabs.stops import Place, hold_at_signal, make_shuttle, stop_here
from jolly_copper.core.rails.pieces import map_rails
from jolly_copper.core.wirebook.cab_pages import (
    cab_chapters,
)
from jolly_copper.demo import gannet_bay, millbeck, millbeck_unblocked, unwired_bay
from tests.core.cab_layouts import two_blocks

SCHOOLS = ("both rails", "common rail")


def musts(layout: Layout, scene: str | None = None) -> list[str]:
    return [f.title for f in check(derive(layout, scene)) if f.severity == "must" and f.accepted is None]


@pytest.mark.parametrize("school", SCHOOLS)
@pytest.mark.parametrize("cabs", [2, 4])
def test_the_line_is_blocked_fed_and_sound_for_every_cab(school: Any, cabs: int) -> None:
    made = block_for_cabs(millbeck_unblocked(), CabWishes(school, cabs, 1500))
    layout = made.after
    assert len(made.cabs) == cabs
    blocks = [b for b in made.plan.blocks if b.parent is None]
    assert len(blocks) == 9 and len(made.plan.blocks) == 10, "nine blocks and a siding switch"
    told = [t for t in musts(layout) if "meet at one gap" not in t]
    assert told == [], told
    tree = grow_tree(layout)
    for selector, block in zip(made.selectors, made.plan.blocks, strict=True):
        output = layout.devices[selector].output
        assert {w.source for w in ways_of(tree, output)} == set(made.cabs), block.name
    # Every block for itself follows its lever: the others stay where they were.
    for selector in made.selectors[:3]:
        circuit = layout.devices[made.cabs[1]].output
        facts = derive(thrown(layout, {selector: circuit}))
        mine = [c == layout.devices[selector].output for c in facts.circuit]
        sources = {s for s, m in zip(facts.source, mine, strict=True) if m}
        assert sources == {made.cabs[1]}


@pytest.mark.parametrize("school", SCHOOLS)
def test_gaps_stand_clear_of_turnouts_and_cut_what_the_school_says(school: Any) -> None:
    layout = millbeck_unblocked()
    plan = plan_cab_blocks(layout, school, 1500)
    lengths = map_rails(layout).lengths
    for cut in plan.cuts:
        track = layout.tracks[cut.track]
        for port, away in ((track.a, cut.at), (track.b, lengths[cut.track] - cut.at)):
            if layout.nodes[port.node].kind == "turnout":
                assert away >= 80, cut
        parked = cut.track == "coal"
        assert (cut.rails == "both") == (school == "both rails" and not parked)


def test_one_conductor_home_where_the_other_is_common() -> None:
    common = block_for_cabs(millbeck_unblocked(), CabWishes("common rail", 2, 1500)).after
    pairs = block_for_cabs(millbeck_unblocked(), CabWishes("both rails", 2, 1500)).after

    def copper(layout: Layout) -> float:
        return sum(
            r.line.length * (2 if r.wires == "both" else 1)
            for i, r in layout.runs.items()
            if i not in millbeck_unblocked().runs
        )

    assert {r.wires for i, r in common.runs.items() if i not in millbeck_unblocked().runs} == {"A", "B"}
    assert copper(common) < 0.8 * copper(pairs)


def test_blocks_are_no_shorter_than_asked_and_hold_a_train() -> None:
    layout = millbeck_unblocked()
    longest = max(t.length for t in layout.trains.values())
    for b in plan_cab_blocks(layout).blocks:
        if b.use == "branch":
            assert b.holds >= longest * 0.75, b


def test_a_yard_that_routes_its_power_needs_no_switches() -> None:
    d = millbeck_unblocked()
    alone = d.model_copy(
        update={
            "devices": {i: x for i, x in d.devices.items() if i.startswith("cab")},
            "sections": {},
            "runs": {},
            "terminals": {},
            "feeders": {},
            "scenes": {},
        }
    )
    plan = plan_cab_blocks(alone, "both rails", 1500)
    parked = {b.name for b in plan.blocks if b.parent is not None}
    assert parked == {"Coal road", "Coldwell goods"}, "not the roads of the yard"
    assert musts(block_for_cabs(alone, CabWishes("both rails", 2, 1500)).after) == []


def test_the_first_demo_turned_into_direct_current() -> None:
    """The large railroad, on board joints that lift out, with reversing sections: blocked without a must of its own."""
    bay = unwired_bay()
    plain = bay.model_copy(
        update={
            "brief": bay.brief.model_copy(update={"control": "dc"}),
            "sections": {},
            "devices": {},
            "circuits": {},
            "loads": {},
            "scenes": {},
        }
    )
    made = block_for_cabs(plain, CabWishes("both rails", 4))
    assert len([b for b in made.plan.blocks if b.parent is None]) >= 15
    assert {d.made for i, d in made.after.devices.items() if i in made.selectors and len(d.inputs) == 4} == {
        "rotary, two poles"
    }
    before = {f.rule for f in check(derive(plain))}
    new = {f.rule for f in check(derive(made.after)) if f.severity == "must"} - before
    assert new <= {"reversing section", "phases meet at a gap"}, "its loops still want their pair of switches"


def test_what_cannot_be_blocked_says_why() -> None:
    with pytest.raises(DrawingError, match="no track for cabs"):
        block_for_cabs(gannet_bay())
    with pytest.raises(DrawingError, match="selectors already"):
        block_for_cabs(millbeck())
    with pytest.raises(DrawingError, match="1 to 11"):
        block_for_cabs(millbeck_unblocked(), CabWishes(cabs=12))


def test_feeders_that_are_there_stay_on_their_rails() -> None:
    d = two_blocks()
    for i in ("sel-one", "sel-two"):
        del d.data["devices"][i]
    d.data["sections"].clear()
    for kind in ("runs", "terminals", "feeders"):
        d.data[kind].clear()
    bare = d.plain()
    fed = apply_patch(bare, list(block_for_cabs(bare).patch))
    kept = {i: (f.track, f.at, f.a_rail) for i, f in fed.feeders.items()}
    again = fed.model_copy(
        update={
            "devices": {i: x for i, x in fed.devices.items() if x.kind != "selector"},
            "sections": {},
            "runs": {i: replace_fed(r) for i, r in fed.runs.items()},
        }
    )
    made = block_for_cabs(again)
    now = {i: (f.track, f.at, f.a_rail) for i, f in made.after.feeders.items()}
    assert {i: now[i] for i in kept} == kept


def replace_fed(run: Any) -> Any:
    """A run as if it came from the first cab: what fed it is gone."""
    return run.model_copy(update={"circuit": "a", "fed": run.fed.model_copy(update={"device": "dev-a"})})


# --- between two controls


def linked() -> Layout:
    return millbeck()


def test_a_bare_gap_between_two_controls_is_a_must_with_its_setting() -> None:
    layout = block_for_cabs(millbeck_unblocked(), CabWishes("both rails", 2, 1500)).after
    told = next(f for f in check(derive(layout)) if f.rule == "two controls at a bare gap")
    assert told.severity == "must" and "Selector Exchange at Cab A" in told.title
    assert "Through goods" in told.mend


def test_buffers_part_the_controls_for_every_lie() -> None:
    layout = linked()
    assert not [f for f in check(derive(layout)) if f.rule in ("two controls at a bare gap", "buffer too short")]
    lever = next(i for i, d in layout.devices.items() if d.name == "Selector Exchange")
    riders = [i for i, d in layout.devices.items() if d.gang == lever]
    assert len(riders) == 2
    live = {}
    for at in (None, "cab-a", "cab-b", "main"):
        now = grow_tree(thrown(layout, {lever: at}))
        live[at] = sorted(s[0] for r in riders if (s := now.source(layout.devices[r].output)) is not None)
    assert live == {None: [], "cab-a": ["cab-a"], "cab-b": ["cab-b"], "main": ["station"]}


def test_a_buffer_shorter_than_a_pickup_is_found() -> None:
    layout = linked()
    long = layout.locos["mogul"].model_copy(update={"pickups": 400})
    told = [
        f
        for f in check(derive(layout.model_copy(update={"locos": {**layout.locos, "mogul": long}})))
        if f.rule == "buffer too short"
    ]
    assert told and all(f.severity == "must" and "400 mm" in f.title for f in told)
    for f in told:
        # It is shown in the middle of the stretch between its two gaps.
        gaps = sorted(layout.gaps[i].at for i in f.shows if i in layout.gaps and layout.gaps[i].track == f.place.track)
        assert gaps[0] < f.place.at < gaps[-1] and f.place.at == pytest.approx((gaps[0] + gaps[-1]) / 2, abs=1)


def test_the_longest_pickup_by_hand() -> None:
    """Two engines coupled reach one over couplings and one over pickups; lit cars reach all along. Common practice."""
    layout = millbeck()
    assert longest_reach(layout).millimetres == 190
    double = layout.trains["goods"].model_copy(update={"engines": ["mogul", "mogul"]})
    both = layout.model_copy(update={"trains": {"goods": double}})
    assert longest_reach(both).millimetres == pytest.approx(190 * COUPLED_OVER_PICKUPS + 190)
    lit = layout.model_copy(update={"trains": {"goods": double.model_copy(update={"lit_cars": 3})}})
    assert longest_reach(lit).millimetres == 1300


def test_what_is_guessed_of_a_pickup_says_so() -> None:
    """A usual engine of the scale where nobody measured or no train is entered is a guess; lit cars are none."""
    layout = millbeck()
    nobody = layout.model_copy(update={"trains": {}})
    assert longest_reach(nobody) == Reach(USUAL_MM[layout.brief.scale], "a usual engine in OO", True)
    unmeasured = layout.locos["mogul"].model_copy(update={"pickups": None})
    loco = layout.model_copy(update={"locos": {**layout.locos, "mogul": unmeasured}})
    goods = loco.trains["goods"].model_copy(update={"engines": ["mogul"]})
    assert reach_of(loco, goods) == Reach(USUAL_MM[layout.brief.scale], goods.name, True)
    lit = goods.model_copy(update={"lit_cars": 2, "length": 900})
    assert reach_of(loco, lit) == Reach(900, f"{goods.name}, whose cars are lit", False)
    short = goods.model_copy(update={"lit_cars": 2, "length": 40})
    assert reach_of(loco, short).guess, "an engine longer than its lit train is what reaches"
    assert not reach_of(layout, goods).guess and reach_of(layout, goods).millimetres == layout.locos["mogul"].pickups


def test_a_link_without_room_or_selector_says_why() -> None:
    with pytest.raises(DrawingError, match="No gap on Harrow 1"):
        link_controls(derive(millbeck()), "harrow-1", 100)
    layout = block_for_cabs(millbeck_unblocked(), CabWishes("both rails", 2, 1500)).after
    lit = {i: t.model_copy(update={"lit_cars": 4, "length": 2600.0}) for i, t in layout.trains.items()}
    with pytest.raises(DrawingError, match="of plain track"):
        link_controls(derive(layout.model_copy(update={"trains": lit})), "exchange", 300)


def test_one_pole_or_a_common_between_two_controls() -> None:
    layout = linked()
    lever = next(i for i, d in layout.devices.items() if d.name == "Selector Exchange")
    one = apply_patch(layout, [{"op": "replace", "path": f"/devices/{lever}/made", "value": "rotary, one pole"}])
    told = [f for f in check(derive(one)) if f.rule == "one pole between two controls"]
    assert told and "rotary, two poles" in str(told[0].mends[0].patch)
    shared = apply_patch(layout, [{"op": "replace", "path": "/circuits/cab-a/return_of", "value": "main"}])
    told = [f for f in check(derive(shared)) if f.key.startswith("common-mixed")]
    assert told and told[0].severity == "must"
    mended = apply_patch(shared, told[0].mends[0].patch)
    assert not [f for f in check(derive(mended)) if f.key.startswith("common-mixed")]


# --- stops


def test_a_stop_is_as_long_as_its_formula_says() -> None:
    """A published formula of uniform deceleration, v²/(2a), by hand: 219 mm/s and 60 mm/s² are 401 mm."""
    layout = millbeck()
    v = 60 / 3.6 * 1000 / 76
    assert scale_speed("OO") == pytest.approx(v)
    assert stopping_distance(layout) == pytest.approx(v * v / (2 * SLOWS_MM_S2))
    made = stop_here(derive(layout), Place("branch", 400, "a"), "unit")
    assert made.length == pytest.approx(170 + 1.3 * v * v / 120 + 30, abs=1)


def test_a_shuttle_has_both_ends_in_one_rail_and_no_feeder_inside() -> None:
    facts = derive(millbeck())
    made = make_shuttle(facts, Place("branch", 300, "a"), Place("platform", 1200, "b"), "unit")
    after = apply_patch(facts.layout, made.patch)
    assert not [f for f in check(derive(after)) if f.rule.startswith("braking")]
    assert {b.module for b in after.braking.values()} == {"Braking module 1"}
    inside = [
        f
        for f in after.feeders.values()
        for b in after.braking.values()
        if f.track == b.track and b.start <= f.at <= b.end
    ]
    assert inside == []
    chapters = {c.key for c in cab_chapters(derive(after))}
    assert "stretches" in chapters


def braked(**changes: Any) -> list[str]:
    facts = derive(millbeck())
    made = stop_here(facts, Place("branch", 400, "a"), "unit")
    after = apply_patch(facts.layout, made.patch)
    section = after.braking[made.sections[0]].model_copy(update=changes)
    found = check(derive(after.model_copy(update={"braking": {made.sections[0]: section}})))
    return [f.key.split(":")[0] for f in found if f.rule.startswith("braking")]


def test_braking_sections_that_do_not_brake() -> None:
    assert braked() == []
    assert braked(length=120.0) == ["braking-short"]
    assert "braking-bypass" in braked(at=300.0, length=1000.0)
    assert "braking-gap" in braked(at=100.0, length=600.0)
    assert "braking-control" in braked(track="harrow-1", at=400.0, length=700.0)


def test_two_trains_or_two_rails_on_one_module() -> None:
    facts = derive(millbeck())
    made = make_shuttle(facts, Place("branch", 300, "a"), Place("platform", 1200, "b"), "unit")
    after = apply_patch(facts.layout, made.patch)
    one, other = made.sections
    turned = after.braking[other].model_copy(update={"rail": "right"})
    wrong = after.model_copy(update={"braking": {one: after.braking[one], other: turned}})
    assert [f.severity for f in check(derive(wrong)) if f.key.startswith("braking-rails")] == ["must"]
    stop = after.braking[other].model_copy(update={"why": "stop"})
    shared = after.model_copy(update={"braking": {one: after.braking[one], other: stop}})
    assert [f.key for f in check(derive(shared)) if f.key.startswith("braking-shared")]


@pytest.mark.parametrize(
    ("place", "words"),
    [
        (Place("harrow-1", 800, "b"), "read by decoders alone"),
        (Place("coldwell-lead", 100, "b"), "to stop in"),
        (Place("branch", 500, "b"), "are missing on Coldwell branch"),
        (Place("nowhere", 100, "b"), "no track nowhere"),
    ],
)
def test_a_stop_where_none_can_be_says_why(place: Place, words: str) -> None:
    with pytest.raises(DrawingError, match=words):
        stop_here(derive(millbeck()), place)


def test_a_stop_needs_trains_and_signals_that_are_there() -> None:
    layout = millbeck()
    with pytest.raises(DrawingError, match="Enter a train first"):
        stop_here(derive(layout.model_copy(update={"trains": {}, "scenes": {}})), Place("branch", 400, "a"))
    with pytest.raises(DrawingError, match="no signal"):
        hold_at_signal(derive(layout), "X1")
    with pytest.raises(DrawingError, match="no train"):
        stop_here(derive(layout), Place("branch", 400, "a"), "ghost")


def test_a_signal_holds_a_train_and_letting_the_signal_go_keeps_the_stop() -> None:
    signal = {"name": "C1", "track": "branch", "at": 1250, "towards": "b"}
    layout = apply_patch(millbeck(), [{"op": "add", "path": "/signals/C1", "value": signal}])
    made = hold_at_signal(derive(layout), "C1", "unit")
    after = apply_patch(layout, made.patch)
    section = after.braking[made.sections[0]]
    assert section.held_by == "C1" and section.end <= 1220 and math.isclose(section.length, made.length)


# --- panels


def test_a_wish_for_shorter_blocks_gives_more() -> None:
    wishes = CabWishes("both rails", 2, 1500)
    few = block_for_cabs(millbeck_unblocked(), wishes).plan.blocks
    many = block_for_cabs(millbeck_unblocked(), replace(wishes, shortest=700)).plan.blocks
    assert len(many) > len(few)
