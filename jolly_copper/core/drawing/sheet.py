"""The sheet an act of drawing works on: a layout's plain data, with what every act needs to keep it sound."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import Any

from jolly_copper.core.layout.changes import difference
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.fields import Bend
from jolly_copper.core.layout.geometry import Polyline, draw
from jolly_copper.core.layout.ids import next_number
from jolly_copper.core.layout.reading import MEASURED_IN, read_layout

ON_TRACK = ("gaps", "sections", "feeders", "signals", "measured", "braking", "isolated")
"""Things that stand on a track at a distance from its A end."""
LEAST_STRETCH_MM = 10.0
OTHER_SIDE = {"left": "right", "right": "left", "outer left": "outer right", "outer right": "outer left"}
"""A rail as it is called when its track is seen from the other end."""
SIDED = {"gaps": "rails", "feeders": "a_rail", "measured": "side", "braking": "rail", "isolated": "outer"}
"""The field of what stands on a track that names a rail."""


class DrawingError(ValueError):
    """An act that cannot be done, in a plain sentence."""


class Sheet:
    """A layout's plain data while it is drawn on. Nothing is saved; `patch` is what changed."""

    def __init__(self, layout: Layout) -> None:
        self._before: dict[str, Any] = layout.model_dump(mode="json")
        self.data: dict[str, Any] = layout.model_dump(mode="json")
        self._given: dict[tuple[str, str], tuple[int, int]] = {}
        self._names: set[str] | None = None
        self._counted: dict[str, int] = {}
        self._drawn: dict[tuple[tuple[float, float, float | None], ...], Polyline] = {}

    def __getitem__(self, kind: str) -> dict[str, Any]:
        return self.data[kind]  # type: ignore[no-any-return]

    def patch(self) -> list[dict[str, Any]]:
        """What changed, as a JSON Patch. The result is read strictly first."""
        self.layout()
        return difference(self._before, self.data)

    def layout(self) -> Layout:
        """The layout as it stands on the sheet.

        Raises:
            LayoutError: it cannot be read.
        """
        for i, part in list(self["measured"].items()):
            if part["of"] is not None and not any(part["of"] in self[k] for k in MEASURED_IN[part["what"]]):
                del self["measured"][i]  # its thing is gone, and the reading with it
        self._fit_stretches()
        return read_layout(self.data)

    def _fit_stretches(self) -> None:
        """Stretches of one rail that reach past the end of a track that was cut or reshaped end with it."""
        for kind in ("braking", "isolated"):
            for i, stretch in list(self[kind].items()):
                if stretch["track"] not in self["tracks"]:
                    continue
                room = self.length(stretch["track"]) - stretch["at"]
                if room < LEAST_STRETCH_MM:
                    del self[kind][i]
                elif stretch["length"] > room:
                    stretch["length"] = round(room - 0.05, 1)

    def free(self, kind: str, prefix: str) -> str:
        """The next free id with this prefix and a number.

        Looked for among all only when more than the last one given has changed: thousands of lines are taken in at
        once.
        """
        count, number = self._given.get((kind, prefix), (-1, 0))
        things = self[kind]
        there = f"{prefix}{number}" in things
        if len(things) in (count, count + 1) and there:
            number += 1  # it was put there, and at most one other thing went
        elif len(things) != count:
            number = next_number(things, prefix)
        self._given[kind, prefix] = (len(things), number)
        return f"{prefix}{number}"

    def free_name(self, base: str, prefix: str, first: int) -> str:
        """A name no track has: a prefix and the next number. One line may be cut thousands of times."""
        if self._names is None:
            self._names = {t["name"] for t in self["tracks"].values()}
        number = self._counted.get(base, first)
        while f"{prefix}{number}" in self._names:
            number += 1
        self._counted[base] = number + 1
        self._names.add(f"{prefix}{number}")
        return f"{prefix}{number}"

    def add(self, kind: str, prefix: str, value: dict[str, Any]) -> str:
        """Add a thing under the next free id."""
        i = self.free(kind, prefix)
        self[kind][i] = value
        return i

    def thing(self, kind: str, i: str) -> dict[str, Any]:
        """A thing by id.

        Raises:
            DrawingError: there is none.
        """
        if i not in self[kind]:
            raise DrawingError(
                f"There is no {kind.removesuffix('es') if kind.endswith('ches') else kind.removesuffix('s')} {i}; "
                f"somebody may have removed it."
            )
        return self[kind][i]  # type: ignore[no-any-return]

    # --- tracks

    def line(self, track: str) -> Polyline:
        """A track as drawn."""
        key = tuple((v["x"], v["y"], v.get("radius")) for v in self.thing("tracks", track)["path"])
        if key not in self._drawn:
            self._drawn[key] = draw([Bend(x=x, y=y, radius=r) for x, y, r in key])
        return self._drawn[key]

    def length(self, track: str) -> float:
        """A track's length, mm: by tape when measured."""
        return self["tracks"][track].get("tape") or self.line(track).length

    def ends_at(self, node: str) -> list[tuple[str, str]]:
        """The track ends at a node: (track, "a" or "b"), in order of track id."""
        return sorted((i, e) for i, t in self["tracks"].items() for e in ("a", "b") if t[e]["node"] == node)

    def outward(self, track: str, end: str) -> tuple[float, float]:
        """The direction a track leaves its node in, as a unit vector."""
        path = self["tracks"][track]["path"]
        one, other = (path[0], path[1]) if end == "a" else (path[-1], path[-2])
        return unit(other["x"] - one["x"], other["y"] - one["y"])

    def things_on(self, track: str) -> Iterator[tuple[str, str, dict[str, Any]]]:
        """What stands on a track: (kind, id, thing)."""
        for kind in ON_TRACK:
            for i, thing in self[kind].items():
                if thing.get("track") == track:
                    yield kind, i, thing

    def standing(self, track: str) -> Iterator[dict[str, Any]]:
        """Trains of scenes that stand on a track."""
        for scene in self["scenes"].values():
            yield from (p for p in scene["placements"] if p.get("track") == track)

    def rescale(self, track: str, before: float) -> None:
        """Keep what stands on a track in proportion after its length changed."""
        after = self.length(track)
        if before <= 0 or abs(after - before) < 1e-6:
            return
        for thing in [*(t for _, _, t in self.things_on(track)), *self.standing(track)]:
            thing["at"] = round(min((thing["at"] or 0) * after / before, after), 1)

    def shape(self, track: str, path: list[dict[str, Any]]) -> None:
        """Give a track a new path."""
        before = self.length(track)
        self["tracks"][track]["path"] = path
        if self.line(track).length < 1:
            raise DrawingError("That would leave a track without length.")
        self.rescale(track, before)

    # --- runs

    def reshape_run(self, run: str, path: list[dict[str, Any]]) -> None:
        """Give a run a new path, keeping what hangs on it in proportion."""
        value = self.thing("runs", run)
        before = value.get("tape") or draw([Bend(**v) for v in value["path"]]).length
        value["path"] = path
        after = value.get("tape") or draw([Bend(**v) for v in path]).length
        if after < 1:
            raise DrawingError("That would leave a run without length.")
        for thing in [*self["terminals"].values(), *self["plugs"].values()]:
            if thing["run"] == run:
                thing["along"] = round(min(thing["along"] * after / before, after), 1)
        value["fed"]["along"] = round(min(value["fed"]["along"] * after / before, after), 1)


def unit(x: float, y: float) -> tuple[float, float]:
    """A vector of length one this way; east where it has no length."""
    length = math.hypot(x, y)
    return (x / length, y / length) if length > 1e-9 else (1.0, 0.0)


def bend(x: float, y: float, radius: float | None = None) -> dict[str, Any]:
    """A path vertex, rounded to a hundredth of a millimetre."""
    return {"x": round(x, 2), "y": round(y, 2), "radius": None if radius is None else round(radius, 2)}


def new_node(kind: str, x: float, y: float, **more: Any) -> dict[str, Any]:
    """A node of the document with its usual settings."""
    return {
        "kind": kind,
        "at": {"x": round(x, 2), "y": round(y, 2)},
        "name": None,
        "hand": None,
        "frog": "live",
        "lies": "through",
        "contact": "contact",
        "frog_length": None,
        "diameter": None,
        "angle": 0,
        "bridge": "split ring",
        "points_at": None,
        **more,
    }
