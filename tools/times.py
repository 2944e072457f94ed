"""How benches tell the times of something done again and again."""

from __future__ import annotations

import statistics

from tools.soak.found import slowest


def tell_times(name: str, seconds: list[float]) -> None:
    """Print the median and what 95 % stay under, in ms."""
    median, late = statistics.median(seconds), slowest(seconds, 0.95)
    print(f"{name:36} median {1e3 * median:5.0f} ms   95 % {1e3 * late:5.0f} ms", flush=True)
