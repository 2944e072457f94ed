"""A layout as a small picture, and two states of it as one: what was added, gone and changed told apart."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from typing import Literal

from jolly_copper.core.circuits.lengths import point_on_track, terminal_point
from jolly_copper.core.comparing import Difference, How
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.geometry import draw

MOST_POINTS = 4000
"""Of all lines of a picture together: what is finer is left out."""
EDGE = 0.03
Line = list[tuple[float, float]]


@dataclass(frozen=True)
class Mark:
    """A line or a spot of the picture. path: as in SVG, mm. how: what became of it."""

    kind: str
    id: str
    how: How | Literal["same"]
    path: str
    spot: bool = False


@dataclass(frozen=True)
class Picture:
    """box: left, top, width and height of what is seen, mm."""

    box: tuple[float, float, float, float]
    marks: tuple[Mark, ...]


def picture(layout: Layout, differences: Iterable[Difference] = (), before: Layout | None = None) -> Picture:
    """The plan: boards, buses and track.

    Args:
        layout: the plan, or its later state.
        differences: from `compare`; what they name is marked, small things as spots.
        before: the earlier state, where what is gone is drawn from.
    """
    became: Mapping[tuple[str, str], How] = {(d.kind, d.id): d.how for d in differences}
    old = list(_lines(before)) if before is not None else []
    lines = [x for x in old if became.get(x[:2]) == "gone"] + list(_lines(layout))
    every = max(1, sum(len(points) for *_, points in lines) // MOST_POINTS)
    marks = [
        Mark(kind, i, became.get((kind, i), "same"), _path([*points[:-1:every], points[-1]], kind == "board"))
        for kind, i, points in lines
    ]
    if before is not None:
        gone = [s for s in _spots(before) if became.get(s[:2]) == "gone"]
        marks += [
            Mark(kind, i, became[kind, i], _path([at, at], False), True)
            for kind, i, at in [*gone, *_spots(layout)]
            if (kind, i) in became
        ]
    return Picture(_box([p for *_, points in lines for p in points]), tuple(marks))


def _lines(layout: Layout) -> Iterator[tuple[str, str, Line]]:
    for i, board in layout.boards.items():
        yield "board", i, board.corners
    for kind, paths in (
        ("run", {i: r.path for i, r in layout.runs.items()}),
        ("track", {i: t.path for i, t in layout.tracks.items()}),
    ):
        for i, path in paths.items():
            drawn = draw(path)
            yield kind, i, list(zip(drawn.xs, drawn.ys, strict=True))


def _spots(layout: Layout) -> Iterator[tuple[str, str, tuple[float, float]]]:
    for i, f in layout.feeders.items():
        yield "feeder", i, point_on_track(layout, f.track, f.at)
    for i, g in layout.gaps.items():
        yield "gap", i, point_on_track(layout, g.track, g.at)
    for i, t in layout.terminals.items():
        yield "terminal", i, terminal_point(layout, t)
    for i, d in layout.devices.items():
        yield "device", i, (d.at.x, d.at.y)
    for i, n in layout.nodes.items():
        yield "node", i, (n.at.x, n.at.y)
    for i, s in layout.signals.items():
        yield "signal", i, point_on_track(layout, s.track, s.at)


def _path(points: Line, closed: bool) -> str:
    return "M" + "L".join(f"{x:.0f} {y:.0f}" for x, y in points) + ("Z" if closed else "")


def _box(points: Line) -> tuple[float, float, float, float]:
    if not points:
        return 0.0, 0.0, 1000.0, 600.0
    xs, ys = [x for x, _ in points], [y for _, y in points]
    width, height = max(max(xs) - min(xs), 1.0), max(max(ys) - min(ys), 1.0)
    edge = EDGE * max(width, height)
    return min(xs) - edge, min(ys) - edge, width + 2 * edge, height + 2 * edge
