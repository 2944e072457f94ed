"""Tests as things: what is listed on railroads of every kind, what each foretells, and what a reading says of it."""

from __future__ import annotations

import dataclasses
import itertools
from typing import Any

import numpy as np
import pytest

from jolly_copper.core.circuits.facts import Facts, derive
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.reading import read_layout
from jolly_copper.core.proving.bench import Bench
from jolly_copper.core.proving.judging import band_words, judge
from jolly_copper.core.proving.learn import Learned, learn
from jolly_copper.core.proving.meter_test import MeterTest, board_of
from jolly_copper.core.proving.meters import KINDS, ReadingError, Typed, read_typed
from jolly_copper.core.proving.offering import offered
from jolly_copper.core.proving.readings import Typing, lessons, place_key, understand
from jolly_copper.core.proving.stand_in import Probe, stand_in
from tests.layouts import feeder, plain


@pytest.fixture(scope="module")
def bench(demo_facts: Facts) -> Bench:
    return Bench(demo_facts)


def kinds(bench: Bench) -> dict[str, int]:
    found: dict[str, int] = {}
    for t in bench.tests:
        found[t.kind] = found.get(t.kind, 0) + 1
    return found


def two_feeders(**brief: Any) -> Layout:
    d = plain(2000)
    feeder(d, "F1", "t", 300, "T1")
    feeder(d, "F2", "t", 1700, "T2")
    d.data["brief"] |= brief
    return d.plain()


def test_every_wire_gap_and_source_of_the_demo_has_its_test(bench: Bench) -> None:
    keys = {t.key for t in bench.tests}
    layout = bench.layout
    assert {f"gap:{i}/{s}" for i, g in layout.gaps.items() for s in ("left", "right") if g.rails in ("both", s)} <= keys
    live = {e.owner for g in bench.dc.grounds for e in g.elements if e.kind == "feeder"}
    assert {f"feeder:{i}/{c}" for i in live for c in "AB"} <= keys
    assert {f"supply:{i}" for i in ("booster1", "booster2", "booster3", "PS1")} <= keys
    assert {f"flip:V1/{g}" for g in ("G13", "G14")} <= keys
    assert sum(t.tier == "must" for t in bench.tests) == len(bench.covers["must"].places)


def test_each_says_where_how_and_what_is_sound(bench: Bench) -> None:
    for t in bench.tests:
        assert t.title and t.where and t.prepare and t.foretold and t.outside, t.key
        assert 0 < t.minutes < 10 and all(s in KINDS for s in t.settings)
        assert t.kind in ("coin", "load", "supply") or not t.caution
        if t.kind in ("coin", "load", "supply"):
            assert t.caution, "where it can burn it says so"
        if t.high is not None and t.value is not None:
            assert (t.low or 0) <= t.value <= t.high, t.key


def test_power_off_comes_first_and_a_board_at_a_time(bench: Bench) -> None:
    powered = [t.power for t in bench.tests]
    assert powered == sorted(powered)
    boards = [board_of(bench.layout, t) for t in bench.tests if not t.power]
    assert len([1 for a, b in itertools.pairwise(boards) if a != b]) == len(set(boards)) - 1


def test_a_feeder_is_foretold_by_its_own_parts(bench: Bench) -> None:
    test = bench.by_key["feeder:F21/A"]
    element = next(
        e for g in bench.dc.grounds for e in g.elements if e.kind == "feeder" and (e.owner, e.conductor) == ("F21", "A")
    )
    assert test.value == pytest.approx(sum(p.ohms for p in element.parts))
    assert "an open wire still reads about" in test.prepare, "with its neighbours tied it proves nothing"


def test_a_gap_that_others_carry_round_says_so(bench: Bench) -> None:
    round_others = [t for t in bench.tests if t.kind == "gap" and "round by other wires" in t.prepare]
    assert len(round_others) >= 16, "16 of 18 gaps read low once all is tied"
    assert all(t.open_sound and t.low == pytest.approx(10_000) for t in round_others)


def test_the_coin_foretells_which_opens(bench: Bench, demo_facts: Facts) -> None:
    test = bench.by_key["coin:quarry"]
    assert "Breaker Quarry branch" in test.foretold
    worst = min(
        float(a) for a, c in zip(demo_facts.coin, demo_facts.circuit, strict=True) if c == "quarry" and np.isfinite(a)
    )
    assert f"{worst:.2f} A" in test.foretold or f"{worst:.0f} A" in test.foretold


@pytest.mark.parametrize(("control", "setting"), [("dc", "dc"), ("ac3", "ac true effective"), ("dcc", "ac averaging")])
def test_volts_are_read_the_way_the_control_wants(control: str, setting: str) -> None:
    bench = Bench(derive(two_feeders(control=control)))
    test = bench.by_key["open:s"]
    assert test.settings[0] == setting
    assert kinds(bench)["feeder"] == 4 and "load" in kinds(bench)


def test_a_bare_railroad_and_one_without_wire_have_what_they_have() -> None:
    assert Bench(derive(Layout(name="Bare"))).tests == ()
    d = plain(2000)
    assert kinds(Bench(derive(d.plain()))) == {"supply": 1, "heat": 1}


def test_only_what_changed_is_told_as_changed(bench: Bench) -> None:
    data = bench.layout.model_dump(mode="json")
    data["feeders"]["F33"]["gauge"] = "24 AWG"
    after = Bench(derive(read_layout(data), "open-day"))
    changed = {k for k, t in bench.by_key.items() if k in after.by_key and after.by_key[k].told != t.told}
    assert {"feeder:F33/A", "feeder:F33/B"} <= changed
    assert not {k for k in changed if k.startswith(("gap", "frog", "flip", "heat", "supply"))}
    assert len([k for k in changed if k.startswith("feeder")]) == 2


def test_the_same_document_says_the_same(demo_facts: Facts, bench: Bench) -> None:
    assert [t.told for t in Bench(demo_facts).tests] == [t.told for t in bench.tests]


def ohms(low: float | None, high: float | None, value: float | None = 0.03, **more: Any) -> MeterTest:
    return MeterTest(
        "feeder:F1/A",
        "feeder",
        "F1",
        "there",
        "off",
        ("ohms",),
        "Ω",
        "30 mΩ",
        value,
        low,
        high,
        outside="a joint.",
        **more,
    )


@pytest.mark.parametrize(
    ("typed", "sound", "words"),
    [
        ("0.05", True, "Sound"),
        ("0.9", False, "0.87"),
        ("OL", False, "Open, where"),
    ],
)
def test_a_wire_is_sound_or_not(typed: str, sound: bool, words: str) -> None:
    # 870 mΩ more than foretold
    verdict = judge(ohms(0.0, 0.11), read_typed(typed, "Ω"))
    assert verdict.sound is sound
    assert words in verdict.words or "870 mΩ" in verdict.words


def test_a_gap_wants_open() -> None:
    gap = ohms(10_000.0, None, None, open_sound=True)
    assert judge(gap, Typed(None, "Ω", open=True)).sound is True
    assert judge(gap, Typed(0.2, "Ω")).sound is False
    assert judge(gap, Typed(20_000.0, "Ω")).sound is True


def test_too_good_to_be_true_settles_nothing(bench: Bench) -> None:
    test = next(t for t in bench.tests if t.kind == "load" and (t.low or 0) > 0.1)
    made = understand(test, Typing("1 mV"), "square")
    assert made.verdict.sound is None and "Not learnt from" in made.verdict.words
    assert lessons([(test.key, made.value, None)]) == []


def test_a_loaded_reading_is_taken_per_ampere(bench: Bench) -> None:
    test = next(t for t in bench.tests if t.kind == "load")
    assert understand(test, Typing("240 mV", amps=0.5), "square").value == pytest.approx(0.48)
    assert test.under_power == pytest.approx(0.055, abs=0.02), "booster 25 mΩ and breaker 30 mΩ"
    by_two = understand(test, Typing("13.5 V", before="14.0 V", amps=1.0), "square")
    assert by_two.value == pytest.approx(0.5 - test.under_power)
    averaged = understand(test, Typing("15.0", "ac averaging", None, 1.0, "15.55"), "square")
    wound = 1.3863 * test.wound  # 2·ln 2, a resistor behind an inductance read by averaging
    assert averaged.value == pytest.approx(0.55 / 1.1107 - test.under_power - wound, rel=1e-3)
    with pytest.raises(ReadingError, match="Without a load"):
        understand(test, Typing("240 mV", amps=0.0), "square")


def test_a_meter_of_the_wrong_kind_is_refused(bench: Bench) -> None:
    volts = next(t for t in bench.tests if t.kind == "open")
    with pytest.raises(ReadingError, match="Ohms does not read this"):
        understand(volts, Typing("14", "ohms"), "square")
    with pytest.raises(ReadingError, match="nothing of digital track"):
        understand(volts, Typing("0", "dc"), "square")
    assert understand(volts, Typing("15.9", "ac averaging"), "square").verdict.sound is True
    assert understand(volts, Typing("10.0", "track display"), "square").verdict.sound is False


@pytest.mark.parametrize(
    ("low", "high", "words"),
    [(0.06, 0.11, "60 to 110 mΩ"), (10_000.0, None, "over 10 kΩ"), (0.0, 1.0, "up to 1 Ω"), (None, None, "")],
)
def test_a_band_in_words(low: float | None, high: float | None, words: str) -> None:
    assert band_words(low, high, "Ω") == words


def test_what_may_be_learnt_from() -> None:
    rows = [("load:t@300", 0.4, 1), ("load:t@900", None, 0), ("gap:G1/left", None, 1)]
    read = lessons(rows)
    assert [(r.place, r.ohms) for r in read] == [("t@300", 0.4), ("t@900", np.inf)]
    assert place_key("coin:main") is None


def test_measured_values_are_offered_as_one_change_that_computes() -> None:
    layout = two_feeders()
    bench = Bench(derive(layout))
    learned = learn(bench.dc, [])
    made = offered(layout, {"feeder:F1/A": 0.0421, "supply:B1": 14.1, "gap:G9/left": 0.2}, learned)
    assert len(made.lines) == 2 and "F1" in made.lines[0]
    from jolly_copper.core.layout.patching import apply_patch

    after = apply_patch(layout, list(made.patch))
    assert [m.ohms for m in after.measured.values()] == [0.0421] and after.devices["B1"].measured_volts == 14.1
    again = offered(after, {"feeder:F1/A": 0.0421, "supply:B1": 14.1}, learned)
    assert again.patch == (), "what is there already is not offered again"


def test_rail_that_reads_like_more_is_offered_for_all_of_its_code() -> None:
    layout = two_feeders()
    track = layout.tracks["t"]
    name = f"rail of code {track.code}, {track.metal}"
    made = offered(layout, {}, Learned((), (), 1.0, ((name, 0.2, 0.04),), ()))
    assert len(made.patch) == 1 and made.patch[0]["path"] == "/tracks/t/ohms_per_metre" and "+20 %" in made.lines[0]
    unsure = offered(layout, {}, Learned((), (), 1.0, ((name, 0.2, 0.18),), ()))
    assert unsure.patch == ()


def test_tests_are_plain_data() -> None:
    assert {f.name for f in dataclasses.fields(MeterTest)} >= {
        "key",
        "where",
        "prepare",
        "low",
        "high",
        "outside",
        "caution",
    }


def test_a_stand_in_meter_shows_what_the_railroad_has(bench: Bench) -> None:
    left, right = Probe("yard-1", 1000, "left"), Probe("yard-1", 1000, "right")
    assert stand_in(bench, left, right, "ac true effective").value == pytest.approx(14.4, abs=0.1)
    assert stand_in(bench, left, right, "ac averaging").value == pytest.approx(14.4 * 1.1107, abs=0.1)
    nothing = stand_in(bench, left, right, "dc")
    assert nothing.value == 0 and "whatever the volts" in nothing.why
    assert stand_in(bench, left, right, "ohms").text == "OL", "open with the sources unplugged"
    assert stand_in(bench, left, left, "ohms").value == 0
    along = stand_in(bench, left, Probe("yard-1", 3000, "left"), "ohms")
    assert along.value is not None and 0 < along.value < 0.5
    assert stand_in(bench, left, right, "lamp").text == "lit"
    assert stand_in(bench, left, Probe("shed-3", 300, "right"), "ac averaging").text == "drifts"
    with pytest.raises(ValueError, match="not on the layout"):
        stand_in(bench, Probe("gone", 0, "left"), right, "ohms")


def test_between_two_sources_the_same_rail_reads_next_to_nothing(bench: Bench) -> None:
    phases = [t for t in bench.tests if t.kind == "phase"]
    assert phases and all(t.high == 2.0 for t in phases)
    opposed = understand(phases[0], Typing("28", "ac true effective"), "square")
    assert opposed.verdict.sound is False and "swap both wires" in opposed.verdict.words


def test_each_board_with_feeders_is_walked_once(bench: Bench) -> None:
    walks = [t for t in bench.tests if t.kind == "rails"]
    assert len(walks) == len({board_of(bench.layout, t) for t in walks}) >= 8


def test_what_this_meter_may_be_off_accuses_nothing(bench: Bench) -> None:
    """Accuracy class: 12 % of the reading for an AC meter never calibrated, 3 % once it was (common practice, no
    source), at the band of the bench."""
    volts = next(t for t in bench.tests if t.kind == "open")
    low = volts.low or 0.0
    shown = (low - 0.5) * 1.1107
    unsure = understand(volts, Typing(f"{shown:.2f}", "ac averaging"), "square")
    assert unsure.verdict.sound is None and "bridge" in unsure.verdict.words
    sure = understand(volts, Typing(f"{low - 0.9:.2f}", "ac averaging", factor=1.0), "square")
    assert sure.verdict.sound is False


def test_dead_rails_are_read_as_dead_and_taught(bench: Bench) -> None:
    test = next(t for t in bench.tests if t.kind == "load")
    for typed in ("dead", "OL", "no volts"):
        made = understand(test, Typing(typed), "square")
        assert made.value is None and made.verdict.sound is False and "No volts at all" in made.verdict.words
    assert [r.ohms for r in lessons([(test.key, None, 0)])] == [np.inf]


def test_a_coin_that_the_wire_as_drawn_does_not_trip_blames_no_joint() -> None:
    d = plain(2000)
    feeder(d, "F1", "t", 300, "T1")
    d.data["devices"]["B1"] |= {"trip_amps": 5, "limit_amps": 3}
    coin = Bench(derive(d.plain())).by_key["coin:main"]
    assert "nothing opens" in coin.foretold and "as foretold" in judge(coin, read_typed("no", "yes")).words
