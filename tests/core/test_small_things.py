"""Small things people ask for: a section turned over by hand, capacitors of DC days, pieces of track, charts."""

from __future__ import annotations

import itertools
from collections.abc import Callable

import networkx as nx
import pytest

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.circuits.lengths import feeder_length, lengths_from_source, run_length
from jolly_copper.core.findings.check import check
from jolly_copper.core.findings.model import Finding
from jolly_copper.core.layout.connections import circuit_under
from jolly_copper.core.layout.control import control_given
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.materials.charts import chart_bus, chart_feeder
from jolly_copper.core.proposals.reversing.accept import make_sections
from jolly_copper.core.proposals.reversing.choose import propose
from jolly_copper.core.quantities import QuantityError, read_length
from jolly_copper.core.rails.pieces import map_rails
from jolly_copper.core.rails.topology import map_topology
from jolly_copper.core.travel.ten_minutes import ten_minutes
from jolly_copper.core.wirebook.commissioning import commissioning
from jolly_copper.core.wirebook.pieces import pieces
from jolly_copper.demo import gannet_bay, millbeck, tinplate_lane
from tests import track_plans
from tests.track_plans import power


def found(layout: Layout, rule: str, scene: str | None = None) -> list[Finding]:
    return [f for f in check(derive(layout, scene)) if f.rule == rule]


def by_hand(layout: Layout) -> Layout:
    patch = [
        {"op": "replace", "path": f"/devices/{i}/kind", "value": "reversing switch"}
        for i, d in layout.devices.items()
        if d.kind == "reverser"
    ]
    return apply_patch(layout, patch)


def test_a_digital_section_turned_over_by_hand_is_told_and_tried_otherwise() -> None:
    bay = gannet_bay()
    assert not found(bay, "section turned over by hand")
    hand = by_hand(bay)
    told = found(hand, "section turned over by hand")
    assert {f.severity for f in told} == {"look"} and len(told) == 2
    assert found(apply_patch(hand, told[0].mends[0].patch), "section turned over by hand") == told[1:]
    proofs = {p.key: p for p in ten_minutes(derive(hand), ()).tried if p.kind == "reverser"}
    assert all(
        "thrown while all of it is inside" in p.words and "turns over" not in p.foretold for p in proofs.values()
    )
    tasks = {t.key: t for ts in commissioning(hand).values() for t in ts}
    assert "crossed the other" in tasks["device:V1"].meter and "wheelset" not in tasks["device:V1"].meter


def test_a_switch_is_never_said_to_answer_too_late() -> None:
    """A figure left over from the unit it was once has no meaning for a lever."""
    slow = [{"op": "replace", "path": "/devices/V1/trip_seconds", "value": 5.0}]
    assert [f.key for f in found(apply_patch(gannet_bay(), slow), "opens too late")] == ["too-late:V1"]
    assert not found(apply_patch(by_hand(gannet_bay()), slow), "opens too late")


@pytest.mark.parametrize(("hand", "kind"), [(False, "reverser"), (True, "reversing switch")])
def test_a_proposed_section_takes_a_switch_where_that_is_wished(hand: bool, kind: str) -> None:
    d = power(track_plans.balloon())
    layout = d.plain()
    topology = map_topology(layout, map_rails(layout))
    (group,) = propose(topology)
    made = apply_patch(layout, make_sections(layout, group.options[0].sections, by_hand=hand))
    (device,) = (x for i, x in made.devices.items() if i not in layout.devices)
    assert device.kind == kind and device.name.startswith(kind.capitalize())
    assert bool(found(made, "section turned over by hand")) == hand
    assert not found(made, "train comes back on itself")


@pytest.mark.parametrize("demo", [gannet_bay, millbeck, tinplate_lane])
def test_a_clip_with_a_capacitor_matters_on_digital_alone(demo: Callable[[], Layout]) -> None:
    layout = demo()
    tree, met = derive(layout).tree, set()
    for i, feeder in layout.feeders.items():
        source = tree.source(circuit_under(layout, feeder, "A"))
        control = control_given(layout, source[1]) if source is not None else None
        if control in met:
            continue
        met.add(control)
        clipped = apply_patch(layout, [{"op": "add", "path": f"/feeders/{i}/capacitor", "value": True}])
        told = found(clipped, "suppression capacitor on digital track")
        assert [f.key for f in told] == ([f"capacitor:{i}"] if control == "dcc" else []), control
        if told:
            mended = apply_patch(clipped, told[0].mends[0].patch)
            assert not found(mended, "suppression capacitor on digital track")
    assert met - {None} == {gannet_bay: {"dcc"}, millbeck: {"dc", "dcc"}, tinplate_lane: {"ac3"}}[demo]


def test_an_engine_with_its_capacitor_is_told_where_it_runs() -> None:
    bay = gannet_bay()
    kind = next(iter(bay.trains.values())).engines[0]
    old = apply_patch(bay, [{"op": "add", "path": f"/locos/{kind}/capacitor", "value": True}])
    (finding,) = found(old, "suppression capacitor on digital track")
    assert finding.severity == "look" and bay.locos[kind].name in finding.title
    kept = apply_patch(old, [{"op": "add", "path": f"/locos/{kind}/runs_on", "value": "direct current"}])
    assert not found(kept, "suppression capacitor on digital track"), "it stays on the DC part"


def test_feeders_apart_are_told_in_pieces_of_sectional_track() -> None:
    bay = gannet_bay()
    (first, *_) = found(bay, "feeder spacing")
    track = first.place.track or ""
    pieces = apply_patch(bay, [{"op": "add", "path": f"/tracks/{track}/joiner_every", "value": 228.6}])
    told = [f.title for f in found(pieces, "feeder spacing") if f.place.track == track]
    assert any("pieces of track" in t for t in told) or all("joiners in a row" in t for t in told)
    assert not any("pieces of track" in f.title for f in found(bay, "feeder spacing")), "flexible track has none"


def test_lengths_are_typed_in_pieces() -> None:
    assert read_length("8 pieces of 9 in") == pytest.approx(8 * 228.6)
    assert read_length("10 pieces of 168 mm") == pytest.approx(1680)
    assert read_length("1 length of 3 ft") == pytest.approx(914.4)
    with pytest.raises(QuantityError):
        read_length("8 pieces of cheese")
    with pytest.raises(QuantityError):
        read_length("pieces of 9 in")


def test_lengths_from_the_source_against_another_library() -> None:
    """The shortest way over a graph of starts, ends and terminals."""
    for layout in (gannet_bay(), millbeck()):
        graph = nx.Graph()
        for i, run in layout.runs.items():
            stops = [0.0, run.fed.along, run_length(run)]
            stops += [t.along for t in layout.terminals.values() if t.run == i]
            for a, b in itertools.pairwise(sorted(stops)):
                graph.add_edge((i, a), (i, b), mm=b - a)
            terminal = layout.terminals.get(run.fed.terminal or "")
            source = (terminal.run, terminal.along) if terminal is not None else run.fed.device
            graph.add_edge(source, (i, run.fed.along), mm=0)
            if run.ends_at_device:
                graph.add_edge((i, run_length(run)), run.ends_at_device, mm=0)
        led = {r.ends_at_device for r in layout.runs.values()}
        sources = {r.fed.device for r in layout.runs.values() if r.fed.device and r.fed.device not in led}
        far = nx.multi_source_dijkstra_path_length(graph, sources, weight="mm")
        for i, mm in lengths_from_source(layout).items():
            ends = max(far[i, 0.0], far[i, run_length(layout.runs[i])])
            assert mm == pytest.approx(ends, abs=0.1), i


def test_charts_go_by_bands_and_never_thinner_for_a_longer_run() -> None:
    """Common practice, no source: 16 AWG short and small, 14 to 30 ft, 12 beyond or for large scales."""
    assert chart_bus("N", 6096, metric=False) == "16 AWG" and chart_bus("HO", 6096, metric=False) == "14 AWG"
    assert chart_bus("HO", 9145, metric=False) == "12 AWG" and chart_bus("O", 1000, metric=False) == "12 AWG"
    for scale in ("Z", "N", "HO", "O"):
        gauges = [int(chart_bus(scale, mm, metric=False).split()[0]) for mm in range(1000, 20000, 500)]
        assert gauges == sorted(gauges, reverse=True)
    assert chart_feeder(304, metric=True) == "0.35 to 0.5 mm²" and chart_feeder(306, metric=True) == "0.75 mm²"


def test_a_bus_on_top_of_the_board_has_feeders_without_the_way_down() -> None:
    bay = gannet_bay()
    top = apply_patch(bay, [{"op": "add", "path": "/runs/W1/lies", "value": "on top"}])
    down = bay.brief.rules.drop_below_rail
    for i, feeder in bay.feeders.items():
        mine = bay.terminals[feeder.terminal].run == "W1" and not feeder.tape
        before, after = feeder_length(bay, feeder), feeder_length(top, top.feeders[i])
        assert before - after == pytest.approx(down if mine else 0.0)
    told = [p.notes for p in pieces(top) if p.key.startswith("run:W1/")]
    assert told and all("on top of the board" in n[0] for n in told)
    assert not any("on top" in note for p in pieces(bay) for note in p.notes)
