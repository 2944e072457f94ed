"""Trains that wait for each other for ever: found, proved away, and held against an independent search."""

from __future__ import annotations

import itertools
import random
from dataclasses import replace
from typing import Any, get_args

import networkx as nx
import pytest
from hypothesis import given
from hypothesis import strategies as st

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.layout.plans import RunningPlan, SingleLines
from jolly_copper.core.rehearsal.evening import Evening
from jolly_copper.core.rehearsal.ground import Place
from jolly_copper.core.rehearsal.itinerary import Itinerary, Standing, itineraries
from jolly_copper.core.rehearsal.knots import Yard, apart, search, starving
from jolly_copper.core.rehearsal.other_ways import other_ways
from jolly_copper.core.rehearsal.proof import prove
from jolly_copper.core.rehearsal.run import rehearse, set_out
from jolly_copper.core.rehearsal.safe import safe_states
from jolly_copper.core.rehearsal.waits import ring, stuck
from jolly_copper.core.signals.single_lines import find_lines
from jolly_copper.demo import signalled_bay
from jolly_copper.demo.drafting import Draft
from tests.long import either
from tests.running import entries, goes, passing, plan, run, stock

NOWHERE = Place("t", 0.0, "b")


def train(key: str, *needs: int, again: int | None = 0) -> Itinerary:
    """A train that goes from one bit to the next: at each standing it holds what it needed to come there."""
    holds = [needs[-1] if again is not None else 0, *needs[:-1]] if again is not None else [0, *needs]
    standings = [Standing(NOWHERE, None, h, None, needs[n] if n < len(needs) else 0) for n, h in enumerate(holds)]
    return Itinerary(key, key, tuple(standings), again)


def brute(yard: Yard) -> tuple[bool, bool, int]:
    """Whether a knot can be come to, whether every train can move again from every state, and how many states there
    are: by a graph of all states."""
    graph = nx.MultiDiGraph()
    edge = [yard.start()]
    graph.add_node(yard.start())
    seen = {yard.start()}
    while edge:
        state = edge.pop()
        for n, t in enumerate(yard.trains):
            onward = t.after(state[n])
            need = t.standings[state[n]].needs
            free = all(not need & o.standings[state[k]].holds for k, o in enumerate(yard.trains) if k != n)
            if onward is not None and free:
                then = (*state[:n], onward, *state[n + 1 :])
                graph.add_edge(state, then, train=n)
                if then not in seen:
                    seen.add(then)
                    edge.append(then)
    everybody = True
    for n in range(len(yard.trains)):
        moves = {a for a, _, d in graph.edges(data=True) if d["train"] == n}
        good = set(moves)
        for m in moves:
            good |= nx.ancestors(graph, m)
        everybody &= good == set(graph.nodes)
    dead = any(graph.out_degree(s) == 0 for s in graph.nodes)
    return dead, everybody, graph.number_of_nodes()


def random_yard(rng: random.Random) -> Yard:
    """Two or three trains on rings of a few of seven places; no two begin on one."""
    count = rng.randint(2, 3)
    while True:
        trains = []
        for n in range(count):
            ways = [1 << p for p in rng.sample(range(7), rng.randint(2, 4))]
            trains.append(train("abc"[n], *ways))
        starts = [t.standings[0].holds for t in trains]
        if all(not a & b for a, b in itertools.combinations(starts, 2)):
            return Yard(tuple(trains))


@pytest.mark.parametrize("seed", range(120))
def test_the_search_says_what_a_graph_of_all_states_says(seed: int) -> None:
    """Independent state search by networkx."""
    yard = random_yard(random.Random(seed))
    dead, everybody, states = brute(yard)
    answer = search(yard)
    if everybody:
        assert answer.verdict == "free" and answer.states == states
    else:
        assert answer.verdict in ("knot", "starves")
    if dead:
        assert answer.verdict == "knot"
    if answer.verdict == "knot":
        state = yard.start()
        for n in answer.moves:
            state = dict(yard.moves(state))[n]
        assert state == answer.end and answer.knot
        assert all(n not in dict(yard.moves(state)) for n in answer.knot)


@pytest.mark.parametrize("seed", range(40))
def test_safe_states_are_those_from_which_everybody_can_go_on_for_ever(seed: int) -> None:
    yard = random_yard(random.Random(seed))
    safe, tried = safe_states(yard)
    assert safe is not None and tried == brute(yard)[2]
    for state in safe:
        # Some move leads to a safe state again.
        assert any(then in safe for _, then in yard.moves(state))
    for state in safe:
        # And staying among safe states, every train moves some day.
        reached, edge, movers = {state}, [state], set()
        while edge:
            for n, then in yard.moves(edge.pop()):
                if then in safe:
                    movers.add(n)
                    if then not in reached:
                        reached.add(then)
                        edge.append(then)
        assert movers == set(range(len(yard.trains)))
        break


def test_two_trains_that_swap_places_are_a_knot_and_three_in_a_ring() -> None:
    assert search(Yard((train("a", 2, 1), train("b", 1, 2)))).verdict == "knot"
    assert search(Yard((train("a", 2, 1), train("b", 4, 2), train("c", 1, 4)))).verdict == "knot"
    assert search(Yard((train("a", 2, 1), train("b", 8, 4)))).verdict == "free"


def test_a_train_that_others_keep_from_two_places_it_needs_at_once_starves() -> None:
    """It needs both places together; two neighbours take one each in turn, so that one of the two is always taken."""
    a = train("a", 1 | 2, 16)
    b, c = train("b", 1, 4), train("c", 2, 8)
    answer = search(Yard((a, b, c)))
    assert answer.verdict in ("free", "starves")
    only = Yard((train("a", 1, 16), Itinerary("b", "b", (Standing(NOWHERE, None, 1, None, 1),), 0)))
    starved = search(only)
    assert starved.verdict == "starves" and starved.knot == (0,)
    assert starving(only, [only.start()]) == (0,)


def test_a_search_that_hits_its_cap_says_not_settled() -> None:
    yard = Yard(tuple(train(k, *(1 << (4 * n + p) for p in range(4))) for n, k in enumerate("abcde")))
    assert search(yard, most=50).verdict == "not settled"
    assert safe_states(yard, most=50)[0] is None
    assert search(yard).states == 4**5


def test_trains_that_share_nothing_are_searched_apart() -> None:
    trains = (train("a", 1, 2), train("b", 2, 4), train("c", 16, 32), train("d", 64, 128))
    assert apart(trains) == [[0, 1], [2], [3]]


names = st.sampled_from("abcdef")


@given(
    st.dictionaries(names, st.lists(st.lists(names, max_size=3), min_size=1, max_size=3), max_size=6), st.sets(names)
)
def test_who_is_stuck_is_the_greatest_set_that_waits_for_itself(
    options: dict[str, list[list[str]]], still: set[str]
) -> None:
    still -= set(options)
    found = stuck(options, frozenset(still))
    best: set[str] = set()
    for size in range(len(options) + 1):
        for some in itertools.combinations(options, size):
            among = set(some) | still
            if all(all(any(w in among for w in way) for way in options[t]) for t in some):
                best |= set(some)
    assert found == best


def test_a_ring_is_named_round() -> None:
    assert ring({"a": ["b"], "b": ["c"], "c": ["a"]}, frozenset("abc")) == ["a", "b", "c"]
    assert ring({"a": ["b"], "b": ["c"], "c": ["b"]}, frozenset("abc")) == ["b", "c"]


def test_a_single_line_ends_where_the_two_ways_part() -> None:
    east = [(0, "b"), (1, "b"), (2, "b"), (4, "b")]
    west = [(4, "a"), (2, "a"), (3, "a"), (0, "a")]
    lines = find_lines({"east": [east], "west": [west]})
    assert sorted(sorted(x.first) for x in lines) == [[0], [2, 4]]
    both = next(x for x in lines if 2 in x.first)
    assert both.ways([(2, "b"), (4, "b")]) != both.ways([(4, "a")]) and len(both.ways([(2, "a"), (2, "b")])) == 2
    assert not find_lines({"there and back": [[*east, (4, "a"), (2, "a")]]}), "one train meets nobody"


def on_the_track(d: Draft, p: RunningPlan) -> Evening:
    layout = d.plain()
    return set_out(layout, derive(layout), p)


def meeting(via: tuple[str, str], **more: Any) -> RunningPlan:
    """Two trains that go to and fro over the passing place, each by a track of its own there."""
    there = {"track": "east", "at": 2500, "then": "turn", "via": [via[0]]}
    back = {"track": "west", "at": 500, "facing": "a", "then": "turn", "via": [via[0]]}
    come = {"track": "west", "at": 500, "then": "turn", "via": [via[1]]}
    home = {"track": "east", "at": 2500, "facing": "b", "then": "turn", "via": [via[1]]}
    return plan(
        goes("one", "west", 1500, there, back), goes("two", "east", 1500, come, home, towards="a"), round=300, **more
    )


def test_a_plan_that_can_knot_is_shown_the_way_into_it() -> None:
    evening = on_the_track(stock(passing(), "one", "two"), meeting(("main", "main")))
    proof = prove(evening, "signals alone")
    assert proof.verdict == "knot" and set(proof.trains) == {"one", "two"}
    assert proof.story and "One" in proof.words and "wait for ever" in proof.words
    assert prove(evening, "safe moves").verdict == "knot", "no order at all leads out of one track for two trains"


def test_another_track_for_one_train_frees_it() -> None:
    evening = on_the_track(stock(passing(), "one", "two"), meeting(("main", "main")))
    proofs = [prove(evening, rule) for rule in get_args(SingleLines)]
    found = list(other_ways(evening, proofs))
    assert {w.via for w in found} == {"siding"} and all(w.proof.verdict == "free" for w in found)
    assert all(w.words.startswith(("Send One by Siding.", "Send Two by Siding.")) for w in found)
    assert not list(other_ways(evening, [*proofs[:2], replace(proofs[2], verdict="free")])), "a rule does it already"


def test_a_train_with_more_places_than_are_searched_is_not_settled(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("jolly_copper.core.rehearsal.itinerary.MOST_STANDINGS", 3)
    d = stock(passing(), "one", "two")
    p = meeting(("main", "siding"), minutes=5)
    evening = on_the_track(d, p)
    for rule in get_args(SingleLines):
        proof = prove(evening, rule)
        assert proof.verdict == "not settled" and "places on its way" in proof.words
    for rule in ("direction", "safe moves"):  # and it runs as well as it can
        lines, _ = run(d, p.model_copy(update={"single_lines": rule}))
        assert lines


RULES: tuple[SingleLines, ...] = ("direction", "safe moves")


@pytest.mark.parametrize("rule", RULES)
def test_a_rule_that_is_proved_holds_for_twenty_evenings_with_random_delays(rule: SingleLines) -> None:
    bay = signalled_bay()
    p = bay.plans["open-day"].model_copy(update={"single_lines": rule, "minutes": 40.0, "faults": []})
    facts = derive(bay, p.scene)
    ready = rehearse(facts.layout, facts, p)
    next(ready.lines)
    assert prove(ready.evening, rule).verdict == "free"
    for seed in range(either(2, 20)):
        rng = random.Random(seed)
        faults = [
            {
                "kind": "derailment",
                "seconds": rng.uniform(30, 2000),
                "train": rng.choice(["works", "uplands", "local"]),
                "lasts": rng.uniform(20, 300),
            }
            for _ in range(4)
        ]
        late = RunningPlan.model_validate({**p.model_dump(mode="json"), "faults": faults})
        found = rehearse(facts.layout, facts, late, seed, every=20.0, quiet=True)
        assert not entries(found.lines, "knot")


def test_the_demo_evening_knots_by_signals_alone_and_the_search_says_so_before() -> None:
    bay = signalled_bay()
    facts = derive(bay, "open-day")
    ready = rehearse(facts.layout, facts, bay.plans["open-day"])
    next(ready.lines)
    proof = prove(ready.evening, "signals alone")
    assert proof.verdict == "knot" and set(proof.trains) == {"uplands", "works"}
    show = rehearse(facts.layout, facts, bay.plans["round"])
    next(show.lines)
    assert prove(show.evening, "signals alone").verdict == "free"
    assert all(t.again is not None for t in itineraries(show.evening))


def test_free_trains_are_never_proved() -> None:
    d = stock(passing(), "one")
    evening = on_the_track(d, plan({"train": "one", "track": "west", "at": 1500}))
    assert prove(evening, "direction").verdict == "not settled"


def test_politeness_gives_way_where_it_would_close_a_ring() -> None:
    d = stock(passing(), "one", "two")
    lines, _ = run(d, meeting(("main", "siding"), minutes=30, single_lines="direction"))
    came = entries(lines, "arrives")
    assert {e.train for e in came} == {"one", "two"} and not entries(lines, "knot")
    assert len(came) > 10
