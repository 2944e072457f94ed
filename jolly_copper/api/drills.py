"""Routes that keep nothing: the drill, which a seed and what was tried make again, and the stand-in meter."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, Response
from pydantic import BaseModel, Field

from jolly_copper.api.sums import FieldError
from jolly_copper.api.used import Scene, StoreUsed, WorkedUsed, as_json, known_scene
from jolly_copper.core.proving.drill import Hardness, set_drill
from jolly_copper.core.proving.meters import Setting
from jolly_copper.core.proving.stand_in import Probe, stand_in
from jolly_copper.telling.drilling import DrillShape, drill_shape

router = APIRouter(prefix="/api/layouts/{layout_id}")


class Tried(BaseModel):
    """A drill by its seed, and the acts tried so far."""

    seed: Annotated[int, Field(ge=0, le=999_999)]
    hardness: Hardness = "fair"
    tried: Annotated[list[Annotated[str, Field(max_length=140)]], Field(max_length=600)] = []


@router.post("/drill", response_model=DrillShape)
def drill(layout_id: str, asked: Tried, store: StoreUsed, worked: WorkedUsed, scene: Scene = None) -> Response:
    """What came of each act on the hidden fault, and at the end how the time went."""
    found = store.get(layout_id)
    the_scene = known_scene(found, scene)
    known = worked.bench(found, the_scene)
    name = f"drill:{asked.seed}:{asked.hardness}"
    made = worked.once(name, found, the_scene, lambda _: set_drill(known, asked.seed, asked.hardness))
    if made is None:
        raise FieldError("seed", "Nothing can be hidden here yet: a drill wants wired track behind a breaker.")
    return as_json(drill_shape(found.layout, made, asked.seed, asked.hardness, asked.tried))


class Held(BaseModel):
    """A probe of the stand-in meter: a rail at a place."""

    track: Annotated[str, Field(max_length=60)]
    at: Annotated[float, Field(ge=0, le=1e6, allow_inf_nan=False)]
    side: Literal["left", "right"] = "left"


class MeterAsked(BaseModel):
    """Two probes and where the knob stands."""

    red: Held
    black: Held
    setting: Setting


class MeterShows(BaseModel):
    text: str
    value: float | None
    why: str


@router.post("/stand-in")
def meter(layout_id: str, asked: MeterAsked, store: StoreUsed, worked: WorkedUsed, scene: Scene = None) -> MeterShows:
    """What a meter would show there on the railroad as drawn."""
    found = store.get(layout_id)
    known = worked.bench(found, known_scene(found, scene))
    red, black = (Probe(p.track, p.at, p.side) for p in (asked.red, asked.black))
    try:
        shown = stand_in(known, red, black, asked.setting)
    except ValueError as error:
        raise FieldError("setting", str(error)) from None
    return MeterShows(text=shown.text, value=shown.value, why=shown.why)
