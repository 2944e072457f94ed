"""Every rule finds its mistake, says it in a sentence with numbers, and falls silent once mended."""

from __future__ import annotations

import pytest

from jolly_copper.core.circuits.facts import Facts, derive
from jolly_copper.core.findings.check import check
from jolly_copper.core.findings.model import REGISTRY, Finding
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.layout.reading import read_layout
from jolly_copper.demo.drafting import Draft
from tests.layouts import booster, feeder, plain, without


@pytest.fixture(scope="module")
def found(demo_facts: Facts) -> list[Finding]:
    return check(demo_facts)


def by_rule(layout: Layout, rule: str) -> list[Finding]:
    return [f for f in check(derive(layout, next(iter(layout.scenes), None))) if f.rule == rule]


def test_the_demo_has_nearly_every_kind_of_mistake_planted(found: list[Finding]) -> None:
    """The rest would hide others or spoil the picture; each is tested on a small layout of its own."""
    assert {f.rule for f in found} == {
        "breaker below booster",
        "coin test",
        "drop",
        "feeder length",
        "feeder fights a reverser",
        "feeder spacing",
        "frogs",
        "piece without feeder",
        "wire too thin for its protection",
        "wires apart",
        "load volts",
        "reference wire",
        "supply below its label",
        "turnouts on the track",
        "run longer than its make allows",
        "plug missing at a joint",
        "wire through an obstacle",
        "curve too tight",
    }
    assert {f.rule for f in found} < set(REGISTRY)


def test_findings_are_sentences_with_numbers_reasons_and_sources(found: list[Finding]) -> None:
    for f in found:
        assert f.title[0].isupper() and not f.title.endswith("."), f.title
        assert f.why.endswith(".") and f.mend.endswith(".") and f.source
        assert f.figures and all(
            any(c.isdigit() for c in v) or n in ("district", "tied to", "section's circuit") for n, v in f.figures
        )
        assert "!" not in f.title + f.why + f.mend
    assert len({f.key for f in found}) == len(found)


def test_most_serious_first(found: list[Finding]) -> None:
    order = ["must", "should", "look"]
    assert [f.severity for f in found] == sorted((f.severity for f in found), key=order.index)


def test_every_mend_the_tool_offers_removes_its_finding_or_moves_its_figures(
    demo: Layout, found: list[Finding]
) -> None:
    for f in found:
        for mend in f.mends:
            after = {g.key: g for g in check(derive(apply_patch(demo, mend.patch), "open-day"))}
            if f.rule in ("drop", "coin test", "feeder spacing"):  # the next worst place may come forward
                now = after.get(f.key)
                assert now is None or (now.figures, now.place) != (f.figures, f.place), f.title
            else:
                assert f.key not in after, f"{mend.label} leaves: {f.title}"


def test_a_mend_for_missing_feeders_is_in_phase(demo: Layout, found: list[Finding]) -> None:
    for f in found:
        if f.rule in ("piece without feeder", "feeder spacing"):
            for mend in f.mends:
                after = check(derive(apply_patch(demo, mend.patch), "open-day"))
                assert not [g for g in after if g.rule == "feeders in a short"], mend.label


def test_accepting_keeps_the_reason_and_puts_it_last(demo: Layout, found: list[Finding]) -> None:
    key = found[0].key
    layout = read_layout(without(demo, accepted={key: {"reason": "Leaves with the loan engine in May.", "by": "Q."}}))
    after = check(derive(layout, "open-day"))
    assert after[-1].key == key and after[-1].accepted == "Leaves with the loan engine in May."


def fed() -> Draft:
    d = plain(joiner_every=None)
    feeder(d, "F1", "t", 100, "T1")
    feeder(d, "F2", "t", 1500, "T2")
    feeder(d, "F3", "t", 2900, "T2")
    for f in d.data["feeders"].values():
        f["tape"] = 250
    d.data["devices"]["B1"]["trip_amps"] = 3
    return d


def test_a_sound_little_layout_has_nothing_to_settle() -> None:
    found = check(derive(fed().plain()))
    assert [f for f in found if not f.key.startswith("tape-short")] == [], "its feeders are taped shorter than drawn"


def test_swapped_feeder() -> None:
    d = fed()
    d.data["feeders"]["F2"]["a_rail"] = "right"
    (f,) = by_rule(d.plain(), "feeder swapped")
    assert f.severity == "must" and "F2" in f.title + str(f.mends)
    assert by_rule(d.plain(), "feeders in a short") == [], "said once, where the rails know which feeder it is"


def test_run_with_no_source() -> None:
    d = fed()
    d.data["circuits"]["lost"] = {"name": "Lost"}
    d.data["devices"]["K9"] = {
        "kind": "breaker",
        "name": "K9",
        "at": {"x": 0, "y": 0},
        "input": "lost2",
        "output": "lost",
    }
    d.data["circuits"]["lost2"] = {"name": "Lost too"}
    d.bus("R5", "lost", "14 AWG", [(0, 900), (1000, 900)], fed={"device": "K9"})
    (f,) = by_rule(d.plain(), "wire with no source")
    assert f.key == "no-source:run:R5"


def test_booster_that_cannot_trip_its_breaker() -> None:
    """Resistance looks fine and the breaker never trips: the source gives less than the trip."""
    d = fed()
    d.data["devices"]["B1"].update(limit_amps=2.5, trip_amps=3)
    (f,) = by_rule(d.plain(), "never trips")
    assert f.severity == "must" and "gives no more than 2.50 A" in f.title and "whatever the wire" in f.why
    assert by_rule(d.plain(), "coin test") == [], "said once"


def test_thin_long_bus_fails_the_coin_test_by_hand() -> None:
    """30 AWG, 15 m taped: 2·15·0.3385 Ω = 10.2 Ω; 14.4 V over that and the rest is about 1.4 A, less than 3 A."""
    d = fed()
    for f in ("F1", "F2", "F3"):
        d.data["feeders"][f]["terminal"] = "T2"
    d.data["runs"]["R1"].update(gauge="30 AWG", tape=15000)
    d.data["terminals"]["T2"]["along"] = 15000
    d.data["brief"]["control"] = "dc"
    (f,) = by_rule(d.plain(), "coin test")
    assert f.severity == "must"
    assert float(dict(f.figures)["short current"].split()[0]) == pytest.approx(
        14.4 / (10.2 + 0.1 + 0.05 + 0.3), abs=0.1
    )


def test_ampacity_uses_the_protection_and_its_mend_is_the_lightest_that_carries() -> None:
    d = fed()
    d.data["feeders"]["F1"]["gauge"] = "26 AWG"
    (f,) = by_rule(d.plain(), "wire too thin for its protection")
    assert f.place.id == "F1" and f.mends[0].label.endswith("22 AWG")


def test_feeder_lengths_by_gauge() -> None:
    d = fed()
    d.data["feeders"]["F1"]["tape"] = 400  # common practice, no source: 20 AWG up to 12 in, 18 AWG up to 32 in
    (f,) = by_rule(d.plain(), "feeder length")
    d.data["feeders"]["F1"]["gauge"] = "18 AWG"
    assert f.mends and by_rule(d.plain(), "feeder length") == []


def test_joiners_in_a_row_on_a_spur() -> None:
    d = fed()
    d.data["tracks"]["t"]["joiner_every"] = 300.0
    del d.data["feeders"]["F3"]
    (f,) = by_rule(d.plain(), "feeder spacing")
    assert "hangs on 4 joiners" in f.title or "hangs on 5 joiners" in f.title


def test_breaker_as_large_as_its_booster() -> None:
    d = fed()
    d.data["circuits"]["sub"] = {"name": "Sub"}
    d.data["devices"]["K1"] = {
        "kind": "breaker",
        "name": "K1",
        "at": {"x": 0, "y": 0},
        "input": "main",
        "output": "sub",
        "trip_amps": 3,
    }
    (f,) = by_rule(d.plain(), "breaker below booster")
    assert f.mends[0].patch[0]["value"] == 2.0
    d.data["devices"]["K1"]["trip_amps"] = 2.5
    assert by_rule(d.plain(), "breaker below booster") == []


def test_feeder_on_another_boosters_circuit() -> None:
    d = fed()
    booster(d, circuit="other", key="B2")
    d.bus("R2", "other", "14 AWG", [(0, 300), (1000, 300)], fed={"device": "B2"}, kind="soldered")
    d.data["feeders"]["F2"]["terminal"] = "T3"
    (f,) = by_rule(d.plain(), "feeder on another circuit")
    assert f.mends[0].patch == [{"op": "replace", "path": "/feeders/F2/terminal", "value": "T2"}]
    assert "is tied to Other" in f.title
