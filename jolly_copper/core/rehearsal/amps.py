"""Volts and amps of trains where they stand, from the transfer ohms of the facts."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

import numpy as np

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.giving import limit_of
from jolly_copper.core.circuits.parts import counts_inductance
from jolly_copper.core.circuits.points import Floats
from jolly_copper.core.circuits.square_wave import square_wave_share
from jolly_copper.core.rails.pieces import Piece

WHEEL_OHMS = 0.05
"""Of a wheel that lies over a gap. Certainty C."""
GAP_SIDE_MM = 1.0


class Spot(NamedTuple):
    """A place between two sample points of one part: their rows, how far from the first to the second, Ω of one rail
    between them."""

    part: int
    one: int
    other: int
    share: float
    between: float


class StandingLoads(NamedTuple):
    """What a train that stands at `s`, mm along its way, draws where: a spot and amps each."""

    s: float
    powered: bool
    loads: list[tuple[Spot | None, float]]


class _Mark(NamedTuple):
    at: float
    span: int
    part: int
    row: int
    share: float
    ohms: float


@dataclass(frozen=True)
class Copper:
    """The solved network of the facts, asked at any place."""

    facts: Facts

    @cached_property
    def _on_piece(self) -> dict[Piece, tuple[list[float], list[_Mark]]]:
        """Sample points of every piece of rail in order, part −1 where they reach no source. Plain numbers: asked
        again and again, they are some ten times quicker than entries of arrays."""
        facts = self.facts
        found: dict[Piece, tuple[list[float], list[_Mark]]] = {}
        at, span, share = facts.points.at.tolist(), facts.points.span.tolist(), facts.points.share.tolist()
        ohms, part, row = facts.points.ohms.tolist(), facts.part_of.tolist(), facts.row_in_part.tolist()
        for k in range(len(at)):
            places, marks = found.setdefault(facts.network.spans[span[k]].piece, ([], []))
            places.append(at[k])
            marks.append(_Mark(at[k], span[k], part[k], row[k], share[k], ohms[k]))
        return found

    @cached_property
    def _estimated(self) -> tuple[Floats, ...]:
        """Transfer ohms of every part with the low end of the inductive estimate, Ω."""
        return tuple(
            p.worked.transfer + p.worked.rate[:, None] * p.worked.inductance
            if counts_inductance(self.facts.network, p.island)
            else p.worked.transfer
            for p in self.facts.parts
        )

    @cached_property
    def _open_volts(self) -> tuple[Floats, ...]:
        """Volts with nothing drawn at every point of every part, V."""
        return tuple(self.facts.open_volts[p.rows] for p in self.facts.parts)

    def spot(self, track: str, at: float) -> Spot | None:
        """A place on a track; None where its rails reach no source."""
        known = self._on_piece.get(self.facts.rails.piece_at(track, at))
        if known is None:
            return None
        places, marks = known
        k = bisect_right(places, at)
        one = marks[k - 1] if k else marks[0]
        if one.part < 0:
            return None
        other = marks[k] if 0 < k < len(marks) and marks[k].span == one.span and marks[k].part == one.part else None
        if other is None:
            return Spot(one.part, one.row, one.row, 0.0, 0.0)
        gap = other.at - one.at
        share = (at - one.at) / gap if gap > 0 else 0.0
        return Spot(one.part, one.row, other.row, share, one.ohms * abs(other.share - one.share))

    def between(self, one: Spot, other: Spot) -> float:
        """Transfer ohms between two places, Ω: the four pairs of sample points by nearness, and of the rail between
        them its own share where both places are one."""
        if one.part != other.part:
            return 0.0
        z = self._estimated[one.part]
        found = 0.0
        for a, wa in ((one.one, 1 - one.share), (one.other, one.share)):
            for b, wb in ((other.one, 1 - other.share), (other.other, other.share)):
                found += wa * wb * float(z[a, b])
        if one[:3] == other[:3] and one.one != one.other:
            low, high = sorted((one.share, other.share))
            found += 2 * low * (1 - high) * one.between
        return found

    def volts(self, spots: Sequence[Spot | None], amps: Sequence[float]) -> list[float | None]:
        """Volts at each load with all of them drawing, V; None where its rails reach no source.

        V_p = V_open,p − Σ_q Z_pq·I_q. The same law as the volts of the facts, for one state of the trains.
        """
        found: list[float | None] = [None] * len(spots)
        for part in {s.part for s in spots if s is not None}:
            mine = [k for k, s in enumerate(spots) if s is not None and s.part == part]
            here = [s for s in (spots[k] for k in mine) if s is not None]
            rows = [r for s in here for r in (s.one, s.other)]
            share = np.array([w for s in here for w in (1 - s.share, s.share)])
            drawn = np.repeat([amps[k] for k in mine], 2)
            z = self._estimated[part][np.ix_(rows, rows)]
            # What each pair of sample points loses, then the place between them by nearness.
            at_points = self._open_volts[part][rows] - z @ (share * drawn)
            given = (at_points * share).reshape(-1, 2).sum(axis=1).tolist()
            for k, s, v in zip(mine, here, given, strict=True):
                own = 2 * s.share * (1 - s.share) * s.between * amps[k]
                found[k] = v - own if v == v else None
        return found

    def short(self, track: str, at: float, volts: float, ohms: float) -> float:
        """Amps into a short between the two rails at a place, as a breaker reads them, A: V/(Z_pp + R)."""
        spot = self.spot(track, at)
        if spot is None:
            return 0.0
        loop = self.between(spot, spot) + ohms
        return volts / loop * self._share(spot, loop)

    def over_gap(self, track: str, at: float, volts: float, rails: int) -> float:
        """Amps a side through wheels over a gap between unlike power, as a breaker reads them, A.

        One rail: V/(Z_p/2 + Z_q/2 + R_w). Both at once: 2V/(Z_p + Z_q + 2·Z_pq + 2·R_w).
        """
        one, other = self.spot(track, at - GAP_SIDE_MM), self.spot(track, at + GAP_SIDE_MM)
        if one is None or other is None:
            lone = one or other
            return 0.0 if lone is None else volts / (self.between(lone, lone) + WHEEL_OHMS)
        p, q = self.between(one, one), self.between(other, other)
        both = (p + q + 2 * self.between(one, other) + 2 * WHEEL_OHMS) / 2
        loop = p / 2 + q / 2 + WHEEL_OHMS if rails == 1 else both
        return volts / loop * self._share(one, loop)

    def _share(self, spot: Spot, loop: float) -> float:
        """What a breaker reads of a square wave that rises against the wires' inductance, as a share."""
        part = self.facts.parts[spot.part]
        if not counts_inductance(self.facts.network, part.island):
            return 1.0
        wound = float(part.worked.inductance[spot.one, spot.one])
        half_bit = self.facts.layout.brief.rules.half_bit
        return float(square_wave_share(np.array([loop]), np.array([wound]), half_bit)[0])

    def limit(self, device_id: str) -> float:
        """The most a source gives, A."""
        return limit_of(self.facts.layout, device_id).amps
