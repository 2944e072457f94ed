"""Boards that travel on railroads unlike the demo: every board lifting out, DC, three-rail, detection, ten times the
size."""

from __future__ import annotations

import itertools
from collections.abc import Callable
from functools import cache

import pytest

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.findings.check import check
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.layout.reading import read_layout
from jolly_copper.core.proposals.coupling import propose_couplings
from jolly_copper.core.travel.alone import boards_alone, lone_tracks
from jolly_copper.core.travel.couplings import read_couplings, unlike, unplugged
from jolly_copper.core.travel.crossing import board_joints, shared_edge
from jolly_copper.core.travel.placing import where_to_hang
from jolly_copper.core.travel.setting_up import setting_up, take_down
from jolly_copper.core.travel.ten_minutes import ten_minutes
from jolly_copper.core.wirebook.travel_pages import travel_chapters
from jolly_copper.demo import gannet_bay, millbeck, signalled_bay, tinplate_lane
from jolly_copper.demo.drafting import Draft
from tests.layouts import booster, without

DEMOS: tuple[Callable[[], Layout], ...] = (gannet_bay, signalled_bay, millbeck, tinplate_lane)
DRAWER = {
    "thick": {"name": "Two poles, thick", "poles": 2, "amps": 30, "takes": "8 AWG", "on_hand": 900, "codings": 6},
    "many": {"name": "Twelve poles", "poles": 12, "amps": 10, "takes": "14 AWG", "on_hand": 900, "codings": 6},
}


@cache
def all_lifting(number: int) -> Layout:
    """A demo with every board lifting out and a well-filled drawer."""
    layout = DEMOS[number]()
    data = without(layout, connectors=DRAWER)
    for board in data["boards"].values():
        board["removable"] = True
    return read_layout(data)


@cache
def plugged(number: int) -> Layout:
    layout = all_lifting(number)
    offer = propose_couplings(layout)
    assert offer.settled and offer.left == ()
    return apply_patch(layout, offer.patch)


EACH = pytest.mark.parametrize("number", range(len(DEMOS)), ids=[d.__name__ for d in DEMOS])


@EACH
def test_every_joint_is_plugged_and_no_two_unlike_mate(number: int) -> None:
    layout = plugged(number)
    joints = board_joints(layout)
    read = read_couplings(layout, joints)
    assert joints and list(unplugged(joints, read)) == []
    for one, other in itertools.combinations(read, 2):
        if (one.coupling.kind, one.coupling.coding) == (other.coupling.kind, other.coupling.coding):
            pairs = zip(one.pins, other.pins, strict=False)
            assert not any(unlike(p.of.power, q.of.power) for p, q in pairs), (one.id, other.id)


@EACH
def test_what_the_program_plugs_it_finds_sound(number: int) -> None:
    layout = plugged(number)
    wrong = ("couplings that mate wrongly", "bare pins that are live", "pole beyond its rating")
    wrong += ("wire over a joint in no coupling", "coupling that holds nothing there", "connectors to buy")
    scene = next(iter(layout.scenes), None)
    assert [f.title for f in check(derive(layout, scene)) if f.rule in wrong] == []


@EACH
def test_every_board_is_set_up_once_beside_one_that_stands(number: int) -> None:
    layout = plugged(number)
    plan = setting_up(layout)
    assert [s.board for s in plan.steps] and sorted(s.board for s in plan.steps) == sorted(layout.boards)
    for step in plan.steps[1:]:
        assert step.beside or step.board in plan.apart
    mated = [r.id for s in plan.steps for r in s.couplings]
    assert len(mated) == len(set(mated)) and set(mated) == set(layout.couplings)
    keys = [t.key for s in plan.steps for t in (*s.before, *s.after, *s.live)]
    assert len(keys) == len(set(keys))
    assert [s.board for s in take_down(plan)] == [s.board for s in plan.steps][::-1]


@EACH
def test_every_district_has_an_engine_sent_through_it(number: int) -> None:
    layout = plugged(number)
    facts = derive(layout, next(iter(layout.scenes), None))
    proof = ten_minutes(facts, board_joints(layout))
    every = {p.key for p in (*proof.tried, *proof.later)}
    fed = {facts.tree.district(c) for c in facts.meant if c is not None and facts.tree.source(c) is not None}
    assert {k.removeprefix("proof:engine:") for k in every if k.startswith("proof:engine:")} == fed
    assert proof.seconds <= layout.brief.travelling.proof_minutes * 60


@EACH
def test_a_board_alone_is_fed_by_what_comes_to_it(number: int) -> None:
    layout = plugged(number)
    joints = board_joints(layout)
    lone = lone_tracks(layout, joints)
    alone = boards_alone(layout, joints)
    assert {a.board for a in alone} == set(layout.boards)
    assert sum(len(a.clip) for a in alone) == sum(x.board is not None for x in lone)
    assert all(c.live != a.board for a in alone for c in a.feeds)


@EACH
@pytest.mark.parametrize("edge", ["top", "right", "bottom", "left", None])
def test_couplings_hang_on_the_joint_away_from_the_public(number: int, edge: str | None) -> None:
    layout = apply_patch(plugged(number), [{"op": "add", "path": "/brief/travelling/public", "value": edge}])
    sign = {"top": (1, 1), "bottom": (1, -1), "left": (0, 1), "right": (0, -1)}
    for joint in board_joints(layout):
        hang = where_to_hang(layout, joint)
        if "away from the public" in hang.words and edge is not None:
            axis, way = sign[edge]
            one, other = joint.boards
            assert one is not None and other is not None
            middle = sum(p[axis] for p in shared_edge(layout, one, other)) / 2
            assert (hang.at[axis] - middle) * way >= 0, "in the half that is farther from the public"


@EACH
def test_the_book_tells_every_pin(number: int) -> None:
    layout = plugged(number)
    joints, _ = travel_chapters(derive(layout, next(iter(layout.scenes), None)))
    pins = sum(len(r.pins) for r in read_couplings(layout, board_joints(layout)))
    assert sum(len(b.rows) for b in joints.blocks if hasattr(b, "rows")) == pins


def test_ten_times_the_boards_are_plugged_in_a_breath() -> None:
    """A line of eighty boards with one bus over all of them."""

    d = Draft("Long")
    for k in range(80):
        d.board(f"b{k}", str(k + 1), 1000.0 * k, -300, 1000.0 * (k + 1), 300, removable=True)
    d.node("N1", 0, 0, "bumper")
    d.node("N2", 80_000, 0, "bumper")
    d.track("t", "Track", "N1.1", "N2.1")
    booster(d, limit_amps=8)
    d.bus("R1", "main", "12 AWG", [(0, 100), (80_000, 100)], fed={"device": "B1", "along": 0}, first=500, every=1000)
    d.section("s", "Section", "t", 10, "main")
    d.data["connectors"] = DRAWER
    offer = propose_couplings(d.plain())
    assert offer.settled and offer.plugs == 79 and len(offer.chosen) == 79
    after = apply_patch(d.plain(), offer.patch)
    assert len(setting_up(after).steps) == 80
