"""Track plans as DXF: lines, polylines, arcs and splines in; the plan on named layers out."""

from __future__ import annotations

import io
import math
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from ezdxf.filemanagement import new, read
from ezdxf.lldxf.const import DXFError
from ezdxf.math import Vec3
from ezdxf.path import make_path

from jolly_copper.core.circuits.lengths import point_on_track, terminal_point
from jolly_copper.core.drawing.taking_in import Line
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.fields import Bend
from jolly_copper.exchange.before import MOST_ENTITIES, TOO_MANY, look_over_dxf
from jolly_copper.exchange.cells import FileRefused

MOST_VERTICES = 400
FARTHEST_MM = 1e6
FLATTEN_MM = 2.0
UNITS = {1: 25.4, 2: 304.8, 4: 1.0, 5: 10.0, 6: 1000.0}
"""mm per drawing unit by the header's $INSUNITS: inches, feet, millimetres, centimetres, metres. DXF reference."""
CURVES = ("LINE", "LWPOLYLINE", "POLYLINE", "ARC", "CIRCLE", "ELLIPSE", "SPLINE")


@dataclass(frozen=True)
class Drawing:
    """Lines of a drawing in mm (y down), entities by layer and kind, and what was left out."""

    lines: tuple[Line, ...]
    layers: dict[str, int]
    left_out: dict[str, int]
    mm_per_unit: float
    unit_known: bool


def read_dxf(data: bytes, mm_per_unit: float | None = None) -> Drawing:
    """Lines, polylines, arcs, circles, ellipses and splines of a DXF file's model space, blocks opened one by one.

    Args:
        data: the file.
        mm_per_unit: what one drawing unit is; by the file's own header when not given.

    Raises:
        FileRefused: it is not a DXF file, or far larger than a track plan.
    """
    head = data[:22]
    if head.startswith(b"AutoCAD Binary DXF"):
        raise FileRefused("This is a binary DXF file; save it as text DXF.")
    text = data.decode("utf-8", errors="replace")
    look_over_dxf(text)
    try:
        document = read(io.StringIO(text))
        own = UNITS.get(int(document.header.get("$INSUNITS", 0)))
        unit = mm_per_unit or own or 1.0
        lines: list[Line] = []
        layers: Counter[str] = Counter()
        left_out: Counter[str] = Counter()
        seen = 0
        for entity in _opened(document.modelspace(), 0):
            seen += 1
            if seen > MOST_ENTITIES:
                raise FileRefused(TOO_MANY)
            kind = entity.dxftype()
            if kind not in CURVES:
                left_out[kind.lower()] += 1
                continue
            path = _bends(entity, unit)
            if path is None:
                left_out[f"{kind.lower()} with no usable points"] += 1
                continue
            layer = str(entity.dxf.get("layer", "0"))
            layers[layer] += 1
            lines.append(Line(path, layer))
    except FileRefused:
        raise
    except (
        DXFError,
        ValueError,
        TypeError,
        KeyError,
        IndexError,
        AttributeError,
        ArithmeticError,
        RecursionError,
    ) as error:
        raise FileRefused(f"This cannot be read as DXF ({type(error).__name__}).") from None
    return Drawing(tuple(lines), dict(sorted(layers.items())), dict(sorted(left_out.items())), unit, own is not None)


def _opened(entities: Any, depth: int) -> Iterator[Any]:
    for entity in entities:
        if entity.dxftype() == "INSERT" and depth < 4:
            yield from _opened(entity.virtual_entities(), depth + 1)
        else:
            yield entity


def _bends(entity: Any, unit: float) -> tuple[Bend, ...] | None:
    if entity.dxftype() == "ARC":
        return _arc(entity, unit)
    drawn = make_path(entity)
    farthest = FARTHEST_MM / unit
    # Looked at before it is drawn out: a circle of 10¹⁵ mm would take as many points as there is memory.
    if not all(abs(c) <= farthest for v in drawn.control_vertices() for c in (v.x, v.y)):
        return None
    return as_path([(p.x * unit, -p.y * unit) for p in drawn.flattening(FLATTEN_MM / unit)])


def as_path(points: list[tuple[float, float]]) -> tuple[Bend, ...] | None:
    """Points as path vertices, doubles dropped and thinned to what a path may hold; None where too few or not
    finite."""
    kept: list[tuple[float, float]] = []
    for x, y in points:
        if not (math.isfinite(x) and math.isfinite(y)) or abs(x) > FARTHEST_MM or abs(y) > FARTHEST_MM:
            return None
        if not kept or math.dist(kept[-1], (x, y)) > 0.01:
            kept.append((x, y))
    if len(kept) > MOST_VERTICES:
        step = (len(kept) - 1) / (MOST_VERTICES - 1)
        kept = [kept[round(k * step)] for k in range(MOST_VERTICES)]
    return tuple(Bend(x=round(x, 3), y=round(y, 3)) for x, y in kept) if len(kept) >= 2 else None


def _arc(entity: Any, unit: float) -> tuple[Bend, ...] | None:
    """An arc as legs and true radii, no more than 90° each."""
    centre: Vec3 = entity.dxf.center
    radius = float(entity.dxf.radius) * unit
    start, end = math.radians(entity.dxf.start_angle), math.radians(entity.dxf.end_angle)
    sweep = (end - start) % (2 * math.pi)
    numbers = (centre.x, centre.y, radius, start, sweep)
    if not all(math.isfinite(v) for v in numbers) or not 0 < radius < FARTHEST_MM or sweep < 1e-6:
        return None
    parts = max(1, math.ceil(sweep / (math.pi / 2)))
    step = sweep / parts
    cx, cy = centre.x * unit, -centre.y * unit
    found = [(cx + radius * math.cos(start), cy - radius * math.sin(start), None)]
    reach = radius / math.cos(step / 2)
    for k in range(parts):
        middle = start + step * (k + 0.5)
        found.append((cx + reach * math.cos(middle), cy - reach * math.sin(middle), radius))  # type: ignore[arg-type]
    found.append((cx + radius * math.cos(end), cy - radius * math.sin(end), None))
    if any(abs(x) > FARTHEST_MM or abs(y) > FARTHEST_MM for x, y, _ in found):
        return None
    return tuple(Bend(x=round(x, 3), y=round(y, 3), radius=r) for x, y, r in found)


def write_dxf(layout: Layout) -> str:
    """The plan as DXF in millimetres, y up, on layers TRACK, GAPS, FEEDERS, RUNS, BOARDS, TURNOUTS and NAMES."""
    document = new("R2010", setup=False)
    document.header["$INSUNITS"] = 4
    for name, colour in (
        ("TRACK", 7),
        ("GAPS", 1),
        ("FEEDERS", 30),
        ("RUNS", 40),
        ("BOARDS", 8),
        ("TURNOUTS", 5),
        ("NAMES", 8),
    ):
        document.layers.add(name, color=colour)
    space = document.modelspace()

    def line(points: list[tuple[float, float]], layer: str, close: bool = False) -> None:
        space.add_lwpolyline([(x, -y) for x, y in points], close=close, dxfattribs={"layer": layer})

    for board in layout.boards.values():
        line([(p.x, p.y) for p in board.outline], "BOARDS", close=True)
    for track in layout.tracks.values():
        drawn = track.line
        line(list(zip(drawn.xs, drawn.ys, strict=True)), "TRACK")
        x, y = drawn.point(drawn.length / 2)
        space.add_text(track.name, height=40, dxfattribs={"layer": "NAMES"}).set_placement((x, -y))
    for run in layout.runs.values():
        drawn = run.line
        line(list(zip(drawn.xs, drawn.ys, strict=True)), "RUNS")
    for feeder in layout.feeders.values():
        line(
            [
                point_on_track(layout, feeder.track, feeder.at),
                terminal_point(layout, layout.terminals[feeder.terminal]),
            ],
            "FEEDERS",
        )
    for gap in layout.gaps.values():
        x, y = point_on_track(layout, gap.track, gap.at)
        space.add_circle((x, -y), radius=12 if gap.rails == "both" else 7, dxfattribs={"layer": "GAPS"})
    for i, node in layout.nodes.items():
        if node.kind not in ("joint", "bumper"):
            space.add_text(node.name or i, height=40, dxfattribs={"layer": "TURNOUTS"}).set_placement(
                (node.at.x, -node.at.y)
            )
    stream = io.StringIO()
    document.write(stream)
    return stream.getvalue()
