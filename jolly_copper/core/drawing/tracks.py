"""Drawing track: laying it from place to place, splitting, joining and bending it."""

from __future__ import annotations

import itertools
import math
from typing import Any

from pydantic import Field

from jolly_copper.core.drawing.nodes import branch_off, free_port, make_turnout, new_stub
from jolly_copper.core.drawing.sheet import OTHER_SIDE, SIDED, DrawingError, Sheet, bend, new_node, unit
from jolly_copper.core.layout.fields import Bend, Coordinate, Id, Millimetres, Model
from jolly_copper.core.layout.geometry import split_path

SHORTEST_MM = 5.0


class Spot(Model):
    """A place to draw to: a point, on a node or on a track where the drawing caught one."""

    x: Coordinate
    y: Coordinate
    node: Id | None = None
    track: Id | None = None
    at: Millimetres | None = Field(default=None, description="Distance from the track's A end, mm.")
    radius: Millimetres | None = None


def draw_track(sheet: Sheet, spots: list[Spot], like: dict[str, Any], frog: str = "live") -> str:
    """Lay a track through these spots. Its ends join what they were caught on: an open end, a track, a table.

    Where an end meets the middle of a track or a joint in use, a turnout is put in, its hand from the way the new track
    leaves. Answers the new track's id.

    Raises:
        DrawingError: the track would have no length, or an end has no place for it.
    """
    if len(spots) < 2 or sum(math.dist((a.x, a.y), (b.x, b.y)) for a, b in itertools.pairwise(spots)) < SHORTEST_MM:
        raise DrawingError("A track needs two places at least 5 mm apart.")
    path = [bend(s.x, s.y, s.radius) for s in spots]
    ends = []
    if spots[0].node and spots[0].node == spots[-1].node and len(spots) > 3:
        return _loop(sheet, spots, path, like, frog)
    if len(spots) > 3 and _comes_round(spots):
        return _ring(sheet, path[:-1], like)
    for end, beside in ((0, 1), (-1, -2)):
        leaving = unit(spots[beside].x - spots[end].x, spots[beside].y - spots[end].y)
        port, at = _take_end(sheet, spots[end], leaving, frog)
        ends.append(port)
        path[end] = bend(*at)
    if ends[0] == ends[1]:
        raise DrawingError("A track cannot end where it began: draw the loop back to a turnout or another end.")
    return _lay(sheet, ends, path, like)


def _lay(sheet: Sheet, ends: list[dict[str, Any]], path: list[dict[str, Any]], like: dict[str, Any]) -> str:
    number = sheet.free("tracks", "track-")
    sheet["tracks"][number] = {
        "name": f"Track {number.removeprefix('track-')}",
        "a": ends[0],
        "b": ends[1],
        "path": path,
        "tape": None,
        "code": 83,
        "metal": "nickel silver",
        "ohms_per_metre": None,
        "joiner_every": 914.4,
        "joiners": "usual",
        "use": "main",
        **like,
    }
    if sheet.line(number).length < SHORTEST_MM:
        raise DrawingError("A track needs two places at least 5 mm apart.")
    return number


def _loop(sheet: Sheet, spots: list[Spot], path: list[dict[str, Any]], like: dict[str, Any], frog: str) -> str:
    """A loop from an open end back to itself: that end becomes a turnout, the loop runs from leg to leg."""
    node_id = str(spots[0].node)
    node, ends = sheet.thing("nodes", node_id), sheet.ends_at(node_id)
    if node["kind"] not in ("joint", "bumper") or len(ends) != 1:
        raise DrawingError("A loop closes on the open end of its lead, or on a track beside it.")
    at = (node["at"]["x"], node["at"]["y"])
    path[0], path[-1] = bend(*at), bend(*at)
    out = unit(spots[1].x - at[0], spots[1].y - at[1])
    back = unit(spots[-2].x - at[0], spots[-2].y - at[1])
    name = make_turnout(sheet, node_id, ends[0], None, out, back, frog)
    return _lay(sheet, [{"node": name, "port": "through"}, {"node": name, "port": "diverging"}], path, like)


def _comes_round(spots: list[Spot]) -> bool:
    """Whether a track ends in the open where it began in the open."""
    first, last = spots[0], spots[-1]
    caught = first.node or first.track or last.node or last.track
    return not caught and math.dist((first.x, first.y), (last.x, last.y)) < SHORTEST_MM


def _ring(sheet: Sheet, corners: list[dict[str, Any]], like: dict[str, Any]) -> str:
    """A ring through these corners. Its joint stands in the middle of the longest leg, where the track runs straight,
    so that the corner one began at is a curve like the others."""
    legs = list(zip(corners, [*corners[1:], corners[0]], strict=True))
    longest = max(range(len(legs)), key=lambda k: math.dist(*((v["x"], v["y"]) for v in legs[k])))
    a, b = legs[longest]
    x, y = round((a["x"] + b["x"]) / 2, 2), round((a["y"] + b["y"]) / 2, 2)
    node = sheet.add("nodes", "J", new_node("joint", x, y))
    path = [bend(x, y), *corners[longest + 1 :], *corners[: longest + 1], bend(x, y)]
    return _lay(sheet, [{"node": node, "port": "1"}, {"node": node, "port": "2"}], path, like)


def extend(
    sheet: Sheet, node: str, length: float | None, radius: float | None, turn: float, like: dict[str, Any]
) -> str:
    """Go on from an open end by numbers: straight by a length, or round a curve of a radius through an angle.

    Args:
        node: an open end.
        length: mm, for a straight piece.
        radius: mm, for a curve.
        turn: degrees, to the right positive; under 180 either way.
        like: what the track is made of.

    Raises:
        DrawingError: the node is no open end, or the numbers make no track.
    """
    ends = sheet.ends_at(node)
    if sheet.thing("nodes", node)["kind"] not in ("joint", "bumper") or len(ends) != 1:
        raise DrawingError("Track goes on by numbers from an open end.")
    at = sheet["nodes"][node]["at"]
    back = sheet.outward(*ends[0])
    x, y, hx, hy = at["x"], at["y"], -back[0], -back[1]
    spots = [Spot(x=x, y=y, node=node)]
    if radius is None or turn == 0:
        if not length or length < SHORTEST_MM:
            raise DrawingError("A straight piece wants a length of at least 5 mm.")
        spots.append(Spot(x=x + hx * length, y=y + hy * length))
    else:
        angle = math.radians(turn)
        tangent = radius * math.tan(abs(angle) / 2)
        cx, cy = x + hx * tangent, y + hy * tangent
        ox, oy = hx * math.cos(angle) - hy * math.sin(angle), hx * math.sin(angle) + hy * math.cos(angle)
        spots += [Spot(x=cx, y=cy, radius=radius), Spot(x=cx + ox * tangent, y=cy + oy * tangent)]
    return draw_track(sheet, spots, like)


def _take_end(
    sheet: Sheet, spot: Spot, leaving: tuple[float, float], frog: str
) -> tuple[dict[str, Any], tuple[float, float]]:
    node_id = spot.node
    if node_id is None and spot.track is not None:
        track, at = _still_there(sheet, spot)
        node_id = _end_near(sheet, track, at) or split_track(sheet, track, at)
    if node_id is None:
        node_id = sheet.add("nodes", "J", new_node("joint", spot.x, spot.y))
        return {"node": node_id, "port": "1"}, (spot.x, spot.y)
    node = sheet.thing("nodes", node_id)
    if node["kind"] in ("turntable", "traverser"):
        return new_stub(sheet, node_id, spot.x, spot.y)
    if node["kind"] == "bumper" and sheet.ends_at(node_id):
        node["kind"] = "joint"
    port = free_port(sheet, node_id, leaving)
    if port is None:
        node_id, port = branch_off(sheet, node_id, leaving, frog)
    return {"node": node_id, "port": port}, (node["at"]["x"], node["at"]["y"])


def _still_there(sheet: Sheet, spot: Spot) -> tuple[str, float]:
    """The track a spot was caught on, or the half of it that now runs there: the other end may have split it."""
    names = [i for i in sheet["tracks"] if i == spot.track or i.startswith("track-")]
    if spot.track not in sheet["tracks"]:
        raise DrawingError("The track that end was on is not there any more.")
    best = min(names, key=lambda i: (sheet.line(i).nearest(spot.x, spot.y)[1], i != spot.track))
    line = sheet.line(best)
    return best, line.nearest(spot.x, spot.y)[0] * sheet.length(best) / line.length


def _end_near(sheet: Sheet, track: str, at: float) -> str | None:
    """The node of a track's end when a place is hardly away from it."""
    value = sheet["tracks"][track]
    if at < SHORTEST_MM:
        return str(value["a"]["node"])
    return str(value["b"]["node"]) if at > sheet.length(track) - SHORTEST_MM else None


def split_track(sheet: Sheet, track: str, at: float) -> str:
    """Cut a track in two with a joint. What stands on it goes with its half. Answers the joint's id.

    Raises:
        DrawingError: there is no such track, or the place is at its end.
    """
    value, length, line = sheet.thing("tracks", track), sheet.length(track), sheet.line(track)
    if not SHORTEST_MM <= at <= length - SHORTEST_MM:
        raise DrawingError(f"{value['name']} can be split at least 5 mm from its ends.")
    share = at / length
    first, second = split_path([Bend(**v) for v in value["path"]], line.length * share)
    joint = sheet.add("nodes", "J", new_node("joint", first[-1].x, first[-1].y))
    number = sheet.free("tracks", "track-")
    tape = value.get("tape")
    sheet["tracks"][number] = {
        **value,
        "name": _second_name(sheet, value["name"]),
        "a": {"node": joint, "port": "2"},
        "path": [v.model_dump() for v in second],
        "tape": round(tape * (1 - share), 1) if tape else None,
    }
    value.update(
        b={"node": joint, "port": "1"},
        path=[v.model_dump() for v in first],
        tape=round(tape * share, 1) if tape else None,
    )
    near, far = sheet.length(track), sheet.length(number)
    for thing in [*(t for _, _, t in sheet.things_on(track)), *sheet.standing(track)]:
        if (thing["at"] or 0) > at:
            thing.update(track=number, at=round(min(max(thing["at"] - at, 0), far), 1))
        else:
            thing["at"] = round(min(thing["at"] or 0, near), 1)
    return joint


def _second_name(sheet: Sheet, name: str) -> str:
    base = name[:70]
    return sheet.free_name(base, f"{base}, ", 2)


def weld(sheet: Sheet, node: str, spot: Spot, frog: str = "live") -> str:
    """Bring an open end to a place and join it to what is there: another end, a track, a table. Answers its track's id.

    Raises:
        DrawingError: the node is no open end.
    """
    ends = sheet.ends_at(node)
    if sheet.thing("nodes", node)["kind"] not in ("joint", "bumper") or len(ends) != 1 or spot.node == node:
        raise DrawingError("Only an open end can be brought to another track.")
    leaving = sheet.outward(*ends[0])
    port, at = _take_end(sheet, spot, leaving, frog)
    if port["node"] == node or node not in sheet["nodes"]:
        raise DrawingError("That is the same end; bring it to another track.")
    track, end = sheet.ends_at(node)[0]
    path = [dict(v) for v in sheet["tracks"][track]["path"]]
    path[0 if end == "a" else -1] = bend(*at)
    sheet["tracks"][track][end] = port
    sheet["nodes"].pop(node)
    sheet.shape(track, path)
    if sheet["tracks"][track]["a"] == sheet["tracks"][track]["b"]:
        raise DrawingError("A track cannot end where it began.")
    return track


def reverse_track(sheet: Sheet, track: str) -> None:
    """Turn a track's A and B round. Nothing on the railroad changes: left becomes right, distances count from the other
    end."""
    value, length = sheet.thing("tracks", track), sheet.length(track)
    turned = {"both": "both", "forward": "backward", "backward": "forward"}
    value.update(a=value["b"], b=value["a"], path=value["path"][::-1], runs=turned[value.get("runs", "both")])
    for kind, _, thing in list(sheet.things_on(track)):
        thing["at"] = round(max(length - thing["at"] - thing.get("length", 0.0), 0), 1)
        side = SIDED.get(kind)
        if side is not None:
            thing[side] = OTHER_SIDE.get(thing[side], thing[side])
        if "towards" in thing:
            thing["towards"] = "b" if thing["towards"] == "a" else "a"
    for placed in sheet.standing(track):
        placed["at"] = round(max(length - (placed["at"] or 0), 0), 1)


def join_tracks(sheet: Sheet, node: str) -> str:
    """Make one track of the two that meet at a joint. Keeps the first one's rail and use. Answers the track's id.

    Raises:
        DrawingError: the node is no joint of two tracks, or both ends are of one.
    """
    ends = sheet.ends_at(node)
    if sheet.thing("nodes", node)["kind"] != "joint" or len(ends) != 2:
        raise DrawingError("Two tracks can be made one where they meet end to end, at a joint.")
    (one, one_end), (other, other_end) = ends
    if one == other:
        raise DrawingError("A ring needs one joint.")
    if one_end == "a":
        reverse_track(sheet, one)
    if other_end == "b":
        reverse_track(sheet, other)
    first, second = sheet["tracks"][one], sheet["tracks"][other]
    near, far = sheet.length(one), sheet.length(other)
    measured = first.get("tape") or second.get("tape")
    path = [*first["path"], *second["path"][1:]]
    k = len(first["path"]) - 1
    before, here, after = (path[k + d] for d in (-1, 0, 1))
    u, v = unit(here["x"] - before["x"], here["y"] - before["y"]), unit(after["x"] - here["x"], after["y"] - here["y"])
    if abs(u[0] * v[1] - u[1] * v[0]) < 0.02 and u[0] * v[0] + u[1] * v[1] > 0:
        path.pop(k)  # it ran straight on: the joint leaves no mark
    for _, _, thing in list(sheet.things_on(other)):
        thing.update(track=one, at=round(thing["at"] + near, 1))
    for placed in list(sheet.standing(other)):
        placed.update(track=one, at=round((placed["at"] or 0) + near, 1))
    first.update(b=second["b"], path=path, tape=round(near + far, 1) if measured else None)
    sheet["tracks"].pop(other)
    sheet["nodes"].pop(node)
    sheet.rescale(one, near + far)
    return one


def move_bend(sheet: Sheet, track: str, index: int, x: float, y: float) -> None:
    """Move one vertex of a track. Its ends belong to nodes and move with them."""
    path = [dict(v) for v in sheet.thing("tracks", track)["path"]]
    if not 0 < index < len(path) - 1:
        raise DrawingError("The ends of a track move with the nodes they are joined to.")
    path[index].update(x=round(x, 2), y=round(y, 2))
    sheet.shape(track, path)


def insert_bend(sheet: Sheet, track: str, at: float, leg: int | None = None) -> int:
    """Put a vertex where a track runs, in this leg or the one nearest, so that it can be pulled. Answers its index."""
    sheet.thing("tracks", track)
    line, value = sheet.line(track), sheet["tracks"][track]
    x, y = line.point(at * line.length / sheet.length(track))
    corners = [(v["x"], v["y"]) for v in value["path"]]
    if leg is None or leg >= len(corners) - 1:
        leg = min(range(len(corners) - 1), key=lambda k: _off_leg(corners[k], corners[k + 1], (x, y)))
    path = [dict(v) for v in value["path"]]
    path.insert(leg + 1, bend(x, y))
    sheet.shape(track, path)
    return leg + 1


def _off_leg(a: tuple[float, float], b: tuple[float, float], p: tuple[float, float]) -> float:
    square = (b[0] - a[0]) ** 2 + (b[1] - a[1]) ** 2
    share = 0.0 if square == 0 else ((p[0] - a[0]) * (b[0] - a[0]) + (p[1] - a[1]) * (b[1] - a[1])) / square
    share = min(max(share, 0.0), 1.0)
    return math.dist(p, (a[0] + share * (b[0] - a[0]), a[1] + share * (b[1] - a[1])))


def delete_bend(sheet: Sheet, track: str, index: int) -> None:
    """Take a vertex out of a track."""
    path = list(sheet.thing("tracks", track)["path"])
    if not 0 < index < len(path) - 1:
        raise DrawingError("Only the bends between a track's ends can be taken out.")
    path.pop(index)
    sheet.shape(track, path)


def bend_radius(sheet: Sheet, track: str, index: int, radius: float | None) -> None:
    """Give a bend a radius, or the largest that fits."""
    path = [dict(v) for v in sheet.thing("tracks", track)["path"]]
    if not 0 < index < len(path) - 1:
        raise DrawingError("Only the bends between a track's ends have a radius.")
    path[index]["radius"] = radius
    sheet.shape(track, path)
