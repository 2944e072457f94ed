"""The route of the drill: nothing of it is kept, a seed and what was tried make all of it again."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Response
from pydantic import BaseModel, Field

from jolly_copper.api.sums import FieldError
from jolly_copper.api.used import Scene, StoreUsed, WorkedUsed, as_json, known_scene
from jolly_copper.core.proving.drill import Hardness, set_drill
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
