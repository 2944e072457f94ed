"""Drawing who is where and what may move: signals beside the track, boards of channels and outputs, single channels."""

from __future__ import annotations

import math
from collections.abc import Collection
from typing import Annotated, Any, Literal

from pydantic import Field

from jolly_copper.core.drawing.sheet import DrawingError, Sheet
from jolly_copper.core.layout.fields import Coordinate, Id, Millimetres, Model
from jolly_copper.core.layout.ids import next_number
from jolly_copper.core.layout.signalling import Detecting, SignalKind
from jolly_copper.core.materials.detectors import DETECTORS
from jolly_copper.core.signals.numbering import begins


class PutSignal(Model):
    """A signal beside a track, for trains that run towards one of its ends."""

    act: Literal["signal"]
    track: Id
    at: Millimetres
    towards: Literal["a", "b"]
    kind: SignalKind | None = None
    heads: Literal[1, 2] = 1


class MoveSignal(Model):
    """A signal moved along its track, to where that passes nearest to a place."""

    act: Literal["move signal"]
    signal: Id
    x: Coordinate
    y: Coordinate


class PutControlBoard(Model):
    """A board of detector channels, or of outputs for lamps or turnouts, at a place."""

    act: Literal["control board"]
    kind: Literal["detector", "lamps", "turnouts", "buttons"]
    x: Coordinate
    y: Coordinate


class Detect(Model):
    """A detector channel for the stretch at a place: the next free one of a board, or of a new one beside it."""

    act: Literal["detect"]
    track: Id
    at: Millimetres
    board: Id | None = None


class Running(Model):
    """Which way trains run on some tracks."""

    act: Literal["running"]
    tracks: Annotated[list[Id], Field(min_length=1, max_length=200)]
    runs: Literal["both", "forward", "backward"]


SignalAct = PutSignal | MoveSignal | PutControlBoard | Detect | Running


def does(sheet: Sheet, act: SignalAct, parent: str | None) -> tuple[tuple[str, str] | None, str]:
    """Does one of these acts. parent: for `detect`, the circuit that feeds the stretch now, with its section in
    `sheet`.

    Raises:
        DrawingError: it cannot be done; the sentence says why.
    """
    match act:
        case PutSignal():
            i = put_signal(sheet, act.track, act.at, act.towards, act.kind, act.heads)
            return ("signal", i), f"Signal {sheet['signals'][i]['name']}"
        case MoveSignal():
            value = sheet.thing("signals", act.signal)
            value["at"] = round(
                sheet.line(value["track"]).nearest(act.x, act.y)[0] * _stretch(sheet, value["track"]), 1
            )
            return ("signal", act.signal), f"Move signal {value['name']}"
        case PutControlBoard():
            return put_board(sheet, act.kind, act.x, act.y)
        case Running():
            for i in act.tracks:
                sheet.thing("tracks", i)["runs"] = act.runs
            return None, f"Trains run {act.runs if act.runs == 'both' else 'one way'} on {len(act.tracks)} tracks"
        case Detect():
            if parent is None:
                raise DrawingError("No circuit feeds this stretch yet: name its section first.")
            return ("detector", detect(sheet, act, parent)), f"Detect {sheet['tracks'][act.track]['name']}"


def _stretch(sheet: Sheet, track: str) -> float:
    drawn = sheet.line(track).length
    return sheet.length(track) / drawn if drawn else 1.0


def put_signal(
    sheet: Sheet,
    track: str,
    at: float,
    towards: str,
    kind: SignalKind | None = None,
    heads: int = 1,
    aspects: int | None = None,
) -> str:
    """A signal under the next free name. Answers its id."""
    sheet.thing("tracks", track)
    wishes = sheet.data["brief"]["signalling"]
    kind = kind or wishes["kind"]
    number = next_number([str(s["name"]) for s in sheet["signals"].values()] + list(sheet["signals"]), "S")
    if aspects is None:
        aspects = 2 if wishes["school"] == "two aspects" or kind == "dwarf" else 3
    sheet["signals"][f"S{number}"] = {
        "name": f"S{number}",
        "track": track,
        "at": round(min(max(at, 0.0), sheet.length(track)), 1),
        "towards": towards,
        "kind": kind,
        "aspects": aspects,
        "heads": heads,
        "side": "right",
    }
    return f"S{number}"


def put_board(sheet: Sheet, kind: str, x: float, y: float) -> tuple[tuple[str, str], str]:
    """A detector or driver board, its address above those of its own kind."""
    at = {"x": round(x, 1), "y": round(y, 1)}
    supply = next((i for i, c in sheet["circuits"].items() if c["purpose"] == "accessory"), None)
    if kind == "detector":
        i = add_detector(sheet, at, supply)
        return ("detector", i), f"Place {sheet['detectors'][i]['name']}"
    address = max((d["address"] + d["outputs"] for d in sheet["drivers"].values()), default=1)
    number = 1 + len(sheet["drivers"])
    i = sheet.add(
        "drivers",
        "DR",
        {
            "name": f"Driver {number}",
            "drives": kind,
            "at": at,
            "outputs": sheet.data["brief"]["signalling"]["outputs"],
            "address": address,
            "supply": supply,
        },
    )
    return ("driver", i), f"Place Driver {number}"


def add_detector(sheet: Sheet, at: dict[str, float], supply: str | None) -> str:
    """A detector board as the club wishes them, its addresses following on the last. Answers its id."""
    wishes = sheet.data["brief"]["detecting"]
    usual = DETECTORS[wishes["kind"]]
    club = Detecting.model_validate(wishes)
    last = max((d["address"] + d["channels"] for d in sheet["detectors"].values()), default=club.first_address)
    number = next_number(sheet["detectors"], "DB")
    sheet["detectors"][f"DB{number}"] = {
        "name": f"Detector {number}",
        "kind": wishes["kind"],
        "at": at,
        "channels": wishes["channels"],
        "sensed": wishes["sensed"],
        "address": begins(last, club),
        "drop": usual.drop,
        "ohms": usual.ohms,
        "threshold": usual.threshold,
        "supply": supply,
    }
    return f"DB{number}"


def detect(sheet: Sheet, act: Detect, parent: str) -> str:
    """A channel for the section whose circuit is `parent`, at the place of the act. Answers the board's id.

    Raises:
        DrawingError: it is detected already, or the board is full.
    """
    section = next(
        (s for s in sheet["sections"].values() if s["track"] == act.track and abs(s["at"] - act.at) < 0.2), None
    )
    if section is None:
        raise DrawingError("Name the section first: a channel belongs to one.")
    board = act.board or next(
        (
            i
            for i in sorted(sheet["detectors"], key=lambda i: _far(sheet, i, act.track, act.at))
            if _free_channel(sheet, i) is not None
        ),
        None,
    )
    if board is None:
        x, y = sheet.line(act.track).point(act.at / _stretch(sheet, act.track))
        supply = next((i for i, c in sheet["circuits"].items() if c["purpose"] == "accessory"), None)
        board = add_detector(sheet, {"x": round(x + 60, 1), "y": round(y + 60, 1)}, supply)
    value = sheet.thing("detectors", board)
    channel = _free_channel(sheet, board)
    if channel is None:
        raise DrawingError(f"{value['name']} has no free channel.")
    circuit = striped_circuit(sheet, parent, section["name"], value["sensed"])
    sheet["devices"][f"{board}.{channel}"] = {
        "kind": "detector",
        "name": f"{value['name']} channel {channel}",
        "at": value["at"],
        "input": parent,
        "output": circuit,
        "ohms": value["ohms"],
        "sensed": value["sensed"],
        "board": board,
        "channel": channel,
    }
    section["circuit"] = circuit
    return board


def _far(sheet: Sheet, board: str, track: str, at: float) -> float:
    x, y = sheet.line(track).point(at / _stretch(sheet, track))
    place = sheet["detectors"][board]["at"]
    return math.dist((x, y), (place["x"], place["y"]))


def _free_channel(sheet: Sheet, board: str) -> int | None:
    taken = {d["channel"] for d in sheet["devices"].values() if d.get("board") == board}
    return next((k for k in range(1, sheet["detectors"][board]["channels"] + 1) if k not in taken), None)


def striped_circuit(sheet: Sheet, parent: str, name: str, sensed: str, ink: str | None = None) -> str:
    """The circuit behind a channel: its sensed wire is striped, the other is the bus's own. Answers its id."""
    above = sheet.thing("circuits", parent)
    key = "colour_a" if sensed == "A" else "colour_b"
    base = above[key].split("/")[0]
    stripe = "yellow" if "/" in above[key] else "red" if base == "white" else "white"
    worn = {**{k: above[k] for k in ("colour_a", "colour_b")}, key: f"{base}/{stripe}"}
    return sheet.add("circuits", "d", {"name": f"{name} sensed"[:80], "ink": ink or above["ink"], **worn})


def detach(sheet: Sheet, channels: Collection[str]) -> list[str]:
    """Take detector channels off: their sections and feeders go back to the bus above. Answers the runs to take
    away."""
    values = {i: sheet["devices"][i] for i in channels}
    above: dict[str, Any] = {d["output"]: d["input"] for d in values.values()}
    runs = [i for i, r in sheet["runs"].items() if r["circuit"] in above or r["ends_at_device"] in values]
    kept = [
        i
        for i in runs
        if sheet["runs"][i]["circuit"] not in above and _mate(sheet, values, sheet["runs"][i]) is not None
    ]
    for i in kept:  # other channels of the board still need the wire that comes to it
        sheet["runs"][i]["ends_at_device"] = _mate(sheet, values, sheet["runs"][i])
    for value in sheet["feeders"].values():
        tied = sheet["runs"][sheet["terminals"][value["terminal"]]["run"]]["circuit"]
        if value.get("other") is not None and tied in above:
            value.update(terminal=value["other"], other=None, tape=None)
    for value in sheet["sections"].values():
        if value["circuit"] in above:
            value["circuit"] = above[value["circuit"]]
    for i in channels:
        del sheet["devices"][i]
    return [i for i in runs if i not in kept]


def _mate(sheet: Sheet, gone: dict[str, Any], run: dict[str, Any]) -> str | None:
    """Another channel of the same board and circuit that stays."""
    was = gone[run["ends_at_device"]]
    return next(
        (
            i
            for i, d in sheet["devices"].items()
            if i not in gone and d.get("board") == was.get("board") and d["input"] == was["input"] and d.get("board")
        ),
        None,
    )
