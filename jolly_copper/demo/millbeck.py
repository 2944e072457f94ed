"""Millbeck Junction: a local line worked by two cabs round a digital main, with a link between. Invented for this
demo."""

from __future__ import annotations

from collections.abc import Iterator
from functools import lru_cache
from typing import Any

from jolly_copper.core.circuits.edits import add_feeder
from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.layout.document import Accepted, Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.proposals.cabs.link import link_controls
from jolly_copper.core.proposals.cabs.make import CabWishes, block_for_cabs
from jolly_copper.core.proposals.laying.whole import School, lay_railroad
from jolly_copper.demo.drafting import Draft
from jolly_copper.demo.millbeck_track import benchwork, branch, digital_main, local_line

NOTES = "A local line for two cabs round a digital main, in OO. {more}"
GAP_MM = 300.0


def _power(d: Draft) -> None:
    d.data["circuits"] = {
        "main": {"name": "Digital main", "colour_a": "red", "colour_b": "black", "ink": "#8A4519"},
        "branch": {"name": "Coldwell branch", "colour_a": "orange", "colour_b": "black", "ink": "#B5622B"},
        "cab-a": {"name": "Cab A", "colour_a": "blue", "colour_b": "white", "ink": "#2F6F9F"},
        "cab-b": {"name": "Cab B", "colour_a": "green", "colour_b": "white", "ink": "#4F7A3A"},
    }
    label = {"label_amps": 3, "limit_amps": 4.8, "trip_amps": 3, "trip_seconds": 0.2, "ohms": 0.025}
    cab: dict[str, Any] = {
        "kind": "cab",
        "label_amps": 1,
        "limit_amps": 1.6,
        "trip_amps": 1,
        "trip_seconds": 2,
        "ohms": 0.3,
    }
    d.data["devices"] = {
        "station": {
            "kind": "station",
            "gives": "dcc",
            "name": "Station",
            "at": {"x": 2300, "y": 2380},
            "output": "main",
            "volts": 14.4,
            **label,
        },
        "K1": {
            "kind": "breaker",
            "name": "Breaker Coldwell branch",
            "at": {"x": 2500, "y": 2380},
            "input": "main",
            "output": "branch",
            "trip_amps": 2,
            "trip_seconds": 0.05,
            "ohms": 0.03,
        },
        "cab-a": {**cab, "name": "Cab A", "at": {"x": 1500, "y": 3080}, "output": "cab-a", "winding": "Winding 1"},
        "cab-b": {**cab, "name": "Cab B", "at": {"x": 3300, "y": 3080}, "output": "cab-b", "winding": "Winding 2"},
    }
    d.data["panels"] = {
        "panel": {
            "name": "Millbeck panel",
            "at": {"x": 2400, "y": 3060},
            "width": 420,
            "lamps": ["turnouts, one of two colours", "cab in use"],
        }
    }


def _parts(d: Draft) -> None:
    d.gap("exchange", GAP_MM)
    d.gap("branch", 180)
    d.section("main", "Digital main", "main-south-east", 900, "main")
    d.section("branch", "Coldwell branch", "branch", 700, "branch")


def _stock(d: Draft) -> None:
    kinds: tuple[tuple[str, str, float, float, float, float | None, float], ...] = (
        ("tank", "Tank locomotive, DC", 0.0, 0.35, 0.9, None, 95),
        ("railcar", "Railcar, DC", 0.0, 0.25, 0.7, None, 160),
        ("mogul", "Goods locomotive, decoder and sound", 0.1, 0.5, 1.4, 0.6, 190),
        ("unit", "Branch railcar, decoder", 0.05, 0.25, 0.8, 0.25, 170),
    )
    for key, name, idle, running, stall, inrush, pickups in kinds:
        d.data["locos"][key] = {
            "name": name,
            "idle": idle,
            "running": running,
            "stall": stall,
            "inrush": inrush,
            "pickups": pickups,
            "runs_on": "direct current" if name.endswith("DC") else "digital",
        }
    for key, name, engines, length, lit in (
        ("local", "Harrow local", ["tank"], 900, 0),
        ("railcar", "Local railcar", ["railcar"], 280, 0),
        ("coal", "Coal train", ["tank"], 560, 0),
        ("goods", "Through goods", ["mogul"], 1300, 0),
        ("unit", "Coldwell railcar", ["unit"], 290, 0),
    ):
        d.data["trains"][key] = {"name": name, "engines": engines, "length": length, "lit_cars": lit}


def _scenes(layout: Layout) -> Layout:
    """A running day with both cabs out, and an evening on which a digital train comes over the link."""
    lever = {d.name: i for i, d in layout.devices.items() if d.kind == "selector"}
    at_b = {lever[n]: "cab-b" for n in ("Selector Harrow 2", "Selector Millbeck 2") if n in lever}
    link = {lever["Selector Exchange"]: "main"} if "Selector Exchange" in lever else {}
    cab = {
        "both-out": {**at_b, lever["Selector Exchange"]: None} if "Selector Exchange" in lever else at_b,
        "over": link,
    }

    def roam(train: str, *circuits: str) -> dict[str, Any]:
        return {"train": train, "doing": "running", "circuits": list(circuits)}

    digital = [roam("goods", "main"), roam("unit", "branch")]
    local = [
        roam("local", "cab-a"),
        roam("railcar", "cab-b"),
        {"train": "coal", "doing": "idling", "track": "coal", "at": 700},
    ]
    scenes = {
        "both-out": {"name": "Both cabs out", "placements": [*digital, *local], "selectors": cab["both-out"]},
        "over": {"name": "A digital goods comes over", "placements": digital, "selectors": cab["over"]},
    }
    return apply_patch(layout, [{"op": "add", "path": "/scenes", "value": scenes}])


@lru_cache(maxsize=1)
def millbeck_unblocked() -> Layout:
    """Millbeck Junction before its local line was blocked: the digital part wired, the cabs bought, not a selector."""
    brief = {
        "scale": "OO",
        "control": "dc",
        "track_volts": 12,
        "units": "metric",
        "lead": "T. Wrayburn",
        "detecting": {"wanted": False},
        "signalling": {"wanted": False},
    }
    d = Draft(
        "Millbeck Junction, not blocked yet",
        club="Vale of Millbeck Model Railway Society",
        brief=brief,
        notes=NOTES.format(more="Its local line waits for Block it for cabs, in step Zones."),
    )
    for step in (benchwork, local_line, digital_main, branch, _power, _parts, _stock):
        step(d)
    layout = d.plain()
    wired = apply_patch(layout, lay_railroad(layout, School(gauge="2.5 mm²")))
    # The yard hangs on its lead, so the lead has a feeder of its own.
    lead = add_feeder(derive(wired), "branch", "coldwell-lead", 170) or []
    for operation in lead:
        operation["value"].update(gauge="1.5 mm²", strands="stranded")
    return _scenes(apply_patch(wired, lead))


@lru_cache(maxsize=1)
def millbeck() -> Layout:
    """Millbeck Junction: nine blocks and a siding switch for two cabs, one of the blocks digital when wanted."""
    start = millbeck_unblocked()
    blocked = apply_patch(start, list(block_for_cabs(start, CabWishes(shortest=1500)).patch))
    linked = apply_patch(blocked, list(link_controls(derive(blocked), "exchange", GAP_MM).patch))
    more = "Throw its selectors in look Cabs, and see which rails each cab drives."
    named = linked.model_copy(
        update={"name": "Millbeck Junction", "notes": NOTES.format(more=more), "accepted": dict(_meant())}
    )
    return _scenes(named)


def _meant() -> Iterator[tuple[str, Accepted]]:
    """What power routing is for, and so no fault."""
    for track in ("platform", "yard-lead", "yard-1", "yard-2"):
        yield (
            f"lined-up:{track}",
            Accepted(reason="The yard routes its power: what stands there is parked.", by="T. Wrayburn"),
        )
    for track in ("yard-1", "yard-2"):
        yield f"joiners:{track}", Accepted(reason="Both joiners are soldered.", by="T. Wrayburn")
    yield "spacing:throat", Accepted(reason="A hand over the house rule; its joiners are soldered.", by="T. Wrayburn")
