"""Rules about what sources give: figures nobody wrote down, limits below a trip, volts below what is wanted."""

from __future__ import annotations

from collections.abc import Iterator

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.giving import limit_of, source_volts, supply_behind, wanted_volts
from jolly_copper.core.findings.model import Finding, Place, Severity, rule
from jolly_copper.core.layout.document import Device
from jolly_copper.core.layout.power_tree import PROTECTS, SOURCES
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
            key=f"no-figures:{i}", rule="source without figures", severity="should",
            title=f"Nobody has said how many amps {device.name} gives, or when it trips",
            why="Neither the coin test nor the heat in a wire that stays shorted can be worked out for anything behind it.",
            mend="Read its label or its sheet, and type trip, limit or label amps.", place=Place("device", i), shows=(i,),
            figures=(("trip", "not known"), ("limit", "not known"), ("label", "not known")),
        )  # fmt: skip


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
            key=f"never-trips:{i}", rule="never trips", severity="must",
            title=f"{device.name} trips at {print_current(device.trip_amps)}, but "
            + (f"gives no more than {print_current(limit.amps)}" if itself else f"{by} gives no more than {print_current(limit.amps)}"),
            why=f"A short draws {print_current(limit.amps)} for as long as nobody notices, whatever the wire: the trip is never reached.",
            mend=f"A trip below {print_current(limit.amps)}, or a source that gives more.", place=Place("device", i), shows=tuple(dict.fromkeys((i, limit.by))),
            figures=(("trip", print_current(device.trip_amps)), ("the most it gives", print_current(limit.amps))),
        )  # fmt: skip


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
            x for x in layout.loads.values()
            if x.least_volts is not None and facts.tree.within(x.circuit, frozenset({device.output})) and x.least_volts > given
        ]  # fmt: skip
        severity: Severity = "should" if needs or device.kind in SOURCES else "look"
        from_supply = "" if own or behind is None else f", since {layout.devices[behind].name} gives no more"
        yield Finding(
            key=f"label:{i}", rule="supply below its label", severity=severity,
            title=f"{device.name} {'is marked' if marked else 'should give'} {print_volts(wanted)} and gives {print_volts(given)}{from_supply}",
            why="What was measured is what everything here is worked out with." + (f" {needs[0].name} needs {print_volts(needs[0].least_volts or 0)}." if needs else ""),
            mend="Another supply, or its adjuster turned up with a meter on it; its mains side is for a licensed electrician.",
            place=Place("device", i), shows=(i,), figures=(("label" if marked else "brief", print_volts(wanted)), ("gives, with nothing drawn", print_volts(given)),
                     *((("measured", f"{print_volts(device.measured_volts)} at {print_current(device.measured_at_amps)}"),) if device.measured_volts is not None else ())),
        )  # fmt: skip
