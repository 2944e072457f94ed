"""Usual sources by scale and control, volts too high, frog units, slack and leads, metric wire, words, version.

Facts of the trade are common practice, no source, unless a source is named.
"""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

import pytest

import jolly_copper
from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.circuits.lengths import feeder_cut, feeder_needs
from jolly_copper.core.drawing.acts import PlaceTable, perform
from jolly_copper.core.drawing.copper import add_source, draw_run
from jolly_copper.core.drawing.sheet import Sheet
from jolly_copper.core.findings.check import check
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.materials.sources import TABLES, usual_source
from jolly_copper.core.proposals.laying.whole import School, lay_railroad
from jolly_copper.core.proposals.whatif import what_if
from jolly_copper.core.quantities import read_gauge
from jolly_copper.core.wirebook.pieces import pieces
from jolly_copper.core.wirebook.worked import Worked
from jolly_copper.demo import gannet_bay, unwired_bay
from tests.core.test_trade import found
from tests.layouts import feeder, plain

# --- 22: sources by scale, volts too high, frog units


@pytest.mark.parametrize("control", ["dcc", "dc", "ac3"])
def test_a_new_source_starts_with_the_usual_for_scale_and_control_and_says_so(control: str) -> None:
    for scale in TABLES[control]:
        sheet = Sheet(Layout.model_validate({"name": "New", "brief": {"scale": scale, "control": control}}))
        device = sheet["devices"][add_source(sheet, "booster", 0, 0)]
        usual = usual_source(scale, control)
        assert (
            device["guessed"]
            and device["label_amps"] == usual.amps == device["trip_amps"]
            and device["limit_amps"] > usual.amps
        )
        assert device["name"].split()[0] == {"dcc": "Booster", "dc": "Controller", "ac3": "Transformer"}[control]


def test_guesses_are_told_until_a_label_is_read() -> None:
    d = plain()
    d.data["devices"]["B1"].update(guessed=True, label_amps=5)
    (f,) = found(d, "figures guessed")
    assert f.severity == "look" and found(apply_patch(d.plain(), f.mends[0].patch), "figures guessed") == []


@pytest.mark.parametrize(
    ("scale", "volts", "rated", "severity"),
    [
        ("N", 12, None, None),
        ("N", 14, None, None),
        ("N", 14.5, None, "should"),
        ("HO", 16, None, None),
        ("HO", 18, None, "should"),
        ("HO", 14.4, 14, "must"),
        ("HO", 18, 22, "should"),
        ("G", 20, 24, None),
    ],
)
def test_track_volts_against_scale_and_the_least_rated_decoder(
    scale: str, volts: float, rated: float | None, severity: str | None
) -> None:
    """More than 2 V over the scale's: NMRA S-9.1, from memory."""
    d = plain()
    d.data["brief"]["scale"] = scale
    d.data["devices"]["B1"]["volts"] = volts
    if rated:
        d.data["locos"]["k"] = {"name": "Old decoder", "idle": 0.1, "running": 0.3, "stall": 1, "most_volts": rated}
    assert [f.severity for f in found(d, "track volts too high")] == ([severity] if severity else [])


def test_frog_units_have_a_least_voltage_at_their_place() -> None:
    d = plain(6000)
    d.data["nodes"]["N2"] = {
        "kind": "turnout",
        "at": {"x": 6000, "y": 0},
        "hand": "left",
        "name": "T1",
        "contact": "automatic",
    }
    d.data["tracks"]["t"]["b"] = {"node": "N2", "port": "points"}
    feeder(d, "F1", "t", 0, "T1")
    d.data["brief"]["rules"]["test_train"] = 1.0
    assert found(d, "frog unit volts") == []
    d.data["brief"]["rules"]["frog_unit_volts"] = 14
    (f,) = found(d, "frog unit volts")
    assert f.severity == "should" and "T1" in f.title
    assert found(apply_patch(d.plain(), f.mends[0].patch), "frog unit volts") == []
    assert {i.name: i.count for i in Worked(derive(d.plain())).items}["Automatic frog unit"] == 1


# --- 23: slack, leads, metric wire


def test_feeders_have_a_slack_of_their_own_and_leads_made_in_a_batch() -> None:
    d = plain()
    feeder(d, "F1", "t", 500, "T1", tape=300)
    d.data["brief"]["rules"].update(slack_share=0.0, slack_each_end=75, slack_at_feeders=200)
    layout = d.plain()
    assert feeder_needs(layout, 300) == feeder_cut(layout, 300) == 700
    d.data["brief"]["rules"]["prepared_lead"] = 609.6 + 300
    (lead,) = [p for p in pieces(d.plain()) if p.kind == "feeder"]
    assert lead.cut == pytest.approx(909.6)
    d.data["feeders"]["F1"]["cut"] = 700
    short = [f.key for f in found(d, "cut too short") if not f.key.startswith("tape-short")]
    assert short == [], "a lead cut to fit is long enough"


def test_every_tool_of_a_metric_layout_takes_square_millimetres() -> None:
    layout = unwired_bay()
    metric = layout.model_copy(update={"brief": layout.brief.model_copy(update={"units": "metric"})})
    laid = apply_patch(metric, lay_railroad(metric, School()))
    gauges = {r.gauge for i, r in laid.runs.items() if i not in metric.runs} | {f.gauge for f in laid.feeders.values()}
    assert gauges and all(read_gauge(g).system == "mm2" for g in gauges), gauges
    sheet = Sheet(Layout.model_validate({"name": "New", "brief": {"units": "metric"}}))
    device = add_source(sheet, "booster", 0, 0)
    assert sheet["runs"][draw_run(sheet, [(0, 0), (1000, 0)], device=device)]["gauge"] == "2.5 mm²"
    inch = gannet_bay()
    taken_over = inch.model_copy(update={"brief": inch.brief.model_copy(update={"units": "metric"})})
    facts = derive(taken_over, "open-day")
    offers = [w.label for w in what_if(facts, "up-north-2", 500)] + [m.label for f in check(facts) for m in f.mends]
    assert any("mm²" in o for o in offers), "a metric shop"
    assert not [o for o in offers if "AWG" in o], "wire of AWG sizes in a metric shop"
    d = plain()
    d.data["brief"]["units"] = "metric"
    assert derive(d.plain()).usual_feeder == ("0.5 mm²", "solid")


# --- 15: a table is placed with its bridge


def test_a_table_is_placed_with_the_bridge_one_chose() -> None:
    act = PlaceTable(act="table", kind="turntable", x=0, y=0, bridge="reverser")
    done = perform(derive(Layout(name="New")), act)
    assert [n.bridge for n in apply_patch(Layout(name="New"), done.patch).nodes.values()] == ["reverser"]


# --- 24: words and version


@pytest.mark.parametrize(
    ("control", "never"), [("dc", "booster|decoder|digital"), ("ac3", "booster|decoder|digital|reverser")]
)
def test_findings_speak_of_the_control_of_the_place(control: str, never: str) -> None:
    d = plain(9000)
    d.data["brief"]["control"] = control
    d.data["devices"]["B1"]["name"] = "Source 1"
    d.data["devices"]["B2"] = {"kind": "booster", "name": "Source 2", "at": {"x": 0, "y": 0}, "output": "east"}
    d.data["circuits"]["east"] = {"name": "East"}
    d.gap("t", 4000)
    feeder(d, "F1", "t", 100, "T1", gauge="30 AWG")
    feeder(d, "F2", "t", 8900, "T2")
    d.data["loads"]["L"] = {
        "kind": "switch machine",
        "name": "Motors",
        "circuit": "main",
        "throws": True,
        "working_amps": 0.1,
        "at_once": 1,
    }
    told = check(derive(d.plain()))
    assert len(told) >= 3
    for f in told:
        assert not re.search(never, f"{f.title} {f.why} {f.mend}", re.I), f


def test_version_and_changelog_agree() -> None:
    changes = (Path(__file__).parents[2] / "CHANGELOG.md").read_text(encoding="utf-8")
    newest = re.search(r"^## (\d+\.\d+\.\d+)", changes, re.M)
    assert newest is not None and newest[1] == jolly_copper.__version__


def test_legacy_terminals_and_tables_open_as_they_are(demo: Layout) -> None:
    data: dict[str, Any] = demo.model_dump(mode="json")
    for terminal in data["terminals"].values():
        del terminal["hub"]
    del data["measured"]
    assert Layout.model_validate(data) == demo
