"""Making joined track of loose lines from a drawing: ends that nearly meet become one joint, ends on a line a
turnout."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

from jolly_copper.core.drawing.nodes import make_turnout
from jolly_copper.core.drawing.sheet import DrawingError, Sheet, bend, new_node
from jolly_copper.core.drawing.tracks import split_track
from jolly_copper.core.layout.fields import Bend
from jolly_copper.core.layout.geometry import draw, split_path

MOST_LINES = 4000
SHORTEST_LINE_MM = 5.0
CELL_MM = 250.0


@dataclass(frozen=True)
class Line:
    """One line of a drawing: its vertices in mm, and the layer it was on."""

    path: tuple[Bend, ...]
    layer: str = ""
    name: str | None = None


@dataclass
class Report:
    """What was taken of a drawing and what was not, for people."""

    tracks: int = 0
    joints: int = 0
    turnouts: int = 0
    crossings: int = 0
    left_out: dict[str, int] = field(default_factory=lambda: defaultdict(int))
    loose_ends: int = 0

    def leave(self, why: str, count: int = 1) -> None:
        """Count something that was not taken."""
        self.left_out[why] += count


def take_in(
    sheet: Sheet, lines: Sequence[Line], tolerance: float, like: dict[str, Any], report: Report | None = None
) -> Report:
    """Lay the lines as track. Ends within the tolerance meet; three ends make a turnout, four that run straight a
    crossing.

    Args:
        sheet: what to draw on.
        lines: in mm.
        tolerance: how far apart, mm, ends may lie and still be one.
        like: use, rail and joiners of the new track.
        report: to go on counting in.

    Raises:
        DrawingError: there are more lines than a track plan has.
    """
    report = report or Report()
    if len(lines) > MOST_LINES:
        raise DrawingError(
            f"That is {len(lines)} lines; {MOST_LINES} is the most that is taken at once. Choose fewer layers."
        )
    kept = []
    for line in lines:
        if draw(line.path).length < max(SHORTEST_LINE_MM, tolerance):
            report.leave("shorter than the tolerance")
        elif math.dist((line.path[0].x, line.path[0].y), (line.path[-1].x, line.path[-1].y)) < 1e-6:
            kept += _halves(line)  # a closed line: two tracks, since a ring needs somewhere to begin
        else:
            kept.append(line)
    clusters = _clusters([p for line in kept for p in (line.path[0], line.path[-1])], tolerance)
    middles = _middles(clusters, kept)
    laid: list[str] = []
    nodes: dict[int, str] = {}
    for number, line in enumerate(kept):
        ends = []
        path = [bend(v.x, v.y, v.radius) for v in line.path]
        for k, end in ((2 * number, 0), (2 * number + 1, -1)):
            cluster = clusters[k]
            x, y = middles[cluster]
            if cluster not in nodes:
                nodes[cluster] = sheet.add("nodes", "J", new_node("joint", x, y))
            ends.append({"node": nodes[cluster], "port": f"new{k}"})
            path[end].update(x=round(x, 2), y=round(y, 2))
        i = sheet.free("tracks", "track-")
        sheet["tracks"][i] = {
            "name": line.name or f"Track {i.removeprefix('track-')}",
            "a": ends[0],
            "b": ends[1],
            "path": path,
            "tape": None,
            "ohms_per_metre": None,
            **like,
        }
        if sheet.line(i).length < SHORTEST_LINE_MM:
            sheet["tracks"].pop(i)
            report.leave("shorter than the tolerance")
            continue
        laid.append(i)
    _meet(sheet, set(nodes.values()), report)
    _ends_on_lines(sheet, laid, tolerance, report)
    report.tracks = len(laid)
    return report


def _halves(line: Line) -> list[Line]:
    first, second = split_path(line.path, draw(line.path).length / 2)
    return [
        Line(tuple(first), line.layer, line.name),
        Line(tuple(second), line.layer, f"{line.name}, 2" if line.name else None),
    ]


def _clusters(points: Sequence[Bend], tolerance: float) -> list[int]:
    """Which points are one place: each joins the first earlier one within the tolerance."""
    cells: dict[tuple[int, int], list[int]] = defaultdict(list)
    size = max(tolerance, 0.1)
    found: list[int] = []
    for k, p in enumerate(points):
        cx, cy = math.floor(p.x / size), math.floor(p.y / size)
        near = [
            j
            for dx in (-1, 0, 1)
            for dy in (-1, 0, 1)
            for j in cells[(cx + dx, cy + dy)]
            if math.dist((p.x, p.y), (points[j].x, points[j].y)) <= tolerance
        ]
        home = found[min(near)] if near else k
        found.append(home)
        cells[(cx, cy)].append(k)
    return found


def _middle(ends: list[int], kept: list[Line]) -> tuple[float, float]:
    points = [kept[k // 2].path[0 if k % 2 == 0 else -1] for k in ends]
    return sum(p.x for p in points) / len(points), sum(p.y for p in points) / len(points)


def _middles(clusters: list[int], kept: list[Line]) -> dict[int, tuple[float, float]]:
    members: dict[int, list[int]] = defaultdict(list)
    for k, cluster in enumerate(clusters):
        members[cluster].append(k)
    return {c: _middle(ends, kept) for c, ends in members.items()}


def _meet(sheet: Sheet, nodes: set[str], report: Report) -> None:
    """Give every new node the kind its ends make it."""
    at: dict[str, list[tuple[str, str]]] = defaultdict(list)
    for i, value in sheet["tracks"].items():
        for which in ("a", "b"):
            if value[which]["node"] in nodes:
                at[value[which]["node"]].append((i, which))
    for node in sorted(nodes):
        ends: list[End] = sorted(at[node])
        outward = {e: sheet.outward(*e) for e in ends}
        if not ends:
            sheet["nodes"].pop(node)
        elif len(ends) <= 2:
            for number, (track, end) in enumerate(ends, start=1):
                sheet["tracks"][track][end]["port"] = str(number)
            report.joints += len(ends) == 2
            report.loose_ends += len(ends) == 1
        elif len(ends) == 3:
            points, through, third = _sort_turnout(outward)
            for leg, port in ((points, "1"), (through, "2")):
                sheet["tracks"][leg[0]][leg[1]]["port"] = port
            sheet["tracks"][third[0]][third[1]]["port"] = "diverging"
            make_turnout(sheet, node, points, through, outward[through], outward[third], "live", ends)
            report.turnouts += 1
        elif len(ends) == 4 and (pairs := _straight_pairs(outward)):
            for number, (west, east) in enumerate(pairs, start=1):
                sheet["tracks"][west[0]][west[1]]["port"] = f"west{number}"
                sheet["tracks"][east[0]][east[1]]["port"] = f"east{number}"
            sheet["nodes"][node]["kind"] = "crossing"
            report.crossings += 1
        else:
            _part(sheet, node, ends)
            report.leave(f"{len(ends)} ends at one place: left unjoined", len(ends) - 2)


End = tuple[str, str]


def _dot(a: tuple[float, float], b: tuple[float, float]) -> float:
    return a[0] * b[0] + a[1] * b[1]


def _sort_turnout(outward: dict[End, tuple[float, float]]) -> tuple[End, End, End]:
    """Points, through and diverging ends of three: the two legs lean the same way, the straighter of them is
    through."""
    ends = sorted(outward)
    legs = max(
        ((a, b) for k, a in enumerate(ends) for b in ends[k + 1 :]), key=lambda p: _dot(outward[p[0]], outward[p[1]])
    )
    points = next(e for e in ends if e not in legs)
    through = min(legs, key=lambda e: (_dot(outward[e], outward[points]), e))
    return points, through, next(e for e in legs if e != through)


def _straight_pairs(outward: dict[End, tuple[float, float]]) -> list[tuple[End, End]] | None:
    ends = sorted(outward)
    first = ends[0]
    across = min(ends[1:], key=lambda e: _dot(outward[first], outward[e]))
    others = [e for e in ends[1:] if e != across]
    if _dot(outward[first], outward[across]) > -0.9 or _dot(outward[others[0]], outward[others[1]]) > -0.9:
        return None
    west = others[0] if _dot(outward[others[0]], outward[first]) > 0 else others[1]
    return [(first, across), (west, next(e for e in others if e != west))]


def _part(sheet: Sheet, node: str, ends: list[End]) -> None:
    """More ends than anything has: the straightest two stay joined, the rest get open ends of their own."""
    outward = {e: sheet.outward(*e) for e in ends}
    best = min(
        ((a, b) for k, a in enumerate(ends) for b in ends[k + 1 :]), key=lambda p: _dot(outward[p[0]], outward[p[1]])
    )
    for number, (track, end) in enumerate(best, start=1):
        sheet["tracks"][track][end]["port"] = str(number)
    at = sheet["nodes"][node]["at"]
    for track, end in (e for e in ends if e not in best):
        own = sheet.add("nodes", "J", new_node("joint", at["x"], at["y"]))
        sheet["tracks"][track][end] = {"node": own, "port": "1"}


def _ends_on_lines(sheet: Sheet, laid: list[str], tolerance: float, report: Report) -> None:
    """Open ends that lie on another line become turnouts there."""
    cells: dict[tuple[int, int], set[str]] = defaultdict(set)
    lies_in: dict[str, set[tuple[int, int]]] = {}
    boxes: dict[str, tuple[float, float, float, float]] = {}
    reach = math.ceil(tolerance / CELL_MM)

    def enter(track: str) -> None:
        line = sheet.line(track)
        boxes[track] = (min(line.xs), min(line.ys), max(line.xs), max(line.ys))
        for cell in lies_in.pop(track, ()):
            cells[cell].discard(track)
        mine = lies_in[track] = set()
        for x, y, x2, y2 in zip(line.xs, line.ys, line.xs[1:], line.ys[1:], strict=False):
            steps = max(1, math.ceil(math.dist((x, y), (x2, y2)) / CELL_MM))
            for k in range(steps + 1):
                mine.add(
                    (math.floor((x + (x2 - x) * k / steps) / CELL_MM), math.floor((y + (y2 - y) * k / steps) / CELL_MM))
                )
        for cell in mine:
            cells[cell].add(track)

    for track in laid:
        enter(track)
    degree: dict[str, int] = defaultdict(int)
    for t in sheet["tracks"].values():
        degree[t["a"]["node"]] += 1
        degree[t["b"]["node"]] += 1
    for track in laid:
        for end in ("a", "b"):
            node = sheet["tracks"][track][end]["node"]
            if degree[node] != 1 or sheet["nodes"][node]["kind"] != "joint":
                continue
            x, y = sheet["nodes"][node]["at"]["x"], sheet["nodes"][node]["at"]["y"]
            cx, cy = math.floor(x / CELL_MM), math.floor(y / CELL_MM)
            around = range(-reach, reach + 1)
            near = {t for dx in around for dy in around for t in cells.get((cx + dx, cy + dy), ())} - {track}
            near = {t for t in near if _within(boxes[t], x, y, tolerance)}
            best = min(((sheet.line(t).nearest(x, y)[1], t) for t in sorted(near)), default=(math.inf, ""))
            if best[0] > tolerance:
                continue
            host = best[1]
            line = sheet.line(host)
            at = line.nearest(x, y)[0]
            if not 2 * SHORTEST_LINE_MM < at < line.length - 2 * SHORTEST_LINE_MM:
                continue
            joint = split_track(sheet, host, at)
            second = _newest(sheet)
            enter(second)
            enter(host)
            (points, through) = sorted([(host, "b"), (second, "a")])
            leaving = sheet.outward(track, end)
            if _dot(leaving, sheet.outward(*points)) > _dot(leaving, sheet.outward(*through)):
                points, through = through, points
            sheet["nodes"].pop(node)
            sheet["tracks"][track][end] = {"node": joint, "port": "diverging"}
            place = sheet["nodes"][joint]["at"]
            sheet["tracks"][track]["path"][0 if end == "a" else -1].update(place)
            ends = (points, through, (track, end))
            make_turnout(sheet, joint, points, through, sheet.outward(*through), leaving, "live", ends)
            report.turnouts += 1
            report.loose_ends -= 1


def _within(box: tuple[float, float, float, float], x: float, y: float, tolerance: float) -> bool:
    return box[0] - tolerance <= x <= box[2] + tolerance and box[1] - tolerance <= y <= box[3] + tolerance


def _newest(sheet: Sheet) -> str:
    return f"track-{int(sheet.free('tracks', 'track-').removeprefix('track-')) - 1}"
