"""The order boards are set up in, what is tried at their joints, and the proof before the doors open."""

from __future__ import annotations

import networkx as nx
import pytest

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.reading import read_layout
from jolly_copper.core.layout.travel import RailEnds
from jolly_copper.core.travel.couplings import read_couplings
from jolly_copper.core.travel.crossing import BoardJoint, board_joints
from jolly_copper.core.travel.rail_ends import MEETINGS
from jolly_copper.core.travel.setting_up import (
    beside_joint,
    boxes,
    joint_key,
    set_up_order,
    setting_up,
    spare_connectors,
    take_down,
)
from jolly_copper.core.travel.ten_minutes import ten_minutes
from jolly_copper.core.wirebook.travel_pages import packing, step_words, way_back
from jolly_copper.demo import gannet_bay
from jolly_copper.demo.harbour_arm import harbour_arm
from tests.core.test_joints_of_boards import two_boards, with_coupling
from tests.layouts import without


def graph_of(layout: Layout, joints: tuple[BoardJoint, ...]) -> nx.Graph:
    graph = nx.Graph()
    graph.add_nodes_from(layout.boards)
    graph.add_edges_from(j.boards for j in joints)
    return graph


def test_each_board_is_set_up_beside_one_that_stands() -> None:
    layout = harbour_arm()
    joints = board_joints(layout)
    order, apart = set_up_order(layout, joints)
    assert order[0] == "back2", "the board with the booster stands first"
    assert apart == [] and sorted(order) == sorted(layout.boards)
    # Ring by ring, as another library counts the rings.
    far = nx.single_source_shortest_path_length(graph_of(layout, joints), order[0])
    assert [far[b] for b in order] == sorted(far.values())


def test_boards_that_stay_stand_already() -> None:
    plan = setting_up(gannet_bay())
    assert len(plan.steps) == 1 and plan.steps[0].board == "bridge"
    assert len(plan.standing) == len(gannet_bay().boards) - 1
    assert set(plan.steps[0].beside) == {"board5", "board7"}
    # It has no couplings yet: its plugs are told one by one.
    assert "P3, pins 1 and 2: open" in [t.title for t in plan.steps[0].before]


def test_a_board_no_joint_leads_to_is_told_apart() -> None:
    d = two_boards()
    d.board("far", "9", 5000, 0, 6000, 500, removable=True)
    plan = setting_up(d.plain())
    assert plan.apart == ("far",) and [s.board for s in plan.steps] == ["one", "two", "far"]


def test_taking_down_is_the_way_back() -> None:
    plan = setting_up(harbour_arm())
    assert [s.number for s in take_down(plan)] == list(range(8, 0, -1))


def test_every_coupling_is_mated_once() -> None:
    layout = harbour_arm()
    mated = [r.id for s in setting_up(layout).steps for r in s.couplings]
    assert sorted(mated) == sorted(layout.couplings)


def test_what_a_meter_shows_over_a_joint_is_a_sum_by_hand() -> None:
    """800 mm of 2.5 mm² at 7.98 mΩ/m (IEC 60228, class 5, 20 °C: the usual temperature of the house counts on top),
    a plug of 5 mΩ and two screws of 2 mΩ (common practice, no source)."""
    d = two_boards()
    d.data["brief"]["rules"]["wire_celsius"] = 20
    layout = d.plain()
    (joint,) = board_joints(layout)
    between = beside_joint(layout, joint.crossings[0])
    assert between is not None
    (one, other), ohms = between
    assert (one, other) == ("terminal T1", "terminal T2")
    length = layout.terminals["T2"].along - layout.terminals["T1"].along
    assert ohms == pytest.approx(0.00798 * length / 1000 + 0.005 + 2 * 0.002, rel=1e-3)


def test_no_test_reaches_over_a_joint_that_is_open_still() -> None:
    """From a plug to the next terminal or to the next plug, whichever comes first."""
    layout = harbour_arm()
    joints = board_joints(layout)
    read = read_couplings(layout, joints)
    told = 0
    for joint in joints:
        for crossing in joint.crossings:
            between = beside_joint(layout, crossing, read) if crossing.owner in layout.runs else None
            if between is None:
                continue
            marks = {f"terminal {i}": t.along for i, t in layout.terminals.items()}
            ends = [marks[w] for w in between[0] if w in marks]
            others = [
                p.along for i, p in layout.plugs.items() if p.run == crossing.owner and f"plug:{i}" != crossing.key
            ]
            assert not any(min(e, crossing.along) < p < max(e, crossing.along) for e in ends for p in others)
            told += len(ends)
    assert told > 30


def test_tests_of_a_joint() -> None:
    plan = setting_up(with_coupling(two_boards()).plain())
    step = plan.steps[1]
    assert step.board == "two" and step.beside == ("one",) and step.tracks == 1
    (opened,), (closed,), (rails, closing) = step.before, step.after, step.live
    assert opened.title == "1A, pins 1 and 2: open" and opened.foretold == "over 10 kΩ"
    assert "terminal T1 to terminal T2, red and black" in closed.words and "mΩ" in closed.foretold
    assert rails.foretold.startswith("0 V") and "slide the joiners" in closing.words
    assert len({t.key for t in (*step.before, *step.after, *step.live)}) == 4


@pytest.mark.parametrize(
    ("ends", "closed", "opened"),
    [
        ("sliding joiners", "tug each", "slide the rail joiners back"),
        ("bridged by wire", "clip the wires that bridge the rails", "take the wires off that bridge the rails"),
        ("butted", "fingernail", ""),
    ],
)
def test_rails_are_closed_and_opened_as_the_club_has_them(ends: RailEnds, closed: str, opened: str) -> None:
    """Only after the rails were found of one phase; and what is undone is told on the way back."""
    d = with_coupling(two_boards())
    d.data["brief"]["travelling"] = {"rail_ends": ends}
    plan = setting_up(d.plain())
    assert [t.key.split("/")[1] for t in plan.steps[1].live] == ["rails", "closing"]
    assert closed in plan.steps[1].live[1].words
    assert "joiner" not in step_words(d.plain(), plan.steps[1])
    (back, *_) = way_back(d.plain(), take_down(plan))[1:]
    assert opened in back and ("rail" in back) == bool(opened)
    assert len([w for w in packing(d.plain()) if w == MEETINGS[ends].along]) == 1
    gapped = with_coupling(two_boards(gap=1000)).plain()
    assert setting_up(gapped).steps[1].live == (), "there the rails stay apart"


def test_devices_across_the_wires_are_taken_off_before_they_are_metered() -> None:
    """A booster or breaker on the board's own half reads as whatever is in it, not as open."""
    d = with_coupling(two_boards(), socket_on="two")
    d.data["devices"]["B1"]["at"] = {"x": 1900, "y": 100}
    step = setting_up(d.plain()).steps[1]
    assert step.board == "one" and "off its terminals" not in step.before[0].words, "the booster stands on the other"
    (opened,) = setting_up(with_coupling(two_boards()).plain()).steps[1].before
    assert "off its terminals" not in opened.words
    d.board("zero", "0", -1000, -300, 0, 300, removable=True)
    d.data["devices"]["B2"] = {
        **d.data["devices"]["B1"],
        "kind": "breaker",
        "name": "Breaker",
        "at": {"x": 100, "y": 0},
        "input": "main",
        "output": "more",
    }
    d.data["circuits"]["more"] = {"name": "More"}
    (opened,) = next(s for s in setting_up(d.plain()).steps if s.board == "one").before
    assert "no engine or lit car on it, Breaker off its terminals" in opened.words


def test_rails_that_are_gapped_at_a_joint_may_differ_by_right() -> None:
    """Another cab or a reverser stands beyond the gap: the same rail is not at the same volts there."""
    step = setting_up(with_coupling(two_boards(gap=1000)).plain()).steps[1]
    assert step.tracks == 1 and step.live == ()


@pytest.mark.parametrize(
    ("more", "foretold"),
    [
        ({"volts": 15.0}, "about 15.0 V"),
        ({}, "about 12.0 V"),
        ({"volts": 15.0, "measured_volts": 13.0}, "about 13.0 V"),
    ],
)
def test_volts_at_the_far_end_are_of_the_supply_itself(more: dict[str, float], foretold: str) -> None:
    """As measured, else its label, else the usual of an accessory supply (common practice, no source)."""
    d = two_boards()
    d.data["circuits"]["aux"] = {"name": "Accessories", "purpose": "accessory"}
    d.data["devices"]["PS"] = {
        "kind": "supply",
        "name": "Supply",
        "at": {"x": 200, "y": 100},
        "output": "aux",
        **more,
    }
    layout = d.plain()
    (volts,) = [p for p in ten_minutes(derive(layout), board_joints(layout)).tried if p.kind == "volts"]
    assert volts.foretold == foretold


def test_an_accessory_pair_is_not_said_to_be_open() -> None:
    """Lamps and boards between its wires read as anything."""
    for step in setting_up(harbour_arm()).steps:
        assert not any("A1" in t.words for t in step.before)


def test_boxes_and_spares() -> None:
    layout = harbour_arm()
    assert {k: len(v) for k, v in boxes(layout).items()} == {"Lid A": 3, "Lid B": 3, "Lid C": 2}
    used = [c.kind for c in layout.couplings.values()]
    assert spare_connectors(layout)["power"] == layout.connectors["power"].on_hand - used.count("power")


def test_ten_minutes_exercise_every_district() -> None:
    layout = harbour_arm()
    facts = derive(layout, "show")
    proof = ten_minutes(facts, board_joints(layout))
    engines = {p.key.rsplit(":", 1)[1] for p in proof.tried if p.kind == "engine"}
    assert engines == {"main", "fiddle", "arm"}
    assert {p.kind for p in proof.tried} >= {"engine", "coin", "turnouts", "volts"}
    assert proof.later == () and proof.seconds == sum(p.seconds for p in proof.tried) <= 600
    (coin,) = [p for p in proof.tried if p.key == "proof:coin:main"]
    assert "never hold it" in coin.words and coin.foretold.startswith("Breaker Main line opens at once")


def test_what_failed_before_comes_first_and_what_does_not_fit_is_told() -> None:
    layout = harbour_arm()
    data = without(layout)
    data["brief"]["travelling"]["proof_minutes"] = 2
    short = read_layout(data)
    joints = board_joints(short)
    failed = {joint_key(joints[1].boards): 1, joint_key(joints[0].boards): 3}
    proof = ten_minutes(derive(short, "show"), joints, failed)
    assert [p.failed for p in proof.tried[:2]] == [3, 1]
    assert proof.seconds <= 120 and proof.later
    every = {p.key for p in (*proof.tried, *proof.later)}
    assert every >= {p.key for p in ten_minutes(derive(layout, "show"), joints).tried}


def test_nothing_to_set_up() -> None:
    plan = setting_up(two_boards(lifts=False).plain())
    assert plan.steps == () and len(plan.standing) == 2
