"""Small signalled railroads for tests. Invented data."""

from __future__ import annotations

from typing import Any

from jolly_copper.demo.drafting import Draft
from tests.layouts import booster


def detect(
    d: Draft, section: str, track: str, at: float, channel: int, board: str = "DB1", circuit: str = "main"
) -> None:
    """A section behind a channel of a board, which is made with the first."""
    boards = d.data.setdefault("detectors", {})
    boards.setdefault(board, {"name": f"Detector {board}", "at": {"x": 0, "y": 300}, "channels": 16, "address": 1})
    own = f"d{board}{channel}"
    d.data["circuits"][own] = {"name": f"{section} sensed", "colour_a": "red/white"}
    d.data["devices"][f"{board}.{channel}"] = {
        "kind": "detector",
        "name": f"{board} channel {channel}",
        "at": {"x": 0, "y": 300},
        "input": circuit,
        "output": own,
        "board": board,
        "channel": channel,
    }
    d.data.setdefault("blocks", {})[section] = {"name": section}
    d.section(section, section, track, at, own)
    d.data["sections"][section]["block"] = section


def signal(d: Draft, name: str, track: str, at: float, towards: str, **more: Any) -> None:
    d.data.setdefault("signals", {})[name] = {"name": name, "track": track, "at": at, "towards": towards, **more}


def line(blocks: int = 4, each: float = 2000.0, school: str = "three aspects") -> Draft:
    """A straight line from bumper to bumper in so many blocks B0, B1 …; signals S1 … towards the far end before
    each gap."""
    d = Draft("Line", brief={"signalling": {"school": school}})
    booster(d)
    d.node("W", 0, 0, "bumper")
    d.node("E", blocks * each, 0, "bumper")
    d.track("t", "Line", "W.1", "E.1", joiner_every=None)
    for k in range(blocks):
        detect(d, f"B{k}", "t", (k + 0.5) * each, k + 1)
        if k:
            d.gap("t", k * each, rails="left")
            signal(d, f"S{k}", "t", k * each - 60, "b")
    return d


def junction(frog: str = "live", school: str = "three aspects and diverging") -> Draft:
    """A main with a turnout T to a branch. Sections A before it, J the points, M beyond, B the branch; signals on all
    three ways in: SA towards the points, SM and SB back from beyond."""
    d = Draft("Junction", brief={"signalling": {"school": school}})
    booster(d)
    d.node("W", 0, 0, "bumper")
    d.turnout("T", 3000, 0, "left", frog=frog)
    d.node("E", 6000, 0, "bumper")
    d.node("N", 6000, -1500, "bumper")
    d.track("a", "Main west", "W.1", "T.points", joiner_every=None)
    d.track("m", "Main east", "T.through", "E.1", joiner_every=None)
    d.track("b", "Branch", "T.diverging", "N.1", joiner_every=None, use="branch")
    d.gap("a", 2900)
    d.gap("m", 300)
    d.gap("b", 300)
    for channel, (name, track, at) in enumerate(
        (("A", "a", 1000), ("J", "a", 2950), ("M", "m", 1500), ("B", "b", 1500)), start=1
    ):
        detect(d, name, track, at, channel)
    d.data["sections"]["J"]["role"] = "junction"
    signal(d, "SA", "a", 2840, "b", heads=2)
    signal(d, "SM", "m", 360, "a")
    signal(d, "SB", "b", 360, "a")
    return d


def double(crossing: str = "crossing") -> Draft:
    """Two lines that cross on the level, each with a signal from either side: four ways over one crossing."""
    d = Draft("Diamond")
    booster(d)
    for name, x, y in (("W", 0, 0), ("E", 4000, 0), ("N", 2000, -2000), ("S", 2000, 2000)):
        d.node(name, x, y, "bumper")
    d.node("X", 2000, 0, crossing)
    d.track("w", "West", "W.1", "X.west1", joiner_every=None)
    d.track("e", "East", "X.east1", "E.1", joiner_every=None)
    d.track("n", "North", "N.1", "X.west2", joiner_every=None)
    d.track("s", "South", "X.east2", "S.1", joiner_every=None)
    for k, track in enumerate("wens"):
        far = d.length(track) - 200 if track in "wn" else 200
        d.gap(track, far)
        detect(d, track.upper(), track, far - 900 if track in "wn" else far + 900, k + 1)
        signal(d, f"S{track}", track, far - 60 if track in "wn" else far + 60, "b" if track in "wn" else "a")
    detect(d, "X", "w", d.length("w") - 100, 5)
    detect(d, "Y", "n", d.length("n") - 100, 6)
    return d
