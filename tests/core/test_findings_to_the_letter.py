"""Figures of findings worked out again by hand: what a sentence says is what follows from the layout."""

from __future__ import annotations

import re

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from jolly_copper.core.circuits.edits import add_feeder
from jolly_copper.core.circuits.facts import Facts, derive
from jolly_copper.core.circuits.staircase import explain
from jolly_copper.core.findings.check import check
from jolly_copper.core.findings.measured import MOST_OHMS
from jolly_copper.core.findings.model import Finding
from jolly_copper.core.findings.reversing import some_names
from jolly_copper.core.findings.track import _dead
from jolly_copper.core.layout.reading import read_layout
from jolly_copper.core.quantities import print_ohms
from jolly_copper.core.rails.dead import Stand
from jolly_copper.demo import signalled_bay
from jolly_copper.demo.drafting import Draft
from tests.layouts import feeder, plain

COPPER_20 = 1.7241e-8
"""Ω·m at 20 °C, annealed copper (IEC 60028)."""
PER_DEGREE = 0.00393
"""Temperature coefficient of copper at 20 °C (IEC 60028)."""
MM2 = {"16 AWG": 1.309, "18 AWG": 0.8230, "20 AWG": 0.5176, "22 AWG": 0.3255, "24 AWG": 0.2047, "26 AWG": 0.1288}
"""Cross sections of solid wire, mm² (ASTM B258)."""


def of_rule(facts: Facts, rule: str) -> list[Finding]:
    return [f for f in check(facts) if f.rule == rule]


def figure(finding: Finding, name: str) -> float:
    text = dict(finding.figures)[name]
    number = re.match(r"([\d.]+)", text)
    assert number, text
    return float(number[1])


def test_heat_in_a_thin_wire_is_amps_squared_times_ohms(demo_facts: Facts) -> None:
    """P/l = I²·ρ/A at the wire temperature of the house: by the resistivity of copper, a twentieth for strands."""
    told = of_rule(demo_facts, "wire too thin for its protection")
    assert told
    celsius = demo_facts.layout.brief.rules.wire_celsius
    for f in told:
        layout = demo_facts.layout
        thing = layout.runs[f.place.id] if f.place.kind == "run" else layout.feeders[f.place.id]
        ohms = COPPER_20 * (1 + PER_DEGREE * (celsius - 20)) / (MM2[thing.gauge] * 1e-6)
        assert figure(f, "heat") == pytest.approx(figure(f, "carries") ** 2 * ohms, rel=0.06, abs=0.02), f.title
        assert figure(f, "carries") > figure(f, "good for")
        assert (f.severity == "must") == (figure(f, "carries") > 1.5 * figure(f, "good for")), f.title


def test_a_long_list_of_sections_is_cut_with_how_many_more() -> None:
    """An engine too quiet for its detectors: the first six sections by name, the rest by number."""
    data = signalled_bay().model_dump(mode="json")
    for engine in data["locos"].values():
        engine["idle"] = 0.0005
    told = [f for f in of_rule(derive(read_layout(data)), "what detectors see") if f.key.startswith("blind:")]
    assert told
    for f in told:
        count = int(dict(f.figures)["sections"])
        names = f.title.split(" seen in ")[1]
        assert count > 6, "as many as fit on two lines of the list"
        assert names.endswith(f" and {count - 6} more")


EVERY_MM = 2438.4
"""The house rule for code 83: a feeder every eight feet. Common practice, no source."""


APART = st.one_of(st.integers(300, 2480), st.integers(2520, 3600), st.integers(3700, 12_000))
"""Within the rule, over it, and over half as much again, mm."""


@given(APART, st.integers(0, 200), st.integers(0, 200))
def test_feeders_too_far_apart_by_hand(apart: int, before: int, after: int) -> None:
    """Told from a fiftieth over the house rule, as urgent from half as much again, in the middle between the two."""
    length = before + apart + after
    d = plain(length, code=83)
    d.data["brief"]["units"] = "metric"
    d.data["runs"]["R1"]["path"][1]["x"] = length
    d.data["terminals"]["T2"]["along"] = length
    feeder(d, "F1", "t", before, "T1")
    feeder(d, "F2", "t", before + apart, "T2")
    told = of_rule(derive(d.plain()), "feeder spacing")
    over = apart / EVERY_MM
    assume(min(abs(over - 1.02), abs(over - 1.5)) > 0.01)
    if over < 1.02:
        assert told == []
        return
    (f,) = told
    assert f.severity == ("should" if over > 1.5 else "look")
    assert f.place.at == pytest.approx(before + apart / 2, abs=80)
    said = re.search(r"are ([\d.,]+) (m|mm) apart", f.title)
    assert said, f.title
    millimetres = float(said[1].replace(",", "")) * {"m": 1000, "mm": 1}[said[2]]
    assert millimetres == pytest.approx(apart, rel=0.01)
    assert dict(f.figures)["house rule"] == "2.44 m"
    (mend,) = f.mends
    (added,) = [o for o in mend.patch if o["path"].startswith("/feeders/")]
    assert added["value"]["at"] == pytest.approx(before + apart / 2, abs=80)


def bus_apart(metres: float, inches_apart: float) -> Facts:
    """One digital bus of this length with its wires apart, a feeder at its end, an engine of 2 A."""
    d = plain(3000)
    d.data["brief"]["rules"]["count_inductance"] = True
    run = d.data["runs"]["R1"]
    run |= {"make": "apart", "spacing": 25.4 * inches_apart, "tape": 1000 * metres, "gauge": "12 AWG"}
    d.data["terminals"]["T2"]["along"] = 1000 * metres
    feeder(d, "F1", "t", 100, "T2")
    d.data["locos"]["e"] = {"name": "Engine", "idle": 0.1, "running": 2.0, "stall": 4.0}
    d.data["trains"]["x"] = {"name": "Train", "engines": ["e"], "length": 300}
    d.data["scenes"]["s"] = {"name": "Show", "placements": [{"train": "x", "doing": "running", "circuits": ["main"]}]}
    return derive(d.plain(), "s")


@pytest.mark.parametrize("metres", [1, 2, 4, 6, 8, 10, 14, 20])
def test_wires_apart_are_told_from_three_hundredths_of_the_volts(metres: int) -> None:
    facts = bus_apart(metres, 3)
    told = of_rule(facts, "wires apart")
    track, at = facts.place_of(int(facts.worst_point() or 0))
    found = explain(facts, track, at)
    lost = sum(s.volts for s in found.steps if s.kind == "inductance" and "R1" in s.owners)
    assert lost > 0 and bool(told) == (lost >= 0.03 * found.source_volts), (lost, found.source_volts)
    for f in told:
        assert figure(f, "lost to inductance, estimate") == pytest.approx(lost, abs=0.006)


def test_three_hundredths_lie_between_those_lengths() -> None:
    """So that the test above sees both sides of the limit."""
    assert [bool(of_rule(bus_apart(m, 3), "wires apart")) for m in (1, 20)] == [False, True]


@pytest.mark.parametrize(
    ("names", "words"),
    [
        (["Up"], "Up"),
        (["Up", "Up"], "Up"),
        (["Up", "Down"], "Up and Down"),
        (["Up", "Down", "Up", "Yard"], "Up, Down and Yard"),
        (["Up", "Down", "Yard", "Shed"], "Up, Down, Yard and 1 more"),
        (["Up", "Down", "Yard", "Shed", "Quay"], "Up, Down, Yard and 2 more"),
    ],
)
def test_a_few_tracks_in_words(names: list[str], words: str) -> None:
    d = Draft("Row")
    for k, name in enumerate(names):
        d.node(f"N{k}", 1000 * k, 0, "bumper")
        d.node(f"M{k}", 1000 * k + 900, 0, "bumper")
        d.track(f"t{k}", name, f"N{k}.1", f"M{k}.1")
    layout = d.plain()
    assert some_names(layout, tuple(layout.tracks)) == words


PARTS = [
    (
        {"what": "joiner", "track": "t", "at": 914.4, "side": "left"},
        "the joiner in the left rail of Track, 914 mm from its A end",
        ("track", "t", "t", 914.4),
    ),
    ({"what": "wire", "of": "F1", "side": "B"}, "the B wire of feeder F1", ("feeder", "F1", "t", 100)),
    (
        {"what": "contact", "of": "F1", "side": "A"},
        "the A contact at the terminal of feeder F1",
        ("feeder", "F1", "t", 100),
    ),
    ({"what": "contact", "of": "T2", "side": "B"}, "the B contacts of terminal T2", ("terminal", "T2", None, None)),
    ({"what": "plug", "of": "P1", "side": "A"}, "pole A of plug P1", ("plug", "P1", None, None)),
]
"""A part as it is written down, in words, and where it is shown."""


def with_part(part: dict[str, object], ohms: float | None) -> Facts:
    d = plain(3000, joiner_every=914.4)
    d.data["brief"]["units"] = "metric"
    feeder(d, "F1", "t", 100, "T2")
    d.data["plugs"]["P1"] = {"run": "R1", "along": 500}
    d.data["measured"] = {"M1": {**part, "ohms": ohms}}
    return derive(d.plain())


@pytest.mark.parametrize(("part", "words", "place"), PARTS)
def test_a_part_is_told_and_shown_where_people_find_it(
    part: dict[str, object], words: str, place: tuple[object, ...]
) -> None:
    (f,) = of_rule(with_part(part, None), "part broken")
    assert f.title == f"{words[0].upper()}{words[1:]} is broken" and f.severity == "must"
    assert (f.place.kind, f.place.id, f.place.track, f.place.at) == place
    assert f.shows == (place[1],)


@pytest.mark.parametrize(("part", "words", "place"), [p for p in PARTS if p[0]["what"] in MOST_OHMS])
def test_a_part_is_worn_from_twice_what_a_sound_one_reads(
    part: dict[str, object], words: str, place: tuple[object, ...]
) -> None:
    most = MOST_OHMS[str(part["what"])]
    assert of_rule(with_part(part, 2 * most), "part worse than sound") == []
    (f,) = of_rule(with_part(part, 2.2 * most), "part worse than sound")
    assert words in f.title[0].lower() + f.title[1:] and (f.place.kind, f.place.id) == place[:2]
    assert f.severity == "look" and dict(f.figures)["sound, at most"] == print_ohms(most)


@pytest.mark.parametrize(
    ("status", "severity", "key", "words"),
    [
        ("lined up", "look", "lined-up", "has power only while the turnouts are set for it"),
        ("not settled", "look", "not-settled", "was not settled"),
        ("never", "must", "never", "never has both rails live, whatever the turnouts"),
        ("can die", "must", "dead", "is dead with T1 set through"),
    ],
)
def test_how_a_piece_of_track_fares_in_words(
    demo_facts: Facts, status: str, severity: str, key: str, words: str
) -> None:
    """What was not settled is never a must; of what is dead the setting is named."""
    piece = demo_facts.rails.pieces["up-north-2"][0]
    stand = Stand(piece, status, (("T1", "through"),), ("up-north-2",))  # type: ignore[arg-type]
    told = _dead(demo_facts, stand)
    assert (told.severity, told.key) == (severity, f"{key}:up-north-2") and words in told.title
    assert ("turnouts that matter" in dict(told.figures)) == (key == "dead")


def test_a_new_feeder_agrees_with_those_on_its_own_rail_else_with_most() -> None:
    """Three tracks that meet nowhere: one fed the other way about, two feeders on another, none on the third."""
    d = plain(3000)
    for k, name in enumerate(("u", "v"), start=1):
        d.node(f"A{k}", 0, 300 * k, "bumper")
        d.node(f"B{k}", 3000, 300 * k, "bumper")
        d.track(name, f"Track {name}", f"A{k}.1", f"B{k}.1", joiner_every=None)
        d.section(f"s{name}", f"Section {name}", name, 10, "main")
    feeder(d, "F1", "t", 1500, "T1", a_rail="right")
    for k, at in enumerate((500, 1500, 2500), start=2):
        feeder(d, f"F{k}", "u", at, "T1", a_rail="left")
    facts = derive(d.plain())
    sides = {}
    for track in ("t", "u", "v"):
        (added,) = add_feeder(facts, "main", track, 2000) or []
        sides[track] = added["value"]["a_rail"]
    assert sides == {"t": "right", "u": "left", "v": "left"}


@pytest.mark.parametrize("length", [2800, 4000, 6000])
def test_a_lone_end_is_as_far_as_it_is_from_its_one_feeder(length: int) -> None:
    """Between two feeders the farthest place is half their distance from either; at a lone end there is only one."""
    d = plain(length, code=83)
    d.data["brief"]["units"] = "metric"
    feeder(d, "F1", "t", 100, "T1")
    (f,) = of_rule(derive(d.plain()), "feeder spacing")
    assert figure(f, "apart") == pytest.approx((length - 100) / 1000, abs=0.03)
    assert f.place.at == pytest.approx(length, abs=1)
