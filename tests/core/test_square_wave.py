"""The inductive estimates against transients of a general circuit simulator (ngspice): where they hold and where they err."""

from __future__ import annotations

import re
import shutil
import subprocess

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.circuits.square_wave import square_wave_share
from jolly_copper.core.circuits.staircase import explain
from jolly_copper.core.materials.copper import ohms_per_metre, pair_henries_per_metre
from jolly_copper.core.quantities import read_gauge
from tests.layouts import feeder, plain

HALF_BIT = 58e-6
needs_ngspice = pytest.mark.skipif(
    shutil.which("ngspice") is None, reason="ngspice is a Debian package; make test installs it"
)


def mean_volts_behind_a_rectifier(ohms: float, henries: float, amps: float, volts: float = 14.4) -> float:
    """Mean volts on the reservoir of a decoder drawing steady amps at the end of a line fed with a square wave."""
    periods = 150
    text = f"""* decoder at the end of a line
V1 a 0 PULSE({-volts} {volts} 0 1u 1u {HALF_BIT - 1e-6} {2 * HALF_BIT})
R1 a b {ohms}
L1 b c {max(henries, 1e-9)}
D1 c p D
D2 0 p D
D3 m c D
D4 m 0 D
.model D D(IS=1e-6 N=1 RS=10m CJO=200p TT=1n)
R8 c 0 2k
C1 p m 470u IC={volts * 0.85}
I1 p m DC {amps}
R9 m 0 10k
R7 p 0 10k
.options reltol=1e-3 method=gear
.control
tran 1u {2 * HALF_BIT * periods} {2 * HALF_BIT * (periods - 30)} 1u uic
let out = v(p)-v(m)
meas tran r AVG out
quit
.endc
.end
"""
    ran = subprocess.run(["ngspice", "-b"], input=text, capture_output=True, text=True, timeout=120, check=False)
    match = re.search(r"^r\s*=\s*(\S+)", ran.stdout, re.M)
    assert match, ran.stdout[-800:] + ran.stderr[-400:]
    return float(match[1])


def line(make: str, metres: float = 15, spacing: float = 100) -> tuple[float, float]:
    """Loop Ω and H of a run of 14 AWG this long."""
    gauge = read_gauge("14 AWG")
    return 2 * metres * ohms_per_metre(gauge, "solid"), metres * pair_henries_per_metre(make, gauge, spacing)  # type: ignore[arg-type]


@needs_ngspice
def test_wires_apart_lose_what_the_formula_says() -> None:
    """15 m of 14 AWG 100 mm apart, 3 A: ΔV = 2·L·I/T is 3.1 V, and the transient loses about that over the same copper."""
    ohms, henries = line("apart")
    lost = mean_volts_behind_a_rectifier(ohms, 0, 3) - mean_volts_behind_a_rectifier(ohms, henries, 3)
    assert lost == pytest.approx(2 * henries * 3 / HALF_BIT, rel=0.15)


@needs_ngspice
def test_for_wires_that_touch_the_formula_errs_to_the_safe_side() -> None:
    ohms, henries = line("twisted")
    lost = mean_volts_behind_a_rectifier(ohms, 0, 3) - mean_volts_behind_a_rectifier(ohms, henries, 3)
    formula = 2 * henries * 3 / HALF_BIT
    assert 0 < lost <= formula * 1.02
    assert formula <= 2.2 * lost, "at most about double: it says estimate, and it may not be more wrong than that"


@needs_ngspice
@pytest.mark.parametrize("make", ["apart", "side by side", "twisted"])
def test_shorts_at_the_end_of_a_run_agree_with_a_transient(make: str) -> None:
    ohms, henries = line(make, 30)
    ohms += 0.25
    text = f"""* short
V1 a 0 PULSE(-14.4 14.4 0 1n 1n {HALF_BIT - 1e-9} {2 * HALF_BIT})
R1 a b {ohms}
L1 b 0 {henries}
.options reltol=1e-5
.control
tran 0.2u {60 * HALF_BIT} 0 0.2u
meas tran r RMS i(L1) from={40 * HALF_BIT} to={60 * HALF_BIT}
quit
.endc
.end
"""
    ran = subprocess.run(["ngspice", "-b"], input=text, capture_output=True, text=True, timeout=60, check=False)
    match = re.search(r"^r\s*=\s*(\S+)", ran.stdout, re.M)
    assert match, ran.stdout
    assert float(match[1]) == pytest.approx(14.4 / ohms * float(square_wave_share(ohms, henries, HALF_BIT)), rel=0.005)


@given(st.floats(0.05, 20), st.floats(1e-8, 1e-3))
def test_a_share_is_a_share_and_falls_with_inductance(ohms: float, henries: float) -> None:
    share = float(square_wave_share(ohms, henries, HALF_BIT))
    assert 0 <= share <= 1
    assert float(square_wave_share(ohms, henries * 2, HALF_BIT)) <= share + 1e-12
    assert float(square_wave_share(ohms * 2, henries, HALF_BIT)) >= share - 1e-12


def test_the_share_joins_its_series_smoothly() -> None:
    """Below x = 0.001 the series x/√3 is used; both sides of the seam must agree."""
    at = HALF_BIT / (2e-3)
    below, above = (float(square_wave_share(1.0, at * f, HALF_BIT)) for f in (1.0001, 0.9999))
    assert below == pytest.approx(above, rel=1e-3)


def test_the_staircase_uses_the_same_formula_by_hand() -> None:
    """One feeder at the bus's far end: all current passes 1 m of the run and the feeder; rails carry none."""
    d = plain()
    d.data["runs"]["R1"].update(make="apart", spacing=100)
    feeder(d, "F1", "t", 1000, "T2")
    d.data["brief"]["rules"]["test_train"] = 2.0
    answer = explain(derive(d.plain()), "t", 1000)
    henries = (
        pair_henries_per_metre("apart", read_gauge("14 AWG"), 100) * 1.0
        + pair_henries_per_metre("side by side", read_gauge("20 AWG")) * 0.4
    )
    assert answer.loop_henries == pytest.approx(henries)
    (step,) = [s for s in answer.steps if s.kind == "inductance"]
    assert step.volts == pytest.approx(2 * henries * 2.0 / HALF_BIT)


def test_twisting_only_touches_the_estimate() -> None:
    d = plain()
    feeder(d, "F1", "t", 1000, "T2")
    facts = {}
    for make in ("apart", "side by side", "twisted"):
        d.data["runs"]["R1"]["make"] = make
        facts[make] = derive(d.plain())
    volts = [float(np.nanmin(facts[m].volts)) for m in ("apart", "side by side", "twisted")]
    exact = {round(float(np.nanmin(f.exact_volts)), 12) for f in facts.values()}
    assert volts == sorted(volts) and len(exact) == 1
