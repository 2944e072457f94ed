"""What the roster teaches: amps of kinds from the engines that were measured, stops of trains from their engines."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass

from jolly_copper.core.circuits.edits import Patch
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.stock import Engine
from jolly_copper.core.layout.words import many
from jolly_copper.core.quantities import print_current

FIGURES = ("idle", "running", "stall")
SAYS = {"idle": "standing", "running": "running", "stall": "held"}


@dataclass(frozen=True)
class Taught:
    """A change of kinds and trains that follows from the roster, with what it does in sentences."""

    patch: Patch
    words: tuple[str, ...]


def taught(layout: Layout) -> Taught:
    """Kinds take the most that any measured engine of theirs draws, so that budgets and wire hold for the worst of
    them; trains stop as late as the longest stop among engines of their kinds. Nothing is taken where nothing is
    measured."""
    of: dict[str, list[Engine]] = defaultdict(list)
    for engine in layout.engines.values():
        of[engine.kind].append(engine)
    patch: Patch = []
    words: list[str] = []
    for kind_id, kind in layout.locos.items():
        changed = []
        for figure in FIGURES:
            known = [v for e in of[kind_id] if (v := getattr(e, figure)) is not None]
            now = getattr(kind, figure)
            if known and abs(max(known) - now) > 1e-9:
                patch.append({"op": "replace", "path": f"/locos/{kind_id}/{figure}", "value": max(known)})
                changed.append(f"{SAYS[figure]} {print_current(now)} → {print_current(max(known))}")
        whole = all(any(getattr(e, f) is not None for e in of[kind_id]) for f in FIGURES) and bool(of[kind_id])
        if whole and not kind.measured:
            patch.append({"op": "replace", "path": f"/locos/{kind_id}/measured", "value": True})
            changed.append("measured now")
        if changed:
            words.append(f"{kind.name}, by {many(len(of[kind_id]), 'engine')}: {', '.join(changed)}")
    for train_id, train in layout.trains.items():
        stops = [e.stops_in for kind in train.engines for e in of[kind] if e.stops_in is not None]
        if stops and max(stops) != train.stops_in:
            patch.append({"op": "add", "path": f"/trains/{train_id}/stops_in", "value": max(stops)})
            words.append(f"{train.name} stops in {max(stops):.0f} mm, as the slowest of its engines does")
    return Taught(patch, tuple(words))
