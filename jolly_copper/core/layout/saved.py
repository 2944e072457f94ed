"""Layouts saved by earlier versions: what they let stand otherwise is set right as it is read."""

from __future__ import annotations

from typing import Any

from pydantic import ValidationError

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.geometry import draw
from jolly_copper.core.layout.reading import SLOP_MM, read_layout

OLD_ARCS = 0.05
"""The first version drew arcs that share a leg wider: its runs came out up to so much longer. Compared on its demo: 1.6 %."""


def read_saved(data: Any) -> Layout:
    """Read a layout from a layout file or club file of any version.

    What stands a little beyond the end of its run, as the first version drew that, stands at its end. What no version
    ever wrote is refused as by `read_layout`.

    Args:
        data: a mapping with the fields of `Layout`, as parsed from JSON.

    Raises:
        LayoutError: with one `Problem` for each thing that is wrong.
    """
    try:
        layout = Layout.model_validate(data)
    except ValidationError:
        return read_layout(data)  # which says it in words
    lengths = {i: r.tape if r.tape else draw(r.path).length for i, r in layout.runs.items()}

    moved = {
        kind: {
            i: {**data[kind][i], "along": lengths[thing.run]}
            for i, thing in getattr(layout, kind).items()
            if _beyond(thing.along, lengths.get(thing.run))
        }
        for kind in ("terminals", "plugs")
    }
    return read_layout({**data, **{kind: {**data[kind], **things} for kind, things in moved.items() if things}})


def _beyond(along: float, length: float | None) -> bool:
    return length is not None and length + SLOP_MM < along <= length * (1 + OLD_ARCS)
