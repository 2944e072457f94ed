"""How it is built by hand: joints that both lift, strips and combs, isolated rails, sources by scale, slack, metric wire, words.

Facts of the trade are common practice, no source, unless a source is named.
"""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

import pytest

import jolly_copper
from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.circuits.lengths import feeder_cut, feeder_needs
from jolly_copper.core.circuits.staircase import explain
from jolly_copper.core.drawing.acts import PlaceTable, perform
from jolly_copper.core.drawing.copper import add_source, draw_run
from jolly_copper.core.drawing.sheet import Sheet
from jolly_copper.core.findings.check import check
from jolly_copper.core.findings.model import Finding
from jolly_copper.core.layout.benchwork import lifting_joints
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.fields import Bend
from jolly_copper.core.layout.geometry import draw
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.layout.underways import cable_joints, cable_length
from jolly_copper.core.materials.sources import TABLES, usual_source
from jolly_copper.core.proposals.laying.whole import School, lay_railroad
from jolly_copper.core.quantities import read_gauge
from jolly_copper.core.wirebook.compose import Worked, compose
from jolly_copper.core.wirebook.control import control_pieces
from jolly_copper.core.wirebook.hubs import built, hub_picture
from jolly_copper.core.wirebook.pieces import pieces
from jolly_copper.demo import unwired_bay
from jolly_copper.demo.drafting import Draft
from tests.layouts import booster, feeder, plain


def found(layout: Draft | Layout, rule: str) -> list[Finding]:
    plain_layout = layout.plain() if isinstance(layout, Draft) else layout
    return [f for f in check(derive(plain_layout, None)) if f.rule == rule]


# --- 19: joints


def boards(*removable: bool, wide: float = 1000) -> Draft:
    """Boards side by side along a line, each of which lifts out or not."""
    d = Draft("Boards")
    for k, lifts in enumerate(removable):
        d.board(f"b{k}", f"{k + 1}", wide * k, 0, wide * (k + 1), 600, removable=lifts)
    return d


@pytest.mark.parametrize(
    ("removable", "places"),
    [
        ((False, True, False), [1000, 2000]), ((False, True, True, False), [1000, 2000, 3000]), ((True, True), [1000]),
        ((True, True, True, True), [1000, 2000, 3000]), ((False, False), []),
    ],
)  # fmt: skip
def test_where_both_boards_of_a_joint_lift_there_is_one_place(removable: tuple[bool, ...], places: list[float]) -> None:
    layout = boards(*removable).plain()
    line = draw([Bend(x=100, y=300), Bend(x=1000 * len(removable) - 100, y=300)])
    met = lifting_joints(layout, line)
    assert [round(j.at + 100) for j in met] == places
    assert all(
        len(j.boards) == 2
        for j in met
        if removable[round((j.at + 100) / 1000) - 1] and removable[round((j.at + 100) / 1000)]
    )


def test_boards_a_little_apart_are_one_joint_and_both_edges_of_a_narrow_board_are_two() -> None:
    d = boards(True, True)
    d.data["boards"]["b1"]["outline"] = [{"x": x, "y": y} for x, y in ((1040, 0), (1140, 0), (1140, 600), (1040, 600))]
    line = draw([Bend(x=100, y=300), Bend(x=1900, y=300)])
    assert [round(j.at) for j in lifting_joints(d.plain(), line)] == [920, 1040]


def test_the_demo_is_laid_with_one_plug_for_each_pair_and_joint() -> None:
    layout = unwired_bay()
    lifting = [i for i, b in layout.boards.items() if b.removable]
    assert len(lifting) == 2, "two boards side by side"
    laid = apply_patch(layout, lay_railroad(layout, School()))
    for i, run in laid.runs.items():
        joints = lifting_joints(laid, draw(run.path))
        plugs = [p for p in laid.plugs.values() if p.run == i]
        assert len(plugs) == len(joints)
    assert laid.plugs and found(laid, "plug missing at a joint") == []


def test_a_bus_over_two_boards_that_lift_wants_one_plug_between_them() -> None:
    d = boards(False, True, True, False)
    booster(d)
    d.bus("R1", "main", "14 AWG", [(100, 300), (3900, 300)], fed={"device": "B1"})
    (f,) = found(d, "plug missing at a joint")
    assert dict(f.figures)["joints without a plug"] == "3"
    assert (
        len(f.mends[0].patch) == 3 and found(apply_patch(d.plain(), f.mends[0].patch), "plug missing at a joint") == []
    )


def with_motor(d: Draft) -> Draft:
    d.turnout("T1", 2500, 300, "left", motor="stall motor", driver="D1", output=1)
    d.node("E", 2900, 300, "bumper")
    d.track("t", "Track", "T1.points", "E.1")
    d.data["drivers"] = {
        "D1": {"name": "Driver 1", "drives": "turnouts", "at": {"x": 300, "y": 300}, "outputs": 8, "address": 1}
    }
    return d


def test_control_cables_are_cut_and_plugged_at_joints_like_a_bus() -> None:
    whole = list(control_pieces(with_motor(boards(False, False, False)).plain()))
    layout = with_motor(boards(False, True, True)).plain()
    cut = list(control_pieces(layout))
    assert len(whole) == 1 and [p.key for p in cut] == ["control:T1/1", "control:T1/2", "control:T1/3"]
    assert sum(p.length for p in cut) == pytest.approx(whole[0].length)
    assert [p.board for p in cut] == ["b0", "b1", "b2"] and cut[0].end == cut[1].start and cut[1].end == cut[2].start
    worked = Worked(derive(layout))
    assert {i.name: i.count for i in worked.items}["Plug and socket, 2 poles"] == 2
    book = compose(derive(layout), 1, "2026-01-01")
    (pins,) = [b for c in book.chapters for b in c.blocks if getattr(b, "title", "") == "Plugs of cables, pin by pin"]
    assert len(pins.rows) == 2 and "1 white · 2 grey" in pins.rows[0]


def test_joints_of_a_cable_lie_on_its_way() -> None:
    layout = boards(True, True, True).plain()
    a, b = (300.0, 100.0), (2600.0, 500.0)
    joints = cable_joints(layout, a, b)
    assert [(one, other) for _, one, other in joints] == [("b0", "b1"), ("b1", "b2")]
    assert [at for at, _, _ in joints] == sorted(at for at, _, _ in joints)
    assert joints[-1][0] < cable_length(layout, a, b)


# --- 20: strips as they are built


def test_posts_of_each_kind_of_hub() -> None:
    """A plain strip joins only opposite posts: one half is wire A's, the other wire B's."""
    halved = built("screw strip", "halved strip", 4, 6)
    assert [(halved.post(n, "A"), halved.post(n, "B")) for n in (1, 4)] == [("1", "7"), ("4", "10")]
    assert (halved.strips, halved.positions, halved.combs) == (1, 12, 2)
    two = built("screw strip", "two strips", 4, 6)
    assert (two.post(3, "A"), two.post(3, "B"), two.strips, two.positions, two.combs) == ("A3", "B3", 2, 6, 2)
    board = built("screw strip", "distribution board", 4, 6)
    assert (board.post(3, "B"), board.combs) == ("B3", 0)
    assert (
        built("lever", "halved strip", 3, 5).post(2, "A") == "A2"
        and built("tap", "halved strip", 1, 3).post(1, "A") == ""
    )


def strip(hub: str, feeders: int = 3) -> Draft:
    d = plain()
    d.data["terminals"] = {"T1": {"run": "R1", "along": 500, "kind": "screw strip", "hub": hub}}
    for k in range(feeders):
        feeder(d, f"F{k + 1}", "t", 400 + 100 * k, "T1")
    return d


def test_no_two_wires_share_a_post_and_no_post_is_both_conductors() -> None:
    worked = Worked(derive(strip("halved strip").plain()))
    (joint,) = worked.joints
    posts = [p for s in joint.seats for p in s.posts]
    assert len(posts) == len(set(posts)) == 2 * len(joint.seats)
    a, b = ({int(s.posts[k]) for s in joint.seats} for k in (0, 1))
    assert max(a) <= 6 < min(b), "halves"


@pytest.mark.parametrize(
    ("hub", "bought"),
    [("halved strip", {"Screw terminal strip, 12 positions": 1, "Comb jumper, 6 poles": 2}),
     ("two strips", {"Screw terminal strip, 6 positions": 2, "Comb jumper, 6 poles": 2}), ("distribution board", {"Distribution board": 1})],
)  # fmt: skip
def test_combs_and_strips_stand_in_the_materials(hub: str, bought: dict[str, int]) -> None:
    items = {i.name: i.count for i in Worked(derive(strip(hub).plain())).items}
    assert {n: c for n, c in items.items() if "strip" in n or "Comb" in n or "istribution" in n} == bought


def test_the_board_page_has_a_picture_of_each_strip() -> None:
    d = strip("halved strip")
    d.board("b", "1", -100, -100, 4000, 900)
    book = compose(derive(d.plain()), 1, "2026-01-01")
    (page,) = [c for c in book.chapters if c.key == "board-b"]
    (picture,) = [b for b in page.blocks if getattr(b, "title", "") == "T1, as it is built"]
    words = [w.text for w in picture.words]
    assert "wire A, red" in words and "12" in words and "cut ends outwards" in picture.note and "1 left" in picture.note
    assert all(0 <= x <= picture.width and 0 <= y <= picture.height for s in picture.strokes for x, y in s.points)


def test_a_long_strip_still_fits_its_picture() -> None:
    sketch = hub_picture(built("screw strip", "halved strip", 20, 20), "T9", ("red", "black"), [1, 2])
    assert max(x for s in sketch.strokes for x, _ in s.points) <= sketch.width


def test_spare_posts_are_asked_for() -> None:
    d = strip("halved strip", feeders=4)
    assert found(d, "terminal too crowded") == []
    d.data["brief"]["rules"]["spare_posts"] = 1
    (f,) = found(d, "terminal too crowded")
    assert f.severity == "look" and "0 posts for another pair" in f.title
    assert found(apply_patch(d.plain(), f.mends[0].patch), "terminal too crowded") == []


# --- 21: isolated rails


def isolated() -> Draft:
    """Three-rail track with a piece of one outer rail cut off, read by a board."""
    d = plain(4000)
    d.data["brief"]["control"] = "ac3"
    d.data["detectors"] = {
        "DB1": {
            "name": "Inputs",
            "kind": "isolated rail",
            "at": {"x": 500, "y": 500},
            "channels": 8,
            "sensed": "A",
            "address": 1,
        }
    }
    d.data["circuits"]["gate"] = {"name": "Gate"}
    d.data["devices"]["DB1.1"] = {
        "kind": "detector", "name": "Input 1", "at": {"x": 500, "y": 500}, "input": "main", "output": "gate", "sensed": "A", "board": "DB1", "channel": 1,
    }  # fmt: skip
    d.data["runs"]["H1"] = {
        "circuit": "gate", "label": "H1", "gauge": "18 AWG", "wires": "A", "path": [{"x": 500, "y": 500}, {"x": 2000, "y": 500}], "fed": {"device": "DB1.1"},
    }  # fmt: skip
    d.data["terminals"]["T9"] = {"run": "H1", "along": 1500, "kind": "soldered"}
    d.gap("t", 1500, rails="left")
    d.gap("t", 2500, rails="left")
    d.section("g", "Gate", "t", 2000, "gate")
    feeder(d, "F1", "t", 500, "T1")
    feeder(d, "F2", "t", 3500, "T2")
    return d


def test_an_isolated_rail_sits_in_no_power_wire() -> None:
    d = isolated()
    feeder(d, "F9", "t", 2000, "T9", other="T2")
    answers = []
    for gauge in ("18 AWG", "30 AWG"):
        d.data["runs"]["H1"]["gauge"] = gauge
        facts = derive(d.plain())
        answers.append(explain(facts, "t", 1000).loop_ohms)
        assert facts.carried["run", "H1"][0] == pytest.approx(0, abs=1e-9), "its wire carries nothing"
        assert all(s.kind != "device" for s in explain(facts, "t", 2000).steps)
    assert answers[0] == pytest.approx(answers[1], rel=1e-9)


def test_an_isolated_rail_wants_no_feeder_and_is_not_dead() -> None:
    told = check(derive(isolated().plain()))
    assert not [
        f
        for f in told
        if f.rule in ("piece without feeder", "dead in some setting", "wire with no source") and f.severity == "must"
    ]


def test_a_power_feeder_on_an_isolated_rail_is_a_must() -> None:
    d = isolated()
    feeder(d, "F8", "t", 2200, "T2")
    (f,) = found(d, "feeder round its detector")
    assert f.severity == "must" and "has no feeder" in f.why and "One wire goes from it" in f.why


# --- 22: sources by scale, volts too high, frog units


@pytest.mark.parametrize("control", ["dcc", "dc", "ac3"])
def test_a_new_source_starts_with_the_usual_for_scale_and_control_and_says_so(control: str) -> None:
    for scale in TABLES[control]:
        sheet = Sheet(Layout.model_validate({"name": "New", "brief": {"scale": scale, "control": control}}))
        device = sheet["devices"][add_source(sheet, "booster", 0, 0)]
        usual = usual_source(scale, control)
        assert (
            device["guessed"]
            and device["label_amps"] == usual.amps == device["trip_amps"]
            and device["limit_amps"] > usual.amps
        )
        assert device["name"].split()[0] == {"dcc": "Booster", "dc": "Controller", "ac3": "Transformer"}[control]


def test_guesses_are_told_until_a_label_is_read() -> None:
    d = plain()
    d.data["devices"]["B1"].update(guessed=True, label_amps=5)
    (f,) = found(d, "figures guessed")
    assert f.severity == "look" and found(apply_patch(d.plain(), f.mends[0].patch), "figures guessed") == []


@pytest.mark.parametrize(
    ("scale", "volts", "rated", "severity"),
    [("N", 12, None, None), ("N", 14, None, None), ("N", 14.5, None, "should"), ("HO", 16, None, None), ("HO", 18, None, "should"),
     ("HO", 14.4, 14, "must"), ("HO", 18, 22, "should"), ("G", 20, 24, None)],
)  # fmt: skip
def test_track_volts_against_scale_and_the_least_rated_decoder(
    scale: str, volts: float, rated: float | None, severity: str | None
) -> None:
    """More than 2 V over the scale's: NMRA S-9.1, from memory."""
    d = plain()
    d.data["brief"]["scale"] = scale
    d.data["devices"]["B1"]["volts"] = volts
    if rated:
        d.data["locos"]["k"] = {"name": "Old decoder", "idle": 0.1, "running": 0.3, "stall": 1, "most_volts": rated}
    assert [f.severity for f in found(d, "track volts too high")] == ([severity] if severity else [])


def test_frog_units_have_a_least_voltage_at_their_place() -> None:
    d = plain(6000)
    d.data["nodes"]["N2"] = {
        "kind": "turnout",
        "at": {"x": 6000, "y": 0},
        "hand": "left",
        "name": "T1",
        "contact": "automatic",
    }
    d.data["tracks"]["t"]["b"] = {"node": "N2", "port": "points"}
    feeder(d, "F1", "t", 0, "T1")
    d.data["brief"]["rules"]["test_train"] = 1.0
    assert found(d, "frog unit volts") == []
    d.data["brief"]["rules"]["frog_unit_volts"] = 14
    (f,) = found(d, "frog unit volts")
    assert f.severity == "should" and "T1" in f.title
    assert found(apply_patch(d.plain(), f.mends[0].patch), "frog unit volts") == []
    assert {i.name: i.count for i in Worked(derive(d.plain())).items}["Automatic frog unit"] == 1


# --- 23: slack, leads, metric wire


def test_feeders_have_a_slack_of_their_own_and_leads_made_in_a_batch() -> None:
    d = plain()
    feeder(d, "F1", "t", 500, "T1", tape=300)
    d.data["brief"]["rules"].update(slack_share=0.0, slack_each_end=75, slack_at_feeders=200)
    layout = d.plain()
    assert feeder_needs(layout, 300) == feeder_cut(layout, 300) == 700
    d.data["brief"]["rules"]["prepared_lead"] = 609.6 + 300
    (lead,) = [p for p in pieces(d.plain()) if p.kind == "feeder"]
    assert lead.cut == pytest.approx(909.6)
    d.data["feeders"]["F1"]["cut"] = 700
    short = [f.key for f in found(d, "cut too short") if not f.key.startswith("tape-short")]
    assert short == [], "a lead cut to fit is long enough"


def test_every_tool_of_a_metric_layout_takes_square_millimetres() -> None:
    layout = unwired_bay()
    metric = layout.model_copy(update={"brief": layout.brief.model_copy(update={"units": "metric"})})
    laid = apply_patch(metric, lay_railroad(metric, School()))
    gauges = {r.gauge for i, r in laid.runs.items() if i not in metric.runs} | {f.gauge for f in laid.feeders.values()}
    assert gauges and all(read_gauge(g).system == "mm2" for g in gauges), gauges
    sheet = Sheet(Layout.model_validate({"name": "New", "brief": {"units": "metric"}}))
    device = add_source(sheet, "booster", 0, 0)
    assert sheet["runs"][draw_run(sheet, [(0, 0), (1000, 0)], device=device)]["gauge"] == "2.5 mm²"
    d = plain()
    d.data["brief"]["units"] = "metric"
    assert derive(d.plain()).usual_feeder == ("0.5 mm²", "solid")


# --- 15: a table is placed with its bridge


def test_a_table_is_placed_with_the_bridge_one_chose() -> None:
    act = PlaceTable(act="table", kind="turntable", x=0, y=0, bridge="reverser")
    done = perform(derive(Layout(name="New")), act)
    assert [n.bridge for n in apply_patch(Layout(name="New"), done.patch).nodes.values()] == ["reverser"]


# --- 24: words and version


@pytest.mark.parametrize(
    ("control", "never"), [("dc", "booster|decoder|digital"), ("ac3", "booster|decoder|digital|reverser")]
)
def test_findings_speak_of_the_control_of_the_place(control: str, never: str) -> None:
    d = plain(9000)
    d.data["brief"]["control"] = control
    d.data["devices"]["B1"]["name"] = "Source 1"
    d.data["devices"]["B2"] = {"kind": "booster", "name": "Source 2", "at": {"x": 0, "y": 0}, "output": "east"}
    d.data["circuits"]["east"] = {"name": "East"}
    d.gap("t", 4000)
    feeder(d, "F1", "t", 100, "T1", gauge="30 AWG")
    feeder(d, "F2", "t", 8900, "T2")
    d.data["loads"]["L"] = {
        "kind": "switch machine",
        "name": "Motors",
        "circuit": "main",
        "throws": True,
        "working_amps": 0.1,
        "at_once": 1,
    }
    told = check(derive(d.plain()))
    assert len(told) >= 3
    for f in told:
        assert not re.search(never, f"{f.title} {f.why} {f.mend}", re.I), f


def test_version_and_changelog_agree() -> None:
    changes = (Path(__file__).parents[2] / "CHANGELOG.md").read_text(encoding="utf-8")
    newest = re.search(r"^## (\d+\.\d+\.\d+)", changes, re.M)
    assert newest is not None and newest[1] == jolly_copper.__version__


def test_legacy_terminals_and_tables_open_as_they_are(demo: Layout) -> None:
    data: dict[str, Any] = demo.model_dump(mode="json")
    for terminal in data["terminals"].values():
        del terminal["hub"]
    del data["measured"]
    assert Layout.model_validate(data) == demo
