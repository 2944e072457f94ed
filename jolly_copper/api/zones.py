"""The power tree as a one-line diagram reads it: every device with amps, head-room, trips, and what goes dark with
it."""

from __future__ import annotations

from fastapi import APIRouter

from jolly_copper.api.used import Scene, StoreUsed, WorkedUsed, known_scene
from jolly_copper.telling.zones import (
    AccessoriesShape,
    UsualLoad,
    ZonesShape,
    accessories_shape,
    usual_load_shapes,
    zones_shape,
)

router = APIRouter(prefix="/api")


@router.get("/layouts/{layout_id}/zones")
def zones(
    layout_id: str, store: StoreUsed, worked: WorkedUsed, scene: Scene = None, revision: int | None = None
) -> ZonesShape:
    """Every device from source to reverser, in the order a diagram draws them."""
    found = store.get(layout_id, revision)
    facts = worked.facts(found, known_scene(found, scene))
    return zones_shape(facts)


@router.get("/layouts/{layout_id}/accessories")
def accessories(
    layout_id: str, store: StoreUsed, worked: WorkedUsed, scene: Scene = None, revision: int | None = None
) -> AccessoriesShape:
    """Volts at every load, at rest and with all at work that may be."""
    found = store.get(layout_id, revision)
    facts = worked.facts(found, known_scene(found, scene))
    return accessories_shape(facts)


@router.get("/usual-loads")
def usual_loads() -> list[UsualLoad]:
    """Starting values of accessories; guesses until measured."""
    return usual_load_shapes()
