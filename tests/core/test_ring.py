"""A bus closed into a ring: the circuit of it against a simulator, volts against another solver, and its change."""

from __future__ import annotations

import re
import subprocess

import networkx as nx
import numpy as np
import pytest

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.circuits.lengths import run_length
from jolly_copper.core.circuits.waveform import EDGE_S, LOAD_OHMS, SECTIONS, Line, edges_at_end
from jolly_copper.core.findings.check import check
from jolly_copper.core.layout.geometry import crossings
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.proposals.ring import NoRing, as_ring, close_ring
from jolly_copper.demo import gannet_bay, harbour_arm, millbeck
from tests.core.test_solution import needs_ngspice

OUT = Line(9, 16.6e-3, 0.48e-6, 80e-12, 0.05, 14.4)
HOME = 7.0


def spice_ring() -> np.ndarray:
    """Both halves of the ring as ladders of their own, meeting opposite the source, over 20 µs in steps of 10 ns."""
    half = (OUT.length + HOME) / 2
    part = half / SECTIONS
    cards = ["* ring", f"V1 s 0 PWL(0 {-OUT.volts} {EDGE_S} {OUT.volts} 1 {OUT.volts})", f"Rs s n0 {OUT.source}"]
    for way in "ab":
        for k in range(SECTIONS):
            a = "n0" if k == 0 else f"{way}{k}"
            b = "end" if k == SECTIONS - 1 else f"{way}{k + 1}"
            cards += [
                f"R{way}{k} {a} m{way}{k} {OUT.ohms * part}",
                f"L{way}{k} m{way}{k} {b} {OUT.henries * part}",
                f"C{way}{k} {b} 0 {OUT.farads * part}",
            ]
    cards += [f"Ce end 0 {OUT.end_farads}", f"Rl end 0 {LOAD_OHMS}", ".control", "option reltol=1e-5"]
    cards += ["tran 10n 20u 0 10n", "linearize", "print v(end)", ".endc", ".end"]
    text = "\n".join(cards) + "\n"
    ran = subprocess.run(["ngspice", "-b"], input=text, capture_output=True, text=True, timeout=120, check=False)
    return np.array([float(v) for v in re.findall(r"^\d+\t(\S+)\t$", ran.stdout, re.M)])


@needs_ngspice
def test_the_place_opposite_the_source_agrees_with_a_circuit_simulator() -> None:
    """Two lines that meet at one end: within 0.2 V of 28.8 V."""
    volts = spice_ring()
    assert len(volts) > 1000
    (mine,) = edges_at_end(as_ring(OUT, HOME), seconds=20e-6)
    assert np.abs(np.interp(np.arange(len(volts)) * 10e-9, mine.seconds, mine.volts) - volts).max() < 0.2


def test_what_branches_off_is_as_far_by_the_shorter_way() -> None:
    folded = as_ring(Line(9, 1, 1, 1, 1, 14.4, branches=((1.0, 2e-9), (8.5, 1e-9))), 7)
    assert folded.branches == ((1.0, 2e-9), (7.5, 1e-9)) and folded.length == 8


def test_a_ring_wins_volts_and_changes_nothing_else() -> None:
    bay = gannet_bay()
    facts = derive(bay, "open-day")
    ring = close_ring(facts, "W1")
    after = derive(apply_patch(bay, ring.patch), "open-day")
    assert ring.lowest[1] > ring.lowest[0] + 0.5 and ring.short[1] >= ring.short[0]
    (label,) = set(after.layout.runs) - set(bay.runs)
    run = after.layout.runs[label]
    assert (run.circuit, run.gauge, run.make) == (bay.runs["W1"].circuit, bay.runs["W1"].gauge, bay.runs["W1"].make)
    ends = {after.layout.terminals[t].run for t in (run.fed.terminal, run.ends_at_terminal) if t}
    assert ends == {"W1"} and ring.more == pytest.approx(run_length(run))
    graph = nx.MultiGraph()
    for i in ("W1", label):
        r = after.layout.runs[i]
        marks = sorted((t.along, k) for k, t in after.layout.terminals.items() if t.run == i)
        at_ends = [r.fed.terminal or "source", *(k for _, k in marks), r.ends_at_terminal]
        nx.add_path(graph, [k for k in at_ends if k])
    assert len(nx.cycle_basis(nx.Graph(graph))) == 1, "one ring of it, by another library"
    old = {f.key for f in check(facts) if f.severity == "must"}
    assert {f.key for f in check(after) if f.severity == "must"} <= old


def test_the_way_home_has_a_plug_wherever_boards_part() -> None:
    layout = harbour_arm()
    ring = close_ring(derive(layout, "show"), "R1")
    after = apply_patch(layout, ring.patch)
    (label,) = set(after.runs) - set(layout.runs)
    edges = [at for b in after.boards.values() if b.removable for at in crossings(after.runs[label].line, [b.corners])]
    plugs = [p for p in after.plugs.values() if p.run == label]
    assert bool(plugs) == bool(edges) and len(plugs) <= len(edges)


@pytest.mark.parametrize(
    ("layout", "run", "why"),
    [
        (gannet_bay(), "R2", "does not end free"),
        (gannet_bay(), "R3", "too short for a ring"),
        (harbour_arm(), "R10", "the one sensed wire"),
    ],
)
def test_what_cannot_be_closed_says_why(layout: object, run: str, why: str) -> None:
    with pytest.raises(NoRing, match=why):
        close_ring(derive(layout), run)  # type: ignore[arg-type]


def test_direct_current_has_no_edges_to_compare() -> None:
    layout = millbeck()
    dc = close_ring(derive(layout, next(iter(layout.scenes))), "R5")
    assert dc.edges is None and dc.lowest[1] >= dc.lowest[0] - 1e-6
