"""The report line: through every board once, near the shortest there is, cut, counted and plugged at joints."""

from __future__ import annotations

import itertools

import pytest

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.layout.underways import cable_length
from jolly_copper.core.proposals.coupling import propose_couplings
from jolly_copper.core.signals.report_line import Stop, report_line
from jolly_copper.core.travel.crossing import cable_crossings
from jolly_copper.core.wirebook.worked import Worked
from jolly_copper.demo import gannet_bay, harbour_open, signalled_bay


def wanting(layout: Layout, wires: int = 4) -> Layout:
    return apply_patch(layout, [{"op": "add", "path": "/brief/detecting/line_wires", "value": wires}])


def length(layout: Layout, stops: tuple[Stop, ...]) -> float:
    return sum(cable_length(layout, a.at, b.at) for a, b in itertools.pairwise(stops))


def test_nobody_gets_a_line_who_asked_for_none() -> None:
    assert report_line(harbour_open()) == ()
    assert report_line(wanting(gannet_bay())) == (), "it has no boards to join"
    assert not any(p.key.startswith("line:") for p in Worked(derive(signalled_bay())).pieces)


def test_every_board_is_on_it_once_and_the_source_begins_it() -> None:
    layout = wanting(signalled_bay())
    stops = report_line(layout)
    assert stops[0].name == "Booster 1"
    assert sorted(s.id for s in stops[1:]) == sorted([*layout.detectors, *layout.drivers])


def test_it_is_no_longer_than_the_shortest_where_that_can_be_tried() -> None:
    layout = wanting(harbour_open())
    stops = report_line(layout)
    assert 4 <= len(stops) <= 7
    every = (length(layout, (stops[0], *rest)) for rest in itertools.permutations(stops[1:]))
    assert length(layout, stops) == pytest.approx(min(every), rel=1e-6)


def test_its_legs_are_cut_counted_and_plugged() -> None:
    layout = wanting(harbour_open())
    legs = [p for p in Worked(derive(layout, "show")).pieces if p.key.startswith("line:")]
    assert len({p.key.split("/")[0] for p in legs}) == len(report_line(layout)) - 1
    assert all(len(p.colours) == 4 and p.cut > 0 for p in legs)
    over = [c for c in cable_crossings(layout) if c.owner.startswith("line:")]
    assert over and all(len(c.colours) == 4 and c.power.kind == "control" for c in over)
    offer = propose_couplings(layout)
    held = {(i.crossing.key, i.first) for c in offer.chosen for i in c.items}
    assert offer.left == () and {(c.key, 1) for c in over} <= held
