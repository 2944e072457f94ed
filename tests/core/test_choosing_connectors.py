"""Connectors chosen for joints: against every way to choose them on small cases, and what must never happen."""

from __future__ import annotations

import itertools
import random
from collections import Counter

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.findings.check import check
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.layout.travel import Connector
from jolly_copper.core.proposals.coupling import (
    BOUGHT,
    POLE,
    WITHOUT,
    Chosen,
    Group,
    Item,
    fewest_connectors,
    holds_wire,
    propose_couplings,
)
from jolly_copper.core.travel.couplings import mixed_up, read_couplings, unplugged
from jolly_copper.core.travel.crossing import Crossing, Power, board_joints
from jolly_copper.demo.harbour_arm import harbour_open
from tests.core.test_joints_of_boards import accessory_bus, two_boards

TRACK, ORDERS = Power("track", 15, "track"), Power("control", 12, "control")


def crossing(
    label: str, wires: int = 2, amps: float | None = 4, gauge: str = "1.5 mm²", power: Power = TRACK
) -> Crossing:
    return Crossing(
        f"plug:{label}",
        label,
        label,
        ("red", "black", "green", "white")[:wires],
        gauge,
        amps,
        power,
        "one",
        ("one", "two"),
        (0, 0),
    )


def cost(kinds: dict[str, Connector], chosen: list[tuple[str, int]], without: int) -> float:
    used = Counter(k for k, _ in chosen)
    bought = sum(max(n - kinds[k].on_hand, 0) for k, n in used.items())
    return sum(1 + POLE * kinds[k].poles for k, _ in chosen) + BOUGHT * bought + WITHOUT * without


def cheapest(kinds: dict[str, Connector], groups: list[Group]) -> float:
    """The least cost by trying every way: each item in an open connector of its group, in a new one, or in none."""
    items = [(g, i) for g, group in enumerate(groups) for i in group.items]
    best = [float("inf")]

    def go(n: int, opened: list[tuple[int, str, int]], without: int) -> None:
        used = Counter(k for _, k, _ in opened)
        if any(n > kinds[k].on_hand and not kinds[k].buy for k, n in used.items()):
            return
        classes = {(groups[g].of, k) for g, k, _ in opened}
        if any(sum(k == kind for _, k in classes) > kinds[kind].codings for kind in kinds):
            return
        now = cost(kinds, [(k, 0) for _, k, _ in opened], without)
        if now >= best[0]:
            return
        if n == len(items):
            best[0] = now
            return
        g, item = items[n]
        for at, (where, kind, left) in enumerate(opened):
            if where == g and kind in item.kinds and left >= item.wires:
                go(n + 1, [*opened[:at], (where, kind, left - item.wires), *opened[at + 1 :]], without)
        for kind in item.kinds:
            go(n + 1, [*opened, (g, kind, kinds[kind].poles - item.wires)], without)
        go(n + 1, opened, without + item.wires)

    go(0, [], 0)
    return best[0]


def found_cost(kinds: dict[str, Connector], groups: list[Group], chosen: list[Chosen]) -> float:
    held = sum(i.wires for c in chosen for i in c.items)
    every = sum(i.wires for g in groups for i in g.items)
    return cost(kinds, [(c.kind, 0) for c in chosen], every - held)


def small_case(seed: int) -> tuple[dict[str, Connector], list[Group]]:
    rng = random.Random(seed)
    kinds = {
        f"k{n}": Connector(
            name=f"Kind {n}",
            poles=rng.choice((1, 2, 3, 4, 6)),
            amps=rng.choice((1.0, 3.0, 10.0)),
            takes=rng.choice(("0.5 mm²", "1.5 mm²", "2.5 mm²")),
            codings=rng.choice((1, 1, 2)),
            on_hand=rng.randint(0, 3),
            buy=rng.random() < 0.3,
        )
        for n in range(rng.randint(1, 3))
    }
    groups = []
    for g in range(rng.randint(1, 2)):
        power = rng.choice((TRACK, ORDERS))
        items = []
        for n in range(rng.randint(1, 3)):
            c = crossing(
                f"{g}{n}", rng.randint(1, 3), rng.choice((0.5, 2.0, 5.0)), rng.choice(("0.5 mm²", "1.5 mm²")), power
            )
            fit = tuple(k for k, kind in kinds.items() if holds_wire(kind, c) and kind.poles >= len(c.colours))
            items.append(Item(c, 1, len(c.colours), fit))
        groups.append(Group((f"b{g}", "x"), power, "x", tuple(items)))
    return kinds, groups


@pytest.mark.parametrize("seed", range(120))
def test_nothing_cheaper_exists_on_small_cases(seed: int) -> None:
    kinds, groups = small_case(seed)
    chosen, settled = fewest_connectors(kinds, groups)
    assert settled
    assert found_cost(kinds, groups, chosen) == pytest.approx(cheapest(kinds, groups), abs=1e-6)


@settings(max_examples=60, deadline=None)
@given(st.integers(1000, 100_000))
def test_what_is_chosen_holds(seed: int) -> None:
    kinds, groups = small_case(seed)
    chosen, _ = fewest_connectors(kinds, groups)
    held = Counter((i.crossing.key, i.first) for c in chosen for i in c.items)
    assert all(n == 1 for n in held.values())
    for c in chosen:
        assert sum(i.wires for i in c.items) <= kinds[c.kind].poles
        assert all(holds_wire(kinds[c.kind], i.crossing) for i in c.items)


def offered(layout: Layout) -> Layout:
    return apply_patch(layout, propose_couplings(layout).patch)


def test_harbour_arm_is_plugged_so_that_no_two_unlike_mate() -> None:
    offer = propose_couplings(harbour_open())
    assert offer.settled and offer.left == () and offer.bought == {} and offer.plugs == 3
    layout = apply_patch(harbour_open(), offer.patch)
    joints = board_joints(layout)
    read = read_couplings(layout, joints)
    assert list(unplugged(joints, read)) == [] and list(mixed_up(read)) == []
    assert all(r.live == {r.coupling.socket_on} for r in read)
    # Crosswise, pin by pin, over the whole railroad: whatever mates carries the same volts.
    for one, other in itertools.combinations(read, 2):
        if (one.coupling.kind, one.coupling.coding) == (other.coupling.kind, other.coupling.coding):
            assert all(p.of.power == q.of.power for p, q in zip(one.pins, other.pins, strict=False))
    names = [c.name for c in layout.couplings.values()]
    assert len(set(names)) == len(names) and names[0] == "1A"


def test_the_same_offer_twice() -> None:
    assert propose_couplings(harbour_open()).patch == propose_couplings(harbour_open()).patch


def test_a_missing_plug_is_part_of_the_offer() -> None:
    d = two_boards(plug=None)
    d.data["connectors"] = {"two": {"name": "Two-pole plug", "poles": 2, "on_hand": 1, "takes": "2.5 mm²"}}
    offer = propose_couplings(d.plain())
    assert offer.plugs == 1
    after = apply_patch(d.plain(), offer.patch)
    assert [p.run for p in after.plugs.values()] == ["R1"]
    assert [f.title for f in check(derive(after)) if "plug" in f.rule or "coupling" in f.rule] == []


def test_unlike_volts_get_kinds_or_keys_of_their_own() -> None:
    d = accessory_bus(two_boards())
    d.data["connectors"] = {
        "two": {"name": "Two-pole plug", "poles": 2, "on_hand": 9, "takes": "2.5 mm²", "codings": 2},
    }
    after = offered(d.plain())
    assert sorted(c.coding for c in after.couplings.values()) == [1, 2]
    d.data["connectors"]["two"]["codings"] = 1
    offer = propose_couplings(d.plain())
    assert len(offer.chosen) == 1 and "too few ways to key them" in offer.left[0]
    assert "A1 between Board 1 and Board 2 (2 × 1.5 mm², 3 A)" in offer.left[0] or "R1" in offer.left[0]


def test_what_no_connector_holds_is_named_with_the_reason() -> None:
    d = two_boards()
    d.data["connectors"] = {"thin": {"name": "Thin", "poles": 8, "amps": 1, "takes": "0.5 mm²", "on_hand": 9}}
    offer = propose_couplings(d.plain())
    assert offer.chosen == ()
    assert offer.left == (
        "R1 between Board 1 and Board 2 (2 × 2.5 mm², 5 A): no connector of yours takes 2.5 mm², 5 A.",
    )


def test_a_club_without_connectors_is_told_what_crosses() -> None:
    offer = propose_couplings(two_boards().plain())
    assert offer.patch == [] and len(offer.left) == 1


def test_a_cable_of_many_wires_is_parted_over_two() -> None:
    kinds = {"two": Connector(name="Two", poles=2, on_hand=9, takes="2.5 mm²")}
    c = crossing("cable", 3)
    items = (Item(c, 1, 2, ("two",)), Item(c, 3, 1, ("two",)))
    chosen, settled = fewest_connectors(kinds, [Group(("one", "two"), TRACK, "one", items)])
    assert settled and len(chosen) == 2


def test_buying_comes_after_what_lies_in_the_drawer() -> None:
    kinds = {
        "small": Connector(name="Small", poles=2, on_hand=3, takes="2.5 mm²"),
        "large": Connector(name="Large", poles=6, on_hand=0, buy=True, takes="2.5 mm²"),
    }
    items = tuple(Item(crossing(str(n)), 1, 2, ("small", "large")) for n in range(3))
    chosen, _ = fewest_connectors(kinds, [Group(("one", "two"), TRACK, "one", items)])
    assert [c.kind for c in chosen] == ["small"] * 3
