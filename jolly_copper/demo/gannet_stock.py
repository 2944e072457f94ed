"""What runs on Gannet Bay & Uplands, and what throws its turnouts and lights its signals."""

from __future__ import annotations

from jolly_copper.demo.drafting import Draft


def accessories(d: Draft) -> None:
    """Twelve volts for turnout motors, three for the signal lamps of the harbour; one supply gives less than its
    label."""
    circuits, devices, loads = d.data["circuits"], d.data["devices"], d.data["loads"]
    for key, name, a, b, ink in (
        ("acc", "Accessories, 12 V", "grey/red", "grey/black", "#5C6470"),
        ("lamps", "Signal lamps, 3 V", "orange/black", "grey/black", "#86602A"),
    ):
        circuits[key] = {"name": name, "colour_a": a, "colour_b": b, "purpose": "accessory", "ink": ink}
    devices["PS1"] = {
        "kind": "supply",
        "name": "Supply 12 V",
        "at": {"x": 10300, "y": 4650},
        "output": "acc",
        "volts": 12,
        "measured_volts": 10.4,
        "label_amps": 5,
        "trip_amps": 5,
        "trip_seconds": 0.1,
        "ohms": 0.03,
    }
    devices["SD1"] = {
        "kind": "step-down",
        "name": "Step-down 3 V, harbour",
        "at": {"x": 4600, "y": 5050},
        "input": "acc",
        "output": "lamps",
        "volts": 3,
        "least_volts": 5,
        "label_amps": 2,
        "efficiency": 0.85,
        "ohms": 0.02,
    }
    d.bus(
        "A1",
        "acc",
        "16 AWG",
        [(10300, 4650), (10300, 5980, 60), (11980, 5980, 200), (11980, 30, 200), (7600, 30)],
        fed={"device": "PS1", "along": 0},
        first=900,
        every=2400,
    )
    d.bus(
        "A2",
        "acc",
        "16 AWG",
        [(10300, 4650), (10250, 5180, 60), (5200, 5180), (4600, 5050)],
        fed={"device": "PS1", "along": 0},
        ends_at_device="SD1",
    )
    d.bus(
        "A3", "lamps", "20 AWG", [(4600, 5050), (3700, 5300)], fed={"device": "SD1", "along": 0}, first=300, every=600
    )
    last = max(
        (t for t, v in d.data["terminals"].items() if v["run"] == "A1"), key=lambda t: d.data["terminals"][t]["along"]
    )
    loads["motors"] = {
        "kind": "switch machine",
        "name": "Turnout motors, stall type",
        "circuit": "acc",
        "terminal": last,
        "count": 24,
        "at_once": 2,
        "amps": 0.016,
        "working_amps": 0.016,
        "least_volts": 9,
        "most_volts": 16,
        "throws": True,
    }
    loads["gates"] = {
        "kind": "servo",
        "name": "Level crossing gates",
        "circuit": "acc",
        "terminal": last,
        "at": {"x": 8300, "y": 120},
        "count": 4,
        "at_once": 4,
        "amps": 0.02,
        "working_amps": 0.25,
        "least_volts": 10,
        "most_volts": 14,
    }
    loads["signals"] = {
        "kind": "LED",
        "name": "Harbour signals",
        "circuit": "lamps",
        "count": 18,
        "at_once": 18,
        "amps": 0.0,
        "working_amps": 0.012,
        "least_volts": 2.8,
        "most_volts": 3.6,
    }
    # The yard throat's turnout decoder was tied to the nearest track bus, because it was near.
    loads["throat"] = {
        "kind": "stationary decoder",
        "name": "Turnout decoder, yard throat",
        "circuit": "yard",
        "at": {"x": 7300, "y": 5200},
        "count": 2,
        "at_once": 1,
        "amps": 0.03,
        "working_amps": 0.3,
        "least_volts": 10,
        "throws": True,
    }
    for key in ("booster1", "booster2"):
        devices[key]["reference"] = True  # the third was bought later


def rolling_stock(d: Draft) -> None:
    """Kinds of locomotive and trains, without scenes."""
    kinds = {
        "goods": ("Heavy goods locomotive, sound", 0.12, 0.45, 1.3, 0.6),
        "express": ("Express locomotive, sound", 0.15, 0.5, 1.4, 0.6),
        "railcar": ("Railcar", 0.05, 0.22, 0.8, 0.25),
        "tank": ("Tank locomotive", 0.04, 0.25, 0.9, 0.25),
        "shunter": ("Shunter, old motor", 0.05, 0.6, 1.8, 0.25),
    }
    for key, (name, idle, running, stall, inrush) in kinds.items():
        d.data["locos"][key] = {
            "name": name,
            "idle": idle,
            "running": running,
            "stall": stall,
            "inrush": inrush,
            "measured": key == "shunter",
        }
    trains = (
        ("ore", "Ore drag", ["goods", "goods"], 2100, 0),
        ("coast", "Coast express", ["express"], 1900, 8),
        ("mail", "Night mail", ["express"], 1500, 6),
        ("local", "Gannet local", ["railcar"], 450, 2),
        ("uplands", "Uplands local", ["railcar"], 450, 2),
        ("fish", "Fish train", ["tank"], 900, 0),
        ("pickup", "Pick-up goods", ["goods"], 1300, 0),
        ("empties", "Quarry empties", ["goods"], 1400, 0),
        ("boat", "Boat train", ["express"], 1700, 7),
        ("works", "Works train", ["tank"], 700, 1),
        ("yardgoat", "Yard shunter", ["shunter"], 160, 0),
        ("quaygoat", "Quay shunter", ["shunter"], 160, 0),
    )
    for key, name, engines, length, lit in trains:
        d.data["trains"][key] = {"name": name, "engines": engines, "length": length, "lit_cars": lit}


def scenes(d: Draft) -> None:
    """An open day and a work night."""
    main = ["west", "east"]

    def roam(train: str, *circuits: str, doing: str = "running") -> dict[str, object]:
        return {"train": train, "doing": doing, "circuits": list(circuits)}

    d.data["scenes"] = {
        "open-day": {
            "name": "Saturday open day",
            "placements": [
                roam("ore", *main),
                roam("coast", *main),
                roam("mail", *main),
                roam("pickup", "west"),
                roam("boat", "staging", doing="idling"),
                roam("works", "staging", doing="idling"),
                roam("local", *main, "staging"),
                roam("uplands", "quarry"),
                roam("empties", "quarry"),
                roam("yardgoat", "yard"),
                roam("fish", "yard", doing="idling"),
                roam("quaygoat", "quays"),
            ],
        },
        "work-night": {
            "name": "Tuesday work night",
            "placements": [
                roam("local", *main),
                roam("pickup", "west"),
                roam("yardgoat", "yard"),
                roam("uplands", "quarry"),
                {"train": "boat", "doing": "idling", "track": "staging-1", "at": 2000},
            ],
        },
    }
