"""The interlocking: tables that hold every route, conflicts found from the track, and the proof by search over all
states."""

from __future__ import annotations

import itertools

import pytest

from jolly_copper.core.signals.aspects import Signalling, signalling
from jolly_copper.core.signals.interlocking import conflict, is_crossover, junctions, locked_by_turnouts, prove
from jolly_copper.demo import signalled_bay
from jolly_copper.demo.drafting import Draft
from tests.signalled import double, junction


@pytest.mark.parametrize("make", [junction, double])
def test_every_state_by_brute_force_lets_no_two_crossing_ways_go(make: type[Draft]) -> None:
    """Written apart from the rules: all turnout settings, all occupied patterns, all pairs."""
    known = signalling(make().plain())
    turnouts = [i for i, n in known.layout.nodes.items() if n.kind == "turnout"]
    sections = [s.number for s in known.sensed]
    for lies in itertools.product(("through", "diverging"), repeat=len(turnouts)):
        for bits in range(2 ** len(sections)):
            occupied = {n for k, n in enumerate(sections) if bits >> k & 1}
            shown = known.show(dict(zip(turnouts, lies, strict=True)), occupied)
            going = [s.route for s in shown.values() if s.aspect != "stop" and s.route]
            for one, other in itertools.combinations(going, 2):
                assert not {leg.track for leg in one.legs} & {leg.track for leg in other.legs}
                assert not set(one.nodes) & set(other.nodes)
            assert all(not set(r.sections) & occupied for r in going)


def test_the_proof_counts_its_states_and_finds_nothing() -> None:
    known = signalling(junction().plain())
    (j,) = junctions(known)
    assert (j.name, len(j.ways)) == ("T", 4)
    proof = prove(known, j)
    assert proof.whole and proof.clash is None and proof.states == 2 * 2**4


def test_the_search_would_find_rules_that_fail(monkeypatch: pytest.MonkeyPatch) -> None:
    known = signalling(double().plain())
    (j,) = junctions(known)
    assert prove(known, j).clash is None
    blind = Signalling(known.layout, known.rails, known.ways)
    monkeypatch.setitem(blind.__dict__, "crossing", dict.fromkeys(range(len(blind.numbered)), ()))
    (same,) = junctions(blind)
    clash = prove(blind, same).clash
    assert clash is not None and conflict(same.ways[clash[0] - 1].route, same.ways[clash[1] - 1].route)


def test_what_a_turnout_excludes_by_itself_is_still_in_the_table() -> None:
    known = signalling(junction().plain())
    (j,) = junctions(known)
    from_m, from_b = (next(w for w in j.ways if w.signal == s) for s in ("SM", "SB"))
    assert from_b.number in from_m.against and locked_by_turnouts(from_m.route, from_b.route)


def test_every_junction_of_the_demo_is_proved() -> None:
    known = signalling(signalled_bay())
    found = junctions(known)
    assert {"T1 · T3", "T2 · T6 · T7", "T51 · T53"} <= {j.name for j in found}
    listed = {id(w.route) for j in found for w in j.ways}
    over_turnouts = [r for r in known.numbered if r.needs]
    assert all(id(r) in listed for r in over_turnouts), "a route over a turnout is in no table"
    for j in found:
        assert prove(known, j).clash is None


def test_crossovers_are_told_from_the_leg_of_a_wye() -> None:
    layout = signalled_bay()
    assert [t for t in layout.tracks if is_crossover(layout, t)] == ["crossover-1", "crossover-2"]
