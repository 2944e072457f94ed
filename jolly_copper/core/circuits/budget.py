"""Amps asked of every source and breaker in a scene, against what it may give."""

from __future__ import annotations

import math
from dataclasses import dataclass

from jolly_copper.core.circuits.loads import train_amps
from jolly_copper.core.layout.document import Layout, Placement, Scene
from jolly_copper.core.layout.power_tree import SOURCES, PowerTree, grow_tree
from jolly_copper.core.rails.pieces import RailMap, map_rails


@dataclass(frozen=True)
class Asked:
    """What one source or breaker may be asked for, A.

    worst: every train of the scene that may be behind it is there at once. stalled: one engine of it stalls besides.
    gives: what it may give for long, the smaller of label (or measured) and trip; None where neither is known.
    trains: those that may be behind it.
    """

    device: str
    circuit: str
    worst: float
    stalled: float
    gives: float | None
    trains: tuple[str, ...]

    @property
    def head_room(self) -> float | None:
        """What is left in the worst case, A; negative where it is too much."""
        return None if self.gives is None else self.gives - self.worst

    def more_trains(self, amps: float) -> int | None:
        """How many more trains of so many amps fit."""
        room = self.head_room
        return None if room is None else max(0, math.floor(room / amps + 1e-9)) if amps > 0 else 0


def budget(layout: Layout, scene: Scene | None) -> list[Asked]:
    """Every source and breaker with what the scene may ask of it at worst, sources first.

    A train that roams several districts counts fully in each: it can be in any of them, and the districts' sums
    therefore add up to more than the railroad's.
    """
    tree, rails = grow_tree(layout), map_rails(layout)
    found = []
    for device_id, device in layout.devices.items():
        if device.kind not in (*SOURCES, "breaker"):
            continue
        behind = [p for p in (scene.placements if scene else []) if _may_be(layout, tree, rails, p, device.output)]
        trains = [(p.train, layout.trains[p.train], p.doing == "running") for p in behind]
        worst = sum(train_amps(layout, t, running) for _, t, running in trains)
        stall = max(
            (layout.locos[e].stall - layout.locos[e].running for _, t, running in trains if running for e in t.engines),
            default=0.0,
        )
        rated = device.measured_amps or device.label_amps
        limits = [a for a in (rated, device.trip_amps) if a is not None]
        found.append(
            Asked(
                device_id,
                device.output,
                worst,
                worst + stall,
                min(limits, default=None),
                tuple(i for i, _, _ in trains),
            )
        )
    return sorted(found, key=lambda a: (layout.devices[a.device].kind not in SOURCES, layout.devices[a.device].name))


def _may_be(layout: Layout, tree: PowerTree, rails: RailMap, placed: Placement, output: str) -> bool:
    """Whether a train may stand on track behind a device that feeds this circuit."""
    below = frozenset({output})
    if placed.track is not None:
        section = rails.section_at(placed.track, placed.at or 0.0)
        return section is not None and tree.within(layout.sections[section].circuit, below)
    named = frozenset(placed.circuits)
    return any(tree.within(c, below) for c in named) or tree.within(output, named)
