"""A stand-in meter: two probes and a knob, and what it would show on the railroad as drawn, or with a fault in it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from jolly_copper.core.proving.copper import Copper, Ground
from jolly_copper.core.proving.lifting import without_sources
from jolly_copper.core.proving.meters import KINDS, Setting, Wave, shown
from jolly_copper.core.proving.proving import Proving
from jolly_copper.core.proving.short_causes import rails_at

NOTHING = 0.005
LAMP_VOLTS = 3.0


@dataclass(frozen=True)
class Probe:
    """Where a lead is held: a rail at a place, mm from the track's A end."""

    track: str
    at: float
    side: Literal["left", "right"]


@dataclass(frozen=True)
class Shown:
    """What the meter shows. value: in the unit of its setting, None for open or a lamp. why: what to make of it."""

    text: str
    value: float | None
    why: str


def stand_in(known: Proving, red: Probe, black: Probe, setting: Setting) -> Shown:
    """What a meter would show between two rails.

    Ohms are read with the power off and every source unplugged, volts with it on and nothing on the track.

    Raises:
        ValueError: a probe is held where there is no rail.
    """
    one, other = (_node(known.ac, p) for p in (red, black))
    if setting == "ohms":
        return _ohms(known.ac, one, other)
    if setting in ("booster display",):
        raise ValueError("A booster's display has no probes: choose volts or ohms.")
    volts = _volts(known.ac, one, other)
    if volts is None:
        return Shown("drifts", None, "One probe is on metal that nothing feeds: what it shows there means nothing.")
    if setting == "lamp":
        lit = abs(volts) > LAMP_VOLTS
        return Shown("lit" if lit else "dark", None, "Power between the two." if lit else "No power between the two.")
    wave = known.wave_at(red.track, red.at)
    reads = shown(setting, volts if wave == "steady" else abs(volts), wave)
    return Shown(f"{reads:.2f} V", reads, _why(setting, wave, volts))


def _why(setting: Setting, wave: Wave, volts: float) -> str:
    there = f"The track has {abs(volts):.1f} V there"
    if setting == "dc" and wave == "square":
        return f"{there}; DC shows nothing of a square wave, whatever the volts."
    return f"{there}; {KINDS[setting].name}: {KINDS[setting].why}."


def _node(copper: Copper, probe: Probe) -> tuple[int, int] | None:
    place = copper.nearest(probe.track, probe.at)
    if place is None:
        if probe.track not in copper.layout.tracks:
            raise ValueError("That track is not on the layout any more.")
        return None
    g, row = copper.where[place.key]
    nodes = rails_at(copper.grounds[g], row)
    return g, nodes[0 if probe.side == "left" else 1]


def _volts(copper: Copper, one: tuple[int, int] | None, other: tuple[int, int] | None) -> float | None:
    if one is None or other is None or one[0] != other[0]:
        return None
    open_volts = copper.grounds[one[0]].island.open_volts_by_node
    return float(open_volts[one[1]] - open_volts[other[1]])


def _ohms(copper: Copper, one: tuple[int, int] | None, other: tuple[int, int] | None) -> Shown:
    ohms = np.inf
    if one is not None and other is not None and one[0] == other[0]:
        ground: Ground = copper.grounds[one[0]]
        ohms = 0.0 if one[1] == other[1] else without_sources(ground, one[1], other[1])
    if not np.isfinite(ohms):
        return Shown("OL", None, "Open: nothing joins the two with the sources unplugged.")
    text = f"{ohms:.2f} Ω" if ohms >= NOTHING else "0.00 Ω"
    return Shown(text, ohms, "Round by every way there is, with the sources unplugged; leads zeroed.")
