"""The copper as a meter meets it: places where rails can be read, and every part whose ohms nobody knows exactly.

A reading between the rails at p with one ampere drawn there is z_p = Σ_k f_k(p)²·R_k, f_k(p) the share of that
ampere that part k carries; so ∂z_p/∂R_k = f_k(p)² (reciprocity, docs/formulas.md).
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Literal

import numpy as np

from jolly_copper.core.circuits.assembly import Part
from jolly_copper.core.circuits.network import Element, Network, assemble
from jolly_copper.core.circuits.points import Floats, Ints, Points, one_point
from jolly_copper.core.circuits.rail_work import Point
from jolly_copper.core.circuits.solution import Island, solve
from jolly_copper.core.layout.document import Layout, Track

Method = Literal["dc", "ac"]
"""dc: one ampere put in behind the breaker. ac: under the railroad's own power, source and breaker in it."""
EVERY_MM = 300.0
NEAR_JOINT_MM = 0.5
MOST_PLACES = 3000
MOST_CELLS = 5_000_000
"""Places times elements of one ground: 40 MB a matrix."""
SHORTED = 1e-5
"""Ω of source and breaker when one ampere goes in behind them."""
OWN: dict[str, float] = {
    "rail": 0.03,
    "joiner": 0.41,
    "contact": 0.59,
    "solder": 0.59,
    "blade": 0.59,
    "plug": 0.76,
    "wire": 0.03,
    "feeder wire": 0.10,
    "device": 0.40,
    "source": 0.30,
}
"""Relative spread of the ohms of one part, 95 % within 1.96 times it. Common practice, no source."""
OWN_OLD_JOINER = 0.59
SHARED: dict[str, float] = {"rail": 0.20, "joiner": 0.30, "wire": 0.03}
"""What all of a kind have in common. Common practice, no source."""
PRIOR: dict[str, float] = {
    "feeder wire": 0.3,
    "joiner": 0.25,
    "plug": 0.5,
    "contact": 0.15,
    "device": 0.1,
    "source": 0.05,
    "blade": 0.25,
    "wire": 0.02,
}
"""How often each kind of part is the bad one, against the others. Common practice, no source."""


@dataclass(frozen=True)
class Place:
    """Where rails can be read: a track, mm from its A end."""

    track: str
    at: float

    @property
    def key(self) -> str:
        return f"{self.track}@{self.at:.0f}"


@dataclass(frozen=True)
class Ground:
    """One connected part of the copper, with the places in it.

    places: shape (P,). share: (P, E), A in each element for 1 A drawn at each place, signed. loop: (P,) Ω, rail to
    rail. across: (E,) Ω between an element's own ends, itself among what joins them. variance: (E,) Ω², of each
    element by its own parts alone. shared: (E, G) Ω, one column for each kind of part that is off together.
    """

    island: Island
    elements: tuple[Element, ...]
    places: tuple[Place, ...]
    points: Points
    share: Floats
    loop: Floats
    henries: Floats
    open_volts: Floats
    across: Floats
    variance: Floats
    shared: Floats
    groups: tuple[str, ...]

    @cached_property
    def ohms(self) -> Floats:
        return np.array([e.ohms for e in self.elements])

    @cached_property
    def felt(self) -> Floats:
        """f², (P, E): what a place feels of each element."""
        return np.asarray(self.share**2)

    @cached_property
    def way_round(self) -> Floats:
        """κ of each element: 0 where nothing leads round it, up to 1 where almost all does."""
        return np.asarray(np.clip(1 - self.across / self.ohms, 0.0, 1.0))

    def worse(self, ohms: float) -> Floats:
        """h of each element with so many Ω more: h = x/(1 + x·κ/R). Shape (E,). Infinite ohms: open."""
        if np.isinf(ohms):
            with np.errstate(divide="ignore"):
                return np.asarray(np.where(self.way_round > 1e-9, self.ohms / self.way_round, np.inf))
        return np.asarray(ohms / (1 + ohms * self.way_round / self.ohms))

    @cached_property
    def number(self) -> dict[str, int]:
        """Row of each place by its key."""
        return {p.key: n for n, p in enumerate(self.places)}


@dataclass(frozen=True)
class Copper:
    """All of it, by the method it is read with."""

    layout: Layout
    network: Network
    method: Method
    grounds: tuple[Ground, ...]

    @cached_property
    def where(self) -> dict[str, tuple[int, int]]:
        """Ground and row of each place by its key."""
        return {key: (g, row) for g, ground in enumerate(self.grounds) for key, row in ground.number.items()}

    def nearest(self, track: str, at: float) -> Place | None:
        """The place nearest to one on a track; None where none of it can be read."""
        here = [p for g in self.grounds for p in g.places if p.track == track]
        return min(here, key=lambda p: abs(p.at - at), default=None)


def candidates(layout: Layout, network: Network) -> list[Point]:
    """Places worth reading: ends of spans, both sides of every joiner, and no more than 300 mm between."""
    total = sum(s.end - s.start for s in network.spans)
    every = max(EVERY_MM, total / MOST_PLACES * 2)
    found: dict[str, set[float]] = {}
    for span in network.spans:
        here = found.setdefault(span.track, set())
        steps = max(1, int(np.ceil((span.end - span.start) / every)))
        here |= {round(span.start + (span.end - span.start) * k / steps, 1) for k in range(steps + 1)}
        for joint in span.joiners:
            here |= {joint - NEAR_JOINT_MM, joint + NEAR_JOINT_MM}
    points = []
    for track, places in sorted(found.items(), key=lambda x: _natural(x[0])):
        last = -np.inf
        for at in sorted(places):
            if at - last >= 2 * NEAR_JOINT_MM - 1e-6:
                points.append((track, float(at)))
                last = at
    return points


def _natural(words: str) -> tuple[object, ...]:
    return tuple((0, int(x), "") if x.isdigit() else (1, 0, x) for x in re.split(r"(\d+)", words))


@dataclass(frozen=True)
class Surveyed:
    """A network with a node at every place that may be read: the places, and their points in it."""

    network: Network
    places: tuple[Place, ...]
    points: Points


def survey(layout: Layout) -> Surveyed:
    """The network with all its places, before it is solved by either method."""
    wanted = candidates(layout, assemble(layout))
    network = assemble(layout, wanted)
    places = tuple(Place(*w) for w in sorted(set(wanted), key=lambda w: (_natural(w[0]), w[1])))
    return Surveyed(network, places, _joined([one_point(network, p.track, p.at) for p in places]))


def read_copper(layout: Layout, method: Method = "dc", surveyed: Surveyed | None = None) -> Copper:
    """Everything a meter may be held to, worked out once.

    Args:
        layout: the document.
        method: how it is read.
        surveyed: its network with all places, where that was made already.
    """
    known = surveyed or survey(layout)
    network = known.network
    if method == "dc":
        network = replace(network, elements=tuple(_bypassed(e) for e in network.elements))
    grounds = [_ground(layout, network, island, known) for island in solve(network)]
    return Copper(layout, network, method, tuple(g for g in grounds if g.places))


def _bypassed(element: Element) -> Element:
    if element.kind not in ("source", "device"):
        return element
    return element._replace(ohms=SHORTED, parts=(Part("device", element.owner, SHORTED),))


def _ground(layout: Layout, network: Network, island: Island, known: Surveyed) -> Ground:
    inside = np.flatnonzero(island.holds(known.points))
    most = max(MOST_CELLS // max(len(island.elements), 1), 50)
    if len(inside) > most:  # a very large railroad is read at fewer places, evenly
        inside = inside[np.unique(np.linspace(0, len(inside) - 1, most).astype(np.int64))]
    points = known.points.take(inside)
    reach = island.reach(points)
    loop = np.diagonal(island.between(reach, points)).copy() if len(inside) else np.zeros(0)
    wound = np.asarray(reach * np.asarray(island.loops @ reach.T).T).sum(axis=1) if len(inside) else np.zeros(0)
    elements = tuple(network.elements[n] for n in island.elements)
    variance, shared, groups = _spreads(layout, elements)
    open_volts = island.open_volts(points) if len(inside) else np.zeros(0)
    return Ground(
        island,
        elements,
        tuple(known.places[int(n)] for n in inside),
        points,
        island.shares(reach),
        loop,
        wound,
        open_volts,
        _across(island),
        variance,
        shared,
        groups,
    )


def _joined(found: Sequence[Points]) -> Points:
    if not found:
        none, numbers = np.zeros(0), np.zeros(0, dtype=np.int64)
        return Points(numbers, none, none, numbers.reshape(0, 4), none, none)
    return Points(
        np.concatenate([x.span for x in found]),
        np.concatenate([x.at for x in found]),
        np.concatenate([x.share for x in found]),
        np.concatenate([x.nodes for x in found]),
        np.concatenate([x.ohms for x in found]),
        np.concatenate([x.henries for x in found]),
    )


AT_ONCE = 256


def _across(island: Island) -> Floats:
    """Ω between the ends of every element."""
    whole, ends = island.resistance.whole, island.ends
    if whole is not None:
        a, b = ends[:, 0], ends[:, 1]
        return np.asarray(whole[a, a] + whole[b, b] - 2 * whole[a, b])
    found = np.zeros(len(ends))
    for start in range(0, len(ends), AT_ONCE):
        some = ends[start : start + AT_ONCE]
        drawn = np.zeros((island.resistance.size + 1, len(some)))
        rows: Ints = np.arange(len(some))
        drawn[some[:, 0], rows] += 1
        drawn[some[:, 1], rows] -= 1
        solved = island.resistance.columns(drawn)
        found[start : start + AT_ONCE] = solved[some[:, 0], rows] - solved[some[:, 1], rows]
    return found


def shared_group(layout: Layout, part: Part) -> str | None:
    """What a part has in common with others of its kind; None where each is by itself."""
    track: Track | None = layout.tracks.get(part.owner)
    if part.kind == "rail" and track is not None:
        return f"rail of code {track.code}, {track.metal}"
    if part.kind == "joiner" and track is not None:
        return f"{track.joiners} joiners"
    return "bus wire" if part.kind == "wire" else None


def shared_spread(group: str) -> float:
    """Relative spread that all of a group have in common."""
    return SHARED["joiner" if group.endswith("joiners") else "rail" if group.startswith("rail") else "wire"]


def own_spread(layout: Layout, part: Part) -> float:
    """Relative spread of one part by itself."""
    track = layout.tracks.get(part.owner)
    if part.kind == "joiner" and track is not None and track.joiners == "old":
        return OWN_OLD_JOINER
    return OWN[part.kind]


def _spreads(layout: Layout, elements: Sequence[Element]) -> tuple[Floats, Floats, tuple[str, ...]]:
    variance = np.zeros(len(elements))
    columns: dict[str, Floats] = {}
    for n, element in enumerate(elements):
        for part in element.parts:
            variance[n] += (part.ohms * own_spread(layout, part)) ** 2
            group = shared_group(layout, part)
            if group is not None:
                column = columns.setdefault(group, np.zeros(len(elements)))
                column[n] += part.ohms * SHARED[part.kind]
    names = tuple(sorted(columns))
    shared = np.stack([columns[g] for g in names], axis=1) if names else np.zeros((len(elements), 0))
    return variance, shared, names
