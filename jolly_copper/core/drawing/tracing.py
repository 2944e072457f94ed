"""A traced plan laid as track: every line cut where another leaves or crosses it, every turnout with its hand."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Collection, Sequence
from dataclasses import dataclass
from typing import Any, Literal, NamedTuple

from jolly_copper.core.drawing.nodes import NAMED, set_table
from jolly_copper.core.drawing.sheet import DrawingError, Sheet, bend, new_node, unit
from jolly_copper.core.layout.fields import Bend
from jolly_copper.core.layout.geometry import draw, split_path
from jolly_copper.core.tracing.fitting import Corner, without_kinks
from jolly_copper.core.tracing.lines import Line, Traced

APART_MM, SHORTEST_MM = 25.0, 30.0
"""Places on one line lie so far apart at least; a line is at least so long."""
CHORD_MM = 160.0
"""A lead is tangent where it begins: which way it leaves is seen so far out."""
THREE_WAY_MM, HARDLY_MM = 45.0, 1.5


class Placed(NamedTuple):
    """Where a picture lies: mm of its upper left corner, and to a pixel of what was traced."""

    x: float
    y: float
    mm: float


@dataclass
class LaidReport:
    """What was laid, for people. left_out: lines that were chosen but are too short to be track."""

    tracks: int = 0
    turnouts: int = 0
    crossings: int = 0
    tables: int = 0
    loose_ends: int = 0
    left_out: int = 0


@dataclass
class Station:
    """A place on a line where something happens: the node there, and the ports of its rails before and after."""

    at: float
    node: str
    before: str
    after: str


def lay_traced(
    sheet: Sheet,
    traced: Traced,
    chosen: Collection[int],
    placed: Placed,
    like: dict[str, Any],
    uses: dict[int, str] | None = None,
) -> LaidReport:
    """Lay the chosen lines as track. Joins nothing to track that is there already.

    Args:
        sheet: drawn on. traced: the proposal. chosen: lines by number. placed: where the picture lies. like: what new
        track is made of. uses: of the lines of an ink, by its number.

    Raises:
        DrawingError: nothing is chosen.
    """
    lines = {x.number: x for x in traced.lines if x.number in set(chosen)}
    paths = {n: _path(x, placed) for n, x in lines.items()}
    lines = {n: x for n, x in lines.items() if draw(paths[n]).length >= SHORTEST_MM}
    if not lines:
        raise DrawingError("No line is chosen that is long enough to be track.")
    report = LaidReport(left_out=len(set(chosen)) - len(lines))
    stations: dict[int, list[Station]] = defaultdict(list)
    ends: dict[tuple[int, bool], tuple[str, str]] = {}
    _turnouts(sheet, lines, paths, placed, stations, ends, report)
    _crossings(sheet, traced, lines, paths, placed, stations, report)
    _tables(sheet, traced, lines, placed, ends, report)
    for number, line in lines.items():
        more = {**like, "use": uses[line.ink]} if uses and line.ink in uses else like
        _lay_line(sheet, line, paths[number], stations[number], ends, more, report)
    return report


def _path(line: Line, placed: Placed) -> list[Bend]:
    return [
        Bend(
            x=round(placed.x + c.x * placed.mm, 2),
            y=round(placed.y + c.y * placed.mm, 2),
            radius=None if c.radius is None else round(c.radius * placed.mm, 1),
        )
        for c in line.corners
    ]


def _add_node(sheet: Sheet, kind: str, x: float, y: float, **more: Any) -> str:
    """A node; turnouts and crossings go by a name of their own, as when they are drawn."""
    prefix = NAMED.get(kind)
    if prefix is None:
        return sheet.add("nodes", "J", new_node(kind, x, y, **more))
    name = sheet.free("nodes", prefix)
    sheet["nodes"][name] = new_node(kind, x, y, name=name, **more)
    return name


def _turnouts(
    sheet: Sheet,
    lines: dict[int, Line],
    paths: dict[int, list[Bend]],
    placed: Placed,
    stations: dict[int, list[Station]],
    ends: dict[tuple[int, bool], tuple[str, str]],
    report: LaidReport,
) -> None:
    """A turnout wherever a chosen line leaves another; two that leave at one place to both sides are a three-way."""
    for number, line in sorted(lines.items()):
        for first, lead in ((True, line.starts), (False, line.ends)):
            if lead is None or lead.host not in lines:
                continue
            host = draw(paths[lead.host])
            at = min(max(lead.along * placed.mm, APART_MM), max(host.length - APART_MM, host.length / 2))
            hand = _hand(paths[lead.host], at, lead.ahead, paths[number], first)
            before, after = ("points", "through") if lead.ahead else ("through", "points")
            twin = next((s for s in stations[lead.host] if abs(s.at - at) < THREE_WAY_MM and s.before == before), None)
            if twin is not None:
                node = sheet["nodes"][twin.node]
                if node["kind"] == "turnout" and node["hand"] != hand:
                    other = next(k for k, v in ends.items() if v == (twin.node, "diverging"))
                    ends[other] = (twin.node, node["hand"])
                    node.update(kind="three-way", hand=None)
                    ends[number, first] = (twin.node, hand)
                    report.turnouts += 1
                    continue
            clear = _clear_of(stations[lead.host], at, host.length)
            if clear is None:
                continue  # there is no room on so short a line: its lead ends in the open
            x, y = host.point(clear)
            node_id = _add_node(sheet, "turnout", x, y, hand=hand)
            stations[lead.host].append(Station(clear, node_id, before, after))
            ends[number, first] = (node_id, "diverging")
            report.turnouts += 1


def _clear_of(stations: Sequence[Station], at: float, length: float) -> float | None:
    """The nearest place along a line that keeps clear of what is there already; None where it is full."""
    taken = [s.at for s in stations]
    for off in (0.0, *(k * s * APART_MM for k in range(1, 40) for s in (1, -1))):
        place = at + off
        if SHORTEST_MM / 2 <= place <= length - SHORTEST_MM / 2 and all(abs(place - t) >= APART_MM for t in taken):
            return place
    return None


def _hand(host: list[Bend], at: float, ahead: bool, lead: list[Bend], first: bool) -> Literal["left", "right"]:
    """The side a lead leaves on, seen from the points: by where it is a little way out."""
    line, branch = draw(host), draw(lead)
    out = branch.point(min(CHORD_MM, branch.length) if first else max(branch.length - CHORD_MM, 0.0))
    x, y = line.point(at)
    on = line.point(min(at + CHORD_MM, line.length) if ahead else max(at - CHORD_MM, 0.0))
    cross = (on[0] - x) * (out[1] - y) - (on[1] - y) * (out[0] - x)
    return "right" if cross > 0 else "left"


def _crossings(
    sheet: Sheet,
    traced: Traced,
    lines: dict[int, Line],
    paths: dict[int, list[Bend]],
    placed: Placed,
    stations: dict[int, list[Station]],
    report: LaidReport,
) -> None:
    for crossing in traced.crossings:
        if crossing.one not in lines or crossing.other not in lines:
            continue
        both = [draw(paths[n]) for n in (crossing.one, crossing.other)]
        clear = [
            _clear_of(stations[n], min(max(s * placed.mm, APART_MM), line.length - APART_MM), line.length)
            for n, s, line in zip(
                (crossing.one, crossing.other), (crossing.one_at, crossing.other_at), both, strict=True
            )
        ]
        at = [s for s in clear if s is not None]
        if len(at) < 2:
            continue
        places = [line.point(s) for line, s in zip(both, at, strict=True)]
        if math.dist(*places) > APART_MM:
            continue  # a turnout stands there already: the lines pass each other instead
        node = _add_node(sheet, crossing.kind, sum(p[0] for p in places) / 2, sum(p[1] for p in places) / 2)
        a, c = (line.point(min(s + 20, line.length)) for line, s in zip(both, at, strict=True))
        b, d = places
        alike = (a[0] - b[0]) * (c[0] - d[0]) + (a[1] - b[1]) * (c[1] - d[1]) >= 0
        stations[crossing.one].append(Station(at[0], node, "west1", "east1"))
        stations[crossing.other].append(
            Station(at[1], node, "west2", "east2") if alike else Station(at[1], node, "east2", "west2")
        )
        report.crossings += 1


def _tables(
    sheet: Sheet,
    traced: Traced,
    lines: dict[int, Line],
    placed: Placed,
    ends: dict[tuple[int, bool], tuple[str, str]],
    report: LaidReport,
) -> None:
    """A turntable wherever two chosen lines or more lead to one, a stub for each."""
    for table in traced.tables:
        stubs = [s for s in table.stubs if s.line in lines and (s.line, s.first) not in ends]
        if len(stubs) < 2:
            continue
        x, y = placed.x + table.x * placed.mm, placed.y + table.y * placed.mm
        node = set_table(sheet, "turntable", round(x, 2), round(y, 2), round(2 * table.radius * placed.mm, 1))
        ends |= {(s.line, s.first): (node, f"stub{k}") for k, s in enumerate(stubs, start=1)}
        report.tables += 1


def _lay_line(
    sheet: Sheet,
    line: Line,
    path: list[Bend],
    stations: list[Station],
    ends: dict[tuple[int, bool], tuple[str, str]],
    like: dict[str, Any],
    report: LaidReport,
) -> None:
    """One line as tracks from place to place."""
    stations = sorted(stations, key=lambda s: s.at)
    parts, rest, gone = list[list[Bend]](), path, 0.0
    for station in stations:
        part, rest = split_path(rest, station.at - gone)
        gone = station.at
        parts.append(part)
    parts.append(rest)
    outs = [(s.node, s.after) for s in stations]
    ins = [(s.node, s.before) for s in stations]
    if line.closed and stations:
        parts = [*parts[1:-1], [*parts[-1][:-1], *parts[0][1:]]]
        starts, stops = outs, [*ins[1:], ins[0]]
    elif line.closed:
        node = _add_node(sheet, "joint", path[0].x, path[0].y)
        starts, stops = [(node, "1")], [(node, "2")]
    else:
        starts = [_end(sheet, line, True, path[0], ends, report), *outs]
        stops = [*ins, _end(sheet, line, False, path[-1], ends, report)]
    for part, start, stop in zip(parts, starts, stops, strict=True):
        _add_track(sheet, part, start, stop, like)
        report.tracks += 1


def _end(
    sheet: Sheet, line: Line, first: bool, at: Bend, ends: dict[tuple[int, bool], tuple[str, str]], report: LaidReport
) -> tuple[str, str]:
    """The node and port of a line's end: where it leaves another, or a bumper."""
    known = ends.get((line.number, first))
    if known is not None:
        return known
    report.loose_ends += 1
    return _add_node(sheet, "bumper", at.x, at.y), "1"


def _meets(node: dict[str, Any], end: dict[str, Any]) -> tuple[float, float]:
    """Where a track meets the node at its end: at its middle, or at the edge of a pit."""
    x, y = node["at"]["x"], node["at"]["y"]
    if node["kind"] != "turntable":
        return x, y
    ux, uy = unit(end["x"] - x, end["y"] - y)
    return round(x + ux * node["diameter"] / 2, 2), round(y + uy * node["diameter"] / 2, 2)


def _add_track(
    sheet: Sheet, part: list[Bend], start: tuple[str, str], stop: tuple[str, str], like: dict[str, Any]
) -> None:
    # Where a line is cut, a corner may be left just beside the cut.
    corners = without_kinks([Corner(v.x, v.y, v.radius) for v in part], HARDLY_MM)
    path = [bend(*corner) for corner in corners]
    for k, (node, _) in ((0, start), (-1, stop)):
        path[k] = bend(*_meets(sheet["nodes"][node], path[k]))
    i = sheet.free("tracks", "track-")
    sheet["tracks"][i] = {
        "name": f"Track {i.removeprefix('track-')}",
        "a": {"node": start[0], "port": start[1]},
        "b": {"node": stop[0], "port": stop[1]},
        "path": path,
        "tape": None,
        "ohms_per_metre": None,
        **like,
    }
