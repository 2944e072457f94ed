"""Amps asked of every source and breaker in a scene, against what it may give."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass

from jolly_copper.core.circuits.giving import gives, starts
from jolly_copper.core.circuits.loads import load_amps, train_amps
from jolly_copper.core.circuits.whereabouts import Grounds, roams, stands_on, survey
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.power_tree import SOURCES, PowerTree, grow_tree
from jolly_copper.core.layout.stock import Placement, Scene, Train
from jolly_copper.core.rails.pieces import RailMap, map_rails


@dataclass(frozen=True)
class Asked:
    """What one source or breaker may be asked for, A.

    worst: every train of the scene that may be behind it is there at once, and what always draws there. stalled: one
    engine of it stalls besides. steady: stationary decoders and other things tied to its track circuits, part of worst.
    lit: coaches and resistor axles, part of worst. inrush: for the moment power returns after a trip, all of them
    filling up at once. gives: what it may give for long, the least of label (or measured), trip and limit, and of the
    supply behind it; None where none is known. starts: the most it lets through for that moment. trains: those that may
    be behind it.
    """

    device: str
    circuit: str
    worst: float
    stalled: float
    steady: float
    lit: float
    inrush: float
    gives: float | None
    starts: float | None
    trains: tuple[str, ...]

    @property
    def head_room(self) -> float | None:
        """What is left in the worst case, A; negative where it is too much."""
        return None if self.gives is None else self.gives - self.worst

    def more_trains(self, amps: float) -> int | None:
        """How many more trains of so many amps fit."""
        room = self.head_room
        return None if room is None else max(0, math.floor(room / amps + 1e-9)) if amps > 0 else 0


def inrush_amps(layout: Layout, train: Train) -> float:
    """What a train takes for the moment power returns, A: decoders filling up, coaches and axles as ever."""
    kinds = [layout.locos[e] for e in train.engines]
    filling = sum(k.idle if k.inrush is None else k.inrush for k in kinds)
    return filling + train_amps(layout, train, running=False) - sum(k.idle for k in kinds)


def one_stalls(layout: Layout, running: Iterable[Train]) -> float:
    """What one engine of these running trains takes more when it stalls, at worst, A."""
    return max((layout.locos[e].stall - layout.locos[e].running for t in running for e in t.engines), default=0.0)


def budget(layout: Layout, scene: Scene | None, rails: RailMap | None = None) -> list[Asked]:
    """Every source and breaker with what the scene may ask of it at worst, sources first.

    A train that roams several districts counts fully in each: it can be in any of them, and the districts' sums
    therefore add up to more than the railroad's.
    """
    tree, rails = grow_tree(layout), rails or map_rails(layout)
    grounds = survey(layout, rails)
    placed = scene.placements if scene else []
    # What a train may be behind: its circuits and all that their power comes through.
    above = [{up for c in _reach(layout, tree, rails, grounds, p) for up in tree.lineage(c)} for p in placed]
    steady: dict[str, float] = defaultdict(float)
    for load in layout.loads.values():
        for circuit in tree.lineage(load.circuit):
            steady[circuit] += load_amps(load)
    found = []
    for device_id, device in layout.devices.items():
        if device.kind not in (*SOURCES, "breaker") or layout.circuits[device.output].purpose != "track":
            continue
        behind = [p for p, ups in zip(placed, above, strict=True) if device.output in ups]
        found.append(_asked(layout, device_id, behind, steady[device.output]))
    return sorted(found, key=lambda a: (layout.devices[a.device].kind not in SOURCES, layout.devices[a.device].name))


def _asked(layout: Layout, device_id: str, behind: Iterable[Placement], steady: float) -> Asked:
    device = layout.devices[device_id]
    trains = [(p.train, layout.trains[p.train], p.doing == "running") for p in behind]
    engines = sum(
        (layout.locos[e].running if running else layout.locos[e].idle) for _, t, running in trains for e in t.engines
    )
    worst = steady + sum(train_amps(layout, t, running) for _, t, running in trains)
    stall = one_stalls(layout, [t for _, t, running in trains if running])
    filling = steady + sum(inrush_amps(layout, t) for _, t, _ in trains)
    return Asked(
        device_id,
        device.output,
        worst,
        worst + stall,
        steady,
        worst - steady - engines,
        filling,
        gives(layout, device_id),
        starts(layout, device_id),
        tuple(i for i, _, _ in trains),
    )


def _reach(layout: Layout, tree: PowerTree, rails: RailMap, grounds: Grounds, placed: Placement) -> frozenset[str]:
    """The circuits a train may be on. Named circuits count even while they have no track of their own."""
    if placed.track is not None:
        here = stands_on(layout, rails, placed)
        return frozenset({here} if here else ())
    if placed.uses:
        return frozenset(roams(tree, grounds, placed))
    return frozenset(c for c in layout.circuits if tree.within(c, frozenset(placed.circuits)))
