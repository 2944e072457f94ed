"""Joints of boards that lift out: what crosses them, by which pins, and what a board by itself hangs on."""

from __future__ import annotations

from typing import Any

import pytest

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.findings.check import check
from jolly_copper.core.findings.joining import feeders_across
from jolly_copper.core.findings.model import Finding
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.layout.reading import LayoutError, read_layout
from jolly_copper.core.proposals.laying.whole import School, lay_railroad
from jolly_copper.core.travel import crossing
from jolly_copper.core.travel.alone import boards_alone, lone_tracks
from jolly_copper.core.travel.couplings import couplings_of, read_couplings, unplugged
from jolly_copper.core.travel.crossing import board_joints, joints_of
from jolly_copper.core.wirebook.travel_pages import travel_chapters
from jolly_copper.demo.drafting import Draft
from jolly_copper.demo.harbour_arm import harbour_arm, harbour_open
from tests.layouts import booster, feeder


def two_boards(lifts: bool = True, gap: float | None = None, plug: float | None = 1000) -> Draft:
    """A straight track over two boards that meet at 1000 mm, a bus under it with its source on the first."""
    d = Draft("Two boards", brief={"units": "metric", "rules": {"drop_below_rail": 0}})
    d.board("one", "1", 0, -300, 1000, 300, removable=lifts)
    d.board("two", "2", 1000, -300, 2000, 300, removable=lifts)
    d.node("N1", 0, 0, "bumper")
    d.node("N2", 2000, 0, "bumper")
    d.track("t", "Track", "N1.1", "N2.1", joiner_every=None)
    booster(d, limit_amps=8)
    d.data["devices"]["B1"]["at"] = {"x": 100, "y": 100}
    d.bus("R1", "main", "2.5 mm²", [(100, 100), (1900, 100)], fed={"device": "B1", "along": 0}, first=300, every=800)
    if plug is not None:
        d.plug("R1", plug - 100)
    if gap is not None:
        d.gap("t", gap)
    d.section("s", "Section", "t", 10, "main")
    return d


def with_coupling(d: Draft, **more: Any) -> Draft:
    d.data["connectors"] = {"two": {"name": "Two-pole plug", "poles": 2, "amps": 10, "takes": "2.5 mm²", "on_hand": 4}}
    d.data["couplings"] = {
        "J1": {
            "name": "1A",
            "boards": ["one", "two"],
            "kind": "two",
            "socket_on": "one",
            "holds": [{"of": "plug:P1"}],
            **more,
        }
    }
    return d


def of_rule(layout: Layout, rule: str) -> list[Finding]:
    return [f for f in check(derive(layout)) if f.rule == rule]


def test_a_run_and_a_track_cross_where_the_boards_meet() -> None:
    (joint,) = board_joints(two_boards().plain())
    assert joint.boards == ("one", "two")
    (run,) = joint.crossings
    assert (run.key, run.live, run.amps, run.colours) == ("plug:P1", "one", 5, ("red", "black"))
    assert run.power.words == "track, 14.4 V digital"
    (track,) = joint.tracks
    assert track.at == pytest.approx(1000) and track.gap is None


def test_joints_and_couplings_are_worked_out_once_for_all_who_ask(monkeypatch: pytest.MonkeyPatch) -> None:
    asked = []
    monkeypatch.setattr(crossing, "board_joints", lambda layout: asked.append(layout) or board_joints(layout))
    facts = derive(with_coupling(two_boards()).plain())
    check(facts)
    travel_chapters(facts)
    assert joints_of(facts) is joints_of(facts) and couplings_of(facts) is couplings_of(facts)
    assert len(asked) == 1


def test_boards_that_stay_have_no_joint() -> None:
    assert board_joints(two_boards(lifts=False).plain()) == ()


def test_power_comes_from_where_a_run_is_fed() -> None:
    d = two_boards()
    d.data["devices"]["B1"]["at"] = {"x": 1900, "y": 100}
    d.data["runs"]["R1"]["fed"] = {"device": "B1", "along": 1800}
    (joint,) = board_joints(d.plain())
    assert joint.crossings[0].live == "two"


def test_pins_are_taken_in_order_and_what_has_none_is_told() -> None:
    layout = with_coupling(two_boards()).plain()
    joints = board_joints(layout)
    (read,) = read_couplings(layout, joints)
    assert [(p.number, p.colour) for p in read.pins] == [(1, "red"), (2, "black")]
    assert list(unplugged(joints, read_couplings(layout, joints))) == []
    bare = with_coupling(two_boards(), holds=[{"of": "plug:P1", "first": 2, "wires": 1}]).plain()
    (boards, crossing, wires) = next(unplugged(board_joints(bare), read_couplings(bare, board_joints(bare))))
    assert (boards, crossing.label, wires) == (("one", "two"), "R1", 1)


@pytest.mark.parametrize(
    ("more", "problem"),
    [
        ({"kind": "none"}, "no kind of connector none"),
        ({"coding": 2}, "Two-pole plug is keyed in ways 1 to 1; 2 is none of them"),
        ({"boards": ["one", "one"]}, "A coupling joins two boards; these are one."),
    ],
)
def test_a_coupling_that_cannot_be_is_refused(more: dict[str, Any], problem: str) -> None:
    with pytest.raises(LayoutError) as refused:
        read_layout(with_coupling(two_boards(), **more).data)
    assert any(problem in p.sentence for p in refused.value.problems)


def test_what_is_right_is_not_found_wanting() -> None:
    layout = with_coupling(two_boards()).plain()
    told = {"couplings that mate wrongly", "bare pins that are live", "pole beyond its rating"}
    told |= {"wire over a joint in no coupling", "coupling that holds nothing there", "connectors to buy"}
    assert [f.title for f in check(derive(layout)) if f.rule in told] == []


def test_live_pins_are_found_and_turned() -> None:
    layout = with_coupling(two_boards(), socket_on="two").plain()
    (found,) = of_rule(layout, "bare pins that are live")
    assert found.severity == "should" and "bare pins on Board 1" in found.title
    assert of_rule(apply_patch(layout, list(found.mends[0].patch)), "bare pins that are live") == []


def test_a_pole_is_judged_by_amps_and_by_gauge() -> None:
    d = with_coupling(two_boards())
    d.data["connectors"]["two"].update(amps=4)
    (found,) = of_rule(d.plain(), "pole beyond its rating")
    assert found.severity == "should" and "5 A through a pole made for 4 A" in found.title
    d.data["connectors"]["two"].update(amps=3)
    assert of_rule(d.plain(), "pole beyond its rating")[0].severity == "must"
    d.data["connectors"]["two"].update(amps=10, takes="1.5 mm²")
    (found,) = of_rule(d.plain(), "pole beyond its rating")
    assert "R1 is 2.5 mm²; a Two-pole plug takes 1.5 mm² at most" in found.title


def test_more_wires_than_poles_and_more_couplings_than_owned() -> None:
    d = with_coupling(two_boards())
    d.data["connectors"]["two"].update(poles=1, on_hand=0)
    assert "holds 1 wire more than it has poles" in of_rule(d.plain(), "pole beyond its rating")[0].title
    (few,) = of_rule(d.plain(), "connectors to buy")
    assert few.title == "1 coupling of the kind Two-pole plug; the club has 0"
    d.data["connectors"]["two"].update(buy=True)
    assert of_rule(d.plain(), "connectors to buy") == []


def test_a_coupling_that_names_what_is_gone_says_so_and_lets_it_go() -> None:
    layout = with_coupling(two_boards(), holds=[{"of": "plug:P1"}, {"of": "plug:P9"}]).plain()
    (found,) = of_rule(layout, "coupling that holds nothing there")
    assert "holds P9, which does not cross between Board 1 and Board 2" in found.title
    after = apply_patch(layout, list(found.mends[0].patch))
    assert [h.of for h in after.couplings["J1"].holds] == ["plug:P1"]


def accessory_bus(d: Draft, volts: float = 12) -> Draft:
    d.data["circuits"]["acc"] = {"name": "Accessories", "purpose": "accessory"}
    d.data["devices"]["PS"] = {
        "kind": "supply",
        "name": "Supply",
        "at": {"x": 100, "y": 200},
        "output": "acc",
        "volts": volts,
        "trip_amps": 3,
    }
    d.bus("A1", "acc", "1.5 mm²", [(100, 200), (1900, 200)], fed={"device": "PS", "along": 0}, first=300)
    d.plug("A1", 900)
    return d


def test_unlike_volts_that_mate_are_a_must_and_are_keyed_apart() -> None:
    d = with_coupling(accessory_bus(two_boards()))
    d.data["couplings"]["J2"] = {**d.data["couplings"]["J1"], "name": "1B", "holds": [{"of": "plug:P2"}]}
    (found,) = of_rule(d.plain(), "couplings that mate wrongly")
    assert found.severity == "must" and found.mends == ()
    assert "pin 1 would put track, 14.4 V digital on accessories, 12 V" in found.title
    d.data["connectors"]["two"]["codings"] = 2
    (found,) = of_rule(d.plain(), "couplings that mate wrongly")
    after = apply_patch(d.plain(), list(found.mends[0].patch))
    assert after.couplings["J2"].coding == 2 and of_rule(after, "couplings that mate wrongly") == []


def test_like_volts_may_share_a_kind() -> None:
    """Two pairs of one booster through two plugs alike: mixed up they cross pairs, and nothing burns."""
    d = with_coupling(two_boards())
    d.bus("R2", "main", "2.5 mm²", [(100, -100), (1900, -100)], fed={"device": "B1", "along": 0}, first=300)
    d.plug("R2", 900)
    d.data["couplings"]["J2"] = {**d.data["couplings"]["J1"], "name": "1B", "holds": [{"of": "plug:P2"}]}
    assert of_rule(d.plain(), "couplings that mate wrongly") == []


def test_track_that_hangs_on_the_rails_of_a_joint() -> None:
    d = two_boards()
    feeder(d, "F1", "t", 500, "T1")
    layout = d.plain()
    (lone,) = lone_tracks(layout, board_joints(layout))
    assert (lone.board, lone.track, lone.length) == ("two", "t", pytest.approx(1000))
    (found,) = of_rule(layout, "track fed over a joint")
    assert "Track on Board 2 has no feeder there" in found.title
    after = apply_patch(layout, list(found.mends[0].patch))
    assert of_rule(after, "track fed over a joint") == []
    # A board on the bench: what comes to it is fed there, and the rest of its track is clipped.
    one, two = boards_alone(layout, board_joints(layout))
    assert [c.label for c in two.feeds] == ["R1"] and [x.track for x in two.clip] == ["t"]
    assert one.feeds == () and one.clip == ()


def test_track_with_no_feeder_anywhere_is_told_once() -> None:
    assert of_rule(two_boards().plain(), "track fed over a joint") == []


def test_a_gap_on_the_joint_is_closed_by_it_only_where_it_parts_circuits() -> None:
    d = two_boards(gap=1003)
    d.data["circuits"]["other"] = {"name": "Other"}
    d.data["devices"]["B2"] = {**d.data["devices"]["B1"], "name": "Booster 2", "output": "other"}
    d.section("s2", "Beyond", "t", 1800, "other")
    (found,) = of_rule(d.plain(), "gap that a joint closes")
    assert found.severity == "should"
    assert of_rule(apply_patch(d.plain(), list(found.mends[0].patch)), "gap that a joint closes") == []
    # The same circuit on both sides: touching rail ends do no harm.
    assert of_rule(two_boards(gap=1003).plain(), "gap that a joint closes") == []
    assert of_rule(two_boards(gap=1100).plain(), "gap that a joint closes") == []


def test_the_clubs_wish_for_feeders_by_joints() -> None:
    d = two_boards()
    feeder(d, "F1", "t", 950, "T1")
    assert of_rule(d.plain(), "no feeder by a joint") == []
    d.data["brief"]["travelling"] = {"feeder_by_joint": 300}
    (found,) = of_rule(d.plain(), "no feeder by a joint")
    assert found.severity == "look" and "beyond the joint" in found.title


def test_harbour_arm_holds_no_unplugged_conductor() -> None:
    layout = harbour_arm()
    joints = board_joints(layout)
    assert len(joints) == 9 and sum(len(j.crossings) for j in joints) > 40
    assert list(unplugged(joints, read_couplings(layout, joints))) == []
    assert [f.title for f in check(derive(layout, "show")) if f.severity != "look"] == []


def test_every_wire_of_the_open_one_is_found() -> None:
    """Without couplings nothing nags about them; the accessory bus has no plug yet."""
    layout = harbour_open()
    assert of_rule(layout, "wire over a joint in no coupling") == []
    assert len(of_rule(layout, "plug missing at a joint")) == 1


def test_lay_it_feeds_and_ties_every_board_by_itself() -> None:
    layout = harbour_open()
    assert list(feeders_across(layout)) == []
    assert lone_tracks(layout, board_joints(layout)) == ()


def test_lay_it_leaves_an_accessory_bus_that_nothing_is_tied_to() -> None:
    d = accessory_bus(two_boards())
    for kind in ("runs", "terminals", "plugs"):
        d.data[kind] = {k: v for k, v in d.data[kind].items() if v.get("run", k) == "A1"}
    bare = d.plain()
    assert "A1" in apply_patch(bare, lay_railroad(bare, School())).runs
