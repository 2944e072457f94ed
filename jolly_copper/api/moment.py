"""The railroad at one moment: trains put on the plan, what they light, what every head shows, and a train driven on."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, HTTPException, Response
from pydantic import BaseModel, Field

from jolly_copper.api.used import Scene, StoreUsed, WorkedUsed, as_json, known_scene
from jolly_copper.core.signals.aspects import lies_of
from jolly_copper.core.signals.driving import driven, turned
from jolly_copper.telling.moment import MomentShape, PlacedTrain, PromiseShape, moment_told, promised_of, standing

router = APIRouter(prefix="/api")


class TrainsAsked(BaseModel):
    trains: Annotated[list[PlacedTrain], Field(max_length=40)] = []
    promised: Annotated[list[PromiseShape], Field(max_length=80)] = []


class DriveAsked(TrainsAsked):
    """Drive one of the trains by so many mm. obeys: it does not pass a signal at stop."""

    drives: Annotated[int, Field(ge=0, le=39)] = 0
    distance: Annotated[float, Field(ge=0, le=20000, allow_inf_nan=False)] = 100
    obeys: bool = True
    turn: bool = Field(default=False, description="Face the other way first: its rear becomes its front.")


@router.post("/layouts/{layout_id}/moment", response_model=MomentShape)
def moment(
    layout_id: str,
    asked: TrainsAsked,
    store: StoreUsed,
    worked: WorkedUsed,
    scene: Scene = None,
    revision: int | None = None,
) -> Response:
    """What trains placed on the plan light, and what every head shows. Nothing is saved."""
    found = store.get(layout_id, revision)
    known = worked.signalling(found, worked.facts(found, known_scene(found, scene)))
    return as_json(moment_told(found.layout, known, found.number, asked.trains, before=promised_of(asked.promised)))


@router.post("/layouts/{layout_id}/moment/drive", response_model=MomentShape)
def drive_on(
    layout_id: str,
    asked: DriveAsked,
    store: StoreUsed,
    worked: WorkedUsed,
    scene: Scene = None,
    revision: int | None = None,
) -> Response:
    """Drive one train on as the turnouts lie, and look again."""
    found = store.get(layout_id, revision)
    layout = found.layout
    known = worked.signalling(found, worked.facts(found, known_scene(found, scene)))
    if asked.drives >= len(asked.trains):
        raise HTTPException(422, "That train is not on the plan any more.")
    lies, trains = lies_of(layout), list(asked.trains)
    stands = standing(layout, known, trains)
    if asked.turn:
        stands[asked.drives] = turned(known, stands[asked.drives], lies)
    promises = promised_of(asked.promised)
    then, stopped = driven(known, stands, asked.drives, asked.distance, lies, asked.obeys, promises)
    trains[asked.drives] = trains[asked.drives].model_copy(
        update={"track": then.track, "at": round(then.at, 2), "towards": then.towards}
    )
    return as_json(moment_told(layout, known, found.number, trains, stopped, promises))
