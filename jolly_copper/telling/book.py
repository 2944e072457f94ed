"""What is told of the wire book: its chapters, what to buy, sheets of labels."""

from __future__ import annotations

from pydantic import BaseModel


class ChapterShape(BaseModel):
    key: str
    title: str


class SheetShape(BaseModel):
    key: str
    name: str
    each: int
    """Labels on one sheet."""


class ItemShape(BaseModel):
    """Something bought by the piece, with the price the club typed in."""

    key: str
    name: str
    count: int
    reason: str
    price: float | None
    cost: float | None


class WireNeedShape(BaseModel):
    """Wire of one gauge, make and colour."""

    gauge: str
    strands: str
    colour: str
    needed_text: str
    new_spools: int
    spool_text: str
    left_text: str
    """What is left over of all spools cut, together."""
    exact: bool
    cost: float | None


class BookShape(BaseModel):
    revision: int
    made: str
    chapters: list[ChapterShape]
    boards: list[ChapterShape]
    """Boards with a plan of their own; key is the board's id."""
    sheets: list[SheetShape]
    pieces: int
    items: list[ItemShape]
    wire: list[WireNeedShape]
    total: float | None
    """Of all lines with a price; None where none has one."""
    unpriced: int
