"""Two tracks that cross: a crossing or a slip where one lies over the other."""

from __future__ import annotations

import math

from jolly_copper.core.drawing.nodes import NAMED, dot
from jolly_copper.core.drawing.sheet import DrawingError, Sheet, new_node
from jolly_copper.core.drawing.tracks import split_track


def cross(sheet: Sheet, one: str, one_at: float, other: str, other_at: float, kind: str) -> str:
    """Put a crossing or a slip where two tracks cross. Answers its id.

    Raises:
        DrawingError: the two places are not one, or too near an end.
    """
    if one == other:
        raise DrawingError("A track that crosses itself must be split first.")
    places = []
    for track, at in ((one, one_at), (other, other_at)):
        line = sheet.line(track)
        places.append(line.point(at * line.length / sheet.length(track)))
    if math.dist(*places) > 60:
        raise DrawingError("The two tracks do not cross there: click where one lies over the other.")
    joints = [split_track(sheet, one, one_at), split_track(sheet, other, other_at)]
    middle = [(a + b) / 2 for a, b in zip(*places, strict=True)]
    name = sheet.free("nodes", NAMED[kind])
    sheet["nodes"][name] = new_node(kind, *middle, name=name)
    west: tuple[float, float] | None = None
    for number, joint in enumerate(joints, start=1):
        ends = sheet.ends_at(joint)
        if west is None:
            west = sheet.outward(*ends[0])
        elif dot(sheet.outward(*ends[0]), west) < 0:
            ends = ends[::-1]
        for end, side in zip(ends, ("west", "east"), strict=True):
            sheet["tracks"][end[0]][end[1]] = {"node": name, "port": f"{side}{number}"}
            path = sheet["tracks"][end[0]]["path"]
            path[0 if end[1] == "a" else -1].update(x=round(middle[0], 2), y=round(middle[1], 2))
        sheet["nodes"].pop(joint)
    return name
