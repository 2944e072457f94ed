"""The wire table: lengths, slack, connectors, totals, CSV."""

from __future__ import annotations

import csv
import io
import math

import pytest

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.reading import read_layout
from jolly_copper.core.wirebook.schedule import schedule, totals
from jolly_copper.exchange.tables import wires_csv
from tests.layouts import feeder, plain, without


def test_every_run_and_feeder_has_a_row(demo: Layout) -> None:
    rows = schedule(demo)
    assert [r.id for r in rows] == [*demo.runs, *demo.feeders]
    assert all(r.label and r.start and r.end and r.connectors and r.cut > r.measured > 0 for r in rows)


def test_cut_length_by_hand() -> None:
    """250 mm by tape: 250·1.05 + 2·75 = 412.5, cut 415."""
    d = plain()
    feeder(d, "F1", "t", 0, "T1", tape=250)
    (row,) = [r for r in schedule(d.plain()) if r.kind == "feeder"]
    assert (row.measured, row.by_tape, row.cut) == (250, True, 415)


def test_a_feeder_hangs_below_the_rail() -> None:
    d = plain()
    d.data["brief"]["rules"]["drop_below_rail"] = 150
    feeder(d, "F1", "t", 300, "T1")
    (row,) = [r for r in schedule(d.plain()) if r.kind == "feeder"]
    assert row.measured == pytest.approx(math.hypot(300, 400) + 150)


def test_connectors_are_counted() -> None:
    d = plain()
    feeder(d, "F1", "t", 0, "T1")
    rows = {r.id: r.connectors for r in schedule(d.plain())}
    assert rows["R1"] == "2 bare ends, 4 soldered joints" and rows["F1"] == "2 soldered to rail, 2 soldered joints"
    d.data["terminals"]["T3"] = {"run": "R1", "along": 500, "kind": "screw strip"}
    d.plug("R1", 700)
    d.data["runs"]["R1"]["strands"] = "stranded"
    assert {r.id: r.connectors for r in schedule(d.plain())}["R1"] == "6 ferrules, 4 soldered joints, 1 two-pole plug"


def test_totals_count_both_wires_and_whole_spools(demo: Layout) -> None:
    rows, sums = schedule(demo), totals(demo)
    assert sum(t.length for t in sums) == pytest.approx(sum(2 * r.cut for r in rows))
    assert all(t.spools == math.ceil(t.length / t.spool - 1e-9) and t.spool == 30480 for t in sums)
    assert sums[0].gauge == "12 AWG", "heaviest first"
    metric = read_layout(without(demo, brief={**demo.brief.model_dump(), "units": "metric"}))
    assert totals(metric)[0].spool == 25000


def test_csv_reads_back_in_the_layouts_own_units(demo: Layout) -> None:
    rows = list(csv.DictReader(io.StringIO(wires_csv(demo))))
    assert len(rows) == len(demo.runs) + len(demo.feeders)
    first, wire = rows[0], schedule(demo)[0]
    assert float(first["Measured (ft)"]) * 304.8 == pytest.approx(wire.measured, abs=2)
    assert first["Wires"] == "red + black" and first["Measured by"] == "drawing"


def test_csv_cells_cannot_become_formulas(demo: Layout) -> None:
    data = without(demo)
    data["feeders"]["F1"]["label"] = "=1+1"
    assert "'=1+1" in wires_csv(read_layout(data))
