"""The tightest curve a layout allows itself."""

from __future__ import annotations

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.materials.rail import SMALLEST_RADIUS_MM


def smallest_radius(layout: Layout) -> float:
    """Smallest radius of curves, mm: the house rule's, or where it is 0 the scale's usual one."""
    return layout.brief.rules.shortest_radius or SMALLEST_RADIUS_MM[layout.brief.scale]
