"""A traced plan beside the layout its picture was drawn from: the same places joined the same way, and where."""

from __future__ import annotations

from collections import Counter

import networkx as nx

from jolly_copper.core.drawing.acts import Like
from jolly_copper.core.drawing.sheet import Sheet
from jolly_copper.core.drawing.tracing import LaidReport, Placed, lay_traced
from jolly_copper.core.layout.document import Brief, Layout
from jolly_copper.core.tracing.lines import Settings, Traced
from jolly_copper.core.tracing.proposal import trace
from tests.pictures import Hand, array, photographed, picture, scanned

GAUGE_MM = 16.5


def traced(
    layout: Layout,
    hand: Hand = "one line",
    wide: int = 1800,
    scan: bool = False,
    words: bool = True,
    photo: bool = False,
) -> tuple[Traced, Placed]:
    """A layout drawn, maybe scanned or photographed and made square again, and traced; and where its picture lies."""
    made, mm, (x, y) = picture(layout, wide, hand, words)
    shown = photographed(made) if photo else scanned(made) if scan else made
    mm *= made.width / shown.width
    return trace(array(shown), Settings(GAUGE_MM / mm)), Placed(x, y, mm)


def laid(found: Traced, placed: Placed) -> tuple[Layout, LaidReport]:
    sheet = Sheet(Layout(name="Traced", brief=Brief()))
    report = lay_traced(
        sheet,
        found,
        [x.number for x in found.lines if not x.why],
        placed,
        Like().model_dump(exclude={"use"}) | {"use": "main"},
    )
    return sheet.layout(), report


def topology(layout: Layout) -> nx.MultiGraph:
    """Places and how track joins them, by kind of place and port; joints are none."""
    graph = nx.MultiGraph()
    for i, node in layout.nodes.items():
        graph.add_node(i, kind="end" if node.kind in ("bumper", "joint") else node.kind)
    for track in layout.tracks.values():
        ports = sorted((layout.nodes[p.node].kind, _port(p.port)) for p in (track.a, track.b))
        graph.add_edge(track.a.node, track.b.node, ports=str(ports))
    for i in [i for i, n in layout.nodes.items() if n.kind == "joint" and graph.degree(i) == 2]:
        (_, a), (_, b) = list(graph.edges(i))[:2] if graph.number_of_edges(i, i) == 0 else ((i, i), (i, i))
        if a == i or b == i:
            graph.nodes[i]["kind"] = "ring"
            continue
        graph.remove_node(i)
        graph.add_edge(a, b)
    return graph


def _port(name: str) -> str:
    return "stub" if name.startswith("stub") else name.rstrip("12") if name[:4] in ("west", "east") else name


def kinds(layout: Layout) -> Counter[str]:
    return Counter(n.kind for n in layout.nodes.values() if n.kind != "joint")


def same_topology(one: Layout, other: Layout) -> bool:
    """Whether both join the same kinds of places the same way, joints left out."""
    return nx.is_isomorphic(topology(one), topology(other), node_match=lambda a, b: a["kind"] == b["kind"])


def ground(layout: Layout) -> float:
    return sum(t.line.length for t in layout.tracks.values())


def found_and_true(layout: Layout, other: Layout, within: float) -> tuple[float, float]:
    """Share of the track that the other has within so many mm, and share of the other's that is there."""

    def share(a: Layout, b: Layout) -> float:
        total = near = 0.0
        lines = [t.line for t in b.tracks.values()]
        for track in a.tracks.values():
            steps = max(2, round(track.line.length / 40))
            for k in range(steps):
                x, y = track.line.point(track.line.length * (k + 0.5) / steps)
                total += 1
                near += any(
                    line.box[0] - within <= x <= line.box[2] + within
                    and line.box[1] - within <= y <= line.box[3] + within
                    and line.nearest(x, y)[1] <= within
                    for line in lines
                )
        return near / total if total else 0.0

    return share(layout, other), share(other, layout)


def wrong_hands(layout: Layout) -> list[str]:
    """Turnouts whose diverging leg lies on the other side of the through leg than their hand says, seen a little way
    out from the points."""
    out: dict[tuple[str, str], tuple[float, float]] = {}
    for track in layout.tracks.values():
        for end, forward in ((track.a, True), (track.b, False)):
            line = track.line
            reach = min(150.0, 0.8 * line.length)
            out[end.node, end.port] = line.point(reach if forward else line.length - reach)
    wrong = []
    for i, node in layout.nodes.items():
        if node.kind != "turnout":
            continue
        (tx, ty), (dx, dy) = out[i, "through"], out[i, "diverging"]
        cross = (tx - node.at.x) * (dy - node.at.y) - (ty - node.at.y) * (dx - node.at.x)
        if node.hand != ("right" if cross > 0 else "left"):
            wrong.append(i)
    return wrong
