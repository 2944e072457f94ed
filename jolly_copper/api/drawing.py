"""Routes for drawing: new layouts, acts on the plan, pictures to draw over, files taken in and given out."""

from __future__ import annotations

import io
from typing import Annotated, Any, Literal

from fastapi import APIRouter, HTTPException, Query, Request, Response
from pydantic import BaseModel

from jolly_copper.api.files import Content
from jolly_copper.api.layouts import add_under_free_id
from jolly_copper.api.used import (
    Holds,
    Scene,
    StoreUsed,
    WorkedUsed,
    change_newest,
    changed,
    known_scene,
    what_is_held,
    whole_change,
)
from jolly_copper.core.drawing.acts import Act, CutGap, Like, perform
from jolly_copper.core.drawing.after_cut import after_cut
from jolly_copper.core.drawing.sheet import Sheet
from jolly_copper.core.drawing.taking_in import Report, take_in
from jolly_copper.core.layout.document import Brief, Control, Layout, Scale
from jolly_copper.core.layout.fields import Name
from jolly_copper.core.layout.stock import TrackUse
from jolly_copper.core.materials.sources import usual_source
from jolly_copper.core.quantities import print_long_length
from jolly_copper.exchange import dxf, graph, svg
from jolly_copper.exchange.cells import FileRefused
from jolly_copper.exchange.drawn import pdf_page
from jolly_copper.store import Revision, Store
from jolly_copper.store.pictures import keep_picture, picture_of
from jolly_copper.telling import answering, shapes

router = APIRouter(prefix="/api")


class NewLayout(BaseModel):
    name: Name
    scale: Scale = "HO"
    control: Control = "dcc"
    units: Literal["imperial", "metric"] = "imperial"


@router.post("/layouts/new", status_code=201)
def new_layout(wanted: NewLayout, store: StoreUsed) -> shapes.State:
    """An empty layout to draw on."""
    volts = usual_source(wanted.scale, wanted.control).volts
    brief = Brief(scale=wanted.scale, control=wanted.control, units=wanted.units, track_volts=volts)
    return answering.state(add_under_free_id(store, Layout(name=wanted.name, brief=brief)))


class ToDo(BaseModel):
    act: Act


@router.post("/layouts/{layout_id}/draw", response_model=shapes.Changed)
def draw(
    layout_id: str, todo: ToDo, store: StoreUsed, worked: WorkedUsed, scene: Scene = None, holds: Holds = None
) -> Response:
    """Do an act on the newest revision. An act says what is meant, so one done from an older view still fits or says
    why not."""
    made: shapes.Made | None = None

    def done_to(current: Revision) -> tuple[list[dict[str, Any]], str]:
        nonlocal made
        done = perform(worked.facts(current, known_scene(current, scene)), todo.act)
        made = shapes.Made(kind=done.made[0], id=done.made[1]) if done.made else None
        return done.patch, done.summary

    revision = change_newest(store, layout_id, done_to)
    note = None
    if isinstance(todo.act, CutGap):
        note = after_cut(worked.facts(revision, known_scene(revision, scene)), todo.act)
    return changed(revision, worked, scene, made, note, what_is_held(store, layout_id, holds))


# --- pictures and files


class PictureKept(BaseModel):
    """A picture kept. pages: of the PDF it is a page of."""

    picture: str
    pages: int = 1
    mm_per_pixel: float | None = None
    width: float | None = None
    height: float | None = None
    x: float = 0
    y: float = 0


MAGIC = {
    "image/png": (b"\x89PNG",),
    "image/jpeg": (b"\xff\xd8\xff",),
    "image/webp": (b"RIFF",),
    "image/svg+xml": (b"<",),
}


@router.post("/pictures", status_code=201)
def add_picture(
    request: Request, data: Content, store: StoreUsed, page: Annotated[int, Query(ge=1, le=100_000)] = 1
) -> PictureKept:
    """Keep a picture to draw over: PNG, JPEG, WebP or SVG as the body, a DXF drawing, which is drawn as lines, or one
    page of a PDF."""
    media = request.headers.get("content-type", "").split(";")[0].strip()
    if data.lstrip()[:5] == b"%PDF-":
        shown = pdf_page(data, page)
        kept = keep_picture(store, "image/png", shown.png)
        return PictureKept(picture=kept, pages=shown.pages, width=shown.width, height=shown.height)
    if media not in MAGIC:
        try:
            drawing = dxf.read_dxf(data)
        except FileRefused:
            raise HTTPException(
                422, "A picture to draw over is PNG, JPEG, WebP, SVG, DXF or PDF; this is none of them."
            ) from None
        return _lines_as_picture(store, drawing)
    if not data.lstrip().startswith(MAGIC[media]):
        raise HTTPException(422, "The file is not the kind of picture its name says.")
    if media == "image/svg+xml":
        svg.read_svg(data)  # refuses what no drawing needs
    return PictureKept(picture=keep_picture(store, media, data))


def _lines_as_picture(store: Store, drawing: dxf.Drawing) -> PictureKept:
    if not drawing.lines:
        raise HTTPException(422, "There are no lines in this drawing.")
    text, box = svg.write_lines(drawing.lines)
    x, y, width, height = box
    pixels = 4000 / max(width, height)
    return PictureKept(
        picture=keep_picture(store, "image/svg+xml", text.encode()),
        mm_per_pixel=1 / pixels,
        width=width * pixels,
        height=height * pixels,
        x=x,
        y=y,
    )


@router.get("/pictures/{name}")
def picture(name: str, store: StoreUsed) -> Response:
    media, data = picture_of(store, name)
    guard = {
        "Content-Security-Policy": "default-src 'none'; style-src 'unsafe-inline'; sandbox",
        "X-Content-Type-Options": "nosniff",
    }
    return Response(data, media_type=media, headers=guard)


FileKind = Literal["dxf", "svg", "csv"]
READERS = {"dxf": dxf.read_dxf, "svg": svg.read_svg, "csv": graph.read_tracks}
MmPerUnit = Annotated[float | None, Query(gt=1e-6, le=1e6, allow_inf_nan=False)]


class Layer(BaseModel):
    name: str
    lines: int


class Looked(BaseModel):
    """What a drawing holds, before any of it is taken."""

    layers: list[Layer]
    lines: int
    left_out: dict[str, int]
    mm_per_unit: float
    unit_known: bool
    size_text: str


@router.post("/take-in/look")
def look(
    data: Content, kind: FileKind, mm_per_unit: MmPerUnit = None, units: Literal["imperial", "metric"] = "imperial"
) -> Looked:
    """Look into a DXF, SVG or CSV file: its layers, its size, what cannot be taken."""
    drawing = READERS[kind](data, mm_per_unit)
    xs = [v.x for line in drawing.lines for v in line.path]
    ys = [v.y for line in drawing.lines for v in line.path]
    size = "nothing to draw"
    if xs:
        size = f"{print_long_length(max(xs) - min(xs), units)} by {print_long_length(max(ys) - min(ys), units)}"
    layers = [Layer(name=n, lines=c) for n, c in drawing.layers.items()]
    return Looked(
        layers=layers,
        lines=len(drawing.lines),
        left_out=drawing.left_out,
        mm_per_unit=drawing.mm_per_unit,
        unit_known=drawing.unit_known,
        size_text=size,
    )


class Taken(BaseModel):
    """What was taken of a drawing and what was not."""

    tracks: int
    joints: int
    turnouts: int
    crossings: int
    loose_ends: int
    left_out: dict[str, int]
    changed: shapes.Changed


@router.post("/layouts/{layout_id}/take-in", response_model=Taken)
def take(
    layout_id: str,
    data: Content,
    kind: FileKind,
    store: StoreUsed,
    worked: WorkedUsed,
    scene: Scene = None,
    layers: Annotated[list[str] | None, Query(max_length=500)] = None,
    mm_per_unit: MmPerUnit = None,
    tolerance: Annotated[float, Query(ge=0, le=200, allow_inf_nan=False)] = 5.0,
    use: TrackUse = "main",
    code: Annotated[int, Query(ge=25, le=400)] = 83,
) -> Response:
    """Take the lines of chosen layers in as joined track, as one change."""
    drawing = READERS[kind](data, mm_per_unit)
    lines = [x for x in drawing.lines if not layers or x.layer in layers or kind == "csv"]
    if not lines:
        raise HTTPException(422, "There is nothing to take: no lines on those layers.")
    like = Like(use=use, code=code).model_dump()
    report = Report()

    def taken_in(current: Revision) -> tuple[list[dict[str, Any]], str]:
        nonlocal report
        sheet, report = Sheet(current.layout), Report()
        for why, count in drawing.left_out.items():
            report.leave(why, count)
        take_in(sheet, lines, tolerance, like, report)
        return sheet.patch(), f"Take in {report.tracks} tracks from a {kind.upper()} file"

    revision = change_newest(store, layout_id, taken_in)
    after = whole_change(revision, worked, scene)
    taken = Taken(
        tracks=report.tracks,
        joints=report.joints,
        turnouts=report.turnouts,
        crossings=report.crossings,
        loose_ends=report.loose_ends,
        left_out=dict(report.left_out),
        changed=after,
    )
    return Response(taken.model_dump_json(), media_type="application/json")


GIVEN = {
    "plan.dxf": (dxf.write_dxf, "image/vnd.dxf"),
    "plan.svg": (svg.write_svg, "image/svg+xml"),
    "tracks.csv": (graph.write_tracks, "text/csv; charset=utf-8"),
    "track-graph.graphml": (graph.write_graphml, "application/xml"),
}


@router.get("/layouts/{layout_id}/plan-files/{name}")
def plan_file(layout_id: str, name: str, store: StoreUsed) -> Response:
    """The plan as DXF or SVG, its tracks as CSV, or the track graph as GraphML."""
    if name not in GIVEN:
        raise HTTPException(404, f"There is no file {name}; there are {', '.join(GIVEN)}.")
    found = store.get(layout_id)
    write, media = GIVEN[name]
    text = write(found.layout)
    full = f"{layout_id}-{found.number}-{name}"
    return Response(
        io.BytesIO(text.encode()).getvalue(),
        media_type=media,
        headers={"Content-Disposition": f'attachment; filename="{full}"'},
    )
