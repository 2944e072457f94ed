"""A draughtsman's shorthand for building layouts in code: nodes, tracks, buses with terminals, feeders by spacing."""

from __future__ import annotations

import math
from typing import Any

from jolly_copper.core.circuits.lengths import point_on_track, terminal_point
from jolly_copper.core.drawing.moving import Erased, erase
from jolly_copper.core.drawing.sheet import Sheet
from jolly_copper.core.layout.changes import MAPS
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.fields import Bend
from jolly_copper.core.layout.geometry import draw
from jolly_copper.core.layout.reading import read_layout
from jolly_copper.core.rails.phase import orient
from jolly_copper.core.rails.pieces import map_rails

Vertex = tuple[float, float] | tuple[float, float, float]


def bends(*vertices: Vertex) -> list[dict[str, float]]:
    """Path vertices: (x, y) or (x, y, radius), mm."""
    return [{"x": v[0], "y": v[1], **({"radius": v[2]} if len(v) == 3 else {})} for v in vertices]


class Draft:
    """A layout in the making, as plain data; `finish` reads it strictly."""

    def __init__(self, name: str, **top: Any) -> None:
        self.data: dict[str, Any] = {"name": name, **top, **{k: {} for k in MAPS}}

    def board(
        self, board_id: str, name: str, x0: float, y0: float, x1: float, y1: float, removable: bool = False
    ) -> None:
        corners = [(x0, y0), (x1, y0), (x1, y1), (x0, y1)]
        self.data["boards"][board_id] = {
            "name": name,
            "outline": [{"x": x, "y": y} for x, y in corners],
            "removable": removable,
        }

    def obstacle(self, key: str, name: str, kind: str, x0: float, y0: float, x1: float, y1: float) -> None:
        corners = [(x0, y0), (x1, y0), (x1, y1), (x0, y1)]
        outline = [{"x": x, "y": y} for x, y in corners]
        self.data["obstacles"][key] = {"name": name, "kind": kind, "outline": outline}

    def node(self, node_id: str, x: float, y: float, kind: str = "joint", **more: Any) -> None:
        self.data["nodes"][node_id] = {"kind": kind, "at": {"x": x, "y": y}, **more}

    def turnout(self, node_id: str, x: float, y: float, hand: str, **more: Any) -> None:
        self.node(node_id, x, y, "turnout", hand=hand, name=node_id, **more)

    def track(self, track_id: str, name: str, a: str, b: str, *via: Vertex, **more: Any) -> None:
        """`a` and `b` are `node.port`; the path runs from node to node through `via`."""
        ends = [dict(zip(("node", "port"), end.rsplit(".", 1), strict=True)) for end in (a, b)]
        at = [self.data["nodes"][e["node"]]["at"] for e in ends]
        path = bends((at[0]["x"], at[0]["y"]), *via, (at[1]["x"], at[1]["y"]))
        self.data["tracks"][track_id] = {"name": name, "a": ends[0], "b": ends[1], "path": path, **more}

    def gap(self, track: str, at: float, **more: Any) -> None:
        number = len(self.data["gaps"]) + 1
        self.data["gaps"][f"G{number}"] = {"track": track, "at": round(at, 1), **more}

    def length(self, track: str) -> float:
        return draw([Bend(**v) for v in self.data["tracks"][track]["path"]]).length

    def section(self, section_id: str, name: str, track: str, at: float, circuit: str) -> None:
        self.data["sections"][section_id] = {"name": name, "track": track, "at": at, "circuit": circuit}

    def bus(
        self,
        run_id: str,
        circuit: str,
        gauge: str,
        path: list[Vertex],
        *,
        fed: dict[str, Any],
        every: float = 1200,
        first: float = 400,
        kind: str = "screw strip",
        **more: Any,
    ) -> None:
        """A run with terminals every so many mm, the last one at its end."""
        vertices = bends(*path)
        self.data["runs"][run_id] = {
            "circuit": circuit,
            "label": run_id,
            "gauge": gauge,
            "path": vertices,
            "fed": fed,
            **more,
        }
        if "ends_at_device" in more:
            return
        length = draw([Bend(**v) for v in vertices]).length
        count = max(1, math.ceil((length - first) / every))
        for k in range(count + 1):
            number = len(self.data["terminals"]) + 1
            along = length if k == count else first + k * (length - first) / count
            self.data["terminals"][f"T{number}"] = {"run": run_id, "along": round(min(along, length), 1), "kind": kind}

    def plug(self, run: str, along: float) -> None:
        self.data["plugs"][f"P{len(self.data['plugs']) + 1}"] = {"run": run, "along": round(along, 1)}

    def plain(self) -> Layout:
        return read_layout(self.data)

    def feed(self, spots: list[tuple[str, float, str]], gauge: str = "18 AWG", strands: str = "stranded") -> None:
        """Feeders at (track, mm, circuit), each to the nearest terminal of that circuit, all in one phase."""
        layout = self.plain()
        rails = map_rails(layout)
        phase = orient(layout, rails)
        for track, at, circuit in spots:
            here = point_on_track(layout, track, at)
            ours = [i for i, t in layout.terminals.items() if layout.runs[t.run].circuit == circuit]
            nearest = min(ours, key=lambda i: math.dist(here, terminal_point(layout, layout.terminals[i])))
            number = len(self.data["feeders"]) + 1
            self.data["feeders"][f"F{number}"] = {
                "label": f"F{number}",
                "track": track,
                "at": round(at, 1),
                "terminal": nearest,
                "gauge": gauge,
                "strands": strands,
                "a_rail": phase[rails.piece_at(track, at)],
            }

    def spread(self, circuit: str, track: str, start: float, end: float, every: float) -> list[tuple[str, float, str]]:
        """Evenly spread feeder spots on part of a track, no more than `every` mm apart, half of that from its ends."""
        count = max(1, math.ceil((end - start) / every))
        return [(track, start + (end - start) * (k + 0.5) / count, circuit) for k in range(count)]


def stripped(layout: Layout) -> Layout:
    """A layout without its track wiring: track, districts and devices only. For laying it anew from nothing."""
    sheet = Sheet(layout)
    erase(
        sheet,
        [Erased(kind="run", id=i) for i, r in layout.runs.items() if layout.circuits[r.circuit].purpose == "track"],
    )
    return sheet.layout()
