"""Routes about signals: where they stand, what they show for trains on the plan, driving a train, the tables, the panel."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Any, Literal

from fastapi import APIRouter, HTTPException, Query, Response
from fastapi.responses import StreamingResponse
from pydantic import BaseModel, Field

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
from jolly_copper.core.signals.aspects import SCHOOLS, Signalling, lies_of
from jolly_copper.core.signals.heads import KIND_WORDS, MEANS
from jolly_copper.core.signals.interlocking import junctions
from jolly_copper.core.signals.occupancy import Standing, occupied, train_length
from jolly_copper.core.signals.outputs import driver_amps, outputs_of, resistor_for
from jolly_copper.core.signals.places import heading_of, signal_point
from jolly_copper.core.signals.routes import Leg, drive
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
        shapes.append(HeadDrawn(
            id=i, name=s.name, x=round(x, 1), y=round(y, 1), degrees=round(heading_of(layout, s), 1), kind=s.kind, heads=s.heads, aspects=s.aspects,
            track=s.track, at=s.at, towards=s.towards, lamps_text=", ".join(f"{o.number} {o.what.split(', ')[-1]}" for o in used if o.kind == "signal" and o.id == i),
            resistor_text=each if isinstance(each, str) else f"{print_ohms(each.ohms)}, {each.buy_watts:g} W, {print_current(each.amps)} and {each.watts * 1000:.0f} mW in it",
        ))  # fmt: skip
    drivers = []
    for i, d in sorted(layout.drivers.items(), key=lambda x: natural(x[1].name)):
        mine = [o for o in used if o.driver == i]
        drivers.append(DriverShape(
            id=i, name=d.name, drives=d.drives, x=d.at.x, y=d.at.y, outputs=d.outputs, used=len({o.number for o in mine}), first=d.address,
            asks_text=print_current(driver_amps(layout, i)), rows=[f"{o.number} (address {o.address}): {o.what}" for o in mine],
        ))  # fmt: skip
    rows = [
        RouteRow(
            signal=i, name=layout.signals[i].name, turnouts=", ".join(f"{layout.nodes[s.node].name or s.node} {s.lies}" for s in r.needs) or "none",
            clear=", ".join(known.names(r.sections)) or "nothing", leads=layout.signals[r.exit].name if r.exit else f"{layout.tracks[r.legs[-1].track].name}, {r.ends}",
            shows=aspect_words(known, r),
        )
        for i, routes in known.routes.items() for r in routes
    ]  # fmt: skip
    one_way = [OneWay(track=i, runs=t.runs) for i, t in layout.tracks.items() if t.runs != "both"]
    words = f"{len(shapes)} signals, {len(rows)} ways; {len(drivers)} driver boards." if shapes else "No signal yet."
    return as_json(
        SignalsShape(revision=found.number, signals=shapes, routes=rows, drivers=drivers, one_way=one_way, words=words)
    )


class PlacedTrain(BaseModel):
    """A train put on the plan for a look: its front, and the end of the track it faces. Not saved with the layout."""

    name: Annotated[str, Field(max_length=80)] = "Test engine"
    train: Annotated[str, Field(max_length=40)] | None = None
    track: Annotated[str, Field(max_length=40)]
    at: Annotated[float, Field(ge=0, le=1e7, allow_inf_nan=False)]
    towards: Literal["a", "b"] = "b"


class TrainsAsked(BaseModel):
    trains: Annotated[list[PlacedTrain], Field(max_length=40)] = []


class DriveAsked(TrainsAsked):
    """Drive one of the trains by so many mm. obeys: it does not pass a signal at stop."""

    drives: Annotated[int, Field(ge=0, le=39)] = 0
    distance: Annotated[float, Field(ge=0, le=20000, allow_inf_nan=False)] = 100
    obeys: bool = True
    turn: bool = Field(default=False, description="Face the other way first: its rear becomes its front.")


class LegShape(BaseModel):
    track: str
    start: float
    end: float


class ShownShape(BaseModel):
    """What a signal shows just now, and why."""

    aspect: str
    lights: list[str]
    means: str
    reasons: list[str]
    dark: bool
    legs: list[LegShape]


class MomentShape(BaseModel):
    """The railroad at one moment: where trains stand, what they light, what every head shows."""

    revision: int
    trains: list[PlacedTrain]
    stands: list[list[LegShape]]
    lit: list[int]
    unseen: list[int]
    shows: dict[str, ShownShape]
    stopped: str | None
    """Why the train that was driven stopped, in words; None where it came all the way."""


def _legs(legs: Sequence[Leg]) -> list[LegShape]:
    return [LegShape(track=leg.track, start=round(leg.low, 1), end=round(leg.high, 1)) for leg in legs]


def _standing(layout: Layout, known: Signalling, trains: Sequence[PlacedTrain]) -> list[Standing]:
    found = []
    for t in trains:
        if t.track not in layout.tracks:
            raise HTTPException(422, f"There is no track {t.track} to stand {t.name} on.")
        if t.train is not None and t.train not in layout.trains:
            raise HTTPException(422, f"There is no train {t.train}.")
        found.append(Standing(t.name, t.train, t.track, min(t.at, known.rails.lengths[t.track]), t.towards))
    return found


def _moment(
    layout: Layout, known: Signalling, revision: int, trains: list[PlacedTrain], stopped: str | None = None
) -> MomentShape:
    lies = lies_of(layout)
    stands = _standing(layout, known, trains)
    where = occupied(layout, known.rails, known.ways, known.sensed, stands, lies)
    shown = known.show(lies, where.lit)
    return MomentShape(
        revision=revision, trains=trains, stands=[_legs(legs) for legs in where.legs], lit=sorted(where.lit), unseen=sorted(where.unseen), stopped=stopped,
        shows={
            i: ShownShape(aspect=s.aspect, lights=["dark"] * len(s.lights) if s.dark else list(s.lights), means=MEANS[s.aspect], reasons=list(s.reasons), dark=s.dark,
                          legs=_legs(s.route.legs) if s.route else [])
            for i, s in shown.items()
        },
    )  # fmt: skip


@router.post("/layouts/{layout_id}/moment", response_model=MomentShape)
def moment(
    layout_id: str,
    asked: TrainsAsked,
    store: StoreUsed,
    worked: WorkedUsed,
    scene: Scene = None,
    revision: int | None = None,
) -> Response:
    """What trains placed on the plan light, and what every head shows. Nothing is saved."""
    found = store.get(layout_id, revision)
    known = worked.signalling(found, worked.facts(found, known_scene(found, scene)))
    return as_json(_moment(found.layout, known, found.number, asked.trains))


@router.post("/layouts/{layout_id}/moment/drive", response_model=MomentShape)
def drive_on(
    layout_id: str,
    asked: DriveAsked,
    store: StoreUsed,
    worked: WorkedUsed,
    scene: Scene = None,
    revision: int | None = None,
) -> Response:
    """Drive one train on as the turnouts lie, and look again."""
    found = store.get(layout_id, revision)
    layout = found.layout
    known = worked.signalling(found, worked.facts(found, known_scene(found, scene)))
    if asked.drives >= len(asked.trains):
        raise HTTPException(422, "That train is not on the plan any more.")
    lies, trains = lies_of(layout), list(asked.trains)
    stands = _standing(layout, known, trains)
    mine = stands[asked.drives]
    if asked.turn:
        back: Literal["a", "b"] = "a" if mine.towards == "b" else "b"
        rear = drive(layout, known.ways, mine.track, mine.at, back, train_length(layout, mine), lies)
        mine = Standing(mine.name, mine.train, rear.track, rear.at, rear.towards)
    stops: dict[tuple[str, str], list[tuple[float, str]]] = {}
    if asked.obeys:
        lit = occupied(layout, known.rails, known.ways, known.sensed, stands, lies).lit
        for i, s in known.show(lies, lit).items():
            if s.aspect == "stop":
                signal = layout.signals[i]
                stops.setdefault((signal.track, signal.towards), []).append((signal.at, i))
        for (_, towards), marks in stops.items():
            marks.sort(reverse=towards == "a")
    came = drive(layout, known.ways, mine.track, mine.at, mine.towards, asked.distance, lies, stops)
    trains[asked.drives] = trains[asked.drives].model_copy(
        update={"track": came.track, "at": round(came.at, 2), "towards": came.towards}
    )
    stopped = (
        f"{layout.signals[came.stopped].name} shows stop."
        if came.stopped in layout.signals
        else f"Stopped: {came.stopped}."
        if came.stopped
        else None
    )
    return as_json(_moment(layout, known, found.number, trains, stopped))


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
    layout_id: str, store: StoreUsed, revision: int | None = None, school: Literal["two aspects", "three aspects", "three aspects and diverging"] = "three aspects",
    kind: Literal["colour light", "searchlight", "semaphore"] = "colour light", approach_lit: bool = False, restricting: bool = True,
    outputs: Annotated[int, Query(ge=2, le=256)] = 18, turnouts: bool = True, only_main: bool = False,
) -> StreamingResponse:  # fmt: skip
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
        wire = plan.lamps.wire + plan.motors.wire
        words = [
            f"{len(heads)} signals",
            f"{boards} driver boards",
            f"{print_long_length(wire, layout.brief.units)} of cable ways to them",
        ]
        shared = sum(len(g) > 1 for g in plan.turnouts)
        if turnouts and plan.turnouts:
            words.append(
                f"{sum(len(g) for g in plan.turnouts)} turnouts on {len(plan.turnouts)} outputs, {shared} crossovers thrown together"
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
        schools=[RuleSetShape(name=n, why=w) for n, w in SCHOOLS.items()], kinds=[RuleSetShape(name=n, why=w) for n, w in KIND_WORDS.items()],
        means=[RuleSetShape(name=n, why=w) for n, w in MEANS.items()], signalled=sorted(SIGNALLED),
    )  # fmt: skip


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
        svg=sketch_svg(panel_sketch(layout, drawn), "panel"), width=drawn.width, height=drawn.height, columns=[c.title for c in table.columns],
        rows=[list(r) for r in table.rows], note=table.note,
    )  # fmt: skip


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
