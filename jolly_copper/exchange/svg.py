"""Track plans as SVG: paths and lines in; the plan on named layers out."""

from __future__ import annotations

import io
import itertools
import math
from collections import Counter
from html import escape
from typing import Any
from xml.etree.ElementTree import ParseError, tostring

import svgelements
from defusedxml.common import DefusedXmlException
from defusedxml.ElementTree import fromstring

from jolly_copper.core.circuits.lengths import point_on_track, terminal_point
from jolly_copper.core.drawing.taking_in import Line
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.geometry import draw
from jolly_copper.core.materials.rail import RAIL_GAUGE_MM
from jolly_copper.exchange.before import look_over_svg
from jolly_copper.exchange.cells import FileRefused
from jolly_copper.exchange.dxf import FARTHEST_MM, FLATTEN_MM, Drawing, as_path


def read_svg(data: bytes, mm_per_unit: float | None = None) -> Drawing:
    """Paths and lines of an SVG file, transforms applied. Layers are the ids of the groups they stand in.

    Args:
        data: the file.
        mm_per_unit: what one user unit is; 25.4/96 mm (one CSS pixel) when not given.

    Raises:
        FileRefused: it is not SVG, holds what no drawing needs (entities, document types), or is far too large.
    """
    try:
        root = fromstring(data, forbid_dtd=True)
    except DefusedXmlException:
        raise FileRefused(
            "This SVG declares entities or a document type; a drawing needs neither, so it is not opened."
        ) from None
    except (ParseError, ValueError, LookupError, RecursionError):
        raise FileRefused("This cannot be read as SVG.") from None
    if not str(root.tag).endswith("svg"):
        raise FileRefused("This is XML but not SVG.")
    names = look_over_svg(root)
    unit = mm_per_unit or 25.4 / 96
    lines: list[Line] = []
    layers: Counter[str] = Counter()
    left_out = Counter({k: n for k, n in names.items() if k in ("text", "image", "style", "script", "foreignObject")})
    try:
        drawing = svgelements.SVG.parse(io.BytesIO(tostring(root)), reify=True)
        for shape, layer in _shapes(drawing, ""):
            for part in svgelements.Path(shape).as_subpaths():
                path = as_path([(x * unit, y * unit) for x, y in _points(svgelements.Path(part), unit)])
                if path is None:
                    left_out["path with no usable points"] += 1
                else:
                    layers[layer] += 1
                    lines.append(Line(path, layer))
    except (
        ValueError,
        TypeError,
        KeyError,
        IndexError,
        AttributeError,
        ArithmeticError,
        RecursionError,
        ParseError,
    ) as error:
        raise FileRefused(f"This cannot be read as SVG ({type(error).__name__}).") from None
    return Drawing(
        tuple(lines), dict(sorted(layers.items())), dict(sorted(left_out.items())), unit, mm_per_unit is not None
    )


def _shapes(group: Any, layer: str) -> list[tuple[Any, str]]:
    found: list[tuple[Any, str]] = []
    for element in group:
        if isinstance(element, svgelements.Group | svgelements.Use):
            label = element.values.get("{http" + "://www.inkscape.org/namespaces/inkscape}label") or element.values.get(
                "id"
            )
            found += _shapes(element, str(label or layer))
        elif isinstance(element, svgelements.Shape):
            found.append((element, layer or "plan"))
    return found


def _points(path: Any, unit: float) -> list[tuple[float, float]]:
    """Points of a path: ends of straight parts, and of curves as many as keep within the flattening."""
    found: list[tuple[float, float]] = []
    for segment in path:
        if isinstance(segment, svgelements.Move) or segment.start is None or segment.end is None:
            continue
        steps = 1
        if not isinstance(segment, svgelements.Line | svgelements.Close):
            length = _longest(segment) * unit
            if not length < FARTHEST_MM * 8:
                return []
            steps = max(4, min(60, math.ceil(length / max(FLATTEN_MM * 20, 1))))
        first = 0 if not found else 1
        found += [(float(p.x), float(p.y)) for p in (segment.point(k / steps) for k in range(first, steps + 1))]
    return found


def _longest(segment: Any) -> float:
    """A length that a curve does not exceed: along its control points, or round its ellipse. The true one is an
    integral."""
    if isinstance(segment, svgelements.Arc):
        return abs(float(segment.sweep)) * max(abs(float(segment.rx)), abs(float(segment.ry)))
    ends = [segment.start, getattr(segment, "control", None), getattr(segment, "control1", None)]
    along = [p for p in (*ends, getattr(segment, "control2", None), segment.end) if p is not None]
    return sum(math.hypot(b.x - a.x, b.y - a.y) for a, b in itertools.pairwise(along))


def write_svg(layout: Layout) -> str:
    """The plan as SVG in millimetres, one group per layer: boards, track, gaps, runs, feeders, names."""
    gauge = RAIL_GAUGE_MM[layout.brief.scale]
    tracks = {i: t.line for i, t in layout.tracks.items()}
    xs = [x for line in tracks.values() for x in line.xs] + [
        p.x for b in layout.boards.values() for p in b.outline
    ] or [0.0, 1000.0]
    ys = [y for line in tracks.values() for y in line.ys] + [
        p.y for b in layout.boards.values() for p in b.outline
    ] or [0.0, 1000.0]
    x0, y0, width, height = min(xs) - 100, min(ys) - 100, max(xs) - min(xs) + 200, max(ys) - min(ys) + 200

    def d(points: list[tuple[float, float]], close: bool = False) -> str:
        return "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in points) + ("Z" if close else "")

    def group(name: str, style: str, items: list[str]) -> str:
        return f'<g id="{name}" {style}>\n' + "\n".join(items) + "\n</g>"

    line = 'fill="none" stroke-linejoin="round"'
    layers = [
        group(
            "boards",
            f'{line} stroke="#b8b0a0" stroke-width="4"',
            [f'<path d="{d([(p.x, p.y) for p in b.outline], True)}"/>' for b in layout.boards.values()],
        ),
        group(
            "runs",
            f'{line} stroke="#b5622b" stroke-width="5"',
            [
                f'<path id="run-{escape(i)}" d="{d(list(zip(r.line.xs, r.line.ys, strict=True)))}"/>'
                for i, r in layout.runs.items()
            ],
        ),
        group(
            "feeders",
            f'{line} stroke="#b5622b" stroke-width="3"',
            [
                f'<path id="feeder-{escape(i)}" d="{d([foot, post])}"/>'
                for i, f in layout.feeders.items()
                for foot in [point_on_track(layout, f.track, f.at)]
                for post in [terminal_point(layout, layout.terminals[f.terminal])]
            ],
        ),
        group(
            "track",
            f'{line} stroke="#2a3138" stroke-width="{gauge:g}"',
            [
                f'<path id="{escape(i)}" '
                f'd="{d(list(zip(t.xs, t.ys, strict=True)))}"><title>{escape(layout.tracks[i].name)}</title></path>'
                for i, t in tracks.items()
            ],
        ),
        group(
            "gaps",
            'fill="#9e2a1f"',
            [
                f'<circle id="gap-{escape(i)}" cx="{x:.1f}" cy="{y:.1f}" '
                f'r="{gauge if g.rails == "both" else gauge / 2:g}"/>'
                for i, g in layout.gaps.items()
                for x, y in [point_on_track(layout, g.track, g.at)]
            ],
        ),
        group(
            "names",
            'font-family="sans-serif" font-size="48" fill="#4b5560"',
            [
                f'<text x="{x:.0f}" y="{y - 20:.0f}">{escape(layout.tracks[i].name)}</text>'
                for i, t in tracks.items()
                for x, y in [t.point(t.length / 2)]
            ],
        ),
    ]
    namespace = "http" + "://www.w3.org/2000/svg"
    return (
        f'<svg xmlns="{namespace}" width="{width:.0f}mm" height="{height:.0f}mm" viewBox="{x0:.0f} {y0:.0f} '
        f'{width:.0f} {height:.0f}">\n'
        f"<title>{escape(layout.name)}</title>\n" + "\n".join(layers) + "\n</svg>\n"
    )


def write_lines(lines: tuple[Line, ...]) -> tuple[str, tuple[float, float, float, float]]:
    """Lines of another drawing as one SVG picture to draw over, with its box: x, y, width, height, mm."""
    drawn = [draw(line.path) for line in lines]
    x0, y0 = min(min(d.xs) for d in drawn), min(min(d.ys) for d in drawn)
    width, height = max(max(max(d.xs) for d in drawn) - x0, 1.0), max(max(max(d.ys) for d in drawn) - y0, 1.0)
    stroke = max(width, height) / 1500
    paths = "".join("M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in zip(d.xs, d.ys, strict=True)) for d in drawn)
    pixels = 4000 / max(width, height)
    namespace = "http" + "://www.w3.org/2000/svg"
    text = (
        f'<svg xmlns="{namespace}" width="{width * pixels:.0f}" height="{height * pixels:.0f}" viewBox="{x0:.1f} '
        f'{y0:.1f} {width:.1f} {height:.1f}">'
        f'<path d="{paths}" fill="none" stroke="#4b5560" stroke-width="{stroke:.2f}"/></svg>'
    )
    return text, (x0, y0, width, height)
