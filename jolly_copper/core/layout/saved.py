"""Layouts saved by earlier versions: what they let stand otherwise is set right as it is read."""

from __future__ import annotations

import copy
from typing import Any

from pydantic import ValidationError

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.geometry import draw
from jolly_copper.core.layout.reading import LayoutError, read_layout

OLD_ARCS = 0.05
"""The first version drew arcs that share a leg wider: its runs came out up to so much longer. 1.6 % on its demo."""


def read_saved(data: Any) -> Layout:
    """Read a layout from a layout file or club file of any version.

    What stands a little beyond the end of its run, as the first version drew that, stands at its end. What no version
    ever wrote is refused as by `read_layout`.

    Args:
        data: a mapping with the fields of `Layout`, as parsed from JSON; it is left as it is.

    Raises:
        LayoutError: with one `Problem` for each thing that is wrong.
    """
    try:
        return read_layout(data)
    except LayoutError as refused:
        beyond = [p.path.split("/") for p in refused.problems]
        if not all(len(p) == 4 and p[1] in ("terminals", "plugs") and p[3] == "along" for p in beyond):
            raise
        try:
            return read_layout(_pulled_in(data, [(kind, thing) for _, kind, thing, _ in beyond]))
        except ValidationError:  # no distance at all
            raise refused from None


def _pulled_in(data: Any, things: list[tuple[str, str]]) -> Any:
    """The same with these terminals and plugs at the end of their run, where they stand only a little beyond it."""
    mended, layout = copy.deepcopy(data), Layout.model_validate(data)
    for kind, i in things:
        thing = getattr(layout, kind)[i]
        run = layout.runs[thing.run]
        length = run.tape or draw(run.path).length
        if thing.along <= length * (1 + OLD_ARCS):
            mended[kind][i]["along"] = length
    return mended
