"""Accessory buses: drops worked by hand, step-downs by conservation of power, a circuit simulator, and their
findings."""

from __future__ import annotations

import math
import subprocess
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jolly_copper.core.circuits.accessory import Accessory
from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.circuits.loads import load_amps
from jolly_copper.core.findings.check import check
from jolly_copper.core.findings.model import Finding
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.layout.reading import LayoutError
from jolly_copper.core.materials.accessories import USUAL
from tests.core.test_drawing import do
from tests.core.test_solution import needs_ngspice
from tests.layouts import plain

OHMS_18_AWG = 6.385e-3 / 0.3048
"""Ω per m, solid at 20 °C: 6.385 Ω per 1000 ft (handbook wire table)."""
SUPPLY_OHMS = 0.03


def bus(length: float = 10_000, gauge: str = "18 AWG", **supply: Any) -> Layout:
    """A 12 V supply and one straight bus with soldered terminals in its middle and at its end."""
    d = plain()
    d.data["circuits"]["acc"] = {"name": "Accessories", "purpose": "accessory"}
    d.data["devices"]["PS"] = {
        "kind": "supply",
        "name": "Supply",
        "at": {"x": 0, "y": 900},
        "output": "acc",
        "volts": 12,
        "label_amps": 5,
        "ohms": SUPPLY_OHMS,
        **supply,
    }
    d.data["runs"]["A1"] = {
        "circuit": "acc",
        "label": "A1",
        "gauge": gauge,
        "strands": "solid",
        "path": [{"x": 0, "y": 900}, {"x": length, "y": 900}],
        "fed": {"device": "PS"},
    }
    for key, along in (("half", length / 2), ("end", length)):
        d.data["terminals"][key] = {"run": "A1", "along": along, "kind": "soldered", "ohms": 0}
    return d.plain()


def having(layout: Layout, **loads: dict[str, Any]) -> Layout:
    usual = {"kind": "other", "circuit": "acc"}
    return apply_patch(
        layout, [{"op": "add", "path": f"/loads/{k}", "value": {"name": k, **usual, **v}} for k, v in loads.items()]
    )


def solved(layout: Layout) -> Accessory:
    return derive(layout).accessory


def found(layout: Layout, rule: str) -> list[Finding]:
    return [f for f in check(derive(layout)) if f.rule == rule]


def test_the_drop_by_hand() -> None:
    """1 A at the end of 10 m of 18 AWG, there and back: 2 · 10 · 0.02095 + 0.03 = 0.449 Ω, so 11.551 V."""
    layout = having(bus(), lamp={"terminal": "end", "amps": 1.0})
    answer = solved(layout)
    assert answer.loads["lamp"].work == pytest.approx(12 - (20 * OHMS_18_AWG + SUPPLY_OHMS), abs=1e-3)
    assert answer.runs["A1"] == pytest.approx(1.0)
    (supply,) = answer.supplies
    assert supply.work == pytest.approx(1.0) and supply.rest == pytest.approx(1.0) and supply.gives == 5


def test_two_loads_share_the_first_half() -> None:
    """0.6 A in the middle and 0.4 A at the end: the first 5 m carry 1 A, the rest 0.4 A."""
    answer = solved(having(bus(), a={"terminal": "half", "amps": 0.6}, b={"terminal": "end", "amps": 0.4}))
    half = 12 - 1.0 * (10 * OHMS_18_AWG + SUPPLY_OHMS)
    assert answer.loads["a"].work == pytest.approx(half, abs=1e-3)
    assert answer.loads["b"].work == pytest.approx(half - 0.4 * 10 * OHMS_18_AWG, abs=1e-3)


def test_at_rest_and_at_work() -> None:
    """Ten of 10 mA, three of them at 200 mA at once: 0.1 A at rest, 0.67 A at work."""
    layout = having(bus(), motors={"terminal": "end", "count": 10, "at_once": 3, "amps": 0.01, "working_amps": 0.2})
    assert load_amps(layout.loads["motors"]) == pytest.approx(0.67)
    answer = solved(layout)
    ohms = 20 * OHMS_18_AWG + SUPPLY_OHMS
    assert answer.loads["motors"].rest == pytest.approx(12 - 0.1 * ohms, abs=1e-3)
    assert answer.loads["motors"].work == pytest.approx(12 - 0.67 * ohms, abs=1e-3)


def test_what_is_only_counted_is_taken_to_hang_at_the_far_end() -> None:
    answer = solved(having(bus(), lamp={"amps": 1.0}))
    assert answer.loads["lamp"].terminal == "end"


def stepped(amps: float, efficiency: float = 0.8, **more: Any) -> Layout:
    """A 3 V step-down at the end of the bus, with so much asked of it."""
    layout = apply_patch(
        bus(),
        [
            {"op": "add", "path": "/circuits/low", "value": {"name": "3 V", "purpose": "accessory"}},
            {
                "op": "add",
                "path": "/devices/SD",
                "value": {
                    "kind": "step-down",
                    "name": "Step-down",
                    "at": {"x": 10_000, "y": 900},
                    "input": "acc",
                    "output": "low",
                    "volts": 3,
                    "efficiency": efficiency,
                    "ohms": 0.02,
                    **more,
                },
            },
            {"op": "add", "path": "/runs/A1/ends_at_device", "value": "SD"},
        ],
    )
    return having(layout, leds={"circuit": "low", "amps": amps})


@given(st.floats(0.05, 2.0), st.floats(0.5, 1.0))
@settings(max_examples=25)
def test_a_step_down_takes_its_power_from_the_bus(amps: float, efficiency: float) -> None:
    """V_in · I_in · η = V_out · I_out, and V_in = 12 − I_in · R: both hold at once."""
    answer = solved(stepped(amps, efficiency))
    supply = next(s for s in answer.supplies if s.device == "PS")
    down = next(s for s in answer.supplies if s.device == "SD")
    assert down.work == pytest.approx(amps) and down.input_volts is not None
    assert down.input_volts * supply.work * efficiency == pytest.approx(3 * amps, rel=1e-5)
    assert down.input_volts == pytest.approx(12 - supply.work * (20 * OHMS_18_AWG + SUPPLY_OHMS), abs=2e-3)
    assert answer.loads["leds"].work == pytest.approx(3 - 0.02 * amps, abs=1e-6)


@needs_ngspice
@pytest.mark.parametrize("loads", [{"half": 0.35, "end": 0.8}, {"half": 2.2, "end": 0.05}])
def test_against_a_circuit_simulator(loads: dict[str, float]) -> None:
    """ngspice on the same bus, wire by the handbook's ohms, within a millivolt."""
    half = 5 * OHMS_18_AWG
    lines = [
        "* bus",
        "V1 s 0 12",
        f"R0 s a {SUPPLY_OHMS}",
        f"R1 a h {half}",
        f"R2 h e {half}",
        f"R3 eb hb {half}",
        f"R4 hb 0 {half}",
        f"I1 h hb {loads['half']}",
        f"I2 e eb {loads['end']}",
        ".control",
        "op",
        "print v(h,hb) v(e,eb)",
        ".endc",
        ".end",
    ]
    ran = subprocess.run(
        ["ngspice", "-b"], input="\n".join(lines) + "\n", capture_output=True, text=True, timeout=60, check=False
    )
    text = ran.stdout
    volts = [float(line.split("=")[1]) for line in text.splitlines() if line.startswith("v(")]
    answer = solved(having(bus(), **{k: {"terminal": k, "amps": a} for k, a in loads.items()}))
    assert [answer.loads["half"].work, answer.loads["end"].work] == pytest.approx(volts, abs=1e-3)


@given(st.floats(0, 1.5), st.floats(0, 1.5))
@settings(max_examples=20)
def test_more_amps_never_give_more_volts(one: float, other: float) -> None:
    low, high = sorted((one, other))
    volts = [solved(having(bus(), x={"terminal": "end", "amps": a})).loads["x"].work for a in (low, high)]
    assert volts[1] <= volts[0] + 1e-12


def test_a_twelve_volt_supply_measured_at_ten_is_caught() -> None:
    """Common practice, no source: labels are not to be trusted. What needs 11 V is named, and works out from 10 V."""
    layout = having(bus(measured_volts=10), relay={"terminal": "end", "amps": 0.2, "least_volts": 11})
    (label,) = found(layout, "supply below its label")
    assert (
        "marked 12.0 V and gives 10.0 V" in label.title
        and label.severity == "should"
        and "relay needs 11.0 V" in label.why
    )
    (volts,) = found(layout, "load volts")
    assert volts.severity == "must" and "9.9" in volts.title and not volts.mends, (
        "no wire gives what the supply has not"
    )
    assert not found(having(bus(measured_volts=11.8), relay={"least_volts": 11}), "supply below its label")


def test_a_drop_too_deep_is_mended_by_copper() -> None:
    layout = having(bus(), motors={"terminal": "end", "working_amps": 2.0, "at_once": 1, "least_volts": 11.5})
    (volts,) = found(layout, "load volts")
    assert volts.severity == "should" and volts.mends[0].label.startswith("Bus A1 to")
    assert not found(apply_patch(layout, volts.mends[0].patch), "load volts")


def test_too_many_volts_and_no_supply_at_all() -> None:
    layout = having(bus(), led={"terminal": "end", "amps": 0.01, "most_volts": 6})
    (high,) = found(layout, "load volts")
    assert high.severity == "must" and "stands 6.00 V" in high.title
    lost = apply_patch(
        having(bus(), led={"terminal": "end", "amps": 0.01}),
        [
            {"op": "add", "path": "/circuits/alone", "value": {"name": "Alone", "purpose": "accessory"}},
            {"op": "replace", "path": "/loads/led/circuit", "value": "alone"},
            {"op": "replace", "path": "/loads/led/terminal", "value": None},
        ],
    )
    (dead,) = found(lost, "load volts")
    assert dead.title == "No supply reaches led" and math.isnan(solved(lost).loads["led"].work)


def test_supplies_asked_for_too_much_and_step_downs_starved() -> None:
    (over,) = found(having(bus(), motors={"terminal": "half", "amps": 6.0}), "supply asked")
    assert "6 A" in over.title and "5 A" in over.title
    (starved,) = found(stepped(1.0, least_volts=11.99), "supply asked")
    assert "Step-down is fed 11." in starved.title and starved.severity == "must"


def test_turnouts_fed_from_the_track_they_clear() -> None:
    """Common practice, no source: turnout motors, lights and track sharing one supply take out the means to clear a
    short."""
    from tests.layouts import feeder

    d = plain()
    feeder(d, "F1", "t", 100, "T1")
    shared = apply_patch(
        d.plain(),
        [
            {
                "op": "add",
                "path": "/loads/d",
                "value": {"kind": "switch machine", "name": "Yard motors", "circuit": "main", "throws": True},
            },
            {"op": "add", "path": "/circuits/acc", "value": {"name": "Accessories", "purpose": "accessory"}},
            {
                "op": "add",
                "path": "/devices/PS",
                "value": {"kind": "supply", "name": "Supply", "at": {"x": 0, "y": 0}, "output": "acc"},
            },
        ],
    )
    (f,) = found(shared, "turnouts on the track")
    assert f.title.startswith("Yard motors hangs on Main") and "Accessories" in f.mends[0].label
    assert not found(apply_patch(shared, f.mends[0].patch), "turnouts on the track")
    lamp = apply_patch(shared, [{"op": "replace", "path": "/loads/d/throws", "value": False}])
    assert not found(lamp, "turnouts on the track")


@pytest.mark.parametrize(
    ("load", "words"),
    [
        ({"circuit": "nowhere"}, "There is no circuit nowhere"),
        ({"terminal": "T1"}, "on another circuit"),
        ({"terminal": "T99"}, "There is no terminal"),
        ({"count": 2, "at_once": 3}, "only 2"),
        ({"least_volts": 9, "most_volts": 5}, "less than the least"),
    ],
)
def test_loads_that_make_no_sense_are_refused_in_words(load: dict[str, Any], words: str) -> None:
    with pytest.raises(LayoutError, match=words):
        having(bus(), x=load)


def test_rails_are_never_fed_from_an_accessory_bus() -> None:
    with pytest.raises(LayoutError, match="for accessories, not for rails"):
        apply_patch(bus(), [{"op": "replace", "path": "/sections/s/circuit", "value": "acc"}])


def test_loads_are_added_with_usual_figures_and_stood_at_the_nearest_terminal() -> None:
    layout = do(bus(), "add load", kind="servo", name="Gates", circuit="acc", count=4)
    (load,) = layout.loads.values()
    assert (
        (load.amps, load.working_amps) == (USUAL["servo"].amps, USUAL["servo"].working_amps)
        and load.at is None
        and load.at_once == 2
    )
    stood = do(layout, "stand load", load=next(iter(layout.loads)), x=4800, y=1000)
    (load,) = stood.loads.values()
    assert load.terminal == "half" and load.at is not None and load.at.x == 4800
    gone = do(stood, "erase", things=[{"kind": "terminal", "id": "half"}])
    assert next(iter(gone.loads.values())).terminal is None, "what lost its terminal is only counted"


def test_a_supply_and_a_step_down_are_placed_with_a_bus_of_their_own() -> None:
    layout = do(plain().plain(), "source", kind="supply", x=10, y=20)
    (supply,) = [d for d in layout.devices.values() if d.kind == "supply"]
    assert layout.circuits[supply.output].purpose == "accessory"
    below = do(layout, "device", kind="step-down", input=supply.output, name="Signals")
    (down,) = [d for d in below.devices.values() if d.kind == "step-down"]
    assert below.circuits[down.output].purpose == "accessory" and down.volts == 3
