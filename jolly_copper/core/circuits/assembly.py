"""What a network is put together from: parts in series, joints of one metal, and what was measured by itself."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Hashable, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from scipy import sparse
from scipy.sparse import csgraph

from jolly_copper.core.layout.document import Layout, Track
from jolly_copper.core.rails.pieces import PAIR_MM, Joined, Side

Ints = NDArray[np.int64]
PartKind = Literal["source", "device", "wire", "contact", "plug", "feeder wire", "solder", "rail", "joiner", "blade"]
NEGLIGIBLE_OHMS = 1e-9
SAME_JOINER_MM = 150.0
"""A joiner measured this near to where one is thought to be is that one."""


@dataclass(frozen=True, slots=True)
class Part:
    """One thing in a series: what it is, whose it is, Ω, H (this conductor's half of the pair), and mm of it."""

    kind: PartKind
    owner: str
    ohms: float
    henries: float = 0.0
    length: float = 0.0


class Assembly:
    """Collects joints (same metal) and resistors, then numbers the nodes."""

    def __init__(self) -> None:
        self.joined = Joined()
        self.resistors: list[tuple[str, str, str, Hashable, Hashable, tuple[Part, ...], float, float]] = []
        """Kind, owner, conductor, from, to, parts, and Ω and H of them together."""

    def begun(self) -> Assembly:
        """A new one in which the same is joined, and no resistor yet."""
        found = Assembly()
        found.joined = self.joined.copy()
        return found

    def resistor(self, kind: str, owner: str, conductor: str, a: Hashable, b: Hashable, parts: Sequence[Part]) -> None:
        kept = tuple([p for p in parts if p.ohms > 0])
        ohms = sum([p.ohms for p in kept])
        if ohms < NEGLIGIBLE_OHMS:
            self.joined.join(a, b)
        else:
            self.joined.find(a)
            self.joined.find(b)
            henries = sum([p.henries for p in kept])
            self.resistors.append((kind, owner, conductor, a, b, kept, ohms, henries))

    def series(
        self, kind: str, owner: str, conductor: str, a: Hashable, b: Hashable, parts: Sequence[Part | None]
    ) -> None:
        """Parts one after another; one that is broken (None) parts the two ends."""
        if all(p is not None for p in parts):
            self.resistor(kind, owner, conductor, a, b, [p for p in parts if p is not None])
        else:
            self.joined.find(a)
            self.joined.find(b)


class MeasuredParts:
    """What somebody measured, or found broken, by itself."""

    def __init__(self, layout: Layout) -> None:
        self._by: dict[tuple[str, str, str], float | None] = {}
        self._joiners: dict[str, list[tuple[float, Side, float | None]]] = defaultdict(list)
        for x in layout.measured.values():
            if x.track is not None:
                self._joiners[x.track].append((x.at, "left" if x.side == "left" else "right", x.ohms))
            elif x.of is not None:
                self._by[x.what, x.of, x.side] = x.ohms

    def knows(self, what: str, of: str, side: str) -> bool:
        return (what, of, side) in self._by

    def part(
        self,
        kind: PartKind,
        what: str,
        of: str,
        side: str,
        usual: float,
        henries: float = 0.0,
        length: float = 0.0,
        owner: str | None = None,
    ) -> Part | None:
        """A part with its own ohms where they were measured, the usual ones else; None where it is broken."""
        ohms = self._by.get((what, of, side), usual)
        return None if ohms is None else Part(kind, owner or of, ohms, henries, length)

    def joiners(self, track: str, places: Sequence[float], length: float) -> dict[float, dict[Side, float | None]]:
        """Joiners of a track that were measured, by place and rail: the nearest joiner within reach, an end of the
        track (0 or its length), or a place of its own."""
        found: dict[float, dict[Side, float | None]] = {}
        for at, side, ohms in self._joiners.get(track, ()):
            near = min((*places, 0.0, length), key=lambda p: abs(p - at))
            place = near if abs(near - at) <= SAME_JOINER_MM else at
            found.setdefault(place, {})[side] = ohms
        return found


def joiner_places(track: Track, length: float, gaps: Sequence[float]) -> list[float]:
    """Where a track of a length has joiners, mm from its A end: not at its ends, and none where a gap is."""
    if not track.joiner_every:
        return []
    places = [k * track.joiner_every for k in range(1, int(length / track.joiner_every) + 1)]
    return [p for p in places if p < length - 1 and all(abs(p - g) > PAIR_MM for g in gaps)]


def connected(ends: Sequence[tuple[int, int]], count: int) -> Ints:
    """The number of the connected part that each of `count` nodes lies in, joined by these pairs."""
    a, b = np.array(ends, dtype=np.int64).reshape(-1, 2).T
    graph = sparse.coo_matrix((np.ones(len(a)), (a, b)), shape=(count, count))
    return np.asarray(csgraph.connected_components(graph, directed=False)[1], dtype=np.int64)
