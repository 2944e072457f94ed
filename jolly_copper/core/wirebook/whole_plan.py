"""The whole railroad on one page: benchwork, track in the inks of its districts, gaps and what power comes from."""

from __future__ import annotations

import itertools
import math
from collections import defaultdict
from collections.abc import Iterator, Sequence

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.lengths import point_on_track
from jolly_copper.core.layout.benchwork import board_name
from jolly_copper.core.layout.geometry import Polyline
from jolly_copper.core.layout.power_tree import SOURCES
from jolly_copper.core.rails.pieces import Piece
from jolly_copper.core.wirebook.board_plan import TALL, WIDE, gap_tick
from jolly_copper.core.wirebook.sketch import FAINT, INK, MUTED, Lettering, Point, Sketch, Stroke

MARGIN_MM, CLEAR_EVERY_MM = 100.0, 1.5
UNFED = "#8b9296"


def whole_plan(facts: Facts) -> Sketch | None:
    """The plan on one page; None where there is nothing to draw."""
    layout = facts.layout
    corners = [c for b in layout.boards.values() for c in b.corners]
    corners += [(v.x, v.y) for t in layout.tracks.values() for v in t.path]
    if not corners:
        return None
    sources = [d for d in layout.devices.values() if d.kind in SOURCES]
    corners += [(d.at.x, d.at.y) for d in sources]
    x0, x1 = min(x for x, _ in corners) - MARGIN_MM, max(x for x, _ in corners) + MARGIN_MM
    y0, y1 = min(y for _, y in corners) - MARGIN_MM, max(y for _, y in corners) + MARGIN_MM
    scale = min(WIDE / (x1 - x0), TALL / (y1 - y0))
    width, height = (x1 - x0) * scale, (y1 - y0) * scale

    def place(x: float, y: float) -> Point:
        return (x - x0) * scale, (y - y0) * scale

    strokes = [
        Stroke(tuple(place(*c) for c in b.corners), FAINT, 0.3, None, True, "#faf7f0") for b in layout.boards.values()
    ]
    letters = Lettering(width, height)
    longest: dict[str, Piece] = {}
    reach: dict[str, float] = defaultdict(float)
    for number, extent in enumerate(facts.rails.extents):
        circuit = facts.meant[number]
        district = (facts.tree.unsensed(circuit) or circuit) if circuit is not None else None
        for piece in extent:
            ink = layout.circuits[district].ink if district is not None else UNFED
            part = _part(layout.tracks[piece.track].line, facts.rails.lengths[piece.track], piece)
            drawn = tuple(place(*p) for p in part)
            strokes.append(Stroke(drawn, ink, 0.8))
            for x, y in _every(drawn, CLEAR_EVERY_MM):
                letters.keep_clear(x, y, 0.5)
            if district is not None and piece.end - piece.start > reach[district]:
                reach[district], longest[district] = piece.end - piece.start, piece
    for gap in layout.gaps.values():
        track = layout.tracks[gap.track]
        line, length = track.line, facts.rails.lengths[gap.track]
        strokes.append(gap_tick(line, gap.at / length * line.length if length else 0.0, place))
    for device in sources:
        px, py = place(device.at.x, device.at.y)
        box = ((px - 1.6, py - 1.1), (px + 1.6, py - 1.1), (px + 1.6, py + 1.1), (px - 1.6, py + 1.1))
        strokes.append(Stroke(box, INK, 0.3, None, True, "#f0dfc9"))
        letters.keep_clear(px, py, 1.6)
        letters.put(px, py, device.name, 6, INK, True)
    for district, piece in sorted(longest.items(), key=lambda item: reach[item[0]]):
        circuit_of = layout.circuits[district]
        for share in (0.5, 0.3, 0.7, 0.1, 0.9):
            x, y = point_on_track(layout, piece.track, piece.start + share * (piece.end - piece.start))
            if letters.put(*place(x, y), circuit_of.name, 6.5, circuit_of.ink, True):
                break
    for i, board in layout.boards.items():
        x, y = (
            sum(c[0] for c in board.corners) / len(board.corners),
            sum(c[1] for c in board.corners) / len(board.corners),
        )
        letters.put(*place(x, y), board_name(layout, i), 5.5, MUTED)
    return Sketch(
        f"The whole plan, 1 to {round(1 / scale)}",
        width,
        height,
        tuple(strokes),
        tuple(letters.placed),
        "Track wears the ink of the district that feeds it, grey where none does; ticks across it are gaps.",
    )


def _every(line: Sequence[Point], step: float) -> Iterator[Point]:
    """Points along a line, no farther apart than a step."""
    for (ax, ay), (bx, by) in itertools.pairwise(line):
        count = max(1, math.ceil(math.dist((ax, ay), (bx, by)) / step))
        for k in range(count + 1):
            yield ax + (bx - ax) * k / count, ay + (by - ay) * k / count


def _part(line: Polyline, length: float, piece: Piece) -> list[Point]:
    """The drawn line of a piece of rail, whose places are by the track's own length."""
    stretch = line.length / length if length else 1.0
    start, end = piece.start * stretch, piece.end * stretch
    between, along = [], 0.0
    previous: Point | None = None
    for x, y in zip(line.xs, line.ys, strict=True):
        if previous is not None:
            along += ((x - previous[0]) ** 2 + (y - previous[1]) ** 2) ** 0.5
        if start < along < end:
            between.append((x, y))
        previous = (x, y)
    return [line.point(start), *between, line.point(end)]
