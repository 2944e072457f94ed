"""The demo railroad's benchwork and track, without a wire."""

from __future__ import annotations

import math

from jolly_copper.demo.drafting import Draft

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
        "staging-2",
        "Staging 2",
        "T41.diverging",
        "T42.diverging",
        (5710, 2800),
        (5710, 3880, 670),
        (7090, 3880, 670),
        (7090, 2800),
        **staging,
    )


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
            "x": round(1700 + 150 * math.cos(turn), 1),
            "y": round(3000 + 150 * math.sin(turn), 1),
        }
