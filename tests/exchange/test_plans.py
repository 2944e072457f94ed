"""Track plans in and out: round trips through DXF, SVG, CSV and GraphML, and files that mean harm."""

from __future__ import annotations

import io
import math

import networkx as nx
import pytest
from ezdxf.filemanagement import new as new_dxf

from jolly_copper.core.drawing.acts import Like
from jolly_copper.core.drawing.sheet import DrawingError, Sheet
from jolly_copper.core.drawing.taking_in import Line, Report, take_in
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.fields import Bend
from jolly_copper.core.layout.geometry import draw
from jolly_copper.core.layout.reading import read_layout
from jolly_copper.core.rails.conflicts import find_conflicts
from jolly_copper.core.rails.ways import map_ways
from jolly_copper.exchange.cells import FileRefused
from jolly_copper.exchange.dxf import Drawing, read_dxf, write_dxf
from jolly_copper.exchange.graph import read_tracks, write_graphml, write_tracks
from jolly_copper.exchange.svg import read_svg, write_svg


def taken(lines: list[Line] | tuple[Line, ...], tolerance: float = 5) -> tuple[Layout, Report]:
    sheet = Sheet(read_layout({"name": "Taken in"}))
    report = take_in(sheet, lines, tolerance, Like().model_dump())
    return sheet.layout(), report


def metres(layout: Layout) -> float:
    return sum(draw(t.path).length for t in layout.tracks.values())


@pytest.mark.parametrize("kind", ["dxf", "svg", "csv"])
def test_the_demo_goes_out_and_comes_back_the_same_railroad(demo: Layout, kind: str) -> None:
    text = {"dxf": write_dxf, "svg": write_svg, "csv": write_tracks}[kind](demo)
    drawing = {"dxf": read_dxf, "svg": read_svg, "csv": read_tracks}[kind](text.encode())
    lines = [x for x in drawing.lines if x.layer.lower() == "track" or kind == "csv"]
    assert len(lines) == len(demo.tracks)
    layout, report = taken(lines)
    turnouts = sum(n.kind == "turnout" for n in demo.nodes.values())
    assert report.turnouts == turnouts == sum(n.kind == "turnout" for n in layout.nodes.values())
    assert metres(layout) == pytest.approx(metres(demo), rel=0.002)
    assert [c.kind for c in find_conflicts(layout, map_ways(layout))] == ["balloon loop", "wye"]
    for i, node in layout.nodes.items():
        if node.kind == "turnout":
            assert node.hand == hand_drawn(layout, i), "the side the diverging leg lies on, seen from the points"


def hand_drawn(layout: Layout, node: str) -> str:
    """Left or right by the drawing alone: y runs down the plan, so a clockwise turn is to the right."""
    away = {}
    for track in layout.tracks.values():
        for port, one, other in ((track.a, track.path[0], track.path[1]), (track.b, track.path[-1], track.path[-2])):
            if port.node == node:
                away[port.port] = (other.x - one.x, other.y - one.y)
    (tx, ty), (dx, dy) = away["through"], away["diverging"]
    return "right" if tx * dy - ty * dx > 0 else "left"


def test_named_layers_carry_gaps_feeders_and_runs(demo: Layout) -> None:
    layers = read_dxf(write_dxf(demo).encode()).layers
    assert (
        layers["GAPS"] == len(demo.gaps) and layers["FEEDERS"] == len(demo.feeders) and layers["RUNS"] == len(demo.runs)
    )
    groups = read_svg(write_svg(demo).encode()).layers
    assert {"boards", "runs", "feeders", "track", "gaps"} <= set(groups)


def test_the_graph_is_the_railroads(demo: Layout) -> None:
    graph = nx.read_graphml(io.BytesIO(write_graphml(demo).encode()))
    assert graph.number_of_nodes() == len(demo.nodes) and graph.number_of_edges() == len(demo.tracks)
    assert sum(e["length"] for _, _, e in graph.edges(data=True)) == pytest.approx(metres(demo), rel=0.001)


def drawing(*add: tuple[str, dict[str, object]], units: int = 4) -> Drawing:
    document = new_dxf("R2010")
    document.header["$INSUNITS"] = units
    space = document.modelspace()
    for what, values in add:
        getattr(space, f"add_{what}")(**values)
    out = io.StringIO()
    document.write(out)
    return read_dxf(out.getvalue().encode())


def test_arcs_keep_their_true_radius_and_units_are_the_files_own() -> None:
    """By geometry: a quarter of a circle of 600 mm is 942.5 mm long; 24 inches are 609.6 mm."""
    (line,) = drawing(("arc", {"center": (0, 0), "radius": 600, "start_angle": 0, "end_angle": 90})).lines
    assert draw(line.path).length == pytest.approx(600 * math.pi / 2, rel=1e-6) and draw(
        line.path
    ).tightest == pytest.approx(600)
    (inch,) = drawing(("line", {"start": (0, 0), "end": (24, 0)}), units=1).lines
    assert draw(inch.path).length == pytest.approx(609.6)
    assert not drawing(("line", {"start": (0, 0), "end": (24, 0)}), units=0).unit_known


def test_splines_ellipses_and_blocks_are_taken_and_the_rest_is_counted() -> None:
    document = new_dxf("R2010")
    block = document.blocks.new("CURVE")
    block.add_line((0, 0), (100, 0))
    space = document.modelspace()
    space.add_blockref("CURVE", (500, 500))
    space.add_spline([(0, 0), (300, 200), (700, -100), (1000, 0)])
    space.add_lwpolyline([(0, 0, 0, 0, 0.5), (400, 0, 0, 0, 0)])
    space.add_text("Yard")
    space.add_point((1, 1))
    out = io.StringIO()
    document.write(out)
    found = read_dxf(out.getvalue().encode())
    assert len(found.lines) == 3 and found.left_out == {"point": 1, "text": 1}


def test_ends_meet_within_the_tolerance_and_an_end_on_a_line_is_a_turnout() -> None:
    def line(*places: tuple[float, float]) -> Line:
        return Line(tuple(Bend(x=x, y=y) for x, y in places))

    layout, report = taken([line((0, 0), (1000, 0)), line((1003, 2), (2000, 0)), line((1500, 3), (1900, 300))])
    assert (report.joints, report.turnouts, report.loose_ends) == (1, 1, 3)
    assert len(map_ways(layout).chains) == 3
    apart, report = taken([line((0, 0), (1000, 0)), line((1030, 0), (2000, 0))])
    assert report.joints == 0 and report.loose_ends == 4 and len(apart.tracks) == 2
    crossed, report = taken(
        [
            line((0, 0), (1000, 0)),
            line((1000, 0), (2000, 0)),
            line((1000, -900), (1000, 0)),
            line((1000, 0), (1000, 900)),
        ]
    )
    assert report.crossings == 1 and sum(n.kind == "crossing" for n in crossed.nodes.values()) == 1
    star = [line((0, 0), (1000 * math.cos(k), 1000 * math.sin(k))) for k in range(5)]
    _, report = taken(star)
    assert any("5 ends at one place" in why for why in report.left_out)


def test_a_closed_line_becomes_a_ring_of_two_tracks() -> None:
    (line,) = read_svg(b'<svg><circle cx="500" cy="500" r="400"/></svg>', 1.0).lines
    layout, report = taken([line])
    assert report.tracks == 2 and report.joints == 2 and metres(layout) == pytest.approx(2 * math.pi * 400, rel=0.01)


BOMB = (
    b'<?xml version="1.0"?><!DOCTYPE l [<!ENTITY a "ha"><!ENTITY b '
    b'"&a;&a;&a;&a;&a;&a;&a;&a;">]><svg><text>&b;</text></svg>'
)
OUTSIDE = b'<!DOCTYPE svg [<!ENTITY x SYSTEM "file:///etc/passwd">]><svg><text>&x;</text></svg>'


@pytest.mark.parametrize(
    ("read", "data", "says"),
    [
        (read_svg, BOMB, "entities or a document type"),
        (read_svg, OUTSIDE, "entities or a document type"),
        (read_svg, b"<svg", "cannot be read as SVG"),
        (read_svg, b"<html></html>", "XML but not SVG"),
        (read_svg, b"\xff\xfe\x00", "cannot be read as SVG"),
        (read_svg, b"<svg>" + b"<path/>" * 20_001 + b"</svg>", "20000 things"),
        (read_dxf, b"hello", "cannot be read as DXF"),
        (read_dxf, b"", "cannot be read as DXF"),
        (read_dxf, b"AutoCAD Binary DXF\r\n\x1a\x00", "binary DXF"),
        (read_dxf, b"  0\nSECTION\n  2\nENTITIES\n" + b"  0\nLINE\n  8\n0\n" * 90_000, "20000 things"),
        (read_tracks, b"a,b\n1,2\n", "must name the columns"),
        (read_tracks, b"name,points\nX,1 nan; 2 3\n", "Row 2.*not a place on the plan"),
        (read_tracks, b"name,points\nX,1 1e300; 2 3\n", "not a place on the plan"),
        (read_tracks, b"name,points\nX,one two; 3 4\n", "is not numbers"),
        (read_tracks, b"name,points\nX,1 2\n", "2 to 500 points"),
        (read_tracks, b"\xff\xfe", "not a text file"),
        (read_tracks, b"name,points\n" + b"X,0 0; 1 1\n" * 4001, "over 4000 rows"),
    ],
)
def test_malformed_huge_and_hostile_files_are_refused_politely(read: object, data: bytes, says: str) -> None:
    with pytest.raises(FileRefused, match=says):
        read(data)  # type: ignore[operator]


def test_numbers_that_are_none_are_left_out_not_drawn() -> None:
    found = read_svg(b'<svg><path d="M0 0L1e999 5"/><path d="M0 0L1000 0"/></svg>', 1.0)
    assert len(found.lines) == 1 and draw(found.lines[0].path).length == 1000
    document = new_dxf("R2010")
    document.modelspace().add_line((0, 0), (float("nan"), 1))
    document.modelspace().add_line((0, 0), (1e12, 1))
    out = io.StringIO()
    document.write(out)
    assert read_dxf(out.getvalue().encode()).lines == ()


def test_too_many_lines_are_not_taken() -> None:
    line = Line((Bend(x=0, y=0), Bend(x=100, y=0)))
    with pytest.raises(DrawingError, match="4000 is the most"):
        taken([line] * 4001)


def test_no_cell_of_the_tracks_file_is_a_formula(demo: Layout) -> None:
    named = demo.tracks["yard-1"].model_copy(update={"name": "=1+1"})
    text = write_tracks(demo.model_copy(update={"tracks": {"yard-1": named}}))
    assert "'=1+1" in text
    (line,) = read_tracks(text.encode()).lines
    assert line.name == "=1+1"
