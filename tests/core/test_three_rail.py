"""Three-rail track: no loop is a fault, outers halve the return, transformers meet by the numbers."""

from __future__ import annotations

import math
import re
import subprocess
from typing import Any

import numpy as np
import pytest

from jolly_copper.core.circuits.crossing import BRIDGE_OHMS, crossing
from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.circuits.stopping import scale_speed
from jolly_copper.core.drawing.copper import cut_gap
from jolly_copper.core.drawing.sheet import DrawingError, Sheet
from jolly_copper.core.drawing.tracks import reverse_track, split_track
from jolly_copper.core.findings.check import check
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.layout.reading import LayoutError, read_layout
from jolly_copper.core.proposals.cabs.three_rail import isolate_rail, throttle_to_loop
from jolly_copper.demo import tinplate_lane
from jolly_copper.demo.drafting import Draft
from jolly_copper.exchange.spice import netlist
from tests.core.cab_layouts import FLAT, run, source, tie
from tests.core.test_solution import needs_ngspice


def straight(volts: tuple[float, float] = (18, 18), units: tuple[str, str] = ("T1", "T1"), **track: Any) -> Draft:
    """Two transformer outputs, a block each, of one straight three-rail track with a gap in its centre rail."""
    d = Draft("Straight", brief={**FLAT, "control": "ac3", "scale": "O", "track_volts": 18})
    d.node("N1", 0, 0, "bumper")
    d.node("N2", 4000, 0, "bumper")
    d.track("t", "Line", "N1.1", "N2.1", **({"joiner_every": None, "ohms_per_metre": 0.04} | track))
    d.gap("t", 2000, rails="centre")
    for key, v, unit, at in (("a", volts[0], units[0], 1000), ("b", volts[1], units[1], 3000)):
        source(d, key, "transformer output", v, 0.1, winding=unit, trip_amps=8)
        d.section(f"s-{key}", f"Block {key}", "t", at, key)
        tie(d, "t", at, run(d, key, at))
    return d


def balloon() -> Layout:
    """A lead into a loop that comes back on itself: nothing at all on three rails, a short on two."""
    d = Draft("Balloon", brief={**FLAT, "control": "ac3", "scale": "O", "track_volts": 18})
    d.node("N1", 0, 0, "bumper")
    d.turnout("T1", 1500, 0, "left")
    d.track("lead", "Lead", "N1.1", "T1.points", joiner_every=None)
    d.track(
        "loop",
        "Loop",
        "T1.through",
        "T1.diverging",
        (3500, 0, 600),
        (3500, -1600, 600),
        (2000, -1600, 500),
        joiner_every=None,
    )
    source(d, "a", "transformer output", 18, 0.1, trip_amps=8)
    d.section("s", "All", "lead", 500, "a")
    terminal = run(d, "a", 1000)
    tie(d, "lead", 1000, terminal)
    tie(d, "loop", 900, terminal, a_rail="right", tape=300)
    return d.plain()


def test_a_loop_is_nothing_on_three_rails() -> None:
    layout = balloon()
    found = check(derive(layout))
    assert not [f for f in found if f.severity == "must"], [f.title for f in found]
    assert derive(layout).topology.open_conflicts == []
    two = layout.model_copy(update={"brief": layout.brief.model_copy(update={"control": "dcc"})})
    assert [f for f in check(derive(two)) if f.severity == "must"], "on two rails the same track is a short"


@pytest.mark.parametrize("outers", ["joined", "apart"])
def test_two_outers_halve_the_return(outers: str) -> None:
    """By hand: one metre beyond the feeder is r for the centre and r/2, or r, for the return."""
    facts = derive(straight(outers=outers).plain())
    row = int(np.argmin(np.abs(facts.points.at - 0)))
    near = int(np.argmin(np.abs(facts.points.at - 1000)))
    train = facts.layout.brief.rules.test_train
    wanted = train * 0.04 * (1.5 if outers == "joined" else 2.0)
    assert facts.volts[near] - facts.volts[row] == pytest.approx(wanted, rel=1e-3)


def test_an_isolated_rail_takes_one_outer_out_of_the_return() -> None:
    d = straight()
    whole = derive(d.plain())
    d.data["isolated"]["i"] = {
        "name": "Gate",
        "track": "t",
        "at": 200,
        "length": 500,
        "outer": "right",
        "works": "Gate",
    }
    alone = derive(d.plain())
    train = whole.layout.brief.rules.test_train

    def at_end(facts: Any) -> float:
        return float(facts.volts[int(np.argmin(np.abs(facts.points.at)))])

    assert at_end(whole) - at_end(alone) == pytest.approx(train * 0.5 * 0.04 * 0.5, rel=1e-3)


def test_centre_gaps_part_blocks_and_outers_run_through() -> None:
    facts = derive(straight((18, 12)).plain())
    left = facts.open_volts[facts.points.at < 1900]
    right = facts.open_volts[facts.points.at > 2100]
    assert left == pytest.approx(18.0, abs=1e-6) and right == pytest.approx(12.0, abs=1e-6)
    assert not [f for f in check(facts) if f.rule == "rails joined through turnouts"]


@pytest.mark.parametrize("rails", ["outer left", "outer right"])
def test_a_gap_in_one_outer_parts_nothing(rails: str) -> None:
    d = straight()
    d.data["gaps"]["G1"]["rails"] = rails
    assert len(set(derive(d.plain()).topology.zones.zone_of.values())) == 1


def test_two_transformers_want_a_common_and_a_reading() -> None:
    layout = straight(units=("T1", "T2")).plain()
    told = {f.key.split(":")[0]: f for f in check(derive(layout)) if f.rule == "transformers out of phase"}
    assert set(told) == {"commons", "phasing"}
    assert "36.0 V" in told["phasing"].mend, "twice the track volts is wrong"
    joined = apply_patch(layout, told["commons"].mends[0].patch)
    assert "commons" not in {f.key.split(":")[0] for f in check(derive(joined))}

    def with_reading(volts: float) -> list[str]:
        read = apply_patch(joined, [{"op": "replace", "path": "/devices/dev-b/phasing_volts", "value": volts}])
        return [f.severity for f in check(derive(read)) if f.rule == "transformers out of phase"]

    assert with_reading(0.3) == [] and with_reading(35) == ["must"] and with_reading(5) == ["should"]
    assert not [f for f in check(derive(straight().plain())) if f.rule == "transformers out of phase"], (
        "one transformer"
    )


def test_a_slow_breaker_tells_its_heat() -> None:
    """By hand: 18 V × 8 A × 4 s = 576 J."""
    d = straight()
    for key in "ab":
        d.data["devices"][f"dev-{key}"]["trip_seconds"] = 4
    told = next(f for f in check(derive(d.plain())) if f.rule == "slow breaker")
    assert "576 J" in told.why
    d.data["devices"]["dev-a"]["trip_seconds"] = 0.05
    d.data["devices"]["dev-b"]["trip_seconds"] = 0.05
    assert "slow breaker" not in {f.rule for f in check(derive(d.plain()))}


def test_a_roller_between_unequal_outputs_by_hand() -> None:
    """18 V against 12 V: the two sources' 0.1 Ω, the bridge, 2 m of centre rail and the wires to it."""
    facts = derive(straight((18, 12)).plain())
    met = crossing(facts, "t", 2000)
    assert met is not None and met.volts == pytest.approx(6.0, abs=1e-6)
    assert met.loop > 0.2 + 2 * 0.04
    assert met.amps == pytest.approx(6.0 / (met.loop + BRIDGE_OHMS))
    assert met.unlike == pytest.approx(18.0 / (met.loop + BRIDGE_OHMS))
    apart = derive(straight((18, 12), ("T1", "T2"), rails=None).plain())
    assert crossing(apart, "t", 2000) is not None, "outers join the commons of any two transformers"


@needs_ngspice
@pytest.mark.parametrize("hertz", [50, 60])
def test_crossing_current_agrees_with_ngspice(hertz: int) -> None:
    """Published general simulator (ngspice), sine sources, every wire and rail a resistor: rms within 0.2 %."""
    layout = straight((18, 12)).plain()
    met = crossing(derive(layout), "t", 2000)
    assert met is not None
    text = netlist(layout, [("t", 1999.0, 0.0), ("t", 2001.0, 0.0)])
    ends = re.findall(r"^I\d (\S+) (\S+) ", text, re.M)
    assert len(ends) == 2
    text = re.sub(r"DC ([\d.eE+-]+)$", lambda m: f"SIN(0 {float(m[1]) * math.sqrt(2):.9g} {hertz})", text, flags=re.M)
    text = re.sub(r"^I\d .*\n", "", text, flags=re.M).replace(".end\n", "")
    text += f"Vsense {ends[0][0]} bridged DC 0\nRbridge bridged {ends[1][0]} {BRIDGE_OHMS}\n"
    text += f".tran 20u {2 / hertz} 0 20u\n.meas tran amps RMS i(Vsense) FROM={1 / hertz} TO={2 / hertz}\n.end\n"
    ran = subprocess.run(["ngspice", "-b"], input=text, capture_output=True, text=True, timeout=120, check=False)
    found = re.search(r"^amps\s*=\s*(\S+)", ran.stdout, re.M)
    assert found is not None, ran.stdout[-2000:] + ran.stderr[-500:]
    assert float(found[1]) == pytest.approx(met.amps, rel=2e-3)


# --- proposals and drawing


def test_a_throttle_for_each_loop() -> None:
    demo = tinplate_lane()
    assert {g.rails for g in demo.gaps.values()} == {"centre"}
    assert {s.circuit for s in demo.sections.values()} == {"a", "b", "c"}
    loops = throttle_to_loop(straight().plain())
    assert loops.gaps == 0 and len(loops.given) == 2
    with pytest.raises(DrawingError, match="no three-rail track"):
        throttle_to_loop(straight(rails=2).plain())


def test_an_isolated_rail_is_as_long_as_its_warning_by_hand() -> None:
    """A published formula of motion: way = speed × time; 60 km/h in O is 347 mm/s, so 3 s are 1,042 mm."""
    assert scale_speed("O") * 3 == pytest.approx(60 / 3.6 * 1000 / 48 * 3)
    facts = derive(straight().plain())
    made = isolate_rail(facts, "t", 1000, "Crossing gate", 3)
    assert 1042 <= made.length <= 1042 * 1.1
    after = apply_patch(facts.layout, made.patch)
    assert after.tracks["t"].outers == "apart"
    assert not [f for f in check(derive(after)) if f.rule == "isolated rail"]
    with pytest.raises(DrawingError, match="lies there already"):
        isolate_rail(derive(after), "t", 1000, "Bell")
    with pytest.raises(DrawingError, match="wants"):
        isolate_rail(facts, "t", 1000, "Far gate", 60)
    with pytest.raises(DrawingError, match="two rails"):
        isolate_rail(derive(straight(rails=2).plain()), "t", 1000, "Gate")


@pytest.mark.parametrize(
    ("changes", "key"),
    [
        ({"length": 60}, "short"),
        ({"at": 1700, "length": 600}, "gap"),
        ({}, "ties"),
    ],
)
def test_isolated_rails_that_cannot_work(changes: dict[str, Any], key: str) -> None:
    d = straight()
    rail = {"name": "Gate", "track": "t", "at": 700, "length": 600, "outer": "right", "works": "Gate", **changes}
    d.data["isolated"]["i"] = rail
    told = [f for f in check(derive(d.plain())) if f.key == f"isolated-{key}:i"]
    assert len(told) == 1 and "Gate" in told[0].title
    for mend in told[0].mends:
        assert f"isolated-{key}:i" not in {f.key for f in check(derive(apply_patch(d.plain(), mend.patch)))}


def test_rails_that_do_not_fit_are_found_by_name() -> None:
    d = straight(rails=2)
    told = next(f for f in check(derive(d.plain())) if f.key == "gap-rail:G1")
    assert "centre rail of Line" in told.title
    for mend in told.mends:
        assert "gap-rail:G1" not in {f.key for f in check(derive(apply_patch(d.plain(), mend.patch)))}
    d = Draft("Meet", brief={"control": "ac3", "scale": "O"})
    for k in range(3):
        d.node(f"N{k}", 1000 * k, 0, "joint" if k == 1 else "bumper")
    d.track("one", "Three", "N0.1", "N1.1")
    d.track("two", "Two", "N1.2", "N2.1", rails=2)
    assert "rails-meet:N1" in {f.key for f in check(derive(d.plain()))}


def test_the_gap_tool_cuts_the_centre_rail_of_three() -> None:
    sheet = Sheet(straight().plain())
    made = cut_gap(sheet, "t", 500, "both")
    assert sheet["gaps"][made]["rails"] == "centre"
    assert cut_gap(sheet, "t", 505, "outer left") == made and sheet["gaps"][made]["rails"] == "all"
    with pytest.raises(DrawingError):
        cut_gap(sheet, "t", 500, "both")


def test_stretches_go_with_their_track_when_it_is_split_or_turned_round() -> None:
    d = straight(outers="apart")
    d.data["isolated"]["i"] = {
        "name": "Gate",
        "track": "t",
        "at": 500,
        "length": 400,
        "outer": "right",
        "works": "Gate",
    }
    sheet = Sheet(d.plain())
    reverse_track(sheet, "t")
    turned = sheet.layout().isolated["i"]
    assert (turned.start, turned.end, turned.outer) == (3100, 3500, "left")
    sheet = Sheet(d.plain())
    split_track(sheet, "t", 700)
    assert sheet.layout().isolated["i"].end <= 700


def test_what_lies_past_the_end_of_its_track_is_refused() -> None:
    d = straight()
    d.data["isolated"]["i"] = {
        "name": "Gate",
        "track": "t",
        "at": 3800,
        "length": 400,
        "outer": "right",
        "works": "Gate",
    }
    with pytest.raises(LayoutError, match="plain track alone") as told:
        read_layout(d.data)
    assert "Line" in str(told.value) and "Gate" in str(told.value)
