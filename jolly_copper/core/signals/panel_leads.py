"""Leads of control panels: how many pairs go from each panel to each board, for its switches, buttons and lamps."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterator
from typing import NamedTuple

from jolly_copper.core.layout.document import Layout, Node
from jolly_copper.core.layout.ids import natural
from jolly_copper.core.layout.reading import LIES
from jolly_copper.core.rails.pieces import map_rails
from jolly_copper.core.signals.occupancy import sensing

PAIRS_IN_A_CABLE = 4
THROWN = frozenset({"turnout", "three-way", "slip"})
"""What a panel has a switch or buttons for."""


class Lead(NamedTuple):
    """So many pairs from a panel to one board: a driver board, a detector board or a device."""

    panel: str
    board: str
    pairs: int


def panel_of(layout: Layout, x: float, y: float) -> str | None:
    """The panel a place of the plan belongs to: the nearest; None where there is no panel."""
    return min(
        layout.panels,
        key=lambda i: (math.dist((x, y), (layout.panels[i].at.x, layout.panels[i].at.y)), i),
        default=None,
    )


def board_of(node: Node) -> str | None:
    """The board a turnout's switch or button is wired to; None where it goes to no board yet."""
    if node.button_board is not None and node.button_input is not None:
        return node.button_board
    return node.driver if node.driver is not None and node.output is not None else None


def panel_leads(layout: Layout) -> list[Lead]:
    """Pairs from every control panel, board by board. What goes to no board yet is not counted."""
    found: list[Lead] = []
    rails = map_rails(layout) if any("occupancy" in p.lamps for p in layout.panels.values()) else None
    sensed = {s.device for s in sensing(layout, rails) if s.device is not None} if rails is not None else set()
    for i in sorted(layout.panels, key=lambda i: (natural(layout.panels[i].name), i)):
        counted = Counter(_of_turnouts(layout, i))
        if "occupancy" in layout.panels[i].lamps:
            counted.update(layout.devices[d].board or d for d in sensed)
        if "breakers" in layout.panels[i].lamps:
            counted.update(d for d, device in layout.devices.items() if device.kind == "breaker")
        found += [Lead(i, board, counted[board]) for board in sorted(counted, key=natural)]
    return found


def _of_turnouts(layout: Layout, panel: str) -> Iterator[str]:
    shown, by = layout.panels[panel].lamps, layout.panels[panel].turnouts_by
    met = {(end.node, end.port) for t in layout.tracks.values() for end in (t.a, t.b)}
    for i, node in layout.nodes.items():
        board = board_of(node)
        if node.kind not in THROWN or board is None or panel_of(layout, node.at.x, node.at.y) != panel:
            continue
        lies = LIES.get(node.kind, ())
        yield from [board] * (max(len(lies), 1) if by == "push buttons, one a leg" else 1)
        if "turnouts, one of two colours" in shown:
            yield board
        if "turnouts, one a leg" in shown:
            yield from [board] * sum((i, port) in met for port in lies)
