"""Rules about the supplies a club owns and the boxes they serve."""

from __future__ import annotations

from collections.abc import Iterator

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.findings.model import Finding, Place, rule
from jolly_copper.core.layout.control import control_given
from jolly_copper.core.quantities import print_volts


@rule("supply too strong for its box", "zones")
def too_many_volts(facts: Facts) -> Iterator[Finding]:
    """A supply with more volts than the box it serves stands at its input."""
    layout = facts.layout
    for i, supply in layout.supplies.items():
        device = layout.devices.get(supply.serves) if supply.serves is not None else None
        if device is None or supply.serves is None:
            continue
        most = device.supply_most_volts
        if most is not None and supply.reads > most + 1e-9:
            yield Finding(
                key=f"supply-volts:{i}",
                rule="supply too strong for its box",
                severity="must",
                title=f"{supply.name} gives {print_volts(supply.reads)}; {device.name} stands {print_volts(most)}",
                why="More volts than its leaflet allows kill it the moment it is switched on.",
                mend="Another supply; Share them out finds one on the list.",
                place=Place("device", supply.serves),
                shows=(supply.serves,),
                figures=(("supply", print_volts(supply.reads)), ("at most", print_volts(most))),
            )
        elif supply.kind == "dc" and control_given(layout, device) == "ac3":
            yield Finding(
                key=f"supply-kind:{i}",
                rule="supply too strong for its box",
                severity="must",
                title=f"{supply.name} gives direct current, and {device.name} is a transformer's output",
                why="A transformer passes no direct current: its winding only burns.",
                mend="Alternating current of the volts its label asks for.",
                place=Place("device", supply.serves),
                shows=(supply.serves,),
                figures=(("kind", "DC"),),
            )
