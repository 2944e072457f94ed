"""Layouts saved by earlier versions: what they let stand otherwise is set right as it is read, and told."""

from __future__ import annotations

import copy
from typing import Any

from pydantic import ValidationError

from jolly_copper.core.layout.bounds import FARTHEST_MM, LEAST_JOINER_SPACING_MM
from jolly_copper.core.layout.checking import Problem
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.reading import LayoutError, read_layout

OLD_ARCS = 0.05
"""The first version drew arcs that share a leg wider: its runs came out up to so much longer. 1.6 % on its demo."""


def read_saved(data: Any) -> Layout:
    """Read a layout from a layout file or club file of any version; see `read_saved_told`."""
    return read_saved_told(data)[0]


def read_saved_told(data: Any) -> tuple[Layout, tuple[str, ...]]:
    """Read a layout from a layout file or club file of any version, and tell what was set right.

    What stands a little beyond the end of its run, as the first version drew that, stands at its end. Places farther
    than a plan reaches stand at its edge, and joiners closer than there is track for are as close as there is. What no
    version ever wrote is refused as by `read_layout`.

    Args:
        data: a mapping with the fields of `Layout`, as parsed from JSON; it is left as it is.

    Returns:
        The layout, and a sentence for each thing that was set right.

    Raises:
        LayoutError: with one `Problem` for each thing that is wrong.
    """
    mended, told = data, list[str]()
    for _ in range(3):  # fields first, then sizes, then what stands on what
        try:
            return read_layout(mended), tuple(told)
        except LayoutError as refused:
            try:
                mended = _set_right(mended, refused.problems, told)
            except (ValidationError, LookupError, TypeError):
                raise refused from None
            if mended is None:
                raise
    return read_layout(mended), tuple(told)


def _set_right(data: Any, problems: list[Problem], told: list[str]) -> Any:
    """The same with every problem mended; None where one of them cannot be."""
    mended = copy.deepcopy(data)
    layout: Layout | None = None
    for problem in problems:
        if "/" not in problem.path:
            return None  # it is no layout at all
        *way, field = problem.path.split("/")[1:]
        thing = mended
        for step in way:
            thing = thing[int(step)] if isinstance(thing, list) else thing[step]
        if field in ("x", "y") and "1 km" in problem.sentence:
            thing[field] = FARTHEST_MM if thing[field] > 0 else -FARTHEST_MM
            told.append(f"{'/'.join(way)} stood more than 1 km away; it stands at 1 km now.")
        elif field == "joiner_every" and isinstance(thing[field], float | int) and thing[field] > 0:
            thing[field] = LEAST_JOINER_SPACING_MM
            told.append(f"Joiners of track {way[-1]} were closer than there is track for; every 20 mm now.")
        elif field == "along" and len(way) == 2 and way[0] in ("terminals", "plugs"):
            layout = layout or Layout.model_validate(data)
            run = layout.runs[thing["run"]]
            length = run.tape or run.line.length
            if thing[field] > length * (1 + OLD_ARCS):
                return None
            thing[field] = length
            told.append(
                f"{way[0].removesuffix('s').title()} {way[1]} stood just past the end of its run; at its end now."
            )
        else:
            return None
    return mended
