"""What the charts that go from club to club say of wire, to stand beside what was worked out.

Charts go by scale and length alone, in bands; they know nothing of trains, trips or contacts. Common practice, no
source (certainty C).
"""

from __future__ import annotations

from typing import Literal

SHORT_RUN_MM, LONG_RUN_MM, SHORT_FEEDER_MM = 6096.0, 9144.0, 304.8
"""20 ft and 30 ft of bus; a foot of feeder."""
SMALL, LARGE = frozenset({"Z", "N"}), frozenset({"O", "G"})
GaugeOfCharts = Literal["light", "middle", "heavy"]
BUS: dict[GaugeOfCharts, tuple[str, str]] = {
    "light": ("16 AWG", "1.5 mm²"),
    "middle": ("14 AWG", "1.5 to 2.5 mm²"),
    "heavy": ("12 AWG", "2.5 to 4 mm²"),
}
"""By gauge and by area."""


def chart_bus(scale: str, length: float, metric: bool) -> str:
    """The gauge a usual chart has for a bus.

    Args:
        scale: of the layout, such as `N`, `HO` or `O`.
        length: mm of bus from its source to its far end.
        metric: areas instead of gauges.

    >>> chart_bus("HO", 8000, metric=False), chart_bus("HO", 12000, metric=False), chart_bus("N", 4000, metric=True)
    ('14 AWG', '12 AWG', '1.5 mm²')
    """
    if scale in LARGE or length > LONG_RUN_MM:
        band: GaugeOfCharts = "heavy"
    elif scale in SMALL and length <= SHORT_RUN_MM:
        band = "light"
    else:
        band = "middle"
    return BUS[band][metric]


def chart_feeder(length: float, metric: bool) -> str:
    """The gauge a usual chart has for a feeder so many mm long.

    >>> chart_feeder(200, metric=False), chart_feeder(600, metric=False)
    ('20 to 22 AWG', '18 AWG')
    """
    if length <= SHORT_FEEDER_MM:
        return "0.35 to 0.5 mm²" if metric else "20 to 22 AWG"
    return "0.75 mm²" if metric else "18 AWG"
