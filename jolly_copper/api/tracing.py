"""Routes about tracing the picture under the plan: made square, traced, taken as track."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from fastapi import APIRouter, HTTPException, Response
from fastapi.responses import StreamingResponse
from pydantic import BaseModel, Field

from jolly_copper.api.streaming import Tell, streamed
from jolly_copper.api.used import Scene, StoreUsed, WorkedUsed, change_newest, whole_change
from jolly_copper.core.drawing.acts import Like
from jolly_copper.core.drawing.sheet import DrawingError, Sheet
from jolly_copper.core.drawing.tracing import LaidReport, Placed, lay_traced
from jolly_copper.core.layout.document import Backdrop, Layout
from jolly_copper.core.layout.words import many
from jolly_copper.core.tracing.fineness import against, gauge_in
from jolly_copper.core.tracing.lines import NotTraced, Settings
from jolly_copper.core.tracing.proposal import trace
from jolly_copper.exchange.cells import FileRefused
from jolly_copper.exchange.drawn import SVG, shown_at, to_trace
from jolly_copper.exchange.pictures import straightened
from jolly_copper.store import Revision, Store
from jolly_copper.store.pictures import keep_picture, picture_of
from jolly_copper.telling.shapes import Changed
from jolly_copper.telling.tracing import TakeAsked, TracedShape, read_back, taken_words, traced_shape

router = APIRouter(prefix="/api/layouts/{layout_id}")
Place = Annotated[float, Field(ge=-1e7, le=1e7, allow_inf_nan=False)]
Box = tuple[Place, Place, Place, Place]
NO_PICTURE = "There is no picture under the plan: choose one first."


class TraceAsked(BaseModel):
    """What is known of a picture. inks: the ones that are track, by number; what looks like it when not given.
    shortest: line kept, mm. only, leave: boxes on the plan, mm: left, top, right, bottom.
    drawn: as one line, or told by itself from two rails."""

    inks: Annotated[list[Annotated[int, Field(ge=0, le=20)]], Field(max_length=12)] | None = None
    shortest: Annotated[float, Field(ge=1, le=5000, allow_inf_nan=False)] | None = None
    only: Box | None = None
    leave: Annotated[list[Box], Field(max_length=60)] = []
    drawn: Literal["by itself", "one line"] = "by itself"


def _picture(store: Store, layout: Layout) -> tuple[Backdrop, str, bytes]:
    """The picture under the plan, what kind of file it is, and the file.

    Raises:
        HTTPException: there is none.
    """
    if layout.backdrop is None:
        raise HTTPException(422, NO_PICTURE)
    media, data = picture_of(store, layout.backdrop.picture)
    return layout.backdrop, media, data


class ProspectShape(BaseModel):
    """What can be said of the picture before it is traced. drawing: it has lines of its own. warning: what is against
    it, empty where nothing is."""

    drawing: bool
    warning: str


@router.get("/trace", response_model=ProspectShape)
def prospect(layout_id: str, store: StoreUsed) -> ProspectShape:
    """Whether the picture under the plan is fine enough for its scale, told before anybody waits for a trace."""
    layout = store.get(layout_id).layout
    under, media, _ = _picture(store, layout)
    mm = under.mm_per_pixel * shown_at(media, under.width, under.height)
    return ProspectShape(drawing=media == SVG, warning=against(gauge_in(layout.brief.scale, mm), under.width))


@router.post("/trace", response_model=TracedShape)
def trace_picture(layout_id: str, asked: TraceAsked, store: StoreUsed) -> StreamingResponse:
    """The picture under the plan traced: lines of JSON with what is being done, then the proposal. Changes nothing."""
    layout = store.get(layout_id).layout
    under, media, data = _picture(store, layout)

    def work(tell: Tell) -> TracedShape:
        tell({"doing": "Opening the picture"})
        try:
            pixels, factor, paper = to_trace(media, data, under.width, under.height)
        except FileRefused as error:
            raise DrawingError(str(error)) from None
        mm = under.mm_per_pixel * factor
        gauge = gauge_in(layout.brief.scale, mm)
        placed = Placed(under.x - paper * mm, under.y - paper * mm, mm)

        def box(b: Box) -> tuple[float, float, float, float]:
            x, y, _ = placed
            return (b[0] - x) / mm, (b[1] - y) / mm, (b[2] - x) / mm, (b[3] - y) / mm

        settings = Settings(
            gauge,
            None if asked.inks is None else tuple(asked.inks),
            None if asked.shortest is None else asked.shortest / mm,
            None if asked.only is None else box(asked.only),
            tuple(box(b) for b in asked.leave),
            asked.drawn,
        )
        try:
            found = trace(pixels, settings, lambda words: tell({"doing": words}))
        except NotTraced as error:
            raise DrawingError(str(error)) from None
        return traced_shape(found, placed, gauge, layout.brief.units)

    return streamed(work, "The trace")


class TakenShape(BaseModel):
    """What was laid of a traced picture."""

    tracks: int
    turnouts: int
    crossings: int
    tables: int
    loose_ends: int
    words: str
    changed: Changed


@router.post("/trace/take", response_model=TakenShape)
def take_trace(layout_id: str, asked: TakeAsked, store: StoreUsed, worked: WorkedUsed, scene: Scene = None) -> Response:
    """Lay the lines of a traced picture as track: one change of whatever the newest state is."""
    found = read_back(asked)
    like = Like(use=asked.use, code=asked.code).model_dump()
    uses = {ink: str(use) for ink, use in asked.uses.items()}
    report = LaidReport()

    def lay(current: Revision) -> tuple[list[dict[str, Any]], str]:
        nonlocal report
        sheet = Sheet(current.layout)
        report = lay_traced(sheet, found, [x.number for x in found.lines], Placed(0.0, 0.0, 1.0), like, uses)
        return sheet.patch(), f"Trace {many(report.tracks, 'track')} from the picture"

    revision = change_newest(store, layout_id, lay)
    taken = TakenShape(
        tracks=report.tracks,
        turnouts=report.turnouts,
        crossings=report.crossings,
        tables=report.tables,
        loose_ends=report.loose_ends,
        words=taken_words(report, revision.layout.brief.units),
        changed=whole_change(revision, worked, scene),
    )
    return Response(taken.model_dump_json(), media_type="application/json")


class StraightenAsked(BaseModel):
    """Four corners of the sheet, mm on the plan, and how large the sheet is, mm."""

    corners: Annotated[list[tuple[Place, Place]], Field(min_length=4, max_length=4)]
    wide: Annotated[float, Field(ge=50, le=200_000, allow_inf_nan=False)]
    high: Annotated[float, Field(ge=50, le=200_000, allow_inf_nan=False)]


class StraightShape(BaseModel):
    """The straightened picture, kept beside the photo: what stands under the plan once it is taken."""

    picture: str
    width: float
    height: float
    x: float
    y: float
    mm_per_pixel: float


@router.post("/straighten")
def straighten(layout_id: str, asked: StraightenAsked, store: StoreUsed) -> StraightShape:
    """The photo under the plan made square and to scale, as a picture of its own; the photo is kept."""
    under, media, data = _picture(store, store.get(layout_id).layout)
    if media == SVG:
        raise HTTPException(422, "A drawing is square already: set its scale, and trace it.")
    corners = [((x - under.x) / under.mm_per_pixel, (y - under.y) / under.mm_per_pixel) for x, y in asked.corners]
    square, width, height = straightened(data, corners, asked.wide, asked.high)
    return StraightShape(
        picture=keep_picture(store, "image/png", square),
        width=width,
        height=height,
        x=round(min(x for x, _ in asked.corners), 1),
        y=round(min(y for _, y in asked.corners), 1),
        mm_per_pixel=asked.wide / width,
    )
