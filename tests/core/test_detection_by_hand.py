"""What a detector sees and what it takes for a train, by Ohm's law; and numbers of boards without a hole or a clash.

Thresholds, margins and ballast are common practice, no source (certainty C); the sums over them are not.
"""

from __future__ import annotations

import math
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.layout.signalling import Detecting
from jolly_copper.core.signals.numbering import begins, module_words, numbered, numbers_taken
from jolly_copper.core.signals.sensitivity import Seen, axle, axles_needed, filling, leakage, sensitivity
from jolly_copper.demo.drafting import Draft
from tests.judged import falls_silent, told
from tests.signalled import line

MARGIN = 1.5
OHM_METRES = {"dry": 1.0e6, "damp": 5.0e4, "wet": 5.0e3}


def section(threshold: float, metres: float = 4.0, **booster: Any) -> Seen:
    """One section of a line of two behind a coil that answers from so many amperes."""
    d = line(2, each=1000 * metres)
    d.data["detectors"]["DB1"]["threshold"] = threshold
    d.data["devices"]["B1"] |= booster
    d.data["locos"]["e"] = {"name": "Shunter", "idle": 0.02, "running": 0.3, "stall": 1}
    d.data["trains"]["x"] = {"name": "Local", "engines": ["e"], "length": 800, "lit_cars": 1, "amps_per_lit_car": 0.01}
    return next(s for s in sensitivity(derive(d.plain())) if s.name == "B0")


thresholds = st.sampled_from([0.0005, 0.002, 0.005, 0.01, 0.02, 0.1])


@given(thresholds, st.integers(1, 60), st.sampled_from([12.0, 14.4, 18.0]))
def test_a_section_by_ohms_law(threshold: float, metres: float, volts: float) -> None:
    seen = section(threshold, metres, volts=volts)
    assert seen.volts == pytest.approx(volts) and seen.length == pytest.approx(1000 * metres)
    for got, state in zip(seen.leaks, OHM_METRES, strict=True):
        assert got == pytest.approx(volts * metres / OHM_METRES[state], rel=1e-6), "I = V·l/R"
    assert seen.axle == pytest.approx(volts / 10_000)
    assert seen.axles == max(1, math.ceil(MARGIN * threshold / (volts / 10_000) - 1e-9))
    for amps, word in ((0.02, "parked engine"), (0.01, "lit car")):
        assert (word in seen.sees) is (amps >= MARGIN * threshold)
    ghosts = {s for s in OHM_METRES if volts * metres / OHM_METRES[s] + seen.filling > threshold / MARGIN}
    assert {g.removesuffix(" ballast") for g in seen.ghost} == ghosts


@given(thresholds, st.floats(5, 25), st.floats(500, 50_000))
def test_so_many_axles_are_enough_and_one_fewer_is_not(threshold: float, volts: float, ohms: float) -> None:
    count = axles_needed(threshold, volts, ohms)
    assert count * volts / ohms >= MARGIN * threshold * (1 - 1e-9)
    assert count == 1 or (count - 1) * volts / ohms < MARGIN * threshold


@given(st.floats(1, 30), st.floats(100, 1e6))
def test_an_axle_is_bought_at_twice_its_heat(volts: float, ohms: float) -> None:
    found = axle(volts, ohms)
    assert found.watts == pytest.approx(volts**2 / ohms) and found.amps == pytest.approx(volts / ohms)
    if found.buy is None:
        assert 2 * found.watts > 0.5, "no axle takes one so large"
    else:
        assert found.buy >= 2 * found.watts * (1 - 1e-9)


@given(st.floats(5, 20), st.floats(0.5, 50), st.floats(20e-6, 200e-6))
def test_rails_fill_with_every_edge(volts: float, metres: float, half_bit: float) -> None:
    """Q = 2·V·C·l each half bit: twice the volts, the length or the edges, twice the amps."""
    mean, peak = filling(volts, metres, half_bit)
    assert filling(2 * volts, metres, half_bit)[0] == pytest.approx(2 * mean)
    assert filling(volts, metres, half_bit / 2)[0] == pytest.approx(2 * mean)
    assert peak * 1e-6 == pytest.approx(mean * half_bit), "the same charge, in a microsecond"
    assert leakage(volts, metres, "wet") > leakage(volts, metres, "damp") > leakage(volts, metres, "dry")


@pytest.mark.parametrize(("threshold", "volts", "ohms"), [(0, 12, 1e4), (0.01, 0, 1e4), (0.01, 12, 0), (-1, 12, 1e4)])
def test_figures_that_cannot_be_are_refused(threshold: float, volts: float, ohms: float) -> None:
    with pytest.raises(ValueError, match="above zero"):
        axles_needed(threshold, volts, ohms)


# Numbers

sizes = st.lists(st.integers(1, 40), min_size=1, max_size=8)
modules = st.one_of(st.none(), st.integers(2, 32))


def boards(channels: list[int], module: int | None, addresses: list[int] | None = None) -> Draft:
    d = Draft("Boards", brief={"detecting": {"module": module}})
    for n, size in enumerate(channels, start=1):
        address = addresses[n - 1] if addresses else n
        place = {"x": 10.0 * n, "y": 0}
        d.data["detectors"][f"DB{n}"] = {"name": f"Board {n}", "at": place, "channels": size, "address": address}
    return d


@given(sizes, modules, st.integers(1, 200))
def test_boards_numbered_on_clash_nowhere_and_leave_no_hole(
    channels: list[int], module: int | None, first: int
) -> None:
    found = numbered(boards(channels, module).plain(), first)
    starts = [found[f"DB{n}"] for n in range(1, len(channels) + 1)]
    assert starts[0] == begins(first, Detecting(module=module)) >= first
    for (a, size), b in zip(zip(starts, channels, strict=True), starts[1:], strict=False):
        taken = numbers_taken(size, Detecting(module=module))
        assert b == a + taken >= a + size
    if module is not None:
        assert all((s - 1) % module == 0 for s in starts), "a board begins where a module does"
    d = boards(channels, module, starts)
    assert told(d, "addresses of detectors") == []


@given(sizes, modules, st.data())
def test_whatever_the_numbers_one_mend_sets_them_right(
    channels: list[int], module: int | None, data: st.DataObject
) -> None:
    addresses = [data.draw(st.integers(1, 300)) for _ in channels]
    d = boards(channels, module, addresses)
    for f in told(d, "addresses of detectors"):
        assert falls_silent(d, f), f.title


@given(st.integers(1, 64), st.integers(2, 32))
def test_a_board_takes_whole_modules(channels: int, module: int) -> None:
    taken = numbers_taken(channels, Detecting(module=module))
    assert taken % module == 0 and channels <= taken < channels + module
    assert numbers_taken(channels, Detecting()) == channels


def test_modules_are_told_as_they_are_set() -> None:
    layout = boards([8, 16, 8], 8, [1, 9, 26]).plain()
    words = [module_words(b, layout.brief.detecting) for b in layout.detectors.values()]
    assert words == ["module 1", "modules 2 to 3", "no module begins at 26"]
