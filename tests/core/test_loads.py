"""Who may stand where, how near two trains may come, and who hurts a point most."""

from __future__ import annotations

import itertools
import math

import networkx as nx
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jolly_copper.core.circuits.facts import Facts, derive
from jolly_copper.core.circuits.loads import Load, Roaming, Standing, load_of, too_near, train_amps, worst_placement
from jolly_copper.core.circuits.network import assemble
from jolly_copper.core.circuits.points import sample
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.reading import LayoutError, read_layout
from tests.layouts import feeder, plain, random_layout, without


def test_a_train_draws_its_engines_and_its_lit_cars(demo: Layout) -> None:
    """By hand: one express at 0.5 A running or 0.15 A idling, eight lit cars at 30 mA."""
    coast = demo.trains["coast"]
    assert train_amps(demo, coast) == pytest.approx(0.5 + 8 * 0.03)
    assert train_amps(demo, coast, running=False) == pytest.approx(0.15 + 8 * 0.03)
    assert train_amps(demo, demo.trains["ore"]) == pytest.approx(0.9), "two engines"


def test_trains_may_stand_in_their_circuits_and_what_hangs_below(demo: Layout, demo_facts: Facts) -> None:
    load = load_of(demo, demo.scenes["open-day"], demo_facts.network, demo_facts.points, list(demo_facts.circuit))
    where = {r.train: {c for c, ok in zip(demo_facts.circuit, r.allowed, strict=True) if ok} for r in load.roaming}
    assert where["uplands"] == {"quarry", "wye"}, "the reverser's output hangs below the quarry's breaker"
    assert where["ore"] == {"west", "east"} and where["quaygoat"] == {"quays"}
    assert [r.amps for r in load.roaming] == sorted((r.amps for r in load.roaming), reverse=True)
    assert not next(r for r in load.roaming if r.train == "boat").may_test, "an idling train is nobody's test train"


def test_a_parked_train_stands_where_it_was_put(demo: Layout) -> None:
    facts = derive(demo, "work-night")
    (parked,) = [s for p in facts.parts for s in p.load.standing]
    (part,) = [p for p in facts.parts if p.load.standing]
    row = int(part.rows[parked.point])
    assert facts.track_of(row) == "staging-1" and abs(facts.points.at[row] - 2000) < 150
    assert parked.amps == pytest.approx(0.15 + 7 * 0.03)


def test_a_parked_train_lowers_the_volts_behind_its_own_feeder_only(demo: Layout) -> None:
    scene = demo.scenes["work-night"].model_dump()
    bare = {"name": "Nobody parked", "placements": [p for p in scene["placements"] if p["track"] is None]}
    layout = read_layout(without(demo, scenes={"with": scene, "bare": bare}))
    with_train, without_train = derive(layout, "with"), derive(layout, "bare")
    lower = without_train.volts - with_train.volts
    circuits = np.array([c or "" for c in with_train.circuit])
    assert np.nanmin(lower[np.isin(circuits, ["loop", "staging"])]) > 0
    assert np.nanmax(np.abs(lower[np.isin(circuits, ["west", "east", "yard"])])) < 1e-12


@pytest.mark.parametrize("spacing", [0.0, 300.0, 1200.0])
@pytest.mark.parametrize("seed", [1, 2])
def test_nearness_is_distance_along_the_track(seed: int, spacing: float) -> None:
    """Against networkx: Dijkstra over the same points and joints."""
    network = assemble(random_layout(seed))
    points = sample(network)
    near = too_near(network, points, spacing)
    assert near.diagonal().all() and (near == near.T).all()
    graph = nx.Graph()
    graph.add_nodes_from(range(len(points)))
    tracks = [network.spans[s].track for s in points.span]
    ends: dict[str, list[int]] = {}
    for track in set(tracks):
        rows = [k for k, t in enumerate(tracks) if t == track]
        for a, b in itertools.pairwise(rows):
            graph.add_edge(a, b, weight=max(points.at[b] - points.at[a], 0.0))
        for port, row in ((network.layout.tracks[track].a, rows[0]), (network.layout.tracks[track].b, rows[-1])):
            ends.setdefault(port.node, []).append(row)
    for rows in ends.values():
        for a, b in itertools.combinations(rows, 2):
            graph.add_edge(a, b, weight=0.0)
    for start in range(0, len(points), 17):
        far = nx.single_source_dijkstra_path_length(graph, start)
        for other in range(len(points)):
            if abs(far.get(other, np.inf) - spacing) > 0.01:
                assert near[start, other] == (far.get(other, np.inf) < spacing or other == start)


matrix = np.array([[1.0, 0.6, 0.5, 0.1], [0.6, 0.9, 0.5, 0.1], [0.5, 0.5, 0.8, 0.1], [0.1, 0.1, 0.1, 0.4]])
EVERYWHERE = np.ones(4, dtype=bool)


def place(load: Load, near: np.ndarray | None = None, test: float = 0.5) -> np.ndarray:  # type: ignore[type-arg]
    near = np.eye(4, dtype=bool) if near is None else near
    return worst_placement(load, matrix, matrix.diagonal(), np.arange(4), near, test).loss


def test_placement_by_hand() -> None:
    only = Load((Roaming("a", 1.0, EVERYWHERE, True),), (), 0)
    assert place(only) == pytest.approx([1.0, 0.9, 0.8, 0.4]), "alone, each point has just itself"
    two = Load((Roaming("a", 1.0, EVERYWHERE, True), Roaming("b", 0.5, EVERYWHERE, True)), (), 0)
    assert place(two) == pytest.approx([1.0 + 0.3, 0.9 + 0.3, 0.8 + 0.25, 0.4 + 0.05])


def test_where_nobody_runs_the_houses_test_train_stands() -> None:
    somewhere = np.array([True, True, False, False])
    load = Load((Roaming("a", 1.0, somewhere, True), Roaming("b", 0.2, EVERYWHERE, False)), (), 0)
    loss = place(load, test=0.3)
    assert loss[3] == pytest.approx(0.3 * 0.4 + 1.0 * 0.1 + 0.2 * 0.1)
    assert loss[0] == pytest.approx(1.0 * 1.0 + 0.2 * 0.6), "the idling one stands next to it"


def test_trains_keep_their_distance_and_one_that_does_not_fit_stays_away() -> None:
    close = np.ones((4, 4), dtype=bool)
    two = Load((Roaming("a", 1.0, EVERYWHERE, True), Roaming("b", 0.5, EVERYWHERE, True)), (), 1)
    assert place(two, close) == pytest.approx([1.0, 0.9, 0.8, 0.4]), "no room for the second anywhere"


def test_a_standing_train_is_counted_at_every_point() -> None:
    load = Load((), (Standing("p", 2.0, 3),), 0)
    assert place(load, test=1.0) == pytest.approx([1.0 + 0.2, 0.9 + 0.2, 0.8 + 0.2, 0.4 + 0.8])


@settings(max_examples=40, deadline=None)
@given(st.lists(st.floats(0.05, 2), min_size=1, max_size=5), st.integers(0, 1000))
def test_more_trains_never_raise_the_volts(amps: list[float], seed: int) -> None:
    rng = np.random.default_rng(seed)
    a = rng.random((4, 4))
    z = a @ a.T
    trains = tuple(Roaming(f"t{k}", x, EVERYWHERE, True) for k, x in enumerate(sorted(amps, reverse=True)))
    for count in range(1, len(trains)):
        fewer = worst_placement(Load(trains[:count], (), 0), z, z.diagonal(), np.arange(4), np.eye(4, dtype=bool), 0.5)
        more = worst_placement(
            Load(trains[: count + 1], (), 0), z, z.diagonal(), np.arange(4), np.eye(4, dtype=bool), 0.5
        )
        assert (more.loss >= fewer.loss - 1e-12).all()


def test_scene_currents_in_the_bus_by_hand() -> None:
    """Every ampere passes the bus: the most it carries is the sum of all trains."""
    d = plain()
    feeder(d, "F1", "t", 1000, "T2")
    d.data["locos"]["e"] = {"name": "E", "idle": 0.1, "running": 0.7, "stall": 2}
    for name in ("one", "two"):
        d.data["trains"][name] = {"name": name, "engines": ["e"], "length": 200}
    d.data["scenes"]["s"] = {"name": "S", "placements": [{"train": t, "circuits": ["main"]} for t in ("one", "two")]}
    facts = derive(d.plain(), "s")
    (bus,) = {round(w.scene_amps, 9) for w in facts.wires if w.element.kind == "run"}
    assert bus == pytest.approx(1.4)
    held = {round(w.held_amps, 9) for w in facts.wires if w.element.kind == "run"}
    assert held == {5.0}, "all of a short that stays just under the trip"


def test_a_scene_that_names_nothing_is_refused(demo: Layout) -> None:
    scene = {"name": "x", "placements": [{"train": "ore", "circuits": ["west"], "track": "yard-1"}]}
    with pytest.raises(LayoutError):
        read_layout(without(demo, scenes={"x": scene}))


@pytest.mark.parametrize("draws", ["current", "power", "resistance"])
def test_loads_on_track_draw_as_their_volts_sag(draws: str) -> None:
    """By hand: 12 V behind R and a load told as I at 12 V. Resistance: U = 12·r/(r + R), r = 12/I. Power: P = 12·I,
    U² − 12·U + P·R = 0, the larger root. Elementary circuit theory."""
    d = plain()
    d.data["devices"]["B1"].update(volts=12, ohms=1.0)
    d.data["loads"]["lamp"] = {
        "kind": "lamp",
        "name": "Lamp",
        "circuit": "main",
        "terminal": "T1",
        "at_once": 1,
        "working_amps": 1.5,
        "draws": draws,
    }
    feeder(d, "F1", "t", 0, "T1", tape=1)
    facts = derive(d.plain())
    volts = facts.exact_volts[int(np.argmin(np.abs(facts.points.at)))] + facts.layout.brief.rules.test_train * 1.0
    wanted = {
        "current": 12 - 1.5,
        "resistance": 12 * 8 / (8 + 1.0),
        "power": (12 + math.sqrt(144 - 4 * 18 * 1.0)) / 2,
    }[draws]
    assert volts == pytest.approx(wanted, abs=0.03)
