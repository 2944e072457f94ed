"""What a source gives, for long, for a moment and into a short: every mix of figures that are known and not, against
the same said again in plain words."""

from __future__ import annotations

import math
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jolly_copper.core.circuits.giving import (
    gives,
    held_short,
    limit_of,
    source_volts,
    starts,
    supply_behind,
    wanted_volts,
)
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.power_tree import grow_tree
from tests.layouts import plain

amps = st.one_of(st.none(), st.sampled_from([0.5, 1.0, 2.0, 3.0, 5.0, 8.0]))
volts = st.one_of(st.none(), st.sampled_from([10.0, 12.0, 14.4, 16.0, 18.0]))
figures = st.fixed_dictionaries(
    {"trip_amps": amps, "limit_amps": amps, "label_amps": amps, "measured_amps": amps, "inrush_amps": amps}
)
volt_figures = st.fixed_dictionaries(
    {"volts": volts, "measured_volts": volts, "measured_at_amps": st.sampled_from([0, 1, 2])}
)


def supplied(booster: dict[str, Any], supply: dict[str, Any] | None) -> Layout:
    """A booster with these figures, perhaps behind a supply with those."""
    d = plain()
    d.data["devices"]["B1"] |= {"ohms": 0.1, **booster}
    if supply is not None:
        kept = {k: v for k, v in supply.items() if k != "inrush_amps"}
        d.data["circuits"]["mains"] = {"name": "Mains", "purpose": "accessory"}
        brick = {"kind": "supply", "name": "Brick", "at": {"x": 0, "y": 0}, "output": "mains", "ohms": 0.2}
        d.data["devices"]["PS"] = {**brick, **kept}
        d.data["devices"]["B1"]["input"] = "mains"
    return d.plain()


def least(*found: float | None) -> float | None:
    known = [f for f in found if f is not None]
    return min(known) if known else None


def rated(of: dict[str, Any]) -> float | None:
    return of["measured_amps"] or of["label_amps"]


@given(figures, st.one_of(st.none(), figures))
def test_for_long_it_gives_the_least_of_all_that_is_known(
    booster: dict[str, Any], supply: dict[str, Any] | None
) -> None:
    """What was measured goes before the label."""
    known = [rated(booster), booster["trip_amps"], booster["limit_amps"]]
    if supply is not None:
        known += [rated(supply), supply["trip_amps"], supply["limit_amps"]]
    assert gives(supplied(booster, supply), "B1") == least(*known)


def short_of(of: dict[str, Any]) -> tuple[float, bool]:
    """Into a short, and whether that is a guess: its limit; else half as much again as its rating or its trip."""
    if of["limit_amps"] is not None:
        return of["limit_amps"], False
    known = [a for a in (rated(of), of["trip_amps"]) if a]
    return (1.5 * max(known), True) if known else (math.inf, True)


@given(figures, st.one_of(st.none(), figures))
def test_into_a_short_it_gives_its_limit_or_its_supplys(booster: dict[str, Any], supply: dict[str, Any] | None) -> None:
    own = short_of(booster)
    other = short_of(supply) if supply is not None else (math.inf, True)
    found = limit_of(supplied(booster, supply), "B1")
    assert (found.amps, found.guess) == min(own, other)
    assert (found.by is None) is math.isinf(found.amps)


@given(figures, st.one_of(st.none(), figures))
def test_for_a_moment_it_lets_through_what_is_said_of_it(
    booster: dict[str, Any], supply: dict[str, Any] | None
) -> None:
    """Its own figure, else the larger of limit and trip; never more than a limit somebody wrote down for its supply."""
    own = booster["inrush_amps"]
    if own is None:
        known = [a for a in (booster["limit_amps"], booster["trip_amps"]) if a is not None]
        own = max(known) if known else None
    if own is not None and supply is not None and supply["limit_amps"] is not None:
        own = min(own, supply["limit_amps"])
    assert starts(supplied(booster, supply), "B1") == own


@given(figures, st.one_of(st.none(), figures))
def test_a_short_is_held_under_a_trip_or_by_the_source_itself(
    booster: dict[str, Any], supply: dict[str, Any] | None
) -> None:
    layout = supplied(booster, supply)
    found = held_short(layout, grow_tree(layout), "main")
    limits = [d["limit_amps"] for d in (booster, supply) if d is not None and d["limit_amps"] is not None]
    # A limit counts where it is the least of what both may give into a short.
    most = limit_of(layout, "B1")
    if not most.guess and (booster["trip_amps"] is None or most.amps < booster["trip_amps"]):
        assert found is not None and (found.amps, found.basis) == (most.amps, "limit") and most.amps in limits
    elif booster["trip_amps"] is not None:
        assert found is not None and (found.amps, found.basis, found.device) == (booster["trip_amps"], "trip", "B1")
    else:
        label = least(rated(booster), rated(supply) if supply is not None else None)
        assert (
            (found is None) if label is None else (found is not None and (found.amps, found.basis) == (label, "label"))
        )


def open_volts(of: dict[str, Any], usual: float, ohms: float) -> float:
    """With nothing drawn: what was read and what sagged while it was read; else its label; else the usual."""
    if of["measured_volts"] is not None:
        return of["measured_volts"] + of["measured_at_amps"] * ohms
    return of["volts"] if of["volts"] is not None else usual


@given(volt_figures, st.one_of(st.none(), volt_figures))
def test_volts_are_its_own_and_never_more_than_its_supplys(
    booster: dict[str, Any], supply: dict[str, Any] | None
) -> None:
    layout = supplied(booster, supply)
    own = open_volts(booster, 14.4, 0.1)
    if supply is not None and (supply["volts"] is not None or supply["measured_volts"] is not None):
        own = min(own, open_volts(supply, 12.0, 0.2))
    assert source_volts(layout, "B1") == pytest.approx(own)
    assert wanted_volts(layout, "B1") == (booster["volts"] or 14.4), (
        "what it should give is on its label or in the brief"
    )
    assert supply_behind(layout, "B1") == ("PS" if supply is not None else None)


@given(figures, st.sampled_from([1.0, 2.0, 4.0, 9.0]))
def test_a_supply_of_the_clubs_own_bounds_what_its_box_gives(booster: dict[str, Any], brick: float) -> None:
    layout = supplied(booster, None)
    data = layout.model_dump(mode="json")
    data["supplies"] = {"S": {"name": "Brick", "volts": 18, "amps": brick, "serves": "B1"}}
    bound = gives(Layout.model_validate(data), "B1")
    assert bound == least(gives(layout, "B1"), brick)
    data["supplies"]["S"] |= {"measured_amps": brick / 2}
    assert gives(Layout.model_validate(data), "B1") == least(gives(layout, "B1"), brick / 2)
    data["supplies"]["S"] |= {"serves": None}
    assert gives(Layout.model_validate(data), "B1") == gives(layout, "B1")
