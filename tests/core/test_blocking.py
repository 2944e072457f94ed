"""Blocks proposed and made: every section by itself in the sensed rail, one channel each, addresses without a hole,
wire home."""

from __future__ import annotations

import math
from functools import lru_cache

import networkx as nx
import numpy as np
import pytest

from jolly_copper.core.circuits.facts import Facts, derive
from jolly_copper.core.circuits.whereabouts import extent_circuits
from jolly_copper.core.drawing.sheet import DrawingError
from jolly_copper.core.findings.check import check
from jolly_copper.core.layout.connections import circuit_under, held, tied_at
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.proposals.blocking.lots import DETECTED
from jolly_copper.core.proposals.blocking.make import make_blocks, propose_blocks, renumber, take_off, with_wishes
from jolly_copper.core.proposals.laying.whole import School, lay_railroad
from jolly_copper.core.rails.nets import Rail
from jolly_copper.core.rails.pieces import opposite
from jolly_copper.demo import gannet_bay, undivided_bay, unwired_bay
from jolly_copper.demo.drafting import Draft
from tests import track_plans

WISHES: dict[str, dict[str, object]] = {
    "usual": {},
    "two sections": {"per_block": 2},
    "three sections, both rails": {"per_block": 3, "gaps": "both rails"},
    "diodes, the other conductor": {"kind": "diode drop", "sensed": "B"},
}


@lru_cache
def blocked(which: str = "usual") -> Layout:
    layout = with_wishes(gannet_bay(), **WISHES[which])
    return apply_patch(layout, make_blocks(layout, propose_blocks(layout)))


@pytest.mark.parametrize("which", WISHES)
def test_no_two_channels_share_metal_in_the_sensed_rail(which: str) -> None:
    layout = blocked(which)
    facts = derive(layout)
    topology, circuits = facts.topology, extent_circuits(layout, facts.rails)
    feeds = {d.output: d for d in layout.devices.values()}
    graph = nx.Graph()
    for one, other, _, _ in topology.nets.bonds:
        graph.add_edge(one, other)
    owner: dict[int, set[str]] = {}
    parts = {rail: n for n, group in enumerate(nx.connected_components(graph)) for rail in group}
    for pieces in facts.rails.pieces.values():
        for piece in pieces:
            circuit = circuits[facts.rails.extent_of[piece]]
            device = feeds.get(circuit or "")
            zone = topology.zones.at(piece)
            if device is None or device.board is None or not zone.votes:
                continue
            a_rail = zone.a_rail(piece)
            sensed = a_rail if layout.detectors[device.board].sensed == "A" else opposite(a_rail)
            rail = Rail(piece, sensed)
            owner.setdefault(parts.get(rail, -hash(rail)), set()).add(str(circuit))
    assert owner and all(len(circuits) == 1 for circuits in owner.values())


@pytest.mark.parametrize("which", WISHES)
def test_all_detected_track_has_a_channel_and_every_feeder_goes_through_it(which: str) -> None:
    layout = blocked(which)
    facts = derive(layout)
    circuits = extent_circuits(layout, facts.rails)
    channels = {d.output: d for d in layout.devices.values() if d.board is not None}
    for number, extent in enumerate(facts.rails.extents):
        inside = sum(p.end - p.start for p in extent if layout.tracks[p.track].use in DETECTED)
        if inside > 60:
            assert circuits[number] in channels, extent
    for feeder in layout.feeders.values():
        circuit = circuits[facts.rails.extent_of[facts.rails.piece_at(feeder.track, feeder.at)]]
        if circuit in channels:
            sensed = layout.detectors[str(channels[circuit].board)].sensed
            other = "B" if sensed == "A" else "A"
            assert circuit_under(layout, feeder, sensed) == circuit, "round the detector"
            assert circuit_under(layout, feeder, other) == channels[circuit].input, "the other wire stays on the bus"
    assert {d.rule for d in check(facts)}.isdisjoint(
        {
            "feeder round its detector",
            "gap in the wrong rail for detection",
            "addresses of detectors",
            "detector boards and districts",
            "feeder swapped",
            "feeder on another circuit",
        }
    )


@pytest.mark.parametrize("which", WISHES)
def test_only_the_sensed_conductor_is_run_home(which: str) -> None:
    layout = blocked(which)
    channels = {d.output: d for d in layout.devices.values() if d.board is not None}
    home = [r for r in layout.runs.values() if r.circuit in channels]
    assert home and all(held(r) == (layout.detectors[str(channels[r.circuit].board)].sensed,) for r in home)
    before = gannet_bay()
    assert {i for i, r in before.runs.items()} <= set(layout.runs), "what was laid stays"


@pytest.mark.parametrize("which", WISHES)
def test_addresses_run_on_from_the_first_without_a_hole(which: str) -> None:
    layout = blocked(which)
    address = layout.brief.detecting.first_address
    for board in sorted(layout.detectors.values(), key=lambda b: b.address):
        assert board.address == address
        address += board.channels
    for board in layout.detectors:
        used = sorted(d.channel for d in layout.devices.values() if d.board == board if d.channel is not None)
        assert used == list(range(1, len(used) + 1))
    channels = sum(b.channels for b in layout.detectors.values())
    used_all = sum(d.board is not None for d in layout.devices.values())
    if which == "usual":
        assert channels - used_all >= layout.brief.detecting.spare * channels - 1, "spare channels kept"


def test_a_board_with_one_input_lies_in_one_district() -> None:
    layout = blocked("diodes, the other conductor")
    for board in layout.detectors:
        assert len({d.input for d in layout.devices.values() if d.board == board}) == 1


@pytest.mark.parametrize("which", WISHES)
def test_a_block_lies_in_one_district(which: str) -> None:
    layout = blocked(which)
    feeds = {d.output: d for d in layout.devices.values()}
    homes: dict[str, set[str | None]] = {}
    for s in layout.sections.values():
        if s.block:
            homes.setdefault(s.block, set()).add(feeds[s.circuit].input)
    assert all(len(h) == 1 for h in homes.values())


def test_blocks_of_the_main_hold_a_train_and_its_stop_where_there_is_room() -> None:
    layout = blocked()
    wanted = max(t.length for t in layout.trains.values()) + layout.brief.signalling.stopping
    longer = propose_blocks(with_wishes(gannet_bay(), shortest_block=6000.0))
    usual = propose_blocks(gannet_bay())
    assert len([x for x in longer.plan.lots if x.use == "main"]) < len([x for x in usual.plan.lots if x.use == "main"])
    parted = [c for c in usual.plan.cuts if "stopping distance" in c.why]
    rails = usual.plan.rails
    beside = {rails.extent_of[rails.piece_at(c.track, c.at + d)] for c in parted for d in (-1.0, 1.0)}
    lots = [x for x in usual.plan.lots if beside & set(x.extents)]
    assert parted and lots and all(x.length >= 0.75 * wanted for x in lots), (
        "a cut makes no block too short for its train"
    )


def test_the_volts_pay_only_for_what_was_put_in_the_wire() -> None:
    """Current transformers take next to nothing; diodes take their drop at every wheel behind them."""
    before, after, diodes = (
        derive(x, "open-day") for x in (gannet_bay(), blocked(), blocked("diodes, the other conductor"))
    )

    def lowest(facts: Facts, track: str) -> float:
        rows = [n for n in range(len(facts.volts)) if facts.track_of(n) == track]
        return float(np.nanmin(facts.volts[rows]))

    assert lowest(after, "down-north-west") > lowest(before, "down-north-west") - 1.0
    assert lowest(diodes, "yard-1") == pytest.approx(lowest(before, "yard-1") - 1.2, abs=0.35)


def test_the_proposal_does_not_change_between_two_askings() -> None:
    one, two = (make_blocks(gannet_bay(), propose_blocks(gannet_bay())) for _ in range(2))
    assert one == two


@pytest.mark.parametrize("seed", range(6))
def test_random_railroads_are_blocked_soundly(seed: int) -> None:
    d = track_plans.routing_yard(seed, 12)
    for node in d.data["nodes"].values():
        if node["kind"] == "turnout":
            node["frog"] = "live"
    d.data["feeders"].clear()
    layout = d.plain()
    try:
        patch = make_blocks(layout, propose_blocks(layout))
    except DrawingError:
        return
    then = apply_patch(layout, patch)
    assert {f.rule for f in check(derive(then))}.isdisjoint(
        {"gap in the wrong rail for detection", "addresses of detectors"}
    )


def test_an_unwired_railroad_is_blocked_first_and_laid_after() -> None:
    layout = unwired_bay()
    then = apply_patch(layout, make_blocks(layout, propose_blocks(layout)))
    assert then.detectors and not then.runs
    laid = apply_patch(then, lay_railroad(then, School()))
    channels = {d.output for d in laid.devices.values() if d.board is not None}
    assert channels <= {r.circuit for r in laid.runs.values()}
    assert all(r.wires == "A" for r in laid.runs.values() if r.circuit in channels)
    assert not [
        f
        for f in check(derive(laid))
        if f.rule in ("feeder round its detector", "piece without feeder", "wire with no source")
    ]


def test_an_undivided_railroad_is_one_district() -> None:
    layout = undivided_bay()
    proposal = propose_blocks(layout)
    assert proposal.boards and len(proposal.plan.lots) > 30


def test_taking_it_off_leaves_the_wire_as_it_was_but_for_new_feeders_and_gaps() -> None:
    layout = blocked()
    off = apply_patch(layout, take_off(layout))
    before = gannet_bay()
    assert (
        not off.detectors
        and not off.blocks
        and set(off.runs) == set(before.runs)
        and set(off.circuits) == set(before.circuits)
    )
    for i, feeder in off.feeders.items():
        assert feeder.other is None
        if i in before.feeders and before.feeders[i].terminal != feeder.terminal:
            assert off.runs[off.terminals[feeder.terminal].run].circuit  # a stray was put right with its section
    assert len([i for i in before.feeders if before.feeders[i].terminal != off.feeders[i].terminal]) <= 1


def test_renumbering_moves_every_board_on() -> None:
    layout = blocked()
    then = apply_patch(layout, renumber(layout, 101))
    assert sorted(b.address for b in then.detectors.values()) == [101 + 8 * k for k in range(len(then.detectors))]
    with pytest.raises(DrawingError, match="already"):
        renumber(then, 101)


def test_refusals_say_why() -> None:
    with pytest.raises(DrawingError, match="already"):
        propose_blocks(blocked())
    with pytest.raises(DrawingError, match="draw track"):
        propose_blocks(Draft("Empty").plain())
    with pytest.raises(DrawingError, match="no detector board"):
        take_off(gannet_bay())


def test_feeders_of_split_wires_are_measured_one_by_one() -> None:
    from jolly_copper.core.circuits.lengths import feeder_length

    layout = blocked()
    f = next(x for x in layout.feeders.values() if x.other is not None)
    a, b = (feeder_length(layout, f, c) for c in ("A", "B"))
    assert tied_at(layout, f, "A") != tied_at(layout, f, "B") and a > 0 and b > 0 and math.isfinite(a + b)
