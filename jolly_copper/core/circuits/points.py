"""Where the wheels are tried: sample points along every span of track, close enough that nothing hides between them."""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from jolly_copper.core.circuits.network import Network
from jolly_copper.core.circuits.rail_work import Span
from jolly_copper.core.materials.copper import RAIL_PAIR_HENRIES

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
SAMPLE_MM = 200.0
MOST_POINTS = 1500
"""In one connected part of the network; beyond it points stand wider. Three hundred metres at 200 mm."""


@dataclass(frozen=True)
class Points:
    """Sample points, one row each, in order along each track.

    span: number in `network.spans`. at: mm from the track's A end. share: 0 to 1, how far along the span's
    resistance. nodes: (N, 4) numbers of left start, left end, right start, right end.
    ohms, henries: of one rail over the whole span (H: this rail's half of the pair).
    """

    span: Ints
    at: Floats
    share: Floats
    nodes: Ints
    ohms: Floats
    henries: Floats

    def __len__(self) -> int:
        return len(self.at)

    def take(self, rows: Ints) -> Points:
        """Only these rows."""
        return Points(
            self.span[rows],
            self.at[rows],
            self.share[rows],
            self.nodes[rows],
            self.ohms[rows],
            self.henries[rows],
        )


def sample(network: Network, every: float = SAMPLE_MM, most: int = MOST_POINTS) -> Points:
    """Sample points over all track: span ends, both sides of every joiner, and no more than `every` mm between.

    Where that would be over `most` points in one connected part of the network, they stand wider there, at even steps
    and at the end of every span, with the joiners between counted in: as many as it takes, so that time and memory do
    not grow with the square of the track.
    """
    close = [_close(span, every) for span in network.spans]
    parts = [int(network.part_of_node[s.left[0]]) for s in network.spans]
    counts, lengths = np.zeros(max(parts, default=-1) + 1), np.zeros(max(parts, default=-1) + 1)
    for span, part, marks in zip(network.spans, parts, close, strict=True):
        counts[part] += len(marks)
        lengths[part] += span.end - span.start
    span_of: list[int] = []
    at: list[float] = []
    share: list[float] = []
    for number, (span, part) in enumerate(zip(network.spans, parts, strict=True)):
        wide = counts[part] > most
        for place, reached in _wide(span, lengths[part] / most, _first(network, number)) if wide else close[number]:
            span_of.append(number)
            at.append(place)
            share.append(min(reached, 1.0))
    spans = np.array(span_of, dtype=np.int64)
    nodes = np.array([[*s.left, *s.right] for s in network.spans], dtype=np.int64).reshape(-1, 4)
    ohms = np.array([s.ohms for s in network.spans])
    henries = np.array([_span_henries(network, n) for n in range(len(network.spans))])
    return Points(spans, np.array(at), np.array(share), nodes[spans], ohms[spans], henries[spans])


Marks = tuple[tuple[float, float], ...]
FEW = 32
"""Joiners, or steps, of a span whose places are kept: a change leaves most spans as they were."""
KEPT = 2048


def _close(span: Span, every: float) -> Marks:
    """Places in a span, mm, and how far along its resistance: ends, both sides of joiners, no more than `every`
    between."""
    few = len(span.joiners) < FEW and span.end - span.start < FEW * every
    work = _kept_marks if few else _marks
    return work(span.start, span.end, span.joiners, span.joiner, span.per_mm, every)


def _marks(start: float, end: float, joiners: tuple[float, ...], joiner: float, per_mm: float, every: float) -> Marks:
    total = per_mm * (end - start) + joiner * len(joiners)
    marks = [(start, 0.0)]
    edges = [start, *joiners, end]
    jump = joiner / total if total else 0.0
    slope = per_mm / total if total else 0.0
    reached = 0.0
    for k, (a, b) in enumerate(itertools.pairwise(edges)):
        if k:  # step over the joiner: the same place, the other side of it
            reached += jump
            marks.append((a, reached))
        steps = max(1, math.ceil((b - a) / every - 1e-9))
        for s in range(1, steps + 1):
            marks.append((a + (b - a) * s / steps, reached + slope * (b - a) * s / steps))
        reached += slope * (b - a)
    return tuple(marks)


_kept_marks = lru_cache(maxsize=KEPT)(_marks)


def _wide(span: Span, every: float, first: bool) -> list[tuple[float, float]]:
    """The same at even steps, without its start where the one before it ends there."""
    total, length = span.ohms, span.end - span.start
    steps = max(1, int(length / every))
    places = [span.start + length * s / steps for s in range(0 if first else 1, steps)]
    return [*((p, span.ohms_to(p) / total if total else 0.0) for p in places), (span.end, 1.0)]


def _first(network: Network, number: int) -> bool:
    """Whether a span begins where no other of its track ends: at a gap, or at the end of the track."""
    span = network.spans[number]
    before = network.spans[number - 1] if number else None
    if before is not None and before.track == span.track and before.left[1] == span.left[0]:
        return False
    if span.start > 0:
        return True
    port = network.layout.tracks[span.track].a
    return network.layout.nodes[port.node].kind != "joint"


def _span_henries(network: Network, number: int) -> float:
    span = network.spans[number]
    return RAIL_PAIR_HENRIES / 2000 * (span.end - span.start)


def one_point(network: Network, track: str, at: float) -> Points:
    """The single point at this distance from a track's A end (on the A side of a joiner that lies right there)."""
    piece = network.rails.piece_at(track, at)
    ours = network.spans_on[track]
    here = [n for n in ours if network.spans[n].piece == piece] or ours
    best = min(here, key=lambda n: max(network.spans[n].start - at, at - network.spans[n].end, 0.0))
    span = network.spans[best]
    held = min(max(at, span.start), span.end)
    share = span.ohms_to(held) / span.ohms if span.ohms else 0.0
    return Points(
        np.array([best]),
        np.array([held]),
        np.array([share]),
        np.array([[*span.left, *span.right]]),
        np.array([span.ohms]),
        np.array([_span_henries(network, best)]),
    )
