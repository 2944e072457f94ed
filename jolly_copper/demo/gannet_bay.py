"""Gannet Bay & Uplands, Pellam Hall Model Railroad Club: invented for this demo, mistakes and all."""

from __future__ import annotations

from functools import lru_cache

from jolly_copper.core.layout.document import Layout
from jolly_copper.demo.drafting import Draft
from jolly_copper.demo.gannet_stock import accessories, rolling_stock, scenes
from jolly_copper.demo.gannet_track import boards, engine_terminal, harbour, mains, quarry, staging

TRACK_PLAN = (boards, mains, harbour, staging, quarry, engine_terminal)


def _power(d: Draft) -> None:
    colours = {
        "b1": ("Booster 1", "red", "black", "#8A4519"),
        "b2": ("Booster 2", "brown", "grey", "#3B5B92"),
        "b3": ("Booster 3", "purple", "grey", "#6B5B2E"),
        "west": ("Main west", "red", "black", "#7A4E8C"),
        "east": ("Main east", "orange", "black", "#B5622B"),
        "yard": ("Harbour yard", "blue", "white", "#2F6F9F"),
        "quays": ("Harbour quays", "blue/white", "white", "#4C8C9A"),
        "shed": ("Engine terminal", "yellow", "brown", "#9A7B16"),
        "quarry": ("Quarry branch", "green", "white", "#4F7A3A"),
        "staging": ("Staging", "purple", "grey", "#8A3A5E"),
        "loop": ("Staging loop, reversing", "purple/white", "grey", "#B0467C"),
        "wye": ("Quarry wye, reversing", "green/white", "white", "#6F9A3A"),
    }
    for key, (name, a, b, ink) in colours.items():
        d.data["circuits"][key] = {"name": name, "colour_a": a, "colour_b": b, "ink": ink}

    def device(key: str, kind: str, name: str, x: float, y: float, **more: object) -> None:
        d.data["devices"][key] = {"kind": kind, "name": name, "at": {"x": x, "y": y}, **more}

    for k, (x, y) in enumerate(((5300, 4700), (7100, 4700), (7800, 900)), start=1):
        device(
            f"booster{k}",
            "booster",
            f"Booster {k}",
            x,
            y,
            output=f"b{k}",
            label_amps=5,
            limit_amps=8,
            trip_amps=5,
            trip_seconds=0.25,
            ohms=0.025,
        )
    breakers = (
        ("K1", "west", "b1", 4900, 4950, 4),
        ("K2", "east", "b1", 5700, 4950, 4),
        ("K3", "yard", "b2", 7100, 4950, 3),
        ("K4", "shed", "b2", 6400, 4950, 3),
        ("K5", "quays", "b2", 7700, 4950, 5),
        ("K6", "quarry", "b3", 8200, 1300, 4),
        ("K7", "staging", "b3", 7700, 1300, 4),
    )
    for key, out, come, x, y, trip in breakers:
        device(
            key,
            "breaker",
            f"Breaker {d.data['circuits'][out]['name']}",
            x,
            y,
            input=come,
            output=out,
            label_amps=trip,
            trip_amps=trip,
            trip_seconds=0.05,
            ohms=0.03,
        )
    device("V1", "reverser", "Reverser Staging loop", 7600, 2000, input="staging", output="loop", ohms=0.04)
    device("V2", "reverser", "Reverser Quarry wye", 8900, 2300, input="quarry", output="wye", ohms=0.04)


def _copper(d: Draft) -> None:
    def by(device: str, along: float = 0) -> dict[str, object]:
        return {"device": device, "along": along}

    # Main west was the first district wired: thin, its two wires along opposite sides of the joists.
    d.bus(
        "W1",
        "west",
        "16 AWG",
        [(4900, 4950), (4900, 5900, 100), (90, 5900, 300), (90, 90, 300), (5950, 90)],
        fed=by("K1"),
        first=950,
        make="apart",
        spacing=60,
    )
    d.bus(
        "E1",
        "east",
        "12 AWG",
        [(5700, 4950), (6050, 5200), (6050, 5900, 100), (11910, 5900, 300), (11910, 90, 300), (6050, 90)],
        fed=by("K2"),
        first=950,
        make="paired cable",
    )
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
    d.bus(
        "S1",
        "shed",
        "18 AWG",
        [(6400, 4950), (6300, 5060, 40), (700, 5060, 150), (650, 2500, 300), (1500, 3350, 200), (2300, 3000)],
        fed=by("K4"),
        first=7300,
        every=700,
        make="side by side",
    )
    d.bus(
        "R1",
        "quarry",
        "14 AWG",
        [(8200, 1300), (8300, 620), (9300, 620), (11200, 1100)],
        fed=by("K6"),
        first=500,
        every=800,
        make="twisted",
    )
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
    d.bus(
        "G1",
        "staging",
        "14 AWG",
        [(7700, 1300), (7500, 1300, 50), (7500, 500, 100), (5300, 430)],
        fed=by("K7"),
        first=300,
        every=1000,
        make="twisted",
    )
    d.bus("G2", "staging", "14 AWG", [(7700, 1300), (7600, 2000)], fed=by("K7"), ends_at_device="V1", make="twisted")
    d.bus(
        "L1",
        "loop",
        "14 AWG",
        [(7600, 2000), (7320, 2300, 150), (7320, 4120, 300), (5480, 4120, 300), (5480, 2000)],
        fed=by("V1"),
        first=500,
        every=1100,
        make="twisted",
    )


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
        "Gannet Bay & Uplands",
        club="Pellam Hall Model Railroad Club",
        brief=brief,
        notes="Demo railroad. It holds a few honest mistakes; the tool should find them.",
    )
    for step in (
        *TRACK_PLAN,
        _power,
        _copper,
        _gaps_and_sections,
        _feeders,
        _mistakes,
        accessories,
        rolling_stock,
        scenes,
    ):
        step(d)
    return d.plain()
