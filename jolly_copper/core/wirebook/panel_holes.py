"""Holes of a control panel: its selectors, and the lamps that show how turnouts lie, who drives, what is open."""

from __future__ import annotations

import itertools
import math
from collections import defaultdict
from collections.abc import Callable, Iterator, Sequence

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.ids import natural
from jolly_copper.core.layout.panels import TurnoutsBy
from jolly_copper.core.layout.reading import LIES
from jolly_copper.core.rails.pieces import map_rails
from jolly_copper.core.signals.panel_leads import board_of, panel_of
from jolly_copper.core.wirebook.panel_parts import (
    BUTTON_MM,
    LAMP_MM,
    LEG_LAMP_MM,
    MARGIN_MM,
    ROTARY_MM,
    SIGNAL_LAMP_MM,
    SWITCH_MM,
    Hole,
    at_share,
    free_spot,
)
from jolly_copper.core.wirebook.sketch import Point
from jolly_copper.core.wirebook.switch_backs import levers


def nearest_to(layout: Layout, panel: str | None) -> Callable[[float, float], bool]:
    """Whether a place belongs to a panel: it is the nearest of all."""
    if panel is None:
        return lambda _x, _y: True

    return lambda x, y: panel_of(layout, x, y) == panel


def selector_holes(
    layout: Layout, panel: str, middles: dict[int, list[tuple[float, Point, Point]]], taken: list[Point]
) -> Iterator[Hole]:
    """A hole in the middle of each block whose selector stands on the panel; beside it where that is taken."""
    rails = map_rails(layout)
    by_circuit: dict[str, list[int]] = defaultdict(list)
    for section in layout.sections.values():
        by_circuit[section.circuit].append(rails.extent_of[rails.piece_at(section.track, section.at)])
    for number, i in enumerate(levers(layout, panel), start=1):
        device = layout.devices[i]
        places = [m for n in by_circuit[device.output] for m in middles[n]]
        if not places:
            continue
        tries = [p for _, p, _ in sorted(places, key=lambda m: -m[0])]
        _, at, (ux, uy) = max(places)
        tries += [(at[0] + ux * d - uy * e, at[1] + uy * d + ux * e) for d in (0, 11, -11, 22) for e in (0, 9, -9)]
        spot = free_spot(taken, tries)
        taken.append(spot)
        rotary = device.made.startswith("rotary") or len(device.inputs) > 2
        gives = ", ".join(layout.circuits[c].name for c in device.inputs)
        name = layout.circuits[device.output].name
        yield Hole(-number, "selector", *spot, ROTARY_MM if rotary else SWITCH_MM, name, f"gives it to {gives}, or off")


def turnout_holes(
    layout: Layout,
    turnouts: Sequence[tuple[str, Point]],
    ways: dict[str, list[Point]],
    by: TurnoutsBy,
    taken: list[Point],
) -> Iterator[Hole]:
    """A toggle beside each turnout, or a push button on each of its legs, with the input or output it goes to.

    Args:
        layout: the document. turnouts: node ids with their places on the panel, mm. ways: tracks as drawn on it, mm.
        by: what throws them. taken: places of holes; what is added is added there.
    """
    for i, at in turnouts:
        node = layout.nodes[i]
        driver = (
            f"input {node.button_input} of {layout.drivers[node.button_board].name}"
            if node.button_board and node.button_input
            else f"output {node.output} of {layout.drivers[node.driver].name}"
            if node.driver and node.output
            else "by hand, or not on a driver yet"
        )
        beside = [
            (at[0] + dx, at[1] + dy)
            for dx, dy in ((0, 10), (0, -10), (11, 8), (-11, 8), (11, -8), (-11, -8), (0, 17), (0, -17))
        ]
        lies = LIES.get(node.kind, ()) if by == "push buttons, one a leg" else ()
        for port in lies:
            leg = _leg(layout, ways, i, port)
            spot = free_spot(taken, [*([leg] if leg is not None else []), *beside])
            taken.append(spot)
            words = f"throws it to {port}: {driver}"
            yield Hole(0, "button", *spot, BUTTON_MM, node.name or i, words, board_of(node) or "")
        if not lies:
            spot = free_spot(taken, beside)
            taken.append(spot)
            yield Hole(0, "switch", *spot, SWITCH_MM, node.name or i, driver, board_of(node) or "")


def _leg(layout: Layout, ways: dict[str, list[Point]], node: str, port: str) -> Point | None:
    """A place on the panel a little way out on one leg of a turnout; None where no track is there."""
    for i, track in layout.tracks.items():
        for way, at in ((ways[i], track.a), (ways[i][::-1], track.b)):
            if (at.node, at.port) == (node, port):
                whole = sum(math.dist(a, b) for a, b in itertools.pairwise(way)) or 1.0
                return at_share(way, min(LEG_LAMP_MM / whole, 0.5))[0]
    return None


def panel_lamps(
    layout: Layout,
    panel: str,
    levers_and_switches: Sequence[Hole],
    ways: dict[str, list[Point]],
    size: tuple[float, float],
    taken: list[Point],
) -> Iterator[Hole]:
    """Lamps a control panel shows: how turnouts lie, which cab drives, which breaker is open.

    Args:
        layout: the document. panel: id. levers_and_switches: holes beside which lamps stand. ways: tracks as they are
        drawn on it, mm. size: of the panel, mm. taken: places of holes; what is added is added there.
    """
    shown = layout.panels[panel].lamps

    def hole(kind: str, tries: Sequence[Point], across: float, name: str, follows: str, board: str = "") -> Hole:
        spot = free_spot(taken, tries)
        taken.append(spot)
        return Hole(0, kind, *spot, across, name, follows, board)

    names = {n.name or i: i for i, n in layout.nodes.items()}
    done: set[str] = set()  # a turnout has a button on each leg
    for at in levers_and_switches:
        around = [(at.x + dx, at.y + dy) for dx, dy in ((9, 0), (-9, 0), (0, -9), (0, 9), (10, -8), (-10, -8))]
        if at.kind == "selector" and "cab in use" in shown:
            yield hole("cab lamp", around, SIGNAL_LAMP_MM, at.name, "the cab that drives it, by colour")
        node = names.get(at.name)
        if at.kind not in ("switch", "button") or node is None or node in done:
            continue
        done.add(node)
        if "turnouts, one of two colours" in shown:
            yield hole("turnout lamp", around, SIGNAL_LAMP_MM, at.name, "how it lies, by colour", at.board)
        if "turnouts, one a leg" in shown:
            for port in LIES.get(layout.nodes[node].kind, ()):
                leg = _leg(layout, ways, node, port)
                if leg is not None:
                    words = f"lit while it lies {port}"
                    yield hole("turnout lamp", [leg, *around], SIGNAL_LAMP_MM, at.name, words, at.board)
    if "breakers" in shown:
        guards = [(d.name, i) for i, d in layout.devices.items() if d.kind == "breaker"]
        for k, (name, guard) in enumerate(sorted(guards, key=lambda g: natural(g[0]))):
            x = size[0] - MARGIN_MM / 2 - 14.0 * k
            row = [(x, size[1] - MARGIN_MM / 2), (x, size[1] - MARGIN_MM)]
            yield hole("breaker lamp", row, LAMP_MM, name, f"lit while {name} is open", guard)
