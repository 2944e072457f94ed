"""A first plan from a scene: every train put where it fits, those that run free, those that idle parked."""

from __future__ import annotations

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.plans import PlannedTrain, RunningPlan
from jolly_copper.core.layout.stock import Placement
from jolly_copper.core.rehearsal.evening import Evening, new_evening
from jolly_copper.core.rehearsal.ground import End, Place, Segment
from jolly_copper.core.rehearsal.legs import BEFORE_HEAD_MM, free_legs
from jolly_copper.core.rehearsal.rolling import Rolling
from jolly_copper.core.rehearsal.roving import may_go
from jolly_copper.core.rehearsal.stock import stock_of
from jolly_copper.core.rehearsal.under import under_place

ENDS: tuple[End, End] = ("b", "a")


def plan_from_scene(layout: Layout, facts: Facts, scene: str, name: str | None = None) -> tuple[RunningPlan, list[str]]:
    """A plan that puts the trains of a scene on the track.

    Args:
        layout, facts: of the railroad. scene: its id. name: of the plan; the scene's when not given.

    Returns:
        The plan, and the names of trains that found no room.
    """
    said = layout.scenes[scene]
    empty = RunningPlan(name=name or said.name, scene=scene)
    evening = new_evening(layout, facts, empty, 0)
    taken: dict[str, list[tuple[float, float]]] = {}
    held = 0
    trains: dict[str, PlannedTrain] = {}
    homeless: list[str] = []
    # The longest first: they have the fewest places.
    for placed in sorted(said.placements, key=lambda p: -layout.trains[p.train].length):
        # A stretch to itself, or else only rails that nobody stands on.
        found = _put(evening, placed, taken, held) or _put(evening, placed, taken, 0)
        if found is None:
            homeless.append(layout.trains[placed.train].name)
            continue
        trains[placed.train], under = found
        for segment in under:
            held |= evening.ground.extent_mask[evening.ground.extent[segment.piece]]
            taken.setdefault(segment.track, []).append(_span(segment))
    order = [p.train for p in said.placements if p.train in trains]
    return empty.model_copy(update={"trains": {k: trains[k] for k in order}}), homeless


def _span(segment: Segment) -> tuple[float, float]:
    low = segment.at if segment.towards == "b" else segment.at - segment.length
    return low - BEFORE_HEAD_MM, low + segment.length + BEFORE_HEAD_MM


def _free(under: list[Segment], taken: dict[str, list[tuple[float, float]]]) -> bool:
    """Whether nobody stands on any of these rails."""
    return not any(
        max(low, _span(s)[0]) < min(high, _span(s)[1]) for s in under for low, high in taken.get(s.track, ())
    )


def _put(
    evening: Evening, placed: Placement, taken: dict[str, list[tuple[float, float]]], held: int
) -> tuple[PlannedTrain, list[Segment]] | None:
    """A place for one train that nobody has, from which it may go somewhere."""
    layout, ground = evening.layout, evening.ground
    runs = placed.doing == "running" and placed.track is None
    best: tuple[float, PlannedTrain, list[Segment]] | None = None
    train = layout.trains[placed.train]
    for track in layout.tracks if placed.track is None else [placed.track]:
        for towards in ENDS:
            if layout.tracks[track].runs == ("backward" if towards == "b" else "forward"):
                continue
            for at in _marks(evening, track, towards, placed.at):
                place = Place(track, at, towards)
                under = under_place(evening.ground, place, train.length)
                if under is None or not _may_stand(evening, placed, [s.track for s in under], [s.piece for s in under]):
                    continue
                if any(held >> s.piece & 1 for s in under) or not _free(under, taken):
                    continue
                planned = PlannedTrain(
                    train=placed.train,
                    track=track,
                    at=round(at, 1),
                    towards=towards,
                    by="free" if runs else "parked",
                    circuits=placed.circuits if placed.track is None else [],
                    uses=placed.uses if placed.track is None else [],
                )
                # One long track rather than several short ones: throats are for passing through.
                cost = 10.0 * len(under) - evening.facts.rails.lengths[track] / 1000
                if runs:
                    rolling = Rolling(placed.train, planned, stock_of(layout, placed.train), segments=under)
                    onward = [x for x in free_legs(ground, place) if may_go(evening, rolling, x)]
                    cost += 0 if onward else 100
                if best is None or cost < best[0]:
                    best = (cost, planned, under)
    return None if best is None else (best[1], best[2])


def _marks(evening: Evening, track: str, towards: End, at: float | None) -> list[float]:
    """Where on a track a train may begin: before its heads, else before its end."""
    if at is not None:
        return [at]
    heads = [m for m, _ in evening.ground.heads.get((track, towards), ())]
    length = evening.facts.rails.lengths[track]
    found = [m - BEFORE_HEAD_MM if towards == "b" else m + BEFORE_HEAD_MM for m in heads]
    if not heads:
        found = [length - BEFORE_HEAD_MM * 10 if towards == "b" else BEFORE_HEAD_MM * 10, length / 2]
    return [m for m in found if 0 <= m <= length]


def _may_stand(evening: Evening, placed: Placement, tracks: list[str], pieces: list[int]) -> bool:
    """Whether all a train would stand on is where its scene has it."""
    if placed.track is not None:
        return True
    layout = evening.layout
    if placed.uses and any(layout.tracks[t].use not in placed.uses for t in tracks):
        return False
    named = frozenset(placed.circuits)
    meant = [evening.facts.meant[evening.ground.extent[p]] for p in pieces]
    return not named or all(c is not None and evening.facts.tree.within(c, named) for c in meant)
