"""A schematic of the railroad for the fascia, drawn from the plan: tracks straightened on a grid, lamps, switches,
numbers; and the template to drill it by."""

from __future__ import annotations

import itertools
import math
from collections import defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

from jolly_copper.core.circuits.quick_sums import led_resistor
from jolly_copper.core.circuits.whereabouts import extent_circuits
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.ids import natural
from jolly_copper.core.layout.panels import PanelLamp
from jolly_copper.core.quantities import print_ohms
from jolly_copper.core.rails.pieces import map_rails
from jolly_copper.core.signals.occupancy import sensing
from jolly_copper.core.wirebook.panel_holes import nearest_to, panel_lamps, selector_holes, turnout_holes
from jolly_copper.core.wirebook.panel_parts import (
    LAMP_MM,
    MARGIN_MM,
    SIGNAL_LAMP_MM,
    Hole,
    at_share,
    free_spot,
    unit,
)
from jolly_copper.core.wirebook.sketch import INK, MUTED, Lettering, Point, Sketch, Stroke

SAME_LINE_MM = 18.0
"""Places on the plan nearer than this across or down stand on one line of the panel."""
LONG_STEP_MM = 1500.0
CELL_MM = 14.0
LAMP_VOLTS, LAMP_AMPS, SUPPLY_VOLTS = 2.0, 0.008, 12.0


@dataclass(frozen=True)
class Panel:
    """width, height: mm. lines: polylines of track with the number of the stretch each is part of."""

    width: float
    height: float
    lines: tuple[tuple[int, tuple[Point, ...]], ...]
    holes: tuple[Hole, ...]
    tables: tuple[tuple[Point, float], ...]
    resistor: str


def draw_panel(layout: Layout, width: float = 600.0, panel: str | None = None) -> Panel:
    """The panel of a railroad.

    Rows and columns of the plan keep their order, so the railroad is known at sight; what is long is shortened.

    Args:
        layout: the document.
        width: of the panel, mm.
        panel: one of the layout's control panels, with its selectors and what is nearest to it; else everything but
            selectors.

    Raises:
        ValueError: no track to draw, or a width outside 200 to 2000 mm.
    """
    if not layout.tracks:
        raise ValueError("There is no track to draw a panel of.")
    if not 200 <= width <= 2000:
        raise ValueError("A panel is 200 to 2000 mm wide.")
    here = nearest_to(layout, panel)
    lamps = None if panel is None else layout.panels[panel].lamps

    def wanted(lamp: PanelLamp) -> bool:
        return lamps is None or lamp in lamps

    corners = [(v.x, v.y) for t in layout.tracks.values() for v in t.path]
    columns, rows = _lines([x for x, _ in corners]), _lines([y for _, y in corners])
    scale = (width - 2 * MARGIN_MM) / max(columns.values() or [1], default=1) if max(columns.values()) else 1.0
    down = max(min(scale, 24.0), 13.0)

    def place(x: float, y: float) -> Point:
        return MARGIN_MM + columns[x] * scale, MARGIN_MM + rows[y] * down

    height = 2 * MARGIN_MM + max(rows.values()) * down
    ways = {i: _straight([place(v.x, v.y) for v in t.path]) for i, t in layout.tracks.items()}
    rails = map_rails(layout)
    sensed = sensing(layout, rails)
    lines: list[tuple[int, tuple[Point, ...]]] = []
    middles: dict[int, list[tuple[float, Point, Point]]] = defaultdict(list)
    for i, pieces in rails.pieces.items():
        length = rails.lengths[i]
        for piece in pieces:
            part = _part(ways[i], piece.start / length, piece.end / length)
            number = rails.extent_of[piece]
            lines.append((number, tuple(part)))
            for a, b in itertools.pairwise(part):
                middles[number].append((math.dist(a, b), ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2), unit(a, b)))
    holes: list[Hole] = []
    taken: list[Point] = []
    turnouts = [
        (i, place(*_corner(layout, i)))
        for i, node in sorted(layout.nodes.items(), key=lambda n: natural(n[1].name or n[0]))
        if node.kind in ("turnout", "three-way", "slip") and here(node.at.x, node.at.y)
    ]
    by = "toggle switches" if panel is None else layout.panels[panel].turnouts_by
    holes += turnout_holes(layout, turnouts, ways, by, taken)
    done: set[str] = set()
    for s in sensed:
        if s.device is None or s.device in done or not middles[s.number] or not wanted("occupancy"):
            continue
        done.add(s.device)
        tries = [p for _, p, _ in sorted(middles[s.number], key=lambda m: -m[0])]
        _, at, (ux, uy) = max(middles[s.number])
        tries += [(at[0] + ux * d, at[1] + uy * d) for d in (9, -9, 18, -18)]
        spot = free_spot(taken, tries)
        taken.append(spot)
        holes.append(
            Hole(
                0,
                "section",
                *spot,
                LAMP_MM,
                s.name,
                f"address {s.address}" if s.address else layout.devices[s.device].name,
                layout.devices[s.device].board or s.device,
            )
        )
    if panel is not None:
        holes += selector_holes(layout, panel, middles, taken)
        holes += panel_lamps(
            layout,
            panel,
            [h for h in holes if h.kind in ("switch", "button", "selector")],
            ways,
            (width, height),
            taken,
        )
    for signal in sorted(layout.signals.values() if panel is None else (), key=lambda s: natural(s.name)):
        along = signal.at / rails.lengths[signal.track]
        (x, y), (ux, uy) = at_share(ways[signal.track], along)
        turn = 1 if signal.towards == "b" else -1
        side = turn if signal.side == "right" else -turn
        spot = free_spot(
            taken,
            [
                (x - uy * side * d + ux * e, y + ux * side * d + uy * e)
                for d in (7.0, 11.0)
                for e in (0, 6, -6, 12, -12, 18, -18)
            ],
        )
        taken.append(spot)
        holes.append(Hole(0, "signal", *spot, SIGNAL_LAMP_MM, signal.name, f"green when {signal.name} is not at stop"))
    # Selectors come first, under the numbers their backs have.
    holes.sort(key=lambda h: -h.number if h.number else math.inf)
    numbered = tuple(replace(h, number=n, x=round(h.x, 1), y=round(h.y, 1)) for n, h in enumerate(holes, start=1))
    volts = next((d.volts for d in layout.drivers.values()), SUPPLY_VOLTS)
    each = led_resistor(volts, LAMP_VOLTS, LAMP_AMPS)
    words = (
        f"{print_ohms(each.ohms)} {each.buy_watts:g} W for a lamp of {LAMP_VOLTS:g} V and {LAMP_AMPS * 1000:g} mA on "
        f"{volts:g} V"
    )
    return Panel(width, round(height, 1), tuple(lines), numbered, tuple(_tables(layout, ways)), words)


def _tables(layout: Layout, ways: dict[str, list[Point]]) -> Iterator[tuple[Point, float]]:
    """Turntables and traversers: a ring that reaches the tracks round it. Middle and radius, mm."""
    for i, node in layout.nodes.items():
        if node.kind not in ("turntable", "traverser"):
            continue
        ends = [
            ways[t][0] if x.a.node == i else ways[t][-1] for t, x in layout.tracks.items() if i in (x.a.node, x.b.node)
        ]
        if ends:
            x, y = sum(p[0] for p in ends) / len(ends), sum(p[1] for p in ends) / len(ends)
            yield (x, y), max(max(math.dist(p, (x, y)) for p in ends), 4.0)


def _near_lines(panel: Panel) -> dict[tuple[int, int], list[Point]]:
    """Points along the tracks, a few millimetres apart, by the cell they lie in: nothing is written over them."""
    found: dict[tuple[int, int], list[Point]] = defaultdict(list)
    for _, line in panel.lines:
        for a, b in itertools.pairwise(line):
            steps = max(1, round(math.dist(a, b) / 2.0))
            for k in range(steps + 1):
                x, y = a[0] + (b[0] - a[0]) * k / steps, a[1] + (b[1] - a[1]) * k / steps
                found[int(x // CELL_MM), int(y // CELL_MM)].append((x, y))
    return found


def _short(hole: Hole) -> str:
    """What is written beside a section's lamp: its block, or for points, which their switch names already, the
    address."""
    return hole.follows.removeprefix("address ") if hole.name.startswith("Points ") else hole.name


def _corner(layout: Layout, node: str) -> tuple[float, float]:
    """The place of a node as a corner of its tracks' paths, which is what the grid knows."""
    for track in layout.tracks.values():
        if track.a.node == node:
            return track.path[0].x, track.path[0].y
        if track.b.node == node:
            return track.path[-1].x, track.path[-1].y
    raise ValueError(f"{node} has no track")


def _lines(values: Sequence[float]) -> dict[float, float]:
    """The line of the grid each value stands on, from 0: values near each other share one, long steps count for a
    little more."""
    found: dict[float, float] = {}
    line, first, last = 0.0, None, None
    for value in sorted(set(values)):
        if first is None or last is None:
            first = last = value
        elif value - first > SAME_LINE_MM:
            line += 1.0 + min((value - last) / LONG_STEP_MM, 1.5)
            first = value
        last = value
        found[value] = line
    return found


def _straight(points: Sequence[Point]) -> list[Point]:
    """Corners without those that repeat or lie on a straight line."""
    kept: list[Point] = []
    for p in points:
        if not kept or math.dist(kept[-1], p) > 0.1:
            kept.append(p)
    k = 1
    while k < len(kept) - 1:
        (ax, ay), (x, y), (bx, by) = kept[k - 1 : k + 2]
        if abs((x - ax) * (by - ay) - (y - ay) * (bx - ax)) < 0.5:
            kept.pop(k)
        else:
            k += 1
    return kept if len(kept) > 1 else [kept[0], (kept[0][0] + 4.0, kept[0][1])]


def _part(way: Sequence[Point], start: float, end: float) -> list[Point]:
    """The stretch of a way between two shares of its length, a hair short at cuts so that gaps show."""
    total = sum(math.dist(a, b) for a, b in itertools.pairwise(way)) or 1.0
    hair = min(0.7 / total, (end - start) / 4)
    first = start + (hair if start > 1e-6 else 0)
    last = end - (hair if end < 1 - 1e-6 else 0)
    points, run = [at_share(way, first)[0]], 0.0
    for a, b in itertools.pairwise(way):
        run += math.dist(a, b)
        if first * total < run < last * total - 1e-9:
            points.append(b)
    return [*points, at_share(way, last)[0]]


def panel_sketch(layout: Layout, panel: Panel, template: bool = False) -> Sketch:
    """The panel as a drawing: to look at with its tracks inked, or as a template with crosses where holes are
    drilled."""
    rails = map_rails(layout)
    circuits = {s.number: s for s in sensing(layout, rails)}
    inks = {
        n: layout.circuits[c].ink
        for n, c in enumerate(extent_circuits(layout, rails))
        if c is not None and any(h.kind == "selector" for h in panel.holes)
    }
    letters = Lettering(panel.width, panel.height)
    strokes = [
        Stroke(
            ((0, 0), (panel.width, 0), (panel.width, panel.height), (0, panel.height)),
            INK,
            0.35,
            None,
            True,
            None if template else "#fbf8f1",
        )
    ]
    for number, line in panel.lines:
        device = circuits[number].device
        ink = layout.circuits[layout.devices[device].output].ink if device else inks.get(number, "#b8b1a2")
        strokes.append(Stroke(line, "#8f9498" if template else ink, 0.5 if template else 2.2))
    for (x, y), radius in panel.tables:
        ring = tuple(
            (x + radius * math.cos(k * math.pi / 16), y + radius * math.sin(k * math.pi / 16)) for k in range(32)
        )
        strokes.append(Stroke(ring, "#8f9498", 0.5 if template else 1.2, None, True))
    for hole in panel.holes:
        ring = tuple(
            (hole.x + hole.across / 2 * math.cos(k * math.pi / 8), hole.y + hole.across / 2 * math.sin(k * math.pi / 8))
            for k in range(16)
        )
        fill = (
            None
            if template
            else {"switch": "#e9e4d8", "button": "#e9e4d8", "signal": "#d3e6d4", "selector": "#d8e2ec"}.get(
                hole.kind, "#f4e3b0"
            )
        )
        strokes.append(Stroke(ring, INK, 0.25, None, True, fill))
        letters.keep_clear(hole.x, hole.y, hole.across / 2 + 0.4)
        if template:
            reach = hole.across / 2 + 1.5
            strokes.append(Stroke(((hole.x - reach, hole.y), (hole.x + reach, hole.y)), INK, 0.15))
            strokes.append(Stroke(((hole.x, hole.y - reach), (hole.x, hole.y + reach)), INK, 0.15))
    near = _near_lines(panel)
    seen: set[tuple[int, int]] = set()
    for hole in panel.holes:
        cell = (int(hole.x // CELL_MM), int(hole.y // CELL_MM))
        for key in ((cell[0] + dx, cell[1] + dy) for dx in (-1, 0, 1) for dy in (-1, 0, 1)):
            if key not in seen:
                seen.add(key)
                for x, y in near.get(key, ()):
                    letters.keep_clear(x, y, 1.0)
        if hole.kind in ("turnout lamp", "cab lamp") and not template:
            continue  # its switch beside it is named
        words = (
            f"{hole.number}"
            if template
            else hole.name.removeprefix("Points ")
            if hole.kind != "section"
            else _short(hole)
        )
        letters.put(hole.x + hole.across / 3, hole.y, words, 6, MUTED if template else INK, hole.kind != "signal")
    title = f"{'Template to drill the panel by' if template else 'Panel'}, {panel.width:.0f} × {panel.height:.0f} mm"
    return Sketch(title, panel.width, panel.height, tuple(strokes), tuple(letters.placed))
