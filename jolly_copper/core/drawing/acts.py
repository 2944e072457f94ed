"""Every act a person can do on the plan, as data, and the one function that does it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Annotated, Any, Literal

from pydantic import Field

from jolly_copper.core.circuits.edits import Patch
from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.drawing import accessory, copper, crossings, levers, moving, nodes, nudging, signalling, tracks
from jolly_copper.core.drawing.sheet import DrawingError, Sheet
from jolly_copper.core.layout.document import Bridge, Control, LoadKind, ObstacleKind, Rails
from jolly_copper.core.layout.fields import Coordinate, Id, Millimetres, Model, Name, Point
from jolly_copper.core.layout.stock import TrackUse
from jolly_copper.core.materials.joints import JoinerKind
from jolly_copper.core.materials.rail import Metal


class Like(Model):
    """What newly drawn track is made of."""

    use: TrackUse = "main"
    code: Annotated[int, Field(ge=25, le=400)] = 83
    metal: Metal = "nickel silver"
    joiner_every: Millimetres | None = 914.4
    joiners: JoinerKind = "usual"


class DrawTrack(Model):
    act: Literal["track"]
    spots: Annotated[list[tracks.Spot], Field(min_length=2, max_length=400)]
    like: Like = Like()
    frog: Literal["dead", "live", "routing"] = "live"


class DrawBoard(Model):
    act: Literal["board"]
    outline: Annotated[list[Point], Field(min_length=3, max_length=200)]
    name: Name | None = None


class DrawObstacle(Model):
    act: Literal["obstacle"]
    outline: Annotated[list[Point], Field(min_length=3, max_length=100)]
    kind: ObstacleKind = "brace"
    name: Name | None = None


class PlaceTable(Model):
    act: Literal["table"]
    kind: Literal["turntable", "traverser"]
    x: Coordinate
    y: Coordinate
    size: Annotated[float, Field(ge=50, le=5000)] | None = None
    angle: float = 0
    bridge: Bridge = "split ring"


class CrossTracks(Model):
    act: Literal["cross"]
    kind: Literal["crossing", "slip"] = "crossing"
    one: Id
    one_at: Millimetres
    other: Id
    other_at: Millimetres


class SplitTrack(Model):
    act: Literal["split"]
    track: Id
    at: Millimetres


class JoinTracks(Model):
    act: Literal["join"]
    node: Id


class Extend(Model):
    act: Literal["extend"]
    node: Id
    length: Millimetres | None = None
    radius: Annotated[float, Field(ge=20, le=20000)] | None = None
    turn: Annotated[float, Field(gt=-180, lt=180, allow_inf_nan=False)] = Field(
        default=0, description="Degrees, right positive."
    )
    like: Like = Like()


class Weld(Model):
    act: Literal["weld"]
    node: Id
    spot: tracks.Spot


class TurnInto(Model):
    act: Literal["turn into"]
    node: Id
    kind: Literal["joint", "bumper", "crossing", "slip"]


class MoveBend(Model):
    act: Literal["move bend"]
    track: Id
    index: Annotated[int, Field(ge=0)]
    x: Coordinate
    y: Coordinate


class InsertBend(Model):
    act: Literal["insert bend"]
    track: Id
    at: Millimetres
    leg: Annotated[int, Field(ge=0)] | None = None
    x: Coordinate | None = None
    y: Coordinate | None = None


class DeleteBend(Model):
    act: Literal["delete bend"]
    track: Id
    index: Annotated[int, Field(ge=0)]


class BendRadius(Model):
    act: Literal["radius"]
    track: Id
    index: Annotated[int, Field(ge=0)]
    radius: Millimetres | None = None


class Move(Model):
    act: Literal["move"]
    things: Annotated[list[moving.Moved], Field(min_length=1, max_length=5000)]
    dx: Coordinate
    dy: Coordinate


class Erase(Model):
    act: Literal["erase"]
    things: Annotated[list[moving.Erased], Field(min_length=1, max_length=5000)]


class CopyBoard(Model):
    act: Literal["copy board"]
    board: Id
    dx: Coordinate
    dy: Coordinate
    mirror: moving.Mirror = "no"


class CutGap(Model):
    act: Literal["gap"]
    track: Id
    at: Millimetres
    rails: Rails = "both"


class NameSection(Model):
    act: Literal["section"]
    track: Id
    at: Millimetres
    name: Name
    circuit: Id | None = None


class PlaceSource(Model):
    act: Literal["source"]
    kind: copper.SourceKind = "booster"
    x: Coordinate
    y: Coordinate
    gives: Control | None = None


class PlaceDevice(Model):
    act: Literal["device"]
    kind: Literal["breaker", "reverser", "switch", "detector", "step-down"] = "breaker"
    input: Id
    name: Name


class Rehang(Model):
    act: Literal["rehang"]
    device: Id
    input: Id


class Assign(Model):
    act: Literal["assign"]
    track: Id
    at: Millimetres
    circuit: Id


class AddLoad(Model):
    act: Literal["add load"]
    kind: LoadKind
    name: Name
    circuit: Id
    count: Annotated[int, Field(ge=1, le=2000)] = 1
    x: Coordinate | None = None
    y: Coordinate | None = None


class StandLoad(Model):
    act: Literal["stand load"]
    load: Id
    x: Coordinate
    y: Coordinate


class DrawRun(Model):
    act: Literal["run"]
    points: Annotated[list[Point], Field(min_length=2, max_length=400)]
    device: Id | None = None
    terminal: Id | None = None


class Feed(Model):
    act: Literal["feeder"]
    track: Id
    at: Millimetres


Tracks = DrawTrack | Extend | Weld | CrossTracks | SplitTrack | JoinTracks | TurnInto | PlaceTable
Bends = MoveBend | InsertBend | DeleteBend | BendRadius
Anything = Move | Erase | Assign | CopyBoard | DrawBoard | DrawObstacle | nudging.Nudge
Power = CutGap | NameSection | PlaceSource | PlaceDevice | DrawRun | Feed | Rehang | AddLoad | StandLoad
Act = Annotated[Tracks | Bends | Anything | Power | signalling.SignalAct | levers.LeverAct, Field(discriminator="act")]


@dataclass(frozen=True)
class Done:
    """What an act changes, in a few words, and the thing it made, as (kind, id)."""

    patch: Patch
    summary: str
    made: tuple[str, str] | None = None


def perform(facts: Facts, act: Any) -> Done:
    """Do an act on a layout, without saving it.

    Args:
        facts: of the layout as it stands.
        act: one of the acts above.

    Raises:
        DrawingError: it cannot be done; the sentence says why.
        LayoutError: its result could not be read.
    """
    sheet = Sheet(facts.layout)
    made, summary = _does(facts, sheet, act)
    patch = sheet.patch()
    if not patch:
        raise DrawingError("That changes nothing.")
    return Done(patch, summary[:200], made)


def _named(sheet: Sheet, things: list[Any]) -> str:
    first = things[0]
    value = sheet.thing(moving.PLURAL[first.kind], first.id)
    name = value.get("name") or value.get("label") or f"{first.kind} {first.id}"
    return str(name) if len(things) == 1 else f"{len(things)} things"


def _does(facts: Facts, sheet: Sheet, act: Any) -> tuple[tuple[str, str] | None, str]:
    match act:
        case DrawTrack():
            i = tracks.draw_track(sheet, act.spots, act.like.model_dump(), act.frog)
            return ("track", i), f"Draw {sheet['tracks'][i]['name']}"
        case DrawBoard():
            name = act.name or str(1 + len(sheet["boards"]))
            outline = [{"x": round(p.x, 1), "y": round(p.y, 1)} for p in act.outline]
            return (
                "board",
                sheet.add("boards", "board", {"name": name, "outline": outline, "removable": False}),
            ), f"Draw board {name}"
        case DrawObstacle():
            number = 1 + sum(o["kind"] == act.kind for o in sheet["obstacles"].values())
            name = act.name or f"{act.kind.capitalize()} {number}"
            outline = [{"x": round(p.x, 1), "y": round(p.y, 1)} for p in act.outline]
            thing = {"name": name, "kind": act.kind, "outline": outline}
            return ("obstacle", sheet.add("obstacles", "O", thing)), f"Draw {name}"
        case PlaceTable():
            return (
                "node",
                nodes.set_table(sheet, act.kind, act.x, act.y, act.size, act.angle, act.bridge),
            ), f"Place a {act.kind}"
        case CrossTracks():
            i = crossings.cross(sheet, act.one, act.one_at, act.other, act.other_at, act.kind)
            return ("node", i), f"{act.kind.capitalize()} {i}"
        case SplitTrack():
            name = sheet.thing("tracks", act.track)["name"]
            return ("node", tracks.split_track(sheet, act.track, act.at)), f"Split {name}"
        case JoinTracks():
            i = tracks.join_tracks(sheet, act.node)
            return ("track", i), f"Make {sheet['tracks'][i]['name']} one track"
        case Extend():
            i = tracks.extend(sheet, act.node, act.length, act.radius, act.turn, act.like.model_dump())
            return ("track", i), f"Go on by {sheet['tracks'][i]['name']}"
        case Weld():
            i = tracks.weld(sheet, act.node, act.spot)
            return ("track", i), f"Join {sheet['tracks'][i]['name']}"
        case TurnInto():
            nodes.turn_into(sheet, act.node, act.kind)
            return ("node", act.node), f"{act.node} is a {act.kind}"
        case InsertBend():
            name = sheet.thing("tracks", act.track)["name"]
            k = tracks.insert_bend(sheet, act.track, act.at, act.leg)
            if act.x is not None and act.y is not None:
                tracks.move_bend(sheet, act.track, k, act.x, act.y)
            return ("track", act.track), f"Bend {name}"
        case MoveBend() | DeleteBend() | BendRadius():
            return ("track", act.track), _bends(sheet, act)
        case Move():
            summary = f"Move {_named(sheet, act.things)}"
            moving.move(sheet, act.things, act.dx, act.dy)
            return None, summary
        case Erase():
            summary = f"Take away {_named(sheet, act.things)}"
            moving.erase(sheet, act.things)
            return None, summary
        case CopyBoard():
            return (
                "board",
                moving.copy_board(sheet, act.board, act.dx, act.dy, act.mirror),
            ), f"Copy board {sheet['boards'][act.board]['name']}"
        case CutGap():
            name = sheet.thing("tracks", act.track)["name"]
            return ("gap", copper.cut_gap(sheet, act.track, act.at, act.rails)), f"Gap in {name}"
        case NameSection():
            return (
                "section",
                copper.name_section(sheet, act.track, act.at, act.name, act.circuit),
            ), f"Section {act.name}"
        case PlaceSource():
            return ("device", copper.add_source(sheet, act.kind, act.x, act.y, act.gives)), f"Place a {act.kind}"
        case PlaceDevice():
            return ("device", copper.add_device(sheet, act.kind, act.input, act.name)), f"A {act.kind} for {act.name}"
        case AddLoad():
            place = None if act.x is None or act.y is None else (act.x, act.y)
            return (
                "load",
                accessory.add_load(sheet, act.kind, act.name, act.circuit, act.count, place),
            ), f"Add {act.name}"
        case StandLoad():
            accessory.stand(sheet, act.load, act.x, act.y)
            return ("load", act.load), f"{sheet['loads'][act.load]['name']} stands on the plan"
        case Rehang():
            copper.rehang(sheet, act.device, act.input)
            return (
                "device",
                act.device,
            ), f"{sheet['devices'][act.device]['name']} hangs under {sheet['circuits'][act.input]['name']}"
        case Assign():
            i = copper.assign(facts, sheet, act.track, act.at, act.circuit)
            return ("section", i), f"{sheet['sections'][i]['name']} to {sheet['circuits'][act.circuit]['name']}"
        case DrawRun():
            points = [(p.x, p.y) for p in act.points]
            i = copper.draw_run(sheet, points, device=act.device, terminal=act.terminal)
            return ("run", i), f"Bus {i}"
        case Feed():
            i = copper.feed(facts, sheet, act.track, act.at)
            return ("feeder", i), f"Feeder {i}"
        case signalling.PutSignal() | signalling.MoveSignal() | signalling.PutControlBoard() | signalling.Running():
            return signalling.does(sheet, act, None)
        case levers.Throw() | levers.PlaceSelector() | levers.PlacePanel():
            return levers.does(facts, sheet, act)
        case signalling.Detect():
            return _detect(facts, sheet, act)
        case _:
            return nudging.nudge(sheet, act)


def _detect(facts: Facts, sheet: Sheet, act: signalling.Detect) -> tuple[tuple[str, str] | None, str]:
    """A channel for the stretch at a place, whose section is named first where it has none yet."""
    sheet.thing("tracks", act.track)
    number = facts.rails.extent_of[facts.rails.piece_at(act.track, act.at)]
    circuit, sections = facts.meant[number], facts.rails.sections_in[number]
    device = facts.tree.fed_by.get(circuit or "")
    if device is not None and facts.layout.devices[device].kind == "detector":
        raise DrawingError(f"{facts.layout.devices[device].name} looks at this stretch already.")
    if circuit is None:  # a fresh cut in one rail leaves it on the bus of its neighbours
        zone = facts.topology.zones.at(facts.rails.piece_at(act.track, act.at))
        beside = (facts.tree.unsensed(facts.meant[facts.rails.extent_of[p]]) for p in zone.pieces)
        circuit = next((c for c in beside if c is not None), None)
    if circuit is None:
        raise DrawingError("No circuit feeds this stretch yet: give it to one first (step Zones).")
    section = (
        sections[0]
        if sections
        else copper.name_section(sheet, act.track, act.at, facts.layout.tracks[act.track].name, circuit)
    )
    there = sheet["sections"][section]
    return signalling.does(sheet, act.model_copy(update={"track": there["track"], "at": there["at"]}), circuit)


def _bends(sheet: Sheet, act: MoveBend | DeleteBend | BendRadius) -> str:
    name = sheet.thing("tracks", act.track)["name"]
    does: dict[type, Callable[[], None]] = {
        MoveBend: lambda: tracks.move_bend(sheet, act.track, act.index, act.x, act.y),  # type: ignore[union-attr]
        DeleteBend: lambda: tracks.delete_bend(sheet, act.track, act.index),
        BendRadius: lambda: tracks.bend_radius(sheet, act.track, act.index, act.radius),  # type: ignore[union-attr]
    }
    does[type(act)]()
    return f"Bend {name}"
