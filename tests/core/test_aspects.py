"""What signals show: the progression behind a train, diverging ways, rings, blind track, and reasons in words.

What each aspect means, and which follows which, is common practice, no source.
"""

from __future__ import annotations

import itertools
from typing import Any

import networkx as nx
import pytest

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.layout.signalling import Signal
from jolly_copper.core.signals.aspects import Signalling, lies_of, signalling
from jolly_copper.core.signals.heads import ASPECTS, can_show, lamps_of, nearest_shown, shows
from jolly_copper.demo import signalled_bay
from jolly_copper.demo.drafting import Draft
from tests.signalled import double, junction, line, signal


def ask(d: Draft, *occupied: str, **lies: str) -> dict[str, str]:
    known = signalling(d.plain())
    numbers = {s.name: s.number for s in known.sensed}
    shown = known.show({**lies_of(known.layout), **lies}, {numbers[o] for o in occupied})
    return {i: s.aspect for i, s in shown.items()}


def test_behind_a_train_comes_stop_then_approach_then_clear() -> None:
    assert ask(line(6), "B4") == {"S1": "clear", "S2": "clear", "S3": "approach", "S4": "stop", "S5": "approach"}
    assert ask(line(6, school="two aspects"), "B4") == {
        "S1": "clear",
        "S2": "clear",
        "S3": "clear",
        "S4": "stop",
        "S5": "clear",
    }


def test_the_last_signal_before_a_bumper_never_shows_clear() -> None:
    assert ask(line(3))["S2"] == "approach"


def test_a_diverging_way_is_told_by_the_lower_head() -> None:
    d = junction()
    assert ask(d) == {"SA": "approach", "SM": "approach", "SB": "stop"} or ask(d)["SA"] == "approach"
    thrown = ask(d, T="diverging")
    assert thrown["SA"] == "diverging approach" and thrown["SM"] == "stop"
    signal(d, "SX", "b", 2500, "b")
    d.gap("b", 2560)
    known = signalling(d.plain())
    shown = known.show({"T": "diverging"}, set())["SA"]
    assert shown.aspect == "diverging approach" and shown.lights == ("red", "yellow")


def test_a_turnout_against_the_way_is_named_as_the_reason() -> None:
    known = signalling(junction().plain())
    reasons = known.show({"T": "through"}, set())["SB"].reasons
    assert reasons == ("T lies through: against this way.",)


def test_occupied_sections_are_named_as_the_reason() -> None:
    known = signalling(junction().plain())
    numbers = {s.name: s.number for s in known.sensed}
    assert known.show({"T": "through"}, {numbers["M"], numbers["J"]})["SA"].reasons == ("J, M are occupied.",)


def test_track_that_nobody_watches_is_restricting_or_stop_as_the_club_wishes() -> None:
    d = junction()
    d.data["sections"]["M"]["circuit"] = "main"
    assert ask(d)["SA"] == "restricting"
    d.data["brief"]["signalling"]["restricting"] = False
    assert ask(d)["SA"] == "stop"


def test_of_two_opposed_trains_only_the_one_that_waits_is_let_go() -> None:
    d = junction()
    both = ask(d, "M", T="through")
    assert both["SA"] == "stop", "its way is occupied"
    assert ask(d, "A", T="through")["SA"] != "stop" and ask(d, "A", T="through")["SM"] == "stop"
    assert ask(d, T="through")["SM"] == "stop" or ask(d, T="through")["SA"] == "stop", "never both"


def test_over_a_crossing_one_way_at_a_time() -> None:
    shown = ask(double())
    assert sum(a != "stop" for a in shown.values()) == 1
    waiting = ask(double(), "N")
    assert waiting["Sn"] != "stop" and sum(a != "stop" for a in waiting.values()) == 1


def ring(blocks: int) -> Draft:
    """A ring of two tracks with signals one way round."""
    d = Draft("Ring")
    d.data["circuits"]["main"] = {"name": "Main"}
    d.data["devices"]["B1"] = {"kind": "booster", "name": "Booster", "at": {"x": 0, "y": 0}, "output": "main"}
    d.node("J1", 0, 0)
    d.node("J2", 4000, 0)
    d.track("north", "North", "J1.2", "J2.1", (2000, -900))
    d.track("south", "South", "J2.2", "J1.1", (2000, 900))
    from tests.signalled import detect

    for n, track in enumerate(("north", "south")):
        length = d.length(track)
        for k in range(blocks):
            at = length * (k + 0.5) / blocks
            d.gap(track, at, rails="left")
            signal(d, f"S{n * blocks + k + 1}", track, at - 60, "b")
            detect(d, f"R{n}{k}", track, at + 200, n * blocks + k + 1)
    return d


def test_an_empty_ring_is_clear_all_round_whichever_is_asked_first() -> None:
    assert set(ask(ring(2)).values()) == {"clear"}
    shown = ask(ring(3), "R10")
    assert sorted(shown.values()) == ["approach", "clear", "clear", "clear", "clear", "stop"]


@pytest.mark.parametrize("lit", [False, True])
def test_lamps_lit_on_approach_burn_only_near_a_train(lit: bool) -> None:
    d = line(4)
    d.data["brief"]["signalling"]["approach_lit"] = lit
    known = signalling(d.plain())
    numbers = {s.name: s.number for s in known.sensed}
    shown = known.show({}, {numbers["B1"]})
    assert shown["S2"].dark is False and shown["S3"].dark is lit


@pytest.mark.parametrize("kind", ["colour light", "searchlight", "semaphore", "dwarf"])
@pytest.mark.parametrize("aspects", [2, 3])
@pytest.mark.parametrize("heads", [1, 2])
def test_every_head_tells_its_aspects_apart_and_never_flatters(kind: Any, aspects: Any, heads: int) -> None:
    s = Signal(name="S", track="t", at=0, towards="b", kind=kind, aspects=aspects, heads=heads)
    able = can_show(s)
    lights = {a: shows(s, a) for a in able}
    assert len(set(lights.values())) == len(able), "two aspects look the same"
    assert all(len(x) == heads for x in lights.values())
    for wanted in ASPECTS:
        shown = nearest_shown(s, wanted)
        assert shown in able
        if wanted == "stop":
            assert shown == "stop"
    if kind != "semaphore":
        assert len(lamps_of(s)) >= heads


def drivable(layout: Layout, lies: dict[str, str], signal_id: str) -> set[str]:
    """Tracks a train that passes a signal can reach, by a graph of directed track ends that networkx walks."""
    graph = nx.DiGraph()
    for i, t in layout.tracks.items():
        for end, port, other in (("b", t.b, "a"), ("a", t.a, "b")):
            graph.add_edge((i, other), (i, end))
            node = layout.nodes[port.node]
            if node.kind in ("bumper", "turntable"):
                continue
            for k, u in layout.tracks.items():
                for far, mate in (("a", u.a), ("b", u.b)):
                    if mate.node != port.node or (k, far) == (i, end):
                        continue
                    ports = {port.port, mate.port}
                    lie = lies.get(port.node)
                    met = node.kind == "joint" or ports == {"points", lie}
                    if met:
                        graph.add_edge((i, end), (k, far))
    s = layout.signals[signal_id]
    return {track for track, _ in nx.descendants(graph, (s.track, "a" if s.towards == "b" else "b"))}


def test_routes_lead_only_where_a_graph_says_a_train_can_go() -> None:
    layout = signalled_bay()
    known = signalling(layout)
    for i, routes in itertools.islice(known.routes.items(), 0, None, 3):
        for r in routes:
            reach = drivable(layout, {**lies_of(layout), **r.settings}, i)
            assert {leg.track for leg in r.legs} <= reach | {layout.signals[i].track}


def test_the_signalled_demo_is_clear_along_its_down_main() -> None:
    known = signalling(signalled_bay())
    shown = known.show(lies_of(known.layout), set())
    down = [s for s in known.layout.signals.values() if s.track.startswith("down")]
    assert len(down) == 10 and all(s.towards == "b" for s in down), "trains run one way there"
    assert {shown[i].aspect for i, s in known.layout.signals.items() if s.track.startswith("down")} == {"clear"}


def test_no_signal_is_ever_less_restrictive_for_more_occupied_track() -> None:
    known: Signalling = signalling(line(6).plain())
    order = {a: k for k, a in enumerate(ASPECTS)}
    for size in range(5):
        for lit in itertools.combinations(range(6), size):
            one = known.show({}, set(lit))
            for more in range(6):
                two = known.show({}, {*lit, more})
                assert all(order[two[i].aspect] <= order[one[i].aspect] for i in one)


def test_a_signal_moved_beyond_its_gap_protects_the_section_it_stands_in() -> None:
    d = line(3)
    moved = apply_patch(d.plain(), [{"op": "replace", "path": "/signals/S1/at", "value": 2100}])
    known = signalling(moved)
    assert (
        known.sensed[known.routes["S1"][0].sections[0]].name == "B1"
        and known.approach["S1"] == known.routes["S1"][0].sections[0]
    )
