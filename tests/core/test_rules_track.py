"""Rules about track, to the letter: phases at a gap, gaps in one rail, dead frogs, feeders too long, loads that sag.

Thresholds are house rules and common practice, no source.
"""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jolly_copper.core.circuits.edits import add_feeder, offer_feeder
from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.layout.reading import read_layout
from jolly_copper.core.materials import copper
from jolly_copper.core.quantities import read_gauge
from jolly_copper.core.rails import dead
from jolly_copper.core.rails.pieces import Setting
from jolly_copper.core.rails.shorts import Short, _minimal
from jolly_copper.demo.drafting import Draft
from tests import track_plans
from tests.core.test_rails_true import topology_of
from tests.core.test_track_findings import loop_on_a_reverser
from tests.core.test_turnout_states import siding
from tests.judged import falls_silent, mended, number, said, severities, told
from tests.layouts import booster, feeder, plain, random_layout
from tests.signalled import double, junction
from tests.track_plans import power, tie

# Phases


@pytest.mark.parametrize("one", ["left", "right"])
@pytest.mark.parametrize("other", ["left", "right"])
def test_phases_on_both_sides_of_a_gap(one: str, other: str) -> None:
    """A ring in two halves: sound while wire A goes to the same side in both."""
    d = power(track_plans.oval())
    d.gap("north", 1000)
    d.gap("south", 1000)
    tie(d, "F1", "north", 400, a_rail=one)
    tie(d, "F2", "north", 1500, a_rail=other)
    found = told(d, "phases meet at a gap")
    assert bool(found) is (one != other)
    for f in found:
        assert sorted(said(f).values()) == ["conductor A", "conductor B"]
        assert "Swap 1 feeder" in f.mends[0].label and falls_silent(d, f)


# Gaps in one rail

CUT_OFF = "reversing section not cut off"


@pytest.mark.parametrize("cut", ["left", "right"])
def test_two_gaps_in_one_rail_are_both_told_since_one_alone_mends_nothing(cut: str) -> None:
    d = loop_on_a_reverser((("loop", 100, cut), ("loop", 3000, cut)))
    found = told(d, CUT_OFF)
    assert sorted(f.key for f in found) == ["one-rail:G1", "one-rail:G2"]
    other = {"left": "right", "right": "left"}[cut]
    assert all(f"cuts only the {cut} rail; the {other} one" in f.title for f in found)
    layout = d.plain()
    for f in found:
        layout = apply_patch(layout, f.mends[0].patch)
    assert told(layout, CUT_OFF) == []


@pytest.mark.parametrize("extra", [1600.0, 2600.0])
def test_a_gap_of_one_rail_that_is_not_needed_is_left_alone(extra: float) -> None:
    """A block gap inside the section parts nothing that has to be parted."""
    d = loop_on_a_reverser((("loop", 100, "left"), ("loop", extra, "left"), ("loop", 3000, "left")))
    assert sorted(f.key for f in told(d, CUT_OFF)) == ["one-rail:G1", "one-rail:G3"]


def test_one_gap_of_one_rail_beside_a_whole_one() -> None:
    d = loop_on_a_reverser((("loop", 100, "both"), ("loop", 3000, "right")))
    (f,) = told(d, CUT_OFF)
    assert f.key == "one-rail:G2" and said(f) == {"rails cut": "1 of 2"} and falls_silent(d, f)


def test_a_ring_of_plain_track_says_that_a_gap_parts_nothing_and_may_close_it() -> None:
    """One gap in a ring: round the other way the rails go on. It is closed only where both sides are of one circuit."""
    d = power(track_plans.oval(), "other")
    d.gap("north", 1000)
    tie(d, "F1", "north", 400)
    d.section("s1", "West", "north", 400, "main")
    (f,) = told(d, "gap that parts nothing")
    assert f.severity == "look" and said(f) == {"rails cut": "2"} and "or close this gap" in f.mend
    assert "G1" not in mended(d, f).gaps and falls_silent(d, f)


# Shorts


def short(*settings: str, one: str = "F1") -> Short:
    made = tuple(Setting(*s.split(".")) for s in settings)
    return Short("short", one, "A", "F2", "B", made, (), 0, False)


def test_a_short_that_smaller_settings_make_already_is_left_out() -> None:
    small, large, beside = short("T1.through"), short("T1.through", "T2.through"), short("T2.diverging")
    assert _minimal([large, small, beside]) == [small, beside]
    assert _minimal([large]) == [large]
    assert _minimal([short(), small]) == [short()], "what is always there needs no setting"


# Dead track


def test_ways_out_that_were_not_all_followed_are_not_settled(monkeypatch: pytest.MonkeyPatch) -> None:
    """A search that hits its bound says so, of every piece that is not live for good."""
    free = {p.track: s.status for p, s in topology_of(siding()).stands.items()}
    monkeypatch.setattr(dead, "MOST_STEPS", 1)
    bound = {p.track: s.status for p, s in topology_of(siding()).stands.items()}
    unsure = {t for t, s in free.items() if s != "always"}
    assert unsure and {t for t, s in bound.items() if s == "not settled"} == unsure
    assert all(bound[t] == "always" for t in free.keys() - unsure)


# Frogs


@pytest.mark.parametrize(
    ("frog", "pickups", "heard"), [(40, 41, False), (40, 40, True), (40, 20, True), (40, None, False)]
)
def test_a_dead_frog_is_shorter_than_the_shortest_pickup(frog: float, pickups: float | None, heard: bool) -> None:
    d = junction(frog="dead")
    d.data["brief"]["units"] = "metric"
    d.data["nodes"]["T"]["frog_length"] = frog
    d.data["locos"]["e"] = {"name": "Shunter", "idle": 0.1, "running": 0.3, "stall": 1, "pickups": pickups}
    d.data["locos"]["long"] = {"name": "Long", "idle": 0.1, "running": 0.3, "stall": 1, "pickups": 300}
    found = told(d, "frogs")
    assert severities(found) == (["should"] if heard else [])
    for f in found:
        assert said(f) == {"frog": "40 mm", "pickups": f"{pickups} mm"} and "Shunter picks up" in f.title
        assert mended(d, f).nodes["T"].frog == "live" and falls_silent(d, f)


@pytest.mark.parametrize("kind", ["turnout", "crossing", "slip"])
def test_a_live_frog_that_nothing_turns_is_a_must_of_every_kind(kind: str) -> None:
    d = junction()
    if kind != "turnout":
        d = double(kind)
    node = "T" if kind == "turnout" else "X"
    d.data["nodes"][node] |= {"frog": "live", "contact": "none"}
    (f,) = told(d, "frogs")
    assert f.severity == "must" and f.shows[0] == node
    assert number(said(f)["tracks that meet here"]) == (3 if kind == "turnout" else 4)
    assert [mended(d, f, n).nodes[node].contact for n in (0, 1)] == ["contact", "automatic"] and falls_silent(d, f)


# A branch without a signal


@pytest.mark.parametrize(("length", "before", "heard"), [(1900, True, False), (2100, True, True), (1900, False, True)])
def test_a_signal_on_the_track_before_guards_a_short_branch(length: float, before: bool, heard: bool) -> None:
    """The branch in two tracks: a signal at the far side of a joint holds its trains where the rest is under 2 m."""
    d = junction()
    for thing in ("signals", "gaps"):
        d.data[thing] = {i: t for i, t in d.data[thing].items() if t["track"] != "b"}
    d.data["sections"].pop("B")
    d.data["tracks"].pop("b")
    d.node("J", 3000 + length, -10)
    d.data["nodes"]["N"]["at"] = {"x": 9000, "y": -10}
    d.track("b", "Branch", "T.diverging", "J.1", joiner_every=None, use="branch")
    d.track("far", "Far branch", "J.2", "N.1", joiner_every=None, use="branch")
    if before:
        d.data["signals"]["SF"] = {"name": "SF", "track": "far", "at": 60, "towards": "a"}
    assert bool([f for f in told(d, "overlapping routes") if f.place.id == "b"]) is heard


# Feeders


@pytest.mark.parametrize(
    ("gauge", "tape", "heard", "heavier"),
    [
        ("20 AWG", 305.3, False, None),
        ("20 AWG", 305.4, True, "18 AWG"),
        ("20 AWG", 812.8, True, "18 AWG"),
        ("20 AWG", 813.0, True, None),
        ("18 AWG", 813.3, False, None),
        ("18 AWG", 813.4, True, None),
    ],
)
def test_a_feeder_longer_than_the_house_allows(gauge: str, tape: float, heard: bool, heavier: str | None) -> None:
    """12 in of fine wire, 32 in of heavier: 304.8 and 812.8 mm, half a millimetre more is nothing."""
    d = plain()
    feeder(d, "F1", "t", 500, "T2", gauge, tape=tape)
    found = told(d, "feeder length")
    assert severities(found) == (["should"] if heard else [])
    for f in found:
        assert [mended(d, f, n).feeders["F1"].gauge for n in range(len(f.mends))] == ([heavier] if heavier else [])


def test_no_feeder_is_offered_behind_a_frog_that_routes_power() -> None:
    """One there would be a short for one of its two settings; a person who asks for it all the same gets it."""
    facts = derive(siding().plain())
    for track in ("main", "siding"):
        assert offer_feeder(facts, "main", track, 2000) is None
        assert add_feeder(facts, "main", track, 2000) is not None
    assert offer_feeder(facts, "main", "west", 1500) is not None
    assert offer_feeder(facts, None, "west", 1500) is None
    live = derive(siding("live").plain())
    assert offer_feeder(live, "main", "siding", 2000) is not None


@pytest.mark.parametrize("seed", [18, 3, 7])
def test_a_feeder_offered_beside_a_gap_stands_on_the_side_that_wants_it(seed: int) -> None:
    layout = random_layout(seed)
    rails = derive(layout).rails
    for f in told(layout, "feeder spacing"):
        (operation,) = f.mends[0].patch
        assert f.place.track is not None and f.place.at is not None
        made = operation["value"]
        assert rails.piece_at(made["track"], made["at"]) == rails.piece_at(f.place.track, f.place.at), f.title


# What hangs on the track besides trains


@given(st.floats(0.1, 2.0), st.sampled_from(["current", "resistance", "power"]))
def test_a_load_on_the_track_bus_draws_by_its_volts(amps: float, draws: str) -> None:
    """At the end of a metre of bus behind 0.1 Ω: a lamp of I at 14.4 V draws I·U/14.4, a converter I·14.4/U."""
    d = plain()
    d.data["brief"]["rules"]["count_inductance"] = False
    feeder(d, "F1", "t", 500, "T2")
    load = {"kind": "other", "name": "Load", "circuit": "main", "terminal": "T2", "count": 1, "draws": draws}
    d.data["loads"]["L"] = {**load, "amps": amps}
    ohms = 0.1 + 2 * copper.ohms_per_metre(read_gauge("14 AWG"), "solid")
    if draws == "current":
        drawn = amps
    elif draws == "resistance":
        drawn = amps * 14.4 / (14.4 + amps * ohms)
    else:  # U² − 14.4·U + 14.4·I·R = 0
        volts = (14.4 + (14.4**2 - 4 * 14.4 * amps * ohms) ** 0.5) / 2
        drawn = amps * 14.4 / volts
    facts = derive(d.plain())
    assert facts.carried["run", "R1"][0] == pytest.approx(drawn + 0.5, rel=1e-6), "with a test train of half an ampere"


# Wire that carries its share


@given(st.integers(2, 5), st.sampled_from([5.0, 8.0, 12.0]))
def test_wire_offered_is_heavy_enough_for_what_it_then_takes(feeders: int, trip: float) -> None:
    """Of two ways beside each other the heavier takes more: the wire offered still carries it once it is laid."""
    d = Draft("Shared", brief={"rules": {"drop_below_rail": 0, "wire_celsius": 20}})
    d.node("N1", 0, 0, "bumper")
    d.node("N2", 3000, 0, "bumper")
    d.track("t", "Track", "N1.1", "N2.1", joiner_every=None)
    booster(d, trip=trip)
    d.bus("R1", "main", "10 AWG", [(0, 60), (3000, 60)], fed={"device": "B1"}, kind="soldered", every=400)
    d.section("s", "Section", "t", 10, "main")
    for n in range(feeders):
        feeder(d, f"F{n}", "t", 200 + 600 * n, f"T{1 + n}", "24 AWG")
    for f in told(d, "wire too thin for its protection"):
        assert not f.mends or falls_silent(d, f), f.title


def test_no_wire_is_offered_that_its_connectors_do_not_hold() -> None:
    """A tap takes up to 14 AWG: for a feeder that wants more there is no heavier one to offer."""
    d = plain(gauge="12 AWG")
    d.data["devices"]["B1"]["trip_amps"] = 18
    d.data["terminals"]["T2"]["kind"] = "tap"
    feeder(d, "F1", "t", 500, "T2", "22 AWG")
    (f,) = [f for f in told(d, "wire too thin for its protection") if f.place.kind == "feeder"]
    assert f.severity == "must" and f.mends == () and "A smaller trip upstream" in f.mend
    d.data["terminals"]["T2"]["kind"] = "soldered"
    (f,) = [f for f in told(d, "wire too thin for its protection") if f.place.kind == "feeder"]
    assert falls_silent(d, f)


def test_two_boosters_joined_in_both_rails_are_not_meant_to_be() -> None:
    """A common return is one wire: joined in both rails a gap is forgotten, and nothing is offered to bless it."""
    d = plain()
    booster(d, circuit="two", key="B2")
    d.bus("R2", "two", "14 AWG", [(2000, 400), (3000, 400)], fed={"device": "B2"}, kind="soldered")
    feeder(d, "F1", "t", 500, "T2")
    last = list(d.data["terminals"])[-1]
    feeder(d, "F2", "t", 2500, last)
    whole = d.plain()
    joined = [f for f in told(whole, "rails joined through turnouts") if f.key.startswith("joined:")]
    assert joined and not any("it is meant" in m.label for f in joined for m in f.mends)
    d.gap("t", 1500, rails="left")
    joined = told(read_layout(d.data), "rails joined through turnouts")
    meant = [m for f in joined for m in f.mends if "it is meant" in m.label]
    assert len(meant) == 1
    assert told(apply_patch(d.plain(), meant[0].patch), "rails joined through turnouts") == []


@pytest.mark.parametrize("kind", ["crossing", "slip"])
def test_dead_frogs_and_frogs_that_are_turned_are_no_finding(kind: str) -> None:
    for frog, contact in (("dead", "none"), ("live", "contact"), ("live", "automatic")):
        d = double(kind)
        d.data["nodes"]["X"] |= {"frog": frog, "contact": contact}
        assert told(d, "frogs") == [], (frog, contact)
