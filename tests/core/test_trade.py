"""How it is built by hand: joints that both lift, strips and combs, isolated rails.

Facts of the trade are common practice, no source, unless a source is named.
"""

from __future__ import annotations

import pytest

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.circuits.staircase import explain
from jolly_copper.core.findings.check import check
from jolly_copper.core.findings.model import Finding
from jolly_copper.core.layout.benchwork import lifting_joints
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.fields import Bend
from jolly_copper.core.layout.geometry import draw
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.layout.underways import cable_joints, cable_length
from jolly_copper.core.proposals.laying.whole import School, lay_railroad
from jolly_copper.core.wirebook.compose import compose
from jolly_copper.core.wirebook.control import control_pieces
from jolly_copper.core.wirebook.hubs import built, hub_picture
from jolly_copper.core.wirebook.worked import Worked
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
        ((False, True, False), [1000, 2000]),
        ((False, True, True, False), [1000, 2000, 3000]),
        ((True, True), [1000]),
        ((True, True, True, True), [1000, 2000, 3000]),
        ((False, False), []),
    ],
)
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
    [
        ("halved strip", {"Screw terminal strip, 12 positions": 1, "Comb jumper, 6 poles": 2}),
        ("two strips", {"Screw terminal strip, 6 positions": 2, "Comb jumper, 6 poles": 2}),
        ("distribution board", {"Distribution board": 1}),
    ],
)
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
        "kind": "detector",
        "name": "Input 1",
        "at": {"x": 500, "y": 500},
        "input": "main",
        "output": "gate",
        "sensed": "A",
        "board": "DB1",
        "channel": 1,
    }
    d.data["runs"]["H1"] = {
        "circuit": "gate",
        "label": "H1",
        "gauge": "18 AWG",
        "wires": "A",
        "path": [{"x": 500, "y": 500}, {"x": 2000, "y": 500}],
        "fed": {"device": "DB1.1"},
    }
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
