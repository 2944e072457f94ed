"""Drawing what feeds the track: sources, buses with their terminals, feeders, gaps and sections."""

from __future__ import annotations

import itertools
import math
from typing import Any, Literal

from jolly_copper.core.circuits.edits import add_feeder
from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.lengths import nearest_terminal_to, point_on_track, terminal_point
from jolly_copper.core.drawing.moving import Erased, erase
from jolly_copper.core.drawing.sheet import DrawingError, Sheet, bend
from jolly_copper.core.layout.control import BY_KIND
from jolly_copper.core.layout.document import Control
from jolly_copper.core.layout.fields import Bend
from jolly_copper.core.layout.geometry import draw
from jolly_copper.core.layout.power_tree import SOURCES, may_hang
from jolly_copper.core.layout.words import SOURCE
from jolly_copper.core.materials.copper import in_units
from jolly_copper.core.materials.sources import usual_source
from jolly_copper.core.rails.pieces import PAIR_MM

TERMINALS_EVERY_MM = 1200.0
INKS = (
    "#B5622B",
    "#7A4E8C",
    "#2F6F9F",
    "#4F7A3A",
    "#9A7B16",
    "#8A3A5E",
    "#4C8C9A",
    "#6B5B2E",
    "#B0467C",
    "#3E5C76",
    "#8C5A3C",
    "#5F7F2E",
    "#A0522D",
    "#51529C",
    "#2E7D6B",
    "#7D6B91",
)
COLOURS = (
    ("red", "black"),
    ("orange", "black"),
    ("blue", "white"),
    ("green", "white"),
    ("yellow", "brown"),
    ("purple", "grey"),
    ("pink", "black"),
    ("red", "white"),
    ("orange", "grey"),
    ("blue", "black"),
    ("green", "brown"),
    ("yellow", "black"),
    ("purple", "white"),
    ("red", "brown"),
    ("orange", "white"),
    ("blue", "grey"),
)


def add_circuit(sheet: Sheet, name: str, **more: Any) -> str:
    """A circuit in a pair of colours and an ink that no other has yet, while there are any. Answers its id."""
    n, circuits = len(sheet["circuits"]), sheet["circuits"].values()
    worn = {(c["colour_a"], c["colour_b"]) for c in circuits}
    a, b = next((p for p in COLOURS if p not in worn), COLOURS[n % len(COLOURS)])
    inks = {c["ink"].upper() for c in circuits}
    ink = next((i for i in INKS if i.upper() not in inks), INKS[n % len(INKS)])
    return sheet.add("circuits", "c", {"name": name, "colour_a": a, "colour_b": b, "ink": ink, **more})


SourceKind = Literal["station", "booster", "cab", "transformer output", "supply"]
CAB_LETTERS = "ABCDEFGHJKLMNPQRSTUVWXYZ"


def add_source(sheet: Sheet, kind: SourceKind, x: float, y: float, gives: Control | None = None) -> str:
    """A source of track power with a circuit of its own, or the first circuit that nothing feeds yet. Answers its id.

    gives: the control it gives, where that is neither its kind's nor the brief's.

    Its ratings are the usual ones for the scale and the control, marked as guesses until somebody reads its label.
    """
    if kind == "supply":
        return add_supply(sheet, x, y)
    fed = {d["output"] for d in sheet["devices"].values()}
    circuit = next(
        (c for c, v in sheet["circuits"].items() if c not in fed and v.get("purpose", "track") == "track"), None
    ) or add_circuit(sheet, f"Track {len(sheet['circuits']) + 1}")
    number = 1 + sum(d["kind"] == kind for d in sheet["devices"].values())
    brief = sheet.data["brief"]
    control: Control = gives or BY_KIND.get(kind) or brief["control"]
    usual, name = usual_source(brief["scale"], control), kind if kind in ("station", "cab") else SOURCE[control]
    called = CAB_LETTERS[(number - 1) % len(CAB_LETTERS)] if kind == "cab" else str(number)
    return sheet.add(
        "devices",
        "D",
        {
            "kind": kind,
            "name": f"{name.capitalize()} {called}",
            "at": {"x": round(x, 1), "y": round(y, 1)},
            "gives": gives,
            "input": None,
            "output": circuit,
            "label_amps": usual.amps,
            "measured_amps": None,
            "volts": None,
            "limit_amps": usual.limit,
            "trip_amps": usual.amps,
            "trip_seconds": usual.trip_seconds,
            "ohms": usual.ohms,
            "sensed": "A",
            "guessed": True,
        },
    )


BEHIND: dict[str, dict[str, Any]] = {
    "breaker": {"letter": "K", "trip_amps": 4, "trip_seconds": 0.05, "ohms": 0.03},
    "reverser": {"letter": "V", "trip_seconds": 0.02, "ohms": 0.04},
    "switch": {"letter": "S", "ohms": 0.02},
    "detector": {"letter": "B", "ohms": 0.02},
    "step-down": {"letter": "U", "volts": 3, "label_amps": 2, "least_volts": 5, "ohms": 0.02},
}
"""What a device behind a circuit starts with, to be put right from what is bought. Common practice, no source."""


def add_device(sheet: Sheet, kind: str, input_circuit: str, name: str) -> str:
    """A device behind a circuit, with a circuit of its own, beside the device that feeds it. Answers its id.

    A breaker starts at 4 A and 50 ms, a reverser at 20 ms, a step-down at 3 V and 2 A; see `BEHIND`.

    Raises:
        DrawingError: a step-down wants an accessory bus, all others want track power.
    """
    parent = sheet.thing("circuits", input_circuit)
    accessory = parent.get("purpose") == "accessory"
    if accessory != (kind == "step-down") and not (accessory and kind in ("switch", "breaker")):
        wants = "an accessory bus" if kind == "step-down" else "track power"
        raise DrawingError(f"A {kind} wants {wants}; {parent['name']} is not that.")
    feeder = next((d for d in sheet["devices"].values() if d["output"] == input_circuit), None)
    mates = sum(d["input"] == input_circuit for d in sheet["devices"].values())
    at = feeder["at"] if feeder else {"x": 0, "y": 0}
    circuit = add_circuit(sheet, name, purpose="accessory" if accessory else "track")
    usual = dict(BEHIND[kind])
    letter = usual.pop("letter")
    return sheet.add(
        "devices",
        letter,
        {
            "kind": kind,
            "name": f"{kind.capitalize()} {name}"[:80],
            "at": {"x": round(at["x"] + 250 + 200 * mates, 1), "y": round(at["y"] + 250, 1)},
            "input": input_circuit,
            "output": circuit,
            **usual,
        },
    )


def add_supply(sheet: Sheet, x: float, y: float) -> str:
    """A supply of 12 V and 5 A for accessories, with a bus of its own, to be put right from its label. Answers its
    id."""
    number = 1 + sum(d["kind"] == "supply" for d in sheet["devices"].values())
    circuit = add_circuit(sheet, f"Accessories {number}", purpose="accessory")
    return sheet.add(
        "devices",
        "PS",
        {
            "kind": "supply",
            "name": f"Supply {number}",
            "at": {"x": round(x, 1), "y": round(y, 1)},
            "output": circuit,
            "volts": 12,
            "label_amps": 5,
            "trip_amps": 5,
            "trip_seconds": 0.1,
            "ohms": 0.03,
        },
    )


def rehang(sheet: Sheet, device: str, input_circuit: str) -> None:
    """Hang a device under another circuit. The wire that fed it goes; a new one comes from the nearest terminal there.

    Raises:
        DrawingError: the device is a source, hangs there already, or wants another kind of power.
    """
    value = sheet.thing("devices", device)
    sheet.thing("circuits", input_circuit)
    if value["kind"] in (*SOURCES, "supply"):
        raise DrawingError(f"{value['name']} is where power starts; it hangs under nothing.")
    if value["kind"] == "selector":
        raise DrawingError(f"{value['name']} chooses from several circuits: change them on its card.")
    if value["input"] == input_circuit:
        raise DrawingError(f"{value['name']} hangs there already.")
    if not may_hang(sheet.layout(), device, input_circuit):
        raise DrawingError(f"{value['name']} cannot take its power from {sheet['circuits'][input_circuit]['name']}.")
    for run in [i for i, r in sheet["runs"].items() if r["ends_at_device"] == device]:
        if sheet["runs"][run]["circuit"] != input_circuit:
            erase(sheet, [Erased(kind="run", id=run)])
    value["input"] = input_circuit
    layout = sheet.layout()
    here = (value["at"]["x"], value["at"]["y"])
    nearest = nearest_terminal_to(layout, input_circuit, here)
    if nearest is not None:
        draw_run(
            sheet, [terminal_point(layout, layout.terminals[nearest]), here], terminal=nearest, ends_at_device=device
        )


def assign(facts: Facts, sheet: Sheet, track: str, at: float, circuit: str) -> str:
    """Give the stretch at this place to a circuit: its section, and its feeders where the circuit has terminals.

    Answers the section's id.
    """
    sheet.thing("tracks", track)
    _for_track(sheet, circuit)
    rails, layout = facts.rails, facts.layout
    number = rails.extent_of[rails.piece_at(track, at)]
    sections = rails.sections_in[number]
    if sections:
        section = sections[0]
        sheet["sections"][section]["circuit"] = circuit
    else:
        section = name_section(sheet, track, at, layout.tracks[track].name, circuit)
    terminals = facts.terminals_of.get(circuit, [])
    for feeder in facts.network.fed_extents.get(number, ()) if terminals else ():
        value = sheet["feeders"][feeder]
        here = point_on_track(facts.layout, value["track"], value["at"])
        value.update(terminal=min(terminals, key=lambda t: (math.dist(here, t[1]), t[0]))[0], tape=None)
    return section


def _for_track(sheet: Sheet, circuit: str) -> None:
    if sheet.thing("circuits", circuit).get("purpose") == "accessory":
        raise DrawingError(f"{sheet['circuits'][circuit]['name']} is for accessories; it feeds no rails.")


def add_run(
    sheet: Sheet,
    circuit: str,
    path: list[dict[str, Any]],
    *,
    device: str | None,
    terminal: str | None,
    ends_at_device: str | None,
    gauge: str,
    strands: str,
    make: str,
) -> str:
    """A run along a path under the next free label, without terminals. Answers its id, which is its label."""
    used = {r["label"] for r in sheet["runs"].values()}
    label = next(n for k in itertools.count(1) if (n := f"R{k}") not in used and n not in sheet["runs"])
    sheet["runs"][label] = {
        "circuit": circuit,
        "label": label,
        "gauge": gauge,
        "strands": strands,
        "make": make,
        "spacing": None,
        "path": path,
        "fed": {"device": device, "terminal": terminal, "along": 0},
        "ends_at_device": ends_at_device,
        "ends_at_terminal": None,
        "tape": None,
    }
    return label


def draw_run(
    sheet: Sheet,
    points: list[tuple[float, float]],
    *,
    device: str | None = None,
    terminal: str | None = None,
    gauge: str | None = None,
    ends_at_device: str | None = None,
    every: float = TERMINALS_EVERY_MM,
) -> str:
    """A bus from a device or a terminal along these points, with terminals along it and at its end. Answers its id.

    Raises:
        DrawingError: it starts nowhere, or has no length.
    """
    if device is not None:
        circuit = sheet.thing("devices", device)["output"]
        at = sheet["devices"][device]["at"]
        points = [(at["x"], at["y"]), *points[1:]] if points else []
    elif terminal is not None:
        circuit = sheet["runs"][sheet.thing("terminals", terminal)["run"]]["circuit"]
    else:
        raise DrawingError(
            "A bus starts at a source, breaker or reverser, or at a terminal of another bus: click one first."
        )
    path = [bend(x, y) for x, y in points]
    if len(path) < 2 or draw([Bend(**v) for v in path]).length < 10:
        raise DrawingError("A bus needs a second place, at least 10 mm on.")
    usual: dict[str, Any] = next(
        (r for r in sheet["runs"].values() if r["circuit"] == circuit), next(iter(sheet["runs"].values()), {})
    )
    label = add_run(
        sheet,
        circuit,
        path,
        device=device,
        terminal=terminal,
        ends_at_device=ends_at_device,
        gauge=gauge or usual.get("gauge") or in_units("14 AWG", sheet.data["brief"]["units"]),
        strands=usual.get("strands", "stranded"),
        make=usual.get("make", "side by side"),
    )
    if ends_at_device is None:
        length = draw([Bend(**v) for v in path]).length
        count = max(1, math.ceil(length / every - 0.25))
        for k in range(1, count + 1):
            sheet.add(
                "terminals",
                "T",
                {"run": label, "along": round(length * k / count - 0.05, 1), "kind": "screw strip", "ohms": None},
            )
    return label


def feed(facts: Facts, sheet: Sheet, track: str, at: float) -> str:
    """A feeder at this place, in phase with its neighbours, to the nearest terminal of its section's circuit.

    Where no section says which circuit, to the nearest terminal there is. Answers its id.

    Raises:
        DrawingError: there is no terminal to tie it to.
    """
    layout = facts.layout
    if track not in layout.tracks:
        raise DrawingError("That track is not there any more.")
    section = facts.rails.section_at(track, at)
    circuit = layout.sections[section].circuit if section else None
    if circuit is None or circuit not in facts.terminals_of:
        x, y = point_on_track(facts.layout, track, at)
        near = min(
            (
                (math.dist((x, y), terminal_point(layout, t)), layout.runs[t.run].circuit)
                for t in layout.terminals.values()
            ),
            default=None,
        )
        if near is None or circuit is not None:
            name = f"{layout.circuits[circuit].name} has no terminal" if circuit else "There is no terminal"
            raise DrawingError(f"{name} to tie a feeder to: place a source and draw its bus first.")
        circuit = near[1]
    patch = add_feeder(facts, circuit, track, at)
    if patch is None:
        raise DrawingError("There is no terminal to tie a feeder to: draw a bus first.")
    i = str(patch[0]["path"].rsplit("/", 1)[1])
    sheet["feeders"][i] = {**patch[0]["value"], "tape": None}
    return i


def cut_gap(sheet: Sheet, track: str, at: float, rails: str) -> str:
    """Cut a gap. Beside one that cuts the other rail there, both become one gap of both rails. Answers its id.

    Of three-rail track it is the centre rail that is cut, unless another is named; beside one in another rail there,
    all
    three are.
    """
    value = sheet.thing("tracks", track)
    three = value.get("rails") == 3 or (value.get("rails") is None and sheet.data["brief"]["control"] == "ac3")
    rails = "centre" if three and rails == "both" else rails
    length = sheet.length(track)
    at = round(min(max(at, 0), length), 1)
    for i, gap in sheet["gaps"].items():
        if gap["track"] == track and abs(gap["at"] - at) <= PAIR_MM:
            if three and gap["rails"] not in (rails, "all", "both"):
                gap["rails"] = "all"
                return i
            if three or (rails in (gap["rails"], "both") and gap["rails"] in (rails, "both")):
                raise DrawingError(
                    f"Gap {i} cuts {'both rails' if gap['rails'] == 'both' else 'that rail'} there already."
                )
            gap["rails"] = "both"
            return i
    return sheet.add("gaps", "G", {"track": track, "at": at, "rails": rails, "made": "insulated joiner"})


def name_section(sheet: Sheet, track: str, at: float, name: str, circuit: str | None = None) -> str:
    """Anchor a section here. Answers its id."""
    sheet.thing("tracks", track)
    if circuit is None:
        track_circuits = (c for c, v in sheet["circuits"].items() if v.get("purpose", "track") == "track")
        circuit = next(track_circuits, None) or add_circuit(sheet, "Track")
    _for_track(sheet, circuit)
    at = round(min(max(at, 0), sheet.length(track)), 1)
    return sheet.add(
        "sections", "section-", {"name": name, "track": track, "at": at, "circuit": circuit, "longest": None}
    )
