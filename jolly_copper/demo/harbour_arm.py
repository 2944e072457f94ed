"""Harbour Arm: an exhibition railroad of eight boards that all lift out. Invented for this demo."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.proposals.blocking.make import make_blocks, propose_blocks
from jolly_copper.core.proposals.coupling import propose_couplings
from jolly_copper.core.proposals.laying.whole import School, lay_railroad
from jolly_copper.demo.drafting import Draft

FRONT = ("1 Town", "2 Quay", "3 Station", "4 Tunnel")
BACK = ("5 Hills", "6 Power", "7 Fiddle", "8 Bend")


def _boards(d: Draft) -> None:
    for k in range(4):
        x = 1200.0 * k
        d.board(f"front{k + 1}", FRONT[k], x, 600, x + 1200, 1200, removable=True)
        d.board(f"back{k + 1}", BACK[k], x, 0, x + 1200, 600, removable=True)
    lids = {"A": ("front1", "front2", "back1"), "B": ("front3", "front4", "back4"), "C": ("back2", "back3")}
    for lid, boards in lids.items():
        for board in boards:
            d.data["boards"][board]["box"] = f"Lid {lid}"


def _track(d: Draft) -> None:
    more: dict[str, Any] = {"code": 75, "joiner_every": 914.4}
    for key, x, y, hand in (
        ("T1", 900, 1050, "left"),
        ("T2", 3900, 1050, "right"),
        ("T3", 2800, 990, "right"),
        ("T4", 2150, 780, "left"),
        ("T5", 900, 150, "right"),
        ("T6", 3900, 150, "left"),
        ("T7", 1450, 210, "right"),
        ("T8", 3350, 210, "left"),
    ):
        d.turnout(key, x, y, hand, motor="stall motor", reports=True)
    d.node("Q1", 1350, 780, "bumper")
    d.node("Q2", 1350, 840, "bumper")
    d.track("curve-west", "Hill curve", "T1.points", "T5.points", (150, 1050, 450), (150, 150, 450), **more)
    d.track("curve-east", "Tunnel curve", "T2.points", "T6.points", (4650, 1050, 450), (4650, 150, 450), **more)
    d.track("platform", "Platform road", "T1.through", "T2.through", **more)
    d.track("loop-west", "Loop, west", "T1.diverging", "T3.through", (1180, 990), use="siding", **more)
    d.track("loop-east", "Loop, east", "T3.points", "T2.diverging", (3620, 990), use="siding", **more)
    d.track("arm", "Harbour arm", "T3.diverging", "T4.points", (2520, 950), (2400, 780), use="yard", **more)
    d.track("fish-quay", "Fish quay", "T4.through", "Q1.1", use="yard", **more)
    d.track("coal-quay", "Coal quay", "T4.diverging", "Q2.1", (1850, 840), use="yard", **more)
    d.track("fiddle-1", "Fiddle 1", "T5.through", "T6.through", use="staging", **more)
    d.track("ladder-west", "Ladder, west", "T5.diverging", "T7.points", (1180, 210), use="staging", **more)
    d.track("ladder-east", "Ladder, east", "T8.points", "T6.diverging", (3620, 210), use="staging", **more)
    d.track("fiddle-2", "Fiddle 2", "T7.through", "T8.through", use="staging", **more)
    d.track("fiddle-3", "Fiddle 3", "T7.diverging", "T8.diverging", (1740, 270), (3060, 270), use="staging", **more)


def _power(d: Draft) -> None:
    for key, name, a, b, ink in (
        ("booster", "Booster", "red", "black", "#8A4519"),
        ("main", "Main line", "red", "black", "#7A4E8C"),
        ("fiddle", "Fiddle yard", "blue", "white", "#2F6F9F"),
        ("arm", "Harbour arm", "green", "white", "#4F7A3A"),
    ):
        d.data["circuits"][key] = {"name": name, "colour_a": a, "colour_b": b, "ink": ink}
    d.data["circuits"]["acc"] = {
        "name": "Accessories, 12 V",
        "colour_a": "yellow",
        "colour_b": "brown",
        "purpose": "accessory",
        "ink": "#5C6470",
    }

    def device(key: str, kind: str, name: str, x: float, y: float, **more: Any) -> None:
        d.data["devices"][key] = {"kind": kind, "name": name, "at": {"x": x, "y": y}, **more}

    amps: dict[str, Any] = {"label_amps": 5, "limit_amps": 7, "trip_amps": 5, "trip_seconds": 0.25, "ohms": 0.025}
    device("booster1", "booster", "Booster", 1800, 520, output="booster", **amps)
    for k, (key, out, trip) in enumerate((("K1", "main", 4), ("K2", "fiddle", 3), ("K3", "arm", 3))):
        name = f"Breaker {d.data['circuits'][out]['name']}"
        trips: dict[str, Any] = {"label_amps": trip, "trip_amps": trip, "trip_seconds": 0.05, "ohms": 0.03}
        device(key, "breaker", name, 1500 + 250 * k, 430, input="booster", output=out, **trips)
    volts: dict[str, Any] = {"volts": 12, "label_amps": 3, "trip_amps": 3, "trip_seconds": 0.1, "ohms": 0.03}
    device("PS1", "supply", "Supply 12 V", 2250, 520, output="acc", **volts)
    d.data.setdefault("drivers", {})["motors"] = {
        "name": "Turnout driver",
        "drives": "turnouts",
        "at": {"x": 2150, "y": 380},
        "outputs": 8,
        "address": 1,
        "supply": "acc",
    }
    for k in range(1, 9):
        d.data["nodes"][f"T{k}"] |= {"driver": "motors", "output": k}


def _districts(d: Draft) -> None:
    for track in ("curve-west", "curve-east"):
        d.gap(track, d.length(track) - 110, made="cut and filled")
    d.gap("arm", 130, made="cut and filled")
    d.section("main", "Main line", "platform", 1200, "main")
    d.section("fiddle", "Fiddle yard", "fiddle-1", 1500, "fiddle")
    d.section("arm", "Harbour arm", "arm", 500, "arm")


def _accessories(d: Draft) -> None:
    d.bus(
        "A1",
        "acc",
        "1 mm²",
        [(2250, 520), (2250, 1120, 60), (4500, 1120)],
        fed={"device": "PS1", "along": 0},
        first=30,
        every=1000,
    )
    d.data["loads"]["lights"] = {
        "kind": "LED",
        "name": "Town and quay lamps",
        "circuit": "acc",
        "count": 40,
        "at_once": 40,
        "amps": 0,
        "working_amps": 0.01,
        "least_volts": 10,
        "most_volts": 14,
    }


def _stock(d: Draft) -> None:
    for key, name, idle, running, stall in (
        ("tank", "Tank locomotive, sound", 0.12, 0.4, 1.2),
        ("railcar", "Railcar", 0.05, 0.3, 0.9),
        ("goods", "Goods locomotive, sound", 0.15, 0.5, 1.4),
    ):
        d.data["locos"][key] = {"name": name, "idle": idle, "running": running, "stall": stall, "inrush": 0.5}
    for key, name, kind, length in (
        ("fish", "Fish train", "tank", 900),
        ("local", "Town local", "railcar", 420),
        ("coal", "Coal train", "goods", 1300),
        ("pilot", "Quay pilot", "tank", 170),
    ):
        d.data["trains"][key] = {"name": name, "engines": [kind], "length": length}
    where = {"fish": ("idling", "fiddle"), "local": ("running", "main"), "coal": ("running", "main")}
    d.data["scenes"]["show"] = {
        "name": "Show day",
        "placements": [
            *({"train": t, "doing": doing, "circuits": [c]} for t, (doing, c) in where.items()),
            {"train": "pilot", "doing": "running", "circuits": ["arm"]},
        ],
    }


def _drawer(d: Draft) -> None:
    for key, name, poles, amps, takes, codings, on_hand in (
        ("power", "Two-pole power plug", 2, 15, "4 mm²", 1, 24),
        ("keyed", "Six-pole plug", 6, 10, "2.5 mm²", 4, 20),
        ("nine", "Nine-pole plug with screws", 9, 3, "0.5 mm²", 1, 16),
    ):
        d.data["connectors"][key] = {
            "name": name,
            "poles": poles,
            "amps": amps,
            "takes": takes,
            "codings": codings,
            "on_hand": on_hand,
        }


@lru_cache(maxsize=1)
def harbour_open() -> Layout:
    """Harbour Arm wired, before anybody chose its connectors."""
    brief: dict[str, Any] = {
        "scale": "OO",
        "control": "dcc",
        "track_volts": 15,
        "units": "metric",
        "lead": "T. Quillfeather",
        "travelling": {"public": "bottom", "feeder_by_joint": 600},
    }
    d = Draft(
        "Harbour Arm, joints open",
        club="Wick Lane Travelling Railroad",
        brief=brief,
        notes="An exhibition railroad: eight boards that all lift out, three lids to a van. Wired, with no connector "
        "chosen yet: step Travel, Plug the joints.",
    )
    for step in (_boards, _track, _power, _districts, _accessories, _stock, _drawer):
        step(d)
    layout = d.plain()
    blocked = apply_patch(layout, make_blocks(layout, propose_blocks(layout)))
    return apply_patch(blocked, lay_railroad(blocked, School(spacing="every 3 ft")))


@lru_cache(maxsize=1)
def harbour_arm() -> Layout:
    """Harbour Arm with a connector for every wire that crosses a joint."""
    layout = harbour_open()
    plugged = apply_patch(layout, propose_couplings(layout).patch)
    notes = "An exhibition railroad: eight boards that all lift out, three lids to a van. Step Travel has its joints."
    return plugged.model_copy(update={"name": "Harbour Arm", "notes": notes})
