"""Supplies shared out by an exact assignment, checked by trying every one; controls weighed on real plans."""

from __future__ import annotations

import itertools
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.circuits.giving import gives
from jolly_copper.core.drawing.sheet import DrawingError
from jolly_copper.core.findings.check import check
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.layout.reading import LayoutError, read_layout
from jolly_copper.core.proposals.choosing import KINDS, Club, advice, weigh_controls
from jolly_copper.core.proposals.supplying import NEVER, Box, _box, _cost, _want, share_supplies
from jolly_copper.demo import gannet_bay, millbeck_unblocked
from jolly_copper.demo.drafting import Draft
from tests.core.cab_layouts import source


def boxed(supplies: dict[str, dict[str, Any]], **station: Any) -> Layout:
    """A station, a booster and a cab, with supplies on the shelf."""
    d = Draft("Boxes", brief={"scale": "HO", "track_volts": 14})
    d.node("N1", 0, 0, "bumper")
    d.node("N2", 2000, 0, "bumper")
    d.track("t", "Track", "N1.1", "N2.1")
    source(d, "main", "station", 14, label_amps=5, **{"trip_amps": 5, **station})
    source(d, "more", "booster", 14, label_amps=3, trip_amps=3, gives="dcc")
    source(d, "cab", "cab", 12, label_amps=1)
    d.data["supplies"] = {i: {"name": i, **s} for i, s in supplies.items()}
    return d.plain()


STRONG, WEAK = {"volts": 16, "amps": 5}, {"volts": 16, "amps": 1}


def serves(layout: Layout) -> dict[str, str | None]:
    after = apply_patch(layout, list(share_supplies(derive(layout)).patch))
    return {i: s.serves for i, s in after.supplies.items()}


def test_the_strongest_goes_to_the_station() -> None:
    found = serves(boxed({"weak": WEAK, "strong": STRONG, "middle": {"volts": 16, "amps": 3}}))
    assert found == {"strong": "dev-main", "middle": "dev-more", "weak": "dev-cab"}
    assert serves(boxed({"only": STRONG})) == {"only": "dev-main"}


def test_never_more_volts_than_a_box_stands() -> None:
    layout = boxed({"hot": {"volts": 24, "amps": 5}, "strong": STRONG}, supply_most_volts=18)
    assert serves(layout)["hot"] != "dev-main"
    wrong = layout.model_copy(
        update={"supplies": {"hot": layout.supplies["hot"].model_copy(update={"serves": "dev-main"})}}
    )
    told = [f for f in check(derive(wrong)) if f.rule == "supply too strong for its box"]
    assert [f.severity for f in told] == ["must"] and "24.0 V" in told[0].title


def test_what_a_source_gives_is_bounded_by_what_serves_it() -> None:
    layout = boxed({"weak": {**WEAK, "serves": "dev-main"}})
    assert gives(layout, "dev-main") == 1
    measured = layout.supplies["weak"].model_copy(update={"measured_amps": 0.8})
    assert gives(layout.model_copy(update={"supplies": {"weak": measured}}), "dev-main") == 0.8


def test_the_ladder_names_the_step_that_helps() -> None:
    bay = gannet_bay()
    one = {"psu": {"name": "Brick", "volts": 16, "amps": 2}}
    listed = read_layout({**bay.model_dump(mode="json"), "supplies": one})
    found = share_supplies(derive(listed, "open-day"))
    assert any("a supply of" in line or "one more source" in line for line in found.ladder)
    assert all(line.endswith(".") for line in found.ladder)


@settings(max_examples=60, deadline=None)
@given(
    st.lists(
        st.tuples(
            st.sampled_from([9, 12, 15, 16, 18, 24]),
            st.sampled_from([0.5, 1, 2, 3, 5, 8]),
            st.sampled_from(["dc", "ac"]),
        ),
        min_size=1,
        max_size=4,
    )
)
def test_no_other_assignment_is_cheaper(shelf: list[tuple[float, float, str]]) -> None:
    """Brute force over every assignment of supplies to boxes."""
    layout = boxed(
        {f"s{k}": {"volts": v, "amps": a, "kind": kind} for k, (v, a, kind) in enumerate(shelf)}, supply_most_volts=18
    )
    facts = derive(layout)
    boxes = [_box(facts, i, d) for i, d in layout.devices.items()]

    def price(choice: tuple[str | None, ...]) -> float:
        return sum(
            _want(b, 0, 0) if i is None else _cost(b, layout.supplies[i]) for b, i in zip(boxes, choice, strict=True)
        )

    ids: list[str | None] = [*layout.supplies, None]
    every = [
        c
        for c in itertools.product(ids, repeat=len(boxes))
        if len({i for i in c if i}) == sum(i is not None for i in c)
    ]
    found = share_supplies(facts)
    assert price(tuple(m.supply for m in found.matches)) == pytest.approx(min(price(c) for c in every))


def test_a_box_knows_what_it_may_be_fed() -> None:
    facts = derive(boxed({"a": STRONG}))
    cab = _box(facts, "dev-cab", facts.layout.devices["dev-cab"])
    assert isinstance(cab, Box) and cab.takes == {"dc", "ac"}
    ac = read_layout(
        {**facts.layout.model_dump(mode="json"), "brief": {"control": "ac3", "scale": "O", "track_volts": 18}}
    )
    box = _box(derive(ac), "dev-main", ac.devices["dev-main"])
    assert _cost(box, ac.supplies["a"]) == NEVER, "a transformer passes no direct current"


def test_bad_supplies_are_refused_in_a_sentence() -> None:
    data = boxed({"a": STRONG, "b": WEAK}).model_dump(mode="json")
    data["supplies"]["a"]["serves"] = data["supplies"]["b"]["serves"] = "dev-main"
    with pytest.raises(LayoutError, match="serves Source MAIN already"):
        read_layout(data)
    data["supplies"]["b"]["serves"] = "nothing"
    with pytest.raises(LayoutError, match="no source nothing"):
        read_layout(data)
    with pytest.raises(DrawingError, match="List the supplies"):
        share_supplies(derive(gannet_bay()))


# --- which control


def test_every_control_is_weighed_on_the_plan_itself() -> None:
    small, large = (
        {o.kind: o for o in weigh_controls(layout, Club())} for layout in (millbeck_unblocked(), gannet_bay())
    )
    assert set(small) == set(KINDS)
    assert large["DC"].wire > 3 * small["DC"].wire and large["DC"].blocks > small["DC"].blocks
    assert large["DC"].wire > large["digital"].wire, "a pair home from every block is more than one bus"
    assert small["battery radio"].wire == 0


def test_wishes_rule_controls_out_and_money_orders_the_rest() -> None:
    layout = millbeck_unblocked()
    noisy = weigh_controls(layout, Club(sound=True, automation=True))
    assert next(o.kind for o in noisy if o.fits) == "digital" and not next(o for o in noisy if o.kind == "DC").fits
    costs = [o.cost for o in noisy if o.fits]
    assert costs == sorted(costs)
    assert "digital does all" in advice(noisy, Club(sound=True, automation=True))
    assert "within the budget" in advice(noisy, Club(budget=1))
    crowded = {o.kind: o for o in weigh_controls(layout, Club(trains=60))}
    assert not crowded["DC"].fits and any("none can move on" in b for b in crowded["DC"].bad)


def test_prices_are_the_clubs_own() -> None:
    layout = millbeck_unblocked()
    dear = {o.kind: o for o in weigh_controls(layout, Club(prices={"decoder": 1000}))}
    usual = {o.kind: o for o in weigh_controls(layout, Club())}
    assert dear["digital"].cost == pytest.approx(usual["digital"].cost + 6 * 970)


def test_without_track_nothing_is_weighed() -> None:
    with pytest.raises(DrawingError, match="Draw the track first"):
        weigh_controls(Layout(name="Empty"), Club())
