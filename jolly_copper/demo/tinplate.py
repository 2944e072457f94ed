"""Tinplate Lane: three-rail track in O, two transformers, two loops and a yard. Invented for this demo."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.proposals.cabs.three_rail import isolate_rail, throttle_to_loop
from jolly_copper.core.proposals.laying.whole import School, lay_railroad
from jolly_copper.demo.drafting import Draft

RAIL: dict[str, Any] = {"code": 250, "metal": "steel", "ohms_per_metre": 0.03, "joiner_every": 254.0}
"""Tubular track in lengths of ten inches, its ohms as somebody measured them."""
MAIN = {**RAIL, "use": "main"}
YARD = {**RAIL, "use": "yard"}


def _track(d: Draft) -> None:
    d.board("west", "1 West", 0, 0, 2100, 2100)
    d.board("east", "2 East", 2100, 0, 4200, 2100)
    d.turnout("T1", 1700, 1950, "left")
    d.turnout("T2", 2300, 1780, "left")
    d.turnout("T3", 2900, 320, "left")
    d.turnout("T4", 2400, 450, "left")
    d.node("N1", 2100, 150)
    d.node("Y1", 900, 450, "bumper")
    d.node("Y2", 1000, 590, "bumper")
    d.track("outer-east", "Outer loop, east", "T1.through", "N1.1", (4050, 1950, 750), (4050, 150, 750), **MAIN)
    d.track("outer-west", "Outer loop, west", "N1.2", "T1.points", (150, 150, 750), (150, 1950, 750), **MAIN)
    d.track("inner-west", "Inner loop, west", "T2.through", "T3.through", (320, 1780, 600), (320, 320, 600), **MAIN)
    d.track("inner-east", "Inner loop, east", "T3.points", "T2.points", (3880, 320, 600), (3880, 1780, 600), **MAIN)
    d.track("crossover", "Crossover", "T1.diverging", "T2.diverging", **MAIN)
    d.track("yard-lead", "Yard lead", "T3.diverging", "T4.points", **YARD)
    d.track("yard-1", "Yard 1", "T4.through", "Y1.1", **YARD)
    d.track("yard-2", "Yard 2", "T4.diverging", "Y2.1", (2150, 590), **YARD)


def _power(d: Draft) -> None:
    inks = {"a": "#8A4519", "b": "#2F6F9F", "c": "#4F7A3A"}
    for k, (key, name, wire) in enumerate(
        (("a", "Throttle A", "red"), ("b", "Throttle B", "blue"), ("c", "Throttle C", "yellow"))
    ):
        unit = 1 if key in "ab" else 2
        d.data["circuits"][key] = {"name": name, "colour_a": wire, "colour_b": "black", "ink": inks[key]}
        d.data["devices"][f"out-{key}"] = {
            "kind": "transformer output",
            "name": f"Transformer {unit}, output {key.upper()}",
            "winding": f"Transformer {unit}",
            "at": {"x": 900 + 1200 * k, "y": 2240},
            "output": key,
            "volts": 18,
            "label_amps": 8,
            "limit_amps": 13,
            "trip_amps": 8,
            "trip_seconds": 4,
            "ohms": 0.1,
        }


def _stock(d: Draft) -> None:
    for key, name, idle, running, stall in (
        ("steamer", "Steam locomotive, smoke and sound", 1.2, 3.2, 6.0),
        ("trolley", "Trolley", 0.2, 1.0, 2.5),
    ):
        d.data["locos"][key] = {"name": name, "idle": idle, "running": running, "stall": stall, "pickups": 180}
    d.data["trains"] = {
        "limited": {
            "name": "Lane Limited",
            "engines": ["steamer"],
            "length": 2000,
            "lit_cars": 4,
            "amps_per_lit_car": 0.4,
        },
        "freight": {"name": "Way freight", "engines": ["steamer"], "length": 1700},
        "trolley": {"name": "Trolley", "engines": ["trolley"], "length": 260},
    }
    d.data["scenes"] = {
        "evening": {
            "name": "A family evening",
            "placements": [
                {"train": "limited", "doing": "running", "circuits": ["a"]},
                {"train": "freight", "doing": "running", "circuits": ["b"]},
                {"train": "trolley", "doing": "idling", "circuits": ["c"]},
            ],
        }
    }


@lru_cache(maxsize=1)
def tinplate_lane() -> Layout:
    """Tinplate Lane: centre gaps part two loops and a yard, an isolated outer rail works a crossing gate."""
    brief: dict[str, Any] = {
        "scale": "O",
        "control": "ac3",
        "track_volts": 18,
        "units": "imperial",
        "lead": "B. Ostrander-Finch",
    }
    brief |= {"rules": {"shortest_radius": 580}, "detecting": {"wanted": False}, "signalling": {"wanted": False}}
    d = Draft(
        "Tinplate Lane",
        club="Lantern Street Train Night",
        brief=brief,
        notes="Three-rail in O. Nobody has read yet whether the two transformers are in phase: step Bench says how.",
    )
    for step in (_track, _power, _stock):
        step(d)
    layout = d.plain()
    looped = apply_patch(layout, list(throttle_to_loop(layout).patch))
    wired = apply_patch(looped, lay_railroad(looped, School(spacing="every 3 ft", gauge="12 AWG")))
    gate = isolate_rail(derive(wired), "outer-west", 2900, "Crossing gate", 3.0)
    return apply_patch(wired, list(gate.patch))
