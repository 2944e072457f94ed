"""Small railroads of more than one control, for tests. Invented data."""

from __future__ import annotations

from typing import Any

from jolly_copper.demo.drafting import Draft

FLAT = {"rules": {"drop_below_rail": 0, "wire_celsius": 20}}


PAIRS = (("red", "black"), ("blue", "white"), ("green", "white"), ("yellow", "brown"), ("orange", "grey"))


def _circuit(d: Draft, key: str, more: dict[str, Any]) -> dict[str, Any]:
    """A circuit in colours of its own; a common return is taken out of the fields of its device."""
    a, b = PAIRS[len(d.data["circuits"]) % len(PAIRS)]
    common = {"return_of": more.pop("return_of")} if "return_of" in more else {}
    return {"name": key.upper(), "colour_a": a, "colour_b": b, **common}


def source(d: Draft, key: str, kind: str = "cab", volts: float = 12, ohms: float = 0.3, **more: Any) -> None:
    """A source with a circuit of its own name."""
    d.data["circuits"][key] = {
        "name": key.upper(),
        **({"return_of": more.pop("return_of")} if "return_of" in more else {}),
    }
    d.data["devices"][f"dev-{key}"] = {
        "kind": kind,
        "name": f"Source {key.upper()}",
        "at": {"x": 0, "y": 100},
        "output": key,
        "volts": volts,
        "ohms": ohms,
        "trip_amps": 1,
        **more,
    }


def selector(d: Draft, key: str, inputs: list[str], lies: str | None, **more: Any) -> None:
    """A selector whose output circuit is called like it."""
    d.data["circuits"][key] = _circuit(d, key, more)
    d.data["devices"][f"sel-{key}"] = {
        "kind": "selector",
        "name": f"Selector {key.upper()}",
        "at": {"x": 0, "y": 100},
        "output": key,
        "inputs": inputs,
        "input": lies,
        "ohms": 0.02,
        **more,
    }


def run(d: Draft, circuit: str, length: float = 1000, gauge: str = "18 AWG", **more: Any) -> str:
    """A run from the device that feeds a circuit, with a soldered terminal at its end. Answers the terminal."""
    device = next(i for i, v in d.data["devices"].items() if v["output"] == circuit)
    name = f"R{len(d.data['runs']) + 1}"
    d.data["runs"][name] = {
        "circuit": circuit,
        "label": name,
        "gauge": gauge,
        "strands": "solid",
        "make": "twisted",
        "path": [{"x": 0, "y": 100}, {"x": length, "y": 100}],
        "fed": {"device": device},
        **more,
    }
    terminal = f"T{len(d.data['terminals']) + 1}"
    d.data["terminals"][terminal] = {"run": name, "along": length, "kind": "soldered", "ohms": 0}
    return terminal


def tie(d: Draft, track: str, at: float, terminal: str, **more: Any) -> None:
    """A feeder of 20 AWG, 100 mm where its terminal stands beside it."""
    key = f"F{len(d.data['feeders']) + 1}"
    d.data["feeders"][key] = {
        "label": key,
        "track": track,
        "at": at,
        "terminal": terminal,
        "gauge": "20 AWG",
        "strands": "solid",
        **more,
    }


def two_blocks(
    common: bool = False, gap: str | None = "both", lies: tuple[str | None, str | None] = ("a", "b")
) -> Draft:
    """Two blocks of one straight track, two cabs, a selector for each block.

    common: one pole and a common rail; gap: the rails cut between the blocks, None for a gap somebody forgot.
    """
    d = Draft("Two blocks", brief={**FLAT, "control": "dc", "scale": "HO", "track_volts": 12})
    d.node("N1", 0, 0, "bumper")
    d.node("N2", 4000, 0, "bumper")
    d.track("t", "Line", "N1.1", "N2.1", joiner_every=None)
    if gap is not None:
        d.gap("t", 2000, rails=gap)
    source(d, "a", winding="Winding 1")
    source(d, "b", winding="Winding 2", **({"return_of": "a"} if common else {}))
    made = {"made": "toggle, one pole", "return_of": "a"} if common else {}
    for n, (key, at) in enumerate((("one", 1000), ("two", 3000))):
        selector(d, key, ["a", "b"], lies[n], **made)
        tie(d, "t", at, run(d, key, at), a_rail="left")
        d.section(f"s-{key}", f"Block {key}", "t", at, key)
    return d
