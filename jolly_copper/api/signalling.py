"""Routes about signals: where they stand, what they show for trains on the plan, driving a train, the tables, the
panel."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from fastapi import APIRouter, Query, Response
from fastapi.responses import StreamingResponse

from jolly_copper.api.files import download
from jolly_copper.api.streaming import Tell, streamed
from jolly_copper.api.used import Scene, StoreUsed, WorkedUsed, as_json, known_scene
from jolly_copper.core.drawing.sheet import DrawingError
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.proposals.signalling import make_signals, propose_signals
from jolly_copper.core.quantities import print_long_length
from jolly_copper.core.signals.interlocking import junctions
from jolly_copper.core.signals.places import heading_of, signal_point
from jolly_copper.core.wirebook.book import Table, footer
from jolly_copper.core.wirebook.panel import Panel, draw_panel, panel_sketch
from jolly_copper.core.wirebook.signal_pages import direction_table, junction_table, panel_list
from jolly_copper.exchange.panel_pdf import PaperSize, panel_pdf
from jolly_copper.exchange.sketch_svg import sketch_svg
from jolly_copper.telling.shapes import MendShape
from jolly_copper.telling.signalling import (
    JunctionShape,
    PanelShape,
    ProposedHead,
    SignallingSchools,
    SignallingShape,
    SignalsShape,
    schools_shape,
    signals_shape,
)

router = APIRouter(prefix="/api")


@router.get("/layouts/{layout_id}/signals", response_model=SignalsShape)
def signals(
    layout_id: str, store: StoreUsed, worked: WorkedUsed, scene: Scene = None, revision: int | None = None
) -> Response:
    found = store.get(layout_id, revision)
    facts = worked.facts(found, known_scene(found, scene))
    return as_json(signals_shape(facts, worked.signalling(found, facts), found.number))


@router.get("/layouts/{layout_id}/interlocking")
def interlocking(
    layout_id: str, store: StoreUsed, worked: WorkedUsed, scene: Scene = None, revision: int | None = None
) -> list[JunctionShape]:
    """Every junction's table, each proved by search."""
    found = store.get(layout_id, revision)
    known = worked.signalling(found, worked.facts(found, known_scene(found, scene)))

    def shape(table: Table) -> JunctionShape:
        return JunctionShape(
            title=table.title,
            columns=[c.title for c in table.columns],
            rows=[list(r) for r in table.rows],
            proof=table.note,
        )

    locks = direction_table(known)
    tables = [junction_table(known, j) for j in junctions(known)]
    return [shape(t) for t in [*tables, *([locks] if locks is not None else [])]]


@router.get("/layouts/{layout_id}/signalling", response_model=SignallingShape)
def signalling(
    layout_id: str,
    store: StoreUsed,
    revision: int | None = None,
    school: Literal["two aspects", "three aspects", "three aspects and diverging"] = "three aspects",
    kind: Literal["colour light", "searchlight", "semaphore"] = "colour light",
    approach_lit: bool = False,
    restricting: bool = True,
    outputs: Annotated[int, Query(ge=2, le=256)] = 18,
    turnouts: bool = True,
    only_main: bool = False,
) -> StreamingResponse:
    """Signals proposed: lines of JSON with what is being worked out, then one with `answer`."""
    found = store.get(layout_id, revision)

    def work(tell: Tell) -> SignallingShape:
        before = found.layout
        brief = before.brief
        wishes: dict[str, Any] = {
            "school": school,
            "kind": kind,
            "approach_lit": approach_lit,
            "restricting": restricting,
            "outputs": outputs,
        }
        layout = before.model_copy(
            update={"brief": brief.model_copy(update={"signalling": brief.signalling.model_copy(update=wishes)})}
        )
        tell({"doing": "where signals belong"})
        heads = propose_signals(layout)
        if only_main:
            heads = [h for h in heads if layout.tracks[h.track].use == "main"]
        tell({"doing": "lamps, motors and their boards"})
        patch, plan = make_signals(layout, heads, turnouts)
        keep = {"op": "replace", "path": "/brief/signalling", "value": layout.brief.signalling.model_dump(mode="json")}
        then = apply_patch(layout, patch)
        fresh = [i for i in then.signals if i not in layout.signals]
        shapes = []
        for i, head in zip(fresh, heads, strict=True):
            x, y = signal_point(then, then.signals[i])
            shapes.append(
                ProposedHead(
                    x=round(x, 1),
                    y=round(y, 1),
                    degrees=round(heading_of(then, then.signals[i]), 1),
                    words=f"{then.signals[i].name} on {then.tracks[head.track].name}: {head.why}",
                )
            )
        boards = len(then.drivers) - len(layout.drivers)
        wire = plan.lamps.wire + plan.motors.wire + plan.reports.wire
        words = [
            f"{len(heads)} signals",
            f"{boards} driver boards",
            f"{print_long_length(wire, layout.brief.units)} of cable ways to them",
        ]
        shared = sum(len(g) > 1 for g in plan.turnouts)
        if turnouts and plan.turnouts:
            words.append(
                f"{sum(len(g) for g in plan.turnouts)} turnouts on {len(plan.turnouts)} outputs, {shared} crossovers "
                f"thrown together"
            )
        if plan.buttons or plan.reports.members:
            words.append(
                f"{sum(len(m) for m in plan.reports.members)} reports and {plan.buttons} buttons of the panel on inputs"
            )
        label = f"Set {len(heads)} signals" if heads else "Outputs for signals and turnouts"
        return SignallingShape(words=words, heads=shapes, change=MendShape(label=label, patch=[keep, *patch]))

    return streamed(work, "The signals")


@router.get("/layouts/{layout_id}/signals-off")
def signals_off(layout_id: str, store: StoreUsed, revision: int | None = None) -> MendShape:
    """The change that takes all signals and the boards of their lamps off."""
    layout = store.get(layout_id, revision).layout
    if not layout.signals:
        raise DrawingError("There is no signal to take away.")
    lamps = [i for i, d in layout.drivers.items() if d.drives == "lamps"]
    patch = [{"op": "remove", "path": f"/signals/{i}"} for i in layout.signals] + [
        {"op": "remove", "path": f"/drivers/{i}"} for i in lamps
    ]
    return MendShape(label=f"Take away {len(layout.signals)} signals and {len(lamps)} driver boards", patch=patch)


@router.get("/signalling-schools")
def signalling_schools() -> SignallingSchools:
    """The sets of rules, kinds of head and meanings there are."""
    return schools_shape()


Wide = Annotated[float, Query(ge=200, le=2000, allow_inf_nan=False)]


@router.get("/layouts/{layout_id}/panel")
def panel(layout_id: str, store: StoreUsed, width: Wide = 600, revision: int | None = None) -> PanelShape:
    layout = store.get(layout_id, revision).layout
    drawn = _panel(layout, width)
    table = panel_list(drawn)
    return PanelShape(
        svg=sketch_svg(panel_sketch(layout, drawn), "panel"),
        width=drawn.width,
        height=drawn.height,
        columns=[c.title for c in table.columns],
        rows=[list(r) for r in table.rows],
        note=table.note,
    )


def _panel(layout: Layout, width: float) -> Panel:
    try:
        return draw_panel(layout, width)
    except ValueError as error:
        raise DrawingError(str(error)) from None


@router.get("/layouts/{layout_id}/files/panel.svg")
def panel_svg(
    layout_id: str, store: StoreUsed, width: Wide = 600, template: bool = False, revision: int | None = None
) -> Response:
    """The panel, or the template to drill it by, as SVG in true millimetres."""
    found = store.get(layout_id, revision)
    drawn = sketch_svg(
        panel_sketch(found.layout, _panel(found.layout, width), template),
        footer="" if template else footer(found.layout.name, found.number, found.made[:10]),
    )
    return download(drawn, "image/svg+xml", f"{layout_id}-panel-{found.number}.svg")


@router.get("/layouts/{layout_id}/files/panel.pdf")
def panel_file(
    layout_id: str, store: StoreUsed, width: Wide = 600, paper: PaperSize = "A4", revision: int | None = None
) -> Response:
    """The template to drill by, 1 to 1: on sheets to stick together, or on one large sheet; with its list of holes."""
    found = store.get(layout_id, revision)
    drawn = _panel(found.layout, width)
    made = panel_pdf(
        panel_sketch(found.layout, drawn, template=True),
        panel_list(drawn),
        paper,
        footer(found.layout.name, found.number, found.made[:10]),
    )
    return download(made, "application/pdf", f"{layout_id}-panel-{found.number}.pdf")
