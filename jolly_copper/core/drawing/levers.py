"""Acts on selectors: throwing one with all that is on its lever, adding one, and a panel for them to stand on."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.drawing.copper import add_circuit
from jolly_copper.core.drawing.sheet import DrawingError, Sheet
from jolly_copper.core.layout.fields import Coordinate, Id, Model, Name
from jolly_copper.core.layout.levers import as_ganged

BESIDE_MM = 60.0


class Throw(Model):
    """Throw a selector to one of its circuits, or off; in a scene that says how selectors lie, for that scene."""

    act: Literal["throw"]
    device: Id
    to: Id | None = None
    scene: Id | None = None


class PlaceSelector(Model):
    """A selector that gives new track one of some circuits, or none."""

    act: Literal["selector"]
    name: Name
    inputs: Annotated[list[Id], Field(min_length=1, max_length=11)]
    panel: Id | None = None
    x: Coordinate = 0
    y: Coordinate = 0


class PlacePanel(Model):
    """A control panel, where people stand at it."""

    act: Literal["panel"]
    name: Name
    x: Coordinate
    y: Coordinate


LeverAct = Throw | PlaceSelector | PlacePanel


def does(facts: Facts, sheet: Sheet, act: Any) -> tuple[tuple[str, str] | None, str]:
    """Do one of these acts on a sheet. Answers what it made and the change in a few words.

    Raises:
        DrawingError: there is no such selector, or it does not choose from that circuit.
    """
    match act:
        case Throw():
            throw(sheet, act.device, act.to, act.scene)
            name = sheet["devices"][act.device]["name"]
            return None, f"{name} {'off' if act.to is None else 'to ' + sheet['circuits'][act.to]['name']}"
        case PlaceSelector():
            i = add_selector(sheet, act.name, act.inputs, act.panel, act.x, act.y)
            return ("device", i), f"Selector {act.name}"
        case _:
            at = {"x": round(act.x, 1), "y": round(act.y, 1)}
            i = sheet.add("panels", "panel-", {"name": act.name, "at": at, "width": 300})
            return ("panel", i), f"Control panel {act.name}"


def throw(sheet: Sheet, device: str, to: str | None, scene: str | None = None) -> None:
    """Throw a selector, and with it what is ganged to its lever.

    In a scene that says how some selectors lie it is said there, and the selectors themselves stay.
    """
    lever = sheet.thing("devices", device)
    if lever["kind"] != "selector":
        raise DrawingError(f"{lever['name']} is a {lever['kind']}; only a selector is thrown.")
    if lever.get("gang") is not None:
        raise DrawingError(f"{lever['name']} has no lever of its own: throw {sheet['devices'][lever['gang']]['name']}.")
    if to is not None and to not in lever["inputs"]:
        name = sheet["circuits"][to]["name"] if to in sheet["circuits"] else to
        raise DrawingError(f"{lever['name']} does not choose from {name}.")
    said = sheet["scenes"].get(scene, {}).get("selectors") if scene is not None else None
    if said:
        said[device] = to
        return
    before = sheet.layout()
    lever["input"] = to
    for i, rider in before.devices.items():
        if rider.gang == device:
            sheet["devices"][i]["input"] = as_ganged(rider, to)


def add_selector(sheet: Sheet, name: str, inputs: list[str], panel: str | None, x: float, y: float) -> str:
    """A selector with a circuit of its own, off until somebody throws it. Answers its id.

    Raises:
        DrawingError: a circuit is named twice, or carries no track power.
    """
    if len(set(inputs)) < len(inputs):
        raise DrawingError("Name each circuit once.")
    for circuit in inputs:
        if sheet.thing("circuits", circuit).get("purpose") == "accessory":
            raise DrawingError(f"{sheet['circuits'][circuit]['name']} is for accessories, not for rails.")
    if panel is not None:
        at, mates = sheet.thing("panels", panel)["at"], sum(d.get("panel") == panel for d in sheet["devices"].values())
        x, y = at["x"] + BESIDE_MM * (mates % 5 - 2), at["y"] + BESIDE_MM * (1 + mates // 5)
    circuit = add_circuit(sheet, name)
    return sheet.add(
        "devices",
        "S",
        {
            "kind": "selector",
            "name": f"Selector {name}"[:80],
            "at": {"x": round(x, 1), "y": round(y, 1)},
            "input": None,
            "inputs": inputs,
            "output": circuit,
            "made": "toggle, two poles" if len(inputs) <= 2 else "rotary, two poles",
            "panel": panel,
            "ohms": 0.02,
        },
    )
