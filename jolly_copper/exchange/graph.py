"""The track graph as GraphML, for graph programs, and tracks as CSV both ways."""

from __future__ import annotations

import csv
import io
import math
from html import escape

from jolly_copper.core.drawing.taking_in import Line
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.fields import Bend
from jolly_copper.core.layout.reading import track_length
from jolly_copper.exchange.cells import FileRefused, safe, unsafe
from jolly_copper.exchange.dxf import FARTHEST_MM, Drawing

COLUMNS = ("name", "use", "code", "length_mm", "points")
MOST_ROWS = 4000


def write_graphml(layout: Layout) -> str:
    """Nodes and tracks as GraphML: kind, place, ports, length, use and gaps of each."""
    keys = [
        ("node", "kind", "string"),
        ("node", "name", "string"),
        ("node", "x", "double"),
        ("node", "y", "double"),
        ("edge", "name", "string"),
        ("edge", "from_port", "string"),
        ("edge", "to_port", "string"),
        ("edge", "length", "double"),
        ("edge", "use", "string"),
        ("edge", "gaps", "int"),
    ]
    rows = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        f'<graphml xmlns="{"http" + "://graphml.graphdrawing.org/xmlns"}">',
    ]
    rows += [f'<key id="{on}_{name}" for="{on}" attr.name="{name}" attr.type="{kind}"/>' for on, name, kind in keys]
    rows.append('<graph edgedefault="undirected">')

    def data(on: str, **values: object) -> str:
        return "".join(f'<data key="{on}_{k}">{escape(str(v))}</data>' for k, v in values.items())

    for i, node in layout.nodes.items():
        told = data("node", kind=node.kind, name=node.name or i, x=node.at.x, y=node.at.y)
        rows.append(f'<node id="{escape(i)}">{told}</node>')
    for i, track in layout.tracks.items():
        gaps = sum(g.track == i for g in layout.gaps.values())
        about = data(
            "edge",
            name=track.name,
            from_port=track.a.port,
            to_port=track.b.port,
            length=round(track_length(track), 1),
            use=track.use,
            gaps=gaps,
        )
        rows.append(
            f'<edge id="{escape(i)}" source="{escape(track.a.node)}" target="{escape(track.b.node)}">{about}</edge>'
        )
    return "\n".join([*rows, "</graph>", "</graphml>", ""])


def write_tracks(layout: Layout) -> str:
    """Tracks as CSV: name, use, rail code, length in mm, and the path as x y pairs (x y r where a bend has a
    radius)."""
    out = io.StringIO()
    table = csv.writer(out)
    table.writerow(COLUMNS)
    for track in layout.tracks.values():
        points = "; ".join(f"{v.x:g} {v.y:g}" + (f" {v.radius:g}" if v.radius is not None else "") for v in track.path)
        table.writerow([safe(track.name), track.use, track.code, f"{track.line.length:.1f}", points])
    return out.getvalue()


def read_tracks(data: bytes, mm_per_unit: float | None = None) -> Drawing:
    """Tracks from CSV with at least the columns `name` and `points`.

    Raises:
        FileRefused: with the row and what is wrong there.
    """
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise FileRefused("This is not a text file (UTF-8).") from None
    table = csv.DictReader(io.StringIO(text))
    try:
        if not {"name", "points"} <= set(table.fieldnames or ()):
            raise FileRefused("The first row must name the columns; name and points are needed.")
        unit = mm_per_unit or 1.0
        lines = []
        for number, row in enumerate(table, start=2):
            if number > MOST_ROWS:
                raise FileRefused(f"That is over {MOST_ROWS} rows; a track plan has far fewer.")
            name = unsafe((row["name"] or "").strip())[:80] or None
            lines.append(Line(_points(row["points"] or "", unit, number), row.get("use") or "main", name))
    except csv.Error as error:
        raise FileRefused(f"This cannot be read as CSV ({error}).") from None
    return Drawing(tuple(lines), {}, {}, unit, True)


def _points(text: str, unit: float, row: int) -> tuple[Bend, ...]:
    found = []
    for part in filter(str.strip, text.split(";")):
        shown = f"Row {row}: “{part.strip()[:40]}”"
        try:
            numbers = [float(n) for n in part.split()]
        except ValueError:
            raise FileRefused(f"{shown} is not numbers; write points as x y; x y.") from None
        if len(numbers) not in (2, 3) or not all(math.isfinite(n) and abs(n * unit) < FARTHEST_MM for n in numbers):
            raise FileRefused(f"{shown} is not a place on the plan; write x y, or x y radius.")
        radius = abs(numbers[2]) * unit if len(numbers) == 3 else None
        found.append(Bend(x=round(numbers[0] * unit, 3), y=round(numbers[1] * unit, 3), radius=radius))
    if not 2 <= len(found) <= 500:
        raise FileRefused(f"Row {row}: a track has 2 to 500 points.")
    return tuple(found)
