"""Millbeck Junction's benchwork and track, without a wire: a local line for direct current round a digital main."""

from __future__ import annotations

from jolly_copper.demo.drafting import Draft

MAIN = {"code": 100, "use": "main", "joiner_every": 914.4}
LOCAL = {"code": 100, "use": "branch", "joiner_every": 914.4}
LOOP = {"code": 100, "use": "siding", "joiner_every": 914.4}
YARD = {"code": 100, "use": "yard", "joiner_every": None}


def benchwork(d: Draft) -> None:
    """Six boards round a well, and a peninsula that carries the branch terminal."""
    d.board("board1", "1 Millbeck", 0, 2300, 2400, 2900)
    d.board("board2", "2 Millbeck east", 2400, 2300, 4800, 2900)
    d.board("board3", "3 Harrow", 0, 0, 2400, 600)
    d.board("board4", "4 Harrow east", 2400, 0, 4800, 600)
    d.board("board5", "5 Link", 0, 600, 600, 2300)
    d.board("board6", "6 East side", 4200, 600, 4800, 2300)
    d.board("board7", "7 Coldwell", 1800, 1200, 4200, 1750)


def local_line(d: Draft) -> None:
    """The outer oval, for direct current: two stations with passing tracks, and a coal road."""
    d.turnout("P10", 4680, 800, "right")
    d.turnout("P11", 1300, 120, "right")
    d.turnout("P12", 3500, 120, "left")
    d.turnout("P13", 1300, 2780, "left")
    d.turnout("P14", 3500, 2780, "right")
    d.turnout("P16", 1000, 2780, "left")
    d.node("B5", 4613, 1700, "bumper")
    d.track("harrow-1", "Harrow 1", "P11.through", "P12.through", **LOCAL)
    d.track("harrow-2", "Harrow 2", "P11.diverging", "P12.diverging", (1450, 187), (3350, 187), **LOOP)
    d.track("east-north", "Local, north-east", "P12.points", "P10.points", (4680, 120, 600), **LOCAL)
    d.track("east-south", "Local, south-east", "P10.through", "P14.points", (4680, 2780, 600), **LOCAL)
    d.track("millbeck-1", "Millbeck 1", "P13.through", "P14.through", **LOCAL)
    d.track("millbeck-2", "Millbeck 2", "P13.diverging", "P14.diverging", (1450, 2713), (3350, 2713), **LOOP)
    d.track("throat", "Millbeck throat", "P16.through", "P13.points", code=100, use="branch", joiner_every=914.4)
    d.node("L1", 120, 1400)
    d.track("west-south", "Local, south-west", "P16.points", "L1.1", (120, 2780, 600), **LOCAL)
    d.track("west-north", "Local, north-west", "L1.2", "P11.points", (120, 120, 600), **LOCAL)
    d.track("coal", "Coal road", "P10.diverging", "B5.1", (4613, 950), code=100, use="industry", joiner_every=914.4)


def digital_main(d: Draft) -> None:
    """The inner oval, digital, and the link by which trains come over from the local line."""
    d.node("M1", 2400, 300)
    d.node("M2", 2400, 2570)
    d.node("M3", 300, 1400)
    d.turnout("P5", 3750, 2570, "left")
    d.turnout("P17", 4500, 800, "right")
    d.track("main-north-east", "Main, north-east", "M1.2", "P17.points", (4500, 300, 480), **MAIN)
    d.track("main-south-east", "Main, south-east", "P17.through", "P5.points", (4500, 2570, 480), **MAIN)
    d.track("main-front", "Main, front", "P5.through", "M2.1", **MAIN)
    d.track("main-south-west", "Main, south-west", "M2.2", "M3.1", (300, 2570, 480), **MAIN)
    d.track("main-north-west", "Main, north-west", "M3.2", "M1.1", (300, 300, 480), **MAIN)
    d.track("exchange", "Exchange", "P5.diverging", "P16.diverging", (3450, 2642), (1280, 2642), **LOOP)


def branch(d: Draft) -> None:
    """From the main to Coldwell, whose yard routes its own power."""
    d.turnout("P18", 3600, 1480, "left")
    d.turnout("P19", 3250, 1480, "right")
    d.turnout("P20", 2950, 1400, "right")
    d.data["nodes"]["P19"]["frog"] = d.data["nodes"]["P20"]["frog"] = "routing"
    d.node("B1", 1900, 1480, "bumper")
    d.node("B2", 2050, 1400, "bumper")
    d.node("B3", 2100, 1325, "bumper")
    d.node("B4", 2500, 1560, "bumper")
    d.track("branch", "Coldwell branch", "P17.diverging", "P18.points", (4420, 1480, 440), **LOCAL)
    d.track("coldwell-lead", "Coldwell lead", "P18.through", "P19.points", **LOCAL)
    d.track("platform", "Coldwell platform", "P19.through", "B1.1", **YARD)
    d.track("yard-lead", "Coldwell yard lead", "P19.diverging", "P20.points", code=100, use="yard", joiner_every=None)
    d.track("yard-1", "Coldwell yard 1", "P20.through", "B2.1", **YARD)
    d.track("yard-2", "Coldwell yard 2", "P20.diverging", "B3.1", (2800, 1325), **YARD)
    d.track("goods", "Coldwell goods", "P18.diverging", "B4.1", (3400, 1560), code=100, use="industry")
