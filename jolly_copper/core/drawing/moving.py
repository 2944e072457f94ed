"""Moving, copying and taking away what is drawn, with all that hangs on it."""

from __future__ import annotations

from typing import Any, Literal

from jolly_copper.core.drawing.sheet import OTHER_SIDE, DrawingError, Sheet
from jolly_copper.core.drawing.signalling import detach
from jolly_copper.core.layout.fields import Id, Model
from jolly_copper.core.layout.geometry import inside

Movable = Literal["node", "track", "board", "obstacle", "device", "run", "load", "detector", "driver"]
Erasable = Literal[
    "node",
    "track",
    "board",
    "device",
    "run",
    "gap",
    "feeder",
    "section",
    "terminal",
    "plug",
    "circuit",
    "load",
    "obstacle",
    "signal",
    "detector",
    "driver",
    "block",
    "panel",
    "braking",
    "isolated",
]
PLURAL = {
    "board": "boards",
    "obstacle": "obstacles",
    "node": "nodes",
    "track": "tracks",
    "device": "devices",
    "run": "runs",
    "gap": "gaps",
    "feeder": "feeders",
    "section": "sections",
    "terminal": "terminals",
    "plug": "plugs",
    "circuit": "circuits",
    "load": "loads",
    "signal": "signals",
    "detector": "detectors",
    "driver": "drivers",
    "block": "blocks",
    "panel": "panels",
    "braking": "braking",
    "isolated": "isolated",
}


class Moved(Model):
    """A thing to move."""

    kind: Movable
    id: Id


class Erased(Model):
    """A thing to take away."""

    kind: Erasable
    id: Id


Mirror = Literal["no", "left to right", "top to bottom"]


def move(sheet: Sheet, things: list[Moved], dx: float, dy: float) -> None:
    """Move things on the plan. A track takes its nodes along; tracks that end at a moved node follow it there."""
    nodes, tracks = set(), set()
    for thing in things:
        value = sheet.thing(PLURAL[thing.kind], thing.id)
        if thing.kind == "node":
            nodes.add(thing.id)
        elif thing.kind == "track":
            tracks.add(thing.id)
            nodes |= {value["a"]["node"], value["b"]["node"]}
        elif thing.kind in ("board", "obstacle"):
            value["outline"] = [_shifted(p, dx, dy) for p in value["outline"]]
        elif thing.kind == "load":
            value["at"] = _shifted(value["at"], dx, dy) if value["at"] else None
        elif thing.kind in ("device", "driver"):
            value["at"] = _shifted(value["at"], dx, dy)
        elif thing.kind == "detector":
            value["at"] = _shifted(value["at"], dx, dy)
            for channel in sheet["devices"].values():
                if channel.get("board") == thing.id:
                    channel["at"] = dict(value["at"])
        else:
            sheet.reshape_run(thing.id, [_shifted(p, dx, dy) for p in value["path"]])
    for node in nodes:
        sheet["nodes"][node]["at"] = _shifted(sheet["nodes"][node]["at"], dx, dy)
    for track, value in sheet["tracks"].items():
        ends = value["a"]["node"] in nodes, value["b"]["node"] in nodes
        if not any(ends):
            continue
        path = [dict(v) for v in value["path"]]
        whole = track in tracks or (all(ends) and not tracks and len(things) > 1)
        for k, vertex in enumerate(path):
            if (k == 0 and ends[0]) or (k == len(path) - 1 and ends[1]) or (whole and 0 < k < len(path) - 1):
                path[k] = _shifted(vertex, dx, dy)
        sheet.shape(track, path)


def _shifted(point: dict[str, Any], dx: float, dy: float) -> dict[str, Any]:
    return {**point, "x": round(point["x"] + dx, 2), "y": round(point["y"] + dy, 2)}


def erase(sheet: Sheet, things: list[Erased]) -> None:
    """Take things away, with what cannot stand without them: a track's gaps and feeders, a run's terminals.

    A turnout that loses a leg becomes a joint again, and what runs through it one line.
    """
    for thing in things:
        sheet.thing(PLURAL[thing.kind], thing.id)
    for thing in things:
        _erase(sheet, thing.kind, thing.id)


def _erase(sheet: Sheet, kind: str, i: str) -> None:
    if i not in sheet[PLURAL[kind]]:
        return  # went with another
    if kind == "track":
        for other, thing, _ in list(sheet.things_on(i)):
            sheet[other].pop(thing)
        for scene in sheet["scenes"].values():
            scene["placements"] = [p for p in scene["placements"] if p.get("track") != i]
        value = sheet["tracks"].pop(i)
        for node in {value["a"]["node"], value["b"]["node"]}:
            _tidy(sheet, node)
    elif kind == "node":
        ends = sheet.ends_at(i)
        for track in {t for t, _ in ends}:
            _erase(sheet, "track", track)
        sheet["nodes"].pop(i, None)
    elif kind == "run":
        for t in [t for t, v in sheet["terminals"].items() if v["run"] == i]:
            _erase(sheet, "terminal", t)
        for p in [p for p, v in sheet["plugs"].items() if v["run"] == i]:
            sheet["plugs"].pop(p)
        sheet["runs"].pop(i)
    elif kind == "terminal":
        for f, v in list(sheet["feeders"].items()):
            if v["terminal"] == i and v.get("other") is not None and v["other"] != i and _holds_both(sheet, v["other"]):
                v.update(terminal=v["other"], other=None)  # behind a detector: it falls back on the bus
            elif i in (v["terminal"], v.get("other")):
                sheet["feeders"].pop(f)
        for r, v in list(sheet["runs"].items()):
            if v["fed"].get("terminal") == i:
                _erase(sheet, "run", r)
            elif v.get("ends_at_terminal") == i:
                v["ends_at_terminal"] = None
        for load in sheet["loads"].values():
            if load["terminal"] == i:
                load["terminal"] = None
        sheet["terminals"].pop(i)
    elif kind == "detector":
        channels = [d for d, v in sheet["devices"].items() if v.get("board") == i]
        _channels(sheet, channels)
        sheet["detectors"].pop(i)
    elif kind == "driver":
        for thing in [*sheet["signals"].values(), *sheet["nodes"].values()]:
            for board, way in (
                ("driver", "output"),
                ("report_board", "report_input"),
                ("button_board", "button_input"),
            ):
                if thing.get(board) == i:
                    thing.update({board: None, way: None})
        sheet["drivers"].pop(i)
    elif kind == "block":
        for section in sheet["sections"].values():
            if section.get("block") == i:
                section.update(block=None, role="whole")
        sheet["blocks"].pop(i)
    elif kind == "device" and sheet["devices"][i].get("board") is not None:
        _channels(sheet, [i])
    elif kind == "panel":
        for device in sheet["devices"].values():
            if device.get("panel") == i:
                device["panel"] = None
        sheet["panels"].pop(i)
    elif kind == "signal":
        for section in sheet["braking"].values():
            if section.get("held_by") == i:
                section["held_by"] = None
        sheet["signals"].pop(i)
    elif kind == "device":
        _off_levers(sheet, i)
        for r, v in list(sheet["runs"].items()):
            if v["fed"].get("device") == i:
                _erase(sheet, "run", r)
            elif v.get("ends_at_device") == i:
                v["ends_at_device"] = None
        sheet["devices"].pop(i)
    elif kind == "circuit":
        used = [v["name"] for d, v in sheet["devices"].items() if i in (v["input"], v["output"], *v["inputs"])]
        used += [v["label"] for v in sheet["runs"].values() if v["circuit"] == i]
        used += [v["name"] for k in ("sections", "loads") for v in sheet[k].values() if v["circuit"] == i]
        if used:
            raise DrawingError(f"{sheet['circuits'][i]['name']} is still in use by {', '.join(used[:3])}.")
        sheet["circuits"].pop(i)
    else:
        sheet[PLURAL[kind]].pop(i)


def _off_levers(sheet: Sheet, device: str) -> None:
    """Take a device off the lever it shares, off its supply, and out of the scenes that say how it lies."""
    for supply in sheet["supplies"].values():
        if supply.get("serves") == device:
            supply["serves"] = None
    for other in sheet["devices"].values():
        if other.get("gang") == device:
            other.update(gang=None, on_with=[])
    for scene in sheet["scenes"].values():
        scene.get("selectors", {}).pop(device, None)


def _channels(sheet: Sheet, channels: list[str]) -> None:
    """Detector channels taken off, with their circuits and the wire home."""
    circuits = [sheet["devices"][c]["output"] for c in channels]
    for run in detach(sheet, channels):
        if run in sheet["runs"]:
            _erase(sheet, "run", run)
    for circuit in circuits:
        sheet["circuits"].pop(circuit, None)


def _holds_both(sheet: Sheet, terminal: str) -> bool:
    return (
        terminal in sheet["terminals"]
        and sheet["runs"][sheet["terminals"][terminal]["run"]].get("wires", "both") == "both"
    )


def _tidy(sheet: Sheet, node_id: str) -> None:
    """What becomes of a node when one of its tracks is gone."""
    node, ends = sheet["nodes"].get(node_id), sheet.ends_at(node_id)
    if node is None:
        return
    ports = {sheet["tracks"][t][e]["port"]: (t, e) for t, e in ends}
    if not ends and node["kind"] not in ("turntable", "traverser"):
        sheet["nodes"].pop(node_id)
    elif node["kind"] in ("turnout", "three-way") and (len(ends) == 1 or (len(ends) == 2 and "points" in ports)):
        for number, end in enumerate(sorted(ends), start=1):
            sheet["tracks"][end[0]][end[1]]["port"] = str(number)
        node.update(kind="joint", hand=None, lies="through", name=None)
    elif node["kind"] == "three-way" and len(ends) == 3 and "points" in ports:
        side = next(p for p in ("left", "right") if p in ports)
        other = next((p for p in ("left", "through", "right") if p in ports and p != side), None)
        for port, renamed in ((side, "diverging"), (other, "through")):
            if port:
                sheet["tracks"][ports[port][0]][ports[port][1]]["port"] = renamed
        node.update(kind="turnout", hand=side, lies="through")


def copy_board(sheet: Sheet, board: str, dx: float, dy: float, mirror: Mirror) -> str:
    """Copy a board with the track that lies wholly on it, and its gaps. Wiring is not copied: it is laid anew.

    Mirrored, hands of turnouts and rails of gaps change over. Answers the new board's id.
    """
    value = sheet.thing("boards", board)
    outline = [(p["x"], p["y"]) for p in value["outline"]]
    middle = (
        (min(x for x, _ in outline) + max(x for x, _ in outline)) / 2,
        (min(y for _, y in outline) + max(y for _, y in outline)) / 2,
    )

    def placed(p: dict[str, Any]) -> dict[str, Any]:
        x = 2 * middle[0] - p["x"] if mirror == "left to right" else p["x"]
        y = 2 * middle[1] - p["y"] if mirror == "top to bottom" else p["y"]
        return {**p, "x": round(x + dx, 2), "y": round(y + dy, 2)}

    new = sheet.add(
        "boards",
        "board",
        {**value, "name": f"{value['name']} copy"[:80], "outline": [placed(p) for p in value["outline"]]},
    )
    tracks = [
        i
        for i, t in sheet["tracks"].items()
        if all(inside(outline, v["x"], v["y"]) for v in t["path"])
        and all(inside(outline, n["x"], n["y"]) for n in (sheet["nodes"][t[e]["node"]]["at"] for e in "ab"))
    ]
    turned = {"left": "right", "right": "left", "both": "both"}
    nodes: dict[str, str] = {}
    for i in sorted({sheet["tracks"][t][e]["node"] for t in tracks for e in "ab"}):
        node = {**sheet["nodes"][i], "at": placed(sheet["nodes"][i]["at"])}
        prefix = i.rstrip("0123456789") or "J"
        name = sheet.free("nodes", prefix)
        if mirror != "no" and node["hand"]:
            node["hand"] = turned[node["hand"]]
        if mirror != "no" and node["lies"] in turned:
            node["lies"] = turned[node["lies"]]
        # The copy is another turnout: it has its own outputs and inputs, or none yet.
        node.update(dict.fromkeys(("driver", "output", "report_board", "report_input", "button_board", "button_input")))
        if node["name"]:
            node["name"] = name if node["name"] == i else f"{node['name']} copy"[:80]
        sheet["nodes"][name] = node
        nodes[i] = name
    for i in tracks:
        old = sheet["tracks"][i]
        number = sheet.free("tracks", "track-")
        ends = {e: {**old[e], "node": nodes[old[e]["node"]]} for e in "ab"}
        if mirror != "no":
            for end, port in ends.items():
                if sheet["nodes"][port["node"]]["kind"] == "three-way" and port["port"] in turned:
                    ends[end] = {**port, "port": turned[port["port"]]}
        sheet["tracks"][number] = {
            **old,
            **ends,
            "name": f"{old['name']} copy"[:80],
            "path": [placed(v) for v in old["path"]],
        }
        for gap in [g for g in sheet["gaps"].values() if g["track"] == i]:
            rails = gap["rails"] if mirror == "no" else OTHER_SIDE.get(gap["rails"], gap["rails"])
            sheet.add("gaps", "G", {**gap, "track": number, "rails": rails})
    for copied in nodes.values():
        _tidy(sheet, copied)
    return new
