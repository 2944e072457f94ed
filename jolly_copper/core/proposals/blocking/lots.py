"""Detection sections as they come out of the cuts: which stretches are one section, what block it is of, what it is
called."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.frogs import JUNCTIONS
from jolly_copper.core.layout.signalling import Role
from jolly_copper.core.layout.stock import TrackUse
from jolly_copper.core.rails.dead import SHORTEST_STAND_MM
from jolly_copper.core.rails.pieces import RailMap

DETECTED: frozenset[TrackUse] = frozenset({"main", "branch", "siding", "yard", "staging"})
"""Uses of track that are detected. Industry, engine terminals and programming track need none: who works there,
looks."""
PREFIX: dict[TrackUse, str] = {"main": "M", "branch": "B", "siding": "S", "yard": "Y", "staging": "H"}
NAMED = (
    "Blocks of the main are M, of branches B, of sidings S, of yards Y, of hidden staging H; junctions are called "
    "by their points."
)


@dataclass(frozen=True)
class Stretch:
    """Plain track between turnouts, in one direction. tracks: with whether it runs A to B. legs start at these
    distances. first, last: the kept-clear length at its two ends, mm; None where the track ends at a bumper."""

    tracks: tuple[tuple[str, bool], ...]
    starts: tuple[float, ...]
    length: float
    first: float | None
    last: float | None
    crossover: bool

    def place(self, along: float, lengths: dict[str, float]) -> tuple[str, float]:
        for k in range(len(self.tracks) - 1, -1, -1):
            if along >= self.starts[k] - 1e-9:
                track, forward = self.tracks[k]
                on = min(along - self.starts[k], lengths[track])
                return track, on if forward else lengths[track] - on
        raise AssertionError("a stretch starts at 0")


class Mark(NamedTuple):
    """A section wanted: from `start` to `end` along a stretch, mm; the block it is part of, its role there, and why."""

    stretch: Stretch
    start: float
    end: float
    block: str
    role: Role
    why: str


@dataclass(frozen=True)
class Lot:
    """Rail behind one detector channel. extents: numbers in the cut railroad's rail map. block: its name. circuit: what
    feeds it today, behind no detector. why: in words."""

    name: str
    block: str
    role: Role
    use: TrackUse
    extents: tuple[int, ...]
    circuit: str | None
    length: float
    why: str


class Naming:
    """What comes of the cuts: every stretch between gaps is part of a section, or left without a detector."""

    def __init__(self, layout: Layout, before: RailMap, circuits: Sequence[str | None], marks: Sequence[Mark]) -> None:
        self.layout, self.rails, self.circuits, self.marks = layout, before, circuits, marks
        self.lengths = before.lengths

    def in_scope(self, track: str) -> bool:
        return self.layout.tracks[track].use in DETECTED

    def lots(self, rails: RailMap) -> tuple[list[Lot], list[tuple[int, str]]]:
        """Sections in the order they are numbered, and stretches that need none, with why. rails: of the cut
        railroad."""
        circuits = self._circuits_on(rails)
        home = self._marked(rails)
        grouped: dict[object, list[int]] = {}
        blind: list[tuple[int, str]] = []
        for number, extent in enumerate(rails.extents):
            length = sum(p.end - p.start for p in extent)
            widest = max(extent, key=lambda p: (p.end - p.start, p.track))
            inside = [p for p in extent if self.in_scope(p.track)]
            if not inside:
                blind.append((number, f"{self.layout.tracks[widest.track].use}: who works there, looks"))
            elif length < SHORTEST_STAND_MM:
                blind.append((number, "too short for a train to stand on"))
            else:
                mark = home.get(number)
                # Where a whole circuit changes inside one block, each part has a channel of its own.
                grouped.setdefault((mark, circuits[number]) if mark is not None else ("junction", number), []).append(
                    number
                )
        return self._named(rails, grouped, circuits), blind

    def _circuits_on(self, rails: RailMap) -> list[str | None]:
        found = []
        for extent in rails.extents:
            fed: dict[str, float] = defaultdict(float)
            for p in extent:
                old = self.rails.piece_at(p.track, (p.start + p.end) / 2)
                circuit = self.circuits[self.rails.extent_of[old]]
                if circuit is not None:
                    fed[circuit] += p.end - p.start
            found.append(max(sorted(fed), key=lambda c: fed[c], default=None))
        return found

    def _marked(self, rails: RailMap) -> dict[int, int]:
        """Which section of which block each extent is, by the number of its mark; junctions have none."""
        found: dict[int, int] = {}
        for n, (s, a, b, _, _, _) in enumerate(self.marks):
            for (track, forward), start in zip(s.tracks, s.starts, strict=True):
                for piece in rails.pieces[track]:
                    low, high = (
                        (piece.start, piece.end)
                        if forward
                        else (self.lengths[track] - piece.end, self.lengths[track] - piece.start)
                    )
                    middle = start + (low + high) / 2
                    if a - 1 <= middle <= b + 1 and self._plain(rails, rails.extent_of[piece]):
                        found.setdefault(rails.extent_of[piece], n)
        return found

    def _plain(self, rails: RailMap, number: int) -> bool:
        """Whether no turnout or crossing lies in a stretch: both its ends are gaps, joints or bumpers."""
        for p in rails.extents[number]:
            track = self.layout.tracks[p.track]
            for here, port in ((p.start < 1, track.a), (p.end > self.lengths[p.track] - 1, track.b)):
                if here and self.layout.nodes[port.node].kind in JUNCTIONS:
                    return False
        return True

    def _named(self, rails: RailMap, grouped: dict[object, list[int]], circuits: list[str | None]) -> list[Lot]:
        counts: dict[str, int] = defaultdict(int)
        names: dict[tuple[object, str], str] = {}
        taken: dict[str, int] = defaultdict(int)
        lots = []
        order = sorted(grouped.items(), key=lambda g: self._rank(rails, g[1]))
        for key, numbers in order:
            length = sum(p.end - p.start for n in numbers for p in rails.extents[n])
            widest = max((p for n in numbers for p in rails.extents[n]), key=lambda p: (p.end - p.start, p.track))
            use = self.layout.tracks[widest.track].use
            circuit = circuits[numbers[0]]
            if isinstance(key, tuple) and key[0] == "junction":
                nodes = self._junction_nodes(rails, numbers[0])
                name = f"Points {' '.join(nodes[:4])}" if nodes else self.layout.tracks[widest.track].name
                taken[name] += 1
                name = name if taken[name] == 1 else f"{name} part {taken[name]}"
                why = "a junction is a section of its own: a train in it holds every way over it"
                lots.append(
                    Lot(
                        name[:60],
                        name[:60],
                        "junction" if nodes else "whole",
                        use,
                        tuple(numbers),
                        circuit,
                        length,
                        why,
                    )
                )
                continue
            assert isinstance(key, tuple)
            s, _, _, block, role, why = self.marks[key[0]]
            mine = (s.tracks, block)
            if (mine, str(circuit)) not in names:
                letter = PREFIX.get(use, "M")
                counts[letter] += 1
                names[mine, str(circuit)] = f"{letter}{counts[letter]}"
            name = names[mine, str(circuit)]
            lots.append(
                Lot(
                    name if role == "whole" else f"{name} {role}", name, role, use, tuple(numbers), circuit, length, why
                )
            )
        return lots

    def _junction_nodes(self, rails: RailMap, number: int) -> list[str]:
        nodes: dict[str, None] = {}
        for p in rails.extents[number]:
            track = self.layout.tracks[p.track]
            for here, port in ((p.start < 1, track.a), (p.end > self.lengths[p.track] - 1, track.b)):
                node = self.layout.nodes[port.node]
                if here and node.kind in JUNCTIONS:
                    nodes[node.name or port.node] = None
        return sorted(nodes)

    def _rank(self, rails: RailMap, numbers: list[int]) -> tuple[int, int, int, float]:
        """Main first, then branches and the rest; inside each as one walks along its chains."""
        widest = max((p for n in numbers for p in rails.extents[n]), key=lambda p: (p.end - p.start, p.track))
        uses = list(PREFIX)
        use = self.layout.tracks[widest.track].use
        order = list(self.layout.tracks)
        return uses.index(use) if use in uses else len(uses), 0, order.index(widest.track), widest.start
