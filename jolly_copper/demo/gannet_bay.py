"""Gannet Bay & Uplands, Pellam Hall Model Railroad Club: invented for this demo, mistakes and all."""

from __future__ import annotations

import math
from functools import lru_cache

from jolly_copper.core.layout.document import Layout
from jolly_copper.demo.drafting import Draft
from jolly_copper.demo.gannet_stock import accessories, rolling_stock, scenes

MAIN = {"code": 83, "use": "main"}
YARD = {"code": 55, "use": "yard"}


def boards(d: Draft) -> None:
    for k in range(4):
        d.board(f"board{k + 1}", f"{k + 1}", k * 3000, 0, (k + 1) * 3000, 600)
    d.board("board5", "5", 11400, 600, 12000, 2500)
    d.board("bridge", "6 bridge", 11400, 2500, 12000, 3400, removable=True)
    d.board("board7", "7", 11400, 3400, 12000, 5100)
    for k in range(4):
        d.board(f"board{8 + k}", f"{8 + k}", 9000 - k * 3000, 5100, 12000 - k * 3000, 6000)
    d.board("board12", "12", 0, 2850, 600, 5100)
    d.board("board13", "13", 0, 600, 600, 2850)
    d.board("board14", "14 shed", 600, 2200, 2800, 3800)
    d.board("board15", "15 peninsula", 5400, 600, 7400, 4200)
    d.board("board16", "16 uplands", 8500, 600, 11400, 3000)
    # The brace of board 12 was moved after Main west was wired; nobody drew it again.
    d.obstacle("brace12", "Cross brace of 12", "brace", 20, 3900, 300, 3960)
    d.obstacle("leg7", "Leg of 7", "leg", 11430, 4250, 11520, 4340)
    d.obstacle("leg13", "Leg of 13", "leg", 480, 1500, 570, 1590)
    d.obstacle("panel15", "Staging panel", "panel", 5420, 4160, 5900, 4195)
    d.obstacle("machine10", "Machine of T10", "switch machine", 7480, 5600, 7600, 5650)


def mains(d: Draft) -> None:
    d.turnout("T1", 3000, 200, "right")
    d.node("JD1", 6000, 200)
    d.node("JD2", 11800, 1500)
    d.node("JD3", 11800, 4300)
    d.turnout("T2", 9000, 5800, "right")
    d.node("JD4", 6000, 5800)
    d.node("JD5", 200, 3000)
    d.turnout("T3", 3700, 360, "right")
    d.turnout("T4", 5000, 360, "right")
    d.node("JU1", 6000, 360)
    d.turnout("T5", 8000, 360, "right")
    d.node("JU2", 11640, 1500)
    d.node("JU3", 11640, 4300)
    d.turnout("T6", 8300, 5640, "right")
    d.turnout("T7", 7900, 5640, "right")
    d.node("JU4", 6000, 5640)
    d.turnout("T8", 3600, 5640, "left")
    d.turnout("T9", 360, 1800, "left")
    d.track("down-north-west", "Down main, north-west", "T1.through", "JD1.1", **MAIN)
    d.track("down-north-east", "Down main, north-east", "JD1.2", "JD2.1", (11800, 200, 900), **MAIN)
    d.track("down-bridge", "Down main, bridge", "JD2.2", "JD3.1", **MAIN)
    d.track("down-south-east", "Down main, south-east", "JD3.2", "T2.points", (11800, 5800, 900), **MAIN)
    d.track("down-south", "Down main, south", "T2.through", "JD4.1", **MAIN)
    d.track("down-south-west", "Down main, south-west", "JD4.2", "JD5.1", (200, 5800, 900), **MAIN)
    d.track("down-west", "Down main, west", "JD5.2", "T1.points", (200, 200, 900), **MAIN)
    for track in d.data["tracks"].values():
        track["runs"] = "forward"  # the up main is worked both ways, for trains to and from staging
    d.track("crossover-1", "Crossover 1", "T1.diverging", "T3.diverging", code=83, joiner_every=None)
    d.track("up-north-1", "Up main, north 1", "T3.points", "T4.points", **MAIN)
    d.track("up-north-2", "Up main, north 2", "T4.through", "JU1.1", **MAIN)
    d.track("up-north-3", "Up main, north 3", "JU1.2", "T5.points", **MAIN)
    d.track("up-north-east", "Up main, north-east", "T5.through", "JU2.1", (11640, 360, 740), **MAIN)
    d.track("up-bridge", "Up main, bridge", "JU2.2", "JU3.1", **MAIN)
    d.track("up-south-east", "Up main, south-east", "JU3.2", "T6.through", (11640, 5640, 740), **MAIN)
    d.track("up-south-1", "Up main, south 1", "T6.points", "T7.points", **MAIN)
    d.track("up-south-2", "Up main, south 2", "T7.through", "JU4.1", **MAIN)
    d.track("up-south-3", "Up main, south 3", "JU4.2", "T8.through", **MAIN)
    d.track("up-south-west", "Up main, south-west", "T8.points", "T9.through", (360, 5640, 740), **MAIN)
    d.track("up-north-west", "Up main, north-west", "T9.points", "T3.through", (360, 360, 740), **MAIN)
    d.track("crossover-2", "Crossover 2", "T2.diverging", "T6.diverging", code=83, joiner_every=None)


def harbour(d: Draft) -> None:
    rows = (5555, 5480, 5405, 5330)
    for k in range(3):
        d.turnout(f"T{10 + k}", 7550 - 300 * k, rows[k], "right")
        d.turnout(f"T{20 + k}", 4000 + 300 * k, rows[k], "left")
    d.turnout("T30", 6200, rows[3], "right")
    d.turnout("T31", 5700, 5255, "right")
    d.track("yard-lead-east", "Yard lead, east", "T7.diverging", "T10.points", **YARD)
    d.track("yard-lead-west", "Yard lead, west", "T20.points", "T8.diverging", **YARD)
    for k in range(2):
        d.track(f"ladder-east-{k + 1}", f"Ladder east {k + 1}", f"T{10 + k}.diverging", f"T{11 + k}.points", **YARD)
        d.track(f"ladder-west-{k + 1}", f"Ladder west {k + 1}", f"T{21 + k}.points", f"T{20 + k}.diverging", **YARD)
    for k in range(3):
        d.track(f"yard-{k + 1}", f"Yard {k + 1}", f"T{10 + k}.through", f"T{20 + k}.through", **YARD)
    d.track("yard-4-east", "Yard 4, east", "T12.diverging", "T30.points", (6650, rows[3]), **YARD)
    d.track("yard-4-west", "Yard 4, west", "T30.through", "T22.diverging", (4900, rows[3]), **YARD)
    d.node("B1", 4300, 5255, "bumper")
    d.node("B2", 4500, 5175, "bumper")
    quay = {"code": 55, "use": "industry"}
    d.track("quay-lead", "Quay lead", "T30.diverging", "T31.points", (5950, 5255), **quay)
    d.track("fish-quay", "Fish quay", "T31.through", "B1.1", **quay)
    d.track("coal-drop", "Coal drop", "T31.diverging", "B2.1", (5450, 5175), **quay)


def staging(d: Draft) -> None:
    staging = {"code": 83, "use": "staging"}
    d.turnout("T40", 6400, 1500, "left")
    d.turnout("T41", 5600, 2500, "left")
    d.turnout("T42", 7200, 2500, "right")
    d.track("staging-lead", "Staging lead", "T4.diverging", "T40.points", (5500, 440), (6400, 440, 700), **staging)
    d.track("throat-west", "Staging throat, west", "T40.through", "T41.points", (6400, 1620), (5600, 2100), **staging)
    d.track("throat-east", "Staging throat, east", "T40.diverging", "T42.points", (6410, 1640), (7200, 2100), **staging)
    d.track("staging-1", "Staging 1", "T41.through", "T42.through", (5600, 4000, 780), (7200, 4000, 780), **staging)
    d.track(
        "staging-2", "Staging 2", "T41.diverging", "T42.diverging",
        (5710, 2800), (5710, 3880, 670), (7090, 3880, 670), (7090, 2800), **staging,
    )  # fmt: skip


def quarry(d: Draft) -> None:
    branch = {"code": 55, "use": "branch"}
    d.turnout("T50", 9200, 850, "right")
    d.turnout("T51", 10200, 900, "left")
    d.turnout("T52", 9700, 1700, "right")
    d.turnout("T53", 10600, 900, "right")
    d.node("B3", 9700, 2900, "bumper")
    d.node("B4", 11350, 900, "bumper")
    d.node("B5", 11350, 980, "bumper")
    d.track("branch", "Quarry branch", "T5.diverging", "T50.points", (8350, 410), (8800, 760), **branch)
    d.track("wye-north", "Wye, north leg", "T50.through", "T51.through", (9700, 885), **branch)
    d.track("wye-west", "Wye, west leg", "T50.diverging", "T52.through", (9690, 905), **branch)
    d.track("wye-east", "Wye, east leg", "T51.diverging", "T52.diverging", (9710, 905), **branch)
    d.track("wye-tail", "Wye tail", "T52.points", "B3.1", **branch)
    d.track("quarry-lead", "Quarry lead", "T51.points", "T53.points", **branch)
    d.track(
        "quarry-loader", "Quarry loader", "T53.through", "B4.1", **(branch | {"joiners": "old", "joiner_every": 180.0})
    )
    d.track("quarry-siding", "Quarry siding", "T53.diverging", "B5.1", (10850, 980), **branch)


def engine_terminal(d: Draft) -> None:
    shed = {"code": 55, "use": "engine terminal"}
    d.node("TT", 1700, 3000, "turntable", name="Turntable", diameter=300)
    d.track("shed-lead", "Shed lead", "T9.diverging", "TT.stub1", (420, 2200), (760, 3000), (1550, 3000), **shed)
    d.data["tracks"]["shed-lead"]["path"].pop()  # the lead ends at the pit's edge, not at its middle
    for k, degrees in enumerate((-50, -25, 0, 25, 50)):
        turn = math.radians(degrees)
        d.node(f"B1{k}", 1700 + 950 * math.cos(turn), 3000 + 950 * math.sin(turn), "bumper")
        d.track(f"shed-{k + 1}", f"Shed road {k + 1}", f"TT.stub{k + 2}", f"B1{k}.1", **(shed | {"joiner_every": None}))
        d.data["tracks"][f"shed-{k + 1}"]["path"][0] = {
            "x": round(1700 + 150 * math.cos(turn), 1), "y": round(3000 + 150 * math.sin(turn), 1),
        }  # fmt: skip


TRACK_PLAN = (boards, mains, harbour, staging, quarry, engine_terminal)


def _power(d: Draft) -> None:
    colours = {
        "b1": ("Booster 1", "red", "black", "#8A4519"), "b2": ("Booster 2", "brown", "grey", "#3B5B92"),
        "b3": ("Booster 3", "purple", "grey", "#6B5B2E"),
        "west": ("Main west", "red", "black", "#7A4E8C"), "east": ("Main east", "orange", "black", "#B5622B"),
        "yard": ("Harbour yard", "blue", "white", "#2F6F9F"), "quays": ("Harbour quays", "blue/white", "white", "#4C8C9A"),
        "shed": ("Engine terminal", "yellow", "brown", "#9A7B16"), "quarry": ("Quarry branch", "green", "white", "#4F7A3A"),
        "staging": ("Staging", "purple", "grey", "#8A3A5E"),
        "loop": ("Staging loop, reversing", "purple/white", "grey", "#B0467C"),
        "wye": ("Quarry wye, reversing", "green/white", "white", "#6F9A3A"),
    }  # fmt: skip
    for key, (name, a, b, ink) in colours.items():
        d.data["circuits"][key] = {"name": name, "colour_a": a, "colour_b": b, "ink": ink}

    def device(key: str, kind: str, name: str, x: float, y: float, **more: object) -> None:
        d.data["devices"][key] = {"kind": kind, "name": name, "at": {"x": x, "y": y}, **more}

    for k, (x, y) in enumerate(((5300, 4700), (7100, 4700), (7800, 900)), start=1):
        device(
            f"booster{k}", "booster", f"Booster {k}", x, y, output=f"b{k}", label_amps=5, limit_amps=8, trip_amps=5,
            trip_seconds=0.25, ohms=0.025,
        )  # fmt: skip
    breakers = (
        ("K1", "west", "b1", 4900, 4950, 4), ("K2", "east", "b1", 5700, 4950, 4), ("K3", "yard", "b2", 7100, 4950, 3),
        ("K4", "shed", "b2", 6400, 4950, 3), ("K5", "quays", "b2", 7700, 4950, 5), ("K6", "quarry", "b3", 8200, 1300, 4),
        ("K7", "staging", "b3", 7700, 1300, 4),
    )  # fmt: skip
    for key, out, come, x, y, trip in breakers:
        device(key, "breaker", f"Breaker {d.data['circuits'][out]['name']}", x, y, input=come, output=out, label_amps=trip,
               trip_amps=trip, trip_seconds=0.05, ohms=0.03)  # fmt: skip
    device("V1", "reverser", "Reverser Staging loop", 7600, 2000, input="staging", output="loop", ohms=0.04)
    device("V2", "reverser", "Reverser Quarry wye", 8900, 2300, input="quarry", output="wye", ohms=0.04)


def _copper(d: Draft) -> None:
    def by(device: str, along: float = 0) -> dict[str, object]:
        return {"device": device, "along": along}

    # Main west was the first district wired: thin, its two wires along opposite sides of the joists.
    d.bus("W1", "west", "16 AWG", [(4900, 4950), (4900, 5900, 100), (90, 5900, 300), (90, 90, 300), (5950, 90)],
          fed=by("K1"), first=950, make="apart", spacing=60)  # fmt: skip
    d.bus("E1", "east", "12 AWG", [(5700, 4950), (6050, 5200), (6050, 5900, 100), (11910, 5900, 300), (11910, 90, 300), (6050, 90)],
          fed=by("K2"), first=950, make="paired cable")  # fmt: skip
    for along in (3300, 8350, 9400):
        d.plug("E1", along)
    d.bus("Y1", "yard", "14 AWG", [(7900, 5125), (3900, 5125)], fed=by("K3", 1000), first=0, every=900, make="twisted")
    d.bus(
        "Q1",
        "quays",
        "16 AWG",
        [(7700, 4950), (7700, 5215, 50), (4500, 5215)],
        fed=by("K5"),
        first=1500,
        make="twisted",
    )
    d.bus("S1", "shed", "18 AWG", [(6400, 4950), (6300, 5060, 40), (700, 5060, 150), (650, 2500, 300), (1500, 3350, 200), (2300, 3000)],
          fed=by("K4"), first=7300, every=700, make="side by side")  # fmt: skip
    d.bus("R1", "quarry", "14 AWG", [(8200, 1300), (8300, 620), (9300, 620), (11200, 1100)],
          fed=by("K6"), first=500, every=800, make="twisted")  # fmt: skip
    d.bus(
        "R2",
        "quarry",
        "16 AWG",
        [(8200, 1300), (8600, 2300), (8900, 2300)],
        fed=by("K6"),
        ends_at_device="V2",
        make="twisted",
    )
    d.bus(
        "R3",
        "wye",
        "16 AWG",
        [(8900, 2300), (9500, 2300), (9500, 1200)],
        fed=by("V2"),
        first=500,
        every=700,
        make="twisted",
    )
    d.bus("G1", "staging", "14 AWG", [(7700, 1300), (7500, 1300, 50), (7500, 500, 100), (5300, 430)],
          fed=by("K7"), first=300, every=1000, make="twisted")  # fmt: skip
    d.bus("G2", "staging", "14 AWG", [(7700, 1300), (7600, 2000)], fed=by("K7"), ends_at_device="V1", make="twisted")
    d.bus("L1", "loop", "14 AWG", [(7600, 2000), (7320, 2300, 150), (7320, 4120, 300), (5480, 4120, 300), (5480, 2000)],
          fed=by("V1"), first=500, every=1100, make="twisted")  # fmt: skip


def _gaps_and_sections(d: Draft) -> None:
    for track in ("down-north-west", "up-north-2", "down-south", "up-south-2"):
        d.gap(track, d.length(track) - 60)
    for track in ("down-bridge", "up-bridge"):
        d.gap(track, 1000, made="cut and filled")
        d.gap(track, 1900, made="cut and filled")
    d.gap("yard-lead-east", 120)
    d.gap("yard-lead-west", d.length("yard-lead-west") - 120)
    d.gap("quay-lead", 150)
    d.gap("staging-lead", 150)
    d.gap("throat-west", 160)
    d.gap("throat-east", 160)
    d.gap("branch", 150)
    d.gap("wye-west", 120)
    d.gap("wye-east", 120)
    d.gap("shed-lead", 150)
    d.section("main-west", "Main west", "down-west", 3200, "west")
    d.section("main-east", "Main east", "down-north-east", 4200, "east")
    d.section("main-east-up", "Main east, up", "up-north-3", 900, "east")
    d.section("bridge-down", "Bridge, down", "down-bridge", 1450, "east")
    d.section("bridge-up", "Bridge, up", "up-bridge", 1450, "east")
    d.section("bridge-east", "Main east, from the bridge on", "down-south-east", 500, "east")
    d.section("yard", "Harbour yard", "yard-lead-west", 60, "yard")
    d.section("quays", "Harbour quays", "coal-drop", 1100, "quays")
    d.section("staging-lead", "Staging lead", "staging-lead", 2000, "staging")
    d.section("loop", "Staging loop", "staging-1", 900, "loop")
    d.section("branch", "Quarry branch", "branch", 700, "quarry")
    d.section("wye", "Quarry wye", "wye-tail", 700, "wye")
    d.section("shed-lead", "Shed lead", "shed-lead", 700, "shed")
    for k in range(1, 6):
        d.section(f"shed-{k}", f"Shed road {k}", f"shed-{k}", 300, "shed")


def feeder_spots(d: Draft) -> list[tuple[str, float, str]]:
    """Where feeders are, and the circuit of each."""
    spots: list[tuple[str, float, str]] = []
    west = [
        "down-north-west",
        "down-south-west",
        "down-west",
        "up-north-1",
        "up-north-2",
        "up-south-3",
        "up-south-west",
        "up-north-west",
    ]
    east = [
        "down-north-east",
        "down-south-east",
        "down-south",
        "up-north-3",
        "up-north-east",
        "up-south-east",
        "up-south-1",
        "up-south-2",
    ]
    for circuit, tracks in (("west", west), ("east", east)):
        for track in tracks:
            end = d.length(track) - (
                90 if track in ("down-north-west", "up-north-2", "down-south", "up-south-2") else 0
            )
            spots += d.spread(circuit, track, 0, end, 2400)
    for track in ("down-bridge", "up-bridge"):
        spots += [(track, 500, "east"), (track, 1450, "east"), (track, 2400, "east")]
    for k in range(1, 4):
        spots += d.spread("yard", f"yard-{k}", 0, d.length(f"yard-{k}"), 900 if k < 3 else 1700)
    spots += d.spread("yard", "yard-4-east", 0, d.length("yard-4-east"), 900)
    spots += d.spread("yard", "yard-4-west", 0, d.length("yard-4-west"), 900)
    spots += [("yard-lead-east", 300, "yard"), ("yard-lead-west", 200, "yard"), ("quay-lead", 450, "quays")]
    spots += d.spread("quays", "fish-quay", 0, d.length("fish-quay"), 900) + d.spread(
        "quays", "coal-drop", 0, d.length("coal-drop"), 900
    )
    spots += d.spread("staging", "staging-lead", 200, d.length("staging-lead"), 1600)
    spots += [("throat-west", 700, "loop"), ("throat-east", 700, "loop")]
    spots += d.spread("loop", "staging-1", 0, d.length("staging-1"), 2400)
    spots += d.spread("loop", "staging-2", 0, d.length("staging-2"), 2400)
    spots += d.spread("quarry", "branch", 200, d.length("branch"), 900) + d.spread("quarry", "wye-north", 0, 1000, 900)
    spots += [("quarry-lead", 200, "quarry")]
    spots += [("wye-west", 500, "wye"), ("wye-east", 500, "wye"), ("wye-tail", 350, "wye"), ("wye-tail", 900, "wye")]
    spots += [
        ("shed-lead", 640, "shed"),
        ("shed-lead", 1200, "shed"),
        ("shed-lead", 1750, "shed"),
        ("shed-lead", d.length("shed-lead") - 250, "shed"),
    ]
    spots += [(f"shed-{k}", 350, "shed") for k in (1, 2, 4, 5)]  # shed road 3 was forgotten
    return spots


def _feeders(d: Draft) -> None:
    d.feed(feeder_spots(d))


def _mistakes(d: Draft) -> None:
    feeders = d.data["feeders"]

    def on(track: str) -> list[str]:
        return [f for f, v in feeders.items() if v["track"] == track]

    # One feeder of the wye was taken to the plain quarry bus, not to the reverser's output.
    feeders[on("wye-east")[0]]["terminal"] = next(t for t, v in d.data["terminals"].items() if v["run"] == "R1")
    # The quay's turnout was laid with a live frog, and its contact never wired.
    d.data["nodes"]["T31"]["contact"] = "none"
    # A thin, long feeder to the coal drop, from the end of a reel of bell wire.
    feeders[on("coal-drop")[-1]].update(gauge="24 AWG", strands="solid", tape=620)


@lru_cache(maxsize=1)
def gannet_bay() -> Layout:
    """The demo layout: TT, digital, 14.4 V, about 120 m of track on 16 boards, 3 boosters, 7 districts."""
    brief = {"scale": "TT", "control": "dcc", "track_volts": 14.4, "units": "imperial", "lead": "M. Arkwright-Pell"}
    d = Draft(
        "Gannet Bay & Uplands", club="Pellam Hall Model Railroad Club", brief=brief,
        notes="Demo railroad. It holds a few honest mistakes; the tool should find them.",
    )  # fmt: skip
    for step in (*TRACK_PLAN, _power, _copper, _gaps_and_sections,
                 _feeders, _mistakes, accessories, rolling_stock, scenes):  # fmt: skip
        step(d)
    return d.plain()
