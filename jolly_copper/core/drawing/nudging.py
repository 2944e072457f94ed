"""Nudging wire that is there: bends of a bus, terminals and plugs along it, the end a feeder is tied to."""

from __future__ import annotations

import math
from typing import Annotated, Any, Literal

from pydantic import Field

from jolly_copper.core.drawing.sheet import DrawingError, Sheet, bend
from jolly_copper.core.layout.fields import Bend, Coordinate, Id, Model
from jolly_copper.core.layout.geometry import Polyline, draw
from jolly_copper.core.materials.joints import TerminalKind

Along = Literal["terminal", "plug"]
PLURAL: dict[str, str] = {"terminal": "terminals", "plug": "plugs"}


class BendRun(Model):
    """Moves a bend of a bus, or makes one in a leg of it."""

    act: Literal["bend run"]
    run: Id
    x: Coordinate
    y: Coordinate
    index: Annotated[int, Field(ge=0)] | None = None
    leg: Annotated[int, Field(ge=0)] | None = None


class StraightenRun(Model):
    """Takes a bend out of a bus."""

    act: Literal["straighten run"]
    run: Id
    index: Annotated[int, Field(ge=1)]


class PutOnRun(Model):
    """A terminal or a plug on a bus, where it passes nearest to a place."""

    act: Literal["put on run"]
    run: Id
    what: Along
    x: Coordinate
    y: Coordinate
    kind: TerminalKind = "screw strip"


class Slide(Model):
    """Moves a terminal or a plug along its bus, to where that passes nearest to a place."""

    act: Literal["slide"]
    what: Along
    id: Id
    x: Coordinate
    y: Coordinate


class Retie(Model):
    """Ties a feeder to another terminal."""

    act: Literal["retie"]
    feeder: Id
    terminal: Id


Nudge = BendRun | StraightenRun | PutOnRun | Slide | Retie


def nudge(sheet: Sheet, act: Nudge) -> tuple[tuple[str, str] | None, str]:
    """Does one of these acts. Answers the thing it made or changed, and what it did in a few words.

    Raises:
        DrawingError: it cannot be done; the sentence says why.
    """
    match act:
        case BendRun():
            path = [dict(v) for v in sheet.thing("runs", act.run)["path"]]
            if act.leg is not None:
                if act.leg >= len(path) - 1:
                    raise DrawingError("That bus has no such leg any more.")
                path.insert(act.leg + 1, bend(act.x, act.y, 0.0))
            elif act.index is not None and act.index < len(path):
                path[act.index] = bend(act.x, act.y, path[act.index].get("radius"))
            else:
                raise DrawingError("That bend is not there any more.")
            _reshape(sheet, act.run, path)
            return ("run", act.run), f"Bend bus {sheet['runs'][act.run]['label']}"
        case StraightenRun():
            path = [dict(v) for v in sheet.thing("runs", act.run)["path"]]
            if act.index >= len(path) - 1:
                raise DrawingError("Only a bend between the ends can be taken out.")
            del path[act.index]
            _reshape(sheet, act.run, path)
            return ("run", act.run), f"Straighten bus {sheet['runs'][act.run]['label']}"
        case PutOnRun():
            run = sheet.thing("runs", act.run)
            value: dict[str, Any] = {"run": act.run, "along": _along(sheet, act.run, act.x, act.y), "ohms": None}
            if act.what == "terminal":
                value["kind"] = act.kind
            i = sheet.add(PLURAL[act.what], act.what[0].upper(), value)
            return (act.what, i), f"{act.what.capitalize()} {i} on bus {run['label']}"
        case Slide():
            thing = sheet.thing(PLURAL[act.what], act.id)
            thing["along"] = _along(sheet, thing["run"], act.x, act.y)
            if act.what == "terminal":
                _follow(sheet, [act.id])
            return (act.what, act.id), f"Move {act.what} {act.id}"
        case Retie():
            feeder = sheet.thing("feeders", act.feeder)
            sheet.thing("terminals", act.terminal)
            _retie(sheet, feeder, act.terminal)
            return ("feeder", act.feeder), f"Tie feeder {feeder['label']} at {act.terminal}"


def _retie(sheet: Sheet, feeder: dict[str, Any], terminal: str) -> None:
    """Both wires to a terminal; to one that holds a single conductor only that one, the other stays where it was."""

    def run_of(name: str) -> dict[str, Any]:
        return sheet["runs"][sheet["terminals"][name]["run"]]  # type: ignore[no-any-return]

    other = feeder.get("other")
    if run_of(terminal).get("wires", "both") != "both":
        feeder.update(terminal=terminal, other=other or feeder["terminal"], tape=None)
    elif other is not None and run_of(other)["circuit"] == run_of(terminal)["circuit"]:
        feeder.update(other=terminal, tape=None)
    else:
        feeder.update(terminal=terminal, other=None, tape=None)


def _line(sheet: Sheet, run: str) -> Polyline:
    return draw([Bend(**v) for v in sheet["runs"][run]["path"]])


def _along(sheet: Sheet, run: str, x: float, y: float) -> float:
    """Where along a bus it passes nearest to a place, mm by its own length."""
    line, value = _line(sheet, run), sheet["runs"][run]
    length = value.get("tape") or line.length
    return round(line.nearest(x, y)[0] * length / line.length, 1)


def _point(sheet: Sheet, thing: dict[str, Any]) -> tuple[float, float]:
    line, value = _line(sheet, thing["run"]), sheet["runs"][thing["run"]]
    return line.point(thing["along"] * line.length / (value.get("tape") or line.length))


def _reshape(sheet: Sheet, run: str, path: list[dict[str, Any]], seen: frozenset[str] = frozenset()) -> None:
    """Gives a bus a new path. What hangs on it stays where it is, as near as the bus still passes; a tape's figure
    goes.

    Branches follow their terminals, and so on outwards; `seen` are the buses done already.
    """
    hung = {
        (kind, i): _point(sheet, t)
        for kind in ("terminals", "plugs")
        for i, t in sheet[kind].items()
        if t["run"] == run
    }
    ends = {key for key in hung if _is_end(sheet, run, sheet[key[0]][key[1]]["along"])}
    sheet["runs"][run]["tape"] = None
    sheet.reshape_run(run, path)
    for (kind, i), (x, y) in hung.items():
        if (kind, i) not in ends:
            sheet[kind][i]["along"] = _along(sheet, run, x, y)
    _follow(sheet, [i for kind, i in hung if kind == "terminals"], seen | {run})


def _is_end(sheet: Sheet, run: str, along: float) -> bool:
    length = sheet["runs"][run].get("tape") or _line(sheet, run).length
    return along < 1 or along > length - 1


def _follow(sheet: Sheet, terminals: list[str], seen: frozenset[str] = frozenset()) -> None:
    """Branches start, and runs end, where their terminal is now; feeders measured by tape are to be measured anew."""
    for i in terminals:
        x, y = _point(sheet, sheet["terminals"][i])
        for name, run in sheet["runs"].items():
            if name in seen:
                continue
            path = [dict(v) for v in run["path"]]
            if run["fed"]["terminal"] == i and run["fed"]["along"] < 1:
                path[0] = bend(x, y, path[0].get("radius"))
            if run["ends_at_terminal"] == i:
                path[-1] = bend(x, y, path[-1].get("radius"))
            far = max(math.dist((p["x"], p["y"]), (q["x"], q["y"])) for p, q in zip(path, run["path"], strict=True))
            if far > 0.5:
                _reshape(sheet, name, path, seen)
        for feeder in sheet["feeders"].values():
            if feeder["terminal"] == i:
                feeder["tape"] = None
