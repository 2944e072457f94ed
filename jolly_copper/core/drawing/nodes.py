"""Where tracks meet: turnouts put in where one leaves another, crossings, slips, three-ways and tables."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

from jolly_copper.core.drawing.sheet import DrawingError, Sheet, new_node, unit
from jolly_copper.core.layout.document import Bridge

USUAL_TABLE_MM = {"turntable": 300.0, "traverser": 600.0}
"""Pit and bridge to start with. Common practice for the smaller scales, no source; certainty C."""
NAMED = {"turnout": "T", "three-way": "T", "slip": "X", "crossing": "X", "turntable": "TT", "traverser": "TV"}


def free_port(sheet: Sheet, node: str, leaving: tuple[float, float]) -> str | None:
    """A port of a node that holds no track yet and suits a track leaving this way; None where all are taken."""
    kind = sheet["nodes"][node]["kind"]
    taken = {sheet["tracks"][t][e]["port"]: (t, e) for t, e in sheet.ends_at(node)}
    if kind in ("joint", "bumper"):
        return next((p for p in (("1", "2") if kind == "joint" else ("1",)) if p not in taken), None)
    if kind == "turnout":
        free = [p for p in ("points", "through", "diverging") if p not in taken]
        if "points" in free:
            legs = [sheet.outward(*taken[p]) for p in taken]
            return (
                "points"
                if all(dot(leaving, leg) < 0 for leg in legs)
                else next((p for p in free if p != "points"), "points")
            )
        return free[0] if free else None
    if kind in ("crossing", "slip"):
        pairs = {"west1": "east1", "east1": "west1", "west2": "east2", "east2": "west2"}
        free = [p for p in pairs if p not in taken]
        return min(
            free,
            key=lambda p: dot(leaving, sheet.outward(*taken[pairs[p]])) if pairs[p] in taken else 0.0,
            default=None,
        )
    if kind == "three-way":
        return next((p for p in ("points", "left", "through", "right") if p not in taken), None)
    return None


def dot(a: tuple[float, float], b: tuple[float, float]) -> float:
    return a[0] * b[0] + a[1] * b[1]


def _cross(a: tuple[float, float], b: tuple[float, float]) -> float:
    """Positive where b lies clockwise of a on the plan (y runs down): to the right."""
    return a[0] * b[1] - a[1] * b[0]


def make_turnout(
    sheet: Sheet,
    node_id: str,
    points: tuple[str, str],
    through: tuple[str, str] | None,
    heading: tuple[float, float],
    leaving: tuple[float, float],
    frog: str,
    ends: Sequence[tuple[str, str]] | None = None,
) -> str:
    """Make a joint a turnout: its points and through ends, which way the through leg and the diverging leg leave.

    Answers the node's new id. ends: all track ends there, where they are known already.
    """
    _port(sheet, points)["port"] = "points"
    if through is not None:
        _port(sheet, through)["port"] = "through"
    name = _rename(sheet, node_id, "turnout", ends)
    hand = "right" if _cross(heading, leaving) > 0 else "left"
    sheet["nodes"][name].update(kind="turnout", name=name, hand=hand, frog=frog, lies="through")
    return name


def branch_off(sheet: Sheet, node_id: str, leaving: tuple[float, float], frog: str) -> tuple[str, str]:
    """Make a joint into a turnout, or a turnout into a three-way, for a track leaving this way.

    Answers the node (a turnout goes by an id of its own) and the port for the new track.

    The points are on the side the new track does not lean to; the hand is the side it leaves on, seen from the points.

    Raises:
        DrawingError: nothing more can leave here.
    """
    node = sheet["nodes"][node_id]
    ends = sheet.ends_at(node_id)
    if node["kind"] == "joint" and len(ends) == 2:
        (one, other) = ends
        # The leg that runs on is the one nearer to the new track's direction.
        points, through = (
            (one, other) if dot(leaving, sheet.outward(*other)) >= dot(leaving, sheet.outward(*one)) else (other, one)
        )
        return make_turnout(sheet, node_id, points, through, sheet.outward(*through), leaving, frog), "diverging"
    if node["kind"] == "turnout" and len(ends) == 3:
        ports = {_port(sheet, e)["port"]: e for e in ends}
        heading = sheet.outward(*ports["through"])
        side = "right" if _cross(heading, leaving) > 0 else "left"
        if dot(heading, leaving) <= 0 or side == node["hand"]:
            raise DrawingError(
                "A third track leaves a turnout on the side its diverging leg does not, and the same way."
            )
        _port(sheet, ports["diverging"])["port"] = node["hand"]
        lies = node["hand"] if node["lies"] == "diverging" else "through"
        node.update(kind="three-way", hand=None, lies=lies, frog="live" if node["frog"] == "routing" else node["frog"])
        return node_id, side
    raise DrawingError(f"No more tracks can meet at this {node['kind']}; start a little beside it.")


def _port(sheet: Sheet, end: tuple[str, str]) -> dict[str, Any]:
    return sheet["tracks"][end[0]][end[1]]  # type: ignore[no-any-return]


def _rename(sheet: Sheet, node_id: str, kind: str, ends: Sequence[tuple[str, str]] | None = None) -> str:
    """Give a node the id its new kind goes by, and tell the tracks."""
    name = sheet.free("nodes", NAMED[kind])
    sheet["nodes"][name] = sheet["nodes"].pop(node_id)
    for track, end in sheet.ends_at(node_id) if ends is None else ends:
        sheet["tracks"][track][end]["node"] = name
    return name


def new_stub(sheet: Sheet, node_id: str, x: float, y: float) -> tuple[dict[str, Any], tuple[float, float]]:
    """A new port of a table, and where on its pit's edge a track coming from this place meets it."""
    node = sheet["nodes"][node_id]
    cx, cy, size = node["at"]["x"], node["at"]["y"], node["diameter"] or 300
    taken = {sheet["tracks"][t][e]["port"] for t, e in sheet.ends_at(node_id)}
    if node["kind"] == "turntable":
        ux, uy = unit(x - cx, y - cy)
        port = next(p for k in range(1, 1000) if (p := f"stub{k}") not in taken)
        return {"node": node_id, "port": port}, (cx + ux * size / 2, cy + uy * size / 2)
    turn = math.radians(node.get("angle") or 0)
    along = (x - cx) * math.cos(turn) + (y - cy) * math.sin(turn)
    aside = -(x - cx) * math.sin(turn) + (y - cy) * math.cos(turn)
    side, half = ("east", size / 2) if along > 0 else ("west", -size / 2)
    port = next(p for k in range(1, 1000) if (p := f"{side}{k}") not in taken)
    return {"node": node_id, "port": port}, (
        cx + half * math.cos(turn) - aside * math.sin(turn),
        cy + half * math.sin(turn) + aside * math.cos(turn),
    )


def turn_into(sheet: Sheet, node_id: str, kind: str) -> None:
    """Make an open end a bumper or a bumper an open end, a crossing a slip or a slip a crossing.

    Raises:
        DrawingError: this node cannot be that.
    """
    node, ends = sheet.thing("nodes", node_id), sheet.ends_at(node_id)
    if {node["kind"], kind} == {"joint", "bumper"}:
        if len(ends) > 1:
            raise DrawingError("Two tracks meet here; a bumper stands at an open end.")
        for end in ends:
            _port(sheet, end)["port"] = "1"
    elif {node["kind"], kind} != {"crossing", "slip"}:
        raise DrawingError(f"A {node['kind']} cannot be made a {kind}: draw it so.")
    node["kind"] = kind


def set_table(
    sheet: Sheet,
    kind: str,
    x: float,
    y: float,
    size: float | None = None,
    angle: float = 0,
    bridge: Bridge = "split ring",
) -> str:
    """Put a turntable (pit of this diameter) or traverser (bridge of this length) on the plan. Answers its id.

    Without a size it gets one to be put right by tape.
    """
    size = size or USUAL_TABLE_MM[kind]
    name = sheet.free("nodes", NAMED[kind])
    words = "Turntable" if kind == "turntable" else "Traverser"
    sheet["nodes"][name] = new_node(kind, x, y, name=words, diameter=size, angle=angle, bridge=bridge)
    return name
