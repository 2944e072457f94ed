"""Feeders by the house's rule, and one circuit's wire laid to all of them."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterable, Sequence
from typing import Literal, NamedTuple

from jolly_copper.core.circuits.edits import CLEAR_OF_GAP_MM
from jolly_copper.core.circuits.giving import held_short
from jolly_copper.core.circuits.lengths import point_on_track
from jolly_copper.core.drawing.moving import Erased, erase
from jolly_copper.core.drawing.sheet import Sheet
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.power_tree import grow_tree
from jolly_copper.core.materials.ampacity import may_carry_amps
from jolly_copper.core.materials.copper import Make, Strands, in_units
from jolly_copper.core.materials.joints import TerminalKind
from jolly_copper.core.proposals.laying.corridors import Ground
from jolly_copper.core.proposals.laying.runs import Spot, Wire, lay
from jolly_copper.core.quantities import read_gauge
from jolly_copper.core.rails.dead import SHORTEST_STAND_MM
from jolly_copper.core.rails.frogs import behind_frogs
from jolly_copper.core.rails.phase import orient
from jolly_copper.core.rails.pieces import Piece, RailMap, Side, opposite

EVEN_MM = 700.0
OWN_SHARE = 0.4
"""Track shorter than this (mm, and share of the spacing) inside a longer stretch is fed through its neighbours."""
THREE_FEET = 914.4
USUAL_FEEDERS = ("20 AWG", "18 AWG", "16 AWG")
"""Lightest first. Common practice, no source."""
Spacing = Literal["by rail code", "every 3 ft", "every piece of rail"]
SPACINGS: dict[Spacing, str] = {
    "by rail code": "The house rule: light rail closer than heavy. Common where rail is code 70 and over.",
    "every 3 ft": "Never farther than a yard: for light rail, and for those who trust no joiner.",
    "every piece of rail": "Each length its own feeder: too few is the only mistake. The most soldering.",
}
"""Schools of feeder spacing and their reasons. Common practice, no source."""


class RailPoint(NamedTuple):
    """A place on a track, mm from its A end."""

    track: str
    at: float


def every_of(layout: Layout, track: str, spacing: Spacing = "by rail code") -> float:
    """How far apart feeders may be on a track, mm: by the house rule, every 3 ft, or one to each length between
    joiners."""
    thing, rules = layout.tracks[track], layout.brief.rules
    if spacing == "every piece of rail":
        return min(thing.joiner_every or math.inf, THREE_FEET * 2)
    if spacing == "every 3 ft":
        return THREE_FEET
    return rules.feeder_spacing(thing.code)


def _own_feeder_from(layout: Layout, track: str, spacing: Spacing) -> float:
    """Track as long as this gets a feeder of its own; shorter is fed through its neighbours. mm."""
    return 60.0 if spacing == "every piece of rail" else min(EVEN_MM, OWN_SHARE * every_of(layout, track, spacing))


def fresh_places(
    layout: Layout, rails: RailMap, stretches: Iterable[int], spacing: Spacing = "by rail code"
) -> list[RailPoint]:
    """Places for feeders on stretches (numbers in `rails.extents`), evenly spread, clear of gaps, where none is near
    enough.

    Existing feeders are kept: no place is nearer to one than half the spacing. Track beyond the frog of a turnout that
    routes power is fed through it, and gets none.
    """
    found = []
    routed = behind_frogs(layout, rails)
    there: dict[str, list[float]] = {}
    for f in layout.feeders.values():
        there.setdefault(f.track, []).append(f.at)
    for number in stretches:
        extent = rails.extents[number]
        if sum(p.end - p.start for p in extent) < SHORTEST_STAND_MM:
            continue
        fed = any(p.start <= at <= p.end for p in extent for at in there.get(p.track, ()))
        longest = max(extent, key=lambda p: (p.end - p.start, p.track))
        wanted = [p for p in extent if p.end - p.start >= _own_feeder_from(layout, p.track, spacing)]
        if routed:
            wanted = [p for p in wanted if p not in routed]
            longest = max(
                (p for p in extent if p not in routed), key=lambda p: (p.end - p.start, p.track), default=longest
            )
        wanted = wanted or ([] if fed else [longest])
        for piece in wanted:
            length, every = piece.end - piece.start, every_of(layout, piece.track, spacing)
            count = max(1, math.ceil(length / every - 1e-6))
            clear = min(CLEAR_OF_GAP_MM, length / 2)
            for k in range(count):
                at = piece.start + length * (k + 0.5) / count
                near = [x for x in there.get(piece.track, ()) if piece.start <= x <= piece.end]
                if all(abs(at - x) > every / 2 for x in near):
                    found.append(RailPoint(piece.track, round(min(max(at, piece.start + clear), piece.end - clear), 1)))
    return found


def usual_wire(
    layout: Layout, gauge: str | None = None, terminal: TerminalKind = "screw strip", make: Make = "twisted"
) -> Wire:
    """Wire as this layout uses it: its usual feeders, runs of this gauge.

    Where it has no feeder yet: the lightest usual one that may be left carrying what its sources let through.
    """
    usual = Counter((f.gauge, f.strands) for f in layout.feeders.values()).most_common(1)
    feeder, strands = usual[0][0] if usual else _first_feeder(layout)
    return Wire(gauge or in_units("14 AWG", layout.brief.units), "stranded", make, terminal, feeder, strands)


def _first_feeder(layout: Layout) -> tuple[str, Strands]:
    held = [h.amps for c in layout.circuits if (h := held_short(layout, grow_tree(layout), c)) is not None]
    gauges = [in_units(g, layout.brief.units) for g in USUAL_FEEDERS]
    most = max(held, default=0.0)
    gauge = next((g for g in gauges if may_carry_amps(read_gauge(g)) >= most), gauges[-1])
    return gauge, "solid" if gauge == gauges[0] else "stranded"


def lay_circuit(
    sheet: Sheet,
    layout: Layout,
    rails: RailMap,
    circuit: str,
    kept: Sequence[str],
    fresh: Sequence[RailPoint],
    onwards: Sequence[str],
    wire: Wire,
    ground: Ground,
    phase: dict[Piece, Side] | None = None,
) -> None:
    """Lay one circuit's buses from the device that feeds it, tie these feeders to them and make new ones.

    Args:
        sheet: drawn on.
        layout: the sheet's layout before any circuit was laid.
        rails: of that layout.
        circuit: to lay.
        kept: feeders that stay where they are on the rails, and are tied here.
        fresh: places for new feeders.
        onwards: devices it feeds.
        wire: what it is made of.
        ground: corridors of the layout.
        phase: from `orient`, where it is known already.
    """
    device = next((i for i, d in layout.devices.items() if d.output == circuit), None)
    if device is None or not (kept or fresh or onwards):
        return
    points = [RailPoint(layout.feeders[f].track, layout.feeders[f].at) for f in kept] + list(fresh)
    spots = [Spot(*point_on_track(layout, p.track, p.at)) for p in points]
    terminals = lay(sheet, device, spots, onwards, wire, ground, layout)
    for feeder, terminal in zip(kept, terminals, strict=False):
        sheet["feeders"][feeder].update(terminal=terminal, other=None, tape=None)
    phase = phase or orient(layout, rails)
    agrees = [phase[rails.piece_at(f.track, f.at)] == f.a_rail for f in layout.feeders.values()]
    same = 2 * sum(agrees) >= len(agrees)
    for point, terminal in zip(fresh, terminals[len(kept) :], strict=True):
        i = sheet.free("feeders", "F")
        side = phase[rails.piece_at(point.track, point.at)]
        sheet["feeders"][i] = {
            "label": i,
            "track": point.track,
            "at": point.at,
            "terminal": terminal,
            "gauge": wire.feeder_gauge,
            "strands": wire.feeder_strands,
            "a_rail": side if same else opposite(side),
            "tape": None,
        }


def sweep(sheet: Sheet) -> None:
    """Take away runs of track power that feed nothing, with their terminals, until none is left. An accessory bus
    stays: what draws from it may not be tied yet."""
    for_track = {i for i, c in sheet["circuits"].items() if c.get("purpose", "track") == "track"}
    while True:
        runs = sheet["runs"].values()
        tied = {f[end] for f in sheet["feeders"].values() for end in ("terminal", "other") if f.get(end)} | {
            x["terminal"] for x in sheet["loads"].values()
        }
        tied |= {r["fed"]["terminal"] for r in runs} | {r["ends_at_terminal"] for r in runs}
        serving = {t["run"] for i, t in sheet["terminals"].items() if i in tied}
        idle = [
            i
            for i, r in sheet["runs"].items()
            if i not in serving and r["ends_at_device"] is None and r["circuit"] in for_track
        ]
        if not idle:
            return
        erase(sheet, [Erased(kind="run", id=i) for i in idle])
