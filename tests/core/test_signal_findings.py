"""Findings of detection and signals: each fires where it should, is mended by its mend, and is silent on a sound
railroad."""

from __future__ import annotations

from typing import Any

import pytest

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.findings.check import check
from jolly_copper.core.findings.model import Finding
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.layout.reading import LayoutError, read_layout
from jolly_copper.demo import signalled_bay
from jolly_copper.demo.drafting import Draft
from tests.core.test_one_wire import sensed
from tests.layouts import feeder
from tests.signalled import detect, junction, line, signal

RULES = (
    "feeder round its detector",
    "gap in the wrong rail for detection",
    "addresses of detectors",
    "detector boards and districts",
    "what detectors see",
    "signal with no detection behind it",
    "turnout without report",
    "signal beyond its gap",
    "overlapping routes",
    "outputs of signals",
)


def found(d: Draft | Layout, rule: str) -> list[Finding]:
    layout = d if isinstance(d, Layout) else d.plain()
    return [f for f in check(derive(layout)) if f.rule == rule]


def mend(d: Draft | Layout, finding: Finding, which: int = 0) -> Layout:
    layout = d if isinstance(d, Layout) else d.plain()
    then = apply_patch(layout, finding.mends[which].patch)
    assert finding.key not in {f.key for f in found(then, finding.rule)}
    return then


def test_the_signalled_demo_has_no_must_of_these() -> None:
    rules = {(f.rule, f.severity) for f in check(derive(signalled_bay(), "open-day")) if f.rule in RULES}
    assert rules <= {("signal with no detection behind it", "look"), ("what detectors see", "look")}


def test_a_feeder_that_goes_round_its_detector() -> None:
    d = sensed()
    feeder(d, "F2", "t", 2500, "T2")
    (f,) = found(d, "feeder round its detector")
    assert "F2" in f.title and "a train fed by it is not seen" in f.title and f.severity == "must"
    assert not found(d, "feeder on another circuit"), "told once"
    then = mend(d, f)
    assert (then.feeders["F2"].terminal, then.feeders["F2"].other) == ("T9", "T2")


def test_a_gap_in_the_rail_that_is_not_sensed() -> None:
    d = sensed()
    detect(d, "beyond", "t", 2900, 2)
    d.gap("t", 2000, rails="right")
    (f,) = found(d, "gap in the wrong rail for detection")
    assert "cuts the right rail, but the left rail is sensed" in f.title
    assert mend(d, f).gaps["G1"].rails == "both"


@pytest.mark.parametrize(
    ("address", "severity", "words"),
    [(9, "must", "both answer to address 9"), (20, "should", "A hole in the addresses")],
)
def test_addresses_that_clash_or_leave_a_hole(address: int, severity: str, words: str) -> None:
    d = line(3)
    d.data["detectors"]["DB2"] = {"name": "Detector DB2", "at": {"x": 0, "y": 300}, "channels": 8, "address": address}
    (f,) = found(d, "addresses of detectors")
    assert words in f.title and f.severity == severity
    assert mend(d, f).detectors["DB2"].address == 17


def test_one_input_for_two_districts() -> None:
    d = line(2)
    d.data["detectors"]["DB1"]["kind"] = "diode drop"
    assert not found(d, "detector boards and districts")
    d.data["circuits"]["b2"] = {"name": "Second"}
    d.data["devices"]["B2"] = {"kind": "booster", "name": "Booster B2", "at": {"x": 0, "y": 0}, "output": "b2"}
    d.data["devices"]["DB1.2"]["input"] = "b2"
    assert [f.severity for f in found(d, "detector boards and districts")] == ["must"]


@pytest.mark.parametrize(
    ("control", "kind", "deaf"),
    [
        ("dc", "current transformer", True),
        ("dc", "diode drop", False),
        ("dcc", "current transformer", False),
        ("dcc", "isolated rail", True),
        ("ac3", "isolated rail", False),
        ("ac3", "current transformer", False),
    ],
)
def test_a_kind_of_detector_that_sees_nothing_here(control: str, kind: str, deaf: bool) -> None:
    """Common practice, no source."""
    d = line(2)
    d.data["brief"]["control"] = control
    d.data["detectors"]["DB1"]["kind"] = kind
    told = [f for f in found(d, "detector boards and districts") if f.key == "board-kind:DB1"]
    assert bool(told) == deaf
    if told:
        assert "sees nothing here" in told[0].title
        board = mend(d, told[0]).detectors["DB1"]
        assert board.kind == "diode drop" and board.drop == 1.2


def test_a_block_across_a_district_and_a_lamp_behind_a_detector() -> None:
    d = line(2)
    d.data["sections"]["B1"]["block"] = "B0"
    d.data["circuits"]["b2"] = {"name": "Second"}
    d.data["devices"]["B2"] = {"kind": "booster", "name": "Booster B2", "at": {"x": 0, "y": 0}, "output": "b2"}
    d.data["devices"]["DB1.2"]["input"] = "b2"
    d.data["loads"]["L"] = {"kind": "lamp", "name": "Platform lamp", "circuit": "dDB11", "amps": 0.05}
    titles = " ".join(f.title for f in found(d, "detector boards and districts"))
    assert "Block B0 lies in" in titles and "Platform lamp draws from behind DB1 channel 1" in titles


def test_a_reverser_behind_a_detector_and_which_comes_first() -> None:
    d = line(2)
    d.data["circuits"]["turned"] = {"name": "Turned"}
    d.data["devices"]["V1"] = {
        "kind": "reverser",
        "name": "Reverser",
        "at": {"x": 0, "y": 0},
        "input": "dDB11",
        "output": "turned",
    }
    (f,) = found(d, "detector boards and districts")
    assert "First the reverser, then the detectors" in f.why


def test_a_turnout_that_does_not_report() -> None:
    (f,) = found(junction(), "turnout without report")
    assert f.severity == "must" and "3 signals depend on it" in f.title
    assert mend(junction(), f).nodes["T"].reports


def test_a_signal_in_the_section_it_protects_and_one_with_no_gap_near() -> None:
    d = line(3)
    d.data["signals"]["S1"]["at"] = 2100
    (f,) = found(d, "signal beyond its gap")
    assert f.severity == "must" and "beyond the gap" in f.title
    assert mend(d, f).signals["S1"].at == pytest.approx(1940)
    d.data["signals"]["S1"]["at"] = 1200
    (f,) = found(d, "signal beyond its gap")
    assert f.severity == "should" and f.title.startswith("No gap follows")


def test_a_head_that_faces_nothing() -> None:
    d = line(3)
    signal(d, "S9", "t", 1940, "a")
    d.data["tracks"]["t"]["runs"] = "forward"
    layout = d.plain()
    nothing = [f for f in found(layout, "signal with no detection behind it") if f.severity == "must"]
    assert not nothing, "it still protects the block before it"
    signal(d, "S10", "t", 5999.9, "b")
    f = next(f for f in found(d, "signal with no detection behind it") if "S10" in f.title)
    assert "faces nothing" in f.title and f.severity == "must"
    mend(d, f, 1)


def test_track_that_joins_without_a_signal() -> None:
    d = junction()
    del d.data["signals"]["SB"]
    (f,) = found(d, "overlapping routes")
    assert "Branch joins a signalled way at T" in f.title
    signal(d, "SB", "b", 360, "a")
    assert not found(d, "overlapping routes")


def driven(**more: Any) -> Draft:
    d = line(3)
    d.data["drivers"] = {"DR1": {"name": "Driver 1", "at": {"x": 0, "y": 0}, "outputs": 8, **more}}
    d.data["signals"]["S1"] |= {"driver": "DR1", "output": 1}
    d.data["signals"]["S2"] |= {"driver": "DR1", "output": 4}
    return d


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"S2": {"output": 3}}, "Output 3 of Driver 1 is given to"),
        ({"S2": {"output": 7}}, "is on output 9 of Driver 1, which has 8"),
        ({"S2": {"lamp_amps": 0.05}}, "an output of Driver 1 gives 20 mA"),
        ({"S2": {"lamp_volts": 14}}, "cannot be lit"),
        ({"S2": {"driver": None, "output": None}}, "has no driver output yet"),
    ],
)
def test_outputs(change: dict[str, Any], words: str) -> None:
    assert not found(driven(), "outputs of signals")
    d = driven()
    for i, fields in change.items():
        d.data["signals"][i] |= fields
    assert any(words in f.title for f in found(d, "outputs of signals")), [
        f.title for f in found(d, "outputs of signals")
    ]


def test_inputs_of_reports_and_buttons() -> None:
    """A report on no input is told; so is an input that two turnouts report on, or a report and a button share."""
    layout = signalled_bay()
    one, other = layout.nodes["T1"], layout.nodes["T4"]

    def told(**nodes: object) -> str:
        return " ".join(
            f.title for f in found(layout.model_copy(update={"nodes": {**layout.nodes, **nodes}}), "outputs of signals")
        )

    assert not told()
    assert "The report of T1 is on no input yet" in told(
        T1=one.model_copy(update={"report_board": None, "report_input": None})
    )
    twice = told(T4=other.model_copy(update={"report_board": one.report_board, "report_input": one.report_input}))
    assert "is given to Turnout T1, closed when it lies diverging and Turnout T4" in twice and "Input" in twice
    mixed = told(T4=other.model_copy(update={"button_board": one.report_board, "button_input": one.report_input}))
    assert "closed when it lies diverging and Turnout T4, button on the panel" in mixed


@pytest.mark.parametrize("way", ["report", "button"])
def test_an_input_must_be_there(way: str) -> None:
    data = signalled_bay().model_dump(mode="json")
    data["nodes"]["T1"][f"{way}_input"] = 99
    with pytest.raises(LayoutError, match="has inputs 1 to 16"):
        read_layout(data)
    data["nodes"]["T1"] |= {f"{way}_input": 1, f"{way}_board": "DR1"}
    with pytest.raises(LayoutError, match="drives lamps, not buttons"):
        read_layout(data)


def test_a_supply_asked_for_too_much() -> None:
    d = driven(supply="acc", amps=4.99)
    d.data["circuits"]["acc"] = {"name": "Accessories", "purpose": "accessory"}
    d.data["devices"]["PS"] = {
        "kind": "supply",
        "name": "Supply",
        "at": {"x": 0, "y": 0},
        "output": "acc",
        "label_amps": 5,
        "volts": 12,
    }
    (f,) = found(d, "outputs of signals")
    assert "of Accessories" in f.title


def test_findings_of_detection_stand_at_their_step() -> None:
    from jolly_copper.core.findings.model import STEPS

    assert all(set(STEPS[r]) & {"detect", "signal"} for r in RULES)
