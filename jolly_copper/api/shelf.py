"""Routes about the layouts as a club keeps them: the list, copies, the archive, deleted ones, versions, comparing."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Response
from pydantic import BaseModel, StringConstraints

from jolly_copper.api.layouts import add_under_free_id
from jolly_copper.api.used import Scene, StoreUsed, WorkedUsed, as_json, change_newest, known_scene
from jolly_copper.core.comparing import outcomes
from jolly_copper.core.layout.fields import Name
from jolly_copper.core.plan_picture import picture
from jolly_copper.core.quantities import print_long_length
from jolly_copper.core.rails.pieces import map_rails
from jolly_copper.store import Revision, shelf
from jolly_copper.store.work import work_of
from jolly_copper.telling import answering, shapes
from jolly_copper.telling.shelf import (
    CardShape,
    ComparisonShape,
    DeletedShape,
    DifferenceShape,
    OutcomeShape,
    VersionShape,
    drawn,
)

router = APIRouter(prefix="/api")


class Named(BaseModel):
    """A name a person gives."""

    name: Name


class Away(BaseModel):
    archived: bool


class Noted(BaseModel):
    """A version's name and note."""

    name: Name
    note: Annotated[str, StringConstraints(max_length=500, strip_whitespace=True)] = ""


@router.get("/layouts/{layout_id}/card")
def card(layout_id: str, store: StoreUsed, revision: int | None = None) -> CardShape:
    """A layout at a glance."""
    layout = store.get(layout_id, revision).layout
    metres = sum(map_rails(layout).lengths.values())
    return CardShape(
        tracks=len(layout.tracks),
        length_text=print_long_length(metres, layout.brief.units),
        pairs=len(layout.runs) + len(layout.feeders),
        logged=len(work_of(store, layout_id)),
        versions=len(shelf.versions(store, layout_id)),
        way_back_days=shelf.WAY_BACK_DAYS,
        picture=drawn(picture(layout)),
    )


@router.post("/layouts/{layout_id}/copy", status_code=201)
def copy(layout_id: str, named: Named, store: StoreUsed, revision: int | None = None) -> shapes.State:
    """A copy to try something on, with a name of its own. Work logged under the boards stays with the first one."""
    source = store.get(layout_id, revision)
    copied = source.layout.model_copy(update={"name": named.name})
    words = f"Copied from {source.layout.name}, change {source.number}"
    return answering.state(add_under_free_id(store, copied, words))


@router.post("/layouts/{layout_id}/rename")
def rename(layout_id: str, named: Named, store: StoreUsed) -> shapes.State:
    """Give a layout another name, as a change that can be taken back. Its address stays."""

    def another(current: Revision) -> tuple[list[dict[str, Any]], str]:
        return [{"op": "replace", "path": "/name", "value": named.name}], f"Name: {named.name}"

    return answering.state(change_newest(store, layout_id, another))


@router.put("/layouts/{layout_id}/archived", status_code=204)
def archive(layout_id: str, away: Away, store: StoreUsed) -> Response:
    """Into the archive, or out of it."""
    shelf.archive(store, layout_id, away.archived)
    return Response(status_code=204)


@router.delete("/layouts/{layout_id}", status_code=204)
def remove(layout_id: str, store: StoreUsed) -> Response:
    """Delete a layout; it can be put back for a time."""
    shelf.remove(store, layout_id)
    return Response(status_code=204)


@router.get("/deleted")
def deleted(store: StoreUsed) -> list[DeletedShape]:
    """What was deleted and can be put back still."""
    return [DeletedShape(**vars(d)) for d in shelf.deleted(store)]


@router.post("/layouts/{layout_id}/put-back")
def put_back(layout_id: str, store: StoreUsed) -> shapes.State:
    """Have a deleted layout back."""
    shelf.put_back(store, layout_id)
    return answering.state(store.get(layout_id))


@router.get("/layouts/{layout_id}/versions")
def versions(layout_id: str, store: StoreUsed) -> list[VersionShape]:
    """The changes of a layout that bear a name."""
    return [VersionShape(**vars(v)) for v in shelf.versions(store, layout_id)]


@router.put("/layouts/{layout_id}/versions/{number}")
def name_version(layout_id: str, number: int, noted: Noted, store: StoreUsed) -> VersionShape:
    """Give a change a name."""
    return VersionShape(**vars(shelf.name_version(store, layout_id, number, noted.name, noted.note)))


@router.delete("/layouts/{layout_id}/versions/{number}", status_code=204)
def unname_version(layout_id: str, number: int, store: StoreUsed) -> Response:
    """Take a version's name away; the change stays."""
    shelf.unname_version(store, layout_id, number)
    return Response(status_code=204)


@router.get("/layouts/{layout_id}/compare", response_model=ComparisonShape)
def compare(
    layout_id: str,
    other: str,
    store: StoreUsed,
    worked: WorkedUsed,
    revision: int | None = None,
    other_revision: int | None = None,
    scene: Scene = None,
) -> Response:
    """From one state (`layout_id`, `revision`) to another (`other`, `other_revision`)."""
    before, after = store.get(layout_id, revision), store.get(other, other_revision)
    names = known_scene(before, scene), known_scene(after, scene)
    found = outcomes(
        worked.facts(before, names[0]),
        worked.facts(after, names[1]),
        worked.findings(before, names[0]),
        worked.findings(after, names[1]),
    )
    return as_json(
        ComparisonShape(
            before=f"{before.layout.name}, change {before.number}",
            after=f"{after.layout.name}, change {after.number}",
            differences=[DifferenceShape(**{**vars(d), "words": list(d.words)}) for d in found.differences],
            outcomes=[OutcomeShape(**vars(o)) for o in found.outcomes],
            settled=list(found.settled),
            new=list(found.new),
            shared=found.shared,
            picture=drawn(picture(after.layout, found.differences, before.layout)),
        )
    )
