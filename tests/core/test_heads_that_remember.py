"""Ways once promised stay promised, and the quick rule of heads says what the rule of step Signal says."""

from __future__ import annotations

import random

import pytest

from jolly_copper.core.circuits.facts import Facts, derive
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.rehearsal.ground import Ground
from jolly_copper.core.rehearsal.heads import Heads
from jolly_copper.core.signals.aspects import Signalling, lies_of, signalling, signalling_of
from jolly_copper.core.signals.directions import direction_locks
from jolly_copper.core.signals.driving import driven
from jolly_copper.core.signals.heads import ASPECTS
from jolly_copper.core.signals.kept import Kept
from jolly_copper.core.signals.occupancy import Standing, occupied
from jolly_copper.core.signals.promises import Promise, kept_of, renewed
from jolly_copper.core.wirebook.signal_pages import direction_table
from jolly_copper.demo import signalled_bay
from jolly_copper.demo.drafting import Draft
from tests.signalled import double, junction, line


@pytest.fixture(scope="module")
def bay() -> Layout:
    return signalled_bay()


def a_state(known: Signalling, rng: random.Random) -> tuple[dict[str, str], set[int], list[Kept]]:
    """Turnouts any way, some stretches lit, some ways kept by trains before or behind their signals."""
    lies = {n: rng.choice(["through", "diverging"]) for n in lies_of(known.layout)}
    lit = {s.number for s in known.sensed if s.device is not None and rng.random() < 0.25}
    kept = []
    for _ in range(rng.randint(0, 3)):
        route = rng.choice(known.numbered)
        left = (
            frozenset(rng.sample(route.sections, rng.randint(0, len(route.sections))))
            if route.sections
            else frozenset()
        )
        kept.append(Kept(route, left, frozenset(route.nodes[-1:]), rng.random() < 0.5))
    # One train waits at a signal at most, as one track holds one front.
    seen: set[str] = set()
    for n, k in enumerate(kept):
        if k.waiting and k.route is not None:
            kept[n] = Kept(k.route, frozenset(k.route.sections), frozenset(k.route.nodes), k.route.signal not in seen)
            seen.add(k.route.signal)
    # Nobody is promised what another keeps: that is what the rule is for.
    clean: list[Kept] = []
    for k in kept:
        if not any(k.sections & o.sections or k.nodes & o.nodes for o in clean):
            clean.append(k)
    return lies, lit, clean


def quick(ground: Ground, lies: dict[str, str], lit: set[int], kept: list[Kept]) -> dict[str, str]:
    heads = Heads(ground, dict(lies))
    bits = 0
    promised = {}
    for k in kept:
        for n in k.sections:
            bits |= ground.extent_mask[n]
        for node in k.nodes:
            bits |= ground.node_bit[node]
        if k.waiting and k.route is not None:
            promised[heads.ids.index(k.route.signal)] = ground.known.number_of[id(k.route)]
    shown = heads.show(sum(1 << n for n in lit), bits, promised)
    return {i: ASPECTS[a] for i, a in zip(heads.ids, shown, strict=True)}


def agree(layout: Layout, known: Signalling, states: int, seed: int) -> None:
    ground = Ground(layout, known)
    rng = random.Random(seed)
    for _ in range(states):
        lies, lit, kept = a_state(known, rng)
        slow = {i: s.aspect for i, s in known.show(lies, lit, kept=kept).items()}
        assert quick(ground, lies, lit, kept) == slow, (lies, lit, kept)


def test_the_quick_rule_says_what_the_rule_says_on_random_states_of_the_demo(bay: Layout) -> None:
    agree(bay, signalling_of(derive(bay)), 400, 1)


@pytest.mark.parametrize("school", ["two aspects", "three aspects", "three aspects and diverging"])
@pytest.mark.parametrize("restricting", [True, False])
def test_and_on_small_railroads_of_every_school(school: str, restricting: bool) -> None:
    drafts: list[Draft] = [line(5, school=school), junction(school=school), double()]
    for n, d in enumerate(drafts):
        plain = d.plain()
        wishes = plain.brief.signalling.model_copy(update={"school": school, "restricting": restricting})
        layout = plain.model_copy(update={"brief": plain.brief.model_copy(update={"signalling": wishes})})
        agree(layout, signalling(layout), 60, n)


def test_a_head_given_first_does_not_drop_when_a_rival_is_asked(bay: Layout) -> None:
    """The hole of a rule without memory: which of two heads is clear changes with who stands before the other one."""
    known = signalling(bay)
    lies = lies_of(bay)
    pairs = [
        (a, b)
        for n, a in enumerate(known.numbered)
        for b in (known.numbered[m] for m in known.crossing[n])
        if a.lies_so(lies)
        and b.lies_so(lies)
        and a.signal != b.signal
        and known.approach[a.signal] not in (*a.sections, *b.sections)
        and known.approach[b.signal] not in (*a.sections, *b.sections)
    ]
    assert pairs
    dropped = 0
    for first, rival in pairs:
        lit = {known.approach[first.signal]}
        if known.show(lies, lit)[first.signal].aspect == "stop":
            continue
        lit |= {known.approach[rival.signal]}
        forgetful = known.show(lies, lit)
        kept = [Kept(first, frozenset(first.sections), frozenset(first.nodes), waiting=True)]
        remembers = known.show(lies, lit, kept=kept)
        assert remembers[first.signal].aspect != "stop" and remembers[rival.signal].aspect == "stop"
        why = remembers[rival.signal].reasons[0]
        assert bay.signals[first.signal].name in why and "given first" in why
        dropped += forgetful[first.signal].aspect == "stop"
    assert dropped, "without memory some cleared head drops before its train"


def test_what_a_train_keeps_bars_others_piece_by_piece() -> None:
    layout = junction().plain()
    known = signalling(layout)
    number = {s.name: s.number for s in known.sensed}
    lies = {"T": "diverging"}
    way = known.set_route("SB", lies)
    assert way is not None
    assert known.show(lies, set())["SA"].aspect != "stop"
    whole = Kept(way, frozenset(way.sections), frozenset(way.nodes))
    assert known.show(lies, set(), kept=[whole])["SA"].aspect == "stop"
    # Its tail has left the points: what it still keeps is none of the other's business.
    left = Kept(way, frozenset({number["A"]}), frozenset())
    assert known.show(lies, set(), kept=[left])["SA"].aspect != "stop"


def test_no_two_conflicting_heads_clear_whatever_is_kept(bay: Layout) -> None:
    known = signalling_of(derive(bay))
    rng = random.Random(5)
    for _ in range(150):
        lies, lit, kept = a_state(known, rng)
        cleared, _ = known.cleared(lies, lit, kept=kept)
        ways = list(cleared.values())
        for n, one in enumerate(ways):
            assert not any(one.crosses(other) for other in ways[n + 1 :])


def test_line_between_junctions_wants_a_direction_and_names_who_lets_trains_in(bay: Layout) -> None:
    known = signalling_of(derive(bay))
    locks = direction_locks(known)
    names = {s.number: s.name for s in known.sensed}
    by_sections = {tuple(sorted(names[n] for n in x.sections)): x for x in locks}
    # Between the turnouts to staging and quarry: in from the west by S12, from the east by S17 and S36.
    found = by_sections["M12", "M13"]
    assert {found.one, found.other} == {("S12",), ("S17", "S36")}
    # The down main runs one way and wants none.
    assert not any("M5" in k or "M6" in k for k in by_sections)
    for lock in locks:
        assert not set(lock.one) & set(lock.other)
        for one in lock.one:
            assert any(set(lock.sections) & set(r.sections) for r in known.routes[one])
    table = direction_table(known)
    assert table is not None and len(table.rows) == len(locks) and "stay at stop until" in table.note
    alone = signalling(line(4).plain())
    assert direction_locks(alone) == () and direction_table(alone) is None


def test_a_thrown_turnout_changes_the_ways_of_its_own_heads_alone(bay: Layout) -> None:
    facts: Facts = derive(bay)
    heads = Heads(Ground(bay, signalling_of(facts)), lies_of(bay))
    before = list(heads.way_set)
    heads.throw("T1", "diverging")
    changed = {heads.ids[k] for k, (a, b) in enumerate(zip(before, heads.way_set, strict=True)) if a != b}
    assert changed and all(any("T1" in r.nodes for r in heads.ground.known.routes[s]) for s in changed)


def before_head(bay: Layout, name: str, train: str, signal: str) -> Standing:
    s = bay.signals[signal]
    return Standing(name, train, s.track, s.at - 20 if s.towards == "b" else s.at + 20, s.towards)


def test_a_train_put_on_the_plan_first_keeps_its_way_until_its_tail_has_left(bay: Layout) -> None:
    known = signalling_of(derive(bay))
    lies = lies_of(bay)
    first, rival = next(
        (a, b)
        for n, a in enumerate(known.numbered)
        for b in (known.numbered[m] for m in known.crossing[n])
        if a.lies_so(lies)
        and b.lies_so(lies)
        and a.exit
        and known.approach[a.signal] not in (*a.sections, *b.sections)
        and known.approach[b.signal] not in (*a.sections, *b.sections)
        and list(known.routes).index(b.signal) < list(known.routes).index(a.signal)
    )
    trains = [before_head(bay, "First", "local", first.signal), before_head(bay, "Rival", "uplands", rival.signal)]

    def look(here: list[Standing], before: tuple[Promise, ...]) -> tuple[dict[str, str], tuple[Promise, ...]]:
        where = occupied(bay, known.rails, known.ways, known.sensed, here, lies)
        legs = {t.name: x for t, x in zip(here, where.legs, strict=True)}
        now = renewed(known, here, legs, lies, where.lit, before)
        shown = known.show(lies, where.lit, kept=kept_of(known, now, legs))
        return {i: s.aspect for i, s in shown.items()}, now

    heads, promised = look(trains[:1], ())
    assert heads[first.signal] != "stop"
    assert promised == (Promise("First", first.signal, known.routes[first.signal].index(first)),)
    heads, promised = look(trains, promised)
    assert heads[first.signal] != "stop" and heads[rival.signal] == "stop"
    entered = False
    for _ in range(120):
        mine = [p for p in promised if p.train == "First" and p.signal == first.signal]
        entered |= any(p.entered for p in mine)
        if not mine:
            break
        trains[0], _ = driven(known, trains, 0, 100, lies, True, promised)
        heads, promised = look(trains, promised)
    still = [p for p in promised if p.signal == first.signal and p.train == "First"]
    where = occupied(bay, known.rails, known.ways, known.sensed, trains, lies)
    # It keeps the way as long as it stands on it, and no longer.
    assert entered and bool(still) == bool(
        where.there & set(first.sections) & set(known.yard.sections_of(where.legs[0]))
    )
    assert look(trains[1:], promised)[1][0].train == "Rival"
