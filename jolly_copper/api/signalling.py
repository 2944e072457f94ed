"""Routes about signals: where they stand, what they show for trains on the plan, driving a train, the tables, the
panel."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from fastapi import APIRouter, Query, Response
from fastapi.responses import StreamingResponse
from pydantic import BaseModel

from jolly_copper.api.files import download
from jolly_copper.api.shapes import MendShape
from jolly_copper.api.streaming import Tell, streamed
from jolly_copper.api.used import Scene, StoreUsed, WorkedUsed, as_json, known_scene
from jolly_copper.core.drawing.sheet import DrawingError
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.ids import natural
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.proposals.signalling import SIGNALLED, make_signals, propose_signals
from jolly_copper.core.quantities import print_current, print_long_length, print_ohms
from jolly_copper.core.signals.aspects import SCHOOLS
from jolly_copper.core.signals.heads import KIND_WORDS, MEANS
from jolly_copper.core.signals.interlocking import junctions
from jolly_copper.core.signals.outputs import driver_amps, outputs_of, resistor_for
from jolly_copper.core.signals.places import heading_of, signal_point
from jolly_copper.core.wirebook.book import Table, footer
from jolly_copper.core.wirebook.panel import Panel, draw_panel, panel_sketch
from jolly_copper.core.wirebook.signal_pages import aspect_words, junction_table, panel_list
from jolly_copper.exchange.panel_pdf import PaperSize, panel_pdf
from jolly_copper.exchange.sketch_svg import sketch_svg

router = APIRouter(prefix="/api")


class HeadDrawn(BaseModel):
    """A signal as the plan draws it. degrees: the way trains run that it is for, clockwise from east."""

    id: str
    name: str
    x: float
    y: float
    degrees: float
    kind: str
    heads: int
    aspects: int
    track: str
    at: float
    towards: Literal["a", "b"]
    lamps_text: str
    resistor_text: str


class RouteRow(BaseModel):
    """One way of a signal in the aspect table."""

    signal: str
    name: str
    turnouts: str
    clear: str
    leads: str
    shows: str


class JunctionShape(BaseModel):
    """An interlocking table."""

    title: str
    columns: list[str]
    rows: list[list[str]]
    proof: str


class DriverShape(BaseModel):
    id: str
    name: str
    drives: str
    x: float
    y: float
    outputs: int
    used: int
    first: int
    asks_text: str
    rows: list[str]


class OneWay(BaseModel):
    """A track with a rule of running, drawn as an arrow."""

    track: str
    runs: Literal["forward", "backward"]


class SignalsShape(BaseModel):
    """All that step Signal and look Signals show, but for the aspects of the moment."""

    revision: int
    signals: list[HeadDrawn]
    routes: list[RouteRow]
    drivers: list[DriverShape]
    one_way: list[OneWay]
    words: str


@router.get("/layouts/{layout_id}/signals", response_model=SignalsShape)
def signals(
    layout_id: str, store: StoreUsed, worked: WorkedUsed, scene: Scene = None, revision: int | None = None
) -> Response:
    found = store.get(layout_id, revision)
    facts = worked.facts(found, known_scene(found, scene))
    known, layout = worked.signalling(found, facts), facts.layout
    used = outputs_of(layout)
    shapes = []
    for i in known.routes:
        s = layout.signals[i]
        x, y = signal_point(layout, s)
        driver = layout.drivers[s.driver] if s.driver else None
        each = resistor_for(driver, s) if driver else "no driver yet"
        shapes.append(
            HeadDrawn(
                id=i,
                name=s.name,
                x=round(x, 1),
                y=round(y, 1),
                degrees=round(heading_of(layout, s), 1),
                kind=s.kind,
                heads=s.heads,
                aspects=s.aspects,
                track=s.track,
                at=s.at,
                towards=s.towards,
                lamps_text=", ".join(
                    f"{o.number} {o.what.split(', ')[-1]}" for o in used if o.kind == "signal" and o.id == i
                ),
                resistor_text=each
                if isinstance(each, str)
                else f"{print_ohms(each.ohms)}, {each.buy_watts:g} W, {print_current(each.amps)} and "
                f"{each.watts * 1000:.0f} mW in it",
            )
        )
    drivers = []
    for i, d in sorted(layout.drivers.items(), key=lambda x: natural(x[1].name)):
        mine = [o for o in used if o.driver == i]
        drivers.append(
            DriverShape(
                id=i,
                name=d.name,
                drives=d.drives,
                x=d.at.x,
                y=d.at.y,
                outputs=d.outputs,
                used=len({o.number for o in mine}),
                first=d.address,
                asks_text=print_current(driver_amps(layout, i)),
                rows=[f"{o.number} (address {o.address}): {o.what}" for o in mine],
            )
        )
    rows = [
        RouteRow(
            signal=i,
            name=layout.signals[i].name,
            turnouts=", ".join(f"{layout.nodes[s.node].name or s.node} {s.lies}" for s in r.needs) or "none",
            clear=", ".join(known.names(r.sections)) or "nothing",
            leads=layout.signals[r.exit].name if r.exit else f"{layout.tracks[r.legs[-1].track].name}, {r.ends}",
            shows=aspect_words(known, r),
        )
        for i, routes in known.routes.items()
        for r in routes
    ]
    one_way = [OneWay(track=i, runs=t.runs) for i, t in layout.tracks.items() if t.runs != "both"]
    hear = sum(d.drives == "buttons" for d in layout.drivers.values())
    boards = f"{len(drivers) - hear} driver boards" + (f", {hear} of inputs" if hear else "")
    words = f"{len(shapes)} signals, {len(rows)} ways; {boards}." if shapes else "No signal yet."
    return as_json(
        SignalsShape(revision=found.number, signals=shapes, routes=rows, drivers=drivers, one_way=one_way, words=words)
    )


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

    return [shape(junction_table(known, j)) for j in junctions(known)]


class ProposedHead(BaseModel):
    x: float
    y: float
    degrees: float
    words: str


class SignallingShape(BaseModel):
    """Signals proposed, and the change that sets them."""

    words: list[str]
    heads: list[ProposedHead]
    change: MendShape


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


class RuleSetShape(BaseModel):
    name: str
    why: str


class SignallingSchools(BaseModel):
    schools: list[RuleSetShape]
    kinds: list[RuleSetShape]
    means: list[RuleSetShape]
    signalled: list[str]


@router.get("/signalling-schools")
def signalling_schools() -> SignallingSchools:
    """The sets of rules, kinds of head and meanings there are."""
    return SignallingSchools(
        schools=[RuleSetShape(name=n, why=w) for n, w in SCHOOLS.items()],
        kinds=[RuleSetShape(name=n, why=w) for n, w in KIND_WORDS.items()],
        means=[RuleSetShape(name=n, why=w) for n, w in MEANS.items()],
        signalled=sorted(SIGNALLED),
    )


Wide = Annotated[float, Query(ge=200, le=2000, allow_inf_nan=False)]


class PanelShape(BaseModel):
    """The panel to look at, and its list of holes."""

    svg: str
    width: float
    height: float
    columns: list[str]
    rows: list[list[str]]
    note: str


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
