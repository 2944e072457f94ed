"""The solver: hand-worked circuits, a general circuit simulator, energy, reciprocity, and the worst placement."""

from __future__ import annotations

import itertools
import math
import re
import shutil
import subprocess

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jolly_copper.core.circuits.facts import Facts, derive
from jolly_copper.core.circuits.loads import Load, Roaming, worst_placement
from jolly_copper.core.circuits.network import assemble
from jolly_copper.core.circuits.points import one_point
from jolly_copper.core.circuits.solution import own_share, solve
from jolly_copper.core.circuits.square_wave import square_wave_share
from jolly_copper.core.circuits.staircase import explain
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.materials import copper, joints, rail
from jolly_copper.core.quantities import read_gauge
from jolly_copper.exchange.spice import netlist
from tests.layouts import booster, feeder, plain, random_layout

INSIDE = 0.1
FEEDER = copper.ohms_per_metre(read_gauge("20 AWG"), "solid") * 0.4 + joints.RAIL_SOLDER
BUS = copper.ohms_per_metre(read_gauge("14 AWG"), "solid")
RAIL = rail.ohms_per_metre(83, "nickel silver").used


def transfer(layout: Layout, places: list[tuple[str, float]]) -> np.ndarray:  # type: ignore[type-arg]
    """Z between places, each worked out on its own, Ω."""
    network = assemble(layout)
    (island,) = [i for i in solve(network) if bool(i.holds(one_point(network, *places[0]))[0])]
    points = [one_point(network, *p) for p in places]
    return np.array(
        [[(island.between(island.reach(p), q) + own_share(p, q, p.ohms))[0, 0] for q in points] for p in points]
    )


def test_one_feeder_right_at_the_booster_by_hand() -> None:
    d = plain()
    feeder(d, "F1", "t", 0, "T1")
    # Source, feeder there and back, then 2 m of both rails.
    wanted = INSIDE + 2 * FEEDER + 2 * RAIL * 2
    assert transfer(d.plain(), [("t", 2000)])[0, 0] == pytest.approx(wanted, rel=1e-9)


def test_the_bus_counts_there_and_back() -> None:
    d = plain()
    feeder(d, "F1", "t", 1000, "T2")
    wanted = INSIDE + 2 * BUS * 1 + 2 * FEEDER
    assert transfer(d.plain(), [("t", 1000)])[0, 0] == pytest.approx(wanted, rel=1e-9)


def test_two_feeders_share_by_hand() -> None:
    """Between two feeders the rail is a loop: resistances in parallel, worked by hand."""
    d = plain(length=1000)
    feeder(d, "F1", "t", 0, "T1")
    feeder(d, "F2", "t", 1000, "T2")
    left = FEEDER + RAIL * 0.3
    right = BUS + FEEDER + RAIL * 0.7
    wanted = INSIDE + 2 * left * right / (left + right)
    assert transfer(d.plain(), [("t", 300)])[0, 0] == pytest.approx(wanted, rel=1e-9)


def test_a_joiner_sits_in_each_rail() -> None:
    d = plain(joiner_every=500.0, joiners="old")
    feeder(d, "F1", "t", 0, "T1")
    bare = INSIDE + 2 * FEEDER
    layout = d.plain()
    before, after = transfer(layout, [("t", 499.9), ("t", 500.1)]).diagonal()
    assert before == pytest.approx(bare + 2 * RAIL * 0.4999, rel=1e-9)
    assert after - before == pytest.approx(2 * joints.RAIL_JOINER["old"][1] + 2 * RAIL * 0.0002, rel=1e-6)


def test_a_plug_and_a_cut_terminal_are_on_the_way() -> None:
    d = plain()
    feeder(d, "F1", "t", 1000, "T2")
    base = transfer(d.plain(), [("t", 1000)])[0, 0]
    d.plug("R1", 600)
    d.data["plugs"]["P1"]["ohms"] = 0.01
    assert transfer(d.plain(), [("t", 1000)])[0, 0] - base == pytest.approx(2 * 0.01)
    d.data["terminals"]["T3"] = {"run": "R1", "along": 300, "kind": "screw strip", "ohms": 0.003}
    assert transfer(d.plain(), [("t", 1000)])[0, 0] - base == pytest.approx(2 * 0.01 + 4 * 0.003), (
        "in and out, there and back"
    )
    d.data["terminals"]["T3"]["kind"] = "tap"
    assert transfer(d.plain(), [("t", 1000)])[0, 0] - base == pytest.approx(2 * 0.01), "a tap leaves the bus whole"


def test_a_ring_is_solved_as_a_ring() -> None:
    """A second run closes the bus into a ring: the far feeder then sees both ways in parallel."""
    d = plain()
    feeder(d, "F1", "t", 1000, "T2")
    d.data["runs"]["R2"] = {
        "circuit": "main",
        "label": "R2",
        "gauge": "14 AWG",
        "strands": "solid",
        "make": "twisted",
        "path": [{"x": 0, "y": 400}, {"x": 0, "y": 900}, {"x": 1000, "y": 900, "radius": 0}, {"x": 1000, "y": 400}],
        "fed": {"terminal": "T1"},
        "ends_at_terminal": "T2",
        "tape": 3000,
    }
    one, three = BUS * 1, BUS * 3
    wanted = INSIDE + 2 * (one * three / (one + three)) + 2 * FEEDER
    assert transfer(d.plain(), [("t", 1000)])[0, 0] == pytest.approx(wanted, rel=1e-9)


def test_an_island_is_dead_and_breaks_nothing() -> None:
    d = plain()
    feeder(d, "F1", "t", 200, "T1")
    d.gap("t", 1500)
    facts = derive(d.plain())
    live = {bool(np.isfinite(v)) for v, at in zip(facts.volts, facts.points.at, strict=True) if at > 1500.1}
    assert live == {False}
    assert not explain(facts, "t", 2000).live and explain(facts, "t", 100).live


def test_a_layout_with_no_power_at_all_is_simply_dead() -> None:
    d = plain()
    d.data["devices"], d.data["runs"], d.data["terminals"] = {}, {}, {}
    facts = derive(d.plain())
    assert facts.worst_point() is None and facts.weakest_short() is None and np.isnan(facts.volts).all()


def test_a_swapped_feeder_is_a_short_and_the_solver_says_so() -> None:
    d = plain()
    feeder(d, "F1", "t", 0, "T1")
    feeder(d, "F2", "t", 1000, "T2", a_rail="right")
    facts = derive(d.plain())
    assert np.nanmin(facts.open_volts) < 0.2 * 14.4


def test_one_rail_gap_between_two_boosters_is_solved_with_both_sources() -> None:
    """Common rail: the split into two conductors would be wrong here. By hand: no current crosses, both feed 14.4 V."""
    d = plain()
    feeder(d, "F1", "t", 200, "T1")
    d.gap("t", 1500, rails="left")
    booster(d, circuit="other", key="B2", ohms=0.1)
    d.bus("R9", "other", "14 AWG", [(2000, 400), (3000, 400)], fed={"device": "B2"}, kind="soldered")
    last = max(d.data["terminals"], key=lambda t: int(t[1:]))
    feeder(d, "F2", "t", 2500, last)
    facts = derive(d.plain())
    assert len(facts.parts) == 1 and len(facts.parts[0].island.sources) == 2
    assert np.nanmin(facts.open_volts) == pytest.approx(14.4, rel=1e-9)


def spice_volts(layout: Layout, trains: list[tuple[str, float, float]]) -> list[float]:
    text = netlist(layout, trains, control=True)
    ran = subprocess.run(["ngspice", "-b"], input=text, capture_output=True, text=True, timeout=120, check=False)
    return [float(v) for v in re.findall(r"^v\([^=]*= (\S+)", ran.stdout, re.M)]


needs_ngspice = pytest.mark.skipif(
    shutil.which("ngspice") is None, reason="ngspice is a Debian package; make test installs it"
)


@needs_ngspice
def test_demo_worst_point_agrees_with_ngspice(demo: Layout, demo_facts: Facts) -> None:
    """Published general simulator (ngspice) on the exported netlist, within 0.01 %."""
    for point in (demo_facts.worst_point(), demo_facts.weakest_short()):
        assert point is not None
        answer = explain(demo_facts, *demo_facts.place_of(point))
        polarity = demo_facts.parts[int(demo_facts.part_of[point])].sign[int(demo_facts.row_in_part[point])]
        signs = []
        for t in answer.trains:
            row = min(
                range(len(demo_facts.points)),
                key=lambda k: abs(demo_facts.points.at[k] - t.at) if demo_facts.track_of(k) == t.track else math.inf,
            )
            signs.append(demo_facts.parts[int(demo_facts.part_of[row])].sign[int(demo_facts.row_in_part[row])])
        volts = spice_volts(demo, [(t.track, t.at, t.amps * s) for t, s in zip(answer.trains, signs, strict=True)])
        assert volts[0] * polarity == pytest.approx(answer.exact_volts, rel=1e-4)


@needs_ngspice
@pytest.mark.parametrize("seed", range(6))
def test_random_layouts_agree_with_ngspice(seed: int) -> None:
    layout = random_layout(seed)
    network = assemble(layout)
    places = [(s.track, (s.start + s.end) * 0.47 + 0.03 * s.start) for s in network.spans if s.end - s.start > 100]
    trains = []
    for island in solve(network):
        here = [p for p in places if island.holds(one_point(network, *p))[0]][::3][:4]
        if not here:
            continue
        points = [one_point(network, *p) for p in here]
        signs = np.array([np.sign(island.open_volts(p)[0]) for p in points])
        amps = np.array([0.4, 0.9, 0.2, 0.6][: len(here)]) * signs
        z = np.array(
            [[(island.between(island.reach(p), q) + own_share(p, q, p.ohms))[0, 0] for q in points] for p in points]
        )
        wanted = np.array([island.open_volts(p)[0] for p in points]) - z @ amps
        trains += [(*p, a, w) for p, a, w in zip(here, amps, wanted, strict=True)]
    assert len(trains) >= 2
    volts = spice_volts(layout, [t[:3] for t in trains])
    assert volts == pytest.approx([t[3] for t in trains], rel=1e-4)


@settings(max_examples=20, deadline=None)
@given(st.integers(0, 10_000))
def test_reciprocity_and_energy(seed: int) -> None:
    """Z is symmetric; and what one train's current burns in all elements is exactly I²·Z_pp (Tellegen)."""
    facts = derive(random_layout(seed))
    for part in facts.parts:
        if not len(part.rows):
            continue
        z = part.worked.transfer
        assert np.allclose(z, z.T, rtol=1e-9, atol=1e-12)
        assert (np.diagonal(z) > 0).all()
        assert (np.abs(z) <= np.sqrt(np.outer(np.diagonal(z), np.diagonal(z))) * (1 + 1e-9)).all()
        reach = part.island.reach(part.points) * part.sign[:, None]
        shares = part.island.shares(reach)
        burnt = (shares**2 * part.island.ohms).sum(axis=1) + np.diagonal(
            own_share(part.points, part.points, part.points.ohms)
        )
        assert np.allclose(burnt, np.diagonal(z), rtol=1e-8)


@pytest.mark.parametrize("widest", [400, 0])
def test_written_out_banded_and_sparse_solutions_agree(
    demo: Layout, monkeypatch: pytest.MonkeyPatch, widest: int
) -> None:
    from jolly_copper.core.circuits import inverse
    from jolly_copper.core.circuits.memo import MEMO

    def everything() -> list[np.ndarray]:
        return [i.resistance.columns(np.eye(i.resistance.size + 1)) for i in solve(assemble(demo))]

    dense = everything()
    MEMO.forget()
    monkeypatch.setattr(inverse, "WRITTEN_OUT", 0)
    monkeypatch.setattr(inverse, "WIDEST_BAND", widest)
    thin = everything()
    MEMO.forget()
    for a, b in zip(dense, thin, strict=True):
        assert np.allclose(a, b, rtol=1e-8, atol=1e-10)


def test_greedy_placement_against_every_placement() -> None:
    """Exhaustive search on small random matrices of a real layout's kind: greedy never claims more, and finds the
    worst."""
    facts = derive(random_layout(3))
    part = max(facts.parts, key=lambda p: len(p.rows))
    rows = np.arange(0, len(part.rows), max(1, len(part.rows) // 14))[:14]
    z = part.worked.transfer[np.ix_(rows, rows)]
    near = np.abs(np.subtract.outer(np.arange(len(rows)), np.arange(len(rows)))) < 2
    everywhere = np.ones(len(rows), dtype=bool)
    trains = tuple(Roaming(f"t{k}", a, everywhere, True) for k, a in enumerate((0.9, 0.5, 0.3)))
    worst = worst_placement(Load(trains, (), 1.0), z, np.diagonal(z), np.arange(len(rows)), near, 0.5)
    for p in range(len(rows)):
        best = max(
            0.5 * z[p, a] + 0.3 * z[p, b]
            for a, b in itertools.permutations(range(len(rows)), 2)
            if not (near[p, a] or near[p, b] or near[a, b])
        )
        exact = 0.9 * z[p, p] + best
        assert worst.loss[p] <= exact + 1e-12
        assert worst.loss[p] >= exact - 0.05 * exact


def test_square_wave_short() -> None:
    """Figures of a calculation checked against a circuit simulator: 30 m of 14 AWG, 0.75 Ω, 58 µs half bits."""
    assert float(square_wave_share(0.75, 30 * 2.02e-6, 58e-6)) * 19.3 == pytest.approx(3.9, abs=0.1)
    assert float(square_wave_share(0.75, 30 * 0.48e-6, 58e-6)) * 19.3 == pytest.approx(12.1, abs=0.4)
    assert float(square_wave_share(1.0, 0.0, 58e-6)) == pytest.approx(1, abs=1e-3)


def test_source_limit_and_resistance_are_kept_apart(demo_facts: Facts) -> None:
    assert np.nanmax(demo_facts.coin) <= 8 + 1e-9 < np.nanmax(demo_facts.coin_exact)


def test_deriving_is_pure(demo: Layout) -> None:
    from jolly_copper.core.circuits.memo import MEMO

    one = derive(demo, "open-day")
    MEMO.forget()
    two = derive(demo.model_copy(deep=True), "open-day")
    assert one.volts.tobytes() == two.volts.tobytes() and one.coin.tobytes() == two.coin.tobytes()
