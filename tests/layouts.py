"""Small layouts for tests, built with the same shorthand as the demo. Invented data."""

from __future__ import annotations

import random
from typing import Any

from jolly_copper.core.layout.document import Layout
from jolly_copper.demo.drafting import Draft


def booster(d: Draft, trip: float = 5, ohms: float = 0.1, circuit: str = "main", key: str = "B1", **more: Any) -> None:
    d.data["circuits"].setdefault(circuit, {"name": circuit.capitalize()})
    d.data["devices"][key] = {
        "kind": "booster",
        "name": f"Booster {key}",
        "at": {"x": 0, "y": 400},
        "output": circuit,
        "trip_amps": trip,
        "ohms": ohms,
        **more,
    }


def plain(length: float = 3000, gauge: str = "14 AWG", **track: Any) -> Draft:
    """One straight track of this length, one bus under its near half with two soldered terminals, no feeders yet."""
    d = Draft("Plain", brief={"rules": {"drop_below_rail": 0, "wire_celsius": 20}})
    d.node("N1", 0, 0, "bumper")
    d.node("N2", length, 0, "bumper")
    d.track("t", "Track", "N1.1", "N2.1", **({"joiner_every": None} | track))
    booster(d)
    d.data["runs"]["R1"] = {
        "circuit": "main",
        "label": "R1",
        "gauge": gauge,
        "strands": "solid",
        "make": "twisted",
        "path": [{"x": 0, "y": 400}, {"x": 1000, "y": 400}],
        "fed": {"device": "B1"},
    }
    for number, along in ((1, 0.0), (2, 1000.0)):
        d.data["terminals"][f"T{number}"] = {"run": "R1", "along": along, "kind": "soldered", "ohms": 0}
    d.section("s", "Section", "t", 10, "main")
    return d


def feeder(d: Draft, key: str, track: str, at: float, terminal: str, gauge: str = "20 AWG", **more: Any) -> None:
    d.data["feeders"][key] = {
        "label": key,
        "track": track,
        "at": at,
        "terminal": terminal,
        "gauge": gauge,
        "strands": "solid",
        **more,
    }


def without(layout: Layout, **changes: Any) -> dict[str, Any]:
    """Plain data of a layout with some top fields replaced."""
    return {**layout.model_dump(mode="json"), **changes}


def random_layout(seed: int, tracks: int = 12) -> Layout:
    """A random but sound layout: a line of tracks with sidings, gaps, two boosters' buses, joiners of all kinds."""
    rng = random.Random(seed)
    d = Draft(f"Random {seed}")
    x = 0.0
    d.node("N0", 0, 0, "bumper")
    previous = "N0.1"
    for k in range(tracks):
        length = rng.uniform(500, 2500)
        x += length
        kind = {
            "code": rng.choice([55, 83, 100]),
            "joiners": rng.choice(["tight", "usual", "old"]),
            "joiner_every": rng.choice([None, 400.0, 914.4]),
        }
        if k % 3 == 2 and k < tracks - 1:
            d.turnout(f"W{k}", x, 0, rng.choice(["left", "right"]))
            d.node(f"E{k}", x + 700, 300, "bumper")
            ends = (previous, f"W{k}.points") if rng.random() < 0.5 else (f"W{k}.points", previous)
            d.track(f"t{k}", f"Track {k}", *ends, **kind)
            d.track(f"s{k}", f"Siding {k}", f"W{k}.diverging", f"E{k}.1", **kind)
            previous = f"W{k}.through"
        else:
            d.node(f"N{k + 1}", x, 0, "bumper" if k == tracks - 1 else "joint")
            ends = (previous, f"N{k + 1}.1") if rng.random() < 0.5 else (f"N{k + 1}.1", previous)
            d.track(f"t{k}", f"Track {k}", *ends, **kind)
            previous = f"N{k + 1}.2"
    half = tracks // 2
    d.gap(f"t{half}", d.length(f"t{half}") / 2)
    for number, (start, end) in enumerate(((0, x / 2), (x / 2, x)), start=1):
        circuit = f"c{number}"
        booster(d, circuit=circuit, key=f"B{number}", ohms=rng.uniform(0.01, 0.2))
        d.bus(
            f"R{number}",
            circuit,
            rng.choice(["12 AWG", "16 AWG", "1.5 mm²"]),
            [(start, 200), (end, 200)],
            fed={"device": f"B{number}", "along": rng.uniform(0, (end - start) / 2)},
            every=900,
            kind=rng.choice(["screw strip", "tap", "lever"]),
            make=rng.choice(["twisted", "apart", "side by side"]),
        )
    spots = []
    for k in range(tracks):
        if k == half or rng.random() < 0.2:
            continue
        spots += [
            (f"t{k}", rng.uniform(50, d.length(f"t{k}") - 50), "c1" if k < half else "c2")
            for _ in range(rng.randint(1, 2))
        ]
    d.feed(spots, rng.choice(["18 AWG", "22 AWG"]))
    return d.plain()
