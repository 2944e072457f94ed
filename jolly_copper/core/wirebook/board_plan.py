"""One board on paper: its track, gaps, runs, terminals and feeders, each with its label."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

from jolly_copper.core.circuits.lengths import point_on_run, point_on_track, terminal_point
from jolly_copper.core.layout.benchwork import board_name
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.geometry import Polyline, inside
from jolly_copper.core.wirebook.piece import Piece
from jolly_copper.core.wirebook.sketch import FAINT, INK, MUTED, Lettering, Point, Sketch, Stroke

MARGIN_MM = 120.0
"""So much of what lies round a board is drawn with it, mm on the plan."""
WIDE, TALL = 180.0, 118.0
"""The room a plan has on a page, mm; it serves A4 and Letter."""

Place = Callable[[float, float], Point]


def board_plan(layout: Layout, board: str, wires: Sequence[Piece]) -> Sketch:
    """The plan of one board with the wires worked on there.

    Long boards that stand upright on the plan are turned a quarter clockwise, and say so.
    """
    outline = layout.boards[board].corners
    x0, x1 = min(x for x, _ in outline) - MARGIN_MM, max(x for x, _ in outline) + MARGIN_MM
    y0, y1 = min(y for _, y in outline) - MARGIN_MM, max(y for _, y in outline) + MARGIN_MM
    turned = (y1 - y0) > 1.15 * (x1 - x0)
    long, short = (y1 - y0, x1 - x0) if turned else (x1 - x0, y1 - y0)
    scale = min(WIDE / long, TALL / short)
    width, height = long * scale, short * scale

    def place(x: float, y: float) -> Point:
        return ((y1 - y) * scale, (x - x0) * scale) if turned else ((x - x0) * scale, (y - y0) * scale)

    def near(x: float, y: float) -> bool:
        return x0 <= x <= x1 and y0 <= y <= y1

    def line(drawn: Polyline) -> tuple[Point, ...]:
        return tuple(place(x, y) for x, y in zip(drawn.xs, drawn.ys, strict=True))

    def meets(drawn: Polyline) -> bool:
        return max(drawn.xs) >= x0 and min(drawn.xs) <= x1 and max(drawn.ys) >= y0 and min(drawn.ys) <= y1

    letters = Lettering(width, height)
    strokes = [
        Stroke(
            tuple(place(x, y) for x, y in b.corners),
            FAINT,
            0.7 if i == board else 0.25,
            None,
            True,
            "#faf7f0" if i == board else None,
        )
        for i, b in sorted(layout.boards.items(), key=lambda item: item[0] == board)
    ]
    for obstacle in layout.obstacles.values():
        if any(near(x, y) for x, y in obstacle.corners):
            strokes.append(Stroke(tuple(place(x, y) for x, y in obstacle.corners), MUTED, 0.25, 0.8, True, "#ece6d8"))
    tracks = {i: t.line for i, t in layout.tracks.items()}
    strokes += [Stroke(line(t), "#8b9296", 0.9) for t in tracks.values() if meets(t)]
    marks = _wires(layout, strokes, letters, place, near, line, meets, wires, outline)
    for gap in layout.gaps.values():
        x, y = point_on_track(layout, gap.track, gap.at)
        if near(x, y):
            strokes.append(gap_tick(tracks[gap.track], gap.at, place))
    for words in marks:
        letters.put(*words)
    for i, gap in layout.gaps.items():
        x, y = point_on_track(layout, gap.track, gap.at)
        if inside(outline, x, y):
            letters.put(*place(x, y), f"gap {i}", 5.5, MUTED)
    for i, track in layout.tracks.items():
        seen = [k for k in range(len(tracks[i].xs)) if inside(outline, tracks[i].xs[k], tracks[i].ys[k])]
        x, y = tracks[i].point(tracks[i].length / 2)
        if not inside(outline, x, y) and seen:
            x, y = tracks[i].xs[seen[len(seen) // 2]], tracks[i].ys[seen[len(seen) // 2]]
        if inside(outline, x, y):
            letters.put(*place(x, y), track.name, 6, MUTED)
    note = "Turned a quarter: the left side of the plan is at the top here. " if turned else ""
    ratio = round(1 / scale)
    return Sketch(
        f"{board_name(layout, board)} with its wires, 1 to {ratio}",
        width,
        height,
        tuple(strokes),
        tuple(letters.placed),
        f"{note}Drawn from above, so from below left and right change over.",
    )


def _wires(
    layout: Layout,
    strokes: list[Stroke],
    letters: Lettering,
    place: Place,
    near: Callable[[float, float], bool],
    line: Callable[[Polyline], tuple[Point, ...]],
    meets: Callable[[Polyline], bool],
    wires: Sequence[Piece],
    outline: Sequence[tuple[float, float]],
) -> list[tuple[float, float, str, float, str, bool]]:
    """Draws runs, feeders, terminals, plugs and devices, and answers their words, most needed first."""
    words: list[tuple[float, float, str, float, str, bool]] = []
    for run in layout.runs.values():
        drawn = run.line
        if meets(drawn):
            ink = layout.circuits[run.circuit].ink
            strokes += [Stroke(line(drawn), ink, 0.8), Stroke(line(drawn), "#fffdf8", 0.25)]
    for feeder in layout.feeders.values():
        rail = point_on_track(layout, feeder.track, feeder.at)
        if near(*rail):
            terminal = layout.terminals[feeder.terminal]
            ink = layout.circuits[layout.runs[terminal.run].circuit].ink
            strokes.append(Stroke((place(*rail), place(*terminal_point(layout, terminal))), ink, 0.35))
            if inside(outline, *rail):
                x, y = place(*rail)
                strokes.append(Stroke(_disc(x, y, 0.7), ink, 0.2, None, True, ink))
                letters.keep_clear(x, y, 0.7)
                words.append((x, y, feeder.label, 6, INK, True))
    for kind in ("terminals", "plugs"):
        for i, thing in getattr(layout, kind).items():
            x, y = point_on_run(layout.runs[thing.run], thing.along)
            if near(x, y):
                px, py = place(x, y)
                half = 1.0 if kind == "terminals" else 1.3
                box = ((px - half, py - half), (px + half, py - half), (px + half, py + half), (px - half, py + half))
                strokes.append(Stroke(box, INK, 0.3, None, True, "#fffdf8" if kind == "terminals" else INK))
                letters.keep_clear(px, py, half)
                if inside(outline, x, y):
                    words.append((px, py, i, 6, INK, False))
    for device in layout.devices.values():
        if near(device.at.x, device.at.y):
            px, py = place(device.at.x, device.at.y)
            box = ((px - 2, py - 1.4), (px + 2, py - 1.4), (px + 2, py + 1.4), (px - 2, py + 1.4))
            strokes.append(Stroke(box, INK, 0.3, None, True, "#f0dfc9"))
            letters.keep_clear(px, py, 2)
            words.insert(0, (px, py, device.name, 6, INK, True))
    for piece in wires:
        if piece.kind == "run":
            run = layout.runs[piece.owner]
            along = float(piece.middle)
            x, y = point_on_run(run, along)
            if inside(outline, x, y):
                words.append((*place(x, y), piece.label, 6, layout.circuits[run.circuit].ink, True))
    return words


def _disc(x: float, y: float, radius: float) -> tuple[Point, ...]:
    return tuple((x + radius * math.cos(k * math.pi / 6), y + radius * math.sin(k * math.pi / 6)) for k in range(12))


def gap_tick(line: Polyline, at: float, place: Place) -> Stroke:
    """A tick across the track."""
    a, b = place(*line.point(max(at - 5, 0))), place(*line.point(min(at + 5, line.length)))
    x, y = place(*line.point(at))
    span = math.dist(a, b) or 1.0
    ux, uy = (b[0] - a[0]) / span, (b[1] - a[1]) / span
    return Stroke(((x - uy * 1.6, y + ux * 1.6), (x + uy * 1.6, y - ux * 1.6)), "#9e2a1f", 0.5)
