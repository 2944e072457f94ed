"""Trains that are driven by what the rails carry: cabs, and the switches that give blocks to them."""

from __future__ import annotations

from jolly_copper.core.layout.control import control_given
from jolly_copper.core.layout.levers import thrown, ways_of
from jolly_copper.core.rehearsal.evening import Evening
from jolly_copper.core.rehearsal.legs import Leg
from jolly_copper.core.rehearsal.rolling import Rolling
from jolly_copper.core.rehearsal.rules import Refused
from jolly_copper.core.rehearsal.trace import Switched

EVERYTHING = -1
UNIT_STEPS_SECONDS = 0.15
"""A break of power longer than this steps the reversing unit of a three-rail engine. Common practice, no source."""


def cab_of(evening: Evening, key: str) -> str | None:
    """The DC source that drives a train: as its plan says, else what feeds the place where it begins; None where its
    rails carry no DC."""
    if key not in evening.cabs:
        evening.cabs[key] = _find_cab(evening, evening.trains[key])
    return evening.cabs[key]


def _find_cab(evening: Evening, train: Rolling) -> str | None:
    said = train.plan.cab
    if said is None:
        circuit = evening.facts.meant[
            evening.facts.rails.extent_of[evening.facts.rails.piece_at(train.plan.track, train.plan.at)]
        ]
        source = evening.facts.tree.source(circuit) if circuit is not None else None
        said = source[0] if source is not None else None
    device = evening.layout.devices.get(said or "")
    return said if device is not None and control_given(evening.layout, device) == "dc" else None


def _switches(evening: Evening, cab: str, leg: Leg) -> tuple[dict[str, str | None], str | None]:
    """How selectors must lie for a cab to drive over a leg; and the track where none does, by name."""
    lies: dict[str, str | None] = {}
    tree = evening.facts.tree
    for segment in leg.segments:
        circuit = evening.facts.meant[evening.ground.extent[segment.piece]]
        if circuit is None:
            continue
        ways = ways_of(tree, circuit)
        way = next((w for w in ways if w.source == cab and all(lies.get(i, v) == v for i, v in w.lies.items())), None)
        if way is None:
            if any(control_given(evening.layout, evening.layout.devices[w.source]) == "dc" for w in ways):
                return lies, evening.layout.tracks[segment.track].name
            continue
        lies |= way.lies
    return lies, None


def cab_refuses(evening: Evening, train: Rolling, leg: Leg) -> Refused | None:
    """Why a train's cab cannot drive it over a leg: no switch leads there, or it drives another the other way."""
    cab = cab_of(evening, train.key)
    if cab is None:
        return None
    name = evening.layout.devices[cab].name
    lies, without = _switches(evening, cab, leg)
    if without is not None:
        return Refused(0, (), f"no switch gives {without} to {name}")
    others = [
        o for k, o in evening.trains.items() if o is not train and cab_of(evening, k) == cab and o.state == "running"
    ]
    if others and _turned_wrong(evening, train, leg, lies) is True:
        who = " and ".join(o.stock.name for o in others)
        return Refused(EVERYTHING, tuple(o.key for o in others), f"{name} drives {who} the other way")
    return None


def _turned_wrong(evening: Evening, train: Rolling, leg: Leg, lies: dict[str, str | None]) -> bool | None:
    """Whether the cab's knob would drive a train away from where its leg leads, once switches lie so; None where the
    rails are dead.

    Whichever way an engine faces it runs to where its right rail is positive. Common practice, no source.
    """
    before = dict(evening.metal.standing.inputs)
    _lay(evening, lies)
    evening.metal.changed()
    first = leg.segments[0]
    across = evening.metal.across(evening.ground.pieces[first.piece])
    evening.metal.standing.inputs = before
    evening.metal.changed()
    if across is None or across[1].dc == 0:
        return None
    right_positive = across[1].dc < 0 if first.towards == "b" else across[1].dc > 0
    return not right_positive


def _lay(evening: Evening, lies: dict[str, str | None]) -> None:
    evening.thrown |= lies
    now = thrown(evening.layout, evening.thrown)
    evening.metal.standing.inputs = {i: d.input for i, d in now.devices.items() if d.kind == "selector"}


def hand_over(evening: Evening, train: Rolling, leg: Leg) -> None:
    """Throw the switches that give a leg to a train's cab, and its direction knob, as its driver does."""
    cab = cab_of(evening, train.key)
    if cab is None:
        return
    lies, _ = _switches(evening, cab, leg)
    wrong = _turned_wrong(evening, train, leg, lies)
    before = dict(evening.metal.standing.inputs)
    _lay(evening, lies)
    for i, at in evening.metal.standing.inputs.items():
        if before.get(i) != at:
            evening.told.append(Switched(evening.t, i, "closed" if at is not None else "open"))
    if wrong:
        evening.metal.standing.turned ^= {cab}
        evening.told.append(Switched(evening.t, cab, "turned" if cab in evening.metal.standing.turned else "straight"))
    if wrong or before != evening.metal.standing.inputs:
        evening.metal_changed()


def steps_its_unit(evening: Evening, train: Rolling) -> bool:
    """Whether a break of power leaves a three-rail engine in neutral: forward, neutral, back, neutral."""
    circuit = evening.meant_for(train)
    source = evening.facts.tree.source(circuit) if circuit is not None else None
    return (
        source is not None
        and control_given(evening.layout, source[1]) == "ac3"
        and evening.t - train.dark_since > UNIT_STEPS_SECONDS
    )
