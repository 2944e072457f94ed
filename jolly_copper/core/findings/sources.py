"""Rules about what sources give: figures nobody wrote down, limits below a trip, volts below what is wanted."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.giving import limit_of, source_volts, supply_behind, wanted_volts
from jolly_copper.core.findings.engines import may_run_under
from jolly_copper.core.findings.model import Finding, Mend, Place, Severity, rule
from jolly_copper.core.findings.reversing import node_name
from jolly_copper.core.layout.control import control_given
from jolly_copper.core.layout.document import Device
from jolly_copper.core.layout.frogs import turned_frogs
from jolly_copper.core.layout.power_tree import PROTECTS, SOURCES
from jolly_copper.core.layout.words import WEARS
from jolly_copper.core.materials.sources import VOLTS_SCHOOLS, usual_source
from jolly_copper.core.quantities import print_current, print_volts

LABEL_HOLDS = 0.05
"""A supply within 5 % of its label is as labelled. Common practice, no source."""
HOT_VOLTS = 2.0
"""Track volts this much over the usual of the scale are high. NMRA S-9.1 allows as much, from memory; certainty B."""


@rule("source without figures", "zones")
def without_figures(facts: Facts) -> Iterator[Finding]:
    """A station or booster of which neither trip, limit nor label is known: nothing behind it can be judged."""
    for i, device in facts.layout.devices.items():
        if device.kind not in SOURCES or _known(device):
            continue
        behind = supply_behind(facts.layout, i)
        if behind is not None and _known(facts.layout.devices[behind]):
            continue
        yield Finding(
            key=f"no-figures:{i}",
            rule="source without figures",
            severity="should",
            title=f"Nobody has said how many amps {device.name} gives, or when it trips",
            why="Neither the coin test nor the heat in a wire that stays shorted can be worked out for anything "
            "behind it.",
            mend="Read its label or its sheet, and type trip, limit or label amps.",
            place=Place("device", i),
            shows=(i,),
            figures=(("trip", "not known"), ("limit", "not known"), ("label", "not known")),
        )


def _known(device: Device) -> bool:
    return any(a for a in (device.trip_amps, device.limit_amps, device.label_amps, device.measured_amps))


@rule("never trips", "zones")
def never_trips(facts: Facts) -> Iterator[Finding]:
    """A protection whose source gives less than its trip, even into a short: it never opens."""
    layout = facts.layout
    for i, device in layout.devices.items():
        if device.kind not in PROTECTS or device.trip_amps is None:
            continue
        source = (i, device) if device.kind in SOURCES else facts.tree.source(device.output)
        limit = limit_of(layout, source[0]) if source is not None else None
        if source is None or limit is None or limit.guess or limit.by is None or limit.amps >= device.trip_amps:
            continue
        by = layout.devices[limit.by].name
        itself = limit.by == i
        yield Finding(
            key=f"never-trips:{i}",
            rule="never trips",
            severity="must",
            title=f"{device.name} trips at {print_current(device.trip_amps)}, but "
            + (
                f"gives no more than {print_current(limit.amps)}"
                if itself
                else f"{by} gives no more than {print_current(limit.amps)}"
            ),
            why=f"A short draws {print_current(limit.amps)} for as long as nobody notices, whatever the wire: the "
            f"trip is never reached.",
            mend=f"A trip below {print_current(limit.amps)}, or a source that gives more.",
            place=Place("device", i),
            shows=tuple(dict.fromkeys((i, limit.by))),
            figures=(("trip", print_current(device.trip_amps)), ("the most it gives", print_current(limit.amps))),
        )


@rule("supply below its label", "zones")
def below_its_label(facts: Facts) -> Iterator[Finding]:
    """A supply, station or booster that gives less than its label, or the brief, says."""
    layout = facts.layout
    for i, device in layout.devices.items():
        if device.kind not in ("supply", *SOURCES):
            continue
        wanted, given = wanted_volts(layout, i), source_volts(layout, i)
        marked = device.volts is not None
        if given >= (1 - LABEL_HOLDS) * wanted - 1e-9 or not (marked or device.kind in SOURCES):
            continue
        behind = supply_behind(layout, i)
        own = device.measured_volts is not None
        if not own and behind is not None and layout.devices[behind].measured_volts is not None:
            continue  # told of the supply itself
        needs = [
            x
            for x in layout.loads.values()
            if x.least_volts is not None
            and facts.tree.within(x.circuit, frozenset({device.output}))
            and x.least_volts > given
        ]
        severity: Severity = "should" if needs or device.kind in SOURCES else "look"
        from_supply = "" if own or behind is None else f", since {layout.devices[behind].name} gives no more"
        yield Finding(
            key=f"label:{i}",
            rule="supply below its label",
            severity=severity,
            title=f"{device.name} {'is marked' if marked else 'should give'} {print_volts(wanted)} and gives "
            f"{print_volts(given)}{from_supply}",
            why="What was measured is what everything here is worked out with."
            + (f" {needs[0].name} needs {print_volts(needs[0].least_volts or 0)}." if needs else ""),
            mend="Another supply, or its adjuster turned up with a meter on it; its mains side is for a licensed "
            "electrician.",
            place=Place("device", i),
            shows=(i,),
            figures=(
                ("label" if marked else "brief", print_volts(wanted)),
                ("gives, with nothing drawn", print_volts(given)),
                *(
                    (("measured", f"{print_volts(device.measured_volts)} at {print_current(device.measured_at_amps)}"),)
                    if device.measured_volts is not None
                    else ()
                ),
            ),
        )


@rule("figures guessed", "zones")
def guessed(facts: Facts) -> Iterator[Finding]:
    """A source whose figures nobody has read from its label yet."""
    for i, device in facts.layout.devices.items():
        if device.kind not in SOURCES or not device.guessed:
            continue
        amps = print_current(device.label_amps) if device.label_amps else "no amps"
        yield Finding(
            key=f"guessed:{i}",
            rule="figures guessed",
            severity="look",
            title=f"{device.name}'s figures are guesses for the scale: {print_volts(wanted_volts(facts.layout, i))}, "
            f"{amps}",
            why="Everything about its track is worked out with them.",
            mend="Read its label and its sheet, and type them on its card.",
            place=Place("device", i),
            shows=(i,),
            figures=(("volts", print_volts(wanted_volts(facts.layout, i))), ("label amps", amps)),
            mends=(
                Mend("They are as on its label", [{"op": "replace", "path": f"/devices/{i}/guessed", "value": False}]),
            ),
        )


@rule("track volts too high", "zones")
def too_high(facts: Facts) -> Iterator[Finding]:
    """A source that gives more than the scale or the least-rated decoder of the fleet stands."""
    layout = facts.layout
    scale = layout.brief.scale
    for i, device in layout.devices.items():
        if device.kind not in SOURCES:
            continue
        control = control_given(layout, device)
        usual, given = usual_source(scale, control).volts, source_volts(layout, i)
        rated = sorted(
            (k.most_volts, k.name)
            for k in layout.locos.values()
            if k.most_volts is not None and may_run_under(k, control)
        )
        if rated and given > rated[0][0] + 1e-9:
            yield Finding(
                key=f"burns:{i}",
                rule="track volts too high",
                severity="must",
                title=f"{device.name} gives {print_volts(given)}; {rated[0][1]} stands {print_volts(rated[0][0])}",
                why="More than its leaflet allows kills it at once, or in an evening.",
                mend="Fewer volts at the source, or keep that engine off.",
                place=Place("device", i),
                shows=(i,),
                figures=(("gives", print_volts(given)), ("least rated", f"{rated[0][1]}, {print_volts(rated[0][0])}")),
            )
        elif given > usual + HOT_VOLTS + 1e-9:
            yield Finding(
                key=f"hot:{i}",
                rule="track volts too high",
                severity="should",
                title=f"{device.name} gives {print_volts(given)}; {print_volts(usual)} is usual in {scale}",
                why=f"More than {print_volts(HOT_VOLTS)} over the usual wears {WEARS[control]}. Schools: "
                f"{VOLTS_SCHOOLS[control]}",
                mend="Set it lower where it can be set, or type what your engines stand in step Trains.",
                place=Place("device", i),
                shows=(i,),
                figures=(("gives", print_volts(given)), ("usual", print_volts(usual))),
                source="NMRA S-9.1, from memory, for the 2 V; usual volts are common practice",
            )


@rule("frog unit volts", "track")
def frog_units(facts: Facts) -> Iterator[Finding]:
    """An automatic frog unit where the track gets fewer volts than it needs."""
    layout, least = facts.layout, facts.layout.brief.rules.frog_unit_volts
    wanting = {i for i in turned_frogs(layout) if layout.nodes[i].contact == "automatic"}
    worst: dict[str, tuple[float, str, float]] = {}
    for track_id, track in layout.tracks.items():
        for port, end in ((track.a, 0.0), (track.b, facts.rails.lengths[track_id])):
            if port.node not in wanting:
                continue
            rows = np.flatnonzero([facts.network.spans[s].track == track_id for s in facts.points.span])
            row = int(rows[np.argmin(np.abs(facts.points.at[rows] - end))])
            volts = float(facts.volts[row])
            if math.isfinite(volts) and (port.node not in worst or volts < worst[port.node][0]):
                worst[port.node] = (volts, track_id, end)
    for node, (volts, track_id, end) in sorted(worst.items()):
        if volts >= least - 1e-9:
            continue
        name = node_name(layout, node)
        yield Finding(
            key=f"frog-unit:{node}",
            rule="frog unit volts",
            severity="should",
            title=f"The frog unit of {name} gets {print_volts(max(volts, 0.0))} at worst and needs "
            f"{print_volts(least)}",
            why="Below that it does not turn the frog, and the engine on it stands.",
            mend="A feeder at the turnout, heavier wire, or a contact on its motor instead.",
            place=Place("track", track_id, track_id, end),
            shows=(node, track_id),
            figures=(("at worst", print_volts(volts)), ("house rule", print_volts(least))),
            mends=(
                Mend(
                    f"A contact for {name}", [{"op": "replace", "path": f"/nodes/{node}/contact", "value": "contact"}]
                ),
            ),
        )
