"""What several rules ask and one function answers: whose volts, which gauges a connector holds, which frogs turn.

Common practice, no source; connectors as `materials.connectors` has them.
"""

from __future__ import annotations

import pytest

from jolly_copper.core.circuits.giving import circuit_volts
from jolly_copper.core.layout.connections import heavier_held
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.frogs import JUNCTIONS, frogs_to_choose, routing_turnouts, turned_frogs
from jolly_copper.core.layout.power_tree import grow_tree
from jolly_copper.core.quantities import Gauge
from jolly_copper.demo import DEMOS
from jolly_copper.demo.drafting import Draft
from tests.core.test_turnout_states import siding
from tests.layouts import feeder, plain


def test_the_volts_of_a_circuit_are_its_sources_else_the_briefs() -> None:
    d = plain()
    d.data["brief"]["track_volts"] = 13.0
    d.data["devices"]["B1"]["volts"] = 17.5
    d.data["circuits"]["spare"] = {"name": "Spare"}
    layout = d.plain()
    assert circuit_volts(layout, grow_tree(layout), "main") == 17.5
    assert [circuit_volts(layout, grow_tree(layout), c) for c in ("spare", None)] == [13.0, 13.0]


@pytest.mark.parametrize(("kind", "thing"), [("run", "R1"), ("feeder", "F1")])
def test_heavier_wire_is_what_the_connectors_hold(kind: str, thing: str) -> None:
    """Solder takes any wire; a tap takes it up to its own size, unless it does not hold the wire of now either."""
    gauge = Gauge("awg", 20.0)

    def heavier(how: str, now: Gauge = gauge) -> list[str]:
        d = plain()
        feeder(d, "F1", "t", 500, "T2", "20 AWG")
        d.data["terminals"]["T2"]["kind"] = how
        return [str(g) for g in heavier_held(d.plain(), kind, thing, now)]

    soldered, tapped = heavier("soldered"), heavier("tap")
    assert soldered[:2] == ["18 AWG", "16 AWG"]
    assert tapped == soldered[: len(tapped)] and 0 < len(tapped) < len(soldered)
    too_thin = Gauge("awg", 30.0)
    assert {*heavier("soldered", too_thin)} <= {*heavier("tap", too_thin)}


@pytest.mark.parametrize(
    ("frog", "routes", "turns"), [("live", False, True), ("routing", True, False), ("dead", False, False)]
)
def test_what_a_frog_asks_for(frog: str, routes: bool, turns: bool) -> None:
    def asked(d: Draft, rails: int | None) -> tuple[bool, bool, set[str]]:
        for track in d.data["tracks"].values():
            track["rails"] = rails
        layout = d.plain()
        node = next(i for i, n in layout.nodes.items() if n.kind == "turnout")
        return node in routing_turnouts(layout), node in turned_frogs(layout), set(frogs_to_choose(layout)[node])

    assert asked(siding(frog), None) == (routes, turns, {"live", "dead", "routing"})
    assert asked(siding(frog), 3) == (False, False, {"live", "dead", frog}), "the outer rails are one conductor"


@pytest.mark.parametrize("name", DEMOS)
def test_what_is_said_of_a_frog_can_be_chosen(name: str) -> None:
    layout: Layout = DEMOS[name]()
    choices = frogs_to_choose(layout)
    assert choices.keys() == {i for i, n in layout.nodes.items() if n.kind in JUNCTIONS}
    assert all(layout.nodes[i].frog in kinds for i, kinds in choices.items())
    assert not routing_turnouts(layout) & turned_frogs(layout)
