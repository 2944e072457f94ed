"""What crosses the joints of boards that lift out: pairs of a bus, cables, track."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.giving import circuit_volts, gives, source_volts
from jolly_copper.core.circuits.lengths import along_run, point_on_run, run_length
from jolly_copper.core.layout.benchwork import board_finder, board_name, boards_in_order, lifting_joints
from jolly_copper.core.layout.connections import held
from jolly_copper.core.layout.control import control_of
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.ids import natural
from jolly_copper.core.layout.power_tree import PowerTree, grow_tree
from jolly_copper.core.layout.underways import cable_joints
from jolly_copper.core.layout.wiring import Run
from jolly_copper.core.layout.words import CONTROL
from jolly_copper.core.signals.cables import Cable, cables

NEAR_A_JOINT_MM = 450.0
"""A plug so far from a joint still serves it: it hangs where a hand gets at it. Common practice, no source."""
BESIDE_MM = (5.0, 60.0, 150.0, 300.0, 450.0)
"""How far to each side of a joint its two boards are looked for."""

CLOSES_MM = 12.0
"""A gap so near the joint of two boards is the joint itself: whoever draws the boards together closes it. Common
practice, no source."""

Boards = tuple[str | None, str | None]
Point = tuple[float, float]
PowerKind = Literal["track", "accessory", "control"]
POWER_FIRST: tuple[PowerKind, ...] = ("track", "accessory", "control")
"""The order in which kinds of power are told: without track power nothing runs."""


@dataclass(frozen=True)
class Power:
    """What stands between wires. Two that differ must never be put together. words: for people."""

    kind: PowerKind
    volts: float
    words: str


@dataclass(frozen=True)
class Crossing:
    """Wires that go over a joint together.

    key: as a coupling names it; None where they have no plug yet. owner: the run, or the key of the cable. colours: of
    its wires in order; gauge: of each. amps: the most one of them may carry for long, None where nobody knows. live:
    the board it is fed from. at: on the plan, mm. along: mm from the start of its run; 0 of a cable.
    """

    key: str | None
    owner: str
    label: str
    colours: tuple[str, ...]
    gauge: str
    amps: float | None
    power: Power
    live: str | None
    boards: Boards
    at: Point
    along: float = 0.0

    @property
    def name(self) -> str:
        """Its key, or for what has no plug yet, the run."""
        return self.key or f"run:{self.owner}"


@dataclass(frozen=True)
class TrackCrossing:
    """A track over a joint. at: mm from its A end. gap: what is cut there already, so that the rails part."""

    track: str
    at: float
    boards: Boards
    place: Point
    gap: str | None


@dataclass(frozen=True)
class BoardJoint:
    """Two boards of which one lifts out, with what goes from one to the other. boards: in their order by name."""

    boards: Boards
    crossings: tuple[Crossing, ...]
    tracks: tuple[TrackCrossing, ...]


def joints_of(facts: Facts) -> tuple[BoardJoint, ...]:
    """The joints of a worked-out layout, worked out once for all who ask."""
    found = facts.kept.get("joints")
    if not isinstance(found, tuple):
        facts.kept["joints"] = found = board_joints(facts.layout)
    return found


def joint_name(layout: Layout, boards: Boards) -> str:
    """A joint in words: `Board 1 Town and Board 2 Quay`."""
    return " and ".join(board_name(layout, b) for b in boards)


def board_joints(layout: Layout) -> tuple[BoardJoint, ...]:
    """Every joint that something crosses, in the order of its boards."""
    wires: dict[Boards, list[Crossing]] = defaultdict(list)
    for crossing in (*run_crossings(layout), *cable_crossings(layout)):
        wires[crossing.boards].append(crossing)
    tracks: dict[Boards, list[TrackCrossing]] = defaultdict(list)
    for track in track_crossings(layout):
        tracks[track.boards].append(track)
    rank: dict[str | None, int] = {b: n for n, b in enumerate(boards_in_order(layout))}
    last = len(rank)
    order = sorted({*wires, *tracks}, key=lambda j: (rank.get(j[0], last), rank.get(j[1], last)))
    return tuple(BoardJoint(j, tuple(wires[j]), tuple(tracks[j])) for j in order)


def run_crossings(layout: Layout) -> Iterator[Crossing]:
    """Every place where a run passes the edge of a board that lifts out, with its plug where it has one there."""
    tree = grow_tree(layout)
    plugs: dict[str, list[tuple[float, str]]] = defaultdict(list)
    for plug_id, fitted in layout.plugs.items():
        plugs[fitted.run].append((fitted.along, plug_id))
    power = {c: power_of(layout, tree, c) for c in layout.circuits}
    for run_id, run in layout.runs.items():
        circuit = layout.circuits[run.circuit]
        worn = {"A": circuit.colour_a, "B": circuit.colour_b}
        taken: set[str] = set()
        for joint in lifting_joints(layout, run.line):
            along = along_run(run, joint.at)
            near = [(abs(at - along), i) for at, i in plugs[run_id] if abs(at - along) <= NEAR_A_JOINT_MM]
            plug = min((p for p in near if p[1] not in taken), default=None)
            if plug is not None:
                taken.add(plug[1])
            before, after = _beside(layout, run, along)
            if before == after:
                continue
            yield Crossing(
                key=f"plug:{plug[1]}" if plug is not None else None,
                owner=run_id,
                label=run.label,
                colours=tuple(worn[c] for c in held(run)),
                gauge=run.gauge,
                amps=amps_for_long(layout, tree, run.circuit),
                power=power[run.circuit],
                live=before if along > run.fed.along else after,
                boards=_in_order(layout, before, after),
                at=point_on_run(run, along),
                along=along,
            )


def cable_crossings(layout: Layout) -> Iterator[Crossing]:
    """Every joint that a cable passes. It is fed from the end it begins at."""
    for cable in cables(layout):
        for n, (_, one, other) in enumerate(cable_joints(layout, cable.a, cable.b), start=1):
            yield Crossing(
                key=f"cable:{cable.key}/{n}",
                owner=cable.key,
                label=cable.label,
                colours=cable.colours,
                gauge=cable.gauge,
                amps=cable.amps,
                power=_of_cable(cable),
                live=one,
                boards=_in_order(layout, one, other),
                at=middle_of(shared_edge(layout, one, other)),
            )


def _of_cable(cable: Cable) -> Power:
    volts = round(cable.volts, 1)
    if cable.supplies:
        return Power("accessory", volts, f"accessories, {volts:g} V")
    return Power("control", volts, f"control wires, {volts:g} V")


def track_crossings(layout: Layout) -> Iterator[TrackCrossing]:
    """Every place where a track passes the edge of a board that lifts out."""
    board = board_finder(layout)
    gaps: dict[str, list[tuple[float, str]]] = defaultdict(list)
    for i, gap in layout.gaps.items():
        gaps[gap.track].append((gap.at, i))
    for i, track in layout.tracks.items():
        line = track.line
        scale = (track.tape or line.length) / line.length if line.length else 1.0
        for joint in lifting_joints(layout, line):
            ends = [
                (
                    board(*line.point(max(joint.at - step, 0.0))),
                    board(*line.point(min(joint.at + step, line.length))),
                )
                for step in BESIDE_MM
            ]
            before, after = next((e for e in ends if e[0] != e[1]), (None, None))
            if before == after:
                continue
            at = joint.at * scale
            near = min(((abs(g - at), k) for g, k in gaps[i] if abs(g - at) <= CLOSES_MM), default=None)
            yield TrackCrossing(
                i, at, _in_order(layout, before, after), line.point(joint.at), near[1] if near is not None else None
            )


def power_of(layout: Layout, tree: PowerTree, circuit: str) -> Power:
    """What stands between the wires of a circuit."""
    if layout.circuits[circuit].purpose == "track":
        volts = round(circuit_volts(layout, tree, circuit), 1)
        fed = f" {CONTROL[control_of(tree, circuit)]}" if tree.source(circuit) is not None else ""
        return Power("track", volts, f"track, {volts:g} V{fed}")
    feeds = tree.fed_by.get(circuit)
    volts = round(source_volts(layout, feeds), 1) if feeds is not None else 0.0
    return Power("accessory", volts, f"accessories, {volts:g} V" if volts else "accessories, volts unknown")


def amps_for_long(layout: Layout, tree: PowerTree, circuit: str) -> float | None:
    """The most a wire of a circuit may carry for long, A: what its protection lets stand, else what its source gives;
    None where neither is written down."""
    over = tree.upstream(circuit)
    known = [a for d in over if (a := gives(layout, d)) is not None]
    return min(known, default=None)


def _beside(layout: Layout, run: Run, along: float) -> Boards:
    """The boards before and after a place along a run; the same one twice where no joint is near."""
    board, length = board_finder(layout), run_length(run)
    a = b = None
    for step in BESIDE_MM:
        a, b = (board(*point_on_run(run, min(max(along + s, 0.0), length))) for s in (-step, step))
        if a != b:
            break
    return a, b


def _in_order(layout: Layout, one: str | None, other: str | None) -> Boards:
    """Two boards in their order by name, what is off the boards last."""
    return (
        (one, other)
        if other is None or (one is not None and _rank(layout, one) <= _rank(layout, other))
        else (other, one)
    )


def _rank(layout: Layout, board: str) -> tuple[object, str]:
    return natural(layout.boards[board].name), board


def shared_edge(layout: Layout, one: str, other: str) -> tuple[Point, Point]:
    """The ends of the line two boards share, by their boxes, mm."""
    a, b = layout.boards[one].corners, layout.boards[other].corners
    low, high = [], []
    for k in (0, 1):
        low.append(max(min(p[k] for p in a), min(p[k] for p in b)))
        high.append(min(max(p[k] for p in a), max(p[k] for p in b)))
    x0, x1 = sorted((low[0], high[0]))
    y0, y1 = sorted((low[1], high[1]))
    if x1 - x0 < y1 - y0:
        return ((x0 + x1) / 2, y0), ((x0 + x1) / 2, y1)
    return (x0, (y0 + y1) / 2), (x1, (y0 + y1) / 2)


def middle_of(line: tuple[Point, Point]) -> Point:
    """Half way along a line."""
    (ax, ay), (bx, by) = line
    return (ax + bx) / 2, (ay + by) / 2
