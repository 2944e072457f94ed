"""The power tree as a one-line diagram reads it: every device with amps, head-room, trips, and what goes dark with it."""

from __future__ import annotations

from fastapi import APIRouter
from pydantic import BaseModel

from jolly_copper.api.used import Scene, StoreUsed, WorkedUsed, known_scene
from jolly_copper.core.circuits.budget import budget
from jolly_copper.core.circuits.protection import coordination, goes_dark, in_order, weakest_shorts
from jolly_copper.core.quantities import print_current, print_long_length

router = APIRouter(prefix="/api")


class Step(BaseModel):
    """One device on the one-line diagram. `above`: the device that feeds it."""

    device: str
    name: str
    kind: str
    above: str | None
    circuit: str
    circuit_name: str
    colours: list[str]
    ink: str
    asked_text: str | None
    gives_text: str | None
    share: float | None
    """Amps asked at worst over amps given."""
    trip_text: str | None
    weakest_text: str | None
    """The weakest short among the rails it protects, against its trip."""
    sure: bool | None
    dark_text: str
    sections: list[str]
    late: bool


class ZonesShape(BaseModel):
    steps: list[Step]
    balance_text: str


@router.get("/layouts/{layout_id}/zones")
def zones(
    layout_id: str, store: StoreUsed, worked: WorkedUsed, scene: Scene = None, revision: int | None = None
) -> ZonesShape:
    """Every device from source to reverser, in the order a diagram draws them."""
    found = store.get(layout_id, revision)
    facts = worked.facts(found, known_scene(found, scene))
    layout = facts.layout
    chosen = layout.scenes.get(facts.scene) if facts.scene else None
    asked = {a.device: a for a in budget(layout, chosen)}
    late = {p.below for p in coordination(layout) if p.in_time is False or p.in_current is False}
    weakest = weakest_shorts(facts)
    feeds = {d.output: i for i, d in layout.devices.items()}
    steps = []
    for i in in_order(facts.layout):
        device, circuit = layout.devices[i], layout.circuits[layout.devices[i].output]
        mine, dark = asked.get(i), goes_dark(layout, facts.rails, i)
        weak = weakest.get(i)
        trip = f"{device.trip_amps:g} A" if device.trip_amps else None
        if trip and device.trip_seconds:
            trip += f", {device.trip_seconds * 1000:.0f} ms"
        steps.append(Step(
            device=i, name=device.name, kind=device.kind, above=feeds.get(device.input) if device.input else None, circuit=device.output,
            circuit_name=circuit.name, colours=[circuit.colour_a, circuit.colour_b], ink=circuit.ink,
            asked_text=print_current(mine.worst) if mine else None, gives_text=print_current(mine.gives) if mine and mine.gives is not None else None,
            share=mine.worst / mine.gives if mine and mine.gives else None, trip_text=trip,
            weakest_text=f"{print_current(weak[0])} on {layout.tracks[weak[1]].name}" if weak else None,
            sure=None if weak is None or not device.trip_amps else weak[0] >= layout.brief.rules.coin_margin * device.trip_amps - 1e-9,
            dark_text=print_long_length(dark.track, layout.brief.units), sections=[layout.sections[s].name for s in dark.sections], late=i in late,
        ))  # fmt: skip
    sources = [asked[s.device] for s in steps if s.device in asked and s.kind in ("booster", "station")]
    loads = [a.worst for a in sources]
    balance = ""
    if len(loads) > 1 and max(loads) > 0:
        balance = (
            f"The busiest source is asked for {print_current(max(loads))}, the idlest for {print_current(min(loads))}."
        )
    return ZonesShape(steps=steps, balance_text=balance)
