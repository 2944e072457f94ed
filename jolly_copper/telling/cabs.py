"""What is told of cabs: which source drives what as selectors lie, how each may lie, and what a panel looks like
behind."""

from __future__ import annotations

import math
from typing import Literal

from pydantic import BaseModel

from jolly_copper.core.circuits.crossing import crossing
from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.giving import gives, source_volts
from jolly_copper.core.circuits.lengths import point_on_track
from jolly_copper.core.circuits.pickups import longest_reach
from jolly_copper.core.layout.control import control_given, has_three_rails, word_of
from jolly_copper.core.layout.document import Device
from jolly_copper.core.layout.ids import natural
from jolly_copper.core.layout.power_tree import SOURCES
from jolly_copper.core.layout.stretches import Stretch
from jolly_copper.core.layout.words import CONTROL
from jolly_copper.core.quantities import print_current, print_length, print_long_length, print_volts

INKS = ("#2F6F9F", "#AD5B26", "#4F7A3A", "#8A3A5E", "#856A12", "#3B7885", "#6B5B2E", "#B0467C", "#7A4E8C", "#5C6470")
"""Of sources on the plan, told apart by the order they stand in."""
APART_MM = 450.0
"""Levers this far from each other are far enough."""


class SourceShape(BaseModel):
    device: str
    name: str
    word: str
    control: str
    control_text: str
    ink: str
    volts_text: str
    amps_text: str
    winding: str | None
    drives_text: str


class DrivenShape(BaseModel):
    """A stretch of track as it is driven: mm from its A end. moves: the end a DC engine runs towards, None where it is
    not DC. waits: selectors above it are off, so nothing is wrong."""

    track: str
    start: float
    end: float
    source: str | None
    ink: str
    moves: str | None
    waits: bool


class WayShape(BaseModel):
    circuit: str
    name: str
    ink: str


class SelectorShape(BaseModel):
    """A selector as a switch on the page: how it lies, what else it may give, and what it holds."""

    device: str
    name: str
    block: str
    lies: str | None
    ways: list[WayShape]
    made: str
    lever: str | None
    length_text: str
    panel: str | None
    hint: str
    x: float | None
    y: float | None


class MeetingShape(BaseModel):
    """A gap where two sources meet as selectors lie: set alike before a train runs over it."""

    x: float
    y: float
    track: str
    at: float
    words: str
    grave: bool


class StretchShape(BaseModel):
    """A braking section or an isolated rail on the plan."""

    kind: str
    id: str
    name: str
    track: str
    start: float
    end: float
    side: float
    """−1 for the left rail, 1 for the right, seen from the track's A end."""
    words: str


class PanelName(BaseModel):
    panel: str
    name: str
    switches: int
    x: float
    y: float


class CabsShape(BaseModel):
    words: str
    sources: list[SourceShape]
    driven: list[DrivenShape]
    selectors: list[SelectorShape]
    meetings: list[MeetingShape]
    stretches: list[StretchShape]
    panels: list[PanelName]
    three_rail: bool
    reach_text: str
    bare_gaps: list[MeetingShape]


def cabs_shape(facts: Facts) -> CabsShape:
    """Everything of step Cabs, as selectors lie in the scene."""
    layout, units = facts.layout, facts.layout.brief.units
    order = sorted(
        (i for i, d in layout.devices.items() if d.kind in SOURCES), key=lambda i: natural(layout.devices[i].name)
    )
    ink = {i: INKS[k % len(INKS)] for k, i in enumerate(order)}
    driven, lengths = _driven(facts, ink)
    waits = sum(d.end - d.start for d in driven if d.waits)
    dead = sum(d.end - d.start for d in driven if d.source is None and not d.waits)
    tail = [
        f"{print_long_length(waits, units)} switched off" if waits else "",
        f"{print_long_length(dead, units)} fed by nothing" if dead else "",
    ]
    meetings = _meetings(facts)
    reach = longest_reach(layout)
    return CabsShape(
        words="; ".join(t for t in tail if t) or "All track is driven.",
        sources=[_source(facts, i, ink[i], lengths[i]) for i in order],
        driven=driven,
        selectors=_selectors(facts, ink),
        meetings=[m for m in meetings if not m.grave],
        bare_gaps=[m for m in meetings if m.grave],
        stretches=_stretches(facts),
        panels=[
            PanelName(
                panel=i,
                name=p.name,
                switches=sum(d.panel == i and d.gang is None for d in layout.devices.values()),
                x=p.at.x,
                y=p.at.y,
            )
            for i, p in layout.panels.items()
        ],
        three_rail=any(has_three_rails(layout, t) for t in layout.tracks.values()),
        reach_text=f"{print_length(reach.millimetres, units)}, {reach.whose}{' (a guess)' if reach.guess else ''}",
    )


def _in_order(facts: Facts) -> list[tuple[str, Device]]:
    found = [(i, d) for i, d in facts.layout.devices.items() if d.kind == "selector"]
    return sorted(found, key=lambda e: (e[1].gang is not None, natural(e[1].name)))


def _source(facts: Facts, i: str, ink: str, length: float) -> SourceShape:
    layout, device = facts.layout, facts.layout.devices[i]
    amps = gives(layout, i)
    control = control_given(layout, device)
    return SourceShape(
        device=i,
        name=device.name,
        word=word_of(layout, device),
        control=control,
        control_text=CONTROL[control],
        ink=ink,
        volts_text=print_volts(source_volts(layout, i)),
        amps_text=print_current(amps) if amps else "amps not known",
        winding=device.winding,
        drives_text=print_long_length(length, layout.brief.units),
    )


def _driven(facts: Facts, ink: dict[str, str]) -> tuple[list[DrivenShape], dict[str, float]]:
    layout, lengths = facts.layout, dict.fromkeys(ink, 0.0)
    chosen = {d.output for d in layout.devices.values() if d.kind == "selector"}
    found: list[DrivenShape] = []
    first: dict[object, int] = {}
    for row, span in enumerate(facts.points.span.tolist()):
        first.setdefault(facts.network.spans[span].piece, row)
    for number, extent in enumerate(facts.rails.extents):
        circuit = facts.meant[number]
        source = facts.tree.source(circuit) if circuit is not None else None
        above = set(facts.tree.lineage(circuit)) if circuit is not None else set()
        for p in extent:
            i = source[0] if source is not None else None
            if i is not None:
                lengths[i] += p.end - p.start
            moves = None
            if source is not None and control_given(layout, source[1]) == "dc":
                row = first.get(p, -1)
                part = int(facts.part_of[row]) if row >= 0 else -1
                if part >= 0 and math.isfinite(float(facts.volts[row])):
                    sign = float(facts.parts[part].sign[int(facts.row_in_part[row])])
                    moves = "a" if sign > 0 else "b"
            found.append(
                DrivenShape(
                    track=p.track,
                    start=round(p.start, 1),
                    end=round(p.end, 1),
                    source=i,
                    ink=ink[i] if i is not None else "",
                    moves=moves,
                    waits=i is None and bool(above & chosen),
                )
            )
    return found, lengths


SPREAD = (0.5, 0.35, 0.65, 0.22, 0.78)
"""Where along its block a lever may stand, the middle first."""


def _selectors(facts: Facts, ink: dict[str, str]) -> list[SelectorShape]:
    """Every selector, its lever on the plan where it is farthest from those before it."""
    found: list[SelectorShape] = []
    placed: list[tuple[float, float]] = []
    for i, device in _in_order(facts):
        mine = [p for n, e in enumerate(facts.rails.extents) if facts.meant[n] == device.output for p in e]
        widest = max(mine, key=lambda p: (p.end - p.start, p.track), default=None)
        spot: tuple[float, float] | None = None
        if widest is not None and device.gang is None:
            places = [
                point_on_track(facts.layout, widest.track, widest.start + share * (widest.end - widest.start))
                for share in SPREAD
            ]
            spot = max(places, key=lambda q: min([APART_MM, *(math.dist(q, p) for p in placed)]))
            placed.append(spot)
        length = sum(p.end - p.start for p in mine)
        found.append(_selector(facts, i, device, ink, length, spot))
    return found


def _selector(
    facts: Facts, i: str, device: Device, ink: dict[str, str], length: float, spot: tuple[float, float] | None
) -> SelectorShape:
    layout = facts.layout

    def inked(circuit: str) -> str:
        source = facts.tree.source(circuit)
        return ink[source[0]] if source is not None else layout.circuits[circuit].ink

    lever = layout.devices[device.gang].name if device.gang is not None else None
    hint = f"on the lever of {lever}" if lever else device.made
    return SelectorShape(
        device=i,
        name=device.name,
        block=layout.circuits[device.output].name,
        lies=device.input,
        ways=[WayShape(circuit=c, name=layout.circuits[c].name, ink=inked(c)) for c in device.inputs],
        made=device.made,
        lever=lever,
        length_text=print_long_length(length, layout.brief.units),
        panel=layout.panels[device.panel].name if device.panel else None,
        hint=hint,
        x=None if spot is None else round(spot[0], 1),
        y=None if spot is None else round(spot[1], 1),
    )


def _meetings(facts: Facts) -> list[MeetingShape]:
    """Gaps with two sources on their two sides as selectors lie."""
    layout, found = facts.layout, []
    seen: set[tuple[str, float]] = set()
    for i, gap in layout.gaps.items():
        at = facts.rails.cut_at[i]
        if (gap.track, at) in seen:
            continue
        seen.add((gap.track, at))
        pieces = [facts.rails.piece_at(gap.track, at + d) for d in (-1.0, 1.0)]
        circuits = [facts.meant[facts.rails.extent_of[p]] for p in pieces]
        sources = [None if c is None else facts.tree.source(c) for c in circuits]
        if sources[0] is None or sources[1] is None or sources[0][0] == sources[1][0]:
            continue
        kinds = [control_given(layout, s[1]) for s in sources if s is not None]
        if set(kinds) == {"dcc"}:
            continue  # boosters of one railroad run in phase: a train rolls over
        names = [s[1].name for s in sources if s is not None]
        x, y = point_on_track(layout, gap.track, at)
        grave = kinds[0] != kinds[1]
        words = f"{names[0]} and {names[1]} meet here" + (
            ": no train may bridge it" if grave else ": set both sides alike before a train runs over"
        )
        met = None if grave else crossing(facts, gap.track, at)
        if met is not None:
            words += f"; with one full and the other down {print_current(met.unlike)} go through its pickups"
        found.append(
            MeetingShape(x=round(x, 1), y=round(y, 1), track=gap.track, at=round(at, 1), words=words, grave=grave)
        )
    return found


def _stretches(facts: Facts) -> list[StretchShape]:
    layout, units = facts.layout, facts.layout.brief.units

    def told(kind: Literal["braking", "isolated"], i: str, stretch: Stretch, side: str, words: str) -> StretchShape:
        return StretchShape(
            kind=kind,
            id=i,
            name=stretch.name,
            track=stretch.track,
            start=stretch.start,
            end=stretch.end,
            side=-1 if side == "left" else 1,
            words=words,
        )

    found = []
    for i, b in layout.braking.items():
        held = f", lifted by {layout.signals[b.held_by].name}" if b.held_by else ""
        words = f"{b.rail} rail, {print_length(b.length, units)}, {b.module}{held}"
        found.append(told("braking", i, b, b.rail, words))
    for i, r in layout.isolated.items():
        words = f"{r.outer} outer, {print_length(r.length, units)}, works {r.works}"
        found.append(told("isolated", i, r, r.outer, words))
    return found
