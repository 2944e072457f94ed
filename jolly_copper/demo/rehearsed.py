"""Two evenings to rehearse on the signalled demo: an open day with mistakes in it, and a round of ten minutes."""

from __future__ import annotations

from typing import Any

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch


def call(track: str, at: float, **said: Any) -> dict[str, Any]:
    """A call of a plan."""
    return {"track": track, "at": at, **said}


def by_calls(train: str, track: str, at: float, towards: str, *calls: dict[str, Any]) -> dict[str, Any]:
    """A train that goes from place to place."""
    return {"train": train, "track": track, "at": at, "towards": towards, "by": "calls", "calls": list(calls)}


def parked(train: str, track: str, at: float, towards: str = "b") -> dict[str, Any]:
    """A train that stands all evening."""
    return {"train": train, "track": track, "at": at, "towards": towards, "by": "parked"}


GALA_KIND = {
    "name": "Quarry tank, sound and keep-alive",
    "idle": 0.1,
    "running": 0.3,
    "stall": 1.0,
    "inrush": 1.15,
    "fill_seconds": 0.09,
    "hold_seconds": 2.0,
}
"""Four of them are the guests of the open day. Invented figures."""
GALA = {"gala": {"name": "Gala four", "engines": ["quarry-tank"] * 4, "length": 540}}

DOWN = {
    "ore": by_calls(
        "ore", "down-south-west", 4400, "b", call("down-north-east", 5200, dwell=25), call("down-south-west", 4400)
    ),
    "coast": by_calls(
        "coast", "down-north-east", 2900, "b", call("down-south", 2700, dwell=40), call("down-north-east", 2900)
    ),
    "mail": by_calls(
        "mail", "down-south-east", 2300, "b", call("down-west", 4300, dwell=30), call("down-south-east", 2300)
    ),
}
"""Round and round on the down main, which runs one way."""
UP = {
    "local": by_calls(
        "local", "up-south-2", 1500, "b", call("up-north-2", 860, dwell=30), call("up-south-2", 1500, dwell=30)
    ),
    "pickup": by_calls(
        "pickup", "up-south-west", 3300, "b", call("up-south-east", 3900, dwell=45), call("up-south-west", 3300)
    ),
}
QUARRY = {
    "uplands": by_calls(
        "uplands",
        "quarry-loader",
        300,
        "a",
        call("up-north-3", 900, facing="a", dwell=20, leaves=120, then="turn"),
        call("quarry-loader", 700, facing="b", dwell=20, leaves=630, then="turn"),
    )
    | {"leaves": 30},
    "works": by_calls(
        "works",
        "wye-tail",
        300,
        "a",
        call("up-north-3", 900, facing="a", dwell=20, leaves=420, via=["wye-west"], then="turn"),
        call("wye-tail", 1050, facing="b", dwell=20, leaves=930, via=["wye-west"], then="turn"),
    )
    | {"leaves": 330},
}
"""Down to the main line and back, one after the other: as long as nobody is late they never meet."""


def _open_day() -> dict[str, Any]:
    return {
        "name": "Saturday open day",
        "minutes": 180,
        "round": 600,
        "scene": "open-day",
        "person_after": 60,
        "trains": {
            **DOWN,
            **UP,
            **QUARRY,
            "gala": parked("gala", "quarry-siding", 735),
            "boat": parked("boat", "staging-1", 3500),
            "fish": parked("fish", "yard-1", 3200),
            "yardgoat": parked("yardgoat", "yard-2", 1500),
            "quaygoat": parked("quaygoat", "fish-quay", 1000),
        },
        "faults": [
            {"kind": "tool on the rail", "seconds": 4320, "track": "quarry-lead", "at": 200, "lasts": 40},
            {"kind": "derailment", "seconds": 9400, "train": "works", "lasts": 230},
        ],
    }


def _round_of_ten() -> dict[str, Any]:
    trains = {**DOWN, **UP, "boat": parked("boat", "staging-1", 3500)}
    return {"name": "Exhibition round", "minutes": 60, "round": 600, "scene": "open-day", "trains": trains}


def with_evenings(layout: Layout) -> Layout:
    """The demo with its evenings, their guests and a scene for those."""
    gala = {
        "name": "Quarry gala",
        "placements": [{"train": t, "doing": "idling", "circuits": ["quarry"]} for t in GALA],
    }
    plain: dict[str, Any] = {
        "locos": {"quarry-tank": GALA_KIND},
        "trains": GALA,
        "scenes": {"gala": gala},
        "plans": {"open-day": _open_day(), "round": _round_of_ten()},
    }
    patch = [
        {"op": "add", "path": f"/{kind}/{i}", "value": value}
        for kind, things in plain.items()
        for i, value in things.items()
    ]
    return apply_patch(layout, patch)
