"""Routes about trains: what they draw, what a scene asks of every source, starting values, CSV in and out."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Literal

from fastapi import APIRouter, Response
from pydantic import BaseModel

from jolly_copper.api.files import Content, csv_file
from jolly_copper.api.used import Scene, StoreUsed, WorkedUsed, change_newest, changed, known_scene
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.words import many
from jolly_copper.core.materials.engines import starting_values
from jolly_copper.core.proposals.roster import taught
from jolly_copper.exchange.fleet import fleet_csv, read_fleet
from jolly_copper.exchange.roster import read_roster, roster_csv
from jolly_copper.store import Revision
from jolly_copper.telling import shapes
from jolly_copper.telling.fleet import FleetShape, Starting, fleet_shape

router = APIRouter(prefix="/api")


@router.get("/starting-values")
def starting(
    scale: Literal["Z", "N", "TT", "HO", "OO", "S", "O", "G"],
    age: Literal["modern", "old motor"] = "modern",
    sound: bool = False,
) -> Starting:
    """What a locomotive of a scale draws until somebody measures it."""
    found = starting_values(scale, age, sound)
    return Starting(idle=found.idle, running=found.running, stall=found.stall, inrush=found.inrush)


@router.get("/layouts/{layout_id}/fleet")
def fleet(
    layout_id: str, store: StoreUsed, worked: WorkedUsed, scene: Scene = None, revision: int | None = None
) -> FleetShape:
    """Trains and the budget of a scene."""
    found = store.get(layout_id, revision)
    return fleet_shape(worked.facts(found, known_scene(found, scene)))


@router.get("/layouts/{layout_id}/files/fleet.csv")
def fleet_file(layout_id: str, store: StoreUsed) -> Response:
    found = store.get(layout_id)
    return csv_file(fleet_csv(found.layout), f"{layout_id}-fleet-{found.number}.csv")


@router.post("/layouts/{layout_id}/fleet", response_model=shapes.Changed)
def take_fleet(layout_id: str, data: Content, store: StoreUsed, worked: WorkedUsed, scene: Scene = None) -> Response:
    """Take a fleet file in, as one change: known ids are changed, others are new."""
    work = _taking(data, read_fleet, "a fleet", "row")
    return changed(change_newest(store, layout_id, work), worked, scene)


@router.get("/layouts/{layout_id}/files/roster.csv")
def roster_file(layout_id: str, store: StoreUsed) -> Response:
    """Every engine of the roster."""
    found = store.get(layout_id)
    return csv_file(roster_csv(found.layout), f"{layout_id}-roster-{found.number}.csv")


@router.post("/layouts/{layout_id}/roster", response_model=shapes.Changed)
def take_roster(layout_id: str, data: Content, store: StoreUsed, worked: WorkedUsed, scene: Scene = None) -> Response:
    """Take a roster file in, as one change: known numbers and names are changed, others are new."""
    work = _taking(data, read_roster, "a roster", "engine")
    return changed(change_newest(store, layout_id, work), worked, scene)


Patch = list[dict[str, Any]]


def _taking(
    data: bytes, read: Callable[[bytes, Layout], Patch], what: str, row: str
) -> Callable[[Revision], tuple[Patch, str]]:
    """Taking a file in whatever the newest state is, and what that is in a few words."""

    def work(current: Revision) -> tuple[Patch, str]:
        patch = read(data, current.layout)
        return patch, f"Take in {what} of {many(len(patch), row)}"

    return work


class TaughtShape(BaseModel):
    """What the roster teaches kinds and trains, and the change that takes it over; None where they know it already."""

    words: list[str]
    change: shapes.MendShape | None


@router.get("/layouts/{layout_id}/roster-teaches")
def roster_teaches(layout_id: str, store: StoreUsed, revision: int | None = None) -> TaughtShape:
    """Amps of kinds from the engines that were measured, and stops of trains."""
    found = taught(store.get(layout_id, revision).layout)
    change = shapes.MendShape(label="Take the roster's figures over", patch=list(found.patch)) if found.patch else None
    return TaughtShape(words=list(found.words), change=change)
