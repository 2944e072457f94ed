"""Where the wheels are tried: sample points along every span of track, close enough that nothing hides between them."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from jolly_copper.core.circuits.network import Network
from jolly_copper.core.materials.copper import RAIL_PAIR_HENRIES

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
SAMPLE_MM = 200.0


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


def sample(network: Network, every: float = SAMPLE_MM) -> Points:
    """Sample points over all track: span ends, both sides of every joiner, and no more than `every` mm between."""
    span_of: list[int] = []
    at: list[float] = []
    share: list[float] = []
    for number, span in enumerate(network.spans):
        total = span.ohms
        marks = [(span.start, span.start, 0.0)]
        edges = [span.start, *span.joiners, span.end]
        jump = span.joiner / total if total else 0.0
        slope = span.per_mm / total if total else 0.0
        reached = 0.0
        for k in range(len(edges) - 1):
            a, b = edges[k], edges[k + 1]
            if k:  # step over the joiner: the same place, the other side of it
                reached += jump
                marks.append((a, a, reached))
            steps = max(1, math.ceil((b - a) / every - 1e-9))
            for s in range(1, steps + 1):
                marks.append((a, a + (b - a) * s / steps, reached + slope * (b - a) * s / steps))
            reached += slope * (b - a)
        for _, place, part in marks:
            span_of.append(number)
            at.append(place)
            share.append(min(part, 1.0))
    spans = np.array(span_of, dtype=np.int64)
    nodes = np.array([[*s.left, *s.right] for s in network.spans], dtype=np.int64).reshape(-1, 4)
    ohms = np.array([s.ohms for s in network.spans])
    henries = np.array([_span_henries(network, n) for n in range(len(network.spans))])
    return Points(spans, np.array(at), np.array(share), nodes[spans], ohms[spans], henries[spans])


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
