"""Routes about trains: what they draw, what a scene asks of every source, starting values, CSV in and out."""

from __future__ import annotations

from typing import Any, Literal

from fastapi import APIRouter, Response
from pydantic import BaseModel

from jolly_copper.api import shapes
from jolly_copper.api.files import Content
from jolly_copper.api.used import Scene, StoreUsed, WorkedUsed, change_newest, changed, known_scene
from jolly_copper.core.circuits.loads import train_amps
from jolly_copper.core.materials.engines import starting_values
from jolly_copper.core.quantities import print_current
from jolly_copper.exchange.fleet import fleet_csv, read_fleet
from jolly_copper.store import Revision

router = APIRouter(prefix="/api")


class Starting(BaseModel):
    """A starting guess: A."""

    idle: float
    running: float
    stall: float
    inrush: float


@router.get("/starting-values")
def starting(
    scale: Literal["Z", "N", "TT", "HO", "OO", "S", "O", "G"],
    age: Literal["modern", "old motor"] = "modern",
    sound: bool = False,
) -> Starting:
    """What a locomotive of a scale draws until somebody measures it."""
    found = starting_values(scale, age, sound)
    return Starting(idle=found.idle, running=found.running, stall=found.stall, inrush=found.inrush)


class TrainDraws(BaseModel):
    running_text: str
    idling_text: str
    guessed: bool
    """Whether one of its engines still goes by a guess."""


class AskedShape(BaseModel):
    """What one source or breaker may be asked for in the scene."""

    device: str
    name: str
    kind: str
    worst: float
    worst_text: str
    stalled_text: str
    steady_text: str
    lit_text: str
    inrush_text: str
    starts_text: str | None
    restarts: bool
    """Whether it lets all of it start together after a trip."""
    gives_text: str | None
    room_text: str | None
    over: bool
    more: int | None
    trains: list[str]


class FleetShape(BaseModel):
    """What every train draws, and what the scene asks of every source and breaker at worst."""

    scene: str | None
    trains: dict[str, TrainDraws]
    asked: list[AskedShape]
    total_text: str
    guesses: int


@router.get("/layouts/{layout_id}/fleet")
def fleet(
    layout_id: str, store: StoreUsed, worked: WorkedUsed, scene: Scene = None, revision: int | None = None
) -> FleetShape:
    """Trains and the budget of a scene."""
    found = store.get(layout_id, revision)
    layout, name = found.layout, known_scene(found, scene)
    chosen = layout.scenes[name] if name else None
    test = layout.brief.rules.test_train
    rows = []
    for a in worked.facts(found, name).asked:
        device, room = layout.devices[a.device], a.head_room
        rows.append(
            AskedShape(
                device=a.device,
                name=device.name,
                kind=device.kind,
                worst=a.worst,
                worst_text=print_current(a.worst),
                stalled_text=print_current(a.stalled),
                steady_text=print_current(a.steady),
                lit_text=print_current(a.lit),
                inrush_text=print_current(a.inrush),
                starts_text=None if a.starts is None else print_current(a.starts),
                restarts=a.starts is None or a.inrush <= a.starts + 1e-9,
                gives_text=print_current(a.gives) if a.gives is not None else None,
                room_text=None if room is None else ("−" if room < -1e-9 else "") + print_current(abs(room)),
                over=room is not None and room < -1e-9,
                more=a.more_trains(test),
                trains=[layout.trains[t].name for t in a.trains],
            )
        )
    draws = {
        i: TrainDraws(
            running_text=print_current(train_amps(layout, t)),
            idling_text=print_current(train_amps(layout, t, False)),
            guessed=any(not layout.locos[e].measured for e in t.engines),
        )
        for i, t in layout.trains.items()
    }
    total = sum(
        train_amps(layout, layout.trains[p.train], p.doing == "running") for p in (chosen.placements if chosen else [])
    )
    guesses = sum(not k.measured for k in layout.locos.values())
    return FleetShape(scene=name, trains=draws, asked=rows, total_text=print_current(total), guesses=guesses)


@router.get("/layouts/{layout_id}/files/fleet.csv")
def fleet_file(layout_id: str, store: StoreUsed) -> Response:
    found = store.get(layout_id)
    name = f'attachment; filename="{layout_id}-fleet-{found.number}.csv"'
    return Response(
        "\ufeff" + fleet_csv(found.layout), media_type="text/csv; charset=utf-8", headers={"Content-Disposition": name}
    )


@router.post("/layouts/{layout_id}/fleet", response_model=shapes.Changed)
def take_fleet(layout_id: str, data: Content, store: StoreUsed, worked: WorkedUsed, scene: Scene = None) -> Response:
    """Take a fleet file in, as one change: known ids are changed, others are new."""

    def fleet_of(current: Revision) -> tuple[list[dict[str, Any]], str]:
        patch = read_fleet(data, current.layout)
        return patch, f"Take in a fleet of {len(patch)} rows"

    return changed(change_newest(store, layout_id, fleet_of), worked, scene)
