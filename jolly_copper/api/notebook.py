"""The notebook: notes, decisions, troubles and photos, and a search through all that is written."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, HTTPException, Query
from pydantic import BaseModel, StringConstraints

from jolly_copper.api.files import Content
from jolly_copper.api.remembering import search
from jolly_copper.api.used import StoreUsed
from jolly_copper.core.layout.words import thing_words
from jolly_copper.exchange.photos import plain_photo
from jolly_copper.store.notes import Note, notes_of, write_note
from jolly_copper.store.pictures import keep_picture, picture_of
from jolly_copper.store.revision import now
from jolly_copper.telling.typed import About, Line, RowId

router = APIRouter(prefix="/api")
ONE = "/layouts/{layout_id}"


class NoteAsked(BaseModel):
    """A note as it is written; one that is written again under its id takes its place, an empty one takes it back."""

    id: RowId
    kind: Literal["note", "decision", "trouble"] = "note"
    about: About = ""
    text: Annotated[str, StringConstraints(max_length=4000, strip_whitespace=True)] = ""
    photo: Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{64}$")] | None = None
    who: Line = ""


class NoteShape(NoteAsked):
    """A note with what it is about by name, and when it was written."""

    about_words: str
    made: str


class NotesShape(BaseModel):
    """The notebook, the newest first."""

    notes: list[NoteShape]


@router.get(ONE + "/notes")
def notes(layout_id: str, store: StoreUsed) -> NotesShape:
    """What stands in the notebook."""
    layout = store.get(layout_id).layout
    found = [NoteShape(**vars(n), about_words=thing_words(layout, n.about)) for n in notes_of(store, layout_id)]
    return NotesShape(notes=found)


@router.post(ONE + "/notes")
def write(layout_id: str, asked: NoteAsked, store: StoreUsed) -> NotesShape:
    """Write a note. Nothing of it changes the layout."""
    if asked.photo is not None:
        picture_of(store, asked.photo)
    try:
        write_note(store, layout_id, Note(**asked.model_dump(), made=now()))
    except ValueError as error:
        raise HTTPException(422, str(error)) from None
    return notes(layout_id, store)


class PhotoKept(BaseModel):
    photo: str


@router.post("/photos", status_code=201)
def add_photo(data: Content, store: StoreUsed) -> PhotoKept:
    """Keep a photo, drawn anew from its pixels: where it was taken does not come along."""
    media, plain = plain_photo(data)
    return PhotoKept(photo=keep_picture(store, media, plain))


class FoundText(BaseModel):
    kind: str
    about: str
    text: str
    who: str
    on: str


@router.get(ONE + "/search")
def look_for(layout_id: str, text: Annotated[str, Query(max_length=200)], store: StoreUsed) -> list[FoundText]:
    """Everything written about a layout that holds these words."""
    return [FoundText(**vars(w)) for w in search(store, store.get(layout_id), text)]
