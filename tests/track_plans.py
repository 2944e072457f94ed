"""Textbook figures of track: loop, wye, figure-eight, dogbone and the rest, and random ladders. Invented data."""

from __future__ import annotations

import math
import random
from collections.abc import Callable

from jolly_copper.demo.drafting import Draft
from tests.layouts import booster


def oval(reach: float = 3000) -> Draft:
    """A plain ring of two tracks: no turnouts, never a conflict."""
    d = Draft("Oval")
    d.node("J1", 0, 0)
    d.node("J2", reach, 0)
    d.track("north", "North", "J1.2", "J2.1", (reach / 2, -600))
    d.track("south", "South", "J2.2", "J1.1", (reach / 2, 600))
    return d


def balloon(loop: float = 4000) -> Draft:
    """A lead, a turnout, and a loop from leg to leg."""
    d = Draft("Balloon")
    d.node("E", 0, 0, "bumper")
    d.turnout("T1", 2000, 0, "left")
    d.track("lead", "Lead", "E.1", "T1.points")
    side = loop / 4
    d.track("loop", "Loop", "T1.through", "T1.diverging", (2000 + side, side / 2), (2000 + side, -side / 2))
    return d


def dogbone() -> Draft:
    """Two balloon loops, points to points."""
    d = Draft("Dogbone")
    d.turnout("T1", 0, 0, "left")
    d.turnout("T2", 3000, 0, "left")
    d.track("neck", "Neck", "T1.points", "T2.points")
    d.track("west", "West loop", "T1.through", "T1.diverging", (-1200, 600), (-1200, -600))
    d.track("east", "East loop", "T2.through", "T2.diverging", (4200, -600), (4200, 600))
    return d


def wye(leg: float = 1500) -> Draft:
    """Three turnouts, points outwards, legs joined."""
    d = Draft("Wye")
    for k, degrees in enumerate((90, 210, 330), start=1):
        x, y = leg * math.cos(math.radians(degrees)), leg * math.sin(math.radians(degrees))
        d.turnout(f"T{k}", x, y, "right")
        d.node(f"E{k}", 2 * x, 2 * y, "bumper")
        d.track(f"tail{k}", f"Tail {k}", f"E{k}.1", f"T{k}.points")
    d.track("leg12", "Leg 1 to 2", "T1.through", "T2.diverging")
    d.track("leg23", "Leg 2 to 3", "T2.through", "T3.diverging")
    d.track("leg31", "Leg 3 to 1", "T3.through", "T1.diverging")
    return d


def figure_eight() -> Draft:
    """One track that crosses itself: no conflict."""
    d = Draft("Figure eight")
    d.node("X", 0, 0, "crossing")
    d.track("east", "East lobe", "X.east1", "X.west2", (1500, -900), (1500, 900))
    d.track("west", "West lobe", "X.east2", "X.west1", (-1500, -900), (-1500, 900))
    return d


def across_the_oval(link: float) -> Draft:
    """An oval with a track across it that turns a train: short, a cut-off; long, a diagonal."""
    d = Draft("Across")
    d.turnout("T1", 0, 0, "right")
    d.turnout("T2", 6000, 3000, "right")
    d.track("north", "North", "T1.through", "T2.points", (3000, -500), (6000, 0))
    d.track("south", "South", "T2.through", "T1.points", (3000, 3500), (0, 3000))
    d.track("link", "Link", "T1.diverging", "T2.diverging", tape=link)
    return d


def turntable_loop() -> Draft:
    """Two turntable stubs in one line whose tracks come together at a turnout's legs."""
    d = Draft("Turntable loop")
    d.node("TT", 3000, 0, "turntable", diameter=300)
    d.turnout("T1", 0, 0, "left")
    d.node("E", -1000, 0, "bumper")
    d.track("lead", "Lead", "E.1", "T1.points")
    d.track("near", "Near road", "T1.through", "TT.stub1")
    d.data["tracks"]["near"]["path"][-1] = {"x": 2850, "y": 0}
    d.track("far", "Far road", "TT.stub2", "T1.diverging", (4500, 0), (4500, -2000), (500, -2000))
    d.data["tracks"]["far"]["path"][0] = {"x": 3150, "y": 0}
    return d


def power(d: Draft, *more: str) -> Draft:
    """A booster with a bus and terminals T1, T2 on circuit main; further circuits behind reversers, terminals T3 on."""
    booster(d)
    d.bus("R1", "main", "14 AWG", [(0, 400), (2000, 400)], fed={"device": "B1"}, first=1000, every=1000, make="twisted")
    for k, circuit in enumerate(more):
        d.data["circuits"][circuit] = {"name": circuit.capitalize()}
        d.data["devices"][f"V{k + 1}"] = {
            "kind": "reverser",
            "name": f"Reverser {circuit}",
            "at": {"x": 500, "y": 700 + 200 * k},
            "input": "main",
            "output": circuit,
        }
        d.bus(
            f"R{k + 2}",
            circuit,
            "14 AWG",
            [(500, 700 + 200 * k), (1500, 700 + 200 * k)],
            fed={"device": f"V{k + 1}"},
            first=500,
            every=500,
        )
    return d


def tie(d: Draft, key: str, track: str, at: float, circuit: str = "main", a_rail: str = "left") -> None:
    """A feeder from the first terminal of a circuit."""
    terminal = next(t for t, v in d.data["terminals"].items() if d.data["runs"][v["run"]]["circuit"] == circuit)
    d.data["feeders"][key] = {"label": key, "track": track, "at": at, "terminal": terminal, "a_rail": a_rail}


def grow(d: Draft, rng: random.Random, size: int, frog: Callable[[], str], gaps: float) -> list[str]:
    """Random track grown from one end, drawn in either direction, some of it gapped. Answers the ends left open."""
    d.node("N0", 0, 0, "bumper")
    open_ends, count = ["N0.1"], 0
    while count < size and open_ends:
        start = open_ends.pop(rng.randrange(len(open_ends)))
        x, y = 400.0 * (count + 1), rng.uniform(-2000, 2000)
        kind = rng.choice(["joint", "turnout", "turnout", "bumper" if len(open_ends) > 1 else "joint"])
        name = f"N{count + 1}"
        if kind == "turnout":
            d.turnout(name, x, y, rng.choice(["left", "right"]), frog=frog())
            ports = ["points", "through", "diverging"]
            rng.shuffle(ports)
            open_ends += [f"{name}.{p}" for p in ports[1:]]
            first = ports[0]
        else:
            d.node(name, x, y, kind)
            first = "1"
            if kind == "joint":
                open_ends.append(f"{name}.2")
        ends = (start, f"{name}.{first}")
        d.track(f"t{count}", f"Track {count}", *(ends if rng.random() < 0.5 else ends[::-1]))
        if rng.random() < gaps:
            rails = rng.choice(["both", "both", "left", "right"])
            d.gap(f"t{count}", d.length(f"t{count}") * rng.uniform(0.2, 0.8), rails=rails)
        count += 1
    return open_ends


def close(d: Draft, name: str, open_ends: list[str], x: float, y: float) -> None:
    """Join two loose ends by a track that goes round."""
    d.track(name, name.capitalize(), open_ends.pop(), open_ends.pop(0), (x, y))


def routing_yard(seed: int, size: int = 9) -> Draft:
    """Random track with power-routing and live turnouts, gaps in one rail or both, and random feeders."""
    rng = random.Random(seed)
    d = power(Draft(f"Routing {seed}"), "turned")
    routing = iter(["routing"] * 6)  # more would make trying every state by brute force slow
    open_ends = grow(d, rng, size, lambda: next(routing, "live") if rng.random() < 0.67 else "live", gaps=0.3)
    if rng.random() < 0.4 and len(open_ends) >= 2:
        close(d, "loop", open_ends, 400.0 * (size + 2), 4000.0)
    tracks = sorted(d.data["tracks"])
    for k in range(rng.randint(1, 4)):
        track = rng.choice(tracks)
        at = round(d.length(track) * rng.choice([0.1, 0.9]), 1)
        tie(d, f"F{k}", track, at, rng.choice(["main"] * 3 + ["turned"]), rng.choice(["left"] * 3 + ["right"]))
    return d


def ladder(tracks: int, frog: str = "routing", both_ends: bool = False) -> Draft:
    """A yard ladder of so many tracks off one lead, fed at the lead alone; with both ends, off two leads fed alike."""
    d = power(Draft(f"Ladder of {tracks}"))
    d.node("E", -2000, 0, "bumper")
    d.turnout("W1", 0, 0, "left", frog=frog)
    d.track("lead", "Lead", "E.1", "W1.points")
    tie(d, "F1", "lead", 500)
    far = 3000.0 + 400.0 * tracks
    if both_ends:
        d.node("Z", far + 2400.0 * 1 + 400.0 * tracks, 0, "bumper")
        d.turnout("X1", far, 0, "right", frog=frog)
        d.track("tail", "Tail", "X1.points", "Z.1")
        tie(d, "F2", "tail", 500)
    for k in range(1, tracks):
        y = 120.0 * k
        last = k == tracks - 1
        if not last:
            d.turnout(f"W{k + 1}", 400.0 * k, y, "left", frog=frog)
            d.track(f"rung{k}", f"Rung {k}", f"W{k}.diverging", f"W{k + 1}.points")
            if both_ends:
                d.turnout(f"X{k + 1}", far - 400.0 * k, y, "right", frog=frog)
                d.track(f"step{k}", f"Step {k}", f"X{k + 1}.points", f"X{k}.diverging")
        ends = [(k, "through")] if not last else [(k, "through"), (k, "diverging")]
        for turnout, leg in ends:
            name = f"y{turnout}" if leg == "through" else f"y{turnout + 1}"
            start = f"W{turnout}.{leg}"
            if both_ends:
                d.track(
                    name,
                    f"Yard {name[1:]}",
                    start,
                    f"X{turnout}.{leg}",
                    (1200.0 + 400.0 * k, y + 40.0 + (60.0 if leg == "diverging" else 0)),
                )
            else:
                d.node(f"B{name}", 6000, y + (60 if leg == "diverging" else 0), "bumper")
                d.track(name, f"Yard {name[1:]}", start, f"B{name}.1")
    return d
