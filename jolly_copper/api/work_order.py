"""Where the work stands, step by step, and what to do next."""

from __future__ import annotations

from fastapi import APIRouter

from jolly_copper.api.used import Scene, StoreUsed, WorkedUsed, known_scene
from jolly_copper.core.work_order import Proved, next_step, work_order
from jolly_copper.store import Store
from jolly_copper.store.bench import readings_of
from jolly_copper.store.work import work_of
from jolly_copper.telling.work_order import WorkOrderShape, standing_told

router = APIRouter(prefix="/api")


def _proved(store: Store, layout_id: str) -> Proved:
    """By the reading that counts of each test."""
    last = {r.test: r.sound for r in readings_of(store, layout_id)}
    return Proved(sum(s == 1 for s in last.values()), sum(s == 0 for s in last.values()))


@router.get("/layouts/{layout_id}/work-order")
def standing(
    layout_id: str, store: StoreUsed, worked: WorkedUsed, scene: Scene = None, revision: int | None = None
) -> WorkOrderShape:
    """How every step stands in a scene. Work done under the boards counts as it is now."""
    found = store.get(layout_id, revision)
    done = sum(e.state in ("wired", "tested") for e in work_of(store, layout_id).values())

    name = known_scene(found, scene)
    steps = work_order(worked.facts(found, name), worked.findings(found, name), done, _proved(store, layout_id))
    onward = next_step(steps)
    return WorkOrderShape(
        revision=found.number, steps=[standing_told(s) for s in steps], next=onward.step if onward else None
    )
