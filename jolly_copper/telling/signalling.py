"""What is told of signals: where they stand, their ways, outputs and junctions, and what is proposed."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.layout.ids import natural
from jolly_copper.core.proposals.signalling import SIGNALLED
from jolly_copper.core.quantities import print_current, print_ohms
from jolly_copper.core.signals.aspects import SCHOOLS, Signalling
from jolly_copper.core.signals.heads import KIND_WORDS, MEANS
from jolly_copper.core.signals.outputs import driver_amps, outputs_of, resistor_for
from jolly_copper.core.signals.places import heading_of, signal_point
from jolly_copper.core.wirebook.signal_pages import aspect_words
from jolly_copper.telling.shapes import MendShape


class HeadDrawn(BaseModel):
    """A signal as the plan draws it. degrees: the way trains run that it is for, clockwise from east."""

    id: str
    name: str
    x: float
    y: float
    degrees: float
    kind: str
    heads: int
    aspects: int
    track: str
    at: float
    towards: Literal["a", "b"]
    lamps_text: str
    resistor_text: str


class RouteRow(BaseModel):
    """One way of a signal in the aspect table."""

    signal: str
    name: str
    turnouts: str
    clear: str
    leads: str
    shows: str


class JunctionShape(BaseModel):
    """An interlocking table."""

    title: str
    columns: list[str]
    rows: list[list[str]]
    proof: str


class DriverShape(BaseModel):
    id: str
    name: str
    drives: str
    x: float
    y: float
    outputs: int
    used: int
    first: int
    asks_text: str
    rows: list[str]


class OneWay(BaseModel):
    """A track with a rule of running, drawn as an arrow."""

    track: str
    runs: Literal["forward", "backward"]


class SignalsShape(BaseModel):
    """All that step Signal and look Signals show, but for the aspects of the moment."""

    revision: int
    signals: list[HeadDrawn]
    routes: list[RouteRow]
    drivers: list[DriverShape]
    one_way: list[OneWay]
    words: str


class ProposedHead(BaseModel):
    x: float
    y: float
    degrees: float
    words: str


class SignallingShape(BaseModel):
    """Signals proposed, and the change that sets them."""

    words: list[str]
    heads: list[ProposedHead]
    change: MendShape


class RuleSetShape(BaseModel):
    name: str
    why: str


class SignallingSchools(BaseModel):
    schools: list[RuleSetShape]
    kinds: list[RuleSetShape]
    means: list[RuleSetShape]
    signalled: list[str]


class PanelShape(BaseModel):
    """The panel to look at, and its list of holes."""

    svg: str
    width: float
    height: float
    columns: list[str]
    rows: list[list[str]]
    note: str


def signals_shape(facts: Facts, known: Signalling, revision: int) -> SignalsShape:
    """What signals tells, whole."""
    layout = facts.layout
    used = outputs_of(layout)
    shapes = []
    for i in known.routes:
        s = layout.signals[i]
        x, y = signal_point(layout, s)
        driver = layout.drivers[s.driver] if s.driver else None
        each = resistor_for(driver, s) if driver else "no driver yet"
        shapes.append(
            HeadDrawn(
                id=i,
                name=s.name,
                x=round(x, 1),
                y=round(y, 1),
                degrees=round(heading_of(layout, s), 1),
                kind=s.kind,
                heads=s.heads,
                aspects=s.aspects,
                track=s.track,
                at=s.at,
                towards=s.towards,
                lamps_text=", ".join(
                    f"{o.number} {o.what.split(', ')[-1]}" for o in used if o.kind == "signal" and o.id == i
                ),
                resistor_text=each
                if isinstance(each, str)
                else f"{print_ohms(each.ohms)}, {each.buy_watts:g} W, {print_current(each.amps)} and "
                f"{each.watts * 1000:.0f} mW in it",
            )
        )
    drivers = []
    for i, d in sorted(layout.drivers.items(), key=lambda x: natural(x[1].name)):
        mine = [o for o in used if o.driver == i]
        drivers.append(
            DriverShape(
                id=i,
                name=d.name,
                drives=d.drives,
                x=d.at.x,
                y=d.at.y,
                outputs=d.outputs,
                used=len({o.number for o in mine}),
                first=d.address,
                asks_text=print_current(driver_amps(layout, i)),
                rows=[f"{o.number} (address {o.address}): {o.what}" for o in mine],
            )
        )
    rows = [
        RouteRow(
            signal=i,
            name=layout.signals[i].name,
            turnouts=", ".join(f"{layout.nodes[s.node].name or s.node} {s.lies}" for s in r.needs) or "none",
            clear=", ".join(known.names(r.sections)) or "nothing",
            leads=layout.signals[r.exit].name if r.exit else f"{layout.tracks[r.legs[-1].track].name}, {r.ends}",
            shows=aspect_words(known, r),
        )
        for i, routes in known.routes.items()
        for r in routes
    ]
    one_way = [OneWay(track=i, runs=t.runs) for i, t in layout.tracks.items() if t.runs != "both"]
    hear = sum(d.drives == "buttons" for d in layout.drivers.values())
    plates = sum(d.drives == "hand controllers" for d in layout.drivers.values())
    boards = f"{len(drivers) - hear - plates} driver boards" + (f", {hear} of inputs" if hear else "")
    boards += f", {plates} plates of sockets for hand controllers" if plates else ""
    words = f"{len(shapes)} signals, {len(rows)} ways; {boards}." if shapes else "No signal yet."
    return SignalsShape(revision=revision, signals=shapes, routes=rows, drivers=drivers, one_way=one_way, words=words)


def schools_shape() -> SignallingSchools:
    """The sets of rules, kinds of head and meanings there are."""
    return SignallingSchools(
        schools=[RuleSetShape(name=n, why=w) for n, w in SCHOOLS.items()],
        kinds=[RuleSetShape(name=n, why=w) for n, w in KIND_WORDS.items()],
        means=[RuleSetShape(name=n, why=w) for n, w in MEANS.items()],
        signalled=sorted(SIGNALLED),
    )
