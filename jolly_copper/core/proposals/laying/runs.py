"""A tree of corridors made into buses: runs from the device outwards, terminals where feeders leave, plugs at boards
that lift out."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, NamedTuple

from jolly_copper.core.circuits.lengths import longest_feeder
from jolly_copper.core.drawing.copper import add_run
from jolly_copper.core.drawing.sheet import Sheet, bend
from jolly_copper.core.layout.benchwork import lifting_boards, lifting_finder, lifting_joints
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.fields import Bend
from jolly_copper.core.layout.geometry import draw, inside
from jolly_copper.core.materials.connectors import CONNECTORS
from jolly_copper.core.materials.copper import Make, in_units
from jolly_copper.core.materials.joints import BUS_IS_CUT_AT, TerminalKind
from jolly_copper.core.proposals.laying.corridors import (
    Corridors,
    Fits,
    Ground,
    map_corridors,
    map_ground,
)
from jolly_copper.core.proposals.laying.steiner import Tree, near_minimal_tree, shallow
from jolly_copper.core.quantities import read_gauge

STRAIGHT_MM = 20.0
"""A run is drawn with so few bends that it strays no farther than this from its corridor."""
SHORTEST_MM = 30.0
STRETCH = 1.3
"""No end is farther from its device than so many times the shortest way."""
REACH_SHARE = 0.75
OFF_CORRIDOR_MM = 60.0
"""A feeder is meant to take this much of what the house rule leaves for its way across, less what wire lies off the
rail."""


@dataclass(frozen=True)
class Wire:
    """What the runs are made of."""

    gauge: str = "14 AWG"
    strands: str = "stranded"
    make: Make = "twisted"
    terminal: TerminalKind = "screw strip"
    feeder_gauge: str = "18 AWG"
    feeder_strands: str = "stranded"
    aside: float = 0.0
    """How far beside its corridor it lies, mm: runs that lie apart by house rule have each its own."""


class Spot(NamedTuple):
    """A place to serve: a rail point seen from above, or where an accessory stands. mm."""

    x: float
    y: float


def lay(
    sheet: Sheet,
    device: str,
    spots: Sequence[Spot],
    onwards: Sequence[str] = (),
    wire: Wire | None = None,
    ground: Ground | None = None,
    layout: Layout | None = None,
) -> list[str]:
    """Lay buses from a device to places, and to the inputs of devices that hang under it.

    Args:
        sheet: drawn on.
        device: where the runs start.
        spots: places to serve.
        onwards: devices whose input this feeds.
        wire: what the runs are made of.
        ground: the corridors of the layout, where they are known already.
        layout: the sheet's, where it is known and its boards and devices are as they were.

    Returns:
        For each spot the id of the terminal to tie it to.
    """
    layout = layout or sheet.layout()
    wire = wire or Wire(in_units("14 AWG", layout.brief.units), feeder_gauge=in_units("18 AWG", layout.brief.units))
    devices = [(layout.devices[d].at.x, layout.devices[d].at.y) for d in (device, *onwards)]
    corridors = map_corridors(ground or map_ground(layout), devices, ends_of_wire=len(onwards))
    first = len(corridors.places) - len(devices)
    at = [corridors.nearest(s.x, s.y, _reach(layout, wire), _same_board(layout, s)) for s in spots]
    ends = [first, *range(first + 1, first + len(devices)), *at]
    tree = shallow(corridors.cost, near_minimal_tree(corridors.cost, ends), first, ends, STRETCH)
    lays = _Lays(
        sheet, layout, corridors, wire, {first + k: d for k, d in enumerate((device, *onwards))}, _reach(layout, wire)
    )
    lays.out(tree, first, spots, at)
    return lays.terminals


def _same_board(layout: Layout, spot: Spot) -> Fits | None:
    """Whether a place lies on the board of a spot; None where no board near it lifts out."""
    if not lifting_boards(layout):
        return None
    lifts = lifting_finder(layout)
    own = lifts(*spot)
    return lambda place: lifts(*place) == own


def _reach(layout: Layout, wire: Wire) -> float:
    """How far along a run a feeder may be from its terminal, mm, so that it keeps the house rule."""
    rules = layout.brief.rules
    across = longest_feeder(rules, read_gauge(wire.feeder_gauge)) - rules.drop_below_rail
    return max(across * REACH_SHARE - OFF_CORRIDOR_MM, OFF_CORRIDOR_MM)


class _Lays:
    """Draws one tree on a sheet."""

    def __init__(
        self, sheet: Sheet, layout: Layout, corridors: Corridors, wire: Wire, devices: dict[int, str], reach: float
    ) -> None:
        self.sheet, self.layout, self.corridors, self.wire = sheet, layout, corridors, wire
        self.devices, self.reach = devices, reach
        self.terminals: list[str] = []
        self.lifting = [b.corners for b in layout.boards.values() if b.removable]
        self.room = _room(layout, wire)

    def out(self, tree: Tree, root: int, spots: Sequence[Spot], at: Sequence[int]) -> None:
        """Runs from the root outwards, each along the longest way that is left."""
        here: dict[int, list[int]] = {}
        for k, place in enumerate(at):
            here.setdefault(place, []).append(k)
        self.terminals = [""] * len(spots)
        self._shorten(tree, here)
        deepest = _deepest(tree, root, self.corridors)
        starts: list[tuple[int, int, str | None]] = [(root, child, None) for child in deepest[root]]
        while starts:
            place, child, terminal = starts.pop(0)
            way = [place, child]
            while deepest[way[-1]]:
                way.append(deepest[way[-1]][0])
            forks = {p: deepest[p][1:] for p in way[1:] if len(deepest[p]) > 1}
            marks = self._run(way, terminal, {p: here[p] for p in way if p in here}, set(forks))
            for p, others in forks.items():
                starts += [(p, other, marks[p]) for other in others]

    def _shorten(self, tree: Tree, here: dict[int, list[int]]) -> None:
        """Cut off ends of the tree that feeders reach without them."""
        places, home = self.corridors.places, {k: p for p, ks in here.items() for k in ks}
        bare = [p for p, near in tree.items() if len(near) == 1 and p not in self.devices]
        while bare:
            leaf = bare.pop()
            inward = tree[leaf][0]
            if (
                (leaf in here and self._lifts(leaf) != self._lifts(inward))
                or inward in self.devices
                or any(math.dist(places[home[k]], places[inward]) > self.reach for k in here.get(leaf, ()))
            ):
                continue
            here.setdefault(inward, []).extend(here.pop(leaf, []))
            tree.pop(leaf)
            tree[inward].remove(leaf)
            if len(tree[inward]) == 1:
                bare.append(inward)

    def _run(
        self, way: list[int], terminal: str | None, served: dict[int, list[int]], forks: set[int]
    ) -> dict[int, str]:
        """One run, with its terminals. Answers the terminal at each fork."""
        sheet, circuit = self.sheet, self.sheet["devices"][next(iter(self.devices.values()))]["output"]
        points = _aside(straightened([tuple(self.corridors.places[p]) for p in way]), self.wire.aside)
        if math.dist(points[0], points[-1]) < SHORTEST_MM and len(points) == 2:
            points[-1] = (
                points[0][0] + SHORTEST_MM,
                points[0][1],
            )  # it stands right at its device: a tail to work with
        path = [bend(x, y, None if k in (0, len(points) - 1) else 0.0) for k, (x, y) in enumerate(points)]
        line = draw([Bend(**v) for v in path])
        device = next(iter(self.devices.values()))
        last = self.devices.get(way[-1])
        label = add_run(
            sheet,
            circuit,
            path,
            device=None if terminal else device,
            terminal=terminal,
            ends_at_device=last,
            gauge=self.wire.gauge,
            strands=self.wire.strands,
            make=self.wire.make,
        )
        along = {p: line.nearest(*self.corridors.places[p])[0] for p in way}
        found: dict[int, str] = {}
        for group in self._groups([p for p in way if p in served or p in forks], served, along, forks):
            middle = min(max((along[group[0]] + along[group[-1]]) / 2, 0), line.length)
            if last is not None and group[-1] == way[-1]:
                middle = min(middle, max(line.length - 30, 0))
            i = sheet.add(
                "terminals",
                "T",
                {
                    "run": label,
                    "along": round(min(middle, line.length - 0.05), 1),
                    "kind": self.wire.terminal,
                    "ohms": None,
                },
            )
            for p in group:
                found[p] = i
                for k in served.get(p, ()):
                    self.terminals[k] = i
        for joint in lifting_joints(self.layout, line):
            if joint.at <= 0 or joint.at >= line.length:
                continue  # it only begins or ends at the joint
            sheet.add("plugs", "P", {"run": label, "along": round(joint.at, 1), "ohms": None})
        return found

    def _groups(
        self, places: list[int], served: dict[int, list[int]], along: dict[int, float], forks: set[int]
    ) -> list[list[int]]:
        """Places along a run that share a terminal: near enough, and not too many feeders in one."""
        groups: list[list[int]] = []
        count = 0
        for p in places:
            more = len(served.get(p, ())) + (p in forks)
            near = groups and along[p] - along[groups[-1][0]] <= self.reach
            if near and count + more <= self.room and self._lifts(p) == self._lifts(groups[-1][0]):
                groups[-1].append(p)
                count += more
            else:
                groups.append([p])
                count = more
        return groups

    def _lifts(self, place: int) -> int | None:
        """Which board that lifts out a place lies on: a feeder has no plug, so it is tied on its own side of the
        joint."""
        x, y = self.corridors.places[place]
        return next((n for n, outline in enumerate(self.lifting) if inside(outline, x, y)), None)


def _room(layout: Layout, wire: Wire) -> int:
    """Pairs a terminal of this kind takes besides the bus itself, which is cut and tied twice at strips and levers."""
    usual = CONNECTORS[wire.terminal].pairs
    takes = usual if usual is not None else round(layout.brief.rules.strip_pairs - layout.brief.rules.spare_posts)
    return max(1, takes - (2 if wire.terminal in BUS_IS_CUT_AT else 0))


def _aside(points: list[tuple[float, float]], aside: float) -> list[tuple[float, float]]:
    """A path moved to its right by so much, its ends kept where they are."""
    if not aside or len(points) < 2:
        return points
    moved = [points[0]]
    for k in range(1, len(points) - 1):
        (ax, ay), (x, y), (bx, by) = points[k - 1], points[k], points[k + 1]
        span = math.dist((ax, ay), (bx, by)) or 1.0
        moved.append((round(x - (by - ay) / span * aside, 1), round(y + (bx - ax) / span * aside, 1)))
    if len(points) == 2:
        (ax, ay), (bx, by) = points
        span = math.dist(*points) or 1.0
        off = (-(by - ay) / span * aside, (bx - ax) / span * aside)
        if span > 4 * abs(aside):
            share = 2 * abs(aside) / span
            for t in (share, 1 - share):
                moved.append((round(ax + (bx - ax) * t + off[0], 1), round(ay + (by - ay) * t + off[1], 1)))
    return [*moved, points[-1]]


def _deepest(tree: Tree, root: int, corridors: Corridors) -> dict[int, list[int]]:
    """The children of each place of a tree, those with the longest way on first."""
    order, parent = [root], {root: -1}
    for place in order:
        for other in tree.get(place, ()):
            if other != parent[place]:
                parent[other] = place
                order.append(other)
    depth = dict.fromkeys(order, 0.0)
    children: dict[int, list[int]] = {p: [] for p in order}
    for place in reversed(order):
        children[place].sort(key=lambda c: (-depth[c] - math.dist(corridors.places[place], corridors.places[c]), c))
        if parent[place] >= 0:
            up = parent[place]
            children[up].append(place)
            depth[up] = max(depth[up], depth[place] + math.dist(corridors.places[up], corridors.places[place]))
    return children


def straightened(points: list[Any]) -> list[tuple[float, float]]:
    """As few of these points as keep within `STRAIGHT_MM` of all (Douglas–Peucker)."""
    if len(points) < 3:
        return [(round(x, 1), round(y, 1)) for x, y in points]
    (ax, ay), (bx, by) = points[0], points[-1]
    span = math.hypot(bx - ax, by - ay)

    def off(p: tuple[float, float]) -> float:
        if span < 1e-9:
            return math.dist(p, (ax, ay))
        t = min(max(((p[0] - ax) * (bx - ax) + (p[1] - ay) * (by - ay)) / span**2, 0), 1)
        return math.hypot(p[0] - ax - t * (bx - ax), p[1] - ay - t * (by - ay))

    worst = max(range(1, len(points) - 1), key=lambda k: off(points[k]))
    if off(points[worst]) <= STRAIGHT_MM:
        return [(round(ax, 1), round(ay, 1)), (round(bx, 1), round(by, 1))]
    return straightened(points[: worst + 1])[:-1] + straightened(points[worst:])
