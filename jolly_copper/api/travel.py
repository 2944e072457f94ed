"""Step Travel: joints of boards that lift out, connectors for them, setting up, and what was tried at shows."""

from __future__ import annotations

import re
from collections import Counter
from typing import Annotated, Literal

from fastapi import APIRouter, HTTPException, Response
from pydantic import AfterValidator, BaseModel, Field, StringConstraints

from jolly_copper.api.used import Scene, StoreUsed, WorkedUsed, as_json, known_scene
from jolly_copper.core.layout.dates import Day
from jolly_copper.core.proposals.coupling import propose_couplings
from jolly_copper.core.travel.setting_up import failed_joints
from jolly_copper.store import Store
from jolly_copper.store.shows import ShowEntry, add_show_entries, show_entries
from jolly_copper.telling.travel import CouplingsOffer, TravelShape, couplings_offer, travel_shape
from jolly_copper.telling.typed import Line, Moment, RowId

router = APIRouter(prefix="/api/layouts/{layout_id}")
TEST_KEY = re.compile(r"^(show|proof):[\w.:/+ -]{1,150}$")


def _a_test(text: str) -> str:
    if not TEST_KEY.fullmatch(text):
        raise ValueError(f"“{text[:40]}” is no test of a joint or of the proof")
    return text


class ShowEntryShape(BaseModel):
    """How one test went at one show; sent twice, it is kept once. `open` takes back what was said."""

    id: RowId
    show: Annotated[str, StringConstraints(min_length=1, max_length=80, strip_whitespace=True)]
    day: Day
    what: Annotated[str, StringConstraints(max_length=160), AfterValidator(_a_test)]
    state: Literal["sound", "failed", "open"]
    note: Annotated[str, StringConstraints(max_length=500, strip_whitespace=True)] = ""
    who: Line = ""
    done: Moment


class ShowEntries(BaseModel):
    """Entries of one show or more."""

    entries: Annotated[list[ShowEntryShape], Field(min_length=1, max_length=500)]


class JointFailed(BaseModel):
    """How often something failed at a joint, over all shows."""

    joint: str
    times: int


class ShowsShape(BaseModel):
    """What counts for each test at each show, the newest show first; and where things failed."""

    entries: list[ShowEntryShape]
    failed: list[JointFailed]


@router.get("/travel", response_model=TravelShape)
def travel(
    layout_id: str, store: StoreUsed, worked: WorkedUsed, scene: Scene = None, revision: int | None = None
) -> Response:
    """Joints with their couplings pin by pin, the set-up list, boards by themselves, the proof before the doors
    open."""
    found = store.get(layout_id, revision)
    return as_json(travel_shape(worked.facts(found, known_scene(found, scene)), _failed(store, layout_id)))


@router.get("/couplings-offer")
def offer(layout_id: str, store: StoreUsed, revision: int | None = None) -> CouplingsOffer:
    """Connectors chosen for every joint."""
    layout = store.get(layout_id, revision).layout
    return couplings_offer(layout, propose_couplings(layout))


@router.get("/shows")
def shows(layout_id: str, store: StoreUsed) -> ShowsShape:
    """What was tried at shows."""
    store.get(layout_id)
    failed = _failed(store, layout_id)
    return ShowsShape(
        entries=[ShowEntryShape.model_construct(**vars(e)) for e in show_entries(store, layout_id)],
        failed=[JointFailed(joint=j, times=n) for j, n in failed.most_common()],
    )


@router.post("/shows")
def send_shows(layout_id: str, sent: ShowEntries, store: StoreUsed) -> ShowsShape:
    """Keep how tests went. Nothing of it changes the layout, so it is no change of it."""
    try:
        add_show_entries(store, layout_id, [ShowEntry(**e.model_dump()) for e in sent.entries])
    except ValueError as error:
        raise HTTPException(422, str(error)) from None
    return shows(layout_id, store)


def _failed(store: Store, layout_id: str) -> Counter[str]:
    return failed_joints(e.what for e in show_entries(store, layout_id) if e.state == "failed")
