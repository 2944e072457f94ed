"""What every route about a layout uses: the store, the facts kept ready, and how an answer goes out."""

from __future__ import annotations

import re
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from typing import Annotated, Any

from fastapi import Depends, Header, HTTPException, Query, Request, Response
from pydantic import BaseModel

from jolly_copper.api.worked import Worked
from jolly_copper.store import Conflict, NotFound, Revision, Store, TooBusy
from jolly_copper.telling import answering, shapes


def _store(request: Request) -> Store:
    return request.app.state.store  # type: ignore[no-any-return]


def _worked(request: Request) -> Worked:
    return request.app.state.worked  # type: ignore[no-any-return]


StoreUsed = Annotated[Store, Depends(_store)]
WorkedUsed = Annotated[Worked, Depends(_worked)]
Scene = Annotated[str | None, Query(max_length=40)]
IfMatch = Annotated[str | None, Header(alias="If-Match")]
Holds = Annotated[
    int | None,
    Query(
        ge=1, le=2**62, description="The change whose document the asker has: the answer tells what differs from it."
    ),
]


def known_scene(revision: Revision, scene: str | None) -> str | None:
    """The scene asked for when it exists, else the layout's first."""
    scenes = revision.layout.scenes
    return scene if scene in scenes else next(iter(scenes), None)


TRIES = 6
"""Another program may save between reading and saving; within this one a turn keeps others waiting."""


def change_newest(
    store: Store, layout_id: str, work: Callable[[Revision], tuple[list[dict[str, Any]], str]]
) -> Revision:
    """Make a change that fits whatever the newest state is.

    Args:
        work: given the newest revision, the patch and what it is in a few words.

    Raises:
        TooBusy: others were quicker again and again.
    """
    with store.turn(layout_id):
        for _ in range(TRIES):
            current = store.get(layout_id)
            patch, summary = work(current)
            with suppress(Conflict):
                return store.change(layout_id, current.number, patch, summary)
    raise TooBusy("Another program keeps changing this layout. Try again in a moment.")


def as_json(shape: BaseModel) -> Response:
    """Straight to JSON in one step: the framework's own way through plain dictionaries takes several times as long."""
    return Response(shape.model_dump_json(), media_type="application/json")


def whole_change(
    revision: Revision,
    worked: Worked,
    scene: str | None,
    made: shapes.Made | None = None,
    note: str | None = None,
) -> shapes.Changed:
    """The new state with its answers, and what an act made."""
    facts = worked.facts(revision, known_scene(revision, scene))
    answers = answering.answers(facts, revision.number)
    return shapes.Changed(state=answering.state(revision), answers=answers, made=made, note=note)


@dataclass(frozen=True)
class Asked:
    """What comes with every change: the scene on the screen, the change it is based on, and the one its asker holds."""

    scene: Scene = None
    if_match: IfMatch = None
    holds: Holds = None

    @property
    def based_on(self) -> int:
        """Number of the change it is based on."""
        match = re.fullmatch(r'(?:W/)?("?)([0-9]{1,18})\1', (self.if_match or "").strip())
        if not match:
            raise HTTPException(428, "Say which revision this change is based on, in an If-Match header.")
        return int(match[2])


HowAsked = Annotated[Asked, Depends()]


def changed(
    revision: Revision,
    worked: Worked,
    scene: str | None,
    made: shapes.Made | None = None,
    note: str | None = None,
    held: Revision | None = None,
) -> Response:
    """A change as it goes out. held: what the asker has already."""
    whole = whole_change(revision, worked, scene, made, note)
    return as_json(whole if held is None else whole.model_copy(update={"state": answering.differs(revision, held)}))


def what_is_held(store: Store, layout_id: str, holds: int | None) -> Revision | None:
    """The revision an asker says it has; None where it has none or that is no more."""
    with suppress(NotFound):
        return None if holds is None else store.get(layout_id, holds)
    return None
