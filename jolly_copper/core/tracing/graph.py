"""The skeleton of the ink as a net: places where lines end or meet, and the lines between them."""

from __future__ import annotations

import math
from collections import defaultdict
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from jolly_copper.core.tracing.inks import Bools

Points = NDArray[np.float64]
"""Places along a line, px, shape (N, 2): x to the right, y down."""
Pixel = tuple[int, int]
"""Row and column."""
SQUARE = ((0, 1), (1, 0), (0, -1), (-1, 0))
SLANTED = ((1, 1), (1, -1), (-1, -1), (-1, 1))


@dataclass
class Edge:
    """A line between two nodes, or round to the one it began at. points: from a to b, the nodes' places at its ends."""

    a: int
    b: int
    points: Points

    @property
    def length(self) -> float:
        return path_length(self.points)

    def other(self, node: int) -> int:
        return self.b if node == self.a else self.a


Leg = tuple[int, bool]
"""An edge as it leaves a node: its number, and whether it does so by its end `a`."""


@dataclass
class Net:
    """Nodes by number with their places, edges by number; both may be taken away."""

    nodes: dict[int, tuple[float, float]] = field(default_factory=dict)
    edges: dict[int, Edge] = field(default_factory=dict)
    _next: int = 0

    def add_node(self, x: float, y: float) -> int:
        self._next += 1
        self.nodes[self._next] = (x, y)
        return self._next

    def add_edge(self, a: int, b: int, points: Points) -> int:
        """An edge; the places of its ends are those of its nodes."""
        self._next += 1
        points = np.array(points, dtype=float)
        points[0], points[-1] = self.nodes[a], self.nodes[b]
        self.edges[self._next] = Edge(a, b, points)
        return self._next

    def legs(self) -> dict[int, list[Leg]]:
        """How edges leave each node; one that comes round leaves it twice."""
        found: dict[int, list[Leg]] = defaultdict(list)
        for i, edge in self.edges.items():
            found[edge.a].append((i, True))
            found[edge.b].append((i, False))
        return found

    def outward(self, leg: Leg) -> Points:
        """The points of a leg from its node outwards."""
        points = self.edges[leg[0]].points
        return points if leg[1] else points[::-1]

    def dissolve(self) -> None:
        """Nodes where just two lines meet are no places: the two are made one."""
        legs = self.legs()
        for node in sorted(legs):
            if len(legs[node]) != 2 or legs[node][0][0] == legs[node][1][0]:
                continue
            (i, _), (k, _) = legs[node]
            into, out = self.outward(self._of(i, node))[::-1], self.outward(self._of(k, node))
            ends = self.edges[i].other(node), self.edges[k].other(node)
            del self.edges[i], self.edges[k]
            new = self.add_edge(ends[0], ends[1], np.vstack([into, out[1:]]))
            del self.nodes[node]
            for end, first in ((ends[0], True), (ends[1], False)):
                gone = i if first else k
                at = next(n for n, leg in enumerate(legs[end]) if leg[0] == gone)
                legs[end][at] = (new, first)
        used = {n for e in self.edges.values() for n in (e.a, e.b)}
        self.nodes = {n: at for n, at in self.nodes.items() if n in used}

    def _of(self, edge: int, node: int) -> Leg:
        return edge, self.edges[edge].a == node

    def merge(self, edge: int) -> None:
        """Draw the two ends of an edge together in its middle."""
        gone = self.edges.pop(edge)
        if gone.a == gone.b:
            return
        x, y = point_at(gone.points, gone.length / 2)
        self.nodes[gone.a] = (x, y)
        for e in self.edges.values():
            e.a = gone.a if e.a == gone.b else e.a
            e.b = gone.a if e.b == gone.b else e.b
            if e.a == gone.a:
                e.points = np.vstack([[(x, y)], e.points[1:]])
            if e.b == gone.a:
                e.points = np.vstack([e.points[:-1], [(x, y)]])
        self.nodes.pop(gone.b, None)


def path_length(points: Points) -> float:
    """Length of a line through points, px."""
    return float(np.hypot(*np.diff(points, axis=0).T).sum()) if len(points) > 1 else 0.0


def distances(points: Points) -> NDArray[np.float64]:
    """How far along the line each of its points is, px."""
    return np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])


def point_at(points: Points, along: float) -> tuple[float, float]:
    """The place so far along a line, held to its ends."""
    at = distances(points)
    return float(np.interp(along, at, points[:, 0])), float(np.interp(along, at, points[:, 1]))


def net_of(skeleton: Bools) -> Net:
    """The net of a skeleton one pixel wide.

    Pixels that touch at a corner are neighbours only where no pixel beside both joins them already; so a step in a line
    is no place where three meet.
    """
    ink = {(int(r), int(c)) for r, c in np.argwhere(skeleton)}

    def beside(at: tuple[int, int]) -> list[tuple[int, int]]:
        r, c = at
        found = [(r + a, c + b) for a, b in SQUARE if (r + a, c + b) in ink]
        found += [
            (r + a, c + b)
            for a, b in SLANTED
            if (r + a, c + b) in ink and (r + a, c) not in ink and (r, c + b) not in ink
        ]
        return found

    near = {p: beside(p) for p in ink}
    joints = np.zeros_like(skeleton)
    for (r, c), others in near.items():
        joints[r, c] = len(others) >= 3
    labels, _ = ndimage.label(joints, structure=np.ones((3, 3)))
    net = Net()
    node_of: dict[tuple[int, int], int] = {}
    members: dict[int, list[tuple[int, int]]] = defaultdict(list)
    for r, c in np.argwhere(joints).tolist():
        members[int(labels[r, c])].append((r, c))
    for group in members.values():
        node = net.add_node(sum(c for _, c in group) / len(group), sum(r for r, _ in group) / len(group))
        node_of |= dict.fromkeys(group, node)
    for p in sorted(ink):
        if p not in node_of and len(near[p]) <= 1:
            node_of[p] = net.add_node(p[1], p[0])
    walked: set[tuple[Pixel, Pixel]] = set()
    seen: set[Pixel] = set(node_of)
    for start in sorted(node_of):
        for step in near[start]:
            if (start, step) not in walked and node_of.get(step) != node_of[start]:
                seen |= _walk(net, near, node_of, walked, start, step)
    for p in sorted(ink - seen):
        if p not in seen and near[p]:  # a line that comes round and meets nothing
            node_of[p] = net.add_node(p[1], p[0])
            seen |= {p} | _walk(net, near, node_of, walked, p, near[p][0])
    return net


def _walk(
    net: Net,
    near: dict[Pixel, list[Pixel]],
    node_of: dict[Pixel, int],
    walked: set[tuple[Pixel, Pixel]],
    start: Pixel,
    step: Pixel,
) -> set[Pixel]:
    """From a node along a line to the next node. Answers the pixels passed."""
    line, before, here = [start, step], start, step
    walked.add((start, step))
    while here not in node_of:
        onwards = [p for p in near[here] if p != before]
        if not onwards:
            return set(line)
        before, here = here, onwards[0]
        line.append(here)
    walked.add((here, before))
    points = np.array([(c, r) for r, c in line], dtype=float)
    if len(points) > 4:
        points[1:-1] = ndimage.gaussian_filter1d(points, 1.2, axis=0, mode="nearest")[1:-1]
    net.add_edge(node_of[start], node_of[here], points)
    return set(line)


def heading(points: Points, start: float, end: float) -> tuple[float, float]:
    """The direction of a line between two distances from its beginning, as a unit vector."""
    whole = path_length(points)
    a, b = point_at(points, min(start, 0.3 * whole)), point_at(points, min(end, whole))
    away = math.dist(a, b)
    return ((b[0] - a[0]) / away, (b[1] - a[1]) / away) if away > 1e-9 else (1.0, 0.0)


def between(a: tuple[float, float], b: tuple[float, float]) -> float:
    """The angle between two directions, degrees, 0 to 180."""
    return math.degrees(math.acos(max(-1.0, min(1.0, a[0] * b[0] + a[1] * b[1]))))
