"""How large a layout may be, in words: what is saved must compute, on a club's own machine, while others wait.

A garden railroad of a kilometre, ten times the largest club's number of tracks and a hundred trains fit well inside.
"""

from __future__ import annotations

from collections.abc import Iterator

FARTHEST_MM = 1e6
"""From the origin each way, mm: 1 km."""
LEAST_JOINER_SPACING_MM = 20.0
"""Shorter than the shortest piece of sectional track on the market. From memory."""
MOST_JOINERS = 30_000
MOST_TRACK_MM = 2e7
MOST_BENDS = 60_000
LARGEST_DOCUMENT = 8_000_000
"""Bytes of JSON."""
MOST_OPERATIONS = 20_000
MOST_OF_A_KIND = {
    "tracks": 6_000,
    "nodes": 8_000,
    "feeders": 8_000,
    "runs": 2_000,
    "terminals": 8_000,
    "gaps": 8_000,
    "sections": 4_000,
    "circuits": 1_000,
    "devices": 1_000,
    "boards": 500,
    "obstacles": 1_000,
    "plugs": 4_000,
    "measured": 20_000,
    "loads": 2_000,
    "signals": 2_000,
    "detectors": 500,
    "drivers": 500,
    "blocks": 4_000,
    "locos": 1_000,
    "engines": 2_000,
    "trains": 1_000,
    "scenes": 200,
    "plans": 100,
    "panels": 100,
    "supplies": 500,
    "braking": 500,
    "isolated": 500,
    "connectors": 100,
    "couplings": 2_000,
    "dates": 1_000,
    "spools": 1_000,
    "prices": 2_000,
    "accepted": 5_000,
}


def counted(sizes: dict[str, int]) -> Iterator[tuple[str, str]]:
    """For each kind of thing of which there are too many: its path and a sentence.

    Args:
        sizes: how many there are of each kind.
    """
    for kind, most in MOST_OF_A_KIND.items():
        if sizes.get(kind, 0) > most:
            yield f"/{kind}", f"A layout holds {most} {kind} at most; this one has {sizes[kind]}. Part it in two."


def joiners_of(length: float, every: float | None) -> float:
    """How many joiners a track of a length has, mm.

    >>> joiners_of(10_000, 1000)
    10.0
    """
    return length / every if every else 0.0
