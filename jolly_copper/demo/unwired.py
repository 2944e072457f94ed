"""The demo railroad with its track, districts and boosters, but no wire below: for trying Lay it, Size it and the
book."""

from __future__ import annotations

from functools import lru_cache

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.reading import read_layout
from jolly_copper.demo.drafting import stripped
from jolly_copper.demo.gannet_bay import gannet_bay

NO_WIRE = ("runs", "terminals", "plugs", "feeders")


@lru_cache
def unwired_bay() -> Layout:
    """Gannet Bay before anyone crept below it. Loads are counted, not tied yet."""
    data = stripped(gannet_bay()).model_dump(mode="json")
    for kind in NO_WIRE:
        data[kind] = {}
    for load in data["loads"].values():
        load["terminal"] = None
    data["boards"]["board7"]["removable"] = True
    data["name"] = "Gannet Bay, unwired"
    data["notes"] = (
        "The demo railroad divided into districts, with nothing wired yet. Boards 6 and 7 both lift out: one plug for "
        "each pair at the joint between them. Step Wire, Lay it."
    )
    return read_layout(data)
