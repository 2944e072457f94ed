"""The demo railroad before it was divided: one booster, one bus, nothing but what turns trains gapped. For trying step
Zones."""

from __future__ import annotations

import math
from functools import lru_cache

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.fields import Bend
from jolly_copper.core.layout.geometry import draw
from jolly_copper.demo.drafting import Draft
from jolly_copper.demo.gannet_bay import TRACK_PLAN, feeder_spots
from jolly_copper.demo.gannet_stock import rolling_stock

TURNING = ("loop", "wye")


def _power(d: Draft) -> None:
    for key, name, a, b, ink in (
        ("track", "Track", "red", "black", "#7A4E8C"),
        ("loop", "Staging loop, reversing", "purple/white", "grey", "#B0467C"),
        ("wye", "Quarry wye, reversing", "green/white", "white", "#6F9A3A"),
    ):
        d.data["circuits"][key] = {"name": name, "colour_a": a, "colour_b": b, "ink": ink}
    d.data["devices"]["booster1"] = {
        "kind": "booster",
        "name": "Booster 1",
        "at": {"x": 5300, "y": 4950},
        "output": "track",
        "label_amps": 5,
        "limit_amps": 8,
        "trip_amps": 5,
        "trip_seconds": 0.25,
        "ohms": 0.025,
    }
    for key, name, x, y, out in (
        ("V1", "Reverser Staging loop", 7600, 2000, "loop"),
        ("V2", "Reverser Quarry wye", 8900, 2300, "wye"),
    ):
        d.data["devices"][key] = {
            "kind": "reverser",
            "name": name,
            "at": {"x": x, "y": y},
            "input": "track",
            "output": out,
            "trip_seconds": 0.02,
            "ohms": 0.04,
        }


def _near(d: Draft, run: str, x: float, y: float) -> tuple[dict[str, str], tuple[float, float]]:
    """The terminal of a run nearest to a place, as a start of another run, and where it is."""
    line = draw([Bend(**v) for v in d.data["runs"][run]["path"]])
    mine = {t: line.point(v["along"]) for t, v in d.data["terminals"].items() if v["run"] == run}
    best = min(mine, key=lambda t: math.dist(mine[t], (x, y)))
    return {"terminal": best}, mine[best]


def _copper(d: Draft) -> None:
    home, by = (5300, 4950), {"device": "booster1"}
    d.bus(
        "W1",
        "track",
        "12 AWG",
        [home, (4900, 5000), (4900, 5900, 100), (90, 5900, 300), (90, 90, 300), (5950, 90)],
        fed=by,
        first=950,
        make="twisted",
    )
    d.bus(
        "E1",
        "track",
        "12 AWG",
        [home, (6050, 5200), (6050, 5900, 100), (11910, 5900, 300), (11910, 90, 300), (6050, 90)],
        fed=by,
        first=950,
        make="twisted",
    )
    for along in (2950, 8000, 9050):
        d.plug("E1", along)
    d.bus("Y1", "track", "14 AWG", [home, (5200, 5125), (3900, 5125)], fed=by, first=200, every=700, make="twisted")
    d.bus("Y2", "track", "14 AWG", [home, (5450, 5125), (7900, 5125)], fed=by, first=400, every=800, make="twisted")
    d.bus(
        "S1",
        "track",
        "14 AWG",
        [home, (5000, 5060, 40), (700, 5060, 150), (650, 2500, 300), (1500, 3350, 200), (2300, 3000)],
        fed=by,
        first=5900,
        every=700,
        make="twisted",
    )
    fed, at = _near(d, "E1", 8300, 90)
    d.bus(
        "R1",
        "track",
        "14 AWG",
        [at, (8300, 620), (9300, 620), (11200, 1100)],
        fed=fed,
        first=500,
        every=800,
        make="twisted",
    )
    d.bus(
        "R2",
        "track",
        "14 AWG",
        [at, (8200, 1300), (8600, 2300), (8900, 2300)],
        fed=fed,
        ends_at_device="V2",
        make="twisted",
    )
    d.bus(
        "R3",
        "wye",
        "16 AWG",
        [(8900, 2300), (9500, 2300), (9500, 1200)],
        fed={"device": "V2"},
        first=500,
        every=700,
        make="twisted",
    )
    fed, at = _near(d, "E1", 6050, 90)
    d.bus(
        "G1",
        "track",
        "14 AWG",
        [at, (5700, 500, 50), (5300, 430), (5500, 1200)],
        fed=fed,
        first=300,
        every=800,
        make="twisted",
    )
    d.bus("G2", "track", "14 AWG", [at, (7400, 500, 100), (7600, 2000)], fed=fed, ends_at_device="V1", make="twisted")
    d.bus(
        "L1",
        "loop",
        "14 AWG",
        [(7600, 2000), (7320, 2300, 150), (7320, 4120, 300), (5480, 4120, 300), (5480, 2000)],
        fed={"device": "V1"},
        first=500,
        every=1100,
        make="twisted",
    )


def _gaps_and_sections(d: Draft) -> None:
    for track in ("down-bridge", "up-bridge"):
        d.gap(track, 1000, made="cut and filled")
        d.gap(track, 1900, made="cut and filled")
    for track, at in (("throat-west", 160), ("throat-east", 160), ("wye-west", 120), ("wye-east", 120)):
        d.gap(track, at)
    d.section("railroad", "Railroad", "down-west", 3200, "track")
    d.section("bridge-down", "Bridge, down", "down-bridge", 1450, "track")
    d.section("bridge-up", "Bridge, up", "up-bridge", 1450, "track")
    d.section("loop", "Staging loop", "staging-1", 900, "loop")
    d.section("wye", "Quarry wye", "wye-tail", 700, "wye")
    for k in range(1, 6):
        d.section(f"shed-{k}", f"Shed road {k}", f"shed-{k}", 300, "track")


def _feeders(d: Draft) -> None:
    spots = [(t, at, c if c in TURNING else "track") for t, at, c in feeder_spots(d)]
    d.feed([*spots, ("shed-3", 350, "track")])


def _scenes(d: Draft) -> None:
    d.data["trains"] |= {
        "light1": {"name": "Engine on shed, 1", "engines": ["goods"], "length": 220},
        "light2": {"name": "Engine on shed, 2", "engines": ["express"], "length": 240},
    }
    who = (
        ("ore", "running", ["main"]),
        ("coast", "running", ["main"]),
        ("mail", "running", ["main"]),
        ("pickup", "running", ["main"]),
        ("local", "running", ["main", "staging"]),
        ("boat", "idling", ["staging"]),
        ("works", "idling", ["staging"]),
        ("uplands", "running", ["branch"]),
        ("empties", "running", ["branch"]),
        ("yardgoat", "running", ["yard"]),
        ("fish", "idling", ["yard"]),
        ("quaygoat", "running", ["industry"]),
        ("light1", "idling", ["engine terminal"]),
        ("light2", "idling", ["engine terminal"]),
    )
    d.data["scenes"] = {
        "open-day": {
            "name": "Saturday open day",
            "placements": [{"train": t, "doing": does, "uses": uses} for t, does, uses in who],
        },
    }


@lru_cache(maxsize=1)
def undivided_bay() -> Layout:
    """The demo railroad with one booster and no districts."""
    brief = {"scale": "TT", "control": "dcc", "track_volts": 14.4, "units": "imperial", "lead": "M. Arkwright-Pell"}
    d = Draft(
        "Gannet Bay, undivided",
        club="Pellam Hall Model Railroad Club",
        brief=brief,
        notes="The demo railroad as it was first wired: one booster for all. Step Zones divides it.",
    )
    for step in (*TRACK_PLAN, _power, _copper, _gaps_and_sections, _feeders, rolling_stock, _scenes):
        step(d)
    return d.plain()
