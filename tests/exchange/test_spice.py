"""The netlist: complete, grounded, with the trains where they were put, and readable by people."""

from __future__ import annotations

import re

import pytest

from jolly_copper.core.circuits.network import assemble
from jolly_copper.core.circuits.solution import solve
from jolly_copper.core.layout.document import Layout
from jolly_copper.exchange.spice import netlist
from tests.layouts import feeder, plain, random_layout


def cards(text: str, letter: str) -> list[list[str]]:
    return [line.split(";")[0].split() for line in text.splitlines() if line.startswith(letter)]


def test_every_part_of_every_live_element_is_one_resistor(demo: Layout) -> None:
    network = assemble(demo)
    live = {int(e) for i in solve(network) for e in i.elements}
    parts = sum(len(network.elements[e].parts) for e in live)
    resistors = cards(netlist(demo), "R")
    assert len(resistors) == parts == len({r[0] for r in resistors}), "each with a name of its own"
    total = sum(float(r[3]) for r in resistors)
    assert total == pytest.approx(sum(network.elements[e].ohms for e in live))
    assert all(float(r[3]) > 0 for r in resistors)


def test_one_source_for_each_booster_and_a_ground_in_each_part(demo: Layout) -> None:
    sources = cards(netlist(demo), "V")
    assert sorted(s[-1] for s in sources) == ["10.4", "14.4", "14.4", "14.4", "3"], (
        "boosters, the supply as measured, a step-down"
    )
    assert all(s[2] == "0" for s in sources), "the parts share nothing but their ground"


def test_trains_become_sinks_and_prints(demo: Layout) -> None:
    trains = [("yard-1", 700.0, 0.5), ("staging-1", 900.0, 0.25)]
    text = netlist(demo, trains, control=True)
    sinks = cards(text, "I")
    assert [float(s[-1]) for s in sinks] == [0.5, 0.25]
    assert len(re.findall(r"^print v\(", text, re.M)) == 2
    assert "train on yard-1 at 700 mm" in text


def test_a_train_on_dead_track_is_left_out(demo: Layout) -> None:
    text = netlist(demo, [("shed-3", 300.0, 0.5)], control=True)
    assert cards(text, "I") == [] and "print v" not in text


def test_dead_copper_is_left_out_so_that_no_node_floats() -> None:
    d = plain()
    feeder(d, "F1", "t", 100, "T1")
    d.gap("t", 2000)
    text = netlist(d.plain(), [("t", 300.0, 0.1)])
    nodes: dict[str, int] = {}
    for card in cards(text, "R") + cards(text, "V") + cards(text, "I"):
        for node in card[1:3]:
            nodes[node] = nodes.get(node, 0) + 1
    graph: dict[str, set[str]] = {n: set() for n in nodes}
    for card in cards(text, "R") + cards(text, "V"):
        graph[card[1]].add(card[2])
        graph[card[2]].add(card[1])
    reached, edge = {"0"}, ["0"]
    while edge:
        for other in graph[edge.pop()] - reached:
            reached.add(other)
            edge.append(other)
    assert reached == set(nodes)


@pytest.mark.parametrize("seed", range(4))
def test_the_same_layout_gives_the_same_netlist(seed: int) -> None:
    assert netlist(random_layout(seed)) == netlist(random_layout(seed))


def test_it_says_what_each_resistor_is(demo: Layout) -> None:
    text = netlist(demo)
    for words in (
        "; wire W1 A",
        "; contact T",
        "; feeder wire F1",
        "; rail yard-1",
        "; joiner",
        "; plug P",
        "; device K1",
    ):
        assert words in text, words
    assert text.rstrip().endswith(".end")
