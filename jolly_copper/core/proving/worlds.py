"""Railroads as they might really be: every part drawn within what its kind spreads, and some of them bad."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

import numpy as np

from jolly_copper.core.circuits.network import Element
from jolly_copper.core.circuits.points import Floats
from jolly_copper.core.circuits.solution import Island, solve
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.proving.copper import SHARED, Copper, own_spread, shared_group

OPEN_OHMS = 1e6


def hidden_world(
    copper: Copper, rng: np.random.Generator, worse: Mapping[tuple[int, int], float] | None = None
) -> tuple[Island, ...]:
    """The copper with every part's ohms drawn anew, solved.

    Args:
        copper: as designed.
        rng: of the draw.
        worse: Ω more in elements, by ground and number in it; infinite for open.

    Returns:
        One island for each ground, in their order.
    """
    bad: dict[int, float] = {}
    for (g, n), ohms in (worse or {}).items():
        bad[int(copper.grounds[g].island.elements[n])] = min(ohms, OPEN_OHMS)
    common: dict[str, float] = {}
    elements = []
    for number, element in enumerate(copper.network.elements):
        factor_ohms = _drawn(copper.layout, element, rng, common)
        elements.append(element._replace(ohms=factor_ohms + bad.get(number, 0.0)))
    islands = solve(replace(copper.network, elements=tuple(elements)))
    by_source = {i.sources[0].device: i for i in islands}
    return tuple(by_source[g.island.sources[0].device] for g in copper.grounds)


def _drawn(layout: Layout, element: Element, rng: np.random.Generator, common: dict[str, float]) -> float:
    total = 0.0
    for part in element.parts:
        spread = own_spread(layout, part)
        factor = rng.standard_normal() * spread - spread**2 / 2
        group = shared_group(layout, part)
        if group is not None:
            shared = SHARED[part.kind]
            if group not in common:
                common[group] = rng.standard_normal() * shared - shared**2 / 2
            factor += common[group]
        total += part.ohms * float(np.exp(factor))
    return total


def loops(copper: Copper, islands: tuple[Island, ...]) -> tuple[Floats, ...]:
    """Ω between the rails at every place of every ground, as an ampere would meet them in this world."""
    found = []
    for ground, island in zip(copper.grounds, islands, strict=True):
        reach = island.reach(ground.points)
        pick = island.pick(ground.points)
        found.append(np.asarray(pick.multiply(reach).sum(axis=1)).ravel())
    return tuple(found)
