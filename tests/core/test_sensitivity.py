"""What detectors see: axles, leakage and margins against sums by hand.

Thresholds and ballast are guesses marked so in the code; the sums on them are Ohm's law.
"""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.materials.detectors import AXLE_WATTS, DETECTORS
from jolly_copper.core.signals.sensitivity import (
    MARGIN,
    axle,
    axles_needed,
    cars_of,
    filling,
    leakage,
    sensitivity,
    vanishing,
)
from jolly_copper.demo import signalled_bay
from tests.signalled import line


def test_one_axle_by_hand() -> None:
    found = axle(14.4, 10_000)
    assert (found.amps, found.watts) == (pytest.approx(0.00144), pytest.approx(0.020736)) and found.buy == 0.1
    assert axle(14.4, 1000).buy == 0.5 and axle(18, 470).buy is None, "more heat than an axle's resistor stands"


@given(st.floats(8, 24), st.floats(500, 50_000), st.floats(0.0005, 0.05))
def test_so_many_axles_are_seen_and_one_fewer_is_not_sure(volts: float, ohms: float, threshold: float) -> None:
    n, each = axles_needed(threshold, volts, ohms), axle(volts, ohms)
    assert n * each.amps >= MARGIN * threshold * (1 - 1e-9)
    assert n == 1 or (n - 1) * each.amps < MARGIN * threshold * (1 + 1e-9)
    assert each.buy is None or (each.buy >= 2 * each.watts - 1e-9 and each.buy in AXLE_WATTS)


def test_leaks_add_up_with_length_and_wet_leaks_most() -> None:
    assert leakage(14.4, 8, "dry") == pytest.approx(2 * leakage(14.4, 4, "dry"))
    assert leakage(14.4, 4, "dry") < leakage(14.4, 4, "damp") < leakage(14.4, 4, "wet")
    mean, peak = filling(14.4, 10, 58e-6)
    assert mean == pytest.approx(2 * 14.4 * 300e-12 / 58e-6) and peak == pytest.approx(2 * 14.4 * 300e-12 / 1e-6)


def test_sections_are_judged_against_their_own_threshold() -> None:
    d = line(3)
    d.data["locos"]["small"] = {"name": "Railcar", "idle": 0.004, "running": 0.1, "stall": 0.4}
    layout = d.plain()
    (row,) = {(r.threshold, r.sees, r.blind) for r in sensitivity(derive(layout))}
    assert row == (0.005, ("6 axles",), ("Railcar standing still", "one resistor axle"))
    eager = apply_patch(layout, [{"op": "replace", "path": "/detectors/DB1/threshold", "value": 0.0005}])
    (row,) = {(r.sees, r.blind, r.ghost[-1:]) for r in sensitivity(derive(eager))}
    assert row == (("parked engine", "1 axle"), (), ("wet ballast",))


def test_dc_track_has_no_edges_to_fill_with() -> None:
    d = line(2)
    d.data["brief"]["control"] = "dc"
    assert all(r.filling == 0 for r in sensitivity(derive(d.plain())))


def test_trains_without_axles_vanish_and_with_enough_do_not() -> None:
    layout = signalled_bay()
    facts = derive(layout)
    gone = {v.train: v for v in vanishing(facts)}
    assert gone
    one = next(iter(gone.values()))
    mended = apply_patch(
        layout, [{"op": "replace", "path": f"/trains/{one.train}/resistor_axles", "value": one.wanted}]
    )
    assert one.train not in {v.train for v in vanishing(derive(mended))}
    assert one.wanted % one.cars == 0 and one.cars <= cars_of(layout, layout.trains[one.train])


def test_every_kind_of_detector_says_what_it_is_for() -> None:
    assert set(DETECTORS) == {"current transformer", "diode drop", "opto", "isolated rail"}
    assert all(u.why.endswith(".") and u.threshold > 0 for u in DETECTORS.values())
    assert DETECTORS["diode drop"].common_input and not DETECTORS["current transformer"].common_input
