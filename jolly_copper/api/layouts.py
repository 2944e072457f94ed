"""Routes about layouts: read, change, undo, and the answers to what a person asks of the plan."""

from __future__ import annotations

import re
from contextlib import suppress
from typing import Annotated, Any

from fastapi import APIRouter, Body, HTTPException, Query, Response
from pydantic import BaseModel, Field

from jolly_copper.api.files import csv_file, download
from jolly_copper.api.used import (
    TRIES,
    HowAsked,
    Scene,
    StoreUsed,
    WorkedUsed,
    as_json,
    changed,
    known_scene,
    what_is_held,
)
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import patched_on
from jolly_copper.core.layout.reading import LayoutError
from jolly_copper.core.layout.rules import rule_catalogue
from jolly_copper.core.layout.saved import read_saved_told
from jolly_copper.demo import gannet_bay
from jolly_copper.exchange.spice import netlist
from jolly_copper.exchange.tables import wires_csv
from jolly_copper.store import NameTaken, NotFound, Revision, Store, TooBusy
from jolly_copper.store.revision import mark_of
from jolly_copper.store.shelf import deleted, put_back
from jolly_copper.telling import answering, points, shapes

router = APIRouter(prefix="/api")


class ListedLayout(BaseModel):
    id: str
    name: str
    revision: int
    made: str
    who: str
    archived: str | None


class Change(BaseModel):
    """A change to make: JSON Patch operations and what they are, in a few words."""

    summary: Annotated[str, Field(min_length=1, max_length=200)]
    patch: Annotated[list[dict[str, Any]], Field(min_length=1, max_length=20000)]


class PatchOnly(BaseModel):
    patch: Annotated[list[dict[str, Any]], Field(min_length=1, max_length=20000)]


class HistoryRow(BaseModel):
    number: int
    kind: str
    summary: str
    made: str
    who: str


@router.get("/layouts")
def list_layouts(store: StoreUsed) -> list[ListedLayout]:
    return [ListedLayout(**row) for row in store.layouts()]


@router.post("/layouts", status_code=201)
def add_layout(document: Annotated[Any, Body()], store: StoreUsed) -> shapes.State:
    """Take in a layout file. Refused with a path and a sentence for each thing wrong; what was set right is told."""
    layout, told = read_saved_told(document)
    taken = answering.state(add_under_free_id(store, layout))
    return taken.model_copy(update={"mended": " ".join(told[:5]) or None})


def free_id(store: Store, name: str) -> str:
    """An id made of a layout's name that no other has. Deleted layouts keep theirs as long as they may be put back."""
    base = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:30] or "layout"
    taken = {row["id"] for row in store.layouts()} | {d.id for d in deleted(store)}
    return next(n for k in range(1, len(taken) + 2) if (n := base if k == 1 else f"{base}-{k}") not in taken)


def add_under_free_id(store: Store, layout: Layout, summary: str = "New layout") -> Revision:
    """Store a new layout under an id of its name that no other has, whoever adds one of the same name meanwhile."""
    for _ in range(TRIES):
        with suppress(NameTaken):
            return store.add(free_id(store, layout.name), layout, summary)
    raise TooBusy("Many layouts of this name are being added at once. Try again in a moment.")


@router.post("/demo", status_code=201)
def add_demo(store: StoreUsed) -> shapes.State:
    """Add the demo railroad to this club file, or answer the one already there."""
    try:
        return answering.state(store.add("gannet-bay", gannet_bay()))
    except NameTaken:
        with suppress(NotFound):
            put_back(store, "gannet-bay")
        return answering.state(store.get("gannet-bay"))


@router.get("/layouts/{layout_id}", response_model=shapes.State)
def get_layout(layout_id: str, store: StoreUsed, revision: int | None = None) -> Response:
    return as_json(answering.state(store.get(layout_id, revision)))


@router.patch("/layouts/{layout_id}", response_model=shapes.Changed)
def change_layout(layout_id: str, change: Change, store: StoreUsed, worked: WorkedUsed, asked: HowAsked) -> Response:
    """Make a change. 409 with the newer state when somebody else saved first; 422 when the result cannot be read."""
    revision = store.change(layout_id, asked.based_on, change.patch, change.summary)
    return changed(revision, worked, asked.scene, held=what_is_held(store, layout_id, asked.holds))


@router.post("/layouts/{layout_id}/undo", response_model=shapes.Changed)
def undo(layout_id: str, store: StoreUsed, worked: WorkedUsed, asked: HowAsked) -> Response:
    revision = store.undo(layout_id, asked.based_on)
    return changed(revision, worked, asked.scene, held=what_is_held(store, layout_id, asked.holds))


@router.post("/layouts/{layout_id}/redo", response_model=shapes.Changed)
def redo(layout_id: str, store: StoreUsed, worked: WorkedUsed, asked: HowAsked) -> Response:
    revision = store.redo(layout_id, asked.based_on)
    return changed(revision, worked, asked.scene, held=what_is_held(store, layout_id, asked.holds))


@router.post("/layouts/{layout_id}/foresee", status_code=204)
def foresee(layout_id: str, change: PatchOnly, store: StoreUsed, worked: WorkedUsed, asked: HowAsked) -> None:
    """Work out a change that is about to be made, while the hand is on its way to Enter. Nothing is saved, and nothing
    said: whether it fits is told when it is made."""
    current = store.get(layout_id)
    if current.number != asked.based_on:
        return
    with suppress(LayoutError):
        layout = patched_on((current.data, current.layout), change.patch)
        worked.prove(layout, mark_of(layout)[0], asked.scene)


@router.get("/layouts/{layout_id}/history")
def history(
    layout_id: str,
    store: StoreUsed,
    before: Annotated[int | None, Query(ge=1, le=2**62, description="Changes before this one.")] = None,
    most: Annotated[int, Query(ge=1, le=500)] = 200,
) -> list[HistoryRow]:
    """A page of the history, newest first."""
    if not store.newest(layout_id):
        raise NotFound(f"There is no layout {layout_id}.")
    return [HistoryRow(**row) for row in store.history(layout_id, most, before)]


@router.get("/layouts/{layout_id}/answers", response_model=shapes.Answers)
def answers(
    layout_id: str, store: StoreUsed, worked: WorkedUsed, scene: Scene = None, revision: int | None = None
) -> Response:
    found = store.get(layout_id, revision)
    return as_json(answering.answers(worked.facts(found, known_scene(found, scene)), found.number))


@router.get("/layouts/{layout_id}/findings")
def findings(
    layout_id: str, store: StoreUsed, worked: WorkedUsed, scene: Scene = None, revision: int | None = None
) -> list[shapes.FindingShape]:
    found = store.get(layout_id, revision)
    return [answering.finding(f) for f in worked.findings(found, known_scene(found, scene))]


@router.get("/layouts/{layout_id}/point")
def point(
    layout_id: str,
    track: str,
    at: Annotated[float, Query(ge=0, allow_inf_nan=False)],
    store: StoreUsed,
    worked: WorkedUsed,
    scene: Scene = None,
    revision: int | None = None,
) -> shapes.PointShape:
    found = store.get(layout_id, revision)
    if track not in found.layout.tracks:
        raise HTTPException(404, f"There is no track {track}.")
    return points.point(worked.facts(found, known_scene(found, scene)), track, at)


@router.get("/layouts/{layout_id}/what-if")
def what_if(
    layout_id: str,
    track: str,
    at: Annotated[float, Query(ge=0, allow_inf_nan=False)],
    store: StoreUsed,
    worked: WorkedUsed,
    scene: Scene = None,
    revision: int | None = None,
) -> list[shapes.WhatIfShape]:
    found = store.get(layout_id, revision)
    if track not in found.layout.tracks:
        raise HTTPException(404, f"There is no track {track}.")

    def outdated() -> bool:
        # A change meanwhile makes the question void; it must not slow that change's own answer down.
        return store.newest(layout_id) != found.number

    return worked.once(
        f"what-if {track} {at}",
        found,
        known_scene(found, scene),
        lambda facts: points.what_ifs(facts, track, at, outdated),
        lambda: not outdated(),
    )


@router.post("/layouts/{layout_id}/preview")
def preview(
    layout_id: str, change: PatchOnly, store: StoreUsed, worked: WorkedUsed, scene: Scene = None
) -> shapes.PreviewShape:
    found = store.get(layout_id)
    try:
        return answering.preview(worked.facts(found, known_scene(found, scene)), change.patch)
    except (KeyError, IndexError, TypeError) as error:
        raise HTTPException(422, f"The change does not fit the layout: {error}.") from None


@router.get("/layouts/{layout_id}/wires")
def wires(
    layout_id: str, store: StoreUsed, worked: WorkedUsed, scene: Scene = None, revision: int | None = None
) -> shapes.WireTable:
    found = store.get(layout_id, revision)
    return worked.once("wires", found, known_scene(found, scene), answering.wire_table)


@router.get("/layouts/{layout_id}/files/wires.csv")
def wires_file(layout_id: str, store: StoreUsed) -> Response:
    found = store.get(layout_id)
    return csv_file(wires_csv(found.layout), f"{layout_id}-wires-{found.number}.csv")


@router.get("/layouts/{layout_id}/files/layout.json")
def layout_file(layout_id: str, store: StoreUsed) -> Response:
    found = store.get(layout_id)
    return download(found.layout.model_dump_json(indent=2), "application/json", f"{layout_id}-{found.number}.json")


@router.get("/layouts/{layout_id}/files/netlist.cir")
def netlist_file(layout_id: str, store: StoreUsed) -> Response:
    found = store.get(layout_id)
    return download(netlist(found.layout), "text/plain; charset=utf-8", f"{layout_id}-{found.number}.cir")


class RuleRow(BaseModel):
    key: str
    title: str
    reason: str
    default: float | bool
    unit: str
    schools: str
    source: str


@router.get("/house-rules")
def house_rules() -> list[RuleRow]:
    return [RuleRow(**row) for row in rule_catalogue()]
