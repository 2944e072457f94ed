"""Which supply a club owns feeds which box, and what to do where one gives too little."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.optimize import linear_sum_assignment

from jolly_copper.core.circuits.edits import Patch
from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.drawing.sheet import DrawingError
from jolly_copper.core.layout.control import control_given
from jolly_copper.core.layout.document import Device, Layout
from jolly_copper.core.layout.power_tree import SOURCES
from jolly_copper.core.layout.supplies import OwnedSupply
from jolly_copper.core.quantities import print_current, print_volts

NEVER = 1e9
"""Cost of what must not be: more volts than a box stands, or the wrong kind of current."""
SHORT_AMP, SHORT_VOLT, SPARE_AMP, STATION_FIRST = 1000.0, 100.0, 1.0, 1.5
"""What a missing ampere, a missing volt and an ampere left over weigh; a station's want counts half as much again.
Choices
of this program: what is short comes first, then what is wasted."""
ROOM_VOLTS = 1.5
"""What a station or booster drops between its input and the track. Certainty C."""


@dataclass(frozen=True)
class Box:
    """A source that wants a supply. asked: A at worst in the scene, rated: A it gives by itself, None where nobody
    knows.
    most_volts: what its input stands. wants_volts: what the track wants, with what it drops itself."""

    device: str
    name: str
    station: bool
    takes: frozenset[str]
    asked: float
    rated: float | None
    most_volts: float | None
    wants_volts: float


@dataclass(frozen=True)
class Match:
    """A box with the supply it is given; short: A of what is asked that supply and box do not give."""

    box: Box
    supply: str | None
    gives: float
    short: float
    words: str


@dataclass(frozen=True)
class Supplying:
    """matches: for every box. spare: supplies left over. ladder: what to do where something is short, in sentences."""

    matches: tuple[Match, ...]
    spare: tuple[str, ...]
    ladder: tuple[str, ...]
    patch: Patch


def share_supplies(facts: Facts) -> Supplying:
    """Give every source one of the club's supplies: the strongest to where most is asked, never above a box's limit.

    Solved exactly, as an assignment of least cost (scipy); what is asked is that of the facts' scene.

    Raises:
        DrawingError: there is no supply on the list, or no source.
    """
    layout = facts.layout
    if not layout.supplies:
        raise DrawingError("List the supplies the club owns first: name, volts and amps of each label.")
    boxes = [_box(facts, i, d) for i, d in layout.devices.items() if d.kind in SOURCES]
    if not boxes:
        raise DrawingError("There is no source to supply yet: place one in step Zones.")
    names = list(layout.supplies)
    # A column of "no supply" for every box: all that it asks for is short then.
    cost = np.full((len(boxes), len(names) + len(boxes)), NEVER)
    for r, box in enumerate(boxes):
        cost[r, len(names) + r] = _want(box, 0.0, 0.0)
        for c, i in enumerate(names):
            cost[r, c] = _cost(box, layout.supplies[i])
    rows, columns = linear_sum_assignment(cost)
    given = {int(r): names[int(c)] for r, c in zip(rows, columns, strict=True) if c < len(names) and cost[r, c] < NEVER}
    matches = tuple(_match(layout, box, given.get(r)) for r, box in enumerate(boxes))
    patch: Patch = []
    wanted = {i: b.device for r, i in given.items() for b in [boxes[r]]}
    for i in names:
        if layout.supplies[i].serves != wanted.get(i):
            patch.append({"op": "add", "path": f"/supplies/{i}/serves", "value": wanted.get(i)})
    # What is taken off comes first, so that no box has two for a moment.
    patch.sort(key=lambda o: o["value"] is not None)
    spare = tuple(i for i in names if i not in wanted)
    return Supplying(matches, spare, tuple(_ladder(layout, matches, spare)), patch)


def _box(facts: Facts, i: str, device: Device) -> Box:
    layout = facts.layout
    asked = next((a for a in facts.asked if a.device == i), None)
    rated = min(
        (a for a in (device.measured_amps or device.label_amps, device.trip_amps) if a is not None), default=None
    )
    takes = {"dcc": {"dc", "ac"}, "dc": {"ac", "dc"}, "ac3": {"ac"}}[control_given(layout, device)]
    wants = (device.volts or layout.brief.track_volts) + ROOM_VOLTS
    worst = asked.worst if asked is not None else 0.0
    return Box(
        i, device.name, device.kind == "station", frozenset(takes), worst, rated, device.supply_most_volts, wants
    )


def _cost(box: Box, supply: OwnedSupply) -> float:
    if supply.kind not in box.takes or (box.most_volts is not None and supply.reads > box.most_volts + 1e-9):
        return NEVER
    gives = min(supply.gives, box.rated) if box.rated is not None else supply.gives
    return _want(box, gives, supply.reads) + SPARE_AMP * max(supply.gives - gives, 0.0)


def _want(box: Box, amps: float, volts: float) -> float:
    """What is short with so many amps and volts, weighed. Where the scene asks little, a box still wants half of what
    it is rated for."""
    wanted = max(box.asked, 0.5 * (box.rated or 0.0))
    weight = STATION_FIRST if box.station else 1.0
    return weight * (SHORT_AMP * max(wanted - amps, 0.0) + SHORT_VOLT * max(box.wants_volts - volts, 0.0))


def _match(layout: Layout, box: Box, i: str | None) -> Match:
    if i is None:
        return Match(box, None, 0.0, box.asked, "No supply on the list suits it.")
    supply = layout.supplies[i]
    gives = min(supply.gives, box.rated) if box.rated is not None else supply.gives
    by = "the box's own" if box.rated is not None and box.rated <= supply.gives else "the supply's"
    words = f"{print_current(gives)}, {by} limit; {print_volts(supply.reads)} at its input"
    if supply.reads < box.wants_volts - 1e-9:
        words += f", {print_volts(box.wants_volts - supply.reads)} less than it wants"
    return Match(box, i, gives, max(box.asked - gives, 0.0), words)


def _ladder(layout: Layout, matches: tuple[Match, ...], spare: tuple[str, ...]) -> list[str]:
    """First a stronger supply, up to what the box stands; then one more booster, with the sum."""
    found = []
    for m in matches:
        if m.short <= 1e-9:
            continue
        box = m.box
        rated = box.rated
        if rated is None or rated >= box.asked - 1e-9:
            volts = f", {print_volts(box.most_volts)} at most" if box.most_volts is not None else ""
            found.append(
                f"{box.name} may be asked for {print_current(box.asked)} and gets {print_current(m.gives)}: a supply "
                f"of {print_current(box.asked)} or more{volts}."
            )
        else:
            rest = box.asked - rated
            found.append(
                f"{box.name} gives {print_current(rated)} whatever feeds it, and may be asked for "
                f"{print_current(box.asked)}: one more source for the {print_current(rest)} beyond, on a district of "
                "its own."
            )
    if spare and not found:
        found.append(f"{len(spare)} on the list {'is' if len(spare) == 1 else 'are'} not needed.")
    return found
