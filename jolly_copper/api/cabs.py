"""Step Cabs: who drives what, blocks for cabs, links, stops and isolated rails proposed, and panels with their
backs."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, Query
from fastapi.responses import Response, StreamingResponse
from pydantic import BaseModel

from jolly_copper.api.files import download
from jolly_copper.api.streaming import Tell, streamed
from jolly_copper.api.used import Scene, StoreUsed, WorkedUsed, known_scene
from jolly_copper.core.drawing.sheet import DrawingError
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.proposals.cabs.link import link_controls
from jolly_copper.core.proposals.cabs.make import CabWishes, block_for_cabs
from jolly_copper.core.proposals.cabs.stops import Place, hold_at_signal, make_shuttle, stop_here
from jolly_copper.core.proposals.cabs.three_rail import isolate_rail, throttle_to_loop
from jolly_copper.core.proposals.choosing import Club
from jolly_copper.core.proposals.supplying import share_supplies
from jolly_copper.core.wirebook.book import footer
from jolly_copper.core.wirebook.cab_pages import bench_jobs, lamp_words, pin_table, strip_table, with_lamps
from jolly_copper.core.wirebook.panel import Panel, draw_panel, panel_sketch
from jolly_copper.core.wirebook.panel_cables import cable_table
from jolly_copper.core.wirebook.signal_pages import panel_list
from jolly_copper.core.wirebook.switch_backs import panel_back
from jolly_copper.core.wirebook.switch_pictures import back_sketch
from jolly_copper.exchange.panel_pdf import PaperSize, panel_pdf
from jolly_copper.exchange.sketch_svg import sketch_svg
from jolly_copper.telling.cab_offers import (
    CabBlocksShape,
    ControlOffer,
    cab_blocks_shape,
    isolated_shape,
    link_shape,
    loops_shape,
    spans_of,
    stops_shape,
)
from jolly_copper.telling.cabs import CabsShape, cabs_shape
from jolly_copper.telling.choosing import ChoosingShape, SupplyingShape, choosing_shape, supplying_shape

router = APIRouter(prefix="/api")
Along = Annotated[float, Query(ge=0, le=1e7, allow_inf_nan=False)]
Seconds = Annotated[float | None, Query(ge=0, le=3600, allow_inf_nan=False)]
Towards = Literal["a", "b"]


@router.get("/layouts/{layout_id}/cabs")
def cabs(
    layout_id: str, store: StoreUsed, worked: WorkedUsed, scene: Scene = None, revision: int | None = None
) -> CabsShape:
    """Which source drives what, as selectors lie in the scene; how every selector may lie."""
    found = store.get(layout_id, revision)
    return cabs_shape(worked.facts(found, known_scene(found, scene)))


@router.get("/layouts/{layout_id}/cab-blocks", response_model=CabBlocksShape)
def cab_blocks(
    layout_id: str,
    store: StoreUsed,
    school: Literal["both rails", "common rail"] = "both rails",
    cabs: Annotated[int, Query(ge=1, le=11)] = 2,
    shortest: Annotated[float | None, Query(ge=100, le=1e5, allow_inf_nan=False)] = None,
    revision: int | None = None,
) -> StreamingResponse:
    """Blocks for cabs proposed: lines of JSON with what is being worked out, then one with `answer`."""
    layout = store.get(layout_id, revision).layout

    def work(tell: Tell) -> CabBlocksShape:
        tell({"doing": "gaps and blocks"})
        wishes = CabWishes(school, cabs, shortest)
        return cab_blocks_shape(block_for_cabs(layout, wishes, lambda doing: tell({"doing": doing})))

    return streamed(work, "The blocks for cabs")


@router.get("/layouts/{layout_id}/cab-link")
def cab_link(
    layout_id: str, track: str, at: Along, store: StoreUsed, worked: WorkedUsed, revision: int | None = None
) -> ControlOffer:
    """The block beside a gap made one of either control, with buffers."""
    facts = worked.facts(store.get(layout_id, revision), None)
    return link_shape(facts, link_controls(facts, track, at))


@router.get("/layouts/{layout_id}/stops")
def stops(
    layout_id: str,
    kind: Literal["stop", "signal", "shuttle"],
    store: StoreUsed,
    worked: WorkedUsed,
    track: str = "",
    at: Along = 0,
    towards: Towards = "b",
    other_track: str = "",
    other_at: Along = 0,
    other_towards: Towards = "a",
    signal: str = "",
    train: str | None = None,
    seconds: Seconds = 15,
    revision: int | None = None,
) -> ControlOffer:
    """A station stop, a stop before a signal, or a shuttle between two places."""
    facts = worked.facts(store.get(layout_id, revision), None)
    if kind == "signal":
        made, label = hold_at_signal(facts, signal, train), f"Hold at signal {signal}"
    elif kind == "stop":
        made, label = stop_here(facts, Place(track, at, towards), train, seconds), "Stop here"
    else:
        ends = Place(track, at, towards), Place(other_track, other_at, other_towards)
        made, label = make_shuttle(facts, *ends, train, seconds), "Shuttle between here and there"
    return stops_shape(facts, made, label, spans_of(made.patch))


@router.get("/layouts/{layout_id}/isolated-rail")
def isolated_rail(
    layout_id: str,
    track: str,
    at: Along,
    store: StoreUsed,
    worked: WorkedUsed,
    works: Annotated[str, Query(min_length=1, max_length=80)] = "Crossing gate",
    seconds: Annotated[float | None, Query(ge=0, le=600, allow_inf_nan=False)] = None,
    revision: int | None = None,
) -> ControlOffer:
    """An outer rail isolated round a place, long enough for what it works."""
    facts = worked.facts(store.get(layout_id, revision), None)
    return isolated_shape(facts, isolate_rail(facts, track, at, works, seconds), works)


@router.get("/layouts/{layout_id}/throttle-loops")
def throttle_loops(layout_id: str, store: StoreUsed, worked: WorkedUsed, revision: int | None = None) -> ControlOffer:
    """A transformer output for each loop of three-rail track, with gaps in the centre rail."""
    facts = worked.facts(store.get(layout_id, revision), None)
    return loops_shape(facts, throttle_to_loop(facts.layout))


Count = Annotated[int, Query(ge=0, le=500)]


@router.get("/layouts/{layout_id}/choosing")
def choosing(
    layout_id: str,
    store: StoreUsed,
    trains: Annotated[int, Query(ge=1, le=100)] = 2,
    operators: Annotated[int, Query(ge=1, le=100)] = 2,
    sound: bool = False,
    automation: bool = False,
    plain: Count = 6,
    fitted: Count = 0,
    budget: Annotated[float | None, Query(ge=0, le=1e7, allow_inf_nan=False)] = None,
    revision: int | None = None,
) -> ChoosingShape:
    """Every control weighed for this plan and a club's wishes."""
    layout = store.get(layout_id, revision).layout
    return choosing_shape(layout, Club(trains, operators, sound, automation, plain, fitted, budget))


@router.get("/layouts/{layout_id}/supplying")
def supplying(
    layout_id: str, store: StoreUsed, worked: WorkedUsed, scene: Scene = None, revision: int | None = None
) -> SupplyingShape:
    """The club's supplies shared out to its boxes, with what to do where one gives too little."""
    found = store.get(layout_id, revision)
    facts = worked.facts(found, known_scene(found, scene))
    return supplying_shape(facts.layout, share_supplies(facts))


class TableShape(BaseModel):
    title: str
    columns: list[str]
    kinds: list[str]
    rows: list[list[str]]
    note: str


class ControlPanelShape(BaseModel):
    """A control panel: its front to look at, its back pin by pin, and what it takes."""

    name: str
    front_svg: str
    back_svg: str
    width: float
    height: float
    tables: list[TableShape]
    jobs: list[str]
    parts: list[str]


def _drawn(layout: Layout, panel: str) -> Panel:
    if panel not in layout.panels:
        raise DrawingError(f"There is no control panel {panel}; somebody may have removed it.")
    try:
        return draw_panel(layout, layout.panels[panel].width, panel)
    except ValueError as error:
        raise DrawingError(str(error)) from None


@router.get("/layouts/{layout_id}/panels/{panel}")
def control_panel(layout_id: str, panel: str, store: StoreUsed, revision: int | None = None) -> ControlPanelShape:
    """The front and the back of a control panel."""
    layout = store.get(layout_id, revision).layout
    drawn = _drawn(layout, panel)
    back, name = with_lamps(panel_back(layout, panel), drawn), layout.panels[panel].name
    tables = [
        t
        for t in (pin_table(back), strip_table(back), panel_list(drawn), cable_table(drawn, layout.brief.units))
        if t is not None
    ]
    return ControlPanelShape(
        name=name,
        front_svg=sketch_svg(panel_sketch(layout, drawn), "front"),
        back_svg=sketch_svg(back_sketch(back, name), "back"),
        width=drawn.width,
        height=drawn.height,
        tables=[
            TableShape(
                title=t.title,
                columns=[c.title for c in t.columns],
                kinds=[c.kind for c in t.columns],
                rows=[list(r) for r in t.rows],
                note=t.note,
            )
            for t in tables
        ],
        jobs=list(bench_jobs(back)),
        parts=[f"{n} × {what}" for n, what in back.parts] + [w for w in [lamp_words(back, drawn)] if w],
    )


@router.get("/layouts/{layout_id}/files/panels/{panel}.pdf")
def control_panel_file(
    layout_id: str, panel: str, store: StoreUsed, paper: PaperSize = "A4", revision: int | None = None
) -> Response:
    """The template to drill a control panel by, 1 to 1, with its list of holes."""
    found = store.get(layout_id, revision)
    drawn = _drawn(found.layout, panel)
    made = panel_pdf(
        panel_sketch(found.layout, drawn, template=True),
        panel_list(drawn),
        paper,
        footer(found.layout.name, found.number, found.made[:10]),
    )
    return download(made, "application/pdf", f"{layout_id}-{panel}-{found.number}.pdf")


@router.get("/layouts/{layout_id}/files/panels/{panel}-back.svg")
def control_panel_back(layout_id: str, panel: str, store: StoreUsed, revision: int | None = None) -> Response:
    """The back of a control panel as SVG, every pin numbered."""
    found = store.get(layout_id, revision)
    _drawn(found.layout, panel)
    back, name = panel_back(found.layout, panel), found.layout.panels[panel].name
    drawn = sketch_svg(back_sketch(back, name), footer=footer(found.layout.name, found.number, found.made[:10]))
    return download(drawn, "image/svg+xml", f"{layout_id}-{panel}-back-{found.number}.svg")
